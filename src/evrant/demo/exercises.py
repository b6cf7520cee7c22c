"""Exercises in the demo rooms: a question, what one may answer, and the ledger as the judge of each answer."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from evrant.catalogue import load
from evrant.core.base.margins import Line, Margin, Verdict
from evrant.core.base.tables.finishes import PAINTS
from evrant.core.edits.language import EDIT
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.rules.light.aim import PATTERN
from evrant.core.judge.rules.light.returned_light import TINT
from evrant.core.judge.rules.power.power import CIRCUIT
from evrant.core.judge.rules.set.frame import CROP, DISTANCE
from evrant.core.judge.rules.set.sharpness import DEPTH
from evrant.core.judge.rules.support.support import REACH
from evrant.core.place.moves import change
from evrant.core.studio.studio import Studio
from evrant.demo import demo_studio

Data = dict[str, Any]


@dataclass(frozen=True)
class Exercise:
    """A question in a set of a demo. Each answer is edits; `lines` are those that judge it, about
    things whose path contains `about`; `before` makes the room the question is asked in, `teaches` what to keep."""

    id: str
    question: str
    demo: str
    set_id: str
    answers: Mapping[str, tuple[Data, ...]]
    lines: tuple[Line, ...]
    teaches: str
    about: str = ""
    before: tuple[Data, ...] = ()


@dataclass(frozen=True)
class Marked:
    """An answer as the ledger judges it: its worst line, whether it holds, and the studio with it."""

    words: str
    right: bool
    line: Margin | None
    studio: Studio


def put(target: str, **fields: object) -> Data:
    return {"verb": "set", "target": target, "fields": fields}


def _owned(key: str) -> Data:
    item = load().find(key)
    if item is None:
        raise KeyError(key)
    data = item.model_dump(mode="json", exclude_none=True) | {"status": "owned"}
    return {"verb": "add", "list": "gear", "item": data}


def _painted(paint: str, lrv: float = 0.0, colour: str = "") -> tuple[Data, ...]:
    value, shade = PAINTS.get(paint, (lrv, colour))
    walls = ("sofa-wall", "window-wall", "nook-side", "nook-end", "shelf-wall", "hall-wall")
    return tuple(put(f"room/walls/{wall}/finish", lrv=value, colour=shade) for wall in walls)


LESSON, OFF = "sets/lesson-a", "switched off for pictures"
EXERCISES: tuple[Exercise, ...] = (
    Exercise(
        "stand",
        "The key is wanted with its middle 2.17 m up. Which stand holds it there?",
        "hands-in-view",
        "lesson-a",
        {
            "a stand that goes up to 1.80 m": (put(f"{LESSON}/lights/key", support="stand-180"),),
            "a stand that goes up to 2.20 m": (),
            "a floor stand": (put(f"{LESSON}/lights/key", support="stand-floor"),),
        },
        (REACH,),
        "A stand is bought for the height its light is wanted at, not for the height of the room.",
        about="lights/key",
        before=(_owned("stand-180"), _owned("stand-floor")),
    ),
    Exercise(
        "lens",
        "Half a person is to fill the frame in this small room. Which lens can be stepped back with?",
        "hands-in-view",
        "lesson-a",
        {
            "24 mm on half frame": (),
            "50 mm": (put(f"{LESSON}/camera", lens="lens-50"),),
            "85 mm": (put(f"{LESSON}/camera", lens="lens-85"),),
        },
        (DISTANCE, CROP),
        "Focal length costs floor: twice the length is twice the distance for the same frame.",
        before=(_owned("lens-50"), _owned("lens-85")),
    ),
    Exercise(
        "pattern",
        "The face should be lit as Rembrandt: a small lit triangle on the far cheek. Where does the key go?",
        "hands-in-view",
        "lesson-a",
        {
            "in front and high": ({"verb": "light", "target": LESSON, "pattern": "butterfly"},),
            "45° to the side and 45° up": ({"verb": "light", "target": LESSON, "pattern": "Rembrandt"},),
            "level, square to the side": ({"verb": "light", "target": LESSON, "pattern": "split"},),
        },
        (PATTERN,),
        "The shadow of the nose must meet the shadow of the cheek: that needs both side and height.",
        before=(put("shots/lesson", pattern="Rembrandt", contrast=None),),
    ),
    Exercise(
        "wall",
        "The walls are to be painted anew. Which paint leaves skin its colour?",
        "hands-in-view",
        "lesson-a",
        {
            "white": _painted("white paint"),
            "terracotta": _painted("terracotta"),
            "strong green": _painted("", 34.0, "#3f9c4a"),
        },
        (TINT,),
        "Light that comes back off a wall takes its colour; near and strongly coloured is worst.",
    ),
    Exercise(
        "heater",
        "Two flashes, a computer and a fan heater hang on one 15 A circuit. What may run while pictures are taken?",
        "stones-on-file",
        "crystal-a",
        {
            "all of it": (),
            "all but the fan heater": (put("room/appliances/heater", runs=OFF),),
            "all but the computer": (put("room/appliances/computer", runs=OFF),),
        },
        (CIRCUIT,),
        "Heat is what loads a circuit; a heater draws as much as a whole set of flashes.",
    ),
    Exercise(
        "aperture",
        "A crystal 5 cm deep is to be sharp from front to back in one frame, close up. Is there an aperture for it?",
        "stones-on-file",
        "crystal-a",
        {
            "f/8": (put("shots/crystal", aperture=8),),
            "f/16": (put("shots/crystal", aperture=16),),
            "none: focus several frames in turn and join them": (put("shots/crystal", aperture=8, stack=12),),
        },
        (DEPTH,),
        "Close up, depth of field is millimetres at any aperture; frames focused in turn are the way.",
    ),
)


def marked(exercise: Exercise) -> tuple[Marked, ...]:
    """Every answer, judged."""
    start = applied(demo_studio(exercise.demo), exercise.before)
    return tuple(_marked(exercise, start, words, edits) for words, edits in exercise.answers.items())


def applied(studio: Studio, edits: tuple[Data, ...]) -> Studio:
    for edit in edits:
        studio = change(studio, EDIT.validate_python(edit))
    return studio


ORDER = (Verdict.CLEAR, Verdict.TIGHT, Verdict.UNKNOWN, Verdict.SHORT)


def _marked(exercise: Exercise, start: Studio, words: str, edits: tuple[Data, ...]) -> Marked:
    after = applied(start, edits)
    judges = {line.code for line in exercise.lines}
    lines = [
        line
        for line in ledger_of(after).lines
        if line.line.code in judges
        and (line.set_id in (exercise.set_id, None))
        and any(exercise.about in path for path in line.about)
    ]
    worst = max(lines, key=lambda line: (ORDER.index(line.verdict), -(line.margin or 0.0)), default=None)
    return Marked(words, worst is not None and worst.verdict in (Verdict.CLEAR, Verdict.TIGHT), worst, after)
