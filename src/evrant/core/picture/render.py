"""The picture a set's camera takes: what each pixel's ray meets, the light that reaches it there, the lens's blur.

Amounts are exposures [lx s]: a pixel holds π times the luminance it sees, so that a white of reflectance 1 holds the
exposure it receives. Direct light is exact by contour, with shadows from points on each source; returned light is
gathered from the solve's patches at points a few pixels apart and read between them as nine harmonics.

References:
[1] Ramamoorthi and Hanrahan (2001): irradiance by nine spherical harmonics.
[2] Blur disc of a thin lens: any optics handbook, as in `core.space.framing`.
"""

import math
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from evrant.core.light.account import leaving
from evrant.core.light.bounce import kernels
from evrant.core.light.bounce.enclosure import NO_TABLE
from evrant.core.light.bounce.patches import Blockers
from evrant.core.light.bounce.sources import ring_over, seen_luminance, spread_over
from evrant.core.light.bounce.surfaces import Bands
from evrant.core.light.lit import Lit
from evrant.core.picture import rays, shapes
from evrant.core.picture.stage import GLAZE, Stage, stage_of
from evrant.core.space.framing import View
from evrant.core.space.solids import Points

Floats = NDArray[np.float64]
Whole = NDArray[np.int64]
SPOTS, COARSE_PICKS, FINE_PICKS = 64, 8, 16
LIFT = 0.006
"""A shadow ray of a smooth body begins so far from it [m]."""
FOLDS = 0.06
"""How far along the normal a body's own folds are looked for [m]."""
BEND = 0.22
"""Radius a background bends by onto floor or table [m]; common practice, no source."""
CELL = 14
"""Pixels between points where returned light is gathered, at 480 across."""


@dataclass(frozen=True, eq=False)
class Seen:
    """What each ray meets: its point and normal (n, 3), distance along the lens axis [m], number of the face or −1, row
    of the smooth part or −1; n = rows × columns."""

    columns: int
    rows: int
    ways: Points
    points: Points
    normals: Points
    depth: Floats
    face: Whole
    part: Whole


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
    kept = np.clip(linear, 0.0, 1.0)
    curve = np.where(kept <= 0.0031308, 12.92 * kept, 1.055 * kept ** (1 / 2.4) - 0.055)
    return np.asarray(curve * 255 + 0.5, dtype=np.uint8)


WORKERS = 2
_POOL = ThreadPoolExecutor(WORKERS, thread_name_prefix="picture")


def in_pieces(count: int, work: Callable[[slice], None], least: int = 256) -> None:
    """Work on a range in pieces, on both cores: the kernels let go of the interpreter while they run."""
    piece = max(math.ceil(count / (4 * WORKERS)), least)
    for done in [_POOL.submit(work, slice(k, k + piece)) for k in range(0, count, piece)]:
        done.result()


def doses_of(lit: Lit, only: frozenset[int] | None = None) -> Floats:
    """(sources,) factor of each source's full power in the picture; those not in `only` are off."""
    keep = np.array([only is None or i in only for i in range(len(lit.beams))], dtype=float)
    return np.asarray(lit.doses * keep)


def picture(lit: Lit, columns: int, *, only: frozenset[int] | None = None, fine: bool = True) -> Picture | None:
    """The picture of a lit set, so many pixels across; of some of its lights alone where `only` names them. `fine`
    shadows and edges, or coarse ones for a picture that follows a hand. None without camera, lens or mark."""
    view = lit.scene.view
    if view is None or lit.settled is None:
        return None
    stage = stage_of(lit)
    rows = max(round(columns * view.upward / view.across), 1)
    seen = see(stage, view, columns, rows, np.zeros(2))
    doses = doses_of(lit, only)
    returned = _between(lit, stage, seen, doses)
    light = shade(lit, stage, seen, np.arange(len(seen.depth)), returned, doses, FINE_PICKS if fine else COARSE_PICKS)
    if fine:
        light = smoothed(lit, stage, view, seen, returned, doses, light)
    light = out_of_focus(lit, view, seen, light)
    missing = tuple(dict.fromkeys(one.words for one in lit.missing))
    return Picture(lit, stage, seen, light, white_of(lit), missing)


