"""The ledger: codes, verdicts, order, uncertainty, and that an edit re-runs only what it can change."""

import copy
import math
from collections import Counter
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest
from helpers.studios import demo, item, line, one_portrait, parse
from hypothesis import given, settings
from hypothesis import strategies as st

from evrant.core.base.margins import Margin, Verdict, verdict_of
from evrant.core.base.memo import fresh
from evrant.core.base.model import Model
from evrant.core.base.quantity import Figure
from evrant.core.edits import paths
from evrant.core.edits.language import Add, SetFields
from evrant.core.judge.declared import studio_rules
from evrant.core.judge.ledger import Ledger, ledger_of, without_places
from evrant.core.judge.next_step import next_step
from evrant.core.place.moves import change as apply
from evrant.core.place.starting_set import starting_set
from evrant.core.studio.studio import Studio
from evrant.files.document import read_studio

ALL_CODES = {
    "frame.distance",
    "frame.lens",
    "frame.crop",
    "frame.depth",
    "frame.backdrop_width",
    "frame.backdrop_height",
    "frame.backdrop_sweep",
    "frame.intrusion",
    "fit.backdrop_gap",
    "fit.ceiling",
    "fit.wall",
    "fit.overlap",
    "fit.door",
    "fit.way_out",
    "frame.flare",
    "light.shadow",
    "fit.holder_ceiling",
    "fit.holder_wall",
    "support.reach",
    "support.load",
    "support.holder_reach",
    "support.holder_span",
    "support.holder_load",
    "support.weights",
    "support.tipping",
    "support.push",
    "support.crossbar",
    "support.joint",
    "support.mount",
    "light.ambient",
    "light.power_full",
    "light.power_lowest",
    "light.exposure",
    "light.eyes",
    "light.from_below",
    "light.falloff",
    "light.soft",
    "power.circuit",
    "power.reach",
    "power.crossing",
    "power.socket",
    "frame.perspective",
    "power.heat",
    "power.warmth",
    "power.air",
    "trigger.transmitter",
    "trigger.receivers",
    "trigger.camera",
    "stow.length",
    "stow.place",
    "stow.volume",
    "stow.load",
    "budget.idle",
    "budget.total",
}


def test_the_plain_portrait_is_clear_everywhere_and_has_every_code() -> None:
    ledger = ledger_of(parse(one_portrait()))
    assert {m.code for m in ledger.lines} == ALL_CODES
    assert {m.verdict for m in ledger.lines} == {Verdict.CLEAR}
    assert ledger.ready and ledger.headline == "Ready to buy"


def test_the_demo_shows_all_four_verdicts() -> None:
    ledger = ledger_of(demo())
    assert {m.verdict for m in ledger.lines} == set(Verdict)
    assert not ledger.ready
    assert sum(ledger.shorts().values()) == ledger.count(Verdict.SHORT)
    by_step = Counter(m.line.step for m in ledger.lines if m.verdict is Verdict.SHORT)
    assert by_step == ledger.shorts() and {"set", "light", "support"} <= set(by_step)


def test_every_line_gives_its_reason_and_source() -> None:
    for margin in ledger_of(demo()).lines:
        assert margin.sentence.endswith(".") and margin.reason and margin.title
        assert margin.basis.formula and margin.basis.source and margin.basis.kind
        if margin.margin is not None:
            assert margin.uncertainty is not None and math.isfinite(margin.margin)
            spare, unsure = margin.margin, margin.uncertainty
            wanted = Verdict.SHORT if spare < 0 else Verdict.TIGHT if spare <= unsure else Verdict.CLEAR
            assert margin.verdict is wanted
        else:
            assert margin.verdict is Verdict.UNKNOWN and margin.enter


def test_keys_are_unique() -> None:
    keys = [m.key for m in ledger_of(demo()).lines]
    assert len(keys) == len(set(keys))


def test_order_is_worst_first_with_safety_ahead() -> None:
    lines = ledger_of(demo()).lines
    assert [m.order() for m in lines] == sorted(m.order() for m in lines)
    shorts = [m for m in lines if m.verdict is Verdict.SHORT]
    assert lines[: len(shorts)] == tuple(shorts)
    assert next(m for m in lines if m.verdict is Verdict.CLEAR).safety


