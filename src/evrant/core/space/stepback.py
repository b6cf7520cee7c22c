"""How far back the camera must go, and what room it needs behind it."""

import math

from evrant.core.base.estimate import Estimate, Share
from evrant.core.base.quantity import Figure
from evrant.core.space import framing
from evrant.core.space.scene import Scene
from evrant.core.space.shares import picture_estimate, picture_shares
from evrant.core.space.volumes import OPERATOR_DEPTH, OPERATOR_SPREAD, REMOTE_DEPTH, REMOTE_SPREAD, SCREEN_DEPTH
from evrant.core.studio.gear import Lens


def needed_distance(scene: Scene, lens: Lens | None = None) -> Estimate:
    """Lens to mark so that height and width of the wanted frame both fit [m]: with the set's own lens,
    or with another."""

    def distance(one: Scene, focal: float) -> float | None:
        frame, sensor = one.wanted, one.sensor
        if frame is None or sensor is None:
            return None
        return max(
            framing.subject_distance(focal, sensor[1].value, frame.height.value),
            framing.subject_distance(focal, sensor[0].value, frame.width),
        )

    if lens is None or lens.focal is None:
        own = picture_estimate(scene, lambda one: distance(one, one.focal.value) if one.focal else None)
        return own or Estimate(math.inf)
    focal = lens.focal
    result = Estimate(distance(scene, focal.value) or math.inf)
    moved = distance(scene, focal.value + focal.pm) or math.inf
    return result.plus(
        Share(f"focal length of the {lens.called}", abs(moved - result.value)),
        *picture_shares(scene, lambda one: distance(one, focal.value)),
    )


def behind_lens(scene: Scene) -> Figure:
    """Camera and photographer, or camera alone [m]."""
    match scene.plan.camera.operator:
        case "remote or timer":
            return Figure(REMOTE_DEPTH, REMOTE_SPREAD, "typical")
        case "oneself, seen on a screen":
            return Figure(SCREEN_DEPTH, REMOTE_SPREAD, "typical")
    return Figure(OPERATOR_DEPTH, OPERATOR_SPREAD, "typical")