def white_of(lit: Lit) -> float:
    """Exposure [lx s] on a flat white that the camera as set shows as white."""
    return lit.exposed * 250 / 340


def see(
    stage: Stage, view: View, columns: int, rows: int, shift: Floats, begin: Floats | None = None, at: Whole | None = None
) -> Seen:
    """What the rays through the pixels' middles (shifted by part of a pixel) meet; smooth bodies only at the pixels
    `at`, where they are named, and from the distances of `begun` on."""
    x = ((np.arange(columns) + 0.5 + shift[0]) / columns * 2 - 1) * view.across / 2 / view.image
    y = (1 - (np.arange(rows) + 0.5 + shift[1]) / rows * 2) * view.upward / 2 / view.image
    grid_x, grid_y = np.meshgrid(x, y)
    long = view.forward + grid_x.reshape(-1, 1) * view.right + grid_y.reshape(-1, 1) * view.up
    ways = np.ascontiguousarray(long / np.linalg.norm(long, axis=1, keepdims=True))
    return _met(stage, view, columns, rows, ways, begin, at)


TILE = 6


def begun(stage: Stage, view: View, columns: int, rows: int, ways: Points) -> Floats:
    """How far each ray goes before it can meet a smooth body [m]."""
    tiles = np.empty((math.ceil(rows / TILE), math.ceil(columns / TILE)))
    eye = np.ascontiguousarray(view.eye, dtype=float)
    shapes.outreach(stage.parts, stage.groups, eye, ways, columns, rows, TILE, tiles)
    whole = np.repeat(np.repeat(tiles, TILE, axis=0), TILE, axis=1)
    return np.ascontiguousarray(whole[:rows, :columns]).ravel()


def _met(
    stage: Stage, view: View, columns: int, rows: int, ways: Points, begin: Floats | None, at: Whole | None
) -> Seen:
    n, faces = len(ways), stage.faces
    depth, face = np.full(n, 60.0), np.full(n, -1, dtype=np.int64)
    eye = np.ascontiguousarray(view.eye, dtype=float)
    boxes = boxes_of(stage, view, columns, rows)
    shown = np.flatnonzero((boxes[:, 0] <= boxes[:, 1]) & (boxes[:, 2] <= boxes[:, 3]))
    if shown.size:
        some = faces.corners[shown], faces.counts[shown], faces.normals[shown], faces.offsets[shown], faces.both[shown]
        rays.cast(eye, ways, np.ascontiguousarray(boxes[shown]), columns, *some, depth, face)
        face = np.where(face >= 0, shown[np.maximum(face, 0)], -1)
    normals = np.zeros((n, 3))
    flat = face >= 0
    normals[flat] = faces.normals[face[flat]]
    back = flat & (np.einsum("nc,nc->n", normals, ways) > 0)
    normals[back] *= -1
    part = np.full(n, -1, dtype=np.int64)
    if len(stage.groups):
        begin = begun(stage, view, columns, rows, ways) if begin is None else begin
        some = np.flatnonzero(begin < depth) if at is None else at[begin[at] < depth[at]]
        _march(stage, eye, ways, begin, some, depth, normals, part)
        face[part >= 0] = -1
    points = view.eye + ways * depth[:, None]
    _bend(stage, points, normals, face)
    return Seen(columns, rows, ways, points, normals, depth * (ways @ view.forward), face, part)


def _march(
    stage: Stage, eye: Points, ways: Points, begin: Floats, at: Whole, depth: Floats, normals: Points, part: Whole
) -> None:
    """Smooth bodies met by the rays `at`."""
    deep, facing, row = depth[at].copy(), normals[at].copy(), part[at].copy()

    def some(k: slice) -> None:
        eyes = np.broadcast_to(eye, (len(at[k]), 3))
        far = deep[k].copy()
        shapes.march(stage.parts, stage.groups, eyes, ways[at[k]], begin[at[k]], far, deep[k], facing[k], row[k])

    in_pieces(len(at), some)
    depth[at], normals[at], part[at] = deep, facing, row


