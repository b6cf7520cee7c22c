"""The picture a set's camera takes: what each pixel's ray meets, the light that reaches it there, the lens's blur.

Amounts are exposures [lx s]: a pixel holds π times the luminance it sees, so that a white of reflectance 1 holds the
exposure it receives. Direct light is exact by contour, with shadows from points on each source; returned light is
gathered from the solve's patches at points a few pixels apart and read between them as nine harmonics.

Reference: Ramamoorthi and Hanrahan (2001), irradiance by nine spherical harmonics.
"""

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from evrant.core.base.turns import JUDGING
from evrant.core.light.colour import coded
from evrant.core.light.emission import Missing
from evrant.core.light.lit import Lit
from evrant.core.light.photometry import DOME, FLAT
from evrant.core.picture import shapes
from evrant.core.picture.focus import out_of_focus
from evrant.core.picture.mirroring import glints, mirrored, shining
from evrant.core.picture.pieces import in_pieces
from evrant.core.picture.returned import between
from evrant.core.picture.seeing import Seen, bodies_at, see
from evrant.core.picture.shadows import COARSE_PICKS, FINE_PICKS, NEAR, Shadows, direct_light, turns_of
from evrant.core.picture.stage import GLAZE, Stage, finish_of, stage_of
from evrant.core.space.framing import View
from evrant.core.space.solids import Points, frame_axes

Floats = NDArray[np.float64]
Whole = NDArray[np.int64]
FOLDS = 0.06
"""How far along the normal a body's own folds are looked for [m]."""
CELL, COARSE_CELL = 14, 32
"""Pixels between points where returned light is gathered, at 480 across; in a picture that follows a hand."""


@dataclass(frozen=True, eq=False)
class Picture:
    """A picture in exposures (rows, columns, 3) [lx s] relative to a white that the camera exposes for; what each
    pixel shows; what is missing."""

    lit: Lit
    stage: Stage
    seen: Seen
    light: Floats
    white: float
    missing: tuple[str, ...] = field(default=())

    @cached_property
    def relative(self) -> Floats:
        """(rows, columns, 3) linear share of white, in the working white's bands."""
        return self.light / max(self.white, 1e-12)

    @cached_property
    def pixels(self) -> NDArray[np.uint8]:
        """(rows, columns, 3) in sRGB (IEC 61966-2-1), cut off at white."""
        return encoded(self.relative)


def encoded(linear: Floats) -> NDArray[np.uint8]:
    """Linear shares of white as sRGB values 0 to 255 (IEC 61966-2-1)."""
    return np.asarray(coded(np.clip(linear, 0.0, 1.0)) * 255 + 0.5, dtype=np.uint8)


def doses_of(lit: Lit, only: frozenset[int] | None = None) -> Floats:
    """(sources,) factor of each source's full power in the picture; those not in `only` are off."""
    keep = np.array([only is None or i in only for i in range(len(lit.beams))], dtype=float)
    return np.asarray(lit.doses * keep)


class Stopped(Exception):
    """The picture is not wanted any more."""


def _never() -> bool:
    return False


def picture(
    lit: Lit,
    columns: int,
    *,
    only: frozenset[int] | None = None,
    fine: bool = True,
    sharp: bool = False,
    close: bool = False,
    stop: Callable[[], bool] = _never,
) -> Picture | None:
    """The picture of a lit set, so many pixels across; of some of its lights alone where `only` names them. `fine`
    shadows and edges, or coarse ones for a picture that follows a hand; `sharp` without the lens's blur; `close` the
    face alone. None without camera, lens or mark; where the room is not known, its walls and what they return are left
    out. `stop` is asked between its steps; raises Stopped when it says so."""
    view = close_view(lit) if close else lit.scene.view
    if view is None:
        return None
    stage = stage_of(lit)
    rows = max(round(columns * view.upward / view.across), 1)
    _ask(stop)
    seen = see(stage, view, columns, rows, np.zeros(2))
    doses = doses_of(lit, only)
    _ask(stop)
    returned = between(lit, stage, seen, doses, CELL if fine else COARSE_CELL)
    _ask(stop)
    shadows = Shadows(lit, stage, seen, FINE_PICKS if fine else COARSE_PICKS)
    light = shade(shadows, seen, np.arange(len(seen.depth)), returned, doses)
    if fine:
        _ask(stop)
        light = smoothed(shadows, view, returned, doses, light)
    light += glints(lit, stage, seen, doses, shadows.patched(doses))
    light = light.reshape(rows, columns, 3) if sharp else out_of_focus(lit, view, seen, light)
    unknown = (*([lit.around] if isinstance(lit.around, Missing) else []), *lit.missing)
    missing = tuple(dict.fromkeys(one.text for one in unknown))
    return Picture(lit, stage, seen, light, white_of(lit), missing)


CLOSE = (0.34, 0.40)
"""Width and height of what a picture of the face alone shows, at its distance [m]."""


