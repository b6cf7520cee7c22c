"""Do flashes of a set that stands beside fire with this one's? Code trigger.beside."""

from collections.abc import Iterable

from evrant.core.base.estimate import Estimate
from evrant.core.base.margins import Basis, Line, Margin, judge
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import GEOMETRY, Proposal, SetRule
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import Flash
from evrant.core.studio.studio import Studio, by_id

BESIDE = Line(
    "trigger.beside",
    "Flashes of the set beside",
    "parts",
    Basis(
        "no flash left on beside hears what fires this set: radio on the same channel, or an eye for any flash",
        "How receivers and optical slaves work; common practice, no source",
        "common practice",
    ),
    asks="Do flashes of a set beside stay dark while this one is taken?",
    step="power",
    blames="light",
)
HEARS = {"radio": frozenset({"radio"}), "optical slave": frozenset({"radio", "cable", "camera shoe", "optical slave"})}
"""How a head is fired, and what fired in this set it therefore answers to."""


def margins(scene: Scene) -> Iterable[Margin]:
    """One line for each set beside whose lights stay on and hear this one's."""
    ours = {light.head.fired for light in scene.lights if isinstance(light.head, Flash)} - {None}
    if not ours:
        return
    for other in scene.beside:
        if not other.plan.stays_lit:
            continue
        heads = [light for light in other.lights if isinstance(light.head, Flash)]
        hearing = [light for light in heads if HEARS.get(getattr(light.head, "fired", None) or "", frozenset()) & ours]
        if not hearing:
            continue
        names = ", ".join(light.name for light in hearing)
        yield judge(
            BESIDE,
            (scene.path, other.path),
            Estimate(-float(len(hearing))),
            title=f"Flashes of {other.plan.name}",
            need=0.0,
            have=float(len(hearing)),
            clear="",
            short=f"The {names} of {other.plan.name} fires with this set."
            if len(hearing) == 1
            else f"The {names} of {other.plan.name} fire with this set.",
            reason="Its lights are said to stay on, and they answer to what fires here. Switch them off, or give them "
            "a channel of their own and shade the eyes of slaves.",
        )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """The other set's lights off."""
    other = by_id(studio.sets, margin.about[1].split("/")[1])
    if other is not None:
        edit = SetFields(target=margin.about[1], fields={"stays_lit": False})
        yield Proposal(f"Switch the lights of {other.name} off", edit)


RULE = SetRule("flashes beside", margins, (BESIDE,), propose, reads=GEOMETRY)
