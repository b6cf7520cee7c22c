"""The room: footprint, height, walls, openings, sockets, boxes and storage places.

Plan coordinates: corner A is the origin, wall A-B runs along x, wall A-D along y, z is up [m].
Corners go round counter-clockwise when seen from above.
"""

import math
import re
from collections.abc import Mapping
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, Field, model_validator
from pydantic_core import PydanticCustomError

from evrant.core.base.model import Keeper, Model, Name, Slug
from evrant.core.base.quantity import (
    Current,
    Distance,
    Efficiency,
    Figure,
    Flux,
    Force,
    Illuminance,
    Kelvin,
    Level,
    Load,
    Minutes,
    Opening,
    Power,
    ReflectanceValue,
    RoomLength,
    Thickness,
)


def _hex_colour(text: str) -> str:
    if not re.fullmatch(r"#[0-9a-fA-F]{6}", text):
        raise PydanticCustomError("colour", "Write a colour as # and six hexadecimal digits.")
    return text.lower()


Colour = Annotated[str, AfterValidator(_hex_colour)]
Compass = Literal["north", "north-east", "east", "south-east", "south", "south-west", "west", "north-west"]
CutCorner = Literal["A", "B", "C", "D"]


class Rectangle(Model):
    """Four walls at right angles."""

    kind: Literal["rectangle"] = "rectangle"
    length: RoomLength | None = Field(None, title="Length, wall A–B")
    width: RoomLength | None = Field(None, title="Width, wall A–D")


class Ell(Model):
    """A rectangle with one corner cut out."""

    kind: Literal["ell"] = "ell"
    length: RoomLength | None = Field(None, title="Length overall, along A–B")
    width: RoomLength | None = Field(None, title="Width overall, across it")
    cut_length: Opening | None = Field(None, title="Length of the missing part")
    cut_width: Opening | None = Field(None, title="Width of the missing part")
    cut_corner: CutCorner = Field("C", title="Which corner of the whole rectangle is missing (A–B is the first wall)")

    @model_validator(mode="after")
    def _cut_fits(self) -> "Ell":
        for cut, whole, what in (
            (self.cut_length, self.length, "length"),
            (self.cut_width, self.width, "width"),
        ):
            if cut and whole and cut.value > whole.value - 0.3:
                raise PydanticCustomError(
                    "cut_too_large", f"The missing part leaves less than 30 cm of the room's {what}."
                )
        return self


class Alcove(Model):
    """A rectangle with a niche behind one of its walls."""

    kind: Literal["alcove"] = "alcove"
    length: RoomLength | None = Field(None, title="Length, wall A–B")
    width: RoomLength | None = Field(None, title="Width, wall A–D")
    niche_wall: Literal["A–B", "B–C", "C–D", "D–A"] = Field("C–D", title="Wall with the alcove")
    niche_offset: Distance | None = Field(None, title="From that wall's start to the alcove")
    niche_length: Opening | None = Field(None, title="Opening of the alcove")
    niche_depth: Opening | None = Field(None, title="Depth of the alcove")

    @model_validator(mode="after")
    def _niche_fits(self) -> "Alcove":
        whole = self.length if self.niche_wall in ("A–B", "C–D") else self.width
        if whole and self.niche_length:
            used = self.niche_length.value + (self.niche_offset.value if self.niche_offset else 0.0)
            if used > whole.value - 0.05:
                raise PydanticCustomError("niche_too_long", "The alcove and what lies before it exceed its wall.")
        if self.niche_offset and self.niche_offset.value < 0.02:
            raise PydanticCustomError("niche_at_corner", "An alcove at the corner makes an L: choose that shape.")
        return self


class Leg(Model):
    """One wall of a round: its length, and the turn to the next wall."""

    id: Slug
    length: Opening | None = Field(None, title="Length of the wall")
    turn: Annotated[float, Field(ge=-175, le=175)] = Field(
        90.0, title="Then turn left by (right: minus)", json_schema_extra={"show": "°"}
    )


