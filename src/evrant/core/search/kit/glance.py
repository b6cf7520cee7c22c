"""A glance at a room: has a picture its place in it at all, and if not, in how large a room it would have?

Only camera, subject and a bare wall are looked at: lights, backgrounds and their stands want more. What a glance says
no to is no proof; it tells what is worth a long look.
"""

from collections.abc import Sequence
from typing import NamedTuple

from evrant.core.base.clock import Clock, standing_still
from evrant.core.base.quantity import ROOM_LENGTH
from evrant.core.edits.language import Edit, EditRefused
from evrant.core.place.moves import change
from evrant.core.search.arrange.formations import Offer
from evrant.core.search.arrange.search import arrange
from evrant.core.search.kit.lenses import GRID
from evrant.core.studio.gear import Camera, Lens
from evrant.core.studio.room import Rectangle
from evrant.core.studio.shots import Shot
from evrant.core.studio.studio import Studio

SECONDS, GLANCES, OFFER = 1.5, 10.0, Offer(gaps=(0.03,))
"""How long a glance, and all glances at a shot, take at most [s], and what is tried."""
LEFT_OUT = frozenset({"flash", "lamp", "board", "backdrop", "holder"})
STEP, STEPS, HIGHER = 0.3, 10, (0.0, 0.3)
"""A room is enlarged by steps [m], so often at most, and made higher by so much [m]."""


class Size(NamedTuple):
    """Length, width and height of a room [m]."""

    length: float
    width: float
    height: float | None


def has_place(studio: Studio, shot: Shot, edits: Sequence[Edit] = (), *, clock: Clock = standing_still) -> bool:
    """Whether a shot, the studio changed by `edits`, fits the room with the camera that is owned, before a bare wall
    and without lights. Taken to where there is no camera yet."""
    gear = tuple(one for one in studio.gear if one.status == "owned" and one.kind not in LEFT_OUT)
    if not any(isinstance(one, Camera) for one in gear) or not any(isinstance(one, Lens) for one in gear):
        return True
    alone = studio.changed(shots=(shot,), sets=(), gear=gear)
    try:
        for edit in edits:
            alone = change(alone, edit)
    except EditRefused:
        return False
    changed = alone.shots[0]
    return arrange(alone, changed, offer=OFFER, grid=GRID, budget=SECONDS, most=1, first=True, clock=clock).fits


def large_enough(studio: Studio, shot: Shot, *, clock: Clock = standing_still) -> Size | None:
    """The least empty room found, this one or one longer, wider or both, in which a shot has its place. None where it
    has it in none that was tried, or where the room is no rectangle."""
    shape, end = studio.room.footprint, clock() + GLANCES
    if not isinstance(shape, Rectangle) or shape.length is None or shape.width is None:
        return None
    empty = studio.changed(room=studio.room.changed(boxes=(), zones=()))
    long, wide = shape.length.value, shape.width.value
    for more in HIGHER:
        if clock() > end:
            break
        tall = None if studio.room.height is None else round(studio.room.height.value + more, 2)
        found = [
            Size(*size, tall)
            for ahead, aside in ((1, 0), (0, 1), (1, 1))
            if (size := _least(empty, shot, (long, wide), (ahead, aside), tall, clock, end)) is not None
        ]
        if found:
            return min(found, key=lambda size: size.length * size.width)
    return None


def _least(
    studio: Studio,
    shot: Shot,
    start: tuple[float, float],
    way: tuple[int, int],
    tall: float | None,
    clock: Clock,
    end: float,
) -> tuple[float, float] | None:
    """The fewest steps one way in which the shot has its place, halving between the ends until the time is up."""

    def size(steps: int) -> tuple[float, float]:
        return round(start[0] + way[0] * STEP * steps, 2), round(start[1] + way[1] * STEP * steps, 2)

    def fits(steps: int) -> bool:
        length, width = (ROOM_LENGTH.figure(side) for side in size(steps))
        high = None if tall is None else ROOM_LENGTH.figure(tall)
        room = studio.room.changed(footprint=Rectangle(length=length, width=width), height=high)
        return has_place(studio.changed(room=room), shot, clock=clock)

    low, high = -1, STEPS
    if clock() > end or not fits(high):
        return None
    while high - low > 1 and clock() <= end:
        middle = (low + high) // 2
        low, high = (low, middle) if fits(middle) else (middle, high)
    return size(high)
