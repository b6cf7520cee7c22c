"""Small studios for tests, as plain data that a test changes before it is validated."""

from typing import Any

from evrant.core.base.margins import Margin
from evrant.core.judge.ledger import ledger_of
from evrant.core.studio.studio import Studio
from evrant.demo import demo_studio


def demo() -> Studio:
    return demo_studio("adoption-corner")


def packed(thing: dict[str, Any]) -> dict[str, Any]:
    """A thing with the figures that stowing it takes, where they are not given."""
    length = thing.setdefault("packed_length", 0.2)
    usual = {"mass": 0.5, "packed_width": min(length, 0.14), "packed_height": min(length, 0.1)}
    return thing | {name: thing.get(name, value) for name, value in usual.items()}


def one_portrait() -> dict[str, Any]:
    """A 5 × 4 m room, a standing person half-length, one softbox key on paper: everything fits."""
    data = _one_portrait()
    data["gear"] = [packed(thing) for thing in data["gear"]]
    return data


def _one_portrait() -> dict[str, Any]:
    return {
        "format": "evrant-studio",
        "schema": 1,
        "name": "One portrait",
        "brief": {"country": "DE", "budget": "800", "tenure": "owned"},
        "room": {
            "footprint": {"kind": "rectangle", "length": 5.0, "width": 4.0},
            "height": 2.8,
            "walls": [{"id": w, "name": w} for w in ("south", "east", "north", "west")],
            "doors": [{"id": "door", "wall": "south", "offset": 4.0, "width": 0.8, "height": 2.0, "hinge": "end"}],
            "circuits": [{"id": "main", "name": "main", "breaker": 16, "other_load": 100}],
            "sockets": [
                {"id": "outlet", "name": "outlet", "wall": "north", "offset": 1.6, "height": 0.3, "circuit": "main"},
                {"id": "other", "name": "other outlet", "wall": "south", "offset": 2, "height": 0.3, "circuit": "main"},
            ],
            "boxes": [],
            "places": [{"id": "cupboard", "name": "cupboard", "length": 1.0, "width": 0.6, "height": 2.2, "load": 80}],
        },
        "shots": [
            {
                "id": "half",
                "name": "Half",
                "crop": "half length",
                "orientation": "portrait",
                "aperture": 8,
                "iso": 100,
                "shutter": 0.005,
                "subjects": [{"id": "p", "name": "Person", "posture": "standing", "height": 1.7}],
            }
        ],
        "gear": [
            {
                "kind": "camera",
                "id": "cam",
                "name": "camera",
                "status": "owned",
                "sensor_width": 0.036,
                "sensor_height": 0.024,
                "base_iso": 100,
                "fires": "hot shoe",
            },
            {"kind": "lens", "id": "l50", "name": "50 mm", "status": "owned", "focal": 0.05},
            {"kind": "lens", "id": "l85", "name": "85 mm", "status": "owned", "focal": 0.085},
            {
                "kind": "backdrop",
                "id": "paper",
                "name": "paper 1.35",
                "material": "paper",
                "width": 1.35,
                "length": 11,
                "roll_diameter": 0.07,
                "mass": 3.1,
                "packed_length": 1.37,
                "price": "39",
            },
            {
                "kind": "holder",
                "id": "stands",
                "name": "background stands",
                "system": "two stands and crossbar",
                "max_height": 2.6,
                "max_width": 3.0,
                "overhang": 0.1,
                "foot_radius": 0.45,
                "load": 6,
                "bar_diameter": 0.03,
                "bar_wall": 0.0015,
                "bar_material": "aluminium",
                "mass": 6,
                "packed_length": 1.2,
                "price": "90",
            },
            {
                "kind": "flash",
                "id": "head",
                "name": "head 200",
                "energy": 200,
                "guide_number": 52,
                "lowest_power": 0.015625,
                "recycle": 1.3,
                "modelling": 100,
                "supply": "mains",
                "fired": "radio",
                "foot": "16 mm spigot",
                "front": "three-claw bayonet",
                "cord": 5,
                "mass": 1.6,
                "diameter": 0.13,
                "length": 0.24,
                "packed_length": 0.26,
                "price": "215",
            },
            {
                "kind": "modifier",
                "id": "box",
                "name": "softbox",
                "form": "softbox",
                "width": 0.6,
                "height": 0.6,
                "depth": 0.3,
                "efficiency": 0.34,
                "loss": 2.0,
                "mount": "three-claw bayonet",
                "takes": 250,
                "mass": 0.7,
                "packed_length": 0.62,
                "price": "38",
            },
            {
                "kind": "stand",
                "id": "stand",
                "name": "stand 2.6",
                "min_height": 0.9,
                "max_height": 2.6,
                "foot_radius": 0.5,
                "load": 6,
                "top": "16 mm spigot",
                "mass": 2.3,
                "packed_length": 0.94,
                "price": "49",
            },
            {
                "kind": "part",
                "id": "bag",
                "name": "weight bag",
                "status": "owned",
                "quantity": 4,
                "use": "weight",
                "mass": 5,
                "packed_length": 0.3,
            },
            {
                "kind": "part",
                "id": "trigger",
                "name": "radio transmitter and receiver",
                "use": "trigger",
                "fits": "hot shoe",
                "groups": 3,
                "mass": 0.1,
                "packed_length": 0.12,
                "price": "48",
            },
        ],
        "sets": [
            {
                "id": "s",
                "name": "set",
                "shot": "half",
                "mark": {"x": 2.0, "y": 1.9},
                "camera": {"body": "cam", "lens": "l50", "x": 3.6, "y": 1.9},
                "background": {"backdrop": "paper", "holder": "stands", "x": 0.9, "y": 1.9, "height": 2.4, "bag": 2},
                "lights": [
                    {
                        "id": "key",
                        "role": "key",
                        "head": "head",
                        "modifier": "box",
                        "support": "stand",
                        "circuit": "main",
                        "bag": 10,
                        "x": 2.7,
                        "y": 2.9,
                        "height": 2.1,
                    }
                ],
            }
        ],
    }


def parse(data: dict[str, Any]) -> Studio:
    return Studio.model_validate(data)


def line(studio: Studio, code: str, about: str = "") -> Margin:
    """The one line with that code (and that path as its subject)."""
    found = [m for m in ledger_of(studio).lines if m.code == code and about in m.about[0]]
    assert len(found) == 1, (code, [(m.code, m.about) for m in ledger_of(studio).lines])
    return found[0]


def item(data: dict[str, Any], key: str) -> dict[str, Any]:
    return next(thing for thing in data["gear"] if thing["id"] == key)
