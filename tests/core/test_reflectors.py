"""`light.reflector`: a card by the window fills what the window leaves dark, or says that it does not."""

import math
from typing import Any

import numpy as np
import pytest
from helpers.studios import one_portrait, packed, parse
from helpers.windows import CARD, at_hand, by_day, put, window

from evrant.core.base.margins import Margin, Verdict
from evrant.core.edits.language import EDIT
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.remedies import remedies_of
from evrant.core.light.by_window import daylight_way
from evrant.core.light.lit import Lit, lit
from evrant.core.place.lighting import key_distance
from evrant.core.place.lighting import lit as place_lights
from evrant.core.place.moves import change
from evrant.core.search.arrange.search import arrange
from evrant.core.space.scene import Scene, scene_of
from evrant.core.studio.studio import Studio

Data = dict[str, Any]
PLATE = {"id": "p", "name": "Plate", "kind": "object", "height": 0.08, "width": 0.3, "depth": 0.3, "base": 0.75}


def line(data: Data | Studio) -> Margin | None:
    studio = parse(data) if isinstance(data, dict) else data
    return next((m for m in ledger_of(studio).lines if m.code == "light.reflector"), None)


def the_scene(data: Data) -> Scene:
    studio = parse(data)
    scene = scene_of(studio, studio.sets[0])
    assert scene is not None
    return scene


@pytest.mark.parametrize("windows", [("north",), ("south",), ("north", "west"), ("east",)])
def test_the_way_of_daylight_is_what_adding_up_small_panes_gives(windows: tuple[str, ...]) -> None:
    """Reference: Σ cos dA / r² towards the subject over 300 × 300 points of each glass."""
    data = by_day(*(window(wall, 0.6 + 0.5 * i) for i, wall in enumerate(windows)))
    scene = the_scene(data)
    assert scene.lit_spot is not None
    at = {"north": (1, 4.0, -1.0), "south": (1, 0.0, 1.0), "west": (0, 0.0, 1.0), "east": (0, 5.0, -1.0)}
    whole = np.zeros(3)
    share = (np.arange(300) + 0.5) / 300
    for one in scene.room.windows:
        assert one.wall and one.offset and one.width and one.height and one.sill
        axis, level, inward = at[one.wall]
        first = one.offset.value + one.width.value * share
        along = {"south": first, "east": first, "north": 5.0 - first, "west": 4.0 - first}[one.wall]
        a, b = np.meshgrid(along, one.sill.value + one.height.value * share)
        spots = np.full((*a.shape, 3), level)
        spots[..., 0 if axis else 1], spots[..., 2] = a, b
        way = spots - scene.lit_spot
        far = np.linalg.norm(way, axis=-1)
        cos = -way[..., axis] * inward / far
        whole += (way / far[..., None] * (cos / far**2)[..., None]).sum(axis=(0, 1)) * 1.4 * 1.5 / 300**2
    found = daylight_way(scene)
    assert found is not None
    assert found / np.linalg.norm(found) == pytest.approx(whole / np.linalg.norm(whole), abs=2e-4)


@pytest.mark.parametrize(
    ("wall", "card", "verdict"),
    [
        ("north", -80, Verdict.CLEAR),
        ("north", 80, Verdict.SHORT),
        ("south", 80, Verdict.CLEAR),
        ("south", -80, Verdict.SHORT),
        ("north", 0, Verdict.CLEAR),  # before the face, the window beside it
        ("west", 0, Verdict.CLEAR),  # the window behind the subject
        ("east", 80, Verdict.CLEAR),  # the window before it: either side is a far one
        ("east", -80, Verdict.CLEAR),
        ("east", 10, Verdict.SHORT),
    ],
)
def test_a_card_stands_against_the_window(wall: str, card: float, verdict: Verdict) -> None:
    found = line(by_day(window(wall), card=card))
    assert found is not None and found.verdict is verdict, found


@pytest.mark.parametrize("angle", [-100.0, -80.0, 80.0, 100.0])
def test_what_is_told_short_fills_nothing(angle: float) -> None:
    """Against the engine of light itself: a card told Clear lights the far cheek, one told Short shades it."""
    plain, carded = by_day(window("north")), by_day(window("north"), card=angle)
    far = []
    for data in (plain, carded):
        state = lit(the_scene(data))
        assert isinstance(state, Lit)
        far.append(state.total("shadow side"))
    found = line(carded)
    assert found is not None
    if found.verdict is Verdict.CLEAR:
        assert far[1] > far[0] * 1.2
    else:
        assert found.verdict is Verdict.SHORT and far[1] < far[0]


