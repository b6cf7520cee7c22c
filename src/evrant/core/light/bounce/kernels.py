"""Compiled inner loops: what a point receives from a polygon, what stands between two points, and
the exchange of every pair of patches.

Arrays: corners (n, 8, 3) with counts (n,), normals, middles (n, 3), spread = greatest distance of a
corner from the middle (n,), areas (n,). `Blockers` come as bodies (spheres, and the range of their polygons with a
third figure 1 for a convex solid) and polygons (corners, counts, normals, offsets). No loop cuts a row out of a table:
counting who holds it, in several threads at once, costs more than most of the work here.

References:
[1] Lambert's contour formula for the configuration factor of a polygon, any text on radiant exchange.
[2] Van Oosterom and Strackee (1983) for the solid angle of a triangle.
"""

import numpy as np

from evrant.core.base.compiled import Array, compiled
from evrant.core.light.bounce.sight import blocked, free_share, may_block, may_stand, sample, seen

FAR = 2.0
"""Pairs farther apart than this many times their spreads are exchanged by their middles."""


@compiled
def contour(
    px: float, py: float, pz: float, nx: float, ny: float, nz: float, corners: Array, j: int, count: int
) -> float:
    """Configuration factor of polygon j for a flat receiver at p with normal n, cut at its horizon [1]."""
    ax, ay, az = corners[j, count - 1, 0] - px, corners[j, count - 1, 1] - py, corners[j, count - 1, 2] - pz
    above = ax * nx + ay * ny + az * nz
    used, total = 0, 0.0
    fx, fy, fz, lx, ly, lz = 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
    for k in range(count):
        bx, by, bz = corners[j, k, 0] - px, corners[j, k, 1] - py, corners[j, k, 2] - pz
        level = bx * nx + by * ny + bz * nz
        if (above > 0.0) != (level > 0.0):
            t = above / (above - level)
            cx, cy, cz = ax + t * (bx - ax), ay + t * (by - ay), az + t * (bz - az)
            if used:
                total += _edge(lx, ly, lz, cx, cy, cz, nx, ny, nz)
            else:
                fx, fy, fz = cx, cy, cz
            lx, ly, lz = cx, cy, cz
            used += 1
        if level > 0.0:
            if used:
                total += _edge(lx, ly, lz, bx, by, bz, nx, ny, nz)
            else:
                fx, fy, fz = bx, by, bz
            lx, ly, lz = bx, by, bz
            used += 1
        ax, ay, az, above = bx, by, bz, level
    if used < 3:
        return 0.0
    total += _edge(lx, ly, lz, fx, fy, fz, nx, ny, nz)
    return abs(total) / (2.0 * np.pi)


@compiled
def _edge(ax: float, ay: float, az: float, bx: float, by: float, bz: float, nx: float, ny: float, nz: float) -> float:
    """What one edge adds to the contour: its angle times how its plane faces the receiver."""
    cx, cy, cz = ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx
    cross = np.sqrt(cx * cx + cy * cy + cz * cz)
    if cross < 1e-14:
        return 0.0
    angle = np.arctan2(cross, ax * bx + ay * by + az * bz)
    return float(angle * (cx * nx + cy * ny + cz * nz) / cross)


@compiled
def pull(px: float, py: float, pz: float, corners: Array, j: int, count: int) -> tuple[float, float, float]:
    """Vector configuration factor: ∫ direction dω / π over polygon j, not cut at any horizon [1]."""
    x, y, z = 0.0, 0.0, 0.0
    for k in range(count):
        m = k + 1 if k + 1 < count else 0
        ax, ay, az = corners[j, k, 0] - px, corners[j, k, 1] - py, corners[j, k, 2] - pz
        bx, by, bz = corners[j, m, 0] - px, corners[j, m, 1] - py, corners[j, m, 2] - pz
        cx, cy, cz = ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx
        cross = np.sqrt(cx * cx + cy * cy + cz * cz)
        if cross < 1e-14:
            continue
        angle = np.arctan2(cross, ax * bx + ay * by + az * bz) / cross / (2.0 * np.pi)
        x, y, z = x - angle * cx, y - angle * cy, z - angle * cz
    return x, y, z


