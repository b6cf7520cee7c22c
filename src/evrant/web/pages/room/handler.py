"""The room as measured, and what is in it."""

from dataclasses import dataclass

from evrant.core.base.model import Model
from evrant.core.studio.room import Finish, Outline, Traverse
from evrant.drawing.sheet import room_sheet
from evrant.web.context import Page
from evrant.web.forms import Shown, fields
from evrant.web.parts import NEW_THINGS, TITLES, Card, bare_scene, card
from evrant.web.registry import Context, PageSpec, Row


@dataclass(frozen=True)
class RoomForms(Context):
    """What its template shows."""

    shape: str
    corners: list[tuple[float, float]]
    legs: list[Card]
    shape_fields: list[Shown]
    room_fields: list[Shown]
    ceiling: list[Shown]
    floor: list[Shown]
    walls: list[Card]
    lists: list[Row]
    drawing: str


def room(page: Page) -> RoomForms:
    studio, here = page.studio, page.studio.room
    shape = here.footprint
    lists = []
    for name, (one, item) in NEW_THINGS.items():
        cards = [_room_card(page, f"room/{name}/{thing.id}", thing) for thing in getattr(here, name)]
        lists.append({"name": name, "title": TITLES[name], "one": one, "item": item, "cards": cards})
    walls = [
        card(page, path, wall, *fields(studio, f"{path}/finish", wall.finish))
        for wall in here.walls
        for path in (f"room/walls/{wall.id}",)
    ]
    legs = []
    if isinstance(shape, Traverse):
        legs = [card(page, f"room/footprint/legs/{leg.id}", leg) for leg in shape.legs]
    corners = []
    if isinstance(shape, Outline):
        corners = [(c.x.value, c.y.value) for c in shape.corners]
    return RoomForms(
        shape=shape.kind if shape else "",
        corners=corners,
        legs=legs,
        shape_fields=fields(studio, "room/footprint", shape) if shape else [],
        room_fields=fields(studio, "room", here, only=("height", "floor", "airing"))
        + fields(studio, "studio", studio, only=("room_name",)),
        ceiling=fields(studio, "room/ceiling", here.ceiling)
        + fields(studio, "room", here, only=("ceiling_made", "ceiling_takes")),
        floor=fields(studio, "room/floor_finish", here.floor_finish),
        walls=walls,
        lists=lists,
        drawing=room_sheet(bare_scene(page), 450.0, 430.0),
    )


def _room_card(page: Page, target: str, thing: Model) -> Card:
    """A thing of the room; furniture with its finish."""
    finish = getattr(thing, "finish", None)
    own = fields(page.studio, f"{target}/finish", finish) if isinstance(finish, Finish) else []
    return card(page, target, thing, *own)


SPEC = PageSpec("room", room, word="Room", order=1)
