"""What stands on the floor in a set: its masses, where they are, and its feet.

Places follow the drawing: a boom lies level at the height of the mount, its stand at the end of it.
"""

import math
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from evrant.core.base.quantity import Figure
from evrant.core.base.tables.supports import (
    BAG_LOW,
    CENTRE_OF_STAND,
    FEETLESS,
    FRICTION,
    GRAVITY,
    PACK_LOW,
    PUSH_HEIGHT,
    SUBJECT_MASSES,
    Demand,
    demand,
    weights_in,
)
from evrant.core.base.units import Units
from evrant.core.mechanics import standing
from evrant.core.mechanics.standing import Array, Stability
from evrant.core.space.booms import boom_out, pivot_of
from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Vector
from evrant.core.studio.gear import Holder, Item, Part, Stand
from evrant.core.studio.room import value
from evrant.core.studio.sets import PropPlace

What = Literal[
    "stand", "boom", "counterweight", "head", "modifier", "joint", "pack", "bag", "camera", "lens", "background", "card"
]
ON_LEG = {"on the leg away from the load": math.pi, "on the leg under the load": 0.0}
SAME_STAND = 0.10
"""Two lights share a stand when their pivots are this near [m]."""
LEG_SHARE, LEG_HEIGHT = 0.5, 0.15
"""A bag on a leg hangs half way out, this high [m]."""


@dataclass(frozen=True)
class Carried:
    """A mass [kg] and the place of its centre [m]."""

    what: What
    name: str
    mass: float
    at: tuple[float, float, float]


@dataclass(frozen=True)
class Missing:
    """A figure without which a support cannot be judged: where to enter it, and the words."""

    enter: str
    words: str


@dataclass(frozen=True, eq=False)
class Standing:
    """Something on feet: its parts, its feet (k, 2) counter-clockwise, and where people push it [m].

    `legs` is the direction of the first leg [radians]; `turned` whether the plan says it, else the worst
    direction counts.
    """

    path: str
    name: str
    item: Stand | Holder
    spot: Vector
    top: float
    carried: tuple[Carried, ...]
    polygon: Array
    legs: float
    turned: bool
    offset: Vector
    alone: float = 1.0
    """Share of its resistance that one push meets: half for a pair joined by a loose crossbar."""

    @property
    def push_height(self) -> float:
        return min(PUSH_HEIGHT, max(self.top, 0.1))

    @property
    def carried_bags(self) -> tuple[Carried, ...]:
        return tuple(one for one in self.carried if one.what == "bag")

    @property
    def masses(self) -> Array:
        return np.array([one.mass for one in self.carried])

    @property
    def places(self) -> Array:
        return np.array([one.at for one in self.carried])

    def stability(self, friction: float) -> Stability:
        whole = standing.stability(self.masses, self.places, self.polygon, np.asarray(self.push_height), friction)
        return replace(whole, push=whole.push * self.alone, slide=whole.slide * self.alone)


def counterweight_of(light: Light) -> float:
    """Mass on the tail of the boom [kg]."""
    if light.place.counterweight is not None:
        return light.place.counterweight
    return (light.stand and value(light.stand.counterweight)) or 0.0


def load_of(light: Light, joint: Part | None) -> tuple[Carried, ...] | Missing:
    """What hangs at the mount: joint, modifier, heads."""
    mount, forward = light.mount, light.forward
    if mount is None or forward is None:
        return Missing(light.path, f"The place of the {light.name} is missing.")
    found, back = [], 1 if light.bounced else -1
    things: list[tuple[What, Item | None, float, int]] = [
        ("joint", joint, 0.0, 1),
        ("modifier", light.modifier, light.depth / 2, 1),
        ("head", light.head, back * ((light.head and value(light.head.length)) or 0.1) / 2, light.place.heads),
    ]
    for what, item, ahead, count in things:
        if item is None:
            continue
        if item.mass is None:
            return Missing(f"gear/{item.id}", f"The mass of the {item.called} is missing.")
        found.append(Carried(what, item.called, item.mass.value * count, _xyz(mount + forward * ahead)))
    return tuple(found)


def shared(scene: Scene, light: Light) -> tuple[Light, ...]:
    """Other lights on the same stand with a bar for two."""
    pivot = pivot_of(light)
    if light.stand is None or light.stand.use != "twin stand" or pivot is None:
        return ()
    found = []
    for other in scene.lights:
        there = pivot_of(other)
        same = other.path != light.path and other.stand is light.stand and there is not None
        if same and there is not None and float(np.linalg.norm((there - pivot)[:2])) < SAME_STAND:
            found.append(other)
    return tuple(found)