def boxes_of(stage: Stage, view: View, columns: int, rows: int) -> Whole:
    """(faces, 4) first and last column, first and last row that each face may lie in; an empty range where none."""
    faces = stage.faces
    offset = faces.corners - view.eye
    ahead = offset @ view.forward
    near = 0.02
    deep = np.maximum(ahead, near)
    x = (offset @ view.right) / deep * view.image / (view.across / 2)
    y = (offset @ view.up) / deep * view.image / (view.upward / 2)
    crossing = (ahead < near).any(axis=1)
    behind = (ahead < near).all(axis=1)
    low_x = np.where(crossing, -1.0, x.min(axis=1))
    high_x = np.where(crossing, 1.0, x.max(axis=1))
    low_y = np.where(crossing, -1.0, y.min(axis=1))
    high_y = np.where(crossing, 1.0, y.max(axis=1))
    found = np.column_stack(
        [
            np.floor((np.clip(low_x, -2, 2) + 1) / 2 * columns - 1),
            np.ceil((np.clip(high_x, -2, 2) + 1) / 2 * columns),
            np.floor((1 - np.clip(high_y, -2, 2)) / 2 * rows - 1),
            np.ceil((1 - np.clip(low_y, -2, 2)) / 2 * rows),
        ]
    )
    outside = behind | (found[:, 0] > columns - 1) | (found[:, 1] < 0) | (found[:, 2] > rows - 1) | (found[:, 3] < 0)
    found[:, 0], found[:, 2] = np.maximum(found[:, 0], 0), np.maximum(found[:, 2], 0)
    found[:, 1], found[:, 3] = np.minimum(found[:, 1], columns - 1), np.minimum(found[:, 3], rows - 1)
    found[outside] = (1, 0, 1, 0)
    return found.astype(np.int64)


def _bend(stage: Stage, points: Points, normals: Points, face: Whole) -> None:
    """A background that runs on over floor or table bends instead of breaking."""
    if stage.seam is None:
        return
    spot, way = stage.seam
    up = np.array([0.0, 0.0, 1.0])
    if not _runs_on(stage):
        return
    for name, own, other, along in (
        ("background", way, up, up),
        ("background on the floor", up, way, way),
        ("background on the table", up, way, way),
    ):
        mine = np.array([one == name for one in stage.faces.names], dtype=np.bool_)
        rows = np.flatnonzero(mine[face] & (face >= 0))
        if not rows.size:
            continue
        far = np.clip((points[rows] - spot) @ along / BEND, 0.0, 1.0)
        turn = (1 - far) * math.pi / 4
        facing = np.sign(normals[rows] @ own)
        normals[rows] = (np.cos(turn)[:, None] * own + np.sin(turn)[:, None] * other) * facing[:, None]


def _runs_on(stage: Stage) -> bool:
    return any(name in ("background on the floor", "background on the table") for name in stage.faces.names)


def spots_of(lit: Lit) -> list[Points]:
    """Points of equal weight over each source's face."""
    found = []
    for beam in lit.beams:
        source = beam.source
        face = np.ascontiguousarray(source.face, dtype=float)
        found.append(ring_over(face, source.hole, SPOTS) if source.hole else spread_over(face, SPOTS))
    return found


def direct_light(
    lit: Lit, stage: Stage, points: Points, normals: Points, turns: Whole, doses: Floats, picks: int,
    calm: Callable[[Floats], Floats] | None = None,
) -> Bands:
    """Exposure (n, 3) straight from the lights, shaded by everything that stands before the lens; `calm` evens out
    what neighbours found by looking at other spots of a light."""
    found = np.zeros((len(points), 3))
    points, normals = np.ascontiguousarray(points), np.ascontiguousarray(normals)
    for (i, beam), spots in zip(enumerate(lit.beams), spots_of(lit), strict=True):
        if doses[i] <= 0:
            continue
        source, out, free = beam.source, np.zeros(len(points)), np.zeros(len(points))
        arrays, face = in_the_way(lit, i).arrays, np.ascontiguousarray(source.face)
        table = NO_TABLE if source.table is None else source.table
        spread = np.ascontiguousarray(spots)

        def some(k: slice) -> None:
            rays.lit(
                *(points[k], normals[k], turns[k], LIFT, face, source.forward, source.right, source.size, spread),
                *(picks, source.table is None, table, *arrays, stage.parts, stage.groups, out[k], free[k]),
            )

        in_pieces(len(points), some)
        free = free if calm is None else calm(free)
        found += (out * free)[:, None] * (source.flux * doses[i])
    rest = lit.settled
    if rest is not None and rest.glossy:
        sources = [beam.source for beam in lit.beams]
        thrown = rest.thrown(sources, points, normals, lit.lead)
        found += np.einsum("ps,sb->pb", thrown * doses, np.array([source.flux for source in sources]))
    return found


