"""What is carried out: sessions with what was done in them, and the readings that tell how the room really is."""

import re
from typing import Annotated, Literal

from pydantic import AfterValidator, Field
from pydantic_core import PydanticCustomError

from evrant.core.base.model import Keeper, Model, Name, Note, Slug
from evrant.core.studio.brief import Day
from evrant.core.studio.sets import SetPlan


def _clock(text: str) -> str:
    found = re.fullmatch(r"([01]?[0-9]|2[0-3])[:.]([0-5][0-9])", text.strip())
    if not found:
        raise PydanticCustomError("clock", "Write a time of day as hours and minutes, such as 9:30 or 14:05.")
    return f"{int(found[1]):02d}:{found[2]}"


Clock = Annotated[str, Field(max_length=40), AfterValidator(_clock)]
Amount = Annotated[float, Field(ge=0, le=1_000_000)]


class Attendee(Model):
    """Someone who comes to a session."""

    id: Slug
    name: Name = Field("Someone", title="Who")
    comes: Clock | None = Field(None, title="Comes at (empty: in time for the first set)")
    only: Slug | None = Field(None, title="Only for the set", json_schema_extra={"list": "sets"})


class Done(Model):
    """A step of a session that is done, by its name on the list."""

    id: Slug
    at: Clock | None = None


EntryKind = Literal["note", "changed", "broke", "took", "cut off", "flashes", "batteries", "lamp hours"]
"""What an entry counts: minutes a set took, metres cut off a roll, flashes fired, charges used, hours lamps burnt."""


class Entry(Model):
    """A line of the log."""

    id: Slug
    kind: EntryKind = Field("note", title="What")
    set: Slug | None = Field(None, title="In the set", json_schema_extra={"list": "sets"})
    item: Slug | None = Field(None, title="Of the thing", json_schema_extra={"list": "any gear"})
    amount: Amount | None = Field(None, title="How much")
    text: Note = Field("", title="In words")


class Session(Keeper):
    """A day's work: which sets, who comes and when, what was done and used."""

    id: Slug
    name: Name = Field("Session", title="Name")
    day: Day | None = Field(None, title="Day", json_schema_extra={"show": "day"})
    start: Clock | None = Field(None, title="Setting up begins at")
    quiet_from: Clock | None = Field(None, title="Neighbours want quiet from")
    only: tuple[Slug, ...] = Field((), max_length=40)
    break_after: Annotated[int, Field(ge=15, le=600)] = Field(90, title="A break after (minutes)")
    break_minutes: Annotated[int, Field(ge=0, le=180)] = Field(10, title="It takes (minutes)")
    practised: bool = Field(False, title="All are practised (else times three)")
    helper: bool = Field(False, title="Somebody helps to set up")
    people: tuple[Attendee, ...] = Field((), max_length=30)
    done: tuple[Done, ...] = Field((), max_length=600)
    entries: tuple[Entry, ...] = Field((), max_length=300)


class AsSet(Model):
    """A set as it stood when readings were taken, every power spelt out: what they are forecast from for good."""

    id: Slug
    plan: SetPlan


ReadingKind = Literal[
    "meter: aperture", "meter: lux", "meter: EV at ISO 100", "grey card in a frame", "background in a frame"
]
MeteredBy = Literal["light meter", "test frame", "simulated light meter", "simulated camera"]


class Reading(Model):
    """What a meter or a test frame told at the mark, or of the background, and what was lit for it.

    Empty settings are those of the shot, an empty power that of the set, an empty distance the plan's.
    """

    id: Slug
    set: Slug = Field(title="In the set", json_schema_extra={"list": "sets"})
    as_set: Slug | None = Field(None, title="As it stood", json_schema_extra={"list": "as_set"})
    session: Slug | None = Field(None, title="In the session", json_schema_extra={"list": "sessions"})
    kind: ReadingKind = Field("meter: aperture", title="Read as")
    light: Slug | None = Field(None, title="With this light alone (empty: all of them)")
    without_flash: bool = Field(False, title="Without flash")
    reads: Annotated[float, Field(gt=0, le=300_000)] | None = Field(None, title="It reads")
    pm: Annotated[float, Field(gt=0, le=5)] | None = Field(
        None, title="± in stops (empty: usual)", json_schema_extra={"show": "stop"}
    )
    aperture: Annotated[float, Field(ge=0.5, le=128)] | None = Field(
        None, title="Taken at aperture", json_schema_extra={"show": "f"}
    )
    iso: Annotated[int, Field(ge=12, le=409_600)] | None = Field(None, title="Taken at ISO")
    shutter: Annotated[float, Field(ge=1 / 16000, le=3600)] | None = Field(
        None, title="Taken at shutter time", json_schema_extra={"show": "time"}
    )
    power: Annotated[float, Field(gt=0, le=1)] | None = Field(
        None, title="The light's power, as it was really set", json_schema_extra={"show": "fraction"}
    )
    distance: Annotated[float, Field(ge=0.1, le=15)] | None = Field(
        None, title="Its real distance from the subject", json_schema_extra={"show": "length"}
    )
    height: Annotated[float, Field(ge=0, le=10)] | None = Field(
        None, title="Its real height", json_schema_extra={"show": "length"}
    )
    by: MeteredBy = Field("light meter", title="Read with")
    day: Day | None = Field(None, title="On", json_schema_extra={"show": "day"})
    counts: Literal["if it fits", "yes", "no"] = Field("if it fits", title="It counts")
    """Whether it corrects the model: one that contradicts everything else is asked about first."""
