"""What sessions used up and wore down, by the log: paper left, charges, lamp hours, breakages, and the money."""

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from evrant.core.buying.costs import cents
from evrant.core.studio.gear import Backdrop, Flash, Item, Lamp
from evrant.core.studio.log import Entry, Session
from evrant.core.studio.studio import Studio, by_id
from evrant.core.studio.words import Say

LOW = 3
"""A roll with paper for no more than so many sessions is to be replaced; project choice."""
BULB_HOURS = {"filament": 1000.0, "compact fluorescent": 8000.0, "LED": 25000.0}
"""Hours a lamp burns; usual figures on packs, from memory."""


@dataclass(frozen=True)
class Worn:
    """A thing with what is left of it: words, the share left (0 to 1) where it can be told, and whether to replace it
    now."""

    item: str
    name: str
    words: str
    left: float | None
    now: bool


def entries(studio: Studio) -> list[tuple[Session, Entry]]:
    """Every line of every session's log."""
    return [(session, entry) for session in studio.sessions for entry in session.entries]


def worn(studio: Studio, today: str) -> list[Worn]:
    """What the log says of paper, lamps and breakages, and what age says of the rest; what is to be replaced first."""
    found = [*_used(studio), *_aged(studio, today)]
    return sorted(found, key=lambda one: (not one.now, one.left if one.left is not None else 2.0))


def _used(studio: Studio) -> Iterator[Worn]:
    say = Say.of(studio.brief)
    sums: dict[tuple[str, str], list[float]] = defaultdict(list)
    for _, entry in entries(studio):
        if entry.item is not None:
            sums[entry.item, entry.kind].append(entry.amount or 0.0)
    for (key, kind), amounts in sums.items():
        item = by_id(studio.gear, key)
        if item is None:
            continue
        total = sum(amounts)
        if kind == "cut off" and isinstance(item, Backdrop) and item.length is not None:
            yield _roll(item, total, len(amounts), say)
        elif kind == "lamp hours" and isinstance(item, Lamp):
            life = BULB_HOURS.get(item.technology or "LED", 25000.0)
            left = max(1 - total / life, 0.0)
            yield Worn(key, item.name, f"has burnt {total:.0f} of about {life:.0f} h", left, left < 0.1)
        elif kind == "flashes" and isinstance(item, Flash):
            yield Worn(key, item.name, f"has fired {total:.0f} flashes by the log", None, False)
        elif kind == "batteries":
            yield Worn(key, item.name, f"has taken {total:g} charges by the log", None, False)
        elif kind == "broke":
            yield Worn(key, item.name, "broke: mend or replace it", 0.0, True)


def _roll(item: Backdrop, total: float, times: int, say: Say) -> Worn:
    assert item.length is not None
    left = max(item.length.value - total, 0.0)
    each = total / times
    more = int(left / each) if each > 0 else None
    words = f"{say.length(left)} left of {say.length(item.length.value)}"
    if more is not None:
        words += f", at {say.length(each)} a session enough for {more} more"
    return Worn(item.id, item.name, words, left / item.length.value, more is not None and more <= LOW)


def _aged(studio: Studio, today: str) -> Iterator[Worn]:
    for purchase in studio.purchases:
        item = by_id(studio.gear, purchase.item)
        if item is None or purchase.bought is None or purchase.returned is not None or not item.lasts:
            continue
        years = (date.fromisoformat(today) - date.fromisoformat(purchase.bought)).days / 365.25
        left = max(1 - years / item.lasts, 0.0)
        words = f"{max(years, 0.0):.1f} of about {item.lasts:g} years old"
        yield Worn(item.id, item.name, words, min(left, 1.0), left <= 0.05)


@dataclass(frozen=True)
class Used:
    """What a session really used, and what that is worth in the studio's currency; None where a price is missing."""

    words: str
    cost: Decimal | None


def used_in(studio: Studio, session: Session) -> list[Used]:
    """A session's use by its log."""
    say = Say.of(studio.brief)
    found = []
    for entry in session.entries:
        item = by_id(studio.gear, entry.item)
        if item is None or entry.amount is None:
            continue
        cost = _cost(item, entry)
        match entry.kind:
            case "cut off":
                found.append(Used(f"{say.length(entry.amount)} of {item.called}", cost))
            case "batteries":
                found.append(Used(f"{entry.amount:g} charges of {item.called}", cost))
            case "lamp hours":
                found.append(Used(f"{entry.amount:g} h of {item.called}", cost))
            case "flashes":
                found.append(Used(f"{entry.amount:.0f} flashes of {item.called}", cost))
    for item in studio.gear:
        if item.condition == "rented" and item.rent is not None:
            found.append(Used(f"rent of {item.called}", item.rent * item.quantity))
    return found


def _cost(item: Item, entry: Entry) -> Decimal | None:
    if item.price is None or entry.amount is None:
        return None
    if entry.kind == "cut off" and isinstance(item, Backdrop) and item.length is not None:
        return cents(item.price * Decimal(str(min(entry.amount / item.length.value, 1.0))))
    if entry.kind == "lamp hours" and isinstance(item, Lamp):
        life = BULB_HOURS.get(item.technology or "LED", 25000.0)
        return cents(item.price * Decimal(str(min(entry.amount / life, 1.0))))
    return Decimal(0) if entry.kind == "batteries" else None


def total(used: list[Used]) -> Decimal:
    """The sum of what has a price."""
    return sum((one.cost for one in used if one.cost is not None), Decimal(0))
