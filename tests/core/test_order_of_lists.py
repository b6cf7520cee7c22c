"""In which order things are written down does not matter, and what one line leaves out another tells."""

import copy
import itertools
import json
from collections import Counter
from typing import Any

import numpy as np
import pytest
from helpers.mirror import quarter_turned
from helpers.studios import demo, one_portrait, parse
from shapely import MultiPoint

from evrant.core.base.margins import Margin, Verdict
from evrant.core.edits.language import Light
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.rules.power.heat import volume_of
from evrant.core.judge.rules.set.way_out import way_out
from evrant.core.light import account
from evrant.core.light.lit import Lit, lit
from evrant.core.place.moves import change
from evrant.core.space.scene import Scene, scene_of
from evrant.core.space.solids import separation
from evrant.core.space.way import obstacles
from evrant.core.wiring.floor import hung_way, need_of, routes
from evrant.files.document import write_studio

Data = dict[str, Any]
LISTS = ("sockets", "boxes", "doors", "windows", "circuits", "zones", "slopes", "places", "appliances")
UNDER_THE_FIRST = ("fit.overlap", "power.socket", "light.mixed", "stow.length")
"""Codes of lines that are told under the first of several things they are about."""


def backwards(data: Data) -> Data:
    """The same studio with every list in which order says nothing written from its end."""
    twin = copy.deepcopy(data)
    twin["gear"], twin["shots"] = twin["gear"][::-1], twin["shots"][::-1]
    for name in LISTS:
        twin["room"][name] = twin["room"].get(name, [])[::-1]
    for plan in twin["sets"]:
        for name in ("lights", "props", "people", "aside"):
            plan[name] = plan.get(name, [])[::-1]
    return twin


def lines(data: Data, *codes: str) -> list[Margin]:
    return [m for m in ledger_of(parse(data)).lines if m.code in codes]


def scene(data: Data) -> Scene:
    studio = parse(data)
    found = scene_of(studio, studio.sets[0])
    assert found is not None
    return found


def pair(pattern: str = "even pair") -> Data:
    """A portrait by two keys of one kind, placed by the pattern in a room that returns light."""
    data = one_portrait()
    for wall in data["room"]["walls"]:
        wall["finish"] = {"lrv": 70, "colour": "#d8c8c0"}
    data["room"] |= {"ceiling": {"lrv": 85, "colour": "#ffffff"}, "floor_finish": {"lrv": 20, "colour": "#806040"}}
    for item in data["gear"]:
        if item["id"] in ("head", "box", "stand"):
            item["quantity"] = 2
        if item["id"] == "paper":
            item |= {"reflectance": 40, "colour": "#808080"}
    data["shots"][0]["pattern"] = pattern
    studio = change(parse(data), Light(target="sets/s", pattern="even pair"))
    found: Data = json.loads(write_studio(studio))
    return found


def portrait_with_two_more() -> Data:
    """The key, and two heads on stands of their own, a metre and more apart."""
    data = one_portrait()
    first = data["sets"][0]["lights"][0]
    for item in data["gear"]:
        item["quantity"] = 4
    data["sets"][0]["lights"] = [
        first,
        first | {"id": "second", "x": first["x"], "y": first["y"] - 1.6},
        first | {"id": "third", "x": first["x"] + 1.3, "y": first["y"] - 1.6},
    ]
    return data


@pytest.mark.parametrize(
    "data",
    [one_portrait(), pair(), json.loads(write_studio(demo())), portrait_with_two_more()],
    ids=["portrait", "pair", "demo", "three heads"],
)
def test_backwards_lists_have_the_same_margins(data: Data) -> None:
    here = {m.key: m for m in ledger_of(parse(data)).lines if m.code not in UNDER_THE_FIRST}
    there = {m.key: m for m in ledger_of(parse(backwards(data))).lines if m.code not in UNDER_THE_FIRST}
    assert Counter(m.code for m in here.values()) == Counter(m.code for m in there.values())
    assert len(here.keys() & there.keys()) >= len(here) - 1, "a pair's evenness is told under its first key"
    for key in here.keys() & there.keys():
        assert there[key].margin == pytest.approx(here[key].margin, abs=1e-3), key


# --- what is in the way of what ---------------------------------------------------------------------


def three_stands(order: tuple[int, ...]) -> Data:
    """Stands in a row, the middle one's legs 30 cm into those of one and 10 cm into those of the other."""
    data = one_portrait()
    radius = next(item["foot_radius"] for item in data["gear"] if item["id"] == "stand")
    for item in data["gear"]:
        item["quantity"] = 4
    first = data["sets"][0]["lights"][0] | {"modifier": None}
    data["sets"][0]["camera"]["x"] = 2.9
    ys = {"left": 0.4 + 0.0, "middle": 0.4 + 2 * radius - 0.3, "right": 0.4 + 4 * radius - 0.4}
    placed = [first | {"id": name, "x": 4.0, "y": y, "aim_x": 2.0, "aim_y": y, "leg": 0.0} for name, y in ys.items()]
    data["sets"][0]["lights"] = [placed[i] for i in order]
    return data


