"""The sheet: true outlines in projection, one scale, and the same picture whether remembered or drawn anew."""

import re
from typing import Any
from xml.etree import ElementTree

import numpy as np
import pytest
from helpers.studios import demo, one_portrait, parse

from evrant.core.base.margins import Verdict
from evrant.core.base.memo import fresh
from evrant.core.edits.language import SetFields
from evrant.core.judge.ledger import ledger_of
from evrant.core.place.moves import change as apply
from evrant.core.space.scene import Scene, scene_of
from evrant.core.space.solids import hull
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say
from evrant.drawing.layout import layout_of
from evrant.drawing.sheet import room_sheet, sheet
from evrant.drawing.svg import path_of, title, union_path


def scene(studio: Studio, index: int = 0) -> Scene:
    found = scene_of(studio, studio.sets[index])
    assert found is not None
    return found


def drawn(studio: Studio, index: int = 0) -> str:
    return sheet(scene(studio, index), ledger_of(studio).of_set(studio.sets[index].id))


def test_the_sheet_is_well_formed_and_without_styles() -> None:
    for index in (0, 1):
        markup = drawn(demo(), index)
        root = ElementTree.fromstring(markup)
        assert root.tag.endswith("svg") and not re.search(r"\sstyle=|<script|\son\w+=", markup)
        assert {e.get("id") for e in root.iter() if (e.get("id") or "").startswith("view-")} == {
            "view-plan",
            "view-lens",
            "view-facing",
            "view-picture",
        }


def test_views_are_in_projection_and_one_scale() -> None:
    layout = layout_of(scene(demo(), 1), 760, 720)
    assert layout is not None
    assert layout.plan.scale == layout.lens.scale == layout.facing.scale
    point = np.array([[1.3, 0.7, 1.9]])
    plan, lens, facing = (
        frame.place(point)[0] + (frame.x, frame.y) for frame in (layout.plan, layout.lens, layout.facing)
    )
    assert plan[0] == pytest.approx(lens[0])
    assert lens[1] == pytest.approx(facing[1])
    across = facing[0] - layout.facing.x
    assert layout.plan.height - (plan[1] - layout.plan.y) == pytest.approx(across)


@pytest.mark.parametrize("turn", [0, 37, 90, 180, 251])
def test_the_lens_axis_lies_level_with_the_camera_on_the_right(turn: float) -> None:
    data = one_portrait()
    angle = np.radians(turn)
    data["sets"][0]["camera"] |= {"x": 2.0 + float(np.cos(angle)), "y": 1.9 + float(np.sin(angle))}
    layout = layout_of(scene(parse(data)), 760, 720)
    assert layout is not None
    mark, camera = (
        layout.plan.one(2.0, 1.9, 0),
        layout.plan.one(2.0 + float(np.cos(angle)), 1.9 + float(np.sin(angle)), 0),
    )
    assert camera[1] == pytest.approx(mark[1], abs=1e-6)
    assert camera[0] - mark[0] == pytest.approx(layout.scale)


def test_the_sheet_fills_the_space_it_is_given() -> None:
    for width, height in ((760, 720), (1600, 900), (620, 500)):
        layout = layout_of(scene(demo(), 1), width, height)
        assert layout is not None
        used = layout.picture[0] + layout.facing.width, layout.facing.y + layout.facing.height
        assert 0.8 < max(used[0] / width, used[1] / height) <= 1.0


def test_a_narrow_sheet_stacks_its_views() -> None:
    layout = layout_of(scene(demo(), 1), 380, 430)
    assert layout is not None
    tops = [layout.plan.y, layout.lens.y, layout.facing.y, layout.picture[1]]
    assert tops == sorted(tops) and layout.picture[1] + layout.picture[3] < layout.height
    assert max(frame.x + frame.width for frame in (layout.plan, layout.lens, layout.facing)) <= 380


