"""One light by itself: does it serve a shot at any distance the search tries, before any wall is near?

What stays the same wherever a set is put is judged here, in the open room: pattern, height, what sticks into the
picture, how even and how bright it is. What the room returns is added as found at a usual place. A light that
fails at every distance fails in every set. Which of its parts is at fault is found by putting ideal ones in their
place: a stand of any height that takes no room, a head the size of a nut, no modifier, a picture nothing can
stick into.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from functools import partial
from itertools import product
from typing import Literal

from evrant.core.arrange.judge import Rule, counts
from evrant.core.kit.case import NOTHING, Case, Clause, Recipe
from evrant.core.kit.market import Market
from evrant.core.lighting import key_distance, lit, named_beams
from evrant.core.margins import Margin, Verdict
from evrant.core.memo import fresh, plain
from evrant.core.quantity import GEAR_LENGTH, LOAD, MASS
from evrant.core.rigging import weighted
from evrant.core.rules import aim, exposure, intrusion, overlap, support
from evrant.core.scene import Scene
from evrant.core.studio.gear import Holder, Item, Stand
from evrant.core.studio.sets import LightPlace

Spot = tuple[float, float]
"""Where the key stands: its distance as a share of the usual one, and how much further round [degrees]."""
NEAR: tuple[Spot, ...] = (
    (1.4, 0.0),
    (1.0, 0.0),
    (1.9, 0.0),
    (0.7, 0.0),
    (0.5, 0.0),
    (1.4, 9.0),
    (1.9, 9.0),
    (1.0, 9.0),
)
"""Spots of the key that are tried."""
PLACES_DIFFER = 0.5
"""How much the light of one set differs from place to place in a room [stops]; project choice, on the safe side."""
Ideal = Literal["support", "modifier", "head", "lens"]
POWER = ("light.power_full", "light.shutter")
LIGHT = (*POWER, "light.power_lowest")
OF_LIGHTS: tuple[Rule, ...] = (
    support.margins,
    aim.margins,
    intrusion.margins,
    partial(overlap.margins, firsts=frozenset({"light"})),
)
ELSEWHERE = frozenset({"frame.distance", "support.holder_span", "support.holder_place"})


@dataclass(frozen=True)
class Bench:
    """Where lights are tried: the shot in the open room without lights, what the real room returns at each
    distance [stops], and the distances that are possible at all."""

    scene: Scene
    returned: Mapping[Spot, float]
    near: tuple[Spot, ...]


@dataclass
class Units:
    """Verdicts on lights by themselves, kept by the look of their parts."""

    market: Market
    kept: dict[tuple[object, ...], tuple[frozenset[str], str] | None] = field(default_factory=dict)
    near: dict[tuple[object, ...], tuple[Spot, ...]] = field(default_factory=dict)
    good: dict[tuple[object, ...], tuple[Spot, ...]] = field(default_factory=dict)
    light: dict[tuple[object, ...], str | None] = field(default_factory=dict)

    def serves(self, case: Case, recipe: Recipe, name: str, bench: Bench) -> tuple[Spot, ...]:
        """The distances at which a light serves."""
        slots = [slot for slot in recipe if slot.startswith(f"{name}.") or slot in ("body", "lens", "tripod", "table")]
        key = (case.id, name, bench.near, tuple(self._look(recipe[slot]) for slot in slots))
        if key not in self.good:
            place, gear = self._made(recipe, name, frozenset())
            none: frozenset[Ideal] = frozenset()
            self.good[key] = tuple(
                near for near in bench.near if self._first_short(case, name, place, gear, bench, near, none) is None
            )
        return self.good[key]

    def fault(self, case: Case, recipe: Recipe, name: str, bench: Bench) -> Clause | None:
        """The smallest failing part of a light, or None when it serves at some distance."""
        slots = [slot for slot in recipe if slot.startswith(f"{name}.") or slot in ("body", "lens")]
        key = (case.id, name, bench.near, tuple(self._look(recipe[slot]) for slot in slots))
        if key not in self.kept:
            self.kept[key] = self._judge(case, recipe, name, bench)
        found = self.kept[key]
        if found is None:
            return None
        guilty, why = found
        return Clause(frozenset((slot, recipe[slot]) for slot in guilty if slot in recipe), why)

    def possible(self, case: Case, recipe: Recipe, name: str, opened: Scene) -> tuple[Spot, ...]:
        """Distances at which a light's bare stand is out of the way of camera, table and subject."""
        slots = [slot for slot in recipe if slot in ("body", "lens", "tripod", "table", f"{name}.support")]
        key = (case.id, name, tuple(self._look(recipe[slot]) for slot in slots))
        if key not in self.near:
            place, gear = self._made(recipe, name, frozenset({"head", "modifier"}))
            bench = Bench(opened, {}, NEAR)
            spared: frozenset[Ideal] = frozenset({"head", "modifier"})
            self.near[key] = tuple(
                near for near in NEAR if self._first_short(case, name, place, gear, bench, near, spared) is None
            )
        return self.near[key]

    def _lit(self, case: Case, name: str, head: str, modifier: str, bench: Bench, near: Spot) -> str | None:
        """What is wrong with the light of a head and modifier at a distance, on a stand of any height."""
        key = (case.id, name, self._look(head), self._look(modifier), near)
        if key not in self.light:
            place, gear = self._made({f"{name}.head": head, f"{name}.modifier": modifier}, name, frozenset())
            line = _unlit(bench, case, name, place, gear, near)
            self.light[key] = None if line is None else line.sentence
        return self.light[key]

    def wrong(self, case: Case, name: str, bench: Bench, rest: Mapping[str, str]) -> list[Clause]:
        """Every head with every modifier of a light that is too weak, too strong or too uneven at each of the
        bench's distances; `rest` are the slots those distances hang on."""
        heads, modifiers = case.slots[f"{name}.head"].keys, case.slots[f"{name}.modifier"].keys
        never = {clause.never for clause in case.clauses}
        found = []
        for head, modifier in product(heads, modifiers):
            pair = frozenset({(f"{name}.head", head), (f"{name}.modifier", modifier)})
            if pair in never:
                continue
            why = ""
            for near in bench.near:
                why = self._lit(case, name, head, modifier, bench, near) or ""
                if not why:
                    break
            if why:
                found.append(Clause(pair | frozenset(rest.items()), why))
        return found

    def weights(
        self, case: Case, name: str, support: str, bench: Bench
    ) -> Iterable[tuple[frozenset[tuple[str, str]], float]]:
        """What each head with each modifier on a stand needs hung low to stand safely [kg], at a usual distance."""
        heads, modifiers = case.slots[f"{name}.head"].keys, case.slots[f"{name}.modifier"].keys
        never = {clause.never for clause in case.clauses}
        for head, modifier in product(heads, modifiers):
            pair = frozenset({(f"{name}.head", head), (f"{name}.modifier", modifier)})
            whole = pair | {(f"{name}.support", support)}
            if any(clause <= whole for clause in (pair, whole) if clause in never):
                continue
            made = {f"{name}.head": head, f"{name}.modifier": modifier, f"{name}.support": support}
            place, gear = self._made(made, name, frozenset())
            scene = _with_light(bench.scene, case, name, place, gear, bench.near[0])
            mass = weighted(scene, scene.lights[0]).bag if scene.lights else None
            if mass:
                yield whole, mass

    def hopeless(self, case: Case, recipe: Recipe, name: str, bench: Bench) -> list[Clause]:
        """Every head with every modifier that serves at no distance on a recipe's stand: where the modifier fits by
        its size, the light is wrong. Looked for once one of them has failed."""
        still = {
            slot: recipe[slot] for slot in ("body", "lens", "tripod", "table", f"{name}.support") if slot in recipe
        }
        never = {clause.never for clause in case.clauses}
        spared: frozenset[Ideal] = frozenset({"head"})
        some_head = recipe[f"{name}.head"]
        found = []
        for modifier in case.slots[f"{name}.modifier"].keys:
            made = still | {f"{name}.head": some_head, f"{name}.modifier": modifier}
            place, gear = self._made(made, name, spared)
            words = [self._first_short(case, name, place, gear, bench, near, spared) for near in bench.near]
            near = [one for one, why in zip(bench.near, words, strict=True) if why is None]
            for head in case.slots[f"{name}.head"].keys:
                pair = frozenset({(f"{name}.head", head), (f"{name}.modifier", modifier)})
                if pair in never:
                    continue
                why = next((why for why in words if why), "") if not near else ""
                for one in near:
                    why = self._lit(case, name, head, modifier, bench, one) or ""
                    if not why:
                        break
                if why:
                    found.append(Clause(pair | frozenset(still.items()), why))
        return found

    def _look(self, key: str) -> str:
        return "" if key == NOTHING else self.market.by_key[key].look

    def _judge(self, case: Case, recipe: Recipe, name: str, bench: Bench) -> tuple[frozenset[str], str] | None:
        why = self._fails(case, recipe, name, bench, frozenset())
        if why is None:
            return None
        spared: frozenset[Ideal] = frozenset()
        options: tuple[Ideal, ...] = ("lens", "support", "modifier", "head")
        for part in options:
            still = self._fails(case, recipe, name, bench, spared | {part})
            if still is not None:
                spared, why = spared | {part}, still
        guilty = {f"{name}.{part}" for part in ("support", "modifier", "head") if part not in spared}
        if "lens" not in spared or len(bench.near) < len(NEAR):
            guilty |= {"body", "lens"}
        if len(bench.near) < len(NEAR):
            guilty |= {"tripod", "table", f"{name}.support"}
        return frozenset(guilty), why

    def _fails(self, case: Case, recipe: Recipe, name: str, bench: Bench, spared: frozenset[Ideal]) -> str | None:
        """Why a light fails at every distance, in the words of its last failing line; None when one serves."""
        place, gear = self._made(recipe, name, spared)
        why = None
        for near in bench.near:
            line = self._first_short(case, name, place, gear, bench, near, spared)
            if line is None:
                return None
            why = line
        return why

    def _made(self, recipe: Recipe, name: str, spared: frozenset[Ideal]) -> tuple[LightPlace, Mapping[str, Item]]:
        fields: dict[str, str] = {}
        gear: dict[str, Item] = {}
        for part in ("head", "modifier", "support", "joint", "ring"):
            key = recipe.get(f"{name}.{part}", NOTHING)
            if key == NOTHING or (part == "modifier" and "modifier" in spared):
                continue
            fields[part] = key
            item = self.market.by_key[key].item
            gear[key] = ideal(item) if part in spared else item
        return LightPlace(id=name).changed(**fields), gear

    def _first_short(
        self,
        case: Case,
        name: str,
        place: LightPlace,
        gear: Mapping[str, Item],
        bench: Bench,
        near: Spot,
        spared: frozenset[Ideal],
    ) -> str | None:
        """What is wrong with a light at a distance, in the words of the first Short line."""
        scene = _with_light(bench.scene, case, name, place, gear, near)
        with plain():
            for line in _open_lines(scene):
                blames_lens = line.code.startswith("frame.")
                if line.verdict is Verdict.SHORT and not (blames_lens and "lens" in spared):
                    return line.sentence
        if "head" in spared or "modifier" in spared:
            return None
        found = self._lit(case, name, place.head or NOTHING, place.modifier or NOTHING, bench, near)
        return found


