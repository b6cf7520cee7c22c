"""A boom arm on a stand of its own, the lock of an arm, and rails that lie on rails."""

from typing import Any

import numpy as np
import pytest
from helpers.studios import item, one_portrait, packed, parse
from hypothesis import given, settings
from hypothesis import strategies as st

from evrant.catalogue import load
from evrant.core.base.margins import Margin, Verdict
from evrant.core.base.tables.supports import DENSITY, GRAVITY
from evrant.core.edits.language import EDIT
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.remedies import remedies_of
from evrant.core.judge.rules.set.count import uses
from evrant.core.mechanics import beams
from evrant.core.place.moves import change
from evrant.core.search.support_table import support_table
from evrant.core.space.scene import Scene, scene_of
from evrant.core.studio.studio import Studio

Data = dict[str, Any]
KEY = "sets/s/lights/key"
ARM = {
    "kind": "stand",
    "id": "arm",
    "name": "Boom arm",
    "use": "boom arm",
    "mass": 1.1,
    "boom_mass": 1.1,
    "reach": 1.2,
    "tail": 0.5,
    "load": 4.0,
    "shortest": 0.6,
    "load_far": 3.0,
    "counterweight": 3.0,
    "top": "16 mm spigot",
    "seat": "16 mm spigot",
}


def scene(studio: Studio) -> Scene:
    found = scene_of(studio, studio.sets[0])
    assert found is not None
    return found


def on_arm(**fields: Any) -> Data:
    """The plain portrait with its key on an arm that is put on the stand it stood on."""
    data = one_portrait()
    data["gear"].append(packed(ARM | fields))
    data["sets"][0]["lights"][0] |= {"support": "arm", "stands_on": "stand", "boom": 90.0, "boom_length": 0.8}
    return data


def lines(data: Data) -> dict[str, Margin]:
    return {m.code: m for m in ledger_of(parse(data)).lines if KEY in m.about or m.code == "support.lock"}


# --- arm and stand -------------------------------------------------------------------------------------


def test_arm_and_stand_are_one_boom_stand_with_the_figures_of_both() -> None:
    """Against the same boom stand entered as one thing: every line of the light reads the same."""
    apart = on_arm()
    stand = item(apart, "stand")
    whole = one_portrait()
    of_column = {name: stand[name] for name in ("min_height", "max_height", "foot_radius") if name in stand}
    one = ARM | of_column | {"id": "both", "use": "boom stand", "mass": 1.1 + stand["mass"]}
    whole["gear"].append(packed(one))
    whole["sets"][0]["lights"][0] |= {"support": "both", "boom": 90.0, "boom_length": 0.8}
    first, second = lines(apart), lines(whole)
    for code in ("support.reach", "support.load", "support.counterweight", "support.tipping", "support.boom_reach"):
        assert first[code].margin == pytest.approx(second[code].margin, abs=1e-9), code
        assert first[code].verdict is second[code].verdict
    assert "support.column" not in second


def test_the_stand_carries_arm_counterweight_and_light() -> None:
    """1.1 of arm, 3.0 of counterweight, head and softbox: all of it on the stand's own figure."""
    data = on_arm()
    above = sum(item(data, key)["mass"] for key in ("head", "box"))
    item(data, "stand")["load"] = 8.0
    found = lines(data)["support.column"]
    assert found.need == pytest.approx(1.1 + 3.0 + above) and found.verdict is Verdict.CLEAR
    item(data, "stand")["load"] = 4.0
    weak = lines(data)["support.column"]
    assert weak.verdict is Verdict.SHORT and weak.margin == pytest.approx(4.0 - 4.1 - above)
    del item(data, "stand")["load"]
    assert lines(data)["support.column"].verdict is Verdict.UNKNOWN


def test_an_arm_on_nothing_is_unknown_and_a_remedy_puts_it_on_a_stand() -> None:
    data = on_arm()
    data["sets"][0]["lights"][0]["stands_on"] = None
    item(data, "stand")["load"] = 9.0
    studio = parse(data)
    found = lines(data)["support.column"]
    assert found.verdict is Verdict.UNKNOWN and "stands on nothing" in found.sentence
    remedy = next(one for one in remedies_of(studio, found, ledger_of(studio)) if "Put it on" in one.label)
    after = change(studio, EDIT.validate_python(remedy.edit))
    assert after.sets[0].lights[0].stands_on == "stand"
    assert scene(after).lights[0].column is not None


