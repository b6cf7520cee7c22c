"""The doorway a camera may stand in."""

import numpy as np

from evrant.core.space.scene import Scene
from evrant.core.space.solids import Vector
from evrant.core.space.things import door_place
from evrant.core.space.volumes import OPERATOR_WIDTH
from evrant.core.studio.room import Door


def doorway(scene: Scene, wall: int, point: Vector) -> Door | None:
    """The door with free depth behind it whose opening lets a person through at a point of that wall."""
    for door in scene.room.doors:
        place = door_place(scene.room, scene.walls, door)
        if place is None or place[2] != wall or door.beyond is None:
            continue
        first, last, _ = place
        width = float(np.linalg.norm(last - first))
        along = float((point - first) @ (last - first)) / width
        if OPERATOR_WIDTH / 2 <= along <= width - OPERATOR_WIDTH / 2:
            return door
    return None
