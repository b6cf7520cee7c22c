"""The list for the shop: what to look for in figures, never a make; and what to check when it arrives.

Where a set of the plan says what is needed, that is asked for; else the planned thing's own figure.
"""

import math
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, timedelta

from evrant.core.base.margins import Margin
from evrant.core.base.units import FOOT
from evrant.core.buying.costs import planned
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.rules.light.exposure import POWER_FULL, SHUTTER
from evrant.core.judge.rules.set.backdrop import BACKDROP_WIDTH
from evrant.core.judge.rules.support.support import HOLDER_LOAD, LOAD
from evrant.core.search.kit.case import PARTS_OF_LIGHT
from evrant.core.studio.gear import (
    Backdrop,
    Board,
    Flash,
    Holder,
    Item,
    Lamp,
    Lead,
    Lens,
    Modifier,
    Part,
    Stand,
    Table,
    Tent,
)
from evrant.core.studio.purchases import Purchase
from evrant.core.studio.room import value
from evrant.core.studio.sets import SetPlan
from evrant.core.studio.studio import Studio, by_id
from evrant.core.studio.words import Say, f_words, power_words

REMIND = 5
"""Days before the last day to send a thing back that it is brought to mind."""


@dataclass(frozen=True)
class MustHave:
    """A must-have figure in words, and how to check it on arrival (empty: by reading)."""

    words: str
    check: str = ""


@dataclass(frozen=True)
class Wanted:
    """One line of the list: the thing, how many, its phase, and what it must be able to do."""

    item: Item
    figures: tuple[MustHave, ...]

    @property
    def phase(self) -> int:
        return self.item.phase or 1


def shopping(studio: Studio) -> list[Wanted]:
    """Everything to be bought, by phase, dearest first."""
    lines = list(ledger_of(studio).lines)
    found = [Wanted(item, tuple(figures(item, studio, lines))) for item in planned(studio)]
    return sorted(found, key=lambda one: (one.phase, -(one.item.price or 0) * one.item.quantity, one.item.name))


def figures(item: Item, studio: Studio, lines: Iterable[Margin]) -> Iterable[MustHave]:  # noqa: C901
    """Must-have figures of a thing."""
    say, known = Say.of(studio.brief), list(lines)
    uses = [(plan, light.id) for plan in studio.sets for light in plan.lights if item.id in _of(light)]
    match item:
        case Flash():
            yield from _flash(item, _margins(known, uses, POWER_FULL.code), say)
        case Lamp():
            yield from _lamp(item, _margins(known, uses, SHUTTER.code))
        case Modifier():
            size = max(value(item.width) or 0.0, value(item.height) or 0.0)
            if size:
                yield MustHave(f"luminous face at least {say.length(size)}", "measure its face set up")
            if item.mount:
                yield MustHave(f"fits heads by {item.mount}", "put it on the head")
            if item.takes:
                yield MustHave(f"takes lamps up to {item.takes.value:.0f} W")
        case Stand():
            yield from _stand(item, known, uses, say)
        case Holder():
            yield from _holder(item, known, studio, say)
        case Backdrop():
            yield from _backdrop(item, known, studio, say)
        case Lens():
            if item.focal:
                long = f" to {item.focal_long.value * 1000:.0f}" if item.focal_long else ""
                yield MustHave(f"focal length {item.focal.value * 1000:.0f}{long} mm")
            if item.widest:
                yield MustHave(f"opens to {f_words(item.widest.value)} or wider")
        case Board():
            if item.width and item.height:
                yield MustHave(
                    f"at least {say.length(item.width.value)} × {say.length(item.height.value)}", "measure it"
                )
        case Table():
            if item.height:
                yield MustHave(f"top at {say.length(item.height.value)}", "measure its height")
            if item.load:
                yield MustHave(
                    f"carries at least {say.mass(item.load.value)}", "lean on it before anything stands on it"
                )
        case Tent():
            if item.width and item.height:
                yield MustHave(
                    f"at least {say.length(item.width.value)} wide and {say.length(item.height.value)} high",
                    "stand the largest thing in it: a hand's breadth must stay free all round",
                )
            if item.opening:
                yield MustHave(f"hole for the lens {say.length(item.opening.value)} or wider", "look in with the lens")
        case Lead():
            if item.length:
                yield MustHave(f"at least {say.length(item.length.value)} long", "lay it out beside the tape")
            if item.rating:
                yield MustHave(
                    f"rated {item.rating.value:.0f} A or more", "read the plug; warm by touch after an hour means back"
                )
        case Part():
            yield from _part(item, say)
    longest = _longest_place(studio)
    if item.packed_length is not None and longest is not None and item.packed_length.value > 0.5:
        yield MustHave(f"packed length at most {say.length(longest)}", "measure it folded")


def _of(light: object) -> set[str | None]:
    return {getattr(light, part) for part in (*PARTS_OF_LIGHT, "lead", "lead_on", "gel")}


def _margins(lines: list[Margin], uses: list[tuple[SetPlan, str]], code: str) -> list[float]:
    paths = {f"sets/{plan.id}/lights/{key}" for plan, key in uses}
    return [m.margin for m in lines if m.code == code and m.margin is not None and paths & set(m.about)]


