"""The ledger as JSON: an object whose `margins` is a list of objects with the fields of a Margin."""

from dataclasses import asdict
from typing import Any

from evrant.core.ledger import Ledger, step_of
from evrant.core.margins import Margin, Remedy


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
