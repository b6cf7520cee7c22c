"""The footprint as a polygon, and how far things in it are from its walls."""

import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from evrant.core.base.estimate import Share
from evrant.core.base.quantity import Figure
from evrant.core.space.solids import Points, Vector
from evrant.core.studio.room import Alcove, Ell, Outline, Rectangle, Room, Traverse, closed_round


@dataclass(frozen=True)
class Plan:
    """Corners (n, 2) counter-clockwise [m] and how each measured figure moves them."""

    corners: Points
    figures: tuple[tuple[str, Figure, Points], ...]

    @cached_property
    def nexts(self) -> Points:
        """The corner after each corner: the other ends of the walls."""
        return np.concatenate([self.corners[1:], self.corners[:1]])

    @cached_property
    def sides(self) -> NDArray[np.float64]:
        """(n,) length of each wall [m]."""
        return np.asarray(np.linalg.norm(self.nexts - self.corners, axis=1))

    @property
    def count(self) -> int:
        return len(self.corners)

    def wall(self, index: int) -> tuple[Vector, Vector]:
        """Start and end of a wall."""
        return self.corners[index], self.corners[(index + 1) % self.count]

    def inward(self, index: int) -> Vector:
        """Unit normal of a wall into the room."""
        start, end = self.wall(index)
        along = (end - start) / np.linalg.norm(end - start)
        return np.array([-along[1], along[0]])

    def contains(self, points: Points) -> NDArray[np.bool_]:
        """Which of the points (n, 2) lie inside, by the even-odd rule; points on a wall may fall either way."""
        a = self.corners
        b = self.nexts
        x, y = points[:, :1], points[:, 1:]
        straddles = (a[:, 1] > y) != (b[:, 1] > y)
        rise = b[:, 1] - a[:, 1]
        cross = a[:, 0] + (y - a[:, 1]) / np.where(rise == 0, 1.0, rise) * (b[:, 0] - a[:, 0])
        return np.asarray((straddles & (x < cross)).sum(axis=1) % 2 == 1)


def plan_of(room: Room) -> Plan | None:
    """The polygon of a room, or None while its measures are missing."""
    match room.footprint:
        case Rectangle(length=Figure() as length, width=Figure() as width):
            return _rectangle(length, width)
        case Ell() as shape:
            return _ell(shape)
        case Alcove() as shape:
            return _alcove(shape)
        case Traverse() as shape:
            return _traverse(shape)
        case Outline(corners=corners) if corners:
            points = np.array([[c.x.value, c.y.value] for c in corners])
            figures = []
            for i, corner in enumerate(corners):
                for axis, figure in enumerate((corner.x, corner.y)):
                    moves = np.zeros_like(points)
                    moves[i, axis] = 1.0
                    figures.append((f"corner {i + 1}", figure, moves))
            return Plan(points, tuple(figures))
    return None


def _rectangle(length: Figure, width: Figure) -> Plan:
    unit = np.array([[0.0, 0], [1, 0], [1, 1], [0, 1]])
    size = np.array([length.value, width.value])
    along, across = unit * (1, 0), unit * (0, 1)
    return Plan(unit * size, (("room length", length, along), ("room width", width, across)))


def _ell(shape: Ell) -> Plan | None:
    if not (shape.length and shape.width and shape.cut_length and shape.cut_width):
        return None
    # Columns: length, width, cut length, cut width as they enter x and y; the cut is at corner C,
    # then mirrored to the corner that is missing.
    x = np.array([[0, 0], [1, 0], [1, 0], [1, -1], [1, -1], [0, 0]], dtype=float)
    y = np.array([[0, 0], [0, 0], [1, -1], [1, -1], [1, 0], [1, 0]], dtype=float)
    if shape.cut_corner in ("A", "D"):
        x = np.array([1, 0]) - x
    if shape.cut_corner in ("A", "B"):
        y = np.array([1, 0]) - y
    order = np.arange(6)
    if shape.cut_corner in ("B", "D"):
        order = order[::-1]
    order = _from_origin(x[order], y[order], order)
    x, y = x[order], y[order]
    points = np.column_stack(
        [x @ [shape.length.value, shape.cut_length.value], y @ [shape.width.value, shape.cut_width.value]]
    )
    zero = np.zeros(6)
    return Plan(
        points,
        (
            ("room length", shape.length, np.column_stack([x[:, 0], zero])),
            ("missing part's length", shape.cut_length, np.column_stack([x[:, 1], zero])),
            ("room width", shape.width, np.column_stack([zero, y[:, 0]])),
            ("missing part's width", shape.cut_width, np.column_stack([zero, y[:, 1]])),
        ),
    )


