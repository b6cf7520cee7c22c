"""Named actions of the pages that become one edit: add from the catalogue, shape the room, start a set."""

import re
from collections.abc import Callable, Mapping
from typing import Any

from evrant.catalogue import load
from evrant.core.edits import Add, Edit, EditRefused, Reshape
from evrant.core.paths import NoSuchThing, find
from evrant.core.starting_set import starting_set
from evrant.core.studio.gear import KINDS
from evrant.core.studio.room import Ell, Outline, Rectangle
from evrant.core.studio.studio import Studio, by_id
from evrant.core.units import CannotRead, read_length
from evrant.web.pages import NEW_THINGS, PRESETS

Form = Mapping[str, str]


def action_edit(studio: Studio, form: Form) -> Edit:
    """The edit an action stands for. Raises EditRefused with words for the person."""
    action = ACTIONS.get(form["action"])
    if action is None:
        raise EditRefused("There is no such action.")
    return action(studio, form)


def slug(words: str) -> str:
    """An id from a name."""
    return re.sub(r"[^a-z0-9]+", "-", words.lower()).strip("-")[:40] or "thing"


def free_id(things: Any, wish: str) -> str:
    """The wished id, or the first numbered one that is free."""
    taken = {thing.id for thing in things}
    if wish not in taken:
        return wish
    return next(f"{wish[:40]}-{n}" for n in range(2, 10_000) if f"{wish[:40]}-{n}" not in taken)


def _add(studio: Studio, list_path: str, wish: str, item: dict[str, Any]) -> Add:
    try:
        things = find(studio, list_path)
    except NoSuchThing as error:
        raise EditRefused(str(error)) from error
    return Add(list=list_path, item={**item, "id": free_id(things, slug(wish))})


def _room_thing(studio: Studio, form: Form) -> Edit:
    name = form.get("list", "")
    if name not in NEW_THINGS:
        raise EditRefused("There is no such list in a room.")
    item = dict(NEW_THINGS[name][1])
    if name in ("doors", "windows", "sockets") and studio.room.walls:
        item["wall"] = studio.room.walls[0].id
    number = len(getattr(studio.room, name)) + 1
    if number > 1:
        item["name"] = f"{item['name']} {number}"
    return _add(studio, f"room/{name}", item["name"], item)


def _shape(studio: Studio, form: Form) -> Edit:
    """Another kind of footprint; measures that both kinds have are kept."""
    old = studio.room.footprint
    kept = {name: getattr(old, name) for name in ("length", "width") if getattr(old, name, None) is not None}
    match form.get("shape"):
        case "rectangle":
            return Reshape(footprint=Rectangle(**kept))
        case "ell":
            return Reshape(footprint=Ell(**kept))
        case "outline":
            length = kept["length"].value if "length" in kept else 4.0
            width = kept["width"].value if "width" in kept else 3.0
            corners = [{"x": x, "y": y} for x, y in ((0, 0), (length, 0), (length, width), (0, width))]
            return Reshape(footprint=Outline.model_validate({"corners": corners}))
    raise EditRefused("Choose a shape.", "shape")


def _corners(studio: Studio, form: Form) -> Edit:
    """Corners typed one a line, `x, y`, or with a semicolon where decimals use a comma."""
    corners = []
    for number, row in enumerate((form.get("corners", "")).strip().splitlines(), start=1):
        parts = row.split(";") if ";" in row else row.split(",")
        if len(parts) != 2:
            raise EditRefused(f"Corner {number}: give two lengths, separated by a comma or a semicolon.", "corners")
        try:
            x, y = (read_length(part, studio.brief.units) for part in parts)
        except CannotRead as error:
            raise EditRefused(f"Corner {number}: {error}", "corners") from error
        corners.append({"x": x, "y": y})
    return Reshape(footprint=Outline.model_validate({"corners": corners}))


def _shot(studio: Studio, form: Form) -> Edit:
    presets = dict(PRESETS)
    name = form.get("preset", "")
    if name not in presets:
        raise EditRefused("Choose what is in the picture.", "preset")
    item = {"name": name, "aperture": 8.0, "iso": 100, "shutter": 0.00625, **presets[name]}
    return _add(studio, "shots", name, item)


def _subject(studio: Studio, form: Form) -> Edit:
    return _add(
        studio,
        f"shots/{form.get('shot', '')}/subjects",
        "person",
        {"name": "Person", "kind": "person", "posture": "standing", "height": 1.70},
    )


def _set(studio: Studio, form: Form) -> Edit:
    shot = by_id(studio.shots, form.get("shot"))
    if shot is None:
        raise EditRefused("That shot is no longer there.")
    plan = starting_set(studio, shot, free_id(studio.sets, slug(f"{shot.id}-set")))
    return Add(list="sets", item=plan.model_dump(mode="json", exclude_none=True))


def _catalogue(studio: Studio, form: Form) -> Edit:
    item = load().find(form.get("item", ""))
    if item is None:
        raise EditRefused("Choose something from the catalogue.", "item")
    data = item.model_dump(mode="json", exclude_none=True)
    return _add(studio, "gear", item.id, data | {"status": form.get("status", "planned")})


def _own(studio: Studio, form: Form) -> Edit:
    kind = form.get("kind", "")
    if kind not in KINDS:
        raise EditRefused("Choose a kind.", "kind")
    name = form.get("name", "").strip() or f"My {kind}"
    return _add(
        studio, "gear", name, {"kind": kind, "name": name, "status": "owned", "currency": studio.brief.currency}
    )


def _light(studio: Studio, form: Form) -> Edit:
    plan = by_id(studio.sets, form.get("set"))
    if plan is None:
        raise EditRefused("That set is no longer there.")
    role = "fill" if any(light.role == "key" for light in plan.lights) else "key"
    place: dict[str, Any] = {"role": role, "height": 1.6}
    if plan.mark.x is not None and plan.mark.y is not None:
        place |= {"x": plan.mark.x, "y": round(plan.mark.y + 0.9, 3)}
    return _add(studio, f"sets/{plan.id}/lights", role, place)


def _prop(studio: Studio, form: Form) -> Edit:
    plan = by_id(studio.sets, form.get("set"))
    if plan is None:
        raise EditRefused("That set is no longer there.")
    found = next((item for item in studio.gear if item.kind in ("table", "board")), None)
    if found is None:
        raise EditRefused("There is no table, stool or board in the kit; add one under Kit.")
    place: dict[str, Any] = {"item": found.id}
    if plan.mark.x is not None:
        place |= {"x": plan.mark.x, "y": plan.mark.y}
    return _add(studio, f"sets/{plan.id}/props", found.kind, place)


ACTIONS: dict[str, Callable[[Studio, Form], Edit]] = {
    "room-thing": _room_thing,
    "shape": _shape,
    "corners": _corners,
    "shot": _shot,
    "subject": _subject,
    "set": _set,
    "catalogue": _catalogue,
    "own": _own,
    "light": _light,
    "prop": _prop,
}
