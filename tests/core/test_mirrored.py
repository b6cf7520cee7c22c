"""What shiny things show, against the law of reflection done by hand; tents and cards under and round them."""

import math
from typing import Any

import numpy as np
import pytest
from helpers.products import IN_TENT, TENT, product
from helpers.studios import parse

from evrant.core.base.margins import Margin, Verdict
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.remedies import remedies_of
from evrant.core.light import account
from evrant.core.light.ground import ground_of, laid
from evrant.core.light.lit import Lit, lit
from evrant.core.light.mirrored import Mirrored, family, mirrored, reflections
from evrant.core.space.scene import Scene, scene_of
from evrant.core.space.solids import Points
from evrant.core.space.tents import panels
from evrant.core.studio.gear import Tent

Data = dict[str, Any]
MIRROR: Data = {"shine": "mirror-like"}


def scene(data: Data) -> Scene:
    studio = parse(data)
    found = scene_of(studio, studio.sets[0])
    assert found is not None
    return found


def shown(data: Data) -> tuple[Lit, Mirrored]:
    state = lit(scene(data))
    assert isinstance(state, Lit)
    found = mirrored(state)
    assert found is not None
    return state, found


def line(data: Data, code: str) -> Margin | None:
    return next((m for m in ledger_of(parse(data)).lines if m.code == code), None)


def area(ring: Points) -> float:
    return float(np.linalg.norm(np.cross(ring - ring[0], np.roll(ring, -1, axis=0) - ring[0]).sum(axis=0)) / 2)


# --- the law of reflection ---------------------------------------------------------------------------


def test_a_ball_turns_its_rays_by_twice_the_angle_of_its_surface() -> None:
    here = scene(product(shape="sphere", **MIRROR))
    found = reflections(here)
    assert found is not None and here.eye is not None
    picture, points, normals, away = found
    centre = np.array([2.0, 1.9, 0.78])
    assert np.linalg.norm(points - centre, axis=1) == pytest.approx(0.03, abs=2e-5)
    assert normals == pytest.approx((points - centre) / 0.03, abs=2e-3)
    back = here.eye - points
    back /= np.linalg.norm(back, axis=1, keepdims=True)
    # A ray that meets a ball at radius r of R leaves at twice the angle asin(r / R) from where it came.
    turn = np.degrees(np.arccos(np.clip((back * away).sum(axis=1), -1, 1)))
    slope = np.degrees(np.arccos(np.clip((back * normals).sum(axis=1), -1, 1)))
    assert turn == pytest.approx(2 * slope, abs=0.05)
    across = np.linalg.norm(points - centre - ((points - centre) @ (here.eye - centre))[:, None]
                            * (here.eye - centre) / np.linalg.norm(here.eye - centre) ** 2, axis=1)  # fmt: skip
    middle = across < 0.01
    assert turn[middle] == pytest.approx(2 * np.degrees(np.arcsin(across[middle] / 0.03)), rel=0.12)
    assert picture.sum() == len(points) > 500


def test_a_flat_face_shows_a_card_as_large_as_the_eye_behind_it_would_see_it() -> None:
    """Against lines from the mirrored eye through points of the face, counted where they meet the card."""
    card = {"kind": "board", "id": "c", "name": "Card", "surface": "white", "width": 0.3, "height": 0.2}
    place = {"id": "c", "item": "c", "x": 2.3, "y": 2.3, "turn": -45, "height": 0.76}
    data = product((card,), (place,), shape="box", **MIRROR)
    data["shots"][0]["angle"] = 0.0
    data["sets"][0]["mark"]["facing"] = 22.0
    here = scene(data)
    picture = reflections(here)
    assert here.eye is not None and picture is not None
    turn = math.radians(22.0)
    normal, side = np.array([math.cos(turn), math.sin(turn), 0.0]), np.array([-math.sin(turn), math.cos(turn), 0.0])
    middle = np.array([2.0, 1.9, 0.78]) + 0.03 * normal
    behind = here.eye - 2 * float((here.eye - middle) @ normal) * normal
    u, v = np.meshgrid(np.linspace(-0.0299, 0.0299, 200), np.linspace(-0.0299, 0.0299, 200))
    face = middle + u.reshape(-1, 1) * side + v.reshape(-1, 1) * np.array([0.0, 0.0, 1.0])
    rays = face - behind
    way, spot = np.array([math.sqrt(0.5), math.sqrt(0.5), 0.0]), np.array([2.3, 2.3, 0.86])
    hits = behind + rays * (((spot - behind) @ way) / (rays @ way))[:, None] - spot
    inside = (np.abs(hits @ np.array([-way[1], way[0], 0.0])) < 0.15) & (np.abs(hits[:, 2]) < 0.1)
    of_front = float(((picture[2] @ normal) > 0.9).mean())
    wanted = float(inside.mean()) * of_front
    assert wanted > 0.2 and dict(shown(data)[1].shares)["card"] == pytest.approx(wanted, abs=0.03)


