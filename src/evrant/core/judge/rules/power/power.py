"""What each circuit carries. Code power.circuit."""

from collections.abc import Iterable, Mapping

from evrant.core.base.estimate import estimate_over
from evrant.core.base.margins import Basis, Line, Margin, judge, unknown
from evrant.core.base.memo import Memo
from evrant.core.base.quantity import Figure
from evrant.core.base.tables.countries import MAINS
from evrant.core.base.units import show_number
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import Proposal, StudioRule
from evrant.core.space.scene import Scene
from evrant.core.studio.sets import SetPlan
from evrant.core.studio.studio import Studio, by_id
from evrant.core.wiring.loads import (
    FLASH_FACTOR,
    LARGE_FACTOR,
    RECYCLE_EFFICIENCY,
    SMALL_FACTOR,
    SMALL_WATTS,
    Span,
    circuit_of,
    draw,
    mains_lights,
    running,
    session,
    volt_amperes,
)


def basis(studio: Studio) -> Basis:
    mains = MAINS[studio.brief.country]
    share = f"{mains.continuous_share:.0%} of " if mains.continuous_share < 1 else ""
    return Basis(
        f"I = P / (V cos φ) at {mains.volts:.0f} V; sum ≤ {share}the breaker. A flash draws energy / recycle time / "
        f"{RECYCLE_EFFICIENCY} at cos φ {FLASH_FACTOR} and its modelling lamp; LED lamps {LARGE_FACTOR}, up to "
        f"{SMALL_WATTS:.0f} W {SMALL_FACTOR}; switched on it draws more for a moment, so switch heads on one "
        "after another",
        mains.source,
        "from memory",
    )


BESIDES = "runs besides"
"""What runs on a circuit beside the set; no id of a light holds a space, and this stands where one would."""
BASIS = Basis("I = P / (V cos φ); sum ≤ what the breaker bears", "Mains and breakers by country", "from memory")
CIRCUIT = Line(
    "power.circuit",
    "Circuit …",
    "A",
    BASIS,
    asks="Does each circuit carry the set that loads it most, with all that runs on it meanwhile?",
    step="power",
    safety=True,
    fails=True,
    hazards=("Electrical overload",),
)


def margins(studio: Studio) -> Iterable[Margin]:
    """One line a circuit for the set that loads it most, and one for a light without a circuit."""
    spans = {span.plan: span for span in session(studio)}
    for circuit in studio.room.circuits:
        worst = _worst(studio, circuit.id, spans)
        if worst is not None:
            yield worst
    for plan in studio.sets:
        yield from _unplugged(studio, plan)


def _worst(studio: Studio, circuit: str, spans: dict[str | None, Span]) -> Margin | None:
    lines = [line for plan in studio.sets for line in _load_of(studio, plan, circuit, spans.get(plan.id))]
    if not lines:
        return None
    return min(lines, key=Margin.order)


_LOADS: Memo[tuple[Margin, ...]] = Memo(4_000_000, lambda lines: 300 + 1500 * len(lines))


def _load_of(studio: Studio, plan: SetPlan, circuit: str, span: Span | None) -> tuple[Margin, ...]:
    """`_set_load`, kept while the set, when it stands, the circuits, the kit and the country stay the same."""
    room = studio.room
    parts = (studio.brief, room.circuits, room.appliances, room.sockets, studio.gear, plan)
    when = "" if span is None else f"{span.start} {span.end}"
    return _LOADS.get(f"{circuit} {when}", parts, lambda: tuple(_set_load(studio, plan, circuit, span)))


