"""The powers of all lights of a set together: the subject meets the exposure the camera is set for, at the ratios
their roles ask for, and the background its tone.

Every light gives an amount that goes with its power, so the powers that suit are a linear system of two unknowns: the
level of the key, which every other role follows by its ratio, and the level each background light brings to the
background. A light at the end of its range is taken as it is there, and the rest are solved anew.
"""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from evrant.core.studio.gear import Flash, Lamp

ROLE_STOPS = {"key": 0.0, "ring light": 0.0, "fill": -1.5, "under-light": -1.0, "hair light": -0.5, "rim": 0.0}
"""Stops over the key at which a light is set where no power is given; common practice, no source."""
FILL = {"flat": -0.5, "soft": -1.5, "medium": -2.5, "strong": -3.5}
"""Stops over the key of a fill by the contrast wanted; common practice, no source."""
STEPS = {"whole stops": 1.0, "halves": 2.0, "thirds": 3.0, "tenths": 10.0}
OWN = 0.25
"""Share of the exposure that is left to the lights that are set, however bright the rest is: less shapes nothing."""
LEAST = 1e-6
"""The weakest power that is asked for, where nothing is needed at all."""
Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Asked:
    """What lights give at full power, and what is asked of them; all amounts are exposures [lx s], (n,) each.

    `front` at the subject as the camera's meter sees it; `counted` where a role's ratio is told (a rim's toward the
    rim); `behind` on the background. `ratio` is the share of the key's level a role asks for, 0 where no role asks;
    `tone` marks background lights. `low` and `high` end each range. `needed` is asked at the subject, `ground` on the
    background: what its tone takes, as much as at the subject where none is wanted, None where that is not known.
    """

    front: Floats
    counted: Floats
    behind: Floats
    ratio: Floats
    tone: NDArray[np.bool_]
    low: Floats
    high: Floats
    needed: float
    ground: float | None
    key: int | None


def solved(asked: Asked, typed: Floats) -> Floats:
    """Power of every light (n,): as typed where that is a figure, as the system asks where it is NaN."""
    powers = np.where(np.isnan(typed), 1.0, typed)
    free = np.isnan(typed) & _reached(asked)
    fixed_key = asked.key is not None and not free[asked.key] and asked.ratio[asked.key] > 0
    for _ in range(len(powers) + 1):
        wish = _level(asked, powers, free, fixed_key)
        powers[free] = wish[free]
        over = np.where(free, np.maximum(np.log2(wish / asked.high), np.log2(asked.low / wish)), -1.0)
        worst = int(np.argmax(over)) if len(over) else 0
        if not len(over) or over[worst] <= 1e-9:
            break
        powers[worst] = min(max(wish[worst], asked.low[worst]), asked.high[worst])
        free[worst] = False
        fixed_key = fixed_key or worst == asked.key
    return powers


def _reached(asked: Asked) -> NDArray[np.bool_]:
    """Lights that something is asked of, and that give anything there."""
    role = (asked.ratio > 0) & (asked.counted > 0)
    return np.where(asked.tone, (asked.behind > 0) & (asked.ground is not None), role)


def _level(asked: Asked, powers: Floats, free: NDArray[np.bool_], fixed_key: bool) -> Floats:
    """The powers of the free lights (n,) for the two levels that meet subject and background."""
    role, back = free & ~asked.tone, free & asked.tone
    per_key = np.where(role, asked.ratio / np.where(asked.counted > 0, asked.counted, 1.0), 0.0)
    per_back = np.where(back, 1.0 / np.where(asked.behind > 0, asked.behind, 1.0), 0.0)
    rest = np.where(free, 0.0, powers)
    face = np.array([asked.front @ per_key, asked.front @ per_back])
    wall = np.array([asked.behind @ per_key, asked.behind @ per_back])
    left_face = max(asked.needed - float(asked.front @ rest), OWN * asked.needed)
    left_wall = (asked.ground or 0.0) - float(asked.behind @ rest)
    if fixed_key and asked.key is not None:
        key = float(asked.counted[asked.key] * powers[asked.key] / asked.ratio[asked.key])
        back_level = (left_wall - wall[0] * key) / wall[1] if wall[1] > 0 else 0.0
    elif wall[1] <= 0:
        key, back_level = (left_face / face[0] if face[0] > 0 else 0.0), 0.0
    elif face[0] <= 0:
        key, back_level = 0.0, left_wall / wall[1]
    else:
        key, back_level = _both(face, wall, left_face, left_wall, OWN * asked.needed / face[0])
    return np.maximum(per_key * max(key, 0.0) + per_back * max(back_level, 0.0), LEAST)


def _both(face: Floats, wall: Floats, left_face: float, left_wall: float, least: float) -> tuple[float, float]:
    """Levels of key and background lights that meet both wants; the key's is not below `least`, the other's not
    below nothing."""
    whole = face[0] * wall[1] - face[1] * wall[0]
    if abs(whole) > 1e-12 * abs(face[0] * wall[1]):
        key = (left_face * wall[1] - face[1] * left_wall) / whole
        back = (face[0] * left_wall - wall[0] * left_face) / whole
        if key >= least and back >= 0:
            return float(key), float(back)
    key = left_face / face[0]
    if left_wall <= wall[0] * key:
        return float(key), 0.0
    return least, float(max(left_wall - wall[0] * least, 0.0) / wall[1])


def role_stops(role: str, contrast: str | None = None) -> float | None:
    """Stops over the key at which a light of a role is set; None where no role asks."""
    return FILL[contrast] if role == "fill" and contrast else ROLE_STOPS.get(role)


def settable(head: Flash | Lamp | None, wish: float) -> float:
    """The nearest power a head really has; a lamp that is not said to dim has full power only."""
    if isinstance(head, Flash):
        step = STEPS.get(head.steps or "thirds", 3.0)
        low = head.lowest_power or 1e-4
        return float(min(max(2 ** (round(math.log2(max(wish, 1e-9)) * step) / step), low), 1.0))
    low = (head.dims_to if isinstance(head, Lamp) else None) or 1.0
    return min(max(wish, low), 1.0)