@pytest.mark.parametrize(
    ("margin", "unsure", "verdict"),
    [
        (-0.001, 0.5, Verdict.SHORT),
        (0.0, 0.0, Verdict.TIGHT),
        (0.01, 0.01, Verdict.TIGHT),
        (0.011, 0.01, Verdict.CLEAR),
    ],
)
def test_verdicts(margin: float, unsure: float, verdict: Verdict) -> None:
    assert verdict_of(margin, unsure) is verdict


def test_severity_counts_in_steps() -> None:
    width = line(parse(one_portrait()), "frame.backdrop_width")
    assert replace(width, margin=-0.05, uncertainty=0.0).severity == pytest.approx(-5)
    assert replace(width, margin=-0.05, uncertainty=0.02).severity == pytest.approx(-2.5)
    assert replace(width, line=width.line.but(unit="stop"), margin=-0.5, uncertainty=0.0).severity == pytest.approx(-5)
    assert replace(
        width, line=width.line.but(unit="money"), margin=-40, have=800, uncertainty=0.0
    ).severity == pytest.approx(-5)
    assert replace(
        width, line=width.line.but(unit="A"), margin=-1.6, have=16, uncertainty=0.0
    ).severity == pytest.approx(-2)


def test_a_short_line_within_the_tape_says_that_measuring_may_settle_it() -> None:
    data = one_portrait()
    data["sets"][0]["background"]["x"] = 0.444
    wall = line(parse(data), "fit.holder_wall")
    assert wall.verdict is Verdict.SHORT and abs(wall.margin or 0) < (wall.uncertainty or 0)
    assert "Measuring again may settle it" in wall.reason


def test_accepting_every_tight_line_makes_ready() -> None:
    data = one_portrait()
    needed = line(parse(data), "frame.backdrop_height").need
    assert needed is not None
    data["sets"][0]["background"]["height"] = round(needed + 0.004, 3)
    studio = parse(data)
    ledger = ledger_of(studio)
    tight = [m for m in ledger.lines if m.verdict is Verdict.TIGHT]
    assert tight and ledger.counts()[Verdict.SHORT] == 0 and not ledger.ready
    for margin in tight:
        studio = apply(studio, Add(list="accepted", item={"id": margin.token}))
    assert ledger_of(studio).ready


def test_an_empty_plan_has_nothing_to_judge() -> None:
    bare = Studio.model_validate({"format": "evrant-studio", "schema": 1, "name": "x"})
    ledger = ledger_of(bare)
    assert ledger.lines == () and ledger.headline == "Nothing to judge yet" and not ledger.ready
    assert next_step(bare, ledger).page == "brief"


# --- uncertainty ------------------------------------------------------------------------------


def figures_in(thing: Any, path: str = "") -> list[tuple[str, str, Figure]]:
    """(target, field, figure) of every figure in a studio."""
    found = []
    if isinstance(thing, Model):
        for name in type(thing).model_fields:
            value = getattr(thing, name)
            if isinstance(value, Figure):
                found.append((path or "studio", name, value))
            else:
                found += figures_in(value, f"{path}/{name}".strip("/"))
    elif isinstance(thing, tuple):
        for part in thing:
            if hasattr(part, "id"):
                found += figures_in(part, f"{path}/{part.id}")
    return found


def moved_by(before: Ledger, after: Ledger, field: str, least: float) -> set[str]:
    """Keys of judged lines whose margin moved, or whose variance grew, by more than `least`."""
    new = {m.key: m for m in after.lines}
    moved = set()
    for margin in before.lines:
        other = new.get(margin.key)
        old_value, new_value = getattr(margin, field), getattr(other, field, None)
        if old_value is None or new_value is None:
            continue
        change = new_value - old_value if field == "margin" else abs(new_value**2 - old_value**2) ** 0.5
        if abs(change) > least:
            moved.add(margin.key)
    return moved


def test_widening_one_input_widens_exactly_the_margins_that_read_it() -> None:
    """A margin reads an input if it moves with the input's value: by more than a thousandth of it. It must
    then widen by slope × ±, and no other may."""
    studio = parse(one_portrait() | {"name": "jacobian"})
    base = ledger_of(studio)
    checked = 0
    for target, name, figure in figures_in(studio):
        step = max(figure.value * 1e-4, 1e-5)
        wide = figure.pm + 50 * step

        def judged(value: float, pm: float, target: str = target, name: str = name) -> Ledger:
            return ledger_of(apply(studio, SetFields(target=target, fields={name: {"value": value, "pm": pm}})))

        up, down = (judged(figure.value + way * step, figure.pm) for way in (1, -1))
        read = moved_by(base, up, "margin", step * 1e-3) | moved_by(base, down, "margin", step * 1e-3)
        spread = (wide**2 - figure.pm**2) ** 0.5
        widened = moved_by(base, judged(figure.value, wide), "uncertainty", spread * 1e-3)
        assert widened == read, (target, name, widened ^ read)
        checked += 1
    assert checked > 40


