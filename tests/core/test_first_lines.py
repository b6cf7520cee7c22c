"""What makes all else moot stands first, with its remedy: no light, a thing in the air, no tripod, no transmitter."""

import math
from collections.abc import Callable
from typing import Any

import pytest
from helpers.studios import demo, item, one_portrait, parse

from evrant.core.base.margins import Margin, Verdict
from evrant.core.edits.language import EDIT
from evrant.core.judge.ledger import ledger_of, lines_of_set
from evrant.core.judge.remedies import remedies_of
from evrant.core.place.moves import change
from evrant.core.space.scene import scene_of
from evrant.core.studio.studio import Studio
from evrant.demo import demo_studio

Data = dict[str, Any]
BOTTLE: Data = {"id": "bottle", "name": "Bottle", "kind": "object", "height": 0.3, "width": 0.1, "depth": 0.1}
LAMP: Data = {"kind": "lamp", "id": "lamp", "name": "Lamp", "form": "spot", "kelvin": 5600, "status": "owned"}


def lines(studio: Studio, code: str) -> list[Margin]:
    return [one for one in lines_of_set(studio, studio.sets[0]) if one.code == code]


def settled_by(studio: Studio, code: str, label: str) -> Studio:
    """The studio after the remedy of a line whose label begins so."""
    ledger = ledger_of(studio)
    line = next(one for one in ledger.lines if one.code == code)
    remedy = next(one for one in remedies_of(studio, line, ledger) if one.label.startswith(label))
    return change(studio, EDIT.validate_python(remedy.edit))


def dark(data: Data) -> None:
    data["sets"][0]["lights"] = []


def hung(data: Data) -> None:
    data["shots"][0] |= {"subjects": [BOTTLE | {"base": 0.75}], "crop": "whole subject"}


def by_hand(data: Data) -> None:
    data["gear"].append(LAMP | {"lumens": 4000})
    data["sets"][0]["lights"] = [data["sets"][0]["lights"][0] | {"head": "lamp", "modifier": None}]
    data["shots"][0]["shutter"] = 0.5


def unfired(data: Data) -> None:
    data["gear"] = [one for one in data["gear"] if one["id"] != "trigger"]


@pytest.mark.parametrize(
    ("spoil", "code"),
    [(dark, "light.none"), (hung, "support.under"), (by_hand, "frame.shake"), (unfired, "trigger.transmitter")],
)
def test_it_stands_before_every_other_line_that_is_short(spoil: Callable[[Data], None], code: str) -> None:
    data = one_portrait()
    data["sets"][0]["camera"].pop("support", None)
    spoil(data)
    data["brief"]["budget"] = 10  # a line that is Short by far more
    ledger = ledger_of(parse(data))
    assert ledger.lines[0].code == code and ledger.lines[0].verdict is Verdict.SHORT
    assert ledger.count(Verdict.SHORT) > 1
    assert min(one.severity for one in ledger.lines if one.verdict is Verdict.SHORT) < ledger.lines[0].severity


def test_a_set_without_light_is_lit_by_the_pattern_the_shot_asks_for() -> None:
    data = one_portrait()
    dark(data)
    studio = parse(data)
    assert lines(studio, "light.none")[0].verdict is Verdict.SHORT
    lit = settled_by(studio, "light.none", "Light it")
    assert lit.sets[0].lights and lines(lit, "light.none") == []
    data["shots"][0]["around"] = "daylight"
    data["room"]["windows"] = [
        {"id": "w", "name": "Window", "wall": data["room"]["walls"][2]["id"], "offset": 1, "width": 1.2}
        | {"sill": 0.9, "height": 1.2, "daylight": 5000}
    ]
    assert lines(parse(data), "light.none") == [], "the window lights it"


@pytest.mark.parametrize("base", [None, 0.04])
def test_what_stands_on_the_floor_needs_nothing_under_it(base: float | None) -> None:
    data = one_portrait()
    data["shots"][0] |= {"subjects": [BOTTLE | ({} if base is None else {"base": base})], "crop": "whole subject"}
    assert lines(parse(data), "support.under") == []