@pytest.mark.parametrize("order", list(itertools.permutations(range(3))))
def test_no_collision_is_left_out_because_another_is_worse(order: tuple[int, ...]) -> None:
    """Every one of the three is named in a Short line, and none that is named is said to be free."""
    found = [m for m in lines(three_stands(order), "fit.overlap") if "/lights/" in m.about[0]]
    short = [m for m in found if m.verdict is Verdict.SHORT]
    named = {path.rsplit("/", 1)[-1] for m in short for path in m.about if "/lights/" in path}
    assert named == {"left", "middle", "right"} and len(short) == 2
    hit = {path for m in short for path in m.about}
    for margin in found:
        if margin.verdict is Verdict.CLEAR and margin.about[0] in hit:
            assert margin.sentence.startswith("Nothing else is in the way"), margin.sentence
            assert "Nearest besides the" in margin.reason


def test_what_is_nearest_is_named_as_the_nearest() -> None:
    """Of all lines, what is said to be nearest is so by the bodies; or what is nearer is named before it."""
    data = portrait_with_two_more()
    here = scene(data)
    lights = {thing.path: thing for thing in here.things if thing.kind == "light"}
    assert len(lights) == 3
    told = {m.about[0]: m for m in lines(data, "fit.overlap") if m.about[0] in lights}
    for path, thing in lights.items():
        rest = [other for other in here.things if other.path != path and other.kind not in ("door", "zone")]
        least = min(separation(a.solid, b.solid)[0] for other in rest for a in thing.parts for b in other.parts)
        margin = told[path]
        assert "besides" in margin.reason or margin.have == pytest.approx(least, abs=1e-6)
    assert any("besides" not in m.reason for m in told.values())


# --- two keys ---------------------------------------------------------------------------------------


def test_two_of_one_kind_that_are_meant_alike_are_set_alike() -> None:
    """Nobody sets a pair two thirds of a stop apart because the second takes up what the steps of the first leave."""
    for data in (pair(), backwards(pair())):
        state = lit(scene(data))
        assert isinstance(state, Lit)
        keys = [i for i, beam in enumerate(state.beams) if beam.role == "key"]
        assert len(keys) == 2 and state.powers[keys[0]] == state.powers[keys[1]]
        step = float(np.log2(state.powers[keys[0]])) * 3
        assert step == pytest.approx(round(step), abs=1e-9), "in thirds of a stop"
        assert abs(float(np.log2(state.total("face") / (state.needed or 1.0)))) < 1 / 3


def test_a_pair_is_told_the_worse_of_both_sides() -> None:
    """A red wall beside one of two keys tints that side, whichever key is written first."""
    data = pair()
    data["room"]["walls"][0]["finish"] = {"lrv": 40, "colour": "#e02020"}
    data["sets"][0]["mark"]["y"] = 0.9
    for plan in (data, backwards(data)):
        state = lit(scene(plan))
        assert isinstance(state, Lit) and account.paired(state)
        tints = [account.tint_at(state, side) for side in ("key side", "shadow side")]
        worse = max(tint.white for tint in tints if tint)
        (line,) = lines(plan, "light.tint")
        assert line.need == pytest.approx(worse) and worse > 1.2 * min(tint.white for tint in tints if tint)
        assert line.verdict is not Verdict.SHORT or "one side of the face" in line.sentence


def lanterns() -> Data:
    """Two lamps from above on a plate, both far too weak for f/8 and a two-hundredth."""
    data = one_portrait()
    bulb = {"kind": "lamp", "id": "bulb", "name": "bulb", "status": "owned", "power": 8, "lumens": 800, "kelvin": 4000,
            "quantity": 2, "mass": 0.1, "form": "bulb"}  # fmt: skip
    data["gear"] = [item for item in data["gear"] if item["id"] != "head"] + [bulb]
    first = data["sets"][0]["lights"][0] | {"role": "top light", "head": "bulb", "modifier": None, "height": 2.2}
    first = {k: v for k, v in first.items() if k not in ("joint", "ring")}
    data["sets"][0]["lights"] = [first, first | {"id": "second", "x": first["x"] + 0.8}]
    return data


