"""Sets unlike a softbox portrait: what their light lines conclude, each as somebody who runs such sets would."""

import math
import re
from typing import Any

import numpy as np
import pytest
from helpers.studios import item, one_portrait, packed, parse

from evrant.core.base.margins import Margin, Verdict
from evrant.core.edits.language import Light
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.remedies import remedies_of
from evrant.core.judge.rules.set.flare import half_beam
from evrant.core.light import account
from evrant.core.light.lit import Lit, lit
from evrant.core.place.moves import change
from evrant.core.place.patterns import named
from evrant.core.search.arrange.search import arrange
from evrant.core.space.scene import scene_of
from evrant.core.space.volumes import ring_of
from evrant.core.studio.gear import Modifier
from evrant.core.studio.shots import Pattern

Data = dict[str, Any]


def room(lrv: float = 80, colour: str = "#ffffff", **shot: Any) -> Data:
    data = one_portrait()
    data["room"] |= {"floor": "wood", "ceiling": {"lrv": 85, "colour": "#ffffff"}}
    for wall in data["room"]["walls"]:
        wall["finish"] = {"lrv": lrv, "colour": colour}
    item(data, "paper")["reflectance"] = 36
    data["shots"][0] |= shot
    return data


def lines(data: Data) -> dict[str, Margin]:
    return {m.code: m for m in ledger_of(parse(data)).lines if m.code.startswith(("light.", "trigger."))}


def state_of(data: Data) -> Lit:
    studio = parse(data)
    scene = scene_of(studio, studio.sets[0])
    assert scene is not None
    state = lit(scene)
    assert isinstance(state, Lit)
    return state


# --- food and people by a window ---------------------------------------------------------------------


def by_window(daylight: float = 8000, **shot: Any) -> Data:
    data = room(30, around="daylight", shutter=1 / 30, iso=800, aperture=4, **shot)
    data["room"]["ceiling"]["lrv"] = 40
    data["sets"][0]["lights"] = []
    # across the room from the lens, so that it lights the subject from its side
    data["room"]["windows"] = [
        {"id": "w", "name": "window", "wall": "north", "offset": 2.4, "width": 1.4, "height": 1.5, "sill": 0.8,
         "daylight": daylight}
    ]  # fmt: skip
    return data


def test_a_window_is_the_key_of_a_set_without_lights() -> None:
    data = by_window(contrast="soft")
    state = state_of(data)
    assert state.key is not None and state.beams[state.key].role == "window"
    found = lines(data)
    for code in ("light.exposure", "light.contrast", "light.tint", "light.eyes"):
        assert code in found, code
    assert found["light.contrast"].have is not None and found["light.contrast"].have > 1.0, "a side window models"


def test_a_white_board_opposite_the_window_fills() -> None:
    plain = state_of(by_window())
    board = by_window()
    board["gear"].append(
        packed({"kind": "board", "id": "card", "name": "card", "surface": "white", "width": 1.0, "height": 1.4})
    )
    mark = board["sets"][0]["mark"]
    place = {"id": "card", "item": "card", "x": mark["x"], "y": mark["y"] - 0.7, "height": 0.8, "turn": 0}
    board["sets"][0]["props"] = [place]
    before, after = account.contrast(plain), account.contrast(state_of(board))
    assert before is not None and after is not None and after < before - 0.4


@pytest.mark.parametrize("lux", [500, 2000, 8000, 30_000])
def test_exposure_by_a_window_goes_with_its_light(lux: float) -> None:
    """Twice the light, one stop: nothing else in the set."""
    reference = state_of(by_window(1000))
    state = state_of(by_window(lux))
    assert math.log2(state.total("face") / reference.total("face")) == pytest.approx(math.log2(lux / 1000), abs=1e-6)
    line = lines(by_window(lux))["light.exposure"]
    assert state.needed is not None and line.need is not None
    assert line.need == pytest.approx(abs(math.log2(state.total("face") / state.needed)), abs=1e-6)


