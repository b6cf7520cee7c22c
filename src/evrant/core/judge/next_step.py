"""What a person does next, in the order people work."""

from dataclasses import dataclass

from evrant.core.base.margins import Verdict
from evrant.core.judge.assumed import assumed
from evrant.core.judge.ledger import Ledger
from evrant.core.space.footprint import plan_of
from evrant.core.studio.gear import Camera, Lens
from evrant.core.studio.studio import Studio, by_id


@dataclass(frozen=True)
class NextStep:
    """A page (path under the studio), words for the link and one sentence why."""

    page: str
    words: str
    why: str


def next_step(studio: Studio, ledger: Ledger) -> NextStep:
    """The first thing that is missing, else the worst line, else the list."""
    room = studio.room
    if studio.brief.budget is None or studio.brief.tenure is None:
        return NextStep("brief", "Fill in the brief", "Budget and tenancy decide what may be bought and drilled.")
    if room.footprint is None or room.height is None or not _measured(studio):
        return NextStep("survey", "Measure the room", "Length, width and ceiling height decide everything else.")
    if not studio.shots or not any(shot.subjects for shot in studio.shots):
        return NextStep("shots", "Say what you will shoot", "The subject and the crop decide how much room is needed.")
    if not any(isinstance(item, Camera) for item in studio.gear) or not any(
        isinstance(item, Lens) for item in studio.gear
    ):
        why = "Plans are worked out for your pictures, your room and what you have."
        return NextStep("proposals", "See what it would take", why)
    if not studio.sets:
        why = "A set puts mark, camera, background and lights into the room."
        return NextStep(f"arrange/{studio.shots[0].id}", "Arrange a set", why)
    open_only = not ledger.ready and not ledger.count(Verdict.SHORT)
    guesses = assumed(studio) if open_only else ()
    if guesses:
        few = f"{guesses[0].name} is" if len(guesses) == 1 else f"{len(guesses)} things are"
        why = f"{few} assumed with a wide ±; what is measured turns close calls into plain ones."
        return NextStep("proposals#assumed", "Measure what is assumed", why)
    worst = ledger.worst
    if worst is not None and worst.verdict in (Verdict.SHORT, Verdict.UNKNOWN, Verdict.TIGHT) and not ledger.ready:
        plan = by_id(studio.sets, worst.set_id)
        named = f"“{plan.name}”: " if plan is not None and len(studio.sets) > 1 else ""
        page = f"sets/{worst.set_id or studio.sets[0].id}"
        return NextStep(page, "Settle the worst line", f"{named}{worst.sentence}")
    if not any(item.status == "planned" for item in studio.gear):
        why = "Everything is at hand and fits: tape marks, settings and tests, step by step."
        return NextStep(f"setup/{studio.sets[0].id}", "Set it up", why)
    return NextStep("kit", "Take the shopping list", "Everything fits; the list says what to buy.")


def _measured(studio: Studio) -> bool:
    return plan_of(studio.room) is not None