def calming(stage: Stage, seen: Seen, rows: Whole) -> Callable[[Floats], Floats]:
    """What evens out shares found at some pixels of a picture."""
    body = bodies_at(stage, seen).reshape(seen.rows, seen.columns)
    normals = seen.normals.reshape(seen.rows, seen.columns, 3)
    depth = seen.depth.reshape(body.shape)

    def calm(share: Floats) -> Floats:
        if not ((share > 0) & (share < 1)).any():
            return share
        whole, out = np.ones(body.size), np.empty(body.shape)
        whole[rows] = share
        grid = whole.reshape(body.shape)

        rays.calm(grid, body, normals, depth, out)
        return np.asarray(out.ravel()[rows])

    return calm


def bodies_at(stage: Stage, seen: Seen) -> Whole:
    """A number for what each pixel shows: that of its face, or of its smooth body below −1."""
    body = seen.face.copy()
    smooth = seen.part >= 0
    body[smooth] = -2 - stage.group_of[seen.part[smooth]]
    return body


def in_the_way(lit: Lit, index: int) -> Blockers:
    """What stands in the way of one light: everything but its own body and those in the picture, who shade as the
    smooth bodies they are."""
    assert lit.settled is not None
    return lit.settled.before([beam.source for beam in lit.beams], index, "subject ")


def returned_light(lit: Lit, seen: Seen, stage: Stage, rows_at: Whole, doses: Floats) -> Floats:
    """(n, 9, 3) harmonics of the light the room returns at some pixels' points."""
    rest = lit.settled
    assert rest is not None and lit.first is not None
    incident = rest.incident(lit.first * doses, [beam.source for beam in lit.beams])
    out = rest.leaving(incident)
    p = rest.patches
    found = np.zeros((len(rows_at), 9, 3))
    ways, angles = np.zeros((p.count, 3)), np.zeros(p.count)
    owner_of = ["" if seen.part[k] < 0 else stage.owners[stage.group_of[seen.part[k]]] for k in rows_at]
    for owner in dict.fromkeys(owner_of):
        blockers, own = rest.in_the_way(owner), rest.own(owner)
        for k in (k for k, name in enumerate(owner_of) if name == owner):
            spot = np.ascontiguousarray(seen.points[rows_at[k]] + seen.normals[rows_at[k]] * 2e-3)
            kernels.surround(
                spot, p.corners, p.counts, p.normals, p.middles, p.spread, *blockers.arrays, ways, angles
            )
            angles[own] = 0.0
            rays.around(spot, p.middles, ways, angles, out, found[k])
    return found


def _between(lit: Lit, stage: Stage, seen: Seen, doses: Floats) -> Floats:
    """(n, 6) returned light before and behind what every pixel shows: gathered at pixels a few apart, read between them
    from those of the four around that lie on the same surface."""
    step = max(round(CELL * seen.columns / 480), 3)
    ys = np.unique(np.append(np.arange(0, seen.rows, step), seen.rows - 1))
    xs = np.unique(np.append(np.arange(0, seen.columns, step), seen.columns - 1))
    at = (ys[:, None] * seen.columns + xs[None, :]).ravel()
    known = returned_light(lit, seen, stage, at, doses).reshape(len(ys), len(xs), 27)
    shape = seen.rows, seen.columns
    out = np.empty((*shape, 6))
    points, normals = seen.points.reshape(*shape, 3), seen.normals.reshape(*shape, 3)
    smooth = (seen.part >= 0).reshape(shape)
    rays.between(ys, xs, step, known, points, normals, seen.depth.reshape(shape), smooth, out)
    return out.reshape(-1, 6)


