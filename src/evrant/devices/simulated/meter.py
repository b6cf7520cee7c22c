"""A simulated light meter: ± 0.1 stop, shown in the steps a meter shows."""

import math

from evrant.core.light import photometry as ph
from evrant.core.log.taken import METER, scene_for
from evrant.core.studio.log import Reading
from evrant.devices.instruments import NoReading
from evrant.devices.simulated.true_room import TrueRoom

TENTHS = 10


class SimulatedMeter:
    """Reads the hidden room at the mark."""

    simulated = True

    def __init__(self, room: TrueRoom) -> None:
        self.room = room

    def read(self, wanted: Reading) -> float:
        """Aperture to a tenth of a stop, lux to three figures, or exposure value to a tenth."""
        scene = scene_for(self.room.plan, wanted)
        light = self.room.light(wanted)
        if isinstance(light, str) or scene is None:
            raise NoReading(light if isinstance(light, str) else "The set is gone.")
        stops = light + METER * self.room.draw("meter", wanted.id)
        if wanted.kind == "meter: lux":
            return float(f"{2**stops:.3g}")
        if wanted.kind == "meter: EV at ISO 100":
            return round((stops - math.log2(ph.DOME / 100)) * TENTHS) / TENTHS
        iso = wanted.iso or scene.shot.iso
        if wanted.kind != "meter: aperture" or iso is None:
            raise NoReading("A meter reads apertures, lux or exposure values, for a given ISO.")
        aperture = ph.f_number_for(2**stops, iso)
        value = round(2 * math.log2(aperture) * TENTHS) / TENTHS
        return round(2 ** (value / 2), 2)
