"""What will be shot."""

from dataclasses import dataclass
from itertools import groupby
from pathlib import Path

from evrant.core.place.patterns import PATTERNS
from evrant.core.space.posed import crop_heights, posed_in
from evrant.core.studio.presets import PRESETS
from evrant.core.studio.sets import SetPlan
from evrant.core.studio.shots import Pattern, Shot
from evrant.drawing.finder import finder, sharp_strip
from evrant.web.context import Page
from evrant.web.forms import fields
from evrant.web.parts import Card, card
from evrant.web.registry import Context, PageSpec, Row

FACES = Path(__file__).parents[2] / "static/faces"


@dataclass(frozen=True)
class ShotCard(Card):
    """A shot with its subjects, the sets that take it, and the order with it one place earlier."""

    shot: Shot
    finder: str
    strip: str
    stops: list[Row]
    crops: dict[str, str]
    faces: list[Row]
    earlier: list[str]
    sets: list[SetPlan]
    subjects: list[Card]


@dataclass(frozen=True)
class Shots(Context):
    """What its template shows."""

    cards: list[ShotCard]
    presets: list[tuple[str, list[str]]]


def shots(page: Page) -> Shots:
    studio = page.studio
    cards = []
    for shot in studio.shots:
        target = f"shots/{shot.id}"
        scene = posed_in(studio, shot)
        strip, stops = sharp_strip(scene)
        cards.append(
            ShotCard(
                target,
                shot.name,
                fields(studio, target, shot),
                shot=shot,
                finder=finder(scene, 380.0, 330.0),
                strip=strip,
                stops=stops,
                crops={crop: page.say.length(size) for crop, size in crop_heights(shot).items()},
                faces=_faces(shot),
                earlier=_earlier([s.id for s in studio.shots], shot.id),
                sets=[plan for plan in studio.sets if plan.shot == shot.id],
                subjects=[card(page, f"{target}/subjects/{s.id}", s) for s in shot.subjects],
            )
        )
    return Shots(
        cards=cards,
        presets=[(key, [p.name for p in found]) for key, found in groupby(PRESETS, lambda p: p.group)],
    )


def _faces(shot: Shot) -> list[Row]:
    """Patterns for what is in the picture, with the picture of a face under each where there is one."""
    person = shot.of_person
    usual = [name for name in PATTERNS if name in PICTURED] if person else [*THINGS]
    names = usual if shot.pattern is None or shot.pattern in usual else [*usual, shot.pattern]
    rows: list[Row] = [
        {"name": name, "says": PATTERNS[name].says, "picture": pictured(name, "" if person else "ball-")}
        for name in names
    ]
    return sorted(rows, key=lambda row: not row["picture"])


PICTURED: tuple[Pattern, ...] = (
    "butterfly",
    "loop",
    "Rembrandt",
    "split",
    "clamshell",
    "broad",
    "short",
    "hair light",
    "even pair",
    "bounced",
    "ring",
    "top",
    "rim pair",
    "silhouette",
    "window and reflector",
)
THINGS: tuple[Pattern, ...] = (
    "side",
    "side pair",
    "even pair",
    "top",
    "under-light",
    "tent",
    "scrim",
    "ring",
    "rim pair",
    "bounced",
    "window and reflector",
    "gobo",
    "practicals",
)


def pictured(pattern: Pattern, what: str = "") -> str:
    """File of the face, or the ball, under a pattern; empty where it is not told by one."""
    name = f"{what}{pattern.replace(' ', '-').replace(',', '').lower()}.png"
    return name if (FACES / name).is_file() else ""


def _earlier(order: list[str], key: str) -> list[str]:
    """The order with one id moved a place forward."""
    at = order.index(key)
    moved = [one for one in order if one != key]
    return [*moved[: max(at - 1, 0)], key, *moved[max(at - 1, 0) :]]


SPEC = PageSpec("shots", shots, word="Shots", order=2)
