"""Rooms people begin in, with sizes that are usual and said to be guesses: each figure wide until it is measured.

Sizes are common practice, no source. A length the person knows replaces the usual one and counts as taped.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from types import MappingProxyType
from typing import Any

Data = dict[str, Any]
Corner = str
WHITE = {"value": 80.0, "pm": 8.0, "origin": "guess"}
CEILING_PM = 0.12
CLOUDED = 5000.0
"""Daylight on a window of which nothing is known, under clouds [lx]; from memory."""
"""How far the ceilings of dwellings lie from the usual one [m]; common practice, no source."""
LEAST_LEFT = 1.2
"""What furniture leaves of a wall's length at least, or it is left out [m]."""


def guess(value: float, pm: float | None = None) -> Data:
    """A figure nobody has measured, as unsure as guesses are."""
    found: Data = {"value": round(value, 3), "origin": "guess"}
    return found if pm is None else found | {"pm": pm}


@dataclass(frozen=True)
class Thing:
    """A piece of furniture in a corner of the room: its size along A–B, across and up [m]."""

    name: str
    kind: str
    corner: Corner
    size: tuple[float, float, float]
    moves: str


@dataclass(frozen=True)
class Typical:
    """A room to begin with: its usual sizes [m], what stands in it, and how far a slope reaches in from its wall."""

    words: str
    length: float
    width: float
    height: float
    floor: str = "wood"
    things: tuple[Thing, ...] = ()
    window: bool = True
    door: tuple[float, float] = (0.8, 2.0)
    slopes: bool = False


TYPICAL: Mapping[str, Typical] = MappingProxyType(
    {
        "small bedroom": Typical(
            "A small bedroom",
            3.8,
            3.2,
            2.45,
            "laminate",
            (
                Thing("Bed", "bed", "C", (2.0, 1.4, 0.5), "may be pushed aside"),
                Thing("Wardrobe", "wardrobe", "D", (0.6, 1.2, 2.0), "stays"),
            ),
        ),
        "living-room corner": Typical(
            "A living-room corner",
            5.2,
            4.2,
            2.5,
            "wood",
            (
                Thing("Sofa", "furniture", "C", (2.0, 0.9, 0.8), "may be pushed aside"),
                Thing("Shelf", "furniture", "B", (0.4, 1.6, 2.0), "stays"),
            ),
        ),
        "attic": Typical(
            "An attic",
            4.8,
            4.0,
            2.4,
            "wood",
            (Thing("Chest", "furniture", "B", (0.5, 1.2, 0.8), "may be pushed aside"),),
            slopes=True,
        ),
        "garage": Typical(
            "A garage",
            5.8,
            3.0,
            2.35,
            "concrete",
            (Thing("Shelves", "furniture", "C", (1.8, 0.45, 2.0), "stays"),),
            window=False,
            door=(2.3, 2.0),
        ),
        "empty room": Typical("An empty room", 4.2, 3.6, 2.5),
    }
)


def typical_room(
    like: str,
    length: float | None = None,
    width: float | None = None,
    height: float | None = None,
    *,
    ell: bool = False,
    window: bool | None = None,
    breaker: float | None = None,
) -> Data:
    """A room as plain data: what is known of it as taped, all else usual. `window`: whether it has one, None: as is
    usual; `breaker` [A] of its sockets. Raises KeyError for a room nobody knows."""
    one = TYPICAL[like]
    long, wide = length or one.length, width or one.width
    footprint: Data = {"kind": "rectangle", "length": length or guess(long), "width": width or guess(wide)}
    if ell:
        cut = {"cut_length": guess(long * 0.35), "cut_width": guess(wide * 0.35), "cut_corner": "C"}
        footprint = footprint | {"kind": "ell"} | cut
    return {
        "footprint": footprint,
        "height": height or guess(one.height, CEILING_PM),
        "floor": one.floor,
        "airing": "closed",
        "ceiling": {"lrv": WHITE, "colour": "#ffffff"},
        "floor_finish": {"lrv": guess(30.0), "colour": "#a08060" if one.floor != "concrete" else "#8d8d8a"},
        "walls": [
            {"id": key, "name": name, "finish": {"lrv": WHITE, "colour": "#f4f4f0"}} for key, name in _walls(ell)
        ],
        "doors": [
            {
                "id": "door",
                "name": "Door",
                "wall": "a",
                "offset": guess(min(0.3, max(long - one.door[0], 0.1) / 2), 0.3),
                "width": guess(min(one.door[0], long - 0.4)),
                "height": guess(one.door[1], 0.1),
                "swing": "in" if one.door[0] < 1.0 else "out",
            }
        ],
        "windows": [_window(long)] if (one.window if window is None else window) and not ell else [],
        "circuits": [{"id": "sockets", "name": "Sockets", "breaker": breaker}],
        "sockets": [
            {
                "id": f"socket-{key}",
                "name": f"Socket {key.upper()}",
                "wall": key,
                "offset": guess(0.6, 0.5),
                "height": guess(0.3, 0.1),
                "circuit": "sockets",
            }
            for key in ("a", "b", "d")
            if key != "a" or long > 2.0
        ],
        "boxes": [_box(thing, long, wide) for thing in one.things if not ell and _room_for(thing, long, wide)],
        "slopes": [_slope("a", wide), _slope("c", wide)] if one.slopes and not ell else [],
        "places": [
            {
                "id": "cupboard",
                "name": "Cupboard",
                "length": guess(1.0),
                "width": guess(0.55),
                "height": guess(1.9),
                "load": guess(60.0),
            }
        ],
    }


def _walls(ell: bool) -> list[tuple[str, str]]:
    keys = "abcdef" if ell else "abcd"
    return [(key, f"Wall {key.upper()}–{after.upper()}") for key, after in zip(keys, keys[1:] + keys[0], strict=True)]


def _window(long: float) -> Data:
    wide = min(1.2, long - 0.6)
    return {
        "id": "window",
        "name": "Window",
        "wall": "c",
        "offset": guess((long - wide) / 2, 0.4),
        "width": guess(wide),
        "sill": guess(0.9),
        "height": guess(1.2),
        "daylight": guess(CLOUDED),
        "blackout": "not needed",
    }


_CORNERS: Mapping[Corner, Callable[[float, float], tuple[float, float]]] = MappingProxyType(
    {
        "A": lambda free, across: (0.0, 0.0),
        "B": lambda free, across: (free, 0.0),
        "C": lambda free, across: (free, across),
        "D": lambda free, across: (0.0, across),
    }
)


def _box(thing: Thing, long: float, wide: float) -> Data:
    length, width, height = thing.size
    x, y = _CORNERS[thing.corner](long - length, wide - width)
    return {
        "id": thing.name.lower(),
        "name": thing.name,
        "kind": thing.kind,
        "x": guess(x, 0.1),
        "y": guess(y, 0.1),
        "length": guess(length),
        "width": guess(width),
        "height": guess(height),
        "moves": thing.moves,
    }


def _room_for(thing: Thing, long: float, wide: float) -> bool:
    return long - thing.size[0] >= LEAST_LEFT and wide - thing.size[1] >= LEAST_LEFT


def _slope(wall: str, wide: float) -> Data:
    return {
        "id": f"slope-{wall}",
        "name": "Slope",
        "wall": wall,
        "low": guess(1.2),
        "run": guess(min(1.3, wide * 0.3)),
    }
