"""What it really costs: delivered and taxed, bought and sent back; and what it costs to run, a year and a session."""

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from decimal import Decimal, localcontext

from evrant.core.studio.gear import Backdrop, Item
from evrant.core.studio.purchases import Purchase, Shop
from evrant.core.studio.room import value
from evrant.core.studio.studio import Studio, by_id
from evrant.core.studio.words import Say

USUAL_CUT = 0.25
"""Paper cut off a session on average where nothing is said [m]; common practice, no source."""
CENT = Decimal("0.01")
SHORTEST_LIFE = Decimal("0.003")
"""Nothing lasts less than about a day, as a share of a year."""


def cents(amount: Decimal) -> Decimal:
    """A sum to the cent, however large."""
    with localcontext(prec=60):
        return amount.quantize(CENT)


def years_of(lasts: float) -> Decimal:
    """How long a thing lasts [years]."""
    return max(Decimal(str(lasts)), SHORTEST_LIFE)


@dataclass(frozen=True)
class Order:
    """What is still to be bought at one shop: goods, tax added, delivery, and what is short of free delivery."""

    shop: Shop | None
    items: tuple[Item, ...]
    goods: Decimal
    tax: Decimal
    delivery: Decimal
    to_free: Decimal | None

    @property
    def total(self) -> Decimal:
        return self.goods + self.tax + self.delivery


def planned(studio: Studio) -> list[Item]:
    """Everything to be bought."""
    return [item for item in studio.gear if item.status == "planned"]


def orders(studio: Studio) -> list[Order]:
    """What is to be bought, by shop; what has no shop yet comes last."""
    by_shop: dict[str | None, list[Item]] = defaultdict(list)
    for item in planned(studio):
        known = by_id(studio.shops, item.shop)
        by_shop[known.id if known else None].append(item)
    found = []
    for key, items in sorted(by_shop.items(), key=lambda pair: (pair[0] is None, pair[0] or "")):
        shop = by_id(studio.shops, key)
        goods = sum((item.price * item.quantity for item in items if item.price is not None), Decimal(0))
        tax = Decimal(0)
        if shop and shop.tax == "added" and shop.tax_rate:
            tax = cents(goods * Decimal(str(shop.tax_rate)) / 100)
        delivery, to_free = Decimal(0), None
        if shop and shop.delivery:
            free = shop.free_from is not None and goods + tax >= shop.free_from
            delivery = Decimal(0) if free else shop.delivery
            to_free = None if free or shop.free_from is None else shop.free_from - goods - tax
        found.append(Order(shop, tuple(items), goods, tax, delivery, to_free))
    return found


def to_spend(studio: Studio) -> Decimal:
    """What the plan still costs, delivered and taxed, in the brief's currency."""
    return sum((order.total for order in orders(studio)), Decimal(0))


def kept_purchases(studio: Studio) -> list[Purchase]:
    return [one for one in studio.purchases if one.returned is None]


def spent(studio: Studio) -> Decimal:
    """What was paid and is not coming back: things kept, deliveries, and what sending back cost."""
    total = Decimal(0)
    for one in studio.purchases:
        if one.returned is None:
            total += one.paid or Decimal(0)
        total += (one.delivery or Decimal(0)) + (one.return_cost or Decimal(0))
    return total


@dataclass(frozen=True)
class Actual:
    """One thing bought against what was planned for it."""

    purchase: Purchase
    item: Item | None
    planned: Decimal | None
    paid: Decimal | None

    @property
    def dearer(self) -> Decimal | None:
        return None if self.planned is None or self.paid is None else self.paid - self.planned


def against_plan(studio: Studio) -> list[Actual]:
    """Every purchase with the plan's price for it."""
    found = []
    for one in studio.purchases:
        item = by_id(studio.gear, one.item)
        price = None if item is None or item.price is None else item.price * one.count
        found.append(Actual(one, item, price, one.paid))
    return found


@dataclass(frozen=True)
class Running:
    """Something that costs every year, and why."""

    word: str
    yearly: Decimal
    why: str


def sessions(studio: Studio) -> int | None:
    """Sessions a year of all shots; None while no shot says."""
    known = [shot.sessions for shot in studio.shots if shot.sessions is not None]
    return sum(known) if known else None


def running(studio: Studio) -> list[Running]:
    """What the room costs a year: paper by the metre, wear, rent, upkeep; dearest first."""
    count = sessions(studio) or 0
    found: list[Running] = []
    for item in studio.gear:
        if not item.at_hand:
            continue
        found += _of_item(item, studio, count)
    for one in studio.upkeep:
        if one.price is None:
            continue
        match one.every:
            case "month":
                found.append(Running(one.name, one.price * 12, "paid each month"))
            case "year":
                found.append(Running(one.name, one.price, "paid each year"))
            case "session":
                found.append(Running(one.name, one.price * count, f"paid each session, {count} a year"))
            case "once":
                years = years_of(one.lasts or 5)
                found.append(Running(one.name, cents(one.price / years), f"bought once, lasts {years:g} years"))
    return sorted((one for one in found if one.yearly > 0), key=lambda one: -one.yearly)


def _of_item(item: Item, studio: Studio, count: int) -> Iterable[Running]:
    say = Say.of(studio.brief)
    if item.condition == "rented" and item.rent is not None:
        yield Running(item.name, item.rent * count * item.quantity, f"rented for {count} sessions a year")
        return
    if item.price is None:
        return
    price = item.price * item.quantity
    if isinstance(item, Backdrop) and item.material == "paper" and item.length is not None:
        used = _sessions_on(item, studio)
        cut = value(item.cut) or USUAL_CUT
        share = Decimal(str(round(min(cut * used / item.length.value, 20.0), 4)))
        said = "" if item.cut else ", as is usual"
        if used:
            yield Running(
                item.name,
                cents(item.price * share),
                f"{say.length(cut)} cut off each of {used} sessions{said}",
            )
        return
    if item.lasts and item.condition not in ("borrowed",):
        worth = max(price - (item.resale or Decimal(0)) * item.quantity, Decimal(0))
        yearly = cents(worth / years_of(item.lasts))
        sold = f", sold on for {say.money(float(item.resale))}" if item.resale else ""
        yield Running(item.name, yearly, f"lasts about {item.lasts:g} years{sold}")


def _sessions_on(item: Item, studio: Studio) -> int:
    """Sessions a year of the shots whose sets hang a background."""
    shots = {plan.shot for plan in studio.sets if plan.background.backdrop == item.id}
    return sum(shot.sessions or 0 for shot in studio.shots if shot.id in shots)


def per_session(studio: Studio) -> Decimal | None:
    """Running costs a session; None while no shot says how often."""
    count = sessions(studio)
    if not count:
        return None
    return cents(sum((one.yearly for one in running(studio)), Decimal(0)) / count)
