"""Where a light's bracket or arm meets the building: the wall or the ceiling it is screwed to."""

import math
from dataclasses import dataclass

import numpy as np

from evrant.core.base.estimate import Share
from evrant.core.space.booms import boom_out, pivot_of
from evrant.core.space.footprint import Plan
from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Vector
from evrant.core.space.things import door_place
from evrant.core.studio.room import value

ARM_AT_WALL, PLATE_AT_WALL, ON_CEILING = "wall boom", "wall bracket", "ceiling bracket"
ON_WALL = frozenset({ARM_AT_WALL, PLATE_AT_WALL})
ANCHORED = ON_WALL | {ON_CEILING}
"""Supports that are screwed to the building."""
BRIDGES, ARM_BRIDGES = 0.30, 0.05
"""How far plate, spigot and joint of a bracket carry a head from wall or ceiling where its data sheet gives no reach,
and how near to the wall an arm has to end [m]; common practice, no source."""


TOO_FAR = 0.5
"""A place so far behind a wall is still told by that wall [m]."""


@dataclass(frozen=True, eq=False)
class Anchor:
    """What a bracket is at: its name and path, the distance still to bridge and what bridges it [m], the place on it
    (3,), what is cut into it there ('' for nothing), and the ± of where it is."""

    name: str
    path: str
    gap: float
    bridges: float
    spot: Vector
    opening: str
    shares: tuple[Share, ...]

    @property
    def spare(self) -> float:
        return self.bridges - self.gap


def anchor_of(scene: Scene, light: Light) -> Anchor | None:
    """The wall or ceiling a light's bracket or arm is at, the nearest of them; None where it is no such thing, or the
    light's place or the room's is not known."""
    stand, spot = light.stand, pivot_of(light)
    if stand is None or spot is None or stand.use not in ANCHORED:
        return None
    if stand.use == ON_CEILING:
        return _at_ceiling(scene, light, value(stand.reach) or BRIDGES)
    arm = stand.use == ARM_AT_WALL
    bridges = ARM_BRIDGES if arm else value(stand.reach) or BRIDGES
    found = feet(scene.walls, spot if arm else yoke_of(light, spot), TOO_FAR) if scene.walls is not None else []
    if not found or scene.walls is None:
        return None
    gap, index, foot = found[0]
    wall = scene.room.edges(scene.walls.count)[index]
    start, end = scene.walls.wall(index)
    part = float(np.linalg.norm(foot[:2] - start) / np.linalg.norm(end - start))
    way, shares = scene.walls.inward(index), []
    for name, figure, moves in scene.walls.figures:
        move = (1 - part) * moves[index] + part * moves[(index + 1) % scene.walls.count]
        shares.append(Share(name, abs(float(move @ way)) * figure.pm))
    opening, told = opening_at(scene, index, foot), tuple(share for share in shares if share.amount > 1e-9)
    return Anchor(wall.name, f"room/walls/{wall.id}", gap, bridges, foot, opening, told)


def yoke_of(light: Light, mount: Vector) -> Vector:
    """The middle of the head, where its yoke is, behind the mount."""
    length = value(light.head.length) if light.head is not None else None
    return mount if light.forward is None else np.asarray(mount - light.forward * (length or 0.0) / 2)


def _at_ceiling(scene: Scene, light: Light, bridges: float) -> Anchor | None:
    if scene.ceiling is None or light.mount is None:
        return None
    spot = yoke_of(light, light.mount)
    over = scene.ceiling.over(spot[None])
    place = np.array([*spot[:2], over.height])
    return Anchor("ceiling", "room", over.value, bridges, place, "", over.shares)


def feet(walls: Plan, spot: Vector, past: float = 0.05) -> list[tuple[float, int, Vector]]:
    """Perpendiculars from a place (3,) to the walls that face it, or that it is no further `past` than this [m]:
    length [m], the wall's number and the foot (3,), the nearest first."""
    found = []
    for index in range(walls.count):
        start, end = walls.wall(index)
        inward, long = walls.inward(index), float(np.linalg.norm(end - start))
        off = float((spot[:2] - start) @ inward)
        along = float((spot[:2] - start) @ (end - start)) / long
        if off > -past and 0.0 <= along <= long:
            found.append((abs(off), index, np.array([*(spot[:2] - inward * off), spot[2]])))
    return sorted(found, key=lambda one: (one[0], one[1]))


def opening_at(scene: Scene, index: int, foot: Vector) -> str:
    """The door or window of a wall that a place on it lies in, or ''; one whose height is not known is taken to reach
    the ceiling."""
    if scene.walls is None:
        return ""
    start, end = scene.walls.wall(index)
    along = float((foot[:2] - start) @ (end - start)) / float(np.linalg.norm(end - start))
    names = [wall.id for wall in scene.room.edges(scene.walls.count)]
    for window in scene.room.windows:
        if window.wall == names[index] and window.offset and window.width:
            low, first, high = value(window.sill) or 0.0, window.offset.value, value(window.height)
            if first < along < first + window.width.value and low < foot[2] < low + (high or math.inf):
                return window.name.lower()
    for door in scene.room.doors:
        if door_place(scene.room, scene.walls, door) is not None and door.wall == names[index]:
            first = value(door.offset) or 0.0
            if first < along < first + (value(door.width) or 0.0) and foot[2] < (value(door.height) or math.inf):
                return door.name.lower()
    return ""


def points_nowhere(light: Light) -> bool:
    """Whether a light is on an arm whose direction is not said."""
    return light.stand is not None and light.stand.use == ARM_AT_WALL and boom_out(light) is None
