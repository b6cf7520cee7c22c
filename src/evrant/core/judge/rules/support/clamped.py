"""Does a camera without a thread go onto its tripod? Code support.camera_holder."""

from collections.abc import Iterable

from evrant.core.base.estimate import Estimate
from evrant.core.base.margins import Basis, Line, Margin, judge
from evrant.core.judge.rules.buying import to_buy
from evrant.core.judge.rules.rule import FRAMED, Proposal, SetRule
from evrant.core.space.scene import Scene
from evrant.core.space.tripods import is_clamped
from evrant.core.studio.gear import Part, Stand
from evrant.core.studio.studio import Studio

HOLDER = Line(
    "support.camera_holder",
    "Holder of the telephone",
    "parts",
    Basis(
        "a holder with a thread for a camera that has none, where it stands on something",
        "Telephones have no thread; common practice, no source",
        "declared",
    ),
    asks="Does a telephone go onto its tripod?",
    step="support",
)
USE = "telephone holder"
ITEM = {"name": "Telephone holder with a thread", "mass": 0.08, "lasts": 5}
PACKED = {"packed_length": 0.1, "packed_width": 0.06, "packed_height": 0.04}
EUROS = 14
"""What one costs as a rule; common practice, no source."""


def margins(scene: Scene) -> Iterable[Margin]:
    """A line where what is clamped stands on something."""
    if not is_clamped(scene.body) or not isinstance(scene.gear.get(scene.plan.camera.support or ""), Stand):
        return
    own = sum(
        item.quantity for item in scene.gear.values() if isinstance(item, Part) and item.use == USE and item.at_hand
    )
    assert scene.body is not None
    yield judge(
        HOLDER,
        (f"{scene.path}/camera", f"gear/{scene.body.id}"),
        Estimate(1.0 if own else -1.0),
        need=1.0,
        have=float(own),
        clear="The kit has a holder for the telephone.",
        short="Nothing clamps the telephone to what it stands on.",
        reason=f"The {scene.body.called} has no thread; a holder with one goes between.",
    )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """One bought."""
    bought = to_buy(studio, EUROS, kind="part", id=USE.replace(" ", "-"), use=USE, **ITEM, **PACKED)
    yield Proposal("Buy a telephone holder with a thread", bought)


RULE = SetRule("telephone holder", margins, (HOLDER,), propose, reads=FRAMED, whole_kit=True)
