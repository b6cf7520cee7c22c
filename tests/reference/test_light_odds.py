"""Figures that feed the light, each by another way: the Airy disc, a projector's circle, pulsed flash, coloured gels,
an umbrella's head, the two ways a modifier's light is told, what is drawn before a window."""

import math
from typing import Any

import numpy as np
import pytest
from helpers.products import product
from helpers.studios import one_portrait, parse

from evrant.catalogue.loader import load
from evrant.core.base.margins import Margin, Verdict
from evrant.core.edits.language import EDIT
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.remedies import remedies_of
from evrant.core.judge.rules.light.projected import circle, edge
from evrant.core.light.colour import luminance
from evrant.core.light.emission import Emission, emission, gel_loss
from evrant.core.light.lit import Lit, lit, pulsed
from evrant.core.place.moves import change
from evrant.core.space.framing import diffraction
from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene, scene_of
from evrant.core.studio.gear import Flash, Gel, Modifier
from evrant.core.studio.sets import LightPlace

Data = dict[str, Any]


def scene(data: Data) -> Scene:
    studio = parse(data)
    found = scene_of(studio, studio.sets[0])
    assert found is not None
    return found


def line(data: Data, code: str) -> Margin | None:
    return next((m for m in ledger_of(parse(data)).lines if m.code == code), None)


def test_the_airy_disc_is_that_of_the_handbooks() -> None:
    """Rayleigh: at 550 nm about 1.34 µm a stop number, first dark ring to first dark ring."""
    assert diffraction(8, 0.0) == pytest.approx(10.7e-6, rel=0.01)
    assert diffraction(16, 0.0) == pytest.approx(21.5e-6, rel=0.01)
    assert diffraction(11, 1.0) == pytest.approx(2 * diffraction(11, 0.0))


def test_a_small_aperture_close_up_softens_everything() -> None:
    """f/16 at m = 0.6 works as f/26: 34 µm, over the 30 that pass on 36 × 24."""
    data = product(shape="box")
    data["shots"][0]["aperture"] = 16
    here = scene(data)
    disc = 2.44 * 0.55 * 16 * (1 + here.magnification)
    told = line(data, "frame.diffraction")
    assert told is not None and told.margin == pytest.approx(2 * math.log2(30 / disc), abs=0.01)
    data["shots"][0]["aperture"] = 32
    told = line(data, "frame.diffraction")
    assert told is not None and told.verdict is Verdict.SHORT and "softens" in told.sentence
    assert line(one_portrait() | {}, "frame.diffraction") is None  # f/8 from across a room: never the reason


def test_wider_open_a_deep_thing_is_sharp_in_several_frames() -> None:
    """By hand: a frame keeps 2 N c (1 + m) / m² sharp; a quarter of it is shared with the next; 15 % are to spare."""
    data = product(shape="box")
    data["shots"][0]["aperture"] = 22
    data["shots"][0]["subjects"][0]["depth"] = 0.12
    studio, here = parse(data), scene(data)
    ledger = ledger_of(studio)
    told = next(one for one in ledger.lines if one.code == "frame.diffraction")
    assert told.verdict is Verdict.SHORT and here.wanted is not None
    remedies = {one.label: one for one in remedies_of(studio, told, ledger)}
    m = here.magnification
    for stop in (8, 11, 16):
        once = 2 * stop * 30e-6 * (1 + m) / m**2
        frames = math.ceil((1.15 * here.wanted.depth / once - 1) / 0.75) + 1
        one = remedies[f"Open up to f/{stop}, in {frames} frames focused one behind the other and joined"]
        after = {line.code: line.verdict for line in ledger_of(change(studio, EDIT.validate_python(one.edit))).lines}
        assert after["frame.depth"] is Verdict.CLEAR and after.get("frame.diffraction") is not Verdict.SHORT
    alone = ledger_of(change(studio, EDIT.validate_python(remedies["Open up to f/11"].edit)))
    assert next(line for line in alone.lines if line.code == "frame.depth").verdict is Verdict.SHORT


