"""What gets hot, and where the warmth goes. Codes power.holder, power.heat, power.warmth."""

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

import numpy as np

from evrant.core.base.estimate import Estimate, Share, estimate, estimate_over
from evrant.core.base.margins import Basis, Line, Margin, judge, unknown
from evrant.core.base.memo import Memo, is_plain
from evrant.core.base.quantity import Figure
from evrant.core.base.units import show_number
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import UNEXPOSED, Proposal, SetRule
from evrant.core.mechanics.supports import joint_of
from evrant.core.space.ceiling import ceiling_of
from evrant.core.space.footprint import plan_of
from evrant.core.space.lights import Light
from evrant.core.space.room_twins import room_twins
from evrant.core.space.scene import Scene
from evrant.core.space.shares import gear_shares, picture_shares
from evrant.core.space.solids import Points, Vector, separation
from evrant.core.space.things import is_cloth
from evrant.core.studio.gear import Flash, Gel, Lamp, Part
from evrant.core.studio.room import Room
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say
from evrant.core.wiring.loads import hot_watts, steady_watts

HOLDER = Line(
    "power.holder",
    "Bulb of the … in its holder",
    "W",
    Basis("power of all bulbs on it ≤ rating of the holder", "Rating printed on the holder, as entered", "declared"),
    asks="Is the bulb too strong for its holder?",
    step="power",
    safety=True,
    fails=True,
    hazards=("Heat and fire",),
    blames="light",
)
HEAT_BASIS = Basis(
    "distance to cloth and paper ≥ √(P·k·G / (4π·500 W/m²)), k the share given off as radiant heat (filament 0.9, "
    "fluorescent 0.4, LED 0.25), G the gain of its reflector; not under 10 cm",
    "Inverse square law; 500 W/m² (half of full sun) is a project choice that agrees with the 0.5 to 1 m marked on "
    "luminaires of 100 to 500 W (IEC 60598, from memory)",
    "project choice",
)
HEAT = Line(
    "power.heat",
    "Heat of the … in the …",
    "W",
    Basis("power of all lamps in it ≤ what modifier or gel takes", "Maker's figure as entered", "declared"),
    asks="Is a hot lamp near cloth or paper, or inside what does not take it?",
    step="power",
    safety=True,
    fails=True,
    hazards=("Heat and fire",),
)
WARMTH = Line(
    "power.warmth",
    "How warm the room gets",
    "K",
    Basis(
        "rise in two hours = heat / (0.34 W/(m³K) × air changes × volume + 1.0 W/(m²K) × walls and ceiling) × "
        "(1 − e^(−t/3 h)) ≤ 5 K",
        "Heat balance of a room; heat of ventilation as in EN 12831; 1.0 W/(m²K) and 3 h for lightly "
        "built inner walls, "
        "changes an hour and the limit from memory",
        "from memory",
    ),
    asks="How warm does the room get?",
    step="power",
)
IRRADIANCE, LEAST = 500.0, 0.10
FAR = 0.5
"""More to spare than this is not counted [m]."""
_SHARES: Memo[tuple[Share, ...]] = Memo(1_000_000, lambda shares: 200 + 150 * len(shares))
COOL = 25.0
"""Modelling lamps and bulbs up to this are no heat to worry about in a modifier [W]; project choice."""
CHANGES = {"closed": 0.5, "window ajar": 1.5, "ventilated": 3.0}
"""Air changes an hour; from memory."""
PERSON_HEAT = 100.0
"""Heat of a person at rest [W]; from memory."""
MOST_RISE = 5.0
SESSION, INERTIA = 2.0, 3.0
"""Hours the lights burn, and hours a lightly built room takes to follow; from memory."""


def margins(scene: Scene) -> Iterable[Margin]:
    """Every line about heat of a set."""
    for light in scene.lights:
        if light.head is None:
            continue
        yield from _holder(scene, light)
        yield from _enclosed(scene, light)
        yield from _near(scene, light)
    yield from _warmth(scene)


