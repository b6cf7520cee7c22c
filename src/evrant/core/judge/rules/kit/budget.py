"""What the plan costs against the budget. Code budget.total."""

from collections.abc import Iterable
from decimal import Decimal

from evrant.core.base.estimate import Estimate
from evrant.core.base.margins import Basis, Line, Margin, judge, unknown
from evrant.core.buying.costs import orders, planned, spent, to_spend
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import Proposal, StudioRule
from evrant.core.space.scene import Scene
from evrant.core.studio.sets import used_by
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say

TOTAL = Line(
    "budget.total",
    "Money",
    "money",
    Basis(
        "paid (kept things, deliveries, sending back) + planned, taxed and delivered by shop ≤ budget",
        "Prices and shops' terms as entered",
        "declared",
    ),
    asks="Does the plan stay within the budget?",
    step="kit",
)


def total(studio: Studio) -> Decimal:
    """What the plan costs in all: spent already, and still to be spent, delivered and taxed."""
    return spent(studio) + to_spend(studio)


def used(studio: Studio) -> frozenset[str]:
    """Ids of items that some set has in a place of its own; weights, clamps and other parts have none."""
    return frozenset(key for plan in studio.sets for key in used_by(plan))


def margins(studio: Studio) -> Iterable[Margin]:
    """One line for the money."""
    items = planned(studio)
    title = "Money"
    if studio.brief.budget is None:
        if studio.gear:
            yield unknown(
                TOTAL,
                ("brief",),
                "No budget is set.",
                "Enter what you want to spend under Brief.",
                title=title,
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
            TOTAL,
            (f"gear/{what.id}", "brief"),
            f"{words}: {names}.",
            "Enter what it costs, delivered.",
            title=title,
        )
        return
    cost, budget = float(total(studio)), float(studio.brief.budget)
    say = Say.of(studio.brief)
    yield judge(
        TOTAL,
        ("brief",),
        Estimate(budget - cost),
        title=title,
        need=cost,
        have=budget,
        clear="The plan stays within the budget.",
        short="The plan costs more than the budget.",
        reason=_reason(studio, say, len(items), budget),
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
    spare = [item for item in planned(studio) if item.price and item.kind != "part" and item.id not in needed]
    for item in sorted(spare, key=lambda item: -(item.price or 0) * item.quantity)[:6]:
        yield Proposal(
            f"Only consider the {item.called}; no set uses it",
            SetFields(target=f"gear/{item.id}", fields={"status": "considered"}),
        )


RULE = StudioRule("budget", margins, (TOTAL,), propose)
