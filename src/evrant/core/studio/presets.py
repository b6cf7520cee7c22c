"""Shots people take at home, as they are begun: subject, crop, camera, light. Every figure can be changed.

Apertures, gaps and patterns are common practice, no source; statures are the middle of DIN 33402-2 (see
`tables.bodies`).
"""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from evrant.core.studio.shots import Posture

MIDDLE = 1.69
"""Half-way between the middle woman and the middle man of DIN 33402-2:2005 [m]."""
FLASH: dict[str, Any] = {"aperture": 8.0, "iso": 100, "shutter": 0.00625}
PRODUCT: dict[str, Any] = {"aperture": 11.0, "iso": 100, "shutter": 0.00625}
VIDEO: dict[str, Any] = {"capture": "video", "aperture": 4.0, "iso": 400, "shutter": 0.02, "orientation": "landscape"}


@dataclass(frozen=True)
class Preset:
    """A shot to begin with: the group it is listed under, its name, and its fields."""

    group: str
    name: str
    shot: dict[str, Any]


def person(key: str = "person", name: str = "Person", **fields: Any) -> dict[str, Any]:
    return {"id": key, "name": name, "kind": "person", "posture": "standing", "height": MIDDLE, **fields}


def row_places(number: int, rows: int = 1, apart: float = 0.55, behind: float = 0.55) -> list[tuple[float, float]]:
    """(across, ahead) of people in rows, the first before, each seen through a gap of the row before it [m]: a row of
    as many is moved on by half a place, both by a quarter so that the whole stays in the middle."""
    per_row = -(-number // rows)
    found = []
    for i in range(number):
        row, place = divmod(i, per_row)
        count = min(per_row, number - row * per_row)
        aside = 0.0 if rows == 1 or number % rows else apart / 4 * (1 if row % 2 else -1)
        found.append((round((place - (count - 1) / 2) * apart + aside, 3), round(-row * behind, 3)))
    return found


def group_places(number: int, rows: int = 1, apart: float = 0.55) -> list[dict[str, Any]]:
    """People of a group in their places in rows; of several rows the first sits."""
    places = enumerate(row_places(number, rows, apart), start=1)
    return [
        person(f"person-{i}", f"Person {i}", across=across, ahead=ahead, posture=row_posture(rows, ahead))
        for i, (across, ahead) in places
    ]


def row_posture(rows: int, ahead: float) -> Posture:
    """How those of a row are: of several the first sits, so that nobody hides a face."""
    return "seated" if rows > 1 and ahead == 0.0 else "standing"


def thing(
    name: str, height: float, width: float, depth: float, base: float | None = 0.75, **fields: Any
) -> dict[str, Any]:
    found = {"id": "object", "name": name, "kind": "object", "height": height, "width": width, "depth": depth, **fields}
    return found if base is None else found | {"base": base}


def _people() -> Iterable[Preset]:
    portrait = {"pattern": "loop", **FLASH}
    yield Preset(
        "People",
        "Head and shoulders, seated",
        {"crop": "head and shoulders", "subjects": [person(posture="seated")], **portrait},
    )
    yield Preset(
        "People",
        "Business headshots in series",
        {
            "crop": "head and shoulders",
            "subjects": [person(posture="seated")],
            "tone": "grey",
            **portrait,
            "pattern": "clamshell",
        },
    )
    yield Preset("People", "Half-length, standing", {"crop": "half length", "subjects": [person()], **portrait})
    yield Preset("People", "Three-quarter, standing", {"crop": "three-quarter", "subjects": [person()], **portrait})
    yield Preset("People", "Full-length, standing", {"crop": "full length", "subjects": [person()], **portrait})
    yield Preset(
        "People",
        "Couple, half-length",
        {"crop": "half length", "orientation": "landscape", "subjects": group_places(2, apart=0.45), **portrait},
    )
    yield Preset(
        "People",
        "Group of four",
        {
            "crop": "three-quarter",
            "orientation": "landscape",
            "subjects": group_places(4),
            **portrait,
            "pattern": "even pair",
        },
    )
    yield Preset(
        "People",
        "Group of six, two rows",
        {
            "crop": "three-quarter",
            "orientation": "landscape",
            "subjects": group_places(6, 2),
            **portrait,
            "pattern": "even pair",
            "aperture": 11.0,
        },
    )
    yield Preset(
        "People",
        "Self-portrait, half-length",
        {
            "crop": "half length",
            "subjects": [person()],
            "notes": "Seen on a screen, released by remote or timer.",
            **portrait,
        },
    )
    yield Preset(
        "People",
        "Fashion with movement",
        {"crop": "full length", "subjects": [person()], "movement": 0.4, **portrait, "pattern": "butterfly"},
    )


def _filmed() -> Iterable[Preset]:
    yield Preset(
        "Filmed",
        "Talking to camera",
        {
            "crop": "half length",
            "subjects": [person(posture="seated")],
            "blur": "background soft",
            **VIDEO,
            "pattern": "loop",
        },
    )
    yield Preset(
        "Filmed", "Audition tape", {"crop": "half length", "subjects": [person()], **VIDEO, "pattern": "side pair"}
    )
    yield Preset(
        "Filmed",
        "Hands and signing, waist up",
        {"crop": "half length", "subjects": [person()], "movement": 0.35, **VIDEO, "pattern": "side pair"},
    )


def _animals() -> Iterable[Preset]:
    yield Preset(
        "Animals",
        "Pet on a table",
        {
            "crop": "whole subject",
            "subjects": [
                {"id": "cat", "name": "Cat", "kind": "cat", "posture": "seated", "height": 0.32, "base": 0.72}
            ],
            "background_gap": 0.7,
            **FLASH,
            "pattern": "loop",
        },
    )
    yield Preset(
        "Animals",
        "Dog on the floor",
        {
            "crop": "whole subject",
            "subjects": [{"id": "dog", "name": "Dog", "kind": "dog", "posture": "seated", "height": 0.6}],
            "background_gap": 0.7,
            **FLASH,
            "pattern": "loop",
        },
    )
    yield Preset(
        "Animals",
        "Person kneeling with dog",
        {
            "crop": "whole subject",
            "subjects": [
                person(posture="kneeling", across=-0.2),
                {
                    "id": "dog",
                    "name": "Dog",
                    "kind": "dog",
                    "posture": "seated",
                    "height": 0.6,
                    "across": 0.22,
                    "ahead": 0.1,
                },
            ],
            "background_gap": 0.7,
            **FLASH,
            "pattern": "loop",
        },
    )


def _things() -> Iterable[Preset]:
    flat = {"crop": "whole subject", "background_gap": 0.3, **PRODUCT}
    yield Preset(
        "Things",
        "Product on a sweep",
        {"subjects": [thing("Product", 0.25, 0.15, 0.15)], "angle": 10.0, **flat, "pattern": "side pair"},
    )
    yield Preset(
        "Things",
        "Product lit from below",
        {
            "subjects": [thing("Product", 0.2, 0.1, 0.1)],
            "angle": 5.0,
            **flat,
            "pattern": "under-light",
            "notes": "On a translucent, black or mirror surface.",
        },
    )
    yield Preset(
        "Things",
        "Shiny object in a tent",
        {"subjects": [thing("Object", 0.12, 0.12, 0.12)], "angle": 15.0, **flat, "pattern": "tent"},
    )
    yield Preset(
        "Things",
        "Small collectable, close",
        {
            "subjects": [thing("Collectable", 0.05, 0.04, 0.04)],
            "angle": 20.0,
            **flat,
            "aperture": 16.0,
            "pattern": "side pair",
        },
    )
    yield Preset(
        "Things",
        "Garment on a hanger",
        {
            "crop": "whole subject",
            "subjects": [{"id": "garment", "name": "Garment", "kind": "garment", "height": 1.1, "base": 0.6}],
            "background_gap": 0.3,
            **PRODUCT,
            "pattern": "side pair",
        },
    )
    yield Preset(
        "Things",
        "Long garment, in two parts",
        {
            "crop": "whole subject",
            "parts": 2,
            "subjects": [{"id": "garment", "name": "Garment", "kind": "garment", "height": 1.6, "base": 0.3}],
            "background_gap": 0.3,
            **PRODUCT,
            "pattern": "side pair",
        },
    )
    yield Preset(
        "Things",
        "Garment on a dress form",
        {
            "crop": "whole subject",
            "subjects": [
                {"id": "garment", "name": "Dress", "kind": "garment", "height": 1.2, "depth": 0.3, "base": 0.35}
            ],
            "background_gap": 0.5,
            **PRODUCT,
            "pattern": "side pair",
        },
    )
    yield Preset(
        "Things",
        "Interior by small lamps",
        {
            "crop": "whole subject",
            "orientation": "landscape",
            "subjects": [thing("Table setting", 0.35, 0.8, 0.6, 0.72)],
            "angle": 15.0,
            "aperture": 5.6,
            "iso": 400,
            "shutter": 0.5,
            "pattern": "practicals",
        },
    )


def _from_above() -> Iterable[Preset]:
    yield Preset(
        "From above",
        "Flat lay",
        {
            "crop": "whole subject",
            "orientation": "landscape",
            "angle": 90.0,
            "subjects": [thing("Flat lay", 0.03, 0.9, 0.6, None)],
            **PRODUCT,
            "pattern": "side",
        },
    )
    yield Preset(
        "From above",
        "Food straight down",
        {
            "crop": "whole subject",
            "angle": 90.0,
            "subjects": [thing("Plate", 0.06, 0.3, 0.3)],
            "aperture": 5.6,
            "iso": 200,
            "shutter": 0.008,
            "pattern": "side",
        },
    )
    yield Preset(
        "From above",
        "Food from the side, at a window",
        {
            "crop": "whole subject",
            "angle": 25.0,
            "subjects": [thing("Plate", 0.08, 0.3, 0.3)],
            "background_gap": 0.3,
            "aperture": 4.0,
            "iso": 200,
            "shutter": 0.008,
            "blur": "background soft",
            "pattern": "window and reflector",
            "around": "daylight",
        },
    )


PRESETS: tuple[Preset, ...] = (*_people(), *_filmed(), *_animals(), *_things(), *_from_above())


def preset(name: str) -> Preset | None:
    return next((one for one in PRESETS if one.name == name), None)
