"""How soft a light is, where its reflection shows in an eye, and whether glasses throw it into the lens.

Penumbra: width = source width × (edge to surface) / (source to edge), similar triangles [1].
Catchlight: a cornea is a convex mirror of 7.8 mm radius (Gullstrand's schematic eye, from memory); the
image of a far source of angular size a is a · r / 2 wide.
[1] Any textbook on geometrical optics.
"""

import math
from dataclasses import dataclass

import numpy as np

from evrant.core.light.bounce import kernels
from evrant.core.light.bounce.sources import Source
from evrant.core.light.face import nose_of, to_lens
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Points, Vector, unit

NOSE = 0.025
"""A nose stands this far off the cheek [m]; common practice, no source."""
CORNEA = 0.0078
EDGE = tuple(k / 8 for k in range(8))
"""Where an edge of a face is looked at."""
LENS_TILT, LENS_SPREAD = 8.0, 14.0
"""Spectacle lenses lean forward about 8° and their curved fronts look up to 14° round that; from memory."""
GRADES = ((3.0, "hard"), (10.0, "rather hard"), (25.0, "medium"), (45.0, "soft"), (181.0, "very soft"))
"""Grades by apparent size [degrees]; common practice, no source."""


@dataclass(frozen=True)
class Softness:
    """Apparent size [degrees], widths of shadow edges [m] at the nose and on the background, catchlight."""

    size: float
    grade: str
    nose: float
    background: float | None
    catchlight: float
    clock: float
    shape: str


def apparent(scene: Scene, source: Source) -> float | None:
    """How large a light is seen from the face, as the full angle of a cone [degrees]; None where there is no face."""
    return None if scene.face is None else math.degrees(cone(solid_angle(source.face, scene.face)))


def grade_of(size: float) -> str:
    """The grade of an apparent size [degrees], in words."""
    return next(name for limit, name in GRADES if size < limit)


def edge_at_nose(size: float, far: float) -> float:
    """How wide the edge of a nose's shadow is [m] under a light of that apparent size [degrees], so far off [m]."""
    return 2 * far * math.tan(math.radians(min(size / 2, 85))) * NOSE / max(far - NOSE, 0.05)


def softness(scene: Scene, source: Source) -> Softness:
    """How a light looks from the face."""
    assert scene.face is not None
    far = float(np.linalg.norm(source.centre - scene.face))
    seen = cone(solid_angle(source.face, scene.face))
    size, wide = math.degrees(seen), 2 * far * math.tan(min(seen / 2, math.radians(85)))
    behind = _behind(scene, source)
    ground = None if behind is None else wide * behind / max(far, 0.05)
    shape = "round" if len(source.face) > 4 else "rectangular"
    return Softness(
        size,
        grade_of(size),
        edge_at_nose(size, far),
        ground,
        math.radians(size) * CORNEA / 2,
        _clock(scene, source),
        shape,
    )


def solid_angle(face: Points, eye: Vector) -> float:
    """Solid angle of a flat polygon [sr], Van Oosterom and Strackee (1983)."""
    one = np.ascontiguousarray(face, float)[None]
    return float(kernels.solid_angle(float(eye[0]), float(eye[1]), float(eye[2]), one, 0, len(face)))


def cone(angle: float) -> float:
    """Full angle of the cone of a solid angle [rad]: Ω = 2π (1 − cos(a/2))."""
    return 2 * math.acos(max(1 - angle / (2 * math.pi), -1.0))


def _behind(scene: Scene, source: Source) -> float | None:
    """From the subject's edge to where its shadow falls on the background, along the light [m]."""
    if scene.line is None or scene.face is None:
        return None
    spot, way = scene.line
    ray = unit(scene.face - source.centre)
    toward = -float(ray[:2] @ way)
    gap = float((scene.face[:2] - spot) @ way)
    return gap / toward if toward > 0.05 and gap > 0 else None


def _clock(scene: Scene, source: Source) -> float:
    """Hour at which the catchlight sits in the eye as the camera sees it, 12 at the top."""
    assert scene.face is not None
    lens = to_lens(scene)
    across = unit(np.cross(np.array([0.0, 0.0, 1.0]), lens)) if abs(lens[2]) < 0.99 else np.array([1.0, 0.0, 0.0])
    up = np.cross(lens, across)
    half = unit(unit(source.centre - scene.face) + lens)
    # seen from the lens, `across` points to the picture's right
    hours = math.degrees(math.atan2(float(half @ across), float(half @ up))) / 30
    return hours % 12 or 12.0


def glare(scene: Scene, source: Source) -> float:
    """Degrees by which a light stays clear of glasses' reflection into the lens; negative when it shows.

    A lens normal n shows the point of the source for which n halves the angle between lens and source.
    """
    assert scene.face is not None
    nose, lens = nose_of(scene), to_lens(scene)
    tilt = math.radians(LENS_TILT)
    normal = nose * math.cos(tilt) - np.array([0.0, 0.0, 1.0]) * math.sin(tilt)
    edge = [a + (b - a) * s for a, b in zip(source.face, np.roll(source.face, -1, axis=0), strict=True) for s in EDGE]
    points = (*edge, *source.fine, source.centre)
    halves = [unit(unit(point - scene.face) + lens) for point in points]
    nearest = min(math.degrees(math.acos(max(-1.0, min(1.0, float(normal @ half))))) for half in halves)
    return nearest - LENS_SPREAD


def family(scene: Scene, height: float) -> Points | None:
    """Where at a height above the floor anything shows in the subject's glasses: the plan outline (n, 2) of mirrored
    lens rays."""
    assert scene.face is not None
    lens = to_lens(scene)
    up = np.array([0.0, 0.0, 1.0])
    tilt = math.radians(LENS_TILT)
    axis = nose_of(scene) * math.cos(tilt) - up * math.sin(tilt)
    side = unit(np.cross(axis, up)) if abs(axis[2]) < 0.99 else np.array([1.0, 0.0, 0.0])
    other = np.cross(side, axis)
    spread = math.radians(LENS_SPREAD)
    found = []
    for angle in np.linspace(0, 2 * math.pi, 24, endpoint=False):
        normal = axis * math.cos(spread) + (side * math.cos(angle) + other * math.sin(angle)) * math.sin(spread)
        ray = 2 * float(normal @ lens) * normal - lens
        if ray[2] * (height - scene.face[2]) <= 1e-3:
            continue
        reach = min((height - scene.face[2]) / ray[2], 6.0)
        found.append(scene.face[:2] + ray[:2] * reach)
    return np.array(found) if len(found) > 2 else None
