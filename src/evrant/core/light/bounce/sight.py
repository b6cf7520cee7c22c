"""Compiled loops for what stands between two points, and how much of a patch is seen."""

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
def may_block(px: float, py: float, pz: float, qx: float, qy: float, qz: float, wide: float, spheres: Array) -> bool:
    """Whether a body comes near the tube of radius `wide` between two points."""
    dx, dy, dz = qx - px, qy - py, qz - pz
    length = dx * dx + dy * dy + dz * dz
    for b in range(spheres.shape[0]):
        ox, oy, oz = spheres[b, 0] - px, spheres[b, 1] - py, spheres[b, 2] - pz
        t = (ox * dx + oy * dy + oz * dz) / length if length > 1e-14 else 0.0
        t = min(max(t, 0.0), 1.0)
        ex, ey, ez = ox - t * dx, oy - t * dy, oz - t * dz
        reach = spheres[b, 3] + wide
        if ex * ex + ey * ey + ez * ez < reach * reach:
            return True
    return False


@compiled
def may_stand(
    b: int,
    px: float,
    py: float,
    pz: float,
    qx: float,
    qy: float,
    qz: float,
    wide: float,
    spheres: Array,
    ranges: Array,
    normals: Array,
    offsets: Array,
) -> bool:
    """Whether body b may stand between a point and what lies within `wide` of another: its ball comes near the tube
    between, both are not beyond one plane of it where it is convex, and otherwise not on one side of each of its
    polygons. Worth its price before many rays."""
    dx, dy, dz = qx - px, qy - py, qz - pz
    length = dx * dx + dy * dy + dz * dz
    ox, oy, oz = spheres[b, 0] - px, spheres[b, 1] - py, spheres[b, 2] - pz
    t = (ox * dx + oy * dy + oz * dz) / length if length > 1e-14 else 0.0
    t = min(max(t, 0.0), 1.0)
    ex, ey, ez = ox - t * dx, oy - t * dy, oz - t * dz
    reach = spheres[b, 3] + wide
    if ex * ex + ey * ey + ez * ez >= reach * reach:
        return False
    convex = ranges[b, 2] == 1
    for k in range(ranges[b, 0], ranges[b, 1]):
        one = normals[k, 0] * px + normals[k, 1] * py + normals[k, 2] * pz - offsets[k]
        other = normals[k, 0] * qx + normals[k, 1] * qy + normals[k, 2] * qz - offsets[k]
        beyond = one >= 0.0 and other >= wide
        if convex and beyond:
            return False
        if not convex and not beyond and not (one <= 0.0 and other <= -wide):
            return True
    return bool(convex)


@compiled
def sample(j: int, k: int, corners: Array, middles: Array) -> tuple[float, float, float]:
    """The k-th of as many points spread over patch j as it has corners: half way from its middle to a corner."""
    return (
        0.5 * (middles[j, 0] + corners[j, k, 0]),
        0.5 * (middles[j, 1] + corners[j, k, 1]),
        0.5 * (middles[j, 2] + corners[j, k, 2]),
    )


@compiled
def before(x: float, y: float, z: float, j: int, middles: Array, normals: Array) -> bool:
    """Whether a point lies before the plane of patch j."""
    return bool(
        (x - middles[j, 0]) * normals[j, 0] + (y - middles[j, 1]) * normals[j, 1] + (z - middles[j, 2]) * normals[j, 2]
        > -1e-9
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
    rays = max(counts[i], counts[j], 4)
    free, told = 0, 0
    for k in range(rays):
        px, py, pz = sample(i, k % counts[i], corners, middles)
        qx, qy, qz = sample(j, (k * 3 + 1) % counts[j], corners, middles)
        if not before(qx, qy, qz, i, middles, normals) or not before(px, py, pz, j, middles, normals):
            continue
        told += 1
        if not blocked(px, py, pz, qx, qy, qz, spheres, ranges, walls, wall_counts, wall_normals, offsets):
            free += 1
    return float(free / told) if told else 0.0


@compiled
def free_share(
    px: float,
    py: float,
    pz: float,
    wx: float,
    wy: float,
    wz: float,
    j: int,
    corners: Array,
    count: int,
    middles: Array,
    wide: float,
    spheres: Array,
    ranges: Array,
    walls: Array,
    wall_counts: Array,
    wall_normals: Array,
    offsets: Array,
) -> float:
    """Share of patch j that a point sees past the bodies, by one ray to each of its samples before the point's own
    plane (normal `w`; zero: it sees all round)."""
    mx, my, mz = middles[j, 0], middles[j, 1], middles[j, 2]
    if not spheres.shape[0] or not may_block(px, py, pz, mx, my, mz, wide, spheres):
        return 1.0
    free, told = 0, 0
    for k in range(count):
        qx, qy, qz = sample(j, k, corners, middles)
        if (qx - px) * wx + (qy - py) * wy + (qz - pz) * wz <= -1e-9:
            continue
        told += 1
        if not blocked(px, py, pz, qx, qy, qz, spheres, ranges, walls, wall_counts, wall_normals, offsets):
            free += 1
    return float(free / told) if told else 0.0
