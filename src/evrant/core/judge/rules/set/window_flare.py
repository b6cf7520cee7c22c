"""Does a window shine into the lens? Code frame.window_flare."""

import math
from collections.abc import Iterable, Iterator

import numpy as np

from evrant.core.base.estimate import Estimate
from evrant.core.base.margins import Basis, Line, Margin, judge
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import GEOMETRY, Proposal, SetRule
from evrant.core.judge.rules.set.flare import HOOD
from evrant.core.light.surroundings import lets_in, window_face
from evrant.core.place.patterns import apart
from evrant.core.space.framing import View
from evrant.core.space.scene import Scene
from evrant.core.space.shares import picture_shares
from evrant.core.space.solids import Points, Vector, bar, separation, unit
from evrant.core.studio.room import Window
from evrant.core.studio.studio import Studio, by_id

WINDOW = Line(
    "frame.window_flare",
    "Flare from the …",
    "°",
    Basis(
        "angle from the lens axis to the nearest glass that the lens sees ≥ half the picture's diagonal + 20° of hood",
        "Plane trigonometry; the hood is common practice, no source",
        "common practice",
    ),
    asks="Does a window shine into the lens?",
    step="set",
    goes=True,
)
BRIGHT = 0.2
"""A window that lets less than this share in is a light surface like others; project choice."""
ACROSS, UP = 7, 5
"""So many points of the glass are looked at."""
SEEN_PAST = frozenset({"camera", "operator", "door"})
"""Kinds of things that take no light off the lens."""


def margins(scene: Scene) -> Iterable[Margin]:
    """A line for each window by day that the lens sees beside its picture, or in it."""
    if "daylight" not in scene.shot.around or scene.shot.pattern == "silhouette" or scene.walls is None:
        return
    for window in scene.room.windows:
        spare = _spare(scene, window)
        if spare is not None and spare < 0:
            yield _shines(scene, window, spare)


def _spare(scene: Scene, window: Window) -> float | None:
    """How far the nearest glass that the lens sees lies outside of what its hood lets in [degrees]; None where it sees
    none."""
    view = scene.view
    glass = window_face(scene.walls, scene.room, window) if scene.walls is not None else None
    if view is None or glass is None or window.blackout == "in place" or lets_in(window) < BRIGHT:
        return None
    cut = math.degrees(math.atan(math.hypot(view.across, view.upward) / 2 / view.image)) + HOOD
    for angle, spot in sorted(_angles(view, glass), key=lambda one: one[0]):
        if angle >= cut or not _hidden(scene, view.eye, spot):
            return angle - cut
    return None


def _angles(view: View, glass: Points) -> Iterator[tuple[float, Vector]]:
    """Points of the glass with how far each lies off the lens axis [degrees]."""
    base, along, high = glass[0], glass[1] - glass[0], glass[3] - glass[0]
    for across in np.linspace(0.02, 0.98, ACROSS):
        for up in np.linspace(0.02, 0.98, UP):
            spot = base + along * across + high * up
            yield apart(view.forward, unit(spot - view.eye)), spot


def _hidden(scene: Scene, eye: Vector, spot: Vector) -> bool:
    sight = bar(spot, eye, 0.005, 6)
    things = (thing for thing in scene.around if thing.kind not in SEEN_PAST)
    return any(separation(sight, part.solid)[0] < 0 for thing in things for part in thing.parts)


def _shines(scene: Scene, window: Window, spare: float) -> Margin:
    view, glass = scene.view, window_face(scene.walls, scene.room, window) if scene.walls is not None else None
    assert view is not None and glass is not None
    cut = math.degrees(math.atan(math.hypot(view.across, view.upward) / 2 / view.image)) + HOOD
    name, middle = window.name.lower(), glass.mean(axis=0)
    return judge(
        WINDOW,
        (f"room/windows/{window.id}", f"{scene.path}/camera"),
        Estimate(spare, picture_shares(scene, lambda one: _spare(one, window))),
        title=f"Flare from the {name}",
        need=cut,
        have=cut + spare,
        clear=f"The {name} does not shine into the lens.",
        short=f"The {name} shines into the lens.",
        reason=f"Its glass begins {cut + spare:.0f}° from the lens axis; a hood keeps out what is beyond "
        f"{cut:.0f}°. Put something dark between them, just outside the picture, or turn the set.",
        at=(float(middle[0]), float(middle[1]), float(middle[2])),
        placing=2.0,
    )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Blacked out, or a heavy curtain drawn, where it is not what lights the picture."""
    window = by_id(studio.room.windows, margin.about[0].rsplit("/", 1)[-1])
    if scene is None or window is None:
        return
    if scene.lights or len(studio.room.windows) > 1:
        fields = {"blackout": "in place"}
        yield Proposal(f"Black out the {window.name.lower()}", SetFields(target=margin.about[0], fields=fields))
        drawn = {"cover": "heavy curtain", "lets_in": None}
        words = f"Draw a heavy curtain before the {window.name.lower()}"
        yield Proposal(words, SetFields(target=margin.about[0], fields=drawn))


RULE = SetRule("window flare", margins, (WINDOW,), propose, reads=GEOMETRY)
