"""Compiled inner loops: what a point receives from a polygon, what stands between two points, and
the exchange of every pair of patches.

Arrays: corners (n, 8, 3) with counts (n,), normals, middles (n, 3), spread = greatest distance of a
corner from the middle (n,), areas (n,). `Blockers` come as bodies (spheres and the range of their
polygons) and polygons, with a third figure 1 for a convex solid) and polygons (corners, counts, normals, offsets).

References:
[1] Lambert's contour formula for the configuration factor of a polygon, any text on radiant exchange.
[2] Van Oosterom and Strackee (1983) for the solid angle of a triangle.
"""

from collections.abc import Callable
from typing import Any, TypeVar, cast

import numpy as np
from numba import njit
from numpy.typing import NDArray

Array = NDArray[Any]
Kernel = TypeVar("Kernel", bound=Callable[..., Any])
_jit = njit(cache=True, nogil=True, fastmath={"contract", "arcp", "nsz", "reassoc"}, error_model="numpy")


def compiled(function: Kernel) -> Kernel:
    """The function compiled on its first call and kept on disk; the interpreter's lock is free while it runs."""
    return cast(Kernel, _jit(function))


FAR = 2.0
"""Pairs farther apart than this many times their spreads are exchanged by their middles."""


@compiled
def contour(px: float, py: float, pz: float, nx: float, ny: float, nz: float, corners: Array, count: int) -> float:
    """Configuration factor of a polygon for a flat receiver at p with normal n, cut at its horizon [1]."""
    kept = np.empty((40, 3))
    used = 0
    ax, ay, az = corners[count - 1, 0] - px, corners[count - 1, 1] - py, corners[count - 1, 2] - pz
    above = ax * nx + ay * ny + az * nz
    for k in range(count):
        bx, by, bz = corners[k, 0] - px, corners[k, 1] - py, corners[k, 2] - pz
        level = bx * nx + by * ny + bz * nz
        if (above > 0.0) != (level > 0.0):
            t = above / (above - level)
            kept[used, 0] = ax + t * (bx - ax)
            kept[used, 1] = ay + t * (by - ay)
            kept[used, 2] = az + t * (bz - az)
            used += 1
        if level > 0.0:
            kept[used, 0], kept[used, 1], kept[used, 2] = bx, by, bz
            used += 1
        ax, ay, az, above = bx, by, bz, level
    if used < 3:
        return 0.0
    total = 0.0
    for k in range(used):
        m = k + 1 if k + 1 < used else 0
        ax, ay, az = kept[k, 0], kept[k, 1], kept[k, 2]
        bx, by, bz = kept[m, 0], kept[m, 1], kept[m, 2]
        cx, cy, cz = ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx
        cross = np.sqrt(cx * cx + cy * cy + cz * cz)
        if cross < 1e-14:
            continue
        angle = np.arctan2(cross, ax * bx + ay * by + az * bz)
        total += angle * (cx * nx + cy * ny + cz * nz) / cross
    return abs(total) / (2.0 * np.pi)


@compiled
def pull(p: Array, corners: Array, count: int, out: Array) -> None:
    """Vector configuration factor: ∫ direction dω / π over the polygon, not cut at any horizon [1]."""
    out[0] = out[1] = out[2] = 0.0
    for k in range(count):
        m = k + 1 if k + 1 < count else 0
        ax, ay, az = corners[k, 0] - p[0], corners[k, 1] - p[1], corners[k, 2] - p[2]
        bx, by, bz = corners[m, 0] - p[0], corners[m, 1] - p[1], corners[m, 2] - p[2]
        cx, cy, cz = ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx
        cross = np.sqrt(cx * cx + cy * cy + cz * cz)
        if cross < 1e-14:
            continue
        angle = np.arctan2(cross, ax * bx + ay * by + az * bz) / cross / (2.0 * np.pi)
        out[0] -= angle * cx
        out[1] -= angle * cy
        out[2] -= angle * cz


