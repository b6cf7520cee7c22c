"""Worked examples of the rules about sets: flare, shadow, scrim, sight, zones, holders and reach.

Each value is worked by hand from the formula named in the rule's basis; the formulas themselves are plane
trigonometry and similar triangles. Tolerances are trade practice, shown as such in the app.
"""

import copy
import math
from typing import Any

import numpy as np
import pytest
from helpers.studios import item, line, one_portrait, parse
from hypothesis import given, settings
from hypothesis import strategies as st

from evrant.core.base.margins import Verdict
from evrant.core.base.tables.bodies import REACH_UP
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.rules.set.flare import GRIDDED, HALF_BEAM, half_beam
from evrant.core.place.patterns import PATTERNS, apart, direction
from evrant.core.space.scene import scene_of
from evrant.core.studio.gear import Modifier


def rim(x: float, y: float, height: float, **gear: Any) -> dict[str, Any]:
    data = one_portrait()
    data["gear"].append(copy.deepcopy(item(data, "box")) | {"id": "rim-box", **gear})
    data["sets"][0]["lights"].append(
        {
            "id": "rim",
            "role": "rim",
            "head": "head",
            "modifier": "rim-box",
            "support": "stand",
            "x": x,
            "y": y,
            "height": height,
        }
    )
    return data


# --- flare --------------------------------------------------------------------------------------


def test_flare_is_the_angle_from_the_lights_axis_to_the_lens() -> None:
    """A rim 0.65 m behind and 0.55 m beside the mark at (2.0, 1.9): axis to the face, line to the lens, by cosine."""
    data = rim(1.35, 2.45, 1.6)
    studio = parse(data)
    scene = scene_of(studio, studio.sets[0])
    assert scene is not None and scene.eye is not None and scene.face is not None
    at = np.array([1.35, 2.45, 1.6])
    axis, sight = scene.face - at, scene.eye - at
    angle = math.degrees(math.acos(float(axis @ sight / np.linalg.norm(axis) / np.linalg.norm(sight))))
    found = line(studio, "frame.flare", "lights/rim")
    off_lens = (
        math.degrees(math.acos(float(-sight @ scene.view.forward / np.linalg.norm(sight)))) if scene.view else 0.0
    )
    hood = math.degrees(math.atan(math.hypot(0.024, 0.036) / 2 / scene.view.image)) + 20 if scene.view else 0.0
    assert found.margin == pytest.approx(max(angle - HALF_BEAM["softbox"], off_lens - hood), abs=1e-6)
    assert found.verdict is Verdict.SHORT


def test_a_grid_or_a_beam_of_its_own_narrows_a_light() -> None:
    plain = Modifier(id="m", name="m", form="softbox")
    assert half_beam(plain) == HALF_BEAM["softbox"]
    assert half_beam(plain.changed(grid=True)) == GRIDDED
    assert half_beam(plain.changed(beam=30.0)) == 15.0
    assert half_beam(None) > half_beam(plain) > half_beam(Modifier(id="s", name="s", form="snoot"))


def test_a_card_between_light_and_lens_flags_it_off() -> None:
    data = rim(1.35, 2.45, 1.6)
    assert [m for m in ledger_of(parse(data)).lines if m.code == "frame.flare" and m.about[0].endswith("rim")]
    data["gear"].append(
        {"kind": "board", "id": "flag", "name": "flag", "surface": "black", "width": 0.6, "height": 0.9}
    )
    data["sets"][0]["props"] = [{"id": "flag", "item": "flag", "x": 1.6, "y": 2.37, "turn": 90.0, "height": 1.1}]
    assert not [m for m in ledger_of(parse(data)).lines if m.code == "frame.flare" and m.about[0].endswith("rim")]


# --- shadows --------------------------------------------------------------------------------------


def key_at(x: float, y: float, height: float, **shot: Any) -> dict[str, Any]:
    data = one_portrait()
    data["sets"][0]["lights"][0] |= {"x": x, "y": y, "height": height}
    data["shots"][0] |= shot
    return data


