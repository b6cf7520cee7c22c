"""The hazards of a set that really apply: each with its cause, its margins, the caution, and what to do.

A hazard has a cause that was computed from the set or declared in the brief; where there is no cause there is no
hazard. Its margins may all be Clear: the hazard is there all the same, and its caution stays.
"""

from collections.abc import Callable, Iterable
from dataclasses import dataclass

import numpy as np

from evrant.core.base.margins import Margin, Verdict
from evrant.core.base.tables.holders import HOLDERS
from evrant.core.base.tables.supports import FEETLESS
from evrant.core.base.units import show_number
from evrant.core.mechanics.supports import Standing, all_standing, demand_of, friction_of, over_people
from evrant.core.space.booms import boom_out
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import Flash, Lamp
from evrant.core.studio.shots import LIVING
from evrant.core.studio.words import Say
from evrant.core.wiring.feeds import fed
from evrant.core.wiring.loads import hot_watts


@dataclass(frozen=True)
class Hazard:
    """One danger of a set: its name, what causes it here, lines of the ledger about it (worst first), what to
    beware of, and what to do."""

    name: str
    cause: str
    lines: tuple[Margin, ...]
    caution: str
    do: str

    @property
    def verdict(self) -> Verdict | None:
        """The worst verdict among its lines; None when nothing was computed for it."""
        order = list(Verdict)
        return min((line.verdict for line in self.lines), key=order.index, default=None)


@dataclass(frozen=True)
class _Kind:
    """A kind of hazard: its name (which lines declare as theirs), where its cause is found, caution, what to do."""

    name: str
    cause: Callable[[Scene], str | None]
    caution: str
    do: str


NOTICES = (
    "Local codes and the makers' instructions decide, not this sheet.",
    "Whatever is wired into the building is a licensed electrician's work; whatever is screwed into walls or "
    "ceiling, a builder's.",
    "A plan that reads Clear is no approval: look, shake and test before anybody stands under or near it.",
)


def _named(words: list[str]) -> str | None:
    if not words:
        return None
    text = ", ".join(words)
    return text[:1].upper() + text[1:] + "."


def _stands(scene: Scene) -> str | None:
    found = []
    for path, made in all_standing(scene):
        if isinstance(made, Standing):
            angle = float(made.stability(friction_of(scene)).angle)
            found.append(f"{made.name} tips at {angle:.0f}° (wanted {demand_of(scene, made).angle:.0f}°)")
        else:
            name = path.split("/")[-1] if "/lights/" not in path else _light_name(scene, path)
            found.append(f"{name}: {made.words[:1].lower()}{made.words[1:].rstrip('.')}")
    for light in scene.lights:
        if light.stand is not None and light.stand.use in FEETLESS:
            found.append(f"the {light.name} hangs on the {light.stand.called}")
    return _named(found)


def _light_name(scene: Scene, path: str) -> str:
    return next((light.name for light in scene.lights if light.path == path), "light")


def _overhead(scene: Scene) -> str | None:
    found = []
    for light in scene.lights:
        if light.mount is None or light.stand is None:
            continue
        plain = light.stand.use in ("light stand", "floor stand", "rolling stand") and boom_out(light) is None
        if not plain and float(light.mount[2]) > 1.2 and over_people(scene, light.mount):
            found.append(f"the {light.name} hangs over people at {Say.of(scene.brief).length(float(light.mount[2]))}")
    if scene.overhead and scene.eye is not None:
        found.append("the camera hangs over the set")
    kind = HOLDERS.get(scene.holder.system or "") if scene.holder else None
    ends = scene.background_ends
    if kind is not None and kind.hangs_from in ("two walls", "wall", "ceiling", "door") and ends is not None:
        spots = (*(np.asarray(end) for end in ends), np.asarray(ends[0] + ends[1]) / 2)
        if any(over_people(scene, spot) for spot in spots):
            found.append("the background hangs over people")
    return _named(found)


def _trips(scene: Scene) -> str | None:
    say, found = Say.of(scene.brief), []
    for one in fed(scene):
        if one.found is not None and one.found.route.open > 0.2:
            words = f"the lead of the {one.light.name} lies {say.length(one.found.route.open)} over open floor"
            if one.found.crossing > 0.01:
                words += f", {say.length(one.found.crossing)} of it where people walk"
            found.append(words)
    return _named(found)


def _electric(scene: Scene) -> str | None:
    names = [f"the {one.light.name}" for one in fed(scene)]
    return _named([f"{' and '.join(names)} {'is' if len(names) == 1 else 'are'} fed by the mains"]) if names else None


