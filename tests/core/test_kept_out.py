"""`light.kept_out`: a shot that has the room dark, in a room whose window is not darkened."""

import math
from typing import Any

import numpy as np
import pytest
from helpers.studios import one_portrait, parse
from helpers.windows import by_day, painted, the_scene, window

from evrant.core.base.margins import Margin, Verdict
from evrant.core.edits.language import EDIT
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.remedies import remedies_of
from evrant.core.light.surroundings import lets_in, window_face
from evrant.core.place.moves import change
from evrant.core.studio.studio import Studio

Data = dict[str, Any]


def dark(*windows: Data, lrv: float = 30, **shot: Any) -> Data:
    """The portrait by its own flash in a room with windows that the shot has dark."""
    data = painted(by_day(*windows, around="dark", **({"aperture": 4, "iso": 400, "shutter": 1 / 60} | shot)), lrv)
    data["sets"][0]["lights"] = one_portrait()["sets"][0]["lights"]
    return data


def line(data: Data | Studio) -> Margin | None:
    studio = parse(data) if isinstance(data, dict) else data
    return next((m for m in ledger_of(studio).lines if m.code == "light.kept_out"), None)


def test_daylight_counts_as_a_dome_reads_it() -> None:
    """Independent, in an all but black room: the glass as an evenly bright face, summed over small pieces of it by the
    dome's (1 + cos θ) / 2 toward the lens, with no light from the walls."""
    data = dark(window("north"), lrv=2)
    found = line(data)
    scene = the_scene(data)
    glass = window_face(scene.walls, scene.room, scene.room.windows[0]) if scene.walls else None
    assert found is not None and found.have is not None and glass is not None and scene.face is not None
    bright = 8000 * lets_in(scene.room.windows[0]) / math.pi
    steps = (np.arange(60) + 0.5) / 60
    across, up = glass[1] - glass[0], glass[3] - glass[0]
    area = float(np.linalg.norm(np.cross(across, up))) / 3600
    normal = np.cross(across, up) / np.linalg.norm(np.cross(across, up))
    lux = 0.0
    for a in steps:
        for b in steps:
            ray = glass[0] + across * a + up * b - scene.face
            far = float(np.linalg.norm(ray))
            lux += bright * area * abs(float(ray @ normal)) / far**3 * (1 + float(ray[0]) / far) / 2
    wanted = 340 * 4**2 / 400
    assert found.have == pytest.approx(math.log2(wanted / (lux / 60)), abs=0.25)


def test_by_day_it_is_not_dark_and_after_dark_it_is() -> None:
    """Once a plan by lamps in a room with a window said nothing of daylight, which gave more than the lamps."""
    found = line(dark(window("north")))
    assert found is not None and found.verdict is Verdict.TIGHT and found.settles == "hour of the day"
    assert "5 under it do not show" in found.reason and found.margin == 0


def test_a_short_time_at_a_small_aperture_drowns_it() -> None:
    assert line(dark(window("north", sill=1.6, height=0.3, width=0.4), aperture=16, iso=100, shutter=1 / 200)) is None


@pytest.mark.parametrize("blackout", ["in place", "needed"])
def test_a_window_that_is_or_will_be_darkened_has_no_line(blackout: str) -> None:
    assert line(dark(window("north", blackout=blackout))) is None


def test_nothing_is_said_of_shots_by_day_nor_of_sets_without_lights() -> None:
    data = dark(window("north"))
    data["shots"][0]["around"] = "daylight"
    assert line(data) is None
    data = dark(window("north"))
    data["sets"][0]["lights"] = []
    assert line(data) is None


def test_a_window_that_is_not_measured_is_taken_as_under_clouds() -> None:
    whole, guess = line(dark(window("north", daylight=5000))), line(dark(window("north", daylight=None)))
    assert whole is not None and guess is not None
    assert guess.have == pytest.approx(whole.have)


def test_cloth_or_shutters_settle_it() -> None:
    studio = parse(dark(window("north"), window("south", 0.5)))
    found = line(studio)
    assert found is not None
    ways = {one.label: one for one in remedies_of(studio, found, ledger_of(studio))}
    cloth = change(studio, EDIT.validate_python(ways["Darken it with blackout cloth"].edit))
    assert line(cloth) is None
    lines = [m for m in ledger_of(cloth).lines if m.code == "room.blackout"]
    assert len(lines) == 2 and all(one.verdict is Verdict.CLEAR for one in lines)
    assert sum(item.price is not None for item in cloth.gear if item.id.startswith("blackout-")) == 2
    shut = next(one for label, one in ways.items() if "shutters" in label)
    assert line(change(studio, EDIT.validate_python(shut.edit))) is None


def test_what_stands_before_the_window_counts_at_once() -> None:
    """A board put between window and sitter, and the same board made another: nothing is remembered past it."""
    data = dark(window("north"))
    board = {"kind": "board", "id": "b", "name": "Board", "surface": "black", "width": 2.0, "height": 2.0, "mass": 2.0}
    data["gear"].append(board)
    free = line(data)
    data["sets"][0]["props"] = [{"id": "b", "item": "b", "x": 2.3, "y": 2.9, "height": 0.3}]
    hidden = line(data)
    assert free is not None and free.have is not None
    assert hidden is None or (hidden.have is not None and hidden.have > free.have + 0.5)
    board |= {"width": 0.1, "height": 0.1}
    small = line(data)
    assert small is not None and small.have == pytest.approx(free.have, abs=0.2)
