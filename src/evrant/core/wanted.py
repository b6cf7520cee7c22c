"""What a shot asks for: the frame's size and place above the floor, from subjects and crop.

Crops as shares of stature and the air around a subject are common practice, no source.
"""

from dataclasses import dataclass

from evrant.core.figures import FACE_DEPTH, extent
from evrant.core.quantity import Figure
from evrant.core.studio.shots import Shot, Subject

CROPS = {"head and shoulders": 0.41, "half length": 0.60, "three-quarter": 0.82}
HEADROOM = 0.09
"""Air above the head as a share of the frame's height in a crop."""
AIR = 1.14
"""Frame over subject when all of it is wanted."""
SHOULDERS, ELBOWS = 0.27, 0.32
"""Width that head and shoulders, and longer crops, must hold as a share of stature."""


@dataclass(frozen=True, slots=True)
class Wanted:
    """Frame at the mark: its height (with ± when stated), width, height of its middle and top [m].

    `across` is how far its middle lies to the subject's left of the mark; `depth` what must be
    sharp from front to back; `face` the height of the lead subject's face.
    """

    height: Figure
    width: float
    middle: float
    across: float
    top: float
    depth: float
    face: float


def wanted(shot: Shot) -> Wanted | None:
    """The frame a shot asks for, or None while a subject's height is missing.

    It carries no ± of the subjects' own figures: rules ask for those through the scene's twins.
    """
    heights = [subject.height.value for subject in shot.subjects if subject.height is not None]
    if not heights or len(heights) < len(shot.subjects):
        return None
    height = shot.frame_height or Figure(_frame_height(shot, heights), 0.0, "typical")
    top = _frame_top(shot, heights, height.value)
    lead = shot.subjects[0]
    return Wanted(
        height,
        _frame_width(shot, heights),
        top - height.value / 2,
        _middle_across(shot, heights),
        top,
        _depth(shot, heights),
        _base(lead) + extent(lead, heights[0]).face,
    )


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
        return shot.subjects[0].across
    _, _, left, right = _bounds(shot, heights)
    return (left + right) / 2


def _is_crop(shot: Shot) -> bool:
    return shot.crop in CROPS and shot.subjects[0].kind == "person"


def _frame_height(shot: Shot, heights: list[float]) -> float:
    if _is_crop(shot):
        return CROPS[shot.crop] * heights[0]
    bottom, top, _, _ = _bounds(shot, heights)
    return (top - bottom) * AIR


def _frame_width(shot: Shot, heights: list[float]) -> float:
    _, _, left, right = _bounds(shot, heights)
    if _is_crop(shot) and len(shot.subjects) == 1:
        return (SHOULDERS if shot.crop == "head and shoulders" else ELBOWS) * heights[0]
    return (right - left) * 1.08


def _frame_top(shot: Shot, heights: list[float], frame: float) -> float:
    bottom, top, _, _ = _bounds(shot, heights)
    if _is_crop(shot):
        return top + HEADROOM * frame
    return (top + bottom) / 2 + frame / 2


def _depth(shot: Shot, heights: list[float]) -> float:
    """Front to back of what must be sharp: faces of people and animals, the whole of an object."""
    fronts, backs = [], []
    for subject, height in zip(shot.subjects, heights, strict=True):
        share = FACE_DEPTH.get(subject.kind)
        depth = share * height if share else extent(subject, height).depth
        fronts.append(subject.ahead + depth / 2)
        backs.append(subject.ahead - depth / 2)
    return max(fronts) - min(backs)
