"""Statics of supports against handbook cases and against solvers of their own.

Named sources: W. C. Young, R. G. Budynas, Roark's Formulas for Stress and Strain, 7th ed., table 8.1;
J. L. Meriam, L. G. Kraige, Engineering Mechanics: Statics (equilibrium, friction); Machinery's Handbook (sections).
The figures are computed by hand from the formulas printed there; cases from memory.
"""

import math
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray
from scipy.optimize import linprog

from evrant.core.mechanics import beams, standing

Array = NDArray[np.float64]
ALUMINIUM = 69e9


def tripod(radius: float, first: float = 0.0, count: int = 3) -> Array:
    return standing.feet(np.zeros(2), np.asarray(radius), count, first)


# --- worked values ---------------------------------------------------------------------------------


def midway() -> float:
    """Sag of that tube under 6 kg at one place in the middle, without its own."""
    both = beams.sag_of_bar(6.0, 2.9, 0.030, 0.0015, "aluminium", 1e-6)
    return both - beams.sag_spread(beams.tube_mass(0.030, 0.0015, 2700), 2.9, ALUMINIUM * TUBE)


TUBE = beams.second_moment(0.030, 0.0015)
WORKED: list[tuple[str, float, float]] = [
    ("second moment of a 30 × 1.5 mm tube: π(30⁴ − 27⁴)/64 mm⁴", TUBE * 1e12, 13673.8),
    ("second moment of a solid 20 mm bar: π 20⁴/64 mm⁴", beams.second_moment(0.020, 0.010) * 1e12, 7853.98),
    ("a metre of the tube, 2700 π(0.030² − 0.027²)/4 kg", beams.tube_mass(0.030, 0.0015, 2700), 0.36262),
    ("Roark 8.1 2e, 6 kg over 2.9 m of it [mm]", beams.sag_spread(6 / 2.9, 2.9, ALUMINIUM * TUBE) * 1000, 19.8),
    ("the same with the tube's own mass [mm]", beams.sag_of_bar(6.0, 2.9, 0.030, 0.0015, "aluminium") * 1000, 23.3),
    ("Roark 8.1 1e, 6 kg at the middle of 2.9 m, PL³/48EI less the tube [mm]", midway() * 1000, 31.70),
    ("larger end reaction, 10 kg at 0.5 of 2 m: 98.1 × 1.5 / 2 N", beams.end_reaction(10, 2, 0.5), 73.575),
    ("counterweight, 3 kg at 1.2 m, tail 0.6 m, no boom [kg]", beams.counterweight(3, 1.2, 0, 0.6), 6.0),
    ("the same, boom 1.5 kg: 6 + 1.5 × 0.3 / 0.6 kg", beams.counterweight(3, 1.2, 1.5, 0.6), 6.75),
    ("5 kg at 0.7 m drawn out to 1.3 m: 5 × 0.7 / 1.3 kg", beams.derated(5, 0.7, 1.3, 0, 0.5), 2.6923),
    ("the same, boom 1.8 kg: (3.5 + (0.49 − 1.69)/2) / 1.3 kg", beams.derated(5, 0.7, 1.3, 1.8, 0.5), 2.2308),
    ("9 kg at 0.9 m, 5 kg at 1.8 m, at 1.35 m: 8.55 / 1.35 kg", beams.derated_curve(9, 0.9, 5, 1.8, 1.35), 6.3333),
    ("upper screw of two, 3 kg at 1 m on a plate of 15 cm: 1.5 + 20 kg", beams.fixing_load(3, 2, 1.0, 0.15, 1), 21.5),
]


@pytest.mark.parametrize(("case", "ours", "worked"), WORKED, ids=[case for case, _, _ in WORKED])
def test_worked_values(case: str, ours: float, worked: float) -> None:
    assert ours == pytest.approx(worked, rel=3e-3), case


