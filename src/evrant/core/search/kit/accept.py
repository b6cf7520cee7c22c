"""Taking a phase of an answer into a studio."""

from collections import Counter
from collections.abc import Collection, Mapping
from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from evrant.core.base.tables.money import converted
from evrant.core.edits.language import Add, SetFields, Several
from evrant.core.studio.gear import Item
from evrant.core.studio.studio import Studio, by_id


def accept(answer: Mapping[str, Any], phase: int, studio: Studio) -> Several:
    """The edits that take a phase of an answer into the studio: its things, and the sets of the shots it unlocks.

    Things the studio already plans from another phase of the answer become more by what this one adds; what was
    planned before the search counts towards what it found needed. Raises StopIteration for a phase that is not there.
    """
    step = next(one for one in answer["phases"] if one["number"] == phase)
    edits: list[Any] = []
    for row in answer["buy"]:
        count = step["buy"].get(row["key"], 0)
        if not count:
            continue
        held = by_id(studio.gear, row["key"])
        if held is None:
            item = row["item"] | {"status": "planned", "quantity": count, "phase": phase}
            edits.append(Add(list="gear", item=item))
        elif held.status != "owned":
            more = _together(answer, studio, held, phase, count)
            fields = {"status": "planned", "phase": min(phase, held.phase or phase), "quantity": more}
            edits.append(SetFields(target=f"gear/{held.id}", fields=fields))
    hired: dict[str, Any] = {}
    for row in answer.get("rent", ()):
        if row["shot"] in step["sets"]:
            more = max(row["count"], hired.get(row["key"], {"quantity": 0})["quantity"])
            hired[row["key"]] = row["item"] | {"status": "planned", "quantity": more, "phase": phase}
    for key, item in hired.items():
        held = by_id(studio.gear, key)
        if held is None:
            edits.append(Add(list="gear", item=item))
        elif held.quantity < item["quantity"]:
            edits.append(SetFields(target=f"gear/{key}", fields={"quantity": item["quantity"]}))
    taken = {plan.id for plan in studio.sets}
    for shot in answer["shots"]:
        if shot["id"] in step["sets"] and shot["made"] and shot["set"]["id"] not in taken:
            edits.append(Add(list="sets", item=shot["set"]))
    return Several(edits=tuple(edits), label=f"Take phase {phase} of the plan")


@dataclass(frozen=True)
class Besides:
    """What is planned to be bought though an answer that was asked without it does not need it: count of each thing,
    and the edits after which it is only considered."""

    things: tuple[tuple[Item, int], ...]
    cost: Decimal
    """What it would cost [currency of the brief]."""
    edit: Several


def besides(answer: Mapping[str, Any], counted: Collection[str], studio: Studio) -> Besides | None:
    """What a studio plans to buy and an answer does without; None where there is nothing of the kind. `counted`: what
    the question took as there already."""
    needed = Counter({row["key"]: row["count"] for row in answer["buy"]})
    for row in answer.get("rent", ()):
        needed[row["key"]] = max(needed[row["key"]], row["count"])
    things, edits, cost = [], [], Decimal(0)
    for item in studio.gear:
        spare = item.quantity - needed[item.id]
        if item.status != "planned" or item.price is None or item.id in counted or spare < 1:
            continue
        things.append((item, spare))
        cost += converted(item.price, item.currency, studio.brief.currency) * spare
        fields = {"quantity": needed[item.id]} if needed[item.id] else {"status": "considered"}
        edits.append(SetFields(target=f"gear/{item.id}", fields=fields))
    if not edits:
        return None
    return Besides(
        tuple(things), cost, Several(edits=tuple(edits), label="Only consider what the best kit does without")
    )


def _together(answer: Mapping[str, Any], studio: Studio, held: Item, phase: int, count: int) -> int:
    """How many of a thing are planned once this phase is taken too: the sum over the phases taken so far.

    A phase counts as taken when everything it buys is in the studio; what was planned besides is kept.
    """
    if held.status != "planned":
        return count
    earlier = 0
    for step in answer["phases"]:
        if step["number"] != phase and _is_in(answer, step, studio):
            earlier += int(step["buy"].get(held.id, 0))
    return max(held.quantity, earlier + count)


def _is_in(answer: Mapping[str, Any], step: Mapping[str, Any], studio: Studio) -> bool:
    """Whether a phase was taken: its things are planned and its sets are there."""
    planned = {item.id: item.quantity for item in studio.gear if item.at_hand}
    sets = {plan.id for plan in studio.sets}
    its_sets = {shot["set"]["id"] for shot in answer["shots"] if shot["made"] and shot["id"] in step["sets"]}
    return its_sets <= sets and all(planned.get(key, 0) >= count for key, count in step["buy"].items())
