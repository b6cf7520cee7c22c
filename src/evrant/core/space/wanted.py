"""What a shot asks for: the frame's size and place above the floor, from subjects, crop and angle.

A camera that looks down by an angle sees heights shortened by its cosine and depths by its sine; the
frame must hold both.

Crops as shares of stature and the air around a subject are common practice, no source.
"""

import math
from dataclasses import dataclass
from functools import partial

from evrant.core.base.memo import Memo
from evrant.core.base.quantity import Figure
from evrant.core.space.stature import FACE_DEPTH, extent
from evrant.core.studio.shots import LIVING, Shot, Subject

CROPS = {"head and shoulders": 0.41, "half length": 0.60, "three-quarter": 0.82}
HEADROOM = 0.09
"""Air above the head as a share of the frame's height in a crop."""
AIR = 1.14
"""Frame over subject when all of it is wanted."""
SHOULDERS, ELBOWS = 0.27, 0.32
"""Width that head and shoulders, and longer crops, must hold as a share of stature."""
OVERLAP = 0.15
"""What neighbouring parts of a joined picture share."""
SPEED = 3.0
"""How fast who has room to move does so [m/s]; common practice, no source."""
SMEAR = 1e-3
"""What of the frame's height a movement smears without being seen; project choice."""
PEOPLE, ANIMALS = 1 / 60, 1 / 125
"""Longest time for who holds still [s]; common practice, no source."""
OVERHEAD = 60.0
"""Looking down by this angle and more, the camera hangs over the subject [degrees]."""


@dataclass(frozen=True, slots=True)
class Wanted:
    """Frame at the mark: its height (with ± when stated), width, height of its middle and top [m].

    `across` is how far its middle lies to the subject's left of the mark, `ahead` how far before it;
    `depth` what must be sharp along the lens axis; `face` the height of the lead subject's face.
    """

    height: Figure
    width: float
    middle: float
    across: float
    ahead: float
    top: float
    depth: float
    face: float


_WANTED: Memo[Wanted | None] = Memo(1_000_000, lambda found: 500)


def wanted(shot: Shot) -> Wanted | None:
    """The frame a shot asks for, or None while a subject's height is missing.

    It carries no ± of the subjects' own figures: rules ask for those through the scene's twins.
    """
    return _WANTED.get("", (shot,), partial(_wanted, shot))


def freezes_in(shot: Shot) -> float | None:
    """Longest time in which a movement does not show [s]; None for a shot whose subject has no room to move."""
    asked = wanted(shot)
    moves = shot.movement is not None and shot.movement.value > 0
    return SMEAR * asked.height.value / SPEED if moves and asked is not None else None


def films_or_overhead(shot: Shot) -> bool:
    """Whether nobody holds the camera of a shot by hand: a film sways, and over a table no arm reaches far enough."""
    return shot.angle >= OVERHEAD or shot.capture == "video"


def stands_still(shot: Shot) -> bool:
    """Whether what a shot is taken with is best put on something: where no hand holds it, where nobody stands behind it
    in a self-portrait, and where a thing is taken; common practice, no source."""
    things = all(subject.kind in ("object", "garment") for subject in shot.subjects)
    return films_or_overhead(shot) or things or self_made(shot)


def self_made(shot: Shot) -> bool:
    """Whether who is in a shot takes it too, by its name."""
    return "self" in shot.name.lower()


def holds_for(shot: Shot) -> float | None:
    """Longest time in which who is in a shot does not smear, by holding still or by moving no further than shows [s];
    None where nobody is in it and nothing moves."""
    kinds = {subject.kind for subject in shot.subjects} & LIVING
    still = [PEOPLE if kinds <= {"person"} else ANIMALS] if kinds else []
    moving = freezes_in(shot)
    return min([*still, *([] if moving is None else [moving])], default=None)


def _wanted(shot: Shot) -> Wanted | None:
    heights = [subject.height.value for subject in shot.subjects if subject.height is not None]
    if not heights or len(heights) < len(shot.subjects):
        return None
    height = shot.frame_height or Figure(_frame_height(shot, heights), 0.0, "typical")
    if shot.parts > 1 and shot.still:
        height = _joined(height, shot.parts)
    top = _frame_top(shot, heights, height.value)
    lead = shot.lead
    return Wanted(
        height,
        _frame_width(shot, heights),
        top - height.value / 2,
        _middle_across(shot, heights),
        _middle_ahead(shot, heights),
        top,
        _depth(shot, heights),
        _base(lead) + extent(lead, _tall(shot)).face,
    )


