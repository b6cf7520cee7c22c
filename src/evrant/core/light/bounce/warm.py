"""Runs every compiled kernel once, so that it is compiled."""

import numpy as np

from evrant.core.light.bounce import kernels
from evrant.core.light.bounce.enclosure import enclosure_of, settled
from evrant.core.light.bounce.sources import Source, square_face
from evrant.core.light.bounce.surfaces import Surface, fitted, grey, hull_faces
from evrant.core.light.spread import beam
from evrant.core.space.nearest import nearest_points
from evrant.core.space.solids import cuboid, frame_axes


def warm() -> None:
    """One small room with a solid, a sheet that lets light through, a mirror, a foil and two lights."""
    walls = [face[::-1] for face in hull_faces(cuboid((0.0, 0.0, 0.0), (3.0, 3.0, 2.0)))]
    solid = tuple(hull_faces(cuboid((1.0, 1.0, 0.5), (1.4, 1.4, 0.9))))
    card = np.array([[2.0, 0.5, 0.5], [2.0, 1.5, 0.5], [2.0, 1.5, 1.5], [2.0, 0.5, 1.5]])
    surfaces = [
        Surface("walls", "", tuple(walls), grey(0.5), blocks=False),
        Surface("solid", "", solid, grey(0.5), body="solid"),
        Surface("card", "", (card,), grey(0.4), back=grey(0.4), through=grey(0.3)),
        Surface("mirror", "", (card - (1.8, 0.0, 0.0),), grey(0.8), back=grey(0.8), gloss=1.0),
        Surface("foil", "", (card - (1.8, 0.0, -0.6),), grey(0.8), back=grey(0.8), gloss=0.8, rough=60.0),
    ]
    forward = np.array([-1.0, 0.0, 0.0])
    face = square_face(np.array([2.5, 1.0, 1.0]), forward, 0.3, 0.3)
    right = frame_axes(forward)[0]
    body = (Surface("lamp", "", (face,), grey(0.0), back=grey(0.0), body="lamp", sheds=True),)
    lights = [
        Source("a", face, forward, right, grey(1.0), bodies=body),
        Source("b", face, forward, right, grey(1.0), beam(60)),
    ]
    fitted([surfaces[0], Surface("box", "", (walls[0][::-1] / 2,), grey(0.5), body="box")])
    state = settled(enclosure_of(surfaces, 40), lights)
    points, ways = np.array([[0.5, 1.5, 1.0], [0.5, 1.5, 1.0]]), np.array([[1.0, 0.0, 0.0], [0.0, 0.0, 0.0]])
    state.reading(points, ways).light(lights, at_rest=True)
    patches = state.patches
    out = np.zeros((patches.count, 3)), np.zeros(patches.count)
    shape = (patches.corners, patches.counts, patches.normals, patches.middles, patches.spread)
    kernels.surround(points[0], *shape, *state.blockers.arrays, *out)
    outlines = np.array([[[0.0, 0.0], [1.0, 0.0], [0.0, 1.0]], [[2.0, 0.0], [3.0, 0.0], [2.0, 1.0]]])
    nearest_points(outlines, np.empty((2, 2)), np.empty((2, 2, 2)), np.empty((2, 2, 2)))
