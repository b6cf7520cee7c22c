"""Why a reading may be odd: single causes, each tried on the forecast, those that explain it best first."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from evrant.core.light.lit import Lit
from evrant.core.log.forecast import Forecast, doses_for, forecast_in, lit_for
from evrant.core.studio.log import Reading
from evrant.core.studio.studio import Studio

Doses = NDArray[np.float64]
Oddness = Callable[[Forecast, float], float]
EXPLAINS = 1.5
"""A cause with which the reading is within so many ± explains it."""
STEPS = (-3, -2, -1, 1, 2, 3)
MOST_CAUSES = 3


@dataclass(frozen=True)
class Cause:
    """One thing that would explain a reading, and how many ± it leaves."""

    words: str
    odd: float


def causes(base: Studio, reading: Reading, oddness: Oddness) -> tuple[Cause, ...]:
    """The likeliest single causes, best first. `oddness` tells for a forecast and stops of a wrong setting how many ±
    the reading would be off."""
    state = lit_for(base, reading)
    if isinstance(state, str):
        return ()
    found = []
    for words, doses, wrong in _tried(state, reading):
        what = forecast_in(state, reading, doses)
        if isinstance(what, Forecast):
            found.append(Cause(words, oddness(what, wrong)))
    likely = [one for one in found if one.odd < EXPLAINS]
    return tuple(sorted(likely, key=lambda one: one.odd)[:MOST_CAUSES])


def _tried(state: Lit, reading: Reading) -> Iterable[tuple[str, Doses, float]]:
    """A cause in words, the doses it makes, and by how many stops a setting was off."""
    doses = doses_for(state, reading)
    every = doses_for(state, reading.changed(light=None, without_flash=False))
    for i, beam in enumerate(state.beams):
        if doses[i] == 0 and every[i] > 0:
            yield f"the {beam.name} was on too", _with(doses, i, every[i]), 0.0
        if doses[i] > 0 and np.count_nonzero(doses) > 1:
            yield f"the {beam.name} was off or did not fire", _with(doses, i, 0.0), 0.0
        if doses[i] > 0 and beam.light is not None:
            for step in STEPS:
                way = "more" if step > 0 else "less"
                stops = f"{abs(step)} stop{'s' if abs(step) > 1 else ''}"
                yield f"the {beam.name} stood {stops} {way} than noted", _with(doses, i, doses[i] * 2.0**step), 0.0
    for step in STEPS:
        stops = f"{abs(step)} stop{'s' if abs(step) > 1 else ''}"
        yield f"ISO, aperture or time was {stops} off what was noted", doses, float(step)


def _with(doses: Doses, index: int, dose: float) -> Doses:
    changed = doses.copy()
    changed[index] = dose
    return changed
