"""What is remembered is what would be computed anew, after any edit of any field; and many threads agree with one."""

import gc
import math
import os
import random
import subprocess
import sys
import threading
import weakref
from collections.abc import Callable, Iterator
from contextlib import nullcontext
from pathlib import Path

import pytest
from helpers.flood import Flood
from helpers.studios import demo, one_portrait, parse
from pydantic import ValidationError

from evrant.core.base import memo
from evrant.core.base.memo import Memo, Stale, difference
from evrant.core.edits.language import EDIT, EditRefused, SetFields
from evrant.core.judge.ledger import ledger_of
from evrant.core.light import lit as lights
from evrant.core.light.emission import Missing
from evrant.core.light.lit import lit
from evrant.core.place.moves import change
from evrant.core.space.scene import scene_of
from evrant.core.studio.studio import Studio
from evrant.drawing.sheet import sheet
from evrant.files.document import read_studio

EXAMPLES = sorted((Path(__file__).parents[2] / "examples").glob("*.json"))
LONG = os.environ.get("EVRANT_LONG")
ROUNDS = 60 if LONG else 6


@pytest.fixture
def checked() -> Iterator[None]:
    """Every hit in a cache is computed anew and compared."""
    before = memo.check_hits(True)
    yield
    memo.check_hits(before)


def overhead() -> Studio:
    """A flat lay seen straight down, its facing left to the background."""
    data = one_portrait()
    shot = data["shots"][0]
    shot |= {"angle": 90, "crop": "whole subject"}
    shot["subjects"] = [{"id": "p", "name": "Plate", "kind": "object", "height": 0.2, "width": 0.3, "base": 0.75}]
    data["sets"][0]["mark"].pop("facing", None)
    return parse(data)


def beginning(name: str) -> Studio:
    if name == "overhead":
        return overhead()
    if name == "portrait":
        return parse(one_portrait())
    return read_studio(next(path for path in EXAMPLES if path.stem == name).read_bytes())


def edited(studio: Studio, dice: Flood) -> Iterator[Studio]:
    """The studio after one edit after another of fields chosen at random."""
    while True:
        path = dice.dice.choice(dice.paths(studio))
        try:
            edit = EDIT.validate_python({"verb": "set", "target": path, "fields": dice.fields_of(studio, path)})
            after = change(studio, edit)
        except (ValidationError, EditRefused):
            continue
        if after != studio:
            studio = after
            yield studio


@pytest.mark.parametrize("start", ["overhead", "portrait", *(path.stem for path in EXAMPLES)])
def test_no_hit_is_stale_after_any_edit(checked: None, start: str) -> None:
    studio = beginning(start)
    ledger_of(studio)
    after = edited(studio, Flood(len(start)))
    for _ in range(ROUNDS):
        studio = next(after)
        ledger_of(studio)
        for plan in studio.sets[:1]:
            scene = scene_of(studio, plan)
            if scene is not None:
                sheet(scene, (), 760.0, 560.0)


def test_an_overhead_camera_moves_with_the_background_that_turns_it() -> None:
    """No facing is typed, so the background says which way the picture lies: moving it moves the camera's arm."""
    studio = overhead()
    target = f"sets/{studio.sets[0].id}/background"
    ledger_of(studio)
    moved = change(studio, SetFields(target=target, fields={"x": 4.6, "y": 1.0}))
    with memo.fresh():
        fresh = {m.key: m.margin for m in ledger_of(moved).lines}
    held = {m.key: m.margin for m in ledger_of(moved).lines}
    assert held.keys() == fresh.keys()
    for key, margin in fresh.items():
        if margin is not None:
            assert held[key] == pytest.approx(margin, abs=1e-9), key


def test_a_key_that_leaves_something_out_is_found(checked: None) -> None:
    """The check itself can fail: a builder that reads more than its key says."""
    memory: Memo[float] = Memo(1000, lambda _: 8)
    figure = [1.0]
    part = object()
    assert memory.get("x", (part,), lambda: figure[0]) == 1.0
    figure[0] = 2.0
    with pytest.raises(Stale, match=r"1\.0 is remembered, fresh it is 2\.0"):
        memory.get("x", (part,), lambda: figure[0])


@pytest.mark.parametrize(
    ("one", "other", "same"),
    [((1.0, "a"), (1.0 + 1e-12, "a"), True), ((1.0,), (1.0, 2.0), False), ({"a": 1}, {"b": 1}, False),
     (math.nan, math.nan, True), ("a", "b", False), (1, 1.5, False)],
)  # fmt: skip
def test_results_are_compared_to_rounding(one: object, other: object, same: bool) -> None:
    assert (difference(one, other) is None) is same


