"""The set-up sheet: tape marks set out again, settings read back from the PDF, steps, tests, what to bring.

Tape marks are set out by an independent solver: the place whose distances from the two walls' lines and the corner are
those on the sheet, found by scipy's least squares from the measured room alone.
"""

import io
import math
from pathlib import Path
from typing import Any

import numpy as np
import pypdf
import pytest
from helpers.studios import demo, one_portrait, parse
from scipy.optimize import least_squares

from evrant.cli import main
from evrant.core.carry.bring import bring, needed
from evrant.core.carry.marks import Mark, clock, corner_name, marks
from evrant.core.carry.sheet import Sheet, sheet_of
from evrant.core.light.lit import Lit, lit
from evrant.core.light.photometry import close_up
from evrant.core.log.calibrate import calibrate
from evrant.core.place.starting_set import starting_set
from evrant.core.space.scene import Scene, scene_of
from evrant.core.studio.presets import PRESETS, Preset
from evrant.core.studio.shots import Shot
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say
from evrant.demo import demo_studio
from evrant.files.setup_sheet import write_sheet

DEMOS = ("adoption-corner", "hands-in-view", "stones-on-file")


def scenes() -> list[tuple[Studio, Scene]]:
    found = []
    for name in DEMOS:
        studio = demo_studio(name)
        found += [(studio, scene) for plan in studio.sets if (scene := scene_of(studio, plan)) is not None]
    return found


def distance_to_line(spot: Any, start: Any, end: Any) -> float:
    """Of a point from the line through two others (Hesse's form)."""
    (px, py), (ax, ay), (bx, by) = spot, start, end
    return float(abs((bx - ax) * (ay - py) - (ax - px) * (by - ay)) / math.hypot(bx - ax, by - ay))


def rounded(metres: float) -> float:
    """As the sheet prints it: whole centimetres."""
    return round(metres * 100) / 100


def test_tape_marks_set_out_again_give_the_plans_places() -> None:
    count = 0
    for _, scene in scenes():
        walls = scene.walls
        assert walls is not None
        inside = walls.corners.mean(axis=0)
        for mark in marks(scene):
            lines = [walls.wall(one.index) for one in (mark.first, mark.second)]
            read = [rounded(one.distance) for one in (mark.first, mark.second)]
            corner, far = np.array(mark.corner_at), rounded(mark.diagonal)

            def off(spot: Any, lines: Any = lines, read: Any = read, corner: Any = corner, far: float = far) -> Any:
                sides = [distance_to_line(spot, *line) - want for line, want in zip(lines, read, strict=True)]
                return [*sides, math.dist(spot, corner) - far]

            best = min(
                (least_squares(off, start) for start in (inside, (inside + corner) / 2, np.array(mark.at) + 0.2)),
                key=lambda one: float(one.cost),
            )
            assert best.x == pytest.approx(mark.at, abs=0.01), (scene.plan.name, mark.what)
            count += 1
    assert count > 30


def in_shape(footprint: dict[str, Any]) -> list[Mark]:
    data = one_portrait()
    data["room"]["footprint"] = footprint
    data["room"]["doors"] = []
    data["room"]["sockets"] = []
    studio = parse(data)
    scene = scene_of(studio, studio.sets[0])
    assert scene is not None
    return marks(scene)


def test_marks_hold_in_rooms_of_other_shapes() -> None:
    ell = {"kind": "ell", "length": 6.0, "width": 5.0, "cut_length": 1.5, "cut_width": 1.0, "cut_corner": "C"}
    round_ = {"kind": "outline", "corners": [{"x": x, "y": y} for x, y in ((0, 0), (5.5, 0), (6.2, 3), (3, 5), (0, 4))]}
    for shape in (ell, round_):
        found = in_shape(shape)
        assert len(found) >= 4
        for mark in found:
            assert mark.first.index != mark.second.index and mark.diagonal > 0


