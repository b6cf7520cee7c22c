"""Stowing: packings looked at by an independent checker, the way round a turn, lines of the ledger, striking."""

import math

import numpy as np
import pytest
from helpers.stowing import allowed, faults, shelves
from helpers.studios import demo, item, line, one_portrait, parse
from hypothesis import example, given, settings
from hypothesis import strategies as st
from scipy.optimize import minimize_scalar

from evrant.catalogue import load
from evrant.core.base.margins import Verdict
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.remedies import remedies_of
from evrant.core.space.scene import scene_of
from evrant.core.stowage.packing import pack
from evrant.core.stowage.passage import longest_round, passes
from evrant.core.stowage.pieces import Piece, Space, pieces_of, spaces_of
from evrant.core.stowage.report import smaller, stow_data
from evrant.core.stowage.striking import minutes, setting_up, striking
from evrant.core.studio.gear import Stowed
from evrant.core.studio.room import Passage, PlaceKind

MANY = 1e6


def piece(key: str, sides: tuple[float, float, float], **more: object) -> Piece:
    fields = {"mass": 1.0, "stowed": None, "fragile": False, "used": 0} | more
    a, b, c = sorted(sides, reverse=True)
    return Piece(key, 1, key, (a, b, c), **fields)  # type: ignore[arg-type]


def space(kind: PlaceKind = "cupboard", size: tuple[float, float, float] = (1.0, 0.6, 1.8), **more: object) -> Space:
    fields = {"load": MANY, "hooks": 0, "each": MANY} | more
    return Space(kind.replace(" ", "-"), kind, kind, *size, **fields)  # type: ignore[arg-type]


SIDE = st.floats(0.03, 0.9).map(lambda x: round(x, 3))
PIECES = st.lists(
    st.tuples(
        st.tuples(SIDE, SIDE, SIDE), st.floats(0.1, 9), st.sampled_from([None, "upright", "lying"]), st.booleans()
    ),
    min_size=1,
    max_size=16,
)
SPACES = st.lists(
    st.tuples(
        st.sampled_from(["cupboard", "shelf", "under a bed", "corner for rolls", "hooks"]),
        st.floats(0.3, 1.4),
        st.floats(0.2, 0.8),
        st.floats(0.2, 2.0),
        st.floats(3, 60),
    ),
    min_size=1,
    max_size=3,
)


@settings(max_examples=60, deadline=None)
@example(
    [((0.5, 0.5, 0.25), 1.0, "upright", False), *[((0.5, 0.75, 0.375), 1.0, "upright", False)] * 2],
    [("cupboard", 1.0, 0.5, 1.0, 3.0)],
)
@given(PIECES, SPACES)
def test_every_packing_stands_up_to_an_independent_look_and_beats_shelves(
    things: list[tuple[tuple[float, float, float], float, Stowed | None, bool]],
    places: list[tuple[PlaceKind, float, float, float, float]],
) -> None:
    pieces = [piece(f"t{i}", sides, mass=m, stowed=s, fragile=f) for i, (sides, m, s, f) in enumerate(things)]
    spaces = [
        Space(f"s{i}", kind, kind, w, d, h, load, 3 if kind == "hooks" else 0, 4.0)
        for i, (kind, w, d, h, load) in enumerate(places)
    ]
    found = pack(pieces, spaces)
    for one in spaces:
        assert faults(found.of(one.id), one) == []
    assert len(found.puts) + len(found.left) == len(pieces)
    assert len(pack(pieces, spaces, first=True).left) == len(found.left)
    assert {p.piece.key for p in found.puts}.isdisjoint({x.piece.key for x in found.left})
    plain = [one for one in spaces if not one.hangs]
    simple = [put for put in allowed(shelves(pieces, plain), plain) if _may(put.piece, put.space, spaces)]
    assert len(found.puts) >= len(simple)


def _may(one: Piece, key: str, spaces: list[Space]) -> bool:
    """A corner takes only what stands; the shelf heuristic does not know that."""
    return next(space for space in spaces if space.id == key).kind != "corner for rolls"


def test_the_checker_itself_finds_what_is_wrong() -> None:
    from evrant.core.stowage.packing import Put

    low = Put(piece("low", (0.4, 0.4, 0.2), fragile=True), "cupboard", (0, 0, 0), (0.4, 0.4, 0.2))
    on = Put(piece("on", (0.4, 0.4, 0.2), mass=9), "cupboard", (0, 0, 0.2), (0.4, 0.4, 0.2))
    air = Put(piece("air", (0.3, 0.3, 0.3)), "cupboard", (0.5, 0, 0.5), (0.3, 0.3, 0.3))
    same = Put(piece("same", (0.3, 0.3, 0.3)), "cupboard", (0.55, 0.1, 0.5), (0.3, 0.3, 0.3))
    out = Put(piece("out", (0.3, 0.3, 0.3), stowed="upright"), "cupboard", (0.9, 0, 0), (0.3, 0.3, 0.3))
    words = {(p.piece.key.split("/")[0], w) for p, w in faults([low, on, air, same, out], space(load=5))}
    assert {("on", "lies on a fragile thing"), ("air", "hangs in the air"), ("same", "overlaps")} <= words
    assert ("out", "outside") in words and ("out", "too much weight") in words