class Traverse(Model):
    """Any simple polygon, walked counter-clockwise from A wall by wall, the room on the left.

    What the measures miss closing by is kept and shown; the corners share it by the lengths walked.
    """

    kind: Literal["walls"] = "walls"
    legs: tuple[Leg, ...] = Field((), max_length=40, title="Walls in turn")

    @model_validator(mode="after")
    def _closes(self) -> "Traverse":
        if twice := [leg.id for i, leg in enumerate(self.legs) if leg.id in {one.id for one in self.legs[:i]}]:
            raise PydanticCustomError("id_twice", f"The wall id “{twice[0]}” is used twice.")
        lengths = [leg.length.value if leg.length else None for leg in self.legs]
        if len(self.legs) < 3 or None in lengths:
            return self
        points, _, missed = closed_round([n or 0.0 for n in lengths], [leg.turn for leg in self.legs])
        if abs(missed) > MOST_TURN:
            raise PydanticCustomError(
                "turns", f"The turns add up to {missed + 360:.0f}°; with the room on your left they make 360°."
            )
        crossing = first_crossing(points)
        if crossing:
            raise PydanticCustomError(
                "outline_crosses",
                f"Walls {crossing[0] + 1} and {crossing[1] + 1} cross or touch; check lengths and turns.",
            )
        if doubled_area(points) < 1.0:
            raise PydanticCustomError("outline_turn", "Walk round with the room on your left; most turns go left.")
        return self


MOST_TURN = 20.0
"""Turns that miss 360° by more than this are a mistake, not a reading."""


def closed_round(
    lengths: list[float], turns: list[float]
) -> tuple[list[tuple[float, float]], tuple[float, float], float]:
    """Corners of a round of walls, what it misses closing by in x and y [m], and in turns [degrees].

    Turns share their error equally, corners theirs in proportion to the length walked: the compass
    rule of land surveying (Bowditch; in any surveying textbook).
    """
    missed = sum(turns) - 360.0
    x = y = heading = walked = 0.0
    total, raw = sum(lengths), [(0.0, 0.0, 0.0)]
    for length, turn in zip(lengths, turns, strict=True):
        x += length * math.cos(math.radians(heading))
        y += length * math.sin(math.radians(heading))
        heading += turn - missed / len(turns)
        walked += length
        raw.append((x, y, walked))
    corners = [(cx - x * w / total, cy - y * w / total) for cx, cy, w in raw[:-1]]
    return corners, (x, y), missed


class Corner(Model):
    """A corner of a free outline."""

    x: Distance
    y: Distance


class Outline(Model):
    """Any simple polygon, by its corners counter-clockwise from A."""

    kind: Literal["outline"] = "outline"
    corners: tuple[Corner, ...] = Field((), max_length=40, title="Corners")

    @model_validator(mode="after")
    def _simple(self) -> "Outline":
        points = [(c.x.value, c.y.value) for c in self.corners]
        if points and len(points) < 3:
            raise PydanticCustomError("outline_open", "A room needs at least three corners.")
        crossing = first_crossing(points)
        if crossing:
            raise PydanticCustomError(
                "outline_crosses",
                f"Walls {crossing[0] + 1} and {crossing[1] + 1} cross or touch; check the corners' order.",
            )
        if points and doubled_area(points) < 1.0:
            if doubled_area(points) < 0:
                raise PydanticCustomError("outline_turn", "List the corners counter-clockwise, seen from above.")
            raise PydanticCustomError("outline_small", "This outline encloses less than half a square metre.")
        return self


Footprint = Annotated[Rectangle | Ell | Alcove | Traverse | Outline, Field(discriminator="kind")]


def doubled_area(points: list[tuple[float, float]]) -> float:
    """Twice the signed area of a polygon [m²], positive when counter-clockwise."""
    ring = points[1:] + points[:1]
    return sum(a[0] * b[1] - b[0] * a[1] for a, b in zip(points, ring, strict=True))


def first_crossing(points: list[tuple[float, float]]) -> tuple[int, int] | None:
    """Numbers of the first two walls that cross or touch away from a shared corner."""
    count = len(points)
    for i in range(count):
        for j in range(i + 1, count):
            if j == i + 1 or (i == 0 and j == count - 1):
                continue
            if _segments_meet(points[i], points[(i + 1) % count], points[j], points[(j + 1) % count]):
                return i, j
    return None


