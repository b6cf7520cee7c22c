"""Compiles the kernels once, so that no first request waits: `python -m evrant.core.search.warm`."""

import numpy as np

from evrant.core.light.bounce.warm import warm as warm_light
from evrant.core.picture.warm import warm as warm_picture
from evrant.core.space.gaps import to_prism
from evrant.core.space.solids import coarse_separations, cuboid, flat_separation, separation, supports
from evrant.core.stowage.packing import pack
from evrant.core.stowage.pieces import Piece, Space


def warm() -> None:
    """Light and a picture in a small room, two bodies apart, one thing in a cupboard."""
    warm_light()
    warm_picture()
    bodies = [cuboid((0.0, 0.0, 0.0), (1.0, 1.0, 1.0)), cuboid((2.0, 0.0, 0.0), (3.0, 1.0, 1.0))]
    reach = supports(bodies)
    coarse_separations(reach, reach)
    separation(*bodies)
    flat_separation(*(body[:, :2] for body in bodies))
    outline = np.array([[0.0, 0.0], [1.0, 0.0], [1.0, 1.0], [0.0, 1.0]])
    to_prism(outline, 0.0, 1.0, np.zeros((1, 1, 2)), np.zeros(1))
    piece = Piece("bag", 1, "bag", (0.3, 0.2, 0.1), 1.0, None, False, 0)
    pack([piece], [Space("box", "box", "cupboard", 1.0, 1.0, 1.0, 10.0, 0, 0.0)])


if __name__ == "__main__":
    warm()
