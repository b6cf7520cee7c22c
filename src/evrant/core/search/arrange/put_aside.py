"""Furniture that is in the way of a set: where it goes while the set stands. It stays in the room's plan."""

from collections.abc import Iterator, Sequence

import numpy as np

from evrant.core.base.margins import Verdict
from evrant.core.edits.language import Edit, Remove
from evrant.core.judge.ledger import lines_of_set
from evrant.core.judge.rules.set import aside
from evrant.core.space.footprint import plan_of
from evrant.core.space.scene import Scene, scene_of
from evrant.core.studio.room import Box
from evrant.core.studio.sets import Aside, SetPlan
from evrant.core.studio.studio import Studio, by_id

STEP = 0.1
"""Places that are tried for furniture lie so far apart [m]."""
HAIR = 1e-3
APART = 0.05
"""Furniture is pushed so far at least from what stands in the set [m]."""
LOOKS = 12
"""Places, the nearest to where it lives first, that are judged by the whole ledger."""
IN_ROOM = "room/boxes/"


def kept(studio: Studio, edits: Sequence[Edit], plan: SetPlan) -> tuple[tuple[Edit, ...], SetPlan] | None:
    """Edits without those that take furniture out of the room's plan, and a set found with these made that has it out
    of the room, or where it may only be pushed aside, aside; None where there is no place for it."""
    left = tuple(one for one in edits if not _takes_out(one))
    for edit in edits:
        box = by_id(studio.room.boxes, edit.target.removeprefix(IN_ROOM)) if isinstance(edit, Remove) else None
        if box is None or not _takes_out(edit):
            continue
        moved = _out(plan, box) if box.moves == "can be moved out" else _pushed(studio, plan, box)
        if moved is None:
            return None
        plan = moved
    return left, plan


def restored(before: Studio, studio: Studio) -> Studio:
    """A studio from whose room furniture was taken out for its sets, with what goes out of the room, or has a place in
    every set to which it is pushed, back in the room's plan and put aside in the sets."""
    left = {box.id for box in studio.room.boxes}
    for box in before.room.boxes:
        if box.id not in left and studio.sets:
            studio = _back(studio, box) or studio
    return studio


def _back(studio: Studio, box: Box) -> Studio | None:
    """The studio with a box in its room and put aside in each set; None where a set has no place for it."""
    whole = studio.changed(room=studio.room.changed(boxes=(*studio.room.boxes, box)))
    out = box.moves == "can be moved out"
    plans = [_out(plan, box) if out else _pushed(whole, plan, box) for plan in studio.sets]
    found = tuple(plan for plan in plans if plan is not None)
    return whole.changed(sets=found) if len(found) == len(plans) else None


def _takes_out(edit: Edit) -> bool:
    return isinstance(edit, Remove) and edit.target.startswith(IN_ROOM)


def _out(plan: SetPlan, box: Box, x: float | None = None, y: float | None = None) -> SetPlan:
    """The set with furniture out of the room, or at a place."""
    place = Aside(id=f"{box.id[:42]}-aside", box=box.id, x=x, y=y)
    return plan.changed(aside=(*plan.aside, place))


def _pushed(studio: Studio, plan: SetPlan, box: Box) -> SetPlan | None:
    """The set with furniture at the nearest place to where it lives at which nothing becomes Short by it."""
    gone = {line.key for line in lines_of_set(studio, _out(plan, box)) if line.verdict is Verdict.SHORT}
    looks = 0
    for x, y in _places(studio, box):
        there = _out(plan, box, x, y)
        scene = scene_of(studio, there)
        if scene is None or not _has_room(scene, box):
            continue
        looks += 1
        short = {line.key for line in lines_of_set(studio, there) if line.verdict is Verdict.SHORT}
        if short <= gone:
            return there
        if looks == LOOKS:
            return None
    return None


def _places(studio: Studio, box: Box) -> Iterator[tuple[float, float]]:
    """Places of a box's corner at which all its corners are in the room, the nearest to where it lives first."""
    walls = plan_of(studio.room)
    if walls is None or box.x is None or box.y is None or box.length is None or box.width is None:
        return
    low, high, home = walls.corners.min(axis=0), walls.corners.max(axis=0), (box.x.value, box.y.value)
    along, across = (np.arange(low[axis], high[axis], STEP) for axis in (0, 1))
    spots = np.array([(x, y) for x in along for y in across]).round(2)
    for ends in ((0.0, 0.0), (box.length.value, 0.0), (0.0, box.width.value), (box.length.value, box.width.value)):
        inward = np.sign(0.5 - np.array(ends) / (box.length.value, box.width.value)) * HAIR
        spots = spots[walls.contains(spots + ends + inward)]
    order = np.hypot(*(spots - home).T).argsort(kind="stable")
    yield from ((float(x), float(y)) for x, y in spots[order])


def _has_room(scene: Scene, box: Box) -> bool:
    """Whether all that is put aside is clear of walls, furniture and doors, and a box of what stands in the set."""
    if any(line.verdict is Verdict.SHORT for line in aside.margins(scene) if line.code == aside.ROOM.code):
        return False
    thing = next((one for one in scene.things if one.path == f"{IN_ROOM}{box.id}"), None)
    others = [one for one in scene.things if one.kind not in ("box", "door")]
    return thing is not None and all(aside.gap_between(thing, other) >= APART for other in others)
