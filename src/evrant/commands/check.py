"""The ledger."""

import argparse
import json

from evrant.core.judge.ledger import Ledger, ledger_of
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say
from evrant.files.report import ledger_data


def run(studio: Studio, given: argparse.Namespace) -> int:
    """Do it; the exit status."""
    return _check(studio, as_json=given.json)


def _check(studio: Studio, *, as_json: bool) -> int:
    ledger = ledger_of(studio)
    if as_json:
        print(json.dumps(ledger_data(ledger), ensure_ascii=False, indent=1))
    else:
        _print(studio, ledger)
    return 1 if ledger.shorts() else 0


def _print(studio: Studio, ledger: Ledger) -> None:
    say = Say.of(studio.brief)
    counts = ", ".join(f"{number} {verdict.value}" for verdict, number in ledger.counts().items())
    print(f"{studio.name}: {ledger.headline}. {counts}\n")
    for line in ledger.lines:
        print(f"{line.verdict.value:8} {say.margin(line.margin, line.unit):>12}  {line.sentence}")
        print(f"{'':22} {line.reason}  [{line.code}]")
