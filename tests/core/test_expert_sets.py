"""Sets of other kinds, each with the verdicts somebody who does this for a living would give; made up here."""

from typing import Any

import pytest
from helpers.studios import item, one_portrait, packed, parse

from evrant.catalogue import load
from evrant.core.base.margins import Margin, Verdict
from evrant.core.base.tables.supports import GRAVITY
from evrant.core.judge.ledger import ledger_of
from evrant.core.search.order import in_order
from evrant.core.search.support_table import support_table
from evrant.core.space.scene import Scene, scene_of

Data = dict[str, Any]


def judged(data: Data) -> dict[str, list[Margin]]:
    found: dict[str, list[Margin]] = {}
    for one in ledger_of(parse(data)).lines:
        found.setdefault(one.code, []).append(one)
    return found


def scene(data: Data) -> Scene:
    studio = parse(data)
    found = scene_of(studio, studio.sets[0])
    assert found is not None
    return found


# --- a box of four poles with two sliding rails, three rolls, two heads, and a desk inside -----------


def pole_box(rating: float = 20.0) -> Data:
    """Poles at the corners of 3.6 × 2.6 m carry two rails along the room; a desk stands inside."""
    data = one_portrait()
    rail = {"name": "Rail", "x": 0.7, "to_x": 4.3, "height": 2.6, "load": rating, "end_load": rating / 2}
    data["room"]["rails"] = [
        rail
        | {"id": "left", "name": "Left rail", "y": 3.2, "to_y": 3.2, "diameter": 0.035, "thickness": 0.002}
        | {"material": "aluminium"},
        rail
        | {"id": "right", "name": "Right rail", "y": 0.6, "to_y": 0.6, "diameter": 0.035, "thickness": 0.002}
        | {"material": "aluminium"},
    ]
    data["room"]["boxes"] = [
        {"id": "desk", "name": "Desk", "kind": "furniture", "x": 3.5, "y": 2.4, "length": 1.2, "width": 0.6}
        | {"height": 0.74, "moves": "stays"}
    ]
    clamp = {"kind": "stand", "id": "clamp", "name": "Rail clamp", "use": "rail or crossbar", "mass": 0.4, "load": 8}
    data["gear"].append(packed(clamp | {"top": "16 mm spigot", "quantity": 4, "max_height": 4.0, "grip": 20}))
    for key in ("head", "box"):
        item(data, key)["quantity"] = 2
    key = data["sets"][0]["lights"][0]
    key |= {"support": "clamp", "bag": None, "modifier": None, "height": 2.59}
    data["sets"][0]["lights"] = [
        key | {"x": 2.6, "y": 3.2, "role": "key"},
        key | {"id": "fill", "role": "fill", "x": 2.6, "y": 0.6},
    ]
    item(data, "stands").update({"rolls": 3, "load": 25, "system": "floor-to-ceiling poles"})
    item(data, "stands").update({"min_height": 2.0, "max_height": 3.2, "foot_radius": 0.05})
    return data


def test_a_box_of_poles() -> None:
    lines = judged(pole_box())
    assert [m.verdict for m in lines["support.rail"]] == [Verdict.CLEAR] * 2, "each clamp is on its rail"
    carried = {m.about[0]: m for m in lines["support.rail_load"]}
    left = carried["room/rails/left"]
    assert left.verdict is Verdict.CLEAR
    # clamp, head: 2 kg on a rail that is made for 20 with a factor; by hand
    assert left.need is not None and left.need >= (0.4 + 1.6) - 1e-6
    (load_,) = lines["support.holder_load"]
    assert load_.need is not None and load_.need >= 3 * 3.1 - 1e-6, "all three rolls"
    crossing = lines["power.crossing"]
    assert len(crossing) == 2 and all(m.verdict is Verdict.CLEAR for m in crossing), (
        "leads come down at the walls, not over the floor"
    )
    assert all(m.verdict is not Verdict.SHORT for m in lines["fit.overlap"]), "the desk stands in nobody's way"


def test_the_same_box_with_weak_rails_or_a_clamp_beside_them() -> None:
    weak = judged(pole_box(rating=3.0))
    assert any(m.verdict is Verdict.SHORT for m in weak["support.rail_load"])
    off = pole_box()
    off["sets"][0]["lights"][0]["y"] = 2.9
    assert any(m.verdict is Verdict.SHORT for m in judged(off)["support.rail"])


# --- four lamps in a lantern over a table --------------------------------------------------------------


