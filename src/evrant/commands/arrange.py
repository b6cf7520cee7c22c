"""Sets for a shot, or what stands in the way."""

import argparse
import json
import sys
import time

from evrant.core.search.arrange.changes import Possible, possible_with
from evrant.core.search.arrange.search import Result, arrange
from evrant.core.studio.studio import Studio, by_id
from evrant.core.studio.words import Say
from evrant.files.report import arrange_data


def run(studio: Studio, given: argparse.Namespace) -> int:
    """Do it; the exit status."""
    return _arrange(studio, given.shot, as_json=given.json)


def _arrange(studio: Studio, shot_id: str, *, as_json: bool) -> int:
    """Exit status 0 when a set fits, 1 when none does, 2 when there is no such shot."""
    shot = by_id(studio.shots, shot_id)
    if shot is None:
        print(f"There is no shot “{shot_id}”; there are: {', '.join(s.id for s in studio.shots)}.", file=sys.stderr)
        return 2
    result = arrange(studio, shot, clock=time.perf_counter)
    helped = (
        None
        if result.fits or result.missing
        else possible_with(studio, shot, binding=_binding(result), clock=time.perf_counter)
    )
    changes = helped.found if helped else ()
    if as_json:
        print(json.dumps(arrange_data(result, changes), ensure_ascii=False, indent=1))
    else:
        _tell(studio, shot.name, result, changes)
    return 0 if result.fits else 1


def _binding(result: Result) -> list[str]:
    """Codes of what is Short in the nearest miss."""
    return [line.code for line in result.nearest.judged.short] if result.nearest else []


def _tell(studio: Studio, name: str, result: Result, changes: tuple[Possible, ...]) -> None:
    say = Say.of(studio.brief)
    if result.missing:
        print(f"{name}: {result.missing}")
    for found in result.sets:
        line = found.judged.lines[0]
        print(f"{name}: fits. Worst: {line.title} {say.margin(line.margin, line.unit)}. {line.reason}")
    if result.nearest is not None:
        print(f"{name}: does not fit{' (every place tried)' if result.proved else ''}. The nearest miss:")
        for line in result.nearest.judged.short:
            print(f"  {say.margin(line.margin, line.unit):>10}  {line.sentence} {line.reason}")
    for possible in changes:
        print(f"  It becomes possible with: {possible.change.label}.")
