"""Where the daylight of a room comes from, seen from the subject."""

import numpy as np

from evrant.core.light.surroundings import lets_in, window_face
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Points, Vector


def daylight_way(scene: Scene) -> Vector | None:
    """(3,) the way most daylight comes from at the subject, as long as it is strong, of all open windows together with
    what is drawn before them; None where no window lets any in.

    The vector irradiance of an evenly bright face of corners r is ½ Σ θ unit(r₁ × r₂) over its edges, θ the angle an
    edge is seen under (contour integral, any text on radiant exchange). All glass counts as bright alike.
    """
    if scene.lit_spot is None or scene.walls is None:
        return None
    whole = np.zeros(3)
    for window in scene.room.windows:
        glass = window_face(scene.walls, scene.room, window)
        if glass is not None and window.blackout != "in place":
            whole += lets_in(window) * vector_irradiance(glass - scene.lit_spot)
    return whole if float(np.linalg.norm(whole)) > 1e-9 else None


def vector_irradiance(corners: Points) -> Vector:
    """(3,) of a face of unit radiance whose corners are seen from the origin, pointing to it."""
    across = np.cross(corners, np.roll(corners, -1, axis=0))
    sines = np.linalg.norm(across, axis=1)
    angles = np.arctan2(sines, np.einsum("ij,ij->i", corners, np.roll(corners, -1, axis=0)))
    found = (across * (angles / np.maximum(sines, 1e-12))[:, None]).sum(axis=0) / 2
    return np.asarray(found if float(found @ corners.mean(axis=0)) >= 0 else -found)
