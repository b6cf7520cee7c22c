"""Booms: where one meets its stand."""

import math

import numpy as np

from evrant.core.space.lights import Light
from evrant.core.space.solids import Vector
from evrant.core.studio.room import value


def pivot_of(light: Light) -> Vector | None:
    """Where a boom meets its stand, or where the mount is when there is no boom (3,) [m]."""
    mount = light.mount
    if mount is None:
        return None
    out = boom_out(light)
    return mount if out is None else np.asarray(mount + out[0] * out[1])


def boom_out(light: Light) -> tuple[Vector, float] | None:
    """Unit direction from light to stand and the length drawn out [m]; None without a boom."""
    stand, place = light.stand, light.place
    if stand is None or place.boom is None:
        return None
    length = place.boom_length if place.boom_length is not None else value(stand.reach)
    if not length:
        return None
    angle = math.radians(place.boom)
    return np.array([math.cos(angle), math.sin(angle), 0.0]), length