def test_a_window_whose_light_nobody_told_is_unknown_and_not_silent() -> None:
    data = by_window()
    data["room"]["windows"][0].pop("daylight")
    line = lines(data)["light.exposure"]
    assert line.verdict is Verdict.UNKNOWN and line.enter == "room/windows/w"


@pytest.mark.parametrize("change", ["no window", "covered"])
def test_a_shot_by_daylight_needs_a_window(change: str) -> None:
    data = by_window()
    if change == "covered":
        data["room"]["windows"][0]["blackout"] = "in place"
    else:
        data["room"]["windows"] = []
    line = lines(data)["light.exposure"]
    assert line.verdict is Verdict.SHORT and "no window" in line.sentence


def test_almost_no_daylight_is_too_dark_and_says_what_would_do() -> None:
    data = by_window(1)
    studio = parse(data)
    ledger = ledger_of(studio)
    line = next(m for m in ledger.lines if m.code == "light.exposure")
    assert line.verdict is Verdict.SHORT and "too dark" in line.sentence


# --- lamps of the room -------------------------------------------------------------------------------


def filmed(**shot: Any) -> Data:
    """Two clip lamps, filmed."""
    data = room(capture="video", frames="25", shutter=1 / 50, iso=800, aperture=2.8, **shot)
    data["gear"] = [g for g in data["gear"] if g["id"] != "head"]
    lamp = {"kind": "lamp", "id": "head", "name": "clip lamp", "status": "owned", "supply": "mains", "flicker": "none"}
    data["gear"].append(
        packed({**lamp, "form": "bulb", "lumens": 1500, "kelvin": 4000, "dims_to": 0.05, "quantity": 2})
    )
    key = data["sets"][0]["lights"][0]
    key.pop("modifier")
    key.pop("circuit")
    data["sets"][0]["lights"].append({**key, "id": "fill", "role": "fill", "x": 2.6, "y": 0.9})
    return data


def ceiling_lamps(data: Data, count: int, lumens: float, kelvin: float = 4000, colour: str | None = None) -> Data:
    lamp = {"kind": "lamp", "length": 0.2, "width": 0.2, "base": 2.6, "height": 0.1, "lumens": lumens, "kelvin": kelvin}
    data["room"]["boxes"] = [
        {**lamp, "id": f"lamp-{i}", "name": f"lamp {i}", "x": 1.0 + i * 0.8, "y": 1.9} for i in range(count)
    ]
    data["shots"][0]["around"] = "room lamps on"
    return data


def test_room_lamps_beside_planned_lamps_are_one_line_for_all() -> None:
    few = lines(ceiling_lamps(filmed(), 3, 20))
    many = [m for m in ledger_of(parse(ceiling_lamps(filmed(), 3, 1500))).lines if m.code == "light.ambient"]
    assert few["light.ambient"].verdict is Verdict.CLEAR
    assert len(many) == 1 and many[0].verdict is Verdict.SHORT
    assert "light.ambient" not in lines(filmed()), "nothing to tell where the lamps are off"


def test_lamps_overhead_put_the_eyes_in_shadow_and_turning_them_off_helps() -> None:
    data = ceiling_lamps(filmed(), 4, 4000)
    studio = parse(data)
    ledger = ledger_of(studio)
    line = next(m for m in ledger.lines if m.code == "light.eyes")
    assert line.verdict is Verdict.SHORT
    offers = remedies_of(studio, line, ledger)
    assert any("lamps off" in one.label and one.verdict is Verdict.CLEAR for one in offers)
    assert lines(filmed())["light.eyes"].verdict is Verdict.CLEAR


