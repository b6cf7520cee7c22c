"""Whole sets of other kinds with the verdicts an expert gives; rooms and figures are made up."""

import math
import re
from typing import Any

import pytest
from helpers.products import product
from helpers.studios import item, one_portrait, parse

from evrant.core.base.margins import Margin, Verdict
from evrant.core.edits.language import Light
from evrant.core.judge.ledger import ledger_of
from evrant.core.light.colour import LUMINANCE
from evrant.core.light.lit import Lit, lit
from evrant.core.light.mirrored import Mirrored, mirrored
from evrant.core.place.moves import change
from evrant.core.space.scene import scene_of
from evrant.core.studio.shots import LIVING, Pattern
from evrant.core.studio.studio import Studio
from evrant.demo import demo_studio

Data = dict[str, Any]
CONE: Data = {
    "kind": "tent",
    "id": "cone",
    "name": "Cone",
    "form": "cone",
    "width": 0.2,
    "height": 0.18,
    "opening": 0.07,
    "reflectance": 40,
    "through": 0.5,
}


def judged(data: Data) -> dict[str, list[Margin]]:
    found: dict[str, list[Margin]] = {}
    for one in ledger_of(parse(data)).lines:
        found.setdefault(one.code, []).append(one)
    return found


def shown(data: Data) -> tuple[Lit, Mirrored]:
    studio = parse(data)
    here = scene_of(studio, studio.sets[0])
    assert here is not None
    state = lit(here)
    assert isinstance(state, Lit)
    found = mirrored(state)
    assert found is not None
    return state, found


def ring_from_above(in_cone: bool) -> Data:
    place = {"id": "cone", "item": "cone", "x": 2.0, "y": 1.9}
    size: Data = {"shape": "ring", "shine": "mirror-like", "height": 0.006, "width": 0.022, "depth": 0.022}
    data = product((CONE,), (place,) if in_cone else (), 2, **size)
    data["shots"][0] |= {"angle": 90.0, "frame_height": 0.05}
    plan = data["sets"][0]
    plan["camera"] |= {"x": 2.0, "y": 1.9}
    plan["mark"]["facing"] = 0.0
    plan["background"] = {}
    return data


def test_a_ring_in_a_cone_shows_its_cloth_and_the_lens_in_its_hole() -> None:
    _, bare = shown(ring_from_above(False))
    _, inside = shown(ring_from_above(True))
    assert dict(inside.shares)["cone"] > 0.4 and inside.dark < bare.dark
    assert "floor" not in dict(inside.shares), "it stands on a table, which is whole under it"
    lines = judged(ring_from_above(True))
    assert lines["fit.tent"][0].verdict is Verdict.CLEAR
    assert lines["frame.intrusion"][0].verdict is not Verdict.UNKNOWN
    assert not [m for m in lines["frame.intrusion"] if "cone" in m.title.lower() and m.verdict is Verdict.SHORT]


def bottle_on_black(sheets: bool) -> Data:
    """A bottle on wet black acrylic before velvet, a head behind a sheet of tracing paper on either side."""
    acrylic: Data = {"kind": "board", "id": "b", "name": "Black acrylic", "surface": "glossy black"}
    acrylic |= {"width": 0.5, "height": 0.3}
    paper: Data = {"kind": "board", "id": "sc", "name": "Tracing paper", "surface": "translucent", "quantity": 2}
    paper |= {"width": 0.5, "height": 0.7}
    velvet = {"kind": "backdrop", "id": "velvet", "name": "Velvet", "width": 1.35, "length": 2.5, "reflectance": 1}
    props = [{"id": "b", "item": "b", "x": 2.0, "y": 1.9, "tilt": 90, "height": 0.75}]
    if sheets:
        props.append({"id": "s1", "item": "sc", "x": 1.85, "y": 2.28, "turn": -20, "height": 0.79})
        props.append({"id": "s2", "item": "sc", "x": 1.85, "y": 1.52, "turn": -160, "height": 0.79})
    size: Data = {
        "shape": "cylinder",
        "shine": "mirror-like",
        "height": 0.25,
        "width": 0.07,
        "depth": 0.07,
        "base": 0.77,
    }
    data = product((acrylic, paper, velvet | {"material": "fabric"}), tuple(props), 2, **size)
    data["shots"][0] |= {"angle": 5.0, "frame_height": 0.34, "tone": "black"}
    plan = data["sets"][0]
    plan["camera"]["x"] = 3.1
    plan["background"] |= {"backdrop": "velvet"}
    plan["lights"][0] |= {"x": 1.7, "y": 2.75, "height": 1.0}
    plan["lights"][1] |= {"x": 1.7, "y": 1.05, "height": 1.0}
    for wall in data["room"]["walls"]:
        wall["finish"]["lrv"] = 6
    data["room"]["ceiling"]["lrv"] = 8
    return data