@pytest.mark.parametrize(
    ("target", "fields"),
    [
        ("sets/kneeling-a/lights/key", {"x": 1.6}),
        ("sets/kneeling-a/mark", {"x": 1.4}),
        ("room", {"height": 2.6}),
        ("sets/kneeling-a/camera", {"y": 1.9}),
        ("sets/kneeling-a/background", {"x": 0.7}),
        ("gear/octa-90", {"width": 0.5}),
        ("room/boxes/pipe", {"base": 1.9}),
        ("shots/kneeling/subjects/dog", {"height": 0.4}),
        ("room/walls/end-wall", {"name": "x"}),
        ("brief", {"units": "imperial"}),
        ("sets/kneeling-a/lights/fill", {"role": "rim"}),
        ("gear/flash-200", {"name": "Other"}),
    ],
)
def test_what_is_remembered_is_what_would_be_drawn(target: str, fields: dict[str, Any]) -> None:
    before = demo()
    drawn(before, 1)
    after = apply(before, SetFields(target=target, fields=fields))
    remembered = drawn(after, 1)
    with fresh():
        assert remembered == drawn(after, 1)


def test_conflicts_are_circled_with_their_margin() -> None:
    markup = drawn(demo(), 1)
    shorts = [m for m in ledger_of(demo()).of_set("kneeling-a") if m.verdict is Verdict.SHORT and m.at]
    assert len(shorts) >= 3 and markup.count('class="conflict-mark') >= 2 * len(shorts)
    assert Say.of(demo().brief).margin(shorts[0].margin, shorts[0].unit) in markup


def test_half_described_sets_are_drawn_as_far_as_they_go() -> None:
    for path in (("camera",), ("background",), ("mark",), ("lights",), ("camera", "lens"), ("background", "height")):
        data = one_portrait()
        here = data["sets"][0]
        for step in path[:-1]:
            here = here[step]
        del here[path[-1]]
        ElementTree.fromstring(drawn(parse(data)))
    data = one_portrait()
    del data["room"]["footprint"]
    assert "Nothing to draw yet" in drawn(parse(data))


def test_a_room_alone() -> None:
    root = ElementTree.fromstring(room_sheet(scene(demo()), 450, 430))
    letters = [e.text for e in root.iter() if e.get("class") == "corner"]
    assert letters == ["A", "B", "C", "D"]


def test_true_outlines() -> None:
    square = np.array([[0.0, 0], [2, 0], [2, 1], [0, 1], [1, 0.5]])
    assert sorted(map(tuple, hull(square)[:-1].tolist())) == [(0, 0), (0, 1), (2, 0), (2, 1)]
    assert union_path([hull(square), hull(square + [1.0, 0.0])]).count("M") == 1
    assert union_path([hull(square), hull(square + [5.0, 0.0])]).count("M") == 2
    assert path_of([]) == "" and title("<b>") == "<title>&lt;b&gt;</title>"


@pytest.mark.parametrize("turned", [False, True])
def test_furniture_before_the_set_hides_nothing_in_the_section_along_the_lens(turned: bool) -> None:
    """Of two shelves the one nearer the viewer is an outline: which, hangs on the side the camera looks from; a beam
    overhead is always drawn."""
    data = one_portrait()
    plan = data["sets"][0]
    if turned:
        plan["camera"]["x"] = 2 * plan["mark"]["x"] - plan["camera"]["x"]
        plan["background"]["x"] = 2 * plan["mark"]["x"] - plan["background"]["x"]
    sizes = {"x": plan["mark"]["x"] - 0.4, "length": 0.8, "width": 0.3, "height": 1.8}
    low, high = (sizes | {"id": name.lower(), "name": name, "y": y} for name, y in (("Low", 0.1), ("High", 3.5)))
    beam = low | {"id": "beam", "name": "Beam", "base": 2.5, "height": 0.2}
    data["room"]["boxes"] = [low, high, beam]
    markup = drawn(parse(data))
    along = markup[markup.index('id="view-lens"') : markup.index('id="view-facing"')]
    outlined = re.findall(r'<g class="behind"><g[^>]*><title>(\w+)', along)
    assert outlined == ["high" if turned else "low"]
    assert all(f"<title>{name}" in along for name in ("low", "high", "beam"))