def test_two_lights_that_lead_together_are_both_told_to_be_too_weak() -> None:
    """Neither is a key: the first led, and the second was called bright enough whatever it gave."""
    found = lines(lanterns(), "light.shutter")
    assert [m.verdict for m in found] == [Verdict.SHORT, Verdict.SHORT]
    for margin in found:
        allowed = margin.reason.split(" allow ")[1].split(" at ")[0]
        assert allowed.endswith(" s") and not allowed.startswith("1/0")
    state = lit(scene(lanterns()))
    assert isinstance(state, Lit) and state.needed is not None
    # By hand: each does half of what is needed, so a lamp that gives E lx needs needed / 2 / E seconds.
    for i in range(2):
        share = state.wish(i) * state.measured(i) * float(state.times[i])
        assert share == pytest.approx(state.needed / 2, rel=0.02)


# --- leads and the way out --------------------------------------------------------------------------


@pytest.mark.parametrize("y", [1.8, 2.0, 2.2])
def test_a_hanging_lead_comes_down_where_the_whole_of_it_is_shortest(y: float) -> None:
    """Down the nearer wall it would have to run round half the room to a socket."""
    data = one_portrait()
    support = next(item for item in data["gear"] if item["id"] == "stand")
    support |= {"use": "ceiling bracket", "min_height": 0.2, "max_height": 3.5, "foot_radius": None, "reach": None}
    data["sets"][0]["lights"][0] |= {"x": 2.0, "y": y, "height": 2.1, "modifier": None, "socket": None}
    data["room"]["sockets"] = data["room"]["sockets"][1:]  # the one in the south wall, at 2.0 m
    here = scene(data)
    light = here.lights[0]
    way = hung_way(here, light)
    assert way is not None and light.mount is not None
    assert way.foot == pytest.approx([float(light.mount[0]), 0.02], abs=1e-6), "the socket's wall"
    found = routes(here, light)[0]
    straight = (2.8 - float(light.mount[2])) + float(light.mount[1]) + 2.8
    by_hand = 0.3 + abs(float(light.mount[0]) - 2.0) + straight + 0.3
    assert need_of(here, light, found) == pytest.approx(by_hand, abs=0.05)


def in_a_corner() -> Data:
    """A thing taken from 60 cm off a wall: the photographer stands astride of the tripod's legs."""
    data = one_portrait()
    thing = {"id": "p", "name": "Box", "kind": "object", "height": 0.2, "width": 0.2, "depth": 0.2, "base": 0.8}
    data["shots"][0] |= {"subjects": [thing], "crop": "whole subject"}
    data["gear"].append({"kind": "stand", "id": "tri", "name": "tripod", "use": "tripod", "min_height": 0.5,
                         "max_height": 1.6, "foot_radius": 0.5, "load": 5, "mass": 2})  # fmt: skip
    data["sets"][0]["mark"] = {"x": 3.2, "y": 1.2}
    data["sets"][0]["camera"] |= {"x": 0.62, "y": 1.2, "height": 0.9, "support": "tri"}
    data["sets"][0]["background"] = {}
    return data


def test_whoever_stands_astride_of_a_tripod_steps_off_it_to_either_side() -> None:
    """Which way the room is turned decided between 80 cm and the slit between tripod and wall."""
    here, there = way_out(scene(in_a_corner())), way_out(scene(quarter_turned(in_a_corner())))
    assert here is not None and there is not None
    assert here.width == pytest.approx(there.width, abs=1e-6) and here.width > 0.6


def test_the_narrowest_place_is_as_wide_as_the_outlines_are_apart() -> None:
    """With all corners of both outlines, by another library; outlines of sixteen corners overstate it."""
    data = one_portrait()
    data["sets"][0]["lights"][0] |= {"x": 3.3, "y": 2.35, "modifier": None}
    data["sets"][0]["camera"] |= {"x": 4.6, "y": 3.2}
    shelf = {"name": "Shelf", "x": 3.0, "length": 0.6, "height": 2}
    data["room"]["boxes"] = [
        shelf | {"id": "low", "y": 0.0, "width": 1.3},
        shelf | {"id": "top", "y": 2.9, "width": 1.1},
    ]
    here = scene(data)
    found = way_out(here)
    assert found is not None and found.first.thing is not None and found.second.thing is not None
    one, other = (MultiPoint(side.points[:, :2]).convex_hull for side in (found.first, found.second))
    assert found.width == pytest.approx(one.distance(other), abs=1e-9)
    assert len(obstacles(here.things)) > 3


def test_a_room_under_a_slope_holds_what_geometry_says() -> None:
    """5 × 4 m under 2.8 m, the ceiling falling over 2 m to 1.2 m at one wall, whichever wall that is."""
    for wall, across in (("south", 5.0), ("north", 5.0), ("east", 4.0), ("west", 4.0)):
        data = one_portrait()
        data["room"]["slopes"] = [{"id": "roof", "name": "roof", "wall": wall, "low": 1.2, "run": 2.0}]
        found = volume_of(parse(data).room)
        assert found is not None
        assert found[0] == pytest.approx(5 * 4 * 2.8 - across * 2.0 * 1.6 / 2, rel=2e-3)
