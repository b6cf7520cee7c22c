"""The hazards of every set."""

import argparse
import json

from evrant.core.base.margins import Verdict
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.safety import NOTICES, hazards
from evrant.core.space.scene import scene_of
from evrant.core.studio.studio import Studio
from evrant.files.report import hazard_data


def run(studio: Studio, given: argparse.Namespace) -> int:
    """Do it; the exit status."""
    return _safety(studio, as_json=given.json)


def _safety(studio: Studio, *, as_json: bool) -> int:
    """Exit status 1 when a hazard has a Short line."""
    ledger = ledger_of(studio)
    found = {
        plan.id: hazards(scene, ledger.shown_with(plan.id))
        for plan in studio.sets
        if (scene := scene_of(studio, plan)) is not None
    }
    if as_json:
        data = {key: [hazard_data(one) for one in told] for key, told in found.items()}
        print(json.dumps({"sets": data, "notices": list(NOTICES)}, ensure_ascii=False, indent=1))
    else:
        for key, told in found.items():
            print(f"{key}:")
            for one in told:
                print(f"  {one.verdict or 'beware':8} {one.name}: {one.cause} {one.caution} {one.do}")
        print("\n".join(NOTICES))
    return 1 if any(one.verdict is Verdict.SHORT for told in found.values() for one in told) else 0
