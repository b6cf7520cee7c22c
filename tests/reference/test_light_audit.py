"""Figures that independent calculations found off: each against its own formula, integral or simulation."""

import math
from typing import Any

import numpy as np
import pytest
from helpers.studios import item, one_portrait, packed, parse
from scipy.integrate import quad

from evrant.core.base.estimate import Estimate
from evrant.core.base.margins import Basis, Line, Margin, Verdict, judge
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.rules.light.sources import flicker_of
from evrant.core.light import photometry as ph
from evrant.core.light import spread
from evrant.core.light.emission import Emission, emission
from evrant.core.light.lit import Lit, lit
from evrant.core.space.scene import Scene, scene_of

Data = dict[str, Any]


def scene_from(data: Data) -> Scene:
    studio = parse(data)
    found = scene_of(studio, studio.sets[0])
    assert found is not None
    return found


def state_of(data: Data) -> Lit:
    state = lit(scene_from(data))
    assert isinstance(state, Lit)
    return state


def line(data: Data, code: str) -> Margin:
    return next(m for m in ledger_of(parse(data)).lines if m.code == code)


# --- grids -----------------------------------------------------------------------------------------------


@pytest.mark.parametrize("cut", [20.0, 30.0, 40.0, 60.0])
def test_a_grid_built_in_makes_no_light(cut: float) -> None:
    """The loss of a modifier is told with all that belongs to it: on the axis it is what is left, grid or no grid."""
    data = one_portrait()
    strip = {"kind": "modifier", "id": "strip", "name": "strip", "form": "strip box", "loss": 2.9, "efficiency": 0.22}
    size = {"width": 0.3, "height": 1.2, "depth": 0.3, "grid_angle": cut}
    data["gear"].append(packed({**strip, **size, "grid": True}))
    data["sets"][0]["lights"][0]["modifier"] = "strip"
    found = emission(scene_from(data).lights[0], None, 230.0)
    assert isinstance(found, Emission)
    bare = ph.intensity_from_guide(item(data, "head")["guide_number"]) * 2**ph.GUIDE_CLAIM
    assert found.axis == pytest.approx(bare * 2**-2.9, rel=1e-9)


# --- narrow beams ----------------------------------------------------------------------------------------


@pytest.mark.parametrize("width", [5.0, 8.0, 12.0, 20.0, 40.0, 65.0, 110.0])
def test_the_axis_of_a_beam_against_its_integral(width: float) -> None:
    """cosⁿ with half its strength at half the width, integrated over the hemisphere: I₀ = (n + 1) / 2π per lumen."""
    n = math.log(0.5) / math.log(math.cos(math.radians(width / 2)))
    flux, _ = quad(lambda a: 2 * math.pi * math.cos(a) ** n * math.sin(a), 0, math.pi / 2, limit=500)
    assert 1 / flux == pytest.approx((n + 1) / (2 * math.pi), rel=1e-6)
    assert spread.axis_of(spread.beam(width)) == pytest.approx(1 / flux, rel=0.01)


# --- near lenses -----------------------------------------------------------------------------------------


@pytest.mark.parametrize(("m", "stops"), [(0.22, 0.57), (0.5, 1.17), (1.0, 2.0)])
def test_a_close_lens_asks_for_more_light(m: float, stops: float) -> None:
    """Bellows factor (1 + m)², any handbook of close-up photography; 36 thousandths of a stop less, for meters allow
    for a lens at 80 focal lengths."""
    assert math.log2(ph.close_up(m)) == pytest.approx(2 * math.log2(1 + m) - 2 * math.log2(80 / 79), abs=1e-9)
    assert math.log2(ph.close_up(m)) == pytest.approx(stops, abs=0.04)
    assert ph.close_up(1 / 79) == pytest.approx(1.0) and ph.close_up(0.001) == 1.0


