"""What cameras are set to: ISO in whole stops, shutter times and apertures in thirds of a stop; as marked, common
practice."""

import math

ISOS = (100, 200, 400, 800, 1600, 3200, 6400, 12800)
SLOWEST = 4.0
"""Longest shutter for things on a tripod [s]; common practice, no source."""
PER_SECOND = (
    4000, 3200, 2500, 2000, 1600, 1250, 1000, 800, 640, 500, 400, 320, 250, 200, 160, 125, 100, 80, 60, 50, 40, 30, 25,
    20, 15, 13, 10, 8, 6, 5,
)  # fmt: skip
TIMES = (*(1 / one for one in PER_SECOND), 0.25, 0.3, 0.4, 0.5, 0.6, 0.8, 1.0, 1.3, 1.6, 2.0, 2.5, 3.2, 4.0)
"""Shutter times [s]."""
F_NUMBERS = (1.4, 1.6, 1.8, 2.0, 2.2, 2.5, 2.8, 3.2, 3.5, 4.0, 4.5, 5.0, 5.6, 6.3, 7.1, 8.0, 9.0, 10.0, 11.0, 13.0) + (
    (14.0, 16.0, 18.0, 20.0, 22.0)
)
"""Apertures, from where lenses of a home begin."""


def nearest_time(time: float) -> float:
    """The nearest time that shutters are set to [s]."""
    return min(TIMES, key=lambda one: abs(math.log2(one / time)))


def longest_within(time: float) -> float:
    """The longest time that shutters are set to and that is no longer [s]; the shortest where all are."""
    return max((one for one in TIMES if one <= time * 1.0001), default=min(TIMES))


def nearest_iso(iso: float) -> int:
    """The nearest ISO in whole stops."""
    return min(ISOS, key=lambda one: abs(math.log2(one / iso)))
