"""Simulated instruments: a hidden room that stays the same, lengths, meters, frames; ten rooms read by three frames."""

import io

import numpy as np
import pytest
from helpers.studios import demo, one_portrait, parse
from PIL import Image

from evrant.core.base.quantity import Figure
from evrant.core.log.calibrate import calibrate
from evrant.core.log.claimed import claimed
from evrant.core.log.forecast import lit_for
from evrant.core.log.taken import Said, said, scene_for, spelt_out
from evrant.core.studio.log import Reading
from evrant.core.studio.studio import Studio
from evrant.devices.instruments import NoReading
from evrant.devices.simulated import laser_for, meter_for
from evrant.devices.simulated.camera import SimulatedCamera, card_place
from evrant.devices.simulated.true_room import WIDEST, TrueRoom
from evrant.files.test_frames import read_frame, value_at

SET = "kneeling-a"
ACROSS = 120


def unread() -> Studio:
    return claimed(demo()).changed(readings=(), as_set=(), sessions=())


def test_a_hidden_room_stays_the_same_and_its_draws_are_normal() -> None:
    studio = unread()
    one, same, other = TrueRoom(studio, 1), TrueRoom(studio, 1), TrueRoom(studio, 2)
    wanted = Reading(id="r", set=SET)
    assert one.light(wanted) == same.light(wanted) != other.light(wanted)
    draws = np.array([one.draw("x", str(k)) for k in range(4000)])
    assert abs(draws.mean()) < 0.06 and 0.93 < draws.std() < 1.0 and abs(draws).max() <= WIDEST


def test_the_laser_is_true_to_two_millimetres() -> None:
    studio = unread()
    offs = []
    for seed in range(60):
        laser = laser_for(studio, seed)
        figure = laser.length("room/footprint", "length")
        claim = studio.room.footprint.length  # type: ignore[union-attr]
        assert isinstance(claim, Figure)
        true = claim.value + claim.pm * TrueRoom(studio, seed).draw("length", "room/footprint", "length")
        offs.append(figure.value - true)
        assert (figure.pm, figure.origin) == (0.002, "laser")
    assert float(np.std(offs)) == pytest.approx(0.002, rel=0.35)
    bare = parse({**one_portrait(), "room": {"footprint": {"kind": "rectangle"}}})
    assert 2.5 < laser_for(bare, 3).length("room/footprint", "length").value < 5.0
    for path, field in (("room/doors/none", "width"), ("room", "floor"), ("shots/half", "frame_height")):
        with pytest.raises(NoReading):
            laser_for(bare, 3).length(path, field)


def test_a_meter_reads_what_is_there_within_a_tenth() -> None:
    studio = unread()
    offs = []
    for seed in range(40):
        wanted = Reading(id=f"r{seed}", set=SET, light="key")
        read = wanted.changed(reads=meter_for(studio, seed).read(wanted))
        scene = scene_for(spelt_out(studio, SET), read)
        true = TrueRoom(studio, seed).light(wanted)
        assert scene is not None and not isinstance(true, str)
        told = said(scene, read)
        assert isinstance(told, Said)
        offs.append(told.stops - true)
    assert float(np.std(offs)) == pytest.approx(0.1, rel=0.35) and abs(float(np.mean(offs))) < 0.05
    with pytest.raises(NoReading):
        meter_for(studio, 1).read(Reading(id="x", set="standing-a"))
    with pytest.raises(NoReading):
        meter_for(studio, 1).read(Reading(id="x", set=SET, kind="grey card in a frame"))


def value(studio: Studio, wanted: Reading, raw: bytes) -> float:
    state = lit_for(spelt_out(studio, wanted.set), wanted)
    assert not isinstance(state, str)
    return value_at(read_frame(raw).picture, *card_place(state))[0]


def test_a_frame_is_a_jpeg_with_its_settings_and_says_that_it_is_simulated() -> None:
    studio = unread()
    camera = SimulatedCamera(TrueRoom(studio, 4), ACROSS)
    wanted = Reading(id="f", set=SET, light="key", kind="grey card in a frame")
    raw = camera.frame(wanted)
    image = Image.open(io.BytesIO(raw))
    assert image.format == "JPEG" and "simulated" in image.getexif()[0x0131].lower()
    kept = read_frame(raw)
    assert (kept.aperture, kept.iso) == (8.0, 100) and kept.shutter == pytest.approx(1 / 160, rel=0.01)
    dark = camera.frame(wanted.changed(id="d", light=None, without_flash=True))
    assert value(studio, wanted, dark) < 2
    brighter = value(studio, wanted, camera.frame(wanted.changed(iso=200)))
    assert brighter > value(studio, wanted, raw) + 20


def test_three_frames_forecast_another_set_within_a_fifth_of_a_stop() -> None:
    """Ten hidden rooms: three test frames of one set, then a frame of another. At least nine within 0.2 stop."""
    studio = unread()
    good = 0
    for seed in range(10):
        camera = SimulatedCamera(TrueRoom(studio, seed), ACROSS)
        taken = []
        for light in ("key", "fill", None):
            wanted = Reading(id=f"{light}-{seed}".lower(), set=SET, light=light, kind="grey card in a frame")
            taken.append(wanted.changed(reads=value(studio, wanted, camera.frame(wanted))))
        known = calibrate(studio.changed(readings=tuple(taken)))
        new = Reading(id=f"new-{seed}", set="dog-a", kind="grey card in a frame")
        told = known.expects(new)
        scene = scene_for(spelt_out(studio, "dog-a"), new)
        assert scene is not None and not isinstance(told, str)
        real = said(scene, new.changed(reads=value(studio, new, camera.frame(new))))
        assert isinstance(real, Said)
        good += abs(real.stops - told[0]) < 0.2
    assert good >= 9
