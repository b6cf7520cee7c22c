"""The safety sheet of one set, or of all."""

from dataclasses import dataclass
from typing import Any

from evrant.core.base.margins import Verdict
from evrant.core.judge.safety import NOTICES, hazards
from evrant.core.space.scene import scene_of
from evrant.store.revisions import NotFound
from evrant.web.context import Page
from evrant.web.registry import Context, PageSpec, Row


@dataclass(frozen=True)
class SafetySheet(Context):
    """What its template shows."""

    sets: list[Row]
    notices: tuple[str, ...]
    whole: bool


def safety_sheet(page: Page) -> SafetySheet:
    """Hazards of one set, or of every set of the studio."""
    plans = [plan for plan in page.studio.sets if page.set_id is None or plan.id == page.set_id]
    if not plans:
        raise NotFound("There is no set yet.")
    sets = []
    for plan in plans:
        scene = scene_of(page.studio, plan)
        if scene is not None:
            lines = page.ledger.shown_with(plan.id)
            sets.append({"plan": plan, "hazards": [_told(page, h) for h in hazards(scene, lines)]})
    if not sets and page.set_id is not None:
        raise NotFound("The shot of this set is gone.")
    return SafetySheet(
        sets=sets,
        notices=NOTICES,
        whole=page.set_id is None,
    )


def _told(page: Page, hazard: Any) -> dict[str, Any]:
    """A hazard with its lines in words; of the Clear ones only how many."""
    shown = [line for line in hazard.lines if line.verdict is not Verdict.CLEAR]
    return {
        "name": hazard.name,
        "cause": hazard.cause,
        "caution": hazard.caution,
        "do": hazard.do,
        "word": hazard.verdict.value if hazard.verdict else "",
        "lines": [
            {
                "word": line.verdict.value,
                "figure": page.say.margin(line.margin, line.unit) if line.margin is not None else "",
                "sentence": line.sentence,
                "reason": line.reason,
            }
            for line in shown
        ],
        "calm": len(hazard.lines) - len(shown),
    }


SPEC = PageSpec("safety", safety_sheet, under="set", of_set="safety", alone=True)
