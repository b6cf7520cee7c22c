"""Every possible change to a studio, as data, and how it is applied.

A pure language: it knows the studio and paths. `Light` and `Turn` are wishes that need geometry and statics;
`place.moves` turns them into the fields they write before they are applied here.
"""

from collections.abc import Iterable
from typing import Annotated, Any, Literal, get_args

from pydantic import Field, JsonValue, TypeAdapter

from evrant.core.base.annotations import flattened
from evrant.core.base.model import Model, Name, Slug
from evrant.core.base.quantity import Figure
from evrant.core.edits import paths
from evrant.core.edits.paths import NoSuchThing
from evrant.core.studio.room import Footprint, Outline, Room, Traverse
from evrant.core.studio.sets import Coordinate, Degrees, SetPlan
from evrant.core.studio.shots import Pattern
from evrant.core.studio.studio import Candidate, Studio

Path = Annotated[str, Field(pattern=r"^[a-z0-9_-]+(/[a-z0-9_-]+){0,7}$")]


class EditRefused(Exception):
    """An edit that cannot be applied; `field` is where the message belongs."""

    def __init__(self, message: str, field: str = "") -> None:
        super().__init__(message)
        self.message = message
        self.field = field


class Add(Model):
    """Put a new thing, with its id, into a list."""

    verb: Literal["add"] = "add"
    list: Path
    item: dict[str, JsonValue]
    index: Annotated[int, Field(ge=0)] | None = None


class Remove(Model):
    """Take a thing out of its list. The sets of a removed shot go with it."""

    verb: Literal["remove"] = "remove"
    target: Path


class Reorder(Model):
    """Give a list a new order of the same ids."""

    verb: Literal["reorder"] = "reorder"
    list: Path
    order: tuple[Name, ...]


class SetFields(Model):
    """Write some fields of one thing."""

    verb: Literal["set"] = "set"
    target: Path
    fields: dict[Slug | Annotated[str, Field(pattern=r"^[a-z_]{1,40}$")], JsonValue] = Field(min_length=1)


class Reshape(Model):
    """Give the room another footprint; walls are named until each edge has one."""

    verb: Literal["reshape"] = "reshape"
    footprint: Footprint


class Shift(Model):
    """Move a whole set: mark, camera, background, lights and props keep their places to each other."""

    verb: Literal["shift"] = "shift"
    target: Path
    dx: Coordinate
    dy: Coordinate


class Light(Model):
    """Place the lights and cards of a pattern relative to the face."""

    verb: Literal["light"] = "light"
    target: Path
    pattern: Pattern
    side: Literal["left", "right"] = "left"
    distance: Annotated[float, Field(ge=0.2, le=6)] | None = None


class Turn(Model):
    """Turn the face; the lights that belong to it go round with it."""

    verb: Literal["turn"] = "turn"
    target: Path
    facing: Degrees


class TakeRoom(Model):
    """Put a candidate room in the present one's place, and the present one among the candidates."""

    verb: Literal["take-room"] = "take-room"
    target: Path


class Several(Model):
    """Edits that belong together: applied in turn, undone as one."""

    verb: Literal["several"] = "several"
    edits: "tuple[Single, ...]" = Field(min_length=1, max_length=1200)
    label: Annotated[str, Field(max_length=120)] = ""


class Import(Model):
    """Replace the whole document."""

    verb: Literal["import"] = "import"
    document: Studio


Single = Annotated[
    Add | Remove | Reorder | SetFields | Reshape | Shift | Light | Turn | TakeRoom, Field(discriminator="verb")
]
Several.model_rebuild()
Edit = Annotated[
    Add | Remove | Reorder | SetFields | Reshape | Shift | Light | Turn | TakeRoom | Several | Import,
    Field(discriminator="verb"),
]
EDIT: TypeAdapter[Edit] = TypeAdapter(Edit)


def together(edits: Iterable[Edit], label: str) -> Several:
    """Edits as one, what is itself several laid open. Raises ValidationError where there are none or too many."""
    single = [one for edit in edits for one in (edit.edits if isinstance(edit, Several) else (edit,))]
    return Several.model_validate({"edits": single, "label": label[:120]})


def apply(studio: Studio, edit: Edit) -> Studio:
    """The studio after the edit. Raises EditRefused (or ValidationError for a bad field)."""
    try:
        return checked(studio, _checked_round(_apply(studio, edit), edit))
    except NoSuchThing as error:
        raise EditRefused(str(error)) from error


