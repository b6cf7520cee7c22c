"""Five answers to proposals: what to buy, where it stands, how it is set."""

import argparse
import json
import sys
import time
from typing import Any

from pydantic import ValidationError

from evrant.catalogue import load
from evrant.catalogue.bundles import things
from evrant.core.studio.words import Say
from evrant.files.document import faults_of


def run(given: argparse.Namespace) -> int:
    """Exit status 0 when a proposal makes everything within the sum, 1 when none does, 2 for answers that cannot be
    read."""
    from evrant.core.judge.assumed import deciding
    from evrant.core.search.begin.answers import Answers, studio_of
    from evrant.core.search.begin.propose import propose
    from evrant.core.search.begin.told import told_assumed, told_of
    from evrant.jobs.aside import start
    from evrant.jobs.plan import pace

    try:
        answers = Answers.model_validate_json(given.file.read_bytes())
        owned = things(answers.have)
    except OSError as error:
        print(f"{given.file}: {error.strerror}", file=sys.stderr)
        return 2
    except ValidationError as error:
        for fault in faults_of(error):
            print(f"{given.file}: {fault}", file=sys.stderr)
        return 2
    except KeyError as unknown:
        print(f"{given.file}: have: the catalogue has no {unknown}.", file=sys.stderr)
        return 2
    studio = studio_of(answers, owned)
    found = propose(
        studio,
        load().all(),
        seconds=given.seconds,
        pace=pace(),
        helper=start,
        clock=time.monotonic,
        pocket=things(["telephone"]),
    )
    assumed = told_assumed(deciding(found[0].studio if found else studio))
    rows = [told_of(one) for one in found]
    if given.json:
        print(json.dumps({"assumed": assumed, "proposals": rows}, ensure_ascii=False, indent=1))
    else:
        _tell(Say.of(studio.brief), assumed, rows)
    whole = any(not one["missing"] and not one["beyond"] for one in rows)
    return 0 if whole else 1


def _tell(say: Say, assumed: dict[str, Any], rows: list[dict[str, Any]]) -> None:
    for row in rows:
        stands = "fits" if row["fits"] else f"{row['counts']['Short']} Short"
        more = ", more than there is" if row["beyond"] else ""
        makes = f"{say.money(row['cost'])}{more}; {stands}; makes {', '.join(row['made'])}"
        print(f"{row['character']}: {makes if row['made'] else 'nothing is made'}")
        for name, why in row["missing"].items():
            print(f"  not  {name}: {why}")
        for words in (*row["changes"], *row["settled"]):
            print(f"  change  {words}")
        for one in row["buy"]:
            print(f"  buy  {one['count']} × {one['name']}  {say.money(one['cost'])}")
        for words in row["worst"]:
            print(f"  left  {words}")
    print(f"{assumed['count']} things are assumed; measure these first:")
    for thing in assumed["things"][: assumed["matter"]]:
        print(f"  {thing['name']}: it decides {', '.join(thing['decides'])}")