def test_a_stand_on_three_legs() -> None:
    """Inscribed radius of three feet on a circle of 0.5 m: 0.25 m. 4.6 kg at 1.5 m: tips at atan(0.25/1.5) = 9.46°,
    by 4.6 × 9.81 × 0.25 / 1.0 = 11.28 N at 1 m; slides first where μ < 0.25/1.0."""
    for count, inner in ((3, 0.25), (4, 0.5 * math.cos(math.pi / 4)), (5, 0.5 * math.cos(math.pi / 5))):
        found = standing.stability(
            np.array([4.6]), np.array([[0, 0, 1.5]]), tripod(0.5, count=count), np.asarray(1.0), 0.3
        )
        assert float(found.angle) == pytest.approx(math.degrees(math.atan(inner / 1.5)), abs=1e-9)
        assert float(found.push) == pytest.approx(4.6 * 9.81 * inner, rel=1e-9)
        assert float(found.slide) == pytest.approx(0.3 * 4.6 * 9.81)


def test_a_block_pushed_at_its_top() -> None:
    """A block b wide and h high of weight W tips over its edge at P = W b / (2h), and slides first when
    μ < b / (2h) (Meriam and Kraige, friction): 10 kg, 0.4 × 1.0 m: 19.62 N, μ 0.2."""
    square = np.array([[-0.2, -0.2], [0.2, -0.2], [0.2, 0.2], [-0.2, 0.2]])
    found = standing.stability(np.array([10.0]), np.array([[0, 0, 0.5]]), square, np.asarray(1.0), 0.2)
    assert float(found.push) == pytest.approx(19.62)
    assert float(found.slide) == pytest.approx(19.62)


def test_the_bag_that_is_asked_for_is_just_enough() -> None:
    masses, places = np.array([2.3, 2.3]), np.array([[0, 0, 0.9], [0.1, 0, 2.1]])
    polygon = tripod(0.5, math.pi / 3)
    bag = np.array([0.0, 0.0, 0.3])
    mass = standing.bag_needed(masses, places, polygon, bag, 1.0, 10.0, 30.0)
    found = standing.stability(np.append(masses, mass), np.vstack([places, bag]), polygon, np.asarray(1.0), 0.3)
    assert min(float(found.angle) - 10, float(found.push) - 30) == pytest.approx(0, abs=1e-6)
    assert standing.bag_needed(masses, places, polygon, np.array([0.6, 0, 0.3]), 1.0, 10.0, 30.0) == math.inf


# --- against solvers of their own ------------------------------------------------------------------


def hardest_push(masses: Array, places: Array, feet: Array, height: float, way: float) -> float:
    """Greatest push in a direction [radians] that feet which only press can answer: a linear programme in the
    reactions and the push (rigid body, no sliding)."""
    along = np.array([math.cos(way), math.sin(way)])
    weight = 9.81 * masses
    # unknowns: reaction of each foot, push; Σ N = W, Σ N x − P h along = Σ w x
    equal = np.zeros((3, len(feet) + 1))
    equal[0, :-1] = 1
    equal[1:, :-1] = feet.T
    equal[1:, -1] = -along * height
    right = np.array([weight.sum(), *(weight[:, None] * places[:, :2]).sum(axis=0)])
    cost = np.zeros(len(feet) + 1)
    cost[-1] = -1
    found = linprog(cost, A_eq=equal, b_eq=right, bounds=[(0, None)] * (len(feet) + 1), method="highs")
    assert found.status == 0
    return float(found.x[-1])


@settings(max_examples=25, deadline=None)
@given(
    st.integers(3, 5),
    st.floats(0.3, 0.8),
    st.lists(
        st.tuples(st.floats(0.2, 6), st.floats(-0.08, 0.08), st.floats(-0.08, 0.08), st.floats(0.1, 2.4)),
        min_size=1,
        max_size=5,
    ),
    st.floats(0, 2 * math.pi),
)
def test_the_push_that_tips_equals_a_rigid_body_solve(
    count: int, radius: float, parts: list[tuple[float, float, float, float]], first: float
) -> None:
    masses = np.array([p[0] for p in parts])
    places = np.array([p[1:] for p in parts])
    feet = tripod(radius, first, count)
    ours = float(standing.stability(masses, places, feet, np.asarray(1.0), 0.3).push)
    edges = np.roll(feet, -1, axis=0) - feet
    outward = np.arctan2(-edges[:, 0], edges[:, 1])
    solved = min(hardest_push(masses, places, feet, 1.0, float(way)) for way in outward)
    assert ours == pytest.approx(solved, rel=1e-6)
    others = np.linspace(0, 2 * math.pi, 9)
    assert all(hardest_push(masses, places, feet, 1.0, float(way)) >= ours - 1e-6 for way in others)


