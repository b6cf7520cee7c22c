"""Where a light's light really comes from, seen from the subject: the head itself, or the surfaces that send it on
first, where the head is turned away, bounced or shot through a sheet.

Each patch that the light strikes shines back by its reflectance and on by its transmission. Those the subject sees
are looked at again by sixteen points each: radiance L = ρ E / π and solid angle Ω of each point give the centre
Σ L Ω x / Σ L Ω and the solid angle of a uniform source of the same peak, (Σ L Ω)² / Σ L² Ω.
"""

import math
from dataclasses import dataclass

import numpy as np

from evrant.core.light.bounce import cutting
from evrant.core.light.bounce.enclosure import Settled, direct
from evrant.core.light.bounce.sources import Source, round_face
from evrant.core.light.colour import LUMINANCE
from evrant.core.light.lit import Lit
from evrant.core.light.softness import cone, solid_angle
from evrant.core.space.solids import Points, Vector, unit

POINTS = 16
"""Points on each patch that is looked at again."""
SMALL = 0.003
"""Patches that send less than this share of a light are left out."""
ITSELF = 0.25
"""A head that sends at least this share straight to the subject is where its shadows come from; project choice."""


@dataclass(frozen=True, eq=False)
class Effective:
    """A light as the subject sees it: centre, solid angle [sr], the share that comes straight from the head, what it
    comes from (empty: the head itself), and a stand-in of that place and size."""

    centre: Vector
    angle: float
    straight: float
    name: str
    source: Source


def effective(lit: Lit, index: int) -> Effective:
    """Where a light of a lit set comes from at the subject."""
    held: dict[int, Effective] = lit.__dict__.setdefault("_effective", {})
    if index not in held:
        held[index] = _found(lit, index)
    return held[index]


def _found(lit: Lit, index: int) -> Effective:
    source, eye = lit.beams[index].source, lit.scene.face
    assert eye is not None
    row = lit.row("face")
    straight = float(lit.direct[row, index] @ LUMINANCE)
    settled, reading, first = lit.settled, lit.reading, lit.first
    if settled is None or reading is None or first is None:
        return _itself(source, eye, 1.0)
    sent = reading.factors[row] * (settled.leaving(first[:, index, None] * source.flux) @ LUMINANCE)
    whole = straight + float(sent.sum())
    share = straight / whole if whole > 0 else 1.0
    numbers = np.flatnonzero(sent > SMALL * sent.sum())
    if share >= ITSELF or not numbers.size:
        return _itself(source, eye, share)
    spots, bright, angles = _looked_at(lit, settled, index, numbers, reading.factors[row][numbers] * math.pi)
    weight = bright * angles
    if weight.sum() <= 0:
        return _itself(source, eye, share)
    centre = np.asarray((weight[:, None] * spots).sum(axis=0) / weight.sum())
    angle = min(float(weight.sum() ** 2 / (bright * weight).sum()), 3.8 * math.pi)
    by_patch = weight.reshape(len(numbers), POINTS).sum(axis=1)
    most = settled.patches.surface[numbers[int(np.argmax(by_patch))]]
    return Effective(centre, angle, share, settled.surfaces[most].name, _stand_in(source, centre, eye, angle))


def _itself(source: Source, eye: Vector, share: float) -> Effective:
    return Effective(source.centre, solid_angle(source.face, eye), share, "", source)


def _looked_at(
    lit: Lit, settled: Settled, index: int, numbers: np.ndarray[tuple[int, ...], np.dtype[np.int64]], seen: Points
) -> tuple[Points, Points, Points]:
    """Points on patches (m, 3), their luminance and the solid angle of each from the subject; `seen` is that of the
    whole patches, free of what stands between."""
    eye, patches = lit.scene.face, settled.patches
    assert eye is not None
    sources = [beam.source for beam in lit.beams]
    source, blockers = sources[index], settled.before(sources, index)
    spots = np.empty((len(numbers), POINTS, 3))
    for row, i in enumerate(numbers):
        cutting.spread_points(patches.corners[i], patches.counts[i], POINTS, spots[row])
    flat = spots.reshape(-1, 3)
    ways = np.repeat(patches.normals[numbers], POINTS, axis=0)
    back = np.repeat(patches.reflectance[numbers] @ (LUMINANCE * source.flux), POINTS)
    on = np.repeat(patches.through[numbers] @ (LUMINANCE * source.flux), POINTS)
    bright = back * direct(source, flat + ways * 1e-4, ways, blockers)
    if on.any():
        bright = bright + on * direct(source, flat - ways * 1e-4, -ways, blockers)
    rays = eye - flat
    far = np.linalg.norm(rays, axis=1)
    facing = np.maximum((rays * ways).sum(axis=1) / far, 0.0) / far**2
    parts = facing.reshape(len(numbers), POINTS)
    angles = parts / np.maximum(parts.sum(axis=1, keepdims=True), 1e-12) * np.asarray(seen)[:, None]
    return flat, bright / math.pi, angles.reshape(-1)


def _stand_in(source: Source, centre: Vector, eye: Vector, angle: float) -> Source:
    """A disc across the line of sight that covers a solid angle."""
    toward = unit(eye - centre)
    far = float(np.linalg.norm(eye - centre))
    radius = far * math.tan(min(cone(angle) / 2, math.radians(80)))
    return Source(source.name, round_face(centre, toward, radius), toward, source.right, source.flux)
