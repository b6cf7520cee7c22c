"""The light that reaches points straight from the lights, past everything that stands before the lens.

Exact by contour; the share of a light that a point sees is found by looking at spots of its face, in a picture at every
other pixel, and taken over by the pixels between from neighbours that show the same body.
"""

from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from evrant.core.light.bodies import ALL_BODIES
from evrant.core.light.bounce.enclosure import NO_BODIES, NO_TABLE
from evrant.core.light.bounce.patches import Blockers
from evrant.core.light.bounce.sources import ring_over, spread_over
from evrant.core.light.bounce.surfaces import Bands
from evrant.core.light.lit import Lit
from evrant.core.picture import rays
from evrant.core.picture.pieces import in_pieces
from evrant.core.picture.returned import Patched, patched_as
from evrant.core.picture.seeing import Seen, bodies_at
from evrant.core.picture.stage import Stage
from evrant.core.space.solids import Points

Floats = NDArray[np.float64]
Whole = NDArray[np.int64]
SPOTS, COARSE_PICKS, FINE_PICKS = 64, 8, 16
LIFT, NEAR = 0.006, 1e-4
"""A shadow ray of a smooth body begins so far from it; a point is lifted off its surface by so much [m]."""
STEP = 2
"""Shadows are looked for at every other pixel."""


def _light(lit: Lit, stage: Stage, index: int, picks: int) -> tuple[Any, ...]:
    """One light as the kernel takes it, after points, normals and turns."""
    source = lit.beams[index].source
    face = np.ascontiguousarray(source.face, dtype=float)
    spots = ring_over(face, source.hole, SPOTS) if source.hole else spread_over(face, SPOTS)
    table = NO_TABLE if source.table is None else source.table
    shape = (
        face[None],
        source.forward,
        source.right,
        source.size,
        np.ascontiguousarray(spots),
        picks,
        source.table is None,
    )
    return (LIFT, *shape, table, *in_the_way(lit, index).arrays, stage.parts, stage.groups)


def in_the_way(lit: Lit, index: int) -> Blockers:
    """What stands in the way of one light: everything but its own body and those in the picture, who shade as the
    smooth bodies they are."""
    if lit.settled is None:
        return NO_BODIES
    return lit.settled.before([beam.source for beam in lit.beams], index, ALL_BODIES)


def _reached(light: tuple[Any, ...], points: Points, normals: Points, turns: Whole) -> tuple[Floats, Floats]:
    """Illuminance per lumen were nothing in the way, and the free share of it, at points with normals."""
    out, free = np.zeros(len(points)), np.zeros(len(points))

    def some(k: slice) -> None:
        given: tuple[Any, ...] = (points[k], normals[k], turns[k], *light, out[k], free[k])
        rays.lit(*given)

    in_pieces(len(points), some)
    return out, free


def turns_of(rows: Whole, columns: Whole) -> Whole:
    """A number for each pixel: neighbours differ, four by four of them have all sixteen."""
    return np.asarray(((columns % 4) * 4 + rows % 4).astype(np.int64))


@dataclass(frozen=True, eq=False)
class Shadows:
    """Free shares of each light at every other pixel of a picture, found when first asked for."""

    lit: Lit
    stage: Stage
    seen: Seen
    picks: int
    kept: dict[int, Floats] = field(default_factory=dict)
    left: dict[bytes, Patched | None] = field(default_factory=dict)

    def patched(self, doses: Floats) -> Patched | None:
        """The room's patches with the lights so set; None where the room is not known."""
        key = doses.tobytes()
        if key not in self.left:
            self.left[key] = patched_as(self.lit, doses)
        return self.left[key]

    def _grid(self) -> tuple[Whole, Whole, Whole]:
        rows, columns = np.arange(0, self.seen.rows, STEP), np.arange(0, self.seen.columns, STEP)
        return rows, columns, (rows[:, None] * self.seen.columns + columns[None, :]).ravel()

    def _body(self) -> tuple[Whole, Points, Floats]:
        """What every other pixel shows (rows, columns): body, normal, distance."""
        rows, columns, at = self._grid()
        shape = len(rows), len(columns)
        body = bodies_at(self.stage, self.seen)[at].reshape(shape)
        return body, self.seen.normals[at].reshape(*shape, 3), self.seen.depth[at].reshape(shape)

    def _share(self, index: int) -> Floats:
        if index not in self.kept:
            rows, columns, at = self._grid()
            points, normals = self.seen.points[at], self.seen.normals[at]
            y, x = np.divmod(np.arange(len(at)), len(columns))
            light = _light(self.lit, self.stage, index, self.picks)
            _, free = _reached(light, points + normals * NEAR, normals, turns_of(y, x))
            free = free.reshape(len(rows), len(columns))
            if ((free > 0) & (free < 1)).any():
                out = np.empty_like(free)
                rays.calm(free, *self._body(), out)
                free = out
            self.kept[index] = free
        return self.kept[index]

    def at(self, index: int, seen: Seen, rows: Whole) -> Floats:
        """Free shares of a light at some pixels of this picture or of one shifted by part of a pixel; −1 where no
        neighbour tells."""
        y, x = np.divmod(rows, self.seen.columns)
        out = np.empty(len(rows))
        body, normals, depth = self._body()
        facing = np.ascontiguousarray(seen.normals[rows])
        away, of = np.ascontiguousarray(seen.depth[rows]), bodies_at(self.stage, seen)[rows]
        rays.taken_over(self._share(index), body, normals, depth, STEP, y, x, of, facing, away, out)
        return out


def direct_light(
    lit: Lit,
    stage: Stage,
    points: Points,
    normals: Points,
    doses: Floats,
    pixels: tuple[Shadows, Seen, Whole] | None = None,
    picks: int = FINE_PICKS,
) -> Bands:
    """Exposure (n, 3) straight from the lights, shaded by everything that stands before the lens; `pixels` says which
    of a picture the points are, else each light is looked for at so many `picks` of its face."""
    found = np.zeros((len(points), 3))
    points, normals = np.ascontiguousarray(points), np.ascontiguousarray(normals)
    turns = np.arange(len(points)) % 16
    for i in np.flatnonzero(doses > 0):
        if pixels is None:
            whole, free = _reached(_light(lit, stage, int(i), picks), points, normals, turns)
        else:
            whole, _ = _reached(_light(lit, stage, int(i), 0), points, normals, turns)
            free = pixels[0].at(int(i), pixels[1], pixels[2])
            alone = np.flatnonzero((free < 0) & (whole > 0))
            light = _light(lit, stage, int(i), pixels[0].picks)
            free[alone] = _reached(light, points[alone], normals[alone], turns[alone])[1]
        found += (whole * np.maximum(free, 0.0))[:, None] * (lit.beams[i].source.flux * doses[i])
    rest = lit.settled
    if rest is not None and rest.glossy:
        sources = [beam.source for beam in lit.beams]
        thrown = rest.thrown(sources, points, normals, lit.lead)
        found += np.einsum("ps,sb->pb", thrown * doses, np.array([source.flux for source in sources]))
    return found