def _holder(scene: Scene, light: Light) -> Iterable[Margin]:
    """A bulb against the holder it is screwed into."""
    lamp, joint = light.head, joint_of(scene, light)
    if not isinstance(lamp, Lamp) or lamp.form != "bulb":
        return
    title, count = f"Bulb of the {light.name} in its holder", light.place.heads
    rating = joint.rating if isinstance(joint, Part) and joint.use == "bulb holder" else None
    if joint is None or joint.use != "bulb holder":
        words, enter = f"What holder the {lamp.called} is screwed into is not said.", light.path
    elif rating is None or rating.value <= 0:
        words, enter = f"What the {joint.called} is rated for is missing.", f"gear/{joint.id}"
    elif lamp.power is None:
        words, enter = f"What the {lamp.called} draws is missing.", f"gear/{lamp.id}"
    else:
        yield judge(
            HOLDER,
            (light.path,),
            estimate(lambda rating, power: rating - count * power, rating=rating, power=lamp.power),
            title=title,
            need=count * lamp.power.value,
            have=rating.value,
            clear=f"The holder bears the bulb of the {light.name}.",
            short=f"The bulb of the {light.name} is too strong for its holder.",
            reason=f"{lamp.called[:1].upper()}{lamp.called[1:]}: {_times(count, lamp.power.value)}; the "
            f"{joint.called} is rated for {show_number(rating.value, 0)} W.",
        )
        return
    find = "It is printed inside the holder. Until it is known use nothing over 25 W."
    yield unknown(
        HOLDER,
        (enter, light.path),
        words,
        find,
        title=title,
    )


def _times(count: int, watts: float) -> str:
    """Watts of one lamp, or of several together."""
    one = f"{show_number(watts, 0)} W"
    return one if count == 1 else f"{count} × {one}, {show_number(count * watts, 0)} W together"


def _enclosed(scene: Scene, light: Light) -> Iterable[Margin]:
    """Lamps inside a modifier or behind a gel: what they draw becomes heat there, whatever makes their light."""
    assert light.head is not None
    hot, count = hot_watts(light.head), light.place.heads
    if hot is None or count * hot[0].value <= COOL:
        return
    gel = scene.gear.get(light.place.gel or "")
    for item in (light.modifier, gel if isinstance(gel, Gel) else None):
        if item is None or getattr(item, "umbrella", None) is not None:
            continue
        title, path = f"Heat of the {light.name} in the {item.called}", f"{light.path}/{item.kind}"
        if item.takes is None:
            words = f"What lamps the {item.called} takes is missing."
            find = "Read its label; until it is known switch the lamp off between pictures and stay with it."
            yield unknown(
                HEAT,
                (f"gear/{item.id}", path, light.path),
                words,
                find,
                title=title,
            )
            continue
        yield judge(
            HEAT,
            (path, light.path),
            estimate(lambda takes, power: takes - count * power, takes=item.takes, power=hot[0]),
            title=title,
            need=count * hot[0].value,
            have=item.takes.value,
            clear=f"The {item.called} bears the lamp in it.",
            short=f"The lamp is too hot for the {item.called}.",
            reason=f"{_times(count, hot[0].value)} in it; it takes {show_number(item.takes.value, 0)} W.",
        )


def least_distance(watts: float, share: float, gain: float) -> float:
    """Distance at which radiant heat is down to 500 W/m² [m]."""
    return max(math.sqrt(watts * share * gain / (4 * math.pi * IRRADIANCE)), LEAST)


def gain_of(beam: float | None) -> float:
    """How much a reflector of a beam [degrees, edge to edge] concentrates: sphere over cone, 2 / (1 − cos(b/2))."""
    return 1.0 if beam is None else max(2 / (1 - math.cos(math.radians(min(beam, 180.0)) / 2)), 1.0)


@dataclass(frozen=True)
class Near:
    """Cloth or paper nearest to a lamp: the gap [m], its name and path, whether it lies in the lamp's beam."""

    gap: float
    name: str
    path: str
    within: bool


def _nearest(scene: Scene, path: str) -> Near | None:
    """The nearest cloth or paper to a lamp."""
    light = scene.light_at(path)
    if light is None or light.mount is None or light.forward is None:
        return None
    found: list[tuple[float, str, str, Points]] = []
    for thing in scene.around:
        if thing.kind == "backdrop" or (thing.kind == "light" and thing.path != path) or is_cloth(thing):
            name = {"backdrop": "background", "light": f"modifier of the {thing.name}"}.get(thing.kind, thing.name)
            found += [
                (_box_gap(light.mount, part.solid), name, thing.path, part.solid)
                for part in thing.parts
                if part.kind in ("sheet", "roll", "shade") or is_cloth(thing)
            ]
    best: Near | None = None
    for least, name, where, solid in sorted(found, key=lambda one: one[0]):
        if best is not None and least >= best.gap:
            break
        gap, way = separation(light.mount[None], solid)
        if best is None or gap < best.gap:
            best = Near(max(gap, 0.0), name, where, abs(float(way @ light.forward)) > 0.5)
    return best


