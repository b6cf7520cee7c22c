"""Things of a room that are put on its plan by hand, at usual sizes: each figure a guess until it is measured.

Sizes are common practice, no source. Where a thing goes when nobody says is the first free stretch of wall.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from types import MappingProxyType
from typing import Any, get_args

import numpy as np
from numpy.typing import NDArray

from evrant.core.space.footprint import Plan, plan_of
from evrant.core.space.solids import Points, Vector
from evrant.core.space.things import door_swing
from evrant.core.studio.room import Box, Door, Room, Side, value
from evrant.core.studio.typical import guess

Data = dict[str, Any]
BY_HAND = 0.05
"""How well a thing is placed by eye on a plan [m]; common practice, no source."""
STEP = 0.1
"""Between places that are tried for a thing nobody placed [m]."""
NEAR = 0.02
"""What stands this near a wall stands against it [m]."""


@dataclass(frozen=True)
class Usual:
    """Something the tray holds: the list of the room it goes to, its name, its size along, across and up [m]."""

    list: str
    name: str
    size: tuple[float, float, float]
    group: str
    more: Mapping[str, Any] = field(default_factory=dict)

    @property
    def in_wall(self) -> bool:
        """Whether it belongs to a wall and slides along it."""
        return self.list in ("doors", "windows", "sockets")


_WALL, _FLOOR, _ABOVE = "In a wall", "On the floor", "Above"
TRAY: Mapping[str, Usual] = MappingProxyType(
    {
        "door": Usual("doors", "Door", (0.8, 0.0, 2.0), _WALL),
        "window": Usual("windows", "Window", (1.2, 0.0, 1.2), _WALL, {"sill": guess(0.9)}),
        "socket": Usual("sockets", "Socket", (0.0, 0.0, 0.3), _WALL),
        "single bed": Usual("boxes", "Bed", (2.0, 0.9, 0.5), _FLOOR, {"kind": "bed", "moves": "may be pushed aside"}),
        "double bed": Usual(
            "boxes", "Double bed", (2.0, 1.6, 0.5), _FLOOR, {"kind": "bed", "moves": "may be pushed aside"}
        ),
        "wardrobe": Usual("boxes", "Wardrobe", (1.2, 0.6, 2.0), _FLOOR, {"kind": "wardrobe"}),
        "desk": Usual("boxes", "Desk", (1.4, 0.7, 0.74), _FLOOR, {"moves": "may be pushed aside"}),
        "table": Usual("boxes", "Table", (1.4, 0.8, 0.75), _FLOOR, {"moves": "can be moved out"}),
        "sofa": Usual("boxes", "Sofa", (2.0, 0.9, 0.8), _FLOOR, {"moves": "may be pushed aside"}),
        "armchair": Usual("boxes", "Armchair", (0.85, 0.85, 0.9), _FLOOR, {"moves": "can be moved out"}),
        "chest": Usual("boxes", "Chest of drawers", (1.0, 0.5, 0.85), _FLOOR, {"moves": "may be pushed aside"}),
        "shelf": Usual("boxes", "Shelf", (0.8, 0.35, 1.9), _FLOOR),
        "radiator": Usual(
            "boxes", "Radiator", (1.0, 0.12, 0.6), _FLOOR, {"kind": "radiator", "base": guess(0.12, 0.03)}
        ),
        "fridge": Usual("boxes", "Fridge", (0.6, 0.65, 1.8), _FLOOR, {"kind": "appliance"}),
        "keep free": Usual("zones", "Way through", (1.0, 0.8, 0.0), _FLOOR, {"kind": "way through"}),
        "ceiling lamp": Usual("boxes", "Ceiling lamp", (0.4, 0.4, 0.3), _ABOVE, {"kind": "lamp"}),
        "beam": Usual("boxes", "Beam", (2.0, 0.2, 0.2), _ABOVE, {"kind": "beam or pipe"}),
        "rail": Usual("rails", "Rail", (2.0, 0.0, 0.0), _ABOVE),
        "slope": Usual("slopes", "Slope", (0.0, 1.5, 1.2), _ABOVE),
    }
)


@dataclass(frozen=True)
class Wish:
    """Where somebody wants a thing: in a wall so far along it, or with its middle at a place on the floor [m]."""

    wall: str = ""
    along: float | None = None
    x: float | None = None
    y: float | None = None


def usual_thing(room: Room, what: str, wish: Wish) -> tuple[str, Data]:
    """The list a thing of the tray goes to and the thing as plain data, without its id. Raises KeyError for a thing
    the tray does not hold. Without a plan of the room it has its size and no place."""
    one = TRAY[what]
    item: Data = {"name": _free_name(one.name, [thing.name for thing in getattr(room, one.list)]), **one.more}
    walls = plan_of(room)
    match one.list:
        case "doors" | "windows" | "sockets":
            item |= _in_wall(room, walls, one, wish)
        case "slopes":
            item |= {"low": guess(one.size[2]), "run": guess(one.size[1])} | _falls_to(room, walls, wish)
        case "rails":
            item |= _across(room, walls, wish)
        case _:
            item |= _on_floor(room, walls, one, wish)
    return one.list, item


SIDES: tuple[Side, ...] = get_args(Side)
SWINGS = (("start", "in"), ("end", "in"), ("end", "out"), ("start", "out"), ("start", "slides"))


def quarter_turned(room: Room, box: Box) -> Data:
    """The fields of furniture turned left by a quarter about its middle, kept within the room's extent."""
    long, across = (None if one is None else one.dump() for one in (box.length, box.width))
    found: Data = {"length": across, "width": long}
    if box.front is not None:
        found["front"] = SIDES[(SIDES.index(box.front) + 1) % 4]
    if box.x is None or box.y is None or box.length is None or box.width is None:
        return found
    sizes = np.array([box.width.value, box.length.value])
    low = np.array([box.x.value, box.y.value]) + (sizes[::-1] - sizes) / 2
    walls = plan_of(room)
    if walls is not None:
        floor, ceiling = walls.corners.min(axis=0), walls.corners.max(axis=0)
        low = np.maximum(np.minimum(low, ceiling - sizes), floor)
    return found | {"x": _by_eye(float(low[0])), "y": _by_eye(float(low[1]))}


