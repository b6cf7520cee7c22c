"""The order in which a room is measured, one question at a time."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

from evrant.core.base.model import Model
from evrant.core.studio.room import Alcove, Ell, Outline, Rectangle, Room, Traverse

Kind = Literal["shape", "fields", "list", "finish", "made"]


@dataclass(frozen=True)
class Ask:
    """One question: what to measure, how, where it is entered (target and fields, or a list), and whether it
    is answered. `optional` questions may be passed over; an `aside` is reached from another and not asked in turn."""

    id: str
    question: str
    hint: str
    kind: Kind
    target: str = "room"
    fields: tuple[str, ...] = ()
    list: str = ""
    done: bool = False
    optional: bool = False
    aside: bool = False


SHAPE_ASKS: dict[str, tuple[tuple[str, str, str], ...]] = {
    "rectangle": (
        (
            "length",
            "How long is the room, from corner A to B?",
            "Along the longer wall, at floor level, skirting to skirting.",
        ),
        ("width", "How wide is it, from corner A to D?", "Square to the first, at floor level."),
    ),
    "ell": (
        ("length", "How long is the room overall, along A–B?", "As if no corner were missing."),
        ("width", "How wide is it overall?", "As if no corner were missing."),
        (
            "cut_corner",
            "Which corner of the whole rectangle is missing?",
            "You stand at A; B is along the first wall, D across.",
        ),
        ("cut_length", "How long is the missing part?", "Along the direction of wall A–B."),
        ("cut_width", "How wide is the missing part?", "Square to it."),
    ),
    "alcove": (
        ("length", "How long is the room, from corner A to B?", "Without the alcove."),
        ("width", "How wide is it, from corner A to D?", "Without the alcove."),
        ("niche_wall", "In which wall is the alcove?", "Walls are named by their corners, counter-clockwise."),
        ("niche_offset", "How far along that wall does it begin?", "From the wall's first corner."),
        ("niche_length", "How wide does it open?", "From one edge to the other."),
        ("niche_depth", "How deep is it?", "From the wall's line to its back."),
    ),
}
ROOM_LISTS: tuple[tuple[str, str, str, tuple[str, ...]], ...] = (
    (
        "slopes",
        "Does the ceiling slope anywhere?",
        "Attics: once for each wall it falls towards.",
        ("wall", "low", "run"),
    ),
    (
        "doors",
        "Where are the doors?",
        "With the way they swing, and the free depth behind if the camera may stand there.",
        ("wall", "offset", "width", "hinge", "swing", "beyond"),
    ),
    (
        "windows",
        "Where are the windows?",
        "Offset along the wall, width, sill and height of the glass, and what it faces.",
        ("wall", "offset", "width", "sill", "height", "faces"),
    ),
    (
        "sockets",
        "Where are the sockets?",
        "Wall and offset are enough for now; circuits come later.",
        ("wall", "offset", "circuit", "protected"),
    ),
    (
        "boxes",
        "What stands or hangs in the room?",
        "Radiators, beams, wardrobes, beds: place, size, and whether it can be moved.",
        ("name", "kind", "x", "y", "length", "width", "base", "height", "moves"),
    ),
    (
        "rails",
        "Is there a rail, tube or rod to hang from?",
        "Both ends and the height of its middle; what it carries, or its diameter and wall.",
        ("name", "x", "y", "to_x", "to_y", "height", "load"),
    ),
    (
        "zones",
        "What part of the floor must stay free?",
        "A desk and its screen, a waiting seat, a way through.",
        ("name", "kind", "x", "y", "length", "width"),
    ),
    (
        "diagonals",
        "Check the corners with a diagonal?",
        "Corner to corner along the floor: it shows whether the room is square.",
        ("start", "end", "length"),
    ),
)
HOUSE_LISTS: tuple[tuple[str, str, str, tuple[str, ...]], ...] = (
    (
        "circuits",
        "Which circuits feed the sockets?",
        "The number on the breaker in the fuse box, and what else runs on it.",
        ("name", "breaker", "other_load"),
    ),
    (
        "places",
        "Where do things go between sessions?",
        "Cupboards, shelves, under a bed, hooks: the size inside.",
        ("name", "kind", "length", "width", "height", "load"),
    ),
    (
        "passages",
        "How do long things come in?",
        "The tightest door and the turn of the stairs: paper on a roll does not bend.",
        ("name", "kind", "width", "beyond", "height"),
    ),
)
NEEDED: dict[str, tuple[str, ...]] = {
    "slopes": ("wall", "low", "run"),
    "doors": ("wall", "offset", "width"),
    "windows": ("wall", "offset", "width"),
    "sockets": ("wall", "offset"),
    "boxes": ("x", "y", "length", "width", "height"),
    "rails": ("x", "y", "to_x", "to_y", "height"),
    "zones": ("x", "y", "length", "width"),
    "diagonals": ("length",),
    "circuits": ("breaker",),
    "places": ("length", "width", "height"),
    "passages": ("width",),
}


def asks(room: Room) -> tuple[Ask, ...]:
    """Every question for a room as far as it is described, in measuring order."""
    return tuple(_asks(room))


def _asks(room: Room) -> Iterable[Ask]:
    shape = room.footprint
    hint = "Sketch it from above first; corner A is where you start, the room on your left as you walk."
    yield Ask("shape", "What shape is the floor?", hint, "shape", done=shape is not None)
    match shape:
        case Rectangle() | Ell() | Alcove():
            yield from _shape_asks(shape)
        case Traverse():
            yield from _round_asks(shape)
        case Outline():
            hint = "From A counter-clockwise, one a line."
            yield Ask("corners", "Where are the corners?", hint, "shape", done=bool(shape.corners))
    if shape is None:
        return
    hint = "Floor to ceiling where it is flat; a slope comes next."
    yield Ask("height", "How high is the ceiling?", hint, "fields", "room", ("height",), done=room.height is not None)
    yield Ask(
        "floor",
        "What is the floor?",
        "Carpet makes stands and paper unsteady.",
        "fields",
        "room",
        ("floor",),
        done=room.floor is not None,
    )
    yield from _lists(room, ROOM_LISTS)
    yield from _finishes(room)
    yield from _lists(room, HOUSE_LISTS)


def _lists(room: Room, lists: tuple[tuple[str, str, str, tuple[str, ...]], ...]) -> Iterable[Ask]:
    for name, question, hint, fields in lists:
        things = getattr(room, name)
        yield Ask(f"{name}", question, hint, "list", list=name, done=bool(things), optional=True)
        for number, thing in enumerate(things, start=1):
            yield _thing_ask(name, number, thing, fields)


def _finishes(room: Room) -> Iterable[Ask]:
    """What walls, ceiling and floor look like and are made of: bounce, tint, and what holds a screw."""
    hint = "Choose the nearest; a paint card's value is better still. One wall may differ."
    known = bool(room.walls) and all(wall.finish.lrv is not None for wall in room.walls)
    yield Ask("paint", "What are the walls painted?", hint, "finish", "walls", done=known)
    for wall in room.walls:
        yield Ask(
            f"paint-{wall.id}",
            f"How does {wall.name} look?",
            "Light that bounces off it takes its colour.",
            "finish",
            f"room/walls/{wall.id}/finish",
            ("lrv", "colour"),
            done=wall.finish.lrv is not None,
            aside=True,
        )
    for key, target, question, hint, finish in (
        ("paint-ceiling", "room/ceiling", "And the ceiling?", "Most fill from above comes off it.", room.ceiling),
        ("paint-floor", "room/floor_finish", "And the floor?", "It lifts shadows under chins.", room.floor_finish),
    ):
        yield Ask(key, question, hint, "finish", target, ("lrv", "colour"), done=finish.lrv is not None)
    yield Ask(
        "made",
        "What are the walls made of?",
        "Knock: masonry is dull, a board between studs rings. It decides what may hang there.",
        "made",
        "walls",
        done=bool(room.walls) and all(wall.construction is not None for wall in room.walls),
    )
    yield Ask(
        "ceiling-made",
        "What is the ceiling made of?",
        "It decides whether a pole may be pressed against it.",
        "fields",
        "room",
        ("ceiling_made",),
        done=room.ceiling_made is not None,
    )


def _shape_asks(shape: Rectangle | Ell | Alcove) -> Iterable[Ask]:
    for name, question, hint in SHAPE_ASKS[shape.kind]:
        done = getattr(shape, name) is not None
        yield Ask(name.replace("_", "-"), question, hint, "fields", "room/footprint", (name,), done=done)


def _round_asks(shape: Traverse) -> Iterable[Ask]:
    for number, leg in enumerate(shape.legs, start=1):
        hint = "Then the turn to the next wall: 90 left, −90 right, 45 for a slanting corner."
        yield Ask(
            f"wall-{leg.id}",
            f"How long is wall {number}?",
            hint,
            "fields",
            f"room/footprint/legs/{leg.id}",
            ("length", "turn"),
            done=leg.length is not None,
        )


def _thing_ask(name: str, number: int, thing: Model, fields: tuple[str, ...]) -> Ask:
    key = getattr(thing, "id", str(number))
    called = getattr(thing, "name", f"Diagonal {number}")
    done = all(getattr(thing, field) is not None for field in NEEDED[name])
    return Ask(
        f"{name}-{key}",
        called,
        "Measure from the wall's first corner, at floor level.",
        "fields",
        f"room/{name}/{key}",
        fields,
        done=done,
    )


def next_open(questions: tuple[Ask, ...], after: str) -> Ask | None:
    """The next question after one that still wants an answer or may be passed over; asides are not asked in turn."""
    ids = [ask.id for ask in questions]
    start = ids.index(after) + 1 if after in ids else 0
    return next((ask for ask in questions[start:] if not ask.aside and (not ask.done or ask.optional)), None)


def answered(questions: tuple[Ask, ...]) -> tuple[int, int]:
    """How many of the questions are answered, and how many there are in all."""
    asked = [ask for ask in questions if not ask.aside]
    return sum(ask.done for ask in asked), len(asked)
