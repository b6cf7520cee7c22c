"""Bodies of subjects as smooth shapes: ellipsoids, tapered limbs, cylinders, rings, boxes with soft edges.

The one description of a body: pictures show it and shade by it, `figures` takes its convex parts from it for
outlines, what is in the way and the light's solve. Local axes: x ahead of the subject, y to its left, z up, origin
between its feet.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from evrant.core.space import solids
from evrant.core.space.solids import Points, Vector
from evrant.core.space.stature import HIP, KNEE, THIGH, extent, posed_top
from evrant.core.studio.shots import Subject

ELLIPSOID, LIMB, CYLINDER, RING, BOX = 0, 1, 2, 3, 4
SKIN, HAIR, EYE, TOP, TROUSERS, FUR, THING, METAL, IRIS, RIM = range(10)
"""What a part is covered with."""
HEAD, NECK, LEG, THIGHS, NO_HULL = "head", "neck", "leg", "thigh", "none"
"""Names convex parts begin with; what goes into none is too thin to be in anyone's way."""
SIDES = 16
"""Corners round a drum."""
Triple = tuple[float, float, float]


@dataclass(frozen=True)
class Round:
    """One part. `at` its middle (a limb's start), `size` its half axes (a limb's end; a ring's reach and thickness;
    a box's half sides), `ends` a limb's two radii, `turn` its axes (3, 3), `soft` how it runs into the others [m];
    a `carved` one is taken out of them; `hulls` the convex parts it goes into, its own where none is named."""

    kind: int
    at: Triple
    size: Triple
    ends: tuple[float, float] = (0.0, 0.0)
    soft: float = 0.004
    cover: int = THING
    carved: bool = False
    turn: tuple[Triple, Triple, Triple] = ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))
    hulls: tuple[str, ...] = ()

    @property
    def solid(self) -> Points:
        """Points (n, 3) whose hull it fills, but for what runs into others."""
        if self.kind == LIMB:
            return solids.limb(self.at, self.size, *self.ends)
        nought = (0.0, 0.0, 0.0)
        match self.kind:
            case 0:
                local = solids.ball(nought, self.size)
            case 2:
                local = _drum(self.size)
            case 3:
                reach = self.size[0] + self.size[1]
                local = _drum((reach, reach, self.size[1]))
            case _:
                local = solids.cuboid(_triple(-np.array(self.size)), self.size)
        return np.asarray(local @ np.array(self.turn) + self.at)

    @property
    def sphere(self) -> tuple[Vector, float]:
        """A ball it lies in."""
        if self.kind == LIMB:
            a, b = np.array(self.at), np.array(self.size)
            return (a + b) / 2, float(np.linalg.norm(b - a)) / 2 + max(self.ends)
        reach = max(self.size) if self.kind == ELLIPSOID else float(np.linalg.norm(self.size))
        return np.array(self.at), self.size[0] + self.size[1] if self.kind == RING else reach


def _drum(half: Triple) -> Points:
    """An upright cylinder of these half axes."""
    angles = np.arange(SIDES) * (2 * np.pi / SIDES)
    rim = np.column_stack([np.cos(angles) * half[0], np.sin(angles) * half[1]])
    return np.vstack([np.column_stack([rim, np.full(SIDES, z)]) for z in (-half[2], half[2])])


def within(hull: str, parts: Sequence[Round]) -> list[Round]:
    """Parts that go into one convex part."""
    return [replace(one, hulls=(hull,)) for one in parts]


def limb(start: Triple, end: Triple, first: float, last: float, cover: int, soft: float = 0.012) -> Round:
    """A tapered limb with round ends."""
    return Round(LIMB, start, end, (first, last), soft, cover)


def ball(at: Triple, radii: Triple, cover: int, soft: float = 0.012) -> Round:
    """An ellipsoid along the axes."""
    return Round(ELLIPSOID, at, radii, (0.0, 0.0), soft, cover)


def rounds(subject: Subject, height: float) -> list[Round]:
    """The smooth parts of a subject in local axes; `height` is the stature of a person, else the height [m]."""
    if subject.kind == "person":
        return _person(subject, height)
    if subject.kind in ("cat", "dog"):
        return _animal(subject, height)
    return _garment(subject, height) if subject.kind == "garment" else _thing(subject, height)