@pytest.mark.parametrize(("pattern", "up"), [("loop", 38), ("Rembrandt", 45), ("split", 12), ("side", 18), ("top", 84)])
def test_what_is_over_the_eyes_is_told_wherever_round_the_face_the_light_stands(pattern: Pattern, up: int) -> None:
    """Independent: the elevation a pattern places its light at; a split light was told to come from 77° up."""
    data = one_portrait()
    data["room"]["height"] = 3.4
    next(one for one in data["gear"] if one["id"] == "stand")["max_height"] = 3.2
    studio = parse(data)
    studio = change(studio, Light(target=f"sets/{studio.sets[0].id}", pattern=pattern))
    line = next(m for m in ledger_of(studio).lines if m.code == "light.eyes")
    told = re.search(r"a light (\d+)° up", line.reason)
    assert told is not None and int(told[1]) == pytest.approx(up, abs=6)
    assert (line.verdict is Verdict.SHORT) == (up > 63)


def test_a_light_from_the_floor_is_light_from_below() -> None:
    data = room(5)
    data["room"]["ceiling"]["lrv"] = 5
    data["sets"][0]["lights"][0] |= {"height": 0.3, "x": 3.0, "y": 2.4}
    assert lines(data)["light.from_below"].verdict is Verdict.SHORT
    data["shots"][0]["pattern"] = "under-light"
    assert "light.from_below" not in lines(data), "who asks for it gets it"


# --- who tints ---------------------------------------------------------------------------------------


def blue_lamp(data: Data) -> Data:
    lamp = {"kind": "lamp", "id": "blue", "name": "blue bulb", "status": "owned", "supply": "battery", "form": "bulb"}
    data["gear"].append(packed({**lamp, "lumens": 20_000, "colour": "#2030ff", "flicker": "none"}))
    key = data["sets"][0]["lights"][0]
    where = {"x": 2.6, "y": 0.8, "height": 1.6}
    extra = {"id": "blue", "role": "practical", "head": "blue", "support": "stand", **where}
    data["sets"][0]["lights"] = [key, extra]
    data["shots"][0] |= {"shutter": 1 / 15, "iso": 100, "aperture": 4}
    return data


def test_white_walls_are_not_blamed_for_a_blue_lamp() -> None:
    line = lines(blue_lamp(room()))["light.tint"]
    assert line.verdict is Verdict.SHORT
    assert "practical" in line.sentence and "wall" not in line.sentence and "south" not in line.sentence


def test_coloured_walls_are_named_when_they_do_it() -> None:
    line = lines(room(40, "#208040"))["light.tint"]
    assert line.verdict is Verdict.SHORT
    assert any(name in line.sentence for name in ("south", "east", "west", "north"))


# --- background light on the subject -----------------------------------------------------------------


@pytest.mark.parametrize(("aim", "spills"), [((0.2, 2.0, 1.4), False), ((2.0, 1.9, 1.5), True)])
def test_a_background_light_turned_to_the_subject_spills(aim: tuple[float, float, float], spills: bool) -> None:
    data = room(20, aperture=5.6)
    data["room"]["ceiling"]["lrv"] = 20
    dish = {"kind": "modifier", "id": "dish", "name": "dish", "form": "reflector dish", "beam": 50, "loss": 0}
    data["gear"].append(packed(dish | {"width": 0.18, "efficiency": 0.7}))
    light = {"id": "back", "role": "background light", "head": "head", "modifier": "dish", "support": "stand"}
    place = {"x": 1.0, "y": 0.6, "height": 1.2, "power": 0.25}
    to = dict(zip(("aim_x", "aim_y", "aim_height"), aim, strict=True))
    data["sets"][0]["lights"].append({**light, **place, **to})
    assert (lines(data)["light.spill"].verdict is Verdict.SHORT) is spills


# --- grids and slaves --------------------------------------------------------------------------------


def test_a_grid_put_on_narrows_the_beam_as_one_built_in() -> None:
    dish = Modifier(id="d", name="d", form="reflector dish", beam=65, grid_angle=20)
    assert half_beam(dish) == 32.5
    assert half_beam(dish, gridded=True) == half_beam(dish.changed(grid=True)) == 10
    tight = Modifier(id="s", name="s", form="snoot", beam=18, grid_angle=60)
    assert half_beam(tight, gridded=True) == 9, "a grid widens nothing"


