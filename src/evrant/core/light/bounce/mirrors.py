"""Compiled loops for light that a mirror or a foil throws on.

A flat mirror shows each point q of a face at q' behind its plane: a point p gets what q' would send it, as far as the
line from p to q' passes through the mirror. A rough one is taken as many small mirrors, each of which sends on what
falls on it in a lobe (n + 1) / 2π · cosⁿ α round the mirrored ray, which holds as much light as the ray.
"""

import numpy as np

from evrant.core.base.compiled import Array, compiled
from evrant.core.light.bounce.kernels import intensity
from evrant.core.light.bounce.sight import blocked

CLEAR = 2e-5
"""Share of a ray left out at a mirror, so that the mirror does not stop what it throws on."""


@compiled
def inside(h: Array, ring: Array, count: int, normal: Array) -> bool:
    """Whether a point of a polygon's plane lies inside it."""
    for c in range(count):
        m = c + 1 if c + 1 < count else 0
        ux, uy, uz = ring[m, 0] - ring[c, 0], ring[m, 1] - ring[c, 1], ring[m, 2] - ring[c, 2]
        wx, wy, wz = h[0] - ring[c, 0], h[1] - ring[c, 1], h[2] - ring[c, 2]
        turn = (uy * wz - uz * wy) * normal[0] + (uz * wx - ux * wz) * normal[1] + (ux * wy - uy * wx) * normal[2]
        if turn < 0.0:
            return False
    return True


@compiled
def leaves(way: Array, forward: Array, right: Array, up: Array, cosine: bool, table: Array) -> float:
    """Candela per lumen of a face in a unit direction."""
    ahead = way[0] * forward[0] + way[1] * forward[1] + way[2] * forward[2]
    if cosine:
        return float(max(ahead, 0.0) / np.pi)
    if table.shape[1] == 1:
        return float(intensity(ahead, table, 0.0))
    sx = way[0] * right[0] + way[1] * right[1] + way[2] * right[2]
    sy = way[0] * up[0] + way[1] * up[1] + way[2] * up[2]
    return float(intensity(ahead, table, np.arctan2(sy, sx)))


@compiled
def shown(p: Array, n: Array, q: Array, ring: Array, normal: Array, hit: Array) -> float:
    """What a receiver p with normal n (zero: none) gets of a unit strength at q by way of a mirror, cos / d², and
    where its ray meets the mirror; 0 where it passes beside."""
    before = (p[0] - ring[0, 0]) * normal[0] + (p[1] - ring[0, 1]) * normal[1] + (p[2] - ring[0, 2]) * normal[2]
    above = (q[0] - ring[0, 0]) * normal[0] + (q[1] - ring[0, 1]) * normal[1] + (q[2] - ring[0, 2]) * normal[2]
    if before * above <= 1e-12:
        return 0.0
    share, d2, facing = before / (before + above), 0.0, 0.0
    for c in range(3):
        step = q[c] - 2.0 * above * normal[c] - p[c]
        hit[c] = p[c] + share * step
        d2 += step * step
        facing += step * n[c]
    in_cos = facing / np.sqrt(d2) if n[0] * n[0] + n[1] * n[1] + n[2] * n[2] > 0.0 else 1.0
    if in_cos <= 0.0 or not inside(hit, ring, len(ring), normal):
        return 0.0
    for c in range(3):  # a hair before the mirror, on the side both are on
        hit[c] += normal[c] * (CLEAR if before > 0.0 else -CLEAR)
    return float(in_cos / d2)


@compiled
def toward(q: Array, h: Array, way: Array) -> float:
    """The unit direction from one point to another, and how far it is."""
    far = np.sqrt((h[0] - q[0]) ** 2 + (h[1] - q[1]) ** 2 + (h[2] - q[2]) ** 2)
    for c in range(3):
        way[c] = (h[c] - q[c]) / max(far, 1e-12)
    return float(far)


@compiled
def flat_mirror(
    points: Array,
    ways: Array,
    ring: Array,
    normal: Array,
    spots: Array,
    forward: Array,
    right: Array,
    up: Array,
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
    """Illuminance per lumen (p,) at points by way of a whole mirror; zero normals take light from all sides alike."""
    args = (spheres, ranges, walls, wall_counts, wall_normals, offsets)
    hit, way = np.empty(3), np.empty(3)
    for r in range(len(points)):
        p = points[r]
        total = 0.0
        for k in range(len(spots)):
            q = spots[k]
            part = shown(p, ways[r], q, ring, normal, hit)
            if part <= 0.0 or toward(q, hit, way) < 1e-6:
                continue
            part *= leaves(way, forward, right, up, cosine, table)
            if part <= 0.0 or blocked(p[0], p[1], p[2], hit[0], hit[1], hit[2], *args):
                continue
            if not blocked(hit[0], hit[1], hit[2], q[0], q[1], q[2], *args):
                total += part
        out[r] = total / len(spots)


@compiled
def lobe(p: Array, n: Array, m: Array, normal: Array, throw: Array, power: float) -> float:
    """What a receiver gets of a unit of light that a small mirror at m throws on round `throw`: lobe · cos / d²."""
    x, y, z = p[0] - m[0], p[1] - m[1], p[2] - m[2]
    if x * normal[0] + y * normal[1] + z * normal[2] <= 0.0:
        return 0.0
    d2 = x * x + y * y + z * z
    far = np.sqrt(d2)
    near = (x * throw[0] + y * throw[1] + z * throw[2]) / far
    in_cos = 1.0
    if n[0] * n[0] + n[1] * n[1] + n[2] * n[2] > 0.0:
        in_cos = -(x * n[0] + y * n[1] + z * n[2]) / far
    if near <= 0.0 or in_cos <= 0.0:
        return 0.0
    return float((power + 1.0) / (2.0 * np.pi) * near**power * in_cos / d2)


@compiled
def rough_mirror(
    points: Array,
    ways: Array,
    small: Array,
    area: float,
    normal: Array,
    power: float,
    spots: Array,
    forward: Array,
    right: Array,
    up: Array,
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
    """Illuminance per lumen (p,) at points by way of small mirrors (m, 3) of `area` each, of one plane; the side that
    `normal` looks to. Added to what is there."""
    args = (spheres, ranges, walls, wall_counts, wall_normals, offsets)
    way, throw, front = np.empty(3), np.empty(3), np.empty(3)
    for s in range(len(small)):
        for c in range(3):
            front[c] = small[s, c] + CLEAR * normal[c]
        for k in range(len(spots)):
            q = spots[k]
            far = toward(q, front, way)
            into = -(way[0] * normal[0] + way[1] * normal[1] + way[2] * normal[2])
            if into <= 0.0 or far < 1e-6:
                continue
            got = leaves(way, forward, right, up, cosine, table) * into / (far * far) / len(spots) * area
            if got <= 0.0 or blocked(q[0], q[1], q[2], front[0], front[1], front[2], *args):
                continue
            for c in range(3):
                throw[c] = way[c] + 2.0 * into * normal[c]
            for r in range(len(points)):
                p = points[r]
                part = got * lobe(p, ways[r], front, normal, throw, power)
                if part > 1e-12 and not blocked(p[0], p[1], p[2], front[0], front[1], front[2], *args):
                    out[r] += part
