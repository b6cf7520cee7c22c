"""`light.card`: what a reflector gives where it stands, and what helps where that is nothing."""

import math
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from helpers.studios import packed, parse
from helpers.windows import at_hand, by_day, painted, state_of, the_scene, window

from evrant.core.base.margins import Margin, Remedy, Verdict
from evrant.core.edits.language import EDIT
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.remedies import remedies_of
from evrant.core.light import account
from evrant.core.light.cards import lift
from evrant.core.place.moves import change
from evrant.core.search.arrange.search import arrange
from evrant.core.space.scene import scene_of
from evrant.core.studio.studio import Studio

Data = dict[str, Any]
SIDE = window("north", 1.3)
"""Beside the sitter, who looks along the window."""


def gives(data: Data, number: int = 0) -> float:
    scene = the_scene(data)
    found = lift(state_of(scene), scene.plan.props[number])
    assert found is not None
    return found.stops


def line(data: Data | Studio) -> Margin | None:
    studio = parse(data) if isinstance(data, dict) else data
    return next((m for m in ledger_of(studio).lines if m.code == "light.card"), None)


def better(data: Data) -> dict[str, Remedy]:
    studio = parse(data)
    found = line(studio)
    assert found is not None
    return {one.label: one for one in remedies_of(studio, found, ledger_of(studio))}


def sized(data: Data, width: float, height: float) -> Data:
    next(one for one in data["gear"] if one["id"] == "card").update(width=width, height=height)
    return data


RHO = 0.85
"""Of a white board."""


def gathered(point: Any, normal: Any, panes: Any, facing: Any) -> Any:
    """cos cos / r² of small squares (n, 3) that face one way, at a point [1/m² each]."""
    ray = panes - point
    return np.clip(ray @ normal, 0, None) * np.clip(-(ray @ facing), 0, None) / (ray**2).sum(axis=1) ** 2


def squares(start: Any, along: Any, up: float, count: int) -> Any:
    """Middles of count × count parts of an upright rectangle: its lower corner, its lower edge, its height."""
    steps = (np.arange(count) + 0.5) / count
    return np.array([start + along * a + np.array([0.0, 0.0, up]) * b for a in steps for b in steps])


def test_in_a_black_room_it_gives_what_goes_from_the_window_by_way_of_the_card() -> None:
    """Independent: ρ/π ∫∫ L cos cos / r² over window and card, summed over small squares, against what the window gives
    the light side straight; the card stands before the sitter, whose body shades none of it."""
    data = painted(by_day(window("north", 2.6, width=1.0), card=-50, far=0.9), 1.0)
    next(one for one in data["gear"] if one["id"] == "paper")["reflectance"] = 1
    scene = the_scene(data)
    state, place = state_of(scene), scene.plan.props[0]
    found = lift(state, place)
    assert found is not None and found.where == "shadow side" and scene.face is not None
    # The north wall runs from x = 5 to 0: an offset counts from the east.
    pane = squares(np.array([5 - 2.6, 4.0, 0.8]), np.array([-1.0, 0.0, 0.0]), 1.5, 40)
    edge = np.array([math.cos(math.radians(place.turn)), math.sin(math.radians(place.turn)), 0.0])
    assert place.x is not None and place.y is not None
    card = squares(np.array([place.x, place.y, 0.8]) - 0.3 * edge, 0.6 * edge, 0.9, 24)
    normal = np.array([-edge[1], edge[0], 0.0])
    normal = normal if normal @ (scene.face - card.mean(axis=0)) > 0 else -normal
    inward = np.array([0.0, -1.0, 0.0])
    half = math.sqrt(0.5)
    straight = gathered(scene.face, np.array([half, half, 0.0]), pane, inward).mean() * 1.5
    on_card = np.array([gathered(spot, normal, pane, inward).mean() * 1.5 for spot in card])
    back = RHO / math.pi * (gathered(scene.face, np.array([half, -half, 0.0]), card, normal) * on_card).mean() * 0.54
    gained = state.total("shadow side") - found.without.total("shadow side")
    assert gained / state.total("key side", state.direct) == pytest.approx(back / straight, rel=0.06)


