"""Are there as many of a thing as a set uses at once? Code kit.count."""

import math
from collections import Counter
from collections.abc import Iterable

from evrant.core.base.estimate import Estimate
from evrant.core.base.margins import Basis, Line, Margin, judge
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import GEOMETRY, Proposal, SetRule
from evrant.core.mechanics.supports import shared
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import Lead, Table
from evrant.core.studio.sets import used_by
from evrant.core.studio.studio import Studio, by_id

COUNT = Line(
    "kit.count",
    "How many of …",
    "parts",
    Basis("pieces the set uses at once ≤ pieces owned, planned or considered", "Counting", "computed"),
    asks="Are there as many of a thing as the set uses at once?",
    step="set",
)


SEVERAL = frozenset({"rail or crossbar", "floor-to-ceiling pole"})
"""Supports that hold as many lights as hang on them."""


def uses(scene: Scene) -> Counter[str]:
    """Pieces of gear a set uses at once, by id: heads of a group one by one; a stand, rail or lead that several
    lights share counts once."""
    found = Counter(used_by(scene.plan))
    for light in scene.lights:
        place, together = light.place, shared(scene, light)
        if place.head is not None:
            found[place.head] += place.heads - 1
        if light.stand is not None and together and min(one.path for one in (light, *together)) != light.path:
            found[light.stand.id] -= 1
    held = Counter(light.stand.id for light in scene.lights if light.stand is not None and light.stand.use in SEVERAL)
    found -= Counter({key: count - 1 for key, count in held.items()})
    for key, count in found.items():
        lead = scene.gear.get(key)
        if isinstance(lead, Lead):
            found[key] = math.ceil(count / lead.outlets)
    return found


def margins(scene: Scene) -> Iterable[Margin]:
    """A line for every thing a set uses more than once, or of which there are too few."""
    together = uses(scene)
    who = "The sets that stand together use" if scene.beside else "The set uses"
    for other in scene.beside:
        camera = other.plan.camera
        together += uses(other) - Counter(key for key in (camera.body, camera.lens, camera.support) if key)
    for key, need in together.items():
        item = scene.gear.get(key)
        if item is None or isinstance(item, Table) or (need < 2 and item.quantity >= need):
            continue
        have = item.quantity
        yield judge(
            COUNT,
            (f"{scene.path}/count-{key}", f"gear/{key}"),
            Estimate(float(have - need) if have < need else 1.0),
            title=f"How many of {item.called}",
            need=float(need),
            have=float(have),
            clear=f"There are enough of the {item.called}.",
            short=f"{who} {need} of the {item.called}; there {'is' if have == 1 else 'are'} {have}.",
            reason=f"{need} stand in the room at once, {have} {'is' if have == 1 else 'are'} in the kit.",
        )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Plan as many as the set uses."""
    item = by_id(studio.gear, margin.about[1].split("/")[1])
    if item is not None and margin.need is not None:
        count = round(margin.need)
        yield Proposal(f"Plan {count} of them", SetFields(target=f"gear/{item.id}", fields={"quantity": count}))


RULE = SetRule("count", margins, (COUNT,), propose, reads=GEOMETRY)