def _hot(scene: Scene) -> str | None:
    found = []
    for light in scene.lights:
        hot = hot_watts(light.head) if isinstance(light.head, (Flash, Lamp)) else None
        if hot is not None and hot[0].value * hot[1] > 20:
            found.append(f"the {light.name} burns {show_number(hot[0].value, 0)} W")
    return _named(found)


def _wet(scene: Scene) -> str | None:
    wet = [box.name.lower() for box in scene.boxes if box.kind == "sink or tap"]
    return _named([f"{' and '.join(wet)} in the room, mains in use"]) if wet and fed(scene) else None


def _ladder(scene: Scene) -> str | None:
    kind = HOLDERS.get(scene.holder.system or "") if scene.holder else None
    height = scene.plan.background.height
    setter = scene.brief.setter
    if kind is None or height is None or kind.hangs_from in ("floor", "itself", "table"):
        return None
    if setter is not None and height + 0.15 <= 1.19 * setter.value:
        return None
    return f"The background is hung at {Say.of(scene.brief).length(height)}, above reach from the floor."


def _way_out(scene: Scene) -> str | None:
    return "The set stands between people and the door." if scene.room.doors and scene.things else None


def _eyes(scene: Scene) -> str | None:
    found: list[str] = []
    if not any(subject.kind in LIVING for subject in scene.shot.subjects):
        return None
    for light in scene.lights:
        if light.head is not None and light.modifier is None and scene.face is not None and light.at is not None:
            if light.place.role in ("background light", "practical", "under-light"):
                continue
            far = float(np.linalg.norm(light.at - scene.face))
            if far < 2.0:
                found.append(f"the {light.name} shines bare into the face from {Say.of(scene.brief).length(far)}")
    return _named(found)


KINDS = (
    _Kind(
        "Tipping and falling",
        _stands,
        "A stand goes over the edge between two legs; a light or a roll that falls hurts people and animals.",
        "A leg under the load, the bag where the drawing shows it, locks tight; nobody lifts a stand by its light.",
    ),
    _Kind(
        "Load overhead",
        _overhead,
        "What hangs over people must hold several times what it carries.",
        "A second hold that catches it (wire or chain), and nobody under it while it is moved.",
    ),
    _Kind(
        "Tripping",
        _trips,
        "A lead across open floor pulls a stand over when somebody's foot finds it.",
        "Along the walls first, taped or under a cover where people walk, a loop at the foot of the stand.",
    ),
    _Kind(
        "Electrical overload",
        _electric,
        "Too much on a lead, a socket or a breaker heats it before anything trips.",
        "One lead at a time, drums rolled out, heaters off for pictures; an electrician for sockets that get warm.",
    ),
    _Kind(
        "Heat and fire",
        _hot,
        "Lamps burn skin, and set fire to cloth and paper that touches them.",
        "Off when nobody is in the room, cooled before packing, nothing draped over them.",
    ),
    _Kind(
        "Water",
        _wet,
        "Water and mains together kill.",
        "Only protected sockets, nothing electrical within reach of the tap, dry hands.",
    ),
    _Kind(
        "Climbing",
        _ladder,
        "People fall from stools, beds and chairs while they hang backgrounds.",
        "A proper step ladder, a second person who holds it and hands things up.",
    ),
    _Kind(
        "Way out",
        _way_out,
        "In smoke or panic a narrow way between stands is no way.",
        "Keep the way to the door free from end to end, the door opening fully.",
    ),
    _Kind(
        "Eyes",
        _eyes,
        "Bare lamps and flashes near the face dazzle; some people and animals bear no flashing at all.",
        "Tell people before it flashes, start at low power, never aim a bare lamp at the eyes of children or animals.",
    ),
)


def hazards(scene: Scene, lines: Iterable[Margin]) -> tuple[Hazard, ...]:
    """Hazards of a set in the order of their worst line, from the ledger's lines of it and of the studio."""
    known = list(lines)
    found = []
    for kind in KINDS:
        cause = kind.cause(scene)
        if cause is None:
            continue
        mine = [line for line in known if kind.name in line.line.hazards and _concerns(scene, line)]
        found.append(Hazard(kind.name, cause, tuple(sorted(mine, key=Margin.order)), kind.caution, kind.do))
    order = list(Verdict)
    return tuple(sorted(found, key=lambda h: order.index(h.verdict) if h.verdict is not None else len(order)))


def _concerns(scene: Scene, line: Margin) -> bool:
    """Whether a line is about this set: one of its own, or a studio's that names something of it."""
    return any(path == scene.path or path.startswith(f"{scene.path}/") for path in line.about)
