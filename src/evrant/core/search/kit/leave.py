"""What not to buy, by school and room, each with its reason. All of it is common practice, no source."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from evrant.core.space.footprint import plan_of
from evrant.core.studio.gear import Camera, Lens
from evrant.core.studio.room import value
from evrant.core.studio.studio import Studio

GREEN_NEEDS = 3.0
LOW_CEILING = 2.5


@dataclass(frozen=True)
class Leave:
    """A thing to leave in the shop, and why."""

    what: str
    why: str


def leave_it(studio: Studio) -> list[Leave]:
    """What this studio does better without."""
    return [*_anyone(studio), *_by_school(studio), *_by_room(studio)]


def _anyone(studio: Studio) -> Iterable[Leave]:
    own = [item for item in studio.gear if item.status == "owned"]
    body = next((item for item in own if isinstance(item, Camera)), None)
    if body is not None:
        yield Leave(
            "A newer camera", f"The {body.called} takes every shot you planned; a light and what softens it show more."
        )
    if sum(isinstance(item, Lens) for item in own) >= 2:
        yield Leave("One more lens", "The lenses you have frame your shots; look at Lenses before you doubt it.")
    yield Leave("The lightest stands with plastic locks", "They wear out in about two years, and tip before that.")
    yield Leave("Sets of everything in one bag", "Half of it stays in the bag; buy what a shot asks for.")


def _by_school(studio: Studio) -> Iterable[Leave]:
    schools = studio.brief.schools
    video = any(shot.capture == "video" for shot in studio.shots)
    match schools.source:
        case "flash":
            yield Leave(
                "Continuous lamps for stills", "A flash of the same money is a hundred times as bright for its instant."
            )
            yield Leave("Long sync cables", "Radio is cheaper than the fall over one.")
        case "continuous":
            yield Leave("Flash heads and triggers", "Your school sees what it gets; a flash shows it afterwards.")
            yield Leave(
                "Bulbs on the mains frequency for film", "They beat with the frame rate, and no editing takes it out."
            )
        case "window":
            yield Leave(
                "Lamps to help the window", "Mixed colours cost an evening each; a white board opposite costs nothing."
            )
    if schools.heads == "few strong heads":
        yield Leave("Many small flashes", "Each wants cells, a receiver and a stand.")
    if schools.walls == "use the room":
        yield Leave(
            "Grids and flags for every head",
            "Your walls are part of the light; pay for them only where a line says spill.",
        )
    elif schools.walls == "control the room":
        yield Leave("A bigger softbox against a pale wall", "Black cloth before the wall does more, for less.")
    if schools.metering == "test frames":
        yield Leave(
            "A light meter",
            "Chart and trial frame do its work in your school; the other school meters once and is done.",
        )
    if schools.background == "paper":
        yield Leave(
            "Printed or fabric backgrounds",
            "They crease and date; grey paper becomes white, grey or black by its light.",
        )
    elif schools.background == "fabric":
        yield Leave("The widest paper roll", "It takes a van, a stairwell and a cupboard; cloth folds.")
    if video and schools.source != "flash":
        yield Leave(
            "Lamps with a fan near the microphone", "They are heard; a lamp of half the watts without one is not."
        )


def _by_room(studio: Studio) -> Iterable[Leave]:
    walls, ceiling = plan_of(studio.room), value(studio.room.height)
    if walls is not None:
        corners = [walls.wall(i)[0] for i in range(walls.count)]
        longest = max(float(((a - b) ** 2).sum() ** 0.5) for a in corners for b in corners)
        if longest < GREEN_NEEDS + 2.5:
            yield Leave(
                "A green background",
                f"It wants about {GREEN_NEEDS:.0f} m behind the subject so that nobody turns green.",
            )
        if _area(corners) < 20:
            yield Leave(
                "Heads of 600 Ws", "At their lowest setting they are too strong for a wide aperture in a small room."
            )
    if ceiling is not None and ceiling <= LOW_CEILING:
        yield Leave(
            "The 120 cm octabox on a stand", "Raised to 45° it meets the ceiling; 65 to 90 cm nearer is as soft."
        )
    if studio.room.floor == "carpet":
        yield Leave("Stands on castors", "On carpet they neither roll nor stand.")


def _area(corners: Sequence[NDArray[np.float64]]) -> float:
    """Area of a polygon [m²]."""
    x, y = np.array(corners).T
    return abs(float(x @ np.roll(y, -1) - y @ np.roll(x, -1))) / 2
