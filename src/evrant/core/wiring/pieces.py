"""Compiled loops over straight pieces of a lead on the floor: what they run through, and where they reach the walls."""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from evrant.core.space.solids import Points, Vector

_jit = njit(cache=True, nogil=True, error_model="numpy")
EDGE, HAIR = 1e-6, 1e-4
"""Nothing at all, and how far off a wall a lead along it is taken to lie when it is cut by what bars it [m]."""


@_jit
def part_inside(start: Vector, end: Vector, outline: Points) -> tuple[float, float]:  # pragma: no cover - compiled
    """The part of a straight piece inside a convex outline, as shares of it; (1, 0) when it misses (Cyrus–Beck)."""
    low, high = 0.0, 1.0
    for k in range(len(outline)):
        m = k + 1 if k + 1 < len(outline) else 0
        ex, ey = outline[m, 0] - outline[k, 0], outline[m, 1] - outline[k, 1]
        long = max(np.hypot(ex, ey), 1e-12)
        nx, ny = -ey / long, ex / long
        here = (start[0] - outline[k, 0]) * nx + (start[1] - outline[k, 1]) * ny
        turn = (end[0] - start[0]) * nx + (end[1] - start[1]) * ny
        if abs(turn) < 1e-12:
            if here <= EDGE:
                return 1.0, 0.0
            continue
        at = -here / turn
        if turn > 0:
            low = max(low, at)
        else:
            high = min(high, at)
    return (low, high) if high - low > 1e-9 else (1.0, 0.0)


@_jit
def free_of(
    starts: Points, ends: Points, normals: Points, levels: Points
) -> NDArray[np.bool_]:  # pragma: no cover - compiled
    """Which straight pieces (n, 2) run through none of some convex outlines, whose edges have these inward normals
    (outlines, edges, 2) and levels (outlines, edges) along them."""
    found = np.ones(len(starts), dtype=np.bool_)
    for s in range(len(starts)):
        wx, wy = ends[s, 0] - starts[s, 0], ends[s, 1] - starts[s, 1]
        for b in range(len(normals)):
            low, high, misses = 0.0, 1.0, False
            for e in range(normals.shape[1]):
                here = starts[s, 0] * normals[b, e, 0] + starts[s, 1] * normals[b, e, 1] - levels[b, e]
                turn = wx * normals[b, e, 0] + wy * normals[b, e, 1]
                if abs(turn) < 1e-12:
                    if here <= 0:
                        misses = True
                        break
                elif turn > 0:
                    low = max(low, -here / turn)
                else:
                    high = min(high, -here / turn)
            if not misses and high - low > 1e-9:
                found[s] = False
                break
    return found


@_jit
def to_walls(
    spots: Points, corners: Points, perimeter: Points, fixed: Points, slant: float
) -> tuple[
    Points, NDArray[np.float64], NDArray[np.intp], NDArray[np.float64], NDArray[np.intp], NDArray[np.float64]
]:  # pragma: no cover - compiled
    """Straight pieces from places (n, 2) before walls to them: square, at the slant either way, and to `fixed` places
    round the perimeter. The wall's place, its distance round the perimeter, the number of the place, the length,
    the wall and the slant (nan: a fixed place)."""
    count, walls = len(spots), len(corners)
    most = count * (3 * walls + len(fixed))
    places, around, owner = np.empty((most, 2)), np.empty(most), np.empty(most, dtype=np.intp)
    long, wall_of, slants = np.empty(most), np.empty(most, dtype=np.intp), np.empty(most)
    used = 0
    for wall in range(walls):
        nxt = wall + 1 if wall + 1 < walls else 0
        sx, sy = corners[wall, 0], corners[wall, 1]
        wx, wy = corners[nxt, 0] - sx, corners[nxt, 1] - sy
        whole = np.hypot(wx, wy)
        wx, wy = wx / whole, wy / whole
        for kind in range(3 + len(fixed)):
            if kind >= 3 and not perimeter[wall] < fixed[kind - 3] < perimeter[wall + 1]:
                continue
            for s in range(count):
                dx, dy = spots[s, 0] - sx, spots[s, 1] - sy
                high = dy * wx - dx * wy
                if high <= -EDGE:
                    continue
                if kind < 3:
                    lean = (kind - 1) * slant
                    at = min(max(dx * wx + dy * wy + lean * high, 0.0), whole)
                    slants[used] = lean
                else:
                    at = fixed[kind - 3] - perimeter[wall]
                    slants[used] = np.nan
                places[used, 0], places[used, 1] = sx + at * wx - wy * HAIR, sy + at * wy + wx * HAIR
                around[used], owner[used], wall_of[used] = perimeter[wall] + at, s, wall
                long[used] = np.hypot(spots[s, 0] - places[used, 0], spots[s, 1] - places[used, 1])
                used += 1
    return places[:used], around[:used], owner[:used], long[:used], wall_of[:used], slants[:used]
