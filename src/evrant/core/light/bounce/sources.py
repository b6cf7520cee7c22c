"""Luminous faces: where light leaves, how much of it and in which directions."""

import math
from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from functools import cached_property
from hashlib import blake2b
from typing import Any

import numpy as np
from numpy.typing import NDArray

from evrant.core.light.bounce.cutting import spread_points
from evrant.core.light.bounce.patches import Blockers, blockers_of, bodies_of
from evrant.core.light.bounce.polygons import area_of
from evrant.core.light.bounce.surfaces import Bands, Surface
from evrant.core.light.colour import luminance
from evrant.core.space.solids import Points, Vector, frame_axes, unit

FINE, COARSE = 32, 8


@dataclass(frozen=True, eq=False)
class Source:
    """A face of convex outline that gives `flux` (3,) [lm, or lm s for flash] ahead of it.

    Without `table` it shines as a uniform cosine face. With one, every point of the face shines with
    table[angle from forward 0–180°, side 0–360°] candela per lumen. `bodies` are the surfaces of the
    light itself, which block and return light.
    """

    name: str
    face: Points
    forward: Vector
    right: Vector
    flux: Bands
    table: NDArray[np.float64] | None = None
    bodies: tuple[Surface, ...] = field(default=())
    hole: float = 0.0
    """Width of a round face's hole as a share of its own: a ring shines from round it."""

    @cached_property
    def blockers(self) -> Blockers:
        """The light's own bodies as what stands in the way of others."""
        return blockers_of(bodies_of(self.bodies))

    @cached_property
    def shape(self) -> bytes:
        """The same for faces that shine alike from the same place, however strong."""
        parts = [self.face, self.forward, self.right, np.array([self.hole])]
        return _named(parts if self.table is None else [*parts, self.table])

    @cached_property
    def stands(self) -> bytes:
        """The same for lights whose bodies stand in the way alike."""
        return _named(self.blockers.arrays)

    @cached_property
    def size(self) -> float:
        """Greatest width of the face [m]."""
        return float(2 * np.linalg.norm(self.face - self.face.mean(axis=0), axis=1).max())

    @cached_property
    def fine(self) -> Points:
        return ring_over(self.face, self.hole, FINE) if self.hole else spread_over(self.face, FINE)

    @cached_property
    def coarse(self) -> Points:
        return ring_over(self.face, self.hole, COARSE) if self.hole else spread_over(self.face, COARSE)

    @property
    def centre(self) -> Vector:
        return np.asarray(self.face.mean(axis=0))

    def at(self, centre: Vector, aim: Vector) -> "Source":
        """The same light elsewhere, aimed at a point; its bodies go with it."""
        forward = unit(aim - centre)
        right, up = frame_axes(forward)
        old_up = np.cross(self.right, self.forward)

        def moved(points: Points) -> Points:
            local = points - self.centre
            parts = local @ self.right, local @ old_up, local @ self.forward
            return np.asarray(centre + parts[0][:, None] * right + parts[1][:, None] * up + parts[2][:, None] * forward)

        bodies = tuple(replace(b, polygons=tuple(moved(p) for p in b.polygons)) for b in self.bodies)
        return replace(self, face=moved(self.face), forward=forward, right=right, bodies=bodies)


def _named(parts: Iterable[NDArray[Any]]) -> bytes:
    """A short name of what arrays hold."""
    told = blake2b(digest_size=16)
    for part in parts:
        told.update(repr(part.shape).encode())
        told.update(np.ascontiguousarray(part).tobytes())
    return told.digest()


def spread_over(face: Points, count: int) -> Points:
    """Points of equal weight spread over a convex polygon."""
    out = np.empty((count, 3))
    spread_points(np.ascontiguousarray(face, dtype=float), len(face), count, out)
    return out


def ring_over(face: Points, hole: float, count: int) -> Points:
    """Points of equal weight spread round the hole of a round face: a disc's, each moved outward so that the areas
    keep their shares."""
    disc, centre = spread_over(face, count), face.mean(axis=0)
    rays = disc - centre
    reach = float(np.linalg.norm(face - centre, axis=1).mean())
    share = np.linalg.norm(rays, axis=1) / reach
    out = np.sqrt(hole**2 + (1 - hole**2) * share**2)
    return np.asarray(centre + rays * (out / np.maximum(share, 1e-9))[:, None])


def round_face(centre: Vector, forward: Vector, radius: float, count: int = 24) -> Points:
    """A regular polygon with the area of the disc, front along `forward`."""
    right, up = frame_axes(forward)
    angles = np.arange(count) * (2 * np.pi / count)
    reach = radius * math.sqrt(2 * math.pi / count / math.sin(2 * math.pi / count))
    ring = centre + reach * (np.cos(angles)[:, None] * right + np.sin(angles)[:, None] * up)
    return np.asarray(ring[::-1]) if _turned(ring, forward) else ring


def square_face(centre: Vector, forward: Vector, width: float, height: float) -> Points:
    """A rectangle, front along `forward`."""
    right, up = frame_axes(forward)
    ring = np.array(
        [centre + x * width / 2 * right + y * height / 2 * up for x, y in ((-1, -1), (1, -1), (1, 1), (-1, 1))]
    )
    return ring[::-1] if _turned(ring, forward) else ring


def seen_luminance(source: Source, cosines: NDArray[np.float64]) -> NDArray[np.float64]:
    """Luminance of a face per unit of power toward directions at those cosines from forward (n,) [cd/m², cd s/m²]."""
    flux, area = luminance(source.flux), area_of(source.face) * (1 - source.hole**2)
    if source.table is None:
        return np.where(cosines > 0, flux / (math.pi * area), 0.0)
    angles = np.linspace(0.0, math.pi, len(source.table))
    strength = flux * np.interp(np.arccos(np.clip(cosines, -1.0, 1.0)), angles, source.table.mean(axis=1))
    # What shines to all sides is seen as a ball, what shines ahead as its face.
    seen = np.full(len(cosines), area) if source.table[-1].mean() > 0 else area * np.maximum(np.abs(cosines), 0.05)
    return np.asarray(strength / seen)


def _turned(ring: Points, forward: Vector) -> bool:
    return float(np.cross(ring[1] - ring[0], ring[2] - ring[1]) @ forward) < 0
