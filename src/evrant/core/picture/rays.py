"""Compiled loops over flat faces: what each pixel's ray meets, and the light that reaches a point past faces and
smooth bodies.

Faces (f, m, 3) with counts, normals and offsets; a face shows its front, or both sides where `both` is set.
"""

import numpy as np

from evrant.core.base.compiled import Array, compiled
from evrant.core.light.bounce.kernels import contour, intensity, pull, solid_angle
from evrant.core.light.bounce.sight import blocked, may_block, sample
from evrant.core.picture.shapes import candidates, hidden, nears_cone


@compiled
def cast(
    eye: Array,
    ways: Array,
    boxes: Array,
    columns: int,
    corners: Array,
    counts: Array,
    normals: Array,
    offsets: Array,
    both: Array,
    depth: Array,
    face: Array,
) -> None:
    """The nearest face each ray meets. `ways` (rows × columns, 3) go through a picture row by row, and face k can lie
    only in its pixels boxes[k]: first and last column, first and last row. Later faces win where both lie at once."""
    edge = np.empty((corners.shape[1], 3))
    for k in range(len(counts)):
        level = normals[k, 0] * eye[0] + normals[k, 1] * eye[1] + normals[k, 2] * eye[2] - offsets[k]
        if (level <= 0.0 and not both[k]) or abs(level) < 1e-9:
            continue
        side = 1.0 if level > 0.0 else -1.0
        n = counts[k]
        for c in range(n):
            m = c + 1 if c + 1 < n else 0
            ax, ay, az = corners[k, c, 0] - eye[0], corners[k, c, 1] - eye[1], corners[k, c, 2] - eye[2]
            bx, by, bz = corners[k, m, 0] - eye[0], corners[k, m, 1] - eye[1], corners[k, m, 2] - eye[2]
            edge[c, 0], edge[c, 1], edge[c, 2] = ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx
        for row in range(boxes[k, 2], boxes[k, 3] + 1):
            for column in range(boxes[k, 0], boxes[k, 1] + 1):
                r = row * columns + column
                dx, dy, dz = ways[r, 0], ways[r, 1], ways[r, 2]
                closing = -(normals[k, 0] * dx + normals[k, 1] * dy + normals[k, 2] * dz)
                if closing * side <= 1e-12:
                    continue
                t = level / closing
                if t > depth[r] * (1.0 + 1e-5):
                    continue
                inside = True
                for c in range(n):
                    if (edge[c, 0] * dx + edge[c, 1] * dy + edge[c, 2] * dz) * side > 1e-12:
                        inside = False
                        break
                if inside:
                    depth[r] = t
                    face[r] = k


@compiled
def cast_any(
    eyes: Array,
    ways: Array,
    corners: Array,
    counts: Array,
    normals: Array,
    offsets: Array,
    both: Array,
    depth: Array,
    face: Array,
) -> None:
    """The nearest face each ray meets, rays from anywhere to anywhere."""
    for r in range(len(ways)):
        dx, dy, dz = ways[r, 0], ways[r, 1], ways[r, 2]
        for k in range(len(counts)):
            level = normals[k, 0] * eyes[r, 0] + normals[k, 1] * eyes[r, 1] + normals[k, 2] * eyes[r, 2] - offsets[k]
            closing = -(normals[k, 0] * dx + normals[k, 1] * dy + normals[k, 2] * dz)
            if abs(closing) < 1e-12 or (level <= 0.0 and not both[k]):
                continue
            t = level / closing
            if t < 1e-4 or t > depth[r] * (1.0 + 1e-5):
                continue
            hx, hy, hz = eyes[r, 0] + t * dx, eyes[r, 1] + t * dy, eyes[r, 2] + t * dz
            inside = True
            n = counts[k]
            for c in range(n):
                m = c + 1 if c + 1 < n else 0
                ux, uy, uz = (
                    corners[k, m, 0] - corners[k, c, 0],
                    corners[k, m, 1] - corners[k, c, 1],
                    corners[k, m, 2] - corners[k, c, 2],
                )
                wx, wy, wz = hx - corners[k, c, 0], hy - corners[k, c, 1], hz - corners[k, c, 2]
                turn = (
                    (uy * wz - uz * wy) * normals[k, 0]
                    + (uz * wx - ux * wz) * normals[k, 1]
                    + (ux * wy - uy * wx) * normals[k, 2]
                )
                if turn < 0.0:
                    inside = False
                    break
            if inside:
                depth[r] = t
                face[r] = k


