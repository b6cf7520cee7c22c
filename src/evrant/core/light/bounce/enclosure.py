"""Diffuse radiosity in three bands over a closed set of patches: B = R E, E = E₀ + F B.

Form factors come from `exchange`, scaled symmetrically until each row sums to 1, so that energy and
reciprocity both hold. What stands in the room is cached by content; the bodies of lights are entered
when a light has come to rest (`settled`); while one moves, its direct light and shadows are exact and
its body in the returned light stays where it last rested (`Reading.light`).
"""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property, partial, reduce
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.linalg import lu_factor, lu_solve

from evrant.core.light.bounce import cutting, kernels, mirrors
from evrant.core.light.bounce.again import Again
from evrant.core.light.bounce.patches import Blockers, Patches, blockers_of, bodies_of, patches_of
from evrant.core.light.bounce.polygons import area_of, normal_of
from evrant.core.light.bounce.sources import Source, spread_over
from evrant.core.light.bounce.surfaces import Bands, Surface
from evrant.core.space.solids import Points

Single = NDArray[np.float32]
ROWS_WITHIN = 2e-4
CLOSE = 36
MOST_ROWS = 96
"""Receivers an enclosure remembers, the oldest go first; more asked for at once, as for a picture, are not."""
NO_BODIES = blockers_of([])
NO_TABLE = np.zeros((2, 1))


@dataclass(frozen=True, eq=False)
class Enclosure:
    """What stands in a room, cut into patches, with the unscaled exchange between them."""

    surfaces: tuple[Surface, ...]
    patches: Patches
    blockers: Blockers
    exchange: Single
    weights: NDArray[np.float64]
    """(n,) `weights_of` where no light's body stands."""
    size: float
    kept: dict[str, tuple[Blockers, NDArray[np.bool_]]] = field(default_factory=dict)
    again: Again = field(default_factory=Again)
    """Direct light on what stands, which most lights give as before when one of them moves."""
    rows: dict[tuple[str, bytes], NDArray[np.float64]] = field(default_factory=dict)
    """By owner, place and normal: what the patches send a receiver past what stands, without the lights' bodies."""

    def past(self, owner: str) -> tuple[Blockers, NDArray[np.bool_]]:
        """What stands in the way of a receiver that lies inside a solid whose name begins so, and which patches are
        that solid's own."""
        if owner not in self.kept:
            own = [bool(owner) and s.body.startswith(owner) for s in self.surfaces]
            kept = blockers_of(bodies_of(self.surfaces, without=owner)) if any(own) else self.blockers
            self.kept[owner] = kept, np.array(own, dtype=bool)[self.patches.surface]
        return self.kept[owner]

    def painted(self, surfaces: Sequence[Surface]) -> "Enclosure":
        """The same shapes in other finishes: all that does not hang on what they return is shared."""
        return replace(self, surfaces=tuple(surfaces), patches=self.patches.painted(surfaces))

    def received(self, points: Points, ways: Points, owner: str) -> NDArray[np.float64]:
        """(p, n) what each patch sends to a few flat receivers inside the solid of that name, which are remembered."""
        keys = [(owner, np.concatenate(pair).tobytes()) for pair in zip(points, ways, strict=True)]
        known = {key: self.rows.get(key) for key in keys}
        new = [number for number, key in enumerate(keys) if known[key] is None]
        if new:
            out = np.zeros((len(new), self.patches.count))
            kernels.receive(points[new], ways[new], *self.patches.arrays, *self.past(owner)[0].arrays, out)
            found = {keys[number]: row for number, row in zip(new, out, strict=True)}
            known |= found
            self.rows.update(found)
        for old in list(self.rows)[:-MOST_ROWS]:
            self.rows.pop(old, None)
        return np.array([known[key] for key in keys]).reshape(len(points), self.patches.count)


def enclosure_of(surfaces: Sequence[Surface], count: int) -> Enclosure:
    """Surfaces cut into about `count` patches and exchanged."""
    size = size_for(surfaces, count)
    patches = patches_of(surfaces, size)
    blockers = blockers_of(bodies_of(surfaces))
    out = np.zeros((patches.count, patches.count))
    kernels.exchange(0, *patches.arrays, *blockers.arrays, out)
    exchange = out.astype(np.float32)
    weights = weights_of(exchange.astype(float), patches.areas, np.ones(patches.count))
    return Enclosure(tuple(surfaces), patches, blockers, exchange, weights, size)