def shade(
    lit: Lit, stage: Stage, seen: Seen, rows: Whole, returned: Floats, doses: Floats, picks: int
) -> Floats:
    """(rows, 3) what some of the rays show: shining faces, surfaces, those in the picture, what mirrors."""
    points, normals, ways = seen.points[rows], seen.normals[rows], seen.ways[rows]
    face, part = seen.face[rows], seen.part[rows]
    found = np.zeros((len(rows), 3))
    turns = _turns(seen, rows)
    faces = stage.faces
    shining = (face >= 0) & (faces.source[np.maximum(face, 0)] >= 0)
    found[shining] = _shining(lit, faces.source[face[shining]], ways[shining], doses)
    solid = ~shining & ((face >= 0) | (part >= 0))
    k = np.flatnonzero(solid)
    if not k.size:
        return found
    lifted = points[k] + normals[k] * 1e-4
    calm = calming(stage, seen, rows[k]) if len(rows) == len(seen.depth) else None
    arriving = direct_light(lit, stage, lifted, normals[k], turns[k], doses, picks, calm)
    around = returned[k, :3].copy()
    round_one = part[k] >= 0
    if round_one.any():
        around[round_one] *= _openness(stage, points[k][round_one], normals[k][round_one])[:, None]
    returns, gloss, rough = _finish(stage, face[k], part[k], normals[k])
    found[k] = returns * (1 - gloss)[:, None] * (arriving + around)
    clear = (face[k] >= 0) & (faces.through[np.maximum(face[k], 0)].max(axis=1) > 0)
    if clear.any():
        behind = k[clear]
        spots = points[behind] - normals[behind] * 1e-4
        lit_behind = direct_light(lit, stage, spots, -normals[behind], turns[behind], doses, picks)
        lit_behind += returned[behind, 3:]
        found[behind] += faces.through[face[behind]] * lit_behind
    mirrors = np.flatnonzero(gloss > 0)
    if mirrors.size:
        share = returns[mirrors] * gloss[mirrors, None]
        eye = part[k[mirrors]] >= 0
        eye &= stage.shines[np.maximum(part[k[mirrors]], 0), 0] == GLAZE
        share = np.where(eye[:, None], gloss[mirrors, None], share)
        found[k[mirrors]] += share * _mirrored(lit, stage, points[k[mirrors]], normals[k[mirrors]], ways[k[mirrors]],
                                               rough[mirrors], turns[k[mirrors]], doses)
    return found


def _openness(stage: Stage, points: Points, normals: Points) -> Floats:
    out = np.zeros(len(points))

    def some(k: slice) -> None:
        shapes.openness(stage.parts, stage.groups, points[k], normals[k], FOLDS, out[k])

    in_pieces(len(points), some)
    return out


def _turns(seen: Seen, rows: Whole) -> Whole:
    """A number for each pixel: neighbours differ."""
    y, x = np.divmod(rows, seen.columns)
    return np.asarray(((x % 4) * 4 + y % 4).astype(np.int64))


def _finish(stage: Stage, face: Whole, part: Whole, normals: Points) -> tuple[Bands, Floats, Floats]:
    """What each point returns (n, 3), the share of it as from a mirror, and how rough that is."""
    faces = stage.faces
    at, row = np.maximum(face, 0), np.maximum(part, 0)
    front = np.einsum("nc,nc->n", faces.normals[at], normals) > 0
    returns = np.where(front[:, None], faces.front[at], faces.back[at])
    gloss, rough = faces.gloss[at].copy(), faces.rough[at].copy()
    smooth = part >= 0
    if smooth.any():
        returns[smooth] = stage.returns[row[smooth]]
        gloss[smooth], rough[smooth] = stage.shines[row[smooth], 0], stage.shines[row[smooth], 1]
    return returns, gloss, rough