def swung_over(door: Door) -> Data:
    """The next way a door can open: hinged at its other jamb, outward, as a sliding door."""
    hinge = "start" if door.swing == "slides" else door.hinge
    number = (SWINGS.index((hinge, door.swing)) + 1) % len(SWINGS)
    return dict(zip(("hinge", "swing"), SWINGS[number], strict=True))


def _free_name(name: str, taken: list[str]) -> str:
    return name if name not in taken else next(n for i in range(2, 200) if (n := f"{name} {i}") not in taken)


def _by_eye(place: float) -> Data:
    return guess(max(place, 0.0), BY_HAND)


def _in_wall(room: Room, walls: Plan | None, one: Usual, wish: Wish) -> Data:
    """In the free stretch of its wall nearest to where it is wished, or in the middle of the longest of all."""
    long, _, tall = one.size
    sizes: Data = {"height": guess(tall)}
    if one.list != "sockets":
        sizes["width"] = guess(long)
    if walls is None:
        return sizes
    names = [wall.id for wall in room.edges(walls.count)]
    lengths = walls.sides
    spans = [(i, a, b) for i in range(walls.count) for a, b in free_stretches(room, names[i], float(lengths[i]))]
    if wish.wall in names and wish.along is not None:
        middle = wish.along
        own = [span for span in spans if names[span[0]] == wish.wall] or [
            (names.index(wish.wall), 0.0, float(lengths[names.index(wish.wall)]))
        ]
        wide = [span for span in own if span[2] - span[1] >= long] or own
        index, left, right = min(wide, key=lambda span: max(span[1] - middle, middle - span[2], 0.0))
    else:
        index, left, right = max(spans, key=lambda span: (round(span[2] - span[1], 3), -span[0]))
        middle = (left + right) / 2
    if long > right - left:
        long = round((right - left) * 0.9, 2)
        sizes["width"] = guess(long)
    start = min(max(middle - long / 2, left), right - long)
    return {**sizes, "wall": names[index], "offset": _by_eye(start)}


def free_stretches(room: Room, wall: str, length: float) -> Iterator[tuple[float, float]]:
    """Stretches of a wall no opening or socket takes [m]."""
    taken = [(0.0, 0.0), (length, length)]
    for thing in (*room.doors, *room.windows, *room.sockets):
        start = value(thing.offset)
        if thing.wall == wall and start is not None:
            taken.append((start, start + (value(getattr(thing, "width", None)) or 0.0)))
    end = 0.0
    for start, last in sorted(taken):
        if start > end:
            yield end, start
        end = max(end, last)
    if end == 0.0:
        yield 0.0, length


def _falls_to(room: Room, walls: Plan | None, wish: Wish) -> Data:
    if walls is None:
        return {}
    names = [wall.id for wall in room.edges(walls.count)]
    if wish.wall in names:
        return {"wall": wish.wall}
    taken = {slope.wall for slope in room.slopes}
    lengths = walls.sides
    order = sorted(range(walls.count), key=lambda i: (names[i] in taken, -round(float(lengths[i]), 3), i))
    return {"wall": names[order[0]]}


def _across(room: Room, walls: Plan | None, wish: Wish) -> Data:
    """A rail along A–B under the ceiling, in the middle or where it is wished."""
    high = value(room.height)
    ends: Data = {} if high is None else {"height": guess(max(high - 0.1, 0.5), 0.1)}
    if walls is None:
        return ends
    low, top = walls.corners.min(axis=0), walls.corners.max(axis=0)
    x, y = _wished(wish) or (float((low + top)[0] / 2), float((low + top)[1] / 2))
    half = min(1.0, float((top - low)[0]) / 2 - 0.05)
    x = min(max(x, float(low[0]) + half), float(top[0]) - half)
    return {**ends, "x": _by_eye(x - half), "to_x": _by_eye(x + half), "y": _by_eye(y), "to_y": _by_eye(y)}


def _wished(wish: Wish) -> tuple[float, float] | None:
    return None if wish.x is None or wish.y is None else (wish.x, wish.y)


