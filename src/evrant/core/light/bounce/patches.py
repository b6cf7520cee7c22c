"""Patches of a set of surfaces, and the blockers between them, as the arrays the kernels take."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from evrant.core.light.bounce.cutting import measure
from evrant.core.light.bounce.polygons import grid, normal_of
from evrant.core.light.bounce.surfaces import Bands, Surface
from evrant.core.space.solids import Points

Whole = NDArray[np.int64]
MOST = 8


def packed(polygons: Sequence[Points]) -> tuple[Points, Whole]:
    """Corners (n, 8, 3) and counts (n,)."""
    corners, counts = np.zeros((len(polygons), MOST, 3)), np.zeros(len(polygons), dtype=np.int64)
    for i, polygon in enumerate(polygons):
        counts[i] = len(polygon)
        corners[i, : len(polygon)] = polygon
        corners[i, len(polygon) :] = polygon[-1]
    return corners, counts


@dataclass(frozen=True, eq=False)
class Patches:
    """Flat convex pieces with one radiosity each. `surface` is the number of the surface a patch is of;
    `twin` the patch on the other side of a sheet, or −1."""

    corners: Points
    counts: Whole
    surface: Whole
    twin: Whole
    reflectance: Bands
    through: Bands

    @property
    def count(self) -> int:
        return len(self.counts)

    @cached_property
    def rings(self) -> list[Points]:
        return [self.corners[i, :n] for i, n in enumerate(self.counts)]

    @cached_property
    def measured(self) -> tuple[Points, Points, NDArray[np.float64], NDArray[np.float64]]:
        """Normals, middles, areas [m²] and spreads, the greatest distances of a corner from the middle [m]."""
        n = self.count
        found = np.empty((n, 3)), np.empty((n, 3)), np.empty(n), np.empty(n)
        measure(self.corners, self.counts, *found)
        return found

    @property
    def normals(self) -> Points:
        return self.measured[0]

    @property
    def middles(self) -> Points:
        return self.measured[1]

    @property
    def areas(self) -> NDArray[np.float64]:
        return self.measured[2]

    @property
    def spread(self) -> NDArray[np.float64]:
        return self.measured[3]

    @cached_property
    def spots(self) -> tuple[Points, Whole]:
        """Points spread over every patch, and the patch each belongs to."""
        owner = np.repeat(np.arange(self.count), self.counts)
        corner = np.concatenate([np.arange(n) for n in self.counts]) if self.count else np.zeros(0, dtype=np.int64)
        return (self.corners[owner, corner] + self.middles[owner]) / 2, owner

    @property
    def arrays(self) -> tuple[Points, Whole, Points, Points, NDArray[np.float64], NDArray[np.float64]]:
        return self.corners, self.counts, self.normals, self.middles, self.areas, self.spread

    def plus(self, other: "Patches") -> "Patches":
        return Patches(
            np.concatenate([self.corners, other.corners]),
            np.concatenate([self.counts, other.counts]),
            np.concatenate([self.surface, other.surface]),
            np.concatenate([self.twin, np.where(other.twin < 0, -1, other.twin + self.count)]),
            np.concatenate([self.reflectance, other.reflectance]),
            np.concatenate([self.through, other.through]),
        )

    def painted(self, surfaces: Sequence[Surface]) -> "Patches":
        """The same patches in the finishes of these surfaces, of which they are by number."""
        ahead, behind, clear = (np.array(one) for one in zip(*map(finishes_of, surfaces), strict=True))
        at_the_back = (self.twin >= 0) & (self.twin < np.arange(self.count))
        returns = np.where(at_the_back[:, None], behind[self.surface], ahead[self.surface])
        found = replace(self, reflectance=returns, through=clear[self.surface])
        found.__dict__["measured"] = self.measured  # shapes are as they were: not measured again
        return found

    def first(self, count: int) -> "Patches":
        """The first so many of them."""
        return Patches(
            self.corners[:count],
            self.counts[:count],
            self.surface[:count],
            self.twin[:count],
            self.reflectance[:count],
            self.through[:count],
        )


def finishes_of(surface: Surface) -> tuple[Bands, Bands, Bands]:
    """What a surface returns in front and at its back, and lets through (3,)."""
    clear = surface.through if surface.through is not None else np.zeros(3)
    return surface.reflectance, surface.reflectance if surface.back is None else surface.back, clear


def patches_of(surfaces: Sequence[Surface], size: float, first: int = 0) -> Patches:
    """Surfaces cut into patches about `size` [m] wide; `first` is the number of the first surface."""
    corners, counts, owner, twin, reflectance, through = [], [], [], [], [], []
    here = 0
    for number, surface in enumerate(surfaces, start=first):
        for polygon in surface.polygons:
            rings, sizes = _no_wider(*grid(polygon, min(size * surface.fine, surface.widest)))
            n = len(sizes)
            ahead, behind, clear = finishes_of(surface)
            sides = [(rings, ahead, np.full(n, -1))]
            if surface.back is not None:
                front, back = np.arange(here, here + n), np.arange(here + n, here + 2 * n)
                sides = [(rings, ahead, back), (turned_over(rings, sizes), behind, front)]
            for shape, returns, other in sides:
                corners.append(shape)
                counts.append(sizes)
                owner.append(np.full(n, number))
                twin.append(other)
                reflectance.append(np.tile(returns, (n, 1)))
                through.append(np.tile(clear, (n, 1)))
                here += n
    if not corners:
        none = np.zeros(0, dtype=np.int64)
        return Patches(np.zeros((0, MOST, 3)), none, none, none, np.zeros((0, 3)), np.zeros((0, 3)))
    return Patches(
        np.concatenate(corners),
        np.concatenate(counts),
        np.concatenate(owner),
        np.concatenate(twin),
        np.concatenate(reflectance),
        np.concatenate(through),
    )


def _no_wider(rings: Points, counts: Whole) -> tuple[Points, Whole]:
    """Corners (n, 8, 3); a cell with more than eight corners becomes several."""
    if counts.max(initial=0) <= MOST:
        return rings[:, :MOST], counts
    split: list[Points] = []
    for ring, count in zip(rings, counts, strict=True):
        rest = ring[:count]
        while len(rest) > MOST:
            split.append(rest[:MOST])
            rest = np.vstack([rest[:1], rest[MOST - 1 :]])
        split.append(rest)
    return packed(split)


def turned_over(rings: Points, counts: Whole) -> Points:
    """The same cells with their fronts on the other side."""
    out = rings.copy()
    for n in set(counts.tolist()):
        rows = counts == n
        out[rows, :n] = rings[rows, :n][:, ::-1]
    return out


@dataclass(frozen=True, eq=False)
class Blockers:
    """Bodies light cannot pass: spheres (b, 4) with the ranges (b, 3) of their polygons and whether
    they are convex solids."""

    spheres: Points
    ranges: Whole
    corners: Points
    counts: Whole
    normals: Points
    offsets: NDArray[np.float64]

    @property
    def arrays(self) -> tuple[Points, Whole, Points, Whole, Points, NDArray[np.float64]]:
        return self.spheres, self.ranges, self.corners, self.counts, self.normals, self.offsets

    def plus(self, other: "Blockers") -> "Blockers":
        return Blockers(
            np.concatenate([self.spheres, other.spheres]),
            np.concatenate([self.ranges, other.ranges + np.array([len(self.counts), len(self.counts), 0])]),
            np.concatenate([self.corners, other.corners]),
            np.concatenate([self.counts, other.counts]),
            np.concatenate([self.normals, other.normals]),
            np.concatenate([self.offsets, other.offsets]),
        )


def blockers_of(bodies: Iterable[tuple[Sequence[Points], bool]]) -> Blockers:
    """Each body as its polygons, in a sphere round it; convex solids are marked so."""
    spheres: list[list[float]] = []
    ranges: list[list[int]] = []
    polygons: list[Points] = []
    for body, convex in bodies:
        if not body:
            continue
        cloud = np.vstack(list(body))
        centre = (cloud.min(axis=0) + cloud.max(axis=0)) / 2
        spheres.append([*centre, float(np.linalg.norm(cloud - centre, axis=1).max()) + 1e-6])
        ranges.append([len(polygons), len(polygons) + len(body), int(convex)])
        polygons += list(body)
    corners, counts = packed(polygons)
    normals = np.array([normal_of(p) for p in polygons]).reshape(-1, 3)
    return Blockers(
        np.array(spheres).reshape(-1, 4),
        np.array(ranges, dtype=np.int64).reshape(-1, 3),
        corners,
        counts,
        normals,
        np.array([float(n @ p[0]) for n, p in zip(normals, polygons, strict=True)]),
    )


def bodies_of(surfaces: Sequence[Surface], without: str = "") -> list[tuple[list[Points], bool]]:
    """What blocks, and whether it is a convex solid: solids and sheets whole; of the shell what stands in
    front of another part of it. `without`: solids whose name begins so are left out."""
    bodies: dict[str, list[Points]] = {}
    shell: list[Points] = []
    sheets = set()
    for number, surface in enumerate(surfaces):
        if not surface.blocks:
            shell += list(surface.polygons)
        elif surface.back is not None or not surface.body:
            for i, polygon in enumerate(surface.polygons):
                bodies[f"{number} {i}"] = [polygon]
                sheets.add(f"{number} {i}")
        elif not without or not surface.body.startswith(without):
            bodies.setdefault(surface.body, []).extend(surface.polygons)
    found = [(body, name not in sheets) for name, body in bodies.items()]
    if shell:
        cloud = np.vstack(shell)
        for polygon in shell:
            up = normal_of(polygon)
            if float(((cloud - polygon[0]) @ up).min()) < -0.01:
                found.append(([polygon], False))
    return found
