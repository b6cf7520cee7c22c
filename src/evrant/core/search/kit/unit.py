"""One light by itself: does it serve a shot at any distance the search tries, before any wall is near?

What stays the same wherever a set is put is judged here, in the open room: pattern, height, what sticks into the
picture, how even and how bright it is. A light that fails at every distance fails in every set. Which of its parts
is at fault is found by putting ideal ones in their place: a stand of any height that takes no room, a head the size
of a nut, no modifier, a picture nothing can stick into.
"""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import partial
from typing import Literal

from evrant.core.base.margins import Margin, Verdict
from evrant.core.base.memo import plain
from evrant.core.judge.rules.light import aim, scrims, shadow
from evrant.core.judge.rules.power import sight
from evrant.core.judge.rules.set import flare, intrusion, overlap
from evrant.core.judge.rules.support import column, support
from evrant.core.place.lighting import named_beams, sided
from evrant.core.place.rigging import weighted
from evrant.core.search.arrange.judge import Rule, counts, hangs_on_place
from evrant.core.search.kit.brightness import (
    NEAR,
    Brightness,
    Pair,
    literals,
    pairs_of,
    together,
    with_light,
)
from evrant.core.search.kit.case import CARRIES, NOTHING, PARTS_OF_LIGHT, Case, Clause, Literal_, Recipe, Spot
from evrant.core.search.kit.stage import STILL, Stage, cards_in
from evrant.core.space.scene import Scene

IN_THE_WAY = "its stand is in the way, or too low, at every distance"
FARTHEST_FIRST = tuple(sorted(NEAR, reverse=True))
Ideal = Literal["support", "modifier", "size", "head", "lens"]
BY_HEIGHT: tuple[Rule, ...] = (support.of_lights, aim.margins, column.margins)
"""What how high and far its stand puts a light adds to the lines of a shot that fits without it."""
IN_THE_PICTURE: tuple[Rule, ...] = (
    flare.margins,
    sight.margins,
    shadow.margins,
    scrims.margins,
    partial(overlap.margins, firsts=frozenset({"light"})),
    intrusion.margins,
)
"""What it adds besides, what is cheap to find out first."""
OF_LENS = ("body", "lens", "tripod")
"""Slots that settle what the picture shows and where the camera stands."""
SIDES = (1.0, -1.0)
BARE: frozenset[Ideal] = frozenset({"head", "size"})
"""What is left out of a light to ask of its stand alone."""


@dataclass(frozen=True)
class Bench:
    """Where a light is tried: the shot without lights in the open room as a recipe has it; as it usually is, in the
    open and in its room; and the distances that are possible at all."""

    scene: Scene
    usual: tuple[Scene, Scene]
    near: tuple[Spot, ...]


@dataclass(frozen=True)
class Trial:
    """One light of a recipe, where it is tried."""

    case: Case
    recipe: Recipe
    name: str
    bench: Bench

    @property
    def pair(self) -> Pair:
        """Its head and modifier."""
        return self.recipe.get(f"{self.name}.head", NOTHING), self.recipe.get(f"{self.name}.modifier", NOTHING)

    @property
    def by_face(self) -> bool:
        """Whether it is aimed at the face and at nothing else: such lights stand by face and crop."""
        return by_face(self.case, self.name)


