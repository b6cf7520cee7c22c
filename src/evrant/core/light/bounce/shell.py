"""The room's own surfaces: floor, ceiling under its slopes, walls up to it, and the upright faces
where a slope ends beside a higher ceiling."""

from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from evrant.core.light.bounce.polygons import LEAST, area_of, convex_parts, normal_of, split
from evrant.core.space.ceiling import EDGE, Ceiling
from evrant.core.space.footprint import Plan
from evrant.core.space.solids import Points, Vector

STEP = 1e-4
OUT = 2.5 * EDGE
"""How far beside a cell its neighbour is asked for: past the edge a slope is given [m]."""


@dataclass(frozen=True)
class Shell:
    """Convex polygons by what they belong to; walls in the order of the footprint."""

    floor: tuple[Points, ...]
    ceiling: tuple[Points, ...]
    walls: tuple[tuple[Points, ...], ...]
    cheeks: tuple[Points, ...]


def shell_of(plan: Plan, ceiling: Ceiling) -> Shell:
    """The closed shell of a room, fronts inward."""
    flat = [np.column_stack([part, np.zeros(len(part))]) for part in convex_parts(plan.corners)]
    cells = [cell for part in flat for cell in _by_plane(part, ceiling)]
    roofs = [_lifted(cell, ceiling) for cell in cells]
    walls = tuple(tuple(_wall(plan, ceiling, index, cells)) for index in range(plan.count))
    cheeks = [cheek for cell, roof in zip(cells, roofs, strict=True) for cheek in _cheeks(plan, ceiling, cell, roof)]
    return Shell(tuple(flat), tuple(roof[::-1] for roof in roofs), walls, tuple(cheeks))


def _by_plane(part: Points, ceiling: Ceiling) -> list[Points]:
    """A piece of floor cut where the ceiling over it changes plane."""
    cells = [part]
    for pitch in ceiling.pitches:
        start, along = np.append(pitch.start, 0.0), np.append(pitch.along, 0.0)
        inward = np.append(pitch.inward, 0.0)
        lines = [(start, along), (start + along * pitch.length, along)]
        if pitch.rise > 0:
            away = (ceiling.flat.value - pitch.low.value) / pitch.rise
            lines.append((start + inward * max(away, 0.0), inward))
        cells = _cut(cells, lines)
    for i, one in enumerate(ceiling.pitches):
        for other in ceiling.pitches[i + 1 :]:
            way = np.append(one.inward * one.rise - other.inward * other.rise, 0.0)
            if np.linalg.norm(way) < 1e-9:
                continue
            here = one.low.value - one.rise * float(one.start @ one.inward)
            there = other.low.value - other.rise * float(other.start @ other.inward)
            cells = _cut(cells, [(way * (there - here) / float(way @ way), way)])
    return cells


def _cut(cells: list[Points], lines: list[tuple[Vector, Vector]]) -> list[Points]:
    for point, way in lines:
        cells = [
            piece for cell in cells for piece in split(cell, point, way) if piece is not None and area_of(piece) > LEAST
        ]
    return cells


def _plane_at(ceiling: Ceiling, spot: Vector) -> Callable[[Points], NDArray[np.float64]]:
    """Heights of the one plane that is the ceiling over a place, also beyond where it ends."""
    height, found = ceiling.flat.value, None
    for pitch in ceiling.pitches:
        here = float(pitch.heights(spot[None])[0])
        if here < height - 1e-9:
            height, found = here, pitch
    if found is None:
        return lambda points: np.full(len(points), ceiling.flat.value)
    start, inward, low, rise = found.start, found.inward, found.low.value, found.rise
    return lambda points: low + rise * np.maximum((points - start) @ inward, 0.0)


def _lifted(cell: Points, ceiling: Ceiling) -> Points:
    """The ceiling over a cell: each corner at the height of the cell's own plane."""
    plan = cell[:, :2]
    return np.column_stack([plan, _plane_at(ceiling, plan.mean(axis=0))(plan)])


def _wall(plan: Plan, ceiling: Ceiling, index: int, cells: list[Points]) -> list[Points]:
    """A wall up to the ceiling, in pieces where the ceiling's edge along it has corners."""
    start, end = plan.wall(index)
    length = float(np.linalg.norm(end - start))
    along, inward = (end - start) / length, plan.inward(index)
    corners = np.vstack([cell[:, :2] for cell in cells]) - start
    near = np.abs(corners @ inward) < 1e-6
    stops = np.unique(np.round(np.clip(corners[near] @ along, 0.0, length), 6))
    pieces = []
    for low, high in pairwise(stops):
        if high - low < 1e-5:
            continue
        a, b = start + along * low, start + along * high
        tops = _plane_at(ceiling, (a + b) / 2 + inward * STEP)(np.array([a, b]))
        pieces.append(np.array([[*b, 0.0], [*a, 0.0], [*a, tops[0]], [*b, tops[1]]]))
    return pieces


def _cheeks(plan: Plan, ceiling: Ceiling, cell: Points, roof: Points) -> list[Points]:
    """Upright faces between a cell's ceiling and a lower one beside it, seen from the cell."""
    found = []
    for here, there, high_a, high_b in zip(
        cell[:, :2], np.roll(cell[:, :2], -1, axis=0), roof[:, 2], np.roll(roof[:, 2], -1), strict=True
    ):
        length = float(np.linalg.norm(there - here))
        if length < 1e-6:
            continue
        along = (there - here) / length
        outward = np.array([along[1], -along[0]])
        beyond = (here + there) / 2 + outward * OUT
        if not plan.contains(beyond[None]).all():
            continue
        low_a, low_b = _plane_at(ceiling, beyond)(np.array([here, there]))
        if high_a - low_a > 1e-3 or high_b - low_b > 1e-3:
            quad = np.array([[*there, low_b], [*here, low_a], [*here, high_a], [*there, high_b]])
            distinct = [i for i in range(4) if np.abs(quad[i] - quad[i - 1]).max() > 1e-6]
            face = quad[distinct]
            if len(face) > 2 and area_of(face) > LEAST and float(normal_of(face)[:2] @ outward) < 0:
                found.append(face)
    return found
