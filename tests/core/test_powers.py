"""All powers of a set at once: the exposure asked for is read back, roles keep their ratios, ends of ranges hold."""

import math
from collections.abc import Callable
from typing import Any

import numpy as np
import pytest
from helpers.studios import item, one_portrait, packed, parse
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import lsq_linear

from evrant.core.base.margins import Margin, Verdict
from evrant.core.edits.language import SetFields
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.remedies import remedies_of
from evrant.core.light import account
from evrant.core.light.lit import Lit, lit
from evrant.core.light.powers import FILL, Asked, solved
from evrant.core.place.moves import change
from evrant.core.space.scene import scene_of

Data = dict[str, Any]
AMOUNT = st.floats(0.5, 500.0)


def asked(front: list[float], behind: list[float], ratio: list[float], tone: list[bool], **other: Any) -> Asked:
    count = len(front)
    usual: dict[str, Any] = {
        "low": np.full(count, 1e-9),
        "high": np.full(count, 1e9),
        "needed": 100.0,
        "ground": None,
        "key": 0,
    }
    arrays = (np.array(front, float), np.array(front, float), np.array(behind, float), np.array(ratio, float))
    return Asked(*arrays, np.array(tone, bool), **usual | other)


@settings(deadline=None)
@given(st.lists(AMOUNT, min_size=1, max_size=5), st.floats(0.05, 1.0), AMOUNT)
def test_subject_and_background_get_what_is_asked(front: list[float], ratio: float, back: float) -> None:
    """Against the same equations given to a general least-squares solver with bounds."""
    ratios = [1.0] + [ratio] * (len(front) - 1) + [0.0]
    behind = [f * 0.1 for f in front] + [back * 20]
    ask = asked([*front, 0.02], behind, ratios, [False] * len(front) + [True], ground=60.0 + 10 * len(front))
    powers = solved(ask, np.full(len(front) + 1, np.nan))
    assert ask.front @ powers == pytest.approx(100.0, rel=1e-9)
    assert ask.behind @ powers == pytest.approx(ask.ground, rel=1e-9)
    level = ask.front * powers
    assert level[1:-1] == pytest.approx([ratio * level[0]] * (len(front) - 1), rel=1e-9)
    rows = [ask.front, ask.behind]
    each = np.diag(ask.front)
    rows += [each[i] - ratio * each[0] for i in range(1, len(front))]
    sides = [100.0, ask.ground, *[0.0] * (len(front) - 1)]
    other = lsq_linear(np.array(rows), np.array(sides, dtype=float), bounds=(0, np.inf), tol=1e-14)
    assert powers == pytest.approx(other.x, rel=1e-4, abs=1e-9)


def test_what_is_typed_stands_and_the_rest_makes_up_for_it() -> None:
    ask = asked([100, 50], [0, 0], [1, 0.35], [False, False])
    powers = solved(ask, np.array([np.nan, 1.0]))
    assert powers[1] == 1.0 and ask.front @ powers == pytest.approx(100.0)
    key = solved(ask, np.array([0.5, np.nan]))
    assert key[1] * 50 == pytest.approx(0.35 * 50), "beside a typed key the fill keeps its ratio"


def test_a_fill_at_its_lowest_leaves_less_to_the_key_and_a_weak_key_keeps_the_ratio() -> None:
    low = asked([200, 400], [0, 0], [1, 0.35], [False, False], low=np.array([0.01, 0.15]))
    powers = solved(low, np.full(2, np.nan))
    assert powers == pytest.approx([0.2, 0.15]), "60 of the 100 come from the fill, whatever is wanted"
    weak = asked([50, 400], [0, 0], [1, 0.35], [False, False], high=np.array([1.0, 1.0]))
    powers = solved(weak, np.full(2, np.nan))
    assert powers[0] == 1.0 and powers[1] * 400 == pytest.approx(0.35 * 50), "the contrast stays; the exposure is short"


def test_room_light_never_takes_more_than_three_quarters() -> None:
    ask = asked([100, 300], [0, 0], [1, 0], [False, False])
    powers = solved(ask, np.array([np.nan, 1.0]))
    assert powers == pytest.approx([0.25, 1.0])


# --- sets ---------------------------------------------------------------------------------------------


def painted(**shot: Any) -> Data:
    data = one_portrait()
    data["room"] |= {"floor": "wood", "ceiling": {"lrv": 85, "colour": "#ffffff"}}
    for wall in data["room"]["walls"]:
        wall["finish"] = {"lrv": 80, "colour": "#ffffff"}
    item(data, "paper")["reflectance"] = 36
    item(data, "head")["quantity"] = 4
    data["shots"][0] |= shot
    return data


def beside(data: Data, role: str, **where: Any) -> Data:
    light = {"id": role.replace(" ", "-"), "role": role, "head": "head", "support": "stand", **where}
    data["sets"][0]["lights"].append(light)
    return data


def with_fill(**shot: Any) -> Data:
    return beside(painted(**shot), "fill", modifier="box", x=2.2, y=0.9, height=1.7)


def backlit(tone: str) -> Data:
    """A head in a dish on the background, beside the subject and shielded from it."""
    data = with_fill(tone=tone, aperture=4)
    for wall in data["room"]["walls"]:
        wall["finish"]["lrv"] = 30
    item(data, "paper")["reflectance"] = {"white": 85, "grey": 36, "black": 5}[tone]
    dish = {"kind": "modifier", "id": "dish", "name": "dish", "form": "reflector dish", "beam": 50, "loss": 0}
    data["gear"].append(packed(dish | {"width": 0.18, "efficiency": 0.7}))
    behind = {"x": 1.0, "y": 0.6, "height": 1.2, "aim_x": 0.2, "aim_y": 2.0, "aim_height": 1.4}
    beside(data, "background light", modifier="dish", **behind)
    return data