@dataclass
class Units:
    """Verdicts on lights by themselves, kept by the look of their parts."""

    stage: Stage
    kept: dict[tuple[object, ...], tuple[frozenset[str], str] | None] = field(default_factory=dict)
    near: dict[tuple[object, ...], tuple[Spot, ...]] = field(default_factory=dict)
    good: dict[tuple[object, ...], tuple[Spot, ...]] = field(default_factory=dict)
    upright: dict[tuple[object, ...], str | None] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self.brightness = Brightness(self.stage)

    def possible(self, case: Case, recipe: Recipe, name: str, opened: Scene) -> tuple[Spot, ...]:
        """Distances at which a light's bare stand is high enough and out of the way of camera, table and subject. Where
        the stand is hangs on the depth of the modifier, not on the head."""
        if self.stage.hangs(recipe, name):
            return NEAR
        key = (case.id, name, self._looks(recipe, name, (*CARRIES, "modifier")))
        if key not in self.near:
            trial = Trial(case, recipe, name, Bench(opened, (opened, opened), NEAR))
            self.near[key] = tuple(near for near in NEAR if self._short(trial, near, BARE) is None)
        return self.near[key]

    def nowhere(self, case: Case, recipe: Recipe, name: str, opened: Scene) -> bool:
        """Whether a light's bare stand is wrong for it at every distance whatever the lens: too high, too low, or too
        far."""
        trial = Trial(case, recipe, name, Bench(opened, (opened, opened), NEAR))
        return self._same_for_all(trial) and all(self._by_height(trial, near, BARE) for near in NEAR)

    def out(self, case: Case, standing: Recipe, name: str, opened: Scene) -> Clause:
        """A stand that is wrong for a light at every distance, whatever the lens where that is no part of it."""
        whole = without_lens(standing) if self.nowhere(case, standing, name, opened) else standing
        return Clause(frozenset(whole.items()), IN_THE_WAY)

    def serves(self, case: Case, recipe: Recipe, name: str, bench: Bench) -> tuple[Spot, ...]:
        """The distances at which a light serves."""
        key = (case.id, name, bench.near, self._looks(recipe, name))
        if key not in self.good:
            trial = Trial(case, recipe, name, bench)
            bright = self.bright(case, name, [trial.pair], bench.usual)[trial.pair]
            possible = (near for near in bright if near in bench.near)
            self.good[key] = tuple(near for near in possible if self._short(trial, near) is None)
        return self.good[key]

    def bright(
        self, case: Case, name: str, pairs: Sequence[Pair], usual: tuple[Scene, Scene]
    ) -> dict[Pair, tuple[Spot, ...]]:
        """The distances at which the light of each head and modifier is right, on a stand of any height."""
        found = {near: self.brightness.faults(case, name, pairs, usual, near) for near in NEAR}
        return {pair: tuple(near for near in NEAR if found[near][pair] is None) for pair in pairs}

    def fault(self, case: Case, recipe: Recipe, name: str, bench: Bench) -> Clause | None:
        """The smallest failing part of a light, or None when it serves at some distance."""
        key = (case.id, name, bench.near, self._looks(recipe, name))
        if key not in self.kept:
            self.kept[key] = self._judge(Trial(case, recipe, name, bench))
        found = self.kept[key]
        if found is None:
            return None
        guilty, why = found
        return Clause(frozenset((slot, recipe[slot]) for slot in guilty if slot in recipe), why)

    def wrong(self, case: Case, name: str, bench: Bench, rest: Mapping[str, str]) -> Iterable[Clause]:
        """Every head with every modifier of a light that is too weak, too strong or too uneven at each of the
        bench's distances; `rest` are the slots those distances hang on, the modifier maybe among them."""
        modifier = rest.get(f"{name}.modifier")
        left = dict.fromkeys((pair for pair in pairs_of(case, name) if modifier in (None, pair[1])), "")
        for near in bench.near:
            faults = self.brightness.faults(case, name, [*left], bench.usual, near)
            left = {pair: why for pair, why in faults.items() if why}
        return (Clause(literals(name, pair) | frozenset(rest.items()), why) for pair, why in left.items())

    def weights(
        self, case: Case, name: str, support: str, usual: tuple[Scene, Scene]
    ) -> Iterable[tuple[frozenset[Literal_], float]]:
        """What each head with each modifier on a stand needs hung low to stand safely [kg], at the farthest distance
        at which its light serves: the same whatever else the set is made of."""
        never = {clause.never for clause in case.clauses}
        left = pairs_of(case, name)
        for near in FARTHEST_FIRST:
            faults = self.brightness.faults(case, name, left, usual, near)
            here, left = [p for p in left if faults[p] is None], [p for p in left if faults[p] is not None]
            wholes = [literals(name, pair) | {(f"{name}.support", support)} for pair in here]
            wholes = [whole for whole in wholes if whole not in never]
            scene = together(usual[0], case, name, [self.stage.made(dict(whole), name) for whole in wholes], near)
            for light in scene.lights:
                mass = weighted(scene, light).bag
                if mass:
                    yield wholes[int(light.place.id)], mass

    def weights_there(
        self, case: Case, name: str, support: str, there: Scene
    ) -> Iterable[tuple[frozenset[Literal_], float]]:
        """The same at one place, whether its light serves there or not."""
        never = {clause.never for clause in case.clauses}
        wholes = [literals(name, pair) | {(f"{name}.support", support)} for pair in pairs_of(case, name)]
        wholes = [whole for whole in wholes if whole not in never]
        scene = together(there, case, name, [self.stage.made(dict(whole), name) for whole in wholes], (1.0, 0.0))
        for light in scene.lights:
            if mass := weighted(scene, light).bag:
                yield wholes[int(light.place.id)], mass

    def hopeless(self, case: Case, recipe: Recipe, name: str, bench: Bench) -> Iterable[Clause]:
        """Every head with every modifier that serves at no distance on a recipe's stand: where the modifier fits by
        its size, the light is wrong; whatever the lens where that is no part of it. Looked for once one of them has
        failed."""
        still = {slot: recipe[slot] for slot in (*STILL, *(f"{name}.{part}" for part in CARRIES)) if slot in recipe}
        nut: frozenset[Ideal] = frozenset({"head"})
        for modifier in case.slots[f"{name}.modifier"].keys:
            left = [pair for pair in pairs_of(case, name) if pair[1] == modifier]
            why_not: dict[Pair, str] = {}
            stood = still | {f"{name}.modifier": modifier}
            trial = Trial(case, stood | {f"{name}.head": recipe[f"{name}.head"]}, name, bench)
            spots = self.possible(case, trial.recipe, name, bench.scene) if left else ()
            if left and not spots:
                yield self.out(case, stood, name, bench.scene)
                continue
            for near in spots:
                faults = self.brightness.faults(case, name, left, bench.usual, near)
                by_size = "" if all(faults.values()) else self._short(trial, near, nut) or ""
                why_not = {pair: why for pair, fault in faults.items() if (why := fault or by_size)}
                left = [*why_not]
            for pair in left:
                one = Trial(case, {**stood, f"{name}.head": pair[0]}, name, bench)
                whatever = self._each(partial(self._too_far, one), NEAR)
                whole = one.recipe if whatever is None else without_lens(one.recipe)
                yield Clause(frozenset(whole.items()), whatever or why_not[pair])

    def stuck(self, case: Case, recipe: Recipe, name: str, bench: Bench) -> Iterable[Clause]:
        """Every head with every modifier that does not go on a recipe's stand, each at its own size, at any distance;
        whatever the lens where that is no part of it."""
        still = {slot: recipe[slot] for slot in (*STILL, *(f"{name}.{part}" for part in CARRIES)) if slot in recipe}
        if any(slot.startswith("card-") for slot in case.slots):
            return  # what a card returns is not known before it is chosen
        for pair, bright in self.bright(case, name, pairs_of(case, name), bench.usual).items():
            trial = Trial(case, {**still, f"{name}.head": pair[0], f"{name}.modifier": pair[1]}, name, bench)
            if why := self._each(partial(self._by_stand, trial), bright):
                yield Clause(frozenset(without_lens(trial.recipe).items()), why)
                continue
            near = [one for one in self.possible(case, trial.recipe, name, bench.scene) if one in bright]
            if why := self._each(partial(self._short, trial), near):
                yield Clause(frozenset(trial.recipe.items()), why)

    @staticmethod
    def _each(why: Callable[[Spot], str | None], spots: Iterable[Spot]) -> str | None:
        """Why none of some spots will do; None when one does, or there are none."""
        found = None
        for spot in spots:
            found = why(spot)
            if found is None:
                return None
        return found

    def _same_for_all(self, trial: Trial) -> bool:
        """Whether a light stands where it does with every lens."""
        return trial.by_face and not self.stage.hangs(trial.recipe, trial.name)

    def _by_stand(self, trial: Trial, near: Spot) -> str | None:
        """What is wrong with how bright a light is, or with how high and far its stand puts it, where that is the same
        with any lens."""
        if not self._same_for_all(trial):
            return None
        return self._by_height(trial, near) or self._fault(trial, near)

    def _too_far(self, trial: Trial, near: Spot) -> str | None:
        """The same, of its light as it is in the open alone."""
        if not self._same_for_all(trial):
            return None
        return self._by_height(trial, near) or self._open_fault(trial, near)

    def _fault(self, trial: Trial, near: Spot) -> str | None:
        """What is wrong with how bright a light is at a distance."""
        if self.stage.hangs(trial.recipe, trial.name):
            return self._open_fault(trial, near)  # nearer or farther than what is tried, as far as it slides
        cards, usual = self.stage.cards(trial.recipe), trial.bench.usual
        return self.brightness.fault(trial.case, trial.name, trial.pair, usual, near, cards)

    def _open_fault(self, trial: Trial, near: Spot) -> str | None:
        pair, usual = trial.pair, trial.bench.usual
        return self.brightness.faults(trial.case, trial.name, [pair], usual, near)[pair]

    def _looks(self, recipe: Recipe, name: str, parts: Iterable[str] = PARTS_OF_LIGHT) -> tuple[tuple[str, str], ...]:
        slots = (*STILL, *cards_in(recipe), *(f"{name}.{part}" for part in parts))
        return self.stage.looks({slot: recipe[slot] for slot in slots if slot in recipe})

    def _judge(self, trial: Trial) -> tuple[frozenset[str], str] | None:
        why = self._fails(trial, frozenset())
        if why is None:
            return None
        spared: frozenset[Ideal] = frozenset()
        options: tuple[Ideal, ...] = ("lens", "support", "modifier", "head")
        for part in options:
            if part == "modifier" and "support" not in spared:
                continue  # it puts the stand where it is
            still = self._fails(trial, spared | {part})
            if still is not None:
                spared, why = spared | {part}, still
        recipe, name, bound = trial.recipe, trial.name, len(trial.bench.near) < len(NEAR)
        light = {f"{name}.{part}" for part in ("support", "modifier", "head")}
        guilty = {f"{name}.{part}" for part in ("support", "modifier", "head") if part not in spared}
        guilty |= {*cards_in(recipe), "table"}  # in the way, it may be
        if bound:
            guilty |= {f"{name}.support", f"{name}.modifier"}
        if "lens" not in spared or bound:
            whatever = None if cards_in(recipe) else self._each(partial(self._by_stand, trial), NEAR)
            guilty, why = (guilty | set(OF_LENS), why) if whatever is None else ({"table"} | light, whatever)
        if f"{name}.support" in guilty and recipe.get(f"{name}.stands_on", NOTHING) != NOTHING:
            guilty |= {f"{name}.stands_on"}
        return frozenset(guilty), why

    def _fails(self, trial: Trial, spared: frozenset[Ideal]) -> str | None:
        """Why a light fails at every distance, in the words of its last failing line; None when one serves."""
        return self._each(lambda near: self._short(trial, near, spared), trial.bench.near)

    def _short(self, trial: Trial, near: Spot, spared: frozenset[Ideal] = frozenset()) -> str | None:
        """What is wrong with a light at a distance, in the words of the first Short line; of one that hangs,
        whatever it hangs from."""
        if why := self._by_size(trial, near, spared):
            return why
        spares_light = bool(spared & {"head", "modifier", "size"})
        return None if spares_light else self._fault(trial, near)

    def _by_size(self, trial: Trial, near: Spot, spared: frozenset[Ideal] = frozenset()) -> str | None:
        """The same, however bright it is, on whichever side of the face."""
        case, recipe, name = trial.case, trial.recipe, trial.name
        if self.stage.hangs(recipe, name):
            spared = spared | {"support"}
        by_height = self._by_height(trial, near, spared) if trial.by_face else None
        if by_height is not None:
            return by_height
        rules = IN_THE_PICTURE if trial.by_face else (*BY_HEIGHT, *IN_THE_PICTURE)
        made = self.stage.made(recipe, name, spared)
        glares = bool(spared & {"head", "modifier", "size"})
        why = None
        for side in SIDES if sided(case.pattern) else SIDES[:1]:
            scene = with_light(trial.bench.scene, case, name, made, near, side)
            with plain():
                short = next((line for line in _lines(scene, rules) if _is_short(line, spared, glares=glares)), None)
            if short is None:
                return None
            why = why or short.sentence
        return why

    def _by_height(self, trial: Trial, near: Spot, spared: frozenset[Ideal] = frozenset()) -> str | None:
        """What is wrong with how high and far its stand puts a light that is aimed at the face: the same with any
        lens and on either side, for such lights stand by face and crop. Found once for all lenses."""
        case, recipe, name = trial.case, trial.recipe, trial.name
        slots = ("table", *(f"{name}.{one}" for one in PARTS_OF_LIGHT))
        part = {slot: recipe[slot] for slot in slots if slot in recipe}
        key = (case.id, name, near, spared - {"lens"}, self.stage.looks(part))
        if key not in self.upright:
            scene = with_light(trial.bench.scene, case, name, self.stage.made(recipe, name, spared), near)
            with plain():
                short = next((line for line in _lines(scene, BY_HEIGHT) if line.verdict is Verdict.SHORT), None)
            self.upright[key] = None if short is None else short.sentence
        return self.upright[key]