def test_a_shadow_core_dissolves_by_similar_triangles() -> None:
    """On the lens axis nothing falls outside the frame, so the core decides: w (1 + b/D) − W b/D.

    Face at x 2.0, background at 0.9, light at 3.3: D = 1.3, b = 1.1 along the axis (level light); head 0.12 of the
    frame's 1.02 m; source 0.6 m: 0.1224 (1 + 0.8462) − 0.6 · 0.8462 = −0.2817, so 28 cm to spare.
    """
    data = key_at(3.3, 1.9, 0.0)
    studio = parse(data)
    scene = scene_of(studio, studio.sets[0])
    assert scene is not None and scene.face is not None
    data["sets"][0]["lights"][0]["height"] = float(scene.face[2])
    head, share = 0.12 * 1.7 * 0.60, 1.1 / 1.3
    worked = -(head * (1 + share) - 0.6 * share)
    assert line(parse(data), "light.shadow").margin == pytest.approx(worked, abs=1e-6)
    item(data, "box").update({"width": 0.05, "height": 0.05})
    hard = line(parse(data), "light.shadow")
    assert hard.verdict is Verdict.SHORT and hard.margin == pytest.approx(
        -(head * (1 + share) - 0.05 * share), abs=1e-6
    )


@settings(max_examples=30, deadline=None)
@given(st.floats(0.1, 1.2), st.floats(0.0, 0.8))
def test_a_larger_source_never_makes_a_shadow_worse(size: float, more: float) -> None:
    data = key_at(3.0, 2.4, 2.0)
    item(data, "box").update({"width": size, "height": size})
    before = line(parse(data), "light.shadow").margin or 0.0
    item(data, "box").update({"width": size + more, "height": size + more})
    assert (line(parse(data), "light.shadow").margin or 0.0) >= before - 1e-9


# --- scrims ---------------------------------------------------------------------------------------


def test_a_scrim_square_to_the_light_is_crossed_where_triangles_say() -> None:
    """Light at y 3.7, scrim at y 2.8, background corner rays: x on the scrim by proportion of the y-distances."""
    data = one_portrait()
    data["gear"].append(
        {"kind": "board", "id": "scrim", "name": "scrim", "surface": "translucent", "width": 2.4, "height": 2.4}
    )
    data["sets"][0]["lights"][0] |= {"x": 2.0, "y": 3.7, "height": 1.6}
    data["sets"][0]["props"] = [{"id": "scrim", "item": "scrim", "x": 1.6, "y": 2.8, "turn": 0.0, "height": 0.4}]
    studio = parse(data)
    scene = scene_of(studio, studio.sets[0])
    assert scene is not None and scene.view is not None
    rays = scene.view.rays()
    corners = scene.view.eye + rays * ((scene.view.eye[0] - 0.9) / -rays[:, 0])[:, None]
    share = (3.7 - 2.8) / (3.7 - corners[:, 1])
    x = 2.0 + (corners[:, 0] - 2.0) * share
    z = 1.6 + (corners[:, 2] - 1.6) * share
    worked = min((1.2 - np.abs(x - 1.6)).min(), (1.2 - np.abs(z - 1.6)).min())
    assert line(studio, "light.scrim", "background").margin == pytest.approx(float(worked), abs=1e-6)


# --- patterns -------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("one", "other", "angle"),
    [((0, 0), (90, 0), 90.0), ((45, 45), (-45, 45), 60.0), ((0, 90), (123, 0), 90.0), ((30, 0), (30, 0), 0.0)],
)
def test_angles_between_directions(one: tuple[float, float], other: tuple[float, float], angle: float) -> None:
    """By hand: cos = cos e₁ cos e₂ cos Δ + sin e₁ sin e₂; for 45° up and 90° apart 0 + ½, so 60°."""
    assert apart(direction(*one), direction(*other)) == pytest.approx(angle, abs=1e-4)


