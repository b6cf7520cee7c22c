"""What a microphone hears: the voice, the room's answer to it, and what runs.

Levels are A-weighted and in dB. References:
[1] Direct sound falls by 20 log r; the reverberant level is L_W + 10 log(4 / A); L_W = L(1 m) + 11 for a source in free
    space; any textbook of room acoustics.
[2] Normal speech at one metre before the mouth 60 dB (ISO 9921).
[3] Noise through a window: L_out − R + 10 log(S / A) + 3; R about 30 dB for closed double glazing, from memory.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from evrant.core.base.quantity import Figure
from evrant.core.base.tables.absorption import DIRECTIVITY
from evrant.core.sound.hall import Hall, critical_distance
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Vector
from evrant.core.studio.gear import Lamp, Microphone
from evrant.core.studio.room import value
from evrant.core.studio.sets import PropPlace

VOICE = 60.0
VOICE_UNSURE = 4.0
FAN = Figure(32.0, 4.0, "typical")
"""A lamp's fan at one metre; usual, from memory."""
GLAZING = 30.0
FREE = 11.0
AT_CHEST, AT_CHIN = 0.20, 0.15
"""Mouth to a lavalier and to an earphone cable's microphone [m]; common practice, no source."""
OUT_OF_FRAME = 0.05
"""What is kept between a microphone and the picture's edge [m]; common practice, no source."""
NEAREST = 0.05


@dataclass(frozen=True)
class Pickup:
    """The microphone of a set: what it is, where its tip is (None: worn), how far from the mouth [m], its directivity,
    and for one on a boom the nearest it may hang over the picture's edge [m]."""

    item: Microphone
    place: PropPlace | None
    distance: float
    directivity: float
    words: str
    nearest: float | None


def pickup_of(scene: Scene) -> Pickup | None:
    """The set's microphone; None without one, or while its place cannot be told."""
    item = scene.gear.get(scene.plan.camera.microphone or "")
    if not isinstance(item, Microphone) or scene.face is None:
        return None
    directivity = DIRECTIVITY[item.pattern or "all round"]
    if item.form == "lavalier":
        return Pickup(item, None, AT_CHEST, directivity, "worn a hand below the chin", None)
    if item.form == "earphones":
        return Pickup(item, None, AT_CHIN, directivity, "in the cable, beside the chin", None)
    if item.form == "on the camera":
        if scene.eye is None:
            return None
        far = float(np.linalg.norm(scene.eye - scene.face))
        return Pickup(item, None, far, directivity, "on the camera", None)
    near = nearest_above(scene)
    place = next((one for one in scene.plan.props if one.item == item.id), None)
    if place is not None and place.x is not None and place.y is not None and place.height is not None:
        tip = np.array([place.x, place.y, place.height])
        far = max(float(np.linalg.norm(tip - scene.face)), NEAREST)
        return Pickup(item, place, far, directivity, "on its boom", near)
    if near is None:
        return None
    return Pickup(item, None, near, directivity, "on its boom, just over the picture", near)


def nearest_above(scene: Scene) -> float | None:
    """How near to the mouth a microphone may come over the picture's upper edge [m], straight up in the picture."""
    spot = spot_above(scene)
    return None if spot is None or scene.face is None else float(np.linalg.norm(spot - scene.face))


def spot_above(scene: Scene) -> Vector | None:
    """The place over the picture's upper edge that is nearest to the mouth (3,)."""
    view, face = scene.view, scene.face
    if view is None or face is None:
        return None
    depth = float(view.depth(face[None])[0])
    if depth < NEAREST:
        return None
    up = float(view.project(face[None])[0][1])
    half = view.upward / 2 / view.image * depth
    return np.asarray(face + view.up * ((1.0 - up) * half + OUT_OF_FRAME))