def light_standing(light: Light, joint: Part | None, others: tuple[Light, ...] = ()) -> Standing | Missing | None:
    """A light on its stand, with what else that stand carries; None when it has no feet of its own."""
    stand, pivot = light.stand, pivot_of(light)
    if stand is None or stand.use in FEETLESS or pivot is None or (light.head is None and light.modifier is None):
        return None
    load = load_of(light, joint)
    if isinstance(load, Missing):
        return load
    if stand.mass is None:
        return Missing(f"gear/{stand.id}", f"The mass of the {stand.called} is missing.")
    if stand.foot_radius is None:
        return Missing(f"gear/{stand.id}", f"The leg circle of the {stand.called} is missing.")
    if boom_out(light) is not None and stand.use != "twin stand":
        for name, what in (("boom_mass", "mass of the boom"), ("tail", "length behind the pivot")):
            if getattr(stand, name) is None:
                return Missing(f"gear/{stand.id}", f"The {what} of the {stand.called} is missing.")
    carried = [*load, *_boom(light, stand, pivot)]
    for other in others:
        more = load_of(other, None)
        if isinstance(more, Missing):
            return more
        carried += more
    own = stand.mass.value - sum(one.mass for one in carried if one.what == "boom")
    base = (float(pivot[0]), float(pivot[1]))
    carried.append(Carried("stand", stand.called, max(own, 0.0), (*base, CENTRE_OF_STAND * float(pivot[2]))))
    pack = getattr(light.head, "pack", None)
    if isinstance(pack, Figure):
        carried.append(Carried("pack", "power pack", pack.value * light.place.heads, (*base, PACK_LOW)))
    leg = None if light.place.leg is None else math.radians(light.place.leg)
    made = _stood(light.path, light.name, stand, pivot, tuple(carried), stand.foot_radius.value, stand.legs, leg)
    return bagged(made, light.place.bag or 0.0, light.place.bag_at) if light.place.bag else made


def _boom(light: Light, stand: Stand, pivot: Vector) -> Iterator[Carried]:
    """The boom's own mass, and the counterweight on its tail."""
    out = boom_out(light)
    if out is None or light.mount is None:
        return
    way, tail = out[0], value(stand.tail) or 0.0
    if stand.boom_mass is not None:
        yield Carried("boom", "boom", stand.boom_mass.value, _xyz((light.mount + pivot + way * tail) / 2))
    weight = counterweight_of(light)
    if weight:
        yield Carried("counterweight", "counterweight", weight, _xyz(pivot + way * tail))


def _stood(
    path: str,
    name: str,
    item: Stand,
    pivot: Vector,
    carried: tuple[Carried, ...],
    radius: float,
    count: int,
    leg: float | None,
) -> Standing:
    masses, places = np.array([c.mass for c in carried]), np.array([c.at for c in carried])
    _, centre = standing.centre_of_mass(masses, places)
    offset = np.asarray(centre[:2] - pivot[:2])
    first = standing.worst_first(offset, count) if leg is None else leg
    polygon = standing.feet(np.asarray(pivot[:2]), np.asarray(radius), count, first)
    return Standing(path, name, item, pivot[:2], float(pivot[2]), carried, polygon, first, leg is not None, offset)


def bag_place(made: Standing, where: str) -> Vector:
    """Where a bag hangs (3,) [m]."""
    if where in ON_LEG:
        load = math.atan2(made.offset[1], made.offset[0])
        legs = made.polygon - made.spot
        turn = np.arctan2(legs[:, 1], legs[:, 0]) - load - ON_LEG[where]
        leg = legs[int(np.abs((turn + np.pi) % (2 * np.pi) - np.pi).argmin())]
        return np.array([*(made.spot + leg * LEG_SHARE), LEG_HEIGHT])
    return np.array([*made.spot, min(BAG_LOW, made.top / 2)])


def bagged(made: Standing, mass: float, where: str = "low on the column") -> Standing:
    """The same with a bag on it."""
    bag = Carried("bag", f"bag {where}", mass, _xyz(bag_place(made, where)))
    return replace(made, carried=(*made.carried, bag))


