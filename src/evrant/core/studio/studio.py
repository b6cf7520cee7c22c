"""A studio: one self-sufficient document."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal, Protocol, TypeVar

from pydantic import Field

from evrant.core.base.model import Keeper, Model, Name, Slug
from evrant.core.studio.brief import Brief
from evrant.core.studio.gear import Item
from evrant.core.studio.log import AsSet, Reading, Session
from evrant.core.studio.purchases import Purchase, Shop, Upkeep
from evrant.core.studio.room import Room
from evrant.core.studio.sets import SetPlan, used_by
from evrant.core.studio.shots import Shot

FORMAT: Literal["evrant-studio"] = "evrant-studio"
SCHEMA = 1


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


class Studio(Keeper):
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
    sessions: tuple[Session, ...] = Field((), max_length=200)
    as_set: tuple[AsSet, ...] = Field((), max_length=200)
    readings: tuple[Reading, ...] = Field((), max_length=600)
    accepted: tuple[Acceptance, ...] = Field((), max_length=2000)

    def dump_json(self) -> str:
        """The document as JSON text, without what nobody stated."""
        return self.model_dump_json(by_alias=True, exclude_none=True)


def by_id(things: Sequence[T], key: str | None) -> T | None:
    """The thing with that id, or None."""
    if key is None:
        return None
    return next((thing for thing in things if thing.id == key), None)


@dataclass(frozen=True)
class Gone:
    """A field of a part of a set that names what the studio does not hold."""

    path: str
    field: str
    title: str
    key: str
    gear: bool


def gone(studio: Studio) -> list[Gone]:
    """Every field of a set's parts that names gear, or a thing of the room, that is not there. A wall nobody named has
    no entry of its own: a name as it would get is none that is gone."""
    gear = {item.id for item in studio.gear}
    found = []
    for plan in studio.sets:
        for path, part in plan.places():
            for name, field in type(part).model_fields.items():
                key, extra = getattr(part, name), field.json_schema_extra
                if not key or not isinstance(extra, dict) or not ("gear" in extra or "list" in extra):
                    continue
                there = gear if "gear" in extra else {one.id for one in getattr(studio.room, str(extra["list"]))}
                if key not in there and not (extra.get("list") == "walls" and str(key).startswith("wall-")):
                    found.append(Gone(path, name, field.title or name, str(key), "gear" in extra))
    return found


def dangling(studio: Studio) -> list[str]:
    """Paths of fields that name a shot or gear the studio does not hold."""
    shots = {shot.id for shot in studio.shots}
    found = [f"sets/{plan.id}/shot" for plan in studio.sets if plan.shot not in shots]
    return found + [f"{one.path}/{one.field}" for one in gone(studio) if one.gear]


def undecided(studio: Studio) -> list[Item]:
    """What a set uses though it is only considered, in the kit's order."""
    wanted = {key for plan in studio.sets for key in used_by(plan)}
    return [item for item in studio.gear if item.id in wanted and not item.at_hand]
