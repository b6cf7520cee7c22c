"""Do supports of lights that hang, press or are screwed on hold? Codes support.hook, support.fixing, support.twist,
support.pole, support.ceiling."""

import math
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import partial

import numpy as np

from evrant.core.base.estimate import Estimate, Share, estimate
from evrant.core.base.margins import Basis, Line, Margin, judge, unknown
from evrant.core.base.quantity import Figure
from evrant.core.base.tables.holders import SCREWS_ALLOWED
from evrant.core.base.tables.supports import (
    CAUTIOUS_FIXING,
    CEILING_PRESS,
    FIXED,
    FIXING_FACTOR,
    GRAVITY,
    GRIP_FACTOR,
    OVERHEAD_FACTOR,
    WALL_FRICTION,
)
from evrant.core.base.units import show_number
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import GEOMETRY, Proposal, SetRule
from evrant.core.judge.rules.support.support import other_supports
from evrant.core.mechanics.beams import fixing_load
from evrant.core.mechanics.supports import Carried, Missing, joint_of, load_of, over_people
from evrant.core.space.booms import boom_out
from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene
from evrant.core.space.shares import gear_shares, picture_shares
from evrant.core.studio.gear import Holder, Item, Stand
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say

HOOK = Line(
    "support.hook",
    "What holds the …",
    "kg",
    Basis(
        "mass hung × factor (screwed hooks 2, anything over people 4, adhesive hooks by their stated rating) ≤ rating",
        "Maker's rating as entered; factors are a project choice",
        "project choice",
    ),
    asks="Does the hook or clip hold what hangs from it, twice, over people four times?",
    step="support",
    safety=True,
    fails=True,
    hazards=("Tipping and falling", "Load overhead"),
    mark="hook",
)
FIXING = Line(
    "support.fixing",
    "Fixings of the …",
    "kg",
    Basis(
        "(M/n + M·e/h) × factor (2, over people 4) ≤ rating of each fixing: its share of the weight "
        "and of the pull by the "
        "lever e on the plate height h",
        "Moments, any engineering handbook; plate height by its data sheet, 15 cm where it is silent (common "
        "practice); factors are a project choice; the rating as "
        "entered, and a builder decides what the wall bears",
        "project choice",
    ),
    asks="Do the screws in wall or ceiling hold weight and pull?",
    step="support",
    safety=True,
    fails=True,
    hazards=("Tipping and falling", "Load overhead"),
    mark="fixings",
)
HOLES = Line(
    "support.holes",
    "Screw holes for the …",
    "holes",
    Basis(
        "screws into the building ≤ what the tenancy bears (owned: any; small holes allowed: four; else none)",
        "Project choice; ask the landlord and the contract",
        "project choice",
    ),
    asks="Does the tenancy bear the holes of a light's bracket?",
    step="support",
    fails=True,
)
PLATE = 0.15
"""Height between the upper and the lower screws of a bracket whose data sheet is silent [m]; common practice, no
source."""


