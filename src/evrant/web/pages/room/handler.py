"""The room as measured, and what is in it."""

from typing import Any

from evrant.core.base.model import Model
from evrant.core.studio.room import Finish, Outline, Traverse
from evrant.drawing.sheet import room_sheet
from evrant.web.context import Page
from evrant.web.forms import fields
from evrant.web.parts import NEW_THINGS, TITLES, bare_scene, card
from evrant.web.registry import PageSpec


def room(page: Page) -> dict[str, Any]:
    studio, here = page.studio, page.studio.room
    shape = here.footprint
    lists = []
    for name, (one, item) in NEW_THINGS.items():
        cards = [_room_card(page, f"room/{name}/{thing.id}", thing) for thing in getattr(here, name)]
        lists.append({"name": name, "title": TITLES[name], "one": one, "item": item, "cards": cards})
    walls = []
    for wall in here.walls:
        target = f"room/walls/{wall.id}"
        walls.append(
            {
                "target": target,
                "id": "card-" + target.replace("/", "-"),
                "name": wall.name,
                "fields": fields(studio, target, wall) + fields(studio, f"{target}/finish", wall.finish),
            }
        )
    legs = []
    if isinstance(shape, Traverse):
        legs = [card(page, f"room/footprint/legs/{leg.id}", leg) for leg in shape.legs]
    corners = []
    if isinstance(shape, Outline):
        corners = [(c.x.value, c.y.value) for c in shape.corners]
    return {
        "shape": shape.kind if shape else "",
        "corners": corners,
        "legs": legs,
        "shape_fields": fields(studio, "room/footprint", shape) if shape else [],
        "room_fields": fields(studio, "room", here, only=("height", "floor", "airing"))
        + fields(studio, "studio", studio, only=("room_name",)),
        "ceiling": fields(studio, "room/ceiling", here.ceiling)
        + fields(studio, "room", here, only=("ceiling_made", "ceiling_takes")),
        "floor": fields(studio, "room/floor_finish", here.floor_finish),
        "walls": walls,
        "lists": lists,
        "drawing": room_sheet(bare_scene(page), 450.0, 430.0),
    }


def _room_card(page: Page, target: str, thing: Model) -> dict[str, Any]:
    """A thing of the room; furniture with its finish."""
    made = card(page, target, thing)
    finish = getattr(thing, "finish", None)
    if isinstance(finish, Finish):
        made["fields"] = made["fields"] + fields(page.studio, f"{target}/finish", finish)
    return made


SPEC = PageSpec("room", room, word="Room", order=1)
