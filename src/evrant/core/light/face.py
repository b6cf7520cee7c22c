"""Directions of a face: along the nose, to the lens, round."""

import math

import numpy as np

from evrant.core.space.scene import Scene
from evrant.core.space.solids import Vector, unit


def nose_of(scene: Scene) -> Vector:
    """Unit vector the face looks along, level."""
    angle = math.radians(scene.facing)
    return np.array([math.cos(angle), math.sin(angle), 0.0])


def to_lens(scene: Scene) -> Vector:
    """Unit vector from the face to the lens; along the axis while the camera has no place."""
    assert scene.face is not None and scene.axis is not None
    if scene.eye is None:
        return np.array([*scene.axis, 0.0])
    return unit(scene.eye - scene.face)


def turned(way: Vector, degrees: float) -> Vector:
    """A vector turned about the upright axis, counter-clockwise from above."""
    angle = math.radians(degrees)
    c, s = math.cos(angle), math.sin(angle)
    return np.array([c * way[0] - s * way[1], s * way[0] + c * way[1], way[2]])
