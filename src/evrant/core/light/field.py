"""Light over planes of the room, in stops against the face: what the overlay draws.

A point is judged by what falls on it from all sides alike (a ball), so that it has no direction of its own.
Direct light is computed at every point; returned light, which changes slowly, on a coarser lattice.
"""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from evrant.core.light.account import leaving
from evrant.core.light.bounce import kernels
from evrant.core.light.bounce.enclosure import direct
from evrant.core.light.bounce.polygons import normal_of
from evrant.core.light.colour import LUMINANCE, luminance
from evrant.core.light.lit import Lit
from evrant.core.space.solids import Points, Vector

COARSE = 9
DARK = -9.0


@dataclass(frozen=True, eq=False)
class Field:
    """Stops (rows, columns) over a lattice of points (rows, columns, 3); NaN outside the room."""

    points: Points
    stops: NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Strip:
    """A surface's pieces as lit: corners (n, 3) each, and their colour as a share of a white at the subject."""

    path: str
    corners: tuple[Points, ...]
    colour: tuple[NDArray[np.float64], ...]


class Overlay:
    """The fields of one lit set; what they share is computed once."""

    def __init__(self, lit: Lit) -> None:
        self.lit = lit

    @cached_property
    def given(self) -> NDArray[np.float64] | None:
        """Luminous exposure that leaves each patch (n,) [lx s]."""
        out = leaving(self.lit)
        return None if out is None else out @ LUMINANCE

    @cached_property
    def reference(self) -> float:
        """Exposure on a ball at the face [lx s]."""
        assert self.lit.scene.face is not None
        return float(self.lit.whole[self.lit.row("face")].T @ self.lit.doses @ LUMINANCE)

    def plan(self, columns: int = 30) -> Field | None:
        """A level plane at the height of the face."""
        scene = self.lit.scene
        if scene.walls is None or scene.face is None:
            return None
        low, high = scene.walls.corners.min(axis=0), scene.walls.corners.max(axis=0)
        rows = max(int(columns * (high[1] - low[1]) / (high[0] - low[0])), 6)
        x, y = np.linspace(low[0], high[0], columns), np.linspace(low[1], high[1], rows)
        grid = np.stack(np.meshgrid(x, y), axis=-1)
        level = float(scene.face[2])
        points = np.concatenate([grid, np.full((*grid.shape[:2], 1), level)], axis=2)
        return self._field(points)

    def section(self, columns: int = 30) -> Field | None:
        """The upright plane through the mark along the lens axis."""
        scene = self.lit.scene
        if scene.walls is None or scene.mark is None or scene.axis is None or scene.ceiling is None:
            return None
        along = scene.axis
        reach = (scene.walls.corners - scene.mark) @ along
        across = np.linspace(float(reach.min()), float(reach.max()), columns)
        top = scene.ceiling.flat.value
        up = np.linspace(0.0, top, max(int(columns * top / (reach.max() - reach.min())), 6))
        spots = scene.mark + across[:, None] * along
        points = np.empty((len(up), len(across), 3))
        points[..., :2] = spots[None]
        points[..., 2] = up[:, None]
        return self._field(points)

    def _field(self, points: Points) -> Field:
        inner = points.reshape(-1, 3)
        found = self._direct(inner) + self._spread(points).ravel()
        with np.errstate(divide="ignore"):
            stops = np.log2(found / self.reference) if self.reference > 0 else np.full(len(found), DARK)
        return Field(points, np.maximum(stops, DARK).reshape(points.shape[:2]))

    def _spread(self, points: Points) -> NDArray[np.float64]:
        """Returned light from a coarse lattice, linear between its points."""
        rows, columns = points.shape[:2]
        at_rows = np.linspace(0, rows - 1, min(rows, COARSE))
        at_columns = np.linspace(0, columns - 1, min(columns, COARSE + 2))
        inset_rows, inset_columns = np.clip(at_rows, 0.3, rows - 1.3), np.clip(at_columns, 0.3, columns - 1.3)
        few = np.array([[_between(points, r, c) for c in inset_columns] for r in inset_rows])
        coarse = self._returned(few.reshape(-1, 3)).reshape(len(at_rows), len(at_columns))
        over = np.array([np.interp(np.arange(columns), at_columns, row) for row in coarse])
        return np.array([np.interp(np.arange(rows), at_rows, over[:, c]) for c in range(columns)]).T

    def _direct(self, points: Points) -> NDArray[np.float64]:
        found = np.zeros(len(points))
        none = np.zeros_like(points)
        lit = self.lit
        sources, inside = [b.source for b in lit.beams], self._in_subject(points)
        for i, beam in enumerate(lit.beams):
            if lit.settled is None:
                continue
            light = direct(beam.source, points, none, lit.settled.before(sources, i))
            if inside.any():
                before = lit.settled.before(sources, i, lit.lead)
                light[inside] = direct(beam.source, points[inside], none[inside], before)
            found += light * float(luminance(beam.source.flux)) * float(lit.doses[i])
        if lit.settled is not None and lit.settled.glossy:
            flux = np.array([float(luminance(source.flux)) for source in sources])
            found += lit.settled.thrown(sources, points, none) @ (flux * lit.doses)
        return found

    def _in_subject(self, points: Points) -> NDArray[np.bool_]:
        """Which points lie inside the lead subject's body: they are taken as if it were not there."""
        rest, lead = self.lit.settled, self.lit.lead
        found = np.zeros(len(points), dtype=bool)
        own = [s for s in rest.surfaces if lead and s.body.startswith(lead)] if rest else []
        for surface in own:
            planes = [(normal_of(face), face[0]) for face in surface.polygons]
            found |= np.all([(points - spot) @ up < 1e-6 for up, spot in planes], axis=0)
        return found

    def _returned(self, points: Points) -> NDArray[np.float64]:
        rest = self.lit.settled
        if rest is None or self.given is None:
            return np.zeros(len(points))
        factors = np.zeros((len(points), rest.patches.count))
        points = np.ascontiguousarray(points)
        kernels.receive(points, np.zeros_like(points), *rest.patches.arrays, *rest.blockers.arrays, factors)
        return np.asarray(factors @ self.given)

    def strips(self) -> list[Strip]:
        """Walls, ceiling, floor and furniture as they are lit."""
        rest, out = self.lit.settled, leaving(self.lit)
        white = self.lit.total("face") * 250 / 340
        if rest is None or out is None or white <= 0:
            return []
        found = []
        for number, surface in enumerate(rest.surfaces):
            if surface.sheds:
                continue
            rows = np.flatnonzero(rest.patches.surface == number)
            corners = tuple(rest.patches.rings[i] for i in rows)
            found.append(Strip(surface.path, corners, tuple(out[i] / white for i in rows)))
        return found


def _between(points: Points, row: float, column: float) -> Vector:
    """A point of a lattice at fractional places."""
    r, c = min(int(row), points.shape[0] - 2), min(int(column), points.shape[1] - 2)
    a, b = row - r, column - c
    top = (1 - b) * points[r, c] + b * points[r, c + 1]
    low = (1 - b) * points[r + 1, c] + b * points[r + 1, c + 1]
    return np.asarray((1 - a) * top + a * low)
