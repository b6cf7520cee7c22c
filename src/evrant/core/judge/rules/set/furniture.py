"""Does furniture stand in the picture? Code frame.furniture."""

from collections.abc import Iterable

import numpy as np

from evrant.core.base.estimate import Estimate
from evrant.core.base.margins import Line, Margin, judge
from evrant.core.edits.language import Add, SetFields, Shift
from evrant.core.judge.rules.rule import FRAMED, Proposal, SetRule
from evrant.core.judge.rules.set.intrusion import INTRUSION, nearest, shares_of
from evrant.core.judge.rules.set.openings import MEANT
from evrant.core.space.scene import Scene
from evrant.core.space.things import Thing
from evrant.core.studio.gear import Backdrop
from evrant.core.studio.studio import Studio, by_id
from evrant.core.studio.words import Say

FURNITURE = Line(
    "frame.furniture",
    "The … outside the picture",
    "m",
    INTRUSION.basis,
    asks="Does furniture, a radiator or a pipe before the background come into the picture?",
    step="set",
    search="placed",
    fails=True,
    goes=True,
)
NEAR = 0.3
"""What is farther outside of the picture than this has no line [m]."""
ON, ROUND = 0.12, 0.1
"""The subject stands on what ends so near to its height, and over it or so near to it [m]."""


def margins(scene: Scene) -> Iterable[Margin]:
    """A line for each piece of furniture before the background that is in the picture, or near it."""
    if scene.view is None or scene.shot.pattern in MEANT:
        return
    for thing in scene.things:
        if thing.kind == "box" and not _carries(scene, thing):
            yield from _line(scene, thing)


def _carries(scene: Scene, thing: Thing) -> bool:
    """Whether the subject stands on it, so that it belongs to the picture."""
    if scene.mark is None or not scene.surface:
        return False
    low, high = thing.cloud.min(axis=0), thing.cloud.max(axis=0)
    over = bool((scene.mark > low[:2] - ROUND).all() and (scene.mark < high[:2] + ROUND).all())
    return over and abs(float(high[2]) - scene.surface) <= ON


def _line(scene: Scene, thing: Thing) -> Iterable[Margin]:
    found = nearest(scene, thing)
    if found is None or found.gap >= NEAR:
        return
    say = Say.of(scene.brief)
    side = "into the picture" if found.gap < 0 else "outside it"
    yield judge(
        FURNITURE,
        (f"{scene.path}/camera", thing.path),
        Estimate(found.gap, shares_of(scene, thing, found)),
        title=f"The {thing.name} outside the picture",
        need=0.0,
        have=found.gap,
        clear=f"The picture leaves out the {thing.name}.",
        short=f"The picture shows the {thing.name}.",
        reason=f"Seen from the lens, its outline is {say.short_by(found.gap)} {side}.",
        at=found.at,
        placing=0.02,
    )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Out of the room for the session, where it may be; the set moved to either side; a background before it."""
    box = by_id(studio.room.boxes, margin.about[-1].rsplit("/", 1)[-1])
    if scene is None or box is None or margin.margin is None or scene.axis is None:
        return
    if box.moves == "can be moved out" and all(one.box != box.id for one in scene.plan.aside):
        put = {"id": f"aside-{box.id}"[:40], "box": box.id}
        yield Proposal(
            f"Move the {box.name.lower()} out", Add.model_validate({"list": f"{scene.path}/aside", "item": put})
        )
    lack = -margin.margin + (margin.uncertainty or 0.0) + 0.02
    side = np.array([-scene.axis[1], scene.axis[0]])
    for far in (lack, -lack):
        move = side * far
        words = f"Move the set {Say.of(scene.brief).short_by(far)} to the {'left' if far > 0 else 'right'}"
        shift = Shift(target=scene.path, dx=round(float(move[0]), 3), dy=round(float(move[1]), 3))
        yield Proposal(f"{words}, as it looks at the camera", shift)
    if scene.bare_wall is not None and scene.mark is not None:
        spot = scene.mark - scene.axis * max(scene.shot.background_gap.value if scene.shot.background_gap else 0.8, 0.4)
        for item in studio.gear:
            if isinstance(item, Backdrop) and item.at_hand:
                fields = {"backdrop": item.id, "x": round(float(spot[0]), 3), "y": round(float(spot[1]), 3)}
                words = f"Hang the {item.called} before it"
                yield Proposal(words, SetFields(target=f"{scene.path}/background", fields=fields))


RULE = SetRule("furniture", margins, (FURNITURE,), propose, reads=FRAMED, place_order=6)
