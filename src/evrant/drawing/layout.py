"""Where the four views lie on the sheet, and how space maps into each: one scale, in projection."""

import math
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np

from evrant.core.space.scene import Scene
from evrant.core.space.solids import Points, Vector

ViewName = Literal["plan", "lens", "facing", "picture"]
LEFT, TOP, GAP, TICKS, TITLE, RIGHT = 46.0, 4.0, 54.0, 30.0, 24.0, 14.0
MOST_SCALE = 260.0
NARROW = 560.0
"""Narrower sheets stack their views."""


@dataclass(frozen=True)
class Frame:
    """A view's rectangle on the sheet and its mapping: sheet = offset + scale × (across, −up)."""

    name: ViewName
    x: float
    y: float
    width: float
    height: float
    scale: float
    across: Vector
    up: Vector
    low: tuple[float, float]

    @cached_property
    def key(self) -> str:
        """Everything that decides where a point lands."""
        return f"{self.name} {self.scale!r} {self.height!r} {self.low!r} {self.across.tolist()} {self.up.tolist()}"

    def place(self, points: Points) -> Points:
        """(n, 3) points in the room to sheet coordinates inside the view."""
        turn, shift = self._map
        return np.asarray(points @ turn + shift)

    @cached_property
    def _map(self) -> tuple[Points, Vector]:
        turn = np.column_stack([self.across, -self.up]) * self.scale
        return turn, np.array([-self.low[0] * self.scale, self.height + self.low[1] * self.scale])

    def flat(self, points: Points) -> Points:
        """Points (n, 2) measured along this view's own axes to sheet coordinates."""
        return np.asarray(
            np.column_stack([points[:, 0] - self.low[0], self.low[1] - points[:, 1]]) * self.scale + (0.0, self.height)
        )

    def one(self, x: float, y: float, z: float) -> tuple[float, float]:
        spot = self.place(np.array([[x, y, z]]))[0]
        return float(spot[0]), float(spot[1])


@dataclass(frozen=True)
class Layout:
    """The sheet: its size, scale [units per metre], turn and views."""

    width: float
    height: float
    scale: float
    turn: float
    plan: Frame
    lens: Frame
    facing: Frame
    picture: tuple[float, float, float, float]


def turn_of(scene: Scene) -> float:
    """Angle of the lens axis on the plan [degrees]; the sheet is turned so that it lies level. For a camera
    overhead the sheet is turned as its picture is, so that plan and picture share their top."""
    if scene.axis is None:
        return 0.0
    angle = math.degrees(math.atan2(scene.axis[1], scene.axis[0]))
    return (angle + 90 + 180) % 360 - 180 if scene.overhead else angle


def layout_of(scene: Scene, width: float, height: float, turn: float | None = None) -> Layout | None:
    """Views for a sheet of that size, or None while the room has no footprint."""
    if scene.walls is None:
        return None
    angle = turn_of(scene) if turn is None else turn
    radians = math.radians(angle)
    along = np.array([math.cos(radians), math.sin(radians), 0.0])
    side = np.array([-math.sin(radians), math.cos(radians), 0.0])
    up = np.array([0.0, 0.0, 1.0])
    corners = np.column_stack([scene.walls.corners, np.zeros(scene.walls.count)])
    u, v = corners @ along, corners @ side
    long, wide, tall = float(np.ptp(u)), float(np.ptp(v)), _ceiling(scene)
    if width < NARROW:
        scale = min((width - LEFT - RIGHT) / max(long, wide), MOST_SCALE)
        column, rows = LEFT, _stacked(scale, wide, tall)
    else:
        scale = min(
            (width - LEFT - GAP - RIGHT) / (long + wide),
            (height - TOP - 2 * TITLE - 2 * TICKS - 10) / (wide + tall),
            MOST_SCALE,
        )
        row = TOP + TITLE + wide * scale + TICKS + TITLE + 6
        column, rows = LEFT + long * scale + GAP, (row, row, TOP + TITLE, height)
    low_u, low_v = float(u.min()), float(v.min())
    plan = Frame("plan", LEFT, TOP + TITLE, long * scale, wide * scale, scale, along, side, (low_u, low_v))
    lens = Frame("lens", LEFT, rows[0], long * scale, tall * scale, scale, along, up, (low_u, 0.0))
    facing = Frame("facing", column, rows[1], wide * scale, tall * scale, scale, side, up, (low_v, 0.0))
    picture = (column, rows[2], width - column - RIGHT, wide * scale)
    return Layout(width, rows[3], scale, angle, plan, lens, facing, picture)


def _stacked(scale: float, wide: float, tall: float) -> tuple[float, float, float, float]:
    """Tops of the section along the lens, the section facing the background and the picture under the
    plan, and the height of it all."""
    step = TICKS + TITLE + 10
    lens = TOP + TITLE + wide * scale + step
    facing = lens + tall * scale + step
    picture = facing + tall * scale + step
    return lens, facing, picture, picture + wide * scale + TICKS


def _ceiling(scene: Scene) -> float:
    return scene.room.height.value if scene.room.height else 2.5
