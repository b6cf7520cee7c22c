"""What else the picture shows: windows and doors of a bare wall, furniture before the background."""

import math
from typing import Any

import pytest
from helpers.studios import one_portrait, parse
from helpers.windows import at_hand, window

from evrant.core.base.margins import Margin, Verdict
from evrant.core.edits.language import EDIT
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.remedies import remedies_of
from evrant.core.place.moves import change
from evrant.core.search.arrange.search import arrange
from evrant.core.studio.studio import Studio

Data = dict[str, Any]
BED = {"id": "bed", "name": "Bed", "x": 0.1, "y": 1.6, "length": 0.4, "width": 0.5, "height": 0.6}


def bare() -> Data:
    """The portrait before the bare west wall, which is at x = 0."""
    data = one_portrait()
    data["sets"][0]["background"] = {"wall": "west"}
    data["room"]["doors"] = []
    return data


def lines(data: Data | Studio, code: str) -> list[Margin]:
    studio = parse(data) if isinstance(data, dict) else data
    return [m for m in ledger_of(studio).lines if m.code == code]


def half_seen(data: Data) -> float:
    """Half of what the frame sees of the west wall, by hand: a sensor 24 mm wide as held, thin lens of 50 mm 1.6 m
    before the mark, the wall 3.6 m before the lens."""
    far = data["sets"][0]["camera"]["x"]
    image = 0.05 * 1.6 / (1.6 - 0.05)
    return float(0.024 / 2 / image * far)


@pytest.mark.parametrize("kind", ["doors", "windows"])
@pytest.mark.parametrize("gap", [-0.5, -0.1, 0.1, 0.25])
def test_an_opening_of_a_bare_wall_is_in_the_picture_or_not(kind: str, gap: float) -> None:
    """Once: a door right behind the person read Clear. The west wall runs from D (0, 4) to A (0, 0)."""
    data = bare()
    edge = 1.9 + half_seen(data) + gap
    offset, width = 4.0 - edge - 0.8, 0.8
    opening = {"id": "o", "name": "Opening", "wall": "west", "offset": offset, "width": width, "height": 2.0}
    data["room"][kind] = [opening | ({"sill": 0.2} if kind == "windows" else {})]
    (found,) = lines(data, "frame.opening")
    assert found.margin == pytest.approx(gap, abs=0.01)
    assert (found.verdict is Verdict.SHORT) == (gap < 0)
    assert ("shows" in found.sentence) == (gap < 0)


def test_one_above_the_picture_or_on_another_wall_is_not() -> None:
    data = bare()
    high = window("west", 1.6, sill=2.62, height=0.15)
    data["room"]["windows"] = [high]
    found = lines(data, "frame.opening")
    assert not [one for one in found if one.verdict is Verdict.SHORT]
    data["room"]["windows"] = [window("north", 1.6)]
    assert not lines(data, "frame.opening")


def test_paper_before_it_hides_it() -> None:
    data = one_portrait()
    data["room"]["windows"] = [window("west", 1.6)]
    assert not lines(data, "frame.opening")


@pytest.mark.parametrize("pattern", ["silhouette", "practicals"])
def test_where_it_belongs_to_the_picture_nothing_is_said(pattern: str) -> None:
    data = bare()
    data["room"] |= {"windows": [window("west", 1.6)], "boxes": [dict(BED)]}
    data["shots"][0]["pattern"] = pattern
    assert not lines(data, "frame.opening") and not lines(data, "frame.furniture")


def test_the_set_moved_along_the_wall_clears_it() -> None:
    data = bare()
    door = {"id": "o", "name": "Door", "wall": "west", "offset": 1.2, "width": 0.8, "height": 2.0}
    data["room"]["doors"] = [door]
    studio = parse(data)
    (before,) = lines(studio, "frame.opening")
    assert before.verdict is Verdict.SHORT
    found = {one.label: one for one in remedies_of(studio, before, ledger_of(studio))}
    moved = [one for label, one in found.items() if label.startswith("Move the set")]
    assert any(one.verdict in (Verdict.CLEAR, Verdict.TIGHT) for one in moved)
    hung = next(one for label, one in found.items() if label.startswith("Hang the"))
    assert not lines(change(studio, EDIT.validate_python(hung.edit)), "frame.opening")


def test_arrange_does_not_put_a_door_into_the_picture() -> None:
    """Doors in the middle of three walls: the fourth is taken."""
    data = bare()
    middle = {"width": 1.6, "height": 2.1, "swing": "out"}
    walls = {"south": 1.7, "east": 1.2, "north": 1.7}
    data["room"]["doors"] = [
        {"id": name, "name": f"{name} door", "wall": name, "offset": offset} | middle for name, offset in walls.items()
    ]
    data["gear"] = [one for one in data["gear"] if one["kind"] not in ("backdrop", "holder")]
    studio = at_hand(data)
    found = arrange(studio, studio.shots[0], budget=None, most=2)
    assert found.sets
    for one in found.sets:
        after = studio.changed(sets=(one.plan,))
        assert not [m for m in lines(after, "frame.opening") if m.verdict is Verdict.SHORT]