@compiled
def _sent(
    spots: Array,
    k: int,
    points: Array,
    ways: Array,
    r: int,
    forward: Array,
    right: Array,
    up: Array,
    cosine: bool,
    table: Array,
) -> float:
    """Illuminance per lumen at point r from all of a face's light sent from its spot k."""
    dx, dy, dz = points[r, 0] - spots[k, 0], points[r, 1] - spots[k, 1], points[r, 2] - spots[k, 2]
    d2 = dx * dx + dy * dy + dz * dz
    if d2 < 1e-8:
        return 0.0
    d = np.sqrt(d2)
    out_cos = (dx * forward[0] + dy * forward[1] + dz * forward[2]) / d
    in_cos = -(dx * ways[r, 0] + dy * ways[r, 1] + dz * ways[r, 2]) / d
    if in_cos <= 0.0 or (cosine and out_cos <= 0.0):
        return 0.0
    if cosine:
        strength = out_cos / np.pi
    elif table.shape[1] == 1:
        strength = intensity(out_cos, table, 0.0)
    else:
        across = dx * right[0] + dy * right[1] + dz * right[2]
        upward = dx * up[0] + dy * up[1] + dz * up[2]
        strength = intensity(out_cos, table, np.arctan2(upward, across))
    return float(strength * in_cos / d2)


FIRST_LOOK, EVERY = 8, 4
"""Spots of a face that are looked at first, one in each eighth of its lattice; a face that is no
cosine face shines by every fourth of its spots."""


