"""A pushed pair of background stands, poles under a slope, legs the plan turns, and what carries the subject."""

import math
from typing import Any

import pytest
from helpers.studios import item, one_portrait, parse

from evrant.core.base.margins import Margin, Verdict
from evrant.core.base.tables.supports import GRAVITY
from evrant.core.judge.ledger import ledger_of
from evrant.core.mechanics.supports import background_standing, bag_for, demand_of, friction_of
from evrant.core.space.scene import Scene, scene_of
from evrant.core.space.solids import separation

Data = dict[str, Any]


def scene(data: Data) -> Scene:
    studio = parse(data)
    found = scene_of(studio, studio.sets[0])
    assert found is not None
    return found


def lines(data: Data, code: str, about: str = "") -> list[Margin]:
    return [m for m in ledger_of(parse(data)).lines if m.code == code and about in " ".join(m.about)]


def test_a_push_on_the_background_meets_one_stand() -> None:
    """By hand: one stand with half of 6 kg of stands, half of 3.1 kg of paper and a bag of 2 kg on legs that reach
    0.45 cos 60° forward, pushed at 1 m: m g d."""
    made = background_standing(scene(one_portrait()))
    assert made is not None and not hasattr(made, "text")
    alone = (6 / 2 + 3.1 / 2 + 2) * GRAVITY * 0.45 * math.cos(math.pi / 3) / 1.0
    got = made.stability(friction_of(scene(one_portrait())))  # type: ignore[union-attr]
    assert float(got.push) == pytest.approx(alone, rel=1e-6)


def test_its_bags_are_as_heavy_as_that_asks() -> None:
    """Bags from the sizes there are: with them each stand bears the push by itself."""
    data = one_portrait()
    data["brief"]["animals"] = True
    data["sets"][0]["background"]["bag"] = None
    here = scene(data)
    made = background_standing(here)
    assert made is not None and not hasattr(made, "text")
    want = demand_of(here, made)  # type: ignore[arg-type]
    both = bag_for(made, want, "metric")  # type: ignore[arg-type]
    data["sets"][0]["background"]["bag"] = both / 2
    again = background_standing(scene(data))
    push = float(again.stability(0.3).push)  # type: ignore[union-attr]
    assert push >= want.push - 1e-6
    by_hand = (6 / 2 + 3.1 / 2 + both / 2) * GRAVITY * 0.45 * 0.5
    assert push == pytest.approx(by_hand, rel=1e-6)


def test_each_pole_is_as_high_as_the_room_is_there() -> None:
    """Under a slope that falls along the background the poles differ by its fall over their distance."""
    data = one_portrait()
    item(data, "stands").update({"system": "floor-to-ceiling poles", "min_height": 1.5, "max_height": 3.5})
    data["room"]["slopes"] = [{"id": "s", "name": "Slope", "wall": "south", "low": 1.2, "run": 2.5}]
    holder = next(thing for thing in scene(data).things if thing.kind == "holder")
    columns = [part.solid for part in holder.parts if part.kind == "column"]
    tops = sorted((float(c[:, 1].mean()), float(c[:, 2].max())) for c in columns)
    for y, top in tops:
        assert top == pytest.approx(min(1.2 + y * 1.6 / 2.5, 2.8), abs=1e-6)
    assert tops[1][1] > tops[0][1] + 0.3


def test_a_leg_the_plan_turns_into_the_picture_is_seen_there() -> None:
    """Beside the picture: a leg towards it comes nearer than one that is turned away."""
    data = one_portrait()
    light = data["sets"][0]["lights"][0]
    light.update({"x": 2.0, "y": 2.65, "height": 2.3, "aim_x": 2.0, "aim_y": 1.9, "aim_height": 1.5, "leg": None})
    data["shots"][0]["crop"] = "full length"
    data["sets"][0]["camera"]["x"] = 4.9

    def gap(leg: float | None) -> float:
        light["leg"] = leg
        (found,) = lines(data, "frame.intrusion", "lights/key")
        assert found.margin is not None
        return found.margin

    free, towards, away = gap(None), gap(-90.0), gap(90.0)
    assert towards < free and towards < away <= free + 1e-6
    tried = [gap(float(leg)) for leg in range(0, 120, 15)]
    assert free == pytest.approx(max(tried), abs=1e-9), "free to be turned: as in the best of eight turns"


