"""One set as things in space: what every rule and every drawing starts from.

A scene resolves a set's references to gear, places the lens, the lights and the background, and
builds each thing's true volume. Whatever is missing stays None; nothing is guessed.
"""

import math
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property, partial
from typing import Any, TypeVar

import numpy as np

from evrant.core.base.memo import Memo, is_plain
from evrant.core.base.noting import Noted, Path, Reader, Reads, Shelf
from evrant.core.base.quantity import Figure
from evrant.core.space import figures, volumes
from evrant.core.space.ceiling import Ceiling, ceiling_of
from evrant.core.space.footprint import Plan, first_wall, plan_of
from evrant.core.space.framing import View, subject_distance
from evrant.core.space.solids import (
    Points,
    Vector,
    unit,
)
from evrant.core.space.stands import column_of, stand_of
from evrant.core.space.stature import USUAL
from evrant.core.space.things import (
    Part,
    Thing,
    box_thing,
    door_swing,
    keep_free,
    open_leaf,
    zone_thing,
)
from evrant.core.space.wanted import OVERHEAD, Wanted, wanted
from evrant.core.studio.brief import Brief
from evrant.core.studio.gear import (
    Backdrop,
    Board,
    Camera,
    Flash,
    Holder,
    Item,
    Lamp,
    Lens,
    Microphone,
    Modifier,
    Stand,
    Table,
    Tent,
)
from evrant.core.studio.room import Box, Door, Room, value
from evrant.core.studio.sets import LightPlace, Person, PropPlace, SetPlan, used_by
from evrant.core.studio.shots import Shot
from evrant.core.studio.studio import Studio, by_id

K = TypeVar("K")
P = TypeVar("P")
Things = Iterable[Thing | None]
_BESIDE: Memo[Thing] = Memo(4_000_000, lambda thing: 600 + 60 * len(thing.cloud))
_ROOM: Memo[tuple[Thing, ...]] = Memo(4_000_000, lambda things: 1200)
_THINGS: Noted[tuple[Thing, ...]] = Noted(Memo(64_000_000, lambda things: 600 + sum(60 * len(t.cloud) for t in things)))


BEFORE_UMBRELLA = 0.12
"""A head stands so far before the rim of an umbrella it fires into, as a share of its width: lit to the rim by a beam
of 100°; from memory."""


@dataclass(frozen=True, eq=False)
class Light:
    """A light with its gear resolved and its geometry."""

    place: LightPlace
    path: str
    name: str
    head: Flash | Lamp | None
    modifier: Modifier | None
    stand: Stand | None
    at: Vector | None
    forward: Vector | None
    column: Stand | None = None
    """The stand under a boom arm; `stand` is then both as one."""

    @property
    def bounced(self) -> bool:
        """Whether the head looks back into an umbrella that throws its light ahead."""
        umbrella = self.modifier.umbrella if self.modifier else None
        return umbrella is not None and umbrella != "shoot-through"

    @property
    def depth(self) -> float:
        """Face back to mount [m]; less than nothing where the head stands before the umbrella it fires into."""
        if self.bounced and self.modifier is not None and self.modifier.width is not None:
            return -BEFORE_UMBRELLA * self.modifier.width.value
        return (self.modifier and value(self.modifier.depth)) or 0.0

    @property
    def mount(self) -> Vector | None:
        """Where the stand meets the light."""
        if self.at is None or self.forward is None:
            return None
        return self.at - self.forward * self.depth

    @property
    def face(self) -> tuple[float, float | None] | None:
        """Width and height of the luminous face; the height is None when it is round."""
        if self.modifier and self.modifier.width:
            return self.modifier.width.value, value(self.modifier.height)
        if self.modifier is None and isinstance(self.head, Lamp) and self.head.width:
            return self.head.width.value, value(self.head.height) or self.head.width.value
        if self.modifier is None and self.head and self.head.diameter:
            return self.head.diameter.value, None
        return None