def test_the_exposure_asked_for_knows_how_near_the_lens_is() -> None:
    data = one_portrait()
    scene = scene_from(data)
    assert scene.distance is not None and scene.focal is not None
    m = scene.focal.value / (scene.distance - scene.focal.value)
    state = state_of(data)
    assert state.needed == pytest.approx(340 * 64 / 100 * ((1 + m) * 79 / 80) ** 2)


# --- flicker ---------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    "shutter", [1 / 1000, 1 / 250, 1 / 125, 1 / 100, 1 / 96, 1 / 60, 1 / 50, 1 / 48, 1 / 30, 1 / 24]
)
@pytest.mark.parametrize("depth", [0.15, 0.3, 1.0])
def test_flicker_against_frames_taken_at_every_phase(shutter: float, depth: float) -> None:
    times = (np.arange(4000) + 0.5) / 4000 * shutter
    phases = np.linspace(0, 0.01, 720, endpoint=False)
    frames = (1 + depth * np.cos(2 * np.pi * 100 * (times[None, :] + phases[:, None]))).mean(axis=1)
    seen = 100 * (frames.max() - frames.min()) / frames.max()
    assert flicker_of(shutter, 50, depth) == pytest.approx(seen, abs=0.05)


def film(country: str, shutter: float) -> Data:
    data = one_portrait()
    data["brief"]["country"] = country
    data["shots"][0] |= {"shutter": shutter, "capture": "video", "frames": "25"}
    data["gear"] = [g for g in data["gear"] if g["id"] != "head"]
    lamp = {"kind": "lamp", "id": "head", "name": "lamp", "status": "owned", "supply": "mains", "technology": "LED"}
    data["gear"].append(packed({**lamp, "form": "spot", "lumens": 9000, "flicker": "with the mains"}))
    return data


def test_a_country_of_two_mains_is_judged_by_the_worse() -> None:
    assert line(film("DE", 1 / 50), "light.flicker").verdict is Verdict.CLEAR
    found = line(film("JP", 1 / 50), "light.flicker")
    assert found.verdict is Verdict.SHORT and "60 Hz" in found.reason
    assert line(film("JP", 1 / 20), "light.flicker").verdict is Verdict.CLEAR
    assert line(film("US", 1 / 60), "light.flicker").verdict is Verdict.CLEAR


# --- freezing --------------------------------------------------------------------------------------------


def test_a_pulse_that_dies_away_and_one_that_is_cut_off() -> None:
    """Shares of the light's time above a half and above a tenth of its peak, by simulation of both pulses."""
    t = np.linspace(0, 10, 200_001)
    fading = np.exp(-t)
    assert (fading > 0.5).sum() / (fading > 0.1).sum() == pytest.approx(1 / 3, abs=0.04)
    cut = np.where(t < 0.2, np.exp(-t), 0.0)
    assert (cut > 0.5).sum() / (cut > 0.1).sum() == pytest.approx(1.0)

    def smear(**head: Any) -> float:
        data = one_portrait()
        data["shots"][0]["movement"] = 3.0
        data["sets"][0]["lights"][0]["power"] = 1 / 8
        item(data, "head").update(head)
        return line(data, "light.freeze").need or 0.0

    plain = smear(duration=1 / 1000)
    assert plain == pytest.approx(3.0 / 1000 / 3)
    cut_off = smear(duration=1 / 1000, lowest_duration=1 / 8000, lowest_power=1 / 64)
    at_power = (1 / 1000) * (1 / 8) ** 0.5
    assert cut_off == pytest.approx(3.0 * at_power)


# --- colour of lamps -------------------------------------------------------------------------------------


