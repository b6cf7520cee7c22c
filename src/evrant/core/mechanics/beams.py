"""Bars, rails, booms and rods: bending, balance, grip.

References: [1] W. C. Young, R. G. Budynas, Roark's Formulas for Stress and Strain, 7th ed., table 8.1 (beams):
cases 1e and 2e, simply supported. [2] Machinery's Handbook, moments of inertia of hollow round sections.
"""

import math
from collections.abc import Sequence

import numpy as np

from evrant.core.base.tables.supports import DENSITY, GRAVITY, MODULUS


def second_moment(outer: float, wall: float) -> float:
    """Second moment of area of a round tube [m⁴]: π(D⁴ − d⁴)/64 [2]; a wall of half the diameter is solid."""
    inner = max(outer - 2 * wall, 0.0)
    return math.pi * (outer**4 - inner**4) / 64


def tube_mass(outer: float, wall: float, density: float) -> float:
    """Mass of a metre of round tube [kg/m]."""
    inner = max(outer - 2 * wall, 0.0)
    return density * math.pi * (outer**2 - inner**2) / 4


def sag_spread(mass_per_metre: float, span: float, stiffness: float) -> float:
    """Sag at the middle under a load spread evenly [m]: 5 w L⁴ / (384 E I) [1]; stiffness E·I [N m²]."""
    return 5 * mass_per_metre * GRAVITY * span**4 / (384 * stiffness)


def sag_of_bar(
    mass: float, span: float, outer: float, wall: float, material: str, loaded: float | None = None
) -> float:
    """Sag of a tube under its own mass and a mass hung evenly along it [m].

    `loaded`: the length in the middle the mass is hung along; along all of it when it is not given. An even
    load over the middle part c of a span L sags P L³ (8 − 4 (c/L)² + (c/L)³) / (384 E I), by superposition [1].
    """
    stiffness = MODULUS[material] * second_moment(outer, wall)
    own = sag_spread(tube_mass(outer, wall, DENSITY[material]), span, stiffness)
    share = min((loaded or span) / span, 1.0)
    return own + mass * GRAVITY * span**3 * (8 - 4 * share**2 + share**3) / (384 * stiffness)


def under_loads(
    masses: Sequence[float], places: Sequence[float], span: float, mass_per_metre: float, stiffness: float
) -> tuple[float, float, float]:
    """Greatest sag [m] of a bar on two supports under its own mass and masses [kg] hung at places from one end [m], and
    the reactions at that end and at the other [N]. A load P at a, b from the ends: for x ≤ a the bar goes down by
    P b x (L² − b² − x²) / (6 L E I) [1]; loads add up."""
    x = np.linspace(0.0, span, 401)
    own = mass_per_metre * GRAVITY
    down = own * x * (span**3 - 2 * span * x**2 + x**3) / (24 * stiffness)
    first, second = own * span / 2, own * span / 2
    for mass, place in zip(masses, places, strict=True):
        weight, a = mass * GRAVITY, min(max(place, 0.0), span)
        b = span - a
        left = weight * b * x * (span**2 - b**2 - x**2) / (6 * span * stiffness)
        right = weight * a * (span - x) * (span**2 - a**2 - (span - x) ** 2) / (6 * span * stiffness)
        down = down + np.where(x <= a, left, right)
        first, second = first + weight * b / span, second + weight * a / span
    return float(down.max()), first, second


def end_reaction(mass: float, span: float, place: float) -> float:
    """The larger of the two end reactions of a load at a place along a bar [N]: W·max(a, L − a)/L [1]."""
    return mass * GRAVITY * max(place, span - place) / span


def counterweight(load: float, arm: float, boom: float, tail: float) -> float:
    """Mass on the tail that balances a boom about its pivot [kg].

    Load [kg] at `arm` [m] before the pivot; the boom's own mass spread evenly over arm and tail.
    """
    return (load * arm + boom * (arm - tail) / 2) / tail


def derated(load: float, at: float, out: float, boom: float, tail: float) -> float:
    """What a boom carries at its end drawn out to `out` [kg], from what it carries drawn out to `at`.

    The moment about the pivot stays the same: P(L)·L + λL²/2 = P₀·L₀ + λL₀²/2, λ the boom's mass a metre.
    Never more than at its rating.
    """
    spread = boom / (out + tail) if out + tail > 0 else 0.0
    return min((load * at + spread * (at**2 - out**2) / 2) / out, load) if out > 0 else load


def derated_curve(load: float, at: float, far_load: float, far: float, out: float) -> float:
    """The same from a maker's two ratings: the moment runs straight between them [kg]."""
    if out <= at or far <= at:
        return load
    share = min((out - at) / (far - at), 1.0)
    moment = load * at + share * (far_load * far - load * at)
    return moment / out


def fixing_load(mass: float, count: int, lever: float, plate: float, upper: int) -> float:
    """What the fixing that bears most of a bracket must hold, as a mass [kg]: its share of the weight and, as an upper
    one, of the pull that the lever makes, M·e/h; added, which is cautious (they act square to each other)."""
    return mass / count + mass * lever / (plate * upper)