SHAPED_BY_NO_GEAR = (
    "walls",
    "wanted",
    "mark",
    "camera_spot",
    "axis",
    "facing",
    "boxes",
    "ceiling",
    "bare_wall",
    "lens_height",
    "eye",
    "aim",
    "line",
    "face",
)
SHAPED_BY_NO_LIGHT = (
    "body",
    "lens",
    "focal",
    "sensor",
    "framing_distance",
    "distance",
    "view",
    "backdrop",
    "hung",
    "holder",
    "_bodies",
    "_before",
)
"""What a scene finds of itself that stays when only lights, cards and their gear are others."""


@dataclass(frozen=True, eq=False)
class Scene:
    """A set resolved against room, shot and gear."""

    room: Room
    brief: Brief
    shot: Shot
    plan: SetPlan
    gear: dict[str, Item] = field(repr=False)
    beside: tuple["Scene", ...] = field(default=(), repr=False)
    """Other sets that stand in the room at the same time, each by itself."""

    @property
    def path(self) -> str:
        return f"sets/{self.plan.id}"

    @property
    def parts_beside(self) -> tuple[object, ...]:
        """All that shapes the sets beside: what a memory of something that reads them is kept by."""
        return tuple(
            part
            for other in self.beside
            for part in (other.plan, other.shot, *(self.gear.get(key) for key in used_by(other.plan)))
        )

    @cached_property
    def unlit(self) -> "Scene":
        """The set without its lights and people: for what these cannot change."""
        return replace(self, plan=self.plan.changed(lights=(), people=()))

    @cached_property
    def walls(self) -> Plan | None:
        return plan_of(self.room)

    @cached_property
    def ceiling(self) -> Ceiling | None:
        return ceiling_of(self.room)

    @cached_property
    def boxes(self) -> tuple[Box, ...]:
        """Furniture where it is while this set stands."""
        aside = {move.box: move for move in self.plan.aside}
        found = []
        for box in self.room.boxes:
            move = aside.get(box.id)
            if move is None:
                found.append(box)
            elif move.x is not None and move.y is not None:
                found.append(box.changed(x=_put(move.x), y=_put(move.y)))
        return tuple(found)

    @property
    def overhead(self) -> bool:
        """Whether the camera hangs over its subject."""
        return self.shot.angle >= OVERHEAD

    @cached_property
    def wanted(self) -> Wanted | None:
        return wanted(self.shot)

    @cached_property
    def mark(self) -> Vector | None:
        return _point(self.plan.mark.x, self.plan.mark.y)

    @cached_property
    def camera_spot(self) -> Vector | None:
        return _point(self.plan.camera.x, self.plan.camera.y)

    @cached_property
    def axis(self) -> Vector | None:
        """Unit plan direction from the mark to the camera (from background to mark failing that).

        For a camera overhead: towards the lower edge of its picture, where the subject faces.
        """
        if self.overhead and self.plan.mark.facing is not None:
            angle = math.radians(self.plan.mark.facing)
            return np.array([math.cos(angle), math.sin(angle)])
        if self.mark is not None and self.camera_spot is not None and not self.overhead:
            way = self.camera_spot - self.mark
            if np.linalg.norm(way) > 0.02:
                return unit(way)
        line = _point(self.plan.background.x, self.plan.background.y)
        if self.mark is not None and line is not None and np.linalg.norm(self.mark - line) > 0.02:
            return unit(self.mark - line)
        if self.bare_wall is not None and self.walls is not None:
            return self.walls.inward(self.bare_wall)
        return np.array([1.0, 0.0]) if self.overhead and self.mark is not None else None

    @cached_property
    def facing(self) -> float:
        """Plan angle the subject is turned to [degrees]."""
        if self.plan.mark.facing is not None:
            return self.plan.mark.facing
        return math.degrees(math.atan2(self.axis[1], self.axis[0])) if self.axis is not None else 0.0

    @cached_property
    def body(self) -> Camera | None:
        return _kind(self.gear.get(self.plan.camera.body or ""), Camera)

    @cached_property
    def lens(self) -> Lens | None:
        return _kind(self.gear.get(self.plan.camera.lens or ""), Lens)

    @cached_property
    def focal(self) -> Figure | None:
        if self.plan.camera.focal is not None:
            return self.plan.camera.focal
        return self.lens.focal if self.lens else None

    @cached_property
    def sensor(self) -> tuple[Figure, Figure] | None:
        """Sensor sides across and upward as the camera is held, of the part that is kept."""
        if not self.body or not self.body.sensor_width or not self.body.sensor_height:
            return None
        kept = self.shot.kept
        long, short = self.body.sensor_width.times(kept), self.body.sensor_height.times(kept)
        return (short, long) if self.shot.orientation == "portrait" else (long, short)

    @cached_property
    def lens_height(self) -> float | None:
        """As placed; else level with the middle of the frame, or as high as the shot's angle asks."""
        if self.plan.camera.height is not None:
            return self.plan.camera.height
        if self.wanted is None or not self.shot.angle:
            return self.wanted.middle if self.wanted else None
        if self.overhead:
            far = self.framing_distance
            return None if far is None else self.wanted.middle + far * math.sin(math.radians(self.shot.angle))
        if self.mark is None or self.camera_spot is None:
            return None
        level = float(np.linalg.norm(self.camera_spot - self.mark))
        return max(self.wanted.middle + level * math.tan(math.radians(self.shot.angle)), 0.05)

    @cached_property
    def framing_distance(self) -> float | None:
        """Lens to the middle of the frame so that height and width both fit [m]."""
        if self.wanted is None or self.sensor is None or self.focal is None:
            return None
        across, up = (side.value for side in self.sensor)
        return max(
            subject_distance(self.focal.value, up, self.wanted.height.value),
            subject_distance(self.focal.value, across, self.wanted.width),
        )

    @cached_property
    def eye(self) -> Vector | None:
        """The perspective centre."""
        if self.camera_spot is None or self.lens_height is None:
            return None
        return np.array([*self.camera_spot, self.lens_height])

    @cached_property
    def aim(self) -> Vector | None:
        """The middle of the frame, abreast of the mark."""
        if self.mark is None or self.wanted is None:
            return None
        angle = math.radians(self.facing)
        ahead, left = np.array([math.cos(angle), math.sin(angle)]), np.array([-math.sin(angle), math.cos(angle)])
        spot = self.mark + self.wanted.across * left + self.wanted.ahead * ahead
        return np.array([*spot, self.wanted.middle])

    @cached_property
    def distance(self) -> float | None:
        """Lens to the middle of the frame [m]."""
        if self.eye is None or self.aim is None:
            return None
        return float(np.linalg.norm(self.aim - self.eye))

    @property
    def magnification(self) -> float:
        """Size of the picture on the sensor over the thing's, where lens and distance are known; else 0."""
        if self.focal is None or not self.distance or self.distance < self.focal.value * 1.05:
            return 0.0
        return self.focal.value / (self.distance - self.focal.value)

    @cached_property
    def view(self) -> View | None:
        """The camera's picture."""
        if self.eye is None or self.aim is None or self.focal is None or self.sensor is None:
            return None
        if not self.distance or self.distance < self.focal.value * 1.05:
            return None
        across, up = self.sensor
        level = None if self.axis is None else -self.axis
        return View.aimed(self.eye, self.aim, self.focal.value, across.value, up.value, level)

    @cached_property
    def backdrop(self) -> Backdrop | None:
        return _kind(self.gear.get(self.plan.background.backdrop or ""), Backdrop)

    @property
    def further_rolls(self) -> int:
        """Rolls that hang on the background's holder besides it: as said, else as many as it takes."""
        said = self.plan.background.further
        return said if said is not None else (self.holder.rolls - 1 if self.holder else 0)

    @cached_property
    def hung(self) -> Backdrop | None:
        """All that hangs on the background's holder as one: the background with the mass of the further rolls, each
        as heavy as it where nothing else is said."""
        item, count = self.backdrop, self.further_rolls
        if item is None or item.mass is None or not count:
            return item
        own, rest = item.mass, self.plan.background.further_mass
        more = rest.value if rest else count * own.value
        pm = math.hypot(own.pm, rest.pm) if rest else (1 + count) * own.pm
        return item.changed(mass=Figure(own.value + more, pm, own.origin))

    @cached_property
    def holder(self) -> Holder | None:
        return _kind(self.gear.get(self.plan.background.holder or ""), Holder)

    @cached_property
    def line(self) -> tuple[Vector, Vector] | None:
        """Middle of the background on the floor and the unit direction its face looks."""
        if self.bare_wall is not None and self.walls is not None:
            start, _ = self.walls.wall(self.bare_wall)
            way = self.walls.inward(self.bare_wall)
            origin = self.mark if self.mark is not None else start
            return origin - way * float((origin - start) @ way), way
        spot = _point(self.plan.background.x, self.plan.background.y)
        if spot is None:
            return None
        if self.plan.background.facing is not None:
            angle = math.radians(self.plan.background.facing)
            return spot, np.array([math.cos(angle), math.sin(angle)])
        return None if self.axis is None else (spot, self.axis)

    @cached_property
    def bare_wall(self) -> int | None:
        """Number of the wall that is itself the background."""
        if self.walls is None or self.plan.background.wall is None or self.plan.background.backdrop is not None:
            return None
        names = [wall.id for wall in self.room.edges(self.walls.count)]
        wall = self.plan.background.wall
        return names.index(wall) if wall in names else None

    @property
    def background_top(self) -> float | None:
        """Height of the background's upper edge; of a bare wall the lowest ceiling along it."""
        if self.plan.background.height is not None:
            return self.plan.background.height
        if self.bare_wall is not None and self.walls is not None and self.ceiling is not None:
            return float(self.ceiling.heights(np.array(self.walls.wall(self.bare_wall))).min())
        return None

    @property
    def surface(self) -> float:
        """Height the lead subject stands on [m]."""
        base = self.shot.subjects[0].base if self.shot.subjects else None
        return base.value if base else 0.0

    @property
    def lands(self) -> str:
        """Where the background ends below: as said, else free behind something on a table, else on the floor."""
        return self.plan.background.lands or ("hangs free" if self.surface else "on the floor")

    @cached_property
    def face(self) -> Vector | None:
        """The lead subject's face: what lights are aimed at."""
        if self.mark is None or self.wanted is None or not self.shot.subjects:
            return None
        lead = self.shot.subjects[0]
        angle = math.radians(self.facing)
        ahead, left = np.array([math.cos(angle), math.sin(angle)]), np.array([-math.sin(angle), math.cos(angle)])
        spot = self.mark + ahead * lead.ahead + left * lead.across
        return np.array([*spot, self.wanted.face])

    @cached_property
    def lights(self) -> tuple[Light, ...]:
        return tuple(self.light(place) for place in self.plan.lights)

    def light_at(self, path: str) -> Light | None:
        """The light with that path."""
        return next((one for one in self.lights if one.path == path), None)

    def light(self, place: LightPlace) -> Light:
        """A light of the set, with its gear and geometry."""
        name = place.role if sum(p.role == place.role for p in self.plan.lights) == 1 else place.id
        return self._light(place, name)

    def _light(self, place: LightPlace, name: str) -> Light:
        spot = _point(place.x, place.y)
        at = None if spot is None or place.height is None else np.array([*spot, place.height])
        target = self._target(place)
        forward = None if at is None or target is None else unit(target - at)
        if forward is not None and not np.any(forward):
            forward = np.array([0.0, 0.0, -1.0])
        head = self.gear.get(place.head or "")
        return Light(
            place,
            f"{self.path}/lights/{place.id}",
            name,
            _kind(head, Flash) or _kind(head, Lamp),
            _kind(self.gear.get(place.modifier or ""), Modifier),
            stand_of(self.gear, place),
            at,
            forward,
            column_of(self.gear, place),
        )

    def _target(self, place: LightPlace) -> Vector | None:
        aimed = _point(place.aim_x, place.aim_y)
        if aimed is not None:
            return np.array([*aimed, place.aim_height if place.aim_height is not None else 1.2])
        if place.role == "background light" and self.line is not None:
            return np.array([*self.line[0], (self.wanted.middle if self.wanted else 1.2)])
        return self.face

    @property
    def picture_twins(self) -> tuple[tuple[str, "Scene"], ...]:
        """(label, this scene with one figure moved by its ±) for every figure of subjects, frame, lens
        and sensor. Together they place the frame, the lens and what lights are aimed at, so rules
        that depend on those ask the twins for their shares. None inside `plain`."""
        return () if is_plain() else self._twins

    @cached_property
    def _twins(self) -> tuple[tuple[str, "Scene"], ...]:
        return tuple(self._subject_twins()) + tuple(self._camera_twins())

    def _subject_twins(self) -> Iterable[tuple[str, "Scene"]]:
        for i, subject in enumerate(self.shot.subjects):
            for name in ("height", "width", "depth", "base"):
                figure = getattr(subject, name)
                if figure is not None and figure.pm > 0:
                    moved = subject.changed(**{name: figure.moved()})
                    subjects = (*self.shot.subjects[:i], moved, *self.shot.subjects[i + 1 :])
                    yield f"{name} of the {subject.name}", replace(self, shot=self.shot.changed(subjects=subjects))
        wish = self.shot.frame_height
        if wish is not None and wish.pm > 0:
            yield "wanted frame height", replace(self, shot=self.shot.changed(frame_height=wish.moved()))

    def _camera_twins(self) -> Iterable[tuple[str, "Scene"]]:
        used = self.plan.camera.focal
        if used is not None and used.pm > 0:
            camera = self.plan.camera.changed(focal=used.moved())
            yield "focal length", replace(self, plan=self.plan.changed(camera=camera))
        elif self.lens and self.lens.focal and self.lens.focal.pm > 0:
            lens = self.lens.changed(focal=self.lens.focal.moved())
            yield "focal length", replace(self, gear={**self.gear, lens.id: lens})
        for name in ("sensor_width", "sensor_height"):
            figure = getattr(self.body, name, None)
            if self.body is not None and figure is not None and figure.pm > 0:
                body = self.body.changed(**{name: figure.moved()})
                yield name.replace("_", " "), replace(self, gear={**self.gear, body.id: body})

    @cached_property
    def things(self) -> tuple[Thing, ...]:
        """Everything of the set and the room that takes up space, doors as their sweep."""
        return tuple(self._things())

    @cached_property
    def around(self) -> tuple[Thing, ...]:
        """`things`, and what stands in the room of the sets beside."""
        return (*self.things, *(thing for other in self.beside for thing in other.left_for(self)))

    def owns(self, thing: Thing) -> bool:
        """Whether a thing is this set's or the room's, not that of a set beside."""
        return not thing.path.startswith("sets/") or thing.path.startswith(f"{self.path}/")

    def left_for(self, used: "Scene") -> Iterable[Thing]:
        """What of this set stands on while another is used: all but people, and a camera that goes over with them."""
        one, other = self.plan.camera, used.plan.camera
        moved = one.body == other.body or (one.support is not None and one.support == other.support)
        kinds = {"light", "holder", "backdrop", "prop", *(() if moved else ("camera",))}
        for thing in self.things:
            if thing.kind in kinds:
                named = partial(replace, thing, name=f"{thing.name} of “{self.plan.name}”")
                yield _BESIDE.get(self.plan.name, (thing,), named)

    def _once(
        self, kind: str, name: str, parts: tuple[object, ...], build: "Callable[[Scene], Things]"
    ) -> tuple[Thing, ...]:
        """Things as a builder makes them from `parts` and from what it reads of the scene: the same objects come back
        while all of that stays the same."""

        def made(reads: Reads | None) -> tuple[Thing, ...]:
            return tuple(thing for thing in build(self if reads is None else self._noting(reads)) if thing)

        return _THINGS.get(kind, f"{self.path} {name}", parts, self._at, made)

    def _noting(self, reads: Reads) -> "Scene":
        """This scene with stand-ins that note what is read of it."""
        room, plan = Reader(self.room, "room", reads), Reader(self.plan, "plan", reads)
        shot, brief = Reader(self.shot, "shot", reads), Reader(self.brief, "brief", reads)
        return Scene(room, brief, shot, plan, Shelf(self.gear, "gear", reads))  # type: ignore[arg-type]

    def _at(self, path: Path) -> Any:
        """What lies now at a path that was read."""
        owner, name = path
        return self.gear.get(name) if owner == "gear" else getattr(getattr(self, owner), name)

    def _things(self) -> Iterable[Thing]:
        yield from self._before
        for light in self.lights:
            place, name = light.place, light.name
            build = partial(_lamp_of, place=place, name=name)
            yield from self._once("light", f"light {name}", (place,), build)
        yield from self._after

    @cached_property
    def _before(self) -> tuple[Thing, ...]:
        """Who is in the picture, the camera and the background."""
        return (
            *self._once("subject", "subject", (), lambda scene: [scene._subject()]),
            *self._once("camera", "camera", (), lambda scene: [scene._camera(), scene._operator()]),
            *self._once("background", "background", (), lambda scene: scene._background()),
        )

    @cached_property
    def _after(self) -> tuple[Thing, ...]:
        """What stands in the set besides its lights, and the room's own things."""
        return tuple(self._around_lights())

    def _around_lights(self) -> Iterable[Thing]:
        plan, room = self.plan, self.room
        for prop in plan.props:
            yield from self._once("prop", "prop", (prop,), lambda scene, prop=prop: [scene._prop(prop)])  # type: ignore[misc]
        for person in plan.people:
            yield from self._once("person", "person", (person,), lambda scene, who=person: [scene._person(who)])  # type: ignore[misc]
        for box in self.boxes:
            yield from _ROOM.get("box", (box,), lambda box=box: _some(box_thing(box), keep_free(box)))  # type: ignore[misc]
        for zone in room.zones:
            yield from _ROOM.get("zone", (zone,), lambda zone=zone: _some(zone_thing(zone)))  # type: ignore[misc]
        for door in room.doors:
            yield from self._once("door", "door", (door,), lambda scene, door=door: [scene.door_thing(door)])  # type: ignore[misc]

    def with_gear(self, gear: dict[str, Item]) -> "Scene":
        """This scene with other gear; what gear does not shape is carried over."""
        other = replace(self, gear=gear)
        other.__dict__.update({name: self.__dict__[name] for name in SHAPED_BY_NO_GEAR if name in self.__dict__})
        return other

    def with_lights(self, plan: SetPlan, gear: Mapping[str, Item]) -> "Scene":
        """This scene with the lights and cards of a plan that is else the same, and with their gear besides its own;
        what these do not shape is found once for all of them."""
        other = replace(self, plan=plan, gear={**self.gear, **gear})
        here, there = self.plan, other.plan
        same = here.mark == there.mark and here.camera is there.camera and here.background is there.background
        if not same or not gear.keys().isdisjoint(used_by(here.changed(lights=()))):
            return other
        names = (*SHAPED_BY_NO_GEAR, *SHAPED_BY_NO_LIGHT, *(("_after",) if here.props == there.props else ()))
        other.__dict__.update({name: getattr(self, name) for name in names})
        return other

    def rebuilt(self, thing: Thing) -> Thing | None:
        """The same thing, built from this scene: for asking how a figure shapes it."""
        if not self.owns(thing):
            other = next((one for one in self.beside if one.owns(thing)), None)
            return None if other is None else replace(other, gear=self.gear).rebuilt(thing)
        key = thing.path.split("/")[-1]
        match thing.kind:
            case "light":
                place = by_id(self.plan.lights, key)
                return self._lamp_thing(self.light(place)) if place else None
            case "prop":
                prop = by_id(self.plan.props, key)
                return self._prop(prop) if prop else None
            case "holder" | "backdrop":
                return next((t for t in self._background() if t.kind == thing.kind), None)
            case "subject":
                return self._subject()
            case "camera":
                return self._camera()
            case "operator":
                return self._operator()
            case "person":
                person = by_id(self.plan.people, key)
                return self._person(person) if person else None
        return None

    def _subject(self) -> Thing | None:
        if self.mark is None or any(s.height is None for s in self.shot.subjects) or not self.shot.subjects:
            return None
        parts = [Part("body", solid) for s in self.shot.subjects for solid in self.body_parts(s.id)]
        names = " and ".join(s.name.lower() for s in self.shot.subjects)
        return Thing(f"{self.path}/mark", names, "subject", tuple(parts))

    def body_parts(self, subject: str) -> tuple[Points, ...]:
        """Convex parts of one subject in plan coordinates."""
        return self._bodies.get(subject, ())

    @cached_property
    def _bodies(self) -> dict[str, tuple[Points, ...]]:
        if self.mark is None:
            return {}
        found = {}
        for who in self.shot.subjects:
            height = who.height.value if who.height else USUAL[who.kind]
            found[who.id] = figures.placed(who, height, float(self.mark[0]), float(self.mark[1]), self.facing)
        return found

    def _camera(self) -> Thing | None:
        if self.eye is None or self.axis is None:
            return None
        support = _kind(self.gear.get(self.plan.camera.support or ""), Stand)
        return volumes.camera(
            f"{self.path}/camera", self.eye, self.axis, support, self.camera_foot(support), down=self.overhead
        )

    def camera_foot(self, support: Stand | None) -> Vector:
        """Where the camera's support stands: under it, or at the end of its arm."""
        assert self.eye is not None and self.axis is not None
        if not self.overhead:
            return np.asarray(self.eye[:2] + self.axis * 0.1)
        place = self.plan.camera
        angle = math.radians(place.arm) if place.arm is not None else math.atan2(-self.axis[1], -self.axis[0])
        reach = place.arm_length if place.arm_length is not None else (support and value(support.reach)) or 0.0
        return np.asarray(self.eye[:2] + reach * np.array([math.cos(angle), math.sin(angle)]))

    def _operator(self) -> Thing | None:
        if self.eye is None or self.axis is None or self.plan.camera.operator != "photographer behind it":
            return None
        return volumes.operator(f"{self.path}/camera", self.eye[:2], self.axis)

    def _person(self, person: Person) -> Thing | None:
        spot = _point(person.x, person.y)
        if spot is None:
            return None
        return volumes.person(f"{self.path}/people/{person.id}", person.name.lower(), spot)

    def _background(self) -> Iterable[Thing]:
        ends = self.background_ends
        if ends is None or self.plan.background.height is None or self.bare_wall is not None:
            return
        path, height = f"{self.path}/background", self.plan.background.height
        if self.backdrop:
            yield volumes.backdrop(path, self.backdrop, ends, height, min(self.lowest_edge, height - 0.01))
        if self.holder:
            hold = volumes.Hold(ends, height, self.ceiling_over, self.surface, self.rod_ends)
            yield from volumes.holder(path, self.holder, hold)

    @property
    def lowest_edge(self) -> float:
        """How far down the background hangs [m]."""
        height = self.plan.background.height or 0.0
        rest = height - (value(self.backdrop.length) or height) if self.backdrop else 0.0
        return max(self.surface if self.lands == "on the table" else 0.0, rest, 0.0)

    def ceiling_over(self, spot: Vector) -> float | None:
        """How high the ceiling is over a place [m]."""
        return None if self.ceiling is None else self.ceiling.height(float(spot[0]), float(spot[1]))

    @cached_property
    def rod_ends(self) -> tuple[Vector, Vector] | None:
        """Where the background's line meets the walls to its left and right."""
        if self.line is None or self.walls is None:
            return None
        spot, way = self.line
        found = []
        for side in (np.array([way[1], -way[0]]), np.array([-way[1], way[0]])):
            hit = first_wall(self.walls, spot, side)
            if hit is None:
                return None
            found.append(spot + side * hit[0])
        return found[0], found[1]

    @cached_property
    def background_ends(self) -> tuple[Vector, Vector] | None:
        """Plan points of the background's two ends, left and right as the camera sees them."""
        if self.bare_wall is not None and self.walls is not None:
            start, end = self.walls.wall(self.bare_wall)
            return end, start
        if self.line is None or self.backdrop is None or self.backdrop.width is None:
            return None
        spot, way = self.line
        along = np.array([way[1], -way[0]])
        half = self.backdrop.width.value / 2
        return spot + along * half, spot - along * half

    def _lamp_thing(self, light: Light) -> Thing | None:
        if light.at is None or light.forward is None or light.mount is None:
            return None
        parts: list[Part] = []
        if light.modifier:
            parts += volumes.shade_of(light.modifier, light.at, light.forward)
        if light.head:
            ahead = -light.forward if light.bounced else light.forward
            parts += volumes.head_of(light.head, light.mount, ahead)
        if light.stand:
            parts += volumes.light_support(light.stand, light.mount, light.place.boom, light.place.boom_length)
        return Thing(light.path, light.name, "light", tuple(parts)) if parts else None

    def _prop(self, place: PropPlace) -> Thing | None:
        item, spot = self.gear.get(place.item or ""), _point(place.x, place.y)
        if spot is None or not isinstance(item, (Table, Board, Tent, Microphone)):
            return None
        return volumes.prop(f"{self.path}/props/{place.id}", item, spot, place.turn, self.base_of(place), place.tilt)

    def base_of(self, place: PropPlace) -> float:
        """Height a prop stands at [m]: as said; a tent or a tray on what the subject stands on, else on the floor."""
        item = self.gear.get(place.item or "")
        if place.height is not None:
            return place.height
        return self.surface if isinstance(item, Tent) or getattr(item, "form", "") == "water tray" else 0.0

    def door_thing(self, door: Door) -> Thing | None:
        """A door as the sweep of its leaf, or the leaf alone where it stays open; None when it takes up no room."""
        if self.plan.doors == "stay shut":
            return None
        held = self.plan.doors == "stay open"
        swing = (open_leaf if held else door_swing)(self.room, self.walls, door)
        if swing is None:
            return None
        name = f"open {door.name.lower()}" if held else door.name.lower()
        return Thing(f"room/doors/{door.id}", name, "door", (Part("swing", swing),), fixed=True)


