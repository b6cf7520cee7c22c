"""Compiled loops that cut flat polygons, measure them, and spread points over them."""

import numpy as np

from evrant.core.base.compiled import Array, compiled


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
def one_side(ring: Array, point: Array, way: Array, edge: float) -> Array:
    """Corners of the part of a ring (n, 3) where (x − point)·way ≤ 0: the ring itself where nothing of it is farther
    than `edge` beyond, none where nothing is farther than that on this side."""
    n = len(ring)
    side = np.empty(n)
    for k in range(n):
        side[k] = 0.0
        for c in range(3):
            side[k] += (ring[k, c] - point[c]) * way[c]
    if side.max() <= edge:
        return ring
    if side.min() >= -edge:
        return ring[:0]
    found, used = np.empty((2 * n, 3)), 0
    for k in range(n):
        m = k + 1 if k + 1 < n else 0
        a, b = side[k], side[m]
        if a <= edge:
            found[used] = ring[k]
            used += 1
        if (a > edge and b < -edge) or (a < -edge and b > edge):
            found[used] = ring[k] + (ring[m] - ring[k]) * (a / (a - b))
            used += 1
    return found[:used] if used > 2 else found[:0]


@compiled
def outward(ring: Array, up: Array) -> Array:
    """The direction out of a flat polygon (n, 3) at each of its edges, seen with `up` towards the eye (n, 3)."""
    n = len(ring)
    found = np.empty((n, 3))
    for k in range(n):
        m = k + 1 if k + 1 < n else 0
        x, y, z = ring[m, 0] - ring[k, 0], ring[m, 1] - ring[k, 1], ring[m, 2] - ring[k, 2]
        long = max(np.sqrt(x * x + y * y + z * z), 1e-300)
        found[k, 0] = (y * up[2] - z * up[1]) / long
        found[k, 1] = (z * up[0] - x * up[2]) / long
        found[k, 2] = (x * up[1] - y * up[0]) / long
    return found


@compiled
def shared(ring: Array, other: Array, edge: float) -> Array:
    """Corners of what two convex polygons in one plane share; none where that is nothing."""
    up = newell(other)
    up = up / max(np.sqrt(up[0] * up[0] + up[1] * up[1] + up[2] * up[2]), 1e-300)
    ways, rest = outward(other, up), ring
    for k in range(len(other)):
        rest = one_side(rest, other[k], ways[k], edge)
        if len(rest) < 3:
            return rest[:0]
    return rest


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
def gridded(polygon: Array, size: float, least: float) -> tuple[Array, Array]:
    """Convex cells of a polygon, about `size` wide, along its longest edge: corners (n, 16, 3), counts (n,)."""
    total = len(polygon)
    along, longest = np.zeros(3), -1.0
    for k in range(total):
        m = k + 1 if k + 1 < total else 0
        edge = polygon[m] - polygon[k]
        long = edge[0] * edge[0] + edge[1] * edge[1] + edge[2] * edge[2]
        if long > longest:
            along, longest = edge, long
    along = along / max(np.sqrt(longest), 1e-300)
    up = newell(polygon)
    up = up / max(np.sqrt(up[0] * up[0] + up[1] * up[1] + up[2] * up[2]), 1e-300)
    across = np.cross(up, along)
    low, high = np.full(2, np.inf), np.full(2, -np.inf)
    for k in range(total):
        corner = polygon[k]
        for c, way in enumerate((along, across)):
            reach = corner[0] * way[0] + corner[1] * way[1] + corner[2] * way[2]
            low[c], high[c] = min(low[c], reach), max(high[c], reach)
    nx = max(int(np.ceil((high[0] - low[0]) / size - 0.2)), 1)
    ny = max(int(np.ceil((high[1] - low[1]) / size - 0.2)), 1)
    out = np.zeros((nx * ny, 16, 3))
    if nx * ny == 1 and total <= 16:
        out[0, :total] = polygon
        return out, np.full(1, total)
    step = np.array([(high[0] - low[0]) / nx, (high[1] - low[1]) / ny])
    counts = cells(polygon, along, across, nx, ny, low, step, least, out)
    return out[: len(counts)], counts


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