def _alcove(shape: Alcove) -> Plan | None:
    """The rectangle with the niche's four corners put into its wall."""
    parts = (shape.length, shape.width, shape.niche_offset, shape.niche_length, shape.niche_depth)
    if any(part is None for part in parts):
        return None
    figures = [part for part in parts if part is not None]
    labels = ("room length", "room width", "offset of the alcove", "opening of the alcove", "depth of the alcove")

    def corners(values: list[float]) -> Points:
        long, wide, offset, opening, depth = values
        square = np.array([[0.0, 0], [long, 0], [long, wide], [0, wide]])
        wall = ("A–B", "B–C", "C–D", "D–A").index(shape.niche_wall)
        start, end = square[wall], square[(wall + 1) % 4]
        along = (end - start) / np.linalg.norm(end - start)
        out = np.array([along[1], -along[0]])
        first, last = start + along * offset, start + along * (offset + opening)
        niche = [first, first + out * depth, last + out * depth, last]
        return np.array([*square[: wall + 1], *niche, *square[wall + 1 :]])

    return _moved_plan(corners, figures, labels)


def _traverse(shape: Traverse) -> Plan | None:
    """The round of walls, closed; one missing length is found by closing it."""
    known = [leg.length for leg in shape.legs]
    if len(known) < 3 or any(length is None for length in known[:-1]):
        return None
    turns = [leg.turn for leg in shape.legs]
    figures = [length for length in known if length is not None]

    def corners(values: list[float]) -> Points:
        lengths = values if len(values) == len(turns) else [*values, _closing_length(values, turns)]
        return np.array(closed_round(lengths, turns)[0])

    return _moved_plan(corners, figures, tuple(f"wall {i + 1}" for i in range(len(figures))))


def _closing_length(lengths: list[float], turns: list[float]) -> float:
    """Length of the last wall that brings the round back to A [m]."""
    x = y = heading = 0.0
    for length, turn in zip(lengths, turns, strict=False):
        x += length * math.cos(math.radians(heading))
        y += length * math.sin(math.radians(heading))
        heading += turn
    return max(math.hypot(x, y), 0.01)


def _moved_plan(corners: Callable[[list[float]], Points], figures: list[Figure], labels: tuple[str, ...]) -> Plan:
    """A plan with the way each figure moves its corners, by differences."""
    values = [figure.value for figure in figures]
    here, step = corners(values), 1e-4
    moves = []
    for i, (label, figure) in enumerate(zip(labels, figures, strict=True)):
        there = corners([v + step * (i == j) for j, v in enumerate(values)])
        moves.append((label, figure, (there - here) / step))
    return Plan(here, tuple(moves))


def _from_origin(x: Points, y: Points, order: NDArray[np.intp]) -> NDArray[np.intp]:
    """Start the round at the corner nearest A, lowest on wall A-B."""
    weight = x[:, 0] + 2 * y[:, 0] + 0.1 * np.abs(x[:, 1]) + 0.1 * np.abs(y[:, 1])
    return np.roll(order, -int(np.argmin(weight)))


@dataclass(frozen=True)
class Clearance:
    """How far a body is inside the walls: [m], negative when through one; which, and where."""

    value: float
    wall: int
    along: float
    way: Vector
    shares: tuple[Share, ...]


def clearance(plan: Plan, points: Points) -> Clearance:
    """Least signed distance of plan points (n, 2) to the walls, positive inside."""
    a, b = plan.corners, plan.nexts
    edge = b - a
    lengths = (edge**2).sum(axis=1)
    offset = points[:, None, :] - a[None]
    t = np.clip((offset * edge).sum(axis=2) / lengths, 0, 1)
    away = offset - t[..., None] * edge
    distance = np.sqrt((away**2).sum(axis=2))
    inside = plan.contains(points)
    nearest = distance.min(axis=1)
    signed = np.where(inside, nearest, -nearest)
    worst = int(signed.argmin())
    wall = int(distance[worst].argmin())
    way = plan.inward(wall)
    along = float(t[worst, wall])
    shares = tuple(
        Share(label, abs(float(way @ ((1 - along) * moves[wall] + along * moves[(wall + 1) % plan.count]))) * f.pm)
        for label, f, moves in plan.figures
    )
    return Clearance(float(signed[worst]), wall, along, way, tuple(s for s in shares if s.amount > 1e-12))


def reflex_corners(plan: Plan) -> list[int]:
    """Corners that stick into the room."""
    before, after = np.roll(plan.corners, 1, axis=0), np.roll(plan.corners, -1, axis=0)
    into, out = plan.corners - before, after - plan.corners
    turn = into[:, 0] * out[:, 1] - into[:, 1] * out[:, 0]
    return [int(i) for i in np.flatnonzero(turn < 0)]


def first_wall(plan: Plan, start: Vector, way: Vector) -> tuple[float, int, float] | None:
    """Distance [m] from a point along a plan direction to the first wall, its number and the place
    along it (0 … 1)."""
    a, b = plan.corners, plan.nexts
    edge = b - a
    cross = way[0] * edge[:, 1] - way[1] * edge[:, 0]
    offset = a - start
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        distance = (offset[:, 0] * edge[:, 1] - offset[:, 1] * edge[:, 0]) / cross
        along = (offset[:, 0] * way[1] - offset[:, 1] * way[0]) / cross
    hit = (np.abs(cross) > 1e-12) & (distance > 1e-9) & (along >= -1e-9) & (along <= 1 + 1e-9)
    if not hit.any():
        return None
    index = int(np.where(hit, distance, np.inf).argmin())
    return float(distance[index]), index, float(along[index])
