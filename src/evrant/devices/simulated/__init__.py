"""Stand-ins that measure a hidden room, which is the plan with seeded deviations."""

from evrant.core.studio.studio import Studio
from evrant.devices.instruments import Camera, Laser, Meter
from evrant.devices.simulated.camera import SimulatedCamera
from evrant.devices.simulated.laser import SimulatedLaser
from evrant.devices.simulated.meter import SimulatedMeter
from evrant.devices.simulated.true_room import TrueRoom


def laser_for(studio: Studio, seed: int) -> Laser:
    """The laser measure of a studio."""
    return SimulatedLaser(TrueRoom(studio, seed))


def meter_for(studio: Studio, seed: int) -> Meter:
    """The light meter of a studio."""
    return SimulatedMeter(TrueRoom(studio, seed))


def camera_for(studio: Studio, seed: int) -> Camera:
    """The tethered camera of a studio."""
    return SimulatedCamera(TrueRoom(studio, seed))
