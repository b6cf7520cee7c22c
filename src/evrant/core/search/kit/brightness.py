"""Is a light bright and even enough, and weak enough, at the distances that are tried?

Judged in the open by the ledger's own lines; what the room returns is added as found at a usual place. All of it
hangs on shot, head, modifier and distance alone, not on what else a recipe is made of.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import product

from evrant.core.base.margins import Margin
from evrant.core.base.memo import fresh, plain
from evrant.core.judge.rules.light import exposure
from evrant.core.light.lit import lit as lit_of
from evrant.core.light.powers import ROLE_STOPS, role_stops
from evrant.core.place.lighting import key_distance, lit, named_beams
from evrant.core.search.kit.case import Case, Literal_
from evrant.core.search.kit.stage import Stage
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import Item
from evrant.core.studio.room import Room
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
PLACES_DIFFER = 0.5
"""How much the light of one set differs from place to place in a room [stops]; project choice, on the safe side."""
EVENED = 1.0
"""How much the other lights of a pattern, room lamps and daylight may even out a light from head to feet [stops];
project choice, on the safe side."""
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


@dataclass
class Brightness:
    """Verdicts on the light of heads and modifiers, kept by their look."""

    stage: Stage
    kept: dict[tuple[str, str, str, str, Spot], str | None] = field(default_factory=dict)
    there: dict[tuple[str, str, tuple[str, ...], Spot], str | None] = field(default_factory=dict)
    back: dict[tuple[str, str], Mapping[float, "Returned"]] = field(default_factory=dict)

    def faults(
        self, case: Case, name: str, pairs: Sequence[Pair], usual: tuple[Scene, Scene], near: Spot
    ) -> dict[Pair, str | None]:
        """What is wrong with a light of each head and modifier at a distance, on a stand of any height. `usual`: the
        shot without lights in the open and at its usual place. What is not known yet is lit at once."""
        look = self.stage.look
        keys = {pair: (case.id, name, look(pair[0]), look(pair[1]), near) for pair in pairs}
        new = {key: pair for pair, key in keys.items() if key not in self.kept}
        if new:
            back = self._returned(case, name, usual).get(near[0], Returned())
            made = [self.stage.made({f"{name}.head": h, f"{name}.modifier": m}, name) for h, m in new.values()]
            scene = together(usual[0], case, name, made, near)
            found = _unlit(scene, back.differing(), company(case, usual[1].room), through=case.pattern in THROUGH)
            self.kept |= {key: found.get(number) for number, key in enumerate(new)}
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
        the shot usually stands, with what the room returns of this light and of no other, and by way of its `cards`."""
        told = self.faults(case, name, [pair], usual, near)[pair]
        if told is not None or usual[1] is usual[0]:
            return told
        looks = self.stage.look(pair[0]), self.stage.look(pair[1]), *(self.stage.look(key) for key in cards)
        key = (case.id, name, looks, near)
        if key not in self.there:
            made = self.stage.made({f"{name}.head": pair[0], f"{name}.modifier": pair[1]}, name)
            there = replace(usual[1], gear=usual[1].gear | dict(cards)) if cards else usual[1]
            with fresh():
                lines = _alone(with_light(there, case, name, made, near))
            codes = POWER if case.pattern in THROUGH and not cards else HERE
            found = (
                m.sentence for m in lines if m.code in codes and _spare(m, Returned(), company(case, usual[1].room)) < 0
            )
            self.there[key] = next(found, None)
        return self.there[key]

    def into_corner(self, case: Case, name: str, pair: Pair, usual: tuple[Scene, Scene]) -> str | None:
        """What is wrong with a light that is fired into a corner of the room, where the shot usually stands: it is too
        weak or too strong by twice as much as lights differ from place to place, for more hangs on its place."""
        key = (case.id, name, (self.stage.look(pair[0]), self.stage.look(pair[1])), NEAR[0])
        if key not in self.there:
            made = self.stage.made({f"{name}.head": pair[0], f"{name}.modifier": pair[1]}, name)
            with fresh():
                lines = _alone(with_light(usual[1], case, name, made, NEAR[0]))
            away = Returned(differs=2 * PLACES_DIFFER)
            found = (m.sentence for m in lines if m.code in LIGHT and _spare(m, away, company(case, usual[1].room)) < 0)
            self.there[key] = next(found, None)
        return self.there[key]

    def _returned(self, case: Case, name: str, usual: tuple[Scene, Scene]) -> Mapping[float, "Returned"]:
        """What the room does to a light at each distance, found with the first head and modifier on offer."""
        key = (case.id, name)
        if key not in self.back:
            never = {clause.never for clause in case.clauses}
            pairs = product(case.slots[f"{name}.head"].keys, case.slots[f"{name}.modifier"].keys)
            head, modifier = next(pair for pair in pairs if literals(name, pair) not in never)
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


