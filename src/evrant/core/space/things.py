"""Things that take up room, as convex parts: stands, tables, furniture, the sweep of a door."""

import math
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np

from evrant.core.space.footprint import Plan
from evrant.core.space.solids import Points, Vector, cone, cuboid, supports, unit, upright
from evrant.core.studio.gear import Stand
from evrant.core.studio.room import Box, Door, Room, Zone, value

PartKind = Literal[
    "legs", "column", "boom", "shade", "head", "roll", "sheet", "body", "top", "casing", "swing", "card", "wall", "zone"
]
ThingKind = Literal[
    "light", "holder", "backdrop", "subject", "prop", "camera", "operator", "person", "box", "door", "zone"
]


@dataclass(frozen=True, eq=False)
class Part:
    """A convex piece of a thing."""

    kind: PartKind
    solid: Points


@dataclass(frozen=True, eq=False)
class Thing:
    """Something that takes up room. Things with the same path never collide with each other."""

    path: str
    name: str
    kind: ThingKind
    parts: tuple[Part, ...]
    fixed: bool = False

    @cached_property
    def cloud(self) -> Points:
        """The points of all parts."""
        return np.vstack([part.solid for part in self.parts])

    @cached_property
    def reach(self) -> Points:
        """(parts, directions) how far each part reaches: what separations are found from."""
        return supports([part.solid for part in self.parts])


def is_cloth(thing: Thing) -> bool:
    """Whether a thing is walls of cloth that one sees through: a tent, a cone."""
    return any(part.kind == "wall" for part in thing.parts) or sum(part.kind == "card" for part in thing.parts) > 1


def door_place(room: Room, walls: Plan | None, door: Door) -> tuple[Vector, Vector, int] | None:
    """Plan points of a door's two jambs (start, end of wall order) and its wall's number."""
    if walls is None or door.wall is None or door.offset is None or door.width is None:
        return None
    names = [wall.id for wall in room.edges(walls.count)]
    if door.wall not in names:
        return None
    index = names.index(door.wall)
    start, end = walls.wall(index)
    along = unit(end - start)
    first = start + along * door.offset.value
    return first, first + along * door.width.value, index


def door_swing(room: Room, walls: Plan | None, door: Door) -> Points | None:
    """The quarter cylinder a door that opens inward sweeps."""
    leaf = _leaf(room, walls, door)
    if leaf is None:
        return None
    hinge, closed, opened, height = leaf
    angles = np.linspace(0, np.pi / 2, 10)
    rim = [hinge + math.cos(a) * closed + math.sin(a) * opened for a in angles]
    return _standing(np.array([hinge, *rim]), height)


LEAF = 0.04
"""How thick a door's leaf is taken [m]."""


def open_leaf(room: Room, walls: Plan | None, door: Door) -> Points | None:
    """The leaf of a door that opens inward, held open square to its wall."""
    leaf = _leaf(room, walls, door)
    if leaf is None:
        return None
    hinge, closed, opened, height = leaf
    along = unit(closed) * LEAF
    return _standing(np.array([hinge, hinge + along, hinge + along + opened, hinge + opened]), height)


def _leaf(room: Room, walls: Plan | None, door: Door) -> tuple[Vector, Vector, Vector, float] | None:
    """Of a door that opens inward: its hinge, the leaf from there shut and open (2,), and its height [m]."""
    place = door_place(room, walls, door)
    if place is None or walls is None or door.swing != "in" or door.width is None:
        return None
    first, last, index = place
    hinge, other = (first, last) if door.hinge == "start" else (last, first)
    height = value(door.height) or value(room.height) or 2.0
    return hinge, unit(other - hinge) * door.width.value, walls.inward(index) * door.width.value, height


def _standing(flat: Points, height: float) -> Points:
    """A flat outline from the floor to a height."""
    return np.vstack([np.column_stack([flat, np.full(len(flat), z)]) for z in (0.0, height)])


def box_thing(box: Box) -> Thing | None:
    """Furniture as a solid, or None while a measure is missing."""
    if box.x is None or box.y is None or box.length is None or box.width is None or box.height is None:
        return None
    x, y, base = box.x.value, box.y.value, value(box.base) or 0.0
    solid = cuboid((x, y, base), (x + box.length.value, y + box.width.value, base + box.height.value))
    return Thing(f"room/boxes/{box.id}", box.name.lower(), "box", (Part("casing", solid),), fixed=box.moves == "stays")


ZONE_HEIGHT = 1.90
"""Zones are kept free up to here [m]: head height; common practice, no source."""


def zone_thing(zone: Zone) -> Thing | None:
    """A part of the floor to keep free, with its clearance, or None while a measure is missing."""
    if zone.x is None or zone.y is None or zone.length is None or zone.width is None:
        return None
    free = value(zone.clearance) or 0.0
    x, y = zone.x.value, zone.y.value
    low = (x - free, y - free, 0.0)
    high = (x + zone.length.value + free, y + zone.width.value + free, ZONE_HEIGHT)
    return Thing(f"room/zones/{zone.id}", zone.name.lower(), "zone", (Part("zone", cuboid(low, high)),), fixed=True)


FRONTS: dict[str, tuple[float, float]] = {"A–B": (0, -1), "B–C": (1, 0), "C–D": (0, 1), "D–A": (-1, 0)}
"""Plan direction towards each side of a rectangle that begins at A."""


def keep_free(box: Box) -> Thing | None:
    """The floor before a bed, wardrobe or washing machine that must stay usable."""
    thing = box_thing(box)
    if thing is None or box.keep_free is None or box.front is None:
        return None
    low, high = thing.parts[0].solid.min(axis=0), thing.parts[0].solid.max(axis=0)
    way, deep = np.array(FRONTS[box.front]), box.keep_free.value
    first = np.where(way > 0, high[:2], np.where(way < 0, low[:2] - deep, low[:2]))
    last = np.where(way > 0, high[:2] + deep, np.where(way < 0, low[:2], high[:2]))
    solid = cuboid((first[0], first[1], 0.0), (last[0], last[1], ZONE_HEIGHT))
    name = f"room before the {thing.name}"
    return Thing(f"room/boxes/{box.id}/front", name, "zone", (Part("zone", solid),), fixed=True)


def slab(length: float, width: float, low: float, high: float) -> Points:
    """Upright box over the origin."""
    return cuboid((-length / 2, -width / 2, low), (length / 2, width / 2, high))


def legs_of(spot: Vector, radius: float, height: float) -> list[Part]:
    """The cone a stand's legs take up."""
    return [Part("legs", cone(spot[0], spot[1], 0.0, min(radius * 1.1, height), radius))]


def stand_parts(stand: Stand, spot: Vector, height: float) -> list[Part]:
    """Legs and column of a stand set to a height."""
    parts = legs_of(spot, stand.foot_radius.value, max(height, 0.1)) if stand.foot_radius else []
    return [*parts, Part("column", upright(spot[0], spot[1], 0.0, max(height, 0.1), 0.015))]