def slaves(*, sheet: str | None = None, chain: bool = True) -> Data:
    """A radio head at one end; a slave that a cupboard hides from it, and between them one that sees both."""
    data = room()
    item(data, "head")["quantity"] = 1
    data["gear"].append({**item(data, "head"), "id": "slave", "name": "slave", "fired": "optical slave", "quantity": 2})
    base = {"head": "slave", "support": "stand"}
    key = data["sets"][0]["lights"][0]
    key |= {"x": 4.0, "y": 3.5, "height": 1.8}
    far = {**base, "id": "far", "role": "rim", "x": 4.0, "y": 0.5, "height": 1.8}
    data["room"]["boxes"] = [
        {"id": "b", "name": "cupboard", "x": 3.4, "y": 1.8, "length": 1.2, "width": 0.4, "base": 0, "height": 2.6}
    ]
    middle = {**base, "id": "middle", "role": "fill", "x": 2.9, "y": 2.0, "height": 1.8}
    data["sets"][0]["lights"] = [key, *([middle] if chain else []), far]
    data["sets"][0]["mark"] = {"x": 1.4, "y": 1.9}
    if sheet:
        data["gear"].append(
            packed({"kind": "board", "id": "net", "name": "net", "surface": sheet, "width": 1.0, "height": 1.6})
        )
        place = {"id": "net", "item": "net", "x": 3.4, "y": 2.75, "height": 1.0, "turn": 145}
        data["sets"][0]["props"] = [place]
    return data


def sight(data: Data, light: str) -> Margin:
    found = ledger_of(parse(data)).lines
    return next(m for m in found if m.code == "trigger.sight" and m.about[0].endswith(f"/{light}"))


def test_a_slave_fires_the_next() -> None:
    alone = sight(slaves(chain=False), "far")
    assert alone.verdict is Verdict.SHORT, "the cupboard stands between"
    assert sight(slaves(), "middle").verdict is not Verdict.SHORT
    assert sight(slaves(), "far").verdict is not Verdict.SHORT


def test_a_sheet_dims_a_slaves_sight_and_a_black_one_blocks_it() -> None:
    assert sight(slaves(sheet="translucent"), "middle").verdict is not Verdict.SHORT
    assert sight(slaves(sheet="black"), "middle").verdict is Verdict.SHORT
    assert sight(slaves(sheet="black"), "far").verdict is Verdict.SHORT, "and what it would have fired stays dark"


# --- lamps in the frame, rims, silhouettes -----------------------------------------------------------


def with_lamp(lumens: float = 60, role: str = "practical", **place: Any) -> Data:
    """A talking head before a lamp that is meant to be seen."""
    data = filmed()
    lamp = {"kind": "lamp", "id": "table-lamp", "name": "table lamp", "status": "owned", "supply": "battery"}
    data["gear"].append(
        packed({**lamp, "form": "bulb", "lumens": lumens, "diameter": 0.25, "flicker": "none", "dims_to": 0.001})
    )
    light = {"id": "shown", "role": role, "head": "table-lamp", "support": "stand", "power": 1.0}
    data["sets"][0]["lights"].append({**light, "x": 1.0, "y": 1.6, "height": 1.5, **place})
    data["sets"][0]["background"] |= {"x": 0.3}
    return data


def test_a_lamp_meant_to_be_seen_is_no_intrusion_but_has_its_brightness() -> None:
    found = [m for m in ledger_of(parse(with_lamp())).lines if m.about[0].endswith("lights/shown")]
    codes = {m.code for m in found}
    assert "light.practical" in codes and "frame.intrusion" not in codes
    as_key = ledger_of(parse(with_lamp(role="hair light"))).lines
    assert any(m.code == "frame.intrusion" and "shown" in m.about[0] for m in as_key), "another light there intrudes"
    assert "light.practical" not in lines(with_lamp(x=4.6, y=3.6)), "out of the picture it has no such line"


