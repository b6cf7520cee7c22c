"""Faces under each light pattern, as small pictures for the Shots page: `tools/faces`.

A person before the lens in a dark hall, a small softbox for each light of the pattern, placed and shaded by the
app's own light. The pictures ship with the app; `tests/web/test_faces.py` makes one anew and compares.
"""

from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from evrant.catalogue import load
from evrant.core.edits.language import Light
from evrant.core.light.bust import bust
from evrant.core.light.emission import Missing
from evrant.core.light.lit import lit
from evrant.core.place.moves import change
from evrant.core.place.patterns import PATTERNS
from evrant.core.space.scene import scene_of
from evrant.core.studio.shots import Pattern
from evrant.core.studio.studio import Studio

FOLDER = Path(__file__).resolve().parent.parent / "src/evrant/web/static/faces"
ROWS = 104
NO_FACE: frozenset[Pattern] = frozenset(
    {"tent", "scrim", "under-light", "silhouette", "gobo", "practicals", "window and reflector"}
)
"""Patterns that are not told by a face in a dark hall."""
BEHIND = 2.0


def hall(thing: bool) -> Studio:
    """A dark hall with a seated person or a ball on a stand, a camera and four small softboxes on stands."""
    catalogue = load()
    flash, box = (catalogue.find(key) for key in ("flash-200", "softbox-60-60"))
    assert flash is not None and box is not None
    lights, boxes = (
        [one.model_dump(mode="json", exclude_none=True) | {"id": f"{word}-{i}", "status": "owned"} for i in range(4)]
        for one, word in ((flash, "head"), (box, "box"))
    )
    stands = [
        {"kind": "stand", "id": f"stand-{i}", "name": f"stand {i}", "status": "owned", "max_height": 3.0, "load": 8}
        for i in range(4)
    ]
    person: dict[str, Any] = {"id": "p", "name": "Person", "posture": "seated", "height": 1.7}
    ball = {"id": "p", "name": "Ball", "kind": "object", "shape": "sphere", "height": 0.2, "base": 1.1}
    subject, crop = (ball, "whole subject") if thing else (person, "head and shoulders")
    dark = {"lrv": 4.0, "colour": "#383838"}
    data: dict[str, Any] = {
        "format": "evrant-studio",
        "schema": 1,
        "name": "Hall",
        "room": {
            "footprint": {"kind": "rectangle", "length": 9.0, "width": 9.0},
            "height": 4.0,
            "ceiling": dark,
            "floor_finish": dark,
            "walls": [{"id": key, "name": key, "finish": dark} for key in "abcd"],
        },
        "shots": [
            {
                "id": "face",
                "name": "Face",
                "crop": crop,
                "aperture": 8,
                "iso": 100,
                "shutter": 0.005,
                "subjects": [subject],
            }
        ],
        "gear": [
            {"kind": "camera", "id": "cam", "name": "camera", "status": "owned", "sensor_width": 0.036,
             "sensor_height": 0.024, "base_iso": 100},
            {"kind": "lens", "id": "lens", "name": "lens", "status": "owned", "focal": 0.085},
            *lights, *boxes, *stands,
        ],
        "sets": [
            {
                "id": "set",
                "name": "set",
                "shot": "face",
                "mark": {"x": 4.5, "y": 4.5, "facing": 90.0},
                "camera": {"body": "cam", "lens": "lens", "x": 4.5, "y": 6.5},
                "background": {"wall": "a"},
            }
        ],
    }  # fmt: skip
    return Studio.model_validate(data)


def face(pattern: Pattern, *, thing: bool = False) -> NDArray[np.uint8] | None:
    """Red, green, blue and cover (rows, columns, 4) of the face, or a ball, under a pattern; None where none is lit."""
    studio = change(hall(thing), Light(target="sets/set", pattern=pattern, side="left", distance=1.2))
    scene = scene_of(studio, studio.sets[0])
    state = lit(scene) if scene else None
    if state is None or isinstance(state, Missing):
        raise SystemExit(f"{pattern}: {state.words if isinstance(state, Missing) else 'no scene'}")
    made = bust(state, ROWS)
    return None if made is None else made.smoothed()


def main() -> None:
    FOLDER.mkdir(exist_ok=True)
    for pattern in PATTERNS:
        for thing in (False, True):
            pixels = None if pattern in NO_FACE else face(pattern, thing=thing)
            if pixels is not None:
                name = f"{'ball-' if thing else ''}{pattern.replace(' ', '-').replace(',', '').lower()}.png"
                Image.fromarray(pixels).save(FOLDER / name, optimize=True)
                print(name)


if __name__ == "__main__":
    main()
