"""A studio: one self-sufficient document."""

from collections.abc import Sequence
from typing import Literal, Protocol, TypeVar

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from evrant.core.base import Model, Name, Slug
from evrant.core.studio.brief import Brief
from evrant.core.studio.gear import Item
from evrant.core.studio.purchases import Purchase, Shop, Upkeep
from evrant.core.studio.room import Room
from evrant.core.studio.sets import SetPlan
from evrant.core.studio.shots import Shot

FORMAT: Literal["evrant-studio"] = "evrant-studio"
SCHEMA = 1
ROOM_LISTS = (
    "walls",
    "doors",
    "windows",
    "circuits",
    "appliances",
    "sockets",
    "boxes",
    "places",
    "passages",
    "slopes",
    "zones",
    "diagonals",
)


class Identified(Protocol):
    @property
    def id(self) -> str: ...


T = TypeVar("T", bound=Identified)


class Acceptance(Model):
    """A Tight line the user has accepted, by its token."""

    id: Slug


class Candidate(Model):
    """Another room the same shots might be taken in."""

    id: Slug
    name: Name = Field("Other room", title="Name")
    room: Room = Room()


class Studio(Model):
    """Everything people describe, in SI units."""

    format: Literal["evrant-studio"] = FORMAT
    version: Literal[1] = Field(1, alias="schema")
    name: Name = Field(title="Name")
    brief: Brief = Brief()
    room: Room = Room()
    room_name: Name = Field("This room", title="The room's name")
    rooms: tuple[Candidate, ...] = Field((), max_length=12)
    shots: tuple[Shot, ...] = Field((), max_length=100)
    gear: tuple[Item, ...] = Field((), max_length=600)
    sets: tuple[SetPlan, ...] = Field((), max_length=200)
    shops: tuple[Shop, ...] = Field((), max_length=60)
    purchases: tuple[Purchase, ...] = Field((), max_length=600)
    upkeep: tuple[Upkeep, ...] = Field((), max_length=60)
    accepted: tuple[Acceptance, ...] = Field((), max_length=2000)

    @model_validator(mode="after")
    def _unique(self) -> "Studio":
        lists: list[tuple[str, Sequence[Identified]]] = [
            ("shots", self.shots),
            ("gear", self.gear),
            ("sets", self.sets),
            ("accepted", self.accepted),
            ("shops", self.shops),
            ("purchases", self.purchases),
            ("upkeep", self.upkeep),
        ]
        lists += [
            (f"{where}.{n}", getattr(room, n))
            for where, room in [("room", self.room), *((f"rooms.{c.id}", c.room) for c in self.rooms)]
            for n in ROOM_LISTS
        ]
        lists += [("rooms", self.rooms)]
        lists += [(f"shots.{s.id}.subjects", s.subjects) for s in self.shots]
        lists += [(f"sets.{s.id}.lights", s.lights) for s in self.sets]
        lists += [(f"sets.{s.id}.{n}", getattr(s, n)) for s in self.sets for n in ("props", "people", "aside")]
        for where, things in lists:
            twice = first_twice(things)
            if twice:
                raise PydanticCustomError("id_twice", f"{where}: the id “{twice}” is used twice.")
        return self

    def dump_json(self) -> str:
        """The document as JSON text, without what nobody stated."""
        return self.model_dump_json(by_alias=True, exclude_none=True)


def first_twice(things: Sequence[Identified]) -> str | None:
    seen: set[str] = set()
    for thing in things:
        if thing.id in seen:
            return thing.id
        seen.add(thing.id)
    return None


def by_id(things: Sequence[T], key: str | None) -> T | None:
    """The thing with that id, or None."""
    if key is None:
        return None
    return next((thing for thing in things if thing.id == key), None)