def camera_standing(scene: Scene) -> Standing | Missing | None:
    """The camera on its tripod or arm; only where nobody stands behind it, or others could push it."""
    place, eye, axis = scene.plan.camera, scene.eye, scene.axis
    support = scene.gear.get(place.support or "")
    if not isinstance(support, Stand) or eye is None or axis is None or support.use in FEETLESS:
        return None
    if place.operator == "photographer behind it" and not scene.overhead and not (_around(scene) or _animals(scene)):
        return None
    path = f"{scene.path}/camera"
    items: tuple[tuple[What, Item | None], ...] = (("camera", scene.body), ("lens", scene.lens))
    carried = []
    for what, item in items:
        if item is None:
            return Missing(path, f"The {what} is not chosen.")
        if item.mass is None:
            return Missing(f"gear/{item.id}", f"The mass of the {item.called} is missing.")
        carried.append(Carried(what, item.called, item.mass.value, _xyz(eye)))
    if support.mass is None or support.foot_radius is None:
        lacks = "mass" if support.mass is None else "leg circle"
        return Missing(f"gear/{support.id}", f"The {lacks} of the {support.called} is missing.")
    if scene.overhead and support.boom_mass is None:
        return Missing(f"gear/{support.id}", f"The mass of the arm of the {support.called} is missing.")
    foot = scene.camera_foot(support)
    pivot = np.array([*foot, float(eye[2])])
    arm = 0.0
    if scene.overhead and support.boom_mass is not None:
        arm = support.boom_mass.value
        reach = pivot[:2] - eye[:2]
        length = float(np.linalg.norm(reach))
        back = reach / length * (value(support.tail) or 0.0) if length > 0 else np.zeros(2)
        carried.append(Carried("boom", "arm", arm, (*_xy((eye[:2] + pivot[:2] + back) / 2), float(eye[2]))))
        if support.counterweight is not None:
            tail = _xy(pivot[:2] + back)
            carried.append(
                Carried("counterweight", "counterweight", support.counterweight.value, (*tail, float(eye[2])))
            )
    own = max(support.mass.value - arm, 0.0)
    carried.append(Carried("stand", support.called, own, (*_xy(foot), CENTRE_OF_STAND * float(eye[2]))))
    made = _stood(path, "camera", support, pivot, tuple(carried), support.foot_radius.value, support.legs, None)
    return bagged(made, place.bag) if place.bag else made


def background_standing(scene: Scene) -> Standing | Missing | None:
    """A background on two stands: on a slope both stand together; a push meets one alone, for the bar turns on it."""
    holder, backdrop, ends = scene.holder, scene.hung, scene.background_ends
    height = scene.plan.background.height
    if holder is None or holder.system != "two stands and crossbar" or backdrop is None or ends is None or not height:
        return None
    for item, name in ((holder, "mass"), (backdrop, "mass"), (holder, "foot_radius")):
        if getattr(item, name) is None:
            word = "leg circle" if name == "foot_radius" else name
            return Missing(f"gear/{item.id}", f"The {word} of the {item.called} is missing.")
    assert holder.mass and backdrop.mass and holder.foot_radius
    left, right = (np.asarray(end) for end in ends)
    along = (right - left) / max(float(np.linalg.norm(right - left)), 1e-9)
    out = value(holder.overhang) or 0.0
    spots = (left - along * out, right + along * out)
    inner = holder.foot_radius.value * math.cos(math.pi / 3)
    across = np.array([-along[1], along[0]]) * inner
    corners = [spots[0] - along * inner, spots[1] + along * inner]
    polygon = standing.hull(np.array([c + s for c in corners for s in (across, -across)]))
    middle = (left + right) / 2
    carried = [
        Carried("background", backdrop.called, backdrop.mass.value, (*_xy(middle), height)),
        Carried("stand", holder.called, holder.mass.value, (*_xy(middle), CENTRE_OF_STAND * height)),
    ]
    bag = scene.plan.background.bag
    if bag:
        carried += [Carried("bag", "bag on a stand", bag, (*_xy(spot), BAG_LOW)) for spot in spots]
    path = f"{scene.path}/background"
    return Standing(path, "background", holder, middle, height, tuple(carried), polygon, 0.0, True, np.zeros(2), 0.5)


def card_standing(scene: Scene, place: PropPlace) -> Standing | Missing | None:
    """A card on the stand that holds it; None of one that nothing with feet holds."""
    held, item = scene.card_mount(place), scene.gear.get(place.item or "")
    if held is None or item is None or held[0].use in FEETLESS:
        return None
    stand, mount = held
    for one in (item, stand):
        if one.mass is None:
            return Missing(f"gear/{one.id}", f"The mass of the {one.called} is missing.")
    if stand.foot_radius is None:
        return Missing(f"gear/{stand.id}", f"The leg circle of the {stand.called} is missing.")
    assert item.mass and stand.mass
    carried = (
        Carried("card", item.called, item.mass.value, (place.x or 0.0, place.y or 0.0, float(mount[2]))),
        Carried("stand", stand.called, stand.mass.value, (*_xy(mount), CENTRE_OF_STAND * float(mount[2]))),
    )
    path = f"{scene.path}/props/{place.id}"
    made = _stood(path, item.called, stand, mount, carried, stand.foot_radius.value, stand.legs, None)
    return bagged(made, place.bag) if place.bag else made