def test_sheets_on_both_sides_draw_a_bottle_out_of_the_dark() -> None:
    _, bare = shown(bottle_on_black(False))
    _, drawn = shown(bottle_on_black(True))
    assert dict(drawn.shares)["tracing paper"] > 0.08
    lit_part = 1 - drawn.dark
    assert lit_part > 0.08 and drawn.burnt <= bare.burnt + 0.01
    lines = judged(bottle_on_black(True))
    told = lines["light.mirrored"][0]
    assert told.verdict is Verdict.CLEAR and "out of the dark" in told.sentence
    assert [m for m in lines["light.scrim"] if "subject" in m.title and m.verdict is Verdict.CLEAR]
    tone = lines["light.background_tone"][0]
    assert tone.have is not None and tone.verdict is not Verdict.UNKNOWN


@pytest.mark.parametrize(("through", "brighter"), [(10, True), (70, True)])
def test_an_opal_table_passes_light_from_below_by_what_it_lets_through(through: float, brighter: bool) -> None:
    """Light from below changed nothing once; now it goes with the top's own figure."""
    found = []
    for share in (through, 1):
        data = product(shape="box", base=0.75)
        table = next(g for g in data["gear"] if g["id"] == "t")
        table |= {"form": "translucent table", "through": share / 100, "reflectance": 25}
        key = data["sets"][0]["lights"][0]
        key |= {"x": 2.0, "y": 1.9, "height": 0.3, "role": "under-light", "modifier": None, "power": 1.0}
        studio = parse(data)
        here = scene_of(studio, studio.sets[0])
        assert here is not None
        state = lit(here)
        assert isinstance(state, Lit)
        down = state.rows.at["cube"].start + 5
        found.append(float(state.whole[down].sum()))
    assert (found[0] > 3 * found[1]) == brighter


def test_a_backdrop_of_cloth_lets_a_light_behind_it_through() -> None:
    found = []
    for share in (0.0, 40.0):
        data = product(shape="box")
        paper = next(g for g in data["gear"] if g["id"] == "paper")
        paper |= {"reflectance": 45} | ({"through": share / 100} if share else {})
        data["sets"][0]["lights"][0] |= {"x": 0.4, "y": 1.9, "height": 1.0, "power": 1.0}
        studio = parse(data)
        here = scene_of(studio, studio.sets[0])
        assert here is not None
        state = lit(here)
        assert isinstance(state, Lit)
        found.append(float(state.dome("face", state.whole)[0].sum()))
    assert found[1] > 2 * found[0]


def test_a_cone_laid_round_the_lens_takes_the_dark_out_of_a_bottle() -> None:
    big = CONE | {"width": 0.3, "height": 0.26, "opening": 0.08}
    place = {"id": "cone", "item": "cone", "x": 2.02, "y": 1.9, "turn": 90, "tilt": 90}
    size: Data = {"shape": "cylinder", "shine": "mirror-like", "height": 0.1, "width": 0.03, "depth": 0.03}
    found = []
    for props in ((), (place,)):
        data = product((big,), props, 2, **size)
        data["shots"][0] |= {"angle": 0.0, "frame_height": 0.13}
        found.append(shown(data)[1])
    assert found[0].dark > 0.5 and found[1].dark < 0.2
    assert dict(found[1].shares)["cone"] > 0.5