def _segments_meet(
    a: tuple[float, float], b: tuple[float, float], c: tuple[float, float], d: tuple[float, float]
) -> bool:
    def side(p: tuple[float, float], q: tuple[float, float], r: tuple[float, float]) -> float:
        return (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0])

    def within(p: tuple[float, float], q: tuple[float, float], r: tuple[float, float]) -> bool:
        return min(p[0], q[0]) <= r[0] <= max(p[0], q[0]) and min(p[1], q[1]) <= r[1] <= max(p[1], q[1])

    s = side(a, b, c), side(a, b, d), side(c, d, a), side(c, d, b)
    if s[0] * s[1] < 0 and s[2] * s[3] < 0:
        return True
    touches = ((s[0], a, b, c), (s[1], a, b, d), (s[2], c, d, a), (s[3], c, d, b))
    return any(v == 0 and within(p, q, r) for v, p, q, r in touches)


class Finish(Model):
    """Paint or covering. Without a value the tint and return of the wall are unknown."""

    lrv: ReflectanceValue | None = Field(None, title="Light reflectance value (on the paint card)")
    colour: Colour | None = Field(None, title="Colour")
    measured: ReflectanceValue | None = Field(None, title="Reflectance as readings in the room give it")
    simulated: bool = Field(False, title="From simulated readings")

    @property
    def share(self) -> Figure | None:
        """Its reflectance in hundredths: as readings give it, else as it was entered."""
        return self.measured or self.lrv


class Wall(Model):
    """One edge of the footprint, in order from corner A."""

    id: Slug
    name: Name = Field("Wall", title="Name")
    finish: Finish = Finish()
    construction: Literal["masonry", "stud and board", "board only", "timber", "glass"] | None = Field(
        None, title="What it is made of"
    )


class _OnWall(Model):
    id: Slug
    name: Name
    wall: Slug | None = Field(None, title="In wall", json_schema_extra={"list": "walls"})
    offset: Distance | None = Field(None, title="From the wall's start")


class Door(_OnWall):
    """A door. `hinge` names the jamb nearer to the wall's start or end."""

    name: Name = Field("Door", title="Name")
    width: Opening | None = Field(None, title="Width of the leaf")
    height: Opening | None = Field(None, title="Height")
    hinge: Literal["start", "end"] = Field("start", title="Hinged at the wall's")
    swing: Literal["in", "out", "slides"] = Field("in", title="Opens")
    beyond: Distance | None = Field(None, title="Free depth behind it for the camera")


class Window(_OnWall):
    """A window; its reveal is not modelled."""

    name: Name = Field("Window", title="Name")
    width: Opening | None = Field(None, title="Width")
    sill: Distance | None = Field(None, title="Sill above floor")
    height: Opening | None = Field(None, title="Height of the glass")
    faces: Compass | None = Field(None, title="Faces")
    blackout: Literal["not needed", "needed", "in place"] = Field("not needed", title="Blackout")
    cover: Literal["net curtain", "light curtain", "light blind", "slats half closed", "heavy curtain"] | None = Field(
        None, title="Drawn before it"
    )
    slats: Annotated[float, Field(ge=0, le=90)] | None = Field(
        None, title="Slats tilted from level (90: shut)", json_schema_extra={"show": "°"}
    )
    lets_in: Efficiency | None = Field(None, title="Share of light that passes what is drawn, measured")
    kelvin: Kelvin | None = Field(None, title="Colour of its daylight (empty: a clouded sky)")
    daylight: Illuminance | None = Field(None, title="Daylight on the glass outside")
    street: Level | None = Field(None, title="Noise outside it")
    skyline: Annotated[float, Field(ge=0, le=85)] | None = Field(
        None, title="What stands opposite rises to", json_schema_extra={"show": "°"}
    )


class Rail(Model):
    """A rail, tube or rod things are clamped to, from one end to the other; a tube between poles, a wall rail, the rod
    of a wardrobe."""

    id: Slug
    name: Name = Field("Rail", title="Name")
    x: Distance | None = Field(None, title="One end: along A–B, from A")
    y: Distance | None = Field(None, title="One end: off wall A–B")
    to_x: Distance | None = Field(None, title="Other end: along A–B, from A")
    to_y: Distance | None = Field(None, title="Other end: off wall A–B")
    height: Distance | None = Field(None, title="Height of its middle")
    first_on: Slug | None = Field(None, title="That end lies on rail", json_schema_extra={"list": "rails"})
    second_on: Slug | None = Field(None, title="The other end lies on rail", json_schema_extra={"list": "rails"})
    load: Load | None = Field(None, title="Carries in all")
    end_load: Load | None = Field(None, title="Each end carries")
    diameter: Thickness | None = Field(None, title="Outer diameter")
    thickness: Thickness | None = Field(None, title="Thickness of its wall")
    material: Literal["aluminium", "steel"] | None = Field(None, title="Made of")


