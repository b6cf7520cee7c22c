"""The best kit under a budget."""

import argparse
import json
import sys
import time
from typing import Any

from evrant.catalogue import load
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say


def run(studio: Studio, given: argparse.Namespace) -> int:
    """Do it; the exit status."""
    return _kit(studio, given.budget, as_json=given.json)


def _kit(studio: Studio, budget: float | None, *, as_json: bool) -> int:
    """Exit status 0 when a kit makes a shot, 1 when none does, 2 without a budget."""
    from evrant.core.search.kit.result import best_kit
    from evrant.jobs.aside import start

    if budget is None and studio.brief.budget is not None:
        budget = float(studio.brief.budget)
    if budget is None or not 0 <= budget <= 10_000_000:
        print("Give a budget: --budget 450.", file=sys.stderr)
        return 2
    answer = best_kit(studio, load().all(), budget, whole=as_json, changes=True, helper=start, clock=time.perf_counter)
    if as_json:
        print(json.dumps(answer, ensure_ascii=False, indent=1))
    else:
        _tell_kit(studio, answer)
    return 0 if answer["found"] else 1


def _tell_kit(studio: Studio, answer: Any) -> None:
    say = Say.of(studio.brief)
    head = "Proved" if answer["proved"] else "Not proved"
    print(f"{studio.name}: {say.money(answer['cost'])} of {say.money(answer['budget'])}. {head}.")
    for shot in answer["shots"]:
        left = f" (left to walls and settings: {' '.join(shot['left'])})" if shot.get("left") else ""
        print(f"  {'makes' if shot['made'] else 'not'}  {shot['name']}{left if shot['made'] else ': ' + shot['why']}")
        if "instead" in shot:
            print(f"       {_instead_words(say, shot['instead'])}")
    for row in answer["buy"]:
        print(f"  phase {row['phase']}  {row['count']} × {row['name']}  {say.money(row['cost'])}")
    print(answer["covers"])


def _instead_words(say: Say, told: Any) -> str:
    """What would make a shot, in one line."""
    words = " and ".join(told["words"]) or "as it is"
    sum_ = say.money(told["cost"])
    return f"possible: {words}, for {sum_} alone" if told["within"] else f"possible with more money: {words}, {sum_}"