def test_a_tape_does_not_run_through_a_wardrobe() -> None:
    data = one_portrait()
    bare = in_shape(data["room"]["footprint"])
    mark = next(one for one in bare if one.key == "mark")
    walls = {one.wall for one in (mark.first, mark.second)}
    x, y = mark.at
    box = {"id": "b", "name": "wardrobe", "length": 0.5, "width": 0.5, "height": 2.0, "x": x - 0.25, "y": y - 1.2}
    studio = parse({**data, "room": {**data["room"], "boxes": [box]}})
    scene = scene_of(studio, studio.sets[0])
    assert scene is not None
    other = next(one for one in marks(scene) if one.key == "mark")
    assert {one.wall for one in (other.first, other.second)} != walls


def test_the_clock_has_the_camera_at_twelve() -> None:
    studio = demo()
    scene = scene_of(studio, studio.sets[1])
    assert scene is not None and scene.mark is not None and scene.axis is not None
    ahead = scene.axis
    left = np.array([-ahead[1], ahead[0]])
    # Seen from the mark toward the camera, the left hand is at nine.
    for spot, hour in ((ahead, 12), (left, 9), (-ahead, 6), (-left, 3), (ahead + left / math.sqrt(3), 11)):
        assert clock(scene, scene.mark + spot) == hour
    assert [corner_name(i) for i in (0, 3)] == ["A", "D"]


def sheet(studio: Studio, key: str) -> tuple[Scene, Sheet]:
    scene = scene_of(studio, next(plan for plan in studio.sets if plan.id == key))
    assert scene is not None
    return scene, sheet_of(scene, calibrate(studio))


def words_of(pdf: bytes) -> tuple[str, int]:
    reader = pypdf.PdfReader(io.BytesIO(pdf))
    text = " ".join(page.extract_text() for page in reader.pages)
    return " ".join(text.split()), len(reader.pages)


@pytest.mark.parametrize(
    ("name", "key"),
    [("adoption-corner", "kneeling-a"), ("hands-in-view", "lesson-a"), ("stones-on-file", "crystal-a")],
)
def test_the_pdf_holds_every_setting_and_mark_on_one_page(name: str, key: str) -> None:
    studio = demo_studio(name)
    scene, found = sheet(studio, key)
    text, pages = words_of(write_sheet(scene, found, bring(studio, [scene.plan])))
    assert pages == 1
    squeezed, say = text.replace(" ", ""), Say.of(studio.brief)
    for row in [*found.camera, *found.room, *found.leads, *(pair for light in found.lights for pair in light.settings)]:
        assert "".join(row[1].split()) in squeezed, row
    for mark in found.marks:
        assert "".join(say.length(mark.diagonal).split()) in squeezed
    for step in found.steps:
        assert "".join(step.title.split()) in squeezed


@pytest.mark.parametrize("wish", PRESETS, ids=lambda one: one.name)
def test_every_kind_of_shot_has_a_sheet(wish: Preset) -> None:
    """People, animals, things from the side and from above, filmed and by a window: whatever can be planned can be set
    up, each light with its settings, each step under a name of its own."""
    studio = demo()
    shot = Shot.model_validate({"id": "tried", **wish.shot})
    studio = studio.changed(shots=(*studio.shots, shot))
    plan = starting_set(studio, shot, "tried-a")
    studio = studio.changed(sets=(*studio.sets, plan))
    scene = scene_of(studio, plan)
    assert scene is not None
    found = sheet_of(scene, calibrate(studio))
    keys = [step.key for step in found.steps]
    assert len(set(keys)) == len(keys) and keys[0] == "clear"
    assert len(found.lights) == len(plan.lights)
    text, _ = words_of(write_sheet(scene, found, bring(studio, [plan])))
    assert "Clear the floor" in text


def test_a_half_described_set_says_what_is_missing() -> None:
    data = one_portrait()
    data["room"]["footprint"] = None
    data["sets"][0]["lights"][0].pop("x")
    studio = parse(data)
    _, found = sheet(studio, studio.sets[0].id)
    assert not found.marks and any("outline" in words for words in found.missing)
    assert any("no place yet" in words for words in found.missing)


