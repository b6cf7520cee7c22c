"""Compiled loops over smooth parts: distance, march, shade.

No loop here cuts a row out of a table: between threads its reference count costs more than the work on it.

Rows of a table as `core.space.rounds.table_of` gives them. `groups` (g, 6): first row, row after the last, ball round
them. Distances of an ellipsoid are a bound near its surface, of all else exact; joined parts run into each other by a
polynomial of the second degree.
"""

import numpy as np

from evrant.core.base.compiled import Array, compiled

FARTHEST = 60.0
"""So far rays go [m]."""
CLOSE = 3e-4
STEPS, SHARP = 72, 2e-3
"""A ray so near to a surface has met it, as a share of how far it went; it takes so many steps at most; parts that run
into others by less than this keep their own edges [m]."""


@compiled
def part_distance(table: Array, k: int, x: float, y: float, z: float) -> float:
    """Distance of a point from the part in row k, negative inside [m]."""
    kind = int(table[k, 0])
    px, py, pz = x - table[k, 1], y - table[k, 2], z - table[k, 3]
    if kind == 1:
        bx, by, bz = table[k, 4] - table[k, 1], table[k, 5] - table[k, 2], table[k, 6] - table[k, 3]
        l2 = bx * bx + by * by + bz * bz
        rr = table[k, 7] - table[k, 8]
        a2 = l2 - rr * rr
        if l2 < 1e-12 or a2 <= 0.0:
            return float(np.sqrt(px * px + py * py + pz * pz) - max(table[k, 7], table[k, 8]))
        il2 = 1.0 / l2
        along = px * bx + py * by + pz * bz
        past = along - l2
        ex, ey, ez = px * l2 - bx * along, py * l2 - by * along, pz * l2 - bz * along
        x2 = ex * ex + ey * ey + ez * ez
        y2, z2 = along * along * l2, past * past * l2
        turn = np.sign(rr) * rr * rr * x2
        if np.sign(past) * a2 * z2 > turn:
            return float(np.sqrt(x2 + z2) * il2 - table[k, 8])
        if np.sign(along) * a2 * y2 < turn:
            return float(np.sqrt(x2 + y2) * il2 - table[k, 7])
        return float((np.sqrt(x2 * a2 * il2) + along * rr) * il2 - table[k, 7])
    u = table[k, 15] * px + table[k, 16] * py + table[k, 17] * pz
    v = table[k, 18] * px + table[k, 19] * py + table[k, 20] * pz
    w = table[k, 21] * px + table[k, 22] * py + table[k, 23] * pz
    if kind == 0:
        a, b, c = u / table[k, 4], v / table[k, 5], w / table[k, 6]
        out = np.sqrt(a * a + b * b + c * c)
        d, e, f = a / table[k, 4], b / table[k, 5], c / table[k, 6]
        slope = np.sqrt(d * d + e * e + f * f)
        return (
            float(out * (out - 1.0) / max(slope, 1e-9)) if out > 1e-6 else -min(table[k, 4], table[k, 5], table[k, 6])
        )
    if kind == 2:
        a, b = u / table[k, 4], v / table[k, 5]
        out = np.sqrt(a * a + b * b)
        d, e = a / table[k, 4], b / table[k, 5]
        slope = np.sqrt(d * d + e * e)
        side = out * (out - 1.0) / max(slope, 1e-9) if out > 1e-6 else -min(table[k, 4], table[k, 5])
        side += table[k, 7]
        end = abs(w) - table[k, 6] + table[k, 7]
        inside = min(max(side, end), 0.0)
        side, end = max(side, 0.0), max(end, 0.0)
        return float(inside + np.sqrt(side * side + end * end) - table[k, 7])
    if kind == 3:
        out = np.sqrt(u * u + v * v) - table[k, 4]
        return float(np.sqrt(out * out + w * w) - table[k, 5])
    a, b, c = abs(u) - table[k, 4] + table[k, 7], abs(v) - table[k, 5] + table[k, 7], abs(w) - table[k, 6] + table[k, 7]
    inside = min(max(a, max(b, c)), 0.0)
    a, b, c = max(a, 0.0), max(b, 0.0), max(c, 0.0)
    return float(inside + np.sqrt(a * a + b * b + c * c) - table[k, 7])


