"""What a studio only assumes, and which of it decides most: the lines whose verdict turns when it is off by its ±."""

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from typing import Any

from pydantic import ValidationError

from evrant.core.base.model import Model
from evrant.core.base.quantity import Figure
from evrant.core.edits import paths
from evrant.core.edits.language import EditRefused, SetFields
from evrant.core.judge.ledger import Ledger, ledger_of
from evrant.core.place.moves import change
from evrant.core.studio.studio import Studio

ASSUMED = "guess"
"""Origin of a figure nobody measured."""
NAMELESS = frozenset({"room", "room/footprint", "brief"})
"""Parts of a studio that people know by their figures only."""
MATTER = 3
"""How many things that matter most are named."""


@dataclass(frozen=True)
class Assumed:
    """A thing with figures nobody measured: its path, its name, the figures by field, with their titles."""

    target: str
    name: str
    figures: dict[str, Figure]
    titles: dict[str, str]


@dataclass(frozen=True)
class Deciding:
    """An assumed thing, and titles of the lines that turn when its figures are off by their ±."""

    thing: Assumed
    lines: tuple[str, ...] = field(default=())


def assumed(studio: Studio) -> tuple[Assumed, ...]:
    """Everything of room and brief that is a guess, thing by thing, in the document's order."""
    return (*_in(studio.room, "room", "Room"), *_in(studio.brief, "brief", "Brief"))


def _in(here: Model, path: str, name: str) -> Iterator[Assumed]:
    figures: dict[str, Figure] = {}
    titles: dict[str, str] = {}
    inner: list[Iterable[Assumed]] = []
    for key, info in type(here).model_fields.items():
        content = getattr(here, key)
        if isinstance(content, Figure) and content.stated_origin == ASSUMED:
            figures[key], titles[key] = content, info.title or key
        elif isinstance(content, Model):
            inner.append(_in(content, f"{path}/{key}", _name(content, info.title or key.replace("_", " "), name)))
        elif isinstance(content, tuple):
            inner += [
                _in(one, f"{path}/{key}/{one.id}", _name(one, key, name))
                for one in content
                if isinstance(one, Model) and hasattr(one, "id")
            ]
    if figures:
        yield Assumed(path, _plainly(titles.values()) if path in NAMELESS else name, figures, titles)
    for found in inner:
        yield from found


def _plainly(titles: Iterable[str]) -> str:
    """Figures by their titles, without what is said besides: length and width."""
    return " and ".join(title.split(" (")[0].split(",")[0].lower() for title in titles).capitalize()


def _name(thing: Model, word: str, owner: str) -> str:
    """What a part is called: by its own name, or by what it is of."""
    own = getattr(thing, "name", None)
    return own if isinstance(own, str) else word.capitalize() if owner == "Room" else f"{owner}, {word}"


def deciding(studio: Studio, stop: Callable[[], bool] = lambda: False) -> list[Deciding]:
    """What is assumed, what decides most first: each thing with all its figures larger by their ±, then smaller."""
    before = ledger_of(studio)
    found = []
    for thing in assumed(studio):
        turned: dict[str, str] = {}
        for sign in (1, -1):
            if stop():
                break
            after = _moved(studio, thing, sign)
            if after is not None:
                turned |= _turned(before, after)
        found.append(Deciding(thing, tuple(turned.values())))
    return sorted(found, key=lambda one: -len(one.lines))


def _moved(studio: Studio, thing: Assumed, sign: int) -> Ledger | None:
    """The ledger with a thing off by its ±; None where that is no room."""
    fields: Any = {
        key: {"value": max(figure.value + sign * figure.pm, 0.0), "pm": figure.pm, "origin": ASSUMED}
        for key, figure in thing.figures.items()
    }
    try:
        return ledger_of(change(studio, SetFields(target=thing.target, fields=fields)))
    except (EditRefused, ValidationError, paths.NoSuchThing):
        return None


def _turned(before: Ledger, after: Ledger) -> dict[str, str]:
    """Titles of lines that stand elsewhere now, by their keys."""
    old = {line.key: line.verdict for line in before.lines}
    return {line.key: line.title for line in after.lines if line.key in old and old[line.key] is not line.verdict}