@compiled
def solid_angle(p: Array, corners: Array, count: int) -> float:
    """Solid angle of a convex polygon [sr] [2]."""
    total = 0.0
    ax, ay, az = corners[0, 0] - p[0], corners[0, 1] - p[1], corners[0, 2] - p[2]
    a = np.sqrt(ax * ax + ay * ay + az * az)
    for k in range(1, count - 1):
        bx, by, bz = corners[k, 0] - p[0], corners[k, 1] - p[1], corners[k, 2] - p[2]
        cx, cy, cz = corners[k + 1, 0] - p[0], corners[k + 1, 1] - p[1], corners[k + 1, 2] - p[2]
        b = np.sqrt(bx * bx + by * by + bz * bz)
        c = np.sqrt(cx * cx + cy * cy + cz * cz)
        triple = ax * (by * cz - bz * cy) + ay * (bz * cx - bx * cz) + az * (bx * cy - by * cx)
        below = (
            a * b * c
            + (ax * bx + ay * by + az * bz) * c
            + (ax * cx + ay * cy + az * cz) * b
            + (bx * cx + by * cy + bz * cz) * a
        )
        total += 2.0 * np.arctan2(triple, below)
    return abs(total)


@compiled
def blocked(
    px: float,
    py: float,
    pz: float,
    qx: float,
    qy: float,
    qz: float,
    spheres: Array,
    ranges: Array,
    corners: Array,
    counts: Array,
    normals: Array,
    offsets: Array,
) -> bool:
    """Whether anything stands between two points."""
    dx, dy, dz = qx - px, qy - py, qz - pz
    length = dx * dx + dy * dy + dz * dz
    if length < 1e-14:
        return False
    for b in range(spheres.shape[0]):
        ox, oy, oz = spheres[b, 0] - px, spheres[b, 1] - py, spheres[b, 2] - pz
        t = (ox * dx + oy * dy + oz * dz) / length
        t = min(max(t, 0.0), 1.0)
        ex, ey, ez = ox - t * dx, oy - t * dy, oz - t * dz
        if ex * ex + ey * ey + ez * ez > spheres[b, 3] * spheres[b, 3]:
            continue
        if ranges[b, 2] == 1:
            start, end = 0.0, 1.0
            for k in range(ranges[b, 0], ranges[b, 1]):
                before = normals[k, 0] * px + normals[k, 1] * py + normals[k, 2] * pz - offsets[k]
                after = normals[k, 0] * qx + normals[k, 1] * qy + normals[k, 2] * qz - offsets[k]
                if before >= -1e-6 and after >= -1e-6:
                    end = -1.0
                    break
                if before > 0.0:
                    start = max(start, before / (before - after))
                elif after > 0.0:
                    end = min(end, before / (before - after))
                if start >= end:
                    break
            if start < end:
                return True
            continue
        for k in range(ranges[b, 0], ranges[b, 1]):
            nx, ny, nz = normals[k, 0], normals[k, 1], normals[k, 2]
            before = nx * px + ny * py + nz * pz - offsets[k]
            after = nx * qx + ny * qy + nz * qz - offsets[k]
            if before * after >= 0.0 or abs(before) < 1e-6 or abs(after) < 1e-6:
                continue
            s = before / (before - after)
            hx, hy, hz = px + s * dx, py + s * dy, pz + s * dz
            inside = True
            count = counts[k]
            for c in range(count):
                m = c + 1 if c + 1 < count else 0
                ux, uy, uz = (
                    corners[k, m, 0] - corners[k, c, 0],
                    corners[k, m, 1] - corners[k, c, 1],
                    corners[k, m, 2] - corners[k, c, 2],
                )
                wx, wy, wz = hx - corners[k, c, 0], hy - corners[k, c, 1], hz - corners[k, c, 2]
                turn = (uy * wz - uz * wy) * nx + (uz * wx - ux * wz) * ny + (ux * wy - uy * wx) * nz
                if turn < 0.0:
                    inside = False
                    break
            if inside:
                return True
    return False


@compiled
def may_block(p: Array, q: Array, wide: float, spheres: Array) -> bool:
    """Whether a body comes near the tube of radius `wide` between two points."""
    dx, dy, dz = q[0] - p[0], q[1] - p[1], q[2] - p[2]
    length = dx * dx + dy * dy + dz * dz
    for b in range(spheres.shape[0]):
        ox, oy, oz = spheres[b, 0] - p[0], spheres[b, 1] - p[1], spheres[b, 2] - p[2]
        t = (ox * dx + oy * dy + oz * dz) / length if length > 1e-14 else 0.0
        t = min(max(t, 0.0), 1.0)
        ex, ey, ez = ox - t * dx, oy - t * dy, oz - t * dz
        reach = spheres[b, 3] + wide
        if ex * ex + ey * ey + ez * ez < reach * reach:
            return True
    return False


