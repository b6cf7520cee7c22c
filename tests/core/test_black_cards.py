"""`light.black_card`: what a black card takes where it stands, and what helps where that is nothing."""

import math
from typing import Any

import numpy as np
import pytest
from helpers.products import product
from helpers.studios import item, packed, parse
from helpers.windows import at_hand, by_day, painted, put, state_of, the_scene, window

from evrant.core.base.margins import Margin, Remedy, Verdict
from evrant.core.edits.language import EDIT
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.remedies import remedies_of
from evrant.core.light import account
from evrant.core.light.cards import taken
from evrant.core.place.moves import change
from evrant.core.search.arrange.search import arrange
from evrant.core.studio.studio import Studio

Data = dict[str, Any]
SIDE = window("north", 1.3)


def room(lrv: float, far: float, width: float = 1.0, height: float = 1.5, angle: float = -80) -> Data:
    """Window light in a room of one grey, with a black card on the far side of the sitter."""
    data = by_day(SIDE)
    black = {"kind": "board", "id": "card", "name": "Black card", "surface": "black", "width": width, "height": height}
    data["gear"].append(packed(black))
    put(data, angle, far)
    return painted(data, lrv)


def takes(data: Data, patches: int = 140) -> float:
    scene = the_scene(data)
    found = taken(state_of(scene, patches), scene.plan.props[0])
    assert found is not None
    return found.stops


def line(data: Data | Studio) -> Margin | None:
    studio = parse(data) if isinstance(data, dict) else data
    return next((m for m in ledger_of(studio).lines if m.code == "light.black_card"), None)


def better(data: Data) -> dict[str, Remedy]:
    studio = parse(data)
    found = line(studio)
    assert found is not None
    return {one.label: one for one in remedies_of(studio, found, ledger_of(studio))}


def after(data: Data, remedy: Remedy) -> Studio:
    return change(parse(data), EDIT.validate_python(remedy.edit))


def test_it_takes_what_rays_through_it_would_have_brought() -> None:
    """Independent: rays from the face, spread by the cosine to the dark side, to the planes of an empty room; what
    each plane gives off is read at the place a ray meets it, and a ray that crosses the card brings nothing. What the
    card changes in the rest of the room is left out."""
    scene = the_scene(room(70, 0.5))
    place = scene.plan.props[0]
    found = taken(state_of(scene, 1200), place)
    assert found is not None and found.where == "shadow side" and scene.face is not None and place.x is not None
    out, settled = account.leaving(found.without), found.without.settled
    assert out is not None and settled is not None
    normals, middles, _, _ = settled.patches.measured
    draw = np.random.default_rng(7)
    r, turn = np.sqrt(draw.random(20_000)), 2 * math.pi * draw.random(20_000)
    n = np.array([math.sqrt(0.5), -math.sqrt(0.5), 0.0])
    u, v = np.array([math.sqrt(0.5), math.sqrt(0.5), 0.0]), np.array([0.0, 0.0, 1.0])
    way = (r * np.cos(turn))[:, None] * u + (r * np.sin(turn))[:, None] * v + np.sqrt(1 - r**2)[:, None] * n
    size = np.array([5.0, 4.0, scene.room.height.value if scene.room.height else 0.0])
    with np.errstate(divide="ignore"):
        far = np.where(way > 0, (size - scene.face) / way, -scene.face / way).min(axis=1)
    hit = scene.face + far[:, None] * way
    light = np.empty(len(hit))
    for number, spot in enumerate(hit):
        facing = normals @ -way[number] > 0.05
        light[number] = out[facing][((middles[facing] - spot) ** 2).sum(axis=1).argmin()].sum()
    edge = np.array([math.cos(math.radians(place.turn)), math.sin(math.radians(place.turn)), 0.0])
    flat = np.array([-edge[1], edge[0], 0.0])
    foot = np.array([place.x, place.y, place.height])
    at = ((foot - scene.face) @ flat) / (way @ flat)
    met = scene.face + at[:, None] * way - foot
    crossed = (at > 0) & (at < far) & (np.abs(met @ edge) <= 0.5) & (met[:, 2] >= 0) & (met[:, 2] <= 1.5)
    hidden = light[crossed].sum() / light.sum()
    assert 0.1 < hidden < 0.7
    share = hidden * account.returned_share(found.without)
    assert found.stops == pytest.approx(-math.log2(1 - share), rel=0.15)


@pytest.mark.parametrize(("lrv", "far"), [(30, 0.5), (80, 0.5), (80, 1.0)])
def test_many_times_the_patches_say_the_same(lrv: float, far: float) -> None:
    fine = takes(room(lrv, far), 2500)
    assert takes(room(lrv, far)) == pytest.approx(fine, abs=1.5 * (0.04 + 0.2 * fine))