class Circuit(Model):
    """Sockets behind one breaker, with what else draws from it."""

    id: Slug
    name: Name = Field("Circuit", title="Name")
    breaker: Current | None = Field(None, title="Breaker rating")
    other_load: Power | None = Field(None, title="Other things on it at the same time")


class Appliance(Model):
    """Something else that runs on a circuit while people work: a heater, a fridge, a computer."""

    id: Slug
    name: Name = Field("Heater", title="Name")
    power: Power | None = Field(None, title="Draws while it runs")
    circuit: Slug | None = Field(None, title="On circuit", json_schema_extra={"list": "circuits"})
    runs: Literal["all the time", "on and off by itself", "switched off for pictures"] = Field(
        "all the time", title="It runs"
    )
    starts: Minutes | None = Field(None, title="From, after the session's start")
    ends: Minutes | None = Field(None, title="Until")


class Socket(_OnWall):
    """A wall socket."""

    name: Name = Field("Socket", title="Name")
    height: Distance | None = Field(None, title="Above floor")
    circuit: Slug | None = Field(None, title="On circuit", json_schema_extra={"list": "circuits"})
    protected: Literal["yes", "no"] | None = Field(None, title="Behind a residual-current (ground-fault) device")


BoxKind = Literal[
    "furniture", "radiator", "beam or pipe", "lamp", "bed", "wardrobe", "appliance", "screen", "sink or tap"
]
Side = Literal["A–B", "B–C", "C–D", "D–A"]


class Box(Model):
    """Furniture, a radiator, a beam, a pipe casing: a cuboid with one corner nearest to A at (x, y)."""

    id: Slug
    name: Name = Field("Furniture", title="Name")
    kind: BoxKind = Field("furniture", title="What it is")
    x: Distance | None = Field(None, title="Along A–B, from A")
    y: Distance | None = Field(None, title="Off wall A–B")
    length: Opening | None = Field(None, title="Size along A–B")
    width: Opening | None = Field(None, title="Size across")
    base: Distance | None = Field(None, title="Underside above floor (empty: on the floor)")
    height: Opening | None = Field(None, title="Height of the thing itself")
    moves: Literal["stays", "may be pushed aside", "can be moved out"] = Field("stays", title="For a session it")
    keep_free: Distance | None = Field(None, title="Must stay usable: free depth in front")
    front: Side | None = Field(None, title="Its front looks towards")
    finish: Finish = Finish()
    noise: Level | None = Field(None, title="Can be heard: level at 1 m")
    hushed: bool = Field(False, title="Switched off while sound is recorded")
    lumens: Flux | None = Field(None, title="A lamp: its luminous flux")
    kelvin: Kelvin | None = Field(None, title="A lamp: its colour temperature")

    @model_validator(mode="before")
    @classmethod
    def _movable(cls, data: Any) -> Any:
        """Files from before said only whether a thing can be moved."""
        if isinstance(data, Mapping) and "movable" in data:
            rest = {key: content for key, content in data.items() if key != "movable"}
            return {"moves": "can be moved out" if data["movable"] else "stays", **rest}
        return data


class Slope(Model):
    """A ceiling that falls towards a wall: low there, and reaching the flat height at a distance."""

    id: Slug
    name: Name = Field("Slope", title="Name")
    wall: Slug | None = Field(None, title="Falls towards wall", json_schema_extra={"list": "walls"})
    low: RoomLength | None = Field(None, title="Height at that wall")
    run: Opening | None = Field(None, title="Distance from the wall where it ends")
    high: RoomLength | None = Field(None, title="Height where it ends (empty: the ceiling's)")


class Zone(Model):
    """A part of the floor that must stay free while a set stands: a corner at (x, y) nearest to A."""

    id: Slug
    name: Name = Field("Desk and screen", title="Name")
    kind: Literal["desk and screen", "dressing", "props", "waiting seat", "way through", "other"] = Field(
        "desk and screen", title="For"
    )
    x: Distance | None = Field(None, title="Along A–B, from A")
    y: Distance | None = Field(None, title="Off wall A–B")
    length: Opening | None = Field(None, title="Size along A–B")
    width: Opening | None = Field(None, title="Size across")
    clearance: Distance | None = Field(None, title="Free room around it")