def from_lamps(**fields: Any) -> Data:
    data = with_fill(shutter=0.02, iso=1600)
    data["gear"] = [g for g in data["gear"] if g["id"] != "head"]
    lamp = {"kind": "lamp", "id": "head", "name": "lamp", "status": "owned", "supply": "mains", "flicker": "none"}
    data["gear"].append({**lamp, "form": "spot", "lumens": 9000, "dims_to": 0.01, "quantity": 4, **fields})
    return data


def by_window() -> Data:
    data = with_fill(around="daylight", shutter=1 / 60)
    data["room"]["windows"] = [
        {"id": "w", "name": "window", "wall": "west", "offset": 1, "width": 1.2, "height": 1.2, "sill": 0.9,
         "daylight": 3000}
    ]  # fmt: skip
    return data


SETS: dict[str, Callable[[], Data]] = {
    "key alone": painted,
    "key and fill": with_fill,
    "white roll": lambda: backlit("white"),
    "grey roll": lambda: backlit("grey"),
    "black roll": lambda: backlit("black"),
    "filmed by lamps": from_lamps,
    "flash beside a window": by_window,
    "flat": lambda: with_fill(contrast="flat"),
    "strong": lambda: with_fill(contrast="strong"),
}


def state_of(data: Data) -> Lit:
    studio = parse(data)
    scene = scene_of(studio, studio.sets[0])
    assert scene is not None
    state = lit(scene)
    assert isinstance(state, Lit)
    return state


def line(data: Data, code: str) -> Margin:
    return next(m for m in ledger_of(parse(data)).lines if m.code == code)


@pytest.mark.parametrize("name", SETS)
def test_the_exposure_solved_for_is_the_exposure_read_back(name: str) -> None:
    """Within 0.05 stop where heads have every power; here in tenths, and the key takes up what others' steps leave."""
    data = SETS[name]()
    item(data, "head")["steps" if item(data, "head")["kind"] == "flash" else "dims_to"] = (
        "tenths" if item(data, "head")["kind"] == "flash" else 0.001
    )
    state = state_of(data)
    assert state.needed is not None
    assert abs(math.log2(state.total("face") / state.needed)) < 0.06
    assert line(data, "light.exposure").verdict is Verdict.CLEAR


@pytest.mark.parametrize("contrast", ["flat", "soft", "medium", "strong"])
def test_the_fill_goes_by_the_contrast_wanted(contrast: str) -> None:
    state = state_of(with_fill(contrast=contrast))
    key, fill = (state.measured(i) * state.wish(i) for i in (0, 1))
    assert math.log2(fill / key) == pytest.approx(FILL[contrast], abs=1e-6)


def test_a_typed_fill_that_is_too_strong_is_said_and_mended() -> None:
    data = with_fill()
    data["sets"][0]["lights"][0]["power"] = 0.5
    data["sets"][0]["lights"][1]["power"] = 1.0
    found = line(data, "light.exposure")
    state = state_of(data)
    assert state.needed is not None
    off = math.log2((0.5 * state.measured(0) + state.measured(1)) / state.needed)
    assert found.verdict is Verdict.SHORT and found.margin == pytest.approx(0.5 - off)
    assert "too bright" in found.sentence
    studio = parse(data)
    offers = remedies_of(studio, found, ledger_of(studio))
    free = next(one for one in offers if "follow the aperture" in one.label)
    assert free.verdict is Verdict.CLEAR


def test_too_dark_is_said_too() -> None:
    data = painted()
    data["sets"][0]["lights"][0]["power"] = 1 / 64
    found = line(data, "light.exposure")
    assert found.verdict is Verdict.SHORT and "too dark" in found.sentence


def test_lamps_that_do_not_dim_are_too_strong_and_a_shorter_time_helps() -> None:
    data = from_lamps(dims_to=None, lumens=60_000)
    found = line(data, "light.exposure")
    assert found.verdict is Verdict.SHORT and "too bright" in found.sentence
    lowest = line(data, "light.power_lowest")
    assert lowest.verdict is Verdict.SHORT and "no dimming is stated" in lowest.reason
    studio = parse(data)
    offers = remedies_of(studio, found, ledger_of(studio))
    assert any("Expose for" in one.label or "ISO" in one.label for one in offers)


@pytest.mark.parametrize(("tone", "wish"), [("white", 0.90), ("grey", 0.18)])
def test_a_background_lit_by_its_own_powers_has_its_tone(tone: str, wish: float) -> None:
    """What the lights were set for is what is read: against the exposure, not against a face that came out brighter."""
    state = state_of(backlit(tone))
    ground = account.ground(state)
    assert ground is not None
    at_limit = float(state.powers[2]) in (1.0, 1 / 64)
    assert at_limit or ground.mean == pytest.approx(wish, rel=0.15)


def test_a_window_alone_needs_a_time_and_then_has_a_line() -> None:
    data = by_window()
    data["sets"][0]["lights"] = []
    data["shots"][0].pop("shutter")
    assert line(data, "light.exposure").verdict is Verdict.UNKNOWN
    data["shots"][0]["shutter"] = 1 / 60
    dark = line(data, "light.exposure")
    assert dark.verdict is Verdict.SHORT and "too dark" in dark.sentence
    state = state_of(data)
    assert state.needed is not None
    stops = math.log2(state.needed / state.total("face"))
    studio = change(parse(data), SetFields(target="shots/half", fields={"shutter": 1 / 60 * 2**stops}))
    found = next(m for m in ledger_of(studio).lines if m.code == "light.exposure")
    assert found.margin == pytest.approx(0.5, abs=1e-3)
