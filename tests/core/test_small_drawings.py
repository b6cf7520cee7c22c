"""Stands, circuits, places and the frontier drawn: what is on the sheet is to scale and says the figures it shows."""

import re
import xml.etree.ElementTree as Tree
from itertools import pairwise
from typing import Any

import numpy as np
import pytest
from helpers.studios import demo, one_portrait, parse

from evrant.core.base.tables.countries import MAINS
from evrant.core.judge.ledger import ledger_of
from evrant.core.space.scene import Scene, scene_of
from evrant.core.stowage.pieces import spaces_of
from evrant.core.stowage.report import packed_studio
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say
from evrant.core.wiring.loads import head_volt_amperes
from evrant.demo import demo_studio
from evrant.drawing.circuits import power_sheet
from evrant.drawing.frontier import frontier_chart
from evrant.drawing.keyplan import key_plan
from evrant.drawing.layout import layout_of
from evrant.drawing.places import place_drawing
from evrant.drawing.stands import stands_sheet

NUMBER = re.compile(r"-?\d+(?:\.\d+)?")


def tree(svg: str) -> Tree.Element:
    return Tree.fromstring(re.sub(r'\sxmlns="[^"]+"', "", svg))


def with_class(svg: str, name: str) -> list[Tree.Element]:
    return [one for one in tree(svg).iter() if name in (one.get("class") or "").split()]


def texts(svg: str) -> list[str]:
    return ["".join(one.itertext()) for one in tree(svg).iter("text")]


def points(element: Tree.Element) -> list[tuple[float, float]]:
    found = [float(one) for one in NUMBER.findall(element.get("d") or "")]
    return list(zip(found[::2], found[1::2], strict=True))


def scene_in(studio: Studio, index: int = 0) -> Scene:
    found = scene_of(studio, studio.sets[index])
    assert found is not None
    return found


# --- stands --------------------------------------------------------------------------------------


def test_every_support_has_its_card_with_what_it_bears() -> None:
    studio = parse(one_portrait())
    scene = scene_in(studio)
    lines = ledger_of(studio).of_set("s")
    svg = stands_sheet(scene, lines, 900.0, 700.0)
    words = " ".join(texts(svg))
    tipping = next(m for m in lines if m.code == "support.tipping" and m.about[0].endswith("lights/key"))
    assert tipping.have is not None and tipping.need is not None
    assert "slope" in words and f"must {tipping.need:.0f}" in words
    load = next(m for m in lines if m.code == "support.load")
    assert load.need is not None and "load" in words and Say.of(studio.brief).mass(load.need) in words


# --- circuits ------------------------------------------------------------------------------------


def mains_lamps(*powers: float) -> Studio:
    data = one_portrait()
    light = data["sets"][0]["lights"][0] | {"circuit": "main"}
    light.pop("modifier", None)
    data["gear"] = [item for item in data["gear"] if item["kind"] != "flash"]
    data["sets"][0]["lights"] = []
    for number, power in enumerate(powers):
        lamp = {"kind": "lamp", "id": f"lamp-{number}", "name": f"Lamp {number}", "status": "owned", "supply": "mains"}
        data["gear"].append(lamp | {"power": power, "technology": "LED", "lumens": 100 * power})
        data["sets"][0]["lights"].append(
            light | {"id": f"l{number}", "head": f"lamp-{number}", "x": light["x"] + 0.4 * number}
        )
    data["room"]["circuits"][0].pop("other_load", None)
    data["sets"][0]["minutes"] = 60
    return parse(data)


def test_loads_are_stacked_in_proportion_under_what_the_breaker_bears() -> None:
    studio = mains_lamps(300.0, 600.0)
    svg = power_sheet(studio, scene_in(studio), 1000.0, 800.0)
    heights = sorted(float(rect.get("height") or 0) for rect in with_class(svg, "draw"))
    assert len(heights) == 2 and heights[1] / heights[0] == pytest.approx(2.0, rel=0.02)
    limit = MAINS["DE"].continuous_share * 16
    assert f"{limit:.0f} A" in texts(svg)
    drawn = sum(head_volt_amperes(item) or 0.0 for item in studio.gear if item.kind == "lamp")
    assert f"at most {drawn / MAINS['DE'].volts:.1f} A" in " ".join(texts(svg))
    assert not with_class(svg, "over")