def test_rolls_stand_fragile_things_lie_on_top_and_hooks_hold_what_they_may() -> None:
    roll = piece("roll", (1.37, 0.07, 0.07), stowed="upright", mass=3)
    box, lens = piece("box", (0.5, 0.5, 0.3), mass=4), piece("lens", (0.2, 0.2, 0.2), fragile=True)
    found = pack([roll, lens, box], [space(size=(0.5, 0.5, 1.5))])
    at = {put.piece.item: put for put in found.puts}
    assert not found.left and at["roll"].size[2] == 1.37
    hung = pack(
        [piece("light", (0.6, 0.2, 0.1), mass=1), piece("heavy", (0.6, 0.2, 0.1), mass=6)],
        [space("hooks", (1.0, 0.3, 1.0), hooks=4, each=3.0)],
    )
    assert [put.piece.item for put in hung.puts] == ["light"] and hung.left[
        0
    ].why == "it is too heavy for every place it would fit into"
    corner = pack([roll, box], [space("corner for rolls", (0.6, 0.6, 2.0))])
    assert all(put.at[2] == 0 for put in corner.puts)


def test_what_finds_no_place_is_told_why() -> None:
    tall = pack([piece("roll", (2.72, 0.08, 0.08), stowed="upright")], [space(size=(3.0, 0.5, 1.8))])
    assert tall.left[0].why == "it must stand upright, and no place is high enough"
    assert pack([piece("long", (3.0, 0.1, 0.1))], [space()]).left[0].why == "it is too long for every place"
    corner = (space().width ** 2 + space().depth ** 2 + space().height ** 2) ** 0.5
    leans = pack([piece("rod", (corner - 0.05, 0.02, 0.02))], [space()]).left[0].why
    assert "corner to corner" in leans and "straight" in leans
    full = pack([piece(f"b{i}", (0.9, 0.5, 0.9)) for i in range(4)], [space()])
    assert {one.why for one in full.left} == {"no room is left for it"}
    assert pack([piece("x", (0.1, 0.1, 0.1))], []).left[0].why == "no storage place is measured"


def test_what_is_used_most_lies_to_hand() -> None:
    """Two equal boxes, one behind the other: the one that sets use stands in front."""
    seldom, often = piece("seldom", (0.4, 0.25, 0.3)), piece("often", (0.4, 0.25, 0.3), used=3)
    found = pack([often, seldom], [space(size=(0.4, 0.5, 0.3))])
    at = {put.piece.item: put.at[1] for put in found.puts}
    assert at["often"] > at["seldom"]


# --- the way in --------------------------------------------------------------------------------------


def test_the_ladder_round_a_corner() -> None:
    """Published: a line round a right-angled turn between 8 and 27 ft is at most (8^⅔ + 27^⅔)^1½ = 46.87 ft, the
    usual calculus exercise."""
    assert longest_round(8.0, 27.0) == pytest.approx(13**1.5, rel=1e-6)
    assert longest_round(1.0, 1.0) == pytest.approx(2 * math.sqrt(2), rel=1e-6)


@settings(max_examples=40, deadline=None)
@given(st.floats(0.5, 1.6), st.floats(0.5, 1.6), st.floats(0.0, 0.3))
def test_a_thick_thing_round_a_turn_against_scipy(before: float, after: float, thick: float) -> None:
    """The same width of the turn minimised by SciPy; and a thing of that length touches, one longer does not pass."""
    room = lambda t: (before * math.sin(t) + after * math.cos(t) - thick) / (math.sin(t) * math.cos(t))  # noqa: E731
    least = minimize_scalar(room, bounds=(0.02, math.pi / 2 - 0.02), method="bounded", options={"xatol": 1e-10}).fun
    assert longest_round(before, after, thick) == pytest.approx(max(least, 0.0), rel=1e-4, abs=1e-6)
    assert longest_round(before, after, thick) <= longest_round(before, after) + 1e-9


def test_a_slid_rectangle_agrees_with_the_formula() -> None:
    """A strip with its two ends on the outer walls is clear of the inner corner just as far as the formula says."""
    before, after, thick = 0.9, 0.8, 0.12
    for longer, passes_it in ((-0.02, True), (0.02, False)):
        length = longest_round(before, after, thick) + longer
        clear = []
        for t in np.linspace(0.03, math.pi / 2 - 0.03, 2000):
            ends = np.array([length * math.cos(t), 0.0]), np.array([0.0, length * math.sin(t)])
            normal = np.array([math.sin(t), math.cos(t)])
            corner = np.array([before, after])
            clear.append(float((corner - ends[0]) @ normal) - thick)
        assert (min(clear) >= -1e-6) is passes_it


