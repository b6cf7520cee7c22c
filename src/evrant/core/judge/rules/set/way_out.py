"""Is the way from whoever is in the set to a door wide enough? Code fit.way_out."""

from collections.abc import Iterable, Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from evrant.core.base.estimate import Estimate, Share
from evrant.core.base.margins import PLACED_BOTH, Basis, Line, Margin, judge
from evrant.core.base.quantity import Figure
from evrant.core.edits.language import Shift
from evrant.core.judge.rules.rule import GEOMETRY, Proposal, SetRule
from evrant.core.space.footprint import Plan
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Points, Vector, separation
from evrant.core.space.things import Thing, box_thing, door_place, door_swing
from evrant.core.space.twins import twins
from evrant.core.space.way import Narrow, Obstacle, crossed, narrowest, obstacles, wall_pieces, within
from evrant.core.studio.room import Door
from evrant.core.studio.studio import Studio, by_id
from evrant.core.studio.words import Say

REACH = 0.75
"""How far from its middle whoever tends a thing stands [m]; common practice, no source."""
WAY_OUT = Line(
    "fit.way_out",
    "Way out",
    "m",
    Basis(
        "narrowest place of the widest way to a door, from the mark of a person, from behind the camera, else from "
        f"where one reaches a thing ({REACH:g} m) ≥ 0.60 m (or the local figure in the brief)",
        "Gaps between convex outlines; 0.60 m is common practice, local codes decide",
        "common practice",
    ),
    asks="Is the way from whoever is in the set to a door wide enough?",
    step="set",
    safety=True,
    search="placed",
    fails=True,
    hazards=("Way out",),
    helped_by=("room/boxes", "gear/", "swing"),
)
USUAL = 0.60
STEPS = (0.3, 0.5, 0.75)
"""How far somebody steps to get out of what stands about their feet, a short step first [m]; project choice."""
NOBODY: Points = np.zeros((0, 2))
ROUND = np.array([[np.cos(a), np.sin(a)] for a in np.arange(16) * np.pi / 8])
IN_THE_WAY = ("light", "holder", "backdrop", "prop", "camera", "box")


def margins(scene: Scene) -> Iterable[Margin]:
    """One line for a set in a room with a door."""
    found = way_out(scene)
    if found is None:
        return
    asked = scene.brief.way_out
    need = asked.value if asked else USUAL
    say = Say.of(scene.brief)
    names = [found.first.name, found.second.name]
    between = f"between the {names[0]} and the {names[1]}" if names[0] != names[1] else f"beside the {names[0]}"
    yield judge(
        WAY_OUT,
        (f"{scene.path}/way", f"{scene.path}/mark"),
        Estimate(found.width - need, _shares(scene, found) + ((Share("width asked for", asked.pm),) if asked else ())),
        need=need,
        have=max(found.width, 0.0),
        clear="From the set one walks out of the room unhindered.",
        short="The way out of the room is too narrow." if found.width > 0.05 else "The set closes the way out.",
        reason=f"Its narrowest place lies {between}: {say.length(max(found.width, 0.0))}; "
        f"{say.length(need)} is needed. "
        "Local rules decide.",
        at=(*found.at, 0.0),
        placing=PLACED_BOTH,
    )


def way_out(scene: Scene) -> Narrow | None:
    """The narrowest place on the way from the mark to a door, or None where there is none to judge."""
    starts = _starts(scene)
    if scene.walls is None or not len(starts):
        return None
    found_at = [(door, door_place(scene.room, scene.walls, door)) for door in scene.room.doors]
    places = [place for _, place in found_at if place]
    barred = {id(place): _bars(scene, door) for door, place in found_at if place}
    starts = starts[scene.walls.contains(starts)]
    if not places or not len(starts):
        return None
    names = [wall.name for wall in scene.room.edges(scene.walls.count)]
    pieces = wall_pieces(scene.walls, names, [(wall, first, last) for first, last, wall in places])
    blocks = [*pieces, *obstacles(thing for thing in scene.around if thing.kind in IN_THE_WAY)]
    if len(starts) == 1:
        starts = _stepped(scene.walls, blocks, starts[0])
    ways = []
    for place in places:
        first, last, wall = place
        opening, inside = _opening(names[wall], (first, last, scene.walls.inward(wall)), wall, blocks)
        stopper = next((one for one in blocks if one.thing is not None and one.thing is barred[id(place)]), None)
        if stopper is not None:
            ways.append(replace(opening, width=0.0, first=stopper, second=stopper))
            continue
        if not len(inside):
            ways.append(opening)
            continue
        found = narrowest(scene.walls, blocks, list(starts), list(inside))
        if found is not None:
            ways.append(min(found, opening, key=lambda narrow: narrow.width))
    return max(ways, key=lambda narrow: narrow.width, default=None)


