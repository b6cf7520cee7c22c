"""Sets that stand in the room at the same time: a portrait set, and one back to back with it for the other wall."""

import math
from collections.abc import Callable
from typing import Any

import numpy as np
import pytest
from helpers.studios import one_portrait, parse

from evrant.core.base.margins import Margin, Verdict
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.rules.set.way_out import way_out
from evrant.core.light.lit import Lit, lit
from evrant.core.space.scene import Scene, scene_of
from evrant.core.wiring.loads import scene_load
from evrant.drawing.sheet import plan_sheet

Data = dict[str, Any]


def two(change: Callable[[Data], None] = lambda second: None, **further: Any) -> Data:
    """The plain portrait twice, its second set with everything turned half round about the room's middle."""
    data = one_portrait()
    first = data["sets"][0]
    wide, deep = (data["room"]["footprint"][name] for name in ("length", "width"))

    def turned(part: Data) -> Data:
        found = dict(part)
        for name, size in (("x", wide), ("y", deep), ("aim_x", wide), ("aim_y", deep)):
            if found.get(name) is not None:
                found[name] = round(size - found[name], 3)
        for name in ("facing", "boom", "turn", "leg"):
            if found.get(name) is not None:
                found[name] = (found[name] + 180) % 360
        return found

    second = first | {"id": "other", "name": "Other side"}
    for name in ("mark", "camera", "background"):
        second[name] = turned(first[name])
    second["lights"] = [turned(light) for light in first["lights"]]
    for one in (first, second):
        one["together"] = "A"
    change(second)
    data["sets"] = [first, second | further]
    return data


def scenes(data: Data) -> list[Scene]:
    studio = parse(data)
    found = [scene_of(studio, plan) for plan in studio.sets]
    assert all(found)
    return [scene for scene in found if scene is not None]


def lines(data: Data, code: str) -> list[Margin]:
    return [line for line in ledger_of(parse(data)).lines if line.code == code]


def apart(data: Data) -> Data:
    for plan in data["sets"]:
        plan.pop("together")
    return data


def test_each_sees_the_others_things_but_not_its_people() -> None:
    one, other = scenes(two())
    beside = [thing for thing in one.around if not one.owns(thing)]
    assert beside and {thing.path.split("/")[1] for thing in beside} == {"other"}
    assert {"light", "backdrop"} <= {thing.kind for thing in beside}
    assert not {"subject", "operator", "person", "camera"} & {thing.kind for thing in beside}, "they go over"
    assert all("of “Other side”" in thing.name for thing in beside)
    assert len(other.around) - len(other.things) == len(beside)


def test_a_camera_of_its_own_stays() -> None:
    data = two()
    body = next(item for item in data["gear"] if item["kind"] == "camera")
    data["gear"].append(body | {"id": "second-body", "name": "Second body"})
    data["sets"][1]["camera"] = data["sets"][1]["camera"] | {"body": "second-body", "support": None}
    assert any(thing.kind == "camera" and not s.owns(thing) for s in scenes(data)[:1] for thing in s.around)


def test_one_thing_needed_twice_at_once_is_too_few() -> None:
    head = {line.about[1]: line for line in lines(two(), "kit.count")}
    key = two()["sets"][0]["lights"][0]["head"]
    assert head[f"gear/{key}"].verdict is Verdict.SHORT and head[f"gear/{key}"].need == 2
    assert "together" in head[f"gear/{key}"].sentence
    body = two()["sets"][0]["camera"]["body"]
    assert f"gear/{body}" not in head, "one camera goes round"
    assert not lines(apart(two()), "kit.count")


def test_what_stands_in_the_others_way_is_said_once_in_each() -> None:
    def into(second: Data) -> None:
        first = one_portrait()["sets"][0]["lights"][0]
        second["lights"][0] |= {"x": first["x"], "y": first["y"], "height": first["height"]}

    found = [line for line in lines(two(into), "fit.overlap") if line.verdict is Verdict.SHORT]
    assert {line.set_id for line in found} == {one_portrait()["sets"][0]["id"], "other"}
    assert all(line.about[0].startswith(f"sets/{line.set_id}/") for line in found)
    assert any("of “Other side”" in line.sentence for line in found)
    keys = [line.key for line in ledger_of(parse(two(into))).lines]
    assert len(keys) == len(set(keys))
    assert not [x for x in lines(apart(two(into)), "fit.overlap") if "“Other side”" in x.sentence]


