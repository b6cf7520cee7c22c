"""Tops of tables, boards that lie and furniture, and how far inside their edges it is that things stand."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from evrant.core.space import figures
from evrant.core.space.placed import Placed
from evrant.core.space.solids import Points, Vector, turned
from evrant.core.studio.gear import TABLES, Board, Table
from evrant.core.studio.room import value
from evrant.core.studio.sets import PropPlace
from evrant.core.studio.shots import Subject

FOOT = 0.03
"""What of a body is no higher above its lowest point touches what it stands on [m]."""
STIFF = 1 / 3
"""One stiff thing may stand over an edge by this share of how far its middle is inside; a project choice."""
TOUCH = 0.01
"""Tops so near to each other are pushed together [m]."""
_ANGLES = np.linspace(0.0, 2 * np.pi, 144, endpoint=False)
_RAYS: Points = np.column_stack([np.cos(_ANGLES), np.sin(_ANGLES)])
FLAT = 75.0
"""A board tilted further lies [degrees]."""


@dataclass(frozen=True, eq=False)
class Top:
    """A level rectangle: its middle (2,) and half its sides (2,) [m], turned by degrees, so high above the floor."""

    name: str
    middle: Vector
    half: Vector
    turn: float
    height: float

    def inside(self, points: Points) -> NDArray[np.float64]:
        """(n,) how far inside the edge plan points (n, 2) lie [m]; beside it below zero, by the nearest of the edge."""
        flat = np.column_stack([points - self.middle, np.zeros(len(points))])
        local = np.abs(turned(flat, -self.turn, (0.0, 0.0))[:, :2]) - self.half
        beside = np.linalg.norm(np.maximum(local, 0.0), axis=1)
        return np.asarray(np.where(beside > 0, -beside, -local.max(axis=1)))

    def exits(self, point: Vector, ways: Points) -> NDArray[np.float64]:
        """(n,) how far from a point on it rays along unit vectors (n, 2) leave it [m]."""
        start = turned(np.array([[*(point - self.middle), 0.0]]), -self.turn, (0.0, 0.0))[0, :2]
        local = turned(np.column_stack([ways, np.zeros(len(ways))]), -self.turn, (0.0, 0.0))[:, :2]
        with np.errstate(divide="ignore"):
            far = (self.half - np.sign(local) * start) / np.abs(local)
        return np.asarray(far.min(axis=1))


def tops_at(scene: Placed, height: float, within: float) -> tuple[Top, ...]:
    """Every top of the set and of the room whose height differs by no more than `within` [m]."""
    found = [top for place in scene.plan.props if (top := _of_prop(scene, place)) is not None]
    found += furniture(scene)
    return tuple(top for top in found if abs(top.height - height) <= within)


def _of_prop(scene: Placed, place: PropPlace) -> Top | None:
    item = scene.gear.get(place.item or "")
    if place.x is None or place.y is None:
        return None
    middle = np.array([place.x, place.y])
    if isinstance(item, Table) and item.form in TABLES and item.length and item.width and item.height:
        half = np.array([item.length.value, item.width.value]) / 2
        return Top(item.called, middle, half, place.turn, item.height.value)
    if isinstance(item, Board) and abs(place.tilt) >= FLAT and item.width and item.height:
        half = np.array([item.width.value, item.height.value]) / 2
        return Top(item.called, middle, half, place.turn, scene.base_of(place))
    return None


def furniture(scene: Placed) -> Iterable[Top]:
    """The tops of what stands in the room, as it is for the set."""
    for box in scene.room.boxes:
        if box.x is None or box.y is None or not (box.length and box.width and box.height):
            continue
        half = np.array([box.length.value, box.width.value]) / 2
        middle = half + np.array([box.x.value, box.y.value])
        yield Top(box.name.lower(), middle, half, 0.0, (value(box.base) or 0.0) + box.height.value)


def foot_of(solids: Iterable[Points]) -> Points:
    """(n, 2) plan corners of a body where it touches what it stands on."""
    cloud = np.vstack(list(solids))
    return np.asarray(cloud[cloud[:, 2] <= cloud[:, 2].min() + FOOT][:, :2])


def inside_all(tops: Sequence[Top], points: Points) -> NDArray[np.float64]:
    """(n,) how far inside the edge of the best of several tops each plan point lies [m], as `Top.inside` has it."""
    return np.asarray(np.max([top.inside(points) for top in tops], axis=0))


def way_to_edge(tops: Sequence[Top], point: Vector) -> float:
    """How far it is from a plan point to the nearest edge of the tops it is on, which count as one where they meet
    [m]; zero beside them."""
    under = [top for top in tops if top.inside(point[None])[0] > -TOUCH]
    if not under:
        return 0.0
    reached = np.max([top.exits(point, _RAYS) for top in under], axis=0)
    return max(float(reached.min()), 0.0)


def stands_on_top(who: Subject) -> bool:
    """Whether a subject is a thing or an animal that stands above the floor, on its own."""
    return bool(who.base and who.base.value) and who.kind not in ("person", "garment") and not who.held


def laid_on(item: Table, subjects: Iterable[Subject]) -> tuple[float, float]:
    """How a table is best turned under what of the subjects stands on it, who look along x (degrees), and how far
    inside its edge that ends then, its middle under the mark [m]: zero where there is none or a size is not known."""
    long, wide = value(item.length) or 0.0, value(item.width) or 0.0
    usual = 90.0 if long > wide else 0.0
    bodies = [figures.placed(who, who.height.value, 0, 0, 0) for who in subjects if who.height and stands_on_top(who)]
    if not (long and wide and bodies):
        return usual, 0.0
    foot = np.vstack([foot_of(solids) for solids in bodies])
    turns = (usual, 90.0 - usual)
    first, second = (
        float(Top("", np.zeros(2), np.array([long, wide]) / 2, turn, 0).inside(foot).min()) for turn in turns
    )
    return (usual, first) if first >= min(0.0, second) else (90.0 - usual, second)


def too_small(item: Table, subjects: Iterable[Subject]) -> bool:
    """Whether what stands on a table would stand over its edge by more than it may."""
    standing = [who for who in subjects if stands_on_top(who)]
    middle = min(value(item.length) or 0.0, value(item.width) or 0.0) / 2
    stiff = STIFF * middle if all(who.kind == "object" for who in standing) else 0.0
    return laid_on(item, standing)[1] + stiff < 0