SAMPLES, DEPTHS = 41, (0.02, 0.06, 0.10)
"""Places across a door, and how far inside it [m], that are looked at for what stands in it."""


def _opening(
    name: str, door: tuple[Vector, Vector, Vector], wall: int, blocks: Sequence[Obstacle]
) -> tuple[Narrow, Points]:
    """The door as a narrow place, between its jambs or what stands before it, and the middle of its way in.

    `door` is its two jambs and the direction into the room; no place is left where it is closed."""
    first, last, inward = door
    across = last - first
    width = float(np.linalg.norm(across))
    middle = (first + last) / 2
    jambs = [Obstacle(name, np.array([[*spot, 0.0]] * 2), None, wall) for spot in (first, last)]
    parts = np.linspace(0.0, 1.0, SAMPLES)
    spots = first + parts[:, None] * across
    depths = [spots + inward * deep for deep in DEPTHS]
    found = Narrow(width, (float(middle[0]), float(middle[1])), jambs[0], jambs[1], across / width)
    near = [block for block in blocks if block.thing is not None and _reaches(block, depths)]
    taken = [np.any([within(block, at) for at in depths], axis=0) for block in near]
    free = ~np.any(taken, axis=0) if near else np.ones(SAMPLES, dtype=bool)
    if free.all():
        return found, depths[-1][SAMPLES // 2][None]
    stopper = near[int(np.argmax([spots_.sum() for spots_ in taken]))]
    low, high = _longest(free)
    left = replace(found, width=(high - low) * width / (SAMPLES - 1), first=stopper, second=stopper)
    return left, depths[-1][(low + high) // 2][None] if high > low else depths[-1][:0]


def _reaches(block: Obstacle, depths: Sequence[Points]) -> bool:
    """Whether the upright box about an obstacle reaches the strip inside a door."""
    low, high = block.points[:, :2].min(axis=0), block.points[:, :2].max(axis=0)
    ends = np.array([depths[0][0], depths[0][-1], depths[-1][0], depths[-1][-1]])
    return bool((low <= ends.max(axis=0)).all() and (high >= ends.min(axis=0)).all())


def _longest(free: NDArray[np.bool_]) -> tuple[int, int]:
    """Bounds of the longest run of what is true; both 0 when nothing is."""
    edges = np.flatnonzero(np.diff(np.concatenate([[False], free, [False]]).astype(int)))
    runs = [(int(a), int(b)) for a, b in edges.reshape(-1, 2)]
    return max(runs, key=lambda run: run[1] - run[0], default=(0, 0))


def _bars(scene: Scene, door: Door) -> Thing | None:
    """What stands in the sweep of a door that stays shut meanwhile and opens inward: it must be moved before anybody
    gets out. Where doors are used, their own line says so."""
    swing = door_swing(scene.room, scene.walls, door) if scene.plan.doors == "stay shut" else None
    if swing is None:
        return None
    standing = [thing for thing in scene.around if thing.kind in IN_THE_WAY and not thing.fixed]
    inside = [thing for thing in standing for part in thing.parts if separation(swing, part.solid)[0] < 0]
    return inside[0] if inside else None


def _starts(scene: Scene) -> Points:
    """Where the person may be who must get out (n, 2): a person in the picture, else whoever photographs from behind
    the camera, else whoever tends the set, in arm's reach of what is taken, on the side one gets out from best."""
    mark = scene.mark
    if mark is None:
        return NOBODY
    if any(subject.kind == "person" or subject.held for subject in scene.shot.subjects):
        return mark[None]
    if scene.plan.camera.operator == "photographer behind it":
        if scene.camera_spot is None or scene.axis is None:
            return mark[None]
        return np.asarray(scene.camera_spot + scene.axis * 0.45)[None]
    return np.asarray(mark + REACH * ROUND)


def _stepped(walls: Plan, blocks: Sequence[Obstacle], spot: Vector) -> Points:
    """Where somebody gets to first (n, 2) who stands inside an outline, as astride of a tripod's legs: a step to any
    side that is free, with nothing else between."""
    over = [block for block in blocks if within(block, spot[None])[0]]
    if not over:
        return spot[None]
    rest = [block for block in blocks if block not in over]
    for step in STEPS:
        ring = spot + step * ROUND
        ring = ring[walls.contains(ring)]
        free = [
            not any(within(block, one[None])[0] for block in blocks) and not crossed(rest, spot, one) for one in ring
        ]
        if any(free):
            return np.asarray(ring[free])
    return spot[None]


def _shares(scene: Scene, found: Narrow) -> tuple[Share, ...]:
    """How the figures of both sides move the gap along its direction."""
    shares: dict[str, float] = {}
    for block, sign in ((found.first, 1.0), (found.second, -1.0)):
        for label, amount in _moves(scene, block, found.way * sign, found):
            shares[label] = abs(shares.get(label, 0.0) + amount)
    return tuple(Share(label, amount) for label, amount in shares.items() if amount > 1e-9)


def _moves(scene: Scene, block: Obstacle, way: Vector, found: Narrow) -> Iterable[tuple[str, float]]:
    here = float((block.points[:, :2] @ way).max())
    if block.thing is None:
        yield from _wall_moves(scene, block, way, found)
    elif block.thing.kind == "box":
        box = by_id(scene.boxes, block.thing.path.split("/")[-1])
        for name in ("x", "y", "length", "width"):
            figure = getattr(box, name, None)
            if box is not None and isinstance(figure, Figure) and figure.pm > 0:
                twin = box_thing(box.changed(**{name: figure.moved()}))
                if twin is not None:
                    there = float((twin.parts[0].solid[:, :2] @ way).max())
                    yield f"{name} of the {block.name}", there - here
    else:
        for label, thing in twins(scene, block.thing):
            if block.part < len(thing.parts):
                yield label, float((thing.parts[block.part].solid[:, :2] @ way).max()) - here


def _wall_moves(scene: Scene, block: Obstacle, way: Vector, found: Narrow) -> Iterable[tuple[str, float]]:
    assert scene.walls is not None
    start, end = scene.walls.wall(block.part)
    nearest = block.points[int((block.points[:, :2] @ way).argmax()), :2]
    part = float((nearest - start) @ (end - start)) / float((end - start) @ (end - start))
    at_jamb = any(
        place is not None and place[2] == block.part and min(np.hypot(*(nearest - jamb)) for jamb in place[:2]) < 0.01
        for place in (door_place(scene.room, scene.walls, door) for door in scene.room.doors)
    )
    inward = scene.walls.inward(block.part)
    for label, figure, moves in scene.walls.figures:
        move = (1 - part) * moves[block.part] + part * moves[(block.part + 1) % scene.walls.count]
        if at_jamb:  # a jamb keeps its offset along the wall, whatever the wall's length
            move = inward * float(inward @ move)
        yield label, float(way @ move) * figure.pm
    for door in scene.room.doors:
        place = door_place(scene.room, scene.walls, door)
        if place is None or place[2] != block.part or door.offset is None or door.width is None:
            continue
        along = (end - start) / np.linalg.norm(end - start)
        for jamb, figures in ((place[0], (door.offset,)), (place[1], (door.offset, door.width))):
            if float(np.linalg.norm(nearest - jamb)) < 0.01:
                for figure, what in zip(figures, ("offset", "width"), strict=False):
                    yield f"{what} of the {door.name.lower()}", float(way @ along) * figure.pm


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Move the whole set away from the narrow place, to each side of the room."""
    if scene is None or margin.at is None or margin.margin is None or scene.walls is None:
        return
    say = Say.of(scene.brief)
    lack = max(-margin.margin + (margin.uncertainty or 0.0) + 0.01, 0.05)
    for index in range(scene.walls.count):
        way = -scene.walls.inward(index)
        name = scene.room.edges(scene.walls.count)[index].name
        yield Proposal(
            f"Move the whole set {say.short_by(lack)} toward {name}",
            Shift(target=scene.path, dx=round(float(way[0]) * lack, 3), dy=round(float(way[1]) * lack, 3)),
        )


RULE = SetRule("way out", margins, (WAY_OUT,), propose, order=8, place_order=6, reads=GEOMETRY)