def lantern(count: int, watts: float) -> Data:
    """A paper lantern for 60 W with so many lamps, hung from the ceiling over a table."""
    data = one_portrait()
    data["gear"] += [
        {"kind": "lamp", "id": "bulb", "name": "Bulb", "form": "bulb", "technology": "LED", "power": watts}
        | {"lumens": 1500, "kelvin": 4000, "foot": "hook or eye", "front": "bulb cap", "mass": 0.1, "cord": 4}
        | {"supply": "mains", "quantity": 4, "status": "owned", "yoke": True},
        {"kind": "modifier", "id": "lantern", "name": "Lantern", "form": "lantern", "width": 0.5, "height": 0.5}
        | {"depth": 0.25, "efficiency": 0.7, "takes": 60, "mass": 0.3, "mount": "bulb cap", "status": "owned"},
        {"kind": "stand", "id": "hook", "name": "Ceiling hook", "use": "hook", "load": 8, "status": "owned"}
        | {"top": "hook or eye", "min_height": 0.2, "max_height": 3.0},
        {"kind": "table", "id": "table", "name": "Table", "length": 0.9, "width": 0.6, "height": 0.74, "load": 40}
        | {"status": "owned"},
    ]
    key = data["sets"][0]["lights"][0]
    key |= {"role": "top light", "head": "bulb", "modifier": "lantern", "support": "hook", "heads": count, "bag": None}
    key |= {"x": 2.0, "y": 1.9, "height": 2.0, "aim_x": 2.0, "aim_y": 1.9, "aim_height": 0.8, "joint": None}
    data["sets"][0]["props"] = [{"id": "t", "item": "table", "x": 2.0, "y": 1.9}]
    data["shots"][0]["subjects"] = [
        {"id": "p", "name": "Plate", "kind": "object", "height": 0.1, "width": 0.28} | {"depth": 0.28, "base": 0.74}
    ]
    data["shots"][0] |= {"crop": "whole subject"}
    return data


@pytest.mark.parametrize(("count", "watts", "hot"), [(4, 20, True), (1, 20, False), (1, 200, True), (4, 8, False)])
def test_lamps_in_a_lantern_are_added_up(count: int, watts: float, hot: bool) -> None:
    lines = judged(lantern(count, watts))
    inside = [m for m in lines.get("power.heat", []) if "sets/s/lights/key" in m.about]
    assert any(m.verdict is Verdict.SHORT for m in inside) == hot, [(m.sentence, m.margin) for m in inside]


def test_its_lead_runs_along_the_ceiling() -> None:
    lines = judged(lantern(1, 20))
    (reach,) = lines["power.reach"]
    assert "along the ceiling and down the wall" in reach.reason and reach.verdict is Verdict.SHORT
    assert "2 cm over the floor" in reach.reason
    assert all(m.verdict is Verdict.CLEAR for m in lines["power.crossing"])
    item_long = lantern(1, 20)
    item(item_long, "bulb")["cord"] = 12
    assert [m.verdict for m in judged(item_long)["power.reach"]] == [Verdict.CLEAR]


def hanging(fitted: str | None, **aimed: float) -> Data:
    """A plain bulb in a hanging holder on the hook, in the lantern or another modifier."""
    data = lantern(1, 20)
    item(data, "bulb").update({"foot": "bulb cap", "yoke": False})
    holder = {"kind": "part", "id": "pendant", "name": "Hanging holder", "use": "bulb holder", "rating": 60}
    shade = {"kind": "modifier", "id": "shade", "name": "Shade", "form": "reflector dish", "width": 0.3, "depth": 0.2}
    data["gear"] += [
        holder | {"below": "hook or eye", "above": "bulb cap", "mass": 0.15, "status": "owned"},
        shade | {"mass": 0.3, "mount": "bulb cap", "status": "owned", "beam": 90, "efficiency": 0.8, "takes": 60},
    ]
    data["sets"][0]["lights"][0] |= {"joint": "pendant", "modifier": fitted, **aimed}
    return data


@pytest.mark.parametrize(
    ("fitted", "aimed", "fits"),
    [
        ("lantern", {"aim_x": 3.0}, True),
        (None, {"aim_x": 3.0}, True),
        ("shade", {"aim_x": 3.0}, False),
        ("shade", {}, True),
        ("shade", {"aim_height": 3.0}, False),
    ],
)
def test_what_hangs_from_a_hook_hangs_straight_down(fitted: str | None, aimed: dict[str, float], fits: bool) -> None:
    """Nothing need turn what shines all round; a shade that hangs shines on the table, and up or aside on a swivel."""
    data = hanging(fitted, **aimed)
    (line,) = judged(data)["support.joint"]
    assert (line.verdict is Verdict.CLEAR) == fits, line.sentence
    assert fits or "hangs straight down by itself" in line.sentence
    light = scene(data).lights[0]
    assert light.at is not None and light.mount is not None
    if fitted == "lantern":
        assert light.mount.tolist() == pytest.approx([2.0, 1.9, 2.25]), (
            "its cord is right over it, wherever it is aimed"
        )
    item(data, "pendant")["swivel"] = True
    assert [m.verdict for m in judged(data)["support.joint"]] == [Verdict.CLEAR]


