"""Framing and depth of field against handbook equations and an independent camera matrix."""

import math

import numpy as np
import pytest

from evrant.core.space import framing
from evrant.core.space.framing import View


@pytest.mark.parametrize(
    ("focal", "side", "frame", "distance"),
    # Computed by hand from d = f (1 + h/s), thin-lens equation of any optics handbook.
    [
        (0.085, 0.036, 0.70, 1.738),
        (0.050, 0.036, 2.00, 2.828),
        (0.035, 0.036, 2.00, 1.979),
        (0.050, 0.0235, 2.00, 4.305),
    ],
)
def test_distance_for_a_frame(focal: float, side: float, frame: float, distance: float) -> None:
    assert framing.subject_distance(focal, side, frame) == pytest.approx(distance, abs=0.0006)
    assert framing.frame_at(framing.subject_distance(focal, side, frame), focal, side) == pytest.approx(frame)
    assert framing.focal_for(distance, side, frame) == pytest.approx(focal, rel=5e-4)


@pytest.mark.parametrize(
    ("focal", "f_number", "distance", "near", "far"),
    # Depth-of-field equations with c = 0.030 mm, computed by hand from the published formula.
    [(0.050, 8.0, 3.00, 2.338, 4.185), (0.085, 2.8, 2.00, 1.956, 2.046)],
)
def test_depth_of_field(focal: float, f_number: float, distance: float, near: float, far: float) -> None:
    got = framing.depth_of_field(focal, f_number, distance, 0.030e-3)
    assert got == pytest.approx((near, far), abs=0.0006)


def test_depth_is_infinite_from_the_hyperfocal_distance_on() -> None:
    hyper = framing.hyperfocal(0.035, 8.0, 0.030e-3)
    assert framing.depth_of_field(0.035, 8.0, hyper, 0.030e-3)[1] == math.inf
    near, far = framing.depth_of_field(0.035, 8.0, hyper * 0.999, 0.030e-3)
    assert math.isfinite(far) and far > 100 * near


def test_blur_circle_scales_with_the_sensor() -> None:
    assert framing.blur_circle(0.036, 0.024) == pytest.approx(0.030e-3)
    # 23.5 × 15.6 mm has 0.6517 of the diagonal: 0.0196 mm.
    assert framing.blur_circle(0.0235, 0.0156) == pytest.approx(0.01956e-3, rel=1e-3)


def camera_matrix(eye: np.ndarray, aim: np.ndarray, image: float, across: float, up: float) -> np.ndarray:
    """Homogeneous look-at and projection in the way of general 3-D graphics texts, with image distance f (1 + m)."""
    back = (eye - aim) / np.linalg.norm(eye - aim)
    right = np.cross([0.0, 0.0, 1.0], back)
    right /= np.linalg.norm(right)
    above = np.cross(back, right)
    view = np.eye(4)
    view[:3, :3] = [right, above, back]
    view[:3, 3] = -view[:3, :3] @ eye
    project = np.array([[2 * image / across, 0, 0, 0], [0, 2 * image / up, 0, 0], [0, 0, -1, 0], [0, 0, -1, 0]])
    return project @ view


def test_projection_agrees_with_an_independent_camera_matrix() -> None:
    rng = np.random.default_rng(7)
    for _ in range(40):
        eye, aim = rng.uniform(-2, 2, 3), rng.uniform(-2, 2, 3) + np.array([4.0, 0, 0])
        focal, across, up = rng.uniform(0.02, 0.1), 0.024, 0.036
        view = View.aimed(eye, aim, focal, across, up)
        points = aim + rng.uniform(-0.8, 0.8, (20, 3))
        matrix = camera_matrix(eye, aim, view.image, across, up)
        homogeneous = np.column_stack([points, np.ones(20)]) @ matrix.T
        expected = homogeneous[:, :2] / homogeneous[:, 3:]
        assert view.project(points) == pytest.approx(expected, abs=1e-9)


def test_the_wanted_frame_fills_the_picture() -> None:
    """At f (1 + h/s) the frame's edge lies on the picture's edge; with a plain focal length it would not."""
    distance = framing.subject_distance(0.05, 0.036, 0.4)
    view = View.aimed(np.array([distance, 0, 1.0]), np.array([0, 0, 1.0]), 0.05, 0.024, 0.036)
    edge = view.project(np.array([[0, 0, 1.2], [0, 0, 0.8]]))
    assert edge[:, 1] == pytest.approx([1.0, -1.0], abs=1e-9)
    assert view.image == pytest.approx(0.05 * (1 + 0.036 / 0.4))
