"""Proposals and what they assume, as plain data: what is kept of a job, printed, and drawn by a page."""

from collections.abc import Sequence
from typing import Any

from evrant.core.base.margins import Verdict
from evrant.core.judge.assumed import MATTER, Deciding
from evrant.core.search.begin.propose import Proposal

MOST_SAID = 6
"""Lines that do not hold that are said of a proposal."""


def told_of(proposal: Proposal) -> dict[str, Any]:
    """One proposal as plain data, its studio as a document."""
    counts = proposal.ledger.counts()
    return {
        "character": proposal.character,
        "cost": proposal.cost,
        "currency": proposal.studio.brief.currency,
        "beyond": proposal.beyond,
        "made": list(proposal.made),
        "missing": proposal.missing,
        "changes": list(proposal.changes),
        "settled": list(proposal.settled),
        "buy": [{"name": name, "count": count, "cost": cost} for name, count, cost in proposal.buy],
        "counts": {verdict.value: counts[verdict] for verdict in Verdict},
        "fits": bool(proposal.made) and not counts[Verdict.SHORT],
        "ready": proposal.ledger.ready,
        "worst": [line.sentence for line in proposal.worst[:MOST_SAID]],
        "studio": proposal.studio.model_dump(mode="json", by_alias=True, exclude_none=True),
    }


def told_assumed(found: Sequence[Deciding]) -> dict[str, Any]:
    """What is assumed, the things that matter most first, each with the lines it would settle."""
    return {
        "count": len(found),
        "matter": sum(bool(one.lines) for one in found[:MATTER]),
        "things": [
            {
                "target": one.thing.target,
                "name": one.thing.name,
                "figures": {
                    title: {"value": one.thing.figures[key].value, "pm": one.thing.figures[key].pm}
                    for key, title in one.thing.titles.items()
                },
                "decides": list(dict.fromkeys(one.lines)),
            }
            for one in found
        ],
    }