def test_two_of_a_role_are_told_apart_by_what_feeds_them() -> None:
    data = hanging("lantern")
    first = data["sets"][0]["lights"][0] | {"circuit": None, "socket": None}
    data["sets"][0]["lights"] = [first, first | {"id": "second", "x": 2.8}]
    titles = {m.title for m in judged(data)["power.circuit"]}
    assert titles == {"Circuit of the key", "Circuit of the second"}


# --- one overhead key: boom, light boom, wall boom, ceiling plate, twin stand ---------------------------


def test_supports_for_one_overhead_key_are_compared() -> None:
    """A head of 1.6 kg in a small softbox over the face, half a metre before it."""
    data = one_portrait()
    data["sets"][0]["lights"][0] |= {"role": "top light", "x": 2.35, "y": 1.9, "height": 1.9}
    studio = parse(data)
    wanted = {"boom-220", "boom-light-180", "wall-boom-150", "ceiling-plate", "twin-stand-200", "stand-260"}
    library = [one for one in load().all() if one.id in wanted or one.kind == "part"]
    here = scene_of(studio, studio.sets[0])
    assert here is not None
    table = support_table(studio, here, "sets/s/lights/key", library)
    options = {option.item.id: option for option in table.options if not option.ours}
    assert set(options) >= wanted
    low = options["twin-stand-200"]
    assert not low.works and any("too short" in m.sentence for m in low.short), "2.0 m do not reach 2.2"
    assert not options["stand-260"].works and any("picture" in m.sentence for m in options["stand-260"].short)
    assert options["boom-220"].works or options["boom-light-180"].works
    assert "made of" in options["ceiling-plate"].unknown[0].sentence, "of a ceiling nobody has described"
    for key in ("boom-220", "boom-light-180"):
        assert options[key].bag is not None and options[key].floor, key
    assert options["ceiling-plate"].floor in (None, 0.0), "what hangs takes no floor"
    assert options["wall-boom-150"].floor in (None, 0.0)
    assert all(option.works or option.short or option.unknown for option in options.values()), "a reason against each"


# --- looks in order, for two who strike each time -------------------------------------------------------


def test_six_looks_in_order() -> None:
    """Three papers on three hooks, each with and without a rim light: papers are pulled up once each."""
    data = one_portrait()
    item(data, "stands").update({"rolls": 3, "system": "wall brackets"})
    papers = ["paper", "grey", "black"]
    data["gear"] += [item(data, "paper") | {"id": key, "name": f"{key} paper"} for key in papers[1:]]
    first = data["sets"][0]
    rim = first["lights"][0] | {"id": "rim", "role": "rim", "x": 1.2, "y": 3.4}
    data["sets"] = [
        first
        | {"id": f"look{number}", "name": f"Look {number}"}
        | {"background": first["background"] | {"backdrop": papers[number % 3]}}
        | {"lights": [*first["lights"], rim] if number % 2 else first["lights"]}
        for number in range(6)
    ]
    found = in_order(parse(data))
    assert found.exact and found.minutes < found.as_listed
    # At least two exchanges of paper at a minute each; at least one light put up (3) or taken down (1).
    swaps = sum(step.what == "swap" for leg in found.legs for step in leg.change.work)
    lights = sum(step.what in ("add", "take out") for leg in found.legs for step in leg.change.work)
    assert found.minutes >= 2 + 1 and swaps >= 2 and lights >= 1
    assert swaps + lights == 5, "one thing changes at a time"


def test_three_rolls_press_on_their_fixings() -> None:
    """19.5 kg on two brackets: 96 N each, before any factor."""
    data = one_portrait()
    item(data, "stands").update({"rolls": 3, "system": "wall brackets", "load": 15})
    item(data, "paper")["mass"] = 6.5
    each = 3 * 6.5 * GRAVITY / 2
    assert each == pytest.approx(95.6, abs=0.1)
    (line,) = judged(data)["support.holder_load"]
    assert line.verdict is Verdict.SHORT and line.need is not None and line.need >= 19.5 - 1e-6