def test_patterns_lie_where_the_trade_puts_them() -> None:
    """Common practice, no source: loop 30–45° round, Rembrandt about 45/45, split 90°, butterfly in front and high."""
    key = {name: recipe.beams[0] for name, recipe in PATTERNS.items() if recipe.beams}
    assert 30 <= key["loop"].round <= 45 and abs(key["Rembrandt"].round - 45) <= 5 and key["Rembrandt"].up == 45
    assert key["split"].round == 90 and key["butterfly"].round == 0 and key["butterfly"].up >= 35
    assert [beam.up < 0 for beam in PATTERNS["clamshell"].beams] == [False, True]
    assert all(abs(beam.round) > 120 for beam in PATTERNS["rim pair"].beams)


# --- holders, reach, floors ---------------------------------------------------------------------------


def test_reach_is_a_share_of_stature_and_the_step() -> None:
    data = one_portrait()
    item(data, "stands").update({"system": "floor-to-ceiling poles", "min_height": 2.1, "max_height": 3.3})
    data["brief"] |= {"setter": 1.70, "step": 0.30}
    found = line(parse(data), "fit.reach")
    assert found.need == pytest.approx(2.4 + 0.15) and found.have == pytest.approx(REACH_UP * 1.70 + 0.30)
    assert found.safety and "never a stool" in found.reason


def test_brackets_must_be_near_their_wall() -> None:
    """The roll hangs 0.9 m off the west wall; brackets that keep 15 cm and bridge 25 more are 50 cm short."""
    data = one_portrait()
    item(data, "stands").update({"system": "wall brackets", "off_wall": 0.15})
    found = line(parse(data), "support.holder_place")
    assert found.need == pytest.approx(0.9) and found.have == pytest.approx(0.40)
    data["sets"][0]["background"]["x"] = 0.2
    assert line(parse(data), "support.holder_place").margin == pytest.approx(0.20)


@pytest.mark.parametrize(
    ("tenure", "verdict"),
    [("owned", Verdict.CLEAR), ("rented, small holes allowed", Verdict.TIGHT), ("no drilling", Verdict.SHORT)],
)
def test_holes_by_tenancy(tenure: str, verdict: Verdict) -> None:
    data = one_portrait()
    item(data, "stands").update({"system": "ceiling brackets", "off_wall": 0.3})
    data["brief"]["tenure"] = tenure
    assert line(parse(data), "support.holder_holes").verdict is verdict


@settings(max_examples=20, deadline=None)
@given(st.floats(0.2, 4.0), st.floats(0.2, 3.2), st.floats(0.0, 0.5))
def test_more_clearance_round_a_zone_never_helps(x: float, y: float, free: float) -> None:
    data = one_portrait()
    data["room"]["zones"] = [{"id": "z", "name": "seat", "x": x, "y": y, "length": 0.6, "width": 0.6}]
    before = line(parse(data), "fit.zone").margin or 0.0
    data["room"]["zones"][0]["clearance"] = free
    assert (line(parse(data), "fit.zone").margin or 0.0) <= before + 1e-6


def test_a_lower_slope_never_helps() -> None:
    spare = []
    for low in (2.4, 2.0, 1.6, 1.2):
        data = one_portrait()
        data["room"]["slopes"] = [{"id": "r", "wall": "north", "low": low, "run": 2.0}]
        spare.append(line(parse(data), "fit.ceiling").margin or 0.0)
    assert spare == sorted(spare, reverse=True) and spare[0] > 0 > spare[-1]


def test_headroom_under_a_slope_is_the_height_over_the_head() -> None:
    """Standing 1.70 m, the mark 1.9 m from the south wall whose slope rises from 1.2 m to 2.8 m over 3 m: over the
    nearest point of the head, about 8 cm nearer, 1.2 + 1.6 · 1.82 / 3 = 2.17 m; 47 cm to spare."""
    data = one_portrait()
    data["room"]["slopes"] = [{"id": "r", "wall": "south", "low": 1.2, "run": 3.0}]
    found = line(parse(data), "fit.headroom", "mark")
    assert found.margin == pytest.approx(0.47, abs=0.06)
    assert found.have == pytest.approx(1.2 + 1.6 / 3 * 1.9, abs=0.1)
