"""The way out of a room: the widest path from a place on the floor to a door.

A disc of width w passes between two convex outlines when their gap is at least w. So all gaps between
neighbours are found exactly; those below a width are closed by a bar between their nearest points, and a
grid only tells whether start and door are still joined (4-connected floor against 8-connected bars). The
gap whose closing parts them is the narrowest place of the widest way.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from evrant.core.base.memo import Memo
from evrant.core.space.footprint import Plan
from evrant.core.space.nearest import nearest_points
from evrant.core.space.passage import closest, draw, joined, lasting
from evrant.core.space.solids import Points, Vector, hull
from evrant.core.space.things import Thing

CELL = 0.04
CORNERS = 16
"""Corners an outline is taken with to find the narrowest place; a leg circle of 0.5 m loses under 1 cm of radius by it.
How wide that place is, is told with all corners."""
SHOULDERS = (0.05, 1.85)
"""Heights between which a body is in a walking person's way [m]."""
_FLOORS: Memo[NDArray[np.bool_]] = Memo(2_000_000, lambda floor: 200 + floor.nbytes)
_OUTLINES: Memo[Points] = Memo(2_000_000, lambda outline: 200 + outline.nbytes)


@dataclass(frozen=True, eq=False)
class Obstacle:
    """What bounds a way on the plan: a part of a thing, or a piece of wall (its ends; `part` is its number)."""

    name: str
    points: Points
    thing: Thing | None
    part: int

    @cached_property
    def outline(self) -> Points:
        """(CORNERS, 2) corners of the convex outline, some of them repeated."""
        if self.thing is None:
            return np.asarray(np.repeat(self.points[:, :2], CORNERS // 2, axis=0))
        return _OUTLINES.get("", (self.points,), lambda: _corners(self.points))


def _corners(points: Points) -> Points:
    """The points that reach farthest in each of 16 directions, in order."""
    angles = np.arange(CORNERS) * (2 * np.pi / CORNERS) + 1e-3
    ways = np.vstack([np.cos(angles), np.sin(angles)])
    return np.asarray(points[(points[:, :2] @ ways).argmax(axis=0), :2])


@dataclass(frozen=True)
class Narrow:
    """The narrowest place of the widest way [m]: where, between which two, and the direction across it."""

    width: float
    at: tuple[float, float]
    first: Obstacle
    second: Obstacle
    way: Vector


def obstacles(things: Iterable[Thing]) -> list[Obstacle]:
    """Parts of things that stand in a walking person's way; a column inside its own legs is left out."""
    found = []
    for thing in things:
        legged = any(part.kind == "legs" for part in thing.parts)
        for number, part in enumerate(thing.parts):
            low, high = float(part.solid[:, 2].min()), float(part.solid[:, 2].max())
            if high > SHOULDERS[0] and low < SHOULDERS[1] and not (legged and part.kind == "column"):
                found.append(Obstacle(thing.name, part.solid, thing, number))
    return found


def within(block: Obstacle, spots: Points) -> NDArray[np.bool_]:
    """Which places on the plan (n, 2) lie inside an obstacle's convex outline."""
    if block.thing is None:
        return np.zeros(len(spots), dtype=bool)
    corners = block.outline
    ahead = np.roll(corners, -1, axis=0) - corners
    off = spots[:, None] - corners
    return np.asarray((ahead[:, 0] * off[..., 1] - ahead[:, 1] * off[..., 0] >= -1e-9).all(axis=1))


def crossed(blocks: Sequence[Obstacle], start: Vector, end: Vector) -> bool:
    """Whether the straight line between two places on the plan (2,) runs through an outline or a wall."""
    if not blocks:
        return False
    a = np.stack([block.outline for block in blocks])
    b = np.roll(a, -1, axis=1)

    def side(p: Points, q: Points, r: Points) -> NDArray[np.float64]:
        return np.asarray((q[..., 0] - p[..., 0]) * (r[..., 1] - p[..., 1])
                          - (q[..., 1] - p[..., 1]) * (r[..., 0] - p[..., 0]))  # fmt: skip

    apart = (side(start, end, a) * side(start, end, b) < 0) & (side(a, b, start) * side(a, b, end) < 0)
    return bool(apart.any())


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


def gaps(blocks: Sequence[Obstacle]) -> tuple[NDArray[np.float64], Points, Points]:
    """Gaps between all outlines [m] (n, n) and the nearest points on the first and the second (n, n, 2).

    Between convex outlines that do not overlap the nearest points are a corner of one and a place on an
    edge of the other; overlapping ones get about 0.
    """
    outlines = np.ascontiguousarray(np.stack([block.outline for block in blocks]))
    n = len(blocks)
    gap, first, second = np.empty((n, n)), np.empty((n, n, 2)), np.empty((n, n, 2))
    nearest_points(outlines, gap, first, second)
    return gap, first, second


def narrowest(
    walls: Plan, blocks: Sequence[Obstacle], starts: Sequence[Vector], exits: Sequence[Vector]
) -> Narrow | None:
    """The narrowest place of the widest way from any start to any exit; of width 0 when there is no way."""
    if not starts or not exits or len(blocks) < 2:
        return None
    gap, first, second = gaps(blocks)
    i, j = np.triu_indices(len(blocks), 1)
    order = np.argsort(gap[i, j], kind="stable")
    i, j = i[order], j[order]
    grid = _Grid.of(walls)
    bars = grid.bars(first[i, j], second[i, j])
    floor = grid.floor(walls, blocks)
    ends = np.array([cell for cell in (grid.near(floor, spot) for spot in exits) if cell is not None], dtype=np.intp)
    open_ = joined(floor, ends) if len(ends) else floor
    near_ = [cell for cell in (grid.near(open_, spot) for spot in starts) if cell is not None] if len(ends) else []
    begins = np.array(sorted(set(near_)), dtype=np.intp)
    lasts = max((int(lasting(floor, bars, end, begins)) for end in ends), default=-1) if len(begins) else -1
    pick = min(max(lasts, 0), len(i) - 1)
    one, other = blocks[int(i[pick])], blocks[int(j[pick])]
    width, near, far = _between(one, other)
    way = (far - near) / width if width > 1e-6 else np.array([1.0, 0.0])
    middle_ = (near + far) / 2
    return Narrow(width, (float(middle_[0]), float(middle_[1])), one, other, way)


def _between(one: Obstacle, other: Obstacle) -> tuple[float, Vector, Vector]:
    """The gap between two obstacles [m] and the nearest points on either (2,), with all corners of both."""
    rings = [hull(block.points[:, :2]) if block.thing is not None else block.outline for block in (one, other)]
    longest = max(map(len, rings))
    outlines = np.stack([np.vstack([ring, np.repeat(ring[-1:], longest - len(ring), axis=0)]) for ring in rings])
    gap, first, second = np.empty((2, 2)), np.empty((2, 2, 2)), np.empty((2, 2, 2))
    nearest_points(np.ascontiguousarray(outlines, dtype=float), gap, first, second)
    return float(gap[0, 1]), first[0, 1], second[0, 1]


@dataclass(frozen=True)
class _Grid:
    """Cells over a room: its low corner, the cells' size and their number along x and y."""

    low: Vector
    step: Vector
    shape: tuple[int, int]

    @classmethod
    def of(cls, walls: Plan) -> "_Grid":
        low, high = walls.corners.min(axis=0), walls.corners.max(axis=0)
        count = np.maximum(np.ceil((high - low) / CELL).astype(int), 1)
        return cls(low, (high - low) / count, (int(count[0]), int(count[1])))

    def bars(self, starts: Points, ends: Points) -> NDArray[np.intp]:
        """For every cell the rank of the first (shortest) bar over it; beyond all ranks where there is none."""
        ranks = np.full(self.shape, len(starts) + 1, dtype=np.intp)
        draw(starts, ends, self.low, self.step, 0.5 * CELL, ranks)
        return ranks

    def floor(self, walls: Plan, blocks: Sequence[Obstacle]) -> NDArray[np.bool_]:
        """Cells inside the walls that no outline runs through; what an outline encloses is cut off by it."""
        outlines = np.stack([block.outline for block in blocks])
        starts, ends = outlines.reshape(-1, 2), np.roll(outlines, -1, axis=1).reshape(-1, 2)
        moving = np.abs(ends - starts).sum(axis=1) > 1e-9
        touched = np.full(self.shape, len(starts), dtype=np.intp)
        draw(starts[moving], ends[moving], self.low, self.step, 0.5 * CELL, touched)
        return np.asarray(_inside(walls, self) & (touched == len(starts)))

    def near(self, floor: NDArray[np.bool_], spot: Vector) -> tuple[int, int] | None:
        """The free cell nearest to a place."""
        x, y = closest(floor, self.low, self.step, np.asarray(spot, dtype=float))
        return (int(x), int(y)) if x >= 0 else None


def _inside(walls: Plan, grid: _Grid) -> NDArray[np.bool_]:
    """Cells whose middle lies inside the walls; kept by the corners, which alone decide it."""

    def find() -> NDArray[np.bool_]:
        xs = grid.low[0] + (np.arange(grid.shape[0]) + 0.5) * grid.step[0]
        ys = grid.low[1] + (np.arange(grid.shape[1]) + 0.5) * grid.step[1]
        spots = np.stack(np.meshgrid(xs, ys, indexing="ij"), axis=-1).reshape(-1, 2)
        return np.asarray(walls.contains(spots).reshape(grid.shape))

    return _FLOORS.get_by(str(walls.corners.tolist()), find)
