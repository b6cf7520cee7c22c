"""Tops of tables, boards that lie and furniture, and how far inside their edges it is that things stand."""

from collections.abc import Iterable

import numpy as np

from evrant.core.space import figures
from evrant.core.space.level import Top
from evrant.core.space.placed import Placed
from evrant.core.space.solids import Points
from evrant.core.studio.gear import Board, Table
from evrant.core.studio.room import value
from evrant.core.studio.sets import PropPlace
from evrant.core.studio.shots import Subject

FOOT = 0.03
"""What of a body is no higher above its lowest point touches what it stands on [m]."""
STIFF = 1 / 3
"""One stiff thing may stand over an edge by this share of how far its middle is inside; a project choice."""
FLAT = 75.0
"""A board tilted further lies [degrees]."""


def tops_at(scene: Placed, height: float, within: float) -> tuple[Top, ...]:
    """Every top of the set and of the room whose height differs by no more than `within` [m]."""
    found = [top for place in scene.plan.props if (top := _of_prop(scene, place)) is not None]
    found += furniture(scene)
    return tuple(top for top in found if abs(top.height - height) <= within)


def _of_prop(scene: Placed, place: PropPlace) -> Top | None:
    item = scene.gear.get(place.item or "")
    if isinstance(item, Table):
        return scene.table_top(place)
    if place.x is None or place.y is None:
        return None
    if isinstance(item, Board) and abs(place.tilt) >= FLAT and item.width and item.height:
        half = np.array([item.width.value, item.height.value]) / 2
        return Top(item.called, np.array([place.x, place.y]), half, place.turn, scene.base_of(place))
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
