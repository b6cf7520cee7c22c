"""Convex bodies as point sets, and how far they are apart.

A solid is an (n, 3) array of points [m] whose convex hull is the body. Distances use support
functions: the separation of two hulls is the greatest gap over all directions (hyperplane
separation theorem); it is negative by the depth of overlap. Directions are sampled, then refined,
so a separation is never overstated.
"""

import math
from functools import cache

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import ConvexHull, QhullError

from evrant.core.space.gaps import flat_gap, greatest_gaps, reaches, widest

Points = NDArray[np.float64]
Vector = NDArray[np.float64]
_CUBE: Points = np.array([[x, y, z] for x in (0.0, 1.0) for y in (0.0, 1.0) for z in (0.0, 1.0)])


def cuboid(low: tuple[float, float, float], high: tuple[float, float, float]) -> Points:
    """Axis-aligned box between two corners."""
    base = np.array(low)
    return np.asarray(_CUBE * (np.array(high) - base) + base)


def turned(points: Points, degrees: float, about: tuple[float, float]) -> Points:
    """Points turned about a vertical axis, counter-clockwise seen from above."""
    angle = np.radians(degrees)
    turn = np.array([[np.cos(angle), -np.sin(angle), 0], [np.sin(angle), np.cos(angle), 0], [0, 0, 1]])
    pivot = np.array([about[0], about[1], 0.0])
    return np.asarray((points - pivot) @ turn.T + pivot)


@cache
def _ring(count: int) -> Points:
    angles = np.arange(count) * (2 * np.pi / count)
    return np.stack([np.cos(angles), np.sin(angles)], axis=1)


@cache
def _drum(count: int) -> Points:
    """Unit cylinder standing on z = 0."""
    ring = _ring(count)
    return np.vstack([np.column_stack([ring, np.zeros(count)]), np.column_stack([ring, np.ones(count)])])


@cache
def _spike() -> Points:
    """Unit cone standing on z = 0."""
    ring = _ring(24)
    return np.vstack([np.column_stack([ring, np.zeros(24)]), [[0.0, 0.0, 1.0]]])


def upright(x: float, y: float, low: float, high: float, radius: float) -> Points:
    """Vertical cylinder of 16 sides: its lower ring, then its upper one."""
    return np.asarray(_drum(16) * (radius, radius, high - low) + (x, y, low))


def cone(x: float, y: float, low: float, high: float, radius: float) -> Points:
    """Cone standing on its base: the space a stand's legs take."""
    return np.asarray(_spike() * (radius, radius, high - low) + (x, y, low))


def bar(start: Vector, end: Vector, radius: float, count: int = 12) -> Points:
    """Round bar or roll between two points."""
    along = unit(end - start)
    side, up = frame_axes(along)
    ring = _ring(count) * radius
    offsets = ring[:, :1] * side + ring[:, 1:] * up
    return np.vstack([start + offsets, end + offsets])


def unit(vector: Vector) -> Vector:
    """The vector scaled to length 1."""
    length = float(np.sqrt(vector @ vector))
    return vector / length if length > 0 else vector


def frame_axes(forward: Vector) -> tuple[Vector, Vector]:
    """Right-hand and up axes of something looking along `forward`."""
    x, y, z = (float(part) for part in forward)
    flat = math.hypot(x, y)
    rx, ry = (y / flat, -x / flat) if flat > 1e-9 else (0.0, -1.0)
    return np.array([rx, ry, 0.0]), np.array([ry * z, -rx * z, rx * y - ry * x])


def shade(centre: Vector, forward: Vector, width: float, height: float | None, depth: float, back: float) -> Points:
    """A modifier: its luminous face at `centre` looking along `forward`, tapering to `back` × the face.

    Round where `height` is None. `depth` is behind the face.
    """
    right, up = frame_axes(forward)
    if height is None:
        outline = _ring(24) * (width / 2)
    else:
        outline = np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]]) * (width / 2, height / 2)
    face = outline[:, :1] * right + outline[:, 1:] * up
    return np.vstack([centre + face, centre - forward * depth + face * back])


def ball(centre: tuple[float, float, float] | Vector, radii: tuple[float, float, float]) -> Points:
    """Ellipsoid with axes along x, y and z."""
    return np.asarray(_sphere() * np.array(radii) + np.asarray(centre))