def test_a_face_square_to_the_lens_shows_the_camera_and_a_turned_one_does_not() -> None:
    data = product(shape="box", **MIRROR)
    data["shots"][0]["angle"] = 0.0
    _, found = shown(data)
    assert found.camera > 0.5
    told = line(data, "light.mirrored_camera")
    assert told is not None and told.verdict is Verdict.SHORT and "mirrors the camera" in told.sentence
    data["sets"][0]["mark"]["facing"] = 25.0
    assert shown(data)[1].camera == 0.0
    told = line(data, "light.mirrored_camera")
    assert told is not None and told.verdict is Verdict.CLEAR


def test_satin_softens_what_a_mirror_shows() -> None:
    sharp, soft = (shown(product(shape="sphere", shine=shine))[1] for shine in ("mirror-like", "satin"))
    steps = [float(np.nanmean(np.abs(np.diff(found.picture, axis=1)))) for found in (sharp, soft)]
    assert steps[0] > 1.1 * steps[1]
    assert np.nanmean(sharp.picture) == pytest.approx(np.nanmean(soft.picture), rel=0.35)


def test_a_matt_thing_and_a_person_have_no_such_lines() -> None:
    assert line(product(shape="sphere"), "light.mirrored") is None
    state = lit(scene(product(shape="sphere")))
    assert isinstance(state, Lit) and mirrored(state) is None


@pytest.mark.parametrize("shape", ["box", "cylinder", "sphere", "ring"])
def test_every_shape_shows_something_of_every_kind_of_place(shape: str) -> None:
    _, found = shown(product(shape=shape, **MIRROR))
    assert sum(share for _, share in found.shares) == pytest.approx(1.0)
    assert found.shares[0][0] != "nothing" and np.isfinite(found.picture[~np.isnan(found.picture)]).all()


def test_the_regions_are_one_for_each_flat_surface_and_inside_the_room() -> None:
    data = product(shape="box", **MIRROR)
    data["sets"][0]["mark"]["facing"] = 40.0
    here = scene(data)
    regions = family(here, 0.8)
    assert here.walls is not None and regions
    assert all(here.walls.contains(region * 0.999 + 0.001 * region.mean(axis=0)).all() for region in regions)
    assert family(scene(product(shape="sphere", **MIRROR)), 0.8) == ()


def test_a_glossy_black_sheet_is_seen_on_purpose_and_mirrors_the_light() -> None:
    sheet = {
        "kind": "board",
        "id": "b",
        "name": "Black acrylic",
        "surface": "glossy black",
        "width": 0.6,
        "height": 0.4,
    }
    place = {"id": "b", "item": "b", "x": 2.0, "y": 1.9, "tilt": 90, "height": 0.75}
    data = product((sheet,), (place,), lights=2, shape="cylinder", **MIRROR)
    data["shots"][0]["tone"] = "black"
    lines = ledger_of(parse(data)).lines
    assert not [m for m in lines if m.code == "frame.intrusion" and "acrylic" in m.title.lower()]
    told = next(m for m in lines if m.code == "light.mirrored")
    assert "out of the dark" in told.sentence and told.have is not None and told.have > 3


# --- tents -------------------------------------------------------------------------------------------


def test_a_tents_walls_leave_out_its_hole_and_a_cones_are_as_wide_as_it_is() -> None:
    box = panels(Tent(id="t", name="T", width=0.4, height=0.3, depth=0.5, opening=0.1), np.zeros(2), 0, 0.7, 0)
    front = sum(area(p.outline) for p in box if p.wall == "front")
    assert front == pytest.approx(0.4 * 0.297 - 0.1**2, rel=1e-3)
    assert {p.wall for p in box} == {"front", "back", "side", "floor"}
    cone = panels(Tent(id="t", name="T", form="cone", width=0.2, height=0.18, opening=0.07), np.zeros(2), 0, 0, 0)
    slant = math.hypot(0.18 - 0.003, 0.065)
    assert sum(area(p.outline) for p in cone) == pytest.approx(math.pi * (0.1 + 0.035) * slant, rel=0.04)
    assert max(p.outline[:, 2].max() for p in cone) == pytest.approx(0.18, abs=0.004)


def test_one_lamp_leaves_the_far_half_of_a_tent_dark_and_two_do_not() -> None:
    spread = []
    for lights in (1, 2):
        state = lit(scene(product((TENT,), (IN_TENT,), lights, shape="sphere", **MIRROR)))
        assert isinstance(state, Lit)
        cube = np.einsum("rsb,s->r", state.whole[state.rows.at["cube"]], state.doses)
        spread.append(abs(math.log2(cube[2] / cube[3])))
    assert spread[0] > 1.5 > 0.8 > spread[1]


