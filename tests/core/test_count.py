"""`kit.count`: how many of a thing a set uses at once, on sets of several kinds; counted by hand beside each."""

from typing import Any

import pytest
from helpers.studios import one_portrait, parse

from evrant.core.base.margins import Margin, Verdict
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.rules.set.count import uses
from evrant.core.space.scene import scene_of

Data = dict[str, Any]


def counted(data: Data) -> dict[str, Margin]:
    return {m.about[1].split("/")[1]: m for m in ledger_of(parse(data)).lines if m.code == "kit.count"}


def used(data: Data) -> dict[str, int]:
    studio = parse(data)
    scene = scene_of(studio, studio.sets[0])
    assert scene is not None
    return dict(uses(scene))


def light(data: Data, key: str, **fields: Any) -> Data:
    first: Data = data["sets"][0]["lights"][0]
    return first | {"id": key, "role": "fill"} | fields


def gear(data: Data, kind: str, key: str, **fields: Any) -> Data:
    item = {"kind": kind, "id": key, "name": key, "status": "owned", "quantity": 1} | fields
    data["gear"].append(item)
    return item


def test_a_set_that_uses_each_thing_once_has_no_line() -> None:
    assert counted(one_portrait()) == {}
    assert set(used(one_portrait()).values()) == {1}


def test_rim_pair_of_two_heads_each_is_four_heads() -> None:
    data = one_portrait()
    key = data["sets"][0]["lights"][0]
    data["sets"][0]["lights"] = [key | {"heads": 2}, light(data, "other", heads=2, x=key["x"] + 1)]
    found = counted(data)[key["head"]]
    assert (found.need, found.have, found.verdict) == (4, 1, Verdict.SHORT)
    assert "uses 4" in found.sentence and "there is 1" in found.sentence


def test_lights_on_one_rail_share_it() -> None:
    """Three heads clamped to one tube: three heads, one tube."""
    data = one_portrait()
    gear(data, "stand", "tube", use="rail or crossbar", max_height=2.5)
    key = data["sets"][0]["lights"][0]
    data["sets"][0]["lights"] = [light(data, f"l{n}", support="tube", x=key["x"] + 0.5 * n) for n in range(3)]
    assert used(data)["tube"] == 1 and used(data)[key["head"]] == 3
    assert "tube" not in counted(data)


def test_two_lights_on_a_stand_for_two_are_one_stand_and_apart_are_two() -> None:
    data = one_portrait()
    gear(data, "stand", "twin", use="twin stand", max_height=2.5, legs=3, foot_radius=0.5)
    key = data["sets"][0]["lights"][0]
    spot = {"x": key["x"], "y": key["y"], "height": key["height"]}
    together = [light(data, "one", support="twin", **spot), light(data, "two", support="twin", **spot)]
    data["sets"][0]["lights"] = together
    assert used(data)["twin"] == 1
    data["sets"][0]["lights"] = [together[0], together[1] | {"x": key["x"] + 1.5}]
    assert used(data)["twin"] == 2 and counted(data)["twin"].verdict is Verdict.SHORT


@pytest.mark.parametrize(("outlets", "lights", "leads"), [(1, 2, 2), (4, 3, 1), (4, 5, 2), (2, 2, 1)])
def test_a_lead_serves_as_many_lights_as_it_has_outlets(outlets: int, lights: int, leads: int) -> None:
    data = one_portrait()
    gear(data, "lead", "drum", length=10, outlets=outlets, quantity=9)
    key = data["sets"][0]["lights"][0]
    data["sets"][0]["lights"] = [light(data, f"l{n}", lead="drum", x=key["x"] + 0.3 * n) for n in range(lights)]
    assert used(data)["drum"] == leads


def test_lantern_over_a_table_of_four_bulbs() -> None:
    """Four bulbs in one holder on one boom: four of the bulb; a table is furniture and is not counted."""
    data = one_portrait()
    gear(data, "lamp", "bulb", lumens=800, form="bulb", quantity=3)
    gear(data, "table", "table", length=1.2, width=0.8, height=0.75)
    key = data["sets"][0]["lights"][0]
    lantern = {k: v for k, v in key.items() if k != "modifier"} | {"head": "bulb", "heads": 4, "role": "top light"}
    data["sets"][0]["lights"] = [lantern]
    data["sets"][0]["props"] = [{"id": f"t{n}", "item": "table", "x": 2.0 + n, "y": 1.0} for n in range(2)]
    found = counted(data)
    assert (found["bulb"].need, found["bulb"].have) == (4, 3) and "table" not in found


def test_two_sets_do_not_stand_at_once() -> None:
    """Each set is counted by itself: one flash serves both."""
    data = one_portrait()
    data["sets"].append(data["sets"][0] | {"id": "second"})
    assert counted(data) == {}


def test_things_that_are_gone_are_not_counted() -> None:
    data = one_portrait()
    data["sets"][0]["lights"].append(light(data, "other", head="sold-long-ago", modifier=None, support=None))
    assert "sold-long-ago" not in counted(data)
