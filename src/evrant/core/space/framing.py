"""Thin-lens framing, depth of field and what the camera sees.

Sources: thin-lens and depth-of-field formulas as in any optics handbook (for instance Ray, Applied
Photographic Optics); perspective centre at the front principal plane, image distance f (1 + m).
All lengths [m].
"""

import math
from dataclasses import dataclass

import numpy as np

from evrant.core.space.solids import Points, Vector, frame_axes, unit

FULL_FRAME_DIAGONAL = math.hypot(0.036, 0.024)
STEEP = 0.02
"""Level part of the lens axis below which the camera looks straight down."""
FULL_FRAME_BLUR = 0.030e-3
"""Circle of confusion for 36 × 24 mm [m]; scaled by sensor diagonal. Common practice."""


def subject_distance(focal: float, side: float, frame: float) -> float:
    """Subject to front principal plane for a frame of height `frame` on a sensor side: f (1 + h/s)."""
    return focal * (1 + frame / side)


def frame_at(distance: float, focal: float, side: float) -> float:
    """Frame height at a distance, focused there: s (d/f − 1)."""
    return side * (distance / focal - 1)


def focal_for(distance: float, side: float, frame: float) -> float:
    """Focal length that frames `frame` from `distance`."""
    return distance / (1 + frame / side)


def image_distance(distance: float, focal: float) -> float:
    """Principal plane to sensor when focused at a distance: f (1 + m) = f d / (d − f)."""
    return focal * distance / (distance - focal)


def blur_circle(width: float, height: float) -> float:
    """Permissible blur on a sensor of that size."""
    return FULL_FRAME_BLUR * math.hypot(width, height) / FULL_FRAME_DIAGONAL


CLEAN_ISO, FULL_FRAME_AREA = 12_800.0, 0.036 * 0.024
"""What passes as clean on a sensor of 36 × 24 mm; common practice, no source."""


def cleanest_iso(width: float, height: float) -> float:
    """The highest ISO that passes as clean on a sensor of that size: the same light on the whole of it."""
    return CLEAN_ISO * width * height / FULL_FRAME_AREA


def hyperfocal(focal: float, f_number: float, blur: float) -> float:
    """H = f² / (N c) + f."""
    return focal**2 / (f_number * blur) + focal


def depth_of_field(focal: float, f_number: float, distance: float, blur: float) -> tuple[float, float]:
    """Near and far limit; far is infinite at and beyond the hyperfocal distance."""
    hyper = hyperfocal(focal, f_number, blur)
    near = distance * (hyper - focal) / (hyper + distance - 2 * focal)
    far = math.inf if distance >= hyper else distance * (hyper - focal) / (hyper - distance)
    return near, far


GREEN = 550e-9
"""Wavelength diffraction is told by [m]."""


def diffraction(f_number: float, magnification: float) -> float:
    """Diameter of the Airy disc on the sensor, 2.44 λ N (1 + m) [m]; any optics handbook."""
    return 2.44 * GREEN * f_number * (1 + magnification)


def blur_disc(focal: float, f_number: float, distance: float, behind: float) -> float:
    """Blur-disc diameter of a point `behind` the sharp plane, measured in that plane [m].

    By similar triangles through the entrance pupil: D = (f / N) · b / (d + b).
    """
    return focal / f_number * behind / (distance + behind)


@dataclass(frozen=True)
class View:
    """A camera: perspective centre, axes, image distance and sensor sides as held."""

    eye: Vector
    forward: Vector
    image: float
    across: float
    upward: float
    right: Vector
    up: Vector

    @property
    def half_diagonal(self) -> float:
        """Angle from the axis to a corner of the picture [degrees]."""
        return math.degrees(math.atan(math.hypot(self.across, self.upward) / 2 / self.image))

    @classmethod
    def aimed(
        cls, eye: Vector, aim: Vector, focal: float, across: float, upward: float, level: Vector | None = None
    ) -> "View":
        """Looking from `eye` to `aim`. `level` is the plan direction (2,) the picture's top points to when
        the camera looks straight down; otherwise the picture's sides stay upright."""
        distance = float(np.linalg.norm(aim - eye))
        image = image_distance(distance, focal) if distance > focal * 1.001 else focal * 1000
        forward = unit(aim - eye)
        right, up = frame_axes(forward)
        if level is not None and float(np.hypot(forward[0], forward[1])) < STEEP:
            right = unit(np.cross(forward, np.array([level[0], level[1], 0.0])))
            up = np.cross(right, forward)
        return cls(eye, forward, image, across, upward, right, up)

    def rays(self) -> Points:
        """Directions through the frame's corners: top left, top right, bottom right, bottom left."""
        x, y = self.across / 2 / self.image, self.upward / 2 / self.image
        return np.array(
            [self.forward + sx * x * self.right + sy * y * self.up for sx, sy in ((-1, 1), (1, 1), (1, -1), (-1, -1))]
        )

    def project(self, points: Points, near: float = 0.05) -> Points:
        """Points to picture coordinates in half-frames: the picture is −1 … 1 both ways, y up.

        Points nearer than `near` in front of the lens are pushed out to it, so that bodies reaching
        behind the camera keep a finite outline.
        """
        offset = points - self.eye
        depth = np.maximum(offset @ self.forward, near)
        scale = self.image / depth
        return np.column_stack(
            [offset @ self.right * scale / (self.across / 2), offset @ self.up * scale / (self.upward / 2)]
        )

    def picture(self, points: Points) -> Points:
        """Where points are on the sensor (n, 2) [m], from its middle to the right and up."""
        return self.project(points) * (self.across / 2, self.upward / 2)

    def depth(self, points: Points) -> Points:
        """Distances along the lens axis."""
        return np.asarray((points - self.eye) @ self.forward)


def hits(view: View, line: tuple[Vector, Vector]) -> tuple[np.ndarray, np.ndarray] | None:
    """Where the four corner rays meet the background's vertical plane: place along it, seen from the
    camera left to right [m], and height [m]. None when the camera does not look at it."""
    spot, way = line
    normal = np.array([way[0], way[1], 0.0])
    rays = view.rays()
    closing = -(rays @ normal)
    distance = float((view.eye - np.array([*spot, 0.0])) @ normal)
    if distance <= 0.02 or (closing <= 1e-6).any():
        return None
    points = view.eye + rays * (distance / closing)[:, None]
    along = np.array([-way[1], way[0]])
    return (points[:, :2] - spot) @ along, points[:, 2]
