"""Direct light on points that stay while lights move: what a light gave them is remembered, and only points anew that a
body which came or went may have shaded. The figures are those of a fresh look, for only what is certain not to have
changed is kept."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from functools import reduce

import numpy as np
from numpy.typing import NDArray

from evrant.core.base.compiled import Array, compiled
from evrant.core.light.bounce.patches import Blockers
from evrant.core.light.bounce.sight import may_stand
from evrant.core.light.bounce.sources import Source
from evrant.core.space.solids import Points

MOST = 24
"""Looks an enclosure keeps, the oldest go first."""
Look = Callable[[Points, Points], NDArray[np.float64]]
"""Points and their normals → light on them."""


@dataclass(frozen=True, eq=False)
class _Seen:
    """What was found, and which bodies of other lights stood where then."""

    others: Mapping[bytes, Blockers]
    light: NDArray[np.float64]


@dataclass
class Again:
    """What lights have given the points of one enclosure."""

    kept: dict[tuple[bytes, bytes], _Seen] = field(default_factory=dict)

    def direct(
        self,
        source: Source,
        others: Mapping[bytes, Blockers],
        which: bytes,
        points: Points,
        ways: Points,
        look: Look,
    ) -> NDArray[np.float64]:
        """(p,) light of `source` on points, which `which` names; `look` finds it with everything in the way that
        stands there now, the `others` among it."""
        key = source.shape, which
        seen = self.kept.pop(key, None)
        if seen is None or len(seen.light) != len(points):
            light = look(points, ways)
        else:
            light = _mended(seen, source, others, points, ways, look)
        self.kept[key] = _Seen(dict(others), light)
        for old in list(self.kept)[:-MOST]:
            self.kept.pop(old, None)
        return light


def _mended(
    seen: _Seen, source: Source, others: Mapping[bytes, Blockers], points: Points, ways: Points, look: Look
) -> NDArray[np.float64]:
    changed = [body for key, body in others.items() if key not in seen.others]
    changed += [body for key, body in seen.others.items() if key not in others]
    if not changed:
        return seen.light
    bodies = reduce(Blockers.plus, changed)
    there = np.zeros(len(points), dtype=np.bool_)
    touched(points, source.coarse.mean(axis=0), source.size, *_planes(bodies), there)
    rows = np.flatnonzero(there)
    if not rows.size:
        return seen.light
    light = seen.light.copy()
    light[rows] = look(points[rows], ways[rows])
    return light


def _planes(bodies: Blockers) -> tuple[Array, Array, Array, Array]:
    return bodies.spheres, bodies.ranges, bodies.normals, bodies.offsets


@compiled
def touched(
    points: Array, centre: Array, size: float, spheres: Array, ranges: Array, normals: Array, offsets: Array, out: Array
) -> None:
    """Which points (p, 3) any of the bodies may shade from a face of that size round `centre`: the very test by which
    `direct` passes bodies by."""
    for r in range(len(points)):
        for b in range(len(spheres)):
            way = points[r, 0], points[r, 1], points[r, 2], centre[0], centre[1], centre[2], 0.5 * size
            if may_stand(b, *way, spheres, ranges, normals, offsets):
                out[r] = True
                break