def size_for(surfaces: Sequence[Surface], count: int) -> float:
    """Width of patches [m] of which about `count` cover the surfaces, both sides of sheets counted."""
    total = sum(s.area * (2 if s.back is not None else 1) / s.fine**2 for s in surfaces)
    return float(np.sqrt(total / count))


def weights_of(
    exchange: NDArray[np.float64], areas: NDArray[np.float64], first: NDArray[np.float64]
) -> NDArray[np.float64]:
    """The diagonal (n,) of a symmetric scaling D S D whose rows sum to the areas, looked for from `first`."""
    weights = first
    for _ in range(200):
        rows = weights * (exchange @ weights)
        open_rows = rows > 1e-12
        if np.abs(rows[open_rows] / areas[open_rows] - 1).max(initial=0.0) < ROWS_WITHIN:
            break
        weights = np.where(open_rows, weights * np.sqrt(areas / np.maximum(rows, 1e-12)), weights)
    return weights


@dataclass(frozen=True, eq=False)
class Settled:
    """A set at rest: all patches with the lights' bodies, and the factored systems of each band."""

    surfaces: tuple[Surface, ...]
    patches: Patches
    blockers: Blockers
    enclosure: Enclosure
    factors: Single
    sources: tuple[Source, ...]
    bodies_from: int
    size: float

    @cached_property
    def bands(self) -> tuple[int, int, int]:
        """For each band the first one with the same figures everywhere."""
        patches = self.patches
        same = [
            next(
                k
                for k in range(band + 1)
                if np.array_equal(patches.reflectance[:, k], patches.reflectance[:, band])
                and np.array_equal(patches.through[:, k], patches.through[:, band])
            )
            for band in range(3)
        ]
        return same[0], same[1], same[2]

    @cached_property
    def systems(self) -> dict[int, Any]:
        """LU factors of 1 − F R by band."""
        return {band: lu_factor(self._matrix(band), overwrite_a=True, check_finite=False) for band in set(self.bands)}

    def _matrix(self, band: int) -> Single:
        rho, through, twin = self._band(band)
        matrix = -self.factors * rho
        passing = np.flatnonzero((twin >= 0) & (through > 0))
        if passing.size:
            matrix[:, passing] -= self.factors[:, twin[passing]] * through[twin[passing]]
        matrix[np.diag_indices_from(matrix)] += 1.0
        return matrix

    def _band(self, band: int) -> tuple[Single, Single, NDArray[np.int64]]:
        return (
            self.patches.reflectance[:, band].astype(np.float32),
            self.patches.through[:, band].astype(np.float32),
            self.patches.twin,
        )

    def leaving(self, incident: Bands) -> Bands:
        """Radiosity (n, 3) from incident light (n, 3), both sides of sheets."""
        out = self.patches.reflectance * incident
        both = np.flatnonzero(self.patches.twin >= 0)
        if both.size:
            twin = self.patches.twin[both]
            out[both] += self.patches.through[both] * incident[twin]
        return np.asarray(out)

    def returned(self, factors: NDArray[np.float64], band: int) -> Single:
        """Factors (p, n) of leaving light turned into factors of incident light."""
        rho, through, twin = self._band(band)
        out = factors.astype(np.float32) * rho
        passing = np.flatnonzero((twin >= 0) & (through > 0))
        if passing.size:
            out[:, passing] += (factors[:, twin[passing]] * through[twin[passing]]).astype(np.float32)
        return np.asarray(out, dtype=np.float32)

    def before(self, sources: Sequence[Source], index: int, owner: str = "") -> Blockers:
        """What may stand in the way of one light: everything but its own body, which is behind its face, and the
        body of the `owner` of the receivers. Kept while the lights are those the set is at rest with."""
        at_rest = len(sources) == len(self.sources) and all(a is b for a, b in zip(sources, self.sources, strict=True))
        held = self.ways_clear if at_rest else {}
        if (index, owner) not in held:
            others = _bodies([s for k, s in enumerate(sources) if k != index])
            fixed = self.enclosure.past(owner)[0]
            held[index, owner] = fixed.plus(others) if len(others.counts) else fixed
        return held[index, owner]

    @cached_property
    def ways_clear(self) -> dict[tuple[int, str], Blockers]:
        """What `before` has found, by light and owner."""
        return {}

    def first_light(self, sources: Sequence[Source], at_rest: bool = True) -> NDArray[np.float64]:
        """Direct illuminance per lumen (n, sources) on every patch, scaled so that each lumen lands.

        Not at rest: the bodies of moved lights shade from where they are now.
        """
        patches = self.patches
        ahead = patches if at_rest else self._carried(sources)
        spots, owner = ahead.spots
        ways = ahead.normals[owner]
        weights = 1.0 / patches.counts
        found = np.zeros((patches.count, len(sources)))
        for s, source in enumerate(sources):
            light = self._looked(sources, s, b"spots", spots, ways, len(self.enclosure.patches.spots[1]))
            mean = np.bincount(owner, light, minlength=patches.count) * weights
            near = np.linalg.norm(ahead.middles - source.centre, axis=1) < 2.5 * ahead.spread + source.size / 2
            close = np.flatnonzero(near & (mean > 0))
            if close.size:
                mean[close] = self._finer(sources, s, ahead, close)
            landed = float(mean @ patches.areas)
            found[:, s] = mean * (min(max(1.0 / landed, 0.8), 1.25) if landed > 1e-9 else 0.0)
        if self.glossy:
            found *= 1.0 - self.mirrored[:, None]
            by_spot = self.thrown(sources, spots, ways)
            for s in range(len(sources)):
                found[:, s] += np.bincount(owner, by_spot[:, s], minlength=patches.count) * weights
        return found

    @cached_property
    def glossy(self) -> tuple[Surface, ...]:
        """Surfaces that throw on some of their light as from a mirror."""
        return tuple(surface for surface in self.enclosure.surfaces if surface.gloss > 0)

    @cached_property
    def mirrored(self) -> NDArray[np.float64]:
        """(n,) share of what each patch returns that leaves it as from a mirror."""
        return np.array([surface.gloss for surface in self.surfaces])[self.patches.surface]

    def thrown(self, sources: Sequence[Source], points: Points, ways: Points, owner: str = "") -> NDArray[np.float64]:
        """(p, sources) illuminance per lumen that mirrors and foils throw on, straight from the lights."""
        found = np.zeros((len(points), len(sources)))
        points, ways = np.ascontiguousarray(points), np.ascontiguousarray(ways)
        for surface in self.glossy:
            share = surface.gloss * float(surface.reflectance.mean())
            for s, source in enumerate(sources):
                for ring in surface.polygons:
                    found[:, s] += share * _thrown(surface, ring, source, points, ways, self.before(sources, s, owner))
        return found

    def _looked(
        self, sources: Sequence[Source], index: int, which: bytes, points: Points, ways: Points, stay: int
    ) -> NDArray[np.float64]:
        """Direct light of one source on points, of which the first `stay`, named `which`, are of what stands."""
        look = partial(direct, sources[index], blockers=self.before(sources, index))
        others = {one.stands: one.blockers for k, one in enumerate(sources) if k != index and one.bodies}
        kept = self.enclosure.again.direct(sources[index], others, which, points[:stay], ways[:stay], look)
        return np.concatenate([kept, look(points[stay:], ways[stay:])]) if stay < len(points) else kept

    def _finer(
        self, sources: Sequence[Source], index: int, patches: Patches, close: NDArray[np.int64]
    ) -> NDArray[np.float64]:
        """Mean direct light on patches close to their source, from 36 points each."""
        spots = np.empty((len(close), CLOSE, 3))
        for row, i in enumerate(close):
            cutting.spread_points(patches.corners[i], patches.counts[i], CLOSE, spots[row])
        ways = np.repeat(patches.normals[close], CLOSE, axis=0)
        stay = int(np.searchsorted(close, self.bodies_from))
        light = self._looked(sources, index, close[:stay].tobytes(), spots.reshape(-1, 3), ways, stay * CLOSE)
        return np.asarray(light.reshape(-1, CLOSE).mean(axis=1))

    def _carried(self, sources: Sequence[Source]) -> Patches:
        """Patches with those of the lights' bodies where the lights are now."""
        if self.bodies_from == self.patches.count:
            return self.patches
        moved = _body_patches(sources, self.size, 0)
        if moved.count != self.patches.count - self.bodies_from:
            return self.patches
        return self.patches.first(self.bodies_from).plus(moved)

    def incident(self, first: NDArray[np.float64], sources: Sequence[Source]) -> Bands:
        """All light arriving at every patch (n, 3) [lx or lx s]."""
        found = np.empty((self.patches.count, 3))
        for band in range(3):
            arriving = (first @ np.array([s.flux[band] for s in sources])).astype(np.float32)
            found[:, band] = lu_solve(self.systems[self.bands[band]], arriving, check_finite=False)
        return found

    def reading(self, points: Points, ways: Points, owners: Sequence[str] = ()) -> "Reading":
        """Flat receivers at points (p, 3) with normals (p, 3). `owners`: for each the solid it lies inside, by the
        beginning of its name, which neither shades it nor sends it light; none: no receiver has one."""
        points, ways = np.ascontiguousarray(points), np.ascontiguousarray(ways)
        names = tuple(owners) or ("",) * len(points)
        factors = np.zeros((len(points), self.patches.count))
        for owner in dict.fromkeys(names):
            rows = np.array([k for k, name in enumerate(names) if name == owner])
            factors[rows] = self.received(points[rows], ways[rows], owner)
        return Reading(self, points, ways, factors, names)

    def received(self, points: Points, ways: Points, owner: str = "") -> NDArray[np.float64]:
        """(p, n) what each patch sends to flat receivers inside the solid of that name."""
        stay, lights = self.bodies_from, _bodies(self.sources)
        every = (*self.patches.arrays, *self.in_the_way(owner).arrays)
        out = np.zeros((len(points), self.patches.count))
        if len(points) > MOST_ROWS:
            kernels.receive(points, ways, *every, out)
        else:
            out[:, :stay] = self.enclosure.received(points, ways, owner)
            kernels.receive_past(points, ways, stay, lights.spheres, *every, out)
        out[:, self.own(owner)] = 0.0
        return out

    def in_the_way(self, owner: str) -> Blockers:
        """What stands between patches and receivers inside the solid of that name."""
        lights = _bodies(self.sources)
        fixed = self.enclosure.past(owner)[0]
        return fixed.plus(lights) if len(lights.counts) else fixed

    def own(self, owner: str) -> NDArray[np.int64]:
        """Numbers of the patches of the solid of that name."""
        return np.flatnonzero(self.enclosure.past(owner)[1])


