"""A set's light: exposures, contrast, what the walls return, tint."""

import argparse
import json
import sys
from typing import Any

from evrant.core.space.scene import scene_of
from evrant.core.studio.studio import Studio


def run(studio: Studio, given: argparse.Namespace) -> int:
    """Do it; the exit status."""
    return _light(studio, given.shot, as_json=given.json)


def _light(studio: Studio, key: str, *, as_json: bool) -> int:
    """Exit status 0 when there was a set to compute, 1 when something kept it from being known, 2 when there is
    no such shot or set."""
    from evrant.files.light_report import light_data

    plans = [plan for plan in studio.sets if key in (plan.shot, plan.id)]
    scenes = [scene for plan in plans if (scene := scene_of(studio, plan)) is not None]
    if not scenes:
        shots = ", ".join(plan.shot for plan in studio.sets)
        print(f"There is no set for “{key}”; there are sets for: {shots}.", file=sys.stderr)
        return 2
    data = [light_data(studio, scene) for scene in scenes]
    if as_json:
        print(json.dumps(data[0] if len(data) == 1 else data, ensure_ascii=False, indent=1))
    else:
        for one in data:
            _tell_light(one)
    return 1 if any(one["missing"] for one in data) else 0


def _tell_light(data: dict[str, Any]) -> None:
    print(f"{data['set']}:")
    for missing in data["missing"]:
        print(f"  Unknown: {missing['what']}")
    for one in data.get("lights", []):
        print(f"  {one['name']:12} {one['distance_m']:.2f} m, power {one['power']:.3g}: f/{one['f_number']:.1f}")
    if data.get("contrast_stops") is not None:
        print(f"  contrast 1:{data['contrast_ratio']:.1f} ({data['contrast_stops']:.1f} stops)")
        for part in data["returned_by"]["shadow side"][:4]:
            print(f"    {part['share']:.0%} of the returned light from the {part['surface']}")