def over_reverberant(hall: Hall, pickup: Pickup) -> float:
    """Direct over reverberant sound of the voice [dB]: 20 log(r_c / r)."""
    return 20 * math.log10(critical_distance(hall.for_speech, pickup.directivity) / pickup.distance)


@dataclass(frozen=True)
class Noise:
    """Something that is heard: its level at the microphone [dB], direct and reverberant together."""

    name: str
    path: str
    level: float
    pm: float


def is_told(scene: Scene) -> bool:
    """Whether anything is said of what runs: a silent room is one somebody has listened to."""
    fans = any(isinstance(light.head, Lamp) and light.head.fan for light in scene.lights)
    return fans or any(box.noise for box in scene.boxes) or any(window.street for window in scene.room.windows)


def noises(scene: Scene, hall: Hall, pickup: Pickup) -> list[Noise]:
    """Everything that runs, loudest first; and the microphone's own noise."""
    at = _tip(scene, pickup)
    found = [*_sources(scene, hall, pickup, at), *_street(scene, hall, pickup)]
    hiss = pickup.item.hiss
    if hiss is not None:
        found.append(Noise("microphone's own noise", f"gear/{pickup.item.id}", hiss.value, hiss.pm))
    return sorted(found, key=lambda one: -one.level)


def _tip(scene: Scene, pickup: Pickup) -> Vector:
    assert scene.face is not None
    place = pickup.place
    if place is not None and place.x is not None and place.y is not None and place.height is not None:
        return np.array([place.x, place.y, place.height])
    if pickup.item.form == "on the camera" and scene.eye is not None:
        return scene.eye
    above = spot_above(scene) if pickup.item.form == "on a boom" else None
    return above if above is not None else scene.face


def _sources(scene: Scene, hall: Hall, pickup: Pickup, at: Vector) -> Iterator[Noise]:
    for box in scene.boxes:
        if box.noise is None or box.hushed or None in (box.x, box.y, box.length, box.width):
            continue
        x, y, long, wide = (value(one) or 0.0 for one in (box.x, box.y, box.length, box.width))
        spot = np.array([x + long / 2, y + wide / 2, (value(box.base) or 0.0) + (value(box.height) or 0.5) / 2])
        yield _noise(box.name, f"room/boxes/{box.id}", box.noise, float(np.linalg.norm(spot - at)), hall, pickup)
    for light in scene.lights:
        if isinstance(light.head, Lamp) and light.head.fan and light.at is not None:
            far = float(np.linalg.norm(light.at - at))
            yield _noise(f"fan of the {light.name}", light.path, FAN, far, hall, pickup)


def _noise(name: str, path: str, level: Figure, far: float, hall: Hall, pickup: Pickup) -> Noise:
    direct = level.value - 20 * math.log10(max(far, 0.1))
    around = level.value + FREE + 10 * math.log10(4 / hall.for_speech) - 10 * math.log10(pickup.directivity)
    return Noise(name, path, louder(direct, around), level.pm)


def _street(scene: Scene, hall: Hall, pickup: Pickup) -> Iterator[Noise]:
    for window in scene.room.windows:
        area = (value(window.width) or 0.0) * (value(window.height) or 0.0)
        if window.street is None or area <= 0:
            continue
        level = window.street.value - GLAZING + 10 * math.log10(area / hall.for_speech) + 3
        level -= 10 * math.log10(pickup.directivity)
        yield Noise(f"street through the {window.name}", f"room/windows/{window.id}", level, window.street.pm)


def louder(*levels: float) -> float:
    """Levels joined [dB]."""
    return 10 * math.log10(sum(10 ** (level / 10) for level in levels)) if levels else -math.inf


def voice_at(pickup: Pickup) -> float:
    """The voice at the microphone [dB]."""
    return VOICE - 20 * math.log10(pickup.distance)


def over_noise(found: list[Noise], pickup: Pickup) -> float:
    """The voice over everything else [dB]."""
    return voice_at(pickup) - louder(*(one.level for one in found))
