"""The ledger as JSON: an object whose `margins` is a list of objects with the fields of a Margin."""

from dataclasses import asdict
from typing import Any

from evrant.core.base.margins import Margin, Remedy
from evrant.core.edits.language import EDIT
from evrant.core.judge.ledger import Ledger
from evrant.core.judge.safety import Hazard
from evrant.core.search.arrange.changes import Possible
from evrant.core.search.arrange.search import Found, Result


def margin_data(margin: Margin, remedies: tuple[Remedy, ...] = ()) -> dict[str, Any]:
    """One line as JSON data; figures are numbers in `unit`."""
    line = margin.line
    own = {name: value for name, value in asdict(margin).items() if name != "line"}
    data = {"code": line.code, **own, "unit": line.unit, "basis": asdict(line.basis), "safety": line.safety}
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
        "margins": [margin_data(line) | {"step": line.line.step} for line in ledger.lines],
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
