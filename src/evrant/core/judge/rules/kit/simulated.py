"""Does the plan rest on readings of an invented room? Code log.simulated."""

from collections.abc import Iterable

from evrant.core.base.margins import Basis, Line, Margin, unknown
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import Proposal, StudioRule
from evrant.core.log.claimed import finishes_of
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import Flash, Lamp, Modifier
from evrant.core.studio.studio import Studio

SIMULATED = Line(
    "log.simulated",
    "Corrections by simulated readings",
    "parts",
    Basis("no correction of the plan comes from a simulated instrument", "They measure an invented room", "declared"),
    asks="Does the plan rest on readings of your own room?",
    step="kit",
    goes=True,
)


def margins(studio: Studio) -> Iterable[Margin]:
    """One line for each thing that simulated readings have corrected."""
    for path, name, _ in _found(studio):
        yield unknown(
            SIMULATED,
            (path,),
            f"The {name} is taken as readings of an invented room have it.",
            "Read it in your own room, or take the correction back.",
            title=f"What is known of the {name}",
        )


def _found(studio: Studio) -> Iterable[tuple[str, str, str]]:
    """Path, name and the corrected field."""
    for item in studio.gear:
        if isinstance(item, (Flash, Lamp, Modifier)) and item.simulated and item.trim is not None:
            yield f"gear/{item.id}", item.called, "trim"
    names = {f"room/walls/{wall.id}/finish": wall.name for wall in studio.room.walls}
    names |= {f"room/boxes/{box.id}/finish": box.name for box in studio.room.boxes}
    for path, finish in finishes_of(studio.room).items():
        if finish.simulated and finish.measured is not None:
            yield path, names.get(path, "ceiling" if path == "room/ceiling" else "floor"), "measured"


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """The claim again."""
    for path, name, field in _found(studio):
        if path == margin.about[0]:
            fields = {field: None, "simulated": False}
            yield Proposal(f"Take the {name} as claimed again", SetFields(target=path, fields=fields))


RULE = StudioRule("simulated", margins, (SIMULATED,), propose)
