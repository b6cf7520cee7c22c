"""Bodies of subjects as convex parts, to scale.

Proportions of a person as shares of stature: segment lengths after Drillis and Contini (1966) as
tabulated in Winter, Biomechanics and Motor Control of Human Movement (from memory); animals and
flesh radii are common practice without a source. Local axes: x ahead of the subject, y to its
left, z up, origin between its feet.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from evrant.core.space.solids import Points, ball, cuboid, limb, turned
from evrant.core.studio.shots import Subject

EYE, CHIN, SHOULDER, HIP, KNEE = 0.936, 0.870, 0.818, 0.530, 0.285
THIGH = HIP - KNEE
SEAT = 0.45
SITTING_HEIGHT = 0.52
USUAL = {"person": 1.70, "cat": 0.30, "dog": 0.60, "object": 0.20, "garment": 1.10}
"""Heights [m] used to draw a subject whose own is missing; never used in a margin."""
PARTED = {
    "person": (0.26, 0.16),
    "cat": (0.45, 0.95),
    "dog": (0.42, 0.90),
    "object": (1.0, 1.0),
    "garment": (0.50, 0.10),
}
FACE_DEPTH = {"person": 0.11, "cat": 0.30, "dog": 0.30}
"""Front to back of a face as a share of height: what must be sharp in a portrait."""
"""Width and depth of a subject as shares of its height when not given."""


@dataclass(frozen=True, slots=True)
class Extent:
    """What a subject takes up: heights of top, face and bottom above its base, width, depth [m]."""

    top: float
    face: float
    width: float
    depth: float


def posed_top(subject: Subject, height: float) -> float:
    """Height of the highest point in the posture [m]."""
    if subject.kind != "person":
        return height if subject.posture != "lying" else height * 0.55
    match subject.posture:
        case "seated":
            return SEAT + SITTING_HEIGHT * height
        case "kneeling":
            return (1 - KNEE) * height
        case "lying":
            return 0.25 * height * 0.5
    return height


def extent(subject: Subject, height: float) -> Extent:
    """Outer measures in the posture. `height` is the stature of a person, else the height."""
    top = posed_top(subject, height)
    wide, deep = PARTED[subject.kind]
    width = subject.width.value if subject.width else wide * height
    depth = subject.depth.value if subject.depth else deep * height
    if subject.kind == "person":
        face = top - (1 - EYE) * height
        if subject.posture in ("seated", "kneeling") and not subject.depth:
            depth = 0.45 * height * (1.0 if subject.posture == "seated" else 0.8)
    else:
        face = top * (0.82 if subject.kind in ("cat", "dog") else 0.5)
    return Extent(top, face, width, depth)


def parts(subject: Subject, height: float) -> list[Points]:
    """Convex parts of the body in local axes, standing on z = 0."""
    if subject.kind == "person":
        return _person(subject, height)
    if subject.kind == "garment":
        return _garment(subject, height)
    if subject.kind == "object":
        return [_thing(subject, height)]
    return _animal(subject, height)


ROUND = 16


def _thing(subject: Subject, height: float) -> Points:
    """A thing by its outer measures: a box, an upright cylinder (a ring lies as a flat one), a ball."""
    size = extent(subject, height)
    half = np.array([size.depth / 2, size.width / 2])
    if subject.shape == "sphere":
        return ball((0.0, 0.0, size.top / 2), (float(half[0]), float(half[1]), size.top / 2))
    if subject.shape in ("cylinder", "ring"):
        angles = np.arange(ROUND) * (2 * np.pi / ROUND)
        rim = np.column_stack([np.cos(angles), np.sin(angles)]) * half
        return np.vstack([np.column_stack([rim, np.full(ROUND, z)]) for z in (0.0, size.top)])
    return cuboid((-half[0], -half[1], 0), (half[0], half[1], size.top))


def _person(subject: Subject, s: float) -> list[Points]:
    width = subject.width.value if subject.width else 0.26 * s
    half = width / 2
    lift = posed_top(subject, s) - s
    if subject.posture == "lying":
        upright = _torso(s, half, 0.0) + _standing_legs(s, half)
        return [_laid(p, 0.075 * s) for p in upright]
    body = _torso(s, half, lift)
    if subject.posture == "standing":
        return body + _standing_legs(s, half)
    hip, knee = HIP * s + lift, KNEE * s
    legs = []
    for side in (-1, 1):
        y = side * half * 0.42
        if subject.posture == "seated":
            legs += [
                limb((0, y, hip), (THIGH * s, y, hip - 0.01), 0.052 * s, 0.034 * s),
                limb((THIGH * s, y, hip - 0.01), (THIGH * s, y, 0.04), 0.034 * s, 0.024 * s),
                limb((THIGH * s, y, 0.03), (THIGH * s + 0.1 * s, y, 0.025), 0.024 * s, 0.016 * s),
            ]
        else:
            legs += [
                limb((0, y, hip), (0.02, y, 0.05), 0.052 * s, 0.036 * s),
                limb((0.02, y, 0.05), (-0.8 * knee, y, 0.045), 0.034 * s, 0.022 * s),
            ]
    return body + legs


def _torso(s: float, half: float, lift: float) -> list[Points]:
    def at(share: float) -> float:
        return share * s + lift

    head = ball((0.012 * s, 0, at(0.934)), (0.056 * s, 0.045 * s, 0.066 * s))
    neck = limb((0, 0, at(0.80)), (0.006 * s, 0, at(0.88)), 0.036 * s, 0.03 * s)
    shoulders = [ball((0, side * (half - 0.040 * s), at(0.787)), (0.038 * s, 0.030 * s, 0.026 * s)) for side in (-1, 1)]
    slope = np.vstack([*shoulders, ball((0, 0, at(0.830)), (0.034 * s, 0.036 * s, 0.016 * s))])
    chest = np.vstack([*shoulders, ball((0, 0, at(0.70)), (0.066 * s, half * 0.70, 0.06 * s))])
    waist = np.vstack(
        [
            ball((0, 0, at(0.70)), (0.062 * s, half * 0.70, 0.05 * s)),
            ball((0, 0, at(0.61)), (0.056 * s, half * 0.60, 0.03 * s)),
        ]
    )
    hips = np.vstack(
        [
            ball((0, 0, at(0.61)), (0.056 * s, half * 0.60, 0.03 * s)),
            ball((0, 0, at(0.52)), (0.064 * s, half * 0.70, 0.045 * s)),
        ]
    )
    arms = []
    for side in (-1, 1):
        shoulder = (0.0, side * (half - 0.026 * s), at(0.795))
        elbow = (-0.01 * s, side * (half + 0.004 * s), at(0.63))
        hand = (0.06 * s, side * (half - 0.012 * s), at(0.485))
        arms += [limb(shoulder, elbow, 0.03 * s, 0.024 * s), limb(elbow, hand, 0.024 * s, 0.018 * s)]
    return [head, neck, slope, chest, waist, hips, *arms]


def _garment(subject: Subject, h: float) -> list[Points]:
    """A garment on its hanger: sloping shoulders, a body that widens to the hem, sleeves."""
    size = extent(subject, h)
    half, thick = size.width / 2, size.depth / 2
    shoulder = 0.06 * h
    body = np.array(
        [
            [x, side * y, z]
            for x in (-thick, thick)
            for side in (-1, 1)
            for y, z in ((0.12 * half, h), (0.72 * half, h - shoulder), (0.66 * half, 0.55 * h), (0.85 * half, 0.0))
        ]
    )
    sleeves = [
        limb((0, side * 0.70 * half, 0.93 * h), (0, side * 0.93 * half, 0.45 * h), 0.8 * thick, 0.7 * thick)
        for side in (-1, 1)
    ]
    return [body, *sleeves]


def _standing_legs(s: float, half: float) -> list[Points]:
    legs = []
    for side in (-1, 1):
        y = side * half * 0.40
        legs += [
            limb((0, y, HIP * s - 0.02), (0.005, y, KNEE * s), 0.056 * s, 0.034 * s),
            limb((0.005, y, KNEE * s), (-0.01, y, 0.05 * s), 0.034 * s, 0.022 * s),
            limb((-0.02, y, 0.022 * s), (0.10 * s, y, 0.016 * s), 0.022 * s, 0.014 * s),
        ]
    return legs


def _laid(points: Points, radius: float) -> Points:
    return np.column_stack([points[:, 1], points[:, 2], points[:, 0] + radius])


def _animal(subject: Subject, h: float) -> list[Points]:
    size = extent(subject, h)
    w = size.width / 2
    ears = [
        limb((0.12 * h, side * 0.10 * h, 0.90 * h), (0.10 * h, side * 0.12 * h, 0.985 * h), 0.05 * h, 0.006 * h)
        for side in (-1, 1)
    ]
    snout = 0.30 if subject.kind == "dog" else 0.20
    head = [
        ball((0.12 * h, 0, 0.82 * h), (0.13 * h, 0.12 * h, 0.115 * h)),
        limb((0.16 * h, 0, 0.79 * h), (snout * h, 0, 0.765 * h), 0.075 * h, 0.04 * h),
    ]
    if subject.posture == "standing":
        long = size.depth
        body = [
            limb((-0.05 * h, 0, 0.52 * h), (-0.75 * long, 0, 0.52 * h), min(w, 0.17 * h), min(w, 0.14 * h)),
            limb((-0.02 * h, 0, 0.55 * h), (0.08 * h, 0, 0.78 * h), 0.12 * h, 0.08 * h),
        ]
        legs = [
            limb((x, side * w * 0.55, 0.42 * h), (x, side * w * 0.55, 0.04 * h), 0.06 * h, 0.035 * h)
            for x in (-0.03 * h, -0.72 * long)
            for side in (-1, 1)
        ]
        return body + legs + head + ears
    body = [
        limb((0.0, 0, 0.58 * h), (-0.22 * h, 0, 0.22 * h), min(w, 0.15 * h), min(w, 0.22 * h)),
        limb((0.0, 0, 0.58 * h), (0.10 * h, 0, 0.78 * h), 0.12 * h, 0.085 * h),
    ]
    legs = [
        limb((0.05 * h, side * 0.09 * h, 0.5 * h), (0.09 * h, side * 0.09 * h, 0.035 * h), 0.06 * h, 0.035 * h)
        for side in (-1, 1)
    ]
    haunch = [
        limb((-0.2 * h, side * w * 0.7, 0.15 * h), (0.05 * h, side * w * 0.8, 0.05 * h), 0.12 * h, 0.045 * h)
        for side in (-1, 1)
    ]
    tail = [limb((-0.38 * h, 0, 0.08 * h), (-0.62 * h, 0, 0.04 * h), 0.04 * h, 0.02 * h)]
    return body + legs + haunch + tail + head + ears


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
    head, trunk, legs = whole[0], _bounds(whole[2:10]), whole[10:]
    if subject.posture in ("standing", "lying"):
        groups = [_bounds([head]), trunk, _bounds(legs)]
    else:
        near = 3 if subject.posture == "seated" else 2
        thighs = _bounds([leg for i, leg in enumerate(legs) if i % near == 0])
        groups = [_bounds([head]), trunk, thighs, _bounds([leg for i, leg in enumerate(legs) if i % near])]
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