def checked(before: Studio, after: Studio) -> Studio:
    """`after`, of whose parts those that are not in `before` were read again as a file would be.

    What is stored must be readable: a part that is not raises ValidationError. Parts keep their identity.
    """
    known = {id(thing) for name in Studio.model_fields for thing in _parts(getattr(before, name))}
    for name in Studio.model_fields:
        things = getattr(after, name)
        for thing in _parts(things):
            if id(thing) not in known and isinstance(thing, Model):
                type(thing).model_validate(thing.model_dump(by_alias=True, exclude_none=True))
        limit = _limit(Studio, name)
        if limit is not None and len(things) > limit:
            raise EditRefused(f"No more than {limit} fit into this list.")
    after.check_ids()
    return after


def _parts(value: Any) -> tuple[Any, ...]:
    return value if isinstance(value, tuple) else (value,)


def _limit(cls: type[Model], field: str) -> int | None:
    """The most things a list may hold."""
    return next((m.max_length for m in cls.model_fields[field].metadata if hasattr(m, "max_length")), None)


def _apply(studio: Studio, edit: Edit) -> Studio:
    match edit:
        case Add():
            return _add(studio, edit)
        case Remove():
            return _remove(studio, edit.target)
        case Reorder():
            return paths.replace(studio, edit.list, lambda things: _reordered(things, edit.order))
        case SetFields():
            return paths.replace(studio, edit.target, lambda thing: _with_fields(thing, edit.fields))
        case Reshape():
            return studio.changed(room=_reshaped(studio.room, edit.footprint))
        case Shift():
            return paths.replace(studio, edit.target, lambda plan: _shifted(plan, edit.dx, edit.dy))
        case Light() | Turn():
            raise EditRefused("This change is spelt out before it is applied.")
        case TakeRoom():
            return _taken(studio, edit.target)
        case Several():
            for one in edit.edits:
                studio = _checked_round(_apply(studio, one), one)
            return studio
        case Import():
            return edit.document


def _taken(studio: Studio, target: str) -> Studio:
    wanted = paths.find(studio, target)
    if not isinstance(wanted, Candidate):
        raise EditRefused("That is not a candidate room.")
    now = wanted.changed(name=studio.room_name, room=studio.room)
    rooms = tuple(now if room.id == wanted.id else room for room in studio.rooms)
    return studio.changed(room=wanted.room, room_name=wanted.name, rooms=rooms)


def _checked_round(studio: Studio, edit: Edit) -> Studio:
    """A round of walls whose walls were changed one by one: validated whole, with a wall for each."""
    touched = edit.list if isinstance(edit, (Add, Reorder)) else getattr(edit, "target", "")
    shape = studio.room.footprint
    if not touched.startswith("room/footprint/legs") or not isinstance(shape, Traverse):
        return studio
    whole = Traverse.model_validate(shape.model_dump())
    return studio.changed(room=_reshaped(studio.room, whole))


def _owner(path: str) -> tuple[str, str]:
    parts = path.split("/")
    return "/".join(parts[:-1]) or "studio", parts[-1]


def _element(model: Model, field: str) -> TypeAdapter[Any]:
    annotation = type(model).model_fields[field].annotation
    arguments = get_args(annotation)
    if len(arguments) != 2 or arguments[1] is not Ellipsis:
        raise EditRefused(f"“{field}” is not a list.")
    return TypeAdapter(arguments[0])


def _add(studio: Studio, edit: Add) -> Studio:
    owner_path, field = _owner(edit.list)
    owner = paths.find(studio, owner_path)
    things = paths.find(studio, edit.list)
    if not isinstance(owner, Model) or not _is_list(things):
        raise EditRefused(f"“{edit.list}” is not a list.")
    thing = _element(owner, field).validate_python(edit.item)
    if not hasattr(thing, "id"):
        raise EditRefused(f"“{edit.list}” is written whole, not thing by thing.")
    index = len(things) if edit.index is None else min(edit.index, len(things))
    grown = (*things[:index], thing, *things[index:])
    if len({one.id for one in grown}) < len(grown):
        raise EditRefused(f"The id “{thing.id}” is taken.", "id")
    limit = _limit(type(owner), field)
    if limit is not None and len(grown) > limit:
        raise EditRefused(f"No more than {limit} fit into this list.")
    return paths.replace(studio, owner_path, lambda model: model.changed(**{field: grown}))