def _flash(item: Flash, spare: list[float], say: Say) -> Iterable[MustHave]:
    if item.guide_number is not None:
        need = item.guide_number.value * 2 ** (-max(min(spare), 0.0) / 2) if spare else item.guide_number.value
        yield MustHave(f"guide number at least {_guide(need, say)} at ISO 100", "meter full power at one metre")
    elif item.energy is not None:
        yield MustHave(f"about {item.energy.value:.0f} Ws")
    if item.lowest_power:
        yield MustHave(
            f"goes down to {power_words(item.lowest_power)}", "meter the lowest power; each step must halve it"
        )
    if item.front:
        yield MustHave(f"takes modifiers by {item.front}")
    yield MustHave("fired by radio" + (", receiver built in" if item.receiver else ""), "fire it from the far corner")


def _guide(metres: float, say: Say) -> str:
    """A guide number in whole metres or feet, never less than is needed."""
    return f"{math.ceil(metres)} m" if say.units == "metric" else f"{math.ceil(metres / FOOT)} ft"


def _lamp(item: Lamp, spare: list[float]) -> Iterable[MustHave]:
    if item.lumens is not None:
        need = item.lumens.value * 2 ** -max(min(spare), 0.0) if spare else item.lumens.value
        yield MustHave(f"at least {math.ceil(need / 50) * 50} lm", "meter it at one metre")
    if item.kelvin:
        yield MustHave(f"{item.kelvin.value:.0f} K, the same for all lamps", "a grey card under each in turn")
    if item.flicker == "none":
        yield MustHave("free of flicker", "film it at your shutter, dimmed half")


def _stand(item: Stand, lines: list[Margin], uses: list[tuple[SetPlan, str]], say: Say) -> Iterable[MustHave]:
    paths = {f"sets/{plan.id}/lights/{key}" for plan, key in uses}
    needs = [m.need for m in lines if m.code == LOAD.code and m.need and paths & set(m.about)]
    load = max(needs) if needs else value(item.load)
    if load:
        yield MustHave(f"load at least {say.mass(load)}", "hang that much on it, drawn out, over a mattress")
    heights = [light.height for plan, key in uses for light in plan.lights if light.id == key and light.height]
    high = max(heights) if heights else value(item.max_height)
    if high:
        yield MustHave(f"reaches at least {say.length(high)}", "measure it drawn out")
    if item.foot_radius:
        yield MustHave(f"leg circle about {say.length(item.foot_radius.value)} in radius", "measure from column to toe")
    if item.top:
        yield MustHave(f"ends in a {item.top}")


def _holder(item: Holder, lines: list[Margin], studio: Studio, say: Say) -> Iterable[MustHave]:
    paths = {f"sets/{plan.id}/background" for plan in studio.sets if plan.background.holder == item.id}
    needs = [m.need for m in lines if m.code == HOLDER_LOAD.code and m.need and paths & set(m.about)]
    load = max(needs) if needs else value(item.load)
    if load:
        yield MustHave(f"carries at least {say.mass(load)}", "hang the roll and look along the bar")
    if item.max_width:
        yield MustHave(f"spans at least {say.length(item.max_width.value)}", "measure the bar drawn out")
    if item.max_height:
        yield MustHave(f"reaches {say.length(item.max_height.value)}", "measure it set up")


def _backdrop(item: Backdrop, lines: list[Margin], studio: Studio, say: Say) -> Iterable[MustHave]:
    paths = {f"sets/{plan.id}/background" for plan in studio.sets if plan.background.backdrop == item.id}
    needs = [m.need for m in lines if m.code == BACKDROP_WIDTH.code and m.need and paths & set(m.about)]
    wide = max(needs) if needs else value(item.width)
    if wide:
        yield MustHave(f"at least {say.length(wide)} wide", "measure it at both ends")
    if item.length:
        yield MustHave(f"at least {say.length(item.length.value)} long")
    if item.reflectance:
        yield MustHave(f"reflects about {item.reflectance.value:.0f} %, matt", "a frame beside a grey card")


def _part(item: Part, say: Say) -> Iterable[MustHave]:
    if item.use == "weight" and item.mass:
        yield MustHave(f"{say.mass(item.mass.value)} when filled", "put it on a scale")
    if item.below and item.above:
        yield MustHave(f"from {item.below} to {item.above}", "put it between both")
    if item.length:
        yield MustHave(f"at least {say.length(item.length.value)} long")
    if item.rating:
        yield MustHave(f"rated {item.rating.value:.0f} W or more")


def _longest_place(studio: Studio) -> float | None:
    """Longest thing that goes into any place, corner to corner [m]."""
    found = []
    for place in studio.room.places:
        sides = [value(side) for side in (place.length, place.width, place.height)]
        if all(sides):
            found.append(sum((side or 0.0) ** 2 for side in sides) ** 0.5)
    return max(found, default=None)


@dataclass(frozen=True)
class Reminder:
    """A purchase whose last day to go back is near, or past."""

    purchase: Purchase
    name: str
    last: date
    days: int


def last_day(studio: Studio, one: Purchase) -> date | None:
    """The day until which a thing can go back: as typed, else by the shop's days from arrival."""
    if one.return_by:
        return date.fromisoformat(one.return_by)
    shop = by_id(studio.shops, one.shop)
    arrived = one.arrived or one.bought
    if shop is None or shop.return_days is None or arrived is None:
        return None
    start = date.fromisoformat(arrived)
    return start + timedelta(days=min(shop.return_days, (date.max - start).days))


def reminders(studio: Studio, today: date) -> list[Reminder]:
    """Purchases not yet found as sold whose last day is near, soonest first."""
    found = []
    for one in studio.purchases:
        last = last_day(studio, one)
        if last is None or one.checked or one.returned:
            continue
        days = (last - today).days
        if days <= REMIND:
            item = by_id(studio.gear, one.item)
            found.append(Reminder(one, item.name if item else one.item, last, days))
    return sorted(found, key=lambda one: one.last)