def test_doors_and_tilting() -> None:
    door = Passage.model_validate({"id": "d", "kind": "door", "width": 0.8})
    assert passes(door, 0.1) == math.inf and passes(door, 0.9) == 0.0
    turn = Passage.model_validate({"id": "t", "width": 0.8, "beyond": 0.9})
    high = Passage.model_validate({"id": "t", "width": 0.8, "beyond": 0.9, "height": 2.2})
    flat, tilted = passes(turn, 0.08), passes(high, 0.08)
    assert flat is not None and tilted is not None and tilted == pytest.approx(math.hypot(flat, 2.12))
    assert passes(Passage.model_validate({"id": "t", "width": 0.8}), 0.1) is None


# --- the ledger --------------------------------------------------------------------------------------


def test_litres_kilograms_and_pieces_are_counted() -> None:
    studio = parse(one_portrait())
    volume = 0.0
    for one in studio.gear:
        assert one.packed_length and one.packed_width and one.packed_height
        box = one.packed_length.value * one.packed_width.value * one.packed_height.value
        volume += 1000 * one.quantity * box
    assert line(studio, "stow.volume").need == pytest.approx(volume)
    assert line(studio, "stow.volume").have == pytest.approx(1000 * 1.0 * 0.6 * 2.2)
    assert line(studio, "stow.load").need == pytest.approx(
        sum(i.quantity * i.mass.value for i in studio.gear if i.mass)
    )
    assert line(studio, "stow.place").have == len(pieces_of(studio.gear))


def test_missing_sides_and_loads_are_unknown_and_say_where() -> None:
    data = one_portrait()
    del item(data, "box")["packed_width"]
    del data["room"]["places"][0]["load"]
    place, load_ = line(parse(data), "stow.place"), None
    assert place.verdict is Verdict.UNKNOWN and place.enter == "gear/box" and "softbox" in place.sentence
    data = one_portrait()
    del data["room"]["places"][0]["load"]
    load_ = line(parse(data), "stow.load")
    assert load_.verdict is Verdict.UNKNOWN and load_.enter == "room/places/cupboard"


def test_a_room_that_is_left_standing_stows_nothing_but_things_still_come_in() -> None:
    data = one_portrait()
    data["brief"]["schools"] = {"standing": "leave it standing"}
    data["room"]["passages"] = [{"id": "t", "width": 0.8, "beyond": 0.8}]
    codes = {m.code for m in ledger_of(parse(data)).lines if m.code.startswith("stow")}
    assert codes == {"stow.turn"} and line(parse(data), "stow.turn").verdict is Verdict.CLEAR


def test_the_demo_s_board_finds_no_place_and_the_remedy_lifts_it() -> None:
    ledger = ledger_of(demo())
    margin = next(m for m in ledger.lines if m.code == "stow.place")
    assert margin.verdict is Verdict.SHORT and "foam board" in margin.sentence
    options = remedies_of(demo(), margin, ledger)
    assert options and options[0].verdict is Verdict.CLEAR and not options[0].worse


def test_cloth_bends_round_a_turn_and_paper_does_not() -> None:
    data = one_portrait()
    data["room"]["passages"] = [{"id": "t", "width": 0.6, "beyond": 0.6}]
    item(data, "paper").update(packed_length=1.9, packed_width=0.1, packed_height=0.1)
    assert line(parse(data), "stow.turn").verdict is Verdict.SHORT
    item(data, "paper").update(material="fabric")
    assert line(parse(data), "stow.turn").verdict is Verdict.CLEAR


# --- report and striking -----------------------------------------------------------------------------


def test_the_report_has_every_piece_once() -> None:
    data = stow_data(demo())
    placed = [one for place in data["places"] for one in place["things"]]
    assert len(placed) + len(data["left"]) == len(pieces_of(demo().gear))
    assert data["places"][0]["mass"] <= 60 and 0 < data["places"][0]["filled"] < 1
    assert {one["id"] for one in data["sets"]} == {plan.id for plan in demo().sets}


def test_setting_up_and_striking_name_every_light_and_undo_it() -> None:
    plan = demo().sets[0]
    scene = scene_of(demo(), plan)
    assert scene is not None
    up, down = setting_up(scene), striking(scene)
    words = " ".join(task.words for task in up)
    assert all(light.name in words for light in scene.lights) and words.endswith("then of all")
    assert down[0].words.startswith("Switch all off") and len(down) == len(up) - 1
    assert 0 < minutes(down) < minutes(up)


def test_a_smaller_alternative_does_the_same_and_frees_room() -> None:
    data = one_portrait()
    box = load().find("softbox-60-60")
    assert box is not None
    bulky = box.model_dump(mode="json", exclude_none=True) | {"id": "bulky", "packed_length": 1.4, "packed_width": 0.5}
    data["gear"].append(bulky)
    found = {one.item.id: one for one in smaller(parse(data), load().all())}
    assert "bulky" in found and found["bulky"].instead.kind == "modifier" and found["bulky"].litres > 1
    assert spaces_of(parse(data).room.places)[0].volume > 0