@compiled
def lit(  # noqa: C901
    points: Array,
    ways: Array,
    turns: Array,
    lift: float,
    face: Array,
    forward: Array,
    right: Array,
    size: float,
    spots: Array,
    picks: int,
    cosine: bool,
    table: Array,
    spheres: Array,
    ranges: Array,
    walls: Array,
    wall_counts: Array,
    wall_normals: Array,
    offsets: Array,
    parts: Array,
    groups: Array,
    out: Array,
    free_of: Array,
) -> None:
    """Illuminance per lumen [lx/lm] at points with normals from one luminous face, were nothing in the way, and the
    share of it that faces and smooth bodies leave free.

    A cosine face is exact by contour times the share of it that is free, others by points on the face. A point looks at
    `picks` of the spots of the `face` (1, corners, 3), beginning with that of its turn: neighbours look at others; at
    none, nothing shades.
    """
    area = 0.0
    face_count = face.shape[1]
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
    for k in range(len(spots)):
        centre += spots[k] / len(spots)
    some = np.empty(max(len(parts), 1), dtype=np.int64)
    balls, spans = np.empty((max(len(spheres), 1), 4)), np.empty((max(len(spheres), 1), 3), dtype=np.int64)
    for r in range(len(points)):
        px, py, pz = points[r, 0], points[r, 1], points[r, 2]
        gx, gy, gz = px - centre[0], py - centre[1], pz - centre[2]
        front = gx * forward[0] + gy * forward[1] + gz * forward[2]
        out[r], free_of[r] = 0.0, 1.0
        whole = 0.0
        if cosine:
            if front <= 1e-6:
                continue
            whole = contour(px, py, pz, ways[r, 0], ways[r, 1], ways[r, 2], face, 0, face_count) / area
            if whole <= 0.0:
                continue
        else:
            for k in range(0, len(spots), EVERY):
                whole += _sent(spots, k, points, ways, r, forward, right, up, cosine, table) * EVERY / len(spots)
        if picks == 0:
            out[r] = whole
            continue
        long = np.sqrt(gx * gx + gy * gy + gz * gz)
        ex, ey, ez = -gx / long, -gy / long, -gz / long
        round_count = candidates(parts, groups, px, py, pz, ex, ey, ez, long, 0.5 * size, some)
        flat_count = 0
        for b in range(len(spheres)):
            if nears_cone(spheres, b, 0, 0.0, px, py, pz, ex, ey, ez, long, 0.5 * size):
                for c in range(4):
                    balls[flat_count, c] = spheres[b, c]
                for c in range(3):
                    spans[flat_count, c] = ranges[b, c]
                flat_count += 1
        if flat_count == 0 and round_count == 0:
            out[r] = whole
            continue
        near, near_ranges = balls[:flat_count], spans[:flat_count]
        free = 0.0
        weight = 0.0
        used, hits = 0, 0
        # A first look at few spots; the rest only where some are free and some are not.
        for pick in range(picks):
            if pick == FIRST_LOOK and (hits == 0 or hits == used):
                break
            block = len(spots) // FIRST_LOOK
            k = (pick % FIRST_LOOK) * block + (3 * pick + turns[r] + 5 * (pick // FIRST_LOOK)) % block
            sx, sy, sz = spots[k, 0], spots[k, 1], spots[k, 2]
            used += 1
            part = _sent(spots, k, points, ways, r, forward, right, up, cosine, table)
            if part <= 0.0:
                continue
            weight += part
            hits += 1
            if round_count and hidden(parts, some, round_count, px, py, pz, sx, sy, sz, lift):
                hits -= 1
                continue
            if flat_count and blocked(
                *(sx, sy, sz, px, py, pz, near, near_ranges),
                *(walls, wall_counts, wall_normals, offsets),
            ):
                hits -= 1
                continue
            free += part
        out[r] = whole
        free_of[r] = free / weight if weight > 0.0 else 0.0


@compiled
def calm(share: Array, body: Array, normals: Array, depth: Array, out: Array) -> None:
    """Shares (rows, columns) that neighbours found by looking at other spots, each the mean of four by four pixels of
    the same body that face alike."""
    rows, columns = share.shape
    for y in range(rows):
        for x in range(columns):
            total, count = 0.0, 0
            for ny in range(max(y - 2, 0), min(y + 2, rows)):
                for nx in range(max(x - 2, 0), min(x + 2, columns)):
                    if body[ny, nx] != body[y, x] or abs(depth[ny, nx] - depth[y, x]) > 0.02 * depth[y, x]:
                        continue
                    alike = 0.0
                    for c in range(3):
                        alike += normals[ny, nx, c] * normals[y, x, c]
                    if alike > 0.85:
                        total += share[ny, nx]
                        count += 1
            out[y, x] = total / count if count else share[y, x]


@compiled
def taken_over(
    share: Array,
    body: Array,
    normals: Array,
    depth: Array,
    step: int,
    ys: Array,
    xs: Array,
    of: Array,
    facing: Array,
    away: Array,
    out: Array,
) -> None:
    """Shares of pixels (ys, xs) of bodies `of`, with normals and distances, from those known at every `step`-th pixel
    near by that show the same body and face alike; −1 where there is none."""
    rows, columns = share.shape
    for r in range(len(ys)):
        j, i = ys[r] // step, xs[r] // step
        total, weight = 0.0, 0.0
        for v in range(max(j - 1, 0), min(j + 3, rows)):
            for u in range(max(i - 1, 0), min(i + 3, columns)):
                if body[v, u] != of[r] or abs(depth[v, u] - away[r]) > 0.02 * away[r]:
                    continue
                alike = 0.0
                for c in range(3):
                    alike += normals[v, u, c] * facing[r, c]
                if alike < 0.85:
                    continue
                dy, dx = v * step - ys[r], u * step - xs[r]
                w = 1.0 / (0.3 + dy * dy + dx * dx)
                total += w * share[v, u]
                weight += w
        out[r] = total / weight if weight > 0.0 else -1.0


@compiled
def between(
    ys: Array,
    xs: Array,
    step: int,
    known: Array,
    points: Array,
    normals: Array,
    depth: Array,
    smooth: Array,
    first: int,
    last: int,
    out: Array,
) -> None:
    """Light (rows, columns, 6) from the row `first` to before `last`, on both sides of what each pixel shows, before
    and behind, from what is known at some pixels (ys, xs): read from those of the four around that lie near the pixel
    and on the same kind of body. Known are 33 figures: nine harmonics in three bands, and what the pixel's own plane
    takes before and behind. A flat that faces as the known one takes that; harmonics spill over a plane's horizon."""
    columns = depth.shape[1]
    here, plain = np.empty(27), np.empty(6)
    for y in range(first, last):
        j = min(y // step, len(ys) - 2)
        for x in range(columns):
            i = min(x // step, len(xs) - 2)
            here[:] = 0.0
            plain[:] = 0.0
            weight, turned = 0.0, 0.0
            for corner in range(4):
                dy, dx = corner // 2, corner % 2
                v, u = ys[j + dy], xs[i + dx]
                near = (1.0 - abs(y - v) / max(ys[j + 1] - ys[j], 1)) * (1.0 - abs(x - u) / max(xs[i + 1] - xs[i], 1))
                off, alike = 0.0, 0.0
                for c in range(3):
                    off += (points[y, x, c] - points[v, u, c]) ** 2
                    alike += normals[y, x, c] * normals[v, u, c]
                w = (max(near, 0.0) + 1e-3) / (0.03 + np.sqrt(off) / max(depth[y, x], 0.1))
                kin = _kin(smooth[y, x], smooth[v, u], alike)
                w *= min(kin, 1.0)
                weight += w
                if kin > 1.0:
                    for k in range(6):
                        plain[k] += w * known[j + dy, i + dx, 27 + k]
                    continue
                turned += w
                for k in range(27):
                    here[k] += w * known[j + dy, i + dx, k]
            for side in range(2):
                sign = 1.0 - 2.0 * side
                for c in range(3):
                    out[y, x, 3 * side + c] = plain[3 * side + c] / weight
                if turned > 0.0:
                    nx, ny, nz = sign * normals[y, x, 0], sign * normals[y, x, 1], sign * normals[y, x, 2]
                    for c in range(3):
                        out[y, x, 3 * side + c] += _taken(here, c, nx, ny, nz) / weight


@compiled
def _kin(smooth: bool, other: bool, alike: float) -> float:
    """How near of kin two pixels are: 2 for flats that face alike, at most 1 for all others."""
    if smooth != other:
        return 0.02
    if smooth:
        return 1.0
    return 2.0 if alike > ALIKE else 0.1


@compiled
def _taken(known: Array, band: int, nx: float, ny: float, nz: float) -> float:
    """What a flat of that normal takes of harmonics (27 figures: nine in three bands), in one of them."""
    total = 0.282095 * np.pi * known[band]
    total += 0.488603 * FIRST_ORDER * (ny * known[3 + band] + nz * known[6 + band] + nx * known[9 + band])
    second = 1.092548 * (nx * ny * known[12 + band] + ny * nz * known[15 + band] + nx * nz * known[21 + band])
    second += 0.315392 * (3.0 * nz * nz - 1.0) * known[18 + band]
    second += 0.546274 * (nx * nx - ny * ny) * known[24 + band]
    return float(max(total + SECOND_ORDER * second, 0.0))


ALIKE = 0.99
"""Cosine of the angle within which two flats face alike."""
FIRST_ORDER, SECOND_ORDER = 2.0 * np.pi / 3.0, np.pi / 4.0
"""What a flat receiver takes of harmonics of the first and second order, beside π of the mean; Ramamoorthi and Hanrahan
(2001)."""


FAR, VERY_FAR = 4.0, 8.0
"""From so many times its own size on, a patch's light comes from the direction of its middle; its solid angle is that
of a small one. The second is wrong by some (1 / 8)² / 2 of it."""


@compiled
def _free_share(
    px: float,
    py: float,
    pz: float,
    patch: int,
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
    """Share of a patch that a point sees: by rays half way to every second corner, and to the others where one of these
    is free and another is not. Takes whole tables: a row cut out of one costs more than a ray."""
    mx, my, mz = middles[patch, 0], middles[patch, 1], middles[patch, 2]
    if not may_block(px, py, pz, mx, my, mz, wide, spheres):
        return 1.0
    free, told = 0, (count + 1) // 2
    for first in range(2):
        for k in range(first, count, 2):
            qx, qy, qz = sample(patch, k, corners, middles)
            if not blocked(px, py, pz, qx, qy, qz, spheres, ranges, walls, wall_counts, wall_normals, offsets):
                free += 1
        if first == 0 and (free == 0 or free == told):
            return float(free / told)
    return float(free / count)


@compiled
def around(
    p: Array,
    facing: Array,
    corners: Array,
    counts: Array,
    normals: Array,
    middles: Array,
    areas: Array,
    spread: Array,
    own: Array,
    spheres: Array,
    ranges: Array,
    walls: Array,
    wall_counts: Array,
    wall_normals: Array,
    offsets: Array,
    leaving: Array,
    out: Array,
) -> None:
    """Light from all patches but one's `own` round a point, free of what stands between, from what leaves them: nine
    harmonics in three bands (9, 3), and what a flat there takes that is `facing` so (zero: none), before and behind."""
    out[:] = 0.0
    nx, ny, nz = facing[0], facing[1], facing[2]
    flat = nx != 0.0 or ny != 0.0 or nz != 0.0
    for j in range(len(spread)):
        if own[j]:
            continue
        x, y, z = middles[j, 0] - p[0], middles[j, 1] - p[1], middles[j, 2] - p[2]
        down = -(x * normals[j, 0] + y * normals[j, 1] + z * normals[j, 2])
        if down <= 1e-9:
            continue
        free = _free_share(
            *(p[0], p[1], p[2], j, corners, counts[j], middles, spread[j]),
            *(spheres, ranges, walls, wall_counts, wall_normals, offsets),
        )
        if free <= 0.0:
            continue
        size = np.sqrt(x * x + y * y + z * z)
        close = size < FAR * spread[j]
        if close:
            wx, wy, wz = pull(p[0], p[1], p[2], corners, j, counts[j])
            if wx != 0.0 or wy != 0.0 or wz != 0.0:
                x, y, z = wx, wy, wz
        if size > VERY_FAR * spread[j]:
            angle = areas[j] * down / (size * size * size)
        else:
            angle = solid_angle(p[0], p[1], p[2], corners, j, counts[j])
        size = np.sqrt(x * x + y * y + z * z)
        x, y, z = x / size, y / size, z / size
        straight = angle / np.pi * (x * nx + y * ny + z * nz)
        before, behind = max(straight, 0.0), max(-straight, 0.0)
        if close and flat:
            before = contour(p[0], p[1], p[2], nx, ny, nz, corners, j, counts[j])
            behind = contour(p[0], p[1], p[2], -nx, -ny, -nz, corners, j, counts[j])
        for c in range(3):
            out[9, c] += free * before * leaving[j, c]
            out[10, c] += free * behind * leaving[j, c]
            amount = free * angle / np.pi * leaving[j, c]
            out[0, c] += 0.282095 * amount
            out[1, c] += 0.488603 * y * amount
            out[2, c] += 0.488603 * z * amount
            out[3, c] += 0.488603 * x * amount
            out[4, c] += 1.092548 * x * y * amount
            out[5, c] += 1.092548 * y * z * amount
            out[6, c] += 0.315392 * (3.0 * z * z - 1.0) * amount
            out[7, c] += 1.092548 * x * z * amount
            out[8, c] += 0.546274 * (x * x - y * y) * amount


@compiled
def blur(image: Array, depth: Array, disc: Array, taps: Array, some: Array, out: Array) -> None:
    """`some` rows of a picture (rows, columns, 3) out of focus: every pixel gathers from those whose own blur disc
    (radius `disc` [px]) reaches it, at `taps` (n, 2) of a disc of radius 1; what lies behind a sharper pixel does not
    spread over it."""
    rows, columns = image.shape[0], image.shape[1]
    for y in some:
        for x in range(columns):
            # The widest disc near by may reach here.
            own = disc[y, x]
            reach_here = own
            for k in range(len(taps)):
                ny, nx = y + round(taps[k, 1] * 24.0), x + round(taps[k, 0] * 24.0)
                if 0 <= ny < rows and 0 <= nx < columns and disc[ny, nx] > reach_here and depth[ny, nx] < depth[y, x]:
                    reach_here = disc[ny, nx]
            if reach_here < 0.5:
                for c in range(3):
                    out[y, x, c] = image[y, x, c]
                continue
            turn = ((x * 73856093) ^ (y * 19349663)) % 64 / 64.0 * 2.0 * np.pi
            cos, sin = np.cos(turn), np.sin(turn)
            weight = 1.0 / max(own * own, 0.25)
            total = weight
            red, green, blue = image[y, x, 0] * weight, image[y, x, 1] * weight, image[y, x, 2] * weight
            for k in range(len(taps)):
                ox = (taps[k, 0] * cos - taps[k, 1] * sin) * reach_here
                oy = (taps[k, 0] * sin + taps[k, 1] * cos) * reach_here
                nx, ny = x + round(ox), y + round(oy)
                if nx < 0 or ny < 0 or nx >= columns or ny >= rows:
                    continue
                far = np.sqrt(ox * ox + oy * oy)
                there = disc[ny, nx]
                if depth[ny, nx] > depth[y, x] * 1.0005:
                    there = min(there, own)  # behind: no wider than what is before it
                if there + 0.5 < far:
                    continue
                w = min(there + 0.5 - far, 1.0) / max(there * there, 0.25)
                w *= reach_here * reach_here / len(taps)
                red += image[ny, nx, 0] * w
                green += image[ny, nx, 1] * w
                blue += image[ny, nx, 2] * w
                total += w
            out[y, x, 0], out[y, x, 1], out[y, x, 2] = red / total, green / total, blue / total
