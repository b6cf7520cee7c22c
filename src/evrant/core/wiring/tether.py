"""The cable from a camera to the computer or screen it shows its pictures on."""

from dataclasses import dataclass

import numpy as np

from evrant.core.space.scene import Scene
from evrant.core.space.solids import Vector
from evrant.core.studio.gear import Part
from evrant.core.studio.room import value

DESK, LOOP = 0.75, 0.50
"""Height of a desk, and what the stopper's loop at the camera takes [m]; common practice, no source."""


@dataclass(frozen=True)
class Tether:
    """The cable, where it begins and ends on the floor, and how much of it is needed [m]."""

    cable: Part
    start: Vector
    end: Vector
    need: float


@dataclass(frozen=True)
class Cable:
    """A cable from a thing to the camera: where it begins and ends on the floor, and how much of it is needed [m]."""

    start: Vector
    end: Vector
    need: float


def cable_to_camera(scene: Scene, foot: Vector, height: float) -> Cable | None:
    """Down from a height, straight over the floor and up to the camera; None while the camera has no place."""
    if scene.camera_spot is None or scene.lens_height is None:
        return None
    way = float(np.linalg.norm(scene.camera_spot - foot))
    return Cable(foot, scene.camera_spot, height + way + scene.lens_height + LOOP)


def tether_of(scene: Scene) -> Tether | None:
    """The camera's cable laid straight to the nearest edge of the desk; None where there is none or places miss."""
    place = scene.plan.camera
    cable = scene.gear.get(place.tether or "")
    desk = next((one for one in scene.room.zones if one.id == place.tether_to), None)
    if not isinstance(cable, Part) or desk is None or scene.camera_spot is None or scene.lens_height is None:
        return None
    x, y, long, across = (value(one) for one in (desk.x, desk.y, desk.length, desk.width))
    if x is None or y is None or long is None or across is None:
        return None
    end = np.clip(scene.camera_spot, [x, y], [x + long, y + across])
    way = float(np.linalg.norm(end - scene.camera_spot))
    return Tether(cable, scene.camera_spot, end, scene.lens_height + way + DESK + LOOP)