@pytest.mark.parametrize(("lrv", "far"), [(15, 0.5), (50, 0.5), (85, 0.5), (50, 1.3)])
def test_twenty_times_the_patches_say_the_same(lrv: float, far: float) -> None:
    """What the line counts for the division of the room, by solving it finely: 0.04 stops and a fifth of the figure,
    one and a half times at most."""
    data = painted(by_day(SIDE, card=-80, far=far), lrv)
    scene = the_scene(data)
    fine = state_of(scene, 2500)
    bare = state_of(replace(scene, plan=scene.plan.changed(props=())), 2500)
    there = math.log2(fine.total("shadow side") / bare.total("shadow side"))
    assert gives(data) == pytest.approx(there, abs=1.5 * (0.04 + 0.2 * there))


def test_what_no_tape_settles_is_not_to_be_measured_again() -> None:
    """Near a sixth of a stop it hangs on how finely the room is divided, or on the walls, which can be measured."""
    found = [line(painted(by_day(SIDE, card=-80, far=far), 30)) for far in (1.4, 1.6, 1.8)]
    close = [one for one in found if one is not None and one.settles == "division of the room into patches"]
    assert close and all("Measuring again" not in one.reason and "Unsure mostly" in one.reason for one in close)


def test_near_large_and_in_a_dark_room_it_gives_more() -> None:
    def at(lrv: float, far: float, width: float = 0.6, height: float = 0.9) -> float:
        return gives(sized(painted(by_day(SIDE, card=-80, far=far), lrv), width, height))

    assert at(30, 0.5) > at(30, 0.9) > at(30, 1.6) > -0.03
    assert at(10, 0.5) > at(50, 0.5) > at(85, 0.5)
    assert at(30, 0.7, 1.0, 1.5) > at(30, 0.7) > at(30, 0.7, 0.3, 0.3)


@pytest.mark.parametrize(
    ("lrv", "far", "verdict", "why"),
    [
        (30, 0.5, Verdict.CLEAR, "lifts the dark side of the face by"),
        (30, 1.9, Verdict.SHORT, "too small, or too far away"),
        (85, 0.75, Verdict.SHORT, "gives back nearly as much without it"),
    ],
)
def test_the_line_says_what_it_gives_or_why_it_gives_nothing(
    lrv: float, far: float, verdict: Verdict, why: str
) -> None:
    found = line(painted(by_day(SIDE, card=-80, far=far), lrv))
    assert found is not None and found.verdict is verdict and why in f"{found.sentence} {found.reason}"
    assert found.margin == pytest.approx(gives(painted(by_day(SIDE, card=-80, far=far), lrv)) - 1 / 6)


def test_how_white_the_walls_are_is_what_it_hangs_on() -> None:
    """Walls known to 2 of 100 and to 20 of 100; part of what is unsure is not theirs."""
    sure, guessed = (painted(by_day(SIDE, card=-80, far=0.6), 50) for _ in range(2))
    for wall in guessed["room"]["walls"]:
        wall["finish"]["lrv"] = {"value": 50, "pm": 20, "origin": "guess"}
    for wall in sure["room"]["walls"]:
        wall["finish"]["lrv"] = {"value": 50, "pm": 2, "origin": "measured"}
    few, many = line(sure), line(guessed)
    assert few is not None and many is not None and (many.uncertainty or 0.0) > 1.5 * (few.uncertainty or 9.0)


@pytest.mark.parametrize(
    "change_of",
    [
        {"surface": "black"},
        {"surface": "translucent"},
        {"tilt": 90.0},
        {"shine": "mirror-like"},
        {"lights": "none"},
        {"finish": None},
    ],
)
def test_what_is_no_reflector_or_cannot_be_known_has_no_line(change_of: Data) -> None:
    data = by_day(SIDE, card=-80, far=0.5)
    assert line(data) is not None
    if "surface" in change_of:
        data["gear"][-1] |= change_of
    elif "tilt" in change_of:
        data["sets"][0]["props"][0] |= change_of
    elif "shine" in change_of:
        data["shots"][0]["subjects"] = [{"id": "p", "name": "Bowl", "kind": "object", "height": 0.2, **change_of}]
    elif "lights" in change_of:
        data["shots"][0]["around"] = "dark"
    else:
        for wall in data["room"]["walls"]:
            wall.pop("finish")
    assert line(data) is None


