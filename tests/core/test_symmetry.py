"""What must not matter to geometry does not: mirroring, turning the room, moving it all, a larger room around it.

Margins are compared, not their ±: things are measured off from corner A, so after a mirroring another wall's
length enters.
"""

import copy
import json
import re
from typing import Any

import pytest
from helpers.mirror import mirrored, quarter_turned
from helpers.studios import demo, one_portrait, parse
from hypothesis import given, settings
from hypothesis import strategies as st

from evrant.core.base.margins import Margin, Verdict
from evrant.core.edits.language import Shift
from evrant.core.judge.ledger import ledger_of
from evrant.core.place.moves import change as apply
from evrant.core.studio.studio import Studio
from evrant.files.document import read_studio, write_studio

GEOMETRY = ("frame.", "fit.", "support.", "light.")


def judged(studio: Studio) -> dict[str, Margin]:
    return {m.key: m for m in ledger_of(studio).lines if m.code.startswith(GEOMETRY)}


def data_of(studio: Studio) -> dict[str, Any]:
    found: dict[str, Any] = json.loads(write_studio(studio))
    return found


def within(key: str, geometry: float) -> float:
    """Returned light is summed over patches whose sample points have a hand: a few hundredths of a stop,
    a tenth of a ΔE. The foot of a subject that another sits before is half in its shadow: 0.15 stop."""
    if key.startswith("light.falloff"):
        return 0.15
    if key.startswith("light.tint"):
        return 0.1
    return 0.03 if key.startswith("light.") else geometry


@pytest.mark.parametrize("which", ["portrait", "demo"])
def test_a_mirrored_set_in_a_mirrored_room_has_the_same_margins(which: str) -> None:
    data = one_portrait() if which == "portrait" else data_of(demo())
    here, there = judged(parse(data)), judged(parse(mirrored(data)))
    assert here.keys() == there.keys()
    for key, margin in here.items():
        assert there[key].margin == pytest.approx(margin.margin, abs=within(key, 0.001)), key


def test_mirroring_twice_is_nothing() -> None:
    once = mirrored(data_of(demo()))
    assert ledger_of(parse(mirrored(once))).counts() == ledger_of(demo()).counts()


@pytest.mark.parametrize("which", ["portrait", "demo"])
def test_turning_the_whole_room_changes_nothing(which: str) -> None:
    data = one_portrait() if which == "portrait" else data_of(demo())
    here, there = judged(parse(data)), judged(parse(quarter_turned(data)))
    assert here.keys() == there.keys()
    for key, margin in here.items():
        assert there[key].margin == pytest.approx(margin.margin, abs=within(key, 0.002)), key


@settings(max_examples=20, deadline=None)
@given(st.floats(0, 2.5), st.floats(0, 2.5), st.floats(0, 1.0))
def test_a_larger_room_around_the_same_things_is_never_worse(long: float, wide: float, high: float) -> None:
    """All contents at the same coordinates; only the far walls and the ceiling move away."""
    data = one_portrait()
    data["room"]["doors"] = []
    before = judged(parse(data))
    larger = copy.deepcopy(data)
    larger["room"]["footprint"] |= {"length": 5.0 + long, "width": 4.0 + wide}
    larger["room"]["height"] = 2.8 + high
    after = judged(parse(larger))
    for key, margin in before.items():
        assert (after[key].margin or 0) >= (margin.margin or 0) - 1e-9, key


@settings(max_examples=15, deadline=None)
@given(st.floats(-0.4, 0.4), st.floats(-0.4, 0.4))
def test_moving_the_set_keeps_what_it_is_to_itself(dx: float, dy: float) -> None:
    studio = parse(one_portrait())
    moved = apply(studio, Shift(target="sets/s", dx=dx, dy=dy))
    here, there = judged(studio), judged(moved)
    own = ("frame.crop", "frame.depth", "frame.backdrop", "frame.intrusion", "fit.backdrop_gap", "light.", "support.")
    inner = [key for key in here if key.startswith(own)]
    assert len(inner) > 10
    for key in inner:
        assert there[key].margin == pytest.approx(here[key].margin, abs=1e-6), key


def test_the_file_alone_gives_the_same_ledger() -> None:
    assert ledger_of(read_studio(write_studio(demo()))).lines == ledger_of(demo()).lines


def test_feet_and_inches_change_the_words_and_nothing_else() -> None:
    metric = demo()
    imperial = metric.changed(brief=metric.brief.changed(units="imperial"))
    here, there = ledger_of(metric), ledger_of(imperial)
    assert [(m.key, m.margin, m.verdict) for m in here.lines] == [(m.key, m.margin, m.verdict) for m in there.lines]
    for margin in there.lines:
        words = re.sub(
            r"lead \d+ m|\d+ mm|\d+ × \d+ cm|\d+ cm, inner|octabox \d+ cm|umbrella \d+ cm|[\d.]+ × \d m|\d\.\d m\b",
            "",
            f"{margin.sentence} {margin.reason}",
        )
        assert not re.search(r"\d (cm|m|kg)\b", words), words


def test_every_verdict_word_is_one_of_four() -> None:
    assert [v.value for v in Verdict] == ["Short", "Unknown", "Tight", "Clear"]