def _shining(lit: Lit, source: Whole, ways: Points, doses: Floats) -> Floats:
    """π times the luminance of shining faces toward the lens."""
    found = np.zeros((len(source), 3))
    for i in dict.fromkeys(source.tolist()):
        mine = source == i
        one = lit.beams[i].source
        cosines = -(ways[mine] @ one.forward)
        bright = np.pi * seen_luminance(one, cosines)
        hue = one.flux / max(float(np.array([0.2126, 0.7152, 0.0722]) @ one.flux), 1e-12)
        found[mine] = bright[:, None] * hue * doses[i]
    return found


LOBE = 6


def _mirrored(
    lit: Lit, stage: Stage, points: Points, normals: Points, ways: Points, rough: Floats, turns: Whole, doses: Floats
) -> Floats:
    """(n, 3) what points mirror: shining faces, and surfaces as the solve's patches light them."""
    straight = ways - 2 * np.einsum("nc,nc->n", ways, normals)[:, None] * normals
    total = np.zeros((len(points), 3))
    rounds = LOBE if (rough > 0).any() else 1
    for turn in range(rounds):
        aim = straight if turn == 0 and rounds == 1 else _spread(straight, rough, turns, turn)
        total += _looked_up(lit, stage, points + normals * LIFT, aim, doses)
    return total / rounds


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


def _looked_up(lit: Lit, stage: Stage, eyes: Points, ways: Points, doses: Floats) -> Floats:
    """What rays from anywhere meet: shining faces by their luminance, others by the patch they hit."""
    n, faces, rest = len(ways), stage.faces, lit.settled
    assert rest is not None and lit.first is not None
    eyes, ways = np.ascontiguousarray(eyes), np.ascontiguousarray(ways)
    depth, face = np.full(n, 60.0), np.full(n, -1, dtype=np.int64)
    shape = faces.corners, faces.counts, faces.normals, faces.offsets, faces.both
    rays.cast_any(eyes, ways, *shape, depth, face)
    normals, part = np.zeros((n, 3)), np.full(n, -1, dtype=np.int64)
    if len(stage.groups):
        shapes.march(stage.parts, stage.groups, eyes, ways, np.full(n, 1e-3), depth.copy(), depth, normals, part)
    found = np.zeros((n, 3))
    shining = (face >= 0) & (part < 0) & (faces.source[np.maximum(face, 0)] >= 0)
    found[shining] = _shining(lit, faces.source[face[shining]], ways[shining], doses)
    other = np.flatnonzero(~shining & ((face >= 0) | (part >= 0)))
    if other.size:
        out = rest.leaving(rest.incident(lit.first * doses, [beam.source for beam in lit.beams]))
        hits = eyes[other] + ways[other] * depth[other, None]
        found[other] = out[_patch_at(rest.patches.middles, rest.patches.normals, hits, ways[other])]
    return found


def _patch_at(middles: Points, normals: Points, points: Points, ways: Points) -> Whole:
    """The patch nearest to each point among those that face it."""
    far = np.linalg.norm(points[:, None, :] - middles[None, :, :], axis=2)
    far[(ways @ normals.T) > 0] += 10.0
    return np.asarray(far.argmin(axis=1))


def smoothed(
    lit: Lit, stage: Stage, view: View, seen: Seen, returned: Floats, doses: Floats, light: Floats
) -> Floats:
    """Edges anew by three further rays a pixel, so that they have no steps."""
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
    most = BRIGHTEST * white_of(lit)
    out[at] = np.minimum(out[at], most)
    begin = begun(stage, view, seen.columns, seen.rows, seen.ways) if len(stage.groups) else None
    for shift in SHIFTS:
        other = see(stage, view, seen.columns, seen.rows, np.array(shift), begin, at)
        more = shade(lit, stage, other, at, returned[at], doses, COARSE_PICKS)
        out[at] += np.minimum(more, most)
    out[at] /= len(SHIFTS) + 1
    return out


STEP, BRIGHTEST = 0.08, 8.0
"""Stops between neighbours from which an edge is drawn anew, and how far over white a pixel counts there."""
SHIFTS = ((-0.32, -0.11), (0.11, 0.34), (0.33, -0.30))


def disc_of(view: View, lit: Lit, depth: Floats, columns: int) -> Floats:
    """Radius of the blur disc of points at those distances along the lens axis [px] [2]."""
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
