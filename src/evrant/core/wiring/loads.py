"""What draws from the mains in a set, and over a session."""

from collections.abc import Iterable
from dataclasses import dataclass
from itertools import pairwise

from evrant.core.base.quantity import Figure
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import Flash, Lamp
from evrant.core.studio.room import Appliance, Room, value
from evrant.core.studio.sets import LightPlace, SetPlan
from evrant.core.studio.studio import Studio, by_id

RECYCLE_EFFICIENCY = 0.8
"""Share of mains energy that reaches the flash's store. Common practice, no source."""
USUAL_MINUTES = 45.0
"""How long a set stands in a session when it is not said [min]; common practice."""


def draw(head: Flash | Lamp) -> dict[str, Figure] | str:
    """The figures that make up what a head draws, or what is missing."""
    if isinstance(head, Lamp):
        return {"power": head.power} if head.power else f"What the {head.called} draws is missing."
    if head.energy is None or head.recycle is None:
        return f"The energy or recycle time of the {head.called} is missing."
    figures = {"energy": head.energy, "recycle": head.recycle}
    return figures | ({"modelling": head.modelling} if head.modelling else {})


def watts(energy: float = 0.0, recycle: float = 1.0, modelling: float = 0.0, power: float = 0.0) -> float:
    """Draw while recycling at full power with the modelling lamp on, or of a lamp [W]."""
    return energy / recycle / RECYCLE_EFFICIENCY + modelling + power


FLASH_FACTOR, FILAMENT_FACTOR = 0.65, 1.0
"""Power factor of what charges a flash, and of filaments; from memory."""
SMALL_FACTOR, LARGE_FACTOR, SMALL_WATTS = 0.5, 0.9, 25.0
"""Least power factor of LED and fluorescent lamps up to 25 W and over (EU 2019/2020, from memory)."""


def volt_amperes(
    head: Flash | Lamp, energy: float = 0.0, recycle: float = 1.0, modelling: float = 0.0, power: float = 0.0
) -> float:
    """What the mains carry for a head [VA]: more than its watts where its supply draws in short surges; a modelling
    lamp counts as a filament."""
    charging = energy / recycle / RECYCLE_EFFICIENCY / FLASH_FACTOR
    return charging + modelling / FILAMENT_FACTOR + power / _factor(head, power)


def _factor(head: Flash | Lamp, power: float) -> float:
    if isinstance(head, Flash) or head.technology in (None, "filament"):
        return FILAMENT_FACTOR
    return SMALL_FACTOR if power <= SMALL_WATTS else LARGE_FACTOR


def head_volt_amperes(head: Flash | Lamp) -> float | None:
    """What the mains carry for a head at its worst [VA]; None while a figure is missing."""
    figures = draw(head)
    if isinstance(figures, str):
        return None
    return volt_amperes(head, **{name: figure.value for name, figure in figures.items()})


def steady_watts(head: Flash | Lamp) -> float | None:
    """Draw between flashes [W]: the modelling lamp, or the lamp."""
    return value(head.power) if isinstance(head, Lamp) else value(head.modelling) or 0.0


def head_watts(head: Flash | Lamp) -> float | None:
    """Draw at its worst [W]; None while a figure is missing."""
    figures = draw(head)
    return None if isinstance(figures, str) else watts(**{name: figure.value for name, figure in figures.items()})


def mains_lights(studio: Studio, plan: SetPlan) -> list[tuple[LightPlace, Flash | Lamp]]:
    """Lights of a set that are fed by the mains."""
    found = []
    for light in plan.lights:
        head = by_id(studio.gear, light.head)
        if isinstance(head, (Flash, Lamp)) and head.supply == "mains":
            found.append((light, head))
    return found


def circuit_of(room: Room, light: LightPlace) -> str | None:
    """The circuit that feeds a light: its socket's, else the one it is said to be on."""
    socket = by_id(room.sockets, light.socket)
    if socket is not None and socket.circuit is not None:
        return socket.circuit
    return light.circuit


@dataclass(frozen=True)
class Span:
    """A stretch of a session: what it is, from and to [min]; `plan` is the set that stands, if one does."""

    name: str
    start: float
    end: float
    plan: str | None


