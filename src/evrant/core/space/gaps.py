"""Compiled loops: how far bodies reach, how far two are apart, in space or in a picture, and how far points are from
a prism.

Gaps of opposite directions are found together, from the same products.
"""

import math

import numpy as np
from numba import njit
from numpy.typing import NDArray

_jit = njit(cache=True, fastmath={"nnan", "nsz", "contract", "reassoc"})
Array = NDArray[np.float64]
ROUNDS, SPREAD, NARROWER = 7, 0.25, 0.45
"""How often a direction is refined, how far round it is looked at first [tangent], and by how much less each time."""


@_jit
def reaches(points: Array, ends: NDArray[np.intp], half: Array) -> Array:  # pragma: no cover - compiled
    """(bodies, 2 × ways) greatest reach of each body in each direction, then in the opposite ones.

    `points` (n, 3) are those of all bodies, of which body i's end before `ends[i]`.
    """
    count = len(half)
    found = np.empty((len(ends), 2 * count))
    start = 0
    for body in range(len(ends)):
        for way in range(count):
            most, least = -math.inf, math.inf
            for i in range(start, ends[body]):
                along = points[i, 0] * half[way, 0] + points[i, 1] * half[way, 1] + points[i, 2] * half[way, 2]
                most = max(most, along)
                least = min(least, along)
            found[body, way] = most
            found[body, count + way] = -least
        start = ends[body]
    return found


@_jit
def greatest_gaps(first: Array, second: Array) -> Array:  # pragma: no cover - compiled
    """(bodies, bodies) greatest gap of each of `first` from each of `second` over the directions of their reaches."""
    half = first.shape[1] // 2
    found = np.empty((len(first), len(second)))
    for i in range(len(first)):
        for j in range(len(second)):
            most = -math.inf
            for way in range(half):
                gap = -min(second[j, half + way] + first[i, way], second[j, way] + first[i, half + way])
                most = gap if gap > most else most
            found[i, j] = most
    return found


@_jit
def to_prism(
    outline: Array, low: float, high: float, spots: Array, heights: Array
) -> Array:  # pragma: no cover - compiled
    """(poses,) least signed distance of points (poses, n, 2) at heights (n,) to an upright prism over a convex outline
    (m, 2) in counter-clockwise order, negative by the depth inside."""
    found = np.empty(len(spots))
    for pose in range(len(spots)):
        least = math.inf
        for i in range(len(heights)):
            x, y, out, away = spots[pose, i, 0], spots[pose, i, 1], -math.inf, math.inf
            for k in range(len(outline)):
                ax, ay = outline[k, 0], outline[k, 1]
                ex, ey = outline[(k + 1) % len(outline), 0] - ax, outline[(k + 1) % len(outline), 1] - ay
                square = ex * ex + ey * ey
                ox, oy = x - ax, y - ay
                side = (ox * ey - oy * ex) / math.sqrt(square)
                out = side if side > out else out
                t = min(max((ox * ex + oy * ey) / square, 0.0), 1.0)
                dx, dy = ox - t * ex, oy - t * ey
                away = min(away, dx * dx + dy * dy)
            flat = math.sqrt(away) if out > 0 else out
            rise = max(low - heights[i], heights[i] - high)
            gap = math.hypot(max(flat, 0.0), max(rise, 0.0)) if flat > 0 or rise > 0 else max(flat, rise)
            least = gap if gap < least else least
        found[pose] = least
    return found


@_jit
def _extent(points: Array, x: float, y: float, z: float) -> tuple[float, float]:  # pragma: no cover - compiled
    least, most = math.inf, -math.inf
    for i in range(len(points)):
        along = points[i, 0] * x + points[i, 1] * y + points[i, 2] * z
        least = along if along < least else least
        most = along if along > most else most
    return least, most


@_jit
def _reach(points: Array, x: float, y: float, z: float) -> float:  # pragma: no cover - compiled
    most = -math.inf
    for i in range(len(points)):
        along = points[i, 0] * x + points[i, 1] * y + points[i, 2] * z
        most = along if along > most else most
    return most


