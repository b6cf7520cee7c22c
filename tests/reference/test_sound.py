"""Sound against published formulas, worked figures and an independent library.

pyroomacoustics gives Sabine's and Eyring's time of a box by its own code, and impulse responses by image sources;
the worked room is 3.40 × 2.90 × 2.35 m with a mean absorption of 0.10: 0.756 s and 0.718 s; its critical distance
0.313 m for a source or microphone that is alike all round, 0.543 m for a cardioid (Q = 3).
"""

import json
import math
from pathlib import Path
from typing import Any

import numpy as np
import pyroomacoustics as pra
import pytest
from helpers.studios import one_portrait, parse

from evrant.catalogue import load
from evrant.cli import main
from evrant.core.base.margins import Margin, Verdict
from evrant.core.base.tables.absorption import DIRECTIVITY
from evrant.core.carry.sheet import sheet_of
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.remedies import remedies_of
from evrant.core.log.calibrate import calibrate
from evrant.core.sound.hall import Area, Hall, critical_distance, hall_of
from evrant.core.sound.heard import louder, nearest_above, noises, over_noise, over_reverberant, pickup_of, spot_above
from evrant.core.space.scene import Scene, scene_of
from evrant.core.studio.studio import Studio

SIDES = (3.40, 2.90, 2.35)
VOLUME = 3.40 * 2.90 * 2.35
SURFACE = 2 * (3.40 * 2.90 + 3.40 * 2.35 + 2.90 * 2.35)


def even(share: float) -> Hall:
    return Hall(VOLUME, SURFACE, (Area("all", "", SURFACE, (share,) * 6),), 0)


def test_the_worked_room() -> None:
    hall = even(0.10)
    assert abs(VOLUME - 23.17) < 0.01 and abs(SURFACE - 49.33) < 0.02
    assert hall.sabine[2] == pytest.approx(0.756, abs=0.001) and hall.eyring[2] == pytest.approx(0.718, abs=0.001)
    assert critical_distance(0.10 * SURFACE) == pytest.approx(0.313, abs=0.001)
    assert critical_distance(0.10 * SURFACE, DIRECTIVITY["cardioid"]) == pytest.approx(0.543, abs=0.001)


@pytest.mark.parametrize("share", [0.05, 0.1, 0.3, 0.6])
def test_both_formulas_are_those_of_an_independent_library(share: float) -> None:
    box = pra.ShoeBox(SIDES, materials=pra.Material(share), max_order=0)
    hall = even(share)
    assert hall.sabine[2] == pytest.approx(box.rt60_theory(formula="sabine"), rel=0.01)
    assert hall.eyring[2] == pytest.approx(box.rt60_theory(formula="eyring"), rel=0.01)


def test_direct_over_reverberant_is_that_of_image_sources() -> None:
    """A source and a receiver 0.6 m apart in a box of even absorption: energies of the direct path and of the rest."""
    share, far = 0.2, 0.6
    box = pra.ShoeBox(SIDES, fs=16000, materials=pra.Material(share), max_order=30)
    spot = np.array([1.5, 1.3, 1.2])
    box.add_source(spot)
    box.add_microphone(spot + (far, 0.0, 0.0))
    box.image_source_model()
    source = box.sources[0]
    away = np.linalg.norm(source.images - (spot + (far, 0.0, 0.0))[:, None], axis=0)
    energy = (np.asarray(source.damping).mean(axis=0) / away) ** 2
    direct = int(np.argmin(away))
    ratio = 10 * math.log10(energy[direct] / (energy.sum() - energy[direct]))
    hall = even(share)
    ours = 20 * math.log10(critical_distance(hall.for_speech) / far)
    # The room's formula knows a diffuse field: within two decibels in so small a box.
    assert ours == pytest.approx(ratio, abs=2.0)