def test_a_lamps_brightness_goes_stop_by_stop_and_dimming_settles_it() -> None:
    """Luminance of a ball of 25 cm that gives Φ to all sides: Φ / (4π · π r²), against 0.36 H / π of the face."""
    dim, bright = lines(with_lamp(60))["light.practical"], lines(with_lamp(960))["light.practical"]
    assert dim.need is not None and bright.need is not None
    assert bright.need - dim.need == pytest.approx(4.0, abs=0.01)
    state = state_of(with_lamp(60))
    ball = 60 / 50 / (4 * math.pi * math.pi * 0.125**2)
    assert dim.need == pytest.approx(math.log2(ball * math.pi / (0.36 * state.exposed)), abs=0.25)
    data = with_lamp(20_000)
    studio = parse(data)
    ledger = ledger_of(studio)
    burnt = next(m for m in ledger.lines if m.code == "light.practical")
    assert burnt.verdict is Verdict.SHORT and "burns out" in burnt.sentence
    assert any("Dim it" in one.label and one.verdict is not Verdict.SHORT for one in remedies_of(studio, burnt, ledger))


def test_a_rim_that_is_typed_too_strong_follows_the_key_again() -> None:
    data = room(20)
    rim = {"id": "rim", "role": "rim", "head": "head", "support": "stand", "x": 0.9, "y": 0.8, "height": 2.0}
    item(data, "head")["quantity"] = 2
    data["sets"][0]["lights"].append(rim)
    assert lines(data)["light.rim"].verdict is not Verdict.SHORT
    rim["power"] = 1.0
    studio = parse(data)
    ledger = ledger_of(studio)
    strong = next(m for m in ledger.lines if m.code == "light.rim")
    assert strong.verdict is Verdict.SHORT and "burns out" in strong.sentence
    assert any("follow the key" in one.label for one in remedies_of(studio, strong, ledger))


def by_tube(gap_light: bool = False) -> Data:
    """A silhouette: one tube on the background, nothing on the face."""
    data = room(10, pattern="silhouette", aperture=4, iso=400, shutter=1 / 60)
    data["room"]["ceiling"]["lrv"] = 10
    item(data, "paper")["reflectance"] = 80
    tube = {"kind": "lamp", "id": "tube", "name": "tube", "status": "owned", "supply": "battery", "form": "spot"}
    data["gear"].append(packed({**tube, "beam": 50, "lumens": 4000, "flicker": "none", "dims_to": 0.01}))
    light = {"id": "back", "role": "background light", "head": "tube", "support": "stand"}
    data["sets"][0]["lights"] = [
        {**light, "x": 1.0, "y": 0.7, "height": 1.2, "aim_x": 0.3, "aim_y": 2.0, "aim_height": 1.4}
    ]
    if gap_light:
        data["sets"][0]["lights"].append(
            {"id": "key", "role": "key", "head": "head", "modifier": "box", "support": "stand", "power": 0.2,
             "x": 2.7, "y": 2.9, "height": 2.1}
        )  # fmt: skip
    return data


def test_a_silhouette_is_exposed_for_its_background() -> None:
    found = lines(by_tube())
    assert "light.exposure" not in found, "a dark face is what is wanted"
    assert found["light.silhouette"].verdict is not Verdict.SHORT
    assert lines(by_tube(gap_light=True))["light.silhouette"].verdict is Verdict.SHORT


