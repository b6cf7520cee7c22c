"""The order of a studio's sets that takes the least change-over."""

import argparse
import json
from typing import Any

from evrant.core.space.scene import scene_of
from evrant.core.studio.sets import SetPlan
from evrant.core.studio.studio import Studio


def run(studio: Studio, given: argparse.Namespace) -> int:
    """Exit status 0 with an order, 1 when there are fewer than two sets to put in order."""
    from evrant.core.search.order import in_order, settings_of
    from evrant.core.stowage.striking import BEGINNER

    found = in_order(studio)

    def settings(plan: SetPlan) -> dict[str, str]:
        scene = scene_of(studio, plan)
        return {one.thing: one.words for one in settings_of(scene)} if scene else {}

    steps: list[dict[str, Any]] = [
        {
            "from": leg.first.id,
            "to": leg.second.id,
            "minutes": round(leg.change.minutes, 3),
            "why": leg.why,
            "stays": list(leg.change.shared),
            "work": [
                {"what": step.what, "thing": step.thing, "words": step.words, "minutes": step.minutes}
                for step in leg.change.work
            ],
            "settings": settings(leg.second),
        }
        for leg in found.legs
    ]
    if given.json:
        told = {
            "order": [plan.id for plan in found.sets],
            "minutes": round(found.minutes, 3),
            "minutes_as_listed": round(found.as_listed, 3),
            "exact": found.exact,
            "at_least": round(found.bound, 3),
            "set_up_minutes": round(found.set_up, 3),
            "strike_minutes": round(found.strike, 3),
            "beginner_factor": BEGINNER,
            "beginner_minutes": round(found.beginner, 3),
            "first_settings": settings(found.sets[0]) if found.sets else {},
            "steps": steps,
        }
        print(json.dumps(told, ensure_ascii=False))
    elif found.sets:
        print(f"{' → '.join(plan.name for plan in found.sets)}")
        proved = "no order takes less" if found.exact else f"none takes less than {found.bound:.1f}"
        print(f"{found.minutes:.1f} min of change-over, {found.as_listed:.1f} as listed; {proved}.")
        print(f"With setting up and striking: beginners about {found.beginner:.0f} min.")
        for leg in found.legs:
            print(f"{leg.first.name} → {leg.second.name}, {leg.change.minutes:.1f} min. {leg.why}")
            for step in leg.change.work:
                print(f"  {step.minutes:4.1f}  {step.thing}: {step.words}")
    else:
        print("There is no set yet.")
    return 0 if len(found.sets) > 1 else 1