@pytest.mark.parametrize(
    ("mass", "load", "verdict"), [(20.0, 40, Verdict.CLEAR), (60.0, 40, Verdict.SHORT), (None, 40, None)]
)
def test_a_table_carries_what_stands_on_it(mass: float | None, load: float, verdict: Verdict | None) -> None:
    data = on_table(load=load)
    data["shots"][0]["subjects"] = [{"id": "p", "name": "Block", "kind": "object", "height": 0.3, "base": 0.72}]
    data["shots"][0]["subjects"][0]["mass"] = mass
    found = lines(data, "support.surface")
    assert [m.verdict for m in found] == ([] if verdict is None else [verdict])


def on_table(**fields: Any) -> Data:
    data = one_portrait()
    table = {"kind": "table", "id": "table", "name": "Table", "status": "owned", "length": 0.8, "width": 0.6}
    data["gear"].append(table | {"height": 0.72} | fields)
    data["sets"][0]["props"] = [{"id": "t", "item": "table", "x": 2.0, "y": 1.9}]
    data["shots"][0] |= {"crop": "whole subject"}
    return data


def test_people_sit_on_what_bears_them_and_hooks_hold_half() -> None:
    data = on_table(form="stool", height=0.45, load=110, length=0.36, width=0.36)
    data["shots"][0]["subjects"] = [{"id": "p", "name": "Ann", "posture": "seated", "height": 1.7, "base": 0.45}]
    (found,) = lines(data, "support.surface")
    assert found.need == 80 and found.have == 110 and found.verdict in (Verdict.CLEAR, Verdict.TIGHT)
    item(data, "table")["load"] = None
    assert lines(data, "support.surface")[0].verdict is Verdict.UNKNOWN
    item(data, "table").update({"form": "hanger hook", "height": 1.9, "load": 5})
    data["shots"][0]["subjects"] = [
        {"id": "p", "name": "Coat", "kind": "garment", "height": 1.2, "base": 0.7, "mass": 4}
    ]
    (wet,) = lines(data, "support.surface")
    assert wet.verdict is Verdict.SHORT and wet.have == 2.5 and "half" in wet.reason


def test_stands_stand_astride_of_table_legs() -> None:
    """The camera's legs spread under a table: only top and column count."""
    data = on_table(load=40)
    data["gear"].append(
        {"kind": "stand", "id": "tripod", "name": "Tripod", "use": "tripod", "status": "owned", "min_height": 0.3}
        | {"max_height": 1.6, "foot_radius": 0.48, "load": 6, "top": "3/8 inch thread"}
    )
    data["shots"][0]["subjects"] = [{"id": "p", "name": "Block", "kind": "object", "height": 0.2, "base": 0.72}]
    data["sets"][0]["camera"] |= {"support": "tripod", "x": 2.55, "height": 0.95}
    here = scene(data)
    tripod = next(thing for thing in here.things if thing.kind == "camera")
    assert any(part.kind == "legs" for part in tripod.parts)
    legs = next(part.solid for part in tripod.parts if part.kind == "legs")
    posts = [p.solid for t in here.things if t.kind == "prop" for p in t.parts if p.kind == "column"]
    assert any(separation(legs, post)[0] < 0 for post in posts), "as a cone its legs do meet the table's"
    found = [m for m in lines(data, "fit.overlap", "/camera") if m.about[0].endswith("/camera")]
    assert [m.verdict is Verdict.SHORT for m in found] == [False]
    data["sets"][0]["camera"]["x"] = 2.3
    through = [m for m in lines(data, "fit.overlap", "/camera") if m.about[0].endswith("/camera")]
    assert [m.verdict for m in through] == [Verdict.SHORT], "the column goes through its top"
    assert "table" in through[0].sentence.lower()
