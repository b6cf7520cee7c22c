"""Does a window shine into the lens? Code frame.window_flare."""

from collections.abc import Iterable

import numpy as np

from evrant.core.base.estimate import Estimate, Share
from evrant.core.base.margins import Basis, Line, Margin, judge
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import GEOMETRY, Proposal, SetRule
from evrant.core.light.surroundings import lets_in, points_on, window_face
from evrant.core.space.scene import Scene
from evrant.core.space.shares import picture_shares
from evrant.core.space.solids import Points, Vector, bar, separation
from evrant.core.studio.room import Window
from evrant.core.studio.studio import Studio, by_id

WINDOW = Line(
    "frame.window_flare",
    "Flare from the …",
    "°",
    Basis(
        "angle from the lens axis to the nearest glass that the lens sees ≥ half the picture's diagonal + 10° ± 5° "
        "of hood",
        "Plane trigonometry; a window is less bright than a lamp, so that less of a hood keeps it out: common "
        "practice, no source",
        "common practice",
    ),
    asks="Does a window shine into the lens?",
    step="set",
    goes=True,
)
HOOD, UNSURE = 10.0, 5.0
"""How far outside of the picture a window no longer veils it, and how sure that is [degrees]; common practice, no
source."""
BRIGHT = 0.2
"""A window that lets less than this share in is a light surface like others; project choice."""
ACROSS, UP = 13, 9
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
    cut = view.half_diagonal + HOOD
    spots = _spots(scene, glass)
    rays = spots - view.eye
    angles = np.degrees(np.arccos(np.clip(rays @ view.forward / np.linalg.norm(rays, axis=1), -1.0, 1.0)))
    for number in np.argsort(angles):
        angle = float(angles[number])
        if angle >= cut or not _hidden(scene, view.eye, spots[number]):
            return angle - cut
    return None


def _spots(scene: Scene, glass: Points) -> Points:
    """Points of the glass (n, 3) that no background hangs before."""
    spots = points_on(glass, np.linspace(0.01, 0.99, ACROSS), np.linspace(0.01, 0.99, UP))
    ends, high, line = scene.background_ends, scene.plan.background.height, scene.line
    if scene.eye is None or ends is None or line is None or high is None or scene.bare_wall is not None:
        return np.asarray(spots)
    spot, way = line
    before, behind = float((scene.eye[:2] - spot) @ way), (spots[:, :2] - spot) @ way
    part = before / np.where(np.abs(before - behind) < 1e-9, 1e-9, before - behind)
    there = scene.eye + (spots - scene.eye) * part[:, None]
    along = (there[:, :2] - spot) @ np.array([-way[1], way[0]])
    sides = sorted(float((end - spot) @ np.array([-way[1], way[0]])) for end in ends)
    hidden = (behind < 0) & (along >= sides[0]) & (along <= sides[1])
    return np.asarray(spots[~(hidden & (there[:, 2] >= scene.lowest_edge) & (there[:, 2] <= high))])


def _hidden(scene: Scene, eye: Vector, spot: Vector) -> bool:
    sight = bar(spot, eye, 0.005, 6)
    things = (thing for thing in scene.around if thing.kind not in SEEN_PAST)
    return any(separation(sight, part.solid)[0] < 0 for thing in things for part in thing.parts)


def _shines(scene: Scene, window: Window, spare: float) -> Margin:
    view, glass = scene.view, window_face(scene.walls, scene.room, window) if scene.walls is not None else None
    assert view is not None and glass is not None
    cut = view.half_diagonal + HOOD
    name, middle = window.name.lower(), glass.mean(axis=0)
    return judge(
        WINDOW,
        (f"{scene.path}/camera", f"room/windows/{window.id}"),
        Estimate(spare, (*picture_shares(scene, lambda one: _spare(one, window)), Share("hood of the lens", UNSURE))),
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
    path = margin.about[-1]
    window = by_id(studio.room.windows, path.rsplit("/", 1)[-1])
    if scene is None or window is None:
        return
    if scene.lights or len(studio.room.windows) > 1:
        fields = {"blackout": "in place"}
        yield Proposal(f"Black out the {window.name.lower()}", SetFields(target=path, fields=fields))
        drawn = {"cover": "heavy curtain", "lets_in": None}
        words = f"Draw a heavy curtain before the {window.name.lower()}"
        yield Proposal(words, SetFields(target=path, fields=drawn))


RULE = SetRule("window flare", margins, (WINDOW,), propose, reads=GEOMETRY)