@dataclass(frozen=True, eq=False)
class Reading:
    """Receivers in a settled set: what each patch sends them, and how they answer to a moved light."""

    settled: Settled
    points: Points
    ways: Points
    factors: NDArray[np.float64]
    owners: tuple[str, ...]
    kept: dict[int, Single] = field(default_factory=dict)

    @property
    def response(self) -> dict[int, Single]:
        """(p, n) by band: returned light at the receivers per direct light on the patches."""
        if not self.kept:
            found = {
                band: np.ascontiguousarray(
                    lu_solve(system, self.settled.returned(self.factors, band).T, trans=1, check_finite=False).T,
                    dtype=np.float32,
                )
                for band, system in self.settled.systems.items()
            }
            self.kept.update(found)  # whole at once: other threads read it meanwhile
        return self.kept

    def direct(self, sources: Sequence[Source]) -> NDArray[np.float64]:
        """Direct illuminance (p, sources, 3) [lx or lx s]."""
        found = np.zeros((len(self.points), len(sources), 3))
        for owner in dict.fromkeys(self.owners):
            rows = np.array([k for k, name in enumerate(self.owners) if name == owner])
            points, ways = self.points[rows], self.ways[rows]
            for s, one in enumerate(sources):
                before = self.settled.before(sources, s, owner)
                found[rows, s] = direct(one, points, ways, before)[:, None] * one.flux
        return found

    def light(self, sources: Sequence[Source], at_rest: bool = False) -> tuple[NDArray[np.float64], Bands]:
        """Direct (p, sources, 3) and returned (p, 3) illuminance with the lights where they are now."""
        first = self.settled.first_light(sources, at_rest)
        back = self.thrown(sources).sum(axis=1)
        for band in range(3):
            arriving = (first @ np.array([s.flux[band] for s in sources])).astype(np.float32)
            back[:, band] += self.response[self.settled.bands[band]] @ arriving
        return self.direct(sources), back

    def thrown(self, sources: Sequence[Source]) -> NDArray[np.float64]:
        """Illuminance (p, sources, 3) by way of mirrors and foils [lx or lx s]."""
        found = np.zeros((len(self.points), len(sources), 3))
        for owner in dict.fromkeys(self.owners) if self.settled.glossy else ():
            rows = np.array([k for k, name in enumerate(self.owners) if name == owner])
            light = self.settled.thrown(sources, self.points[rows], self.ways[rows], owner)
            found[rows] = light[:, :, None] * np.array([s.flux for s in sources])
        return found

    def returned_by(self, first: NDArray[np.float64], sources: Sequence[Source]) -> NDArray[np.float64]:
        """Returned illuminance (p, sources, 3) by each light."""
        found = self.thrown(sources)
        for band in range(3):
            by_light = self.response[self.settled.bands[band]] @ first.astype(np.float32)
            found[:, :, band] += by_light * np.array([s.flux[band] for s in sources])
        return found


