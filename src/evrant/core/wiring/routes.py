"""Where a lead runs: from a socket along the walls, then over the floor to a device.

A metre over open floor counts as much as `OPEN` metres along a wall, for it lies in somebody's way. Under that cost
the cheapest way leaves a wall square to it (the foot of the device or of a corner it must pass), at the angle
whose cosine is 1 / OPEN, or at a corner: the condition of refraction at grazing incidence (Snell's law with
indices 1 and OPEN; any optics handbook). Over the floor it turns only at corners of what stands in the way, so
the cheapest way among these finitely many is the cheapest of all (visibility graph; M. de Berg et al.,
Computational Geometry, ch. 15).
"""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.sparse.csgraph import dijkstra

from evrant.core.space.footprint import Plan, reflex_corners
from evrant.core.space.solids import Points, Vector

OPEN = 2.0
"""What a metre over open floor counts for against one along a wall. Project choice."""
SKIRT = 0.02
"""Distance of a lead from wall and furniture [m]; keeps it outside what it goes round."""
EDGE, HAIR = 1e-6, 1e-4
"""Nothing at all, and how far off a wall a lead along it is taken to lie when it is cut by what bars it [m]."""


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
        long = float(np.linalg.norm(end - start))
        way, inward = (end - start) / long, walls.inward(leave.wall)
        sides = np.linalg.norm(walls.nexts - walls.corners, axis=1)
        before, whole = float(sides[: leave.wall].sum()), float(sides.sum())
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
        rest = self.open - float(np.linalg.norm(self.points[self.first + 1] - self.points[self.first]))
        if turned:
            last = self.points[-2]
            rest += float(np.linalg.norm(device - last) - np.linalg.norm(self.points[-1] - last))
        return along + float(np.linalg.norm(target - spot)) + rest

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
        sides = np.linalg.norm(self.walls.nexts - self.walls.corners, axis=1)
        return np.concatenate([[0.0], np.cumsum(sides)])

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
        free = ~_cross_walls(self.walls, starts, ends)
        if not self.blocks or not len(starts):
            return np.asarray(free)
        inward, level = self._planes
        here = np.einsum("sk,pek->spe", starts, inward) - level
        turn = np.einsum("sk,pek->spe", ends - starts, inward)
        flat = np.abs(turn) < 1e-12
        at = -here / np.where(flat, 1.0, turn)
        low = np.where(~flat & (turn > 0), at, 0.0).max(axis=2, initial=0.0)
        high = np.where(~flat & (turn < 0), at, 1.0).min(axis=2, initial=1.0)
        misses = (flat & (here <= 0)).any(axis=2) | (high - low <= 1e-9)
        return np.asarray(free & misses.all(axis=1))

    @cached_property
    def _planes(self) -> tuple[Points, Points]:
        """Inward normals (blocks, edges, 2) of all blocks and the level of each edge along them; blocks with fewer
        edges repeat their first one."""
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
    def _leaving(self) -> Exits:
        """Where turning places reach a wall."""
        spots = self.corners[0]
        return self._to_walls(spots, np.arange(len(spots)))

    def _to_walls(self, spots: Points, which: NDArray[np.intp]) -> Exits:
        """Straight pieces from places to walls that could be part of a cheapest way and cross nothing."""
        rows = [row for wall in range(self.walls.count) for row in self._to_wall(spots, which, wall)]
        columns = [np.concatenate([row[number] for row in rows]) for number in range(6)]
        found = Exits(*columns)
        lookup = {int(key): number for number, key in enumerate(which)}
        near = spots[[lookup[int(key)] for key in found.owner]] if len(found.owner) else np.zeros((0, 2))
        free = self.open_between(near, found.places) & ~_within(found.around, self.barred)
        return found.kept(free)

    def _to_wall(self, spots: Points, which: NDArray[np.intp], wall: int) -> Iterator[tuple[NDArray[Any], ...]]:
        """Pieces to one wall: square to it, at the angle of refraction either way, and to the edges of what bars it."""
        start, end = self.walls.wall(wall)
        long = float(np.linalg.norm(end - start))
        along, inward = (end - start) / long, self.walls.inward(wall)
        foot, high = (spots - start) @ along, (spots - start) @ inward
        keep = high > -EDGE
        slant = 1 / math.sqrt(OPEN**2 - 1)
        fixed = [
            edge - self.perimeter[wall]
            for low, top in self.barred
            for edge in (low - 1e-9, top + 1e-9)
            if self.perimeter[wall] < edge < self.perimeter[wall + 1]
        ]
        kinds = [(np.clip(foot + shift * high, 0.0, long), shift) for shift in (-slant, 0.0, slant)]
        kinds += [(np.full(len(spots), place), math.nan) for place in fixed]
        for at, kind in kinds:
            place = (start + at[:, None] * along + inward * HAIR)[keep]
            count = len(place)
            length = np.linalg.norm(spots[keep] - place, axis=1)
            yield (
                place,
                (self.perimeter[wall] + at)[keep],
                which[keep],
                length,
                np.full(count, wall, dtype=np.intp),
                np.full(count, kind),
            )

    def route(self, sockets: Points, device: Vector) -> tuple[Route | None, ...]:
        """The cheapest way from each socket, a place (n,) round the perimeter [m], to a device (2,)."""
        spots = self.corners[0]
        n = len(spots)
        here = np.full((n + 1, n + 1), np.inf)
        here[:n, :n] = self._between
        if n:
            seen = self.open_between(np.repeat(device[None], n, axis=0), spots)
            long = np.linalg.norm(spots - device, axis=1)
            here[n, :n] = here[:n, n] = np.where(seen, long, np.inf)
        graph = np.where(np.isfinite(here), here, 0.0)
        out, before = dijkstra(graph, directed=False, indices=n, return_predecessors=True)
        exits = self._leaving.plus(self._to_walls(device[None], np.array([n])))
        exits = exits.plus(self._from_sockets(sockets, np.vstack([spots, device[None]])))
        if not len(exits.places):
            return tuple(None for _ in sockets)
        loose = out[exits.owner] + exits.long
        return tuple(self._best(float(socket), exits, loose, before, device) for socket in sockets)

    def _from_sockets(self, sockets: Points, spots: Points) -> Exits:
        """Straight pieces from the sockets' own places to every place on the floor."""
        starts = np.array([self.at(float(s)) + self.walls.inward(self.wall_of(float(s))) * HAIR for s in sockets])
        which = np.array([self.wall_of(float(s)) for s in sockets], dtype=np.intp)
        n, m = len(sockets), len(spots)
        places, ends = np.repeat(starts, m, axis=0), np.tile(spots, (n, 1))
        found = Exits(
            places,
            np.repeat(sockets, m),
            np.tile(np.arange(m), n),
            np.linalg.norm(ends - places, axis=1),
            np.repeat(which, m),
            np.full(n * m, math.nan),
        )
        return found.kept(self.open_between(places, ends) & ~_within(found.around, self.barred))

    def _best(
        self, socket: float, exits: Exits, loose: Points, before: NDArray[np.int32], device: Vector
    ) -> Route | None:
        ways = self._along(socket, exits.around)
        cost = ways.min(axis=0) + OPEN * loose
        best = int(cost.argmin())
        if not math.isfinite(cost[best]):
            return None
        forward = bool(ways[0, best] <= ways[1, best])
        spots, names = self.corners
        node, turns, touched = int(exits.owner[best]), [], []
        while node != len(spots):
            turns.append(spots[node])
            touched.append(names[node])
            node = int(before[node])
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
    """The part of a straight piece inside a convex outline, as shares of it; None when it misses (Cyrus–Beck)."""
    low, high = 0.0, 1.0
    way = end - start
    for a, b in zip(outline, np.roll(outline, -1, axis=0), strict=True):
        inner = np.array([-(b - a)[1], (b - a)[0]]) / max(float(np.hypot(*(b - a))), 1e-12)
        here, turn = float((start - a) @ inner), float(way @ inner)
        if abs(turn) < 1e-12:
            if here <= EDGE:
                return None
            continue
        at = -here / turn
        low, high = (max(low, at), high) if turn > 0 else (low, min(high, at))
    return (low, high) if high - low > 1e-9 else None


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
    if not reflex_corners(walls):
        return np.zeros(len(starts), dtype=bool)
    a, b = walls.corners[None], walls.nexts[None]
    p, q = starts[:, None], ends[:, None]

    def side(u: Points, v: Points, w: Points) -> Points:
        return np.asarray((v - u)[..., 0] * (w - u)[..., 1] - (v - u)[..., 1] * (w - u)[..., 0])

    one, other = side(a, b, p), side(a, b, q)
    first, last = side(p, q, a), side(p, q, b)
    return np.asarray(((one * other < -1e-14) & (first * last < -1e-14)).any(axis=1))
