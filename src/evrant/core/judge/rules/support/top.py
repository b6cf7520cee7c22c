"""Is there room on the table for all that stands on it? Code support.top."""

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from evrant.core.base.estimate import Estimate, Share
from evrant.core.base.margins import Basis, Line, Margin, judge
from evrant.core.edits.language import Add, Edit, SetFields, Several
from evrant.core.judge.rules.buying import to_buy
from evrant.core.judge.rules.rule import FRAMED, Proposal, SetRule
from evrant.core.judge.rules.support.surface import ON
from evrant.core.space.level import Top, inside_all, way_to_edge
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Points, Vector, turned
from evrant.core.space.tops import STIFF, foot_of, stands_on_top, tops_at
from evrant.core.studio.gear import Table
from evrant.core.studio.sets import PropPlace
from evrant.core.studio.shots import Subject
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say

TOP = Line(
    "support.top",
    "Room on the …",
    "m",
    Basis(
        "all that touches the top lies inside its edge; one stiff thing may stand over it by a third of how far its "
        "middle is inside",
        "Statics: a thing tips when its middle is past the edge; the third is a project choice",
        "project choice",
    ),
    asks="Is the table large enough for what stands on it?",
    step="support",
    safety=True,
    hazards=("Tipping and falling",),
)
PUT = 0.01
"""With how much care a thing is put on a table [m]."""
LARGE = {"form": "table", "length": 1.4, "width": 0.9, "height": 0.72, "load": 60.0, "mass": 22.0}
PACKED = {"packed_length": 1.4, "packed_width": 0.9, "packed_height": 0.08}
EUROS = 85
"""A table whose legs come off as most furniture shops have one, and what it costs; common practice, no source."""


@dataclass(frozen=True, eq=False)
class Resting:
    """What of a subject touches the tops it stands on, and how far inside their edges that is [m]."""

    tops: tuple[Top, ...]
    foot: Points
    inside: NDArray[np.float64]
    middle: float


def margins(scene: Scene) -> Iterable[Margin]:
    """One line for each thing or animal that stands on a table, a board or furniture whose size is known."""
    for who in scene.shot.subjects:
        resting = _resting(scene, who)
        if resting is not None:
            yield _line(scene, who, resting)


def _resting(scene: Scene, who: Subject) -> Resting | None:
    solids = scene.body_parts(who.id)
    if not stands_on_top(who) or not who.base or not solids:
        return None
    foot = foot_of(solids)
    middle = (foot.min(axis=0) + foot.max(axis=0)) / 2
    under = np.vstack([foot, (foot + middle) / 2, middle])
    tops = tuple(top for top in tops_at(scene, who.base.value, ON) if top.inside(under).max() >= 0)
    if not tops:
        return None
    return Resting(tops, foot, inside_all(tops, foot), way_to_edge(tops, middle))


def _line(scene: Scene, who: Subject, resting: Resting) -> Margin:
    inside, say = round(float(resting.inside.min()), 6) + 0.0, Say.of(scene.brief)
    name, on = who.name.lower(), " and ".join(dict.fromkeys(top.name for top in resting.tops))
    stiff = resting.middle * STIFF if who.kind == "object" and resting.middle > PUT else 0.0
    shares = [Share("care with which it is put there", PUT)]
    if stiff > 0:
        shares.append(Share("question whether it is one stiff thing", stiff))
    told = f"Its foot ends {say.length(abs(inside))} {'inside' if inside >= 0 else 'over'} the edge."
    if inside < 0 < stiff:
        told += f" One stiff thing may stand over by {say.length(stiff)}, several things may not."
    fits = f"There is room for the {name} on the {on}."
    stands = f"The {name} stands over the edge of the {on}; it holds if it is one stiff thing."
    return judge(
        TOP,
        (f"shots/{scene.shot.id}/subjects/{who.id}", scene.path),
        Estimate(inside + stiff, tuple(shares)),
        title=f"Room on the {on}",
        need=-stiff,
        have=inside,
        clear=fits if inside >= 0 else stands,
        short=f"The {on} is too small for the {name}, or not under it.",
        reason=told,
        at=_worst(resting, who),
    )