@lru_cache(maxsize=256)
def placed_rounds(subject: Subject, height: float, x: float, y: float, facing: float) -> tuple[Round, ...]:
    """The parts in plan coordinates, the mark at (x, y), the subject turned to `facing` degrees."""
    base = subject.base.value if subject.base else 0.0
    shift = np.array([subject.ahead, subject.across, base])
    angle = np.radians(facing)
    way = np.array([[np.cos(angle), -np.sin(angle), 0.0], [np.sin(angle), np.cos(angle), 0.0], [0.0, 0.0, 1.0]])
    return tuple(moved(one, way, shift @ way.T + (x, y, 0.0)) for one in rounds(subject, height))


def moved(one: Round, way: NDArray[np.float64], by: Vector) -> Round:
    """A part turned by a rotation (3, 3) about the origin, then shifted."""

    def put(point: Triple) -> Triple:
        return _triple(way @ np.array(point) + by)

    axes = np.array(one.turn) @ way.T
    size = put(one.size) if one.kind == LIMB else one.size
    return replace(one, at=put(one.at), size=size, turn=(_triple(axes[0]), _triple(axes[1]), _triple(axes[2])))


def _triple(point: Vector) -> Triple:
    return float(point[0]), float(point[1]), float(point[2])


def scaled(one: Round, by: float) -> Round:
    """A part of a body so many times as large."""
    at, size = ((v[0] * by, v[1] * by, v[2] * by) for v in (one.at, one.size))
    return replace(one, at=at, size=size, ends=(one.ends[0] * by, one.ends[1] * by), soft=one.soft * by)


HEAD_FOR = 1.70
"""Stature the measures of the head below are given for [m]; adults' heads differ less, children's are larger for it."""
# About the middle between the eyes, ahead, left, up [m].
HEAD_PARTS: tuple[Round, ...] = (
    ball((-0.088, 0.0, 0.016), (0.098, 0.076, 0.088), SKIN, 0.010),
    ball((-0.066, 0.0, -0.052), (0.070, 0.058, 0.066), SKIN, 0.020),
    ball((-0.022, 0.0, -0.100), (0.026, 0.024, 0.018), SKIN, 0.022),
    ball((0.004, 0.0, -0.040), (0.020, 0.013, 0.012), SKIN, 0.012),
    ball((-0.008, 0.0, -0.014), (0.014, 0.009, 0.030), SKIN, 0.012),
    ball((-0.020, 0.028, 0.024), (0.018, 0.026, 0.010), SKIN, 0.020),
    ball((-0.020, -0.028, 0.024), (0.018, 0.026, 0.010), SKIN, 0.020),
    ball((-0.011, 0.0, -0.067), (0.013, 0.021, 0.0075), SKIN, 0.010),
    ball((-0.013, 0.0, -0.078), (0.013, 0.017, 0.0085), SKIN, 0.010),
    ball((-0.040, 0.038, -0.034), (0.036, 0.028, 0.030), SKIN, 0.034),
    ball((-0.040, -0.038, -0.034), (0.036, 0.028, 0.030), SKIN, 0.034),
    ball((-0.092, 0.077, -0.008), (0.018, 0.008, 0.030), SKIN, 0.008),
    ball((-0.092, -0.077, -0.008), (0.018, 0.008, 0.030), SKIN, 0.008),
    replace(ball((0.008, 0.031, 0.002), (0.012, 0.015, 0.008), SKIN, 0.012), carved=True),
    replace(ball((0.008, -0.031, 0.002), (0.012, 0.015, 0.008), SKIN, 0.012), carved=True),
    ball((-0.0125, 0.031, 0.001), (0.0125, 0.0125, 0.0125), EYE, 0.001),
    ball((-0.0125, -0.031, 0.001), (0.0125, 0.0125, 0.0125), EYE, 0.001),
    ball((-0.0065, 0.031, 0.001), (0.0072, 0.0060, 0.0060), IRIS, 0.001),
    ball((-0.0065, -0.031, 0.001), (0.0072, 0.0060, 0.0060), IRIS, 0.001),
    ball((-0.104, 0.0, 0.046), (0.0985, 0.084, 0.063), HAIR, 0.006),
    ball((-0.130, 0.0, 0.000), (0.070, 0.078, 0.090), HAIR, 0.010),
)