def test_a_table_furniture_or_a_hand_carries_it_and_a_table_elsewhere_does_not() -> None:
    data = one_portrait()
    hung(data)
    mark = data["sets"][0]["mark"]
    table = {"kind": "table", "id": "table", "name": "Table", "length": 0.8, "width": 0.6, "height": 0.75}
    data["gear"].append(table | {"status": "owned", "load": 30})
    place = {"id": "table", "item": "table", "x": mark["x"], "y": mark["y"]}
    assert lines(parse(data), "support.under")[0].sentence == "The bottle hangs in the air."
    for far, short in ((0.0, False), (1.5, True)):
        data["sets"][0]["props"] = [place | {"y": mark["y"] + far}]
        assert bool(lines(parse(data), "support.under")) is short
    data["sets"][0]["props"] = []
    box = {"id": "desk", "name": "Desk", "length": 1.2, "width": 0.6, "x": mark["x"] - 0.6, "y": mark["y"] - 0.3}
    for height, short in ((0.75, False), (0.4, True)):
        data["room"]["boxes"] = [box | {"height": height}]
        assert bool(lines(parse(data), "support.under")) is short
    data["room"]["boxes"] = []
    data["shots"][0]["subjects"][0]["held"] = True
    assert lines(parse(data), "support.under") == []


def test_it_is_put_on_what_is_there_at_its_height_or_on_what_is_bought() -> None:
    data = one_portrait()
    hung(data)
    bought = settled_by(parse(data), "support.under", "Put it on a folding table")
    table = next(one for one in bought.gear if one.id == "table-under")
    assert table.status == "planned" and table.price == 45 and lines(bought, "support.under") == []
    own = {"kind": "table", "id": "stool", "name": "Stool", "length": 0.4, "width": 0.4, "height": 0.5, "load": 60}
    data["gear"].append(own | {"status": "owned"})
    put = settled_by(parse(data), "support.under", "Put it on the stool")
    base = put.shots[0].subjects[0].base
    assert base is not None and base.value == 0.5 and put.sets[0].props[0].item == "stool"
    data["gear"][-1]["form"] = "hanger hook"
    hook = parse(data)
    ledger = ledger_of(hook)
    line = next(one for one in ledger.lines if one.code == "support.under")
    assert not any("stool" in one.label for one in remedies_of(hook, line, ledger)), "a bottle hangs on no hook"


@pytest.mark.parametrize(("shutter", "spare"), [(1 / 50, 0.0), (1 / 200, 2.0), (1 / 12.5, -2.0)])
def test_by_hand_a_fifty_on_a_large_sensor_takes_a_fiftieth(shutter: float, spare: float) -> None:
    """1 / focal length: 1/50 s for 50 mm on 36 × 24, in stops; half the frame kept makes it a hundred."""
    data = one_portrait()
    by_hand(data)
    data["sets"][0]["camera"].pop("support", None)
    data["shots"][0]["shutter"] = shutter
    assert lines(parse(data), "frame.shake")[0].margin == pytest.approx(spare, abs=0.01)
    data["shots"][0]["kept"] = 0.5
    assert lines(parse(data), "frame.shake")[0].margin == pytest.approx(spare - 1, abs=0.01)
    tripod = {"kind": "stand", "id": "tripod", "name": "Tripod", "use": "tripod", "status": "owned"}
    data["gear"].append(tripod | {"mass": 2, "max_height": 1.6, "load": 4})
    if spare < 0:
        held = settled_by(parse(data), "frame.shake", "Put the camera on the tripod")
        assert lines(held, "frame.shake") == [] and held.sets[0].camera.support == "tripod"


def test_a_time_that_misses_by_a_hair_is_shortened_to_the_next_there_is() -> None:
    """40 mm on a sensor of half the size takes 1/61 s: 1/60 s is too long by 0.02 stop, 1/80 s is not."""
    data = one_portrait()
    by_hand(data)
    data["sets"][0]["camera"].pop("support", None)
    item(data, "cam").update(sensor_width=0.0236, sensor_height=0.0158)
    item(data, "l50")["focal"] = 0.040
    data["shots"][0] |= {"shutter": 1 / 60, "iso": 800}
    line = lines(parse(data), "frame.shake")[0]
    assert line.verdict is Verdict.SHORT and line.margin == pytest.approx(-0.02, abs=0.01)
    held = settled_by(parse(data), "frame.shake", "Set 1/80 s at ISO 1600")
    assert lines(held, "frame.shake")[0].verdict is Verdict.TIGHT


def test_people_hold_still_longer_than_animals_and_things_for_ever() -> None:
    data = one_portrait()
    by_hand(data)
    data["shots"][0]["shutter"] = 1 / 60
    assert lines(parse(data), "frame.still")[0].margin == pytest.approx(0.0, abs=0.01)
    dog = {"id": "dog", "name": "Dog", "kind": "dog", "posture": "seated", "height": 0.6}
    data["shots"][0]["subjects"].append(dog)
    assert lines(parse(data), "frame.still")[0].margin == pytest.approx(-1.06, abs=0.02)
    data["shots"][0] |= {"subjects": [BOTTLE], "crop": "whole subject"}
    assert lines(parse(data), "frame.still") == []