@pytest.mark.parametrize(
    ("power", "verdict"), [(1 / 64, "dark"), (1 / 32, ""), (1 / 16, ""), (1 / 4, "bright"), (1.0, "bright")]
)
def test_a_white_roll_may_be_lit_over_white_until_it_flares(power: float, verdict: str) -> None:
    data = room(20, tone="white", aperture=4, contrast=None)
    data["room"]["ceiling"]["lrv"] = 20
    item(data, "paper")["reflectance"] = 85
    pair = []
    for name, y in (("left", 0.9), ("right", 2.9)):
        where = {"x": 1.9, "y": y, "height": 1.3, "aim_x": 0.9, "aim_y": 2.0 + (1.9 - y) * 0.1, "aim_height": 1.4}
        dish = {"modifier": "dish", "power": power, "head": "head", "support": "stand"}
        pair.append({"id": name, "role": "background light", **dish, **where})
    form = {"kind": "modifier", "id": "dish", "name": "dish", "form": "reflector dish", "beam": 90, "loss": 1}
    data["gear"].append(packed({**form, "width": 0.2, "efficiency": 0.6}))
    data["sets"][0]["lights"] += pair
    line = lines(data)["light.background_tone"]
    ground = account.ground(state_of(data))
    assert ground is not None and ground.off is not None
    wish = {"dark": ground.off < -0.5, "bright": ground.off > 1.5, "": -0.5 <= ground.off <= 1.5}
    assert (line.verdict is Verdict.SHORT) is (ground.off < -0.5 or ground.off > 1.5)
    assert wish[verdict], ground.off


# --- patterns that fire away, and rings ---------------------------------------------------------------


def ring_light(data: Data) -> Data:
    data["gear"] = [g for g in data["gear"] if g["id"] not in ("head", "box")]
    ring = {"kind": "lamp", "id": "head", "name": "ring", "status": "owned", "supply": "mains", "form": "ring"}
    data["gear"].append(
        packed({**ring, "lumens": 9000, "diameter": 0.45, "length": 0.05, "flicker": "none", "cord": 3})
    )
    return data


@pytest.mark.parametrize("size", [(5.0, 4.0), (7.0, 6.0)])
@pytest.mark.parametrize("pattern", ["bounced", "ring"])
def test_arrange_finds_sets_that_fire_back_and_sets_round_the_lens(pattern: str, size: tuple[float, float]) -> None:
    data = one_portrait()
    data["room"]["footprint"] = {"kind": "rectangle", "length": size[0], "width": size[1]}
    data["room"]["doors"][0]["offset"] = 0.2
    data["shots"][0]["pattern"] = pattern
    if pattern == "ring":
        ring_light(data)
    for one in data["gear"]:
        one["status"] = "owned"
    studio = parse(data)
    found = arrange(studio, studio.shots[0])
    assert found.fits and found.proved
    key = found.sets[0].plan.lights[0]
    assert key.role == ("ring light" if pattern == "ring" else "key")


def test_a_lens_looks_through_a_ring_and_not_through_its_rim() -> None:
    """Radii of the pieces about the middle: none within the hole, all within the ring."""
    at, ahead = np.array([1.0, 2.0, 1.5]), np.array([0.6, 0.8, 0.0])
    for piece in ring_of(at, ahead, 0.45, 0.315, 0.05):
        local = piece - at
        flat = local - np.outer(local @ ahead, ahead)
        assert np.linalg.norm(flat, axis=1).max() <= 0.225 + 1e-9
        corners = flat[np.linalg.norm(flat, axis=1) < 0.2]
        middle = (corners[0] + corners[1]) / 2
        assert np.linalg.norm(middle) == pytest.approx(0.1575, abs=1e-9), "the hole is clear to its full radius"


# --- whole sets --------------------------------------------------------------------------------------


def lantern_over_a_table(room_lamps: bool) -> Data:
    """Dinner at a table under a paper lantern, the room's warm lamps left on or off."""
    data = filmed()
    data["gear"].append(
        packed({"kind": "modifier", "id": "lantern", "name": "paper lantern", "form": "lantern", "width": 0.5})
        | {"depth": 0.48, "efficiency": 0.58, "loss": 3.0, "mount": "bulb cap"}
    )
    plan = data["sets"][0]
    plan["lights"] = [plan["lights"][0] | {"modifier": "lantern", "role": "top light", "height": 1.95}]
    plan["lights"][0] |= {"x": plan["mark"]["x"] + 0.5, "y": plan["mark"]["y"]}
    return ceiling_lamps(data, 2, 800, 3000) if room_lamps else data


