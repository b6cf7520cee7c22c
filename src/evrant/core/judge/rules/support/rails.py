"""Does a clamp hang on a rail that is there, and does the rail bear all that hangs on it? Codes support.rail,
support.rail_load, support.rail_sag."""

import math
from collections.abc import Iterable
from dataclasses import dataclass

from evrant.core.base.estimate import Estimate, Share
from evrant.core.base.margins import PLACED_BOTH, Basis, Line, Margin, judge, unknown
from evrant.core.base.tables.supports import DENSITY, GRAVITY, MODULUS
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import GEOMETRY, Proposal, SetRule
from evrant.core.mechanics import beams
from evrant.core.mechanics.supports import Missing, joint_of, load_of
from evrant.core.place.hanging import moves_of, slid_onto
from evrant.core.space.anchors import feet
from evrant.core.space.lights import Light
from evrant.core.space.rails import CLAMPS, ON_RAIL, RailLine, rail_under, rails_of
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Vector
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say

RAIL = Line(
    "support.rail",
    "Rail under the …",
    "m",
    Basis("distance of the clamp from the nearest rail ≤ 5 cm", "Plane geometry of the plan", "computed"),
    asks="Is there a rail where a clamp is to hang?",
    step="support",
    safety=True,
    search="placed",
    fails=True,
    hazards=("Load overhead",),
    mark="rail",
)
RAIL_LOAD = Line(
    "support.rail_load",
    "All that hangs on the …",
    "kg",
    Basis(
        "lights with their clamps, rails that lie on it and, on a crossbar, the rolls "
        "≤ what the rail carries in all; each end's reaction "
        "W b / L of every load ≤ what an end carries",
        "Statics of a bar on two supports, any engineering handbook; ratings as entered",
        "published",
    ),
    asks="Does a rail carry all that hangs on it together?",
    step="support",
    safety=True,
    hazards=("Load overhead",),
)
RAIL_SAG = Line(
    "support.rail_sag",
    "Sag of the …",
    "m",
    Basis(
        "sum of P b x (L² − b² − x²) / (6 L E I) of every load and 5 w L⁴ / (384 E I) ≤ a hundredth of the span",
        "Roark's Formulas for Stress and Strain, beams on two supports; a hundredth is a project choice",
        "published",
    ),
    asks="Does a rail stay straight enough under all that hangs on it?",
    step="support",
)
SAGS, LIES = 0.01, 0.12
"""Sag as a share of the span; how near a rail's end is to the middle of the one it lies on or is clamped under [m]."""
AT_WALL = 0.12
"""So near to a wall a rail's end is held by a bracket of it [m]; common practice, no source."""


@dataclass(frozen=True)
class Hangs:
    """A mass [kg] with its ± at a place along a rail [m]."""

    name: str
    mass: float
    place: float
    pm: float


def margins(scene: Scene) -> Iterable[Margin]:
    """A line for each clamp, and two for each rail that something hangs on, or that carries such a rail."""
    hung: dict[str, list[tuple[Light, float]]] = {}
    for light in scene.lights:
        if light.stand is None or light.stand.use != CLAMPS or light.mount is None:
            continue
        found = rail_under(scene, light)
        if found is None:
            yield unknown(
                RAIL,
                ("room", light.path),
                f"No rail is entered that the {light.name} could be clamped to.",
                "Enter it under Room: both ends, its height, what it carries. Until then hang nothing over people.",
                title=f"Rail under the {light.name}",
                subject=light.path,
            )
            continue
        rail, gap, place, _ = found
        yield _on_it(scene, light, rail, gap)
        if gap <= ON_RAIL:
            hung.setdefault(rail.path, []).append((light, place))
    if hung:
        yield from _all_carried(scene, hung)


