"""Furniture that a set has elsewhere: may it be moved, and is there room for it? Codes fit.aside, fit.aside_moves."""

from collections.abc import Iterable

import numpy as np

from evrant.core.base.estimate import Estimate, Share
from evrant.core.base.margins import PLACED, Basis, Line, Margin, judge
from evrant.core.edits.language import Remove, SetFields
from evrant.core.judge.rules.rule import FRAMED, Proposal, SetRule
from evrant.core.judge.rules.set.fit import inside
from evrant.core.space.scene import Scene
from evrant.core.space.solids import separation
from evrant.core.space.things import Thing, box_thing
from evrant.core.studio.room import Box
from evrant.core.studio.sets import Aside
from evrant.core.studio.studio import Studio, by_id
from evrant.core.studio.words import Say

ROOM = Line(
    "fit.aside",
    "Room for the … that is put aside",
    "m",
    Basis(
        "free distance to walls, to other furniture and to doors that are used ≥ 0",
        "Plan geometry, bodies as convex hulls",
        "computed",
    ),
    asks="Is there room for furniture where a set has it put?",
    step="set",
    goes=True,
)
MOVES = Line(
    "fit.aside_moves",
    "Moving the …",
    "parts",
    Basis("what a set has moved may be moved, and is taken out only where it goes out", "As entered", "declared"),
    asks="May furniture be moved as a set has it?",
    step="set",
    goes=True,
)


def margins(scene: Scene) -> Iterable[Margin]:
    """A line for each thing put aside in the room, and one where it is not to be moved like that."""
    for place in scene.plan.aside:
        box = by_id(scene.room.boxes, place.box)
        if box is None:
            continue
        out = place.x is None or place.y is None
        if box.moves == "stays" or (out and box.moves == "may be pushed aside"):
            yield _as_entered(scene, place, box, out)
        if not out:
            yield from _room_for(scene, place)


def _as_entered(scene: Scene, place: Aside, box: Box, out: bool) -> Margin:
    name, there = box.name.lower(), "out of the room" if out else "elsewhere"
    says = "stays where it is" if box.moves == "stays" else "may be pushed aside, not taken out"
    return judge(
        MOVES,
        (f"{scene.path}/aside/{place.id}", f"room/boxes/{box.id}"),
        Estimate(-1.0),
        title=f"Moving the {name}",
        need=1.0,
        have=0.0,
        clear="",
        short=f"The set has the {name} {there}, but it {says}.",
        reason="Under Room is said what furniture does for a session.",
    )


def _room_for(scene: Scene, place: Aside) -> Iterable[Margin]:
    """The nearest of what stands in its way."""
    box = by_id(scene.boxes, place.box)
    thing = box_thing(box) if box is not None else None
    if box is None or thing is None or scene.walls is None:
        return
    flat = thing.cloud[:, :2]
    found = inside(scene.walls, flat)
    wall = scene.room.edges(scene.walls.count)[found.wall].name
    ways = [(found.value, wall, (*found.shares, *_sizes(box)))]
    ways += [(gap_between(thing, other), other.name, _sizes(box)) for other in _others(scene, thing)]
    gap, what, shares = min(ways, key=lambda one: one[0])
    name, say = box.name.lower(), Say.of(scene.brief)
    low, high = flat.min(axis=0), flat.max(axis=0)
    yield judge(
        ROOM,
        (f"{scene.path}/aside/{place.id}", thing.path),
        Estimate(gap, shares),
        title=f"Room for the {name} that is put aside",
        need=0.0,
        have=gap,
        clear=f"There is room for the {name} where it is put.",
        short=f"The {name} does not go where it is put: the {what} is in its way.",
        reason=f"Nearest is the {what}: {say.short_by(gap)} {'free' if gap >= 0 else 'of overlap'}.",
        at=(float(low[0] + high[0]) / 2, float(low[1] + high[1]) / 2, 0.0),
        placing=PLACED,
    )


def _sizes(box: Box) -> tuple[Share, ...]:
    named = (("length", box.length), ("width", box.width))
    return tuple(Share(f"{name} of the {box.name.lower()}", one.pm) for name, one in named if one is not None)


def _others(scene: Scene, thing: Thing) -> Iterable[Thing]:
    """Other furniture, and doors as they swing."""
    boxes = (box_thing(box) for box in scene.boxes)
    yield from (one for one in boxes if one is not None and one.path != thing.path)
    yield from (one for one in scene.things if one.kind == "door")


def gap_between(thing: Thing, other: Thing) -> float:
    """Distance between two things, negative where they overlap [m]."""
    return float(np.min([separation(a.solid, b.solid)[0] for a in thing.parts for b in other.parts]))


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Left where it lives; taken out where it may be; said to be movable."""
    path = margin.about[0]
    place = by_id(scene.plan.aside, path.split("/")[-1]) if scene is not None else None
    box = by_id(studio.room.boxes, place.box) if place is not None else None
    if box is None:
        return
    name = box.name.lower()
    if box.moves == "can be moved out":
        yield Proposal(f"Take the {name} out of the room", SetFields(target=path, fields={"x": None, "y": None}))
    yield Proposal(f"Leave the {name} where it lives", Remove(target=path))
    if margin.code == MOVES.code:
        target = f"room/boxes/{box.id}"
        yield Proposal(
            f"Say the {name} can be moved out", SetFields(target=target, fields={"moves": "can be moved out"})
        )


RULE = SetRule("aside", margins, (ROOM, MOVES), propose, reads=FRAMED)