def test_a_lantern_over_a_table_holds_its_own_only_with_the_room_lamps_off() -> None:
    on, off = lines(lantern_over_a_table(True)), lines(lantern_over_a_table(False))
    assert on["light.ambient"].verdict is Verdict.SHORT and "light.ambient" not in off
    assert on["light.mixed"].verdict is Verdict.SHORT
    tint = on["light.tint"]
    assert tint.verdict is Verdict.SHORT and "lamp" in tint.title.lower(), "two lamps do it, not the white walls"
    assert off["light.exposure"].verdict is not Verdict.UNKNOWN


def test_an_interior_by_three_lamps_and_a_coloured_bulb_names_the_bulb() -> None:
    data = ceiling_lamps(filmed(), 3, 600, 4000)
    plan = data["sets"][0]
    bulb = {"kind": "lamp", "id": "blue", "name": "blue bulb", "form": "bulb", "lumens": 900, "colour": "#3050ff"}
    data["gear"].append(packed(bulb | {"supply": "mains", "flicker": "none"}))
    side = {"id": "bulb", "role": "practical", "head": "blue", "x": plan["mark"]["x"], "y": plan["mark"]["y"] - 0.9}
    plan["lights"].append(side | {"height": 1.5, "power": 1.0})
    tint = lines(data)["light.tint"]
    assert tint.verdict is Verdict.SHORT and "practical" in tint.title
    plan["lights"].pop()
    assert "practical" not in lines(data)["light.tint"].title


def test_a_garment_under_a_ring_is_lit_evenly_and_flat() -> None:
    data = ring_light(room())
    garment = {"id": "p", "name": "Shirt", "kind": "garment", "height": 1.0, "base": 0.9}
    data["shots"][0] |= {"subjects": [garment], "crop": "whole subject", "contrast": "flat", "pattern": "ring"}
    data["sets"][0]["lights"][0] |= {"x": 3.3, "y": 1.9, "height": 1.4}
    found = lines(data)
    assert found["light.contrast"].verdict is Verdict.CLEAR
    assert found["light.falloff"].verdict is Verdict.CLEAR


def test_a_set_by_the_window_is_looked_for_only_where_there_is_one() -> None:
    data = room()
    data["shots"][0] |= {"pattern": "window and reflector", "around": "daylight"}
    data["gear"].append(packed({"kind": "board", "id": "w", "name": "card", "surface": "white", "width": 0.7}))
    data["gear"][-1]["height"] = 1.0
    for one in data["gear"]:
        one["status"] = "owned"
    studio = parse(data)
    assert "No window" in arrange(studio, studio.shots[0]).missing
    glass = {"id": "w", "name": "window", "wall": "north", "offset": 2.4, "width": 1.4, "height": 1.5, "sill": 0.8}
    data["room"]["windows"] = [glass | {"daylight": 8000}]
    studio = parse(data)
    assert not arrange(studio, studio.shots[0]).missing
    data["room"]["windows"] = [glass | {"blackout": "in place"}]
    studio = parse(data)
    assert "No window" in arrange(studio, studio.shots[0]).missing


def test_arrange_finds_a_background_pair_with_bounced_fill_clear_of_the_holders_feet() -> None:
    """Two heads beside a wide roll, one fired back: they stood in the holder's feet, and it was proved impossible."""
    data = one_portrait()
    data["room"]["footprint"] = {"kind": "rectangle", "length": 7.0, "width": 6.0}
    data["room"]["doors"][0]["offset"] = 0.2
    data["shots"][0] |= {"pattern": "background pair, bounced fill", "tone": "white"}
    for one in data["gear"]:
        one["status"] = "owned"
        one["quantity"] = 3 if one["id"] in ("head", "box", "stand") else 1
    item(data, "paper").update({"reflectance": 85, "width": 2.7})
    studio = parse(data)
    found = arrange(studio, studio.shots[0], first=True)
    assert found.sets
    here = scene_of(studio.changed(sets=(found.sets[0].plan,)), found.sets[0].plan)
    assert here is not None and named(here) == "background pair, bounced fill"
