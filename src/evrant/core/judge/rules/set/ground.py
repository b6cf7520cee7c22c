"""A background that is asked for and not there: frame.background."""

from collections.abc import Iterable

from evrant.core.base.estimate import Estimate
from evrant.core.base.margins import Basis, Line, Margin, judge
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import Proposal, SetRule
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import Backdrop, Board, Tent
from evrant.core.studio.studio import Studio

GROUND = Line(
    "frame.background",
    "Background",
    "parts",
    Basis(
        "a paper, cloth, board, tent or bare wall stands behind a subject whose background is to have a tone",
        "What the shot asks for; common practice, no source",
        "common practice",
    ),
    asks="Is there a background where one is asked for?",
    step="set",
    first=True,
)
MOST = 3


def margins(scene: Scene) -> Iterable[Margin]:
    """One line where a tone is asked for and nothing stands behind the subject."""
    if (
        scene.overhead
        or scene.shot.tone is None
        or scene.backdrop is not None
        or scene.plan.background.wall is not None
    ):
        return
    if any(isinstance(scene.gear.get(prop.item or ""), (Board, Tent)) for prop in scene.plan.props):
        return
    yield judge(
        GROUND,
        (f"{scene.path}/background", f"shots/{scene.shot.id}"),
        Estimate(-1.0),
        need=1.0,
        have=0.0,
        clear="",
        short="There is no background in this set.",
        reason=f"The picture is to have a {scene.shot.tone} background; nothing hangs or stands behind the subject.",
    )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """What of the kit could hang there; a bare wall; any background at all."""
    if scene is None:
        return
    target = f"{scene.path}/background"
    at_hand = [item for item in studio.gear if isinstance(item, Backdrop) and item.at_hand]
    for item in at_hand[:MOST]:
        yield Proposal(f"Hang the {item.called}", SetFields(target=target, fields={"backdrop": item.id}))
    yield Proposal(
        "Take whatever is behind the subject", SetFields(target=f"shots/{scene.shot.id}", fields={"tone": None})
    )


RULE = SetRule("ground", margins, (GROUND,), propose)