def _all_carried(scene: Scene, hung: dict[str, list[tuple[Light, float]]]) -> Iterable[Margin]:
    """Rails from the uppermost down: what hangs on one bears on those its ends lie on."""
    rails = {rail.path: rail for rail in rails_of(scene)}
    left, passed, blocked = dict(rails), dict[str, list[Hangs]](), dict[str, tuple[str, str]]()
    used = set(hung)
    while left:
        upper = [rail for path, rail in left.items() if not any(path in one.lies_on for one in left.values())]
        if not upper:
            ring = ("and the rails its ends lie on carry each other in a ring.", "Say under Room which lies on which.")
            yield from (_not_known(rail, *ring) for path, rail in left.items() if path in used)
            return
        for rail in upper:
            del left[rail.path]
            carriers = [one for path in rail.lies_on if (one := rails.get(path or "")) is not None]
            if rail.path in used:
                used |= {one.path for one in carriers}
            loads = _loads(scene, rail, hung.get(rail.path, []))
            if isinstance(loads, Margin) or rail.path in blocked:
                if rail.path in used:
                    yield loads if isinstance(loads, Margin) else _not_known(rail, *blocked[rail.path])
                words = f"bears the {rail.name}, and what hangs on that is not known."
                blocked |= {one.path: (words, f"First settle what the {rail.name} carries.") for one in carriers}
                continue
            loads += passed.get(rail.path, [])
            if rail.path in used:
                yield _loose_end(scene, rail, rails) or _held_by_nothing(scene, rail) or _load(scene, rail, loads)
                yield from _sag(scene, rail, loads)
            if _own(rail) is None:
                words = f"bears the {rail.name}, whose own mass is not known."
                find = f"Enter diameter, wall and material of the {rail.name}."
                blocked |= {one.path: (words, find) for one in carriers}
                continue
            for at, path, force in zip((rail.start, rail.end), rail.lies_on, _ends(rail, loads), strict=True):
                if path in rails:
                    pm = math.hypot(*(_share(rail, one, at) * one.pm for one in loads), 0.0)
                    what = f"{rail.name} with what is on it" if loads else rail.name
                    place = rails[path].nearest(at)[1]
                    passed.setdefault(path, []).append(Hangs(what, force / GRAVITY, place, pm))


def _not_known(rail: RailLine, words: str, find: str) -> Margin:
    title = f"All that hangs on the {rail.name}"
    return unknown(RAIL_LOAD, (rail.path,), f"The {rail.name} {words}", find, title=title)


def _loose_end(scene: Scene, rail: RailLine, rails: dict[str, RailLine]) -> Margin | None:
    """A line for an end that is to lie on a rail and does not."""
    for at, path in zip((rail.start, rail.end), rail.lies_on, strict=True):
        carrier = rails.get(path or "")
        gap = carrier.nearest(at)[0] if carrier is not None else math.inf
        if path is not None and gap > LIES:
            far = "" if carrier is None else f", {Say.of(scene.brief).length(gap)} off it"
            name = "a rail that is not there" if carrier is None else f"the {carrier.name}"
            words = f"is to lie with one end on {name}{far}."
            return _not_known(rail, words, "Set its ends under Room to where they lie.")
    return None


def _held_by_nothing(scene: Scene, rail: RailLine) -> Margin | None:
    """A line for an end in the room of which nothing says what holds it: no wall is there, it lies on no rail, and what
    it may bear is not said either."""
    if scene.walls is None or rail.end_load is not None or not rail.path.startswith("room/"):
        return None
    for at, path in zip((rail.start, rail.end), rail.lies_on, strict=True):
        gap = next((gap for gap, _, _ in feet(scene.walls, at, AT_WALL)), math.inf)
        if path is None and gap > AT_WALL:
            off = f"{Say.of(scene.brief).length(gap)} off the wall" if math.isfinite(gap) else "away from every wall"
            words = f"ends {off}; nothing is said to hold it there."
            find = "Enter under Room what each end carries, of pole, clamp or chain, or the rail that it lies on."
            return _not_known(rail, words, find)
    return None


def _share(rail: RailLine, one: Hangs, at: Vector) -> float:
    """The part of a load that the end at a place bears."""
    far = one.place / rail.span
    return 1 - far if at is rail.start else far


def _on_it(scene: Scene, light: Light, rail: RailLine, gap: float) -> Margin:
    say = Say.of(scene.brief)
    return judge(
        RAIL,
        (light.path, rail.path),
        Estimate(ON_RAIL - gap, ()),
        title=f"Rail under the {light.name}",
        need=gap,
        have=ON_RAIL,
        clear=f"The {light.name} hangs on the {rail.name}.",
        short=f"The {light.name} is clamped to nothing: the {rail.name} is not there.",
        reason=f"The nearest rail is the {rail.name}, {say.length(gap)} off the clamp.",
        placing=PLACED_BOTH if gap > ON_RAIL else 0.0,
    )