def _box_gap(spot: Vector, solid: Points) -> float:
    """Distance from a place to the upright box about a solid [m]: never more than to the solid."""
    outside = np.maximum(np.maximum(solid.min(axis=0) - spot, spot - solid.max(axis=0)), 0.0)
    return float(np.linalg.norm(outside))


def _near(scene: Scene, light: Light) -> Iterable[Margin]:
    """A hot lamp near cloth or paper."""
    head = light.head
    assert head is not None
    hot = hot_watts(head)
    near = _nearest(scene, light.path) if hot is not None and hot[0].value > 0 else None
    if hot is None or near is None:
        return
    gap, name, within = near.gap, near.name, near.within
    beam = light.modifier.beam if light.modifier else getattr(head, "beam", None)
    gain = gain_of(beam) if within else 1.0
    watts, share, count = *hot, light.place.heads
    say = Say.of(scene.brief)
    least = least_distance(count * watts.value, share, gain)
    if gap > least + FAR:
        spare, gap_words = Estimate(FAR), f"over {say.length(least + FAR)}"
    else:
        spare = estimate(lambda power: gap - least_distance(count * power, share, gain), power=watts)
        gap_words = say.length(gap)

    def gap_in(one: Scene) -> float | None:
        there = _nearest(one, light.path)
        return None if there is None else there.gap

    if gap <= least + FAR:
        other = scene.light_at(near.path)
        items = (light.modifier, other.modifier if other else scene.backdrop)
        plan = scene.plan
        parts = (light.place, *items, other and other.place, scene.shot, plan.mark, plan.camera, plan.background)

        def shares() -> tuple[Share, ...]:
            sizes = gear_shares(scene, items, ("width", "height", "depth", "length"), gap_in)
            return (*picture_shares(scene, gap_in), *sizes)

        spare = spare.plus(*_SHARES.get(f"{light.path} {gap!r} {is_plain()}", parts, shares))
    yield judge(
        HEAT.but(basis=HEAT_BASIS).but(unit="m"),
        (light.path,),
        spare,
        title=f"Heat of the {light.name} near cloth and paper",
        need=least,
        have=min(gap, least + FAR),
        clear=f"The {light.name} is far enough from cloth and paper.",
        short=f"The {light.name} is hot too near to the {name}.",
        reason=f"{_times(count, watts.value)}, {gap_words} from the {name}; {say.length(least)} is wanted. "
        "Let lamps cool before packing them.",
        at=None if light.mount is None else (float(light.mount[0]), float(light.mount[1]), float(light.mount[2])),
        placing=0.02,
    )


CUTS = 48
"""Into so many parts each way a floor under slopes is cut for the mean height over it."""


def volume_of(room: Room) -> tuple[float, float] | None:
    """Volume [m³] and area of walls and ceiling [m²] of a room of even height (a slope takes away what it cuts)."""
    walls = plan_of(room)
    if walls is None or room.height is None:
        return None
    x, y = walls.corners[:, 0], walls.corners[:, 1]
    floor = float((x * np.roll(y, -1) - np.roll(x, -1) * y).sum()) / 2
    around = float(walls.sides.sum())
    high = room.height.value
    ceiling = ceiling_of(room)
    if ceiling is not None and ceiling.pitches:
        low, top = walls.corners.min(axis=0), walls.corners.max(axis=0)
        middles = (np.arange(CUTS) + 0.5) / CUTS
        spots = [low[i] + (top[i] - low[i]) * middles for i in (0, 1)]
        grid = np.stack(np.meshgrid(*spots), axis=-1).reshape(-1, 2)
        high = float(ceiling.heights(grid[walls.contains(grid)]).mean())
    return floor * high, floor + around * high


def _people(scene: Scene) -> int:
    behind = scene.plan.camera.operator == "photographer behind it"
    return sum(s.kind == "person" for s in scene.shot.subjects) + len(scene.plan.people) + (1 if behind else 0)


