"""From set to set, and the order of them that takes least: against every order there is, and by hand.

Held and Karp's recursion gives the least of all orders; all n! of them are gone through here.
"""

import copy
import json
from itertools import pairwise, permutations
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from helpers.studios import demo, one_portrait, parse
from hypothesis import given, settings
from hypothesis import strategies as st

from evrant.cli import main
from evrant.core.search.order import EXACT, best_order, in_order, settings_of
from evrant.core.space.changeover import Changeover, changeover
from evrant.core.space.scene import scene_of
from evrant.core.studio.studio import Studio

Data = dict[str, Any]


def length(costs: Any, order: tuple[int, ...] | list[int]) -> float:
    return float(sum(costs[a][b] for a, b in pairwise(order)))


@settings(max_examples=60, deadline=None)
@given(st.integers(2, 7), st.randoms(use_true_random=False))
def test_the_order_is_the_least_of_all_there_are(count: int, chance: Any) -> None:
    costs = np.array([[round(chance.uniform(0, 20), 1) for _ in range(count)] for _ in range(count)])
    order, bound = best_order(costs)
    least = min(length(costs, one) for one in permutations(range(count)))
    assert sorted(order) == list(range(count))
    assert length(costs, order) == pytest.approx(least) == pytest.approx(bound)


def test_twelve_are_exact_and_more_lie_above_their_bound() -> None:
    """Twelve sets on a line in disorder: the least is the line. Beyond that the order is held to a bound."""
    spots = np.array([7, 2, 11, 0, 5, 9, 3, 1, 10, 6, 4, 8], dtype=float)
    order, _ = best_order(np.abs(spots[:, None] - spots))
    assert length(np.abs(spots[:, None] - spots), order) == 11 and EXACT >= 12
    many = np.random.default_rng(3).uniform(1, 9, (EXACT + 5, EXACT + 5))
    found, bound = best_order(many)
    assert sorted(found) == list(range(EXACT + 5)) and bound <= length(many, found) <= 1.6 * bound


def portraits(*changes: Data) -> Studio:
    """The plain portrait's set several times, each with parts of it changed."""
    data = one_portrait()
    first = data["sets"][0]
    data["sets"] = []
    for number, change in enumerate(changes):
        plan = copy.deepcopy(first) | {"id": f"s{number}", "name": f"Set {number}"}
        for name, fields in change.items():
            if name == "lights":
                plan["lights"][0] |= fields
            elif isinstance(fields, dict):
                plan[name] |= fields
            else:
                plan[name] = fields
        data["sets"].append(plan)
    return parse(data)


def change(studio: Studio, first: int = 0, second: int = 1) -> Changeover:
    a, b = (scene_of(studio, studio.sets[i]) for i in (first, second))
    assert a is not None and b is not None
    return changeover(a, b)


def test_looks_are_ordered_so_that_the_key_walks_once_round() -> None:
    """Six looks that differ by the key's height alone: rising or falling, half a minute each."""
    heights = (1.6, 2.1, 1.7, 2.0, 1.8, 1.9)
    studio = portraits(*({"lights": {"height": one}} for one in heights))
    assert in_order(studio).minutes == pytest.approx(5 * 0.5) == pytest.approx(in_order(studio).as_listed)
    two = [{"lights": {"height": 1.6 + 0.1 * (i % 3)}, "camera": {"lens": "l50" if i % 2 else "l85"}} for i in range(6)]
    found = in_order(portraits(*two))
    assert found.minutes == pytest.approx(4 * 0.5 + 1.0), "one lens after the other"
    assert found.as_listed == pytest.approx(5 * 1.5) and found.exact
    lenses = [plan.camera.lens for plan in found.sets]
    assert sum(a != b for a, b in pairwise(lenses)) == 1
    assert any("stay where they are" in leg.why for leg in found.legs)


def test_a_light_is_known_by_what_it_is_made_of_not_by_its_name() -> None:
    studio = portraits({}, {"lights": {"id": "other", "role": "fill", "x": 2.6}})
    move, aim = change(studio).work
    assert (move.what, move.thing, move.minutes) == ("moves", "key as fill", 1.0)
    assert (aim.what, aim.thing) == ("set", "key as fill's aim")


