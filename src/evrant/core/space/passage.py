"""Compiled loops over the cells of a floor: pieces drawn over it, and the way that stays open longest."""

from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray

from evrant.core.space.solids import Points, Vector

_jit = njit(cache=True, nogil=True, error_model="numpy")
Whole = NDArray[np.intp]
_AHEAD = np.array([[1, 0], [-1, 0], [0, 1], [0, -1]])


@_jit
def draw(
    starts: Points, ends: Points, low: Vector, step: Vector, apart: float, out: Whole
) -> None:  # pragma: no cover - compiled
    """Every cell that a straight piece (n, 2) runs over gets the least number of such a piece, if that is less than
    what it holds. Pieces are looked at every `apart` [m] or closer."""
    wide, deep = out.shape
    for s in range(len(starts)):
        sx, sy = starts[s, 0], starts[s, 1]
        dx, dy = ends[s, 0] - sx, ends[s, 1] - sy
        count = int(max(abs(dx), abs(dy)) / apart) + 2
        for k in range(count):
            part = k / (count - 1)
            x = min(max(int(np.floor((sx + part * dx - low[0]) / step[0])), 0), wide - 1)
            y = min(max(int(np.floor((sy + part * dy - low[1]) / step[1])), 0), deep - 1)
            out[x, y] = min(out[x, y], s)


@_jit
def joined(floor: NDArray[np.bool_], starts: Whole) -> NDArray[np.bool_]:  # pragma: no cover - compiled
    """Cells of the floor that are joined, side by side, to any of some cells (n, 2)."""
    wide, deep = floor.shape
    found = np.zeros((wide, deep), dtype=np.bool_)
    waiting = np.empty((floor.size, 2), dtype=np.intp)
    count = 0
    for s in range(len(starts)):
        x, y = starts[s, 0], starts[s, 1]
        if floor[x, y] and not found[x, y]:
            found[x, y] = True
            waiting[count, 0], waiting[count, 1] = x, y
            count += 1
    while count:
        count -= 1
        x, y = waiting[count, 0], waiting[count, 1]
        for k in range(4):
            i, j = x + _AHEAD[k, 0], y + _AHEAD[k, 1]
            if 0 <= i < wide and 0 <= j < deep and floor[i, j] and not found[i, j]:
                found[i, j] = True
                waiting[count, 0], waiting[count, 1] = i, j
                count += 1
    return found


@_jit
def lasting(floor: NDArray[np.bool_], ranks: Whole, begin: Whole, ends: Whole) -> int:  # pragma: no cover - compiled
    """The greatest rank up to which a way over the floor, side by side, from one cell (2,) to any of some (n, 2) runs
    over no cell of a lower rank; −1 where there is none. The widest path by buckets: any text on graphs."""
    wide, deep = floor.shape
    most = ranks.max() + 1
    heads, after = np.full(most, -1), np.full(floor.size, -1)
    goal, met = np.zeros(floor.shape, dtype=np.bool_), np.zeros(floor.shape, dtype=np.bool_)
    for e in range(len(ends)):
        goal[ends[e, 0], ends[e, 1]] = True
    if not floor[begin[0], begin[1]]:
        return -1
    level = ranks[begin[0], begin[1]]
    heads[level] = begin[0] * deep + begin[1]
    met[begin[0], begin[1]] = True
    while level >= 0:
        cell = heads[level]
        if cell < 0:
            level -= 1
            continue
        heads[level] = after[cell]
        x, y = cell // deep, cell % deep
        if goal[x, y]:
            return int(level)
        for k in range(4):
            i, j = x + _AHEAD[k, 0], y + _AHEAD[k, 1]
            if 0 <= i < wide and 0 <= j < deep and floor[i, j] and not met[i, j]:
                met[i, j] = True
                there = min(level, ranks[i, j])
                after[i * deep + j] = heads[there]
                heads[there] = i * deep + j
    return -1


@_jit
def closest(floor: NDArray[np.bool_], low: Vector, step: Vector, spot: Vector) -> Any:  # pragma: no cover - compiled
    """The free cell (2,) whose middle is nearest to a place; (−1, −1) where none is free."""
    best, found = np.inf, np.full(2, -1)
    for x in range(floor.shape[0]):
        for y in range(floor.shape[1]):
            if floor[x, y]:
                dx, dy = low[0] + (x + 0.5) * step[0] - spot[0], low[1] + (y + 0.5) * step[1] - spot[1]
                if dx * dx + dy * dy < best:
                    best = dx * dx + dy * dy
                    found[0], found[1] = x, y
    return found