def test_furniture_behind_the_person_is_in_the_picture() -> None:
    """Once: a bed, a wardrobe, shelves against the bare wall read Clear."""
    data = bare()
    data["room"]["boxes"] = [dict(BED)]
    (found,) = lines(data, "frame.furniture")
    assert found.verdict is Verdict.SHORT and found.sentence == "The picture shows the bed."


@pytest.mark.parametrize("gap", [-0.15, 0.1])
def test_how_far_it_is_in_is_by_central_projection(gap: float) -> None:
    """A tall box whose nearest corner lies so far outside of the frame at its own distance, by hand."""
    data = bare()
    image, x = 0.05 * 1.6 / (1.6 - 0.05), 0.8
    half = 0.024 / 2 / image * (3.6 - x)
    data["room"]["boxes"] = [BED | {"x": 0.3, "length": x - 0.3, "y": 1.9 + half + gap, "width": 0.5, "height": 2.0}]
    (found,) = lines(data, "frame.furniture")
    # nearer to the wall the frame is wider: inside the picture the far corner reaches in deepest
    wall = 0.024 / 2 / image * (3.6 - 0.3)
    deepest = gap if gap > wall - half else half + gap - wall
    assert found.margin == pytest.approx(deepest, abs=0.02)
    assert (found.verdict is Verdict.SHORT) == (deepest < 0)


def test_what_hangs_before_it_hides_it() -> None:
    data = one_portrait()
    data["room"]["boxes"] = [BED | {"length": 0.3}]
    assert not lines(data, "frame.furniture")


def test_what_the_thing_stands_on_belongs_to_the_picture() -> None:
    data = bare()
    side = {"id": "side", "name": "Sideboard", "x": 1.6, "y": 1.5, "length": 0.8, "width": 0.8, "height": 0.8}
    data["room"]["boxes"] = [side]
    thing = {"id": "p", "name": "Bowl", "kind": "object", "height": 0.2, "width": 0.2, "base": 0.8}
    data["shots"][0] |= {"subjects": [thing], "crop": "whole subject"}
    assert not lines(data, "frame.furniture")
    data["room"]["boxes"] = [side | {"x": 0.2, "height": 1.4}]
    assert [one.verdict for one in lines(data, "frame.furniture")] == [Verdict.SHORT]


def test_what_may_be_moved_out_is() -> None:
    data = bare()
    data["room"]["boxes"] = [BED | {"moves": "can be moved out"}]
    studio = parse(data)
    (before,) = lines(studio, "frame.furniture")
    found = {one.label: one for one in remedies_of(studio, before, ledger_of(studio))}
    after = change(studio, EDIT.validate_python(found["Move the bed out"].edit))
    assert not lines(after, "frame.furniture") and after.sets[0].aside[0].box == "bed"


def by_day(wall: str, **fields: Any) -> Data:
    data = bare()
    data["room"]["windows"] = [window(wall, **fields)]
    data["shots"][0] |= {"around": "daylight", "shutter": 1 / 60}
    return data


def test_a_window_that_the_lens_looks_at_flares() -> None:
    data = by_day("west", offset=1.6)
    (found,) = lines(data, "frame.window_flare")
    assert found.verdict is Verdict.SHORT and found.have is not None and found.have < 8
    data["shots"][0]["around"] = "dark"
    assert not lines(data, "frame.window_flare")


def test_beside_the_picture_it_counts_as_far_as_a_hood_lets_in() -> None:
    """Glass of the north wall, 2.1 m beside the lens axis: from 40 cm before the lens on it lies 79° off, beyond what
    comes in; its end at x = 0 lies 30° off."""
    near = by_day("north", offset=2.4, width=2.5)
    (found,) = lines(near, "frame.window_flare")
    image = 0.05 * 1.6 / (1.6 - 0.05)
    cut = math.degrees(math.atan(math.hypot(0.036, 0.024) / 2 / image)) + 10
    assert found.need == pytest.approx(cut, abs=0.1)
    assert found.have == pytest.approx(30, abs=3) and found.verdict is Verdict.SHORT
    assert not lines(by_day("north", offset=0.2, width=1.2), "frame.window_flare"), "beside and behind the lens"
    assert not lines(by_day("east", offset=1.0), "frame.window_flare"), "in the back of the lens"


