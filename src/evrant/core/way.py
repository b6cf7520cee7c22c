"""The way out of a room: the widest path from a place on the floor to a door.

Clearances are taken on a grid; the widest path and its narrowest place are found there (a maximin path
by connected components); the width of that place is then taken exactly, between the two things that
leave it.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from evrant.core.footprint import Plan
from evrant.core.memo import Memo
from evrant.core.solids import Points, Vector, plan_hull
from evrant.core.things import Thing

CELL = 0.05
SHOULDERS = (0.05, 1.85)
"""Heights between which a body is in a walking person's way [m]."""
Field = NDArray[np.float64]
_FIELDS: Memo[Field] = Memo(24_000_000, lambda field: 200 + field.nbytes)


@dataclass(frozen=True, eq=False)
class Obstacle:
    """What bounds a way on the plan: a convex outline of a thing's part, or a piece of wall."""

    name: str
    points: Points
    thing: Thing | None
    part: int


@dataclass(frozen=True)
class Narrow:
    """The narrowest place of the widest way [m]: where, between which two, and their nearest points."""

    width: float
    at: tuple[float, float]
    first: Obstacle
    second: Obstacle
    way: Vector


def obstacles(things: Iterable[Thing]) -> list[Obstacle]:
    """Parts of things that stand in a walking person's way."""
    found = []
    for thing in things:
        for number, part in enumerate(thing.parts):
            low, high = float(part.solid[:, 2].min()), float(part.solid[:, 2].max())
            if high > SHOULDERS[0] and low < SHOULDERS[1]:
                found.append(Obstacle(thing.name, part.solid, thing, number))
    return found


def wall_pieces(walls: Plan, names: Sequence[str], gaps: Sequence[tuple[int, Vector, Vector]]) -> list[Obstacle]:
    """The walls as pieces, with the openings (wall number, from, to) left out."""
    found = []
    for index in range(walls.count):
        start, end = walls.wall(index)
        along = (end - start) / np.linalg.norm(end - start)
        cuts = sorted(
            (float(min((a - start) @ along, (b - start) @ along)), float(max((a - start) @ along, (b - start) @ along)))
            for wall, a, b in gaps
            if wall == index
        )
        here = 0.0
        for low, high in [*cuts, (float(np.linalg.norm(end - start)), np.inf)]:
            if low - here > 0.01:
                ends = np.array([[*(start + along * here), 0.0], [*(start + along * low), 0.0]])
                found.append(Obstacle(names[index], ends, None, index))
            here = high
    return found


def _polygon(points: Points) -> Points:
    """Counter-clockwise outline (n, 2) of a part seen from above."""
    hull = plan_hull(points)[:, :2]
    middle = hull.mean(axis=0)
    order = np.argsort(np.arctan2(hull[:, 1] - middle[1], hull[:, 0] - middle[0]))
    return np.asarray(hull[order])


def distances(outline: Points, spots: Points) -> NDArray[np.float64]:
    """Distance of spots (n, 2) to a convex outline, 0 inside [m]."""
    a, b = outline, np.roll(outline, -1, axis=0)
    edge = b - a
    long = (edge**2).sum(axis=1)
    keep = long > 1e-12
    a, edge, long = a[keep], edge[keep], long[keep]
    offset = spots[:, None, :] - a[None]
    t = np.clip((offset * edge).sum(axis=2) / long, 0, 1)
    gap = np.sqrt(((offset - t[..., None] * edge) ** 2).sum(axis=2)).min(axis=1)
    if len(outline) > 2:
        inside = (edge[:, 0] * offset[..., 1] - edge[:, 1] * offset[..., 0] >= 0).all(axis=1)
        gap[inside] = 0.0
    return np.asarray(gap)


def _grid(walls: Plan) -> tuple[Points, tuple[int, int], Vector]:
    low, high = walls.corners.min(axis=0), walls.corners.max(axis=0)
    count = np.maximum(np.ceil((high - low) / CELL).astype(int), 1)
    step = (high - low) / count
    xs = low[0] + (np.arange(count[0]) + 0.5) * step[0]
    ys = low[1] + (np.arange(count[1]) + 0.5) * step[1]
    spots = np.stack(np.meshgrid(xs, ys, indexing="ij"), axis=-1).reshape(-1, 2)
    return spots, (int(count[0]), int(count[1])), step


