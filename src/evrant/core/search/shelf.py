"""A shelf of gear: what suits a room and a kit, and what the ledger says when a thing takes another's place."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from evrant.core.base.margins import Margin, Verdict
from evrant.core.base.tables.money import converted
from evrant.core.judge.ledger import Ledger, ledger_of
from evrant.core.stowage.packing import pack
from evrant.core.stowage.pieces import is_measured, pieces_of, spaces_of
from evrant.core.studio.gear import Flash, Holder, Item, Lamp, Modifier, Stand, Table, Tent
from evrant.core.studio.room import value
from evrant.core.studio.sets import SetPlan, used_by
from evrant.core.studio.studio import Studio, by_id

OVER = 0.10
"""Air between a thing and the ceiling [m]; project choice."""
POLES = "floor-to-ceiling poles"
MOST_TITLES = 4


@dataclass(frozen=True)
class Wish:
    """What is looked for. Empty: anything."""

    words: str = ""
    kind: str = ""
    most: Decimal | None = None
    under_ceiling: bool = False
    carries: bool = False
    lives: bool = False


@dataclass(frozen=True)
class Found:
    """A thing of the shelf; whether it stands under the ceiling, carries the heaviest light and goes into a place for
    things: True, False, or None where that is not known or does not apply."""

    item: Item
    price: Decimal | None
    under_ceiling: bool | None
    carries: bool | None
    lives: bool | None


def shelf(studio: Studio, library: Iterable[Item], wish: Wish) -> tuple[Found, ...]:
    """What is offered, and one's own things first, that answers the wish; what is not known is left in."""
    own = {item.id for item in studio.gear}
    items = [*studio.gear, *(item for item in library if item.id not in own)]
    words = wish.words.lower().split()
    found = []
    for item in items:
        if wish.kind and item.kind != wish.kind:
            continue
        if not all(word in item.name.lower() or word in item.kind for word in words):
            continue
        price = _price(item, studio)
        if wish.most is not None and price is not None and price > wish.most:
            continue
        one = Found(item, price, under_ceiling(item, studio), carries(item, studio), lives(item, studio))
        asked = ((wish.under_ceiling, one.under_ceiling), (wish.carries, one.carries), (wish.lives, one.lives))
        if not any(on and answer is False for on, answer in asked):
            found.append(one)
    return tuple(found)


def _price(item: Item, studio: Studio) -> Decimal | None:
    return None if item.price is None else converted(item.price, item.currency, studio.brief.currency)


def under_ceiling(item: Item, studio: Studio) -> bool | None:
    """Whether its least height, or its face, leaves air under the flat ceiling; poles must reach it."""
    high = value(studio.room.height)
    if high is None:
        return None
    match item:
        case Holder(system="floor-to-ceiling poles", min_height=low, max_height=top):
            return None if low is None or top is None else low.value <= high <= top.value
        case Stand(use="floor-to-ceiling pole", min_height=low, max_height=top):
            return None if low is None or top is None else low.value <= high <= top.value
        case Stand(min_height=least) | Holder(min_height=least):
            pass
        case Modifier(height=tall, width=wide):
            least = tall or wide
        case Table(height=least) | Tent(height=least):
            pass
        case _:
            return None
    return None if least is None else least.value + OVER <= high


def carries(item: Item, studio: Studio) -> bool | None:
    """Whether a stand bears the heaviest head of the kit with its heaviest modifier on it."""
    if not isinstance(item, Stand) or item.use in ("tripod", "copy arm") or item.load is None:
        return None
    at_hand = [one for one in studio.gear if one.at_hand]
    heads = [one.mass.value for one in at_hand if isinstance(one, (Flash, Lamp)) and one.mass]
    fronts = [one.mass.value for one in at_hand if isinstance(one, Modifier) and one.mass]
    return None if not heads else item.load.value >= max(heads) + max(fronts, default=0.0)


def lives(item: Item, studio: Studio) -> bool | None:
    """Whether one of it, alone, goes into one of the places for things."""
    spaces = spaces_of(studio.room.places)
    if not spaces or not is_measured(item):
        return None
    alone = item.changed(quantity=1, status="owned", stowed=item.stowed)
    return not pack(pieces_of([alone]), spaces, first=True).left


@dataclass(frozen=True)
class Compared:
    """A thing in another's place: what it replaced (None: nothing, it is only added), the counts of verdicts, and
    titles of lines it lifts out of Short and of those it makes Short."""

    item: Item
    instead: Item | None
    short: int
    tight: int
    clear: int
    lifts: tuple[str, ...]
    breaks: tuple[str, ...]


def compared(studio: Studio, items: Sequence[Item]) -> tuple[Compared, ...]:
    """Each thing judged in the place of the one the sets use for the same end."""
    before = _shorts(ledger_of(studio))
    return tuple(_compared(studio, item, before) for item in items)


def in_its_place(studio: Studio, item: Item) -> tuple[Studio, str | None]:
    """The studio with a thing in the place of the one its sets use for the same end, and a set that uses it."""
    old = _place_of(studio, item)
    after = _instead(studio, item, old)
    return after, next((plan.id for plan in after.sets if item.id in used_by(plan)), None)


def _compared(studio: Studio, item: Item, before: dict[str, Margin]) -> Compared:
    old = _place_of(studio, item)
    after = ledger_of(_instead(studio, item, old))
    now = _shorts(after)
    count = {verdict: sum(line.verdict is verdict for line in after.lines) for verdict in Verdict}
    return Compared(
        item,
        old,
        count[Verdict.SHORT],
        count[Verdict.TIGHT],
        count[Verdict.CLEAR],
        _titles(before, now),
        _titles(now, before),
    )


def _shorts(ledger: Ledger) -> dict[str, Margin]:
    return {line.key: line for line in ledger.lines if line.verdict is Verdict.SHORT}


def _titles(these: dict[str, Margin], without: dict[str, Margin]) -> tuple[str, ...]:
    names = dict.fromkeys(line.title for key, line in these.items() if key not in without)
    return tuple(names)[:MOST_TITLES]


def _place_of(studio: Studio, item: Item) -> Item | None:
    """What the sets use for the same end, or None: where they use the thing itself, it is judged as it is."""
    used = [key for plan in studio.sets for key in used_by(plan)]
    if item.id in used:
        return None
    things = (by_id(studio.gear, key) for key in used)
    same = (one for one in things if one is not None and one.kind == item.kind)
    return next((one for one in same if getattr(one, "use", None) == getattr(item, "use", None)), None)


def _instead(studio: Studio, item: Item, old: Item | None) -> Studio:
    gear: tuple[Item, ...] = studio.gear
    held = by_id(gear, item.id)
    if held is None:
        gear = (*gear, item.changed(status="planned", quantity=old.quantity if old else 1))
    elif not held.at_hand:
        gear = tuple(one.changed(status="planned") if one.id == item.id else one for one in gear)
    sets = studio.sets
    if old is not None:
        sets = tuple(
            SetPlan.model_validate(_renamed(plan.model_dump(mode="json", exclude_none=True), old.id, item.id))
            for plan in sets
        )
        if old.status == "planned":
            gear = tuple(one.changed(status="considered") if one.id == old.id else one for one in gear)
    return studio.changed(gear=gear, sets=sets)


def _renamed(data: Any, old: str, new: str) -> Any:
    """References to a thing turned to another; ids and names of parts stay."""
    if isinstance(data, dict):
        return {key: one if key in ("id", "name") else _renamed(one, old, new) for key, one in data.items()}
    if isinstance(data, list):
        return [_renamed(one, old, new) for one in data]
    return new if data == old else data