def test_eight_threads_say_what_one_says() -> None:
    studio = read_studio(EXAMPLES[0].read_bytes())
    dice = random.Random(5)
    mark = studio.sets[0].mark
    asked = [
        change(
            studio,
            SetFields(target=f"sets/{studio.sets[0].id}/mark", fields={"x": (mark.x or 1) + dice.uniform(-0.2, 0.2)}),
        )
        for _ in range(6)
    ]
    with memo.fresh():
        alone = [[(m.key, m.verdict, m.margin) for m in ledger_of(one).lines] for one in asked]
    found: dict[int, list[list[tuple[str, object, float | None]]]] = {}

    def work(number: int) -> None:
        found[number] = [[(m.key, m.verdict, m.margin) for m in ledger_of(one).lines] for one in asked]

    threads = [threading.Thread(target=work, args=(number,)) for number in range(8)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert len(found) == 8
    for lines in found.values():
        for mine, theirs in zip(lines, alone, strict=True):
            assert [line[:2] for line in mine] == [line[:2] for line in theirs]
            for (_, _, margin), (key, _, wanted) in zip(mine, theirs, strict=True):
                assert difference(margin, wanted) is None, key


def test_the_environment_turns_the_check_on() -> None:
    code = "from evrant.core.base import memo; print(memo.check_hits(False))"
    for value, told in (("1", "True"), ("", "False")):
        done = subprocess.run(
            [sys.executable, "-c", code],
            env={"PYTHONPATH": str(EXAMPLES[0].parents[1] / "src"), memo.CHECKED: value},
            capture_output=True,
            text=True,
            check=True,
        )
        assert done.stdout.strip() == told


# --- one bound for all -------------------------------------------------------------------------------


@pytest.fixture
def budget(monkeypatch: pytest.MonkeyPatch) -> memo.Budget:
    """A budget of its own for two caches made in a test."""
    made = memo.Budget()
    monkeypatch.setattr(memo, "BUDGET", made)
    monkeypatch.setattr(memo, "KEPT", 0.0)
    return made


def test_what_was_used_longest_ago_goes_first_whichever_cache_it_is_in(budget: memo.Budget) -> None:
    first: memo.Memo[str] = memo.Memo(10_000, lambda _: 100)
    second: memo.Memo[str] = memo.Memo(10_000, lambda _: 100)
    for n in range(5):
        first.put(f"a{n}", "x")
        second.put(f"b{n}", "x")
    first.get_by("a0", lambda: "made anew")
    budget.free(0.4)
    assert budget.remembered() == first.weight + second.weight == 600
    assert first.get_by("a0", lambda: "made anew") == "x", "it was used last"
    gone = [name for name in ("a1", "b0", "b1", "a2") if _gone(first, second, name)]
    assert gone == ["a1", "b0", "b1", "a2"]


def _gone(first: "memo.Memo[str]", second: "memo.Memo[str]", name: str) -> bool:
    return (first if name[0] == "a" else second).look(name, (), lambda: "") is None


def test_the_process_is_measured_and_too_much_is_given_back(
    budget: memo.Budget, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Entries that weigh ten times what they are taken to weigh: the process stays within the bound all the same."""
    monkeypatch.setattr(memo, "QUANTUM", 1000)
    cache: memo.Memo[bytes] = memo.Memo(10**9, lambda _: 100)
    given: list[int] = []
    budget.watch(50_000, lambda: 7_000_000 + 10 * budget.remembered(), lambda: given.append(budget.remembered()))
    most = 0
    for n in range(1000):
        cache.put(f"n{n}", b"")
        most = max(most, 10 * budget.remembered())
    assert 50_000 <= most <= 50_000 + 10 * 1000 + 2000, "no more than was added between two looks"
    assert len(given) > 5 and cache.get_by("n999", lambda: b"anew") == b""
    budget.stop()
    for n in range(1000):
        cache.put(f"m{n}", b"")
    assert budget.remembered() > 100_000, "nobody watches any more"


def test_what_does_not_come_back_by_forgetting_does_not_empty_the_caches(
    budget: memo.Budget, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A process that holds too much besides its caches keeps a part of them: emptied, they would only be filled
    again, at every page."""
    monkeypatch.setattr(memo, "QUANTUM", 1000)
    monkeypatch.setattr(memo, "KEPT", 0.25)
    cache: memo.Memo[str] = memo.Memo(10**9, lambda _: 100)
    budget.watch(50_000, lambda: 90_000, lambda: None)
    budget._base = 0
    for n in range(2000):
        cache.put(f"n{n}", "")
    assert 12_500 <= budget.remembered() <= 12_500 + 1100


def test_what_is_forgotten_is_gone_without_a_search_for_garbage() -> None:
    """No ring of scene and light, whether it was remembered or made anew: each holds megabytes."""
    plan = demo().sets[0]
    gc.collect()
    gc.disable()
    try:
        for anew in (False, True):
            scene = scene_of(demo(), plan)
            assert scene is not None
            with memo.fresh() if anew else nullcontext():
                state = lit(scene)
                again = lit(scene) is state
            assert again
            assert not isinstance(state, Missing)
            gone: list[Callable[[], object]] = [weakref.ref(state), weakref.ref(state.settled)]
            del state, scene
            while lights._LIT.forget_oldest():
                pass
            assert [one() for one in gone] == [None, None]
    finally:
        gc.enable()


def test_threads_that_remember_and_forget_at_once_lose_no_count(budget: memo.Budget) -> None:
    caches: list[memo.Memo[str]] = [memo.Memo(10**9, lambda _: 10) for _ in range(3)]

    def work(seed: int) -> None:
        for n in range(400):
            caches[(seed + n) % 3].put(f"{seed}-{n}", "x")
            if n % 50 == 0:
                budget.free(0.3)

    threads = [threading.Thread(target=work, args=(seed,)) for seed in range(6)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    budget.free(1.0)
    assert budget.remembered() == 0 and all(cache.oldest() is None for cache in caches)