def test_an_overloaded_circuit_is_marked() -> None:
    studio = mains_lamps(2500.0, 2500.0)
    svg = power_sheet(studio, scene_in(studio), 1000.0, 800.0)
    assert with_class(svg, "over")
    short = next(m for m in ledger_of(studio).lines if m.code == "power.circuit")
    assert short.margin is not None and short.margin < 0


# --- places --------------------------------------------------------------------------------------


def test_each_thing_in_a_place_is_a_box_of_its_own_size() -> None:
    studio = demo()
    packed = packed_studio(studio)
    space = spaces_of(studio.room.places)[0]
    puts = packed.of(space.id)
    numbers = {put.piece.key: number for number, put in enumerate(puts, start=1)}
    svg = place_drawing(space, puts, numbers, Say.of(studio.brief))
    fronts = with_class(svg, "front")
    assert len(fronts) == len(puts) > 3
    wide = {put.piece.key: put.size[0] for put in puts}
    drawn: dict[str, float] = {}
    for box in with_class(svg, "box"):
        front = next(one for one in box.iter() if "front" in (one.get("class") or ""))
        xs = [x for x, _ in points(front)]
        drawn[box.get("data-thing") or ""] = max(xs) - min(xs)
    scales = {key: drawn[key] / wide[key] for key in wide}
    assert max(scales.values()) == pytest.approx(min(scales.values()), rel=0.03)
    assert Say.of(studio.brief).length(space.width) in texts(svg)


# --- frontier ------------------------------------------------------------------------------------


def step(cost: float, *shots: str) -> dict[str, Any]:
    return {"cost": cost, "shots": list(shots)}


def test_steps_stand_at_their_cost_and_rise_with_their_shots() -> None:
    steps = [step(100.0, "a"), step(200.0, "a", "b"), step(400.0, "a", "b", "c")]
    svg = frontier_chart(steps, 250.0, "EUR", 3)
    dots = with_class(svg, "steps-dot")
    xs, ys = ([float(dot.get(name) or 0) for dot in dots] for name in ("cx", "cy"))
    assert xs == sorted(xs) and (xs[2] - xs[1]) / (xs[1] - xs[0]) == pytest.approx(2.0, rel=0.01)
    assert ys == sorted(ys, reverse=True) and ys[0] - ys[1] == pytest.approx(ys[1] - ys[2], abs=0.2)
    budget = points(with_class(svg, "budget-line")[0])[0][0]
    assert budget == pytest.approx((xs[1] + (xs[2] - xs[1]) / 4), abs=0.3)
    line = points(with_class(svg, "steps-line")[0])
    assert all(b[0] >= a[0] and b[1] <= a[1] for a, b in pairwise(line)), "never back, never down"


def test_no_steps_are_no_chart() -> None:
    assert frontier_chart([], 250.0, "EUR", 3) == ""


# --- key plan ------------------------------------------------------------------------------------


@pytest.mark.parametrize("name", ["adoption-corner", "hands-in-view", "stones-on-file"])
def test_the_key_plan_is_the_untouched_room(name: str) -> None:
    """As many corners as the room has, in its own proportions, whichever way the sheet is turned."""
    scene = scene_in(demo_studio(name))
    layout = layout_of(scene, 900.0, 720.0)
    assert layout is not None and scene.walls is not None
    svg = key_plan(scene, layout)
    if not svg:
        pytest.skip("no free corner on this sheet")
    corners = np.array(points(with_class(svg, "wall")[0]))
    assert len(corners) == scene.walls.count
    ratio = np.ptp(corners, axis=0) / np.ptp(scene.walls.corners, axis=0)
    assert ratio[0] == pytest.approx(ratio[1], rel=0.01)
    assert "A" in texts(svg)
