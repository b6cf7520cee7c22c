"""Named actions of the pages that become one edit: add from the catalogue, shape the room, start a set."""

import math
import re
from collections.abc import Callable, Mapping
from datetime import UTC, date, datetime, timedelta
from typing import Any

from pydantic import ValidationError

from evrant.catalogue import load
from evrant.core.base.tables.finishes import PAINTS
from evrant.core.base.tables.money import converted
from evrant.core.base.units import CannotRead, read_length
from evrant.core.edits.language import EDIT, Add, Edit, EditRefused, Import, Reshape, SetFields, Several
from evrant.core.edits.paths import NoSuchThing, find
from evrant.core.place.starting_set import starting_set
from evrant.core.place.tray import TRAY, Wish, quarter_turned, swung_over, usual_thing
from evrant.core.space.scene import scene_of
from evrant.core.studio.gear import KINDS, Lens
from evrant.core.studio.presets import preset
from evrant.core.studio.room import Alcove, Box, Door, Ell, Outline, Rectangle, Room, Traverse
from evrant.core.studio.sets import SetPlan
from evrant.core.studio.studio import Studio, by_id
from evrant.core.studio.typical import TYPICAL, typical_room
from evrant.files.document import Refused, read_json
from evrant.web.carrying import CARRYING
from evrant.web.forms import read_money
from evrant.web.naming import added, free_id, slug
from evrant.web.parts import NEW_THINGS

Form = Mapping[str, str]


def action_edit(studio: Studio, form: Form) -> Edit:
    """The edit an action stands for. Raises EditRefused with words for the person."""
    action = ACTIONS.get(form["action"])
    if action is None:
        raise EditRefused("There is no such action.")
    return action(studio, form)


def _room_thing(studio: Studio, form: Form) -> Edit:
    name = form.get("list", "")
    if name not in NEW_THINGS:
        raise EditRefused("There is no such list in a room.")
    item = dict(NEW_THINGS[name][1])
    if name in ("doors", "windows", "sockets", "slopes") and studio.room.walls:
        item["wall"] = studio.room.walls[0].id
    number = len(getattr(studio.room, name)) + 1
    if number > 1 and "name" in item:
        item["name"] = f"{item['name']} {number}"
    if name == "diagonals" and number > 1:
        item |= {"start": "B", "end": "D"}
    return added(studio, f"room/{name}", item.get("name", "diagonal"), item)


def _usual(studio: Studio, form: Form) -> Edit:
    """A thing of the tray, at its usual size: where it was dropped, or in the first free place."""
    what = form.get("what", "")
    if what not in TRAY:
        raise EditRefused("The tray holds no such thing.")
    places = {name: _metres(form[name]) for name in ("along", "x", "y") if form.get(name)}
    name, item = usual_thing(studio.room, what, Wish(wall=form.get("wall", ""), **places))
    return added(studio, f"room/{name}", item["name"], item)


def _typical(studio: Studio, form: Form) -> Edit:
    """A usual room in place of one nobody has measured, every figure a guess."""
    like = form.get("like", "")
    if like not in TYPICAL:
        raise EditRefused("There is no such usual room.")
    if studio.room.footprint is not None:
        raise EditRefused("This room has a shape already; choose another shape, or undo.")
    return Import(document=studio.changed(room=Room.model_validate(typical_room(like))))


def _metres(text: str) -> float:
    try:
        found = float(text)
    except ValueError:
        found = math.nan
    if not math.isfinite(found):
        raise EditRefused("A place on the plan is a number of metres.")
    return found


def _turn_thing(studio: Studio, form: Form) -> Edit:
    """Furniture by a quarter about its middle; a door to its next way of opening."""
    target = form.get("target", "")
    try:
        thing = find(studio, target)
    except NoSuchThing as error:
        raise EditRefused(str(error)) from error
    match thing:
        case Box():
            return SetFields(target=target, fields=quarter_turned(studio.room, thing))
        case Door():
            return SetFields(target=target, fields=swung_over(thing))
    raise EditRefused("That has no other way round.")


def _finish(studio: Studio, form: Form) -> Edit:
    """A usual paint or material on all walls, or on one surface."""
    paint = PAINTS.get(form.get("paint", ""))
    if paint is None:
        raise EditRefused("Choose a paint or a material.", "paint")
    fields = {"lrv": {"value": paint[0], "origin": "guess"}, "colour": paint[1]}
    surface = form.get("surface", "")
    targets = [f"room/walls/{wall.id}/finish" for wall in studio.room.walls] if surface == "walls" else [surface]
    return _each(studio, targets, fields, f"{form['paint'].capitalize()}")


def _made(studio: Studio, form: Form) -> Edit:
    """What all walls are made of."""
    if not form.get("of"):
        raise EditRefused("Say what the walls are made of.", "of")
    targets = [f"room/walls/{wall.id}" for wall in studio.room.walls]
    return _each(studio, targets, {"construction": form["of"]}, "What the walls are made of")


