"""What a builder reads is its key: noted through methods and properties, and nothing else."""

from dataclasses import dataclass, field

import pytest

from evrant.core.base.memo import Memo, fresh
from evrant.core.base.noting import Noted, Path, Reader, Reads, Shelf


@dataclass(frozen=True)
class Room:
    length: float = 4.0
    width: float = 3.0
    colour: str = "green"
    walls: tuple[str, ...] = ("a", "b")

    @property
    def area(self) -> float:
        return self.length * self.width

    def longest(self) -> float:
        return max(self.length, self.width)


@dataclass
class Builder:
    """Builds an area, or with `wide` only looks at the width; counts how often it had to."""

    room: Room
    wide: bool = False
    built: list[str] = field(default_factory=list)

    def read(self, path: Path) -> object:
        return getattr(self.room, path[1])

    def build(self, reads: Reads | None) -> float:
        self.built.append("once")
        room = self.room if reads is None else Reader(self.room, "room", reads)
        return room.width if self.wide else room.area


def test_fields_are_noted_also_through_properties_and_methods() -> None:
    reads: Reads = {}
    room = Reader(Room(), "room", reads)
    assert room.area == 12.0 and reads == {("room", "length"): 4.0, ("room", "width"): 3.0}
    assert room.longest() == 4.0 and room.walls == ("a", "b")
    assert ("room", "colour") not in reads and ("room", "walls") in reads


def test_things_by_id_are_noted_when_asked_for_even_when_they_are_not_there() -> None:
    reads: Reads = {}
    shelf = Shelf({"a": 1, "b": 2}, "gear", reads)
    assert shelf.get("a") == 1 and shelf.get("z") is None and "b" in shelf
    assert reads[("gear", "a")] == 1 and reads[("gear", "z")] is None
    assert sorted(shelf) == ["a", "b"] and len(shelf) == 2


def test_what_is_not_read_may_change() -> None:
    kept: Noted[float] = Noted(Memo(10_000, lambda _: 8))
    first = Room()
    builder = Builder(first)

    def asked(room: Room) -> float:
        builder.room = room
        return kept.get("area", "area", (), builder.read, builder.build)

    assert asked(first) == 12.0 and len(builder.built) == 1
    other_colour = Room(first.length, first.width, "white", first.walls)
    assert asked(other_colour) == 12.0 and len(builder.built) == 1, "the colour is no part of an area"
    assert asked(Room(5.0, first.width)) == 15.0 and len(builder.built) == 2
    assert asked(first) == 12.0 and len(builder.built) == 2, "both are kept"


def test_a_builder_that_turns_another_way_has_a_key_for_each_way() -> None:
    kept: Noted[float] = Noted(Memo(10_000, lambda _: 8))
    room = Room()
    area, width = Builder(room), Builder(room, wide=True)
    assert kept.get("size", "area", (), area.read, area.build) == 12.0
    assert kept.get("size", "width", (), width.read, width.build) == 3.0
    longer = Room(9.0, room.width)
    width.room = longer
    assert kept.get("size", "width", (), width.read, width.build) == 3.0 and len(width.built) == 1
    area.room = longer
    assert kept.get("size", "area", (), area.read, area.build) == 27.0 and len(area.built) == 2


def test_nothing_is_remembered_while_all_is_made_anew() -> None:
    kept: Noted[float] = Noted(Memo(10_000, lambda _: 8))
    builder = Builder(Room())
    with fresh():
        for _ in range(3):
            assert kept.get("area", "area", (), builder.read, builder.build) == 12.0
    assert len(builder.built) == 3


def test_parts_given_besides_are_part_of_the_key() -> None:
    kept: Noted[float] = Noted(Memo(10_000, lambda _: 8))
    builder = Builder(Room())
    one, other = object(), object()
    for part in (one, one, other):
        kept.get("area", "area", (part,), builder.read, builder.build)
    assert len(builder.built) == 2


@pytest.mark.parametrize("missing", ["nothing", "_hidden"])
def test_what_an_object_has_not_is_an_error_as_ever(missing: str) -> None:
    with pytest.raises(AttributeError):
        getattr(Reader(Room(), "room", {}), missing)