class Diagonal(Model):
    """A measured distance between two corners, to see whether the room is square."""

    id: Slug
    start: Annotated[str, Field(pattern="^[A-Z]$")] = Field("A", title="From corner")
    end: Annotated[str, Field(pattern="^[A-Z]$")] = Field("C", title="To corner")
    length: RoomLength | None = Field(None, title="Measured")


PlaceKind = Literal["cupboard", "shelf", "under a bed", "corner for rolls", "wall rail", "hooks", "behind a door"]
HANGING: frozenset[str] = frozenset({"wall rail", "hooks", "behind a door"})
"""Places where things hang instead of lying on each other."""


class Place(Model):
    """Somewhere to stow things."""

    id: Slug
    name: Name = Field("Cupboard", title="Name")
    kind: PlaceKind = Field("cupboard", title="Kind")
    length: Opening | None = Field(None, title="Inside width")
    width: Opening | None = Field(None, title="Inside depth")
    height: Opening | None = Field(None, title="Inside height")
    load: Load | None = Field(None, title="May carry")
    hooks: Annotated[int, Field(ge=1, le=40)] | None = Field(None, title="Hooks or pegs")
    each: Load | None = Field(None, title="Each hook carries")


class Passage(Model):
    """A doorway or turn on the way in that long things must get through."""

    id: Slug
    name: Name = Field("Stair turn", title="Name")
    kind: Literal["turn", "door"] = Field("turn", title="Kind")
    width: Opening | None = Field(None, title="Width before the turn (of the door)")
    beyond: Opening | None = Field(None, title="Width after the turn")
    height: Opening | None = Field(None, title="Free height there")


Floor = Literal["laminate", "wood", "tile", "vinyl", "concrete", "carpet"]


class Room(Keeper):
    """The room as measured. Anything may be missing; rules that need it say so."""

    footprint: Footprint | None = None
    height: RoomLength | None = Field(None, title="Ceiling height (of its flat part)")
    floor: Floor | None = Field(None, title="Floor")
    floor_finish: Finish = Finish()
    ceiling_made: Literal["concrete", "timber", "joists and board", "suspended board"] | None = Field(
        None, title="Ceiling is made of"
    )
    ceiling_takes: Force | None = Field(None, title="Ceiling bears from below (builder's word)")
    airing: Literal["closed", "window ajar", "ventilated"] | None = Field(None, title="While working, the room is")
    ceiling: Finish = Finish()
    walls: tuple[Wall, ...] = Field((), max_length=40)
    doors: tuple[Door, ...] = Field((), max_length=20)
    windows: tuple[Window, ...] = Field((), max_length=40)
    circuits: tuple[Circuit, ...] = Field((), max_length=20)
    appliances: tuple[Appliance, ...] = Field((), max_length=40)
    sockets: tuple[Socket, ...] = Field((), max_length=60)
    boxes: tuple[Box, ...] = Field((), max_length=100)
    places: tuple[Place, ...] = Field((), max_length=40)
    passages: tuple[Passage, ...] = Field((), max_length=12)
    slopes: tuple[Slope, ...] = Field((), max_length=8)
    rails: tuple[Rail, ...] = Field((), max_length=12)
    zones: tuple[Zone, ...] = Field((), max_length=20)
    diagonals: tuple[Diagonal, ...] = Field((), max_length=20)

    def edges(self, count: int) -> tuple[Wall, ...]:
        """A wall for each of `count` edges; edges nobody named get a plain name."""
        named = self.walls[:count]
        taken = {wall.id for wall in self.walls}
        free = [n for n in range(1, count + len(taken) + 1) if f"wall-{n}" not in taken]
        rest = []
        for i in range(len(named), count):
            number = i + 1 if i + 1 in free else free[-1]
            free.remove(number)
            rest.append(Wall(id=f"wall-{number}", name=f"Wall {number}"))
        return named + tuple(rest)


def value(figure: Figure | None) -> float | None:
    """The plain number of a figure that may be missing."""
    return None if figure is None else figure.value
