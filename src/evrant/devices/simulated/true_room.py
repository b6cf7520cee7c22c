"""A hidden room: the plan as claimed, every claim off by a draw from its own ±, every light put by tape.

The same seed gives the same room. What is drawn for a thing hangs on its path alone, so that a room stays the same
while its plan goes on.
"""

from hashlib import sha256

import numpy as np

from evrant.core.log.claimed import claimed, corrected
from evrant.core.log.forecast import MODEL, Forecast, Unknown, forecast
from evrant.core.log.taken import plan_as_lit, spelt_out
from evrant.core.studio.log import AsSet, Reading
from evrant.core.studio.sets import LightPlace, SetPlan
from evrant.core.studio.studio import Studio, by_id

TAPE = 0.01
"""± with which a light is put where the plan says, in each direction [m]."""
WIDEST = 2.5
"""No draw is further off than this many ±."""


class TrueRoom:
    """What is really there."""

    def __init__(self, studio: Studio, seed: int) -> None:
        self.seed = seed
        self.planned, self.plan = studio, claimed(studio)

    def draw(self, *key: str) -> float:
        """A number from the normal distribution that hangs on seed and key alone, cut off at `WIDEST`."""
        digest = sha256(f"{self.seed} {' '.join(key)}".encode()).digest()
        drawn = float(np.random.default_rng(int.from_bytes(digest[:8], "big")).normal())
        return max(min(drawn, WIDEST), -WIDEST)

    def off(self, unknown: Unknown) -> float:
        """By how much a claim is really off [stops]."""
        return unknown.prior * self.draw("claim", unknown.path)

    def forecast(self, wanted: Reading) -> Forecast | str:
        """What a reading is here without the instrument's own error."""
        bare = forecast(claimed(spelt_out(self.planned, wanted.set)), wanted)
        if isinstance(bare, str):
            return bare
        off = {path: self.off(one) for path, one in bare.unknowns.items() if one.kind != "camera"}
        return forecast(self.standing(corrected(self.plan, off), wanted), wanted)

    def light(self, wanted: Reading, *shot: str) -> float | str:
        """log₂ of what arrives [lx or lx s], with what no model knows of this one set-up; or what is missing."""
        found = self.forecast(wanted)
        if isinstance(found, str):
            return found
        return found.stops + MODEL * self.draw("model", wanted.set, wanted.light or "", *shot)

    def standing(self, studio: Studio, wanted: Reading) -> Studio:
        """The studio with the set's lights where the tape really put them."""
        kept = by_id(studio.as_set, wanted.as_set)
        if kept is not None:
            put = AsSet(id=kept.id, plan=self._put(kept.plan))
            return studio.changed(as_set=tuple(put if one.id == kept.id else one for one in studio.as_set))
        plan = by_id(studio.sets, wanted.set)
        if plan is None:
            return studio
        put_plan = self._put(plan_as_lit(self.planned, plan))
        return studio.changed(sets=tuple(put_plan if one.id == plan.id else one for one in studio.sets))

    def _put(self, plan: SetPlan) -> SetPlan:
        return plan.changed(lights=tuple(self._taped(plan.id, light) for light in plan.lights))

    def _taped(self, set_id: str, light: LightPlace) -> LightPlace:
        if light.x is None or light.y is None or light.height is None:
            return light
        x, y, z = (TAPE * self.draw("tape", set_id, light.id, axis) for axis in "xyz")
        return light.changed(x=light.x + x, y=light.y + y, height=max(light.height + z, 0.05))