@pytest.mark.parametrize(("kelvin", "short"), [(2700, True), (5400, False), (None, True)])
def test_kelvin_entered_is_kelvin_used(kelvin: float | None, short: bool) -> None:
    data = one_portrait()
    data["shots"][0] |= {"around": "room lamps on", "shutter": 0.05, "iso": 100}
    lamp = {"id": "lamp", "name": "ceiling lamp", "kind": "lamp", "x": 2.2, "y": 1.8, "length": 0.3, "width": 0.3}
    data["room"]["boxes"] = [{**lamp, "base": 2.7, "height": 0.1, "lumens": 90_000, "kelvin": kelvin}]
    for wall in data["room"]["walls"]:
        wall["finish"] = {"lrv": 70, "colour": "#ffffff"}
    data["room"] |= {"floor": "wood", "ceiling": {"lrv": 85, "colour": "#ffffff"}}
    found = line(data, "light.mixed")
    gap = abs(1e6 / (kelvin or 3000) - 1e6 / 5500)
    assert found.need == pytest.approx(gap, abs=1e-6)
    assert (found.verdict is Verdict.SHORT) is short


# --- what is only rounding, and what is absurd -----------------------------------------------------------


def test_thirty_of_thirty_centimetres_is_enough() -> None:
    some = Line("fit.some", "Some", "m", Basis("a", "b", "computed"), asks="?", step="set")
    spare = (0.1 + 0.2) - 0.3 - 1e-16
    found = judge(some, ("sets/s",), Estimate(-abs(spare), ()), need=0.3, have=0.3, clear="c", short="s", reason="")
    assert found.verdict is not Verdict.SHORT and found.margin == 0.0
    less = judge(some, ("sets/s",), Estimate(-1e-6, ()), need=0.3, have=0.3, clear="c", short="s", reason="")
    assert less.verdict is Verdict.SHORT


@pytest.mark.parametrize("turn", [0, 30, 60, 85, 90, 120, 170])
def test_a_scrim_that_no_ray_crosses_misses_by_a_length_of_the_room(turn: float) -> None:
    data = one_portrait()
    data["gear"].append(
        packed({"kind": "board", "id": "net", "name": "scrim", "surface": "translucent", "width": 1.2, "height": 1.8})
    )
    key = data["sets"][0]["lights"][0]
    mark = data["sets"][0]["mark"]
    middle = {"x": (key["x"] + mark["x"]) / 2, "y": (key["y"] + mark["y"]) / 2}
    place = {"id": "net", "item": "net", **middle, "height": 0.6, "turn": turn}
    data["sets"][0]["props"] = [place]
    found = [m for m in ledger_of(parse(data)).lines if m.code == "light.scrim"]
    assert found and all(m.margin is not None and abs(m.margin) < 6.5 for m in found)


def test_the_far_side_brighter_is_said_as_such() -> None:
    data = one_portrait()
    data["shots"][0]["contrast"] = "flat"
    item(data, "paper")["reflectance"] = 36
    for wall in data["room"]["walls"]:
        wall["finish"] = {"lrv": 80, "colour": "#ffffff"}
    data["room"] |= {"floor": "wood", "ceiling": {"lrv": 85, "colour": "#ffffff"}}
    fill = {"id": "fill", "role": "fill", "head": "head", "modifier": "box", "support": "stand", "power": 1.0}
    data["sets"][0]["lights"][0]["power"] = 1 / 32
    data["sets"][0]["lights"].append({**fill, "x": 2.2, "y": 0.9, "height": 1.7})
    found = line(data, "light.contrast")
    assert "brighter" in found.reason and "(1:0." not in found.reason
    assert found.verdict is Verdict.SHORT and "key's side" in found.sentence, (
        "flat is not what it is, whoever is darker"
    )


# --- modelling lamps ------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("watts", "per_watt"), [(20, 90), (150, 16)])
def test_modelling_lamps_count_as_room_light(watts: float, per_watt: float) -> None:
    """Through the same modifier: lumens over the flash's lumen-seconds, for the shutter's time."""
    data = one_portrait()
    item(data, "head")["modelling"] = watts
    data["shots"][0]["shutter"] = 0.5
    found = line(data, "light.ambient")
    state = state_of(data)
    share = watts * per_watt * 0.5 / (200 * 37.5 * float(state.powers[0]))
    assert found.have == pytest.approx(-math.log2(share), abs=1e-6)
    assert "modelling" in found.reason
    item(data, "head").pop("modelling")
    assert line(data, "light.ambient").have == 12.0
