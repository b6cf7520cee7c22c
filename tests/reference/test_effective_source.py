"""Where bounced light comes from, against integrals done here over the surface that the head is turned to."""

import math
from typing import Any

import numpy as np
import pytest
from helpers import radiance
from helpers.studios import item, one_portrait, packed, parse

from evrant.core.base.margins import Verdict
from evrant.core.judge.ledger import ledger_of
from evrant.core.light import account
from evrant.core.light.bounce.polygons import area_of
from evrant.core.light.effective import Effective, effective
from evrant.core.light.emission import Missing
from evrant.core.light.lit import Lit, lit
from evrant.core.light.softness import cone, solid_angle
from evrant.core.light.surroundings import surroundings
from evrant.core.space.scene import scene_of

Data = dict[str, Any]


def white_room(size: float = 5.0, lrv: float = 85) -> Data:
    data = one_portrait()
    data["room"]["footprint"] = {"kind": "rectangle", "length": size, "width": size * 0.8}
    data["room"] |= {"floor": "wood", "ceiling": {"lrv": 85, "colour": "#ffffff"}}
    for wall in data["room"]["walls"]:
        wall["finish"] = {"lrv": lrv, "colour": "#ffffff"}
    item(data, "paper")["reflectance"] = 36
    return data


def aimed(data: Data, aim: tuple[float, float, float], beam: float = 60, **place: float) -> Data:
    """The key with a dish, aimed away from the subject."""
    dish = {"kind": "modifier", "id": "dish", "name": "dish", "form": "reflector dish", "beam": beam, "loss": 0}
    data["gear"].append(packed(dish | {"width": 0.18, "efficiency": 0.7}))
    light = data["sets"][0]["lights"][0]
    light |= {"modifier": "dish", **dict(zip(("aim_x", "aim_y", "aim_height"), aim, strict=True)), **place}
    return data


def state_of(data: Data) -> Lit:
    studio = parse(data)
    scene = scene_of(studio, studio.sets[0])
    assert scene is not None
    state = lit(scene)
    assert isinstance(state, Lit) and scene.face is not None
    return state


def face(state: Lit) -> np.ndarray[Any, Any]:
    assert state.scene.face is not None
    return state.scene.face


def of_wall(state: Lit, wall_y: float, length: float, height: float) -> tuple[np.ndarray[Any, Any], float]:
    """Centre and solid angle of the light that a wall along y = wall_y sends to the face: a fine grid, cosⁿ beam."""
    source, eye = state.beams[0].source, state.scene.face
    assert eye is not None
    n = math.log(0.5) / math.log(math.cos(math.radians(30)))
    x, z = (np.arange(600) + 0.5) / 600 * length, (np.arange(400) + 0.5) / 400 * height
    spots = np.array(np.meshgrid(x, [wall_y], z, indexing="ij")).reshape(3, -1).T
    cell = length / 600 * height / 400
    rays = spots - source.centre
    r = np.linalg.norm(rays, axis=1)
    ahead = np.maximum(rays @ source.forward / r, 0)
    struck = ahead**n * np.abs(rays[:, 1]) / r / r**2
    back = eye - spots
    d = np.linalg.norm(back, axis=1)
    angle = np.abs(back[:, 1]) / d / d**2 * cell
    weight = struck * angle
    return (weight[:, None] * spots).sum(axis=0) / weight.sum(), float(weight.sum() ** 2 / (struck * weight).sum())


@pytest.mark.parametrize(("size", "distance"), [(5.0, 1.2), (5.0, 0.7), (3.4, 0.8), (8.0, 2.0)])
def test_a_head_turned_to_a_wall_comes_from_the_wall(size: float, distance: float) -> None:
    wide = size * 0.8
    x = size * 0.55
    data = aimed(white_room(size), (x, wide, 1.7), x=x, y=wide - distance, height=1.7)
    data["sets"][0]["mark"] = {"x": size * 0.4, "y": wide * 0.475}
    state = state_of(data)
    found = effective(state, 0)
    centre, angle = of_wall(state, wide, size, 2.8)
    assert found.name and "wall" not in found.name.replace("north", "") and found.straight < 0.05
    assert np.linalg.norm(found.centre - centre) < 0.12 * np.linalg.norm(centre - face(state)) + 0.05
    assert found.angle == pytest.approx(angle, rel=0.35)
    assert found.angle > 3 * solid_angle(state.beams[0].source.face, face(state))


def test_a_head_turned_to_the_subject_is_its_own_source() -> None:
    for data in (white_room(), white_room(4.4), one_portrait()):
        state = state_of(data)
        found = effective(state, 0)
        assert found.name == "" and found.source is state.beams[0].source
        assert found.angle == pytest.approx(solid_angle(state.beams[0].source.face, face(state)))