def settled(enclosure: Enclosure, sources: Sequence[Source]) -> Settled:
    """The enclosure with the bodies of its lights entered."""
    static = enclosure.patches
    bodies = _body_patches(sources, enclosure.size, len(enclosure.surfaces))
    own = _bodies(sources)
    surfaces = enclosure.surfaces + tuple(b for s in sources for b in s.bodies)
    if not bodies.count:
        whole, patches, blockers = enclosure.exchange.astype(float), static, enclosure.blockers
    else:
        patches, blockers = static.plus(bodies), enclosure.blockers.plus(own)
        whole = np.zeros((patches.count, patches.count))
        whole[: static.count, : static.count] = enclosure.exchange
        shape = (patches.corners, patches.counts, patches.normals, patches.middles, patches.spread)
        kernels.shade_pairs(static.count, *shape, *own.arrays, whole)
        kernels.exchange(static.count, *patches.arrays, *blockers.arrays, whole)
    first = np.concatenate([enclosure.weights, np.ones(bodies.count)])
    weights = weights_of(whole, patches.areas, first)
    factors = ((weights / patches.areas)[:, None] * whole * weights).astype(np.float32)
    return Settled(surfaces, patches, blockers, enclosure, factors, tuple(sources), static.count, enclosure.size)


def direct(source: Source, points: Points, ways: Points, blockers: Blockers) -> NDArray[np.float64]:
    """Illuminance per lumen at points from one light; zero normals take light from everywhere alike."""
    out = np.zeros(len(points))
    kernels.direct(
        np.ascontiguousarray(points),
        np.ascontiguousarray(ways),
        np.ascontiguousarray(source.face)[None],
        len(source.face),
        source.forward,
        source.right,
        source.size,
        source.fine,
        source.coarse,
        source.table is None,
        NO_TABLE if source.table is None else source.table,
        *blockers.arrays,
        out,
    )
    return out


