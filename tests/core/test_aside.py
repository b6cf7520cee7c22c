"""`fit.aside`, `fit.aside_moves`: furniture that a set has elsewhere; distances by hand in a room of 5 × 4 m."""

import math
from typing import Any

import pytest
from helpers.studios import one_portrait, parse
from pydantic import TypeAdapter

from evrant.core.base.margins import Margin, Verdict
from evrant.core.edits.language import Edit, Remove, SetFields
from evrant.core.judge.ledger import ledger_of, lines_of_set
from evrant.core.judge.remedies import remedies_of
from evrant.core.place.moves import change
from evrant.core.search.arrange.put_aside import kept, restored
from evrant.core.studio.sets import SetPlan
from evrant.core.studio.studio import Studio

EDIT: TypeAdapter[Edit] = TypeAdapter(Edit)
Data = dict[str, Any]


def room_with(moves: str, place: tuple[float, float] | None, **room: Any) -> Data:
    """A chest of 60 × 50 cm that lives in the corner by A, and has been put elsewhere for the set; (x, y) is its corner
    nearest A."""
    data = one_portrait()
    chest = {"id": "chest", "name": "Chest", "x": 0.3, "y": 0.25, "length": 0.6, "width": 0.5, "height": 0.8}
    data["room"]["boxes"] = [chest | {"moves": moves}]
    data["room"] |= room
    at = {} if place is None else {"x": place[0], "y": place[1]}
    data["sets"][0]["aside"] = [{"id": "chest-put", "box": "chest", **at}]
    return data


def told(data: Data, code: str = "fit.aside") -> list[Margin]:
    return [line for line in ledger_of(parse(data)).lines if line.code == code]


@pytest.mark.parametrize(
    ("place", "gap", "what"),
    [
        ((3.0, 0.5), 0.5, "south"),
        ((4.2, 3.2), 0.2, "east"),
        ((4.7, 2.6), -0.3, "east"),
        ((3.0, 3.6), -0.1, "north"),
    ],
)
def test_the_nearest_wall_counts(place: tuple[float, float], gap: float, what: str) -> None:
    (line,) = told(room_with("can be moved out", place))
    assert line.margin == pytest.approx(gap, abs=1e-6) and what in line.reason
    assert (line.verdict is Verdict.SHORT) == (gap < 0)


def test_other_furniture_and_doors_are_in_the_way() -> None:
    data = room_with("may be pushed aside", (2.0, 0.1))
    desk = {"id": "desk", "name": "Desk", "x": 2.5, "y": 0.05, "length": 1.0, "width": 0.6, "height": 0.7}
    data["room"]["boxes"].append(desk)
    (line,) = told(data)
    assert (
        line.verdict is Verdict.SHORT and line.margin == pytest.approx(-0.1) and "desk is in its way" in line.sentence
    )
    (door,) = told(room_with("may be pushed aside", (4.1, 0.3)))
    assert door.verdict is Verdict.SHORT and "door" in door.sentence
    shut = room_with("may be pushed aside", (4.1, 0.3))
    shut["sets"][0]["doors"] = "stay shut"
    assert told(shut)[0].verdict is Verdict.CLEAR


@pytest.mark.parametrize(
    ("moves", "place", "wrong"),
    [
        ("stays", None, True),
        ("stays", (3.0, 0.5), True),
        ("may be pushed aside", None, True),
        ("may be pushed aside", (3.0, 0.5), False),
        ("can be moved out", None, False),
        ("can be moved out", (3.0, 0.5), False),
    ],
)
def test_it_is_moved_as_it_may_be(moves: str, place: tuple[float, float] | None, wrong: bool) -> None:
    data = room_with(moves, place)
    found = told(data, "fit.aside_moves")
    assert bool(found) is wrong and all(line.verdict is Verdict.SHORT for line in found)
    studio = parse(data)
    for line in found:
        made = remedies_of(studio, line, ledger_of(studio))
        assert {"Leave the chest where it lives", "Say the chest can be moved out"} <= {one.label for one in made}
        for one in made:
            after = ledger_of(change(studio, EDIT.validate_python(one.edit)))
            assert not [m for m in after.lines if m.code == "fit.aside_moves"], one.label


def test_what_finds_no_place_goes_out_where_it_may() -> None:
    studio = parse(room_with("can be moved out", (4.7, 2.6)))
    ledger = ledger_of(studio)
    line = next(m for m in ledger.lines if m.code == "fit.aside")
    labels = [one.label for one in remedies_of(studio, line, ledger)]
    assert "Take the chest out of the room" in labels


def in_the_way(moves: str, **size: float) -> tuple[Studio, SetPlan]:
    """The plain portrait with a chest where the photographer stands, and its set."""
    data = one_portrait()
    chest = {"id": "chest", "name": "Chest", "x": 3.8, "y": 1.6, "length": 0.6, "width": 0.5, "height": 0.8}
    data["room"]["boxes"] = [chest | {"moves": moves} | size]
    studio = parse(data)
    return studio, studio.sets[0]


REMOVED = (Remove(target="room/boxes/chest"), SetFields(target="shots/half", fields={"crop": "half length"}))


def test_what_makes_way_for_a_set_stays_in_the_rooms_plan() -> None:
    studio, plan = in_the_way("can be moved out")
    made = kept(studio, REMOVED, plan)
    assert made is not None and made[0] == REMOVED[1:]
    (out,) = made[1].aside
    assert (out.box, out.x, out.y) == ("chest", None, None)


def test_what_may_only_be_pushed_gets_the_nearest_place_that_harms_nothing() -> None:
    studio, plan = in_the_way("may be pushed aside")
    before = {m.key for m in lines_of_set(studio, plan) if m.verdict is Verdict.SHORT}
    assert any("fit.overlap" in key for key in before), "it is in the way"
    made = kept(studio, REMOVED, plan)
    assert made is not None
    (place,) = made[1].aside
    assert place.x is not None and place.y is not None and math.hypot(place.x - 3.8, place.y - 1.6) < 1.6
    after = ledger_of(studio.changed(sets=(made[1],)))
    mine = [m for m in after.lines if m.set_id and m.verdict is Verdict.SHORT]
    assert not mine and [m for m in after.lines if m.code == "fit.aside"]


def test_what_finds_no_place_is_no_way_to_make_a_set_possible() -> None:
    studio, plan = in_the_way("may be pushed aside", length=2.6, width=2.2)
    assert kept(studio, REMOVED, plan) is None
    assert kept(studio, REMOVED[1:], plan) == (REMOVED[1:], plan)


@pytest.mark.parametrize(
    ("moves", "size", "back"),
    [
        ("can be moved out", {}, True),
        ("may be pushed aside", {}, True),
        ("may be pushed aside", {"length": 2.6, "width": 2.2}, False),
    ],
)
def test_what_was_taken_out_for_sets_comes_back_into_the_room(moves: str, size: dict[str, float], back: bool) -> None:
    asked, _ = in_the_way(moves, **size)
    cleared = change(asked, REMOVED[0])
    made = restored(asked, cleared)
    assert [box.id for box in made.room.boxes] == (["chest"] if back else [])
    assert bool(made.sets[0].aside) is back
    assert restored(asked, asked) is asked and restored(asked, cleared.changed(sets=())).room == cleared.room
    short = [m for m in ledger_of(made).lines if m.verdict is Verdict.SHORT]
    assert not short
