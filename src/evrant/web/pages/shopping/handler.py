"""What to buy by phase, what was bought, what it costs to run."""

from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from fastapi import APIRouter, Request, Response

from evrant.core.base.tables.money import amount
from evrant.core.buying import costs
from evrant.core.search.kit.shopping import Reminder, last_day, reminders, shopping
from evrant.core.studio.gear import Item
from evrant.core.studio.purchases import Purchase
from evrant.core.studio.studio import Studio, by_id
from evrant.files.gear_table import rows_of
from evrant.files.lists import shopping_rows
from evrant.files.workbook import write_workbook
from evrant.web.answers import file_answer
from evrant.web.context import Page, repository
from evrant.web.forms import fields
from evrant.web.naming import slug
from evrant.web.parts import (
    Card,
    card,
    today,
)
from evrant.web.registry import Context, PageSpec, Row

router = APIRouter()

XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"


@router.get("/studios/{studio_id}/download/shopping.xlsx")
def shopping_xlsx(request: Request, studio_id: str) -> Response:
    """The list, what was bought, and the gear, as a workbook."""
    studio = repository(request).newest(studio_id).studio
    sheets = {"to buy": shopping_rows(studio), "bought": _bought_rows(studio), "gear": rows_of(studio.gear)}
    return file_answer(write_workbook(sheets), f"{slug(studio.name)}-shopping.xlsx", XLSX)


def _bought_rows(studio: Studio) -> list[list[Any]]:
    rows: list[list[Any]] = [
        [
            "what",
            "count",
            "shop",
            "bought",
            "planned",
            "paid",
            "delivery",
            "arrived",
            "checked",
            "send back by",
            "sent back",
            "warranty until",
        ]
    ]
    for one in costs.against_plan(studio):
        bought = one.purchase
        shop, last = by_id(studio.shops, bought.shop), last_day(studio, bought)
        rows.append(
            [
                one.item.name if one.item else bought.item,
                bought.count,
                shop.name if shop else "",
                bought.bought or "",
                one.planned,
                bought.paid,
                bought.delivery,
                bought.arrived or "",
                "yes" if bought.checked else "",
                last.isoformat() if last else "",
                bought.returned or "",
                bought.warranty or "",
            ]
        )
    return rows


@dataclass(frozen=True)
class BoughtCard(Card):
    """A purchase: what was paid, in words against the plan, and until when it can go back."""

    purchase: Purchase
    paid: str
    words: str
    last: str
    item: Item | None


@dataclass(frozen=True)
class Shopping(Context):
    """What its template shows."""

    phases: list[tuple[int, list[Row]]]
    orders: list[Row]
    bought: list[BoughtCard]
    reminders: list[Reminder]
    sums: Row
    running: list[tuple[str, str, str]]
    yearly: str
    each: str
    sessions: int | None
    shops: list[Card]
    upkeep: list[Card]
    today: str


def shopping_page(page: Page) -> Shopping:
    """By phase what to look for; shops and their orders; what was bought; what it costs to run."""
    studio, say = page.studio, page.say
    phases: dict[int, list[dict[str, Any]]] = {}
    for one in shopping(studio):
        price = None if one.item.price is None else one.item.price * one.item.quantity
        row = {
            "item": one.item,
            "price": "" if price is None else amount(price, one.item.currency),
            "paid": "" if price is None else amount(price, one.item.currency).replace(" ", ""),
            "figures": one.figures,
            "id": f"buy-{one.item.id}",
        }
        phases.setdefault(one.phase, []).append(row)
    orders = [
        {
            "name": order.shop.name if order.shop else "no shop yet",
            "count": len(order.items),
            "goods": say.money(float(order.goods)),
            "tax": say.money(float(order.tax)) if order.tax else "",
            "delivery": say.money(float(order.delivery)) if order.delivery else "",
            "to_free": say.money(float(order.to_free)) if order.to_free else "",
            "total": say.money(float(order.total)),
        }
        for order in costs.orders(studio)
    ]
    bought = [_bought(page, one) for one in costs.against_plan(studio)]
    budget = studio.brief.budget
    left = None if budget is None else float(budget) - float(costs.spent(studio)) - float(costs.to_spend(studio))
    each = costs.per_session(studio)
    return Shopping(
        phases=sorted(phases.items()),
        orders=orders,
        bought=bought,
        reminders=reminders(studio, today()),
        sums={
            "spent": say.money(float(costs.spent(studio))),
            "planned": say.money(float(costs.to_spend(studio))),
            "left": None if left is None else say.money(abs(left)),
            "over": left is not None and left < 0,
        },
        running=[(one.word, say.money(float(one.yearly)), one.why) for one in costs.running(studio)],
        yearly=say.money(float(sum((one.yearly for one in costs.running(studio)), Decimal(0)))),
        each=say.money(float(each)) if each is not None else "",
        sessions=costs.sessions(studio),
        shops=[card(page, f"shops/{shop.id}", shop) for shop in studio.shops],
        upkeep=[card(page, f"upkeep/{one.id}", one) for one in studio.upkeep],
        today=today().isoformat(),
    )


def _bought(page: Page, one: costs.Actual) -> BoughtCard:
    target = f"purchases/{one.purchase.id}"
    last = last_day(page.studio, one.purchase)
    dearer = one.dearer
    words = ""
    if dearer is not None and dearer != 0:
        words = f"{page.say.money(abs(float(dearer)))} {'more' if dearer > 0 else 'less'} than planned"
    return BoughtCard(
        target,
        one.item.name if one.item else one.purchase.item,
        fields(page.studio, target, one.purchase),
        purchase=one.purchase,
        paid="" if one.paid is None else page.say.money(float(one.paid)),
        words=words,
        last=last.isoformat() if last else "",
        item=one.item,
    )


SPEC = PageSpec("shopping", shopping_page, under="kit", router=router)
