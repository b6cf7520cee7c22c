"""What a camera stands on: where it meets it, which of several holds it there, and who releases it."""

from collections.abc import Iterable

from evrant.core.base.tables.supports import CAMERA_BEFORE, CAMERA_OVER
from evrant.core.space.placed import Placed
from evrant.core.space.volumes import ARM_ABOVE, PLATE_BELOW
from evrant.core.space.wanted import OVERHEAD, self_made
from evrant.core.studio.gear import Camera, Item, Stand
from evrant.core.studio.room import value
from evrant.core.studio.sets import Operator
from evrant.core.studio.shots import Shot


def plate(scene: Placed) -> float | None:
    """How high the camera meets its support [m]; None where it is not placed."""
    if scene.eye is None:
        return None
    return float(scene.eye[2]) + (ARM_ABOVE if scene.overhead else -PLATE_BELOW)


def held_by(scene: Placed, hand: Iterable[Item]) -> str | None:
    """The first of those at hand that holds the camera where it is, else the one that comes nearest to that; what is
    made for it comes before what also does."""
    high = plate(scene) or 0.0
    for use in CAMERA_OVER if scene.overhead else CAMERA_BEFORE:
        stands = [item for item in hand if isinstance(item, Stand) and item.use == use]
        if stands:
            return min(stands, key=lambda stand: _beyond(stand, high)).id
    return None


def released(shot: Shot) -> Operator:
    """Who releases: nobody reaches a camera overhead; in a self-portrait one looks at a screen."""
    if self_made(shot):
        return "oneself, seen on a screen"
    return "remote or timer" if shot.angle >= OVERHEAD else "photographer behind it"


def is_clamped(body: Camera | None) -> bool:
    """Whether a camera has no thread and is clamped, as telephones are."""
    return body is not None and body.screws is not None and body.screws.startswith("nothing")


def _beyond(stand: Stand, high: float) -> float:
    """How far a height lies outside of what a stand goes to [m]."""
    least, most = value(stand.min_height) or 0.0, value(stand.max_height)
    return max(least - high, high - most if most is not None else 0.0, 0.0)