def sag_by_elements(mass: float, span: float, stiffness: float, own: float, loaded: float) -> float:
    """Sag at the middle by the direct stiffness method: 80 cubic beam elements, simply supported."""
    count = 80
    size = span / count
    whole = np.zeros((2 * count + 2, 2 * count + 2))
    load = np.zeros(2 * count + 2)
    element = (
        stiffness
        / size**3
        * np.array(
            [
                [12, 6 * size, -12, 6 * size],
                [6 * size, 4 * size**2, -6 * size, 2 * size**2],
                [-12, -6 * size, 12, -6 * size],
                [6 * size, 2 * size**2, -6 * size, 4 * size**2],
            ]
        )
    )
    for i in range(count):
        at = slice(2 * i, 2 * i + 4)
        whole[at, at] += element
        middle = (i + 0.5) * size
        spread = own * 9.81 + (mass * 9.81 / loaded if abs(middle - span / 2) < loaded / 2 else 0.0)
        load[at] += spread * size / 2 * np.array([1, size / 6, 1, -size / 6])
    free = [n for n in range(2 * count + 2) if n not in (0, 2 * count)]
    found = np.zeros(2 * count + 2)
    found[free] = np.linalg.solve(whole[np.ix_(free, free)], load[free])
    return float(found[count])


@pytest.mark.parametrize(("span", "loaded"), [(1.55, 1.35), (2.9, 2.9), (3.2, 1.6), (2.0, 0.5)])
def test_the_sag_of_a_crossbar_equals_a_finite_element_solve(span: float, loaded: float) -> None:
    """Within 1.5 %: the stretch that is loaded ends between two elements."""
    stiffness = ALUMINIUM * beams.second_moment(0.03, 0.0015)
    own = beams.tube_mass(0.03, 0.0015, 2700)
    ours = beams.sag_of_bar(4.0, span, 0.03, 0.0015, "aluminium", loaded)
    assert ours == pytest.approx(sag_by_elements(4.0, span, stiffness, own, loaded), rel=0.015)


# --- laws -------------------------------------------------------------------------------------------

INSIDE = st.tuples(st.floats(0, 1), st.floats(0, 1), st.floats(0, 1)).filter(lambda w: sum(w) > 0.01)


@settings(max_examples=60, deadline=None)
@given(INSIDE, st.floats(0.1, 40), st.floats(0.02, 0.6), st.floats(-0.15, 0.15))
def test_a_bag_inside_the_feet_never_lowers_a_restoring_moment(
    weights: tuple[float, float, float], mass: float, high: float, off: float
) -> None:
    feet = tripod(0.5, 0.4)
    spot = np.array(weights) / sum(weights) @ feet
    masses, places = np.array([2.0, 3.0]), np.array([[0, 0, 1.0], [off, 0, 2.0]])
    before = standing.restoring_moments(masses, places, feet)
    after = standing.restoring_moments(np.append(masses, mass), np.vstack([places, [*spot, high]]), feet)
    assert (after >= before - 1e-9).all()


@settings(max_examples=60, deadline=None)
@given(
    st.floats(0.3, 2.0),
    st.floats(0.01, 0.8),
    st.floats(0.5, 5),
    st.floats(0.2, 0.8),
    st.floats(0, 1),
    st.floats(0, 6.3),
)
def test_a_boom_drawn_out_never_gains_restoring_moment(
    arm: float, more: float, load: float, tail: float, share: float, turn: float
) -> None:
    """Whatever its legs' direction, as long as the load's moment is at least the tail's."""
    counter = share * load * arm / tail
    way = np.array([1.0, 0.0])
    feet = tripod(0.6, turn)

    def least(out: float) -> float:
        places = np.array([[0, 0, 0.9], [*(way * out), 1.9], [*(-way * tail), 1.9]])
        return float(standing.restoring_moments(np.array([5.0, load, counter]), places, feet).min())

    assert least(arm + more) <= least(arm) + 1e-9


def test_a_longer_arm_is_never_rated_higher() -> None:
    lengths = np.linspace(0.5, 2.0, 16)
    for boom in (0.0, 1.5):
        rated = [beams.derated(5, 0.5, float(length), boom, 0.5) for length in lengths]
        assert rated[0] == pytest.approx(5) and all(b < a for a, b in pairwise(rated))
