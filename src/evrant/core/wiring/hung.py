"""Leads of what hangs: along the rail, the wall or the ceiling, and down where they hinder nobody."""

from dataclasses import dataclass

import numpy as np

from evrant.core.space.booms import pivot_of
from evrant.core.space.lights import Light
from evrant.core.space.rails import CLAMPS, rail_under
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Vector

HUNG = frozenset({CLAMPS, "wall boom", "wall bracket", "ceiling bracket", "door clip", "hook", "adhesive hook"})
"""Supports that stand on no floor: a lead to them comes from above."""
INSIDE = 0.02
"""A lead comes down so far before a wall [m]."""
AT_WALL = 0.15
"""A rail that ends so near to a wall is fixed to it [m]."""


@dataclass(frozen=True, eq=False)
class HungWay:
    """Where a lead meets the floor (2,), how long it is from there to the head [m], and along what it runs."""

    foot: Vector
    rise: float
    along: str


def hung_ways(scene: Scene, light: Light) -> list[HungWay]:
    """Ways from a hanging head along what holds it, the ceiling or the wall, and down to the floor, the shortest first,
    and others of its kind: to the rail's other end, to other walls. None for what stands on the floor, and while the
    room is not known."""
    pivot, mount = pivot_of(light), light.mount
    if light.stand is None or light.stand.use not in HUNG or pivot is None or mount is None or scene.walls is None:
        return []
    out = float(np.linalg.norm(pivot - mount))
    ways = sorted((*_by_rail(scene, light, out), *_by_wall(scene, pivot, out)), key=lambda way: way.rise)
    return [way for way in ways if way.along == ways[0].along]


def _by_rail(scene: Scene, light: Light, out: float) -> list[HungWay]:
    """Along the rail to either end, and down there: by its stand or pole, or by the wall it is fixed to."""
    found = rail_under(scene, light) if light.stand is not None and light.stand.use == CLAMPS else None
    if found is None:
        return []
    rail, off, place, _ = found
    ways = []
    for end, far in ((rail.start, place), (rail.end, rail.span - place)):
        wall = _nearest_wall(scene, end[:2])
        if wall is None:
            continue
        gap, foot = wall
        stands = rail.path.endswith("/background") or gap > AT_WALL
        if stands and not rail.path.endswith("/background"):
            continue  # it hangs from the ceiling: that way is the ceiling's
        place_on_floor = end[:2] if stands else foot
        ways.append(HungWay(place_on_floor, out + off + far + float(end[2]), "along the rail and down at its end"))
    return ways


def _by_wall(scene: Scene, pivot: Vector, out: float) -> list[HungWay]:
    """Up to the ceiling, straight across to a wall, and down; or down at once where it hangs on the wall."""
    walls = _walls_across(scene, pivot[:2])
    if walls and walls[0][0] <= AT_WALL:
        gap, foot = walls[0]
        return [HungWay(foot, out + gap + float(pivot[2]), "down the wall")]
    if scene.ceiling is None:
        return []
    top = float(scene.ceiling.height(float(pivot[0]), float(pivot[1])))
    up, ways = max(top - float(pivot[2]), 0.0), []
    for gap, foot in walls:
        down = float(scene.ceiling.height(float(foot[0]), float(foot[1])))
        rise = out + up + float(np.hypot(gap, top - down)) + down
        ways.append(HungWay(foot, rise, "along the ceiling and down the wall"))
    return ways


def _nearest_wall(scene: Scene, spot: Vector) -> tuple[float, Vector] | None:
    """Distance of the nearest wall [m] and the place just before it (2,)."""
    return next(iter(_walls_across(scene, spot)), None)


def _walls_across(scene: Scene, spot: Vector) -> list[tuple[float, Vector]]:
    """Distance of every wall that can be reached straight across the room [m] and the place just before it (2,), the
    nearest first."""
    walls, found = scene.walls, []
    for index in range(walls.count if walls is not None else 0):
        assert walls is not None
        start, end = walls.wall(index)
        along = end - start
        part = min(max(float((spot - start) @ along / (along @ along)), 0.01), 0.99)
        there = start + part * along
        foot = there + walls.inward(index) * INSIDE
        gap = float(np.linalg.norm(spot - there))
        line = foot + np.linspace(0.0, 1.0, 20)[:, None] * (spot - foot)
        if walls.contains(line[:1] if gap <= AT_WALL else line[:-1]).all():
            found.append((gap, foot))
    return sorted(found, key=lambda one: one[0])