def _on_floor(room: Room, walls: Plan | None, one: Usual, wish: Wish) -> Data:
    long, across, tall = one.size
    sizes: Data = {"length": guess(long), "width": guess(across)}
    if tall:
        sizes["height"] = guess(tall)
    high = value(room.height)
    if one.group == _ABOVE and high is not None:
        sizes["base"] = guess(max(high - tall, 0.0), 0.1)
    if walls is None:
        return sizes
    found = _wished(wish)
    if found is not None:
        x, y = found[0] - long / 2, found[1] - across / 2
    else:
        turned, x, y = _first_free(room, walls, one)
        if turned:
            long, across = across, long
            sizes |= {"length": guess(long), "width": guess(across)}
    low, top = walls.corners.min(axis=0), walls.corners.max(axis=0)
    x = min(max(x, float(low[0])), max(float(top[0]) - long, float(low[0])))
    y = min(max(y, float(low[1])), max(float(top[1]) - across, float(low[1])))
    return {**sizes, "x": _by_eye(x), "y": _by_eye(y)}


def _first_free(room: Room, walls: Plan, one: Usual) -> tuple[bool, float, float]:
    """Whether it is turned, and its corner nearest to A: the place with most of it against walls that overlaps nothing
    and leaves doors their swing; the middle of the room where there is none, and above heads."""
    long, across, _ = one.size
    middle = (walls.corners.min(axis=0) + walls.corners.max(axis=0)) / 2
    best = (0.0, False, float(middle[0]) - long / 2, float(middle[1]) - across / 2)
    if one.group == _ABOVE:
        return best[1:]
    taken = _taken(room, walls)
    for turned in (False, True):
        size = np.array([across, long] if turned else [long, across])
        lows = _tried(walls, size)
        lows = lows[~_overlaps(lows, size, taken)]
        rim = _RIM * size
        inside = walls.contains((lows[:, None] + rim + (size / 2 - rim) * 2e-3).reshape(-1, 2))
        lows = lows[inside.reshape(len(lows), -1).all(axis=1)]
        if not len(lows):
            continue
        against = _against(walls, lows[:, None] + rim)
        chosen = int(np.argmax(against))
        if float(against[chosen]) > best[0] + 1e-9:
            best = float(against[chosen]), turned, float(lows[chosen, 0]), float(lows[chosen, 1])
    return best[1:]


_EDGE = np.linspace(0.0, 1.0, 13)
_RIM = np.concatenate(
    [np.column_stack([_EDGE, np.full(13, side)]) for side in (0.0, 1.0)]
    + [np.column_stack([np.full(13, side), _EDGE]) for side in (0.0, 1.0)]
)
"""Points round a rectangle of size one."""


def _tried(walls: Plan, size: Vector) -> Points:
    """Corners nearest to A (n, 2) that are tried: a grid, and flush with every corner of the room."""
    axes = []
    for i in (0, 1):
        marks = walls.corners[:, i]
        grid = np.arange(float(marks.min()), float(marks.max()), STEP)
        axes.append(np.unique(np.round(np.concatenate([grid, marks, marks - size[i]]), 4)))
    x, y = np.meshgrid(*axes)
    return np.column_stack([x.ravel(), y.ravel()])


def _against(walls: Plan, points: Points) -> Vector:
    """Of bodies with points (n, k, 2) round them, how many stand against a wall (n,)."""
    along = walls.nexts - walls.corners
    shares = ((points[:, :, None] - walls.corners) * along).sum(axis=3) / (along**2).sum(axis=1)
    feet = walls.corners + np.clip(shares, 0.0, 1.0)[..., None] * along
    near = np.linalg.norm(points[:, :, None] - feet, axis=3).min(axis=2) < NEAR
    return np.asarray(near.sum(axis=1), dtype=float)


def _overlaps(lows: Points, size: Vector, taken: Points) -> NDArray[np.bool_]:
    """Which rectangles overlap any of the taken ones (m, 4: low x, low y, high x, high y) by more than a hair."""
    highs, hair = lows + size, 1e-6
    clear = (
        (highs[:, None, 0] <= taken[:, 0] + hair)
        | (lows[:, None, 0] >= taken[:, 2] - hair)
        | (highs[:, None, 1] <= taken[:, 1] + hair)
        | (lows[:, None, 1] >= taken[:, 3] - hair)
    )
    return np.asarray((~clear).any(axis=1))


def _taken(room: Room, walls: Plan) -> Points:
    """Rectangles (m, 4) that other furniture, zones and the swings of doors take of the floor."""
    parts = []
    for thing in (*room.boxes, *room.zones):
        x, y, long, across = (value(getattr(thing, name)) for name in ("x", "y", "length", "width"))
        if x is not None and y is not None and long is not None and across is not None:
            parts.append([x, y, x + long, y + across])
    for door in room.doors:
        swing = door_swing(room, walls, door)
        if swing is not None:
            parts.append([*swing[:, :2].min(axis=0), *swing[:, :2].max(axis=0)])
    return np.array(parts, dtype=float).reshape(-1, 4)