@compiled
def sample(corners: Array, count: int, middle: Array, k: int, out: Array) -> None:
    """The k-th of `count` points spread over a patch: half way from its middle to a corner."""
    for c in range(3):
        out[c] = 0.5 * (middle[c] + corners[k, c])


@compiled
def seen(
    i: int,
    j: int,
    corners: Array,
    counts: Array,
    middles: Array,
    spheres: Array,
    ranges: Array,
    walls: Array,
    wall_counts: Array,
    wall_normals: Array,
    offsets: Array,
) -> float:
    """Share of patch j that patch i sees, by rays between matched points."""
    p, q = np.empty(3), np.empty(3)
    rays = max(counts[i], counts[j], 4)
    free = 0
    for k in range(rays):
        sample(corners[i], counts[i], middles[i], k % counts[i], p)
        sample(corners[j], counts[j], middles[j], (k * 3 + 1) % counts[j], q)
        if not blocked(p[0], p[1], p[2], q[0], q[1], q[2], spheres, ranges, walls, wall_counts, wall_normals, offsets):
            free += 1
    return float(free / rays)


@compiled
def exchange(
    start: int,
    corners: Array,
    counts: Array,
    normals: Array,
    middles: Array,
    areas: Array,
    spread: Array,
    spheres: Array,
    ranges: Array,
    walls: Array,
    wall_counts: Array,
    wall_normals: Array,
    offsets: Array,
    out: Array,
) -> None:
    """A_i F_ij [m²] of every pair with a patch numbered `start` or later, both ways, into `out`."""
    total = len(areas)
    p = np.empty(3)
    for j in range(max(start, 1), total):
        for i in range(j):
            out[i, j] = 0.0
            out[j, i] = 0.0
            dx, dy, dz = middles[j, 0] - middles[i, 0], middles[j, 1] - middles[i, 1], middles[j, 2] - middles[i, 2]
            far = dx * dx + dy * dy + dz * dz
            up = normals[i, 0] * dx + normals[i, 1] * dy + normals[i, 2] * dz
            down = -(normals[j, 0] * dx + normals[j, 1] * dy + normals[j, 2] * dz)
            if up < -spread[j] or down < -spread[i]:
                continue
            near = FAR * (spread[i] + spread[j])
            if far > near * near:
                if up <= 0.0 or down <= 0.0:
                    continue
                value = areas[i] * areas[j] * up * down / (np.pi * far * far)
            else:
                a, b = (i, j) if areas[i] <= areas[j] else (j, i)
                value = 0.0
                close = 0.8 * (spread[i] + spread[j])
                fine = 4 if far < close * close * 2.0 else 1
                n = counts[a]
                for k in range(n):
                    for m in range(fine):
                        if fine == 1:
                            sample(corners[a], n, middles[a], k, p)
                        else:
                            _fourth(corners[a], n, middles[a], k, m, p)
                        front = (
                            (p[0] - middles[b, 0]) * normals[b, 0]
                            + (p[1] - middles[b, 1]) * normals[b, 1]
                            + (p[2] - middles[b, 2]) * normals[b, 2]
                        )
                        if front > 1e-9:
                            value += contour(
                                p[0], p[1], p[2], normals[a, 0], normals[a, 1], normals[a, 2], corners[b], counts[b]
                            )
                value *= areas[a] / (n * fine)
            if value <= 0.0:
                continue
            if spheres.shape[0] and may_block(middles[i], middles[j], max(spread[i], spread[j]), spheres):
                value *= seen(
                    i, j, corners, counts, middles, spheres, ranges, walls, wall_counts, wall_normals, offsets
                )
            out[i, j] = value
            out[j, i] = value


@compiled
def _fourth(corners: Array, count: int, middle: Array, k: int, m: int, out: Array) -> None:
    """Finer points: each quarter of a patch (middle, edge middle, corner, edge middle) has four of its own."""
    before, after = (k - 1) % count, (k + 1) % count
    for c in range(3):
        corner = corners[k, c]
        first, last = 0.5 * (corners[before, c] + corner), 0.5 * (corner + corners[after, c])
        centre = 0.25 * (corner + first + last + middle[c])
        if m == 0:
            out[c] = 0.5 * (centre + corner)
        elif m == 1:
            out[c] = 0.5 * (centre + first)
        elif m == 2:
            out[c] = 0.5 * (centre + last)
        else:
            out[c] = 0.5 * (centre + middle[c])


