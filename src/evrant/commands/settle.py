"""The fewest changes that leave nothing Short, or what binds."""

import argparse
import json
import sys
import time

from evrant.core.base.margins import Verdict
from evrant.core.studio.studio import Studio


def run(studio: Studio, given: argparse.Namespace) -> int:
    """Exit status 0 when nothing is Short afterwards, 1 when something binds, 2 when the file cannot be written."""
    from evrant.core.search.settle import settle, told

    found = settle(studio, seconds=given.seconds, clock=time.monotonic)
    if given.output is not None:
        try:
            given.output.write_text(found.studio.dump_json())
        except OSError as error:
            print(f"{given.output}: {error.strerror}", file=sys.stderr)
            return 2
    if given.json:
        print(json.dumps(told(found), ensure_ascii=False))
        return 1 if found.binds else 0
    for one in found.taken:
        more = len(one.lifts) - 1
        print(f"  {one.label}" + (f" ({more} line{'' if more == 1 else 's'} more with it)" if more > 0 else ""))
    short = found.before.count(Verdict.SHORT), found.after.count(Verdict.SHORT)
    least = " No fewer of the remedies do it." if found.least else ""
    print(f"{len(found.taken)} changes: {short[0]} Short lines become {short[1]}.{least}")
    for words in told(found)["binds"]:
        print(f"Left, for no remedy on offer lifts it: {words}")
    if found.unknown:
        print(f"{len(found.unknown)} things are to be measured or read first.")
    return 1 if found.binds else 0
