"""How a result depends on the figures that make the picture: subjects, wanted frame, lens, sensor."""

from collections.abc import Callable

from evrant.core.estimate import Estimate, Share
from evrant.core.scene import Scene


def picture_shares(scene: Scene, value: Callable[[Scene], float | None]) -> tuple[Share, ...]:
    """Shares of those figures in `value` of the scene, in its unit, by moving each by its ±."""
    here = value(scene)
    if here is None:
        return ()
    shares = []
    for label, twin in scene.picture_twins:
        there = value(twin)
        if there is not None and abs(there - here) > 1e-9:
            shares.append(Share(label, abs(there - here)))
    return tuple(shares)


def picture_estimate(scene: Scene, value: Callable[[Scene], float | None]) -> Estimate | None:
    """The value with those shares, or None where it cannot be had."""
    here = value(scene)
    return None if here is None else Estimate(here, picture_shares(scene, value))
