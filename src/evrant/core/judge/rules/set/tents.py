"""Does the thing stand inside its tent? Code fit.tent."""

from collections.abc import Iterable

import numpy as np

from evrant.core.base.estimate import Estimate
from evrant.core.base.margins import PLACED_BOTH, Basis, Line, Margin, judge
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import FRAMED, Proposal, SetRule
from evrant.core.light.ground import tent_round
from evrant.core.space.scene import Scene
from evrant.core.space.shares import gear_shares, picture_shares
from evrant.core.space.solids import separation
from evrant.core.space.volumes import prop
from evrant.core.studio.gear import Tent
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say

TENT = Line(
    "fit.tent",
    "Inside the …",
    "m",
    Basis(
        "least gap over all directions between the subject's parts and the tent's walls ≥ 0",
        "Hyperplane separation theorem; true outlines",
        "computed",
    ),
    asks="Does the thing stand free inside its tent?",
    step="set",
    search="placed",
)


def margins(scene: Scene) -> Iterable[Margin]:
    """One line for the tent the subject stands in."""
    found = tent_round(scene)
    gap = _gap(scene)
    if found is None or gap is None:
        return
    place, item = found
    say = Say.of(scene.brief)
    shares = (*gear_shares(scene, [item], ("width", "depth", "height"), _gap), *picture_shares(scene, _gap))
    yield judge(
        TENT,
        (f"{scene.path}/props/{place.id}", f"{scene.path}/mark"),
        Estimate(gap, shares),
        title=f"Inside the {item.called}",
        need=0.0,
        have=gap,
        clear=f"It stands free inside the {item.called}.",
        short=f"It does not fit into the {item.called}.",
        reason=f"The nearest wall is {say.short_by(gap)} {'off' if gap >= 0 else 'inside it'}.",
        placing=PLACED_BOTH,
    )


def _gap(scene: Scene) -> float | None:
    """Least gap of the subjects to the walls of the tent round them [m]."""
    found = tent_round(scene)
    if found is None:
        return None
    place, item = found
    walls = prop("", item, np.array([place.x, place.y]), place.turn, scene.base_of(place), place.tilt)
    solids = [solid for who in scene.shot.subjects for solid in scene.body_parts(who.id)]
    if walls is None or not solids:
        return None
    return min(separation(wall.solid, solid)[0] for wall in walls.parts for solid in solids)


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Another tent at hand; the tent's middle on the mark."""
    if scene is None or scene.mark is None:
        return
    for item in studio.gear:
        if isinstance(item, Tent) and item.id != _used(scene, margin.about[0]):
            yield Proposal(f"Use the {item.called}", SetFields(target=margin.about[0], fields={"item": item.id}))
    spot = {"x": round(float(scene.mark[0]), 3), "y": round(float(scene.mark[1]), 3)}
    yield Proposal("Put the tent's middle over the mark", SetFields(target=margin.about[0], fields=dict(spot)))


def _used(scene: Scene, path: str) -> str | None:
    return next((place.item for place in scene.plan.props if path.endswith(f"/{place.id}")), None)


RULE = SetRule("tents", margins, (TENT,), propose, reads=FRAMED, order=8)