@cache
def _sphere() -> Points:
    rows = [np.array([[0.0, 0.0, 1.0], [0.0, 0.0, -1.0]])]
    for latitude in np.radians([-67.5, -45, -22.5, 0, 22.5, 45, 67.5]):
        ring = _ring(16) * np.cos(latitude)
        rows.append(np.column_stack([ring, np.full(16, np.sin(latitude))]))
    return np.vstack(rows)


def limb(start: tuple[float, float, float], end: tuple[float, float, float], first: float, last: float) -> Points:
    """Tapered limb with round ends of two radii."""
    return np.vstack([ball(start, (first,) * 3), ball(end, (last,) * 3)])


@cache
def directions() -> Points:
    """Unit directions in antipodal pairs: the second half mirrors the first."""
    count = 120
    index = np.arange(count) + 0.5
    z = index / count
    angle = np.pi * (1 + 5**0.5) * index
    radius = np.sqrt(1 - z**2)
    half = np.column_stack([radius * np.cos(angle), radius * np.sin(angle), z])
    flat = np.column_stack([_ring(32)[:16], np.zeros(16)])
    half = np.vstack([half, flat, [[0.0, 0.0, 1.0]]])
    return np.vstack([half, -half])


def supports(solids: list[Points]) -> Points:
    """(solids, directions) greatest reach of every solid in every direction."""
    ways = directions()
    ends = np.cumsum([len(solid) for solid in solids])
    return np.asarray(reaches(np.vstack(solids), ends, ways[: len(ways) // 2]))


def plan_hull(points: Points) -> Points:
    """Those of the points (n, 3) that reach farthest on the plan in some of 64 directions."""
    farthest = np.unique((_ring(64) @ points[:, :2].T).argmax(axis=1))
    return np.asarray(points[farthest])


def corners_of(points: Points) -> Points:
    """Those of the points (n, 3) that are corners of their hull; all of them where they lie in a plane."""
    try:
        return np.asarray(points[np.sort(ConvexHull(points).vertices)])
    except QhullError:
        return points


def hull(points: Points) -> Points:
    """Convex outline of 2-D points: those that reach farthest in some direction, in order, closed.

    A corner may be missed only where the outline turns by less than 3°, under a tenth of a
    pixel at the sizes drawn.
    """
    farthest: list[int] = (_fan() @ points.T).argmax(axis=1).tolist()
    corners = [here for before, here in zip([-1, *farthest], farthest, strict=False) if here != before]
    if corners[0] != corners[-1]:
        corners.append(corners[0])
    return np.asarray(points[corners])


@cache
def _fan() -> Points:
    angles = np.arange(120) * (2 * np.pi / 120) + 0.001
    return np.column_stack([np.cos(angles), np.sin(angles)])


def coarse_separations(first: Points, second: Points) -> Points:
    """(solids, solids) separations over the sampled directions of some bodies from others, from their `supports`."""
    return np.asarray(greatest_gaps(first, second))


def cut(solid: Points, point: Vector, way: Vector) -> Points:
    """The part of a convex body on the `way` side of a plane through `point`.

    Its points there, and where pairs of points cross the plane; the hull of both is the part exactly.
    """
    depth = (solid - point) @ way
    front, back = depth >= 0, depth < 0
    if not back.any():
        return solid
    if not front.any():
        return solid[:0]
    a, b = solid[front][:, None, :], solid[back][None, :, :]
    da, db = depth[front][:, None], depth[back][None, :]
    crossing = (a + (b - a) * (da / (da - db))[..., None]).reshape(-1, 3)
    return np.vstack([solid[front], crossing])


def separation(first: Points, second: Points) -> tuple[float, Vector]:
    """Signed separation [m] and the unit direction from first to second that shows it."""
    ways = directions()
    gap, *way = widest(first, second, ways[: len(ways) // 2], _dial())
    return gap, np.array(way)


def flat_separation(first: Points, second: Points) -> tuple[float, Vector]:
    """Signed gap between the convex outlines of points (n, 2) and (m, 2), in a plan or a picture, and the unit
    direction (2,) from first to second that shows it; in the unit of the points."""
    gap, *way = flat_gap(np.ascontiguousarray(first, dtype=float), np.ascontiguousarray(second, dtype=float))
    return gap, np.array(way)


@cache
def _dial() -> Points:
    return np.vstack([_ring(12), _ring(6) * 0.5])
