"""The lens's blur: discs of a thin lens, gathered nearest first.

Blur disc of a thin lens: any optics handbook, as in `core.space.framing`.
"""

import numpy as np
from numpy.typing import NDArray

from evrant.core.light.lit import Lit
from evrant.core.picture import rays
from evrant.core.picture.pieces import in_pieces
from evrant.core.picture.seeing import Seen
from evrant.core.space.framing import View
from evrant.core.space.solids import Points

Floats = NDArray[np.float64]


def disc_of(view: View, lit: Lit, depth: Floats, columns: int) -> Floats:
    """Radius of the blur disc of points at those distances along the lens axis [px]."""
    scene = lit.scene
    if scene.shot.aperture is None or scene.focal is None or scene.aim is None or scene.shot.stack > 1:
        return np.zeros_like(depth)
    focus = float(view.depth(scene.aim[None])[0])
    pupil = scene.focal.value / scene.shot.aperture.value
    on_sensor = pupil * np.abs(depth - focus) / np.maximum(depth, 0.02) * view.image / focus
    return np.asarray(on_sensor / view.across * columns / 2)


MOST_DISC = 40.0
"""Greatest blur radius drawn, as pixels at 480 across."""


def out_of_focus(lit: Lit, view: View, seen: Seen, light: Floats) -> Floats:
    """The picture with each thing as sharp as the lens shows it."""
    disc = disc_of(view, lit, seen.depth, seen.columns).reshape(seen.rows, seen.columns)
    disc = np.minimum(disc, MOST_DISC * seen.columns / 480)
    light = np.ascontiguousarray(light.reshape(seen.rows, seen.columns, 3))
    if float(disc.max(initial=0.0)) < 0.5:
        return light
    out, depth = np.empty_like(light), np.ascontiguousarray(seen.depth.reshape(disc.shape))
    rows = np.arange(len(disc))

    def some(k: slice) -> None:
        rays.blur(light, depth, disc, TAPS, rows[k], out)

    in_pieces(len(disc), some, least=8)
    return out


def _disc(count: int) -> Points:
    """Points spread evenly over a disc of radius 1 (n, 2)."""
    k = np.arange(count) + 0.5
    angle = k * 2.399963
    reach = np.sqrt(k / count)
    return np.column_stack([reach * np.cos(angle), reach * np.sin(angle)])


TAPS = _disc(72)
