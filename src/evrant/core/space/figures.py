"""Bodies of subjects as convex parts, to scale: hulls of the smooth parts that pictures show.

Local axes: x ahead of the subject, y to its left, z up, origin between its feet.
"""

from functools import lru_cache

import numpy as np

from evrant.core.space.rounds import HEAD, LEG, NECK, NO_HULL, THIGHS, rounds
from evrant.core.space.solids import Points, corners_of, cuboid, turned
from evrant.core.studio.shots import Subject


def parts(subject: Subject, height: float) -> list[Points]:
    """Convex parts of the body in local axes, standing on z = 0."""
    return list(solids_of(subject, height).values())


@lru_cache(maxsize=256)
def solids_of(subject: Subject, height: float) -> dict[str, Points]:
    """Convex parts by their names, in local axes: of the smooth parts that one hull covers, its corners; what is carved
    out or too thin to be in anyone's way is in none. The same arrays come back; do not write to them."""
    grouped: dict[str, list[Points]] = {}
    for number, one in enumerate(rounds(subject, height)):
        for name in one.hulls or (f"part {number}",):
            grouped.setdefault(name, []).append(one.solid)
    return {name: corners_of(np.vstack(clouds)) for name, clouds in grouped.items() if name != NO_HULL}


@lru_cache(maxsize=256)
def placed(subject: Subject, height: float, x: float, y: float, facing: float) -> tuple[Points, ...]:
    """Convex parts in plan coordinates, the mark at (x, y), the subject turned to `facing` degrees.

    The same arrays come back for the same subject and place; do not write to them.
    """
    return _set(parts(subject, height), subject, x, y, facing)


def _set(solids: list[Points], subject: Subject, x: float, y: float, facing: float) -> tuple[Points, ...]:
    base = subject.base.value if subject.base else 0.0
    shift = np.array([subject.ahead, subject.across, base])
    origin = np.array([x, y, 0.0])
    return tuple(turned(solid + shift, facing, (0.0, 0.0)) + origin for solid in solids)


SIDES = 6
"""Sides of the prisms a body is cut down to."""


def coarse(subject: Subject, height: float) -> list[Points]:
    """The body as a few prisms that do not overlap, in local axes: what it shades and returns light by.

    A round limb of width w is a hexagon of the area of its ellipse; a head is as high as leaves its outline's area.
    """
    whole = parts(subject, height)
    if subject.kind == "object" and subject.shape not in (None, "box"):
        low, high = _bounds(whole)
        round_one = _prism(low, high, along=2)
        if subject.shape == "sphere":
            middle = (low[2] + high[2]) / 2
            round_one[:, 2] = middle + (round_one[:, 2] - middle) * np.pi / 4
        return [round_one]
    if subject.kind == "object" or (subject.kind == "garment" and subject.posture != "lying"):
        low, high = _bounds(whole)
        return [cuboid(tuple(low), tuple(high))]
    if subject.kind != "person":
        return [_prism(*_bounds(whole))]
    named = solids_of(subject, height)
    legs = [solid for name, solid in named.items() if name.startswith(LEG)]
    thighs = [solid for name, solid in named.items() if name.startswith(THIGHS)]
    trunk = _bounds([solid for name, solid in named.items() if not name.startswith((HEAD, NECK, LEG, THIGHS))])
    if subject.posture in ("standing", "lying"):
        groups = [_bounds([named[HEAD]]), trunk, _bounds([*thighs, *legs])]
    else:
        groups = [_bounds([named[HEAD]]), trunk, _bounds(thighs), _bounds(legs)]
    return [_prism(low, high, head=i == 0) for i, (low, high) in enumerate(_apart(groups, subject.posture))]


_Bounds = tuple[Points, Points]


def _bounds(solids: list[Points]) -> _Bounds:
    cloud = np.vstack(solids)
    return cloud.min(axis=0), cloud.max(axis=0)


def _apart(groups: list[_Bounds], posture: str) -> list[_Bounds]:
    """Boxes one below the other, each cut off where the one before begins: along the body, or along the floor for
    thighs that lie before the trunk."""
    along = 1 if posture == "lying" else 2
    found = [groups[0]]
    for number, (low, high) in enumerate(groups[1:], start=1):
        low, high = low.copy(), high.copy()
        before_low, before_high = found[-1]
        if posture == "seated" and number == 2:
            low[0] = max(low[0], before_high[0] + GAP)
        else:
            high[along] = min(high[along], before_low[along] - GAP)
        if (high > low + 0.01).all():
            found.append((low, high))
    return found


GAP = 0.004
"""Kept between the prisms of a body [m], over what surfaces that touch are taken apart by."""


def _prism(low: Points, high: Points, *, head: bool = False, along: int | None = None) -> Points:
    """A hexagonal prism along an axis of a box, its longest where none is named, of its ellipse's area across."""
    sides = high - low
    along = int(np.argmax(sides)) if along is None else along
    across = [axis for axis in range(3) if axis != along]
    angles = (np.arange(SIDES) + 0.5) * (2 * np.pi / SIDES)
    reach = np.sqrt(2 * np.pi / SIDES / np.sin(2 * np.pi / SIDES)) / 2
    middle, found = (low + high) / 2, np.zeros((2 * SIDES, 3))
    found[:, across[0]] = middle[across[0]] + np.tile(np.cos(angles), 2) * reach * sides[across[0]]
    found[:, across[1]] = middle[across[1]] + np.tile(np.sin(angles), 2) * reach * sides[across[1]]
    half = sides[along] / 2 * (np.pi / 4 if head else 1.0)
    found[:, along] = middle[along] + np.repeat([-half, half], SIDES)
    found[:, 2] = np.maximum(found[:, 2], 0.0)
    return found


@lru_cache(maxsize=256)
def placed_coarse(subject: Subject, height: float, x: float, y: float, facing: float) -> tuple[Points, ...]:
    """The few prisms of a body in plan coordinates; see `placed`."""
    return _set(coarse(subject, height), subject, x, y, facing)