def joint_of(scene: Scene, light: Light) -> Part | None:
    """The part between stand and head."""
    item = scene.gear.get(light.place.joint or "")
    return item if isinstance(item, Part) else None


def all_standing(scene: Scene) -> Iterator[tuple[str, Standing | Missing]]:
    """(path, how it stands) of everything in the set that stands on feet."""
    for light in scene.lights:
        made = light_standing(light, joint_of(scene, light), shared(scene, light))
        if made is not None:
            yield light.path, made
    for path, other in ((f"{scene.path}/camera", camera_standing), (f"{scene.path}/background", background_standing)):
        made = other(scene)
        if made is not None:
            yield path, made
    for place in scene.plan.props:
        made = card_standing(scene, place)
        if made is not None:
            yield f"{scene.path}/props/{place.id}", made


def _around(scene: Scene) -> list[str]:
    """Who else is about: animals, children, visitors."""
    brief = scene.brief
    about = {"animals": brief.animals, "children": brief.children, "public": brief.public}
    return [who for who, there in about.items() if there]


def _animals(scene: Scene) -> list[float]:
    """The masses of the animals in the picture [kg]."""
    shown = (one for one in scene.shot.subjects if one.kind in ("cat", "dog"))
    return [one.mass.value if one.mass else sum(SUBJECT_MASSES[one.kind]) for one in shown]


ON_TOP = ("head", "modifier", "joint", "camera", "lens", "background", "card", "boom", "counterweight")


def falls(made: Standing) -> float:
    """Energy with which what is on top would land [J]."""
    return sum(one.mass * GRAVITY * max(one.at[2], 0.0) for one in made.carried if one.what in ON_TOP)


def demand_of(scene: Scene, made: Standing) -> Demand:
    """What a support must bear here: by who is about, the floor, what would fall and the caution chosen."""
    reasons = _around(scene)
    if isinstance(made.item, Stand) and made.item.castors:
        reasons.append("castors")
    if scene.room.floor == "carpet":
        reasons.append("carpet")
    animals = [] if "animals" in reasons else _animals(scene)
    return demand(reasons, animals).scaled(falls(made), scene.brief.caution)


def friction_of(scene: Scene) -> float:
    """Rubber feet on this floor; the least of all floors when it is not said."""
    return FRICTION.get(scene.room.floor or "", min(FRICTION.values()))


def bag_for(made: Standing, want: Demand, units: Units, where: str = "low on the column", spare: float = 0.0) -> float:
    """Bag that makes it bear what it must with `spare` more of it [kg], of the sizes they come in where things are told
    in such units; infinite where none does."""
    needed = standing.bag_needed(
        made.masses,
        made.places,
        made.polygon,
        bag_place(made, where),
        made.push_height,
        want.angle * (1 + spare),
        want.push * (1 + spare) / made.alone,
    )
    return next((size for size in (0.0, *weights_in(units)) if size >= needed - 1e-9), math.inf)


def leg_under_load(made: Standing) -> float:
    """Direction that puts a leg under the load [degrees]."""
    return math.degrees(standing.best_first(made.offset))


def figures_of(items: Iterable[Item | None], names: Iterable[str]) -> Iterator[tuple[Item, str, Figure]]:
    """Figures of some gear that are unsure: (item, field, figure)."""
    wanted = tuple(names)
    for item in {item.id: item for item in items if item is not None}.values():
        for name in wanted:
            figure = getattr(item, name, None)
            if isinstance(figure, Figure) and figure.pm > 0:
                yield item, name, figure


def _xy(point: Vector) -> tuple[float, float]:
    return float(point[0]), float(point[1])


def _xyz(point: Vector) -> tuple[float, float, float]:
    return float(point[0]), float(point[1]), float(point[2])


OVER = 0.6
"""A thing this near to a person's place on the plan hangs over people [m]; project choice."""


def over_people(scene: Scene, spot: Vector) -> bool:
    """Whether something there would fall on somebody."""
    places = [thing.cloud[:, :2] for thing in scene.things if thing.kind in ("subject", "operator", "person")]
    return any(float(np.linalg.norm(cloud - spot[:2], axis=1).min()) < OVER for cloud in places)
