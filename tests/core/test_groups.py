"""Several people in one picture: where they stand, who is metered, whom lights are set about, and who is seen."""

import math
from typing import Any

import numpy as np
import pytest
from helpers.studios import one_portrait, parse
from shapely import MultiPoint

from evrant.core.base.margins import Margin, Verdict
from evrant.core.edits.language import EDIT, Light
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.remedies import remedies_of
from evrant.core.light import account
from evrant.core.light.lit import Lit, lit
from evrant.core.place.moves import change
from evrant.core.search.arrange.changes import changes
from evrant.core.space.scene import Scene, scene_of
from evrant.core.studio.presets import group_places, row_places
from evrant.core.studio.shots import Pattern
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say
from evrant.drawing.bodies import body_path, subject_shapes
from evrant.drawing.layout import layout_of


def group(*places: tuple[float, float], black: bool = False) -> dict[str, Any]:
    """People at (across, ahead) in a room of 8 × 6 m, the camera 4 m before them, two heads in small reflectors."""
    data = one_portrait()
    data["room"]["footprint"] = {"kind": "rectangle", "length": 8.0, "width": 6.0}
    data["room"]["height"] = 3.4
    if black:
        for wall in data["room"]["walls"]:
            wall["finish"] = {"lrv": 1, "colour": "#101010"}
        dark = {"lrv": 1, "colour": "#101010"}
        data["room"] |= {"ceiling": dark, "floor_finish": dark}
    first = data["shots"][0]["subjects"][0]
    data["shots"][0] |= {
        "crop": "three-quarter",
        "orientation": "landscape",
        "subjects": [
            first | {"id": f"person-{i}", "name": f"Person {i}", "across": across, "ahead": ahead}
            for i, (across, ahead) in enumerate(places, start=1)
        ],
    }
    plan = data["sets"][0]
    plan["mark"] = {"x": 2.0, "y": 3.0}
    plan["camera"] |= {"x": 6.0, "y": 3.0}
    plan["background"] |= {"x": 0.8, "y": 3.0}
    for item in data["gear"]:
        if item["id"] in ("head", "stand"):
            item["quantity"] = 2
        if item["id"] == "stand":
            item["max_height"] = 3.2
    return data


def lit_by(pattern: Pattern, data: dict[str, Any]) -> tuple[Studio, Scene]:
    data["shots"][0]["pattern"] = pattern
    studio = change(parse(data), Light(target=f"sets/{data['sets'][0]['id']}", pattern=pattern))
    here = scene_of(studio, studio.sets[0])
    assert here is not None
    return studio, here


def told(studio: Studio, code: str) -> Margin:
    return next(m for m in ledger_of(studio).lines if m.code == code)


ROW = ((-0.825, 0.0), (-0.275, 0.0), (0.275, 0.0), (0.825, 0.0))


@pytest.mark.parametrize(("number", "rows"), [(4, 2), (5, 2), (6, 2), (8, 2)])
def test_those_behind_stand_in_the_gaps_and_the_whole_in_the_middle(number: int, rows: int) -> None:
    places = row_places(number, rows)
    front = [across for across, ahead in places if ahead == 0.0]
    rear = [across for across, ahead in places if ahead < 0.0]
    assert min(abs(a - b) for a in front for b in rear) > 0.2
    assert min(front + rear) + max(front + rear) == pytest.approx(0.0, abs=0.002)


def test_who_is_nearest_to_the_middle_is_metered_and_lights_are_set_about_all_of_them() -> None:
    shot = parse(group(*ROW)).shots[0]
    assert shot.lead.id == "person-2"
    assert parse(group(ROW[0], ROW[3])).shots[0].lead.id == "person-1", "of two the first"
    _, here = lit_by("even pair", group(*ROW))
    assert here.lit_spot is not None and here.lit_spot[:2] == pytest.approx([2.0, 3.0])
    left, right = (np.array([light.x, light.y]) for light in here.plan.lights)
    assert np.linalg.norm(left - [2.0, 3.0]) == pytest.approx(np.linalg.norm(right - [2.0, 3.0]))
    assert left[1] - 3.0 == pytest.approx(3.0 - right[1], abs=0.01)
    assert float(np.linalg.norm(left - [2.0, 3.0])) > 1.65, "further than the outermost are apart"


def test_an_even_pair_is_even_over_four_and_lights_from_the_sides_are_not() -> None:
    """Independent: two points of light that give the metered face the same, by inverse squares on a half dome turned
    to the lens, in a black room."""
    studio, here = lit_by("even pair", group(*ROW, black=True))
    state = lit(here)
    assert isinstance(state, Lit) and here.eye is not None
    faces = [here.face_of(one) for one in here.shot.subjects]

    def given(face: Any, at: Any) -> float:
        way, lens = at - face, here.eye - face
        cosine = float(way @ lens) / float(np.linalg.norm(way) * np.linalg.norm(lens))
        return (1 + cosine) / 2 / float(way @ way)

    spots = [light.at for light in here.lights]
    whole = [sum(given(face, at) / given(faces[1], at) for at in spots) / 2 for face in faces]
    found = {name.removeprefix("subject "): stops for name, stops in account.fall(state) if name.startswith("subject")}
    for number in (0, 2, 3):
        stops = math.log2(whole[number])
        assert found[f"person-{number + 1}"] == pytest.approx(stops, abs=0.2), "a reflector is no point"
    assert told(studio, "light.group").verdict is not Verdict.SHORT
    sides, _ = lit_by("side pair", group(*ROW, black=True))
    line = told(sides, "light.group")
    assert line.verdict is Verdict.SHORT and "than the person 2" in line.sentence


