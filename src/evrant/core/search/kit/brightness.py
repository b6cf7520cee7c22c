"""Is a light bright and even enough, and weak enough, at the distances that are tried?

Judged in the open by the ledger's own lines; what the room returns is added as found at a usual place. All of it
hangs on shot, head, modifier and distance alone, not on what else a recipe is made of.
"""

import math
from collections.abc import Hashable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import product

import numpy as np

from evrant.core.base.margins import Margin
from evrant.core.base.memo import plain
from evrant.core.judge.rules.light import exposure
from evrant.core.light.colour import luminance
from evrant.core.light.emission import Missing
from evrant.core.light.lit import Lit
from evrant.core.light.lit import lit as lit_of
from evrant.core.light.powers import ROLE_STOPS, role_stops
from evrant.core.place.lighting import key_distance, lit, named_beams
from evrant.core.search.kit.case import NOTHING, Case, Literal_, Spot
from evrant.core.search.kit.stage import Stage
from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Vector
from evrant.core.studio.gear import Item
from evrant.core.studio.room import Room
from evrant.core.studio.sets import LightPlace, SetPlan

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
EVENED = 1.0
"""How much the other lights of a pattern, room lamps and daylight may even out a light from head to feet [stops];
project choice, on the safe side."""
SAME_PLACE = 0.02
"""Heads of other lengths put a modifier this much higher or lower, at most, for a room to return as much of it [m]."""
AROUND = 2.0
"""By how much room lamps and daylight may relieve a light [stops]; project choice, on the safe side."""
POWER = (exposure.POWER_FULL.code, exposure.SHUTTER.code)
FRONT = ("key", "ring light", "fill", "under-light", "top light", "rim", "hair light")
"""Roles whose light counts in the exposure of the subject."""
LIGHT = (*POWER, exposure.POWER_LOWEST.code)
HERE = (*POWER, exposure.FALLOFF.code)
THROUGH = ("tent", "scrim")
"""Patterns whose light comes through something: that only takes light, and evens it out."""
NO_CARDS: Mapping[str, Item] = {}
Pair = tuple[str, str]
"""A head and a modifier."""
Made = tuple[LightPlace, Mapping[str, Item]]
"""A light without a place, and its things."""


@dataclass(frozen=True)
class Returned:
    """What walls return of a light: how much that adds, and by how much it evens it out from head to feet [stops]."""

    adds: float = 0.0
    evens: float = 0.0
    differs: float = 0.0

    def differing(self) -> "Returned":
        """The same wherever in the room it is put."""
        return replace(self, differs=PLACES_DIFFER)


@dataclass(frozen=True, eq=False)
class Alone:
    """One light in the open: its lines of exposure by code, margin [stops] and words, and the first of them it fails
    by more than places differ; what is the same for lights that differ in their strength only, and where it is."""

    lines: tuple[tuple[str, float, str], ...] = ()
    why: str | None = None
    kind: Hashable = None
    at: Vector = field(default_factory=lambda: np.zeros(3))

    def like(self, other: "Alone") -> bool:
        """Whether what a room does to one holds for the other."""
        return self.kind == other.kind and float(np.linalg.norm(self.at - other.at)) <= SAME_PLACE


DARK = Alone()
"""A light nothing is known of."""


