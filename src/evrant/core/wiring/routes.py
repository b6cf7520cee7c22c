"""Where a lead runs: from a socket along the walls, then over the floor to a device.

A metre over open floor counts as much as `OPEN` metres along a wall, for it lies in somebody's way. Under that cost
the cheapest way leaves a wall square to it (the foot of the device or of a corner it must pass), at the angle
whose cosine is 1 / OPEN, or at a corner: the condition of refraction at grazing incidence (Snell's law with
indices 1 and OPEN; any optics handbook). Over the floor it turns only at corners of what stands in the way, so
the cheapest way among these finitely many is the cheapest of all (visibility graph; M. de Berg et al.,
Computational Geometry, ch. 15).
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.sparse.csgraph import dijkstra

from evrant.core.space.footprint import Plan, reflex_corners
from evrant.core.space.solids import Points, Vector
from evrant.core.wiring.pieces import EDGE, HAIR, free_of, part_inside, to_walls

OPEN = 2.0
"""What a metre over open floor counts for against one along a wall. Project choice."""
SKIRT = 0.02
"""Distance of a lead from wall and furniture [m]; keeps it outside what it goes round."""


@dataclass(frozen=True, eq=False)
class Block:
    """Floor a lead may not lie on: a convex outline (k, 2) counter-clockwise, and what it is."""

    path: str
    name: str
    outline: Points


@dataclass(frozen=True, eq=False)
class Leave:
    """Where a way leaves its wall: the wall's number, the place along it [m], how that place goes with the foot of
    what comes next (None: not at all), which way round it came, whether it leaves at the socket itself, and the
    socket's place round the perimeter [m]."""

    wall: int
    at: float
    slant: float | None
    forward: bool
    at_socket: bool
    socket: float


@dataclass(frozen=True, eq=False)
class Exits:
    """Straight pieces between places on the floor and the walls (m): wall places, their distances round the
    perimeter, the place each belongs to, its length, its wall, and its slant (nan: a fixed place)."""

    places: Points
    around: Points
    owner: NDArray[np.intp]
    long: Points
    wall: NDArray[np.intp]
    slant: Points

    def plus(self, other: "Exits") -> "Exits":
        return Exits(*(np.concatenate([a, b]) for a, b in zip(self._all(), other._all(), strict=True)))

    def kept(self, which: NDArray[np.bool_]) -> "Exits":
        return Exits(*(a[which] for a in self._all()))

    def _all(self) -> tuple[NDArray[Any], ...]:
        return self.places, self.around, self.owner, self.long, self.wall, self.slant


@dataclass(frozen=True, eq=False)
class Route:
    """A way for a lead, from the socket's place on the wall to the device: its corners (n, 2), the metres along
    walls and over open floor, and the blocks whose corners it turns at."""

    points: Points
    along: float
    open: float
    touches: tuple[str, ...]
    turns: int
    leave: "Leave"

    @property
    def length(self) -> float:
        return self.along + self.open

    @property
    def first(self) -> int:
        """Number of the point at which it leaves the wall."""
        return len(self.points) - 2 - self.turns

    def length_on(self, walls: Plan, socket: float, device: Vector) -> float:
        """Its length [m] with walls, the socket's place round them [m] and the device a little elsewhere, while the
        way keeps its turns."""
        leave, turned = self.leave, self.turns > 0
        target = self.points[self.first + 1] if turned else device
        start, end = walls.wall(leave.wall)
        long = math.dist(start, end)
        way, inward = (end - start) / long, walls.inward(leave.wall)
        before, whole = float(walls.sides[: leave.wall].sum()), float(walls.sides.sum())
        if leave.at_socket:
            at = socket - before
        elif leave.slant is None:
            at = leave.at
        else:
            foot, high = float((target - start) @ way), float((target - start) @ inward)
            at = min(max(foot + leave.slant * high, 0.0), long)
        run = (before + at - socket) * (1.0 if leave.forward else -1.0) % whole
        along = 0.0 if leave.at_socket or run > whole - 0.5 else run
        spot = start + way * at + inward * HAIR
        rest = self.open - math.dist(self.points[self.first + 1], self.points[self.first])
        if turned:
            last = self.points[-2]
            rest += math.dist(device, last) - math.dist(self.points[-1], last)
        return along + math.dist(target, spot) + rest

    @property
    def cost(self) -> float:
        return self.along + OPEN * self.open


