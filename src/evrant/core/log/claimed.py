"""The studio as it was claimed, without what readings have corrected; and with corrections tried on it.

Corrections are always found from the claims and all readings together: a reading that has been taken into account
once would otherwise count twice.
"""

from collections.abc import Callable, Iterable, Mapping

from evrant.core.base.quantity import LRV, Figure
from evrant.core.base.tables.finishes import FLOORS, FURNITURE
from evrant.core.light.surroundings import usual_of_box
from evrant.core.studio.gear import Flash, Item, Lamp, Modifier
from evrant.core.studio.room import Finish, Room
from evrant.core.studio.studio import Studio

Paint = Callable[[str, Finish], Finish]
LIGHT_GEAR = (Flash, Lamp, Modifier)
UNSURE = 0.3
"""± a correction that is only tried carries [stops]: it is known to be unsure, not by how much."""


def claimed(studio: Studio) -> Studio:
    """The studio without any correction by readings."""
    gear = tuple(_unread(item) for item in studio.gear)
    room = painted(studio.room, lambda _, finish: finish.changed(measured=None, simulated=False))
    return studio.changed(gear=gear, room=room)


def _unread(item: Item) -> Item:
    if isinstance(item, Modifier):
        return item.changed(trim=None, simulated=False)
    return item.changed(trim=None, known_with=(), simulated=False) if isinstance(item, (Flash, Lamp)) else item


def finishes_of(room: Room) -> dict[str, Finish]:
    """Every finish of a room by its path, as an edit names it."""
    found = {f"room/walls/{wall.id}/finish": wall.finish for wall in room.walls}
    found |= {f"room/boxes/{box.id}/finish": box.finish for box in room.boxes}
    return found | {"room/ceiling": room.ceiling, "room/floor_finish": room.floor_finish}


def painted(room: Room, paint: Paint) -> Room:
    """The room with each finish changed by its path."""
    now = {path: paint(path, finish) for path, finish in finishes_of(room).items()}
    return room.changed(
        walls=tuple(wall.changed(finish=now[f"room/walls/{wall.id}/finish"]) for wall in room.walls),
        boxes=tuple(box.changed(finish=now[f"room/boxes/{box.id}/finish"]) for box in room.boxes),
        ceiling=now["room/ceiling"],
        floor_finish=now["room/floor_finish"],
    )


def claim_of(room: Room, path: str) -> Figure | None:
    """The reflectance a finish is taken to have before any reading [%]: as entered, else what is usual."""
    finish = finishes_of(room).get(path)
    if finish is not None and finish.lrv is not None:
        return finish.lrv
    if path == "room/floor_finish" and room.floor is not None:
        return _typical(*FLOORS[room.floor])
    box = next((one for one in room.boxes if path == f"room/boxes/{one.id}/finish"), None)
    return _typical(usual_of_box(box), FURNITURE[1]) if box is not None else None


def _typical(share: float, pm: float) -> Figure:
    return Figure(100 * share, 100 * pm, "typical")


def corrected(studio: Studio, stops: Mapping[str, float]) -> Studio:
    """A claimed studio with what it claims off by so many stops: outputs and losses of gear, reflectances of room and
    furniture, by path. Each stays as unsure as it was; paths of other things are left alone."""

    def trimmed(item: Item) -> Item:
        off = stops.get(f"gear/{item.id}")
        if off is None or not isinstance(item, LIGHT_GEAR):
            return item
        return item.changed(trim=Figure(off, UNSURE, "measured"))

    def paint(path: str, finish: Finish) -> Finish:
        off, claim = stops.get(path), claim_of(studio.room, path)
        if off is None or claim is None:
            return finish
        return finish.changed(measured=Figure(min(claim.value * 2**off, LRV.high), claim.pm, "measured"))

    return studio.changed(gear=tuple(trimmed(item) for item in studio.gear), room=painted(studio.room, paint))


def writable(studio: Studio, paths: Iterable[str]) -> frozenset[str]:
    """Of these paths those `corrected` writes."""
    gear = {f"gear/{item.id}" for item in studio.gear if isinstance(item, LIGHT_GEAR)}
    return frozenset(path for path in paths if path in gear or claim_of(studio.room, path) is not None)
