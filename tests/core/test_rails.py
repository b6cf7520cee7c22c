"""Clamps hang on rails that are there, and rails bear all that hangs on them together."""

from typing import Any

import numpy as np
import pytest
from helpers.studios import item, one_portrait, packed, parse
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import cumulative_trapezoid

from evrant.core.base.margins import Margin, Verdict
from evrant.core.base.tables.supports import GRAVITY, MODULUS
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.remedies import remedies_of
from evrant.core.mechanics import beams
from evrant.core.place.moves import change
from evrant.core.space.rails import rails_of
from evrant.core.space.scene import scene_of
from evrant.core.studio.studio import Studio
from evrant.drawing.sheet import sheet

Data = dict[str, Any]
RAIL: Data = {"id": "tube", "name": "Tube", "x": 0.5, "y": 2.9, "to_x": 4.5, "to_y": 2.9, "height": 2.5, "load": 12}
RAIL |= {"end_load": 12}


def clamped(rails: tuple[Data, ...] = (RAIL,), lights: int = 1, **place: Any) -> Data:
    """Heads on clamps under a tube along the wall, where the mount of the key is."""
    data = one_portrait()
    data["room"]["rails"] = list(rails)
    clamp = {"kind": "stand", "id": "clamp", "name": "Rail clamp", "use": "rail or crossbar", "mass": 0.4, "load": 8}
    data["gear"].append(packed(clamp | {"top": "16 mm spigot", "quantity": 4, "max_height": 4.0, "grip": 20}))
    item(data, "head")["quantity"] = item(data, "box")["quantity"] = 4
    key = data["sets"][0]["lights"][0]
    key |= {"support": "clamp", "x": 2.7, "y": 2.9, "height": 2.5, "bag": None, "modifier": None} | place
    data["sets"][0]["lights"] = [
        key | {"id": f"l{i}", "role": "key" if i == 0 else "fill", "x": key["x"] - 0.35 * i} for i in range(lights)
    ]
    return data


def judged(data: Data) -> dict[str, list[Margin]]:
    found: dict[str, list[Margin]] = {}
    for one in ledger_of(parse(data)).lines:
        found.setdefault(one.code, []).append(one)
    return found


# --- statics -----------------------------------------------------------------------------------------


@pytest.mark.parametrize(("mass", "span"), [(2.0, 2.0), (5.0, 3.5)])
def test_one_load_in_the_middle(mass: float, span: float) -> None:
    """Roark, case 1e: W L³ / (48 E I), half of W at each end."""
    stiffness = MODULUS["aluminium"] * beams.second_moment(0.035, 0.002)
    down, first, second = beams.under_loads([mass], [span / 2], span, 0.0, stiffness)
    assert down == pytest.approx(mass * GRAVITY * span**3 / (48 * stiffness), rel=1e-4)
    assert first == pytest.approx(second) and first == pytest.approx(mass * GRAVITY / 2)


def test_its_own_mass_alone_and_beside_a_load() -> None:
    stiffness = MODULUS["steel"] * beams.second_moment(0.028, 0.0015)
    down, first, _ = beams.under_loads([], [], 3.0, 0.98, stiffness)
    assert down == pytest.approx(beams.sag_spread(0.98, 3.0, stiffness), rel=1e-4)
    assert first == pytest.approx(0.98 * GRAVITY * 1.5)


@settings(deadline=None, max_examples=200)
@given(
    st.lists(st.tuples(st.floats(0.1, 12.0), st.floats(0.02, 0.98)), min_size=1, max_size=6),
    st.floats(0.8, 4.0),
    st.floats(0.1, 2.0),
)
def test_rails_at_random_against_integrated_curvature(
    loads: list[tuple[float, float]], span: float, metre: float
) -> None:
    """Moment of every load, integrated twice with both ends held; reactions by moments about the other end."""
    stiffness = 4000.0
    masses, places = [m for m, _ in loads], [share * span for _, share in loads]
    down, first, second = beams.under_loads(masses, places, span, metre, stiffness)
    whole = (sum(masses) + metre * span) * GRAVITY
    about = sum(m * GRAVITY * (span - a) for m, a in zip(masses, places, strict=True)) + metre * GRAVITY * span**2 / 2
    assert first == pytest.approx(about / span) and first + second == pytest.approx(whole)
    x = np.linspace(0, span, 8001)
    moment = first * x - metre * GRAVITY * x**2 / 2
    for m, a in zip(masses, places, strict=True):
        moment -= m * GRAVITY * np.maximum(x - a, 0)
    slope = cumulative_trapezoid(-moment / stiffness, x, initial=0)
    bent = cumulative_trapezoid(slope, x, initial=0)
    bent -= bent[-1] * x / span
    assert down == pytest.approx(float(bent.max()), rel=2e-3)


# --- in the plan -------------------------------------------------------------------------------------


