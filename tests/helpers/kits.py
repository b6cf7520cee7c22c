"""A small market and a plain studio to search for kits in."""

from functools import cache
from typing import Any

from evrant.catalogue import load
from evrant.core.studio.gear import Item
from evrant.core.studio.presets import preset
from evrant.core.studio.studio import Studio
from helpers.studios import one_portrait, parse

FEW = (
    "paper-210-grey",
    "paper-135-grey",
    "bg-stands-26",
    "tension-rod-32",
    "flash-200",
    "flash-600",
    "softbox-60-90",
    "octa-90",
    "stand-180",
    "stand-260",
    "trigger-one",
    "sandbag-10",
    "lead-5",
)


def few() -> list[Item]:
    return [found for key in FEW if (found := load().find(key)) is not None]


def plain(*kinds: str) -> Studio:
    """The portrait's room and shot with only camera and lenses owned."""
    studio = parse(one_portrait())
    gear = tuple(one.changed(status="owned") for one in studio.gear if one.kind in ("camera", "lens", *kinds))
    return studio.changed(gear=gear, sets=())


OWNED = ("camera-full", "lens-50", "lens-85", "tripod-160")


@cache
def spare_room(lrv: float, name: str, rail: bool = False, pattern: str = "", owned: tuple[str, ...] = OWNED) -> Studio:
    """A room of 5.2 × 4.4 m under 2.7 m with walls that reflect so much [%], one shot, and what is owned."""
    found = preset(name)
    assert found is not None
    library = {one.id: one for one in load().all()}
    walls = [{"id": key, "name": key, "finish": {"lrv": lrv, "colour": "#808080"}} for key in ("a", "b", "c", "d")]
    room: dict[str, Any] = {
        "footprint": {"kind": "rectangle", "length": 5.2, "width": 4.4},
        "height": 2.7,
        "ceiling": {"lrv": lrv, "colour": "#808080"},
        "floor_finish": {"lrv": min(lrv, 30.0), "colour": "#808080"},
        "walls": walls,
    }
    if rail:
        room["rails"] = [
            {"id": "r", "name": "Rail", "x": 2.6, "y": 0.2, "to_x": 2.6, "to_y": 4.2, "height": 2.5, "load": 20}
        ]
    shot = {**found.shot, "id": "s", "name": name, "priority": "must"}
    return Studio.model_validate(
        {
            "format": "evrant-studio",
            "schema": 1,
            "name": "Spare room",
            "brief": {"country": "DE", "tenure": "owned", "schools": {"source": "flash"}},
            "room": room,
            "shots": [shot | ({"pattern": pattern} if pattern else {})],
            "gear": [library[key].model_dump(mode="json", exclude_none=True) | {"status": "owned"} for key in owned],
        }
    )
