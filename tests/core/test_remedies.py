"""Remedies: applied, judged, ranked; and rows of the mistakes the ledger must catch."""

import copy
from collections.abc import Callable
from typing import Any

import pytest
from helpers.studios import demo, item, line, one_portrait, parse

from evrant.core.base.margins import Margin, Remedy, Verdict
from evrant.core.base.memo import fresh
from evrant.core.edits.language import EDIT
from evrant.core.judge.ledger import Ledger, ledger_of
from evrant.core.judge.remedies import MOST_CANDIDATES, remedies_of
from evrant.core.place.moves import change as apply
from evrant.core.studio.studio import Studio


def worst(studio: Studio, code: str) -> Margin:
    return next(m for m in ledger_of(studio).lines if m.code == code and m.verdict is not Verdict.CLEAR)


Offered = tuple[Studio, Ledger, list[tuple[Margin, tuple[Remedy, ...]]]]


@pytest.fixture(scope="module")
def offered() -> Offered:
    """The demo with every open line's remedies."""
    studio = demo()
    ledger = ledger_of(studio)
    open_lines = [m for m in ledger.lines if m.verdict is not Verdict.CLEAR]
    return studio, ledger, [(m, remedies_of(studio, m, ledger)) for m in open_lines]


def test_applying_a_remedy_gives_exactly_what_it_said(offered: Offered) -> None:
    """The best of every other line and the last of the rest, carried out and judged anew."""
    studio, _, lines = offered
    seen = 0
    for number, (margin, remedies) in enumerate(lines):
        assert len(remedies) <= MOST_CANDIDATES
        for remedy in remedies[:1] if number % 2 else remedies[-1:]:
            with fresh():
                after = ledger_of(apply(studio, EDIT.validate_python(remedy.edit)))
            got = after.find(margin.key)
            if got is None:  # a line that is only there while something is missing
                assert remedy.verdict is Verdict.CLEAR and remedy.margin is None
            else:
                assert got.margin == remedy.margin and got.verdict is remedy.verdict
            assert all(after.find(c.key) is not None for c in remedy.changes)
            seen += 1
    assert seen >= 12


def test_what_makes_another_line_worse_stands_below(offered: Offered) -> None:
    for _, remedies in offered[2]:
        flags = [r.worse for r in remedies]
        assert flags == sorted(flags)


def test_at_least_three_short_lines_of_the_demo_have_a_remedy_that_clears_them(offered: Offered) -> None:
    cured = [
        m.code
        for m, remedies in offered[2]
        if m.verdict is Verdict.SHORT and any(r.verdict is Verdict.CLEAR and not r.worse for r in remedies)
    ]
    assert len(cured) >= 3


Change = Callable[[dict[str, Any]], None]


def plan(data: dict[str, Any]) -> dict[str, Any]:
    found: dict[str, Any] = data["sets"][0]
    return found


def _set(part: str, **fields: Any) -> Change:
    def change(data: dict[str, Any]) -> None:
        plan(data)[part].update(fields)

    return change


def _light(**fields: Any) -> Change:
    return lambda data: plan(data)["lights"][0].update(fields)


def _gear(key: str, **fields: Any) -> Change:
    return lambda data: item(data, key).update(fields)


def _box(**fields: Any) -> Change:
    whole = {"id": "bed", "name": "Bed", "x": 3.9, "y": 1.5, "length": 0.9, "width": 1.0, "height": 0.5}
    return lambda data: data["room"]["boxes"].append(whole | fields)


def _shot(**fields: Any) -> Change:
    return lambda data: data["shots"][0].update(fields)


MISTAKES: list[tuple[str, Change, str]] = [
    ("subject against the wall", _set("background", x=1.6), "fit.backdrop_gap"),
    ("camera with nowhere to step back", _set("camera", lens="l85", x=4.4), "frame.distance"),
    ("a bed in the step-back path", _box(x=3.6), "frame.distance"),
    ("the photographer in the wall behind", _set("camera", x=4.7), "fit.wall"),
    ("furniture where the photographer stands", _box(x=3.9), "fit.overlap"),
    ("door that opens into the set", _light(x=4.3, y=0.8), "fit.door"),
    ("stand lower than the light", _gear("stand", max_height=1.8), "support.reach"),
    ("modifier hitting the ceiling", _light(height=2.75), "fit.ceiling"),
    (
        "modifier into a beam",
        lambda d: d["room"]["boxes"].append(
            {"id": "beam", "name": "Beam", "x": 0, "y": 2.6, "length": 5, "width": 0.4, "base": 2.2, "height": 0.6}
        ),
        "fit.overlap",
    ),
    ("background narrower than the frame", _gear("paper", width=0.9), "frame.backdrop_width"),
    ("background too low", _set("background", height=1.7), "frame.backdrop_height"),
    ("background too short for the sweep", _gear("paper", length=2.0), "frame.backdrop_sweep"),
    ("background stands into the wall", _set("background", x=0.3), "fit.holder_wall"),
    ("background higher than the ceiling", _set("background", height=2.85), "fit.holder_ceiling"),
    ("lowest power too strong for a wide aperture", _shot(aperture=1.4), "light.power_lowest"),
    ("flash too weak", _shot(aperture=22), "light.power_full"),
    ("head bright and feet dark", _light(x=2.3, y=2.3, height=2.2), "light.falloff"),
    ("several heads on one small breaker", lambda d: d["room"]["circuits"][0].update(breaker=1.5), "power.circuit"),
    ("stand over its load", _gear("stand", load=1.0), "support.load"),
    ("roll over its holder's load", _gear("stands", load=2.0), "support.holder_load"),
    ("roll wider than its holder", _gear("stands", max_width=1.2), "support.holder_span"),
    ("roll longer than the cupboard", lambda d: d["room"]["places"][0].update(height=0.5), "stow.length"),
    ("more than the purse", lambda d: d["brief"].update(budget="300"), "budget.total"),
    ("a light inside the frame", _light(x=2.3, y=2.2, height=1.6), "frame.intrusion"),
    ("too little in focus", _shot(aperture=1.4), "frame.depth"),
    ("camera cuts into the frame", _set("camera", x=3.2), "frame.crop"),
    ("a light in the photographer's place", _light(x=4.0, y=1.9, height=1.5), "fit.overlap"),
]