@dataclass(frozen=True, eq=False)
class Floor:
    """A room's floor with what bars leads, prepared for many routes."""

    walls: Plan
    blocks: tuple[Block, ...]

    @cached_property
    def perimeter(self) -> Points:
        """(walls + 1,) distance of each corner from corner A along the walls [m]."""
        return np.concatenate([[0.0], np.cumsum(self.walls.sides)])

    @cached_property
    def barred(self) -> Points:
        """(n, 2) stretches of the perimeter that lie in a block [m], merged, in order."""
        found = []
        for i in range(self.walls.count):
            start, end = self.walls.wall(i)
            shift = self.walls.inward(i) * HAIR
            for block in self.blocks:
                part = clip(start + shift, end + shift, block.outline)
                if part is not None:
                    long = float(np.linalg.norm(end - start))
                    found.append([self.perimeter[i] + part[0] * long, self.perimeter[i] + part[1] * long])
        return _merged(found)

    @cached_property
    def corners(self) -> tuple[Points, tuple[str, ...]]:
        """(n, 2) places a lead may turn at over the floor, and the path of the block each belongs to."""
        spots, names = [], []
        for block in self.blocks:
            for spot in _grown(block.outline):
                spots.append(spot)
                names.append(block.path)
        for i in reflex_corners(self.walls):
            inside = self.walls.inward(i) + self.walls.inward(i - 1)
            spots.append(self.walls.corners[i] + inside * SKIRT)
            names.append("walls")
        if not spots:
            return np.zeros((0, 2)), ()
        found = np.array(spots)
        free = self.walls.contains(found) & ~self.inside(found)
        return found[free], tuple(name for name, keep in zip(names, free, strict=True) if keep)

    def inside(self, points: Points) -> NDArray[np.bool_]:
        """Which points (n, 2) lie inside a block."""
        within = np.zeros(len(points), dtype=bool)
        for block in self.blocks:
            start, along = block.outline, np.roll(block.outline, -1, axis=0) - block.outline
            away = points[:, None, :] - start[None]
            within |= (along[:, 0] * away[..., 1] - along[:, 1] * away[..., 0] > EDGE).all(axis=1)
        return within

    def open_between(self, starts: Points, ends: Points) -> NDArray[np.bool_]:
        """Which straight pieces (n) cross no block and no wall."""
        free = free_of(starts, ends, *self._planes)
        return free & ~_cross_walls(self.walls, starts, ends) if self._bent else free

    @cached_property
    def _bent(self) -> bool:
        """Whether a corner of the room sticks into it, so that a straight piece may run through walls."""
        return bool(reflex_corners(self.walls))

    @cached_property
    def _planes(self) -> tuple[Points, Points]:
        """Inward normals (blocks, edges, 2) of all blocks and the level of each edge along them; blocks with fewer
        edges repeat their first one."""
        if not self.blocks:
            return np.zeros((0, 1, 2)), np.zeros((0, 1))
        most = max(len(block.outline) for block in self.blocks)
        normals, levels = [], []
        for block in self.blocks:
            along = np.roll(block.outline, -1, axis=0) - block.outline
            inward = np.column_stack([-along[:, 1], along[:, 0]])
            inward /= np.maximum(np.linalg.norm(inward, axis=1, keepdims=True), 1e-12)
            level = (block.outline * inward).sum(axis=1) + EDGE
            spare = most - len(inward)
            normals.append(np.concatenate([inward, np.repeat(inward[:1], spare, axis=0)]))
            levels.append(np.concatenate([level, np.repeat(level[:1], spare)]))
        return np.array(normals), np.array(levels)

    @cached_property
    def _between(self) -> Points:
        """(n, n) straight distances between turning places that see each other, infinite for others."""
        spots = self.corners[0]
        n = len(spots)
        far = np.full((n, n), np.inf)
        i, j = np.triu_indices(n, 1)
        if len(i):
            free = self.open_between(spots[i], spots[j])
            long = np.linalg.norm(spots[i] - spots[j], axis=1)
            far[i[free], j[free]] = far[j[free], i[free]] = long[free]
        return far

    @cached_property
    def _ways(self) -> tuple[Points, NDArray[np.int32]]:
        """(n, n) shortest ways over the floor between turning places, and the place before each on the way there."""
        graph = np.where(np.isfinite(self._between), self._between, 0.0)
        if not len(graph):
            return np.zeros((0, 0)), np.zeros((0, 0), dtype=np.int32)
        out, before = dijkstra(graph, directed=False, return_predecessors=True)
        return np.asarray(out), np.asarray(before)

    @cached_property
    def _leaving(self) -> Exits:
        """Where turning places reach a wall."""
        spots = self.corners[0]
        return self._to_walls(spots, np.arange(len(spots)))

    @cached_property
    def _edges(self) -> Points:
        """Places round the perimeter just outside what bars it (n,)."""
        return np.array([edge for low, top in self.barred for edge in (low - 1e-9, top + 1e-9)])

    def _to_walls(self, spots: Points, which: NDArray[np.intp]) -> Exits:
        """Straight pieces from places to walls that could be part of a cheapest way and cross nothing: square to a
        wall, at the angle of refraction either way, and to the edges of what bars it."""
        pieces = to_walls(spots, self.walls.corners, self.perimeter, self._edges, 1 / math.sqrt(OPEN**2 - 1))
        places, around, owner, long, wall, slant = pieces
        free = self.open_between(spots[owner], places) & ~_within(around, self.barred)
        return Exits(places, around, which[owner], long, wall, slant).kept(free)

    def route(self, sockets: Points, device: Vector) -> tuple[Route | None, ...]:
        """The cheapest way from each socket, a place (n,) round the perimeter [m], to a device (2,)."""
        spots = self.corners[0]
        n = len(spots)
        seen = self.open_between(np.repeat(device[None], n, axis=0), spots)
        by_way_of = np.where(seen, np.linalg.norm(spots - device, axis=1), np.inf)[:, None] + self._ways[0]
        out = np.append(by_way_of.min(axis=0, initial=np.inf), 0.0)
        first = by_way_of.argmin(axis=0) if n else np.zeros(0, dtype=np.intp)
        here = np.array([n])
        exits = self._leaving.plus(self._to_walls(device[None], here)).plus(self._from_corners(sockets.tobytes()))
        exits = exits.plus(self._from_sockets(sockets, device[None], here))
        if not len(exits.places):
            return tuple(None for _ in sockets)
        loose = out[exits.owner] + exits.long
        return tuple(self._best(float(socket), exits, loose, first, device) for socket in sockets)

    def _from_corners(self, sockets: bytes) -> Exits:
        """Straight pieces from sockets' own places to the turning places, found once for the same sockets."""
        if sockets not in self._found:
            spots = self.corners[0]
            self._found[sockets] = self._from_sockets(np.frombuffer(sockets), spots, np.arange(len(spots)))
        return self._found[sockets]

    @cached_property
    def _found(self) -> dict[bytes, Exits]:
        """What `_from_corners` has found."""
        return {}

    def _from_sockets(self, sockets: Points, spots: Points, which: NDArray[np.intp]) -> Exits:
        """Straight pieces from the sockets' own places to every one of some places on the floor."""
        starts = np.array([self.at(float(s)) + self.walls.inward(self.wall_of(float(s))) * HAIR for s in sockets])
        walls = np.array([self.wall_of(float(s)) for s in sockets], dtype=np.intp)
        n, m = len(sockets), len(spots)
        places, ends = np.repeat(starts, m, axis=0), np.tile(spots, (n, 1))
        found = Exits(
            places,
            np.repeat(sockets, m),
            np.tile(which, n),
            np.linalg.norm(ends - places, axis=1),
            np.repeat(walls, m),
            np.full(n * m, math.nan),
        )
        return found.kept(self.open_between(places, ends) & ~_within(found.around, self.barred))

    def _best(
        self, socket: float, exits: Exits, loose: Points, first: NDArray[np.intp], device: Vector
    ) -> Route | None:
        ways = self._along(socket, exits.around)
        cost = ways.min(axis=0) + OPEN * loose
        best = int(cost.argmin())
        if not math.isfinite(cost[best]):
            return None
        forward = bool(ways[0, best] <= ways[1, best])
        spots, names = self.corners
        node, turns, touched = int(exits.owner[best]), [], []
        last = int(first[node]) if node < len(spots) else node
        while node != len(spots):
            turns.append(spots[node])
            touched.append(names[node])
            node = len(spots) if node == last else int(self._ways[1][last, node])
        run = self._run(socket, float(exits.around[best]), forward)
        points = np.array([*run, exits.places[best], *turns, device])
        wall = int(exits.wall[best])
        slant = None if math.isnan(exits.slant[best]) else float(exits.slant[best])
        around = float(exits.around[best])
        leave = Leave(wall, around - float(self.perimeter[wall]), slant, forward, abs(around - socket) < 1e-9, socket)
        along, loose_ = float(ways[:, best].min()), float(loose[best])
        return Route(points, along, loose_, tuple(dict.fromkeys(touched)), len(turns), leave)

    def _along(self, socket: float, around: Points) -> Points:
        """(2, n) metres along the walls to perimeter places, with rising and with falling distance from A."""
        whole = float(self.perimeter[-1])
        ahead = (around - socket) % whole
        ways = np.stack([ahead, (whole - ahead) % whole])
        for low, high in self.barred:
            start, size = (low - socket) % whole, high - low
            ways[0, ahead > start + 1e-7] = np.inf
            back = (socket - high) % whole
            ways[1, (whole - ahead) % whole > back + 1e-7] = np.inf
            if (socket - low) % whole < size:
                ways[:] = np.inf
        return ways

    def _run(self, socket: float, end: float, forward: bool) -> list[Vector]:
        """Corners of a way along the walls, from the socket on."""
        whole = float(self.perimeter[-1])
        run = [self.at(socket)]
        span = (end - socket) % whole if forward else (socket - end) % whole
        inner = []
        for i in range(self.walls.count):
            off = (self.perimeter[i] - socket) % whole if forward else (socket - self.perimeter[i]) % whole
            if 1e-9 < off < span:
                inner.append((off, self.walls.corners[i]))
        return [*run, *(corner for _, corner in sorted(inner, key=lambda pair: pair[0]))]

    def wall_of(self, around: float) -> int:
        """The wall that place is on."""
        return int(np.clip(np.searchsorted(self.perimeter, around, side="right") - 1, 0, self.walls.count - 1))

    def at(self, around: float) -> Vector:
        """The place (2,) at a distance round the perimeter from corner A [m]."""
        i = self.wall_of(around)
        start, end = self.walls.wall(i)
        return np.asarray(start + (end - start) / np.linalg.norm(end - start) * (around - self.perimeter[i]))