@compiled
def distance(table: Array, some: Array, start: int, stop: int, x: float, y: float, z: float, most: float) -> float:
    """Distance of a point from the parts of a group in rows some[start:stop], joined softly; `most` where it is
    farther."""
    found = most
    for n in range(start, stop):
        k = some[n]
        soft = table[k, 9]
        dx, dy, dz = x - table[k, 11], y - table[k, 12], z - table[k, 13]
        least = np.sqrt(dx * dx + dy * dy + dz * dz) - table[k, 14]
        if table[k, 24] == 0.0:
            if least > found + soft:
                continue
            one = part_distance(table, k, x, y, z)
            if soft <= 0.0:
                found = min(found, one)
                continue
            share = min(max(0.5 + 0.5 * (found - one) / soft, 0.0), 1.0)
            found = found + (one - found) * share - soft * share * (1.0 - share)
        elif least < soft:
            one = -part_distance(table, k, x, y, z)
            share = min(max(0.5 - 0.5 * (found - one) / soft, 0.0), 1.0)
            found = found + (one - found) * share + soft * share * (1.0 - share)
    return float(found)


@compiled
def nearest(table: Array, some: Array, start: int, stop: int, x: float, y: float, z: float) -> int:
    """Of rows some[start:stop] the one whose own surface a point of the surface is nearest to; a carved one's too,
    which is covered like it."""
    best, found = some[start], 1e9
    for n in range(start, stop):
        k = some[n]
        dx, dy, dz = x - table[k, 11], y - table[k, 12], z - table[k, 13]
        if np.sqrt(dx * dx + dy * dy + dz * dz) - table[k, 14] > found:
            continue
        one = abs(part_distance(table, k, x, y, z))
        if table[k, 9] < SHARP:
            one *= 5.0  # it does not run into others, so only its own surface is covered as it is
        if one < found:
            best, found = k, one
    return int(best)


@compiled
def reach(
    table: Array, k: int, ball: int, px: float, py: float, pz: float, dx: float, dy: float, dz: float
) -> tuple[float, float]:
    """Where a ray (unit direction) is inside the ball in row k of a table, from column `ball` on: from, to; to before
    from where it passes it."""
    ox, oy, oz = table[k, ball] - px, table[k, ball + 1] - py, table[k, ball + 2] - pz
    along = ox * dx + oy * dy + oz * dz
    off = ox * ox + oy * oy + oz * oz - along * along
    r2 = table[k, ball + 3] * table[k, ball + 3]
    if off > r2:
        return 1.0, -1.0
    half = np.sqrt(r2 - off)
    return along - half, along + half


@compiled
def _all_distance(table: Array, every: Array, groups: Array, x: float, y: float, z: float) -> float:
    """Distance of a point from all groups; `every` counts the rows."""
    found = 1e9
    for g in range(len(groups)):
        dx, dy, dz = x - groups[g, 2], y - groups[g, 3], z - groups[g, 4]
        if np.sqrt(dx * dx + dy * dy + dz * dz) - groups[g, 5] < found:
            found = min(found, distance(table, every, int(groups[g, 0]), int(groups[g, 1]), x, y, z, 1e9))
    return float(found)


@compiled
def outreach(
    table: Array,
    groups: Array,
    eye: Array,
    ways: Array,
    columns: int,
    rows: int,
    tile: int,
    first: int,
    begin: Array,
    some: Array,
    ends: Array,
) -> None:
    """How far the rays through each tile of a picture, from the `first` row of them on, go at least before they come
    near a smooth body (tiles down, tiles across); 1e9 where none does. Rays part of a pixel beside the tile's own are
    counted in. What they may meet are rows `some` (tiles down, tiles across, parts), those of group g from ends[g] to
    ends[g + 1]."""
    axis = np.empty(3)
    every = np.arange(len(table))
    for down in range(begin.shape[0]):
        for across in range(begin.shape[1]):
            top, left = (first + down) * tile, across * tile
            bottom, right = min(top + tile, rows) - 1, min(left + tile, columns) - 1
            for c in range(3):
                axis[c] = (
                    ways[top * columns + left, c]
                    + ways[top * columns + right, c]
                    + ways[bottom * columns + left, c]
                    + ways[bottom * columns + right, c]
                )
            axis /= np.sqrt(axis[0] * axis[0] + axis[1] * axis[1] + axis[2] * axis[2])
            wide = 0.0
            for corner in (
                top * columns + left,
                top * columns + right,
                bottom * columns + left,
                bottom * columns + right,
            ):
                off = 0.0
                for c in range(3):
                    off += (ways[corner, c] - axis[c]) ** 2
                wide = max(wide, np.sqrt(off))
            wide *= (tile + 2.0) / max(tile - 1.0, 1.0)
            t, found = 1e-3, 1e9
            for _ in range(96):
                x, y, z = eye[0] + t * axis[0], eye[1] + t * axis[1], eye[2] + t * axis[2]
                d = _all_distance(table, every, groups, x, y, z)
                if d > 50.0:
                    break
                if 0.92 * d - t * wide < 2e-3:
                    found = t
                    break
                t += 0.92 * d - t * wide
                if t > FARTHEST:
                    break
            else:
                found = t
            begin[down, across] = found
            ends[down, across] = 0
            if found < 1e9:
                _met_by(table, groups, eye, axis, wide, some[down, across], ends[down, across])


