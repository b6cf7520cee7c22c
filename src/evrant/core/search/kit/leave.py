"""What not to buy, by school and room, each with its reason. All of it is common practice, no source."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from evrant.core.space.footprint import plan_of
from evrant.core.studio.gear import Camera, Lens
from evrant.core.studio.room import value
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say

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
    still = {"object", "garment"}
    if studio.shots and not any(subject.kind in still for shot in studio.shots for subject in shot.subjects):
        yield Leave(
            "A heavy tripod", "Flash stops what moves; people are followed by hand. Buy it for things and film."
        )
    if sum(isinstance(item, Lens) and item.focal_long is not None for item in own):
        yield Leave(
            "A second zoom", "In one small room the camera has one or two places; a fixed lens there is brighter."
        )
    if body is not None and body.fires != "nothing":
        yield Leave(
            "Another make of body", "Heads, softboxes and stands outlive it; only the transmitter's foot is its own."
        )
    yield Leave("More power than the lines ask", "Every doubling is one stop; a step nearer gives it for nothing.")
    yield Leave("The lightest stands with plastic locks", "They wear out in about two years, and tip before that.")
    yield Leave("Sets of everything in one bag", "Half of it stays in the bag; buy what a shot asks for.")


BY_SCHOOL: dict[tuple[str, str], tuple[Leave, ...]] = {
    ("source", "flash"): (
        Leave("Continuous lamps for stills", "A flash of the same money is a hundred times as bright for its instant."),
        Leave("Long sync cables", "Radio is cheaper than the fall over one."),
    ),
    ("source", "continuous"): (
        Leave("Flash heads and triggers", "Your school sees what it gets; a flash shows it afterwards."),
        Leave("Bulbs on the mains frequency for film", "They beat with the frame rate, and no editing takes it out."),
    ),
    ("source", "window"): (
        Leave("Lamps to help the window", "Mixed colours cost an evening each; a white board opposite costs nothing."),
    ),
    ("heads", "few strong heads"): (Leave("Many small flashes", "Each wants cells, a receiver and a stand."),),
    ("heads", "many small flashes"): (
        Leave("One strong head", "It lights from one place and stops the day it breaks; three small ones do not."),
    ),
    ("walls", "use the room"): (
        Leave(
            "Grids and flags for every head",
            "Your walls are part of the light; pay for them only where a line says spill.",
        ),
    ),
    ("walls", "control the room"): (
        Leave("A bigger softbox against a pale wall", "Black cloth before the wall does more, for less."),
    ),
    ("metering", "test frames"): (
        Leave(
            "A light meter",
            "Chart and trial frame do its work in your school; the other school meters once and is done.",
        ),
    ),
    ("metering", "meter"): (
        Leave("A tethered screen for exposure", "Your meter says it before the frame; the screen is for the picture."),
    ),
    ("background", "paper"): (
        Leave(
            "Printed or fabric backgrounds",
            "They crease and date; grey paper becomes white, grey or black by its light.",
        ),
    ),
    ("background", "fabric"): (
        Leave("The widest paper roll", "It takes a van, a stairwell and a cupboard; cloth folds."),
    ),
    ("lens", "long lens, step back"): (
        Leave("A faster wide lens", "Near is what distorts a face; from where you stand it stays in the bag."),
    ),
    ("lens", "normal lens, stay close"): (
        Leave("A long portrait lens", "Your room ends before it frames more than a face."),
    ),
    ("fixing", "fixed to the building"): (
        Leave("A second pair of background stands", "Hooks and a rail hold three rolls and stand on no floor."),
    ),
    ("fixing", "freestanding"): (
        Leave("Wall booms and plates", "They hold what the wall holds, and stay behind when you move."),
    ),
    ("standing", "strike every time"): (
        Leave("Stands on castors and heavy booms", "What is struck each time is carried each time."),
    ),
    ("standing", "leave it standing"): (
        Leave("Bags, cases and folding everything", "What stands needs no bag; a dust sheet does."),
    ),
}
"""What each school does better without, by the brief's field and its choice."""


def _by_school(studio: Studio) -> Iterable[Leave]:
    schools = studio.brief.schools
    for (field, choice), leaves in BY_SCHOOL.items():
        if getattr(schools, field) == choice:
            yield from leaves
    if any(shot.capture == "video" for shot in studio.shots) and schools.source != "flash":
        yield Leave(
            "Lamps with a fan near the microphone", "They are heard; a lamp of half the watts without one is not."
        )


def _by_room(studio: Studio) -> Iterable[Leave]:
    say = Say.of(studio.brief)
    walls, ceiling = plan_of(studio.room), value(studio.room.height)
    if walls is not None:
        corners = [walls.wall(i)[0] for i in range(walls.count)]
        longest = max(float(((a - b) ** 2).sum() ** 0.5) for a in corners for b in corners)
        if longest < GREEN_NEEDS + 2.5:
            yield Leave(
                "A green background",
                f"It wants about {say.length(GREEN_NEEDS)} behind the subject so that nobody turns green.",
            )
        if _area(corners) < 20:
            yield Leave(
                "Heads of 600 Ws", "At their lowest setting they are too strong for a wide aperture in a small room."
            )
    if ceiling is not None and ceiling <= LOW_CEILING:
        smaller = f"one of {say.length(0.65)} to {say.length(0.9)}"
        why = f"Raised to 45° it meets the ceiling; {smaller} nearer is as soft."
        yield Leave(f"An octabox of {say.length(1.2)} on a stand", why)
    if studio.room.floor == "carpet":
        yield Leave("Stands on castors", "On carpet they neither roll nor stand.")


def _area(corners: Sequence[NDArray[np.float64]]) -> float:
    """Area of a polygon [m²]."""
    x, y = np.array(corners).T
    return abs(float(x @ np.roll(y, -1) - y @ np.roll(x, -1))) / 2
