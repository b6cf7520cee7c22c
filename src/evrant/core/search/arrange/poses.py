"""Poses: places of the mark and directions of the lens axis that are tried in a room."""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from evrant.core.space.footprint import Plan
from evrant.core.space.solids import Points

Angles = NDArray[np.float64]


@dataclass(frozen=True)
class Grid:
    """How finely a room is searched: step of the mark [m], of the axis [degrees], along walls [m]."""

    step: float = 0.2
    turn: float = 15.0
    along: float = 0.1
    off: tuple[float, ...] = (0.0, 0.15)
    free: bool = True


@dataclass(frozen=True)
class Poses:
    """(n, 2) marks [m], (n,) directions of the axis [degrees], (n,) the wall behind, −1 for none."""

    marks: Points
    turns: Angles
    walls: NDArray[np.intp]

    def __len__(self) -> int:
        return len(self.turns)

    def only(self, which: NDArray[np.intp] | NDArray[np.bool_]) -> "Poses":
        return Poses(self.marks[which], self.turns[which], self.walls[which])


def poses(
    walls: Plan, grid: Grid, gap: float, behind: float, *, at_walls: bool = False, overhead: bool = False
) -> Poses:
    """Every pose of a grid: before each wall with the background as near as its holder lets it, and (unless
    `at_walls`) anywhere, in any direction, diagonals included."""
    parts = [_before_wall(walls, grid, index, gap, behind) for index in range(walls.count)] if not overhead else []
    if grid.free and not at_walls:
        parts.append(_anywhere(walls, grid))
    if not parts:
        return Poses(np.zeros((0, 2)), np.zeros(0), np.zeros(0, dtype=np.intp))
    return Poses(*(np.concatenate([getattr(part, name) for part in parts]) for name in ("marks", "turns", "walls")))


def _before_wall(walls: Plan, grid: Grid, index: int, gap: float, behind: float) -> Poses:
    start, end = walls.wall(index)
    long = float(np.linalg.norm(end - start))
    along = (end - start) / long
    inward = walls.inward(index)
    places = np.arange(grid.along, long, grid.along)
    marks = [start + np.outer(places, along) + inward * (behind + off + gap) for off in grid.off]
    spots = np.concatenate(marks) if len(places) else np.zeros((0, 2))
    spots = spots[walls.contains(spots)] if len(spots) else spots
    turn = math.degrees(math.atan2(inward[1], inward[0]))
    return Poses(spots, np.full(len(spots), turn), np.full(len(spots), index, dtype=np.intp))


def _anywhere(walls: Plan, grid: Grid) -> Poses:
    low, high = walls.corners.min(axis=0), walls.corners.max(axis=0)
    xs, ys = (np.arange(low[i] + grid.step, high[i] - 0.01, grid.step) for i in (0, 1))
    spots = np.stack(np.meshgrid(xs, ys, indexing="ij"), axis=-1).reshape(-1, 2)
    spots = spots[walls.contains(spots)]
    turns = np.arange(0.0, 360.0, grid.turn)
    marks = np.repeat(spots, len(turns), axis=0)
    return Poses(marks, np.tile(turns, len(spots)), np.full(len(marks), -1, dtype=np.intp))


def ways(turns: Angles) -> tuple[Angles, NDArray[np.intp]]:
    """The different directions of poses [radians], and which of them each pose has."""
    found, which = np.unique(turns, return_inverse=True)
    return np.radians(found), which.astype(np.intp)
