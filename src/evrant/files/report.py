"""The ledger as JSON: an object whose `margins` is a list of objects with the fields of a Margin."""

from dataclasses import asdict
from typing import Any

from evrant.core.arrange.changes import Possible
from evrant.core.arrange.search import Found, Result
from evrant.core.edits import EDIT
from evrant.core.ledger import Ledger, step_of
from evrant.core.margins import Margin, Remedy
from evrant.core.safety import Hazard


def margin_data(margin: Margin, remedies: tuple[Remedy, ...] = ()) -> dict[str, Any]:
    """One line as JSON data; figures are numbers in `unit`."""
    data = asdict(margin)
    data["verdict"] = margin.verdict.value
    data["key"] = margin.key
    data["remedies"] = [asdict(remedy) for remedy in remedies]
    return data


def ledger_data(ledger: Ledger) -> dict[str, Any]:
    """The whole ledger as JSON data."""
    return {
        "headline": ledger.headline,
        "ready": ledger.ready,
        "counts": {verdict.value: number for verdict, number in ledger.counts().items()},
        "short_by_step": dict(ledger.shorts()),
        "margins": [margin_data(line) | {"step": step_of(line)} for line in ledger.lines],
    }


def hazard_data(hazard: Hazard) -> dict[str, Any]:
    """A hazard as JSON data, with its lines of the ledger."""
    return {
        "name": hazard.name,
        "cause": hazard.cause,
        "verdict": hazard.verdict.value if hazard.verdict else None,
        "caution": hazard.caution,
        "do": hazard.do,
        "margins": [margin_data(line) for line in hazard.lines],
    }


def arrange_data(result: Result, changes: tuple[Possible, ...]) -> dict[str, Any]:
    """What a search found, as JSON data: sets best first, else the nearest miss and what would help."""
    return {
        "fits": result.fits,
        "proved": result.proved,
        "candidates": result.candidates,
        "looked_at": result.looked_at,
        "missing": result.missing or None,
        "sets": [_found(found) for found in result.sets],
        "nearest": _found(result.nearest) if result.nearest else None,
        "changes": [
            {
                "change": possible.change.label,
                "edits": [EDIT.dump_python(edit, mode="json") for edit in possible.change.edits],
                "worst": possible.found.worst,
                "set": possible.found.plan.model_dump(mode="json", exclude_none=True),
            }
            for possible in changes
        ],
    }


def _found(found: Found) -> dict[str, Any]:
    return {
        "worst": found.worst,
        "set": found.plan.model_dump(mode="json", exclude_none=True),
        "margins": [margin_data(line) for line in found.judged.lines],
    }
