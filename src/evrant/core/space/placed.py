"""A set's references resolved and placed: lens, picture, background and lights, without a body yet.

Whatever is missing stays None; nothing is guessed.
"""

import math
from dataclasses import dataclass, field
from functools import cached_property
from typing import TypeVar

import numpy as np

from evrant.core.base.quantity import Figure
from evrant.core.space.ceiling import Ceiling, ceiling_of
from evrant.core.space.footprint import Plan, first_wall, plan_of
from evrant.core.space.framing import View, hits, subject_distance
from evrant.core.space.level import Top
from evrant.core.space.lights import Light, all_round, hangs
from evrant.core.space.solids import Points, Vector, unit
from evrant.core.space.stands import column_of, stand_of
from evrant.core.space.stature import extent
from evrant.core.space.wanted import OVERHEAD, Wanted, wanted
from evrant.core.studio.brief import Brief
from evrant.core.studio.gear import (
    TABLES,
    Backdrop,
    Camera,
    Flash,
    Holder,
    Item,
    Lamp,
    Lens,
    Modifier,
    Stand,
    Table,
    Tent,
)
from evrant.core.studio.room import Box, Room, value
from evrant.core.studio.sets import LightPlace, PropPlace, SetPlan
from evrant.core.studio.shots import Shot, Subject

K = TypeVar("K")


