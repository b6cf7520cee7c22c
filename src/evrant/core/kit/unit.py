"""One light by itself: does it serve a shot at any distance the search tries, before any wall is near?

What stays the same wherever a set is put is judged here, in the open room: pattern, height, what sticks into the
picture, how even and how bright it is. What the room returns is added as found at a usual place. A light that
fails at every distance fails in every set. Which of its parts is at fault is found by putting ideal ones in their
place: a stand of any height that takes no room, a head the size of a nut, no modifier, a picture nothing can
stick into.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import partial
from itertools import product
from typing import Literal

from evrant.core.arrange.judge import Rule, counts
from evrant.core.kit.case import NOTHING, Case, Clause, Literal_, Recipe
from evrant.core.kit.market import Market
from evrant.core.light.lit import ROLE_STOPS
from evrant.core.light.lit import lit as lit_of
from evrant.core.lighting import key_distance, lit, named_beams
from evrant.core.margins import Margin, Verdict
from evrant.core.memo import fresh, plain
from evrant.core.quantity import GEAR_LENGTH, LOAD, MASS
from evrant.core.rigging import weighted
from evrant.core.rules import aim, exposure, intrusion, overlap, support
from evrant.core.scene import Scene
from evrant.core.studio.gear import Holder, Item, Stand
from evrant.core.studio.sets import LightPlace, SetPlan

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
FARTHEST_FIRST = tuple(sorted(NEAR, reverse=True))
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
    """Where lights are tried: the shot in the open room without lights as a recipe has it; the same as usual, in the
    open and in its room; and the distances that are possible at all."""

    scene: Scene
    usual: Scene
    placed: Scene
    near: tuple[Spot, ...]


@dataclass
class Units:
    """Verdicts on lights by themselves, kept by the look of their parts."""

    market: Market
    kept: dict[tuple[object, ...], tuple[frozenset[str], str] | None] = field(default_factory=dict)
    near: dict[tuple[object, ...], tuple[Spot, ...]] = field(default_factory=dict)
    good: dict[tuple[object, ...], tuple[Spot, ...]] = field(default_factory=dict)
    light: dict[tuple[str, str, str, str, Spot], str | None] = field(default_factory=dict)
    returned: dict[tuple[str, str], Mapping[float, float]] = field(default_factory=dict)

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
            bench = Bench(opened, opened, opened, NEAR)
            spared: frozenset[Ideal] = frozenset({"head", "modifier"})
            self.near[key] = tuple(
                near for near in NEAR if self._first_short(case, name, place, gear, bench, near, spared) is None
            )
        return self.near[key]

    def _lit(self, case: Case, name: str, head: str, modifier: str, bench: Bench, near: Spot) -> str | None:
        """What is wrong with the light of a head and modifier at a distance, on a stand of any height."""
        return self._all_lit(case, name, [(head, modifier)], bench, near)[head, modifier]

    def _all_lit(
        self, case: Case, name: str, pairs: Sequence[tuple[str, str]], bench: Bench, near: Spot
    ) -> dict[tuple[str, str], str | None]:
        """What is wrong with the light of each head and modifier at a distance; those not known yet are lit at once."""
        keys = {pair: (case.id, name, self._look(pair[0]), self._look(pair[1]), near) for pair in pairs}
        new = {key: pair for pair, key in keys.items() if key not in self.light}
        if new:
            back = self._returned(case, name, bench).get(near[0], 0.0)
            found = self._light_up(case, name, list(new.values()), bench.usual, near, back)
            self.light |= dict(zip(new, found, strict=True))
        return {pair: self.light[key] for pair, key in keys.items()}

    def _light_up(
        self, case: Case, name: str, pairs: Sequence[tuple[str, str]], scene: Scene, near: Spot, back: float
    ) -> list[str | None]:
        """What is wrong with each of several lights at one place. All of one colour temperature, which light is
        measured against, stand there at once; those that share their work with others are lit alone."""
        made = [self._made({f"{name}.head": h, f"{name}.modifier": m}, name, frozenset()) for h, m in pairs]
        scene = _together(scene, case, name, made, near)
        groups: dict[object, list[LightPlace]] = {}
        for light in scene.plan.lights:
            warmth = getattr(scene.gear[light.head or ""], "kelvin", None)
            groups.setdefault(light.id if light.role not in ROLE_STOPS else warmth, []).append(light)
        found: list[str | None] = [None] * len(pairs)
        with plain():
            for lights in groups.values():
                some = replace(scene, plan=scene.plan.changed(lights=tuple(lights)))
                for number, why in _unlit(some, back).items():
                    found[number] = why
        return found

    def _returned(self, case: Case, name: str, bench: Bench) -> Mapping[float, float]:
        """What the room adds at each distance [stops], found with the first head and modifier on offer."""
        key = (case.id, name)
        if key not in self.returned:
            never = {clause.never for clause in case.clauses}
            pairs = product(case.slots[f"{name}.head"].keys, case.slots[f"{name}.modifier"].keys)
            head, modifier = next(pair for pair in pairs if _pair(name, *pair) not in never)
            place, gear = self._made({f"{name}.head": head, f"{name}.modifier": modifier}, name, frozenset())
            self.returned[key] = returned(bench.usual, bench.placed, case, name, place, gear)
        return self.returned[key]

    def wrong(self, case: Case, name: str, bench: Bench, rest: Mapping[str, str]) -> list[Clause]:
        """Every head with every modifier of a light that is too weak, too strong or too uneven at each of the
        bench's distances; `rest` are the slots those distances hang on."""
        heads, modifiers = case.slots[f"{name}.head"].keys, case.slots[f"{name}.modifier"].keys
        never = {clause.never for clause in case.clauses}
        left = {pair: "" for pair in product(heads, modifiers) if _pair(name, *pair) not in never}
        for near in bench.near:
            left = {pair: why for pair, why in self._all_lit(case, name, [*left], bench, near).items() if why}
        return [Clause(_pair(name, *pair) | frozenset(rest.items()), why) for pair, why in left.items()]

    def weights(
        self, case: Case, name: str, support: str, bench: Bench
    ) -> Iterable[tuple[frozenset[tuple[str, str]], float]]:
        """What each head with each modifier on a stand needs hung low to stand safely [kg], at the farthest distance
        at which its light serves: the same whatever else the set is made of."""
        never = {clause.never for clause in case.clauses}
        heads, modifiers = case.slots[f"{name}.head"].keys, case.slots[f"{name}.modifier"].keys
        left = [pair for pair in product(heads, modifiers) if _pair(name, *pair) not in never]
        for near in FARTHEST_FIRST:
            found = self._all_lit(case, name, left, bench, near)
            lit_well, left = [p for p in left if found[p] is None], [p for p in left if found[p] is not None]
            wholes = [_pair(name, *pair) | {(f"{name}.support", support)} for pair in lit_well]
            wholes = [whole for whole in wholes if whole not in never]
            made = [self._made(dict(whole), name, frozenset()) for whole in wholes]
            scene = _together(bench.usual, case, name, made, near)
            for light in scene.lights:
                mass = weighted(scene, light).bag
                if mass:
                    yield wholes[int(light.place.id)], mass

    def hopeless(self, case: Case, recipe: Recipe, name: str, bench: Bench) -> list[Clause]:
        """Every head with every modifier that serves at no distance on a recipe's stand: where the modifier fits by
        its size, the light is wrong. Looked for once one of them has failed."""
        still = {
            slot: recipe[slot] for slot in ("body", "lens", "tripod", "table", f"{name}.support") if slot in recipe
        }
        never = {clause.never for clause in case.clauses}
        ideal_head: frozenset[Ideal] = frozenset({"head"})
        found = []
        for modifier in case.slots[f"{name}.modifier"].keys:
            pairs = {head: _pair(name, head, modifier) for head in case.slots[f"{name}.head"].keys}
            left = [head for head, pair in pairs.items() if pair not in never]
            why_not: dict[str, str] = {}
            made = still | {f"{name}.head": recipe[f"{name}.head"], f"{name}.modifier": modifier}
            place, gear = self._made(made, name, ideal_head)
            for near in bench.near if left else ():
                lit_so = self._all_lit(case, name, [(head, modifier) for head in left], bench, near)
                by_size = ""
                if not all(lit_so.values()):
                    by_size = self._first_short(case, name, place, gear, bench, near, ideal_head) or ""
                why_not = {head: why for (head, _), lit_why in lit_so.items() if (why := lit_why or by_size)}
                left = [*why_not]
            found += [Clause(pairs[head] | frozenset(still.items()), why_not[head]) for head in left]
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
        return self._lit(case, name, place.head or NOTHING, place.modifier or NOTHING, bench, near)