def _worst(resting: Resting, who: Subject) -> tuple[float, float, float]:
    x, y = resting.foot[int(resting.inside.argmin())]
    return (float(x), float(y), who.base.value if who.base else 0.0)


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """The table under its middle, turned, another of the kit, a second beside it, a larger one."""
    who = (
        None if scene is None else next((s for s in scene.shot.subjects if margin.about[0].endswith(f"/{s.id}")), None)
    )
    resting = None if scene is None or who is None else _resting(scene, who)
    if scene is None or resting is None:
        return
    x, y = ((resting.foot.min(axis=0) + resting.foot.max(axis=0)) / 2).tolist()
    for place in scene.plan.props:
        item = scene.gear.get(place.item or "")
        if not isinstance(item, Table) or not any(top.name == item.called for top in resting.tops):
            continue
        yield from _moved(scene, place, item, x, y)
        used = {one.item for one in scene.plan.props}
        able = [one for one in studio.gear if isinstance(one, Table) and one.at_hand and _as_high(one, item)]
        for other in able:
            if other.id not in used and other.form == item.form:
                fields = {"item": other.id, "x": round(x, 3), "y": round(y, 3)}
                yield Proposal(f"Use the {other.called}", SetFields(target=_path(scene, place), fields=fields))
            count = sum(1 for one in scene.plan.props if one.item == other.id)
            if other.form == item.form == "table" and other.quantity > count:
                yield from _pushed_together(scene, place, item, other, np.array([x, y]))
        yield from _larger(studio, scene, place, item, x, y)


def _path(scene: Scene, place: PropPlace) -> str:
    return f"{scene.path}/props/{place.id}"


def _as_high(one: Table, item: Table) -> bool:
    return one.height is not None and item.height is not None and abs(one.height.value - item.height.value) <= ON


def _moved(scene: Scene, place: PropPlace, item: Table, x: float, y: float) -> Iterable[Proposal]:
    under = {"x": round(x, 3), "y": round(y, 3)}
    across = {"turn": (place.turn + 270.0) % 360.0 - 180.0}
    yield Proposal(f"Put the {item.called} under its middle", SetFields(target=_path(scene, place), fields=under))
    yield Proposal(
        f"Turn the {item.called} by 90° under it", SetFields(target=_path(scene, place), fields=under | across)
    )


def _pushed_together(scene: Scene, place: PropPlace, item: Table, other: Table, middle: Vector) -> Iterable[Proposal]:
    """Both side by side along their long or their short sides, the joint under the middle."""
    if not (item.length and item.width and other.length and other.width):
        return
    key = next(f"table-{n}" for n in range(2, 40) if all(one.id != f"table-{n}" for one in scene.plan.props))
    for turn in (place.turn, place.turn - 90.0):
        for angle, mine, others in ((0.0, item.length, other.length), (90.0, item.width, other.width)):
            way = turned(np.array([[1.0, 0.0, 0.0]]), turn + angle, (0.0, 0.0))[0, :2]
            first, second = middle - way * mine.value / 2, middle + way * others.value / 2
            how = "side by side" if angle else "end to end"
            across = "" if turn == place.turn else ", both turned by 90°"
            label = f"Push the {other.called} against it, {how}{across}"
            beside = {"id": key, "item": other.id, "turn": turn, **_spot(second)}
            edits: tuple[Edit, ...] = (
                SetFields(target=_path(scene, place), fields={"turn": turn, **_spot(first)}),
                Add(list=f"{scene.path}/props", item=beside),
            )
            yield Proposal(label, Several.model_validate({"edits": edits, "label": label}))


def _spot(point: NDArray[np.float64]) -> dict[str, float]:
    return {"x": round(float(point[0]), 3), "y": round(float(point[1]), 3)}


def _larger(studio: Studio, scene: Scene, place: PropPlace, item: Table, x: float, y: float) -> Iterable[Proposal]:
    """A larger one to buy, in the place of one that is a table."""
    if item.form != "table" or any(one.id == "table-large" for one in studio.gear):
        return
    table = to_buy(studio, EUROS, kind="table", id="table-large", name="Table 140 × 90 cm", **LARGE, **PACKED)
    label = "Use a table of 140 × 90 cm"
    put = {"item": "table-large", "x": round(x, 3), "y": round(y, 3)}
    edits: tuple[Edit, ...] = (table, SetFields(target=_path(scene, place), fields=put))
    yield Proposal(label, Several.model_validate({"edits": edits, "label": label}))


RULE = SetRule("top", margins, (TOP,), propose, reads=FRAMED)