@compiled
def solid_angle(px: float, py: float, pz: float, corners: Array, j: int, count: int) -> float:
    """Solid angle of convex polygon j [sr] [2]."""
    total = 0.0
    ax, ay, az = corners[j, 0, 0] - px, corners[j, 0, 1] - py, corners[j, 0, 2] - pz
    a = np.sqrt(ax * ax + ay * ay + az * az)
    for k in range(1, count - 1):
        bx, by, bz = corners[j, k, 0] - px, corners[j, k, 1] - py, corners[j, k, 2] - pz
        cx, cy, cz = corners[j, k + 1, 0] - px, corners[j, k + 1, 1] - py, corners[j, k + 1, 2] - pz
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
                            x, y, z = sample(a, k, corners, middles)
                        else:
                            x, y, z = _fourth(a, n, k, m, corners, middles)
                        front = (
                            (x - middles[b, 0]) * normals[b, 0]
                            + (y - middles[b, 1]) * normals[b, 1]
                            + (z - middles[b, 2]) * normals[b, 2]
                        )
                        if front > 1e-9:
                            nx, ny, nz = normals[a, 0], normals[a, 1], normals[a, 2]
                            value += contour(x, y, z, nx, ny, nz, corners, b, counts[b])
                value *= areas[a] / (n * fine)
            if value <= 0.0:
                continue
            if spheres.shape[0] and _way_near(i, j, middles, spread, spheres):
                value *= seen(
                    i, j, corners, counts, normals, middles, spheres, ranges, walls, wall_counts, wall_normals, offsets
                )
            out[i, j] = value
            out[j, i] = value


@compiled
def _way_near(i: int, j: int, middles: Array, spread: Array, spheres: Array) -> bool:
    """Whether a body comes near the way between two patches."""
    one = middles[i, 0], middles[i, 1], middles[i, 2]
    return bool(may_block(*one, middles[j, 0], middles[j, 1], middles[j, 2], max(spread[i], spread[j]), spheres))


@compiled
def _fourth(j: int, count: int, k: int, m: int, corners: Array, middles: Array) -> tuple[float, float, float]:
    """Finer points: each quarter of patch j (middle, edge middle, corner, edge middle) has four of its own."""
    before, after = (k - 1) % count, (k + 1) % count
    return (
        _quarter(corners[j, before, 0], corners[j, k, 0], corners[j, after, 0], middles[j, 0], m),
        _quarter(corners[j, before, 1], corners[j, k, 1], corners[j, after, 1], middles[j, 1], m),
        _quarter(corners[j, before, 2], corners[j, k, 2], corners[j, after, 2], middles[j, 2], m),
    )


@compiled
def _quarter(before: float, corner: float, after: float, middle: float, m: int) -> float:
    """One coordinate of the m-th point of a quarter."""
    first, last = 0.5 * (before + corner), 0.5 * (corner + after)
    centre = 0.25 * (corner + first + last + middle)
    if m == 0:
        return 0.5 * (centre + corner)
    if m == 1:
        return 0.5 * (centre + first)
    if m == 2:
        return 0.5 * (centre + last)
    return 0.5 * (centre + middle)


@compiled
def shade_pairs(
    limit: int,
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
    out: Array,
) -> None:
    """Multiply the exchange of the first `limit` patches by what further bodies leave free between them."""
    for j in range(1, limit):
        for i in range(j):
            if out[i, j] == 0.0 or not _way_near(i, j, middles, spread, spheres):
                continue
            part = seen(
                i, j, corners, counts, normals, middles, spheres, ranges, walls, wall_counts, wall_normals, offsets
            )
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
    for r in range(len(points)):
        receiver = points[r, 0], points[r, 1], points[r, 2], ways[r, 0], ways[r, 1], ways[r, 2]
        for j in range(len(areas)):
            out[r, j] = _received(
                *(*receiver, j, corners, counts, normals, middles, areas, spread),
                *(spheres, ranges, walls, wall_counts, wall_normals, offsets),
            )


