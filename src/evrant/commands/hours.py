"""When a window carries a shot: by month and hour, under three skies."""

import argparse
import json
import sys
from calendar import month_name

from evrant.core.space.scene import scene_of
from evrant.core.studio.studio import Studio


def run(studio: Studio, given: argparse.Namespace) -> int:
    """Exit status 0 when there is a calendar, 1 when something kept it from being known, 2 for no such shot."""
    from evrant.core.light.emission import Missing
    from evrant.core.light.hours import hours
    from evrant.files.hours_report import hours_data

    plans = [plan for plan in studio.sets if given.shot in (plan.shot, plan.id)]
    scenes = [scene for plan in plans if (scene := scene_of(studio, plan)) is not None]
    if not scenes:
        print(f"There is no set for “{given.shot}”.", file=sys.stderr)
        return 2
    found = hours(scenes[0])
    if isinstance(found, Missing):
        print(f"Unknown: {found.text} ({found.where})", file=sys.stderr)
        return 1
    data = hours_data(scenes[0], found)
    if given.json:
        print(json.dumps(data, ensure_ascii=False, indent=1))
        return 0
    print(f"{data['set']}: hours of standard time at which the window carries it")
    for number, name in enumerate(month_name[1:]):
        words = ", ".join(f"{sky}: {spans or 'never'}" for sky, spans in data["works"][number].items())
        print(f"  {name:10} {words}")
    return 0