def test_it_is_told_of_who_gets_most() -> None:
    """Of two people the second stands by the card, and the first is past its reach."""
    data = by_day(SIDE, card=-80, far=1.15)
    other = {"id": "q", "name": "Second", "posture": "standing", "height": 1.7, "across": -0.8}
    data["shots"][0]["subjects"].append(other)
    found = line(data)
    assert found is not None and "on the second" in found.reason and found.verdict is not Verdict.SHORT
    assert gives(data) > 1 / 6


def test_lamps_are_counted_too() -> None:
    """A card beside a lamp's subject fills what the lamp leaves dark, as it does by the window."""
    data = by_day(card=-60, far=0.5)
    data["shots"][0]["around"] = "dark"
    data["sets"][0]["lights"] = [
        {
            "id": "key",
            "role": "key",
            "head": "head",
            "modifier": "box",
            "support": "stand",
            "x": 3.0,
            "y": 3.2,
            "height": 2.0,
        }
    ]
    found = line(data)
    assert found is not None and found.verdict is Verdict.CLEAR


LARGE = {"kind": "board", "id": "large", "name": "Large board", "surface": "white", "width": 1.2, "height": 2.0}


def test_remedies_bring_it_nearer_take_a_larger_one_or_leave_it_out() -> None:
    data = painted(by_day(SIDE, card=-80, far=1.2), 30)
    data["gear"].append(packed(LARGE | {"mass": 2, "status": "owned"}))
    found = better(data)
    nearer = next(one for label, one in found.items() if label.endswith("just outside the picture"))
    assert nearer.verdict is Verdict.CLEAR and not nearer.worse
    assert {"Take the large board", "Leave the white card out"} <= set(found)
    studio = parse(data)
    for label, remedy in found.items():
        after = line(change(studio, EDIT.validate_python(remedy.edit)))
        assert (after is None) is (label == "Leave the white card out")
        assert after is None or after.margin == pytest.approx(remedy.margin)
    made = next(one for label, one in found.items() if "100 × 150" in label)
    bought = change(studio, EDIT.validate_python(made.edit))
    assert [one.item for one in bought.sets[0].props] == ["card-white"]
    assert any(one.id == "card-white" and one.price for one in bought.gear)


def test_what_was_to_be_bought_for_it_goes_with_it_unless_another_set_uses_it() -> None:
    data = painted(by_day(SIDE, card=-80, far=1.9), 30)
    card = next(one for one in data["gear"] if one["id"] == "card")
    for status, second, stays in (("planned", False, False), ("owned", False, True), ("planned", True, True)):
        card["status"] = status
        studio = parse(data)
        if second:
            studio = studio.changed(sets=(*studio.sets, studio.sets[0].changed(id="other")))
        found = next(m for m in ledger_of(studio).lines if m.code == "light.card" and m.set_id == "s")
        edit = next(
            one for one in remedies_of(studio, found, ledger_of(studio)) if one.label == "Leave the white card out"
        )
        after = change(studio, EDIT.validate_python(edit.edit))
        assert any(one.id == "card" for one in after.gear) is stays
        assert not after.sets[0].props


def test_moving_the_card_does_not_solve_the_set_without_it_again() -> None:
    data = painted(by_day(SIDE, card=-80, far=1.2), 30)
    studio = parse(data)
    nearer = next(one for label, one in better(data).items() if label.endswith("just outside the picture"))
    after = change(studio, EDIT.validate_python(nearer.edit))
    found = []
    for one in (studio, after):
        scene = scene_of(one, one.sets[0])
        assert scene is not None
        told = lift(state_of(scene), scene.plan.props[0])
        assert told is not None
        found.append(told)
    assert found[0].without is found[1].without and found[1].stops > found[0].stops + 0.1


