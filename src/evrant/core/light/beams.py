"""The sources of a set's light: its lights, its windows by day, the lamps of the room."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

import numpy as np

from evrant.core.base.tables.countries import MAINS
from evrant.core.light.bounce.sources import Source, round_face
from evrant.core.light.colour import bands_of, gelled
from evrant.core.light.emission import DAYLIGHT, Emission, Missing, emission
from evrant.core.light.face import nose_of
from evrant.core.light.spread import everywhere
from evrant.core.light.surroundings import lets_in, window_face
from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene
from evrant.core.space.solids import frame_axes, unit
from evrant.core.studio.gear import Gel
from evrant.core.studio.room import value

Kind = Literal["flash", "steady", "around"]
FIRST = ("key", "ring light", "top light", "under-light", "practical", "fill")
LEFT_ON = "lamp left on"
"""Role of a lamp of another set that stays on while this one is used."""
SKY, BULB = 6500.0, 3000.0
"""Colour temperature of daylight by a window and of a room's lamp, where none is entered [K]."""


@dataclass(frozen=True, eq=False)
class Beam:
    """One source of light in a set: a light of it, a window, a lamp of the room."""

    name: str
    path: str
    kind: Kind
    source: Source
    emission: Emission | None = None
    role: str = ""
    stands_at: float | None = None
    """Colour temperature entered for what stands as it is [K]."""

    @property
    def kelvin(self) -> float:
        """Colour temperature, gel counted; the usual one where none is entered [K]."""
        if self.emission is not None:
            return self.emission.kelvin
        return self.stands_at or (SKY if self.role == "window" else BULB)

    @property
    def kelvin_known(self) -> bool:
        return self.emission.kelvin_known if self.emission is not None else self.stands_at is not None

    @property
    def light(self) -> Light | None:
        return self.emission.light if self.emission else None


def beams_of(scene: Scene) -> tuple[tuple[Beam, ...], tuple[Missing, ...]]:
    """Every source of a set; what cannot be computed is said."""
    volts = MAINS[scene.brief.country].volts
    reference = working_white(scene)
    found, missing = [], []
    for light in scene.lights:
        gel = scene.gear.get(light.place.gel or "")
        got = emission(light, gel if isinstance(gel, Gel) else None, volts, reference)
        if isinstance(got, Missing):
            missing.append(got)
            continue
        if _outside(scene, light):
            missing.append(Missing(f"The {light.name} is not inside the room.", light.path))
            continue
        kind: Kind = "steady" if got.steady else "flash"
        found.append(Beam(light.name, light.path, kind, got.source, got, light.place.role))
    for beam in (*_around(scene, reference), *_left_on(scene, volts, reference)):
        if isinstance(beam, Missing):
            missing.append(beam)
        else:
            found.append(beam)
    return tuple(found), tuple(missing)


def _outside(scene: Scene, light: Light) -> bool:
    """Whether a light is behind a wall or over the ceiling, from where the solve would let it shine in."""
    if light.at is None or scene.walls is None:
        return False
    if not scene.walls.contains(light.at[None, :2]).all():
        return True
    return scene.ceiling is not None and float(light.at[2]) > scene.ceiling.height(
        float(light.at[0]), float(light.at[1])
    )


def working_white(scene: Scene) -> float:
    """Colour temperature the bands are relative to: the key's, gel counted; daylight's where no light is set up."""
    ranked = sorted(scene.lights, key=lambda one: FIRST.index(one.place.role) if one.place.role in FIRST else 99)
    for light in ranked:
        if light.head is not None:
            gel = scene.gear.get(light.place.gel or "")
            own = light.head.kelvin.value if light.head.kelvin else DAYLIGHT
            return gelled(own, gel.shift or 0.0) if isinstance(gel, Gel) else own
    if scene.shot.around in ("daylight", "daylight and room lamps"):
        known = [window.kelvin.value for window in scene.room.windows if window.kelvin and window.daylight]
        return known[0] if known else SKY
    return DAYLIGHT