def session(studio: Studio) -> tuple[Span, ...]:
    """The sets one after another, each as long as it stands; of a shot only its first set."""
    spans, here, seen = [], 0.0, set()
    for plan in studio.sets:
        if plan.shot in seen:
            continue
        seen.add(plan.shot)
        long = value(plan.minutes) or USUAL_MINUTES
        spans.append(Span(plan.name, here, here + long, plan.id))
        here += long
    return tuple(spans)


def running(room: Room, circuit: str, span: Span | None) -> list[Appliance]:
    """Appliances of a circuit that may run while a set stands: what goes on and off by itself counts as on."""
    found = []
    for one in room.appliances:
        if one.circuit != circuit or one.runs == "switched off for pictures":
            continue
        start, end = value(one.starts), value(one.ends)
        over = span is None or ((start is None or start < span.end) and (end is None or end > span.start))
        if over:
            found.append(one)
    return found


@dataclass(frozen=True)
class Piece:
    """A stretch of time on a circuit [min] with what draws in it: (name, volt-amperes) each."""

    start: float
    end: float
    parts: tuple[tuple[str, float], ...]

    @property
    def watts(self) -> float:
        return sum(w for _, w in self.parts)


def timeline(studio: Studio, circuit: str) -> tuple[Piece, ...]:
    """What a circuit carries over the session, cut wherever it changes; flashes as recycling all at once."""
    spans = session(studio)
    if not spans:
        return ()
    end = spans[-1].end
    cuts = {0.0, end, *(s.start for s in spans)}
    for one in studio.room.appliances:
        cuts |= {min(max(t, 0.0), end) for t in (value(one.starts), value(one.ends)) if t is not None}
    edges = sorted(cuts)
    return tuple(Piece(a, b, tuple(_parts(studio, circuit, a, b))) for a, b in pairwise(edges))


def _parts(studio: Studio, circuit: str, start: float, end: float) -> Iterable[tuple[str, float]]:
    held = by_id(studio.room.circuits, circuit)
    if held is not None and held.other_load is not None and held.other_load.value:
        yield "other things", held.other_load.value
    for one in running(studio.room, circuit, Span("", start, end, None)):
        if one.power is not None:
            yield one.name, one.power.value
    span = next((s for s in session(studio) if s.start <= start < s.end), None)
    plan = by_id(studio.sets, span.plan) if span else None
    for light, head in mains_lights(studio, plan) if plan else ():
        if plan is not None and circuit_of(studio.room, light) == circuit:
            draws = head_volt_amperes(head)
            if draws is not None:
                yield plan.name_of(light), draws * light.heads


def scene_load(scene: Scene, circuit: str) -> float:
    """What a circuit carries while a set stands, at its worst [VA]; figures that are missing count as nothing."""
    total = 0.0
    held = by_id(scene.room.circuits, circuit)
    if held is not None and held.other_load is not None:
        total += held.other_load.value
    total += sum(one.power.value for one in running(scene.room, circuit, None) if one.power is not None)
    for light in scene.lights:
        if light.head is not None and light.head.supply == "mains" and circuit_of(scene.room, light.place) == circuit:
            total += (head_volt_amperes(light.head) or 0.0) * light.place.heads
    return total + sum(_left_on(other, circuit) for other in scene.beside if other.plan.stays_lit)


def _left_on(scene: Scene, circuit: str) -> float:
    """What the lamps of a set that stays lit while another is used draw of a circuit [W]."""
    heads = [(light, light.head) for light in scene.lights if circuit_of(scene.room, light.place) == circuit]
    fed = [(light, head) for light, head in heads if head is not None and head.supply == "mains"]
    return sum((steady_watts(head) or 0.0) * light.place.heads for light, head in fed)


RADIANT = {"filament": 0.9, "compact fluorescent": 0.4, "LED": 0.25}


def hot_watts(head: Flash | Lamp) -> tuple[Figure, float] | None:
    """Power of what gets hot for long in a head, and the share it radiates; modelling lamps count as filaments."""
    if isinstance(head, Flash):
        return None if head.modelling is None else (head.modelling, RADIANT["filament"])
    if head.power is None:
        return None
    return head.power, RADIANT[head.technology or "filament"]
