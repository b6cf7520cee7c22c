"""Are there the weights that a set hangs on its stands? Code support.weights."""

import math
from collections.abc import Iterable, Iterator
from dataclasses import replace

from pydantic import ValidationError

from evrant.core.base.estimate import Estimate, Share
from evrant.core.base.margins import Basis, Line, Margin, judge, unknown
from evrant.core.edits.language import Edit, EditRefused, SetFields, together
from evrant.core.judge.rules.buying import to_buy
from evrant.core.judge.rules.rule import GEOMETRY, Proposal, SetRule
from evrant.core.mechanics.weights import hung_together, hung_weights, weight_of, weights_of
from evrant.core.place.moves import tried
from evrant.core.space.scene import Scene, scene_of
from evrant.core.studio.gear import Part
from evrant.core.studio.room import value
from evrant.core.studio.studio import Studio, by_id
from evrant.core.studio.words import Say

WEIGHTS = Line(
    "support.weights",
    "Weights for the stands",
    "kg",
    Basis(
        "95 % of bags and further counterweights hung at once ≤ weights of the kit, filled",
        "Adding up; bags are asked for with a tenth in reserve, half of it is kept",
        "computed",
    ),
    asks="Are there the weights that the set hangs on its stands?",
    step="support",
    safety=True,
)
RESERVE = 0.05
"""Part of what is hung that is reserve: so much less does no harm; project choice."""
SEWN_MASS = 4.0
"""What a trouser leg of gravel weighs [kg]."""
SEWN = {"name": "Weight bag sewn from jeans, 4 kg", "mass": SEWN_MASS, "condition": "home-made"}
PACKED = {"packed_length": 0.32, "packed_width": 0.18, "packed_height": 0.09}
SEWN_IDS = ("home-sandbag", "home-sandbag-2")
MOST = 99
"""More of one thing no kit holds."""
EUROS = 3
"""What one costs as a rule, gravel and thread; common practice, no source."""


def margins(scene: Scene) -> Iterable[Margin]:
    """A line where something is weighed down."""
    need = hung_together(scene)
    if need <= 0:
        return
    say, own = Say.of(scene.brief), weights_of(scene)
    lacking = next((one for one in own if one.mass is None), None)
    about = f"{scene.path}/weights"
    if lacking is not None:
        words = f"The mass of the {lacking.called} is missing."
        yield unknown(WEIGHTS, (f"gear/{lacking.id}", about), words, "Put it on a scale, filled.", subject=about)
        return
    have = weight_of(scene)
    shares = tuple(
        Share(f"mass of the {one.called}", one.quantity * one.mass.pm) for one in own if one.mass is not None
    )
    yield judge(
        WEIGHTS,
        (about, "kit"),
        Estimate(have - _least(need), shares),
        need=need,
        have=have,
        clear="There are weights enough for the stands.",
        short=f"The kit has {say.mass(have)} of weights; {say.mass(need)} hang in the set."
        if own
        else f"The kit has no weights; {say.mass(need)} hang in the set.",
        reason=_reason(scene, say),
    )


def _least(need: float) -> float:
    """What must be there of what is hung [kg]."""
    return (1 - RESERVE) * need


def _reason(scene: Scene, say: Say) -> str:
    """Where they hang, and what else may be hung."""
    places = [(light.name, light.place.bag) for light in scene.lights]
    places += [("background, each stand", scene.plan.background.bag), ("camera", scene.plan.camera.bag)]
    hung = [f"{name} {say.mass(bag)}" for name, bag in places if bag]
    hung += [f"“{other.plan.name}” {say.mass(mass)}" for other in scene.beside if (mass := hung_weights(other))]
    named = ", ".join(hung)
    where = f"{named[0].upper()}{named[1:]}. " if named else ""
    return f"{where}Water in bottles weighs as much as it holds; without weights the stands tip as if bare."


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """More of the weights that are planned or considered; bags sewn at home."""
    if margin.need is not None and margin.have is not None:
        yield from supplies(studio, margin.need - margin.have)


def supplies(studio: Studio, lacks: float) -> Iterator[Proposal]:
    """Ways to have so much more of weights [kg]."""
    for item in studio.gear:
        if not isinstance(item, Part) or item.use != "weight" or item.status == "owned" or not value(item.mass):
            continue
        assert item.mass is not None
        count = (item.quantity if item.at_hand else 0) + math.ceil(lacks / item.mass.value)
        if count <= MOST:
            fields = {"quantity": count, "status": "planned"}
            yield Proposal(f"Plan {count} of the {item.called}", SetFields(target=f"gear/{item.id}", fields=fields))
    count, keys = math.ceil(lacks / SEWN_MASS), {item.id for item in studio.gear}
    free = next((key for key in SEWN_IDS if key not in keys), None)
    if free is not None and count <= MOST:
        made = to_buy(studio, EUROS, kind="part", id=free, use="weight", quantity=count, **SEWN, **PACKED)
        yield Proposal(f"Sew {count} weight bag{'s' if count > 1 else ''} from jeans", made)


def with_weights(studio: Studio, set_id: str, proposals: Iterable[Proposal]) -> Iterator[Proposal]:
    """Proposals for a set, each that hangs more than the kit has of weights with what it lacks."""
    for one in proposals:
        lacks = _lacking(studio, set_id, one.edit)
        more = next(supplies(studio, lacks), None) if lacks > 0 else None
        if more is None:
            yield one
            continue
        label = f"{one.label}; {more.label[0].lower()}{more.label[1:]}"
        yield replace(one, label=label, edit=together((one.edit, more.edit), label))


def _lacking(studio: Studio, set_id: str, edit: Edit) -> float:
    """What the kit lacks of weights once an edit of a set is made, where that hangs more than now [kg]."""
    try:
        after = tried(studio, edit)
    except (EditRefused, ValidationError):
        return 0.0
    now, there = _scene_in(studio, set_id), _scene_in(after, set_id)
    if there is None or any(one.mass is None for one in weights_of(there)):
        return 0.0
    need, have = hung_together(there), weight_of(there)
    more = now is None or need > hung_together(now)
    return need - have if more and have < _least(need) else 0.0


def _scene_in(studio: Studio, set_id: str) -> Scene | None:
    plan = by_id(studio.sets, set_id)
    return scene_of(studio, plan) if plan is not None else None


RULE = SetRule("weights", margins, (WEIGHTS,), propose, reads=GEOMETRY, whole_kit=True)