@pytest.mark.parametrize("aside", [0.0, 0.08, 0.2, 0.4])
def test_a_face_is_seen_past_another_as_far_as_its_outline_in_the_picture(aside: float) -> None:
    """Independent: outlines by a pinhole, their distance by shapely; a head is 0.13 of the stature high, 0.09 wide."""
    data = group((0.0, 0.0), (aside, -0.6))
    studio = parse(data)
    here = scene_of(studio, studio.sets[0])
    assert here is not None and here.view is not None
    face, view = here.face_of(here.shot.subjects[1]), here.view
    assert face is not None
    tall = 1.7 if here.shot.subjects[1].height is None else here.shot.subjects[1].height.value

    def flat(points: Any) -> Any:
        depth = (points - view.eye) @ view.forward
        return np.column_stack([(points - view.eye) @ way / depth for way in (view.right, view.up)])

    turn = np.linspace(0, 2 * math.pi, 60)
    rim = face + np.outer(np.cos(turn), view.right) * 0.045 * tall + np.outer(np.sin(turn), [0, 0, 0.065 * tall])
    outline = MultiPoint(flat(rim)).convex_hull
    others = [MultiPoint(flat(np.asarray(solid))).convex_hull for solid in here.body_parts("person-1")]
    apart = min(outline.distance(one) for one in others)
    far = float((face - view.eye) @ view.forward)
    line = told(studio, "frame.hidden")
    assert line.margin is not None
    if apart > 0:
        assert line.margin == pytest.approx(apart * far, abs=0.012)
    else:
        assert line.margin < 0.012 and any(outline.intersects(one) for one in others)
    if aside == 0.0:
        assert line.verdict is Verdict.SHORT and line.sentence == "The person 1 hides the face of the person 2."
        better = remedies_of(studio, line, ledger_of(studio))
        assert better and better[0].verdict is not Verdict.SHORT


def test_nobody_is_hidden_where_the_camera_looks_down_or_there_is_one() -> None:
    for data in (group((0.0, 0.0)), group((0.0, 0.0), (0.3, 0.0))):
        if len(data["shots"][0]["subjects"]) > 1:
            data["shots"][0]["angle"] = 90.0
        assert not [m for m in ledger_of(parse(data)).lines if m.code == "frame.hidden"]


def test_a_row_of_three_or_more_may_stand_in_two() -> None:
    def words(*places: tuple[float, float]) -> list[str]:
        studio = parse(group(*places))
        return [one.label for one in changes(studio, studio.shots[0]) if "two rows" in one.label]

    assert len(words(*ROW)) == 1 and len(words(*ROW[:3])) == 1
    assert not words(*ROW[:2]) and not words(*[(p["across"], p["ahead"]) for p in group_places(4, 2)])
    studio = parse(group(*ROW))
    rows = next(one for one in changes(studio, studio.shots[0]) if "two rows" in one.label)
    for edit in rows.edits:
        studio = change(studio, edit)
    after = studio.shots[0].subjects
    assert sorted((one.across, one.ahead) for one in after) == sorted(row_places(4, 2))
    assert [one.across for one in after] == sorted(one.across for one in after), "nobody changes sides"


def test_who_is_nearer_is_drawn_over_those_behind() -> None:
    """From the camera the seated row hid behind the standing one."""
    data = group(*row_places(4, rows=2))
    studio = parse(data)
    here = scene_of(studio, studio.sets[0])
    layout = None if here is None else layout_of(here, 760, 720)
    assert here is not None and layout is not None
    frame = layout.facing
    markup = subject_shapes(frame, here)
    for rear in ("person-3", "person-4"):
        behind = body_path(frame.key, here.body_parts(rear), frame.place)
        before = body_path(frame.key, here.body_parts("person-1"), frame.place)
        assert 0 < markup.index(behind) < markup.index(before)


def test_the_next_to_nothing_of_a_stop_has_a_figure() -> None:
    say = Say.of(parse(group((0.0, 0.0))).brief)
    assert (say.margin(-0.03, "stop"), say.margin(0.3, "stop")) == ("−0.03 stop", "+0.3 stop")


def test_light_from_a_side_on_a_group_is_offered_from_the_front() -> None:
    """What is offered is carried out: with it everyone gets the same light."""
    studio, _ = lit_by("side", group(*ROW, black=True))
    line = told(studio, "light.group")
    assert line.verdict is Verdict.SHORT
    ledger = ledger_of(studio)
    offers = {one.label: one for one in remedies_of(studio, line, ledger)}
    assert {"Light it: butterfly", "Light it: even pair"} <= offers.keys()
    for label in ("Light it: butterfly", "Light it: even pair"):
        after = change(studio, EDIT.validate_python(offers[label].edit))
        better = told(after, "light.group")
        assert better.margin is not None and line.margin is not None and better.margin > line.margin
        assert after.shots[0].pattern == label.removeprefix("Light it: ")