@compiled
def shade_pairs(
    limit: int,
    corners: Array,
    counts: Array,
    middles: Array,
    spread: Array,
    spheres: Array,
    ranges: Array,
    walls: Array,
    wall_counts: Array,
    wall_normals: Array,
    offsets: Array,
    out: Array,
) -> None:
    """Multiply the exchange of the first `limit` patches by what further bodies leave free between them."""
    for j in range(1, limit):
        for i in range(j):
            if out[i, j] == 0.0 or not may_block(middles[i], middles[j], max(spread[i], spread[j]), spheres):
                continue
            part = seen(i, j, corners, counts, middles, spheres, ranges, walls, wall_counts, wall_normals, offsets)
            out[i, j] *= part
            out[j, i] *= part


@compiled
def receive(
    points: Array,
    ways: Array,
    corners: Array,
    counts: Array,
    normals: Array,
    middles: Array,
    areas: Array,
    spread: Array,
    spheres: Array,
    ranges: Array,
    walls: Array,
    wall_counts: Array,
    wall_normals: Array,
    offsets: Array,
    out: Array,
) -> None:
    """Configuration factor of every patch for flat receivers at points with normals `ways`; solid angle / π for
    receivers with no normal, which take light from everywhere alike."""
    q = np.empty(3)
    for r in range(len(points)):
        p, way = points[r], ways[r]
        flat = way[0] != 0.0 or way[1] != 0.0 or way[2] != 0.0
        for j in range(len(areas)):
            out[r, j] = 0.0
            dx, dy, dz = middles[j, 0] - p[0], middles[j, 1] - p[1], middles[j, 2] - p[2]
            up = way[0] * dx + way[1] * dy + way[2] * dz
            down = -(normals[j, 0] * dx + normals[j, 1] * dy + normals[j, 2] * dz)
            if (flat and up < -spread[j]) or down <= 1e-9:
                continue
            far = dx * dx + dy * dy + dz * dz
            if not flat:
                value = solid_angle(p, corners[j], counts[j]) / np.pi
            elif far > 36.0 * spread[j] * spread[j] and up > spread[j]:
                value = areas[j] * up * down / (np.pi * far * far)
            else:
                value = contour(p[0], p[1], p[2], way[0], way[1], way[2], corners[j], counts[j])
            if value > 0.0 and spheres.shape[0] and may_block(p, middles[j], spread[j], spheres):
                free = 0
                for k in range(counts[j]):
                    sample(corners[j], counts[j], middles[j], k, q)
                    if not blocked(
                        p[0], p[1], p[2], q[0], q[1], q[2], spheres, ranges, walls, wall_counts, wall_normals, offsets
                    ):
                        free += 1
                value *= free / counts[j]
            out[r, j] = value


@compiled
def surround(
    p: Array,
    corners: Array,
    counts: Array,
    normals: Array,
    middles: Array,
    spread: Array,
    spheres: Array,
    ranges: Array,
    walls: Array,
    wall_counts: Array,
    wall_normals: Array,
    offsets: Array,
    ways: Array,
    angles: Array,
) -> None:
    """Of every patch from one point: vector configuration factor (n, 3) and solid angle / π (n,), free of what
    stands between."""
    q = np.empty(3)
    for j in range(len(spread)):
        ways[j, 0] = ways[j, 1] = ways[j, 2] = 0.0
        angles[j] = 0.0
        down = (
            (p[0] - middles[j, 0]) * normals[j, 0]
            + (p[1] - middles[j, 1]) * normals[j, 1]
            + (p[2] - middles[j, 2]) * normals[j, 2]
        )
        if down <= 1e-9:
            continue
        share = 1.0
        if spheres.shape[0] and may_block(p, middles[j], spread[j], spheres):
            free = 0
            for k in range(counts[j]):
                sample(corners[j], counts[j], middles[j], k, q)
                if not blocked(
                    p[0], p[1], p[2], q[0], q[1], q[2], spheres, ranges, walls, wall_counts, wall_normals, offsets
                ):
                    free += 1
            share = free / counts[j]
        pull(p, corners[j], counts[j], ways[j])
        ways[j] *= share
        angles[j] = share * solid_angle(p, corners[j], counts[j]) / np.pi


