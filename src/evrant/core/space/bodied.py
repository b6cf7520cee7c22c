"""The bodies of a set: its subjects, camera, background, lights and props as things that take up space."""

import math
from collections.abc import Iterable
from dataclasses import replace
from functools import cached_property

import numpy as np

from evrant.core.space import figures, volumes
from evrant.core.space.lights import Light
from evrant.core.space.placed import Placed, kind_of, point
from evrant.core.space.solids import Points, Vector
from evrant.core.space.stature import USUAL
from evrant.core.space.things import Part, Thing, door_swing, open_leaf
from evrant.core.studio.gear import Board, Microphone, Stand, Table, Tent
from evrant.core.studio.room import Door
from evrant.core.studio.sets import Person, PropPlace

BEHIND_CARD = 0.05
"""The stand that holds a card stands so far behind it [m]; from memory."""


class Bodied(Placed):
    """A placed set whose things can be built."""

    def subject_thing(self) -> Thing | None:
        """All subjects as one thing; None where one has no height or there is no mark."""
        if self.mark is None or any(s.height is None for s in self.shot.subjects) or not self.shot.subjects:
            return None
        parts = [Part("body", solid) for s in self.shot.subjects for solid in self.body_parts(s.id)]
        several = len(self.shot.subjects) > 2
        names = "group" if several else " and ".join(s.name.lower() for s in self.shot.subjects)
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

    def camera_thing(self) -> Thing | None:
        """The camera on its support; None where it is not placed."""
        if self.eye is None or self.axis is None:
            return None
        support = kind_of(self.gear.get(self.plan.camera.support or ""), Stand)
        return volumes.camera(
            f"{self.path}/camera", self.eye, self.axis, support, self.camera_foot(support), down=self.overhead
        )

    def operator_thing(self) -> Thing | None:
        """Who stands behind the camera, where somebody does."""
        if self.eye is None or self.axis is None or self.plan.camera.operator != "photographer behind it":
            return None
        return volumes.operator(f"{self.path}/camera", self.eye[:2], self.axis)

    def person_thing(self, person: Person) -> Thing | None:
        """Somebody else in the room; None where they are not placed."""
        spot = point(person.x, person.y)
        if spot is None:
            return None
        return volumes.person(f"{self.path}/people/{person.id}", person.name.lower(), spot)

    def background_things(self) -> Iterable[Thing]:
        """The background and its holder, as far as they are placed."""
        ends = self.background_ends
        if ends is None or self.plan.background.height is None or self.bare_wall is not None:
            return
        path, height = f"{self.path}/background", self.plan.background.height
        if self.backdrop:
            yield volumes.backdrop(path, self.backdrop, ends, height, min(self.lowest_edge, height - 0.01))
        if self.holder:
            hold = volumes.Hold(ends, height, self.ceiling_over, self.surface, self.rod_ends)
            yield from volumes.holder(path, self.holder, hold)

    def light_thing(self, light: Light) -> Thing | None:
        """A light with what shapes and carries it; None where it is not placed or nothing is known of it."""
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

    def prop_thing(self, place: PropPlace) -> Thing | None:
        """A table, board, tent or microphone; None where it is not placed."""
        item, spot = self.gear.get(place.item or ""), point(place.x, place.y)
        if spot is None or not isinstance(item, (Table, Board, Tent, Microphone)):
            return None
        path, base = f"{self.path}/props/{place.id}", self.base_of(place)
        thing = volumes.prop(path, item, spot, place.turn, base, place.tilt)
        held = self.card_mount(place)
        if thing is None or held is None:
            return thing
        stand, mount = held
        return replace(thing, parts=(*thing.parts, *volumes.light_support(stand, mount, None, None)))

    def card_mount(self, place: PropPlace) -> tuple[Stand, Vector] | None:
        """The stand that holds a card, and where (3,) on its back: behind its middle, on the side away from the
        subject. None of other things, of a card that nothing holds, and while a size or its place is missing."""
        item, stand = self.gear.get(place.item or ""), self.gear.get(place.support or "")
        spot = point(place.x, place.y)
        if not isinstance(item, Board) or not isinstance(stand, Stand) or spot is None or item.height is None:
            return None
        angle = math.radians(place.turn)
        back = np.array([-math.sin(angle), math.cos(angle)])
        if self.mark is not None and float((spot - self.mark) @ back) < 0:
            back = -back
        middle = volumes.card_middle(self.base_of(place), item.height.value, place.tilt)
        return stand, np.array([*(spot + back * BEHIND_CARD), middle])

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
