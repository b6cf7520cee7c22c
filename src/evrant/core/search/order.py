"""The order of sets in a session that takes the least change-over, with what each step does and why it comes then.

Exact by dynamic programming over subsets (M. Held and R. M. Karp, 1962) up to `EXACT` sets; beyond that the best of
insertion from every start, improved by moving runs of sets, with a lower bound from the assignment problem.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import linear_sum_assignment

from evrant.core.light.lit import Lit, lit
from evrant.core.space.changeover import Changeover, changeover
from evrant.core.space.scene import Scene, scene_of
from evrant.core.stowage.striking import BEGINNER, minutes, setting_up, striking
from evrant.core.studio.sets import SetPlan
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say, f_words, power_words, setting_words, time_words

EXACT = 13
"""Sets whose best order is proved: 13 take 13² · 2¹³ sums."""
Costs = NDArray[np.float64]


@dataclass(frozen=True)
class Setting:
    """One thing to set for a set: what, and to what."""

    thing: str
    words: str


@dataclass(frozen=True)
class Leg:
    """From one set to the next: what is done, and why this one comes now."""

    first: SetPlan
    second: SetPlan
    change: Changeover
    why: str


@dataclass(frozen=True)
class Order:
    """An order of the sets. `bound` is what no order can go below [min]; equal to `minutes` where `exact`."""

    sets: tuple[SetPlan, ...]
    legs: tuple[Leg, ...]
    minutes: float
    as_listed: float
    exact: bool
    bound: float
    set_up: float
    strike: float

    @property
    def beginner(self) -> float:
        """Minutes for those who are new to it, setting up and striking counted."""
        return BEGINNER * (self.set_up + self.minutes + self.strike)


def in_order(studio: Studio) -> Order:
    """The studio's sets whose shot is there, in the order of least change-over; ties go to the order they are
    listed in."""
    found = [(plan, scene_of(studio, plan)) for plan in studio.sets]
    here = [(plan, scene) for plan, scene in found if scene is not None]
    changes = {(i, j): changeover(a, b) for i, (_, a) in enumerate(here) for j, (_, b) in enumerate(here) if i != j}
    costs = np.zeros((len(here), len(here)))
    for (i, j), change in changes.items():
        costs[i, j] = change.minutes
    order, bound = best_order(costs)
    taken, listed = _length(costs, order), _length(costs, list(range(len(here))))
    if listed <= taken + 1e-9:
        order, taken = list(range(len(here))), listed
    plans, legs = [plan for plan, _ in here], []
    for at, (i, j) in enumerate(pairwise(order)):
        why = _why(costs, plans, order, at, changes[i, j])
        legs.append(Leg(plans[i], plans[j], changes[i, j], why))
    ends = [here[order[0]][1], here[order[-1]][1]] if order else []
    return Order(
        tuple(plans[i] for i in order),
        tuple(legs),
        taken,
        listed,
        len(here) <= EXACT,
        min(bound, taken),
        minutes(setting_up(ends[0])) if ends else 0.0,
        minutes(striking(ends[1])) if ends else 0.0,
    )


def _why(costs: Costs, plans: list[SetPlan], order: list[int], at: int, change: Changeover) -> str:
    """Why a set comes next: what it leaves standing, and what is nearer but comes later all the same."""
    here, there = order[at], order[at + 1]
    stays = sorted(set(change.shared))
    words = "Nothing stays where it is"
    if stays:
        kept = f"{_and(stays)} {'stays where it is' if len(stays) == 1 else 'stay where they are'}"
        words = kept[:1].upper() + kept[1:]
    later = [one for one in order[at + 2 :] if costs[here, one] < costs[here, there] - 1e-9]
    if not later:
        return f"{words}; no set that is left is nearer."
    near = min(later, key=lambda one: costs[here, one])
    saved = costs[here, there] - costs[here, near]
    return f"{words}; “{plans[near].name}” is {saved:.1f} min nearer, but going there first costs more later."


def _and(words: list[str]) -> str:
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}"


def _length(costs: Costs, order: list[int]) -> float:
    return float(sum(costs[a, b] for a, b in pairwise(order)))


def best_order(costs: Costs) -> tuple[list[int], float]:
    """The open path through all of (n, n) costs that is the shortest, and a bound no path goes below."""
    count = len(costs)
    if count < 2:
        return list(range(count)), 0.0
    if count <= EXACT:
        order = _exact(costs)
        return order, _length(costs, order)
    return _improved(costs), _bound(costs)


def _exact(costs: Costs) -> list[int]:
    """Held and Karp: `least[mask, last]` over the sets already taken."""
    count = len(costs)
    least = np.full((1 << count, count), math.inf)
    before = np.full((1 << count, count), -1, dtype=np.intp)
    for i in range(count):
        least[1 << i, i] = 0.0
    for mask in range(1, 1 << count):
        here = least[mask]
        ways = here[:, None] + costs
        best = ways.argmin(axis=0)
        for new in range(count):
            if mask >> new & 1:
                continue
            whole = mask | 1 << new
            if ways[best[new], new] < least[whole, new]:
                least[whole, new], before[whole, new] = ways[best[new], new], best[new]
    mask, last = (1 << count) - 1, int(least[-1].argmin())
    order = [last]
    while before[mask, last] >= 0:
        mask, last = mask & ~(1 << last), int(before[mask, last])
        order.append(last)
    return order[::-1]


LOOKS = 40_000
"""Moves of runs that are looked at, over all starts: half a second."""


def _improved(costs: Costs) -> list[int]:
    """Nearest first from every start; the best of them with runs of up to four sets moved while that shortens the
    path, as long as there are looks left."""
    found = sorted((_nearest_first(costs, start) for start in range(len(costs))), key=lambda one: _length(costs, one))
    looks = LOOKS
    best = found[0]
    for order in found[:4]:
        shorter, looks = _shortened(costs, order, looks)
        best = min(best, shorter, key=lambda one: _length(costs, one))
    return best


def _nearest_first(costs: Costs, start: int) -> list[int]:
    order, left = [start], set(range(len(costs))) - {start}
    while left:
        near = min(left, key=lambda one: (costs[order[-1], one], one))
        order.append(near)
        left.remove(near)
    return order


def _shortened(costs: Costs, order: list[int], looks: int) -> tuple[list[int], int]:
    """The order with runs moved, each to where it first shortens the path, and the looks that are left."""
    here = _length(costs, order)
    while looks > 0:
        for new in _moved(order):
            looks -= 1
            path = np.array(new)
            length = float(costs[path[:-1], path[1:]].sum())
            if length < here - 1e-9 or looks <= 0:
                break
        else:
            return order, looks
        if length < here - 1e-9:
            order, here = new, length
    return order, looks


def _moved(order: list[int]) -> Iterator[list[int]]:
    """Every order with one run of up to four moved elsewhere, as it is or turned round."""
    for long in (1, 2, 3, 4):
        for at in range(len(order) - long + 1):
            run, rest = order[at : at + long], order[:at] + order[at + long :]
            for place in range(len(rest) + 1):
                yield rest[:place] + run + rest[place:]
                if long > 1:
                    yield rest[:place] + run[::-1] + rest[place:]


def _bound(costs: Costs) -> float:
    """What no open path goes below: every set but the last has one that follows it, each follows one (assignment)."""
    count = len(costs)
    square = np.zeros((count + 1, count + 1))
    square[:count, :count] = costs + np.diag(np.full(count, 1e6))
    square[count, count] = 1e6
    rows, columns = linear_sum_assignment(square)
    return float(square[rows, columns].sum())


def settings_of(scene: Scene) -> list[Setting]:
    """Everything that is set for a set: camera, each light's power, height and aim, bags, leads, background."""
    say, shot = Say.of(scene.brief), scene.shot
    found = []
    if shot.aperture is not None:
        found.append(Setting("aperture", f_words(shot.aperture.value)))
    if shot.iso is not None:
        found.append(Setting("ISO", str(shot.iso)))
    if shot.shutter is not None:
        found.append(Setting("shutter", time_words(shot.shutter)))
    if shot.dark_filter:
        found.append(Setting("neutral filter", f"{shot.dark_filter:g} stops"))
    if scene.lens is not None and scene.focal is not None:
        found.append(Setting("lens", say.focal(scene.focal.value)))
    if scene.lens_height is not None:
        found.append(Setting("lens height", say.length(scene.lens_height)))
    powers = powers_of(scene)
    for light in scene.lights:
        if light.at is None:
            continue
        parts = [f"{say.length(float(light.at[2]))} high", aim_words(light.forward)]
        parts += [powers[light.path]] if light.path in powers else []
        parts += [f"bag {say.mass(light.place.bag)} {light.place.bag_at}"] if light.place.bag else []
        lead = scene.gear.get(light.place.lead or "")
        parts += [f"by the {lead.called}"] if lead else []
        found.append(Setting(light.name, ", ".join(part for part in parts if part)))
    top = scene.plan.background.height
    if top is not None and scene.backdrop is not None:
        found.append(Setting("background", f"{scene.backdrop.called}, top at {say.length(top)}"))
    return found


def aim_words(forward: NDArray[np.float64] | None) -> str:
    """How far a light is tilted, as people set it."""
    if forward is None:
        return ""
    tilt = math.degrees(math.asin(max(-1.0, min(1.0, float(forward[2])))))
    if abs(tilt) > 80:
        return "straight down" if tilt < 0 else "straight up"
    return "level" if abs(tilt) < 3 else f"aimed {abs(tilt):.0f}° {'down' if tilt < 0 else 'up'}"


def powers_of(scene: Scene) -> dict[str, str]:
    """Power of each light by path: as typed, else as the set asks; none where light is not known."""
    typed = {light.path: light.place.power for light in scene.lights if light.place.power is not None}
    found = {path: power_words(power) for path, power in typed.items()}
    state = lit(scene)
    if isinstance(state, Lit) and state.needed is not None:
        for number, beam in enumerate(state.beams):
            if beam.light is not None and beam.path not in found:
                steps = getattr(beam.light.head, "steps", None)
                found[beam.path] = setting_words(float(state.powers[number]), steps)
    return found
