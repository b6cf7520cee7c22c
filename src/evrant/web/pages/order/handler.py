"""The sets of a session in the order that takes the least change-over, step by step."""

from dataclasses import dataclass

from evrant.core.base.memo import Memo
from evrant.core.edits.language import Reorder, Several
from evrant.core.search.order import Order, Setting, in_order, settings_of
from evrant.core.space.footprint import plan_of
from evrant.core.space.scene import scene_of
from evrant.core.stowage.striking import BEGINNER
from evrant.core.studio.sets import SetPlan
from evrant.drawing.moves import moves_drawing
from evrant.web.context import Page
from evrant.web.registry import Context, PageSpec, Row

_ORDERS: Memo[Order] = Memo(8_000_000, lambda order: 2_000 + 20_000 * len(order.legs))


@dataclass(frozen=True)
class InOrder(Context):
    """What its template shows; `edit` puts the sets in the order found, None when they are."""

    order: Order
    first: list[Setting]
    legs: list[Row]
    beginner_factor: float
    edit: str | None


def order_page(page: Page) -> InOrder:
    """Every set in its turn with what is done to get there, and what is set for it."""
    studio = page.studio
    parts = (studio.room, studio.brief, studio.shots, studio.sets, studio.gear)
    found = _ORDERS.get("order", parts, lambda: in_order(studio))
    walls = plan_of(studio.room)
    legs: list[Row] = [
        {
            "leg": leg,
            "minutes": f"{leg.change.minutes:.0f}",
            "drawing": moves_drawing(walls, leg.change) if walls is not None else "",
            "settings": _settings(page, leg.second),
        }
        for leg in found.legs
    ]
    return InOrder(
        order=found,
        first=_settings(page, found.sets[0]) if found.sets else [],
        legs=legs,
        beginner_factor=BEGINNER,
        edit=_edit(page, found),
    )


def _settings(page: Page, plan: SetPlan) -> list[Setting]:
    scene = scene_of(page.studio, plan)
    return settings_of(scene) if scene else []


def _edit(page: Page, found: Order) -> str | None:
    """Sets and their shots listed in this order; those that have none of the other stay behind."""
    lists: dict[str, tuple[list[str], list[str]]] = {
        "sets": ([plan.id for plan in page.studio.sets], [plan.id for plan in found.sets]),
        "shots": ([shot.id for shot in page.studio.shots], list(dict.fromkeys(plan.shot for plan in found.sets))),
    }
    edits = []
    for name, (listed, order) in lists.items():
        order += [key for key in listed if key not in order]
        if order != listed:
            edits.append(Reorder(list=name, order=tuple(order)))
    return Several(edits=tuple(edits), label="Sets in order").model_dump_json() if edits else None


SPEC = PageSpec("order", order_page, under="set")