def test_directivity_factors_follow_from_their_patterns() -> None:
    """Q = 4π / ∫ p² dΩ of p = a + (1 − a) cos θ; supercardioid a = 0.366, hypercardioid a = 0.25."""
    theta = np.linspace(0, math.pi, 20001)
    for name, a in (("all round", 1.0), ("cardioid", 0.5), ("supercardioid", 0.366), ("hypercardioid", 0.25)):
        power = (a + (1 - a) * np.cos(theta)) ** 2 * 2 * math.pi * np.sin(theta)
        assert DIRECTIVITY[name] == pytest.approx(4 * math.pi / float(np.trapezoid(power, theta)), rel=0.01), name


def test_levels_add_as_energies() -> None:
    assert louder(60, 60) == pytest.approx(63.01, abs=0.01) and louder(60, 50) == pytest.approx(60.41, abs=0.01)


def filmed(microphone: str | None = "mic-lavalier", **room: Any) -> Studio:
    data = one_portrait()
    data["shots"][0] |= {"capture": "video", "sound": True, "orientation": "landscape", "frames": "25"}
    data["room"] |= {"floor": "wood", "ceiling_made": "joists and board"} | room
    for wall in data["room"]["walls"]:
        wall["construction"] = "masonry"
    studio = parse(data)
    gear = (*studio.gear, *(one.changed(status="owned") for one in load().by_kind["microphone"]))
    plan = studio.sets[0]
    with_it = plan.changed(camera=plan.camera.changed(microphone=microphone))
    return studio.changed(gear=gear, sets=(with_it,))


def scene(studio: Studio) -> Scene:
    found = scene_of(studio, studio.sets[0])
    assert found is not None
    return found


def line(studio: Studio, code: str) -> Margin:
    return next(m for m in ledger_of(studio).lines if m.code == code)


def test_a_rooms_surfaces_are_those_of_its_box() -> None:
    studio = filmed()
    hall = hall_of(scene(studio))
    assert hall is not None
    by_name = {one.name: one.area for one in hall.areas}
    assert by_name["floor"] == pytest.approx(20.0) and by_name["ceiling"] == pytest.approx(20.0)
    walls = sum(by_name[name] for name in ("south", "east", "north", "west"))
    assert walls + by_name["Door"] == pytest.approx(2 * (5 + 4) * 2.8)
    assert hall.volume == pytest.approx(56.0)
    # By hand: 20 m² of boards, 20 of gypsum on joists, walls of plaster, a door, paper, two people, at 1000 Hz.
    paper = 1.35 * studio.sets[0].background.height * 0.02  # type: ignore[operator]
    want = 20 * 0.07 + 20 * 0.04 + walls * 0.03 + 1.6 * 0.09 + paper + hall.people * 0.52
    assert hall.absorption[3] == pytest.approx(want, rel=1e-6)


def test_how_near_a_boom_may_come_is_the_frames_edge() -> None:
    """By hand: the picture's half height at the face's distance, less how far the face is over its middle, and 5 cm."""
    here = scene(filmed("mic-super-boom"))
    view, face = here.view, here.face
    spot, near = spot_above(here), nearest_above(here)
    assert view is not None and face is not None and spot is not None and near is not None
    x, y = view.project(spot[None])[0]
    assert y > 1.0 and abs(x - view.project(face[None])[0][0]) < 1e-9
    lower = spot - view.up * 0.0501
    assert view.project(lower[None])[0][1] < 1.0, "5 cm lower it would show"
    assert near == pytest.approx(float(np.linalg.norm(spot - face)))


def test_a_placed_boom_in_the_picture_is_short_and_over_it_clear() -> None:
    studio = filmed("mic-super-boom")
    spot = spot_above(scene(studio))
    assert spot is not None
    for lower, verdict in ((0.35, Verdict.SHORT), (-0.12, Verdict.CLEAR)):
        prop = {"id": "mic", "item": "mic-super-boom", "x": spot[0], "y": spot[1], "height": spot[2] - lower}
        data = json.loads(studio.dump_json())
        data["sets"][0]["props"] = [prop]
        placed = parse(data)
        found = [m for m in ledger_of(placed).lines if m.code == "frame.intrusion" and "props/mic" in m.about[0]]
        assert [m.verdict for m in found] == [verdict], (lower, found)
        pickup = pickup_of(scene(placed))
        assert pickup is not None and pickup.distance == pytest.approx(
            float(np.linalg.norm(np.array([spot[0], spot[1], spot[2] - lower]) - scene(placed).face)), abs=1e-6
        )


