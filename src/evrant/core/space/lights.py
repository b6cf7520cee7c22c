"""A light of a set with its gear resolved and where it is."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from evrant.core.space.solids import Vector
from evrant.core.studio.gear import Flash, Lamp, Modifier, Stand
from evrant.core.studio.room import value
from evrant.core.studio.sets import LightPlace

BEFORE_UMBRELLA = 0.12
"""A head stands so far before the rim of an umbrella it fires into, as a share of its width: lit to the rim by a beam
of 100°; from memory."""
LEVEL = 0.06
"""Sine of the tilt up to which a light counts as level, or as hanging straight."""


def all_round(head: Flash | Lamp | None, modifier: Modifier | None) -> bool:
    """Whether it shines to all sides, so that nothing need turn it: a bulb bare or in a lantern, whose spread is not
    known to be another."""
    bulb = isinstance(head, Lamp) and head.form == "bulb" and head.beam is None and head.distribution is None
    return bulb if modifier is None else modifier.form == "lantern"


def hangs(stand: Stand | None) -> bool:
    """Whether what a support carries hangs from a hook: straight down, where nothing turns it."""
    return stand is not None and stand.top == "hook or eye"


@dataclass(frozen=True, eq=False)
class Light:
    """A light with its gear resolved and its geometry."""

    place: LightPlace
    path: str
    name: str
    head: Flash | Lamp | None
    modifier: Modifier | None
    stand: Stand | None
    at: Vector | None
    forward: Vector | None
    column: Stand | None = None
    """The stand under a boom arm; `stand` is then both as one."""

    @property
    def hung(self) -> bool:
        """Whether it hangs from a hook."""
        return hangs(self.stand)

    @property
    def tilts(self) -> bool:
        """Whether something must turn it out of how its support holds it: level on a stand, straight down on a hook."""
        if self.forward is None or all_round(self.head, self.modifier):
            return False
        if self.hung:
            return bool(np.hypot(self.forward[0], self.forward[1]) > LEVEL or self.forward[2] > 0)
        return bool(abs(self.forward[2]) > LEVEL)

    @property
    def bounced(self) -> bool:
        """Whether the head looks back into an umbrella that throws its light ahead."""
        umbrella = self.modifier.umbrella if self.modifier else None
        return umbrella is not None and umbrella != "shoot-through"

    @cached_property
    def depth(self) -> float:
        """Face back to mount [m]; less than nothing where the head stands before the umbrella it fires into."""
        if self.bounced and self.modifier is not None and self.modifier.width is not None:
            return -BEFORE_UMBRELLA * self.modifier.width.value
        return (self.modifier and value(self.modifier.depth)) or 0.0

    @cached_property
    def mount(self) -> Vector | None:
        """Where the stand meets the light; not to be written to."""
        if self.at is None or self.forward is None:
            return None
        found: Vector = self.at - self.forward * self.depth
        found.flags.writeable = False
        return found

    @property
    def face(self) -> tuple[float, float | None] | None:
        """Width and height of the luminous face; the height is None when it is round."""
        if self.modifier and self.modifier.width:
            return self.modifier.width.value, value(self.modifier.height)
        if self.modifier is None and isinstance(self.head, Lamp) and self.head.width:
            return self.head.width.value, value(self.head.height) or self.head.width.value
        if self.modifier is None and self.head and self.head.diameter:
            return self.head.diameter.value, None
        return None