def again(**shift: float) -> Data:
    """The plain portrait and the same again, moved; with gear enough for both."""
    data = one_portrait()
    for thing in data["gear"]:
        thing["quantity"] = 9

    def moved(part: Data) -> Data:
        names = ((name, name[-1]) for name in ("x", "y", "aim_x", "aim_y") if part.get(name) is not None)
        return part | {name: part[name] + shift.get(axis, 0.0) for name, axis in names}

    first = data["sets"][0] | {"together": "A"}
    second = first | {"id": "other", "name": "Other side"}
    second |= {name: moved(first[name]) for name in ("mark", "camera", "background")}
    second["lights"] = [moved(light) for light in first["lights"]]
    data["sets"] = [first, second]
    return data


@pytest.mark.parametrize(
    ("shift", "about", "what"),
    [
        ({"y": 1.0}, "sets/s/background", "background's holder of “Other side”"),  # the stands meet
        ({"x": 1.0}, "sets/s/mark", "background of “Other side”"),  # one stands in the other's paper
        ({"x": 2.75}, "sets/s/camera", "background of “Other side”"),  # and the photographer
        ({"x": 1.75, "y": 1.0}, "sets/s/lights/key", "background's holder of “Other side”"),
    ],
)
def test_nothing_stands_in_what_the_other_left(shift: dict[str, float], about: str, what: str) -> None:
    found = [line for line in lines(again(**shift), "fit.overlap") if line.verdict is Verdict.SHORT]
    assert any(line.about[0] == about and what in line.sentence for line in found), [x.sentence for x in found]
    assert not [x for x in lines(apart(again(**shift)), "fit.overlap") if "“Other side”" in x.sentence]


def test_what_both_have_at_one_place_is_one_thing() -> None:
    """Two cameras on one set: one key, one background; nothing counts or collides twice."""
    data = again()
    for thing in data["gear"]:
        thing["quantity"] = 1
    data["sets"][1]["camera"] = data["sets"][1]["camera"] | {"y": 2.4}
    one, other = scenes(data)
    assert not [thing for thing in one.around if not one.owns(thing)]
    assert not lines(data, "kit.count")
    assert not [line for line in lines(data, "fit.overlap") if "“Other side”" in line.sentence]
    aside = data["sets"][1]["lights"][0]
    data["sets"][1]["lights"] = [aside | {"y": aside["y"] - 0.3}]
    assert {line.about[1] for line in lines(data, "kit.count")} >= {"gear/head", "gear/stand"}, "30 cm off: another"


def test_the_others_gear_in_the_picture() -> None:
    def between(second: Data) -> None:
        first = one_portrait()["sets"][0]
        second["lights"][0] |= {
            "x": (first["mark"]["x"] + first["camera"]["x"]) / 2,
            "y": (first["mark"]["y"] + first["camera"]["y"]) / 2,
            "height": 1.4,
        }

    found = [line for line in lines(two(between), "frame.intrusion") if "of “Other side”" in line.sentence]
    assert {line.set_id for line in found} == {"s"}
    light = [line for line in found if "key of" in line.sentence]
    assert [line.verdict for line in light] == [Verdict.SHORT]


def test_the_way_out_is_across_both() -> None:
    """A set beside can only narrow the way; a stand set down in the doorway closes it."""
    data = two()
    door = data["room"]["doors"][0]
    assert door["wall"] == "south", "along y = 0"
    middle = door["offset"] + door["width"] / 2
    data["sets"][1]["lights"][0] |= {"x": middle, "y": 0.3, "height": 1.5}
    both, alone = way_out(scenes(data)[0]), way_out(scenes(apart(data))[0])
    assert both is not None and alone is not None and both.width < alone.width - 0.1


def lamp(data: Data) -> Data:
    """The second set lit by a lamp of 100 W in place of its flash."""
    key = data["sets"][1]["lights"][0]
    data["gear"].append(
        {"kind": "lamp", "id": "panel", "name": "Panel", "status": "owned", "technology": "LED"}
        | {"width": 0.3, "height": 0.3, "lumens": 8000, "power": 100}
        | {"kelvin": 5600, "supply": "mains", "mass": 2, "beam": 120}
    )
    key |= {"head": "panel", "modifier": None, "circuit": data["room"]["circuits"][0]["id"]}
    return data


def at_face(state: object) -> dict[str, float]:
    assert isinstance(state, Lit)
    amounts = state.dome("face", state.whole).mean(axis=1)
    return {beam.path: float(a) for beam, a in zip(state.beams, amounts, strict=True)}


