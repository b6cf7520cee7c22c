"""Does anything carry what stands above the floor? Code support.under."""

from collections.abc import Iterable

import numpy as np

from evrant.core.base.estimate import Estimate
from evrant.core.base.margins import Basis, Line, Margin, judge
from evrant.core.edits.language import Add, Edit, SetFields, Several
from evrant.core.judge.rules.buying import to_buy
from evrant.core.judge.rules.rule import FRAMED, Proposal, SetRule
from evrant.core.judge.rules.support.surface import ON, rests
from evrant.core.space.scene import Scene
from evrant.core.space.tops import furniture
from evrant.core.studio.gear import HANGING, Table
from evrant.core.studio.shots import Subject
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say

UNDER = Line(
    "support.under",
    "What the … stands on",
    "parts",
    Basis("a table, stool, form, hook or piece of furniture ends where the subject begins", "Statics", "computed"),
    asks="Does something stand under what is above the floor?",
    step="support",
    safety=True,
    hazards=("Tipping and falling",),
    first=True,
)
ABOVE = 0.05
"""What begins no higher stands on the floor [m]."""
TABLE = {"length": 0.8, "width": 0.6, "height": 0.72, "load": 30.0, "mass": 7.0}
PACKED = {"packed_length": 0.8, "packed_width": 0.6, "packed_height": 0.07}
EUROS = 45
"""A folding table as most shops have one, and what it costs; common practice, no source."""


def margins(scene: Scene) -> Iterable[Margin]:
    """One line for each subject that hangs in the air."""
    for who in scene.shot.subjects:
        if who.base is not None and who.base.value > ABOVE and not who.held and not _carried(scene, who):
            say = Say.of(scene.brief)
            yield judge(
                UNDER,
                (f"shots/{scene.shot.id}/subjects/{who.id}", scene.path),
                Estimate(-1.0),
                title=f"What the {who.name.lower()} stands on",
                need=1.0,
                have=0.0,
                clear="",
                short=f"The {who.name.lower()} hangs in the air.",
                reason=f"It begins {say.length(who.base.value)} above the floor, and nothing in the set ends there.",
            )


def _carried(scene: Scene, who: Subject) -> bool:
    """Whether a table, stool, form or hook of the set, or furniture of the room, carries it. Where the set has no
    place for it yet, nothing is said."""
    if scene.mark is None or who.base is None:
        return True
    for place in scene.plan.props:
        item = scene.gear.get(place.item or "")
        if isinstance(item, Table) and (item.height is None or rests(scene, who, place, item)):
            return True
    solids = scene.body_parts(who.id)
    spot = np.vstack(solids).mean(axis=0)[:2] if solids else scene.mark
    return any(abs(top.height - who.base.value) <= ON and top.inside(spot[None])[0] >= 0 for top in furniture(scene))


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """A table or stool of the kit under it, the subject as high as that is; else one to buy."""
    if scene is None or scene.mark is None:
        return
    who = next((one for one in scene.shot.subjects if margin.about[0].endswith(f"/{one.id}")), None)
    hangs = who is not None and who.kind == "garment"
    used = {place.item for place in scene.plan.props}
    place = {"id": "table", "x": round(float(scene.mark[0]), 3), "y": round(float(scene.mark[1]), 3)}
    if any(one.id == place["id"] for one in scene.plan.props):
        place["id"] = f"table-{len(scene.plan.props) + 1}"
    for item in studio.gear:
        if not isinstance(item, Table) or (item.form in HANGING) != hangs:
            continue
        if item.at_hand and item.height is not None and item.id not in used:
            label = f"{'Hang' if hangs else 'Put'} it on the {item.called}"
            edits: tuple[Edit, ...] = (
                Add(list=f"{scene.path}/props", item=place | {"item": item.id}),
                SetFields(target=margin.about[0], fields={"base": item.height.value}),
            )
            yield Proposal(label, Several.model_validate({"edits": edits, "label": label}))
    if hangs or any(item.id == "table-under" for item in studio.gear):
        return
    table = to_buy(studio, EUROS, kind="table", id="table-under", name="Folding table 80 × 60 cm", **TABLE, **PACKED)
    label = "Put it on a folding table 80 × 60 cm"
    edits = (
        table,
        Add(list=f"{scene.path}/props", item=place | {"item": "table-under"}),
        SetFields(target=margin.about[0], fields={"base": TABLE["height"]}),
    )
    yield Proposal(label, Several.model_validate({"edits": edits, "label": label}))


RULE = SetRule("under", margins, (UNDER,), propose, reads=FRAMED)