def _each(studio: Studio, targets: list[str], fields: dict[str, Any], label: str) -> Edit:
    try:
        for target in targets:
            find(studio, target)
    except NoSuchThing as error:
        raise EditRefused(str(error)) from error
    if not targets:
        raise EditRefused("Give the room its shape first; then it has walls.")
    return Several(edits=tuple(SetFields(target=target, fields=fields) for target in targets), label=label)


def _shape(studio: Studio, form: Form) -> Edit:
    """Another kind of footprint; measures that both kinds have are kept."""
    old = studio.room.footprint
    kept = {name: getattr(old, name) for name in ("length", "width") if getattr(old, name, None) is not None}
    match form.get("shape"):
        case "alcove":
            return Reshape(footprint=Alcove(**kept))
        case "walls":
            legs = [{"id": f"w{i + 1}", "length": size} for i, size in enumerate(_sides(old))]
            return Reshape(footprint=Traverse.model_validate({"legs": legs}))
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


def _sides(shape: Any) -> list[float | None]:
    """Wall lengths to begin a round with: those of a rectangle that is known, else four to be measured."""
    length, width = (getattr(getattr(shape, name, None), "value", None) for name in ("length", "width"))
    return [length, width, length, width]


def _leg(studio: Studio, form: Form) -> Edit:
    """One more wall at the end of the round."""
    shape = studio.room.footprint
    if not isinstance(shape, Traverse):
        raise EditRefused("Choose the shape “Wall by wall” first.")
    return added(studio, "room/footprint/legs", "w", {})


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
    chosen = preset(form.get("preset", ""))
    if chosen is None:
        raise EditRefused("Choose what is in the picture.", "preset")
    return added(studio, "shots", chosen.name, {"name": chosen.name, **suited(chosen.shot, studio)})


def suited(shot: Mapping[str, Any], studio: Studio) -> dict[str, Any]:
    """A usual shot with an aperture that a lens at hand has: a telephone's only one, or the nearest."""
    found, wish = dict(shot), shot.get("aperture")
    ranges = [
        (lens.widest.value, lens.narrowest.value if lens.narrowest else math.inf)
        for lens in studio.gear
        if isinstance(lens, Lens) and lens.at_hand and lens.widest
    ]
    if isinstance(wish, (int, float)) and ranges:
        found["aperture"] = min((min(max(wish, low), high) for low, high in ranges), key=lambda f: abs(f - wish))
    return found


def _copied(things: Any, thing: Any) -> dict[str, Any]:
    """A thing as data under a name of its own, without its id."""
    names = {one.name for one in things}
    base = re.sub(r" copy( \d+)?$", "", thing.name)[:60]
    name = next(n for i in range(1, 200) if (n := f"{base} copy{f' {i}' if i > 1 else ''}") not in names)
    data: dict[str, Any] = thing.model_dump(mode="json", exclude_none=True, exclude={"id"})
    return data | {"name": name}


def _copy_shot(studio: Studio, form: Form) -> Edit:
    shot = by_id(studio.shots, form.get("shot"))
    if shot is None:
        raise EditRefused("That shot is no longer there.")
    copied = _copied(studio.shots, shot)
    return added(studio, "shots", copied["name"], copied)


def _copy_set(studio: Studio, form: Form) -> Edit:
    plan = _the_set(studio, form)
    copied = _copied(studio.sets, plan)
    return added(studio, "sets", copied["name"], copied)