@compiled
def _met_by(table: Array, groups: Array, eye: Array, axis: Array, wide: float, some: Array, ends: Array) -> None:
    """Rows of each group that a cone of rays may meet, or whose join with others they may: `wide` is its radius at a
    metre."""
    count = 0
    dx, dy, dz = axis[0], axis[1], axis[2]
    for g in range(len(groups)):
        soft = 0.0
        for k in range(int(groups[g, 0]), int(groups[g, 1])):
            soft = max(soft, table[k, 9])
        for k in range(int(groups[g, 0]), int(groups[g, 1])):
            cone = eye[0], eye[1], eye[2], dx, dy, dz, FARTHEST, FARTHEST * wide
            if nears_cone(table, k, 11, soft + 2e-3, *cone):
                some[count] = k
                count += 1
        ends[g + 1] = count


@compiled
def march(
    table: Array,
    groups: Array,
    some: Array,
    ends: Array,
    tiles: Array,
    eyes: Array,
    ways: Array,
    begin: Array,
    far: Array,
    depth: Array,
    normal: Array,
    part: Array,
) -> None:
    """Where rays (unit `ways`) meet the smooth bodies between `begin` and `far`: depth [m], normal, row; untouched
    where none. A ray of tile k meets none but rows some[k], those of group g from ends[k, g] to ends[k, g + 1]."""
    for r in range(len(ways)):
        ex, ey, ez = eyes[r, 0], eyes[r, 1], eyes[r, 2]
        dx, dy, dz = ways[r, 0], ways[r, 1], ways[r, 2]
        limit = far[r]
        if begin[r] >= limit:
            continue
        rows = some[tiles[r]]
        for g in range(len(groups)):
            start, stop = ends[tiles[r], g], ends[tiles[r], g + 1]
            if start == stop:
                continue
            enter, leave = reach(groups, g, 2, ex, ey, ez, dx, dy, dz)
            t = max(enter, begin[r])
            leave = min(leave, limit)
            for _ in range(STEPS):
                if t >= leave:
                    break
                d = distance(table, rows, start, stop, ex + t * dx, ey + t * dy, ez + t * dz, 1e9)
                if d < CLOSE * (0.2 + t):
                    limit = t
                    depth[r] = t
                    x, y, z = ex + t * dx, ey + t * dy, ez + t * dz
                    part[r] = nearest(table, rows, start, stop, x, y, z)
                    slope(table, rows, start, stop, x, y, z, CLOSE * (0.2 + t), normal[r])
                    break
                t += max(0.92 * d, CLOSE)


@compiled
def slope(
    table: Array, some: Array, start: int, stop: int, x: float, y: float, z: float, step: float, out: Array
) -> None:
    """Unit normal of a group's surface, from four distances round a point."""
    a = distance(table, some, start, stop, x + step, y - step, z - step, 1e9)
    b = distance(table, some, start, stop, x - step, y - step, z + step, 1e9)
    c = distance(table, some, start, stop, x - step, y + step, z - step, 1e9)
    d = distance(table, some, start, stop, x + step, y + step, z + step, 1e9)
    nx, ny, nz = a - b - c + d, -a - b + c + d, -a + b - c + d
    size = np.sqrt(nx * nx + ny * ny + nz * nz)
    if size > 1e-12:
        out[0], out[1], out[2] = nx / size, ny / size, nz / size


@compiled
def nears_cone(
    table: Array,
    k: int,
    ball: int,
    more: float,
    px: float,
    py: float,
    pz: float,
    dx: float,
    dy: float,
    dz: float,
    long: float,
    half: float,
) -> bool:
    """Whether the ball in row k of a table, from column `ball` on and larger by `more`, reaches into the cone from a
    point along a unit direction to a disc of radius `half` at `long`."""
    ox, oy, oz, radius = (
        table[k, ball] - px,
        table[k, ball + 1] - py,
        table[k, ball + 2] - pz,
        table[k, ball + 3] + more,
    )
    along = ox * dx + oy * dy + oz * dz
    if along < -radius or along > long + radius + half:
        return False
    off = ox * ox + oy * oy + oz * oz - along * along
    wide = radius + min(max(along + radius, 0.0) / long, 1.0) * half
    return bool(off < wide * wide)


