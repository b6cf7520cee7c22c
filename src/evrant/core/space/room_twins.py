"""A room with one of its measures moved by its ±: for asking what depends on it."""

from collections.abc import Iterable

from evrant.core.base.memo import Memo
from evrant.core.base.model import Model
from evrant.core.base.quantity import Figure
from evrant.core.studio.room import Outline, Room, Traverse

_TWINS: Memo[tuple[tuple[str, Room], ...]] = Memo(2_000_000, lambda twins: 400 + 900 * len(twins))


def room_twins(room: Room) -> tuple[tuple[str, Room], ...]:
    """(label, room) for every unsure measure of the outline; built once for a room."""
    return _TWINS.get("", (room.footprint, room), lambda: tuple(_twins(room)))


def _twins(room: Room) -> Iterable[tuple[str, Room]]:
    shape = room.footprint
    if shape is None:
        return
    for label, moved in moved_by_pm(shape):
        yield f"{label} of the outline", room.changed(footprint=moved)
    if isinstance(shape, Traverse):
        for number, leg in enumerate(shape.legs):
            for _, part in moved_by_pm(leg):
                legs = (*shape.legs[:number], part, *shape.legs[number + 1 :])
                yield f"length of wall {number + 1}", room.changed(footprint=shape.changed(legs=legs))
    if isinstance(shape, Outline):
        for number, corner in enumerate(shape.corners):
            for _, part in moved_by_pm(corner):
                corners = (*shape.corners[:number], part, *shape.corners[number + 1 :])
                yield f"corner {number + 1}", room.changed(footprint=shape.changed(corners=corners))


def moved_by_pm(thing: Model) -> Iterable[tuple[str, Model]]:
    """(label, the same) with each of its own unsure figures moved by its ±."""
    for name in type(thing).model_fields:
        figure = getattr(thing, name)
        if isinstance(figure, Figure) and figure.pm > 0:
            yield name.replace("_", " "), thing.changed(**{name: figure.moved()})
