"""Sets by the window, with cards."""

import math
from typing import Any

from evrant.core.light.lit import Lit, lit
from evrant.core.space.scene import Scene, scene_of
from evrant.core.studio.studio import Studio
from helpers.studios import one_portrait, packed, parse

Data = dict[str, Any]
CARD = {"kind": "board", "id": "card", "name": "White card", "surface": "white", "width": 0.6, "height": 0.9}


def window(wall: str, offset: float | None = None, **fields: Any) -> Data:
    usual = 2.3 if wall == "north" else 1.3
    size = {"width": 1.4, "height": 1.5, "sill": 0.8, "offset": usual if offset is None else offset}
    return {"id": f"w-{wall}", "name": f"{wall} window", "wall": wall, "daylight": 8000} | size | fields


def by_day(*windows: Data, card: float | None = None, far: float = 0.8, **shot: Any) -> Data:
    """A portrait that looks along +x from the middle of a room, with a card `card` degrees round from there, left
    positive."""
    data = one_portrait()
    data["room"] |= {"floor": "wood", "ceiling": {"lrv": 60, "colour": "#ffffff"}, "windows": list(windows)}
    for wall in data["room"]["walls"]:
        wall["finish"] = {"lrv": 30, "colour": "#ffffff"}
    data["shots"][0] |= {"around": "daylight", "shutter": 1 / 30, "iso": 800, "aperture": 4} | shot
    next(one for one in data["gear"] if one["id"] == "paper")["reflectance"] = 36
    data["sets"][0] |= {"lights": [], "props": []}
    data["sets"][0]["mark"]["facing"] = 0.0
    if card is not None:
        data["gear"].append(packed(CARD))
        put(data, card, far)
    return data


def put(data: Data, angle: float, far: float = 0.8, item: str = "card", **fields: Any) -> None:
    scene = scene_of(studio := parse(data), studio.sets[0])
    assert scene is not None and scene.lit_spot is not None
    way = math.radians(angle)
    x, y = scene.lit_spot[0] + far * math.cos(way), scene.lit_spot[1] + far * math.sin(way)
    place = {"id": f"{item}-{len(data['sets'][0]['props'])}", "item": item, "x": x, "y": y, "height": 0.8}
    data["sets"][0]["props"].append(place | {"turn": (angle - 90 + 180) % 360 - 180} | fields)


def at_hand(data: Data) -> Studio:
    """What is told as a studio whose gear is all owned and nothing of it set up, for arranging."""
    data["sets"] = []
    for one in data["gear"]:
        one["status"] = "owned"
    return parse(data)


def painted(data: Data, lrv: float) -> Data:
    """A room of one grey."""
    for wall in data["room"]["walls"]:
        wall["finish"] = {"lrv": lrv, "colour": "#ffffff"}
    data["room"]["ceiling"]["lrv"] = lrv
    data["room"]["floor_finish"] = {"lrv": lrv, "colour": "#ffffff"}
    return data


def the_scene(data: Data) -> Scene:
    studio = parse(data)
    found = scene_of(studio, studio.sets[0])
    assert found is not None
    return found


def state_of(scene: Scene, patches: int = 140) -> Lit:
    found = lit(scene, patches)
    assert isinstance(found, Lit)
    return found