def _set_load(studio: Studio, plan: SetPlan, key: str, span: Span | None) -> Iterable[Margin]:
    circuit = by_id(studio.room.circuits, key)
    lights = [(light, head) for light, head in mains_lights(studio, plan) if circuit_of(studio.room, light) == key]
    if circuit is None or not lights:
        return
    about = (f"room/circuits/{key}", *(f"sets/{plan.id}/lights/{light.id}" for light, _ in lights))
    title = f"Circuit {circuit.name}"
    law = basis(studio)
    if circuit.breaker is None or circuit.breaker.value <= 0:
        yield unknown(
            CIRCUIT.but(basis=law),
            about,
            f"The breaker of {circuit.name} is not known.",
            "Read the number on the breaker, for instance B16 is 16 A.",
            title=title,
            subject=about[0],
        )
        return
    figures: dict[tuple[str, str], Figure] = {}
    for light, head in lights:
        drawn = draw(head)
        if isinstance(drawn, str):
            yield unknown(
                CIRCUIT.but(basis=law),
                (f"gear/{head.id}", *about),
                drawn,
                "Look at the plate or the data sheet.",
                title=title,
                subject=about[0],
            )
            return
        figures |= {(light.id, name): figure for name, figure in drawn.items()}
    if circuit.other_load is not None:
        figures[BESIDES, "other load"] = circuit.other_load
    others = running(studio.room, key, span)
    for one in others:
        if one.power is None:
            where, find = f"room/appliances/{one.id}", "Look at its plate, or measure it with a plug-in meter."
            missing = f"What the {one.name.lower()} draws is missing."
            paths = (where, *about)
            yield unknown(
                CIRCUIT.but(basis=law),
                paths,
                missing,
                find,
                title=title,
                subject=about[0],
            )
            return
        figures[BESIDES, one.id] = one.power
    mains = MAINS[studio.brief.country]

    heads = {light.id: head for light, head in lights}

    def spare_of(values: Mapping[tuple[str, str], float]) -> float:
        total = sum(v for (owner, _), v in values.items() if owner == BESIDES)
        for light, _ in lights:
            own = {name: v for (owner, name), v in values.items() if owner == light.id}
            total += light.heads * volt_amperes(heads[light.id], **own)
        return values["", "breaker"] * mains.continuous_share - total / mains.volts

    limit = circuit.breaker.value * mains.continuous_share
    names = {one.id: one.name.lower() for one in others}
    roles = {light.id: light.role for light, _ in lights}

    def named(key: tuple[str, str]) -> str:
        owner, name = key
        return names.get(name, name) if owner in ("", BESIDES) else f"{roles[owner]} {name.replace('_', ' ')}"

    spare = estimate_over(spare_of, {("", "breaker"): circuit.breaker, **figures}, named)
    load = limit - spare.value
    also = " and ".join(f"the {one.name.lower()} ({show_number(one.power.value, 0)} W)" for one in others if one.power)
    words = f" It shares the breaker with {also}." if also else ""
    if not also and not circuit.other_load:
        words = " Nothing else is entered on this circuit."
    yield judge(
        CIRCUIT.but(basis=law),
        about,
        spare,
        title=title,
        need=load,
        have=limit,
        clear=f"{circuit.name} carries the set.",
        short=f"{circuit.name} is overloaded.",
        reason=f"{show_number(load, 1)} A with all heads recycling in “{plan.name}”; "
        f"{show_number(limit, 1)} A allowed.{words}",
    )


def _unplugged(studio: Studio, plan: SetPlan) -> Iterable[Margin]:
    for light, head in mains_lights(studio, plan):
        if by_id(studio.room.circuits, circuit_of(studio.room, light)) is None:
            where = f"sets/{plan.id}/lights/{light.id}"
            yield unknown(
                CIRCUIT.but(basis=basis(studio)),
                (where, f"gear/{head.id}"),
                f"Which circuit feeds the {plan.name_of(light)} in “{plan.name}” is not known.",
                "Choose a circuit for it; name the circuits under Room.",
                title=f"Circuit of the {plan.name_of(light)}",
            )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Plug a light into another circuit."""
    for path in margin.about:
        parts = path.split("/")
        if len(parts) != 4 or parts[0] != "sets":
            continue
        plan = by_id(studio.sets, parts[1])
        light = by_id(plan.lights, parts[3]) if plan else None
        if plan is None or light is None:
            continue
        for circuit in studio.room.circuits:
            if circuit.id != circuit_of(studio.room, light):
                fields = {"circuit": circuit.id, "socket": None}
                yield Proposal(
                    f"Plug the {plan.name_of(light)} into {circuit.name}", SetFields(target=path, fields=fields)
                )
    parts = margin.about[0].split("/")
    for one in studio.room.appliances if parts[:2] == ["room", "circuits"] else ():
        if one.circuit == parts[2] and one.runs != "switched off for pictures":
            target, fields = f"room/appliances/{one.id}", {"runs": "switched off for pictures"}
            yield Proposal(f"Switch the {one.name.lower()} off for pictures", SetFields(target=target, fields=fields))


RULE = StudioRule("power", margins, (CIRCUIT,), propose, places=False)
