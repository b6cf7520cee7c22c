"""Wishes taken at random from twelve end in something that is made, and what is said of it holds when judged anew."""

import random
import time

import pytest
from helpers.wishes import WISHES, Wish

from evrant.catalogue import load
from evrant.catalogue.bundles import things
from evrant.core.base.margins import Verdict
from evrant.core.judge.ledger import ledger_of
from evrant.core.search.begin.answers import Answers, studio_of
from evrant.core.search.begin.propose import propose
from evrant.core.search.begin.told import MOST_SAID, told_of
from evrant.core.studio.studio import Studio
from evrant.jobs.aside import start

TAKEN = random.SystemRandom().sample(range(len(WISHES)), 3)
PACE = 3.0
"""How many times as long it may take beside other tests."""


@pytest.mark.parametrize("number", TAKEN)
def test_a_wish_ends_in_something_that_is_made_and_what_is_said_of_it_holds(number: int) -> None:
    wish: Wish = WISHES[number]
    answers = Answers.model_validate(wish)
    studio = studio_of(answers, things(answers.have))
    found = propose(studio, load().all(), pace=PACE, helper=start, clock=time.monotonic)
    assert found[0].made, f"wish {number}: {found[0].missing}"
    fits = [one for one in found if one.made and not one.missing and not one.ledger.count(Verdict.SHORT)]
    assert fits or any(one.changes for one in found), f"wish {number}: neither a set that fits nor this instead"
    for one in found:
        anew = ledger_of(Studio.model_validate_json(one.studio.dump_json()))
        assert anew.counts() == one.ledger.counts()
        assert one.cost <= float(answers.spend) or one.beyond
        told = told_of(one)
        short = [line.sentence for line in anew.lines if line.verdict is Verdict.SHORT]
        assert told["fits"] is (not short) and set(short[:MOST_SAID]) <= set(told["worst"])
        assert {shot.name for shot in studio.shots} == {*one.made, *one.missing} and all(one.missing.values())
        assert {plan.shot for plan in one.studio.sets} == {s.id for s in one.studio.shots if s.name in one.made}


def test_the_wishes_are_twelve_unlike_each_other() -> None:
    assert len(WISHES) == 12 and len({str(sorted(wish["take"])) for wish in WISHES}) == 12
    assert len({wish["where"]["like"] for wish in WISHES}) == 5 and any(not wish["have"] for wish in WISHES)