def test_food_with_the_window_behind_it_and_the_card_in_front() -> None:
    for card, verdict in ((0.0, Verdict.CLEAR), (70.0, Verdict.CLEAR), (175.0, Verdict.SHORT)):
        data = by_day(window("west"), card=card, far=0.4, subjects=[PLATE], crop="whole subject", angle=25.0)
        found = line(data)
        assert found is not None and found.verdict is verdict, (card, found)


def test_from_above_the_side_of_the_window_counts_too() -> None:
    for card, verdict in ((90.0, Verdict.SHORT), (-90.0, Verdict.CLEAR)):
        data = by_day(window("north"), card=card, far=0.4, subjects=[PLATE], crop="whole subject", angle=90.0)
        found = line(data)
        assert found is not None and found.verdict is verdict, (card, found)


def test_of_two_cards_the_better_counts_and_others_are_no_reflectors() -> None:
    data = by_day(window("north"), card=80)
    put(data, -80)
    data["gear"][-1]["quantity"] = 2
    found = line(data)
    assert found is not None and found.verdict is Verdict.CLEAR
    for fields in ({"surface": "black"}, {"surface": "translucent"}):
        data = by_day(window("north"), card=80)
        data["gear"][-1] |= fields
        assert line(data) is None
    flat = by_day(window("north"))
    flat["gear"].append(packed(CARD))
    put(flat, 80, tilt=90)
    assert line(flat) is None, "a card that lies is something to lie on"


@pytest.mark.parametrize("change", ["lit", "dark", "covered", "no window", "no place"])
def test_it_is_silent_where_the_window_is_not_the_light(change: str) -> None:
    data = by_day(window("north"), card=80)
    match change:
        case "lit":
            data["sets"][0]["lights"] = one_portrait()["sets"][0]["lights"]
        case "dark":
            data["shots"][0]["around"] = "dark"
        case "covered":
            data["room"]["windows"][0]["blackout"] = "in place"
        case "no window":
            data["room"]["windows"] = []
        case "no place":
            data["sets"][0]["props"][0].pop("x")
    assert line(data) is None


def test_two_windows_count_together_with_what_is_drawn_before_them() -> None:
    """Alike on either side they leave no far side; a curtain before one makes the other the window."""
    north, south = window("north"), window("south")
    for cover, verdict in ((north | {"lets_in": 0.1}, Verdict.CLEAR), (south | {"lets_in": 0.1}, Verdict.SHORT)):
        other = south if cover["wall"] == "north" else north
        found = line(by_day(cover, other, card=80))
        assert found is not None and found.verdict is verdict


def test_the_remedy_stands_it_against_the_window() -> None:
    studio = parse(by_day(window("north"), card=80))
    short = line(studio)
    assert short is not None
    better = [one for one in remedies_of(studio, short, ledger_of(studio)) if "Stand the white card" in one.label]
    assert better
    there = line(change(studio, EDIT.validate_python(better[0].edit)))
    assert there is not None and there.verdict is not Verdict.SHORT


@pytest.mark.parametrize("wall", ["north", "south"])
def test_arrange_puts_it_against_the_window_wherever_the_set_stands(wall: str) -> None:
    data = by_day(window(wall, 2.2), card=80, pattern="window and reflector")
    studio = at_hand(data)
    found = arrange(studio, studio.shots[0], budget=None, most=2)
    assert found.sets
    for one in found.sets:
        told = line(studio.changed(sets=(one.plan,)))
        assert told is not None and told.verdict is not Verdict.SHORT


def test_a_reflector_is_placed_as_near_as_the_picture_lets_it() -> None:
    """By hand: at 80° from the nose, 60 cm wide, it clears half the picture by 12 cm: (half + 0.30 · cos + 0.12) / sin;
    farther off as the lights would be."""
    data = by_day(window("north"), card=80, pattern="window and reflector")
    data["gear"][-1]["status"] = "owned"
    scene = the_scene(data)
    assert scene.lit_spot is not None and scene.wanted is not None
    off = math.radians(80)
    nearest = (scene.wanted.width / 2 + 0.30 * math.cos(off) + 0.12) / math.sin(off)
    assert 0.4 < nearest < 0.8
    for times in (None, 1.3, 0.1, 1.0):
        far = max(nearest * (times or 1.0), 0.35)
        out = None if times is None else key_distance(scene) * times
        (card,) = place_lights(scene, "window and reflector", distance=out).props
        assert card.x is not None and card.y is not None
        assert math.hypot(card.x - scene.lit_spot[0], card.y - scene.lit_spot[1]) == pytest.approx(far, abs=2e-3)
    lines = ledger_of(parse(data).changed(sets=(scene.plan.changed(props=(card,)),))).lines
    seen = [m.verdict for m in lines if m.code == "frame.intrusion" and any("props/card" in one for one in m.about)]
    assert seen == [Verdict.CLEAR]