@pytest.mark.parametrize(("seat", "verdict"), [("16 mm spigot", Verdict.CLEAR), ("28 mm spigot", Verdict.SHORT)])
def test_the_arms_seat_must_fit_the_stand(seat: str, verdict: Verdict) -> None:
    data = on_arm(seat=seat)
    assert lines(data)["support.joint"].verdict is verdict


def test_both_are_counted_and_both_are_on_the_table() -> None:
    studio = parse(on_arm())
    here = scene(studio)
    assert uses(here)["arm"] == uses(here)["stand"] == 1
    table = support_table(studio, here, KEY, load().all())
    ours = next(one for one in table.options if one.used)
    assert ours.item.id == "arm" and ours.column is not None and ours.name.endswith(f"on {ours.column.name}")
    assert ours.floor > 0.1, "it takes the floor of its stand"
    bought = next(one for one in table.options if one.item.id == "arm-180-heavy")
    assert not bought.ours and bought.column is not None and bought.price == bought.item.price
    after = change(studio, bought.edit)
    assert after.sets[0].lights[0].stands_on == bought.column.id
    plain = next(one for one in table.options if one.item.use == "light stand" and one.ours)
    freed = change(studio, plain.edit).sets[0].lights[0]
    assert freed.support == "stand" and freed.stands_on is None


def test_where_no_stand_is_at_hand_both_are_planned() -> None:
    data = on_arm()
    data["gear"] = [one for one in data["gear"] if one["id"] not in ("stand", "arm")]
    data["sets"][0]["lights"][0] |= {"support": None, "stands_on": None}
    studio = parse(data)
    table = support_table(studio, scene(studio), KEY, load().all())
    arm = next(one for one in table.options if one.item.use == "boom arm")
    assert len(arm.bought) == 2 and arm.column is not None
    assert arm.price == arm.item.price + arm.column.price  # type: ignore[operator]
    assert {one.id for one in change(studio, arm.edit).gear} >= {arm.item.id, arm.column.id}


# --- the lock of an arm --------------------------------------------------------------------------------


@pytest.mark.parametrize(("grip", "verdict"), [(80.0, Verdict.CLEAR), (40.0, Verdict.SHORT)])
def test_a_wall_arms_lock_holds_twice_what_turns_it(grip: float, verdict: Verdict) -> None:
    """2.3 kg at 1.2 m and 1.6 kg of arm, half of it out: 9.81 (2.76 + 0.96) = 36 N m by hand."""
    data = one_portrait()
    arm = {"kind": "stand", "id": "wall", "name": "Wall boom", "use": "wall boom", "reach": 1.5, "load": 6}
    more = {"shortest": 0.6, "load_far": 5, "max_height": 2.8, "boom_mass": 1.6, "mass": 3.0, "grip": grip}
    data["gear"].append(packed(arm | more | {"top": "16 mm spigot", "screws": 4, "plate": 0.16}))
    data["sets"][0]["lights"][0] |= {"support": "wall", "boom": 90.0, "boom_length": 1.2}
    found = lines(data)["support.lock"]
    mass = sum(item(data, key)["mass"] for key in ("head", "box"))
    assert found.need == pytest.approx(GRAVITY * (mass * 1.2 + 1.6 * 1.2 / 2), rel=1e-6)
    assert found.have == pytest.approx(grip / 2) and found.verdict is verdict
    del item(data, "wall")["grip"]
    assert "support.lock" not in lines(data), "the maker's load drawn out speaks for the lock"


def test_drawing_the_arm_in_is_a_remedy_that_works() -> None:
    data = one_portrait()
    arm = {"kind": "stand", "id": "wall", "name": "Wall boom", "use": "wall boom", "reach": 1.5, "load": 6}
    more = {"shortest": 0.6, "load_far": 5, "max_height": 2.8, "boom_mass": 1.6, "mass": 3.0, "grip": 60.0}
    data["gear"].append(packed(arm | more | {"top": "16 mm spigot", "screws": 4, "plate": 0.16}))
    data["sets"][0]["lights"][0] |= {"support": "wall", "boom": 90.0, "boom_length": 1.4}
    found = lines(data)["support.lock"]
    assert found.verdict is Verdict.SHORT
    remedies = remedies_of(parse(data), found, ledger_of(parse(data)))
    assert any("Draw the arm in" in one.label for one in remedies)