def clip(start: Vector, end: Vector, outline: Points) -> tuple[float, float] | None:
    """The part of a straight piece inside a convex outline, as shares of it; None when it misses."""
    low, high = part_inside(start, end, outline)
    return (low, high) if high > low else None


def length_inside(points: Points, outlines: Sequence[Points]) -> float:
    """Metres of a way (n, 2) that lie in any of some convex outlines; where they overlap it counts once."""
    total = 0.0
    for start, end in pairwise(points):
        parts = [part for outline in outlines if (part := clip(start, end, outline)) is not None]
        merged = _merged([list(part) for part in parts])
        total += float((merged[:, 1] - merged[:, 0]).sum()) * float(np.linalg.norm(end - start)) if len(merged) else 0.0
    return total


def _merged(parts: list[list[float]]) -> Points:
    """Stretches joined where they overlap."""
    joined: list[list[float]] = []
    for low, high in sorted(parts):
        if joined and low <= joined[-1][1] + 1e-9:
            joined[-1][1] = max(joined[-1][1], high)
        else:
            joined.append([low, high])
    return np.array(joined).reshape(-1, 2)


def _within(around: Points, barred: Points) -> NDArray[np.bool_]:
    inside = np.zeros(len(around), dtype=bool)
    for low, high in barred:
        inside |= (around > low) & (around < high)
    return inside


def _grown(outline: Points) -> Points:
    """Corners of an outline pushed out by the lead's distance."""
    before, after = outline - np.roll(outline, 1, axis=0), np.roll(outline, -1, axis=0) - outline
    first = before / np.maximum(np.linalg.norm(before, axis=1, keepdims=True), 1e-12)
    second = after / np.maximum(np.linalg.norm(after, axis=1, keepdims=True), 1e-12)
    return np.asarray(outline + SKIRT * (first - second))


def _cross_walls(walls: Plan, starts: Points, ends: Points) -> NDArray[np.bool_]:
    """Which straight pieces between places inside run through a wall."""
    a, b = walls.corners[None], walls.nexts[None]
    p, q = starts[:, None], ends[:, None]

    def side(u: Points, v: Points, w: Points) -> Points:
        return np.asarray((v - u)[..., 0] * (w - u)[..., 1] - (v - u)[..., 1] * (w - u)[..., 0])

    one, other = side(a, b, p), side(a, b, q)
    first, last = side(p, q, a), side(p, q, b)
    return np.asarray(((one * other < -1e-14) & (first * last < -1e-14)).any(axis=1))