def test_lamps_that_stay_on_spill_into_the_other_set() -> None:
    off, on = two(), two(stays_lit=True)
    dark, bright = (lit(scenes(lamp(data))[0]) for data in (off, on))
    spill = "sets/other/lights/" + on["sets"][1]["lights"][0]["id"]
    assert spill not in at_face(dark)
    got = at_face(bright)[spill]
    # No more than the lamp's own light straight on, no less than a tenth of it: it looks away, the walls return it.
    scene = scenes(on)[0]
    far = float(np.linalg.norm(scenes(on)[1].lights[0].at - scene.face))  # type: ignore[operator]
    straight = 8000 / math.pi / far**2
    assert 0.02 * straight < got < straight
    ambient = [line for line in lines(lamp(two(stays_lit=True)), "light.ambient") if "other" not in (line.set_id or "")]
    assert ambient and ambient[0].have is not None
    before = [line for line in lines(lamp(two()), "light.ambient") if "other" not in (line.set_id or "")]
    assert before[0].have is not None and ambient[0].have < before[0].have


def test_and_draw_of_the_circuit() -> None:
    circuit = two()["room"]["circuits"][0]["id"]
    off, on = (scene_load(scenes(lamp(two(stays_lit=x)))[0], circuit) for x in (False, True))
    assert on - off == pytest.approx(100)


def test_it_is_drawn_in_outline() -> None:
    one, _ = scenes(two())
    drawn = plan_sheet(one, 900.0, 600.0)
    assert drawn.count('class="beside"') >= 4 and "key of “Other side”" in drawn
    assert 'class="beside"' not in plan_sheet(scenes(apart(two()))[0], 900.0, 600.0)


# --- flashes beside -------------------------------------------------------------------------------


def beside(ours: str, theirs: str, **further: Any) -> list[Margin]:
    """Lines about flashes beside of the first of two sets, its flash and the other's fired so."""
    data = two(**further)
    head = next(one for one in data["gear"] if one["kind"] == "flash")
    head["fired"] = ours
    other = head | {"id": "head-other", "name": "Other head", "fired": theirs}
    data["gear"].append(other)
    for light in data["sets"][1]["lights"]:
        light["head"] = "head-other"
    return [line for line in ledger_of(parse(data)).lines if line.code == "trigger.beside"]


@pytest.mark.parametrize(
    ("ours", "theirs", "fires"),
    [
        ("radio", "radio", True),
        ("cable", "optical slave", True),
        ("radio", "optical slave", True),
        ("cable", "radio", False),
        ("radio", "cable", False),
        ("optical slave", "radio", False),
    ],
)
def test_a_flash_left_on_beside_fires_with_what_it_hears(ours: str, theirs: str, fires: bool) -> None:
    assert beside(ours, theirs) == [], "the lights beside are off"
    found = [line for line in beside(ours, theirs, stays_lit=True) if line.about[0] != "sets/other"]
    assert bool(found) is fires
    if fires:
        assert found[0].verdict is Verdict.SHORT and found[0].margin == -1


def test_a_lead_keeps_off_the_way_to_the_set_beside() -> None:
    """From the south socket straight to the key under the north wall; people walk from the door to a mark in the far
    corner: together the lead goes round by the walls, which takes twice the length."""
    data = one_portrait()
    first = data["sets"][0]
    first["lights"][0]["socket"] = "other"
    first["background"]["lands"] = "hangs free"
    next(item for item in data["gear"] if item["id"] == "head")["cord"] = 10
    data["sets"] = [first, {"id": "far", "name": "Far", "shot": "half", "mark": {"x": 0.4, "y": 3.6}}]

    def reach() -> Margin:
        assert [line.verdict for line in lines(data, "power.crossing")] == [Verdict.CLEAR]
        return lines(data, "power.reach")[0]

    alone = reach()
    for plan in data["sets"]:
        plan["together"] = "A"
    round_it = reach()
    assert alone.need is not None and alone.verdict is Verdict.CLEAR and alone.need == pytest.approx(6.3, abs=0.1)
    wall = 2.0 + 4.0 + 2.3  # west along the south wall, up the west wall, east along the north wall
    assert round_it.verdict is Verdict.SHORT and round_it.need == pytest.approx(alone.need - 3.5 + wall + 1.0, abs=0.2)
    data["sets"][1]["mark"] = {"x": 0.4, "y": 3.0}
    assert reach().verdict is Verdict.SHORT, "the way is found again when the mark beside moves"
    data["sets"][1]["mark"] = {"x": 4.0, "y": 1.0}
    assert reach().need == pytest.approx(alone.need), "and is free again when nobody walks there"
