"""Level rectangles that things stand on, and how far inside their edges a point lies."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from evrant.core.space.solids import Points, Vector, turned

TOUCH = 0.01
"""Tops so near to each other are pushed together [m]."""
_ANGLES = np.linspace(0.0, 2 * np.pi, 144, endpoint=False)
_RAYS: Points = np.column_stack([np.cos(_ANGLES), np.sin(_ANGLES)])


@dataclass(frozen=True, eq=False)
class Top:
    """A level rectangle: its middle (2,) and half its sides (2,) [m], turned by degrees, so high above the floor."""

    name: str
    middle: Vector
    half: Vector
    turn: float
    height: float

    def inside(self, points: Points) -> NDArray[np.float64]:
        """(n,) how far inside the edge plan points (n, 2) lie [m]; beside it below zero, by the nearest of the edge."""
        flat = np.column_stack([points - self.middle, np.zeros(len(points))])
        local = np.abs(turned(flat, -self.turn, (0.0, 0.0))[:, :2]) - self.half
        beside = np.linalg.norm(np.maximum(local, 0.0), axis=1)
        return np.asarray(np.where(beside > 0, -beside, -local.max(axis=1)))

    def way_in(self, points: Points) -> Vector | None:
        """(2,) the least move that brings plan points (n, 2) inside the edge, all alike [m]; None where they lie too
        far apart for it."""
        local = turned(np.column_stack([points - self.middle, np.zeros(len(points))]), -self.turn, (0.0, 0.0))[:, :2]
        low, high = -self.half - local.min(axis=0), self.half - local.max(axis=0)
        if (low > high).any():
            return None
        way = np.clip(0.0, low, high)
        return np.asarray(turned(np.array([[*way, 0.0]]), self.turn, (0.0, 0.0))[0, :2])

    def exits(self, point: Vector, ways: Points) -> NDArray[np.float64]:
        """(n,) how far from a point on it rays along unit vectors (n, 2) leave it [m]."""
        start = turned(np.array([[*(point - self.middle), 0.0]]), -self.turn, (0.0, 0.0))[0, :2]
        local = turned(np.column_stack([ways, np.zeros(len(ways))]), -self.turn, (0.0, 0.0))[:, :2]
        with np.errstate(divide="ignore"):
            far = (self.half - np.sign(local) * start) / np.abs(local)
        return np.asarray(far.min(axis=1))


def inside_all(tops: Sequence[Top], points: Points) -> NDArray[np.float64]:
    """(n,) how far inside the edge of the best of several tops each plan point lies [m], as `Top.inside` has it."""
    return np.asarray(np.max([top.inside(points) for top in tops], axis=0))


def way_to_edge(tops: Sequence[Top], point: Vector) -> float:
    """How far it is from a plan point to the nearest edge of the tops it is on, which count as one where they meet
    [m]; zero beside them."""
    under = [top for top in tops if top.inside(point[None])[0] > -TOUCH]
    if not under:
        return 0.0
    reached = np.max([top.exits(point, _RAYS) for top in under], axis=0)
    return max(float(reached.min()), 0.0)
