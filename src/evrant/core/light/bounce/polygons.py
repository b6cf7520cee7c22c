"""Convex flat polygons in space: cutting, carving and gridding.

A polygon is an (n, 3) array of corners [m], counter-clockwise seen from its front.
"""

import math
from collections.abc import Iterable, Sequence
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from evrant.core.light.bounce.cutting import gridded, newell, one_side, outward, shared
from evrant.core.space.solids import Points, Vector, unit

EDGE = 1e-6
LEAST = 1e-5
"""Pieces smaller than this [m²] are dropped."""


def normal_of(polygon: Points) -> Vector:
    """Unit normal on the front (Newell's method)."""
    return unit(newell(_flat(polygon)))


def area_of(polygon: Points) -> float:
    """Area [m²]."""
    way = newell(_flat(polygon))
    return math.sqrt(float(way @ way)) / 2


def cut(polygon: Points, point: Vector, way: Vector) -> Points | None:
    """The part of a polygon where (x − point)·way ≤ 0, or None when nothing is left."""
    kept = one_side(_flat(polygon), _flat(point), _flat(way), EDGE)
    return np.asarray(kept) if len(kept) > 2 else None


def split(polygon: Points, point: Vector, way: Vector) -> tuple[Points | None, Points | None]:
    """Both sides of a cut: (x − point)·way ≤ 0, and the rest."""
    return cut(polygon, point, way), cut(polygon, point, -way)


def carve(polygons: Iterable[Points], hole: Points) -> list[Points]:
    """Polygons in the hole's plane without what the (convex) hole covers."""
    hole = _flat(hole)
    edges = list(zip(hole, outward(hole, normal_of(hole)), strict=True))
    found: list[Points] = []
    for polygon in polygons:
        rest: Points | None = polygon
        pieces = []
        for start, way in edges:
            if rest is None:
                break
            inside, outside = split(rest, start, way)
            if outside is not None and area_of(outside) > LEAST:
                pieces.append(outside)
            rest = inside
        covered = rest is not None and area_of(rest) > LEAST
        found += pieces if covered else [polygon]
    return found


def _flat(points: Points) -> Points:
    """As the compiled loops take them."""
    return np.ascontiguousarray(points, dtype=float)


def common(polygon: Points, other: Points) -> Points | None:
    """What two convex polygons in one plane share."""
    rest = np.asarray(shared(_flat(polygon), _flat(other), EDGE))
    return rest if len(rest) > 2 and area_of(rest) > LEAST else None


def grid(polygon: Points, size: float) -> tuple[Points, NDArray[np.int64]]:
    """Convex cells of a polygon, about `size` [m] wide, along its longest edge: corners (n, 16, 3), counts (n,)."""
    return gridded(_flat(polygon), size, LEAST)


def convex_parts(corners: Sequence[Vector] | Points) -> list[Points]:
    """A simple polygon (n, 2), counter-clockwise, as trapezoids between its corners' levels."""
    ring = np.asarray(corners)
    levels = sorted({round(float(y), 9) for y in ring[:, 1]})
    parts = []
    for low, high in pairwise(levels):
        if high - low < 1e-9:
            continue
        middle = (low + high) / 2
        crossing = []
        for start, end in zip(ring, np.roll(ring, -1, axis=0), strict=True):
            if (start[1] < middle) != (end[1] < middle):
                slope = (end[0] - start[0]) / (end[1] - start[1])
                crossing.append([start[0] + slope * (y - start[1]) for y in (middle, low, high)])
        crossing.sort()
        for left, right in zip(crossing[::2], crossing[1::2], strict=True):
            shape = [(left[1], low), (right[1], low), (right[2], high), (left[2], high)]
            parts.append(_distinct(np.array(shape)))
    return [part for part in _merged(parts) if len(part) > 2]


def _distinct(ring: Points) -> Points:
    keep = [i for i in range(len(ring)) if np.abs(ring[i] - ring[i - 1]).max() > 1e-9]
    return ring[keep]


def _merged(parts: list[Points]) -> list[Points]:
    """Rectangles stacked on one another joined where they have the same sides."""
    done: list[Points] = []
    for part in parts:
        for i, one in enumerate(done):
            if _same_sides(one, part):
                done[i] = np.array([one[0], one[1], part[2], part[3]])
                break
        else:
            done.append(part)
    return done


def _same_sides(low: Points, high: Points) -> bool:
    if len(low) != 4 or len(high) != 4:
        return False
    meet = np.abs(low[3] - high[0]).max() < 1e-9 and np.abs(low[2] - high[1]).max() < 1e-9
    straight = abs((low[3] - low[0])[0]) < 1e-9 and abs((high[3] - high[0])[0]) < 1e-9
    return bool(meet and straight and abs((low[2] - low[1])[0]) < 1e-9 and abs((high[2] - high[1])[0]) < 1e-9)
