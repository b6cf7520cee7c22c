"""What the plan costs against the budget. Code budget.total."""

from collections.abc import Iterable
from decimal import Decimal

from evrant.core.edits import SetFields
from evrant.core.estimate import Estimate
from evrant.core.margins import Basis, Margin, judge, unknown
from evrant.core.rules.rule import Proposal
from evrant.core.scene import Scene
from evrant.core.studio.gear import Item
from evrant.core.studio.studio import Studio
from evrant.core.words import Say

TOTAL = Basis("Σ price × count of everything planned ≤ budget", "Prices as entered", "declared")


def planned(studio: Studio) -> list[Item]:
    """Everything to be bought."""
    return [item for item in studio.gear if item.status == "planned"]


def total(studio: Studio) -> Decimal:
    """Sum of known prices of what is to be bought, in the brief's currency."""
    return sum((item.price * item.quantity for item in planned(studio) if item.price is not None), Decimal(0))


def used(studio: Studio) -> frozenset[str]:
    """Ids of items that some set uses."""
    found: set[str | None] = set()
    for plan in studio.sets:
        found |= {
            plan.camera.body,
            plan.camera.lens,
            plan.camera.support,
            plan.background.backdrop,
            plan.background.holder,
        }
        for light in plan.lights:
            found |= {light.head, light.modifier, light.gel, light.support}
        found |= {prop.item for prop in plan.props}
    return frozenset(key for key in found if key)


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
    if not items:
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
        reason=f"{len(items)} things to buy for {say.money(cost)}; the budget is {say.money(budget)}.",
        basis=TOTAL,
    )


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