@compiled
def receive_past(
    points: Array,
    ways: Array,
    stay: int,
    balls: Array,
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
    """As `receive`, where `out` holds the factors of the first `stay` patches without the bodies round which `balls`
    lie: found anew are those that a ball comes near, by the very test that `receive` passes bodies by, and of the other
    patches all."""
    for r in range(len(points)):
        px, py, pz = points[r, 0], points[r, 1], points[r, 2]
        receiver = px, py, pz, ways[r, 0], ways[r, 1], ways[r, 2]
        for j in range(len(areas)):
            middle = middles[j, 0], middles[j, 1], middles[j, 2]
            if j < stay and (out[r, j] == 0.0 or not may_block(px, py, pz, *middle, spread[j], balls)):
                continue
            out[r, j] = _received(
                *(*receiver, j, corners, counts, normals, middles, areas, spread),
                *(spheres, ranges, walls, wall_counts, wall_normals, offsets),
            )


@compiled
def _received(
    px: float,
    py: float,
    pz: float,
    wx: float,
    wy: float,
    wz: float,
    j: int,
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
) -> float:
    """Configuration factor of patch j for one receiver with normal `w`; solid angle / π where it has none."""
    flat = wx != 0.0 or wy != 0.0 or wz != 0.0
    dx, dy, dz = middles[j, 0] - px, middles[j, 1] - py, middles[j, 2] - pz
    up = wx * dx + wy * dy + wz * dz
    down = -(normals[j, 0] * dx + normals[j, 1] * dy + normals[j, 2] * dz)
    if (flat and up < -spread[j]) or down <= 1e-9:
        return 0.0
    far = dx * dx + dy * dy + dz * dz
    if not flat:
        value = solid_angle(px, py, pz, corners, j, counts[j]) / np.pi
    elif far > 36.0 * spread[j] * spread[j] and up > spread[j]:
        value = areas[j] * up * down / (np.pi * far * far)
    else:
        value = contour(px, py, pz, wx, wy, wz, corners, j, counts[j])
    if value > 0.0:
        value *= free_share(
            *(px, py, pz, wx, wy, wz, j, corners, counts[j], middles, spread[j]),
            *(spheres, ranges, walls, wall_counts, wall_normals, offsets),
        )
    return float(value)


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
    px, py, pz = p[0], p[1], p[2]
    for j in range(len(spread)):
        ways[j, 0] = ways[j, 1] = ways[j, 2] = 0.0
        angles[j] = 0.0
        down = (
            (px - middles[j, 0]) * normals[j, 0]
            + (py - middles[j, 1]) * normals[j, 1]
            + (pz - middles[j, 2]) * normals[j, 2]
        )
        if down <= 1e-9:
            continue
        share = free_share(
            *(px, py, pz, 0.0, 0.0, 0.0, j, corners, counts[j], middles, spread[j]),
            *(spheres, ranges, walls, wall_counts, wall_normals, offsets),
        )
        x, y, z = pull(px, py, pz, corners, j, counts[j])
        ways[j, 0], ways[j, 1], ways[j, 2] = share * x, share * y, share * z
        angles[j] = share * solid_angle(px, py, pz, corners, j, counts[j]) / np.pi


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
    `face` (1, corners, 3). A zero normal means a receiver that takes light from everywhere alike.
    """
    area = 0.0
    for k in range(1, face_count - 1):
        ax, ay, az = face[0, k, 0] - face[0, 0, 0], face[0, k, 1] - face[0, 0, 1], face[0, k, 2] - face[0, 0, 2]
        bx, by, bz = (
            face[0, k + 1, 0] - face[0, 0, 0],
            face[0, k + 1, 1] - face[0, 0, 1],
            face[0, k + 1, 2] - face[0, 0, 2],
        )
        cx, cy, cz = ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx
        area += 0.5 * np.sqrt(cx * cx + cy * cy + cz * cz)
    up = np.cross(right, forward)
    centre = np.zeros(3)
    for k in range(len(coarse)):
        centre += coarse[k] / len(coarse)
    balls, spans = np.empty((max(len(spheres), 1), 4)), np.empty((max(len(spheres), 1), 3), dtype=np.int64)
    for r in range(len(points)):
        px, py, pz, wx, wy, wz = points[r, 0], points[r, 1], points[r, 2], ways[r, 0], ways[r, 1], ways[r, 2]
        flat = wx != 0.0 or wy != 0.0 or wz != 0.0
        gx, gy, gz = px - centre[0], py - centre[1], pz - centre[2]
        far = gx * gx + gy * gy + gz * gz
        value = 0.0
        spots = fine if far < 5.0 * size * size else coarse
        count = 0
        for b in range(len(spheres)):
            way = px, py, pz, centre[0], centre[1], centre[2], 0.5 * size
            if may_stand(b, *way, spheres, ranges, wall_normals, offsets):
                for c in range(4):
                    balls[count, c] = spheres[b, c]
                for c in range(3):
                    spans[count, c] = ranges[b, c]
                count += 1
        if cosine and flat and not count:
            if gx * forward[0] + gy * forward[1] + gz * forward[2] > 1e-6:
                value = contour(px, py, pz, wx, wy, wz, face, 0, face_count) / area
            out[r] = value
            continue
        near, near_ranges = balls[:count], spans[:count]
        free = 0.0
        weight = 0.0
        for k in range(len(spots)):
            dx, dy, dz = px - spots[k, 0], py - spots[k, 1], pz - spots[k, 2]
            d2 = dx * dx + dy * dy + dz * dz
            if d2 < 1e-8:
                continue
            d = np.sqrt(d2)
            out_cos = (dx * forward[0] + dy * forward[1] + dz * forward[2]) / d
            in_cos = -(dx * wx + dy * wy + dz * wz) / d if flat else 1.0
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
                *(spots[k, 0], spots[k, 1], spots[k, 2], px, py, pz),
                *(near, near_ranges, walls, wall_counts, wall_normals, offsets),
            ):
                free += part
        if cosine and flat:
            front = gx * forward[0] + gy * forward[1] + gz * forward[2]
            if front > 1e-6:
                whole = contour(px, py, pz, wx, wy, wz, face, 0, face_count) / area
                value = whole * (free / weight if weight > 0.0 else 0.0)
        else:
            value = free / len(spots)
        out[r] = value
