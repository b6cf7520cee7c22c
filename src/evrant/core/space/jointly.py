"""What sets that stand together have in common: the same gear at the same place is one thing, which counts, stands and
shines once."""

from evrant.core.studio.sets import BackgroundPlace, LightPlace, PropPlace, SetPlan

Placed = LightPlace | PropPlace | BackgroundPlace
SAME_PLACE = 0.01
"""Two places so near to each other are one [m]."""


def without_common(plan: SetPlan, used: SetPlan) -> SetPlan:
    """A plan without what the used one has too; itself where they have nothing in common."""
    lights = tuple(one for one in plan.lights if not any(_same(one, other) for other in used.lights))
    props = tuple(one for one in plan.props if not any(_same(one, other) for other in used.props))
    background = BackgroundPlace() if _same(plan.background, used.background) else plan.background
    if len(lights) == len(plan.lights) and len(props) == len(plan.props) and background is plan.background:
        return plan
    return plan.changed(lights=lights, props=props, background=background)


def _same(one: Placed, other: Placed) -> bool:
    """Whether two places are of the same gear, at one spot."""
    gear = _gear(one)
    return any(gear) and gear == _gear(other) and _together(one, other)


def _gear(place: Placed) -> tuple[str | None, ...]:
    if isinstance(place, LightPlace):
        return (place.head, place.modifier, place.support)
    if isinstance(place, PropPlace):
        return (place.item, place.support)
    return (place.backdrop, place.holder)


def _together(one: Placed, other: Placed) -> bool:
    """Whether both are placed, within a finger's breadth in plan and height."""
    if None in (one.x, one.y, other.x, other.y):
        return False
    spots = zip((one.x, one.y, one.height), (other.x, other.y, other.height), strict=True)
    return all(abs((a or 0.0) - (b or 0.0)) <= SAME_PLACE for a, b in spots)
