"""Does a clip sit on a door, and does the door keep still? Code support.door_clip."""

from collections.abc import Iterable

import numpy as np

from evrant.core.base.estimate import Estimate
from evrant.core.base.margins import PLACED, Basis, Line, Margin, judge
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import GEOMETRY, Proposal, SetRule
from evrant.core.space.booms import pivot_of
from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Vector
from evrant.core.space.things import door_place
from evrant.core.studio.room import Door
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say

CLIP = Line(
    "support.door_clip",
    "Clip of the … on a door",
    "m",
    Basis("clip within 10 cm of a leaf that stays where it is", "Common practice, no source", "common practice"),
    asks="Does a clip sit on a door, and does the door keep still?",
    step="support",
    safety=True,
    hazards=("Tipping and falling",),
)
REACH, MOVES = 0.10, -1.0


def margins(scene: Scene) -> Iterable[Margin]:
    """One line for each light on a door clip."""
    for light in scene.lights:
        spot = pivot_of(light)
        if light.stand is not None and light.stand.use == "door clip" and spot is not None and scene.walls is not None:
            yield from _line(scene, light, spot)


def _line(scene: Scene, light: Light, spot: Vector) -> Iterable[Margin]:
    found = min(((_off(scene, door, spot), door) for door in scene.room.doors), key=lambda one: one[0], default=None)
    say = Say.of(scene.brief)
    title, about = f"Clip of the {light.name} on a door", (light.path,)
    if found is None or found[0] > REACH:
        where = "No door is entered" if found is None else f"The {found[1].name.lower()} is {say.length(found[0])} away"
        short, spare, reason = f"The {light.name}'s clip is at no door.", MOVES, f"{where}."
    elif scene.plan.doors == "used":
        short, spare = f"The {light.name} hangs on a door that is used: it swings with it.", MOVES
        reason = (
            f"Say that the {found[1].name.lower()} stays shut, or open, while the set stands, and hang a sign on it."
        )
    else:
        short, spare = "", REACH - found[0]
        reason = f"The {found[1].name.lower()} {scene.plan.doors.replace('stay', 'stays')} while the set stands."
    yield judge(
        CLIP,
        about,
        Estimate(spare),
        title=title,
        need=REACH,
        have=REACH - spare if spare > MOVES else 0.0,
        clear=f"The {light.name}'s clip sits on a door that keeps still.",
        short=short,
        reason=reason,
        placing=PLACED,
    )


def _off(scene: Scene, door: Door, spot: Vector) -> float:
    """Distance on the plan of a place from a door's leaf: shut, or held open where it stays open [m]."""
    place = door_place(scene.room, scene.walls, door)
    if place is None or scene.walls is None:
        return float("inf")
    first, last, wall = place
    hinge, other = (first, last) if door.hinge == "start" else (last, first)
    if scene.plan.doors == "stay open" and door.swing == "in" and door.width is not None:
        other = hinge + scene.walls.inward(wall) * door.width.value
    along = other - hinge
    part = min(max(float((spot[:2] - hinge) @ along / (along @ along)), 0.0), 1.0)
    return float(np.linalg.norm(spot[:2] - hinge - part * along))


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """The door shut, or held open, as long as the set stands."""
    if scene is not None and scene.plan.doors == "used":
        yield Proposal("The door stays shut meanwhile", SetFields(target=scene.path, fields={"doors": "stay shut"}))
        yield Proposal("The door stays open meanwhile", SetFields(target=scene.path, fields={"doors": "stay open"}))


RULE = SetRule("door clip", margins, (CLIP,), propose, reads=GEOMETRY)
