"""Is all that the sets use owned or planned? Code budget.undecided."""

from collections.abc import Iterable

from evrant.core.base.estimate import Estimate
from evrant.core.base.margins import Basis, Line, Margin, judge
from evrant.core.edits.language import SetFields, together
from evrant.core.judge.rules.rule import Proposal, StudioRule
from evrant.core.space.scene import Scene
from evrant.core.stowage.pieces import gear_of
from evrant.core.studio.studio import Studio, by_id, undecided

UNDECIDED = Line(
    "budget.undecided",
    "The … is decided on",
    "parts",
    Basis(
        "things that a set uses and that are only considered: none",
        "What is only considered is in no sum and no cupboard",
        "declared",
    ),
    asks="Is all that the sets use owned or planned?",
    step="kit",
    goes=True,
)


def margins(studio: Studio) -> Iterable[Margin]:
    """A line for each thing that a set uses though it is only considered."""
    for item in undecided(studio):
        where = next(plan.name for plan in studio.sets if item.id in gear_of(plan))
        yield judge(
            UNDECIDED,
            (f"gear/{item.id}",),
            Estimate(-1.0),
            title=f"The {item.called} is decided on",
            need=1.0,
            have=0.0,
            clear="",
            short=f"“{where}” uses the {item.called}, which is only considered.",
            reason="What is only considered is in no sum and no cupboard.",
        )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """It planned, or owned; all such things planned."""
    item = by_id(studio.gear, margin.about[0].removeprefix("gear/"))
    if item is None:
        return
    target, every = f"gear/{item.id}", undecided(studio)
    yield Proposal(f"Plan the {item.called}", SetFields(target=target, fields={"status": "planned"}))
    yield Proposal(f"Say you have the {item.called}", SetFields(target=target, fields={"status": "owned"}))
    if len(every) > 1:
        edits = (SetFields(target=f"gear/{one.id}", fields={"status": "planned"}) for one in every)
        label = f"Plan {'both' if len(every) == 2 else f'all {len(every)}'} that sets use"
        yield Proposal(label, together(edits, label))


RULE = StudioRule("undecided", margins, (UNDECIDED,), propose, places=False)