_AHEAD: tuple[Triple, Triple, Triple] = ((0.0, 1.0, 0.0), (0.0, 0.0, 1.0), (1.0, 0.0, 0.0))
GLASSES: tuple[Round, ...] = (
    Round(RING, (0.013, 0.031, -0.002), (0.023, 0.0013, 0.0), soft=0.0, cover=RIM, turn=_AHEAD),
    Round(RING, (0.013, -0.031, -0.002), (0.023, 0.0013, 0.0), soft=0.0, cover=RIM, turn=_AHEAD),
    limb((0.013, 0.009, 0.004), (0.013, -0.009, 0.004), 0.0012, 0.0012, RIM, 0.0),
    limb((0.012, 0.053, 0.002), (-0.080, 0.078, 0.004), 0.0013, 0.0013, RIM, 0.0),
    limb((0.012, -0.053, 0.002), (-0.080, -0.078, 0.004), 0.0013, 0.0013, RIM, 0.0),
)
"""Round glasses twelve millimetres before the eyes; common practice, no source."""


def _person(subject: Subject, s: float) -> list[Round]:
    width = subject.width.value if subject.width else 0.26 * s
    half = width / 2
    lift = posed_top(subject, s) - s
    if subject.posture == "lying":
        upright = _trunk(s, half, 0.0, subject.glasses) + _standing_legs(s, half)
        laid = np.array([[0.0, 1.0, 0.0], [0.0, 0.0, 1.0], [1.0, 0.0, 0.0]])
        return [moved(one, laid, np.array([0.0, 0.0, 0.075 * s])) for one in upright]
    body = _trunk(s, half, lift, subject.glasses)
    if subject.posture == "standing":
        return body + _standing_legs(s, half)
    hip, knee, legs = HIP * s + lift, KNEE * s, []
    for y in (-half * 0.42, half * 0.42):
        thigh, lower = (f"{THIGHS} {y:.3f}",), (f"{LEG} {y:.3f}",)
        if subject.posture == "seated":
            bent = (THIGH * s, y, hip - 0.01)
            foot = limb((THIGH * s, y, 0.03), (THIGH * s + 0.1 * s, y, 0.025), 0.024 * s, 0.016 * s, HAIR)
            legs += [
                replace(limb((0, y, hip), bent, 0.052 * s, 0.034 * s, TROUSERS, 0.03), hulls=thigh),
                replace(limb(bent, (THIGH * s, y, 0.04), 0.034 * s, 0.024 * s, TROUSERS), hulls=lower),
                replace(foot, hulls=(f"{LEG} foot {y:.3f}",)),
            ]
        else:
            shin = limb((0.02, y, 0.05), (-0.8 * knee, y, 0.045), 0.034 * s, 0.022 * s, TROUSERS)
            legs += [
                replace(limb((0, y, hip), (0.02, y, 0.05), 0.052 * s, 0.036 * s, TROUSERS, 0.03), hulls=thigh),
                replace(shin, hulls=lower),
            ]
    return body + legs