@dataclass(frozen=True, eq=False)
class Placed:
    """What a set is made of, and where."""

    room: Room
    brief: Brief
    shot: Shot
    plan: SetPlan
    gear: dict[str, Item] = field(repr=False)

    @property
    def path(self) -> str:
        return f"sets/{self.plan.id}"

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
        return point(self.plan.mark.x, self.plan.mark.y)

    @cached_property
    def camera_spot(self) -> Vector | None:
        return point(self.plan.camera.x, self.plan.camera.y)

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
        line = point(self.plan.background.x, self.plan.background.y)
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
        return kind_of(self.gear.get(self.plan.camera.body or ""), Camera)

    @cached_property
    def lens(self) -> Lens | None:
        return kind_of(self.gear.get(self.plan.camera.lens or ""), Lens)

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
        return kind_of(self.gear.get(self.plan.background.backdrop or ""), Backdrop)

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
        return kind_of(self.gear.get(self.plan.background.holder or ""), Holder)

    @cached_property
    def line(self) -> tuple[Vector, Vector] | None:
        """Middle of the background on the floor and the unit direction its face looks."""
        if self.bare_wall is not None and self.walls is not None:
            start, _ = self.walls.wall(self.bare_wall)
            way = self.walls.inward(self.bare_wall)
            origin = self.mark if self.mark is not None else start
            return origin - way * float((origin - start) @ way), way
        spot = point(self.plan.background.x, self.plan.background.y)
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
        """Height of the background's upper edge; of a bare wall the lowest ceiling over what is seen of it."""
        if self.plan.background.height is not None:
            return self.plan.background.height
        shown = self.wall_shown
        return None if shown is None or self.ceiling is None else float(self.ceiling.heights(shown).min())

    @property
    def wall_shown(self) -> Points | None:
        """Ends (2, 2) of what is seen of a bare wall, no further than its corners; without a view all of it."""
        if self.bare_wall is None or self.walls is None or self.line is None:
            return None
        ends, seen = np.array(self.walls.wall(self.bare_wall)), None
        if self.view is not None:
            seen = hits(self.view, self.line)
        if seen is None:
            return ends
        spot, way = self.line
        along = np.array([-way[1], way[0]])
        low, high = np.sort((ends - spot) @ along)
        places = np.clip([seen[0].min(), seen[0].max()], low, high)
        return np.asarray(spot + places[:, None] * along)

    @property
    def surface(self) -> float:
        """Height the lead subject stands on [m]."""
        base = self.shot.lead.base if self.shot.subjects else None
        return base.value if base else 0.0

    @property
    def lands(self) -> str:
        """Where the background ends below: as said, else free behind something on a table, else on the floor."""
        return self.plan.background.lands or ("hangs free" if self.surface else "on the floor")

    @cached_property
    def face(self) -> Vector | None:
        """The lead subject's face: where light is metered."""
        if self.mark is None or self.wanted is None or not self.shot.subjects:
            return None
        return self.face_of(self.shot.lead)

    def face_of(self, subject: Subject) -> Vector | None:
        """A subject's face, or the middle of what has none (3,); None without a mark or its height."""
        if self.mark is None or subject.height is None:
            return None
        angle = math.radians(self.facing)
        ahead, left = np.array([math.cos(angle), math.sin(angle)]), np.array([-math.sin(angle), math.cos(angle)])
        high = (subject.base.value if subject.base else 0.0) + extent(subject, subject.height.value).face
        return np.array([*(self.mark + ahead * subject.ahead + left * subject.across), high])

    @cached_property
    def lit_spot(self) -> Vector | None:
        """What lights are set about and aimed at: the lead subject's face, of several people the middle of theirs."""
        people = [one for one in self.shot.subjects if one.kind == "person"]
        if self.face is None or len(people) < 2:
            return self.face
        faces = np.array([face for one in people if (face := self.face_of(one)) is not None])
        return np.asarray((faces.min(axis=0) + faces.max(axis=0)) / 2)

    @cached_property
    def lights(self) -> tuple[Light, ...]:
        return tuple(self.light(place) for place in self.plan.lights)

    def light_at(self, path: str) -> Light | None:
        """The light with that path."""
        return next((one for one in self.lights if one.path == path), None)

    def light(self, place: LightPlace) -> Light:
        """A light of the set, with its gear and geometry."""
        return self.light_named(place, self.plan.name_of(place))

    def light_named(self, place: LightPlace, name: str) -> Light:
        """A light of the set called so, with its gear and geometry."""
        spot = point(place.x, place.y)
        at = None if spot is None or place.height is None else np.array([*spot, place.height])
        target = self._target(place)
        forward = None if at is None or target is None else unit(target - at)
        if forward is not None and not np.any(forward):
            forward = np.array([0.0, 0.0, -1.0])
        found, modifier = self.gear.get(place.head or ""), kind_of(self.gear.get(place.modifier or ""), Modifier)
        head, stand = kind_of(found, Flash) or kind_of(found, Lamp), stand_of(self.gear, place)
        if forward is not None and hangs(stand) and all_round(head, modifier):
            forward = np.array([0.0, 0.0, -1.0])
        return Light(
            place,
            f"{self.path}/lights/{place.id}",
            name,
            head,
            modifier,
            stand,
            at,
            forward,
            column_of(self.gear, place),
        )

    def _target(self, place: LightPlace) -> Vector | None:
        aimed = point(place.aim_x, place.aim_y)
        if aimed is not None:
            return np.array([*aimed, place.aim_height if place.aim_height is not None else 1.2])
        if place.role == "background light" and self.line is not None:
            return np.array([*self.line[0], (self.wanted.middle if self.wanted else 1.2)])
        return self.lit_spot

    def camera_foot(self, support: Stand | None) -> Vector:
        """Where the camera's support stands: under it, or at the end of its arm."""
        assert self.eye is not None and self.axis is not None
        if not self.overhead:
            return np.asarray(self.eye[:2] + self.axis * 0.1)
        place = self.plan.camera
        angle = math.radians(place.arm) if place.arm is not None else math.atan2(-self.axis[1], -self.axis[0])
        reach = place.arm_length if place.arm_length is not None else (support and value(support.reach)) or 0.0
        return np.asarray(self.eye[:2] + reach * np.array([math.cos(angle), math.sin(angle)]))

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

    def base_of(self, place: PropPlace) -> float:
        """Height a prop stands at [m]: as said; a tent or a tray on what the subject stands on, a turntable on a table
        under it, else on the floor."""
        item = self.gear.get(place.item or "")
        if place.height is not None:
            return place.height
        if isinstance(item, Table) and item.form == "turntable":
            return self._under(place)
        return self.surface if isinstance(item, Tent) or getattr(item, "form", "") == "water tray" else 0.0

    def table_top(self, place: PropPlace) -> Top | None:
        """The top of a table or stool of the set; None of other things, and while a size or its place is missing."""
        item, spot = self.gear.get(place.item or ""), point(place.x, place.y)
        if not isinstance(item, Table) or item.form not in TABLES or spot is None:
            return None
        if not (item.length and item.width and item.height):
            return None
        half = np.array([item.length.value, item.width.value]) / 2
        return Top(item.called, spot, half, place.turn, self.base_of(place) + item.height.value)

    def _under(self, place: PropPlace) -> float:
        """Height of the highest table of the set over which the middle of a thing is, else of the floor [m]."""
        spot = point(place.x, place.y)
        tops = [top for other in self.plan.props if (top := self.table_top(other)) is not None]
        over = [top.height for top in tops if spot is not None and top.inside(spot[None])[0] >= 0]
        return max(over, default=0.0)


def _put(value: float) -> Figure:
    """A place something is pushed to for a session."""
    return Figure(value, 0.01, "tape")


def point(x: float | None, y: float | None) -> Vector | None:
    """A place on the floor (x, y) [m]; None where it is not said."""
    return None if x is None or y is None else np.array([x, y])


def kind_of(item: Item | None, kind: type[K]) -> K | None:
    """An item if it is of a kind, else None."""
    return item if isinstance(item, kind) else None