def test_the_tests_come_in_the_trades_order_with_what_they_should_show() -> None:
    studio = demo().changed(readings=())
    _, found = sheet(studio, "kneeling-a")
    trials = [step.trial for step in found.steps if step.trial is not None]
    assert [one.title for one in trials] == [
        "A frame without flash",
        "The key alone",
        "The fill alone",
        "All together",
    ]
    dark, key, fill, whole = trials
    assert dark.card == 0 and "Black" in dark.judge
    assert None not in (key.card, fill.card, whole.card)
    assert fill.card < key.card < whole.card  # type: ignore[operator]
    assert key.low < key.card < key.high  # type: ignore[operator]
    assert whole.meter.startswith("f/8") and key.off and fill.off == ("as with the key.",)


def test_a_background_light_is_told_by_the_background() -> None:
    """Its value in the frame is what it gives there, by what the background returns, under C = 250."""
    data = one_portrait()
    data["room"] |= {"ceiling": {"lrv": 80}, "floor": "wood"}
    for wall in data["room"]["walls"]:
        wall["finish"] = {"lrv": 60}
    next(item for item in data["gear"] if item["id"] == "paper")["reflectance"] = 50
    key = data["sets"][0]["lights"][0]
    data["sets"][0]["lights"].append(key | {"id": "back", "role": "background light", "height": 1.2, "power": 0.06})
    data["shots"][0]["tone"] = "white"
    studio = parse(data)
    scene, found = sheet(studio, studio.sets[0].id)
    trial = next(s.trial for s in found.steps if s.trial is not None and s.trial.behind)
    state = lit(scene)
    assert trial is not None and isinstance(state, Lit) and state.ground_reflectance is not None
    back = [beam.role for beam in state.beams].index("background light")
    there = float((state.exposure("ground")[back]) @ (0.2126, 0.7152, 0.0722)) * state.ground_reflectance
    share = there / (250 * 64 / 100 * close_up(scene.magnification))
    want = 255 * (12.92 * share if share <= 0.0031308 else 1.055 * share ** (1 / 2.4) - 0.055)
    assert trial.card == pytest.approx(min(want, 255), abs=1.0)
    step = next(one for one in found.steps if one.trial is trial)
    assert any("The background in the frame" in line for line in step.lines)


def test_a_lit_room_does_not_record_black_and_says_so() -> None:
    data = one_portrait()
    data["shots"][0] |= {"around": "room lamps on", "aperture": 2.8, "iso": 800, "shutter": 0.01}
    data["room"] |= {"ceiling": {"lrv": 80}, "floor": "wood"}
    for wall in data["room"]["walls"]:
        wall["finish"] = {"lrv": 80}
    lamp = {"id": "l", "name": "ceiling lamp", "kind": "lamp", "x": 2.4, "y": 2, "length": 0.2, "width": 0.2}
    next(item for item in data["gear"] if item["id"] == "paper")["reflectance"] = 18
    data["room"]["boxes"] = [lamp | {"base": 2.5, "height": 0.2, "lumens": 1500}]
    studio = parse(data)
    _, found = sheet(studio, studio.sets[0].id)
    dark = next(step.trial for step in found.steps if step.trial is not None)
    assert dark is not None and dark.card is not None and dark.card > 20 and "Not black" in dark.judge


def test_things_come_out_of_the_cupboard_front_and_top_first() -> None:
    studio = demo()
    plans = [plan for plan in studio.sets if plan.id == "kneeling-a"]
    rows = bring(studio, plans)
    want = needed(plans)
    for key, count in want.items():
        assert sum(row.count for row in rows if row.item == key) == count, key
    assert {row.item for row in rows} == set(want)
    each = [needed([plan]) for plan in studio.sets]
    assert needed(studio.sets) == {key: max(one[key] for one in each) for one in each for key in one}


def test_the_command_writes_the_sheet(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    file, out = tmp_path / "studio.json", tmp_path / "sheet.pdf"
    file.write_text(demo().dump_json())
    assert main(["sheet", str(file), "--set", "dog-a", "-o", str(out)]) == 0
    assert "tape marks" in capsys.readouterr().out and out.read_bytes()[:5] == b"%PDF-"
    assert main(["sheet", str(file), "--set", "none", "-o", str(out)]) == 2
    assert "Sets: cat-a" in capsys.readouterr().err
    assert main(["sheet", str(file), "--set", "dog-a", "-o", str(tmp_path / "no" / "x.pdf")]) == 2