def _together(
    scene: Scene, case: Case, name: str, made: Sequence[tuple[LightPlace, Mapping[str, Item]]], near: Spot
) -> Scene:
    """A scene with all of several lights at one place, each as it would stand alone, named by its number."""
    gear = {key: item for _, items in made for key, item in items.items()}
    scene = replace(scene, gear=scene.gear | gear)
    plan, lights = scene.plan, []
    for number, (place, _) in enumerate(made):
        plan = _plan(scene, case, name, place, near)
        lights += [light.changed(id=str(number)) for light in plan.lights]
    return replace(scene, plan=plan.changed(lights=tuple(lights)))


def _unlit(scene: Scene, back: float) -> dict[int, str]:
    """The first line of exposure each light of a scene fails by more than places differ, by its number. `back` is
    what the room adds to each [stops]."""
    state = lit_of(scene)
    found = {}
    for light in scene.lights:
        lines = [*exposure.window(scene, light, state), *exposure.falloff(scene, light)]
        why = next((line.sentence for line in lines if _spare(line, back) < 0), "")
        if why:
            found[int(light.place.id)] = why
    return found


def _spare(line: Margin, back: float) -> float:
    """Margin of a line of exposure, with what the room adds and what places differ by [stops]."""
    if line.margin is None:
        return 0.0
    if line.code not in LIGHT:
        return line.margin
    return line.margin + PLACES_DIFFER + (back if line.code in POWER else -back)


