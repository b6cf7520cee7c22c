"""One function a page: from a studio to the values its template needs."""

import math
from collections.abc import Callable
from itertools import groupby
from typing import Any

from evrant.catalogue import load
from evrant.core.base.model import Model
from evrant.core.base.tables.holders import HOLDERS
from evrant.core.buying.costs import planned
from evrant.core.judge.rules.budget import total, used
from evrant.core.light.emission import Missing
from evrant.core.light.lit import lit
from evrant.core.place.patterns import PATTERNS
from evrant.core.space.scene import Scene, scene_of
from evrant.core.studio.gear import KINDS, Holder
from evrant.core.studio.presets import PRESETS
from evrant.core.studio.room import Finish, Outline, Traverse
from evrant.core.studio.sets import SetPlan
from evrant.core.studio.shots import Shot
from evrant.core.studio.studio import by_id
from evrant.drawing.light import LightSheet
from evrant.drawing.sheet import HEIGHT, WIDTH, room_sheet, sheet
from evrant.web.context import Page
from evrant.web.forms import Shown, fields
from evrant.web.timing import span

MOVING_ROWS, RESTING_ROWS = 56, 96
"""Rows of the shaded bust while something moves, and at rest."""
NEW_THINGS: dict[str, tuple[str, dict[str, Any]]] = {
    "doors": ("door", {"name": "Door"}),
    "windows": ("window", {"name": "Window"}),
    "circuits": ("circuit", {"name": "Circuit"}),
    "sockets": ("socket", {"name": "Socket"}),
    "appliances": ("thing that draws power", {"name": "Heater"}),
    "boxes": ("piece of furniture or fixture", {"name": "Furniture"}),
    "places": ("storage place", {"name": "Cupboard"}),
    "passages": ("turn or door on the way in", {"name": "Stair turn"}),
    "slopes": ("slope", {"name": "Slope"}),
    "zones": ("zone to keep free", {"name": "Desk and screen"}),
    "diagonals": ("diagonal", {}),
}
TITLES = {
    "doors": "Doors",
    "windows": "Windows",
    "circuits": "Circuits",
    "sockets": "Sockets",
    "appliances": "What else runs on the circuits",
    "boxes": "Furniture, radiators, beams, lamps",
    "places": "Where things are stowed",
    "passages": "Turns and doors that long things must get through",
    "slopes": "Sloped ceilings",
    "zones": "Floor that must stay free",
    "diagonals": "Diagonals, to check the corners",
}


def card(page: Page, target: str, model: Model, **choice: Any) -> dict[str, Any]:
    """A thing with its fields, for the card template."""
    return {
        "target": target,
        "id": "card-" + target.replace("/", "-"),
        "name": getattr(model, "name", ""),
        "fields": fields(page.studio, target, model, **choice),
    }


def brief(page: Page) -> dict[str, Any]:
    studio = page.studio
    return {
        "name_fields": fields(studio, "studio", studio, only=("name",)),
        "fields": fields(studio, "brief", studio.brief),
        "schools": fields(studio, "brief/schools", studio.brief.schools),
    }


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


def bare_scene(page: Page) -> Scene:
    """The room alone, as a set with nothing in it."""
    return Scene(
        page.studio.room, page.studio.brief, Shot(id="none"), SetPlan(id="none", name="the room", shot="none"), {}
    )


def shots(page: Page) -> dict[str, Any]:
    studio = page.studio
    cards = []
    for shot in studio.shots:
        target = f"shots/{shot.id}"
        cards.append(
            card(page, target, shot)
            | {
                "shot": shot,
                "earlier": _earlier([s.id for s in studio.shots], shot.id),
                "sets": [plan for plan in studio.sets if plan.shot == shot.id],
                "subjects": [card(page, f"{target}/subjects/{s.id}", s) for s in shot.subjects],
            }
        )
    return {
        "cards": cards,
        "presets": [(key, [p.name for p in found]) for key, found in groupby(PRESETS, lambda p: p.group)],
    }


def _earlier(order: list[str], key: str) -> list[str]:
    """The order with one id moved a place forward."""
    at = order.index(key)
    moved = [one for one in order if one != key]
    return [*moved[: max(at - 1, 0)], key, *moved[max(at - 1, 0) :]]


def kit(page: Page) -> dict[str, Any]:
    studio = page.studio
    needed = used(studio)
    groups = []
    for kind in KINDS:
        items = [item for item in studio.gear if item.kind == kind]
        if items:
            groups.append(
                {
                    "kind": kind,
                    "rows": [
                        card(page, f"gear/{item.id}", item) | {"item": item, "used": item.id in needed}
                        for item in items
                    ],
                }
            )
    catalogue = [(kind, items) for kind, items in load().by_kind.items() if items]
    return {
        "groups": groups,
        "catalogue": catalogue,
        "kinds": list(KINDS),
        "total": page.say.money(float(total(studio))),
        "buying": len(planned(studio)),
        "budget": page.say.money(float(studio.brief.budget)) if studio.brief.budget is not None else None,
    }