@_jit
def widest(
    first: Array, second: Array, half: Array, dial: Array
) -> tuple[float, float, float, float]:  # pragma: no cover - compiled
    """The greatest gap from `first` (n, 3) to `second` (m, 3) over `half`, the opposite directions, and those round
    the best of them (`dial`: offsets across it, for a spread of 1): the gap [m] and its direction."""
    best, x, y, z = -math.inf, 0.0, 0.0, 1.0
    back, bx, by, bz = -math.inf, 0.0, 0.0, 1.0
    for way in range(len(half)):
        hx, hy, hz = half[way, 0], half[way, 1], half[way, 2]
        near_1, far_1 = _extent(first, hx, hy, hz)
        near_2, far_2 = _extent(second, hx, hy, hz)
        if near_2 - far_1 > best:
            best, x, y, z = near_2 - far_1, hx, hy, hz
        if near_1 - far_2 > back:
            back, bx, by, bz = near_1 - far_2, -hx, -hy, -hz
    if back > best:
        best, x, y, z = back, bx, by, bz
    spread = SPREAD
    for _ in range(ROUNDS):
        flat = math.hypot(x, y)
        rx, ry = (y / flat, -x / flat) if flat > 1e-9 else (0.0, -1.0)
        ux, uy, uz = ry * z, -rx * z, rx * y - ry * x
        found, fx, fy, fz = -math.inf, x, y, z
        for k in range(len(dial)):
            a, b = dial[k, 0] * spread, dial[k, 1] * spread
            wx, wy, wz = x + a * rx + b * ux, y + a * ry + b * uy, z + b * uz
            length = math.sqrt(wx * wx + wy * wy + wz * wz)
            wx, wy, wz = wx / length, wy / length, wz / length
            gap = -_reach(second, -wx, -wy, -wz) - _reach(first, wx, wy, wz)
            if gap > found:
                found, fx, fy, fz = gap, wx, wy, wz
        if found > best:
            best, x, y, z = found, fx, fy, fz
        spread *= NARROWER
    return best, x, y, z


@_jit
def _ring(points: Array) -> Array:  # pragma: no cover - compiled
    """The corners of the convex outline of points (n, 2), counter-clockwise: from left to right below, then back above,
    each time without those that the next leaves on the inner side (monotone chain)."""
    count = len(points)
    by_height = np.argsort(points[:, 1], kind="mergesort")
    order = by_height[np.argsort(points[by_height, 0], kind="mergesort")]
    found, used, first = np.empty((2 * count + 1, 2)), 0, 2
    for turn in range(2):
        for k in range(turn, count):
            here = order[k] if turn == 0 else order[count - 1 - k]
            while used >= first and _side(found[used - 2], found[used - 1], points[here]) <= 0.0:
                used -= 1
            found[used] = points[here]
            used += 1
        first = used + 1
    return found[: max(used - 1, 1)]


@_jit
def _side(a: Array, b: Array, point: Array) -> float:  # pragma: no cover - compiled
    """Twice the area of a triangle, positive where the point is left of the way from a to b."""
    return float((b[0] - a[0]) * (point[1] - a[1]) - (b[1] - a[1]) * (point[0] - a[0]))


@_jit
def _parted(first: Array, second: Array) -> tuple[float, float, float]:  # pragma: no cover - compiled
    """The greatest gap from one outline to another over the outward directions of the first's edges, and which."""
    best, x, y = -math.inf, 0.0, 0.0
    for k in range(len(first)):
        m = k + 1 if k + 1 < len(first) else 0
        ex, ey = first[m, 0] - first[k, 0], first[m, 1] - first[k, 1]
        length = math.hypot(ex, ey)
        if length == 0.0:
            continue
        nx, ny, least = ey / length, -ex / length, math.inf
        for i in range(len(second)):
            along = (second[i, 0] - first[k, 0]) * nx + (second[i, 1] - first[k, 1]) * ny
            least = along if along < least else least
        if least > best:
            best, x, y = least, nx, ny
    return best, x, y


@_jit
def _nearest(first: Array, second: Array) -> tuple[float, float, float]:  # pragma: no cover - compiled
    """The least way [squared] from the edges of one outline to the corners of another, and the way itself."""
    best, x, y = math.inf, 0.0, 0.0
    for k in range(len(first)):
        m = k + 1 if k + 1 < len(first) else 0
        ex, ey = first[m, 0] - first[k, 0], first[m, 1] - first[k, 1]
        square = ex * ex + ey * ey
        for i in range(len(second)):
            ox, oy = second[i, 0] - first[k, 0], second[i, 1] - first[k, 1]
            t = min(max((ox * ex + oy * ey) / square, 0.0), 1.0) if square > 0 else 0.0
            dx, dy = ox - t * ex, oy - t * ey
            away = dx * dx + dy * dy
            if away < best:
                best, x, y = away, dx, dy
    return best, x, y


@_jit
def flat_gap(first: Array, second: Array) -> tuple[float, float, float]:  # pragma: no cover - compiled
    """The gap between the convex outlines of points (n, 2) and (m, 2), negative by the least way that parts them, and
    the direction from the first to the second along it. Exact: the faces of the outlines' difference are theirs."""
    one, other = _ring(first), _ring(second)
    gap, x, y = _parted(one, other)
    back, bx, by = _parted(other, one)
    if back > gap:
        gap, x, y = back, -bx, -by
    if -math.inf < gap < 0.0:
        return gap, x, y
    away, dx, dy = _nearest(one, other)
    there, tx, ty = _nearest(other, one)
    if there < away:
        away, dx, dy = there, -tx, -ty
    far = math.sqrt(away)
    return (far, dx / far, dy / far) if far > 0.0 else (0.0, x, y)
