"""Surfaces of a set: what each polygon returns in three bands, and what it lets through.

Bands are the red, green and blue of linear light; a grey surface has the same figure in all.
"""

from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from evrant.core.light.bounce.polygons import area_of, carve, common, normal_of
from evrant.core.space.solids import Points

Bands = NDArray[np.float64]
TOUCH = 2e-3
"""Polygons nearer than this [m] touch: what one covers of the other is taken out."""


@dataclass(frozen=True, eq=False)
class Surface:
    """Convex polygons of one finish. `path` is where it is described; `body` names the solid it belongs to.

    `reflectance` (3,) is of the front; a sheet has a back of its own reflectance, and may let light
    through, spread evenly (`through`, 3).
    """

    name: str
    path: str
    polygons: tuple[Points, ...]
    reflectance: Bands
    back: Bands | None = None
    through: Bands | None = None
    body: str = ""
    blocks: bool = True
    fine: float = 1.0
    """Patches this many times as wide as the usual ones …"""
    widest: float = 9.0
    """… but no wider than this [m]."""
    sheds: bool = field(default=False)
    """A light's own surface: carried along when the light moves."""
    gloss: float = 0.0
    """Share of the reflectance that leaves as from a mirror …"""
    rough: float = 0.0
    """… whose lobe is cosⁿ round the mirrored ray; 0 for a flat mirror."""

    @property
    def area(self) -> float:
        return sum(area_of(polygon) for polygon in self.polygons)


def grey(value: float) -> Bands:
    """The same figure in all bands."""
    return np.full(3, value)


def fitted(surfaces: list[Surface]) -> list[Surface]:
    """Surfaces without what other surfaces cover of them: a wardrobe on the floor, a window in a wall.

    Where two face each other the covered parts of both go; where a sheet lies on a surface, that
    surface's part and the sheet's back go.
    """
    holes = [(j, hole) for j, other in enumerate(surfaces) for hole in other.polygons]
    if not holes:
        return surfaces
    owner = np.array([j for j, _ in holes])
    ways = np.array([normal_of(hole) for _, hole in holes])
    offsets = np.array([float(way @ hole[0]) for way, (_, hole) in zip(ways, holes, strict=True)])
    sheet = np.array([surfaces[j].back is not None for j in owner])
    found = []
    for i, one in enumerate(surfaces):
        if one.back is not None:
            found.append(one)
            continue
        strange = np.array([not (one.body and one.body == surfaces[j].body) for j in owner]) & (owner != i)
        lies_on = sheet | (owner > i)
        polygons: list[Points] = []
        for polygon in one.polygons:
            turn = ways @ normal_of(polygon)
            touching = (np.abs(turn) > 0.9999) & (np.abs(ways @ polygon[0] - offsets) < TOUCH)
            pieces = [polygon]
            for k in np.flatnonzero(touching & strange & ((turn < 0) | lies_on)):
                pieces = _without(pieces, holes[k][1], float(turn[k]))
            polygons += pieces
        found.append(_with(one, polygons))
    return found


def _without(polygons: list[Points], hole: Points, turn: float) -> list[Points]:
    """Polygons of one plane less what a touching hole covers; `turn` is positive where both look the same way."""
    if not polygons:
        return []
    up = normal_of(polygons[0])
    flat = hole - np.outer(hole @ up - float(polygons[0][0] @ up), up)
    turned = flat if turn > 0 else flat[::-1]
    return [
        piece
        for polygon in polygons
        for piece in (carve([polygon], turned) if common(polygon, turned) is not None else [polygon])
    ]


def _with(surface: Surface, polygons: list[Points]) -> Surface:
    return replace(surface, polygons=tuple(polygons))


def hull_faces(points: Points) -> list[Points]:
    """Faces of a convex body given as its corners, coplanar triangles joined, fronts outward."""
    from scipy.spatial import ConvexHull  # a heavy import that only this needs

    hull = ConvexHull(points)
    planes: dict[tuple[float, ...], list[int]] = {}
    for triangle, equation in zip(hull.simplices, hull.equations, strict=True):
        planes.setdefault(tuple(np.round(equation, 5) + 0.0), []).extend(int(k) for k in triangle)
    faces = []
    for equation, corners in planes.items():
        ring = points[sorted(set(corners))]
        up = np.array(equation[:3])
        middle = ring.mean(axis=0)
        side = ring[0] - middle
        side = side / np.linalg.norm(side)
        other = np.cross(up, side)
        turn = np.arctan2((ring - middle) @ other, (ring - middle) @ side)
        faces.append(ring[np.argsort(turn)])
    return faces