def _unlit(
    bench: Bench, case: Case, name: str, place: LightPlace, gear: Mapping[str, Item], near: Spot
) -> Margin | None:
    """The first line of exposure a light fails at a distance, by more than places differ."""
    back = bench.returned.get(near, 0.0)
    with plain():
        for line in exposure.margins(_with_light(bench.scene, case, name, place, gear, near)):
            if line.margin is None:
                continue
            margin = line.margin
            if line.code in LIGHT:
                margin += PLACES_DIFFER + (back if line.code in POWER else -back)
            if margin < 0:
                return line
    return None


def returned(
    opened: Scene, placed: Scene, case: Case, name: str, place: LightPlace, gear: Mapping[str, Item]
) -> dict[Spot, float]:
    """What the room adds to a light at each distance [stops]: the same light in the open and at a usual place."""
    found = {}
    for near in NEAR:
        levels = []
        for scene in (opened, placed):
            with fresh():
                lines = exposure.margins(_with_light(scene, case, name, place, gear, near))
                levels.append(next((m.margin for m in lines if m.code in POWER and m.margin is not None), None))
        if levels[0] is not None and levels[1] is not None:
            found[near] = max(levels[1] - levels[0], 0.0)
    return found


def _open_lines(scene: Scene) -> Iterable[Margin]:
    """Lines a light adds to a shot that fits without it."""
    for rule in OF_LIGHTS:
        for line in rule(scene):
            if counts(line) and line.code not in ELSEWHERE:
                yield line