def test_the_cameras_microphone_hears_the_room_and_a_lavalier_the_voice() -> None:
    far, near = line(filmed("mic-camera"), "sound.reverberation"), line(filmed(), "sound.reverberation")
    assert far.verdict is Verdict.SHORT and near.verdict in (Verdict.CLEAR, Verdict.TIGHT)
    hall = hall_of(scene(filmed("mic-camera")))
    pickup = pickup_of(scene(filmed("mic-camera")))
    assert hall is not None and pickup is not None
    want = 20 * math.log10(math.sqrt(3.7 * hall.for_speech / (16 * math.pi)) / pickup.distance)
    assert over_reverberant(hall, pickup) == pytest.approx(want) == pytest.approx(far.have)


def test_remedies_are_a_nearer_microphone_blankets_and_switching_off() -> None:
    studio = filmed("mic-camera")
    labels = [r.label for r in remedies_of(studio, line(studio, "sound.reverberation"), ledger_of(studio))]
    assert any("lavalier" in label for label in labels)
    hung = next(label for label in labels if "blankets" in label)
    assert "on north and " in hung or "on south and " in hung, "the long walls throw back most"
    none = filmed(None)
    told = line(none, "sound.microphone")
    assert told.verdict is Verdict.SHORT
    assert any("Record with" in r.label for r in remedies_of(none, told, ledger_of(none)))
    fridge = {"id": "f", "name": "Fridge", "kind": "appliance", "x": 0.1, "y": 0.1, "length": 0.6, "width": 0.6}
    loud = filmed("mic-camera", boxes=[fridge | {"height": 0.9, "noise": 52}])
    noisy = line(loud, "sound.noise")
    assert noisy.verdict is Verdict.SHORT and "fridge" in noisy.reason.lower()
    found = remedies_of(loud, noisy, ledger_of(loud))
    off = next(r for r in found if "Switch the fridge off" in r.label)
    assert off.margin is not None and noisy.margin is not None and off.margin > noisy.margin + 10


def test_noise_at_a_microphone_by_hand() -> None:
    """A fan of 45 dB at 1 m, 2 m away, in the room's diffuse field: 45 − 6 direct, 45 + 11 + 10 log(4 / A) around."""
    fan = {"id": "f", "name": "Fan", "x": 1.0, "y": 1.0, "length": 0.2, "width": 0.2, "height": 0.2, "noise": 45}
    studio = filmed("mic-lavalier", boxes=[fan])
    here, hall, pickup = scene(studio), hall_of(scene(studio)), pickup_of(scene(studio))
    assert hall is not None and pickup is not None and here.face is not None
    found = {one.name: one.level for one in noises(here, hall, pickup)}
    away = float(np.linalg.norm(np.array([1.1, 1.1, 0.1]) - here.face))
    want = louder(45 - 20 * math.log10(away), 45 + 11 + 10 * math.log10(4 / hall.for_speech))
    assert found["Fan"] == pytest.approx(want)
    assert over_noise(noises(here, hall, pickup), pickup) == pytest.approx(60 - 20 * math.log10(0.2) - louder(want, 26))


def test_a_silent_room_nobody_described_is_not_called_quiet() -> None:
    assert line(filmed(), "sound.noise").verdict is Verdict.UNKNOWN
    window = {"id": "w", "name": "window", "wall": "west", "offset": 1, "width": 1.2, "sill": 0.9, "height": 1.2}
    street = filmed("mic-camera", windows=[window | {"street": 75}])
    assert line(street, "sound.noise").verdict is Verdict.SHORT
    stills = parse(one_portrait())
    assert not any(m.code.startswith("sound.") for m in ledger_of(stills).lines)
    bare = filmed("mic-lavalier", footprint=None)
    assert line(bare, "sound.reverberation").verdict is Verdict.UNKNOWN