@compiled
def spread_points(ring: Array, total: int, count: int, out: Array) -> None:
    """`count` points of equal weight over a convex polygon of `total` corners: a lattice of low discrepancy
    mapped by area."""
    edges = np.empty(total - 1)
    edges[0] = 0.0
    for k in range(1, total - 1):
        turn = np.cross(ring[k] - ring[0], ring[k + 1] - ring[0])
        edges[k] = edges[k - 1] + np.sqrt((turn * turn).sum())
    whole = edges[total - 2]
    for i in range(count):
        u, v = (i + 0.5) / count * whole, (i * 0.6180339887498949 + 0.25) % 1.0
        k = 1
        while k < total - 2 and edges[k] < u:
            k += 1
        inner = (u - edges[k - 1]) / max(edges[k] - edges[k - 1], 1e-300)
        reach = np.sqrt(v)
        for c in range(3):
            a, b = ring[k, c] - ring[0, c], ring[k + 1, c] - ring[0, c]
            out[i, c] = ring[0, c] + reach * ((1.0 - inner) * a + inner * b)


@compiled
def newell(ring: Array) -> Array:
    """Twice the area of a flat polygon along its normal."""
    total = np.zeros(3)
    n = len(ring)
    for k in range(n):
        m = k + 1 if k + 1 < n else 0
        ax, ay, az = ring[k, 0] - ring[0, 0], ring[k, 1] - ring[0, 1], ring[k, 2] - ring[0, 2]
        bx, by, bz = ring[m, 0] - ring[0, 0], ring[m, 1] - ring[0, 1], ring[m, 2] - ring[0, 2]
        total[0] += ay * bz - az * by
        total[1] += az * bx - ax * bz
        total[2] += ax * by - ay * bx
    return total


@compiled
def clip(ring: Array, count: int, way: Array, level: float, out: Array) -> int:
    """Corners of the part of a ring where x·way ≤ level; how many there are."""
    used = 0
    for k in range(count):
        m = k + 1 if k + 1 < count else 0
        a = ring[k, 0] * way[0] + ring[k, 1] * way[1] + ring[k, 2] * way[2] - level
        b = ring[m, 0] * way[0] + ring[m, 1] * way[1] + ring[m, 2] * way[2] - level
        if a <= 1e-9:
            out[used] = ring[k]
            used += 1
        if (a > 1e-9 and b < -1e-9) or (a < -1e-9 and b > 1e-9):
            out[used] = ring[k] + (ring[m] - ring[k]) * (a / (a - b))
            used += 1
    return used


@compiled
def cells(
    polygon: Array, along: Array, across: Array, nx: int, ny: int, low: Array, step: Array, least: float, out: Array
) -> Array:
    """Pieces (n, 16, 3) of a convex polygon between nx × ny lines; the counts of their corners."""
    counts = np.zeros(nx * ny, dtype=np.int64)
    used = 0
    total = len(polygon)
    row, first, second, last = np.empty((16, 3)), np.empty((16, 3)), np.empty((16, 3)), np.empty((16, 3))
    for i in range(nx):
        c = clip(polygon, total, along, low[0] + (i + 1) * step[0], first)
        c = clip(first, c, -along, -(low[0] + i * step[0]), row)
        if c < 3:
            continue
        for j in range(ny):
            d = clip(row, c, across, low[1] + (j + 1) * step[1], second)
            d = clip(second, d, -across, -(low[1] + j * step[1]), last)
            if d < 3:
                continue
            size = np.zeros(3)
            for k in range(1, d - 1):
                size += np.cross(last[k] - last[0], last[k + 1] - last[0])
            if 0.5 * np.sqrt((size * size).sum()) < least:
                continue
            out[used, :d] = last[:d]
            counts[used] = d
            used += 1
    return counts[:used]


@compiled
def measure(corners: Array, counts: Array, normals: Array, middles: Array, areas: Array, spread: Array) -> None:
    """Normals, centres of area, areas and greatest corner distances of convex polygons."""
    for i in range(len(counts)):
        n = counts[i]
        first = corners[i, 0]
        total, weighted, weight = np.zeros(3), np.zeros(3), 0.0
        for k in range(1, n - 1):
            a, b = corners[i, k] - first, corners[i, k + 1] - first
            c = np.cross(a, b)
            size = np.sqrt((c * c).sum())
            total += c
            weighted += (a + b) * size
            weight += size
        long = np.sqrt((total * total).sum())
        areas[i] = 0.5 * long
        normals[i] = total / max(long, 1e-300)
        middles[i] = first + weighted / (3.0 * max(weight, 1e-300))
        reach = 0.0
        for k in range(n):
            d = corners[i, k] - middles[i]
            reach = max(reach, (d * d).sum())
        spread[i] = np.sqrt(reach)