def _with_light(scene: Scene, case: Case, name: str, place: LightPlace, gear: Mapping[str, Item], near: Spot) -> Scene:
    known = replace(scene, gear=scene.gear | dict(gear))
    plan = lit(known, case.pattern, 1.0, key_distance(known) * near[0], near[1], {name: place})
    return replace(known, plan=plan)


def ideal(item: Item) -> Item:
    """The same thing where nothing of its size could be in the way."""
    tiny = GEAR_LENGTH.figure(0.02)
    if isinstance(item, Stand):
        fields: dict[str, object] = {
            "min_height": GEAR_LENGTH.figure(0.02),
            "max_height": GEAR_LENGTH.figure(6.0),
            "foot_radius": tiny,
            "load": LOAD.figure(1000.0),
        }
        return item.changed(**fields)
    if isinstance(item, Holder):
        return item.changed(
            status="owned",
            system="two stands and crossbar",
            min_height=tiny,
            max_height=GEAR_LENGTH.figure(6.0),
            min_width=tiny,
            max_width=GEAR_LENGTH.figure(6.0),
            overhang=GEAR_LENGTH.figure(0.001),
            foot_radius=tiny,
            load=LOAD.figure(1000.0),
            mass=MASS.figure(50.0),
        )
    sizes = {name: tiny for name in ("diameter", "length", "width", "height") if getattr(item, name, None) is not None}
    return item.changed(**sizes, mass=MASS.figure(0.01))


def facing_beams(case: Case) -> set[str]:
    """Lights aimed at the face: those that stay as they are wherever the set is put."""
    return {name for beam, name in named_beams(case.pattern) if beam.aim in ("face", "lens")}