def test_a_clamp_with_no_rail_is_unknown_and_says_where_to_enter_one() -> None:
    told = judged(clamped(rails=()) | {})["support.rail"]
    # The background's crossbar is a rail too, but the key is far from it.
    assert len(told) == 1 and told[0].verdict is Verdict.SHORT and "crossbar" in told[0].reason
    bare = clamped(rails=())
    bare["sets"][0]["background"] = {}
    told = judged(bare)["support.rail"]
    assert told[0].verdict is Verdict.UNKNOWN and told[0].enter == "room"


@pytest.mark.parametrize(("off", "verdict"), [(0.0, Verdict.CLEAR), (0.3, Verdict.SHORT), (1.0, Verdict.SHORT)])
def test_a_clamp_beside_its_rail_hangs_on_nothing(off: float, verdict: Verdict) -> None:
    told = judged(clamped(y=2.9 - off))["support.rail"][0]
    assert told.verdict is verdict and told.need == pytest.approx(off, abs=1e-6)


def test_the_remedy_slides_it_onto_the_rail() -> None:
    studio: Studio = parse(clamped(y=2.4, height=2.2))
    ledger = ledger_of(studio)
    told = next(m for m in ledger.lines if m.code == "support.rail")
    offers = {r.label: r for r in remedies_of(studio, told, ledger)}
    slid = offers["Slide the key onto the tube"]
    assert slid.verdict is Verdict.CLEAR
    edit = next(p for p in offers.values() if p is slid).edit
    assert edit["fields"]["y"] == pytest.approx(2.9) and edit["fields"]["height"] == pytest.approx(2.5)


@pytest.mark.parametrize(("lights", "verdict"), [(1, Verdict.CLEAR), (4, Verdict.CLEAR), (6, Verdict.SHORT)])
def test_everything_on_a_rail_counts_together(lights: int, verdict: Verdict) -> None:
    """A head of 1.6 kg and its clamp of 0.4 are 2 kg: six of them are too much for a rail of 12 with its ±."""
    data = clamped(lights=lights)
    rail = dict(RAIL) | {"load": 11.5}
    data["room"]["rails"] = [rail]
    told = judged(data)["support.rail_load"]
    assert len(told) == 1 and told[0].need == pytest.approx(2.0 * lights) and told[0].verdict is verdict
    assert told[0].reason.count("kg") >= lights


def test_an_end_that_bears_little_is_told_by_its_reaction() -> None:
    """2 kg at a tenth of the span: nine tenths of it, 1.8 kg, on the near end."""
    near = clamped(rails=(RAIL | {"load": None, "end_load": 1.5},), x=0.9)
    told = judged(near)["support.rail_load"][0]
    assert told.verdict is Verdict.SHORT and told.need == pytest.approx(1.8, abs=1e-6)
    assert "near one end" in told.sentence
    middle = clamped(rails=(RAIL | {"load": None, "end_load": 1.5},), x=2.5)
    assert judged(middle)["support.rail_load"][0].verdict is Verdict.CLEAR


def test_what_a_rail_carries_is_asked_for_and_a_described_tube_sags() -> None:
    blank = clamped(rails=(RAIL | {"load": None, "end_load": None, "x": 0.05, "to_x": 4.95},))
    assert judged(blank)["support.rail_load"][0].verdict is Verdict.UNKNOWN
    assert "support.rail_sag" not in judged(blank)
    thin = clamped(rails=(RAIL | {"diameter": 0.016, "thickness": 0.001, "material": "aluminium"},), lights=3)
    stiff = clamped(rails=(RAIL | {"diameter": 0.05, "thickness": 0.003, "material": "steel"},), lights=3)
    assert judged(thin)["support.rail_sag"][0].verdict is Verdict.SHORT
    assert judged(stiff)["support.rail_sag"][0].verdict is Verdict.CLEAR


def test_the_crossbar_carries_its_rolls_beside_what_is_clamped_to_it() -> None:
    data = clamped(rails=(), x=0.9, y=1.9, height=2.4)
    item(data, "stands")["load"] = 6
    told = judged(data)["support.rail_load"][0]
    assert told.need == pytest.approx(3.1 + 2.0) and "background" in told.reason


def test_rails_are_drawn_and_move_with_edits() -> None:
    studio = parse(clamped())
    here = scene_of(studio, studio.sets[0])
    assert here is not None
    assert [rail.name for rail in rails_of(here)] == ["tube", "background's crossbar"]
    assert sheet(here, (), 1200, 800).count("rail-line") == 3, "plan and both sections"
    from evrant.core.edits.language import SetFields

    moved = change(studio, SetFields(target="room/rails/tube", fields={"height": 2.0}))
    assert next(m for m in ledger_of(moved).lines if m.code == "support.rail").verdict is Verdict.SHORT
