"""Is a bare wall bare where the picture sees it? Code frame.opening."""

from collections.abc import Iterable, Iterator

import numpy as np

from evrant.core.base.estimate import Estimate, Share
from evrant.core.base.margins import Basis, Line, Margin, judge
from evrant.core.edits.language import SetFields, Shift
from evrant.core.judge.rules.rule import FRAMED, Proposal, SetRule
from evrant.core.space.framing import hits
from evrant.core.space.scene import Scene
from evrant.core.space.shares import picture_shares
from evrant.core.space.solids import Vector
from evrant.core.studio.gear import Backdrop
from evrant.core.studio.room import Door, Window, value
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say

OPENING = Line(
    "frame.opening",
    "The … beside the picture",
    "m",
    Basis(
        "edges of windows and doors of a bare wall lie outside of what the frame sees of it",
        "Plane geometry",
        "computed",
    ),
    asks="Does a window or door of the bare wall come into the picture?",
    step="set",
    search="placed",
    fails=True,
    goes=True,
)
MEANT = frozenset({"silhouette", "practicals"})
"""Patterns before a window, or of a room as it is."""
NEAR = 0.3
"""Openings farther outside of the picture than this have no line [m]."""
BESIDE = 0.02
"""What is moved clears the picture by so much more [m]."""
Opening = Window | Door


def margins(scene: Scene) -> Iterable[Margin]:
    """A line for each window and door of a bare wall that is in the picture, or near it."""
    if scene.overhead or scene.bare_wall is None or scene.shot.pattern in MEANT:
        return
    for path, opening in _on_wall(scene):
        gap = _gap(scene, opening)
        if gap is not None and gap < NEAR:
            yield _beside(scene, path, opening, gap)


def _on_wall(scene: Scene) -> Iterator[tuple[str, Opening]]:
    """Path and opening of every one of the wall that is the background."""
    assert scene.walls is not None and scene.bare_wall is not None
    wall = scene.room.edges(scene.walls.count)[scene.bare_wall].id
    for window in scene.room.windows:
        if window.wall == wall:
            yield f"room/windows/{window.id}", window
    for door in scene.room.doors:
        if door.wall == wall:
            yield f"room/doors/{door.id}", door


def _edges(scene: Scene, opening: Opening) -> tuple[float, float, float, float] | None:
    """Left and right of an opening as the camera sees them along the wall, its lower and upper edge [m]."""
    if scene.walls is None or scene.bare_wall is None or scene.line is None:
        return None
    if opening.offset is None or opening.width is None or opening.height is None:
        return None
    start, end = scene.walls.wall(scene.bare_wall)
    along = (end - start) / np.linalg.norm(end - start)
    spot, way = scene.line
    across = np.array([-way[1], way[0]])
    ends = [start + along * far for far in (opening.offset.value, opening.offset.value + opening.width.value)]
    places = sorted(float((one - spot) @ across) for one in ends)
    low = (value(opening.sill) or 0.0) if isinstance(opening, Window) else 0.0
    return places[0], places[1], low, low + opening.height.value


def _gap(scene: Scene, opening: Opening) -> float | None:
    """How far an opening lies outside of what the frame sees of the wall, below zero inside [m]."""
    seen = hits(scene.view, scene.line) if scene.view and scene.line else None
    edges = _edges(scene, opening)
    if seen is None or edges is None:
        return None
    left, right, low, high = edges
    sides = (left - float(seen[0].max()), float(seen[0].min()) - right)
    return max(*sides, low - float(seen[1].max()), float(seen[1].min()) - high)


def _beside(scene: Scene, path: str, opening: Opening, gap: float) -> Margin:
    edges, say, name = _edges(scene, opening), Say.of(scene.brief), opening.name.lower()
    assert edges is not None and scene.line is not None
    figures = (("place", opening.offset), ("width", opening.width), ("height", opening.height))
    own = tuple(Share(f"{word} of the {name}", figure.pm) for word, figure in figures if figure is not None)
    spot, way = scene.line
    middle = spot + np.array([-way[1], way[0]]) * (edges[0] + edges[1]) / 2
    inside = f"It reaches {say.length(-gap)} into what the frame sees of the wall."
    return judge(
        OPENING,
        (f"{scene.path}/background", path),
        Estimate(gap, (*picture_shares(scene, lambda one: _gap(one, opening)), *own)),
        title=f"The {name} beside the picture",
        need=0.0,
        have=gap,
        clear=f"The picture leaves out the {name}.",
        short=f"The picture shows the {name}.",
        reason=inside if gap < 0 else f"It ends {say.length(gap)} outside of what the frame sees of the wall.",
        at=(float(middle[0]), float(middle[1]), (edges[2] + edges[3]) / 2),
        placing=0.02,
    )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """The set moved along the wall to either side; a background of the kit before it."""
    if scene is None or scene.line is None or len(margin.about) < 2:
        return
    opening = next((one for path, one in _on_wall(scene) if path == margin.about[1]), None) if _bare(scene) else None
    seen, edges = hits(scene.view, scene.line) if scene.view else None, _edges(scene, opening) if opening else None
    if opening is None or seen is None or edges is None:
        return
    spare = (margin.uncertainty or 0.0) + BESIDE
    ways = sorted((edges[1] - float(seen[0].min()) + spare, edges[0] - float(seen[0].max()) - spare), key=abs)
    for far in ways:
        yield Proposal(f"Move the set {Say.of(scene.brief).short_by(far)} along the wall", _along(scene, far))
    spot = scene.line[0] + scene.line[1] * 0.1
    for item in studio.gear:
        if isinstance(item, Backdrop) and item.at_hand:
            fields = {"backdrop": item.id, "x": round(float(spot[0]), 3), "y": round(float(spot[1]), 3)}
            words = f"Hang the {item.called} before it"
            yield Proposal(words, SetFields(target=f"{scene.path}/background", fields=fields))


def _bare(scene: Scene) -> bool:
    return scene.bare_wall is not None and scene.walls is not None


def _along(scene: Scene, far: float) -> Shift:
    assert scene.line is not None
    way = scene.line[1]
    move: Vector = np.array([-way[1], way[0]]) * far
    return Shift(target=scene.path, dx=round(float(move[0]), 3), dy=round(float(move[1]), 3))


RULE = SetRule("openings", margins, (OPENING,), propose, reads=FRAMED, place_order=4)