def _subject(studio: Studio, form: Form) -> Edit:
    return added(
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
    if item.price is not None:
        price = converted(item.price, item.currency, studio.brief.currency)
        data |= {"price": str(price), "currency": studio.brief.currency}
    return added(studio, "gear", item.id, data | {"status": form.get("status", "planned")})


def _own(studio: Studio, form: Form) -> Edit:
    kind = form.get("kind", "")
    if kind not in KINDS:
        raise EditRefused("Choose a kind.", "kind")
    name = form.get("name", "").strip() or f"My {kind}"
    return added(
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
    return added(studio, f"sets/{plan.id}/lights", role, place)


def _prop(studio: Studio, form: Form) -> Edit:
    plan = by_id(studio.sets, form.get("set"))
    if plan is None:
        raise EditRefused("That set is no longer there.")
    found = next((item for item in studio.gear if item.kind in ("table", "board", "tent")), None)
    if found is None:
        raise EditRefused("There is no table, stool, board or tent in the kit; add one under Kit.")
    place: dict[str, Any] = {"item": found.id}
    if plan.mark.x is not None:
        place |= {"x": plan.mark.x, "y": plan.mark.y}
    scene = scene_of(studio, plan)
    if found.kind == "tent" and scene is not None and scene.axis is not None:
        # The hole to the lens.
        place["turn"] = round((math.degrees(math.atan2(scene.axis[1], scene.axis[0])) + 270) % 360 - 180, 1)
    return added(studio, f"sets/{plan.id}/props", found.kind, place)


def _the_set(studio: Studio, form: Form) -> SetPlan:
    plan = by_id(studio.sets, form.get("set"))
    if plan is None:
        raise EditRefused("That set is no longer there.")
    return plan


def _pattern(studio: Studio, form: Form) -> Edit:
    """Lights of a pattern in place of the set's own."""
    plan = _the_set(studio, form)
    return EDIT.validate_python(
        {
            "verb": "light",
            "target": f"sets/{plan.id}",
            "pattern": form.get("pattern"),
            "side": form.get("side") or "left",
        }
    )


def _person(studio: Studio, form: Form) -> Edit:
    plan = _the_set(studio, form)
    place = {} if plan.camera.x is None else {"x": plan.camera.x, "y": plan.camera.y}
    return added(studio, f"sets/{plan.id}/people", "assistant", {"name": "Assistant", **place})


def _aside(studio: Studio, form: Form) -> Edit:
    """A piece of furniture moved for this set: out of the room until a place is typed."""
    plan = _the_set(studio, form)
    moved = {one.box for one in plan.aside}
    box = next((b for b in studio.room.boxes if b.moves != "stays" and b.id not in moved), None)
    if box is None:
        raise EditRefused("No furniture may be moved; say under Room which may.")
    return added(studio, f"sets/{plan.id}/aside", box.id, {"box": box.id})


def _arranged(studio: Studio, form: Form) -> Edit:
    """A set the search found, as one of the studio's own."""
    try:
        plan = SetPlan.model_validate(read_json(form.get("plan", "")))
    except (Refused, ValidationError) as error:
        raise EditRefused("That set cannot be read any more; arrange again.") from error
    if by_id(studio.shots, plan.shot) is None:
        raise EditRefused("That shot is no longer there.")
    return added(studio, "sets", f"{plan.shot}-set", plan.model_dump(mode="json", exclude_none=True, exclude={"id"}))


def _keep_room(studio: Studio, form: Form) -> Edit:
    """The present room as one of the candidates."""
    room = studio.room.model_dump(mode="json", exclude_none=True)
    return added(studio, "rooms", studio.room_name, {"name": studio.room_name, "room": room})


def _new_room(studio: Studio, form: Form) -> Edit:
    """An empty room among the candidates, to be measured."""
    return added(studio, "rooms", "room", {"name": f"Room {len(studio.rooms) + 2}"})


def _bought(studio: Studio, form: Form) -> Edit:
    """A planned thing as bought: what was paid and where; the thing is owned from then on. Raises EditRefused."""
    item = by_id(studio.gear, form.get("item"))
    if item is None:
        raise EditRefused("That thing is no longer in the kit.")
    try:
        paid = read_money(form.get("paid", ""))
    except CannotRead as error:
        raise EditRefused(str(error), "paid") from error
    key = free_id(studio.purchases, slug(f"bought-{item.id}"))
    shop = by_id(studio.shops, item.shop)
    purchase: dict[str, Any] = {
        "id": key,
        "item": item.id,
        "count": item.quantity,
        "paid": str(paid),
        "bought": form.get("bought") or datetime.now(UTC).date().isoformat(),
    }
    if shop is not None:
        purchase["shop"] = shop.id
        if shop.return_days is not None:
            begun = date.fromisoformat(purchase["bought"]) if _is_day(purchase["bought"]) else datetime.now(UTC).date()
            purchase["return_by"] = (begun + timedelta(days=shop.return_days)).isoformat()
    edits = (
        SetFields(target=f"gear/{item.id}", fields={"status": "owned"}),
        Add(list="purchases", item=purchase),
    )
    return Several(edits=edits, label=f"Bought: {item.name}"[:120])


def _is_day(text: str) -> bool:
    try:
        date.fromisoformat(text)
    except ValueError:
        return False
    return True


def _shop(studio: Studio, form: Form) -> Edit:
    return added(studio, "shops", "shop", {"name": f"Shop {len(studio.shops) + 1}"})


def _upkeep(studio: Studio, form: Form) -> Edit:
    return added(studio, "upkeep", "upkeep", {"name": "Editing software"})


ACTIONS: dict[str, Callable[[Studio, Form], Edit]] = CARRYING | {
    "room-thing": _room_thing,
    "usual": _usual,
    "typical": _typical,
    "turn": _turn_thing,
    "finish": _finish,
    "made": _made,
    "shape": _shape,
    "corners": _corners,
    "leg": _leg,
    "pattern": _pattern,
    "person": _person,
    "aside": _aside,
    "arranged": _arranged,
    "keep-room": _keep_room,
    "new-room": _new_room,
    "shot": _shot,
    "subject": _subject,
    "copy-shot": _copy_shot,
    "copy-set": _copy_set,
    "set": _set,
    "catalogue": _catalogue,
    "own": _own,
    "light": _light,
    "prop": _prop,
    "bought": _bought,
    "shop": _shop,
    "upkeep": _upkeep,
}