def _pair(name: str, head: str, modifier: str) -> frozenset[Literal_]:
    return frozenset({(f"{name}.head", head), (f"{name}.modifier", modifier)})


def returned(
    opened: Scene, placed: Scene, case: Case, name: str, place: LightPlace, gear: Mapping[str, Item]
) -> dict[float, float]:
    """What the room adds to a light at each distance [stops]: the same light in the open and at a usual place."""
    found = {}
    for share, wide in NEAR:
        if wide:
            continue
        levels = []
        for scene in (opened, placed):
            with fresh():
                lines = exposure.margins(_with_light(scene, case, name, place, gear, (share, wide)))
                levels.append(next((m.margin for m in lines if m.code in POWER and m.margin is not None), None))
        if levels[0] is not None and levels[1] is not None:
            found[share] = max(levels[1] - levels[0], 0.0)
    return found


def _open_lines(scene: Scene) -> Iterable[Margin]:
    """Lines a light adds to a shot that fits without it."""
    for rule in OF_LIGHTS:
        for line in rule(scene):
            if counts(line) and line.code not in ELSEWHERE:
                yield line


def _with_light(scene: Scene, case: Case, name: str, place: LightPlace, gear: Mapping[str, Item], near: Spot) -> Scene:
    known = replace(scene, gear=scene.gear | dict(gear))
    return replace(known, plan=_plan(known, case, name, place, near))


def _plan(scene: Scene, case: Case, name: str, place: LightPlace, near: Spot) -> SetPlan:
    return lit(scene, case.pattern, 1.0, key_distance(scene) * near[0], near[1], {name: place})


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