def test_the_share_of_an_input_is_its_slope_times_its_spread() -> None:
    studio = parse(one_portrait())
    height = line(studio, "fit.ceiling", "lights/key")
    assert height.uncertainty == pytest.approx(math.hypot(0.01, 0.01, 0.0025), abs=0.003)
    guessed = apply(studio, SetFields(target="room", fields={"height": {"value": 2.8, "origin": "guess"}}))
    assert line(guessed, "fit.ceiling", "lights/key").uncertainty == pytest.approx(0.28, abs=0.001)


# --- what is read, what is re-run ----------------------------------------------------------------

MOVES: list[tuple[str, dict[str, Any]]] = [
    ("sets/kneeling-a/lights/key", {"height": 1.7}),
    ("sets/kneeling-a/mark", {"x": 1.3}),
    ("sets/cat-a/camera", {"x": 2.2}),
    ("room", {"height": 2.5}),
    ("brief", {"units": "imperial"}),
    ("brief", {"budget": "700"}),
    ("gear/octa-90", {"width": 0.8}),
    ("gear/octa-90", {"price": "1"}),
    ("gear/lens-50", {"status": "considered"}),
    ("shots/cat", {"aperture": 11}),
    ("room/boxes/pipe", {"base": 2.2}),
    ("gear/flash-200", {"energy": 300}),
    ("room/circuits/sockets", {"breaker": 1}),
    ("brief", {"country": "US"}),
    ("room/places/cupboard", {"height": 0.4}),
    ("sets/kneeling-a/background", {"backdrop": "vinyl-200-grey"}),
]


@settings(max_examples=5, deadline=None)
@given(st.lists(st.sampled_from(MOVES), min_size=1, max_size=5))
def test_the_remembered_ledger_equals_the_full_run(moves: list[tuple[str, dict[str, Any]]]) -> None:
    studio = demo()
    for target, fields in moves:
        studio = apply(studio, SetFields(target=target, fields=fields))
        remembered = ledger_of(studio).lines
        with fresh():
            assert remembered == ledger_of(studio).lines


STUDIOS = [path.read_bytes() for path in sorted((Path(__file__).parents[2] / "examples").glob("*.json"))]


@pytest.mark.parametrize("raw", STUDIOS)
def test_rules_that_do_not_look_at_places_say_the_same_wherever_lights_stand(raw: bytes) -> None:
    studio = read_studio(raw)
    away = without_places(studio)
    blind = [rule for rule in studio_rules() if not rule.places]
    assert blind
    for rule in blind:
        assert list(rule.of(away)) == list(rule.of(studio)), rule.name


def test_lights_that_only_move_are_the_same_lights_to_them() -> None:
    studio, key = demo(), "sets/kneeling-a/lights/key"

    def seen(fields: dict[str, Any], target: str = key) -> object:
        return without_places(apply(studio, SetFields(target=target, fields=fields))).sets

    sets = without_places(studio).sets
    assert seen({"x": 1.23}) is sets and seen({"height": 1.5, "aim_x": None}) is sets
    assert all(light.x in (0.0, None) and light.height in (0.0, None) for plan in sets for light in plan.lights)
    for fields in ({"x": None}, {"power": 0.5}, {"boom": 30}, {"socket": None, "circuit": "lights"}, {"bag": 3}):
        assert seen(fields) is not sets, fields
    assert seen({"x": 1.3}, "sets/kneeling-a/mark") is not sets


# --- half-described studios ---------------------------------------------------------------------


def leaves(data: Any, here: tuple[Any, ...] = ()) -> list[tuple[Any, ...]]:
    if isinstance(data, dict):
        return [here, *(p for key, part in data.items() for p in leaves(part, (*here, key)))]
    if isinstance(data, list):
        return [here, *(p for i, part in enumerate(data) for p in leaves(part, (*here, i)))]
    return [here]