def by_face(case: Case, light: str) -> bool:
    """Whether a light of a case is aimed at the face and at nothing else."""
    return {beam.aim for beam, name in named_beams(case.pattern) if name == light} == {"face"}


def without_lens(part: Mapping[str, str]) -> Recipe:
    """Part of a recipe whatever the camera, its lens and what carries it."""
    return {slot: key for slot, key in part.items() if slot not in OF_LENS}


def _is_short(line: Margin, spared: frozenset[Ideal], *, glares: bool) -> bool:
    """Whether a line speaks against a light. Without its modifier a head `glares` where it would not: that is not the
    stand's fault; nor is it where camera and photographer are, or what they see, when the lens is spared."""
    if line.verdict is not Verdict.SHORT or (glares and line.code == flare.FLARE.code):
        return False
    by_camera = line.code.startswith("frame.") or any(path.endswith("/camera") for path in line.about)
    return not (by_camera and "lens" in spared)


def _lines(scene: Scene, rules: Iterable[Rule]) -> Iterable[Margin]:
    """What a light adds that no place mends: in the open nothing is in its way but its own set."""
    known = (line for rule in rules for line in rule(scene) if line.margin is not None)
    return (line for line in known if line.code in ALWAYS or (counts(line) and line.code not in hangs_on_place()))


ALWAYS = frozenset({overlap.OVERLAP.code, column.COLUMN.code})
"""Lines that are the same wherever in a room a set stands, whatever else hangs on its place."""
