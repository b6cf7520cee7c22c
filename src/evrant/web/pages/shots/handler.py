"""What will be shot."""

from dataclasses import dataclass
from itertools import groupby

from evrant.core.studio.presets import PRESETS
from evrant.core.studio.sets import SetPlan
from evrant.core.studio.shots import Shot
from evrant.web.context import Page
from evrant.web.forms import fields
from evrant.web.parts import Card, card
from evrant.web.registry import Context, PageSpec


@dataclass(frozen=True)
class ShotCard(Card):
    """A shot with its subjects, the sets that take it, and the order with it one place earlier."""

    shot: Shot
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
        cards.append(
            ShotCard(
                target,
                shot.name,
                fields(studio, target, shot),
                shot=shot,
                earlier=_earlier([s.id for s in studio.shots], shot.id),
                sets=[plan for plan in studio.sets if plan.shot == shot.id],
                subjects=[card(page, f"{target}/subjects/{s.id}", s) for s in shot.subjects],
            )
        )
    return Shots(
        cards=cards,
        presets=[(key, [p.name for p in found]) for key, found in groupby(PRESETS, lambda p: p.group)],
    )


def _earlier(order: list[str], key: str) -> list[str]:
    """The order with one id moved a place forward."""
    at = order.index(key)
    moved = [one for one in order if one != key]
    return [*moved[: max(at - 1, 0)], key, *moved[max(at - 1, 0) :]]


SPEC = PageSpec("shots", shots, word="Shots", order=2)