def set_page(page: Page) -> dict[str, Any]:
    studio = page.studio
    plan = by_id(studio.sets, page.set_id)
    assert plan is not None
    panels: list[dict[str, Any]] = []

    def panel(key: str, word: str, target: str, model: Model, removable: bool = False) -> None:
        panels.append(
            {
                "key": key,
                "word": word,
                "target": target,
                "removable": removable,
                "fields": fields(studio, target, model, leave=RARE),
                "more": fields(studio, target, model, only=RARE),
                "note": "",
            }
        )

    path = f"sets/{plan.id}"
    panel("mark", "Mark", f"{path}/mark", plan.mark)
    panel("camera", "Camera", f"{path}/camera", plan.camera)
    panel("background", "Background", f"{path}/background", plan.background)
    panels[-1]["note"] = _exchange(page, plan)
    for light in plan.lights:
        panel(f"lights-{light.id}", light.role.capitalize(), f"{path}/lights/{light.id}", light, True)
    for prop in plan.props:
        item = by_id(studio.gear, prop.item)
        panel(f"props-{prop.id}", item.name if item else "Thing", f"{path}/props/{prop.id}", prop, True)
    for person in plan.people:
        panel(f"people-{person.id}", person.name, f"{path}/people/{person.id}", person, True)
    for aside in plan.aside:
        box = by_id(studio.room.boxes, aside.box)
        panel(f"aside-{aside.id}", f"{box.name if box else 'Furniture'} aside", f"{path}/aside/{aside.id}", aside, True)
    panel("set", "Set", path, plan, True)
    panels.append(
        {
            "key": "shot",
            "word": "Shot",
            "target": f"shots/{plan.shot}",
            "removable": False,
            "fields": _shot_fields(page, plan),
            "more": [],
            "note": "",
        }
    )
    movable = any(box.moves != "stays" for box in studio.room.boxes)
    shot = by_id(studio.shots, plan.shot)
    return {
        "plan": plan,
        "shot": shot,
        "drawing": drawing_of(page),
        "panels": panels,
        "patterns": [(name, recipe.says) for name, recipe in PATTERNS.items()],
        "movable": movable,
    }


RARE = (
    "boom",
    "boom_length",
    "aim_x",
    "aim_y",
    "aim_height",
    "arm",
    "arm_length",
    "lower_by",
    "wall",
    "lands",
    "radius",
    "tilt",
    "joint",
    "ring",
    "leg",
    "bag",
    "bag_at",
    "counterweight",
    "fixing_load",
    "socket",
    "lead",
    "lead_on",
    "unrolled",
    "covered",
    "group",
)
"""Fields of a set that few sets need: folded away until one of them is filled."""


def _exchange(page: Page, plan: SetPlan) -> str:
    """How another background takes this one's place, for the holder chosen."""
    holder = by_id(page.studio.gear, plan.background.holder)
    kind = HOLDERS.get(holder.system or "") if isinstance(holder, Holder) else None
    if kind is None:
        return ""
    standing = "the set stays up" if kind.standing else "the set must come down for it"
    return f"Another background: {kind.exchange}; about {kind.minutes:.0f} min, {standing}."


def drawing_of(page: Page, turn: float | None = None) -> str:
    """The sheet of the page's set, for the size its window has."""
    plan = by_id(page.studio.sets, page.set_id)
    scene = scene_of(page.studio, plan) if plan else None
    if scene is None:
        return ""
    width, height = sheet_size(page)
    lines = page.ledger.of_set(scene.plan.id)
    with span(page.request, "drawing"):
        if page.name != "light":
            return sheet(scene, lines, width, height, turn)
        state = lit(scene)
        over = (
            None if isinstance(state, Missing) else LightSheet(state, MOVING_ROWS if turn is not None else RESTING_ROWS)
        )
        return sheet(scene, [m for m in lines if m.code.startswith("light.")], width, height, turn, over)


def _shot_fields(page: Page, plan: SetPlan) -> list[Shown]:
    shot = by_id(page.studio.shots, plan.shot)
    names = (
        "orientation",
        "angle",
        "aperture",
        "iso",
        "shutter",
        "background_gap",
        "frame_height",
        "crop",
        "blur",
        "pattern",
    )
    return fields(page.studio, f"shots/{plan.shot}", shot, only=names) if shot else []


def sheet_size(page: Page) -> tuple[float, float]:
    """Size the browser has for the sheet, from its cookie; the usual size until it has told."""
    raw = page.request.cookies.get("evrant_sheet", "")
    try:
        width, height = (float(part) for part in raw.split("x"))
    except ValueError:
        return WIDTH, HEIGHT
    if not (math.isfinite(width) and math.isfinite(height)):
        return WIDTH, HEIGHT
    return min(max(width, 320.0), 3000.0), min(max(height, 320.0), 2400.0)


PAGES: dict[str, Callable[[Page], dict[str, Any]]] = {
    "brief": brief,
    "room": room,
    "shots": shots,
    "kit": kit,
    "set": set_page,
}
