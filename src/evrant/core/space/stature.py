"""How large a subject is in its posture, by what is known of it.

Proportions of a person as shares of stature: segment lengths after Drillis and Contini (1966) as
tabulated in Winter, Biomechanics and Motor Control of Human Movement (from memory); animals are
common practice without a source.
"""

from dataclasses import dataclass

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
"""Width and depth of a subject as shares of its height when not given."""
FACE_DEPTH = {"person": 0.11, "cat": 0.30, "dog": 0.30}
"""Front to back of a face as a share of height: what must be sharp in a portrait."""


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
