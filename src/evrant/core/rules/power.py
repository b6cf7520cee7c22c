"""What each circuit carries. Code power.circuit."""

from collections.abc import Iterable

from evrant.core.edits import SetFields
from evrant.core.estimate import estimate
from evrant.core.margins import Basis, Margin, judge, unknown
from evrant.core.memo import Memo
from evrant.core.quantity import Figure
from evrant.core.rules.rule import Proposal
from evrant.core.scene import Scene
from evrant.core.studio.gear import Flash, Lamp
from evrant.core.studio.sets import LightPlace, SetPlan
from evrant.core.studio.studio import Studio, by_id
from evrant.core.tables.countries import MAINS
from evrant.core.units import show_number

RECYCLE_EFFICIENCY = 0.8
"""Share of mains energy that reaches the flash's store. Common practice, no source."""


def basis(studio: Studio) -> Basis:
    mains = MAINS[studio.brief.country]
    share = f"{mains.continuous_share:.0%} of " if mains.continuous_share < 1 else ""
    return Basis(
        f"I = P / V at {mains.volts:.0f} V; sum ≤ {share}the breaker. A flash draws energy / recycle time / "
        f"{RECYCLE_EFFICIENCY} and its modelling lamp",
        mains.source,
        "from memory",
    )


def margins(studio: Studio) -> Iterable[Margin]:
    """One line a circuit for the set that loads it most, and one for a light without a circuit."""
    for circuit in studio.room.circuits:
        worst = _worst(studio, circuit.id)
        if worst is not None:
            yield worst
    for plan in studio.sets:
        yield from _unplugged(studio, plan)


def _mains_lights(studio: Studio, plan: SetPlan) -> list[tuple[LightPlace, Flash | Lamp]]:
    found = []
    for light in plan.lights:
        head = by_id(studio.gear, light.head)
        if isinstance(head, (Flash, Lamp)) and head.supply == "mains":
            found.append((light, head))
    return found


def _draw(head: Flash | Lamp) -> dict[str, Figure] | str:
    """The figures that make up what a head draws, or what is missing."""
    if isinstance(head, Lamp):
        return {"power": head.power} if head.power else f"What the {head.called} draws is missing."
    if head.energy is None or head.recycle is None:
        return f"The energy or recycle time of the {head.called} is missing."
    figures = {"energy": head.energy, "recycle": head.recycle}
    return figures | ({"modelling": head.modelling} if head.modelling else {})


def watts(energy: float = 0.0, recycle: float = 1.0, modelling: float = 0.0, power: float = 0.0) -> float:
    """Average draw while recycling at full power [W]."""
    return energy / recycle / RECYCLE_EFFICIENCY + modelling + power


def _worst(studio: Studio, circuit: str) -> Margin | None:
    lines = [line for plan in studio.sets for line in _load_of(studio, plan, circuit)]
    if not lines:
        return None
    return min(lines, key=Margin.order)


_LOADS: Memo[tuple[Margin, ...]] = Memo(4_000_000, lambda lines: 300 + 1500 * len(lines))


def _load_of(studio: Studio, plan: SetPlan, circuit: str) -> tuple[Margin, ...]:
    """`_set_load`, kept while the set, the circuits, the kit and the country stay the same."""
    parts = (studio.brief, studio.room.circuits, studio.gear, plan)
    return _LOADS.get(circuit, parts, lambda: tuple(_set_load(studio, plan, circuit)))


def _set_load(studio: Studio, plan: SetPlan, key: str) -> Iterable[Margin]:
    circuit = by_id(studio.room.circuits, key)
    lights = [(light, head) for light, head in _mains_lights(studio, plan) if light.circuit == key]
    if circuit is None or not lights:
        return
    about = (f"room/circuits/{key}", *(f"sets/{plan.id}/lights/{light.id}" for light, _ in lights))
    title = f"Circuit {circuit.name}"
    law = basis(studio)
    if circuit.breaker is None or circuit.breaker.value <= 0:
        yield unknown(
            "power.circuit",
            about,
            title,
            "A",
            f"The breaker of {circuit.name} is not known.",
            "Read the number on the breaker, for instance B16 is 16 A.",
            law,
            safety=True,
            subject=about[0],
        )
        return
    figures: dict[str, Figure] = {}
    for light, head in lights:
        drawn = _draw(head)
        if isinstance(drawn, str):
            yield unknown(
                "power.circuit",
                (f"gear/{head.id}", *about),
                title,
                "A",
                drawn,
                "Look at the plate or the data sheet.",
                law,
                safety=True,
                subject=about[0],
            )
            return
        figures |= {f"{light.id}__{name}": figure for name, figure in drawn.items()}
    if circuit.other_load is not None:
        figures["other_load"] = circuit.other_load
    mains = MAINS[studio.brief.country]

    def amps(**values: float) -> float:
        total = values.get("other_load", 0.0)
        for light, _ in lights:
            prefix = f"{light.id}__"
            total += watts(**{n.removeprefix(prefix): v for n, v in values.items() if n.startswith(prefix)})
        return total / mains.volts

    limit = circuit.breaker.value * mains.continuous_share
    spare = estimate(
        lambda breaker, **values: breaker * mains.continuous_share - amps(**values), breaker=circuit.breaker, **figures
    )
    load = limit - spare.value
    others = "" if circuit.other_load else " Nothing else is entered on this circuit."
    yield judge(
        "power.circuit",
        about,
        title,
        spare,
        need=load,
        have=limit,
        unit="A",
        clear=f"{circuit.name} carries the set.",
        short=f"{circuit.name} is overloaded.",
        reason=f"{show_number(load, 1)} A with all heads recycling in “{plan.name}”; "
        f"{show_number(limit, 1)} A allowed.{others}",
        basis=law,
        safety=True,
    )


def _unplugged(studio: Studio, plan: SetPlan) -> Iterable[Margin]:
    for light, head in _mains_lights(studio, plan):
        if by_id(studio.room.circuits, light.circuit) is None:
            where = f"sets/{plan.id}/lights/{light.id}"
            yield unknown(
                "power.circuit",
                (where, f"gear/{head.id}"),
                f"Circuit of the {light.role}",
                "A",
                f"Which circuit feeds the {light.role} in “{plan.name}” is not known.",
                "Choose a circuit for it; name the circuits under Room.",
                basis(studio),
                safety=True,
            )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Plug a light into another circuit."""
    for path in margin.about:
        parts = path.split("/")
        if len(parts) != 4 or parts[0] != "sets":
            continue
        plan = by_id(studio.sets, parts[1])
        light = by_id(plan.lights, parts[3]) if plan else None
        if light is None:
            continue
        for circuit in studio.room.circuits:
            if circuit.id != light.circuit:
                yield Proposal(
                    f"Plug the {light.role} into {circuit.name}", SetFields(target=path, fields={"circuit": circuit.id})
                )