def _remove(studio: Studio, target: str) -> Studio:
    list_path, key = _owner(target)
    things = paths.find(studio, list_path)
    paths.find(studio, target)
    if not _is_list(things):
        raise EditRefused("This cannot be removed; clear its fields instead.")
    owner_path, field = _owner(list_path)
    rest = tuple(thing for thing in things if thing.id != key)
    studio = paths.replace(studio, owner_path, lambda model: model.changed(**{field: rest}))
    if list_path == "shots":
        studio = studio.changed(sets=tuple(plan for plan in studio.sets if plan.shot != key))
    return studio


def _reordered(things: Any, order: tuple[str, ...]) -> Any:
    if not _is_list(things):
        raise EditRefused("Only a list has an order.")
    named = {thing.id: thing for thing in things}
    if sorted(order) != sorted(named):
        raise EditRefused("A new order names every thing of the list once.")
    return tuple(named[key] for key in order)


def _with_fields(thing: Any, fields: dict[str, JsonValue]) -> Any:
    if not isinstance(thing, Model):
        raise EditRefused("Fields belong to a thing, not to a list.")
    cls = type(thing)
    known = {info.alias or name: name for name, info in cls.model_fields.items()}
    for field in fields:
        if field in ("id", "format", "schema", "version") or field not in known or _fixed_kind(cls, field):
            raise EditRefused(f"“{field}” cannot be written here.", field)
        current = getattr(thing, known[field])
        if isinstance(current, tuple) and _of_things(cls, known[field], current):
            raise EditRefused(f"“{field}” is a list: add, remove or reorder its things.", field)
    values = {alias: getattr(thing, name) for alias, name in known.items()}
    made = cls.model_validate({**values, **fields})
    # Reading anew makes equal parts once more; what is kept by identity wants those there were.
    untouched = {name: getattr(thing, name) for alias, name in known.items() if alias not in fields}
    return made.changed(**{name: old for name, old in untouched.items() if old == getattr(made, name)})


def _of_things(cls: type[Model], field: str, current: tuple[Any, ...]) -> bool:
    """Whether a list holds things with ids, which are changed one by one."""
    if current:
        return hasattr(current[0], "id")
    kinds, _ = flattened(cls.model_fields[field].annotation)
    inner = [one for kind in kinds for one in flattened(kind)[0]]
    return any("id" in getattr(one, "model_fields", ()) for one in inner)


def _fixed_kind(cls: type[Model], field: str) -> bool:
    """Whether a field says what a thing is and has one value only: an item's kind, a footprint's."""
    return field == "kind" and len(get_args(cls.model_fields[field].annotation)) < 2


def _reshaped(room: Room, footprint: Footprint) -> Room:
    match footprint:
        case Outline(corners=corners):
            count = len(corners)
        case Traverse(legs=legs):
            count = len(legs)
        case _:
            count = {"rectangle": 4, "ell": 6, "alcove": 8}[footprint.kind]
    walls = room.edges(count) + room.walls[count:]
    return room.changed(footprint=footprint, walls=walls)


def _shifted(plan: Any, dx: float, dy: float) -> SetPlan:
    if not isinstance(plan, SetPlan):
        raise EditRefused("Only a set can be moved as a whole.")

    def moved(place: Any) -> Any:
        x, y = place.x, place.y
        fields = {"x": None if x is None else x + dx, "y": None if y is None else y + dy}
        if getattr(place, "aim_x", None) is not None:
            fields |= {"aim_x": place.aim_x + dx, "aim_y": (place.aim_y or 0.0) + dy}
        return type(place).model_validate({**dict(place), **fields})

    return plan.changed(
        mark=moved(plan.mark),
        camera=moved(plan.camera),
        background=moved(plan.background),
        lights=tuple(moved(light) for light in plan.lights),
        props=tuple(moved(prop) for prop in plan.props),
        people=tuple(moved(person) for person in plan.people),
    )


def clash(mine: frozenset[str], theirs: frozenset[str]) -> str | None:
    """The first path both wrote: the same field, or one a part of what the other replaced or removed."""
    for path in sorted(mine):
        for other in sorted(theirs):
            if "**" in (path, other) or path == other:
                return path
            if path.startswith(other + "/") or other.startswith(path + "/"):
                return path
    return None