def test_drawn_or_hidden_it_does_not() -> None:
    assert not lines(by_day("west", offset=1.6, blackout="in place"), "frame.window_flare")
    assert not lines(by_day("west", offset=1.6, cover="heavy curtain"), "frame.window_flare")
    data = by_day("west", offset=1.9, width=0.4, sill=1.2, height=0.4)
    data["sets"][0]["background"] = one_portrait()["sets"][0]["background"]
    assert not lines(data, "frame.window_flare"), "paper hangs before it"


def test_blacked_out_it_is_settled() -> None:
    studio = parse(by_day("west", offset=1.6))
    (before,) = lines(studio, "frame.window_flare")
    found = {one.label: one for one in remedies_of(studio, before, ledger_of(studio))}
    label = next(label for label in found if label.startswith("Black out"))
    assert not lines(change(studio, EDIT.validate_python(found[label].edit)), "frame.window_flare")


@pytest.mark.parametrize(
    ("facing", "verdict"), [(None, None), (60.0, None), (85.0, Verdict.TIGHT), (180.0, Verdict.SHORT)]
)
def test_who_looks_away_shows_the_back_of_the_head(facing: float | None, verdict: Verdict | None) -> None:
    """The camera is along +x from the mark."""
    data = one_portrait()
    data["sets"][0]["mark"]["facing"] = facing
    found = lines(data, "frame.turned")
    assert [one.verdict for one in found] == ([] if verdict is None else [verdict])
    if found and facing is not None:
        assert found[0].margin == pytest.approx(90 - facing)
    if verdict is Verdict.SHORT:
        studio = parse(data)
        (remedy,) = remedies_of(studio, found[0], ledger_of(studio))
        assert not lines(change(studio, EDIT.validate_python(remedy.edit)), "frame.turned")
        data["shots"][0]["pattern"] = "silhouette"
        assert not lines(data, "frame.turned")


def test_a_focal_length_alone_is_no_lens() -> None:
    """Once a zoom's setting left behind when the lens was taken off kept every line Clear."""
    data = one_portrait()
    data["sets"][0]["camera"] |= {"lens": None, "focal": 0.05}
    (found,) = lines(data, "frame.distance")
    assert found.verdict is Verdict.UNKNOWN and found.sentence == "No lens is chosen."


@pytest.mark.parametrize(
    ("height", "angle", "verdict"),
    [
        (None, 0.0, None),
        (None, 25.0, None),
        (1.4, 0.0, None),
        (1.5, 0.0, Verdict.CLEAR),
        (2.2, 0.0, Verdict.SHORT),
        (2.2, 30.0, None),
        (0.5, 0.0, Verdict.SHORT),
    ],
)
def test_the_camera_looks_from_where_the_shot_asks(height: float | None, angle: float, verdict: Verdict | None) -> None:
    """By hand: the tangent is how much higher the lens is than the middle of the frame over 1.6 m. Once a lens 2.2 m up
    was Clear for a level view."""
    data = one_portrait()
    data["sets"][0]["camera"]["height"] = height
    data["shots"][0]["angle"] = angle
    found = lines(data, "frame.angle")
    assert [one.verdict for one in found] == ([] if verdict is None else [verdict])
    if found and height is not None:
        middle = 1.7 + 0.09 * 0.6 * 1.7 - 0.6 * 1.7 / 2
        looks = math.degrees(math.atan((height - middle) / 1.6))
        assert found[0].need == pytest.approx(abs(looks - angle), abs=0.6)
    if verdict is Verdict.SHORT:
        studio = parse(data)
        for one in remedies_of(studio, found[0], ledger_of(studio)):
            assert not lines(change(studio, EDIT.validate_python(one.edit)), "frame.angle")


@pytest.mark.parametrize(("x", "y", "short"), [(1.5, 2.1, True), (1.5, 3.4, False), (4.4, 1.9, False)])
def test_nobody_else_stands_in_the_picture(x: float, y: float, short: bool) -> None:
    """Once an assistant behind the sitter was Clear; beside the set and behind the lens nobody minds."""
    data = one_portrait()
    data["sets"][0]["people"] = [{"id": "help", "name": "Assistant", "x": x, "y": y}]
    studio = parse(data)
    found = [one for one in lines(studio, "frame.intrusion") if "/people/" in one.about[0]]
    assert bool([one for one in found if one.verdict is Verdict.SHORT]) == short
    if short:
        aside = remedies_of(studio, found[0], ledger_of(studio))[0]
        after = change(studio, EDIT.validate_python(aside.edit))
        there = [one for one in lines(after, "frame.intrusion") if "/people/" in one.about[0]]
        assert there and there[0].verdict is not Verdict.SHORT
