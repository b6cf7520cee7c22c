"""The market: what is owned and what could be bought, in one currency, without what is plainly beaten."""

import json
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from decimal import Decimal
from functools import cached_property

from evrant.core.base.tables.countries import Country, lead_sizes
from evrant.core.base.tables.money import converted
from evrant.core.studio.gear import Item, Lead
from evrant.core.studio.studio import Studio, by_id

UNSEEN = frozenset(
    {
        "id",
        "name",
        "status",
        "quantity",
        "price",
        "currency",
        "priced",
        "condition",
        "made_from",
        "rent",
        "resale",
        "lasts",
        "phase",
        "shop",
        "library",
        "notes",
    }
)
"""Fields that geometry, light and load cannot see."""
LESS = ("mass", "packed_length", "packed_width", "packed_height")
MORE = ("load",)
WEIGHS = frozenset({"stand", "holder", "part", "table"})
"""Kinds whose own weight steadies them: less is not better there."""


@dataclass(frozen=True, eq=False)
class Good:
    """Something a shot can be made with: how many are owned, and what one more costs [cents], None when it is not
    for sale; or what it is rented for [cents a day]."""

    item: Item
    owned: int
    cents: int | None
    rent: int | None = None

    @property
    def key(self) -> str:
        return self.item.id

    @cached_property
    def look(self) -> str:
        """What geometry, light and load can see of it: equal for things that differ in name and price only."""
        return json.dumps(self.item.model_dump(mode="json", exclude_none=True, exclude=set(UNSEEN)), sort_keys=True)


@dataclass(frozen=True)
class Dropped:
    """A thing the search leaves out, and why, in words."""

    key: str
    name: str
    why: str


@dataclass(frozen=True)
class Market:
    """What is left to choose from, and what was dropped."""

    goods: tuple[Good, ...]
    dropped: tuple[Dropped, ...]
    currency: str

    @cached_property
    def by_key(self) -> dict[str, Good]:
        return {good.key: good for good in self.goods}

    def of(self, *kinds: str) -> list[Good]:
        return [good for good in self.goods if good.item.kind in kinds]


def market(studio: Studio, library: Sequence[Item]) -> Market:
    """Everything owned, planned or considered, and the library, in the studio's currency."""
    currency = studio.brief.currency
    goods: list[Good] = []
    taken: set[str] = set()
    for item in studio.gear:
        owned = item.quantity if item.status == "owned" else 0
        cents = None if item.price is None or owned else _cents(item.price, item.currency, currency)
        rent = None if item.rent is None or owned else _cents(item.rent, item.currency, currency)
        taken.add(item.id)
        if item.condition == "rented" and not owned:
            goods.append(Good(item, 0, None, rent))
            continue
        goods.append(Good(item, owned, cents))
        hired = _rented(item)
        if rent is not None and item.kind != "part" and by_id(studio.gear, hired.id) is None and hired.id not in taken:
            goods.append(Good(hired, 0, None, rent))
            taken.add(hired.id)
    named = {item.library for item in studio.gear if item.status != "owned"} - {None}
    foreign: list[Dropped] = []
    for item in library:
        if item.price is None or item.name in named:
            continue
        if not _plugs_in(item, studio.brief.country):
            foreign.append(Dropped(item.id, item.name, "it is made for sockets of other countries"))
            continue
        key = item.id if item.id not in taken else f"{item.id[:43]}-new"
        if key in taken:
            continue
        taken.add(key)
        price = converted(item.price, item.currency, currency)
        fresh = item.changed(id=key, price=price, currency=currency, status="planned", quantity=1)
        goods.append(Good(fresh, 0, _cents(price, currency, currency)))
    usable = [good for good in goods if good.owned or good.cents is not None or good.rent is not None]
    kept, dropped = undominated(usable)
    priceless = [Dropped(good.key, good.item.name, "it has no price") for good in goods if good not in usable]
    return Market(tuple(kept), (*dropped, *priceless, *foreign), currency)


def _plugs_in(item: Item, country: Country) -> bool:
    """Whether a lead has the plug of a country: its size is one that leads are sold in there."""
    return not isinstance(item, Lead) or item.conductor is None or item.conductor in lead_sizes(country)


def _rented(item: Item) -> Item:
    """The same thing by the day: it costs nothing to have, and its rent for each session that uses it."""
    fields = {"id": f"{item.id[:42]}-rented", "name": f"{item.name[:70]}, rented", "condition": "rented"}
    return item.changed(**fields, status="planned", quantity=1, price=Decimal(0))


def _cents(amount: Decimal, currency: str, wanted: str) -> int:
    return int((converted(amount, currency, wanted) * 100).to_integral_value())


def undominated(goods: Iterable[Good]) -> tuple[list[Good], list[Dropped]]:
    """Goods of which none is equal or better in every figure and no dearer; and the others with what beats them.

    Only figures of which more is plainly better (load) or less (packed size; mass, where weight steadies nothing)
    are compared; in all others two things must be equal. What is owned is never dropped.
    """
    kept: list[Good] = []
    dropped: list[Dropped] = []
    for good in sorted(goods, key=lambda g: (not g.owned, g.cents or 0, g.key)):
        better = next((one for one in kept if not good.owned and beats(one, good)), None)
        if better is None:
            kept.append(good)
        else:
            words = f"the {better.item.called} is as good in every figure and costs {_words(better, good)}"
            dropped.append(Dropped(good.key, good.item.name, words))
    return kept, dropped


def _words(better: Good, good: Good) -> str:
    return "no more" if better.cents == good.cents else "less"


def beats(one: Good, other: Good) -> bool:
    """Whether `one` does all that `other` does, for no more money."""
    if one.item.kind != other.item.kind or one.cents is None or other.cents is None or one.cents > other.cents:
        return False
    if getattr(one.item, "use", "") == "other":
        return False
    first, second = one.item.model_dump(exclude=set(UNSEEN)), other.item.model_dump(exclude=set(UNSEEN))
    less = LESS[1:] if one.item.kind in WEIGHS else LESS
    for name, mine in first.items():
        theirs = second[name]
        if mine == theirs:
            continue
        if not (isinstance(mine, float) and isinstance(theirs, float)):
            return False
        lighter = name in less and mine <= theirs
        stronger = name in MORE and mine >= theirs
        if not (lighter or stronger):
            return False
    return True