def _around(scene: Scene, reference: float) -> list["Beam | Missing"]:
    """Windows by day and lamps of the room, where the shot leaves them on."""
    found: list[Beam | Missing] = []
    around = scene.shot.around
    if around in ("daylight", "daylight and room lamps") and scene.walls is not None:
        for window in scene.room.windows:
            face = window_face(scene.walls, scene.room, window)
            if face is None or window.blackout == "in place":
                continue
            path = f"room/windows/{window.id}"
            if window.daylight is None:
                found.append(Missing(f"The daylight on the {window.name} is missing.", path))
                continue
            area = (window.width.value if window.width else 0.0) * (window.height.value if window.height else 0.0)
            flux = window.daylight.value * lets_in(window) * area
            kelvin = window.kelvin.value if window.kelvin else SKY
            way = unit(np.cross(face[1] - face[0], face[2] - face[1]))
            source = Source(window.name, face + way * 1e-4, way, frame_axes(way)[0], flux * bands_of(kelvin, reference))
            stands_at = window.kelvin.value if window.kelvin else None
            found.append(Beam(window.name, path, "around", source, role="window", stands_at=stands_at))
    if around in ("room lamps on", "daylight and room lamps"):
        for box in scene.room.boxes:
            if box.kind != "lamp" or box.x is None or box.y is None or box.length is None or box.width is None:
                continue
            path = f"room/boxes/{box.id}"
            if box.lumens is None:
                found.append(Missing(f"The luminous flux of the {box.name} is missing.", path))
                continue
            low = (value(box.base) or 0.0) - 0.02
            spot = np.array([box.x.value + box.length.value / 2, box.y.value + box.width.value / 2, max(low, 0.05)])
            down = np.array([0.0, 0.0, -1.0])
            kelvin = box.kelvin.value if box.kelvin else BULB
            source = Source(
                box.name,
                round_face(spot, down, 0.06, 8),
                down,
                frame_axes(down)[0],
                box.lumens.value * bands_of(kelvin, reference),
                everywhere(0.2),
            )
            stands_at = box.kelvin.value if box.kelvin else None
            found.append(Beam(box.name, path, "around", source, role="room lamp", stands_at=stands_at))
    return found


def _left_on(scene: Scene, volts: float, reference: float) -> Iterable["Beam | Missing"]:
    """Lamps of sets beside that stay on while this one is used."""
    for other in scene.beside:
        for light in other.lights if other.plan.stays_lit else ():
            gel = scene.gear.get(light.place.gel or "")
            got = emission(light, gel if isinstance(gel, Gel) else None, volts, reference)
            if isinstance(got, Missing):
                yield got
            elif got.steady and not _outside(scene, light):
                name = f"{light.name} of “{other.plan.name}”"
                yield Beam(name, light.path, "around", got.source, role=LEFT_ON, stands_at=got.kelvin)


def key_sides(scene: Scene, beams: tuple[Beam, ...]) -> list[float]:
    """The same of each light of the key's role, in order: a pair of keys may stand on either side."""
    if scene.face is None:
        return []
    nose = nose_of(scene)
    left = np.array([-nose[1], nose[0], 0.0])
    for role in FIRST:
        spots = [b.light.at for b in beams if b.role == role and b.light is not None and b.light.at is not None]
        if spots:
            return [1.0 if float((spot - scene.face) @ left) >= 0 else -1.0 for spot in spots]
    return []


def key_side(scene: Scene, beams: tuple[Beam, ...]) -> float:
    """1 when the key stands to the subject's left of the nose line, −1 to its right."""
    sides = key_sides(scene, beams)
    if sides:
        return sides[0]
    nose = nose_of(scene)
    left = np.array([-nose[1], nose[0], 0.0])
    windows = [] if any(beam.light is not None for beam in beams) else [b for b in beams if b.role == "window"]
    if windows and scene.face is not None:
        face = scene.face
        near = min(windows, key=lambda b: float(np.linalg.norm(b.source.centre - face)))
        return 1.0 if float((near.source.centre - face) @ left) >= 0 else -1.0
    return 1.0
