"""What shines toward the lens, and what mirrors show of it."""

import numpy as np
from numpy.typing import NDArray

from evrant.core.light.bounce.sources import seen_luminance
from evrant.core.light.bounce.surfaces import Bands
from evrant.core.light.colour import luminance
from evrant.core.light.lit import Lit
from evrant.core.picture import rays, shapes
from evrant.core.picture.returned import Patched
from evrant.core.picture.seeing import Ahead, Seen
from evrant.core.picture.shadows import LIFT, NEAR, direct_light
from evrant.core.picture.stage import LENS, Stage, finish_of
from evrant.core.space.rounds import RIM, RING, placed_rounds
from evrant.core.space.solids import Points

Floats = NDArray[np.float64]
Whole = NDArray[np.int64]


def shining(lit: Lit, source: Whole, ways: Points, doses: Floats) -> Floats:
    """π times the luminance of shining faces toward the lens."""
    found = np.zeros((len(source), 3))
    for i in dict.fromkeys(source.tolist()):
        mine = source == i
        one = lit.beams[i].source
        cosines = -(ways[mine] @ one.forward)
        bright = np.pi * seen_luminance(one, cosines)
        hue = one.flux / max(luminance(one.flux), 1e-12)
        found[mine] = bright[:, None] * hue * doses[i]
    return found


LOBE = 6


def mirrored(
    lit: Lit,
    stage: Stage,
    points: Points,
    normals: Points,
    ways: Points,
    rough: Floats,
    turns: Whole,
    doses: Floats,
    patched: Patched | None,
) -> Floats:
    """(n, 3) what points mirror: shining faces, and surfaces with the light on them; satin ones, which show no more
    than a blur of it, by what the solve's patches give off."""
    straight = ways - 2 * np.einsum("nc,nc->n", ways, normals)[:, None] * normals
    total = np.zeros((len(points), 3))
    eyes, flat, satin = points + normals * LIFT, np.flatnonzero(rough <= 0), np.flatnonzero(rough > 0)
    if flat.size:
        total[flat] = _looked_up(lit, stage, eyes[flat], straight[flat], doses, patched, sharp=True)
    for turn in range(LOBE if satin.size else 0):
        aim = _spread(straight[satin], rough[satin], turns[satin], turn)
        total[satin] += _looked_up(lit, stage, eyes[satin], aim, doses, patched) / LOBE
    return total


def glints(lit: Lit, stage: Stage, seen: Seen, doses: Floats, patched: Patched | None) -> Floats:
    """(n, 3) what the glasses of those in the picture throw into the lens, over what is seen through them."""
    found, scene = np.zeros((len(seen.depth), 3)), lit.scene
    view = scene.view
    if view is None or scene.mark is None:
        return found
    for who in scene.shot.subjects:
        if not who.glasses or who.kind != "person" or who.height is None:
            continue
        for rim in placed_rounds(who, who.height.value, float(scene.mark[0]), float(scene.mark[1]), scene.facing):
            if rim.cover != RIM or rim.kind != RING:
                continue
            middle, ahead = np.array(rim.at), np.array(rim.turn[2])
            ahead = ahead * np.sign((view.eye - middle) @ ahead)
            closing = -(seen.ways @ ahead)
            far = ((view.eye - middle) @ ahead) / np.where(closing > 1e-6, closing, np.inf)
            spots = view.eye + seen.ways * far[:, None]
            inside = (far > 0) & (np.linalg.norm(spots - middle, axis=1) < rim.size[0])
            at = np.flatnonzero(inside & (far < np.linalg.norm(seen.points - view.eye, axis=1) + 1e-3))
            if at.size:
                ways, normals = seen.ways[at], np.broadcast_to(ahead, (len(at), 3))
                thrown = mirrored(lit, stage, spots[at], normals, ways, np.zeros(len(at)), at % 16, doses, patched)
                found[at] += LENS * thrown
    return found


