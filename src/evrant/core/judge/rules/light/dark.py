"""Is there any light at all? Code light.none."""

from collections.abc import Iterable

from evrant.core.base.estimate import Estimate
from evrant.core.base.margins import Basis, Line, Margin, judge
from evrant.core.edits.language import Light
from evrant.core.judge.rules.rule import Proposal, SetRule
from evrant.core.light.emission import Missing
from evrant.core.light.lit import lit
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import Flash, Lamp
from evrant.core.studio.studio import Studio

NONE = Line(
    "light.none",
    "Light on the subject",
    "parts",
    Basis("at least one light, lamp or window shines into the set", "No picture without light", "computed"),
    asks="Is there any light on the subject?",
    step="light",
    fails=True,
    first=True,
)


def margins(scene: Scene) -> Iterable[Margin]:
    """One line where nothing shines: no light in the set, and no lamp or window of the room counts."""
    if scene.plan.lights:
        return
    state = lit(scene)
    if (isinstance(state, Missing) and scene.shot.around != "dark") or (not isinstance(state, Missing) and state.beams):
        return
    yield judge(
        NONE,
        (scene.path, f"shots/{scene.shot.id}"),
        Estimate(-1.0),
        need=1.0,
        have=0.0,
        clear="",
        short="There is no light in this set.",
        reason="The room is dark, nothing stands in the set that shines, and nothing of the room is said to.",
    )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """The light the shot asks for, from what is at hand."""
    hand = any(isinstance(item, (Flash, Lamp)) and item.at_hand for item in studio.gear)
    if scene is not None and hand:
        pattern = scene.shot.pattern or "loop"
        yield Proposal(f"Light it: {pattern}", Light(target=scene.path, pattern=pattern))


RULE = SetRule("dark", margins, (NONE,), propose)
