"""Light that the room returns to what a picture shows: gathered from the solve's patches at pixels a few apart, read
between them."""

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from evrant.core.light.bounce.surfaces import Bands
from evrant.core.light.lit import Lit
from evrant.core.picture import rays
from evrant.core.picture.pieces import in_pieces
from evrant.core.picture.seeing import Seen
from evrant.core.picture.stage import Stage

Floats = NDArray[np.float64]
Whole = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Patched:
    """The solve's patches with the lights so set: what each gives off, and what of the light on it the room returned
    (n, 3)."""

    leaving: Bands
    returned: Bands


def patched_as(lit: Lit, doses: Floats) -> Patched | None:
    """The room's patches with the lights so set; None where the room is not known."""
    rest = lit.settled
    if rest is None or lit.first is None:
        return None
    sources, first = [beam.source for beam in lit.beams], lit.first * doses
    incident = rest.incident(first, sources)
    straight = first @ np.array([source.flux for source in sources]).reshape(-1, 3)
    return Patched(rest.leaving(incident), np.maximum(incident - straight, 0.0))


def returned_light(lit: Lit, seen: Seen, stage: Stage, rows_at: Whole, doses: Floats) -> Floats:
    """(n, 11, 3) the light the room returns at some pixels' points: nine harmonics, and what a flat there takes before
    and behind."""
    rest, patched = lit.settled, patched_as(lit, doses)
    if rest is None or patched is None:
        return np.zeros((len(rows_at), 11, 3))
    p, out = rest.patches, patched.leaving
    found = np.zeros((len(rows_at), 11, 3))
    owner_of = np.array(["" if k < 0 else stage.owners[stage.group_of[k]] for k in seen.part[rows_at]])
    facing = np.where(seen.part[rows_at, None] < 0, seen.normals[rows_at], 0.0)
    spots = np.ascontiguousarray(seen.points[rows_at] + seen.normals[rows_at] * 2e-3)
    shape = p.corners, p.counts, p.normals, p.middles, p.areas, p.spread
    for owner in dict.fromkeys(owner_of.tolist()):
        own = np.zeros(p.count, dtype=np.bool_)
        own[rest.own(owner)] = True
        arrays, mine = rest.in_the_way(owner).arrays, np.flatnonzero(owner_of == owner)

        def some(piece: slice, mine: Whole = mine, given: tuple[Any, ...] = (own, *arrays)) -> None:
            for k in mine[piece]:
                all_given: tuple[Any, ...] = (spots[k], facing[k], *shape, *given, out, found[k])
                rays.around(*all_given)

        in_pieces(len(mine), some, least=32)
    return found


def between(lit: Lit, stage: Stage, seen: Seen, doses: Floats, cell: float) -> Floats:
    """(n, 6) returned light before and behind what every pixel shows: gathered at pixels a few apart (`cell` of them in
    a picture as large as 480 × 320), read between them from those of the four around that lie on the same surface."""
    step = max(round(cell * math.sqrt(seen.rows * seen.columns / (480 * 320))), 3)
    ys = np.unique(np.append(np.arange(0, seen.rows, step), seen.rows - 1))
    xs = np.unique(np.append(np.arange(0, seen.columns, step), seen.columns - 1))
    at = (ys[:, None] * seen.columns + xs[None, :]).ravel()
    known = returned_light(lit, seen, stage, at, doses).reshape(len(ys), len(xs), 33)
    shape = seen.rows, seen.columns
    out = np.empty((*shape, 6))
    points, normals = seen.points.reshape(*shape, 3), seen.normals.reshape(*shape, 3)
    smooth = (seen.part >= 0).reshape(shape)
    given = ys, xs, step, known, points, normals, seen.depth.reshape(shape), smooth
    in_pieces(seen.rows, lambda k: rays.between(*given, k.start, min(k.stop, seen.rows), out), least=32)
    return out.reshape(-1, 6)