def test_a_microphones_cable_comes_down_goes_over_the_floor_and_up_again() -> None:
    """By hand: 1.3 m from the chest, the straight way from the mark, the lens's height and half a metre of loop."""
    studio = filmed("mic-lavalier")
    here = scene(studio)
    assert here.mark is not None and here.camera_spot is not None and here.lens_height is not None
    told = line(studio, "power.microphone")
    way = float(np.linalg.norm(here.camera_spot - here.mark))
    assert told.need == pytest.approx(1.3 + way + here.lens_height + 0.5) and told.have == 6.0
    assert told.verdict is Verdict.CLEAR
    short = line(filmed("mic-earphones"), "power.microphone")
    assert short.verdict is Verdict.SHORT
    for free in ("mic-camera", "mic-lavalier-wireless"):
        assert not any(m.code.startswith("power.microphone") for m in ledger_of(filmed(free)).lines)
    bare = filmed("mic-lavalier")
    unsaid = tuple(one.changed(cord=None) if one.id == "mic-lavalier" else one for one in bare.gear)
    assert line(bare.changed(gear=unsaid), "power.microphone").verdict is Verdict.UNKNOWN


def test_the_sheet_says_where_the_microphone_goes_and_how_it_is_listened_to() -> None:
    here = scene(filmed("mic-super-boom"))
    steps = {step.key: step for step in sheet_of(here, calibrate(filmed("mic-super-boom"))).steps}
    assert any("Listen with headphones" in line for line in steps["microphone"].lines)
    assert any("upper edge" in line for line in steps["microphone"].lines)
    quiet = scene(parse(one_portrait()))
    assert "microphone" not in {step.key for step in sheet_of(quiet, calibrate(parse(one_portrait()))).steps}


def test_a_microphones_cable_over_the_way_in_is_a_trip() -> None:
    """The door at the wall's end, the camera before it: the way to the mark lies across the cable's."""
    data = json.loads(filmed("mic-lavalier").dump_json())
    data["room"]["doors"][0] |= {"wall": "east", "offset": 1.6}
    across = parse(data)
    told = line(across, "power.microphone_trip")
    clear = line(filmed("mic-lavalier-wireless"), "sound.reverberation")
    assert clear.verdict in (Verdict.CLEAR, Verdict.TIGHT)
    assert told.verdict is Verdict.SHORT and told.need is not None and told.need > 0.3 and told.safety
    covered = remedies_of(across, told, ledger_of(across))
    assert any("cover" in one.label or "without a cable" in one.label for one in covered)


def test_blankets_and_curtains_shorten_the_echo() -> None:
    studio = filmed()
    plan = studio.sets[0]
    hung = studio.changed(sets=(plan.changed(blankets=6),))
    before, after = hall_of(scene(studio)), hall_of(scene(hung))
    assert before is not None and after is not None
    assert after.absorption[3] - before.absorption[3] == pytest.approx(6 * 3.0 * 0.70)
    assert (after.eyring < before.eyring).all() and (after.eyring < after.sabine).all()


def test_the_command_prints_the_figures(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    file = tmp_path / "studio.json"
    file.write_text(filmed().dump_json())
    assert main(["sound", str(file), "--shot", "half", "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert told["octaves"] == [125, 250, 500, 1000, 2000, 4000] and len(told["eyring_s"]) == 6
    assert told["microphone"]["distance"] == 0.2
    assert main(["sound", str(file), "--shot", "half"]) == 0
    assert "Eyring" in capsys.readouterr().out
    file.write_text(filmed(None).dump_json())
    assert main(["sound", str(file), "--shot", "half"]) == 1
    assert main(["sound", str(file), "--shot", "none"]) == 2