@compiled
def candidates(
    table: Array,
    groups: Array,
    px: float,
    py: float,
    pz: float,
    dx: float,
    dy: float,
    dz: float,
    long: float,
    half: float,
    out: Array,
) -> int:
    """Rows of the parts that may stand between a point and a disc; how many there are."""
    count = 0
    for g in range(len(groups)):
        if not nears_cone(groups, g, 2, 0.0, px, py, pz, dx, dy, dz, long, half):
            continue
        for k in range(int(groups[g, 0]), int(groups[g, 1])):
            if table[k, 24] == 0.0 and nears_cone(table, k, 11, 0.0, px, py, pz, dx, dy, dz, long, half):
                out[count] = k
                count += 1
    return count


@compiled
def hidden(
    table: Array, some: Array, count: int, px: float, py: float, pz: float, qx: float, qy: float, qz: float, lift: float
) -> bool:
    """Whether one of some parts stands between two points; what lies within `lift` of the first does not count."""
    dx, dy, dz = qx - px, qy - py, qz - pz
    long = np.sqrt(dx * dx + dy * dy + dz * dz)
    if long < 1e-9:
        return False
    dx, dy, dz = dx / long, dy / long, dz / long
    for n in range(count):
        k = some[n]
        first, last = reach(table, k, 11, px, py, pz, dx, dy, dz)
        first, last = max(first, lift), min(last, long)
        if first >= last:
            continue
        if int(table[k, 0]) == 0:
            if _through_ball(table, k, px, py, pz, dx, dy, dz, first, last):
                some[n], some[0] = some[0], some[n]  # the next ray to the same light asks it first
                return True
            continue
        t, before = first, 1e9
        for _ in range(24):
            d = part_distance(table, k, px + t * dx, py + t * dy, pz + t * dz)
            if d < 2e-4:
                some[n], some[0] = some[0], some[n]
                return True
            if d >= before and int(table[k, 0]) != 3:
                break  # from a convex part whose distance grows a ray only goes away
            before = d
            t += max(d, 5e-4)
            if t >= last:
                break
    return False


@compiled
def _through_ball(
    table: Array, k: int, px: float, py: float, pz: float, dx: float, dy: float, dz: float, first: float, last: float
) -> bool:
    """Whether a ray is inside an ellipsoid anywhere between two of its lengths."""
    ox, oy, oz = px - table[k, 1], py - table[k, 2], pz - table[k, 3]
    oo, od, dd = 0.0, 0.0, 0.0
    for i in range(3):
        j = 15 + 3 * i
        o = (table[k, j] * ox + table[k, j + 1] * oy + table[k, j + 2] * oz) / table[k, 4 + i]
        d = (table[k, j] * dx + table[k, j + 1] * dy + table[k, j + 2] * dz) / table[k, 4 + i]
        oo += o * o
        od += o * d
        dd += d * d
    under = od * od - dd * (oo - 1.0)
    if under <= 0.0:
        return False
    root = np.sqrt(under)
    return bool((-od - root) / dd < last and (-od + root) / dd > first)


@compiled
def openness(table: Array, groups: Array, points: Array, normals: Array, size: float, out: Array) -> None:
    """Share of the surroundings that points on smooth bodies see past their own body's folds, by distances at four
    steps along the normal; 1 on an open surface."""
    some, ends = np.empty(len(table), dtype=np.int64), np.zeros(len(groups) + 1, dtype=np.int64)
    widest = 0.0
    for k in range(len(table)):
        widest = max(widest, table[k, 9])
    for r in range(len(points)):
        x, y, z = points[r, 0], points[r, 1], points[r, 2]
        count = 0
        for g in range(len(groups)):
            if _within(groups, g, 2, x, y, z, 2.0 * size):
                for k in range(int(groups[g, 0]), int(groups[g, 1])):
                    # Joined softly to nothing that is farther than the step and the widest joins.
                    if _within(table, k, 11, x, y, z, 2.0 * size + 3.0 * widest):
                        some[count] = k
                        count += 1
            ends[g + 1] = count
        share, weight = 0.0, 0.0
        for k in range(1, 5):
            step = size * k / 4.0
            ax, ay, az = x + normals[r, 0] * step, y + normals[r, 1] * step, z + normals[r, 2] * step
            found = step
            for g in range(len(groups)):
                if ends[g] < ends[g + 1]:
                    most = step + 3.0 * widest
                    found = min(found, distance(table, some, ends[g], ends[g + 1], ax, ay, az, most))
            share += max(found, 0.0) / step / k
            weight += 1.0 / k
        out[r] = share / weight


@compiled
def _within(table: Array, k: int, ball: int, x: float, y: float, z: float, far: float) -> bool:
    """Whether a point is no farther than that from the ball in row k of a table, from column `ball` on."""
    dx, dy, dz = x - table[k, ball], y - table[k, ball + 1], z - table[k, ball + 2]
    limit = table[k, ball + 3] + far
    return bool(dx * dx + dy * dy + dz * dz < limit * limit)
