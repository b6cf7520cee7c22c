"""Tape marks: where things stand, measured square from two walls, with a diagonal to a corner as a check.

Two distances from two walls that are not parallel fix a place; the third, to a corner, shows a slip of the tape.
"""

import math
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from itertools import combinations

import numpy as np

from evrant.core.base.tables.supports import FEETLESS
from evrant.core.space.booms import pivot_of
from evrant.core.space.footprint import Plan
from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Points, Vector
from evrant.core.wiring.floor import fixed_blocks
from evrant.core.wiring.routes import clip

SQUARE_ENOUGH = 0.35
"""Sine of the angle between the two walls from which a place is well fixed."""
OUTSIDE = 0.15
"""A foot so far beyond a wall's end [m] cannot be measured from it."""
AGAINST = 0.02


@dataclass(frozen=True)
class FromWall:
    """A distance square to a wall [m], and where along the wall its foot lies."""

    wall: str
    index: int
    distance: float
    along: float


@dataclass(frozen=True)
class Mark:
    """A place on the floor: what stands there, two distances from walls, one to a corner, and the place itself [m]."""

    key: str
    what: str
    at: tuple[float, float]
    first: FromWall
    second: FromWall
    corner: str
    corner_at: tuple[float, float]
    diagonal: float


def marks(scene: Scene) -> list[Mark]:
    """Every place of a set that is taped on the floor, in the order it is set out. None without a room."""
    walls = scene.walls
    if walls is None:
        return []
    names = [wall.name for wall in scene.room.edges(walls.count)]
    bars = [block.outline for block in fixed_blocks(scene) if block.path.startswith("room/boxes")]
    found = []
    for key, what, spot in _places(scene):
        if walls.contains(spot[None])[0]:
            mark = _mark(walls, names, bars, key, what, spot)
            if mark is not None:
                found.append(mark)
    return found


def _places(scene: Scene) -> Iterator[tuple[str, str, Vector]]:
    """What is marked: key, name, place."""
    ends = scene.background_ends
    if ends is not None and scene.bare_wall is None:
        for side, end in zip(("left", "right"), ends, strict=True):
            yield f"background-{side}", f"background, its {side} end seen from the camera", np.asarray(end)[:2]
    if scene.mark is not None:
        yield "mark", "the mark: where the subject stands", scene.mark
    if scene.camera_spot is not None and not scene.overhead:
        yield "camera", "camera: under the front of the lens", scene.camera_spot
    for place in scene.plan.props:
        item = scene.gear.get(place.item or "")
        if item is not None and place.x is not None and place.y is not None and place.height is None:
            yield f"prop-{place.id}", f"{item.called}, its middle", np.array([place.x, place.y])
    for light in scene.lights:
        foot = foot_of(light)
        if foot is not None:
            yield f"light-{light.place.id}", f"{light.name}: under the column of its stand", foot


def foot_of(light: Light) -> Vector | None:
    """Where the column of a light's stand meets the floor; None where nothing stands."""
    pivot = pivot_of(light)
    if light.stand is None or pivot is None or light.stand.use in FEETLESS:
        return None
    return np.asarray(pivot[:2])


def _mark(walls: Plan, names: list[str], bars: list[Points], key: str, what: str, spot: Vector) -> Mark | None:
    sides = [_from(walls, names, index, spot) for index in range(walls.count)]
    usable = [one for one in sides if one is not None]
    best = None
    for a, b in combinations(usable, 2):
        one, other = walls.inward(a.index), walls.inward(b.index)
        turn = abs(float(one[0] * other[1] - one[1] * other[0]))
        if turn < SQUARE_ENOUGH:
            continue
        barred = sum(_barred(walls, way, spot, bars) for way in (a, b))
        rank = (barred, a.distance + b.distance)
        if best is None or rank < best[0]:
            best = rank, a, b
    if best is None:
        return None
    far = np.linalg.norm(walls.corners - spot, axis=1)
    order = sorted(range(walls.count), key=lambda i: (_cut(walls.corners[i], spot, bars), float(far[i])))
    corner = order[0]
    x, y = (float(v) for v in spot)
    at = walls.corners[corner]
    return Mark(
        key, what, (x, y), best[1], best[2], corner_name(corner), (float(at[0]), float(at[1])), float(far[corner])
    )


def corner_name(index: int) -> str:
    """Corners are called by letters in turn: A, B, C …"""
    return chr(ord("A") + index) if index < 26 else f"A{index - 25}"


def _from(walls: Plan, names: list[str], index: int, spot: Vector) -> FromWall | None:
    start, end = walls.wall(index)
    long = float(np.linalg.norm(end - start))
    if long < 0.3:
        return None
    way = (end - start) / long
    along = float((spot - start) @ way)
    distance = float((spot - start) @ walls.inward(index))
    if not -OUTSIDE <= along <= long + OUTSIDE or distance < -1e-6:
        return None
    return FromWall(names[index], index, max(distance, 0.0), along)


def _barred(walls: Plan, one: FromWall, spot: Vector, bars: list[Points]) -> bool:
    """Whether the tape from the wall would run through furniture or another wall."""
    foot = spot - walls.inward(one.index) * max(one.distance - AGAINST, 0.0)
    return _cut(foot, spot, bars) or not bool(walls.contains((foot[None] + spot[None]) / 2)[0])


def _cut(start: Vector, end: Vector, bars: Iterable[Points]) -> bool:
    return any(clip(start, end, outline) is not None for outline in bars)


def clock(scene: Scene, spot: Vector) -> int | None:
    """Where a place lies seen from the mark, as hours of a clock whose twelve points to the camera."""
    if scene.mark is None or scene.axis is None:
        return None
    way = np.asarray(spot)[:2] - scene.mark
    if float(np.linalg.norm(way)) < 0.05:
        return None
    turn = math.degrees(math.atan2(way[1], way[0]) - math.atan2(scene.axis[1], scene.axis[0]))
    hour = round(-turn / 30) % 12
    return hour or 12