def test_a_projectors_circle_and_edge_by_similar_triangles() -> None:
    """A beam of 20° at 2 m: 2 · 2 · tan 10° = 70.5 cm; an 8 cm lens set to 2 m has an edge of 4 cm at 3 m."""
    assert circle(2.0, 20.0) == pytest.approx(0.7053, abs=1e-4)
    assert edge(3.0, 2.0, 0.08) == pytest.approx(0.04) and edge(2.0, 2.0, 0.08) == 0.0


def test_a_shape_out_of_focus_is_told_and_focusing_it_helps() -> None:
    data = one_portrait()
    gobo = {"kind": "modifier", "id": "gobo", "name": "Gobo holder", "form": "gobo holder", "width": 0.1, "beam": 20}
    data["gear"].append({**gobo, "efficiency": 0.02, "loss": 1.5, "mount": "three-claw bayonet"})
    plan = data["sets"][0]
    place = {"id": "shape", "role": "background light", "head": "head", "modifier": "gobo", "support": "stand"}
    plan["lights"].append({**place, "x": 2.4, "y": 2.9, "height": 1.6, "focused": 0.8})
    told = line(data, "light.projected")
    assert told is not None and told.verdict is Verdict.SHORT
    throw = float(np.linalg.norm(np.array([2.4, 2.9]) - [0.9, 1.9]))  # to the background's middle, nearly level
    wanted = 100 * edge(throw, 0.8, 0.1) / circle(throw, 20)
    assert told.need == pytest.approx(wanted, rel=0.05)
    plan["lights"][-1]["focused"] = round(throw, 2)
    told = line(data, "light.projected")
    assert told is not None and told.verdict is Verdict.CLEAR


@pytest.mark.parametrize(("shutter", "share"), [(1 / 60, 1.0), (1 / 200, 1.0), (1 / 400, 0.125), (1 / 1600, 0.03125)])
def test_a_flash_that_pulses_on_loses_two_stops_and_then_one_a_halving(shutter: float, share: float) -> None:
    head = Flash(id="h", name="h", high_speed=True)
    assert pulsed(shutter, 1 / 200, head) == pytest.approx(share)
    assert pulsed(shutter, 1 / 200, Flash(id="h", name="h")) == 1.0


def test_high_speed_sync_is_a_verdict_and_costs_light_in_the_ledger() -> None:
    data = one_portrait()
    data["shots"][0]["shutter"] = 1 / 800
    next(g for g in data["gear"] if g["id"] == "cam")["sync_shutter"] = 1 / 200
    told = line(data, "light.sync")
    assert told is not None and told.verdict is Verdict.SHORT
    before = line(data, "light.power_full")
    next(g for g in data["gear"] if g["id"] == "head")["high_speed"] = True
    told, after = line(data, "light.sync"), line(data, "light.power_full")
    assert told is not None and told.verdict is Verdict.CLEAR and "High-speed sync costs about 4.0 stops" in told.reason
    assert before is not None and after is not None and before.margin is not None and after.margin is not None
    assert before.margin - after.margin == pytest.approx(4.0, abs=0.05)


def test_a_coloured_gel_passes_its_colour_and_takes_the_rest() -> None:
    head = Flash(id="h", name="h", guide_number=50, guide_measured=True)
    place = LightPlace(id="l")
    light = Light(place, "l", "l", head, None, None, np.zeros(3), np.array([1.0, 0.0, 0.0]))
    white, blue = emission(light, None, 230), emission(light, Gel(id="g", name="blue", colour="#2040ff"), 230)
    assert isinstance(white, Emission) and isinstance(blue, Emission)
    assert blue.source.flux[2] > 5 * blue.source.flux[0]
    # sRGB: (0.0144, 0.0513, 1.0) by the luminance of red, green and blue is 0.112 of white.
    assert blue.flux / white.flux == pytest.approx(0.112, abs=0.002)
    assert gel_loss(Gel(id="g", name="g", colour="#2040ff"))[0] == pytest.approx(3.16, abs=0.02)
    assert gel_loss(Gel(id="g", name="g", loss=1.0))[0] == 1.0 and gel_loss(Gel(id="g", name="g"))[0] == 0.0