def test_its_share_is_what_the_parts_say() -> None:
    """White walls: a fifth and more comes off the card, and it still gives next to nothing."""
    data = painted(by_day(SIDE, card=-80, far=0.6), 85)
    scene = the_scene(data)
    state = state_of(scene)
    share = sum(one.share for one in account.parts(state) if one.path.endswith("/props/card-0"))
    assert share * account.returned_share(state) > 0.15 > gives(data)


# --- the dark side by the window ----------------------------------------------------------------------


def filled(data: Data, code: str) -> Margin | None:
    data["shots"][0].setdefault("pattern", "window and reflector")
    return next((m for m in ledger_of(parse(data)).lines if m.code == code), None)


@pytest.mark.parametrize(
    ("lrv", "size", "code", "verdict"),
    [
        (85, None, "light.reflector_wanted", Verdict.CLEAR),
        (10, None, "light.reflector_wanted", Verdict.SHORT),
        (30, (1.5, 1.6), "light.unfilled", Verdict.CLEAR),
        (30, (0.6, 0.9), "light.unfilled", Verdict.SHORT),
    ],
)
def test_whether_a_reflector_is_wanted_hangs_on_the_room(
    lrv: float, size: tuple[float, float] | None, code: str, verdict: Verdict
) -> None:
    """White walls do it by themselves; among dark ones a large card does."""
    data = painted(by_day(SIDE, card=-80 if size else None, far=0.6), lrv)
    if size is not None:
        data["sets"][0]["props"][0]["height"] = 0.4
        data = sized(data, *size)
    found = filled(data, code)
    assert found is not None and found.verdict is verdict
    state = state_of(the_scene(data))
    contrast = math.log2(state.total("key side") / state.total("shadow side"))
    assert found.margin == pytest.approx(2.0 - contrast, abs=1e-6)
    other = {"light.reflector_wanted", "light.unfilled"} - {code}
    assert filled(data, other.pop()) is None


@pytest.mark.parametrize("shot", [{"contrast": "strong"}, {"pattern": "side"}])
def test_where_dark_is_asked_for_or_no_reflector_is_meant_nothing_is_said(shot: Data) -> None:
    data = painted(by_day(SIDE, **shot), 10)
    assert filled(data, "light.reflector_wanted") is None


def test_where_it_stays_dark_the_card_that_is_there_is_bettered() -> None:
    data = painted(by_day(SIDE, card=-80, far=1.9), 30)
    found = filled(data, "light.unfilled")
    assert found is not None and found.verdict is Verdict.SHORT
    studio = parse(data)
    labels = [one.label for one in remedies_of(studio, found, ledger_of(studio))]
    assert any("just outside" in one for one in labels) and any("100 × 150" in one for one in labels)


def test_a_reflector_that_is_wanted_is_offered() -> None:
    data = painted(by_day(SIDE), 10)
    data["shots"][0]["pattern"] = "window and reflector"
    studio = parse(data)
    found = filled(data, "light.reflector_wanted")
    assert found is not None
    labels = {one.label: one for one in remedies_of(studio, found, ledger_of(studio))}
    card = next(one for label, one in labels.items() if label.startswith("Stand a white board"))
    after = change(studio, EDIT.validate_python(card.edit))
    codes = {m.code: m.verdict for m in ledger_of(after).lines}
    assert "light.reflector_wanted" not in codes and codes["light.card"] is Verdict.CLEAR


@pytest.mark.parametrize(("lrv", "kept"), [(25, True), (90, False)])
def test_arrange_leaves_out_a_card_that_does_nothing(lrv: float, kept: bool) -> None:
    """Of what is at hand: among dark walls the card stands, among white ones the room does without."""
    data = sized(painted(by_day(window("north", 2.2), card=-80, pattern="window and reflector"), lrv), 0.5, 0.6)
    studio = at_hand(data)
    found = arrange(studio, studio.shots[0], budget=None, most=2)
    assert found.sets
    for one in found.sets:
        assert bool(one.plan.props) is kept
        told = {m.code: m.verdict for m in ledger_of(studio.changed(sets=(one.plan,))).lines}
        assert told.get("light.card") is not Verdict.SHORT
        assert told.get("support.push") is not Verdict.SHORT, "a board on a stand gets the weight it takes"
        assert kept or told["light.reflector_wanted"] is not Verdict.SHORT