def literals(name: str, pair: Pair) -> frozenset[Literal_]:
    """The slots of a light that hold a head and a modifier."""
    return frozenset({(f"{name}.head", pair[0]), (f"{name}.modifier", pair[1])})


def together(scene: Scene, case: Case, name: str, made: Sequence[Made], near: Spot) -> Scene:
    """A scene with all of several lights at one place, each as it would stand alone, named by its number."""
    gear = {key: item for _, items in made for key, item in items.items()}
    scene = replace(scene, gear=scene.gear | gear)
    plan, lights = scene.plan, []
    for number, (place, _) in enumerate(made):
        plan = _plan(scene, case, name, place, near)
        lights += [light.changed(id=str(number)) for light in plan.lights]
    return replace(scene, plan=plan.changed(lights=tuple(lights)))


def with_light(scene: Scene, case: Case, name: str, made: Made, near: Spot) -> Scene:
    """A scene with one light of its pattern at a distance."""
    place, gear = made
    known = replace(scene, gear=scene.gear | dict(gear))
    return replace(known, plan=_plan(known, case, name, place, near))


def _plan(scene: Scene, case: Case, name: str, place: LightPlace, near: Spot) -> SetPlan:
    return lit(scene, case.pattern, 1.0, key_distance(scene) * near[0], near[1], {name: place})


def _unlit(scene: Scene, back: Returned, relief: float, *, through: bool = False) -> dict[int, str]:
    """The first line of exposure each light of a scene fails by more than places differ, by its number. `back` is
    what the room does to each, `relief` what the others take from it [stops]. `through`: a tent or scrim, which is not
    there yet, takes light and evens it out, so that only what is too weak even without it is told.

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
                lines = [
                    *exposure.window(some, named, state, alone=True),
                    *exposure.falloff(some, named, state, alone=True),
                ]
                told = [line for line in lines if not through or line.code in POWER]
                why = next((line.sentence for line in told if _spare(line, back, relief) < 0), "")
                if why:
                    found[int(light.place.id)] = why
    return found


def _spare(line: Margin, back: Returned, relief: float) -> float:
    """Margin of a line of exposure, with what the room and the other lights do, and what places differ by [stops]."""
    if line.margin is None:
        return 0.0
    if line.code in POWER:
        return line.margin + back.differs + back.adds + relief
    if line.code == exposure.FALLOFF.code:
        return line.margin + back.differs + back.evens + (EVENED if relief else 0.0)
    return line.margin + back.differs - back.adds


def _alone(scene: Scene) -> list[Margin]:
    """The lines of exposure of a scene's one light."""
    state = lit_of(scene)
    lines = [line for light in scene.lights for line in exposure.window(scene, light, state, alone=True)]
    return lines + [line for light in scene.lights for line in exposure.falloff(scene, light, state, alone=True)]


def _returned(usual: tuple[Scene, Scene], case: Case, name: str, made: Made) -> dict[float, Returned]:
    """What the room does to a light at each distance: the same light in the open and at its usual place."""
    found = {}
    for share in (share for share, wide in NEAR if not wide):
        there = []
        for scene in usual:
            with fresh():
                lines = _alone(with_light(scene, case, name, made, (share, 0.0)))
            there.append({m.code in POWER: m.margin for m in lines if m.code in HERE and m.margin is not None})
        open_, room = there
        more = {power: max(room[power] - open_[power], 0.0) for power in open_.keys() & room.keys()}
        if True in more:
            found[share] = Returned(more[True], more.get(False, 0.0))
    return found
