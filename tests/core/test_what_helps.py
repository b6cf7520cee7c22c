"""What is offered where a line is Short: that it is offered, in the words people use, and does what it says."""

import math
from typing import Any

import pytest
from helpers.studios import item, line, one_portrait, parse

from evrant.core.base.margins import Margin, Remedy, Verdict
from evrant.core.edits.language import EDIT
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.remedies import remedies_of
from evrant.core.judge.rules.power.air import MOST, Stretch, stale
from evrant.core.place.moves import change
from evrant.core.studio.gear import Lead
from evrant.core.studio.studio import Studio

Data = dict[str, Any]
KEY = "sets/s/lights/key"


def offered(studio: Studio, found: Margin) -> dict[str, Remedy]:
    return {one.label: one for one in remedies_of(studio, found, ledger_of(studio))}


def done(studio: Studio, one: Remedy) -> Studio:
    return change(studio, EDIT.validate_python(one.edit))


def test_a_flash_too_long_for_movement_is_made_up_for_by_iso_and_aperture() -> None:
    """By hand: t0.1 of 1/600 s at full power lets 3 m/s move 5 mm; each stop less power shortens the flash."""
    data = one_portrait()
    item(data, "head").update({"energy": 60, "guide_number": 28, "duration": 1 / 300, "lowest_duration": 1 / 20000})
    data["shots"][0] |= {"movement": 3.0, "crop": "full length"}
    item(data, "l50").update({"widest": 1.8, "narrowest": 16})
    studio = parse(data)
    found = line(studio, "light.freeze", KEY)
    assert found.verdict is Verdict.SHORT
    ways = offered(studio, found)
    higher = [label for label in ways if label.startswith("Set ISO")]
    assert higher and any(label.startswith("Open up to") for label in ways)
    for label in higher:
        after = line(done(studio, ways[label]), "light.freeze", KEY)
        assert after.margin is not None and found.margin is not None and after.margin > found.margin


@pytest.mark.parametrize(
    ("country", "words", "size"),
    [
        ("DE", "Buy a mains lead of 5 m", "1.5 mm²"),
        ("US", "Buy a mains lead of 15 ft", "14 AWG"),
        ("JP", "Buy a mains lead of 5 m", "2.0 mm²"),
    ],
)
def test_the_shortest_lead_that_reaches_is_offered_to_buy(country: str, words: str, size: str) -> None:
    data = one_portrait()
    data["brief"] |= {"country": country}
    item(data, "head")["cord"] = 4.0
    data["gear"] = [thing for thing in data["gear"] if thing["kind"] != "lead"]
    data["sets"][0]["lights"][0] |= {"lead": None, "socket": "other"}
    studio = parse(data)
    found = line(studio, "power.reach", KEY)
    assert found.verdict is Verdict.SHORT and found.need is not None
    assert 3.05 < found.need - 4.0 < 4.57, "by hand: 10 ft and 3 m are too short, 15 ft and 5 m are enough"
    ways = offered(studio, found)
    (chosen,) = [one for label, one in ways.items() if label.startswith("Buy")]
    assert chosen.label.startswith(words)
    after = done(studio, chosen)
    assert line(after, "power.reach", KEY).verdict is not Verdict.SHORT
    bought = next(one for one in after.gear if one.id.endswith("-new"))
    assert bought.currency == studio.brief.currency and bought.status == "planned" and bought.price
    assert isinstance(bought, Lead) and bought.conductor == size


def test_stale_air_is_met_by_shorter_stretches() -> None:
    """Independent: the mass balance in steps of a second, not its exponential."""
    data = one_portrait()
    data["room"]["footprint"] |= {"length": 3.4, "width": 2.6}
    data["sets"][0] |= {"minutes": 90, "mark": {"x": 1.4, "y": 1.3}}
    studio = parse(data)
    found = line(studio, "power.air", "sets/s/air")
    assert found.verdict is Verdict.SHORT
    ways = offered(studio, found)
    shorter = [label for label in ways if "every" in label]
    assert shorter and any("Open the windows wide every" in label for label in shorter)
    for label in shorter:
        assert line(done(studio, ways[label]), "power.air", "sets/s/air").verdict is not Verdict.SHORT
    plan, there, volume, changes = studio.sets[0], 0.0, 24.0, 0.5
    for _ in range(1800):
        there += (0.05 / volume * 1e6 - changes * there) / 3600
    assert stale([Stretch(plan, 0.5, 0.05, 2)], volume, changes) == pytest.approx(there, rel=1e-3)
    assert there < MOST