def through_a_sheet() -> Effective:
    data = white_room(lrv=5)
    data["room"]["ceiling"]["lrv"] = 5
    key, mark = data["sets"][0]["lights"][0], data["sets"][0]["mark"]
    key |= {"x": 3.6, "y": 3.4, "height": 1.6}
    key.pop("modifier")
    sheet = {"kind": "board", "id": "sheet", "name": "sheet", "surface": "translucent", "width": 1.2, "height": 1.2}
    data["gear"].append(packed(sheet))
    share = 0.45
    middle = {"x": mark["x"] + (key["x"] - mark["x"]) * share, "y": mark["y"] + (key["y"] - mark["y"]) * share}
    turn = math.degrees(math.atan2(key["y"] - mark["y"], key["x"] - mark["x"])) + 90
    data["sets"][0]["props"] = [{"id": "sheet", "item": "sheet", **middle, "height": 1.0, "turn": turn}]
    return effective(state_of(data), 0)


def test_a_head_behind_a_sheet_comes_from_the_sheet() -> None:
    found = through_a_sheet()
    assert "sheet" in found.name and found.straight < 0.2
    assert math.degrees(cone(found.angle)) > 25, "a sheet of 1.2 m at just over a metre, not a bare bulb"


@pytest.mark.parametrize(("size", "least"), [(3.4, 25), (8.0, 10)])
def test_into_the_corner_softness_and_shadow_go_by_the_corner(size: float, least: float) -> None:
    """In a small white room and, from farther, in a large one: softer than the dish by far, and the shadow is the
    corner's."""
    wide = size * 0.8
    data = aimed(white_room(size), (size, wide, 2.4), x=size - 0.9, y=wide - 0.9, height=1.8)
    data["sets"][0]["mark"] = {"x": size * 0.4, "y": wide * 0.475}
    state = state_of(data)
    figures = account.light_figures(state)[0]
    assert figures.comes_from and figures.soft is not None and figures.soft.size > least
    ledger = ledger_of(parse(data))
    shadow = [m for m in ledger.lines if m.code == "light.shadow"]
    assert all(figures.comes_from in m.reason for m in shadow)
    assert not any(m.verdict is Verdict.SHORT for m in shadow), "a soft corner throws no hard shadow"


def test_what_comes_from_the_wall_adds_up_to_what_is_returned_first() -> None:
    """In a room that returns once and no more, the share that is not straight is all that is returned."""
    data = aimed(white_room(lrv=2), (2.75, 4.0, 1.7), x=2.75, y=2.8, height=1.7)
    data["room"]["ceiling"]["lrv"] = 2
    state = state_of(data)
    row = state.row("face")
    straight, back = (
        float(part[row, 0] @ np.array([0.2126, 0.7152, 0.0722])) for part in (state.direct, state.returned)
    )
    assert effective(state, 0).straight == pytest.approx(straight / (straight + back), abs=0.05)


@pytest.mark.parametrize("aim", [(2.75, 4.0, 1.7), (5.0, 4.0, 2.6), (5.0, 0.9, 1.5)])
def test_the_centre_and_size_are_those_of_the_references_map(aim: tuple[float, float, float]) -> None:
    """Every direction from the face, by what the reference engine sees there of light that met one surface: the mean
    direction of its radiance, and the solid angle of a uniform source of the same peak. Wall, corner and far wall."""
    data = white_room()
    for light in data["sets"][0]["lights"]:
        light |= dict(zip(("aim_x", "aim_y", "aim_height"), aim, strict=True)) | {"x": 3.2, "y": 3.0, "height": 1.7}
    state = state_of(data)
    found = effective(state, 0)
    around = surroundings(state.scene, bodies=False)
    assert not isinstance(around, Missing) and found.name
    source = state.beams[0].source
    text = radiance.scene_text(around.surfaces, [source])
    count = 20_000
    k = np.arange(count) + 0.5
    high, turn = np.arccos(1 - 2 * k / count), math.pi * (1 + math.sqrt(5)) * k
    ways = np.column_stack([np.cos(turn) * np.sin(high), np.sin(turn) * np.sin(high), np.cos(high)])
    seen = radiance.looked_at(text, face(state), ways)
    bright = seen[:, 1]
    bright[bright > 0.5 * source.flux[1] / (math.pi * area_of(source.face))] = 0.0  # the lamp itself
    spots = face(state) + ways * seen[:, 3:]
    mean = (bright[:, None] * spots).sum(axis=0) / bright.sum() - face(state)
    ray = found.centre - face(state)
    off = math.degrees(math.acos(float(mean @ ray) / float(np.linalg.norm(mean) * np.linalg.norm(ray))))
    assert off < 3.0
    whole = float(bright.sum() ** 2 / (bright**2).sum()) * 4 * math.pi / count
    assert found.angle == pytest.approx(whole, rel=0.1)