def narrowest(walls: Plan, blocks: Sequence[Obstacle], start: Vector, exits: Sequence[Vector]) -> Narrow | None:
    """The narrowest place of the widest way from `start` to any exit; None when start or exits are closed in.

    Width 0 where there is no way at all is told by a narrow place of width 0 or less.
    """
    spots, shape, step = _grid(walls)
    if not exits or not blocks:
        return None
    fields = [_field(walls, block, spots) for block in blocks]
    room = np.min(fields, axis=0)
    room[~walls.contains(spots)] = 0.0
    begin = _cell(start, walls, shape, step)
    ends = [_cell(spot, walls, shape, step) for spot in exits]
    free = room.reshape(shape)
    level = _widest(free, begin, ends)
    place = (
        int(np.abs(np.where(room > 0, room, np.inf) - level).argmin())
        if level > 0
        else int(begin[0] * shape[1] + begin[1])
    )
    return _exact(blocks, fields, place, spots[place], level)


def _field(walls: Plan, block: Obstacle, spots: Points) -> Field:
    key = tuple(float(v) for v in (*walls.corners.min(axis=0), *walls.corners.max(axis=0)))
    if block.thing is None:
        return distances(block.points[:, :2], spots)
    solid = block.points
    return _FIELDS.get(f"{key}", (solid,), lambda: distances(_polygon(solid), spots))


def _cell(spot: Vector, walls: Plan, shape: tuple[int, int], step: Vector) -> tuple[int, int]:
    at = np.floor((spot - walls.corners.min(axis=0)) / step + 1e-9).astype(int)
    return int(np.clip(at[0], 0, shape[0] - 1)), int(np.clip(at[1], 0, shape[1] - 1))


def _widest(free: Field, begin: tuple[int, int], ends: Sequence[tuple[int, int]]) -> float:
    """Greatest clearance at which start and an exit are still joined; both count as free themselves."""
    levels = np.unique(free[free > 0])
    low, high = 0, len(levels)
    eight = np.ones((3, 3), dtype=int)

    def joined(level: float) -> bool:
        open_ = free >= level
        _clear(open_, free, begin)
        for end in ends:
            _clear(open_, free, end)
        labels, _ = ndimage.label(open_, structure=eight)
        return any(labels[end] == labels[begin] for end in ends)

    while low < high:
        middle = (low + high) // 2
        if joined(float(levels[middle])):
            low = middle + 1
        else:
            high = middle
    return float(levels[low - 1]) if low else 0.0


def _clear(open_: NDArray[np.bool_], free: Field, cell: tuple[int, int]) -> None:
    """Whoever stands somewhere takes the room there is, and does not need more."""
    reach = max(round(0.30 / CELL), 1)
    x, y = cell
    block = (slice(max(x - reach, 0), x + reach + 1), slice(max(y - reach, 0), y + reach + 1))
    open_[block] |= free[block] > 0
    open_[cell] = True


def _exact(blocks: Sequence[Obstacle], fields: list[Field], place: int, spot: Vector, level: float) -> Narrow | None:
    """The two things on either side of the narrow place, and the gap between them."""
    order = sorted(range(len(blocks)), key=lambda i: float(fields[i][place]))
    first = blocks[order[0]]
    near = _nearest_on(first, spot)
    away = spot - near
    for index in order[1:]:
        other = _nearest_on(blocks[index], spot)
        if float((other - spot) @ away) > 0 or float(np.linalg.norm(away)) < 1e-9:
            gap = other - near
            width = float(np.linalg.norm(gap))
            if width > 4 * level + 0.3 and level > 0:
                break
            way = gap / width if width > 1e-9 else np.array([1.0, 0.0])
            middle = (near + other) / 2
            return Narrow(
                _gap(first, blocks[index], way), (float(middle[0]), float(middle[1])), first, blocks[index], way
            )
    width = 2 * float(fields[order[0]][place])
    return Narrow(width, (float(spot[0]), float(spot[1])), first, first, np.array([1.0, 0.0]))


def _nearest_on(block: Obstacle, spot: Vector) -> Vector:
    outline = _polygon(block.points) if block.thing is not None else block.points[:, :2]
    a, b = outline, np.roll(outline, -1, axis=0)
    edge = b - a
    long = np.maximum((edge**2).sum(axis=1), 1e-12)
    t = np.clip(((spot - a) * edge).sum(axis=1) / long, 0, 1)
    points = a + t[:, None] * edge
    return np.asarray(points[int(((points - spot) ** 2).sum(axis=1).argmin())])


def _gap(first: Obstacle, second: Obstacle, way: Vector) -> float:
    """Gap between two outlines along a direction [m]."""
    return float((second.points[:, :2] @ way).min() - (first.points[:, :2] @ way).max())