REQUIRED = {"id", "kind", "name", "format", "schema", "shot"}
PATHS = [p for p in leaves(one_portrait()) if p and p[-1] not in REQUIRED]


def without(data: dict[str, Any], path: tuple[Any, ...]) -> dict[str, Any]:
    data = copy.deepcopy(data)
    here: Any = data
    try:
        for step in path[:-1]:
            here = here[step]
        del here[path[-1]]
    except (KeyError, IndexError, TypeError):
        pass
    return data


@pytest.mark.parametrize("path", PATHS, ids=lambda p: ".".join(map(str, p)))
def test_any_one_thing_may_be_missing(path: tuple[Any, ...]) -> None:
    studio = parse(without(one_portrait(), path))
    for margin in ledger_of(studio).lines:
        if margin.verdict is Verdict.UNKNOWN and margin.enter and margin.enter not in ("room", "brief"):
            assert paths.exists(studio, margin.enter) or margin.enter.endswith(("mark", "camera", "background"))


@settings(max_examples=80, deadline=None)
@given(st.lists(st.sampled_from(PATHS), min_size=2, max_size=14))
def test_any_things_may_be_missing(gone: list[tuple[Any, ...]]) -> None:
    data = one_portrait()
    for path in gone:
        data = without(data, path)
    ledger = ledger_of(parse(data))
    assert all(m.verdict is Verdict.UNKNOWN or m.margin is not None for m in ledger.lines)


UNKNOWNS: list[tuple[tuple[Any, ...], str]] = [
    (("room", "height"), "fit.ceiling"),
    (("shots", 0, "aperture"), "frame.depth"),
    (("room", "footprint"), "frame.distance"),
    (("brief", "budget"), "budget.total"),
    (("room", "circuits", 0, "breaker"), "power.circuit"),
    (("room", "places"), "stow.length"),
]


@pytest.mark.parametrize(("path", "code"), UNKNOWNS)
def test_a_missing_figure_is_said_and_never_guessed(path: tuple[Any, ...], code: str) -> None:
    found = [m for m in ledger_of(parse(without(one_portrait(), path))).lines if m.code == code]
    assert found and all(m.verdict is Verdict.UNKNOWN and m.margin is None for m in found)


@pytest.mark.parametrize(
    ("key", "field", "code"),
    [
        ("paper", "width", "frame.backdrop_width"),
        ("stands", "load", "support.holder_load"),
        ("stand", "load", "support.load"),
        ("head", "lowest_power", "light.power_lowest"),
        ("box", "width", "light.power_full"),
        ("stand", "max_height", "support.reach"),
        ("head", "recycle", "power.circuit"),
        ("paper", "packed_length", "stow.length"),
        ("box", "price", "budget.total"),
        ("cam", "sensor_width", "frame.distance"),
    ],
)
def test_a_missing_data_sheet_figure_is_unknown_at_its_item(key: str, field: str, code: str) -> None:
    data = one_portrait()
    del item(data, key)[field]
    found: list[Margin] = [m for m in ledger_of(parse(data)).lines if m.code == code]
    assert [m.verdict for m in found] == [Verdict.UNKNOWN]
    assert found[0].enter in (f"gear/{key}", "sets/s/camera")


def test_a_zero_ampere_breaker_is_never_clear() -> None:
    data = one_portrait()
    data["room"]["circuits"][0]["breaker"] = 0
    assert line(parse(data), "power.circuit").verdict is Verdict.UNKNOWN


# --- a first arrangement -------------------------------------------------------------------------


def test_the_first_arrangement_is_judged_like_any_other() -> None:
    data = one_portrait()
    data["sets"] = []
    studio = parse(data)
    plan = starting_set(studio, studio.shots[0], "first")
    ledger = ledger_of(apply(studio, Add(list="sets", item=plan.model_dump(mode="json", exclude_none=True))))
    assert ledger.has_set and {m.code for m in ledger.lines} == ALL_CODES
    assert not [m for m in ledger.lines if m.verdict is Verdict.SHORT]


def test_a_first_arrangement_without_room_or_gear_is_still_a_set() -> None:
    bare = parse({"format": "evrant-studio", "schema": 1, "name": "x", "shots": [{"id": "a"}]})
    plan = starting_set(bare, bare.shots[0], "first")
    assert plan.shot == "a" and plan.mark.x is None