def test_near_large_and_in_a_white_room_it_takes_more() -> None:
    assert takes(room(80, 0.5)) > takes(room(80, 0.9)) > takes(room(80, 1.6)) > 0
    assert takes(room(80, 0.5)) > takes(room(30, 0.5)) > takes(room(10, 0.5))
    assert takes(room(80, 0.7)) > takes(room(80, 0.7, 0.6, 0.9)) > takes(room(80, 0.7, 0.3, 0.3))


@pytest.mark.parametrize(
    ("data", "verdict", "words"),
    [
        (room(80, 0.5), Verdict.CLEAR, "takes 1.0 stops from the dark side of the face"),
        (room(80, 1.9, 0.6, 0.9), Verdict.SHORT, "it hides too little of that"),
        (room(4, 0.6, 0.3, 0.4), Verdict.SHORT, "takes nothing one would see"),
    ],
    ids=["near", "far", "in the dark"],
)
def test_the_line_says_what_it_takes_or_why_it_takes_nothing(data: Data, verdict: Verdict, words: str) -> None:
    found = line(data)
    assert found is not None and found.verdict is verdict and words in f"{found.sentence} {found.reason}"
    assert found.margin == pytest.approx(takes(data) - 1 / 6)


def test_nearer_larger_or_without_it() -> None:
    data = room(80, 1.9, 0.6, 0.9)
    data["gear"][-1]["status"] = "planned"
    data["gear"].append(packed({**item(data, "card"), "id": "large", "name": "Large flag", "width": 1.2, "height": 2}))
    found = better(data)
    near = next(one for label, one in found.items() if "just outside the picture" in label)
    assert near.verdict is Verdict.CLEAR and line(after(data, near)).verdict is Verdict.CLEAR  # type: ignore[union-attr]
    assert "Take the large flag" in found
    assert any(label.startswith("Stand a black cloth on a frame 100 × 150 cm there") for label in found)
    gone = after(data, found["Leave the black card out"])
    assert line(gone) is None and all(one.id != "card" for one in gone.gear)


def test_before_a_lamp_it_takes_light_from_the_background() -> None:
    """Between a softbox beside the sitter and the paper behind: a flag."""
    data = room(30, 0.8)
    data["shots"][0]["around"] = "dark"
    data["sets"][0]["lights"] = [
        {"id": "key", "role": "key", "head": "head", "modifier": "box", "support": "stand", "x": 2.0, "y": 3.0}
        | {"height": 2.0}
    ]
    data["sets"][0]["props"] = [{"id": "flag", "item": "card", "x": 1.45, "y": 2.55, "height": 0.9, "turn": 45.0}]
    found = line(data)
    assert found is not None and found.verdict is Verdict.CLEAR and "from the background" in found.sentence


def test_one_that_keeps_a_light_off_the_lens_is_not_asked_what_it_takes() -> None:
    data = room(30, 1.9, 0.6, 0.9)
    data["shots"][0]["around"] = "dark"
    lamp = {"id": "key", "role": "rim", "head": "head", "support": "stand", "x": 1.2, "y": 2.9, "height": 1.6}
    data["sets"][0]["lights"] = [lamp]
    data["sets"][0]["props"] = [{"id": "flag", "item": "card", "x": 2.8, "y": 2.25, "height": 1.1, "turn": 70.0}]
    studio = parse(data)
    codes = {one.code for one in ledger_of(studio).lines if one.verdict is Verdict.SHORT}
    assert "frame.flare" not in codes and line(studio) is None
    bare = change(studio, EDIT.validate_python({"verb": "remove", "target": "sets/s/props/flag"}))
    assert "frame.flare" in {one.code for one in ledger_of(bare).lines if one.verdict is Verdict.SHORT}


def test_of_a_thing_that_is_not_shiny_and_not_of_one_that_is() -> None:
    for shine, told in (("matt", True), ("mirror-like", False)):
        data = product()
        data["shots"][0]["subjects"][0]["shine"] = shine
        board = {"kind": "board", "id": "card", "name": "Black card", "surface": "black", "width": 0.7, "height": 1.0}
        data["gear"].append(packed(board))
        put(data, 150, 0.4)
        assert (line(data) is not None) is told, shine


def test_arranging_puts_none_up_by_itself() -> None:
    """Nothing asks for a black card of the kit."""
    studio = at_hand(room(80, 0.5))
    found = arrange(studio, studio.shots[0], budget=None, most=2)
    assert found.sets and not any(prop.item == "card" for one in found.sets for prop in one.plan.props)