# --- rails on rails ------------------------------------------------------------------------------------

SECTION = {"diameter": 0.035, "thickness": 0.002, "material": "aluminium"}


def grid(at: float = 2.7, **crossing: Any) -> Data:
    """Two rails along the room 2 m apart carry a crossing tube with one head on a clamp."""
    data = one_portrait()
    along = {"x": 0.5, "to_x": 4.5, "height": 2.55, "load": 20, "end_load": 30, **SECTION}
    cross = {"x": at, "to_x": at, "y": 1.0, "to_y": 3.0, "height": 2.5, "load": 12, **SECTION}
    data["room"]["rails"] = [
        along | {"id": "near", "name": "Near rail", "y": 1.0, "to_y": 1.0},
        along | {"id": "far", "name": "Far rail", "y": 3.0, "to_y": 3.0},
        cross | {"id": "cross", "name": "Cross tube", "first_on": "near", "second_on": "far"} | crossing,
    ]
    clamp = {"kind": "stand", "id": "clamp", "name": "Rail clamp", "use": "rail or crossbar", "mass": 0.4, "load": 8}
    data["gear"].append(packed(clamp | {"top": "16 mm spigot", "max_height": 4.0, "grip": 20}))
    key = data["sets"][0]["lights"][0]
    key |= {"support": "clamp", "bag": None, "modifier": None, "x": at, "y": 2.4, "height": 2.5}
    return data


def loads(data: Data) -> dict[str, Margin]:
    return {m.about[0].rpartition("/")[2]: m for m in ledger_of(parse(data)).lines if m.code == "support.rail_load"}


def test_a_crossing_tube_hands_its_load_on() -> None:
    """Lever by hand: the head and clamp at 1.4 of 2.0 m put 7/10 on the far rail, and each gets half the tube."""
    data = grid()
    found = loads(data)
    head = item(data, "head")["mass"] + 0.4
    tube = 2.0 * beams.tube_mass(0.035, 0.002, DENSITY["aluminium"])
    assert found["cross"].need == pytest.approx(head)
    assert found["far"].need == pytest.approx(0.7 * head + tube / 2, rel=1e-6)
    assert found["near"].need == pytest.approx(0.3 * head + tube / 2, rel=1e-6)
    assert all(m.verdict is Verdict.CLEAR for m in found.values())
    assert "cross tube with what is on it" in found["far"].reason


@given(
    places=st.lists(st.floats(0.0, 2.0), min_size=1, max_size=4),
    masses=st.lists(st.floats(0.2, 8.0), min_size=4, max_size=4),
    across=st.lists(st.floats(0.2, 3.8), min_size=2, max_size=2),
)
@settings(max_examples=40, deadline=None)
def test_two_floors_of_bars_against_one_set_of_equations(
    places: list[float], masses: list[float], across: list[float]
) -> None:
    """Forces and moments of all bars at once, solved as one linear system, against bar after bar."""
    span, long = 2.0, 4.0
    ends = []
    for _ in across:
        _, first, second = beams.under_loads(masses[: len(places)], places, span, 0.5, 1000.0)
        ends.append((first, second))
    _, left, right = beams.under_loads([one[1] / GRAVITY for one in ends], across, long, 0.8, 2000.0)
    # Unknowns: two reactions of each crossing bar, two of the carrying one.
    weight = GRAVITY * (sum(masses[: len(places)]) + 0.5 * span)
    turn = GRAVITY * (sum(m * p for m, p in zip(masses, places, strict=False)) + 0.5 * span * span / 2)
    a, b = np.zeros((6, 6)), np.zeros(6)
    for n in range(2):
        a[2 * n, 2 * n] = a[2 * n, 2 * n + 1] = 1.0
        a[2 * n + 1, 2 * n + 1] = span
        b[2 * n], b[2 * n + 1] = weight, turn
    a[4, 4] = a[4, 5] = 1.0
    a[4, [1, 3]] = -1.0
    b[4] = GRAVITY * 0.8 * long
    a[5, 5] = long
    a[5, [1, 3]] = [-place for place in across]
    b[5] = GRAVITY * 0.8 * long * long / 2
    solved = np.linalg.solve(a, b)
    assert (left, right) == pytest.approx((solved[4], solved[5]), rel=1e-9)