def scene_of(studio: Studio, plan: SetPlan) -> Scene | None:
    """The scene of one of a studio's sets, or None when its shot is gone."""
    shot = by_id(studio.shots, plan.shot)
    if shot is None:
        return None
    return Scene(studio.room, studio.brief, shot, plan, gear_of(studio), _beside(studio, plan))


def gear_of(studio: Studio) -> dict[str, Item]:
    """A studio's gear by id."""
    return {item.id: item for item in studio.gear}


def _beside(studio: Studio, plan: SetPlan) -> tuple[Scene, ...]:
    """The other sets of its group, each by itself."""
    if plan.together is None:
        return ()
    others = [one for one in studio.sets if one.together == plan.together and one.id != plan.id]
    shots = [(one, by_id(studio.shots, one.shot)) for one in others]
    gear = gear_of(studio)
    return tuple(Scene(studio.room, studio.brief, shot, one, gear) for one, shot in shots if shot is not None)


def _lamp_of(scene: Scene, place: LightPlace, name: str) -> Things:
    return [scene._lamp_thing(scene._light(place, name))]


def _some(*things: Thing | None) -> tuple[Thing, ...]:
    return tuple(thing for thing in things if thing is not None)


def _put(value: float) -> Figure:
    """A place something is pushed to for a session."""
    return Figure(value, 0.01, "tape")


def _point(x: float | None, y: float | None) -> Vector | None:
    return None if x is None or y is None else np.array([x, y])


def _kind(item: Item | None, kind: type[K]) -> K | None:
    return item if isinstance(item, kind) else None