@pytest.mark.parametrize("demo", ["adoption-corner", "hands-in-view", "stones-on-file"])
def test_only_what_has_a_face_is_told_of_its_face(demo: str) -> None:
    studio = demo_studio(demo)
    ledger, alive = ledger_of(studio), {shot.id for shot in studio.shots if shot.subjects[0].kind in LIVING}
    faced = {
        line.key: plan.shot
        for plan in studio.sets
        for line in ledger.of_set(plan.id)
        if line.code.startswith("light.")
        and re.search(r"\b(face|skin|feet)\b", f"{line.title} {line.sentence} {line.reason}")
    }
    assert set(faced.values()) <= alive and bool(faced) == bool(alive), faced


def patterned(pattern: Pattern, height: float = 2.8, **changes: Any) -> Studio:
    """A portrait in a room of that height, lit by a pattern; the reflector's head and its stand four times."""
    data = one_portrait()
    data["room"] |= {"footprint": {"kind": "rectangle", "length": 6.5, "width": 5.0}, "height": height}
    for wall in data["room"]["walls"]:
        wall["finish"] = {"lrv": 75, "colour": "#f2f2ee"}
    data["room"] |= {
        "ceiling": {"lrv": 85, "colour": "#ffffff"},
        "floor_finish": {"lrv": 30, "colour": "#a08060"},
    }
    plan = data["sets"][0]
    plan["mark"] |= {"x": 2.4, "y": 2.5}
    plan["camera"] |= {"x": 4.6, "y": 2.5}
    plan["background"] |= {"x": 0.7, "y": 2.5}
    for key in ("head", "stand"):
        item(data, key)["quantity"] = 4
    item(data, "stand")["max_height"] = 3.0
    boom = item(data, "stand") | {"id": "boom", "name": "boom", "use": "boom stand", "reach": 1.8, "quantity": 1}
    data["gear"].append(boom)
    data["shots"][0] |= {"pattern": pattern, **changes}
    return change(parse(data), Light(target=f"sets/{plan['id']}", pattern=pattern))


def state_of(studio: Studio) -> Lit:
    here = scene_of(studio, studio.sets[0])
    assert here is not None
    state = lit(here)
    assert isinstance(state, Lit)
    return state


@pytest.mark.parametrize("tone", [None, "colour"])
def test_lights_on_a_background_without_a_tone_light_it_as_the_subject(tone: str | None) -> None:
    """With no tone wanted they ran at full power, and the picture was told to be ruined by them.
    As much comes to it as the settings ask for at the subject."""
    state = state_of(patterned("background pair", tone=tone))
    assert state.needed is not None
    behind = state.exposure("ground").sum(axis=0) @ LUMINANCE
    assert abs(math.log2(behind / state.needed)) < 0.35
    back = [i for i, beam in enumerate(state.beams) if beam.role == "background light"]
    assert len(back) == 2 and all(state.powers[i] < 1.0 for i in back)


def test_light_sent_back_by_a_white_ceiling_is_balanced_on_and_tints_nothing() -> None:
    lines = {m.code: m for m in ledger_of(patterned("bounced")).lines}
    told = lines.get("light.tint")
    assert told is None or told.verdict is not Verdict.SHORT


def test_of_light_from_behind_alone_the_eyes_are_not_told() -> None:
    assert not [m for m in ledger_of(patterned("rim pair")).lines if m.code == "light.eyes"]
    assert [m for m in ledger_of(patterned("loop")).lines if m.code == "light.eyes"]


def test_a_silhouette_without_a_tone_is_before_a_white_background() -> None:
    lines = [m for m in ledger_of(patterned("silhouette")).lines if m.code.startswith("light.power")]
    assert lines and all("None" not in m.sentence + m.reason for m in lines)
    assert any("a white background" in m.sentence + m.reason for m in lines)
