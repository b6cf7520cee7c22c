"""The camera's cable to the computer: does it reach, does anyone trip over it."""

from typing import Any

import pytest
from helpers.studios import item, one_portrait, parse

from evrant.catalogue import load
from evrant.core.base.margins import Margin, Verdict
from evrant.core.edits.language import EDIT
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.remedies import remedies_of
from evrant.core.place.moves import change
from evrant.core.space.scene import scene_of
from evrant.drawing.sheet import sheet

Data = dict[str, Any]


def tethered(long: float | None = 5.0, **desk: float) -> Data:
    """The portrait in 5 × 4 m, its door in the first wall near B, a desk of 1.2 × 0.6 m."""
    data = one_portrait()
    cable = load().find("tether-cable-5")
    assert cable is not None
    thing = cable.model_dump(mode="json", exclude_none=True) | {"id": "tether", "status": "owned"}
    thing.pop("length", None)
    data["gear"].append(thing | ({} if long is None else {"length": long}))
    data["room"]["zones"] = [{"id": "desk", "name": "Desk", "x": 0.2, "y": 0.2, "length": 1.2, "width": 0.6} | desk]
    data["sets"][0]["camera"] |= {"tether": "tether", "tether_to": "desk"}
    return data


def lines(data: Data, code: str) -> list[Margin]:
    studio = parse(data)
    return [one for one in ledger_of(studio).lines if one.code == code]


def test_it_must_come_down_go_over_the_floor_and_up_to_the_desk() -> None:
    """By hand: height of the lens, the straight way to the desk's nearest corner or edge, 75 cm up, 50 cm of loop."""
    data = tethered()
    studio = parse(data)
    scene = scene_of(studio, studio.sets[0])
    assert scene is not None and scene.camera_spot is not None and scene.lens_height is not None
    x, y = scene.camera_spot
    dx = max(0.2 - x, 0.0, x - 1.4)
    dy = max(0.2 - y, 0.0, y - 0.8)
    (line,) = lines(data, "power.tether")
    assert line.need == pytest.approx(scene.lens_height + (dx**2 + dy**2) ** 0.5 + 0.75 + 0.5, abs=1e-6)
    assert line.margin == pytest.approx(5.0 - (line.need or 0.0)) and line.have == 5.0


def test_a_short_one_is_told_and_a_longer_one_of_the_kit_offered() -> None:
    data = tethered(1.5)
    cable = load().find("tether-cable-5")
    assert cable is not None
    long = cable.model_dump(mode="json", exclude_none=True) | {"id": "long", "name": "Long cable", "length": 10.0}
    data["gear"].append(long | {"status": "owned"})
    studio = parse(data)
    ledger = ledger_of(studio)
    line = next(one for one in ledger.lines if one.code == "power.tether")
    assert line.verdict is Verdict.SHORT and "too short" in line.sentence
    remedy = next(one for one in remedies_of(studio, line, ledger) if "long cable" in one.label.lower())
    after = ledger_of(change(studio, EDIT.validate_python(remedy.edit)))
    assert next(one for one in after.lines if one.code == "power.tether").verdict is Verdict.CLEAR


def test_on_the_way_from_the_door_it_is_a_trip_unless_covered() -> None:
    """The desk beyond the way from the door to the mark: the cable crosses it; beside the camera it does not."""
    across = tethered(12.0, x=3.6, y=2.6)
    far = tethered(12.0, x=0.1, y=0.1)
    found = {name: lines(data, "power.tether_trip")[0] for name, data in (("across", across), ("far", far))}
    verdicts = {name: line.verdict for name, line in found.items()}
    crossed = next((data for name, data in (("across", across), ("far", far)) if verdicts[name] is Verdict.SHORT), None)
    assert crossed is not None, {name: line.reason for name, line in found.items()}
    line = lines(crossed, "power.tether_trip")[0]
    assert line.line.safety and "stopper" in line.reason and (line.need or 0) > 0
    crossed["sets"][0]["camera"]["tether_covered"] = True
    covered = lines(crossed, "power.tether_trip")[0]
    assert covered.have == 1.5 and covered.margin == pytest.approx(1.5 - (line.need or 0.0))


def test_what_is_not_said_is_asked_and_no_cable_is_no_line() -> None:
    assert not lines(one_portrait(), "power.tether")
    no_length = tethered(None)
    (line,) = lines(no_length, "power.tether")
    assert line.margin is None and line.enter == "gear/tether"
    no_desk = tethered()
    no_desk["sets"][0]["camera"]["tether_to"] = "none"
    (line,) = lines(no_desk, "power.tether")
    assert line.margin is None and "no place" in line.sentence
    assert item(no_desk, "tether")["use"] == "cable"


def test_it_is_drawn_and_counts_as_used() -> None:
    studio = parse(tethered())
    scene = scene_of(studio, studio.sets[0])
    assert scene is not None and "Tether cable" in sheet(scene, [])
    assert not [one for one in ledger_of(studio).lines if one.code == "kit.idle" and "ether" in one.sentence]
