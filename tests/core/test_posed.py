"""A shot before any room: framed, what is sharp at each aperture, and the frames its crops ask for."""

import math
import re
from typing import Any

import pytest
from helpers.studios import demo, one_portrait, parse

from evrant.core.base.tables.steps import F_NUMBERS
from evrant.core.space import framing
from evrant.core.space.posed import BODY, LENS, crop_heights, posed, posed_in, sharp_at
from evrant.core.studio.gear import Lens
from evrant.core.studio.presets import PRESETS
from evrant.core.studio.shots import Shot
from evrant.drawing.finder import finder, sharp_strip


def shot_of(**fields: Any) -> Shot:
    person = {"id": "p", "name": "Person", "posture": "standing", "height": 1.7}
    return Shot.model_validate({"id": "s", "name": "Shot", "subjects": [person]} | fields)


@pytest.mark.parametrize("preset", PRESETS, ids=lambda one: one.name)
def test_every_usual_shot_is_framed_and_drawn(preset: Any) -> None:
    """The frame holds what was asked for, in height or in width; the drawing has its four edges to pull."""
    shot = Shot.model_validate({"id": "s", "name": "Shot", **preset.shot})
    scene = posed(shot)
    assert scene.wanted is not None and scene.sensor is not None and scene.focal is not None and scene.distance
    high = framing.frame_at(scene.distance, scene.focal.value, scene.sensor[1].value)
    wide = framing.frame_at(scene.distance, scene.focal.value, scene.sensor[0].value)
    assert high >= scene.wanted.height.value - 1e-4 and wide >= scene.wanted.width - 1e-4
    assert high == pytest.approx(scene.wanted.height.value, rel=1e-3) or wide == pytest.approx(
        scene.wanted.width, rel=1e-3
    )
    drawn = finder(scene, 380.0, 330.0)
    assert drawn.count("frame-grip") == 4 and f'data-height="{high:.5f}"' in drawn and 'class="solid body"' in drawn
    strip, rows = sharp_strip(scene)
    assert "strip-sharp" in strip and len(rows) >= 15


def test_at_the_limits_of_what_is_sharp_a_point_blurs_as_much_as_passes() -> None:
    """By the thin lens alone: 1/f = 1/u + 1/v, the cone from an opening of f/N cut by the sensor (any optics book)."""
    scene = posed(shot_of(crop="head and shoulders", aperture=4.0))
    assert scene.focal is not None and scene.sensor is not None and scene.distance
    f, u = scene.focal.value, scene.distance
    v = 1 / (1 / f - 1 / u)
    passes = 0.030e-3 * math.hypot(*(side.value for side in scene.sensor)) / math.hypot(0.036, 0.024)
    for stop in sharp_at(scene):
        for off in (-stop.before, stop.behind):
            if math.isinf(off):
                continue
            image = 1 / (1 / f - 1 / (u + off))
            blur = f / stop.f_number * abs(image - v) / image
            assert blur == pytest.approx(passes, rel=0.02), (stop.f_number, off)


def test_only_apertures_the_lens_has_and_the_shots_own() -> None:
    lens = Lens.model_validate(LENS.model_dump(exclude_none=True) | {"widest": 2.8, "narrowest": 16})
    marks = [stop.f_number for stop in sharp_at(posed(shot_of(aperture=6.8), BODY, lens))]
    assert marks == sorted([f for f in F_NUMBERS if 2.8 <= f <= 16] + [6.8])
    fixed = Lens.model_validate(LENS.model_dump(exclude_none=True) | {"widest": 1.8, "narrowest": 1.8})
    assert [stop.f_number for stop in sharp_at(posed(shot_of(), BODY, fixed))] == [1.8]
    wider = [stop.before + stop.behind for stop in sharp_at(posed(shot_of()))]
    assert wider == sorted(wider)


def test_the_crops_of_people_things_and_pairs() -> None:
    """Shares of stature are common practice, no source."""
    found = crop_heights(shot_of())
    assert found["head and shoulders"] == pytest.approx(0.41 * 1.7) and found["three-quarter"] == pytest.approx(
        0.82 * 1.7
    )
    assert list(found.values()) == sorted(found.values())
    bottle = {"id": "b", "name": "Bottle", "kind": "object", "height": 0.3, "width": 0.08}
    assert list(crop_heights(shot_of(subjects=[bottle]))) == ["whole subject"]
    assert crop_heights(shot_of(subjects=[])) == {}
    assert crop_heights(shot_of(frame_height=2.0)) == found


def test_it_is_taken_by_the_sets_own_camera_or_what_is_at_hand() -> None:
    studio = parse(one_portrait())
    scene = posed_in(studio, studio.shots[0])
    camera = studio.sets[0].camera
    assert scene.body is not None and scene.lens is not None
    assert (scene.body.id, scene.lens.id) == (camera.body, camera.lens)
    bare = parse({"name": "Bare", "shots": [{"id": "s", "name": "S", "subjects": [{"id": "p", "height": 1.7}]}]})
    assert posed_in(bare, bare.shots[0]).body == BODY
    for shot in demo().shots:
        assert finder(posed_in(demo(), shot), 300, 300).startswith("<svg")


def test_what_says_too_little_is_not_drawn() -> None:
    scene = posed(shot_of(subjects=[{"id": "p", "name": "Someone"}]))
    assert finder(scene, 300, 300) == "" and sharp_strip(scene) == ("", []) and sharp_at(scene) == ()


def test_the_strip_shows_the_zone_and_says_whether_it_is_enough() -> None:
    scene = posed(shot_of(crop="head and shoulders"))
    _, rows = sharp_strip(scene)
    assert "is sharp through" in str(rows[-1]["says"]) and re.search(r"subject is .* deep", str(rows[0]["says"]))
    widths = [float(str(row["width"])) for row in rows]
    assert widths == sorted(widths) and widths[0] < widths[-1] <= 320.0
