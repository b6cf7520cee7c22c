"""The five answers a plan begins with, and the studio they make: all else is usual, a guess, and said to be one."""

from collections.abc import Sequence
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, Field
from pydantic_core import PydanticCustomError

from evrant.core.base.model import Model, Slug
from evrant.core.base.quantity import Figure, RoomLength
from evrant.core.base.tables.countries import MAINS, Country
from evrant.core.base.units import show_length
from evrant.core.studio.brief import Money, Units
from evrant.core.studio.gear import Item
from evrant.core.studio.presets import preset
from evrant.core.studio.studio import Studio
from evrant.core.studio.typical import TYPICAL, guess, typical_room

MOST_SHOTS = 6
"""Kinds of picture asked for at once."""
USUAL_SESSIONS = 12
LOWEST = 1.5
"""A ceiling lower than this is another unit than was meant [m]."""
SETTER, STOOL = 1.69, 0.4
"""Height of who sets up, and of a step stool [m]; the first as in `presets`, the second common practice, no source."""


def _known_shot(name: str) -> str:
    if preset(name) is None:
        raise PydanticCustomError("shot", "“{name}” is none of the pictures offered.", {"name": name})
    return name


def _known_room(name: str) -> str:
    if name not in TYPICAL:
        raise PydanticCustomError("room", "“{name}” is none of: {known}.", {"name": name, "known": ", ".join(TYPICAL)})
    return name


def _upright(height: Figure | None) -> Figure | None:
    if height is not None and height.value < LOWEST:
        given = f"{show_length(height.value)} ({show_length(height.value, 'imperial')})"
        words = "Nobody stands under {given}: say the unit, as in 2.4 m or 8 ft."
        raise PydanticCustomError("low", words, {"given": given})
    return height


Picture = Annotated[str, AfterValidator(_known_shot)]
RoomLike = Annotated[str, AfterValidator(_known_room)]


class Where(Model):
    """The room: which usual one it is like, and what of it is known."""

    like: RoomLike = Field("empty room", title="It is like")
    shape: Literal["rectangle", "ell"] = Field("rectangle", title="Shape")
    length: RoomLength | None = Field(None, title="Length")
    width: RoomLength | None = Field(None, title="Width")
    height: Annotated[RoomLength | None, AfterValidator(_upright)] = Field(None, title="Ceiling height")
    window: Literal["yes", "no"] | None = Field(None, title="Has a window")


class Answers(Model):
    """What to take, where, with what, for how much, and what the room must bear.

    `have` are keys of the catalogue, or `telephone` for one with its lens.
    """

    take: tuple[Picture, ...] = Field(min_length=1, max_length=MOST_SHOTS, title="What you want to take")
    where: Where = Field(default_factory=Where, title="Where")
    have: tuple[Slug, ...] = Field((), max_length=40, title="What you have")
    spend: Money = Field(title="What you can spend")
    struck: bool = Field(True, title="Put away after every session")
    drill: Literal["owned", "rented, small holes allowed", "no drilling"] = Field(
        "no drilling", title="May walls and ceiling be drilled?"
    )
    country: Country = Field("other", title="Country")
    units: Units = Field("metric", title="Units")


def studio_of(answers: Answers, owned: Sequence[Item], name: str = "") -> Studio:
    """The studio five answers make; `owned` are the things `have` names, each once."""
    mains, where = MAINS.get(answers.country), answers.where
    shots = [_shot(number, picture) for number, picture in enumerate(dict.fromkeys(answers.take), start=1)]
    room = typical_room(
        where.like,
        *(None if one is None else one.value for one in (where.length, where.width, where.height)),
        ell=where.shape == "ell",
        window=None if where.window is None else where.window == "yes",
        breaker=mains.breaker if mains else None,
    )
    brief = {
        "country": answers.country,
        "units": answers.units,
        "currency": mains.currency if mains else "EUR",
        "budget": str(answers.spend),
        "tenure": answers.drill,
        "setter": guess(SETTER),
        "step": guess(STOOL),
        "schools": {"standing": "strike every time" if answers.struck else "leave it standing"},
    }
    gear = [item.model_dump(mode="json", exclude_none=True) | {"status": "owned"} for item in owned]
    return Studio.model_validate(
        {
            "format": "evrant-studio",
            "schema": 1,
            "name": name or f"{answers.take[0]}, {TYPICAL[where.like].words.lower()}"[:80],
            "brief": brief,
            "room": room,
            "shots": shots,
            "gear": gear,
        }
    )


def _shot(number: int, picture: str) -> dict[str, Any]:
    found = preset(picture)
    assert found is not None
    key = f"shot-{number}"
    return {**found.shot, "id": key, "name": picture, "priority": "must", "sessions": USUAL_SESSIONS}