@pytest.mark.parametrize("how", ["white, bounced", "silver, bounced", "reverse with diffuser", "shoot-through"])
def test_an_umbrellas_head_stands_before_what_it_fires_into(how: str) -> None:
    data = one_portrait()
    box = next(g for g in data["gear"] if g["id"] == "box")
    box |= {"form": "umbrella", "umbrella": how, "width": 1.1, "depth": 0.25}
    box.pop("height")
    here = scene(data)
    light = here.lights[0]
    assert light.mount is not None and light.at is not None and light.forward is not None
    ahead = float((light.mount - light.at) @ light.forward)
    assert ahead == pytest.approx(-0.25 if how == "shoot-through" else 0.12 * 1.1)
    head = next(p for t in here.things if t.path == light.path for p in t.parts if p.kind == "head")
    furthest = float(((head.solid - light.at) @ light.forward).max())
    assert (furthest > 0.3) == (how != "shoot-through")


def test_the_two_ways_a_modifiers_light_is_told_agree() -> None:
    """Share of the energy against loss on the axis, on a head whose own reflector has a beam of 100°: the catalogue's
    figures differ by no more than what either is sure of."""
    for item in load().by_kind["modifier"]:
        assert isinstance(item, Modifier) and item.efficiency is not None and item.loss is not None
        place = LightPlace(id="l", head="h", modifier=item.id)
        axes = []
        for head, shape in (
            (Flash(id="h", name="h", energy=200, beam=100), item.changed(loss=None)),
            (Flash(id="h", name="h", dose=200 * 38 * 0.4095, beam=100), item),
        ):
            light = Light(place, "l", "l", head, shape, None, np.zeros(3), np.array([1.0, 0.0, 0.0]))
            got = emission(light, None, 230)
            assert isinstance(got, Emission)
            axes.append(got.axis)
        assert abs(math.log2(axes[0] / axes[1])) < 0.5, item.id


def test_what_is_drawn_before_a_window_takes_its_share_and_its_colour_is_used() -> None:
    data = one_portrait()
    for wall in data["room"]["walls"]:
        wall["finish"] = {"lrv": 70, "colour": "#ffffff"}
    data["room"] |= {"ceiling": {"lrv": 85, "colour": "#ffffff"}, "floor_finish": {"lrv": 30, "colour": "#808080"}}
    next(g for g in data["gear"] if g["id"] == "paper")["reflectance"] = 85
    window = {"id": "w", "wall": "north", "offset": 1, "width": 1.2, "sill": 0.9, "height": 1.1, "daylight": 5000}
    data["shots"][0]["around"] = "daylight"
    data["sets"][0]["lights"] = []
    found = {}
    for cover, own in ((None, None), ("net curtain", None), ("heavy curtain", None), ("net curtain", 0.3)):
        data["room"]["windows"] = [window | {"cover": cover, "lets_in": own}]
        state = lit(scene(data))
        assert isinstance(state, Lit)
        found[cover, own] = luminance(state.beams[0].source.flux)
    bare = found[None, None]
    assert bare == pytest.approx(5000 * 0.65 * 1.32, rel=1e-6)
    assert found["net curtain", None] / bare == pytest.approx(0.6)
    assert found["heavy curtain", None] / bare == pytest.approx(0.01)
    assert found["net curtain", 0.3] / bare == pytest.approx(0.3)
    data["room"]["windows"] = [window | {"kelvin": 11000}]
    state = lit(scene(data))
    assert isinstance(state, Lit) and state.beams[0].kelvin == 11000 and state.beams[0].kelvin_known
