"""How large a light's face must be to be soft, and whether a head may shine by itself."""

from evrant.core.place.patterns import Beam
from evrant.core.search.kit.filling import Filling
from evrant.core.search.kit.market import Good
from evrant.core.studio.gear import Lamp
from evrant.core.studio.room import value

SOFT_FROM = {"head and shoulders": 0.55, "half length": 0.55, "three-quarter": 0.75, "full length": 0.85}
"""Least size of a key's face for people, by crop [m]; common practice, no source."""
SOFT_SMALL = 0.40
NARROW = 0.6
"""The shorter side of a soft face is at least this share of its least size; project choice."""


def may_be_bare(filling: Filling, good: Good, beam: Beam) -> bool:
    """Whether a head may shine by itself: where hard light is wanted, or its own face is large enough."""
    if beam.role not in ("key", "fill", "top light") or beam.aim == "corner":
        return filling.case.pattern != "gobo" or beam.role != "background light"
    if filling.shot.contrast == "strong" or filling.case.pattern in ("scrim", "split", "tent"):
        return True
    head = good.item
    own = 0.0
    if isinstance(head, Lamp):
        own = max(value(head.width) or 0.0, value(head.height) or 0.0)
    return own >= soft_from(filling) - 1e-9


def soft_from(filling: Filling) -> float:
    """Least size of a soft face for the shot [m]."""
    return SOFT_FROM.get(filling.shot.crop, SOFT_SMALL) if filling.people else SOFT_SMALL