def _trunk(s: float, half: float, lift: float, glasses: bool) -> list[Round]:
    def at(share: float) -> float:
        return share * s + lift

    eyes = np.array([0.062 * s, 0.0, at(0.936)])
    worn = within(NO_HULL, GLASSES) if glasses else []
    parts = [replace(one, hulls=(NO_HULL if one.carved else HEAD,)) for one in HEAD_PARTS]
    head = [moved(scaled(one, s / HEAD_FOR), np.eye(3), eyes) for one in (*parts, *worn)]
    neck = limb((-0.006 * s, 0, at(0.80)), (-0.002 * s, 0, at(0.88)), 0.037 * s, 0.031 * s, SKIN, 0.02)
    collar = limb((-0.004 * s, 0, at(0.800)), (-0.004 * s, 0, at(0.822)), 0.043 * s, 0.038 * s, TOP, 0.03)
    parts, joint = within(NECK, [neck, collar]), half - 0.042 * s
    for side in (-1, 1):
        shoulder = (0.0, side * joint, at(0.785))
        elbow = (-0.01 * s, side * (half + 0.004 * s), at(0.63))
        hand = (0.06 * s, side * (half - 0.012 * s), at(0.495))
        across = limb((-0.006 * s, side * 0.012 * s, at(0.806)), shoulder, 0.036 * s, 0.031 * s, TOP, 0.04)
        hand_itself = ball(
            (0.072 * s, side * (half - 0.014 * s), at(0.472)), (0.022 * s, 0.014 * s, 0.034 * s), SKIN, 0.012
        )
        flank = limb(
            (0.0, side * joint * 0.80, at(0.765)), (0.0, side * joint * 0.55, at(0.69)), 0.040 * s, 0.050 * s, TOP
        )
        parts += [
            replace(across, hulls=("slope",)),
            limb(shoulder, elbow, 0.031 * s, 0.025 * s, TOP, 0.02),
            *within(f"forearm {side}", [limb(elbow, hand, 0.025 * s, 0.019 * s, TOP, 0.012), hand_itself]),
            replace(flank, hulls=("chest",)),
        ]
    chest = ball((0, 0, at(0.705)), (0.064 * s, half * 0.72, 0.085 * s), TOP, 0.05)
    waist = ball((0, 0, at(0.61)), (0.058 * s, half * 0.62, 0.075 * s), TOP, 0.05)
    hips = ball((0, 0, at(0.53)), (0.064 * s, half * 0.70, 0.058 * s), TROUSERS, 0.03)
    trunk = [
        replace(chest, hulls=("chest", "waist")),
        replace(waist, hulls=("waist", "hips")),
        replace(hips, hulls=("hips",)),
    ]
    return [*head, *parts, *trunk]


def _standing_legs(s: float, half: float) -> list[Round]:
    legs = []
    for y in (-half * 0.40, half * 0.40):
        thigh = limb((0, y, HIP * s - 0.02), (0.005, y, KNEE * s), 0.056 * s, 0.034 * s, TROUSERS, 0.02)
        lower = limb((0.005, y, KNEE * s), (-0.01, y, 0.05 * s), 0.034 * s, 0.022 * s, TROUSERS)
        foot = limb((-0.02, y, 0.022 * s), (0.10 * s, y, 0.016 * s), 0.022 * s, 0.014 * s, HAIR)
        named = ((THIGHS, thigh), (LEG, lower), (f"{LEG} foot", foot))
        legs += [replace(one, hulls=(f"{name} {y:.3f}",)) for name, one in named]
    return legs


def _animal(subject: Subject, h: float) -> list[Round]:
    size = extent(subject, h)
    w, sides = size.width / 2, (-1, 1)
    snout = 0.30 if subject.kind == "dog" else 0.20
    head = [
        ball((0.12 * h, 0, 0.82 * h), (0.13 * h, 0.12 * h, 0.115 * h), FUR, 0.03 * h),
        limb((0.16 * h, 0, 0.79 * h), (snout * h, 0, 0.765 * h), 0.075 * h, 0.04 * h, FUR, 0.03 * h),
        *within(NO_HULL, [ball((snout * h + 0.036 * h, 0, 0.775 * h), (0.014 * h,) * 3, HAIR, 0.004 * h)]),
        *within(
            NO_HULL, [ball((0.222 * h, y * 0.058 * h, 0.838 * h), (0.019 * h,) * 3, IRIS, 0.004 * h) for y in sides]
        ),
        *(
            limb((0.12 * h, y * 0.10 * h, 0.90 * h), (0.10 * h, y * 0.12 * h, 0.985 * h), 0.05 * h, 0.006 * h, FUR)
            for y in sides
        ),
    ]
    if subject.posture == "standing":
        long = size.depth
        body = [
            limb((-0.05 * h, 0, 0.52 * h), (-0.75 * long, 0, 0.52 * h), min(w, 0.17 * h), min(w, 0.14 * h), FUR),
            limb((-0.02 * h, 0, 0.55 * h), (0.08 * h, 0, 0.78 * h), 0.12 * h, 0.08 * h, FUR),
        ]
        legs = [
            limb((x, y * w * 0.55, 0.42 * h), (x, y * w * 0.55, 0.04 * h), 0.06 * h, 0.035 * h, FUR)
            for x in (-0.03 * h, -0.72 * long)
            for y in sides
        ]
        return [replace(one, soft=0.05 * h) for one in body + legs] + head
    body = [
        limb((0.0, 0, 0.58 * h), (-0.22 * h, 0, 0.22 * h), min(w, 0.15 * h), min(w, 0.22 * h), FUR),
        limb((0.0, 0, 0.58 * h), (0.10 * h, 0, 0.78 * h), 0.12 * h, 0.085 * h, FUR),
        limb((-0.38 * h, 0, 0.08 * h), (-0.62 * h, 0, 0.04 * h), 0.04 * h, 0.02 * h, FUR),
    ]
    for y in sides:
        body += [
            limb((0.05 * h, y * 0.09 * h, 0.5 * h), (0.09 * h, y * 0.09 * h, 0.035 * h), 0.06 * h, 0.035 * h, FUR),
            limb((-0.2 * h, y * w * 0.7, 0.15 * h), (0.05 * h, y * w * 0.8, 0.05 * h), 0.12 * h, 0.045 * h, FUR),
        ]
    return [replace(one, soft=0.05 * h) for one in body] + head


