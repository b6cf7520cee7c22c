"""The room on its plan, drawn by hand, and in figures."""

from dataclasses import dataclass

from evrant.core.base.model import Model
from evrant.core.studio.room import Finish, Outline, Traverse
from evrant.core.studio.typical import TYPICAL
from evrant.drawing.roomplan import room_plan, tray_groups
from evrant.web.context import Page
from evrant.web.forms import Shown, fields
from evrant.web.parts import NEW_THINGS, TITLES, Card, bare_scene, card, sheet_size
from evrant.web.registry import Context, PageSpec, Row

GROUPS: dict[str, tuple[str, tuple[str, ...]]] = {
    "openings": ("Openings", ("doors", "windows")),
    "furniture": ("Furniture", ("boxes", "zones")),
    "above": ("Above", ("slopes", "rails")),
    "power": ("Power", ("sockets", "circuits", "appliances")),
    "stowing": ("Stowing", ("places",)),
    "way": ("Way in", ("passages", "diagonals")),
}
"""Panels under the plan: their words and the lists in them."""
ON_PLAN: dict[str, tuple[str, ...]] = {
    "doors": ("wall", "offset", "width"),
    "windows": ("wall", "offset", "width"),
    "sockets": ("wall", "offset"),
    "boxes": ("x", "y", "length", "width"),
    "zones": ("x", "y", "length", "width"),
    "rails": ("x", "y", "to_x", "to_y"),
    "slopes": ("wall", "low", "run"),
}
"""What puts a thing on the plan."""
RARE = frozenset(
    ("slats", "lets_in", "kelvin", "skyline", "cover", "lumens", "lrv", "colour", "front", "keep_free", "beyond")
    + ("thickness", "material", "end_load", "load", "starts", "ends", "clearance")
)
"""Fields few rooms need: folded away while they are empty."""


@dataclass(frozen=True)
class RoomCard(Card):
    """A thing of the room, its rare fields apart."""

    more: list[Shown]


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
    groups: list[Row]
    missing: list[Row]
    usual: list[tuple[str, str]]
    tray: dict[str, list[tuple[str, str, str]]]
    drawing: str


def room(page: Page) -> RoomForms:
    studio, here = page.studio, page.studio.room
    shape = here.footprint
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
        groups=[
            {"key": key, "word": word, "lists": [_list(page, name) for name in names]}
            for key, (word, names) in GROUPS.items()
        ],
        missing=[
            {"name": thing.name, "href": f"#card-room-{name}-{thing.id}"}
            for name, needed in ON_PLAN.items()
            for thing in getattr(here, name)
            if any(getattr(thing, one) is None for one in needed)
        ],
        usual=[] if shape else [(like, one.words) for like, one in TYPICAL.items()],
        tray=tray_groups(),
        drawing=drawing(page),
    )


def drawing(page: Page) -> str:
    """The plan alone, for the space its window has."""
    return room_plan(bare_scene(page), *sheet_size(page))


def _list(page: Page, name: str) -> Row:
    one, item = NEW_THINGS[name]
    cards = [_room_card(page, f"room/{name}/{thing.id}", thing) for thing in getattr(page.studio.room, name)]
    return {"name": name, "title": TITLES[name], "one": one, "item": item, "cards": cards}


def _room_card(page: Page, target: str, thing: Model) -> RoomCard:
    """A thing of the room; furniture with its finish."""
    finish = getattr(thing, "finish", None)
    own = fields(page.studio, f"{target}/finish", finish) if isinstance(finish, Finish) else []
    whole = card(page, target, thing, *own).fields
    common = [one for one in whole if one.spec.name not in RARE or one.value]
    return RoomCard(target, getattr(thing, "name", ""), common, [one for one in whole if one not in common])


SPEC = PageSpec("room", room, word="Room", order=1, drawing=drawing)