def _joined(height: Figure, parts: int) -> Figure:
    """Frame height of one part when several are joined with an overlap."""
    share = (1 + OVERLAP * (parts - 1)) / parts
    return Figure(height.value * share, height.pm * share, height.origin)


def _tilt(shot: Shot) -> tuple[float, float]:
    """Cosine and sine of the angle the camera looks down by."""
    angle = math.radians(shot.angle)
    return math.cos(angle), math.sin(abs(angle))


def _tall(shot: Shot) -> float:
    """Height of the lead subject, which is known [m]."""
    assert shot.lead.height is not None
    return shot.lead.height.value


def _base(subject: Subject) -> float:
    return subject.base.value if subject.base else 0.0


def _bounds(shot: Shot, heights: list[float]) -> tuple[float, float, float, float]:
    """Bottom, top, left and right of all subjects."""
    sizes = [extent(s, h) for s, h in zip(shot.subjects, heights, strict=True)]
    pairs = list(zip(shot.subjects, sizes, strict=True))
    return (
        min(_base(s) for s, _ in pairs),
        max(_base(s) + e.top for s, e in pairs),
        min(s.across - e.width / 2 for s, e in pairs),
        max(s.across + e.width / 2 for s, e in pairs),
    )


def _middle_across(shot: Shot, heights: list[float]) -> float:
    if _is_crop(shot) and len(shot.subjects) == 1:
        return shot.lead.across
    _, _, left, right = _bounds(shot, heights)
    return (left + right) / 2


def _deep(shot: Shot, heights: list[float]) -> tuple[float, float]:
    """Rear and front of all subjects, from the mark."""
    sizes = [extent(s, h).depth for s, h in zip(shot.subjects, heights, strict=True)]
    pairs = list(zip(shot.subjects, sizes, strict=True))
    return min(s.ahead - d / 2 for s, d in pairs), max(s.ahead + d / 2 for s, d in pairs)


def _middle_ahead(shot: Shot, heights: list[float]) -> float:
    """Only a camera from above is led by depth; a level one is aimed abreast of the mark."""
    if _is_crop(shot) or shot.angle < OVERHEAD:
        return 0.0
    rear, front = _deep(shot, heights)
    return (rear + front) / 2


def _is_crop(shot: Shot) -> bool:
    return shot.crop in CROPS and shot.lead.kind == "person"


def _frame_height(shot: Shot, heights: list[float]) -> float:
    if _is_crop(shot):
        return CROPS[shot.crop] * _tall(shot)
    bottom, top, _, _ = _bounds(shot, heights)
    rear, front = _deep(shot, heights)
    cosine, sine = _tilt(shot)
    return ((top - bottom) * cosine + (front - rear) * sine) * AIR


def _frame_width(shot: Shot, heights: list[float]) -> float:
    _, _, left, right = _bounds(shot, heights)
    room = 2 * shot.movement.value if shot.movement else 0.0
    if _is_crop(shot) and len(shot.subjects) == 1:
        return (SHOULDERS if shot.crop == "head and shoulders" else ELBOWS) * _tall(shot) + room
    return (right - left) * 1.08 + room


def _frame_top(shot: Shot, heights: list[float], frame: float) -> float:
    bottom, top, _, _ = _bounds(shot, heights)
    if _is_crop(shot):
        return top + HEADROOM * frame
    return (top + bottom) / 2 + frame / 2


def _depth(shot: Shot, heights: list[float]) -> float:
    """What must be sharp along the lens axis: faces of people and animals, the whole of a thing."""
    fronts, backs, tall = [], [], 0.0
    for subject, height in zip(shot.subjects, heights, strict=True):
        share = FACE_DEPTH.get(subject.kind)
        size = extent(subject, height)
        depth = share * height if share else size.depth
        tall = max(tall, depth if share else size.top)
        fronts.append(subject.ahead + depth / 2)
        backs.append(subject.ahead - depth / 2)
    cosine, sine = _tilt(shot)
    return (max(fronts) - min(backs)) * cosine + tall * sine
