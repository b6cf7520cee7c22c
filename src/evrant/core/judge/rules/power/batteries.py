"""Do batteries last the session? Code power.battery."""

import math
from collections.abc import Iterable

from evrant.core.base.estimate import Estimate, Share, estimate, quadrature
from evrant.core.base.margins import Basis, Line, Margin, judge, unknown
from evrant.core.base.quantity import Figure
from evrant.core.base.units import show_number
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import Proposal, SetRule
from evrant.core.light.emission import Missing
from evrant.core.light.lit import lit
from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import Flash, Lamp
from evrant.core.studio.studio import Studio, by_id

BATTERY = Line(
    "power.battery",
    "Charge of the …",
    "flashes",
    Basis(
        "flashes a charge / share of full power ≥ pictures of the session; or stored energy / power "
        "drawn ≥ its minutes",
        "Energy per flash goes with the power set; spare charge for cold and age (a fifth) is common "
        "practice, no source",
        "common practice",
    ),
    asks="Does a charge last the session?",
    step="power",
)
AGED = 0.8
"""Share of a battery's figure that is counted on."""


def margins(scene: Scene) -> Iterable[Margin]:
    """Every light on batteries."""
    for light in scene.lights:
        head = light.head
        if head is None or head.supply != "battery":
            continue
        yield from _flash(scene, light, head) if isinstance(head, Flash) else _lamp(scene, light, head)


def power_of(scene: Scene, light: Light) -> tuple[float, float]:
    """Share of full power a light works at, as typed, else as the exposure sets it, else full; with its ± [stops]."""
    if light.place.power is not None:
        return light.place.power, 0.0
    state = lit(scene)
    if isinstance(state, Missing):
        return 1.0, 0.0
    number = next((i for i, one in enumerate(state.beams) if one.path == light.path), None)
    if number is None:
        return 1.0, 0.0
    emission = state.beams[number].emission
    unsure = quadrature(emission.shares) if emission is not None else 0.0
    return min(float(state.powers[number]), 1.0), unsure


def _flash(scene: Scene, light: Light, head: Flash) -> Iterable[Margin]:
    title, about = f"Charge of the {light.name}", (light.path,)
    asked = scene.plan.exposures
    if asked is None or head.flashes is None:
        enter = f"gear/{head.id}" if head.flashes is None else scene.path
        words = (
            f"How many full flashes a charge of the {head.called} gives is missing."
            if head.flashes is None
            else "How many pictures a session takes is not said."
        )
        find = "Count them once at full power, or read the data sheet; take a second set of batteries along."
        where = (enter, light.path)
        yield unknown(
            BATTERY,
            where,
            words,
            find,
            title=title,
            subject=light.path,
        )
        return
    share, stops = power_of(scene, light)
    have = AGED * head.flashes / max(share, 1e-6)
    yield judge(
        BATTERY,
        about,
        Estimate(have - asked, (Share("output of the head", have * math.log(2) * stops),) if stops else ()),
        title=title,
        need=float(asked),
        have=have,
        clear=f"One charge of the {light.name} lasts.",
        short=f"One charge of the {light.name} does not last: take spare batteries.",
        reason=f"{head.flashes} full flashes a charge, a fifth kept back, are {show_number(have, 0)} at "
        f"{show_number(share * 100, 0)} % power; {asked} pictures are planned.",
    )


def _lamp(scene: Scene, light: Light, head: Lamp) -> Iterable[Margin]:
    title, about = f"Charge of the {light.name}", (light.path,)
    asked: Figure | None = scene.plan.minutes
    lacking = head if head.watt_hours is None or head.power is None or head.power.value <= 0 else None
    if asked is None or lacking is not None:
        enter = scene.path if lacking is None else f"gear/{head.id}"
        what = "How long the set stands in a session" if lacking is None else f"Battery or power of the {head.called}"
        find = "Read the watt-hours off the battery; take a second one along."
        where, words = (enter, light.path), f"{what} is not said."
        yield unknown(
            BATTERY.but(unit="min"),
            where,
            words,
            find,
            title=title,
            subject=light.path,
        )
        return
    assert head.watt_hours is not None and head.power is not None
    share, stops = power_of(scene, light)

    def lasts(stored: float, power: float) -> float:
        return AGED * stored / (power * share) * 60

    have = lasts(head.watt_hours.value, head.power.value)
    yield judge(
        BATTERY.but(unit="min"),
        about,
        estimate(
            lambda stored, power, minutes: lasts(stored, power) - minutes,
            stored=head.watt_hours,
            power=head.power,
            minutes=asked,
        ).plus(Share("output of the head", have * math.log(2) * stops)),
        title=title,
        need=asked.value,
        have=have,
        clear=f"One charge of the {light.name} lasts.",
        short=f"One charge of the {light.name} does not last: take spare batteries.",
        reason=f"{show_number(head.watt_hours.value, 0)} Wh at {show_number(head.power.value * share, 0)} W, a fifth "
        f"kept back: {show_number(have, 0)} min; the set stands {show_number(asked.value, 0)} min.",
    )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Lower power, a head on the mains, one that lasts longer."""
    light = next((one for one in scene.lights if one.path in margin.about), None) if scene else None
    if light is None:
        return
    for item in studio.gear:
        if isinstance(item, (Flash, Lamp)) and item.id != light.place.head and by_id(studio.gear, item.id):
            yield Proposal(f"Use the {item.called}", SetFields(target=light.path, fields={"head": item.id}))


RULE = SetRule("batteries", margins, (BATTERY,), propose)