def differing(before: Any, after: Any, path: str = "") -> frozenset[str]:
    """Paths of the fields in which two studios differ."""
    if before is after or before == after:
        return frozenset()
    if isinstance(before, Model) and type(before) is type(after):
        parts = (
            differing(getattr(before, name), getattr(after, name), f"{path}/{name}".lstrip("/"))
            for name in type(before).model_fields
        )
        return frozenset().union(*parts)
    if isinstance(before, tuple) and isinstance(after, tuple) and all(hasattr(t, "id") for t in before + after):
        old, new = {t.id: t for t in before}, {t.id: t for t in after}
        found = {f"{path}/{key}" for key in old.keys() ^ new.keys()}
        if [k for k in old if k in new] != [k for k in new if k in old]:
            found.add(f"{path}/~order")
        parts = (differing(old[key], new[key], f"{path}/{key}") for key in old.keys() & new.keys())
        return frozenset(found).union(*parts)
    return frozenset({path or "**"})


def between(before: Any, after: Any, path: str) -> "tuple[Single, ...]":
    """Edits that lead from one state of the thing at `path` to another, field by field."""
    found: list[Single] = []
    fields: dict[str, JsonValue] = {}
    for name, info in type(before).model_fields.items():
        old, new = getattr(before, name), getattr(after, name)
        if old is new or old == new:
            continue
        here = f"{path}/{name}"
        if _is_list(old) and _is_list(new):
            found += _list_between(old, new, here)
        elif isinstance(old, Model) and type(old) is type(new) and not isinstance(old, Figure):
            found += between(old, new, here)
        else:
            fields[info.alias or name] = plain(new)
    return (*((SetFields(target=path, fields=fields),) if fields else ()), *found)


def _is_list(value: Any) -> bool:
    return isinstance(value, tuple) and all(hasattr(thing, "id") for thing in value)


def _list_between(before: Any, after: Any, path: str) -> "list[Single]":
    old, new = {thing.id: thing for thing in before}, {thing.id: thing for thing in after}
    found: list[Single] = [Remove(target=f"{path}/{key}") for key in old if key not in new]
    for key, thing in new.items():
        if key in old:
            found += between(old[key], thing, f"{path}/{key}")
        else:
            found.append(Add(list=path, item=thing.model_dump(mode="json", by_alias=True, exclude_none=True)))
    if [*(key for key in old if key in new), *(key for key in new if key not in old)] != list(new):
        found.append(Reorder(list=path, order=tuple(new)))
    return found


def say(studio: Studio, edit: Edit) -> str:
    """A short label for the history, in the words of the studio before the edit."""
    match edit:
        case Add():
            name = edit.item.get("name") or edit.item.get("role") or edit.item.get("id")
            return f"Add {name} to {edit.list.split('/')[-1]}"
        case Remove():
            return f"Remove {_name_at(studio, edit.target)}"
        case Reorder():
            return f"New order of {edit.list.split('/')[-1]}"
        case SetFields():
            return f"{_name_at(studio, edit.target)}: {_fields_words(studio, edit)}"
        case Reshape():
            return f"Room shape: {edit.footprint.kind}"
        case Shift():
            return f"Move the set {_name_at(studio, edit.target)}"
        case Light():
            return f"{edit.pattern} light in {_name_at(studio, edit.target)}".capitalize()
        case Turn():
            return f"Turn the face in {_name_at(studio, edit.target)}"
        case TakeRoom():
            return f"Take the room {_name_at(studio, edit.target)}"
        case Several():
            return edit.label or f"{say(studio, edit.edits[0])}, and {len(edit.edits) - 1} more"
        case Import():
            return "Import a file"


def _fields_words(studio: Studio, edit: SetFields) -> str:
    model = type(paths.find(studio, edit.target)) if paths.exists(studio, edit.target) else None
    titles = []
    for field in edit.fields:
        info = model.model_fields.get(field) if model else None
        titles.append((info.title if info and info.title else field).lower())
    return ", ".join(titles)[:80]


def _name_at(studio: Studio, path: str) -> str:
    try:
        thing = paths.find(studio, path)
    except NoSuchThing:
        return path
    name = getattr(thing, "name", None) or getattr(thing, "role", None)
    return str(name) if name else path.split("/")[-1].replace("_", " ").capitalize()


def plain(value: Any) -> Any:
    """A field's value as JSON data, for showing both sides of a conflict."""
    if isinstance(value, Figure):
        return value.dump()
    if isinstance(value, Model):
        return value.model_dump(mode="json", by_alias=True, exclude_none=True)
    if isinstance(value, tuple):
        return [plain(part) for part in value]
    return value if isinstance(value, (str, int, float, bool, type(None))) else str(value)