def _spread(ways: Points, rough: Floats, turns: Whole, turn: int) -> Points:
    """Directions round mirrored rays, by the lobe cosⁿ: spread evenly over its share, turned from pixel to pixel."""
    share = (turn + 0.5) / LOBE
    cosine = np.where(rough > 0, share ** (1 / (np.maximum(rough, 1e-9) + 1)), 1.0)
    angle = 2.399963 * turn + turns * (2 * np.pi / 16)
    side = np.cross(ways, np.where(np.abs(ways[:, 2:3]) < 0.9, [[0.0, 0.0, 1.0]], [[1.0, 0.0, 0.0]]))
    side /= np.maximum(np.linalg.norm(side, axis=1, keepdims=True), 1e-12)
    other = np.cross(ways, side)
    sine = np.sqrt(np.maximum(1 - cosine**2, 0.0))
    out = ways * cosine[:, None] + (side * np.cos(angle)[:, None] + other * np.sin(angle)[:, None]) * sine[:, None]
    return np.asarray(out)


def _looked_up(
    lit: Lit,
    stage: Stage,
    eyes: Points,
    ways: Points,
    doses: Floats,
    patched: Patched | None,
    *,
    sharp: bool = False,
) -> Floats:
    """What rays from anywhere meet: shining faces by their luminance, others by the patch they hit; `sharp` by what
    they return of the light that reaches them there."""
    n, faces, rest = len(ways), stage.faces, lit.settled
    eyes, ways = np.ascontiguousarray(eyes), np.ascontiguousarray(ways)
    depth, face = np.full(n, shapes.FARTHEST), np.full(n, -1, dtype=np.int64)
    shape = faces.corners, faces.counts, faces.normals, faces.offsets, faces.both
    rays.cast_any(eyes, ways, *shape, depth, face)
    normals, part = np.zeros((n, 3)), np.full(n, -1, dtype=np.int64)
    if len(stage.groups):
        may = Ahead.any_of(stage, n, 1e-3)
        given = may.some, may.ends, may.tiles, eyes, ways, may.begin
        shapes.march(stage.parts, stage.groups, *given, depth.copy(), depth, normals, part)
    found = np.zeros((n, 3))
    bright = (face >= 0) & (part < 0) & (faces.source[np.maximum(face, 0)] >= 0)
    found[bright] = shining(lit, faces.source[face[bright]], ways[bright], doses)
    at = np.flatnonzero(~bright & ((face >= 0) | (part >= 0)))
    if not at.size:
        return found
    hits = eyes[at] + ways[at] * depth[at, None]
    near = None
    if rest is not None and patched is not None:
        near = _Near(rest.patches.middles, rest.patches.normals, hits, ways[at])
    if sharp:
        flat = part[at] < 0
        toward = normals[at]
        toward[flat] = faces.normals[np.maximum(face[at][flat], 0)]
        toward *= np.where(np.einsum("nc,nc->n", toward, ways[at]) > 0, -1.0, 1.0)[:, None]
        arriving = direct_light(lit, stage, hits + toward * NEAR, toward, doses, picks=PICKS)
        if near is not None and patched is not None:
            arriving += near.read(patched.returned)
        found[at] = finish_of(stage, face[at], part[at], toward)[0] * arriving
    elif near is not None and patched is not None:
        found[at] = near.read(patched.leaving)
    return found


PICKS = 8
"""Spots of each light's face looked for from what a mirror shows."""
NEAREST = 4


class _Near:
    """The nearest patches that face each ray, with their weights, where it hits."""

    def __init__(self, middles: Points, normals: Points, points: Points, ways: Points) -> None:
        self.near = np.empty((len(points), NEAREST), dtype=np.int64)
        self.weight = np.empty((len(points), NEAREST))
        for k in range(0, len(points), 4096):
            some = slice(k, k + 4096)
            far = np.linalg.norm(points[some, None, :] - middles[None, :, :], axis=2)
            far[(ways[some] @ normals.T) > 0] += 10.0
            near = np.argpartition(far, NEAREST, axis=1)[:, :NEAREST]
            gap = np.take_along_axis(far, near, axis=1)
            weight = 1 / (gap**2 + 1e-4)
            best = near[np.arange(len(near)), gap.argmin(axis=1)]
            alike = np.einsum("nkc,nc->nk", normals[near], normals[best]) > 0.7
            weight = np.where(alike, weight, 0.0)
            self.near[some], self.weight[some] = near, weight / weight.sum(axis=1, keepdims=True)

    def read(self, values: Bands) -> Floats:
        """Values of patches (n, 3) read between them."""
        return np.asarray(np.einsum("nk,nkc->nc", self.weight, values[self.near]))
