"""A studio in a mirror, or turned by a quarter, as plain data."""

import copy
from typing import Any


def each_place(data: dict[str, Any]) -> list[dict[str, Any]]:
    """Everything in the sets that has a place."""
    found = []
    for plan in data["sets"]:
        found += [plan["mark"], plan["camera"], plan["background"], *plan.get("lights", []), *plan.get("props", [])]
    return found


def value(figure: Any) -> float:
    return float(figure["value"] if isinstance(figure, dict) else figure)


def mirrored(data: dict[str, Any]) -> dict[str, Any]:
    """The studio in a mirror along wall A-B: y becomes width − y; what has a hand changes it."""
    twin = copy.deepcopy(data)
    room = twin["room"]
    length, width = value(room["footprint"]["length"]), value(room["footprint"]["width"])
    for place in each_place(twin):
        place["y"] = width - place["y"]
        for turned in ("facing", "turn", "leg", "boom"):
            if turned in place:
                place[turned] = -place[turned]
    for shot in twin["shots"]:
        for subject in shot["subjects"]:
            subject["across"] = -subject.get("across", 0.0)
    for box in room.get("boxes", []):
        box["y"] = round(width - value(box["y"]) - value(box["width"]), 9) + 0.0
    south, east, north, west = room["walls"]
    room["walls"] = [north, east, south, west]
    sizes = dict(zip([w["id"] for w in (south, east, north, west)], (length, width, length, width), strict=True))
    for thing in (*room.get("doors", []), *room.get("windows", [])):
        thing["offset"] = round(sizes[thing["wall"]] - value(thing["offset"]) - value(thing["width"]), 9)
        if "hinge" in thing or thing in room.get("doors", []):
            thing["hinge"] = "start" if thing.get("hinge", "start") == "end" else "end"
    for socket in room.get("sockets", []):
        socket["offset"] = sizes[socket["wall"]] - value(socket["offset"])
    return twin


def quarter_turned(data: dict[str, Any]) -> dict[str, Any]:
    """The whole studio turned by 90°: (x, y) becomes (width − y, x)."""
    twin = copy.deepcopy(data)
    room = twin["room"]
    length, width = room["footprint"]["length"], room["footprint"]["width"]
    room["footprint"] |= {"length": width, "width": length}
    for place in each_place(twin):
        if "x" in place:
            place["x"], place["y"] = value(width) - place["y"], place["x"]
        for turned in ("facing", "turn", "leg", "boom"):
            if turned in place:
                place[turned] = (place[turned] + 90) % 360
        if "item" in place and "turn" not in place:
            place["turn"] = 90
    for box in room.get("boxes", []):
        box["x"], box["y"] = round(value(width) - value(box["y"]) - value(box["width"]), 9) + 0.0, box["x"]
        box["length"], box["width"] = box["width"], box["length"]
    room["walls"] = [room["walls"][3], *room["walls"][:3]]
    return twin