SMALL_MIRRORS = 64
"""How many small mirrors a rough one is taken as."""


def _thrown(
    surface: Surface, ring: Points, source: Source, points: Points, ways: Points, blockers: Blockers
) -> NDArray[np.float64]:
    """(p,) illuminance per lumen by way of a mirror of reflectance 1."""
    out = np.zeros(len(points))
    normal = normal_of(ring)
    light = (
        source.fine if surface.rough == 0 else source.coarse,
        source.forward,
        source.right,
        np.cross(source.right, source.forward),
        source.table is None,
        NO_TABLE if source.table is None else source.table,
    )
    if surface.rough == 0:
        mirrors.flat_mirror(points, ways, np.ascontiguousarray(ring), normal, *light, *blockers.arrays, out)
        return out
    small = spread_over(ring, SMALL_MIRRORS)
    area = area_of(ring) / SMALL_MIRRORS
    for side in (normal, -normal):
        mirrors.rough_mirror(points, ways, small, area, side, surface.rough, *light, *blockers.arrays, out)
    return out


def _bodies(sources: Sequence[Source]) -> Blockers:
    found = [source.blockers for source in sources if source.bodies]
    return reduce(Blockers.plus, found) if found else NO_BODIES


def _body_patches(sources: Sequence[Source], size: float, first: int) -> Patches:
    return patches_of([b for s in sources for b in s.bodies], size, first)
