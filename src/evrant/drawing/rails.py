"""Rails of the room, in any view."""

import numpy as np

from evrant.core.space.rails import rails_of
from evrant.core.space.scene import Scene
from evrant.drawing.layout import Frame
from evrant.drawing.svg import element, line, title


def rail_lines(frame: Frame, scene: Scene) -> str:
    """The room's rails from end to end."""
    parts = []
    for rail in rails_of(scene):
        if rail.path.startswith("room/"):
            first, last = frame.place(np.stack([rail.start, rail.end]))
            tube = line(first, last, "rail-line")
            parts.append(element("g", title(rail.name), tube, class_="thing", data_path=rail.path))
    return "".join(parts)