def test_a_tent_takes_the_dark_room_out_of_a_ball() -> None:
    bare, round_it = product(shape="sphere", **MIRROR), product((TENT,), (IN_TENT,), 2, shape="sphere", **MIRROR)
    for data in (bare, round_it):
        for wall in data["room"]["walls"]:
            wall["finish"]["lrv"] = 10
    assert shown(bare)[1].dark > 0.4
    found = shown(round_it)[1]
    assert found.dark < 0.1 and dict(found.shares)["tent"] > 0.9
    ground = ground_of(scene(round_it))
    assert ground is not None and ground.name == "tent" and ground.share == pytest.approx(0.4)


def test_a_dark_ball_is_helped_by_a_tent_and_the_gain_is_the_ledgers_own() -> None:
    data = product(shape="sphere", **MIRROR)
    for wall in data["room"]["walls"]:
        wall["finish"]["lrv"] = 8
    next(item for item in data["gear"] if item["id"] == "paper")["reflectance"] = 15
    studio = parse(data)
    ledger = ledger_of(studio)
    told = next(m for m in ledger.lines if m.code == "light.mirrored")
    assert told.verdict is Verdict.SHORT and "mirrors the dark" in told.sentence
    found = {remedy.label: remedy for remedy in remedies_of(studio, told, ledger)}
    assert found["Put it in a tent of tracing paper"].verdict is Verdict.CLEAR


def test_a_thing_too_large_for_its_tent_is_told() -> None:
    fits = line(product((TENT,), (IN_TENT,), shape="sphere"), "fit.tent")
    assert fits is not None and fits.margin == pytest.approx(0.2 - 0.03 - 0.002, abs=2e-3)
    large = product((TENT,), (IN_TENT,), shape="sphere", width=0.42)
    told = line(large, "fit.tent")
    assert told is not None and told.verdict is Verdict.SHORT and told.margin is not None and told.margin < 0


# --- flat lays ---------------------------------------------------------------------------------------


def flat_lay(surface: str | None, **shot: Any) -> Data:
    card = {
        "kind": "board",
        "id": "c",
        "name": "Foam board",
        "surface": surface or "white",
        "width": 0.6,
        "height": 0.5,
    }
    place = {"id": "c", "item": "c", "x": 2.0, "y": 1.9, "tilt": 90, "height": 0.75}
    data = product((card,) if surface else (), (place,) if surface else (), shape="box", height=0.02, base=0.77)
    data["shots"][0] |= {"angle": 90.0, **shot}
    data["sets"][0]["background"] = {}
    data["sets"][0]["mark"]["facing"] = 0.0
    data["sets"][0]["camera"] |= {"x": 2.0, "y": 1.9}
    return data


@pytest.mark.parametrize(
    ("surface", "share", "name"), [("white", 0.85, "foam board"), ("black", 0.05, "foam board"), (None, 0.5, "table")]
)
def test_what_a_flat_lay_lies_on_is_its_background(surface: str | None, share: float, name: str) -> None:
    here = scene(flat_lay(surface))
    ground = ground_of(here)
    assert ground is not None and ground.name == name and ground.share == pytest.approx(share)
    assert (laid(here) is not None) == (surface is not None)
    # 25 points over the frame, but for those that the thing in its middle hides.
    half = 0.03
    beside = (np.abs(ground.points[:, 0] - 2.0) > half) | (np.abs(ground.points[:, 1] - 1.9) > half)
    assert beside.all() and 15 <= len(ground.points) < 25
    lines = ledger_of(parse(flat_lay(surface, tone="black" if surface == "black" else "white"))).lines
    assert not [m for m in lines if m.code == "frame.intrusion" and "board" in m.title.lower()]
    told = next(m for m in lines if m.code == "light.background_tone")
    assert told.have is not None and (surface is None or told.verdict is not Verdict.UNKNOWN)


def test_the_tone_of_a_flat_lay_is_its_reflectance_times_its_light() -> None:
    state = lit(scene(flat_lay("white", tone="white")))
    assert isinstance(state, Lit)
    ground = account.ground(state)
    assert ground is not None
    rows = np.einsum(
        "rsb,s,b->r", state.whole[state.rows.at["ground"]], state.doses, np.array([0.2126, 0.7152, 0.0722])
    )
    assert ground.mean == pytest.approx(rows.mean() * 0.85 / state.exposed, rel=1e-6)


def test_the_tone_of_a_flat_lay_is_as_unsure_as_what_it_lies_on() -> None:
    """A table's top of which nobody told the reflectance: 0.5 ± 0.1, 0.29 stop; a backdrop elsewhere counts nothing."""
    told = line(flat_lay(None, tone="white"), "light.background_tone")
    known = line(flat_lay("white", tone="white"), "light.background_tone")
    assert told is not None and known is not None and told.uncertainty is not None and known.uncertainty is not None
    more = told.uncertainty**2 - known.uncertainty**2
    assert more == pytest.approx((0.1 / 0.5 / math.log(2)) ** 2 - (0.03 / 0.85 / math.log(2)) ** 2, rel=1e-3)
