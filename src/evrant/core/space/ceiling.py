"""The ceiling as planes: flat at the room's height, falling towards walls where it slopes.

A slope counts over the part of the floor that lies before its wall. There the ceiling is the lower
of the flat height and the slope, so the room's air stays convex under it and the spare of a body is
the least spare of its points.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from evrant.core.base.estimate import Share
from evrant.core.base.memo import Memo
from evrant.core.base.quantity import Figure
from evrant.core.space.footprint import Plan, plan_of
from evrant.core.space.solids import Points, Vector
from evrant.core.studio.room import Room, Slope

EDGE = 0.02


@dataclass(frozen=True)
class Pitch:
    """One slope resolved: its wall's start, direction and length, and its figures."""

    name: str
    start: Vector
    along: Vector
    inward: Vector
    length: float
    low: Figure
    high: Figure
    run: Figure
    own_high: bool

    @property
    def rise(self) -> float:
        return (self.high.value - self.low.value) / self.run.value

    def heights(self, points: Points) -> NDArray[np.float64]:
        """Ceiling over plan points (…, 2) [m]; infinite where the slope does not reach."""
        offset = points - self.start
        away, beside = offset @ self.inward, offset @ self.along
        over = (beside > -EDGE) & (beside < self.length + EDGE) & (away > -0.5)
        return np.where(over, self.low.value + self.rise * np.maximum(away, 0.0), np.inf)

    def shares(self, away: float) -> tuple[Share, ...]:
        """How low, run and high move the height at a distance from the wall."""
        part = max(away, 0.0) / self.run.value
        label = self.name.lower()
        found = [
            Share(f"low height of the {label}", abs(1 - part) * self.low.pm),
            Share(f"run of the {label}", abs(part * self.rise) * self.run.pm),
            Share(f"high end of the {label}" if self.own_high else "ceiling height", part * self.high.pm),
        ]
        return tuple(share for share in found if share.amount > 1e-12)


@dataclass(frozen=True)
class Spare:
    """Least height over a body [m], what gives it, where, and the shares of the room's figures."""

    value: float
    point: int
    height: float
    under: str
    shares: tuple[Share, ...]


@dataclass(frozen=True)
class Ceiling:
    """The flat height and the slopes below it."""

    flat: Figure
    pitches: tuple[Pitch, ...]

    def heights(self, points: Points) -> NDArray[np.float64]:
        """Ceiling height over plan points (…, 2) [m]."""
        found = np.full(points.shape[:-1], self.flat.value)
        for pitch in self.pitches:
            found = np.minimum(found, pitch.heights(points))
        return found

    def height(self, x: float, y: float) -> float:
        return float(self.heights(np.array([[x, y]]))[0])

    def over(self, points: Points) -> Spare:
        """The point of a body (n, 3) with least height over it."""
        spare = self.heights(points[:, :2]) - points[:, 2]
        worst = int(spare.argmin())
        spot = points[worst, :2]
        for pitch in self.pitches:
            height = float(pitch.heights(spot[None])[0])
            if height < self.flat.value:
                away = float((spot - pitch.start) @ pitch.inward)
                return Spare(float(spare[worst]), worst, height, pitch.name.lower(), pitch.shares(away))
        flat = (Share("ceiling height", self.flat.pm),)
        return Spare(float(spare[worst]), worst, self.flat.value, "ceiling", flat)


_CEILINGS: Memo["tuple[Ceiling | None]"] = Memo(2_000_000, lambda found: 2000)


def ceiling_of(room: Room) -> Ceiling | None:
    """The ceiling of a room, or None while its height (or a slope's figure) is missing."""
    parts = (room.footprint, room.height, room.slopes, room.walls)
    return _CEILINGS.get("", parts, lambda: (_ceiling(room, plan_of(room)),))[0]


def _ceiling(room: Room, walls: Plan | None) -> Ceiling | None:
    if room.height is None:
        return None
    pitches = []
    for slope in room.slopes:
        pitch = _pitch(room, walls, slope)
        if pitch is None:
            return None
        pitches.append(pitch)
    return Ceiling(room.height, tuple(pitches))


def _pitch(room: Room, walls: Plan | None, slope: Slope) -> Pitch | None:
    if walls is None or slope.wall is None or slope.low is None or slope.run is None or room.height is None:
        return None
    names = [wall.id for wall in room.edges(walls.count)]
    if slope.wall not in names:
        return None
    index = names.index(slope.wall)
    start, end = walls.wall(index)
    length = float(np.linalg.norm(end - start))
    high = slope.high or room.height
    return Pitch(
        slope.name,
        start,
        (end - start) / length,
        walls.inward(index),
        length,
        slope.low,
        high,
        slope.run,
        slope.high is not None,
    )
