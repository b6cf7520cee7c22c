"""One set as things in space: what every rule and every drawing starts from.

A scene resolves a set's references to gear, places the lens, the lights and the background, and
builds each thing's true volume. Whatever is missing stays None; nothing is guessed.
"""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property, partial
from typing import Any

from evrant.core.base.memo import Memo, is_plain
from evrant.core.base.noting import Noted, Path, Reader, Reads, Shelf
from evrant.core.space.bodied import Bodied
from evrant.core.space.jointly import without_common
from evrant.core.space.things import Thing, box_thing, keep_free, zone_thing
from evrant.core.studio.gear import Item
from evrant.core.studio.sets import LightPlace, SetPlan, used_by
from evrant.core.studio.shots import Shot
from evrant.core.studio.studio import Studio, by_id

Things = Iterable[Thing | None]
_BESIDE: Memo[Thing] = Memo(4_000_000, lambda thing: 600 + 60 * len(thing.cloud))
_MOVED: Memo[tuple[tuple[str, Shot], ...]] = Memo(2_000_000, lambda shots: 300 + 2500 * len(shots))
_ROOM: Memo[tuple[Thing, ...]] = Memo(4_000_000, lambda things: 1200)
_THINGS: Noted[tuple[Thing, ...]] = Noted(Memo(64_000_000, lambda things: 600 + sum(60 * len(t.cloud) for t in things)))


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
    "lit_spot",
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


def _moved(shot: Shot) -> tuple[tuple[str, Shot], ...]:
    """(label, the shot with one figure of its subjects or its frame moved by its ±)."""
    found = []
    for i, subject in enumerate(shot.subjects):
        for name in ("height", "width", "depth", "base"):
            figure = getattr(subject, name)
            if figure is not None and figure.pm > 0:
                moved = subject.changed(**{name: figure.moved()})
                subjects = (*shot.subjects[:i], moved, *shot.subjects[i + 1 :])
                found.append((f"{name} of the {subject.name}", shot.changed(subjects=subjects)))
    wish = shot.frame_height
    if wish is not None and wish.pm > 0:
        found.append(("wanted frame height", shot.changed(frame_height=wish.moved())))
    return tuple(found)


@dataclass(frozen=True, eq=False)
class Scene(Bodied):
    """A set resolved against room, shot and gear."""

    beside: tuple["Scene", ...] = field(default=(), repr=False)
    """Other sets that stand in the room at the same time, each by itself."""

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
        for label, shot in _MOVED.get("", (self.shot,), partial(_moved, self.shot)):
            yield label, replace(self, shot=shot)

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
            *self._once("subject", "subject", (), lambda scene: [scene.subject_thing()]),
            *self._once("camera", "camera", (), lambda scene: [scene.camera_thing(), scene.operator_thing()]),
            *self._once("background", "background", (), lambda scene: scene.background_things()),
        )

    @cached_property
    def _after(self) -> tuple[Thing, ...]:
        """What stands in the set besides its lights, and the room's own things."""
        return tuple(self._around_lights())

    def _around_lights(self) -> Iterable[Thing]:
        plan, room = self.plan, self.room
        for prop in plan.props:
            yield from self._once("prop", "prop", (prop,), lambda scene, prop=prop: [scene.prop_thing(prop)])  # type: ignore[misc]
        for person in plan.people:
            yield from self._once("person", "person", (person,), lambda scene, who=person: [scene.person_thing(who)])  # type: ignore[misc]
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
                return self.light_thing(self.light(place)) if place else None
            case "prop":
                prop = by_id(self.plan.props, key)
                return self.prop_thing(prop) if prop else None
            case "holder" | "backdrop":
                return next((t for t in self.background_things() if t.kind == thing.kind), None)
            case "subject":
                return self.subject_thing()
            case "camera":
                return self.camera_thing()
            case "operator":
                return self.operator_thing()
            case "person":
                person = by_id(self.plan.people, key)
                return self.person_thing(person) if person else None
        return None


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
    """The other sets of its group, each by itself, without what this one has at the same place."""
    if plan.together is None:
        return ()
    others = [one for one in studio.sets if one.together == plan.together and one.id != plan.id]
    shots = [(without_common(one, plan), by_id(studio.shots, one.shot)) for one in others]
    gear = gear_of(studio)
    return tuple(Scene(studio.room, studio.brief, shot, one, gear) for one, shot in shots if shot is not None)


def _lamp_of(scene: Scene, place: LightPlace, name: str) -> Things:
    return [scene.light_thing(scene.light_named(place, name))]


def _some(*things: Thing | None) -> tuple[Thing, ...]:
    return tuple(thing for thing in things if thing is not None)