def close_view(lit: Lit) -> View | None:
    """The camera's view cut to the lead subject's face, upright."""
    view, face = lit.scene.view, lit.scene.face
    if view is None or face is None:
        return None
    distance = float(np.linalg.norm(face - view.eye))
    wide, tall = CLOSE
    forward = (face - view.eye) / max(distance, 1e-9)
    right, up = frame_axes(forward)
    return replace(
        view,
        forward=forward,
        right=right,
        up=up,
        across=wide * view.image / distance,
        upward=tall * view.image / distance,
    )


STANDS_BACK = 0.2
"""How long a picture waits at most for a ledger that is being judged, at each of its steps [s]."""


def _ask(stop: Callable[[], bool]) -> None:
    JUDGING.stand_back(STANDS_BACK)
    if stop():
        raise Stopped


def white_of(lit: Lit) -> float:
    """Exposure [lx s] on a flat white that the camera as set shows as white."""
    return lit.exposed * FLAT / DOME


def shade(shadows: Shadows, seen: Seen, rows: Whole, returned: Floats, doses: Floats) -> Floats:
    """(rows, 3) what some of the rays show: shining faces, surfaces, those in the picture, what mirrors. `returned`
    (rows, 6) is the light of the room before and behind it."""
    lit, stage, faces = shadows.lit, shadows.stage, shadows.stage.faces
    found = np.zeros((len(rows), 3))
    face, part = seen.face[rows], seen.part[rows]
    bright = (face >= 0) & (faces.source[np.maximum(face, 0)] >= 0)
    found[bright] = shining(lit, faces.source[face[bright]], seen.ways[rows[bright]], doses)
    k = np.flatnonzero(~bright & ((face >= 0) | (part >= 0)))
    if not k.size:
        return found
    at, face, part = rows[k], face[k], part[k]
    points, normals = seen.points[at], seen.normals[at]
    arriving = direct_light(lit, stage, points + normals * NEAR, normals, doses, (shadows, seen, at))
    around = returned[k, :3].copy()
    smooth = part >= 0
    if smooth.any():
        around[smooth] *= _openness(stage, points[smooth], normals[smooth])[:, None]
    returns, gloss, rough = finish_of(stage, face, part, normals)
    shown = returns * (1 - gloss)[:, None] * (arriving + around)
    clear = np.flatnonzero((face >= 0) & (faces.through[np.maximum(face, 0)].max(axis=1) > 0))
    if clear.size:
        behind = direct_light(lit, stage, points[clear] - normals[clear] * NEAR, -normals[clear], doses)
        shown[clear] += faces.through[face[clear]] * (behind + returned[k[clear], 3:])
    glossy = np.flatnonzero(gloss > 0)
    if glossy.size:
        glazed = (part[glossy] >= 0) & (stage.shines[np.maximum(part[glossy], 0), 0] == GLAZE)
        share = np.where(glazed[:, None], 1.0, returns[glossy]) * gloss[glossy, None]
        turns = turns_of(*np.divmod(at[glossy], seen.columns))
        ways = seen.ways[at[glossy]]
        shown[glossy] += share * mirrored(
            lit, stage, points[glossy], normals[glossy], ways, rough[glossy], turns, doses, shadows.patched(doses)
        )
    found[k] = shown
    return found


def _openness(stage: Stage, points: Points, normals: Points) -> Floats:
    out = np.zeros(len(points))

    def some(k: slice) -> None:
        shapes.openness(stage.parts, stage.groups, points[k], normals[k], FOLDS, out[k])

    in_pieces(len(points), some)
    return out


def smoothed(shadows: Shadows, view: View, returned: Floats, doses: Floats, light: Floats) -> Floats:
    """Edges anew by two further rays a pixel, so that they have no steps."""
    seen, stage = shadows.seen, shadows.stage
    body = bodies_at(stage, seen)
    smooth = seen.part >= 0
    body[smooth] -= 100 * (1 + stage.parts[seen.part[smooth], 10].astype(np.int64))
    body = body.reshape(seen.rows, seen.columns)
    bright = np.log2(np.maximum(light.sum(axis=1), 1e-9)).reshape(body.shape)
    edge = np.zeros(body.shape, dtype=np.bool_)
    for before, after in ((np.s_[:-1, :], np.s_[1:, :]), (np.s_[:, :-1], np.s_[:, 1:])):
        step = (body[before] != body[after]) & (np.abs(bright[before] - bright[after]) > STEP)
        edge[before] |= step
        edge[after] |= step
    at = np.flatnonzero(edge.ravel())
    out = light.copy()
    most = BRIGHTEST * white_of(shadows.lit)
    out[at] = np.minimum(out[at], most)
    for shift in SHIFTS:
        other = see(stage, view, seen.columns, seen.rows, np.array(shift), seen.ahead, at)
        more = shade(shadows, other, at, returned[at], doses)
        out[at] += np.minimum(more, most)
    out[at] /= len(SHIFTS) + 1
    return out


STEP, BRIGHTEST = 0.08, 8.0
"""Stops between neighbours from which an edge is drawn anew, and how far over white a pixel counts there."""
SHIFTS = ((-0.33, -0.25), (0.33, 0.25))