def screws_of(item: Stand | Holder, usual: int) -> tuple[int, int, float]:
    """Screws of a bracket, how many of them are upper ones, and what lies between upper and lower ones [m]."""
    count = item.screws or usual
    return count, max(count // 2, 1), item.plate.value if item.plate else PLATE


TWIST = Line(
    "support.twist",
    "Turning of the rail of the …",
    "N·m",
    Basis(
        "mass × g × distance beside the rail ≤ what the clamp holds against turning / 2; a screw "
        "through the rail holds",
        "Statics, any engineering handbook; the factor is a project choice",
        "project choice",
    ),
    asks="Does a head beside a round rail turn it?",
    step="support",
    safety=True,
    fails=True,
    hazards=("Tipping and falling", "Load overhead"),
    mark="turning",
)
POLE_BASIS = Basis(
    "mass × g × arm / height ≤ μ × pressing force / 2, and pressing force ≤ what the ceiling bears",
    "Statics and friction, any engineering handbook; μ 0.3 from memory, factor 2 is a project choice",
    "project choice",
)
POLE = Line(
    "support.pole",
    "Pole of the …",
    "N",
    POLE_BASIS,
    asks="Does a pole between floor and ceiling stay where it is pressed?",
    step="support",
    safety=True,
    fails=True,
    hazards=("Tipping and falling", "Load overhead"),
    mark="pole",
)
CEILING = Line(
    "support.ceiling",
    "Ceiling under the pole",
    "N",
    POLE_BASIS,
    asks="Does the ceiling bear a pole from below?",
    step="support",
    safety=True,
    fails=True,
    hazards=("Tipping and falling", "Load overhead"),
    mark="ceiling",
)
Load = tuple[Carried, ...] | Missing


def margins(scene: Scene) -> Iterable[Margin]:
    """Every line about supports of lights that hang, are screwed on, or press."""
    for light in scene.lights:
        stand = light.stand
        if stand is None or (light.head is None and light.modifier is None):
            continue
        load = load_of(light, joint_of(scene, light))
        match stand.use:
            case "hook" | "adhesive hook" | "door clip":
                yield from _hook(scene, light, stand, load)
            case "wall boom" | "wall bracket" | "ceiling bracket":
                yield from _fixing(scene, light, stand, load)
            case "rail or crossbar":
                yield from _twist(scene, light, stand, load)
            case "floor-to-ceiling pole":
                yield from _pole(scene, light, stand, load)


def factor_of(scene: Scene, light: Light, stand: Stand) -> float:
    """Factor on the rating of what holds a light up."""
    if light.mount is not None and over_people(scene, light.mount):
        return OVERHEAD_FACTOR
    return 1.0 if stand.use == "adhesive hook" else FIXING_FACTOR


def _masses(scene: Scene, light: Light) -> dict[str, Figure | float]:
    """Masses of what a light hangs with, as they go into an estimate."""
    found: dict[str, Figure | float] = {}
    for what, item in (("head", light.head), ("modifier", light.modifier), ("joint", joint_of(scene, light))):
        if item is not None and item.mass is not None:
            found[f"mass_of_the_{what}"] = item.mass
    return found


def _sum(heads: int, masses: dict[str, float]) -> float:
    return sum(m * (heads if name == "mass_of_the_head" else 1) for name, m in masses.items())


def _hook(scene: Scene, light: Light, stand: Stand, load: Load) -> Iterable[Margin]:
    title, about = f"What holds the {light.name}", (light.path,)
    say = Say.of(scene.brief)
    if isinstance(load, Missing) or stand.load is None or stand.load.value <= 0:
        enter = load.enter if isinstance(load, Missing) else f"gear/{stand.id}"
        words = load.words if isinstance(load, Missing) else f"What the {stand.called} is rated for is missing."
        find = "Look at the packet. Until then hang nothing from it."
        yield unknown(
            HOOK,
            (enter, light.path),
            words,
            find,
            title=title,
        )
        return
    factor, heads = factor_of(scene, light, stand), light.place.heads
    masses = _masses(scene, light)
    spare = estimate(lambda rating, **m: rating - factor * _sum(heads, m), rating=stand.load, **masses)
    whole = (stand.load.value - spare.value) / factor
    why = "it hangs over people" if factor == OVERHEAD_FACTOR else "usual reserve"
    times = f" × {factor:.0f} ({why})" if factor > 1 else ""
    yield judge(
        HOOK,
        about,
        spare,
        title=title,
        need=whole * factor,
        have=stand.load.value,
        clear=f"The {stand.called} holds the {light.name}.",
        short=f"The {light.name} is too heavy for the {stand.called}.",
        reason=f"{say.mass(whole)} hang from it{times}; it is rated for {say.mass(stand.load.value)}.",
        at=_at(light),
    )


def _at(light: Light) -> tuple[float, float, float] | None:
    return None if light.mount is None else (float(light.mount[0]), float(light.mount[1]), float(light.mount[2]))


def fixed_to(scene: Scene, light: Light, stand: Stand) -> tuple[str, str | None]:
    """What a bracket is screwed to, and what that is made of."""
    if stand.use == "ceiling bracket":
        return "ceiling", scene.room.ceiling_made
    if scene.walls is None or light.mount is None:
        return "wall", None
    out = boom_out(light)
    spot = light.mount if out is None else light.mount + out[0] * out[1]
    near = [float(abs((spot[:2] - scene.walls.wall(i)[0]) @ scene.walls.inward(i))) for i in range(scene.walls.count)]
    wall = scene.room.edges(scene.walls.count)[int(np.argmin(near))]
    return wall.name, wall.construction


@dataclass(frozen=True)
class Fixings:
    """What is screwed to the building: where, into what, by how many, of them how many above, with what factor and
    rating of each; `pull` is what the one that bears most must hold in a scene [kg], `items` what that goes with."""

    path: str
    title: str
    called: str
    where: str
    made: str | None
    count: int
    factor: float
    each: Figure | None
    pull: Callable[[Scene], float | None]
    items: tuple[Item | None, ...]


def _fixing(scene: Scene, light: Light, stand: Stand, load: Load) -> Iterable[Margin]:
    title = f"Fixings of the {light.name}"
    where, made = fixed_to(scene, light, stand)
    yield from _screw_holes(scene, light, stand, where)
    if isinstance(load, Missing) or stand.mass is None:
        enter = load.enter if isinstance(load, Missing) else f"gear/{stand.id}"
        words = load.words if isinstance(load, Missing) else f"The mass of the {stand.called} is missing."
        yield unknown(
            FIXING,
            (enter, light.path),
            words,
            "Weigh it.",
            title=title,
        )
        return
    items = (light.head, light.modifier, joint_of(scene, light), stand)
    factor, each = factor_of(scene, light, stand), light.place.fixing_load
    pull = partial(_pull, path=light.path)
    yield from screwed(
        scene,
        Fixings(light.path, title, stand.called, where, made, _count(stand), factor, each, pull, items),
    )


def _pull(scene: Scene, path: str) -> float | None:
    """What the fixing of a light's bracket that bears most must hold [kg]."""
    light = scene.light_at(path)
    if light is None or light.stand is None or light.stand.mass is None:
        return None
    load, torque = load_of(light, joint_of(scene, light)), _twisting(scene, path)
    if isinstance(load, Missing) or torque is None:
        return None
    out = boom_out(light)
    hung, own = sum(c.mass for c in load), light.stand.mass.value
    lever = torque / GRAVITY + own * (out[1] / 2 if out is not None else 0.0)
    mass = hung + own
    count, upper, plate = screws_of(light.stand, FIXED[light.stand.use])
    return fixing_load(mass, count, lever / mass, plate, upper)


def _count(stand: Stand) -> int:
    return screws_of(stand, FIXED[stand.use])[0]


def _screw_holes(scene: Scene, light: Light, stand: Stand, where: str) -> Iterable[Margin]:
    """Screws into the building against what the tenancy bears."""
    title, tenure, need = f"Screw holes for the {light.name}", scene.brief.tenure, _count(stand)
    if tenure is None:
        words, find = f"Whether the {where.lower()} may be drilled is not said.", "Ask whoever owns the building."
        yield unknown(
            HOLES,
            ("brief", light.path),
            words,
            find,
            title=title,
            subject=light.path,
        )
        return
    allowed = SCREWS_ALLOWED[tenure]
    yield judge(
        HOLES,
        (light.path, "brief"),
        Estimate(float(allowed - need)),
        title=title,
        need=float(need),
        have=float(allowed),
        clear=f"The {where.lower()} may be drilled for the {stand.called}.",
        short=f"The {where.lower()} may not be drilled for the {stand.called}.",
        reason=f"It takes {need} screws; the tenancy is: {tenure}.",
    )


def screwed(scene: Scene, made: Fixings) -> Iterable[Margin]:
    """Fixings into a wall or ceiling, by their rating or, lacking one, Unknown with the cautious value."""
    say = Say.of(scene.brief)
    pull = made.pull(scene)
    if pull is None:
        return
    need, where = pull * made.factor, made.where.lower()
    bearing = CAUTIOUS_FIXING.get(made.made or "", 0.0)
    if made.made in ("glass", "suspended board"):
        rating = Figure(0.0, 0.0, "maker")
    elif made.each is None or made.each.value <= 0:
        cautious = "hang nothing until it is known"
        if bearing:
            cautious = f"an ordinary fixing there holds about {say.mass(bearing)}"
        what = f"How much each fixing in the {where} holds is not said."
        if made.made is None:
            what = f"What the {where} is made of, and what each fixing in it holds, is not said."
        find = (
            f"The one that bears most must hold {say.mass(need)} (with factor {made.factor:.0f}). Read its rating for "
            f"that wall; cautiously, {cautious}. Ask a builder."
        )
        yield unknown(
            FIXING,
            (made.path,),
            what,
            find,
            title=made.title,
        )
        return
    else:
        rating = made.each
    moves = (
        *gear_shares(scene, made.items, ("mass", "length", "depth", "reach", "off_wall", "plate"), made.pull),
        *picture_shares(scene, made.pull),
    )
    shares = [Share(one.label, one.amount * made.factor) for one in moves]
    if rating.pm > 0:
        shares.append(Share("rating of the fixings", rating.pm))
    short = f"The fixings do not hold the {made.called}."
    if rating.value == 0:
        short = f"Nothing that hangs holds in {made.made}."
    yield judge(
        FIXING,
        (made.path,),
        Estimate(rating.value - need, tuple(shares)),
        title=made.title,
        need=need,
        have=rating.value,
        clear=f"The fixings hold the {made.called}.",
        short=short,
        reason=f"Weight and pull on the one of {made.count} that bears most: {say.mass(pull)} × {made.factor:.0f}; "
        f"each is rated for {say.mass(rating.value)} in the {where}{f' ({made.made})' if made.made else ''}.",
    )


def _twist(scene: Scene, light: Light, stand: Stand, load: Load) -> Iterable[Margin]:
    """A head beside a round rail turns it."""
    title, about = f"Turning of the rail of the {light.name}", (light.path,)
    if isinstance(load, Missing) or (stand.grip is None and not stand.through_screw):
        enter = load.enter if isinstance(load, Missing) else f"gear/{stand.id}"
        words = load.words if isinstance(load, Missing) else f"What the clamp of the {stand.called} holds is missing."
        find = "Read it off the data sheet, or use a clamp with a screw through the rail or a second clamp."
        yield unknown(
            TWIST,
            (enter, light.path),
            words,
            find,
            title=title,
        )
        return
    value_of = partial(_twisting, path=light.path)
    torque = value_of(scene)
    if torque is None:
        return
    if stand.through_screw:
        have = max(2 * torque, 1.0)
        words = "A screw through the rail holds it."
    else:
        assert stand.grip is not None
        have = stand.grip.value / GRIP_FACTOR
        words = f"The clamp holds {show_number(stand.grip.value, 1)} N·m, half of it counted."
    items = (light.head, light.modifier, joint_of(scene, light), stand)
    shares = list(gear_shares(scene, items, ("mass", "length", "depth", "reach"), value_of))
    shares += picture_shares(scene, value_of)
    if stand.grip is not None and not stand.through_screw:
        shares.append(Share("holding torque", stand.grip.pm / GRIP_FACTOR))
    yield judge(
        TWIST,
        about,
        Estimate(have - torque, tuple(shares)),
        title=title,
        need=torque,
        have=have,
        clear=f"The rail does not turn under the {light.name}.",
        short=f"The {light.name} turns its rail.",
        reason=f"It hangs beside the rail and turns it with {show_number(torque, 1)} N·m. {words}",
        at=_at(light),
    )


def _twisting(scene: Scene, path: str) -> float | None:
    """Torque of what hangs about the rail through the end of its arm [N m], by places in the plan."""
    light = scene.light_at(path)
    if light is None or light.mount is None:
        return None
    load = load_of(light, joint_of(scene, light))
    if isinstance(load, Missing):
        return None
    out = boom_out(light)
    axis = light.mount if out is None else light.mount + out[0] * out[1]
    moment = sum((np.array([*c.at[:2]]) - axis[:2]) * c.mass for c in load)
    return float(np.linalg.norm(moment)) * GRAVITY


def _pole(scene: Scene, light: Light, stand: Stand, load: Load) -> Iterable[Margin]:
    """A pole pressed between floor and ceiling, with a light on an arm."""
    title, about = f"Pole of the {light.name}", (light.path,)
    height = scene.room.height
    if isinstance(load, Missing) or stand.press is None or height is None:
        enter = load.enter if isinstance(load, Missing) else f"gear/{stand.id}" if stand.press is None else "room"
        words = (
            load.words
            if isinstance(load, Missing)
            else f"How hard the {stand.called} presses is missing."
            if stand.press is None
            else "The ceiling height is missing."
        )
        find = "Read it off the data sheet. Until then tie the pole at the top."
        yield unknown(
            POLE,
            (enter, light.path),
            words,
            find,
            title=title,
        )
        return
    value_of = partial(_twisting, path=light.path)
    torque = value_of(scene)
    if torque is None:
        return
    items = (light.head, light.modifier, joint_of(scene, light), stand)
    shares = [
        Share(s.label, s.amount / height.value)
        for s in (
            *gear_shares(scene, items, ("mass", "length", "depth", "reach"), value_of),
            *picture_shares(scene, value_of),
        )
    ]
    need = torque / height.value
    have = WALL_FRICTION * stand.press.value / GRIP_FACTOR
    shares += [
        Share("pressing force", WALL_FRICTION * stand.press.pm / GRIP_FACTOR),
        Share("ceiling height", need / height.value * height.pm),
    ]
    yield judge(
        POLE,
        about,
        Estimate(have - need, tuple(shares)),
        title=title,
        need=need,
        have=have,
        clear=f"The pole of the {light.name} does not slip.",
        short=f"The {light.name} pulls its pole over.",
        reason=f"The light pulls sideways with {show_number(need, 0)} N at either end; pressed with "
        f"{show_number(stand.press.value, 0)} N it holds {show_number(have, 0)} N with reserve.",
        at=_at(light),
    )
    yield from pressed_ceiling(scene, light.path, stand.press, f"the {stand.called}")


def pressed_ceiling(scene: Scene, path: str, press: Figure, what: str) -> Iterable[Margin]:
    """What a pole presses against the ceiling with, and what that bears."""
    title, room = "Ceiling under the pole", scene.room
    usual = CEILING_PRESS.get(room.ceiling_made or "")
    bears = room.ceiling_takes or (Figure(0.0, 0.0, "guess") if usual == 0 else None)
    if bears is None:
        words = "What the ceiling bears from below is not said."
        known = (
            f" A ceiling of {room.ceiling_made} cautiously bears {usual:.0f} N on a hand-sized pad." if usual else ""
        )
        find = (
            f"{show_number(press.value, 0)} N press against it.{known} Put the pole under a joist and a board over it; "
            "ask a builder."
        )
        yield unknown(
            CEILING,
            ("room", path),
            words,
            find,
            title=title,
            subject=path,
        )
        return
    yield judge(
        CEILING,
        (path, "room"),
        estimate(lambda ceiling_bears, pressing: ceiling_bears - pressing, ceiling_bears=bears, pressing=press),
        title=title,
        need=press.value,
        have=bears.value,
        clear="The ceiling bears the pole.",
        short=f"The ceiling does not bear {what}.",
        reason=f"It is pressed up with {show_number(press.value, 0)} N and bears {show_number(bears.value, 0)} N.",
    )


def other_holders(studio: Studio, scene: Scene, path: str) -> Iterable[Proposal]:
    """Holders of the kit in place of the background's own."""
    for item in studio.gear:
        if isinstance(item, Holder) and item.id != scene.plan.background.holder:
            yield Proposal(f"Use the {item.called}", SetFields(target=path, fields={"holder": item.id}))


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Other supports; the light nearer to its rail."""
    if scene is None:
        return
    path = margin.about[0]
    light = scene.light_at(path)
    if light is None:
        yield from other_holders(studio, scene, path)
        return
    if margin.code in ("support.twist", "support.pole") and light.place.boom_length and margin.need and margin.have:
        arm = math.floor(light.place.boom_length * margin.have / margin.need * 90) / 100
        if arm > 0.1:
            words = Say.of(scene.brief).length(arm)
            yield Proposal(f"Draw the arm in to {words}", SetFields(target=path, fields={"boom_length": arm}))
    yield from other_supports(studio, light, ("tripod", "copy arm"))


RULE = SetRule(
    "mounting",
    margins,
    (
        HOOK,
        FIXING,
        HOLES,
        TWIST,
        POLE,
        CEILING,
    ),
    propose,
    reads=GEOMETRY,
)
