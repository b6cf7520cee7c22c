"""How a room rings: its absorption by octave and its reverberation time.

References:
[1] W. C. Sabine: T = 0.161 V / A; C. F. Eyring (1930): T = 0.161 V / (−S ln(1 − ᾱ)).
[2] Critical distance r_c = √(Q A / 16 π); any textbook of room acoustics.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from evrant.core.base.tables import absorption as table
from evrant.core.base.tables.absorption import Octaves
from evrant.core.space.scene import Scene
from evrant.core.studio.room import Box, Window, value

Bands = NDArray[np.float64]
SABINE = 0.161
"""24 ln 10 / c for c = 343 m/s [s/m]."""
MOST = 0.99
SPEECH = slice(2, 5)
"""Octaves from 500 to 2000 Hz, in which speech is understood."""
GRID = 24


@dataclass(frozen=True)
class Area:
    """A surface: its name, area [m²] and absorption by octave."""

    name: str
    path: str
    area: float
    shares: Octaves


@dataclass(frozen=True)
class Hall:
    """A room as sound finds it: volume [m³], surface [m²], its parts, and what people add [m² by octave]."""

    volume: float
    surface: float
    areas: tuple[Area, ...]
    people: int

    @property
    def absorption(self) -> Bands:
        """Absorption area by octave [m²]."""
        found = sum((one.area * np.array(one.shares) for one in self.areas), np.zeros(6))
        return np.asarray(found + self.people * np.array(table.PERSON))

    @property
    def mean(self) -> Bands:
        """Mean absorption coefficient by octave."""
        return np.minimum(self.absorption / self.surface, MOST)

    @property
    def room_absorption(self) -> Bands:
        """Eyring's −S ln(1 − ᾱ) [m²]."""
        return np.asarray(-self.surface * np.log(1 - self.mean))

    @property
    def sabine(self) -> Bands:
        """Reverberation time by octave [s] [1]."""
        return sabine(self.volume, self.absorption)

    @property
    def eyring(self) -> Bands:
        """Reverberation time by octave [s] [1]."""
        return np.asarray(SABINE * self.volume / self.room_absorption)

    @property
    def for_speech(self) -> float:
        """Eyring's absorption area in the octaves of speech [m²]."""
        return float(self.room_absorption[SPEECH].mean())


def sabine(volume: float, absorption: Bands) -> Bands:
    """Reverberation time [s] of a volume [m³] with an absorption area [m²]."""
    return np.asarray(SABINE * volume / absorption)


def critical_distance(absorption: float, directivity: float = 1.0) -> float:
    """Distance [m] at which direct and reverberant sound are equal [2]."""
    return math.sqrt(directivity * absorption / (16 * math.pi))


def hall_of(scene: Scene) -> Hall | None:
    """The room with everything of the set in it; None while its outline or height is missing."""
    if scene.walls is None or scene.ceiling is None:
        return None
    areas = tuple(_areas(scene))
    persons = sum(who.kind == "person" for who in scene.shot.subjects) + len(scene.plan.people)
    persons += scene.plan.camera.operator == "photographer behind it"
    volume = _floor(scene) * _mean_height(scene)
    volume -= sum(_cuboid(box) for box in scene.boxes)
    return Hall(max(volume, 1.0), sum(one.area for one in areas), areas, persons)


def _floor(scene: Scene) -> float:
    assert scene.walls is not None
    x, y = scene.walls.corners.T
    return abs(float(x @ np.roll(y, -1) - np.roll(x, -1) @ y)) / 2


def _mean_height(scene: Scene) -> float:
    """Mean height of the ceiling over the floor [m]."""
    assert scene.walls is not None and scene.ceiling is not None
    low, high = scene.walls.corners.min(axis=0), scene.walls.corners.max(axis=0)
    steps = (np.arange(GRID) + 0.5) / GRID
    spots = np.array([[x, y] for x in low[0] + steps * (high - low)[0] for y in low[1] + steps * (high - low)[1]])
    inside = spots[scene.walls.contains(spots)]
    return float(scene.ceiling.heights(inside if len(inside) else spots).mean())


def _areas(scene: Scene) -> Iterator[Area]:
    assert scene.walls is not None and scene.ceiling is not None
    room, walls = scene.room, scene.walls
    floor, high = _floor(scene), _mean_height(scene)
    under = sum(_footprint(box) for box in scene.boxes if (value(box.base) or 0.0) < 0.05)
    yield Area("floor", "room", max(floor - under, 0.0), table.FLOORS[room.floor or "laminate"])
    yield Area("ceiling", "room", floor, table.CEILINGS.get(room.ceiling_made or "", table.HARD))
    openings = {window.wall: 0.0 for window in room.windows}
    for window in room.windows:
        openings[window.wall] += _opening(window)
    doors: dict[str | None, float] = {}
    for door in room.doors:
        area = (value(door.width) or 0.0) * (value(door.height) or 2.0)
        doors[door.wall] = doors.get(door.wall, 0.0) + area
        yield Area(door.name, f"room/doors/{door.id}", area, table.DOOR)
    for index, wall in enumerate(room.edges(walls.count)):
        start, end = walls.wall(index)
        long = float(np.linalg.norm(end - start))
        free = max(long * high - openings.get(wall.id, 0.0) - doors.get(wall.id, 0.0), 0.0)
        yield Area(wall.name, f"room/walls/{wall.id}", free, table.WALLS[wall.construction or "masonry"])
    for window in room.windows:
        yield Area(window.name, f"room/windows/{window.id}", _opening(window), _drawn(window))
    yield from _things(scene)


def _opening(window: Window) -> float:
    return (value(window.width) or 0.0) * (value(window.height) or 0.0)


def _drawn(window: Window) -> Octaves:
    return table.DRAPES.get(window.cover or "", table.WINDOW)


def _things(scene: Scene) -> Iterator[Area]:
    for box in scene.boxes:
        area = _free(box)
        if area > 0:
            yield Area(box.name, f"room/boxes/{box.id}", area, BY_BOX.get(box.kind, table.WOODEN))
    item, height = scene.backdrop, scene.plan.background.height
    if item is not None and height is not None and item.width is not None and scene.bare_wall is None:
        soft = table.CLOTH if item.material == "fabric" else table.PAPER
        hangs = min(value(item.length) or height, height)
        yield Area(item.name, f"{scene.path}/background", item.width.value * hangs, soft)
    if scene.plan.blankets:
        area = scene.plan.blankets * table.BLANKET_AREA
        yield Area("blankets", scene.path, area, table.BLANKET)


BY_BOX: dict[str, Octaves] = {
    "radiator": table.HARD,
    "beam or pipe": table.HARD,
    "appliance": table.HARD,
    "screen": table.HARD,
    "sink or tap": table.HARD,
    "lamp": table.HARD,
    "bed": table.SOFT,
}


def _sides(box: Box) -> tuple[float, float, float] | None:
    sides = value(box.length), value(box.width), value(box.height)
    return None if None in sides else sides  # type: ignore[return-value]


def _footprint(box: Box) -> float:
    sides = _sides(box)
    return 0.0 if sides is None else sides[0] * sides[1]


def _cuboid(box: Box) -> float:
    sides = _sides(box)
    return 0.0 if sides is None else sides[0] * sides[1] * sides[2]


def _free(box: Box) -> float:
    """Top and the three sides that do not stand at a wall [m²]."""
    sides = _sides(box)
    if sides is None:
        return 0.0
    long, wide, high = sides
    return long * wide + high * (2 * min(long, wide) + max(long, wide))
