"""Things on a table, as studios: their shape and surface, what they lie on or stand in, and one lamp or two."""

from typing import Any

from helpers.studios import one_portrait

Data = dict[str, Any]
TENT: Data = {
    "kind": "tent",
    "id": "tent",
    "name": "Tent",
    "width": 0.4,
    "height": 0.4,
    "opening": 0.16,
    "opening_at": 0.09,
    "reflectance": 40,
    "through": 0.5,
    "status": "owned",
}
IN_TENT: Data = {"id": "tent", "item": "tent", "x": 2.0, "y": 1.9, "turn": 90}


def product(gear: tuple[Data, ...] = (), props: tuple[Data, ...] = (), lights: int = 1, **subject: Any) -> Data:
    """A thing of 6 cm on a table 75 cm high, seen from a foot's distance, lit from its left, or from both sides."""
    data = one_portrait()
    for wall in data["room"]["walls"]:
        wall["finish"] = {"lrv": 70, "colour": "#ffffff"}
    data["room"]["ceiling"] = {"lrv": 85, "colour": "#ffffff"}
    data["room"]["floor_finish"] = {"lrv": 30, "colour": "#808080"}
    thing = {"id": "p", "name": "Thing", "kind": "object", "height": 0.06, "width": 0.06, "depth": 0.06, "base": 0.75}
    shot = {"crop": "whole subject", "angle": 15.0, "orientation": "landscape", "aperture": 11, "frame_height": 0.11}
    data["shots"][0] |= {**shot, "subjects": [thing | subject]}
    next(item for item in data["gear"] if item["id"] == "paper")["reflectance"] = 85
    table = {"kind": "table", "id": "t", "name": "Table", "length": 0.9, "width": 0.6, "height": 0.75}
    data["gear"] += [table, *gear]
    plan = data["sets"][0]
    plan["props"] = [{"id": "t", "item": "t", "x": 2.0, "y": 1.9}, *props]
    plan["camera"] = {"body": "cam", "lens": "l50", "x": 2.35, "y": 1.9, "operator": "remote or timer"}
    key = plan["lights"][0]
    key |= {"x": 2.2, "y": 2.6, "height": 1.2}
    if lights == 2:
        plan["lights"].append({**key, "id": "fill", "role": "fill", "y": 1.2})
    return data
