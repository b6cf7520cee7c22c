"""Does the room fill what the window leaves dark, or is a reflector wanted? Codes light.reflector_wanted,
light.unfilled."""

from collections.abc import Iterable

from evrant.core.base.estimate import Estimate
from evrant.core.base.margins import Basis, Line, Margin, judge
from evrant.core.judge.rules.light.card_gives import bettered
from evrant.core.judge.rules.light.light_measures import measures
from evrant.core.judge.rules.light.returned_light import COARSE, MODEL, paint_shares
from evrant.core.judge.rules.rule import Proposal, SetRule
from evrant.core.light import account
from evrant.core.light.cards import returning
from evrant.core.light.emission import Missing
from evrant.core.light.lit import lit
from evrant.core.space.scene import Scene
from evrant.core.studio.studio import Studio

BASIS = Basis(
    "log₂ of the light on the window's side over that on the far side, where no contrast is asked for; ≤ 2",
    "Up to two stops count as soft; common practice, no source",
    "common practice",
)
WANTED = Line(
    "light.reflector_wanted",
    "Dark side without a reflector",
    "stop",
    BASIS,
    asks="Does the room by itself fill what the window leaves dark, or is a reflector wanted?",
    step="light",
    fails=True,
    blames="cards",
    goes=True,
)
UNFILLED = Line(
    "light.unfilled",
    "Dark side with its reflector",
    "stop",
    BASIS,
    asks="Does the reflector fill what the window leaves dark?",
    step="light",
    goes=True,
)
MOST = account.RANGES["soft"][1] or 2.0


def margins(scene: Scene) -> Iterable[Margin]:
    """A line of a set that is lit by its window and filled by a reflector where that is wanted."""
    shot = scene.shot
    if shot.pattern != "window and reflector" or shot.contrast is not None or scene.plan.lights:
        return
    state = lit(scene)
    if isinstance(state, Missing) or isinstance(state.around, Missing) or state.key is None:
        return
    found = account.contrast(state)
    if found is None:
        return
    card = any(returning(scene))
    who = "The reflector and the room fill" if card else "The room by itself fills"
    yield judge(
        UNFILLED if card else WANTED,
        (f"{scene.path}/lights", f"shots/{shot.id}"),
        Estimate(MOST - abs(found), (*paint_shares(state), COARSE, MODEL)),
        need=abs(found),
        have=MOST,
        clear=f"{who} what the window leaves dark.",
        short=f"The far side of {shot.lit_part} stays dark{'' if card else ': a reflector is wanted'}.",
        reason=f"It is {abs(found):.1f} stops darker (1:{2 ** abs(found):.1f}); "
        f"{account.returned_share(state):.0%} of its light comes by way of the room. Up to two stops count as soft.",
    )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """The reflector that is there nearer or larger; what else brings light to the dark side: a card, white sheets."""
    if scene is not None:
        for place, item in returning(scene):
            yield from bettered(studio, scene, place, item)
        yield from measures(studio, scene, darker=False)


RULE = SetRule("filled by day", margins, (WANTED, UNFILLED), propose)