@compiled
def intensity(cosine: float, table: Array, side: float) -> float:
    """Relative intensity [cd per lm] from a table over angle (rows, 0 to 180°) and side (columns, 0 to 360°)."""
    rows, columns = table.shape
    angle = np.arccos(min(max(cosine, -1.0), 1.0)) / np.pi * (rows - 1)
    a = min(int(angle), rows - 2)
    t = angle - a
    if columns == 1:
        return float((1.0 - t) * table[a, 0] + t * table[a + 1, 0])
    turn = side / (2.0 * np.pi) * columns
    b = int(np.floor(turn))
    s = turn - b
    b0, b1 = b % columns, (b + 1) % columns
    low = (1.0 - s) * table[a, b0] + s * table[a, b1]
    high = (1.0 - s) * table[a + 1, b0] + s * table[a + 1, b1]
    return float((1.0 - t) * low + t * high)


@compiled
def direct(
    points: Array,
    ways: Array,
    face: Array,
    face_count: int,
    forward: Array,
    right: Array,
    size: float,
    fine: Array,
    coarse: Array,
    cosine: bool,
    table: Array,
    spheres: Array,
    ranges: Array,
    walls: Array,
    wall_counts: Array,
    wall_normals: Array,
    offsets: Array,
    out: Array,
) -> None:
    """Illuminance per lumen [lx/lm] at points with normals from one luminous face.

    A cosine face is exact by contour times the share of it that is free; others by points on the face.
    A zero normal means a receiver that takes light from everywhere alike.
    """
    area = 0.0
    for k in range(1, face_count - 1):
        ax, ay, az = face[k, 0] - face[0, 0], face[k, 1] - face[0, 1], face[k, 2] - face[0, 2]
        bx, by, bz = face[k + 1, 0] - face[0, 0], face[k + 1, 1] - face[0, 1], face[k + 1, 2] - face[0, 2]
        cx, cy, cz = ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx
        area += 0.5 * np.sqrt(cx * cx + cy * cy + cz * cz)
    up = np.cross(right, forward)
    centre = np.zeros(3)
    for k in range(len(coarse)):
        centre += coarse[k] / len(coarse)
    for r in range(len(points)):
        p, way = points[r], ways[r]
        flat = way[0] != 0.0 or way[1] != 0.0 or way[2] != 0.0
        gx, gy, gz = p[0] - centre[0], p[1] - centre[1], p[2] - centre[2]
        far = gx * gx + gy * gy + gz * gz
        value = 0.0
        spots = fine if far < 5.0 * size * size else coarse
        if cosine and flat and not may_block(p, centre, 0.5 * size, spheres):
            if gx * forward[0] + gy * forward[1] + gz * forward[2] > 1e-6:
                value = contour(p[0], p[1], p[2], way[0], way[1], way[2], face, face_count) / area
            out[r] = value
            continue
        free = 0.0
        weight = 0.0
        for k in range(len(spots)):
            dx, dy, dz = p[0] - spots[k, 0], p[1] - spots[k, 1], p[2] - spots[k, 2]
            d2 = dx * dx + dy * dy + dz * dz
            if d2 < 1e-8:
                continue
            d = np.sqrt(d2)
            out_cos = (dx * forward[0] + dy * forward[1] + dz * forward[2]) / d
            in_cos = -(dx * way[0] + dy * way[1] + dz * way[2]) / d if flat else 1.0
            if in_cos <= 0.0 or (cosine and out_cos <= 0.0):
                continue
            if cosine:
                strength = out_cos / np.pi
            elif table.shape[1] == 1:
                strength = intensity(out_cos, table, 0.0)
            else:
                sx = dx * right[0] + dy * right[1] + dz * right[2]
                sy = dx * up[0] + dy * up[1] + dz * up[2]
                strength = intensity(out_cos, table, np.arctan2(sy, sx))
            part = strength * in_cos / d2
            if part <= 0.0:
                continue
            weight += part
            if not blocked(
                spots[k, 0],
                spots[k, 1],
                spots[k, 2],
                p[0],
                p[1],
                p[2],
                spheres,
                ranges,
                walls,
                wall_counts,
                wall_normals,
                offsets,
            ):
                free += part
        if cosine and flat:
            front = gx * forward[0] + gy * forward[1] + gz * forward[2]
            if front > 1e-6:
                whole = contour(p[0], p[1], p[2], way[0], way[1], way[2], face, face_count) / area
                value = whole * (free / weight if weight > 0.0 else 0.0)
        else:
            value = free / len(spots)
        out[r] = value
