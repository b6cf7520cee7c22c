"""What will be shot."""

from itertools import groupby
from typing import Any

from evrant.core.studio.presets import PRESETS
from evrant.web.context import Page
from evrant.web.parts import card
from evrant.web.registry import PageSpec


def shots(page: Page) -> dict[str, Any]:
    studio = page.studio
    cards = []
    for shot in studio.shots:
        target = f"shots/{shot.id}"
        cards.append(
            card(page, target, shot)
            | {
                "shot": shot,
                "earlier": _earlier([s.id for s in studio.shots], shot.id),
                "sets": [plan for plan in studio.sets if plan.shot == shot.id],
                "subjects": [card(page, f"{target}/subjects/{s.id}", s) for s in shot.subjects],
            }
        )
    return {
        "cards": cards,
        "presets": [(key, [p.name for p in found]) for key, found in groupby(PRESETS, lambda p: p.group)],
    }


def _earlier(order: list[str], key: str) -> list[str]:
    """The order with one id moved a place forward."""
    at = order.index(key)
    moved = [one for one in order if one != key]
    return [*moved[: max(at - 1, 0)], key, *moved[max(at - 1, 0) :]]


SPEC = PageSpec("shots", shots, word="Shots", order=2)