@dataclass
class Brightness:
    """Verdicts on the light of heads and modifiers, kept by their look."""

    stage: Stage
    kept: dict[tuple[str, str, str, str, Spot], Alone] = field(default_factory=dict)
    there: dict[tuple[object, ...], Mapping[str, float]] = field(default_factory=dict)
    corners: dict[tuple[str, str, tuple[str, str]], str | None] = field(default_factory=dict)
    back: dict[tuple[str, str], Mapping[float, "Returned"]] = field(default_factory=dict)
    alike: dict[tuple[str, str, str], tuple[Pair, ...]] = field(default_factory=dict)

    def faults(
        self, case: Case, name: str, pairs: Sequence[Pair], usual: tuple[Scene, Scene], near: Spot
    ) -> dict[Pair, str | None]:
        """What is wrong with a light of each head and modifier at a distance, on a stand of any height. `usual`: the
        shot without lights in the open and at its usual place. What is not known yet is lit at once."""
        return {pair: found.why for pair, found in self._open(case, name, pairs, usual, near).items()}

    def _open(
        self, case: Case, name: str, pairs: Sequence[Pair], usual: tuple[Scene, Scene], near: Spot
    ) -> dict[Pair, Alone]:
        look = self.stage.look
        keys = {pair: (case.id, name, look(pair[0]), look(pair[1]), near) for pair in pairs}
        new = {key: pair for pair, key in keys.items() if key not in self.kept}
        if new:
            back = self._returned(case, name, usual).get(near[0], Returned())
            made = [self.stage.made({f"{name}.head": h, f"{name}.modifier": m}, name) for h, m in new.values()]
            scene = together(usual[0], case, name, made, near)
            found = _alone(scene, back.differing(), company(case, usual[1].room), through=case.pattern in THROUGH)
            self.kept |= {key: found.get(number, DARK) for number, key in enumerate(new)}
        return {pair: self.kept[key] for pair, key in keys.items()}

    def fault(
        self,
        case: Case,
        name: str,
        pair: Pair,
        usual: tuple[Scene, Scene],
        near: Spot,
        cards: Mapping[str, Item] = NO_CARDS,
    ) -> str | None:
        """What is wrong with one light at a distance: as told of many at once, and what passes so is asked again where
        the shot usually stands, with what the room returns of a light like this and of no other, and by way of its
        `cards`. What the room does is found with the first head and modifier that shine alike."""
        pairs = list(dict.fromkeys((*self._same_modifier(case, name, pair[1]), pair)))
        every = self._open(case, name, pairs, usual, near)
        told = every[pair]
        if told.why is not None or usual[1] is usual[0]:
            return told.why
        alike = next(one for one in pairs if every[one].like(told))
        more = self._there(case, name, alike, every[alike], usual, near, cards)
        codes = POWER if case.pattern in THROUGH and not cards else HERE
        relief = company(case, usual[1].room)
        for code, margin, words in told.lines:
            if code in codes and code in more and _spare(code, margin + more[code], Returned(), relief) < 0:
                return words
        return None

    def _same_modifier(self, case: Case, name: str, modifier: str) -> tuple[Pair, ...]:
        """Heads that go with a modifier, each with it."""
        key = (case.id, name, modifier)
        if key not in self.alike:
            fits = (one for one in pairs_of(case, name) if one[1] == modifier != NOTHING)
            self.alike[key] = tuple(fits)
        return self.alike[key]

    def _there(
        self,
        case: Case,
        name: str,
        pair: Pair,
        told: Alone,
        usual: tuple[Scene, Scene],
        near: Spot,
        cards: Mapping[str, Item],
    ) -> Mapping[str, float]:
        """By how much each line of a light is better where the shot usually stands than in the open [stops]."""
        looks = self.stage.look(pair[0]), self.stage.look(pair[1]), *(self.stage.look(key) for key in cards)
        key = (case.id, name, looks, near)
        if key not in self.there:
            made = self.stage.made({f"{name}.head": pair[0], f"{name}.modifier": pair[1]}, name)
            there = replace(usual[1], gear=usual[1].gear | dict(cards)) if cards else usual[1]
            with plain():
                lines = _lines(with_light(there, case, name, made, near))
            margins = {line.code: line.margin for line in lines if line.margin is not None}
            self.there[key] = {code: margins[code] - margin for code, margin, _ in told.lines if code in margins}
        return self.there[key]

    def into_corner(self, case: Case, name: str, pair: Pair, usual: tuple[Scene, Scene]) -> str | None:
        """What is wrong with a light that is fired into a corner of the room, where the shot usually stands: it is too
        weak or too strong by twice as much as lights differ from place to place, for more hangs on its place."""
        key = (case.id, name, (self.stage.look(pair[0]), self.stage.look(pair[1])))
        if key not in self.corners:
            made = self.stage.made({f"{name}.head": pair[0], f"{name}.modifier": pair[1]}, name)
            with plain():
                lines = [line for line in _lines(with_light(usual[1], case, name, made, NEAR[0])) if line.code in LIGHT]
            away, relief = Returned(differs=2 * PLACES_DIFFER), company(case, usual[1].room)
            known = ((line.code, line.margin, line.sentence) for line in lines if line.margin is not None)
            found = (words for code, margin, words in known if _spare(code, margin, away, relief) < 0)
            self.corners[key] = next(found, None)
        return self.corners[key]

    def _returned(self, case: Case, name: str, usual: tuple[Scene, Scene]) -> Mapping[float, "Returned"]:
        """What the room does to a light at each distance, found with the first head and modifier on offer."""
        key = (case.id, name)
        if key not in self.back:
            head, modifier = pairs_of(case, name)[0]
            made = self.stage.made({f"{name}.head": head, f"{name}.modifier": modifier}, name)
            self.back[key] = _returned(usual, case, name, made)
        return self.back[key]


def company(case: Case, room: Room) -> float:
    """By how much the other lights of a pattern relieve each [stops]: together they make the exposure. Room lamps and
    daylight, where the room has any that are left on, may relieve them too."""
    roles = [beam.role for beam, _ in named_beams(case.pattern) if beam.role in FRONT]
    front = [2 ** (role_stops(role, case.shot.contrast) or 0.0) for role in roles]
    around = case.shot.around
    lamps = around in ("room lamps on", "daylight and room lamps") and any(box.kind == "lamp" for box in room.boxes)
    day = around in ("daylight", "daylight and room lamps") and bool(room.windows)
    return math.log2(max(sum(front), 1.0)) + (AROUND if lamps or day else 0.0)


def pairs_of(case: Case, name: str) -> list[Pair]:
    """Heads and modifiers of a light that go together."""
    never = {clause.never for clause in case.clauses}
    pairs = product(case.slots[f"{name}.head"].keys, case.slots[f"{name}.modifier"].keys)
    return [pair for pair in pairs if literals(name, pair) not in never]


