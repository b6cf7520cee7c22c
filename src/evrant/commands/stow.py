"""Where everything goes when the room is struck."""

import argparse
import json

from evrant.core.studio.studio import Studio


def run(studio: Studio, given: argparse.Namespace) -> int:
    """Do it; the exit status."""
    return _stow(studio, as_json=given.json)


def _stow(studio: Studio, *, as_json: bool) -> int:
    """Exit status 0 when everything finds a place, 1 when something does not."""
    from evrant.core.stowage.report import stow_data

    data = stow_data(studio)
    if as_json:
        print(json.dumps(data, ensure_ascii=False, indent=1))
    else:
        for place in data["places"]:
            print(f"{place['name']}: " + (", ".join(one["name"] for one in place["things"]) or "nothing"))
        for one in data["left"]:
            print(f"no place: {one['name']} ({one['why']})")
        for name in data["unmeasured"]:
            print(f"not measured: {name}")
    return 1 if data["left"] or data["unmeasured"] else 0