@pytest.mark.parametrize(("crop", "high"), [("full length", 1.69 * 1.14), ("head and shoulders", None)])
def test_who_moves_on_purpose_smears_under_light_that_stays_on(crop: str, high: float | None) -> None:
    """By hand: 3 m/s in 1/60 s are 5 cm, in 1/2000 s 1.5 mm; a thousandth of a frame of 1.93 m is 1.9 mm. Once this
    was Clear at 1/60 s."""
    data = one_portrait()
    by_hand(data)
    data["shots"][0] |= {"shutter": 1 / 60, "crop": crop, "movement": 0.4}
    here = scene_of(parse(data), parse(data).sets[0])
    assert here is not None and here.wanted is not None
    tall = here.wanted.height.value
    assert high is None or tall == pytest.approx(high, rel=0.01)
    found = lines(parse(data), "frame.still")[0]
    assert found.verdict is Verdict.SHORT and "50 mm" in found.reason
    assert found.margin == pytest.approx(math.log2(tall / 1000 / (3.0 / 60)), abs=0.01)
    splash = one_portrait()
    by_hand(splash)
    splash["shots"][0] |= {"shutter": 1 / 60, "subjects": [BOTTLE], "crop": "whole subject", "movement": 0.1}
    assert lines(parse(splash), "frame.still")[0].verdict is Verdict.SHORT, "a thing that moves is nobody, and smears"
    data["shots"][0]["shutter"] = 1 / 4000
    after = lines(parse(data), "frame.still")[0]
    assert after.margin == pytest.approx(math.log2(tall / 1000 / (3.0 / 4000)), abs=0.01)
    assert (after.verdict is Verdict.CLEAR) is (tall > 1.5)


def test_a_flash_in_the_dark_and_a_film_ask_nothing_of_the_hand() -> None:
    assert lines(parse(one_portrait()), "frame.shake") == []
    data = one_portrait()
    by_hand(data)
    data["shots"][0]["capture"] = "video"
    assert lines(parse(data), "frame.shake") == [] == lines(parse(data), "frame.still")
    assert item(data, "lamp")["lumens"] == 4000


def test_the_demos_say_which_of_their_sets_is_dark() -> None:
    found = [one.about[0] for one in ledger_of(demo()).lines if one.code == "light.none"]
    assert found == [f"sets/{one.id}" for one in demo().sets if not one.lights and _dark(demo(), one.shot)]


def _dark(studio: Studio, key: str | None) -> bool:
    return next(one for one in studio.shots if one.id == key).around == "dark"


def test_a_tone_with_nothing_behind_it_is_said_first_and_mended() -> None:
    """A product whose paper was taken away; a bare wall, a tent or a look straight down is a background."""
    studio = demo_studio("stones-on-file")
    bare = EDIT.validate_python({"verb": "set", "target": "sets/crystal-a/background", "fields": {"backdrop": None}})
    without = change(studio, bare)
    first = ledger_of(without).of_set("crystal-a")[0]
    assert (first.code, first.verdict) == ("frame.background", Verdict.SHORT)
    assert "no background in this set" in first.sentence
    remedies = {one.label: one for one in remedies_of(without, first, ledger_of(without))}
    hung = change(
        without, EDIT.validate_python(next(one for label, one in remedies.items() if label.startswith("Hang")).edit)
    )
    assert hung.sets[0].background.backdrop is not None
    assert "frame.background" not in {line.code for line in ledger_of(hung).of_set("crystal-a")}
    cases: tuple[Data, ...] = ({"wall": studio.room.walls[0].id}, {})
    for fields in cases:
        edit = {"verb": "set", "target": "sets/crystal-a/background", "fields": fields or {"x": None, "y": None}}
        after = change(without, EDIT.validate_python(edit))
        codes = {line.code for line in ledger_of(after).of_set("crystal-a")}
        assert ("frame.background" in codes) == (not fields)
    down = change(without, EDIT.validate_python({"verb": "set", "target": "shots/crystal", "fields": {"angle": 90}}))
    plain = change(without, EDIT.validate_python({"verb": "set", "target": "shots/crystal", "fields": {"tone": None}}))
    for after in (down, plain):
        assert "frame.background" not in {line.code for line in ledger_of(after).of_set("crystal-a")}