def literals(name: str, pair: Pair) -> frozenset[Literal_]:
    """The slots of a light that hold a head and a modifier."""
    return frozenset({(f"{name}.head", pair[0]), (f"{name}.modifier", pair[1])})


def together(scene: Scene, case: Case, name: str, made: Sequence[Made], near: Spot) -> Scene:
    """A scene with all of several lights at one place, each as it would stand alone, named by its number."""
    gear = {key: item for _, items in made for key, item in items.items()}
    known = scene.with_lights(scene.plan, gear)
    plan, lights = scene.plan, []
    for number, (place, _) in enumerate(made):
        plan = _plan(known, case, name, place, near)
        lights += [light.changed(id=str(number)) for light in plan.lights]
    return scene.with_lights(plan.changed(lights=tuple(lights)), gear)


def with_light(scene: Scene, case: Case, name: str, made: Made, near: Spot, side: float = 1.0) -> Scene:
    """A scene with one light of its pattern at a distance, on the subject's left or, with a `side` of −1, right."""
    place, gear = made
    known = scene.with_lights(scene.plan, gear)
    return scene.with_lights(_plan(known, case, name, place, near, side), gear)


def _plan(scene: Scene, case: Case, name: str, place: LightPlace, near: Spot, side: float = 1.0) -> SetPlan:
    return lit(scene, case.pattern, side, key_distance(scene) * near[0], near[1], {name: place})


def _alone(scene: Scene, back: Returned, relief: float, *, through: bool = False) -> dict[int, Alone]:
    """Each light of a scene by itself, by its number. `back` is what the room does to each, `relief` what the others
    take from it [stops]. `through`: a tent or scrim, which is not there yet, takes light and evens it out, so that only
    what is too weak even without it is told.

    All of one colour temperature, which light is measured against, shine at once; those that share their work with
    others shine alone.
    """
    groups: dict[object, list[LightPlace]] = {}
    for place in scene.plan.lights:
        warmth = getattr(scene.gear[place.head or ""], "kelvin", None)
        groups.setdefault(place.id if place.role not in ROLE_STOPS else warmth, []).append(place)
    found = {}
    with plain():
        for lights in groups.values():
            some = replace(scene, plan=scene.plan.changed(lights=tuple(lights)))
            state = lit_of(some)
            for light in some.lights:
                made = [item.called for item in (light.head, light.modifier) if item]
                named = replace(light, name=" with the ".join(made))
                lines = tuple(
                    (line.code, line.margin, line.sentence)
                    for line in _exposed(some, named, state)
                    if line.margin is not None
                )
                told = (
                    words
                    for code, margin, words in lines
                    if (not through or code in POWER) and _spare(code, margin, back, relief) < 0
                )
                found[int(light.place.id)] = Alone(lines, next(told, None), *_face(state, light))
    return found


def _face(state: Lit | Missing | None, light: Light) -> tuple[Hashable, Vector]:
    """What is the same for lights that shine alike in the same colour, however strong, and where the luminous face is;
    of its own kind where that is not known."""
    beams = () if state is None or isinstance(state, Missing) else state.beams
    source = next((beam.source for beam in beams if beam.path == light.path), None)
    if source is None:
        return (light.head, light.modifier), np.zeros(3)
    table = b"" if source.table is None else source.table.tobytes()
    colour = (source.flux / luminance(source.flux)).round(6).tobytes()
    return (light.modifier or light.head, table, colour), source.centre


def _spare(code: str, margin: float, back: Returned, relief: float) -> float:
    """Margin of a line of exposure, with what the room and the other lights do, and what places differ by [stops]."""
    if code in POWER:
        return margin + back.differs + back.adds + relief
    if code == exposure.FALLOFF.code:
        return margin + back.differs + back.evens + (EVENED if relief else 0.0)
    return margin + back.differs - back.adds


def _exposed(scene: Scene, light: Light, state: Lit | Missing | None) -> Iterable[Margin]:
    """The lines of exposure of one light of a lit scene, as if it had to do its part without others."""
    yield from exposure.window(scene, light, state, alone=True)
    yield from exposure.falloff(scene, light, state, alone=True)


def _lines(scene: Scene) -> list[Margin]:
    """The lines of exposure of a scene's one light."""
    state = lit_of(scene)
    return [line for light in scene.lights for line in _exposed(scene, light, state)]


def _returned(usual: tuple[Scene, Scene], case: Case, name: str, made: Made) -> dict[float, Returned]:
    """What the room does to a light at each distance: the same light in the open and at its usual place."""
    found = {}
    for share in (share for share, wide in NEAR if not wide):
        there = []
        for scene in usual:
            with plain():
                lines = _lines(with_light(scene, case, name, made, (share, 0.0)))
            there.append({m.code in POWER: m.margin for m in lines if m.code in HERE and m.margin is not None})
        open_, room = there
        more = {power: max(room[power] - open_[power], 0.0) for power in open_.keys() & room.keys()}
        if True in more:
            found[share] = Returned(more[True], more.get(False, 0.0))
    return found
