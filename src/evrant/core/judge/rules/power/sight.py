"""Does an optical slave see the flash that fires it? Code trigger.sight."""

from collections.abc import Iterable

from evrant.core.base.estimate import Estimate
from evrant.core.base.margins import PLACED_BOTH, Basis, Line, Margin, judge
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import Proposal, SetRule
from evrant.core.judge.rules.set.flare import BLOCKERS
from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene
from evrant.core.space.shares import picture_shares
from evrant.core.space.solids import bar, separation
from evrant.core.studio.gear import Flash
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say

SIGHT = Line(
    "trigger.sight",
    "Sight to the …'s slave",
    "m",
    Basis(
        "least gap between the line from a fired flash to the slave and every body ≥ 0",
        "Hyperplane separation theorem; true outlines",
        "computed",
    ),
    asks="Does an optical slave see the flash that should fire it?",
    step="power",
    search="kept",
    fails=True,
    blames="light",
    goes=True,
)

STEPS = (0.2, 0.4, -0.2, -0.4)
"""A flash is raised or lowered by so much [m]."""
LOWEST = 0.3
"""Nothing is lowered further [m]."""


def margins(scene: Scene) -> Iterable[Margin]:
    """A line for each flash that is fired by another's light."""
    for light in scene.lights:
        yield from _sight(scene, light)


def _heads(scene: Scene) -> list[Light]:
    return [light for light in scene.lights if isinstance(light.head, Flash) and light.mount is not None]


def _sight_gap(scene: Scene, path: str) -> tuple[float, str, str] | None:
    """Best over the flashes that fire it, slaves that are fired themselves among them: least gap of the line to any
    body [m], the flash, the body."""
    heads = {one.path: one for one in _heads(scene)}
    if path not in heads:
        return None
    fired = [one for one in heads.values() if getattr(one.head, "fired", None) != "optical slave"]
    waiting = [one for one in heads.values() if one not in fired]
    best: dict[str, tuple[float, str, str]] = {}
    while True:
        for slave in waiting:
            seen = [(*_seen(scene, other, slave), other.name) for other in fired if other is not slave]
            if seen:
                gap, body, by = max(seen)
                best[slave.path] = gap, by, body
        reached = [one for one in waiting if best.get(one.path, (-1.0,))[0] >= 0]
        if not reached:
            return best.get(path)
        fired += reached
        waiting = [one for one in waiting if one not in reached]


def _seen(scene: Scene, flash: Light, slave: Light) -> tuple[float, str]:
    """Least gap of the line between two heads to any opaque body [m], and the body; a sheet that lets light through
    dims a flash, but a slave still sees it."""
    assert flash.mount is not None and slave.mount is not None
    sight = bar(flash.mount, slave.mount, 0.005, 6)
    sheets = {
        f"{scene.path}/props/{prop.id}"
        for prop in scene.plan.props
        if getattr(scene.gear.get(prop.item or ""), "surface", None) == "translucent"
    }
    bodies = [
        (separation(sight, part.solid)[0], thing.name)
        for thing in scene.around
        if thing.kind in (*BLOCKERS, "backdrop") and thing.path not in (slave.path, flash.path, *sheets)
        for part in thing.parts
    ]
    return min(bodies, default=(1.0, "nothing"))


def _sight(scene: Scene, light: Light) -> Iterable[Margin]:
    if not isinstance(light.head, Flash) or light.head.fired != "optical slave" or light.mount is None:
        return
    found = _sight_gap(scene, light.path)
    if found is None:
        gap, by, body = -1.0, "no flash", "nothing"
    else:
        gap, by, body = found

    def gap_of(one: Scene) -> float | None:
        there = _sight_gap(one, light.path)
        return there[0] if there else None

    say = Say.of(scene.brief)
    yield judge(
        SIGHT,
        (light.path,),
        Estimate(gap, picture_shares(scene, gap_of) if found else ()),
        title=f"Sight to the {light.name}'s slave",
        need=0.0,
        have=gap,
        clear=f"The {light.name}'s optical slave sees the {by}.",
        short=f"The {light.name}'s optical slave does not see the flash that should fire it.",
        reason=f"Nearest to the line from the {by} is the {body}, {say.short_by(gap)} "
        f"{'beside it' if gap >= 0 else 'across it'}."
        if found
        else "No flash in this set is fired by radio or cable.",
        at=(float(light.mount[0]), float(light.mount[1]), float(light.mount[2])),
        placing=PLACED_BOTH,
    )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Higher or lower past what is in between; by radio, which needs no sight."""
    light = scene.light_at(margin.about[0]) if scene is not None else None
    if scene is None or light is None or light.head is None:
        return
    say = Say.of(scene.brief)
    for step in STEPS if light.place.height is not None and margin.margin is not None else ():
        high = round((light.place.height or 0.0) + step, 3)
        if high > LOWEST:
            words = f"{'Raise' if step > 0 else 'Lower'} the {light.name} {say.length(abs(step))}"
            yield Proposal(words, SetFields(target=light.path, fields={"height": high}))
    by_radio = SetFields(target=f"gear/{light.head.id}", fields={"fired": "radio"})
    yield Proposal(f"Fire the {light.head.called} by radio", by_radio)


RULE = SetRule("sight", margins, (SIGHT,), propose, order=5)
