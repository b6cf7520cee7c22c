"""What the plan costs against the budget. Code budget.total."""

from collections.abc import Iterable
from decimal import Decimal

from evrant.core.edits import SetFields
from evrant.core.estimate import Estimate
from evrant.core.kit.costs import orders, planned, spent, to_spend
from evrant.core.margins import Basis, Margin, judge, unknown
from evrant.core.rules.rule import Proposal
from evrant.core.scene import Scene
from evrant.core.studio.sets import used_by
from evrant.core.studio.studio import Studio
from evrant.core.words import Say

TOTAL = Basis(
    "paid (kept things, deliveries, sending back) + planned, taxed and delivered by shop ≤ budget",
    "Prices and shops' terms as entered",
    "declared",
)


def total(studio: Studio) -> Decimal:
    """What the plan costs in all: spent already, and still to be spent, delivered and taxed."""
    return spent(studio) + to_spend(studio)


def used(studio: Studio) -> frozenset[str]:
    """Ids of items that some set uses."""
    return frozenset(key for plan in studio.sets for key in used_by(plan))


def margins(studio: Studio) -> Iterable[Margin]:
    """One line for the money."""
    items = planned(studio)
    title = "Money"
    if studio.brief.budget is None:
        if studio.gear:
            yield unknown(
                "budget.total",
                ("brief",),
                title,
                "money",
                "No budget is set.",
                "Enter what you want to spend under Brief.",
                TOTAL,
            )
        return
    if not items and not studio.purchases:
        return
    priceless = [item for item in items if item.price is None]
    foreign = [item for item in items if item.price is not None and item.currency != studio.brief.currency]
    if priceless or foreign:
        what = (priceless or foreign)[0]
        words = "The price is missing" if priceless else f"The price is not in {studio.brief.currency}"
        names = ", ".join(item.name for item in (priceless or foreign)[:3])
        yield unknown(
            "budget.total",
            (f"gear/{what.id}", "brief"),
            title,
            "money",
            f"{words}: {names}.",
            "Enter what it costs, delivered.",
            TOTAL,
        )
        return
    cost, budget = float(total(studio)), float(studio.brief.budget)
    say = Say.of(studio.brief)
    yield judge(
        "budget.total",
        ("brief",),
        title,
        Estimate(budget - cost),
        need=cost,
        have=budget,
        unit="money",
        clear="The plan stays within the budget.",
        short="The plan costs more than the budget.",
        reason=_reason(studio, say, len(items), budget),
        basis=TOTAL,
    )


def _reason(studio: Studio, say: Say, count: int, budget: float) -> str:
    """What the sum is made of."""
    extras = sum((order.tax + order.delivery for order in orders(studio)), Decimal(0))
    words = f"{count} things to buy for {say.money(float(to_spend(studio)))}"
    if extras:
        words += f", {say.money(float(extras))} of it tax and delivery"
    if studio.purchases:
        words += f"; {say.money(float(spent(studio)))} are spent"
    return f"{words}; the budget is {say.money(budget)}."


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Hold back what no set uses, dearest first."""
    if margin.margin is None:
        return
    needed = used(studio)
    spare = [item for item in planned(studio) if item.price and item.id not in needed]
    for item in sorted(spare, key=lambda item: -(item.price or 0) * item.quantity)[:6]:
        yield Proposal(
            f"Only consider the {item.called}; no set uses it",
            SetFields(target=f"gear/{item.id}", fields={"status": "considered"}),
        )
