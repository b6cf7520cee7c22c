"""The core has no clock: with none a search goes to its end; with one that runs out it says it is not proved."""

import re
from collections.abc import Iterator
from itertools import count
from pathlib import Path

import pytest
from helpers.kits import few, plain
from helpers.studios import demo, one_portrait, parse

from evrant.core.base.clock import Clock, standing_still, within
from evrant.core.judge.declared import rules
from evrant.core.judge.ledger import LEFT_OUT, ledger_of
from evrant.core.judge.remedies import remedies_of
from evrant.core.search.arrange.changes import possible_with, shot_by_lens, shot_by_room
from evrant.core.search.arrange.search import arrange
from evrant.core.search.kit.optimum import Search
from evrant.core.search.kit.result import best_kit
from evrant.files.document import read_studio, write_studio

CORE = Path(__file__).parents[2] / "src/evrant/core"
FORBIDDEN = re.compile(r"^\s*(?:import|from) (time|datetime|subprocess|multiprocessing|asyncio)\b", re.M)


def running(step: float) -> Clock:
    """A clock that goes on by a step each time it is looked at."""
    ticks: Iterator[int] = count()
    return lambda: next(ticks) * step


def test_the_core_imports_no_clock_and_no_process() -> None:
    found = {path.name: FORBIDDEN.findall(path.read_text()) for path in CORE.rglob("*.py")}
    told = {name: words for name, words in found.items() if words}
    assert set(told) <= {"purchases.py", "shopping.py", "brief.py", "wear.py", "past.py"}, (
        "days of purchases and of revisions are dates, not the time"
    )
    assert all(words == ["datetime"] for words in told.values())


def test_without_a_clock_nothing_is_too_late() -> None:
    studio = parse(one_portrait())
    found = arrange(studio, studio.shots[0], budget=1e-9, most=1)
    assert standing_still() == 0.0 and found.fits and found.proved


def test_a_clock_that_runs_out_leaves_it_open() -> None:
    studio = parse(one_portrait())
    found = arrange(studio, studio.shots[0], budget=1.5, most=1, clock=running(10.0))
    assert not found.proved and found.looked_at < found.candidates


def test_changes_and_tables_take_the_clock_they_are_given() -> None:
    studio = demo()
    standing = next(shot for shot in studio.shots if shot.id == "standing")
    told = possible_with(studio, standing, clock=running(60.0))
    assert not told.complete and told.found == ()
    cells = shot_by_lens(studio, standing, clock=running(60.0))
    assert cells and not any(cell.fits or cell.proved for cell in cells)
    rooms = shot_by_room(studio, standing, clock=running(60.0))
    assert rooms and not rooms[0].fits


def test_the_first_kit_is_timed_by_the_clock_that_was_brought() -> None:
    search = Search.of(plain(), few(), clock=running(1.0))
    assert search.best(200_000) is not None
    assert search.first_s is not None and search.first_s >= 1.0
    still = Search.of(plain(), few())
    assert still.best(200_000) is not None and still.first_s == 0.0


@pytest.mark.parametrize("budget", [2000.0])
def test_the_answer_is_the_same_whatever_the_clock(budget: float) -> None:
    one = best_kit(plain(), few(), budget, whole=False)
    other = best_kit(plain(), few(), budget, whole=False, clock=running(0.001))
    for answer in (one, other):
        answer["stats"] = {"recipes": 0, "searches": 0, "ledger_runs": 0, "cuts": 0, "first_s": None, "bound": None}
    assert one == other


def test_a_ledger_whose_time_is_up_says_what_is_left_and_goes_on_from_there() -> None:
    data = one_portrait()
    data["room"]["height"] = 2.31
    whole = ledger_of(parse(data | {"name": "With time"}))
    studio = parse(data | {"name": "Without"})
    with within(6.0, running(1.0)):
        first = ledger_of(studio)
    left = [line for line in first.lines if line.sentence == LEFT_OUT]
    done = [line for line in first.lines if line.sentence != LEFT_OUT]
    assert len(rules()) > len(left) > 5 and done and whole.whole and not first.whole and not first.ready
    assert all(line.enter is None and line.verdict.value == "Unknown" for line in left)
    by_key = {line.key: line for line in whole.lines}
    assert all(by_key[line.key].verdict is line.verdict for line in done)
    with within(6.0, running(1.0)):
        second = ledger_of(studio)
    assert sum(line.sentence == LEFT_OUT for line in second.lines) < len(left), "what was worked out was kept"
    assert [line.key for line in ledger_of(studio).lines] == [line.key for line in whole.lines]


def test_no_remedy_is_judged_by_a_ledger_that_was_cut_short() -> None:
    studio = demo()
    ledger = ledger_of(studio)
    short = next(line for line in ledger.lines if remedies_of(studio, line, ledger))
    with within(0.0, running(1.0)):
        cut = ledger_of(read_studio(write_studio(studio)))
        assert not cut.whole and remedies_of(studio, short, cut) == ()
