"""Does what stands in the set stand on something? Code support.floating."""

from collections.abc import Iterable

import numpy as np

from evrant.core.base.estimate import Estimate, Share
from evrant.core.base.margins import Basis, Line, Margin, judge
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import FRAMED, Proposal, SetRule
from evrant.core.place.cards import LOW
from evrant.core.space.scene import Scene
from evrant.core.space.tops import tops_at
from evrant.core.studio.gear import HANGING, Table, Tent
from evrant.core.studio.sets import PropPlace
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say

FLOATING = Line(
    "support.floating",
    "What is under the …",
    "m",
    Basis("height of its underside = height of floor or top under its middle, ± 5 cm", "Plane geometry", "computed"),
    asks="Does every table, tray and tent stand on the floor or on something?",
    step="support",
    goes=True,
)


def margins(scene: Scene) -> Iterable[Margin]:
    """A line for each table, turntable, tray and tent with nothing under it where the plan says that it stands."""
    for place in scene.plan.props:
        item = scene.gear.get(place.item or "")
        stands = isinstance(item, Tent) or (isinstance(item, Table) and item.form not in HANGING)
        if not stands or item is None or place.x is None or place.y is None or not place.height:
            continue
        under = _under(scene, place)
        gap = place.height - under
        if gap > LOW:
            say, path = Say.of(scene.brief), f"{scene.path}/props/{place.id}"
            yield judge(
                FLOATING,
                (path, f"gear/{item.id}"),
                Estimate(-gap, (Share("heights as entered", LOW / 2),)),
                title=f"What is under the {item.called}",
                need=place.height,
                have=under,
                clear=f"The {item.called} stands on something.",
                short=f"The {item.called} hangs in the air.",
                reason=f"Its underside is {say.length(place.height)} up; what is under its middle is "
                f"{say.length(under)} up.",
                at=(place.x, place.y, place.height),
            )


def _under(scene: Scene, place: PropPlace) -> float:
    """Height of the highest top under a thing's middle that is no higher than its underside, else of the floor [m]."""
    assert place.height is not None
    tops = tops_at(scene, place.height / 2, place.height / 2 + LOW)
    spot = np.array([[place.x, place.y]])
    return max((top.height for top in tops if top.inside(spot)[0] >= 0), default=0.0)


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Let down onto what is under it."""
    if margin.have is not None:
        fields = {"height": None if margin.have == 0 else round(margin.have, 3)}
        words = "the floor" if margin.have == 0 else "what is under it"
        yield Proposal(f"Let it down onto {words}", SetFields(target=margin.about[0], fields=fields))


RULE = SetRule("floating", margins, (FLOATING,), propose, reads=FRAMED)