def _loads(scene: Scene, rail: RailLine, lights: list[tuple[Light, float]]) -> list[Hangs] | Margin:
    """What hangs on one rail itself, at its places."""
    loads: list[Hangs] = []
    for light, place in lights:
        made = load_of(light, joint_of(scene, light))
        if isinstance(made, Missing):
            return unknown(
                RAIL_LOAD,
                (made.enter, rail.path, light.path),
                made.words,
                "Weigh it, or read it off the data sheet. Until then hang nothing over people.",
                title=f"All that hangs on the {rail.name}",
                subject=rail.path,
            )
        clamp = light.stand.mass.value if light.stand and light.stand.mass else 0.3
        mass = sum(one.mass for one in made) + clamp
        loads.append(Hangs(light.name, mass, place, 0.02 * mass))
    if rail.path.endswith("/background") and scene.hung is not None and scene.hung.mass is not None:
        name = "rolls" if scene.further_rolls else "background"
        loads.append(Hangs(name, scene.hung.mass.value, rail.span / 2, scene.hung.mass.pm))
    return loads


def _load(scene: Scene, rail: RailLine, loads: list[Hangs]) -> Margin:
    say, title = Say.of(scene.brief), f"All that hangs on the {rail.name}"
    whole = sum(one.mass for one in loads)
    ends = _ends(rail, loads)
    words = ", ".join(f"{say.mass(one.mass)} {one.name}" for one in loads)
    reason = f"{words}: {say.mass(whole)} in all; its ends bear {ends[0]:.0f} and {ends[1]:.0f} N."
    if rail.load is None and rail.end_load is None:
        return unknown(
            RAIL_LOAD,
            (rail.path,),
            f"What the {rail.name} carries is not entered.",
            f"{reason} Read it off the data sheet, or ask whoever put it up.",
            title=title,
        )
    worst = max(ends) / GRAVITY
    in_all = rail.load.value - whole if rail.load else math.inf
    at_end = rail.end_load.value - worst if rail.end_load else math.inf
    limit = rail.load if in_all <= at_end else rail.end_load
    assert limit is not None
    shares = (
        Share("load it carries", limit.pm),
        *(Share(f"mass of the {one.name}", one.pm) for one in loads if one.pm),
    )
    return judge(
        RAIL_LOAD,
        (rail.path,),
        Estimate(min(in_all, at_end), shares),
        title=title,
        need=whole if in_all <= at_end else worst,
        have=limit.value,
        clear=f"The {rail.name} carries all that hangs on it.",
        short=f"Together it is too much for the {rail.name}."
        if in_all <= at_end
        else f"Too much hangs near one end of the {rail.name}.",
        reason=reason,
    )


def _own(rail: RailLine) -> tuple[float, float] | None:
    """Mass a metre [kg/m] and stiffness [N m²] of a tube that is described."""
    if rail.diameter is None or rail.thickness is None or rail.material is None:
        return None
    outer, wall = rail.diameter.value, rail.thickness.value
    mass = beams.tube_mass(outer, wall, DENSITY[rail.material])
    return mass, MODULUS[rail.material] * beams.second_moment(outer, wall)


def _ends(rail: RailLine, loads: list[Hangs]) -> tuple[float, float]:
    own = _own(rail) or (0.0, 1.0)
    masses, places = [one.mass for one in loads], [one.place for one in loads]
    return beams.under_loads(masses, places, rail.span, *own)[1:]


def _sag(scene: Scene, rail: RailLine, loads: list[Hangs]) -> Iterable[Margin]:
    own = _own(rail)
    if own is None:
        return
    masses, places = [one.mass for one in loads], [one.place for one in loads]
    down = beams.under_loads(masses, places, rail.span, *own)[0]
    say = Say.of(scene.brief)
    yield judge(
        RAIL_SAG,
        (rail.path,),
        Estimate(SAGS * rail.span - down, (Share("section of the tube", 0.1 * down),)),
        title=f"Sag of the {rail.name}",
        need=down,
        have=SAGS * rail.span,
        clear=f"The {rail.name} stays straight enough.",
        short=f"The {rail.name} bends under what hangs on it.",
        reason=f"It sags {say.fine(down)} over {say.length(rail.span)}.",
    )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """The light onto the nearest rail, or along it to the middle of its span."""
    light = scene.light_at(margin.about[0]) if scene is not None and margin.code == "support.rail" else None
    if scene is None or light is None:
        return
    for rail in rails_of(scene):
        fields = moves_of(light.place, slid_onto(scene, light, rail))
        if fields:
            yield Proposal(f"Slide the {light.name} onto the {rail.name}", SetFields(target=light.path, fields=fields))


RULE = SetRule("rails", margins, (RAIL, RAIL_LOAD, RAIL_SAG), propose, order=0, place_order=0, reads=GEOMETRY)