def test_a_weak_carrier_is_short_though_nothing_is_clamped_to_it() -> None:
    data = grid()
    data["room"]["rails"][1]["load"] = 1.0
    assert loads(data)["far"].verdict is Verdict.SHORT
    assert loads(data)["cross"].verdict is Verdict.CLEAR


def test_what_is_not_known_above_is_not_known_below() -> None:
    data = grid()
    for name in SECTION:
        del data["room"]["rails"][2][name]
    found = loads(data)
    assert found["far"].verdict is found["near"].verdict is Verdict.UNKNOWN
    assert "own mass is not known" in found["far"].sentence
    heavy = grid()
    del item(heavy, "head")["mass"]
    assert loads(heavy)["far"].verdict is Verdict.UNKNOWN


def test_ends_in_the_air_and_rings_are_said() -> None:
    off = grid(height=2.2)
    off["sets"][0]["lights"][0]["height"] = 2.2
    assert any("lie with one end on the near rail" in m.sentence for m in ledger_of(parse(off)).lines)
    ring = grid()
    ring["room"]["rails"][1] |= {"first_on": "cross"}
    told = [m for m in ledger_of(parse(ring)).lines if m.code == "support.rail_load"]
    assert told and all(m.verdict is Verdict.UNKNOWN and "in a ring" in m.sentence for m in told)


@pytest.mark.parametrize(
    ("rail", "fields", "verdict"),
    [
        ("cross", {"first_on": None}, Verdict.UNKNOWN),
        ("cross", {"first_on": None, "end_load": 12}, Verdict.CLEAR),  # somebody knows what holds it
        ("near", {"end_load": None}, Verdict.UNKNOWN),  # 50 cm off the walls
        ("near", {"end_load": None, "x": 0.05, "to_x": 4.95}, Verdict.CLEAR),  # brackets at both
        ("near", {"end_load": None, "x": 0.05}, Verdict.UNKNOWN),  # one end only
    ],
)
def test_something_holds_every_end(rail: str, fields: Data, verdict: Verdict) -> None:
    data = grid()
    next(one for one in data["room"]["rails"] if one["id"] == rail).update(fields)
    found = loads(data)[rail]
    assert found.verdict is verdict
    assert verdict is Verdict.CLEAR or "nothing is said to hold it there" in found.sentence


def test_what_hangs_on_nothing_changes_no_ledger() -> None:
    data = grid()
    data["sets"][0]["lights"][0] |= {"support": "stand", "x": 2.0, "y": 2.0, "height": 1.9}
    assert not loads(data)
    for name in SECTION:
        del data["room"]["rails"][2][name]
    assert not loads(data), "an empty tube that nobody has measured is no line either"


# --- reach overhead goes by the shot -------------------------------------------------------------------


@pytest.mark.parametrize(("focal", "enough"), [(0.085, True), (0.024, False)])
def test_a_boom_that_serves_a_face_shows_its_stand_at_full_length(focal: float, enough: bool) -> None:
    """A light over the head on 1.0 m of boom: its stand is out of a tight frame and inside a wide one."""
    data = on_arm()
    data["shots"][0] |= {"crop": "head and shoulders" if enough else "full length", "orientation": "landscape"}
    item(data, "stand")["max_height"] = 3.0
    data["sets"][0]["camera"]["lens"] = "l50"
    item(data, "l50")["focal"] = focal
    here = scene(parse(data))
    assert here.mark is not None
    light = data["sets"][0]["lights"][0]
    light |= {"role": "top light", "x": float(here.mark[0]), "y": float(here.mark[1]), "height": 2.5}
    light["boom_length"] = 1.0
    short = [m for m in ledger_of(parse(data)).lines if m.code == "frame.intrusion" and KEY in m.about]
    assert short
    assert any(m.verdict is Verdict.SHORT for m in short) is not enough