def measures(room: Room) -> Iterable[tuple[str, Room]]:
    """The room with each measure moved that makes its volume."""
    if is_plain():
        return
    yield from room_twins(room)
    if room.height is not None and room.height.pm > 0:
        yield "ceiling height", room.changed(height=room.height.moved())
    for slope in room.slopes:
        for name in ("low", "run", "high"):
            figure = getattr(slope, name)
            if isinstance(figure, Figure) and figure.pm > 0:
                moved = slope.changed(**{name: figure.moved()})
                slopes = tuple(moved if s.id == slope.id else s for s in room.slopes)
                yield f"{name} of the {slope.name.lower()}", room.changed(slopes=slopes)


def airing_words(room: Room) -> str:
    return room.airing or "taken as closed"


def _warmth(scene: Scene) -> Iterable[Margin]:
    """How much warmer the room gets."""
    room, title, about = scene.room, "How warm the room gets", (f"{scene.path}/warmth",)
    size = volume_of(room)
    if size is None:
        return
    heats: dict[str, Figure] = {}
    heads: dict[str, int] = {}
    lacking = next((h for h in (light.head for light in scene.lights) if isinstance(h, Lamp) and h.power is None), None)
    if lacking is not None:
        words, find = f"What the {lacking.called} draws is missing.", "Look at its plate."
        yield unknown(
            WARMTH,
            (f"gear/{lacking.id}", *about),
            words,
            find,
            title=title,
        )
        return
    for light in scene.lights:
        head = light.head
        figure = head.power if isinstance(head, Lamp) else head.modelling if isinstance(head, Flash) else None
        if figure is not None and steady_watts(head) is not None:  # type: ignore[arg-type]
            heats[light.place.id] = figure
            heads[light.place.id] = light.place.heads
    if not heats:
        return
    changes = CHANGES[room.airing or "closed"]
    people = _people(scene) * PERSON_HEAT

    def heat_of(watts: Mapping[str, float]) -> float:
        return people + sum(w * heads[key] for key, w in watts.items())

    def rise(volume: float, area: float, watts: Mapping[str, float]) -> float:
        return heat_of(watts) / (0.34 * changes * volume + area) * (1 - math.exp(-SESSION / INERTIA))

    values = {name: figure.value for name, figure in heats.items()}
    there = rise(*size, values)
    shares = [*estimate_over(lambda watts: rise(*size, watts), heats, lambda key: f"power of the {key}").shares]
    for label, moved in measures(scene.room):
        other = volume_of(moved)
        if other is not None and abs(rise(*other, values) - there) > 1e-9:
            shares.append(Share(label, abs(rise(*other, values) - there)))
    heat, say = heat_of(values), Say.of(scene.brief)
    yield judge(
        WARMTH,
        about,
        Estimate(MOST_RISE - there, tuple(shares)),
        title=title,
        need=there,
        have=MOST_RISE,
        clear="The lights do not overheat the room.",
        short="The lights make the room too warm.",
        reason=f"{show_number(heat, 0)} W of people and lights in {say.volume(size[0])}, "
        f"{airing_words(room)}: about {say.warmer(there)} warmer after two hours, "
        f"{show_number(heat * 3.412, 0)} BTU/h.",
    )


OPENED = {"window ajar": "Leave a window ajar", "ventilated": "Air the room all the time"}


def aired(studio: Studio) -> Iterable[Proposal]:
    """Windows opened further."""
    for airing, words in OPENED.items():
        if studio.room.airing != airing:
            yield Proposal(words, SetFields(target="room", fields={"airing": airing}))


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Other bulbs and holders, a window opened, the lamp further off."""
    if margin.code == WARMTH.code:
        yield from aired(studio)
        return
    light = next((one for one in scene.lights if one.path in margin.about), None) if scene else None
    if light is None:
        return
    if margin.code == "power.holder":
        for item in studio.gear:
            if isinstance(item, Part) and item.use == "bulb holder" and item.id != light.place.joint:
                yield Proposal(f"Use the {item.called}", SetFields(target=light.path, fields={"joint": item.id}))
    for item in studio.gear:
        if isinstance(item, (Lamp, Flash)) and item.id != light.place.head:
            yield Proposal(f"Use the {item.called}", SetFields(target=light.path, fields={"head": item.id}))


RULE = SetRule(
    "heat",
    margins,
    (
        HOLDER,
        HEAT,
        WARMTH,
    ),
    propose,
    reads=UNEXPOSED,
)
