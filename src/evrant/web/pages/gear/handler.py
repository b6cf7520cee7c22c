"""Gear as things: a shelf to scale, searched and filtered, and up to four of them side by side."""

from dataclasses import dataclass

from evrant.catalogue import load
from evrant.core.base.units import CannotRead
from evrant.core.search.shelf import Compared, Wish, compared, in_its_place, shelf
from evrant.core.studio.gear import KINDS, Item
from evrant.core.studio.studio import by_id
from evrant.drawing.gearcard import gear_card
from evrant.web.context import Page
from evrant.web.forms import fields, read_money
from evrant.web.registry import Context, PageSpec, Row

MOST = 4
"""Things side by side."""
AT_ONCE = 48
TELLING = 9
"""Figures told of each thing side by side, at most."""


@dataclass(frozen=True)
class Shelf(Context):
    """What its template shows."""

    wish: Wish
    most: str
    most_error: str
    kinds: list[str]
    rows: list[Row]
    left: int
    chosen: list[str]
    compared: list[Row]
    heads: list[tuple[str, list[str]]]
    now: Row


def gear(page: Page) -> Shelf:
    asked = page.request.query_params
    most, error = None, ""
    if typed := asked.get("most", "").strip():
        try:
            most = read_money(typed)
        except CannotRead as fault:
            error = str(fault)
    kind = asked.get("kind", "")
    wish = Wish(
        asked.get("words", "")[:80],
        kind if kind in KINDS else "",
        most,
        under_ceiling=bool(asked.get("ceiling")),
        carries=bool(asked.get("carries")),
        lives=bool(asked.get("lives")),
    )
    found = shelf(page.studio, load().all(), wish)
    chosen = list(dict.fromkeys(asked.getlist("compare")))[:MOST]
    items = [item for key in chosen if (item := by_id(page.studio.gear, key) or load().find(key)) is not None]
    beside = compared(page.studio, items) if len(items) > 1 else ()
    lines = page.ledger.lines
    return Shelf(
        wish=wish,
        most=typed,
        most_error=error,
        kinds=list(KINDS),
        rows=[_row(page, one.item, one.price, (one.under_ceiling, one.carries, one.lives)) for one in found[:AT_ONCE]],
        left=max(len(found) - AT_ONCE, 0),
        chosen=[item.id for item in items],
        compared=[_beside(page, one) for one in beside],
        heads=_figures(page, [one.item for one in beside]),
        now={word: sum(line.verdict.value == word for line in lines) for word in ("Short", "Tight", "Clear")},
    )


WORDS = ("does not fit under your ceiling", "too weak for your heaviest light", "goes into none of your places")


def _row(page: Page, item: Item, price: object, answers: tuple[bool | None, ...]) -> Row:
    held = by_id(page.studio.gear, item.id)
    return {
        "item": item,
        "status": held.status if held else "",
        "drawing": gear_card(item),
        "price": "" if price is None else page.say.money(float(str(price))),
        "no": [word for word, answer in zip(WORDS, answers, strict=True) if answer is False],
    }


def _beside(page: Page, one: Compared) -> Row:
    held = by_id(page.studio.gear, one.item.id) is not None
    return {"one": one, "drawing": gear_card(one.item), "held": held, "shown": in_its_place(page.studio, one.item)[1]}


def _figures(page: Page, items: list[Item]) -> list[tuple[str, list[str]]]:
    """Figures that any of them has, by title, one cell a thing; those that differ first."""
    told = [{f.title: f.value for f in fields(page.studio, f"gear/{item.id}", item)} for item in items]
    plain = ("Name", "Standing", "Notes", "Shop", "Link", "Copied from the catalogue as", "Condition", "Home-made from")
    titles = [
        t for t in dict.fromkeys(t for one in told for t in one) if t not in plain and any(one.get(t) for one in told)
    ]
    rows = [(title, [one.get(title, "") for one in told]) for title in titles]
    return sorted(rows, key=lambda row: len(set(row[1])) == 1)[:TELLING]


SPEC = PageSpec("gear", gear, under="kit")