def _garment(subject: Subject, h: float) -> list[Round]:
    """On its hanger: sloping shoulders, a body that widens to the hem, sleeves."""
    size = extent(subject, h)
    half, thick = size.width / 2, size.depth / 2
    flat = min(thick, 0.45 * half)

    def cloth(at: Triple, to: Triple, first: float, last: float) -> Round:
        return limb(at, to, first, last, THING, 0.05 * h)

    body = [
        *(
            cloth((0, y * 0.08 * half, h - flat), (0, y * 0.62 * half, 0.93 * h), flat * 0.8, flat * 0.8)
            for y in (-1, 1)
        ),
        *(cloth((0, y * 0.36 * half, 0.86 * h), (0, y * 0.46 * half, flat), flat, flat) for y in (-1, 1)),
        cloth((0, 0, 0.86 * h), (0, 0, flat), flat, flat),
    ]
    sleeves = [
        cloth((0, y * 0.66 * half, 0.91 * h), (0, y * (half - 0.7 * flat), 0.45 * h), 0.8 * flat, 0.6 * flat)
        for y in (-1, 1)
    ]
    fill = Round(BOX, (0.0, 0.0, 0.48 * h), (flat * 0.8, 0.60 * half, 0.46 * h), (0.0, 0.0), 0.04 * h, THING)
    hook = Round(RING, (0.0, 0.0, h + 0.028), (0.025, 0.0025, 0.0), cover=METAL, turn=((0, 1, 0), (0, 0, 1), (1, 0, 0)))
    parts = [*within("body", body), *sleeves, *within("body", [fill])]
    return [*parts, *within(NO_HULL, [hook])]


def _thing(subject: Subject, height: float) -> list[Round]:
    """A thing by its outer measures: a box, an upright cylinder, a ring that lies, a ball."""
    size = extent(subject, height)
    half = (size.depth / 2, size.width / 2, size.top / 2)
    middle = (0.0, 0.0, size.top / 2)
    edge = 0.04 * min(half)
    if subject.shape == "sphere":
        return [Round(ELLIPSOID, middle, half)]
    if subject.shape == "cylinder":
        return [Round(CYLINDER, middle, half, (edge, 0.0))]
    if subject.shape == "ring":
        wire = min(half[2], 0.3 * half[1])
        return [Round(RING, (0.0, 0.0, wire), (min(half[0], half[1]) - wire, wire, 0.0))]
    return [Round(BOX, middle, half, (edge, 0.0))]


def table_of(parts: Sequence[Round]) -> NDArray[np.float64]:
    """Parts as the rows (n, 26) the kernels take: kind, at, size, ends, soft, cover, ball round it (4), axes (9),
    carved."""
    found = np.zeros((len(parts), 26))
    for row, one in zip(found, parts, strict=True):
        centre, reach = one.sphere
        row[:11] = (one.kind, *one.at, *one.size, *one.ends, one.soft, one.cover)
        row[11:15] = (*centre, reach)
        row[15:24] = np.array(one.turn).ravel()
        row[24] = one.carved
    return found