@pytest.mark.parametrize(("name", "commit", "code"), MISTAKES, ids=[m[0] for m in MISTAKES])
def test_the_ledger_catches(name: str, commit: Change, code: str) -> None:
    """The small studio that commits the mistake is Short there; the same studio without it is Clear."""
    wrong = one_portrait()
    commit(wrong)
    assert code in {m.code for m in ledger_of(parse(wrong)).lines if m.verdict is Verdict.SHORT}
    assert all(m.verdict is Verdict.CLEAR for m in ledger_of(parse(one_portrait())).lines if m.code == code)


def test_the_camera_may_stand_in_a_doorway() -> None:
    data = one_portrait()
    data["room"]["footprint"]["length"] = 4.0
    data["room"]["doors"] = [
        {"id": "door", "name": "Door", "wall": "east", "offset": 1.5, "width": 0.9, "swing": "out", "height": 2.0}
    ]
    shut = line(parse(data), "frame.distance")
    data["room"]["doors"][0]["beyond"] = 1.2
    open_ = line(parse(data), "frame.distance")
    assert (open_.margin or 0) - (shut.margin or 0) == pytest.approx(1.2)
    data["room"]["doors"][0]["offset"] = 0.2
    assert line(parse(data), "frame.distance").margin == pytest.approx(shut.margin)


def test_only_the_doorway_itself_excuses_a_camera_outside_the_walls() -> None:
    data = one_portrait()
    data["room"]["footprint"]["length"] = 4.0
    data["sets"][0]["camera"]["x"] = 4.3
    data["room"]["doors"] = [
        {"id": "door", "name": "Door", "wall": "east", "offset": 1.5, "width": 0.9, "swing": "out", "beyond": 1.2}
    ]
    camera = ("fit.wall", "sets/s/camera")
    assert camera not in {(m.code, m.about[0]) for m in ledger_of(parse(data)).lines}
    for change in ({"offset": 0.2}, {"wall": "north"}, {"beyond": 0.2}):
        moved = copy.deepcopy(data)
        moved["room"]["doors"][0] |= change
        assert line(parse(moved), *camera).verdict is Verdict.SHORT, change


def test_the_pipe_counts_against_headroom_and_says_by_how_much() -> None:
    """A prism-shaped casing at 2.10 m over an upright box of known height: plain subtraction."""
    data = one_portrait()
    data["room"]["boxes"] = [
        {"id": "pipe", "name": "Pipe", "x": 0, "y": 0, "length": 5, "width": 4, "base": 2.10, "height": 0.7}
    ]
    overlap = line(parse(data), "fit.overlap", "lights/key")
    ceiling = line(parse(data), "fit.ceiling", "lights/key")
    assert overlap.verdict is Verdict.SHORT
    assert overlap.margin == pytest.approx((ceiling.margin or 0) - 0.70, abs=0.02)


def test_the_us_code_allows_four_fifths_of_a_breaker() -> None:
    data = one_portrait()
    data["brief"] |= {"country": "US", "currency": "USD"}
    data["room"]["circuits"][0]["breaker"] = 15
    circuit = line(parse(data), "power.circuit")
    assert circuit.have == pytest.approx(12)
    # 200 Ws / 1.3 s / 0.8 at cos φ 0.65 + 100 W modelling + 100 W other at 120 V
    assert circuit.need == pytest.approx((200 / 1.3 / 0.8 / 0.65 + 100 + 100) / 120)


def test_continuous_light_is_judged_by_the_shutter() -> None:
    data = one_portrait()
    data["gear"].append({"kind": "lamp", "id": "led", "name": "LED", "power": 60, "lumens": 5000, "supply": "battery"})
    _light(head="led")(data)
    weak = line(parse(data), "light.shutter")
    assert weak.verdict is Verdict.SHORT
    # N² C / (t S E): E from 5000 lm × 0.34 over π (R² + d²), dome share as placed; four times the light is two stops.
    data["gear"][-1]["lumens"] = 20000
    assert (line(parse(data), "light.shutter").margin or 0) - (weak.margin or 0) == pytest.approx(2.0)


def test_a_setting_that_leaves_nothing_to_ask_about_is_a_remedy() -> None:
    data = one_portrait()
    data["shots"][0]["balance"] = "automatic"
    studio = parse(data)
    short = line(studio, "light.balance")
    assert short.verdict is Verdict.SHORT and short.set_id is None
    (found,) = remedies_of(studio, short, ledger_of(studio))
    assert found.label == "Fix the white balance" and found.verdict is Verdict.CLEAR
