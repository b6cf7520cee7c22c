"""What hangs is put where it can: clamps along the nearest rail, arms turned to the nearest wall, brackets at wall or
ceiling, each as near as it may be to where its light is wished."""

import math
from collections.abc import Callable
from dataclasses import replace

import numpy as np

from evrant.core.space.anchors import (
    ANCHORED,
    ARM_AT_WALL,
    BRIDGES,
    ON_CEILING,
    PLATE_AT_WALL,
    feet,
    opening_at,
    yoke_of,
)
from evrant.core.space.booms import pivot_of
from evrant.core.space.footprint import Plan
from evrant.core.space.lights import Light
from evrant.core.space.rails import CLAMPS, RailLine, rail_under
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Vector
from evrant.core.studio.room import Room, value
from evrant.core.studio.sets import LightPlace, SetPlan

HANGS = ANCHORED | {CLAMPS}
"""Supports that need something of the room to be at."""
NEARLY = 0.02
"""No arm is drawn out to its last [m]."""
ROUNDS, THERE = 24, 0.004
"""A light that is moved aims anew, which moves its mount a little: so often it is put again at most, until it is so
near [m]."""
MOST_SLID = 0.6
"""A search slides a light no further than this from where it is wished [m]: beyond, it is another light; project
choice."""
NEAR_CEILING = 0.95
"""Of what a bracket bridges, so much is used: a head needs air above it."""


def same_everywhere(room: Room) -> frozenset[str]:
    """Supports that hang from what is the same wherever in a room a set stands: a level ceiling, and the crossbar that
    comes with the background where there is no other rail."""
    found = {ON_CEILING} if not room.slopes else set()
    return frozenset(found | ({CLAMPS} if not room.rails else set()))


def hung(scene: Scene, most: float = math.inf, uses: frozenset[str] = HANGS) -> SetPlan:
    """The set with every light that hangs, by supports of some `uses`, where its support can be; others stay, and so
    does what would have to be moved by more than `most` [m]. A set without such lights, or in a room that is not
    measured, stays as it is."""
    plan = scene.plan
    for light in scene.lights:
        if light.stand is not None and light.stand.use in uses:
            place = hung_light(replace(scene, plan=plan), light)
            if _moved_by(light.place, place) > most:
                continue
            plan = plan.changed(lights=tuple(place if one.id == place.id else one for one in plan.lights))
    return plan


def _moved_by(before: LightPlace, after: LightPlace) -> float:
    """How far a light was moved [m]."""
    names = ("x", "y", "height")
    return math.hypot(*((getattr(after, name) or 0.0) - (getattr(before, name) or 0.0) for name in names))


def moves_of(before: LightPlace, after: LightPlace) -> dict[str, float | None]:
    """The fields in which a place that something hangs at differs from what it was."""
    names = ("x", "y", "height", "boom", "boom_length")
    return {name: getattr(after, name) for name in names if getattr(after, name) != getattr(before, name)}


def hung_light(scene: Scene, light: Light) -> LightPlace:
    """One light's place where its support can be; as it was where nothing of the kind is there."""
    if light.stand is None or light.mount is None:
        return light.place
    ways: dict[str, Callable[[Scene, Light], LightPlace | None]] = {
        CLAMPS: _on_rail,
        ARM_AT_WALL: _to_wall,
        PLATE_AT_WALL: _at_wall,
        ON_CEILING: _at_ceiling,
    }
    way = ways.get(light.stand.use)
    return (way(scene, light) if way is not None else None) or light.place


def _to_wall(scene: Scene, light: Light) -> LightPlace | None:
    """The arm square to the nearest wall that has no door or window there."""
    found = _nearest_wall(scene, light)
    return None if found is None or scene.walls is None else arm_to_wall(scene.walls, light.place, *found[:2])


def _nearest_wall(scene: Scene, light: Light) -> tuple[float, int, Vector] | None:
    """How far the nearest wall with nothing cut into it there is, its number and the place on it."""
    if scene.walls is None or light.mount is None:
        return None
    found = feet(scene.walls, light.mount)
    free = [one for one in found if not opening_at(scene, one[1], one[2])]
    return next(iter(free or found), None)


def arm_to_wall(walls: Plan, place: LightPlace, length: float, index: int) -> LightPlace:
    """A light's place with its arm square to a wall that is so far away [m]."""
    way = -walls.inward(index)
    turn = float(np.degrees(np.arctan2(way[1], way[0])))
    return place.changed(boom=round(turn, 2), boom_length=round(max(length, 0.01), 3))


def _on_rail(scene: Scene, light: Light) -> LightPlace | None:
    found = rail_under(scene, light)
    return None if found is None else slid_onto(scene, light, found[0])


def slid_onto(scene: Scene, light: Light, rail: RailLine) -> LightPlace:
    """A light slid along a rail, and on its clamp's own arm as far towards where it was as that reaches."""
    if light.mount is None or light.stand is None:
        return light.place
    there, wish = rail.nearest(light.mount)[2], light.mount
    aside = wish[:2] - there[:2]
    far, reach = float(np.linalg.norm(aside)), value(light.stand.reach) or 0.0
    out = min(far, reach - NEARLY)
    place = light.place.changed(boom=None, boom_length=None)
    if out > 0.02:
        turn = float(np.degrees(np.arctan2(-aside[1], -aside[0])))
        place = place.changed(boom=round(turn, 2), boom_length=round(out, 3))
    return _moved(scene, light, place, lambda now, mount: there)


def _at_wall(scene: Scene, light: Light) -> LightPlace | None:
    found = _nearest_wall(scene, light)
    if found is None or scene.walls is None or light.stand is None:
        return None
    off = (value(light.stand.reach) or BRIDGES) / 2
    spot = found[2] + np.array([*scene.walls.inward(found[1]), 0.0]) * off
    return _moved(scene, light, light.place, lambda now, mount: spot)


def _at_ceiling(scene: Scene, light: Light) -> LightPlace | None:
    """Raised, or lowered, to hang from the ceiling right over its place."""
    ceiling = scene.ceiling
    if ceiling is None or light.stand is None:
        return None
    under = (value(light.stand.reach) or BRIDGES) * NEAR_CEILING

    def wish(now: Light, mount: Vector) -> Vector:
        yoke = yoke_of(now, mount)
        high = ceiling.height(float(yoke[0]), float(yoke[1])) - under
        return np.array([mount[0], mount[1], high - float(yoke[2] - mount[2])])

    return _moved(scene, light, light.place, wish)


Wish = Callable[[Light, Vector], Vector]
"""Where a light, as it is now, would have the place (3,) it hangs by."""


def _moved(scene: Scene, light: Light, place: LightPlace, wish: Wish) -> LightPlace:
    """A light moved until what it hangs by is where that can be."""
    for _ in range(ROUNDS):
        lights = tuple(place if one.id == place.id else one for one in scene.plan.lights)
        now = replace(scene, plan=scene.plan.changed(lights=lights)).light_at(light.path)
        spot = pivot_of(now) if now is not None else None
        if now is None or spot is None or place.x is None or place.y is None or place.height is None:
            return place
        step = wish(now, spot) - spot
        if float(np.linalg.norm(step)) < THERE:
            break
        x, y, z = place.x + float(step[0]), place.y + float(step[1]), place.height + float(step[2])
        place = place.changed(x=round(x, 3), y=round(y, 3), height=round(max(z, 0.0), 3))
    return place