def test_what_stays_in_the_room_is_not_too_long_for_a_cupboard() -> None:
    data = one_portrait()
    item(data, "paper").update({"packed_length": 3.58, "width": 3.55})
    studio = parse(data)
    about = "gear/paper"
    found = line(studio, "stow.length", about)
    assert found.verdict is Verdict.SHORT
    diagonal = math.dist((0, 0, 0), (1.0, 0.6, 2.2))
    assert found.have == pytest.approx(diagonal, abs=1e-3)
    left = next(one for label, one in offered(studio, found).items() if label.startswith("Leave the"))
    after = ledger_of(done(studio, left)).lines
    assert not [one for one in after if one.code == "stow.length" and about in one.about]
    assert [one for one in after if one.code == "stow.length"], "the next longest is judged"


def test_a_lighter_roll_is_offered_where_the_bar_sags() -> None:
    data = one_portrait()
    item(data, "paper").update({"mass": 9.0, "width": 2.72, "packed_length": 2.8})
    item(data, "stands").update({"bar_diameter": 0.025, "bar_wall": 0.001, "load": 20})
    light = item(data, "paper") | {"id": "cloth", "name": "cloth 2.7", "mass": 1.0, "material": "fabric"}
    data["gear"].append(light)
    studio = parse(data)
    found = line(studio, "support.crossbar", "sets/s/background")
    assert found.verdict is Verdict.SHORT
    chosen = offered(studio, found)["Hang the cloth 2.7"]
    after = line(done(studio, chosen), "support.crossbar", "sets/s/background")
    assert after.margin is not None and found.margin is not None and after.margin > found.margin


def test_a_white_background_may_be_lit_by_itself() -> None:
    """A grey paper without light of its own is too dark for white; two lights on it are offered, and lighten it."""
    data = one_portrait()
    grey = {"lrv": 50.0, "colour": "#bcbcbc"}
    for wall in data["room"]["walls"]:
        wall["finish"] = grey
    data["room"] |= {"ceiling": grey, "floor_finish": grey}
    data["shots"][0] |= {"tone": "white"}
    item(data, "paper")["reflectance"] = 30.0
    item(data, "head")["quantity"], item(data, "stand")["quantity"] = 3, 3
    studio = parse(data)
    found = line(studio, "light.background_tone")
    assert found.verdict is Verdict.SHORT and "too dark" in found.sentence
    chosen = offered(studio, found)["Light it: background pair"]
    after = line(done(studio, chosen), "light.background_tone")
    assert after.margin is not None and found.margin is not None and after.margin > found.margin


def test_a_pattern_just_missed_is_not_said_to_be_another() -> None:
    data = one_portrait()
    data["shots"][0] |= {"pattern": "loop"}
    said = []
    for step in range(14):
        data["sets"][0]["lights"][0]["y"] = 1.9 - 0.1 * step
        for one in ledger_of(parse(data)).lines:
            if one.code == "light.pattern" and one.verdict is Verdict.SHORT:
                said.append(one.reason)
    assert said and not any("Now it is: loop" in reason for reason in said)


def test_open_windows_and_shorter_stretches_are_offered_together_only_where_neither_is_enough() -> None:
    data = one_portrait()
    data["sets"][0] |= {"minutes": 75}
    enough = parse(data)
    ways = offered(enough, line(enough, "power.air", "sets/s/air"))
    assert "Air the room all the time" in ways
    assert not [label for label in ways if label.startswith("Air the room all the time, and")]
    for label, one in ways.items():
        assert one.margin is not None, label
