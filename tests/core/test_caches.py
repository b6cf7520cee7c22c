"""What is remembered is what would be computed anew, after any edit of any field; and many threads agree with one."""

import math
import os
import random
import subprocess
import sys
import threading
from collections.abc import Iterator
from pathlib import Path

import pytest
from helpers.flood import Flood
from helpers.studios import one_portrait, parse
from pydantic import ValidationError

from evrant.core.base import memo
from evrant.core.base.memo import Memo, Stale, difference
from evrant.core.edits.language import EDIT, EditRefused, SetFields
from evrant.core.judge.ledger import ledger_of
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