def test_two_stools_are_two() -> None:
    data = one_portrait()
    stool = {"kind": "table", "id": "stool", "name": "Stool", "status": "owned", "quantity": 2}
    data["gear"].append(stool | {"length": 0.4, "width": 0.4, "height": 0.5})
    first, second = (copy.deepcopy(data["sets"][0]) | {"id": key, "name": key} for key in ("a", "b"))
    first["props"] = [{"id": "p", "item": "stool", "x": 2.0, "y": 1.0}, {"id": "q", "item": "stool", "x": 2.5, "y": 1}]
    second["props"] = [{"id": "r", "item": "stool", "x": 2.5, "y": 1.0}]
    data["sets"] = [first, second]
    work = change(parse(data)).work
    assert [(step.what, step.thing) for step in work] == [("take out", "stool")]
    back = change(parse(data), 1, 0).work
    assert [step.what for step in back] == ["add"] and back[0].there == pytest.approx([2.0, 1.0])


@pytest.mark.parametrize(("rolls", "minutes"), [(1, 6.0), (3, 1.0)])
def test_a_roll_that_is_only_pulled_up_is_a_minute(rolls: int, minutes: float) -> None:
    data = one_portrait()
    paper = next(item for item in data["gear"] if item["id"] == "paper")
    data["gear"].append(paper | {"id": "grey", "name": "grey paper"})
    next(item for item in data["gear"] if item["kind"] == "holder")["rolls"] = rolls
    other = copy.deepcopy(data["sets"][0]) | {"id": "t", "name": "second"}
    other["background"]["backdrop"] = "grey"
    data["sets"].append(other)
    (step,) = change(parse(data)).work
    assert (step.what, step.minutes) == ("swap", minutes)


def test_settings_bags_and_leads_are_steps() -> None:
    studio = portraits({}, {"lights": {"bag": 5, "power": 0.25, "gridded": True}})
    assert {step.thing for step in change(studio).work} == {"key's bag", "key's power", "key"}
    data = one_portrait()
    data["shots"].append(data["shots"][0] | {"id": "wide", "name": "Wide", "aperture": 4, "iso": 400})
    data["sets"].append(copy.deepcopy(data["sets"][0]) | {"id": "t", "name": "second", "shot": "wide"})
    assert {(step.thing, step.words) for step in change(parse(data)).work} == {("aperture", "f/4"), ("ISO", "400")}


def test_furniture_goes_aside_and_back() -> None:
    data = one_portrait()
    chair = {"id": "chair", "name": "Armchair", "x": 3, "y": 3, "length": 0.7, "width": 0.7, "height": 0.9}
    data["room"]["boxes"] = [chair]
    other = copy.deepcopy(data["sets"][0]) | {"id": "t", "name": "second", "aside": [{"id": "m", "box": "chair"}]}
    data["sets"].append(other)
    assert [step.words for step in change(parse(data)).work] == ["out of the room"]
    assert [step.words for step in change(parse(data), 1, 0).work] == ["back to where it lives"]


def test_turn_round_and_go_on() -> None:
    """Of two sets that stand together nothing is rebuilt; from a third both are put up."""
    away = {"background": {"y": 2.4}, "lights": {"y": 3.1}, "camera": {"y": 2.4}, "mark": {"y": 2.4}}
    apart = portraits({}, away)
    both = portraits({"together": "A"}, away | {"together": "A"})
    assert not any(step.what in ("add", "take out") or "key" in step.thing for step in change(both).work)
    assert change(both).minutes < change(apart).minutes - 5
    third = portraits({"together": "A"}, away | {"together": "A"}, {})
    assert {step.what for step in change(third, 2, 0).work} >= {"add"}


def test_every_setting_is_listed() -> None:
    studio = demo()
    for plan in studio.sets:
        scene = scene_of(studio, plan)
        assert scene is not None
        found = {one.thing: one.words for one in settings_of(scene)}
        assert {"aperture", "ISO", "lens height", "background"} <= set(found)
        for light in scene.lights:
            assert "high" in found[light.name] and ("1/" in found[light.name] or "full" in found[light.name])


def test_the_command_prints_it(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    file = tmp_path / "studio.json"
    file.write_text(demo().dump_json())
    assert main(["order", str(file), "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert sorted(told["order"]) == sorted(plan.id for plan in demo().sets)
    assert told["minutes"] <= told["minutes_as_listed"] and told["exact"]
    assert sum(step["minutes"] for step in told["steps"]) == pytest.approx(told["minutes"], abs=0.01)
    for step in told["steps"]:
        assert sum(one["minutes"] for one in step["work"]) == pytest.approx(step["minutes"], abs=0.01)
    one = json.loads(demo().dump_json()) | {"sets": []}
    file.write_text(json.dumps(one))
    assert main(["order", str(file)]) == 1 and "no set" in capsys.readouterr().out
