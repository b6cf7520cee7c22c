"""Plan and sections as plain lines and words in metres: what the true-scale files are written from."""

from dataclasses import dataclass, field
from typing import Literal

import numpy as np

from evrant.core.space.footprint import first_wall
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Points, Vector, hull
from evrant.core.space.things import Thing, door_place
from evrant.core.studio.words import Say

Layer = Literal["walls", "openings", "furniture", "set", "lights", "subject", "marks", "words"]
View = Literal["plan", "section along the lens", "section facing the background"]
LAYERS: dict[str, Layer] = {
    "box": "furniture",
    "light": "lights",
    "subject": "subject",
    "zone": "furniture",
    "door": "openings",
}


@dataclass(frozen=True)
class Stroke:
    """A line through points (n, 2) [m], closed or not."""

    layer: Layer
    points: Points
    closed: bool = True


@dataclass(frozen=True)
class Word:
    """Text at a place [m]."""

    at: tuple[float, float]
    text: str


@dataclass
class Strokes:
    """One view: its name, lines and words, and its size [m]."""

    name: View
    lines: list[Stroke] = field(default_factory=list)
    words: list[Word] = field(default_factory=list)

    @property
    def size(self) -> tuple[Vector, Vector]:
        """Low and high corner of all lines."""
        points = np.vstack([line.points for line in self.lines])
        return points.min(axis=0), points.max(axis=0)


def views(scene: Scene) -> tuple[Strokes, ...]:
    """Plan and both sections of a set (of a bare room: plan, and sections along and across wall A–B)."""
    if scene.walls is None:
        return ()
    axis = scene.axis if scene.axis is not None else np.array([1.0, 0.0])
    along, side = np.array([*axis, 0.0]), np.array([-axis[1], axis[0], 0.0])
    up = np.array([0.0, 0.0, 1.0])
    plan = _view("plan", scene, np.array([1.0, 0, 0]), np.array([0, 1.0, 0]))
    _openings(plan, scene)
    return (
        plan,
        _section("section along the lens", scene, along, up),
        _section("section facing the background", scene, side, up),
    )


def _view(name: View, scene: Scene, across: Vector, up: Vector) -> Strokes:
    assert scene.walls is not None
    found = Strokes(name)
    found.lines.append(Stroke("walls", scene.walls.corners))
    names = scene.room.edges(scene.walls.count)
    say = Say.of(scene.brief)
    for i in range(scene.walls.count):
        start, end = scene.walls.wall(i)
        middle = (start + end) / 2 + scene.walls.inward(i) * 0.08
        long = say.length(float(np.linalg.norm(end - start)))
        found.words.append(Word((float(middle[0]), float(middle[1])), f"{names[i].name}, {long}"))
    _things(found, scene, across, up)
    if scene.mark is not None:
        x, y = (float(v) for v in scene.mark)
        for a, b in (((x - 0.1, y), (x + 0.1, y)), ((x, y - 0.1), (x, y + 0.1))):
            found.lines.append(Stroke("marks", np.array([a, b]), closed=False))
    return found


def _section(name: View, scene: Scene, across: Vector, up: Vector) -> Strokes:
    """The room's outline as it is cut through the mark, under its true ceiling."""
    found = Strokes(name)
    profile = room_profile(scene, across)
    if profile is not None:
        found.lines.append(Stroke("walls", profile))
    _things(found, scene, across, up)
    return found


def room_profile(scene: Scene, across: Vector, steps: int = 80) -> Points | None:
    """Outline (n, 2) of the room cut through the mark along a level direction: floor, walls, ceiling [m]."""
    if scene.walls is None:
        return None
    flat = across[:2]
    corners = scene.walls.corners
    at = scene.mark if scene.mark is not None and scene.walls.contains(scene.mark[None])[0] else None
    if at is None:
        at = np.asarray(corners.mean(axis=0))
    ends = []
    for sign in (-1.0, 1.0):
        hit = first_wall(scene.walls, at, flat * sign)
        ends.append(float(at @ flat) + sign * (hit[0] if hit else 0.0))
    places = np.linspace(ends[0], ends[1], steps)
    spots = at + (places - float(at @ flat))[:, None] * flat
    if scene.ceiling is None:
        heights = np.full(steps, scene.room.height.value if scene.room.height else 2.5)
    else:
        heights = scene.ceiling.heights(spots)
    top = np.column_stack([places, heights])[::-1]
    return np.vstack([[[ends[0], 0.0], [ends[1], 0.0]], top])


def _things(found: Strokes, scene: Scene, across: Vector, up: Vector) -> None:
    turn = np.column_stack([across, up])
    for thing in scene.things:
        if thing.kind in ("operator", "door") and (found.name != "plan" or thing.kind == "operator"):
            continue
        for part in thing.parts:
            found.lines.append(Stroke(LAYERS.get(thing.kind, "set"), hull(part.solid @ turn)[:-1]))
        found.words.append(_name(thing, turn))


def _name(thing: Thing, turn: Points) -> Word:
    x, y = (thing.cloud @ turn).mean(axis=0)
    return Word((float(x), float(y)), thing.name)


def _openings(found: Strokes, scene: Scene) -> None:
    for door in scene.room.doors:
        place = door_place(scene.room, scene.walls, door)
        if place is not None:
            found.lines.append(Stroke("openings", np.array(place[:2]), closed=False))
    names = [wall.id for wall in scene.room.edges(scene.walls.count)] if scene.walls else []
    for window in scene.room.windows:
        if scene.walls is None or window.wall not in names or window.offset is None or window.width is None:
            continue
        start, end = scene.walls.wall(names.index(window.wall))
        way = (end - start) / np.linalg.norm(end - start)
        first = start + way * window.offset.value
        found.lines.append(Stroke("openings", np.array([first, first + way * window.width.value]), closed=False))
