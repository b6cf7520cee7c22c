"""Compiled loops for what stands between two points, and how much of a patch is seen."""

import numpy as np

from evrant.core.base.compiled import Array, compiled


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
def before(p: Array, middle: Array, normal: Array) -> bool:
    """Whether a point lies before the plane of a patch."""
    return bool(
        (p[0] - middle[0]) * normal[0] + (p[1] - middle[1]) * normal[1] + (p[2] - middle[2]) * normal[2] > -1e-9
    )


@compiled
def seen(
    i: int,
    j: int,
    corners: Array,
    counts: Array,
    normals: Array,
    middles: Array,
    spheres: Array,
    ranges: Array,
    walls: Array,
    wall_counts: Array,
    wall_normals: Array,
    offsets: Array,
) -> float:
    """Share of patch j that patch i sees, by rays between matched points that lie before each other's plane."""
    p, q = np.empty(3), np.empty(3)
    rays = max(counts[i], counts[j], 4)
    free, told = 0, 0
    for k in range(rays):
        sample(corners[i], counts[i], middles[i], k % counts[i], p)
        sample(corners[j], counts[j], middles[j], (k * 3 + 1) % counts[j], q)
        if not before(q, middles[i], normals[i]) or not before(p, middles[j], normals[j]):
            continue
        told += 1
        if not blocked(p[0], p[1], p[2], q[0], q[1], q[2], spheres, ranges, walls, wall_counts, wall_normals, offsets):
            free += 1
    return float(free / told) if told else 0.0


@compiled
def free_share(
    p: Array,
    way: Array,
    corners: Array,
    count: int,
    middle: Array,
    wide: float,
    spheres: Array,
    ranges: Array,
    walls: Array,
    wall_counts: Array,
    wall_normals: Array,
    offsets: Array,
) -> float:
    """Share of a patch that a point sees past the bodies, by one ray to each of its samples before the point's own
    plane (normal `way`; zero: it sees all round)."""
    if not spheres.shape[0] or not may_block(p, middle, wide, spheres):
        return 1.0
    q = np.empty(3)
    free, told = 0, 0
    for k in range(count):
        sample(corners, count, middle, k, q)
        if not before(q, p, way):
            continue
        told += 1
        if not blocked(p[0], p[1], p[2], q[0], q[1], q[2], spheres, ranges, walls, wall_counts, wall_normals, offsets):
            free += 1
    return float(free / told) if told else 0.0
