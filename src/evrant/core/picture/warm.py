"""Runs every compiled kernel of the picture once, so that it is compiled."""

from typing import Any

from evrant.core.light.emission import Missing
from evrant.core.light.lit import lit
from evrant.core.picture.render import picture
from evrant.core.space.scene import scene_of
from evrant.core.studio.studio import Studio

SMALL: dict[str, Any] = {
    "name": "Small",
    "room": {
        "footprint": {"kind": "rectangle", "length": 4.0, "width": 3.0},
        "height": 2.4,
        "floor": "wood",
        "ceiling": {"lrv": 80},
        "walls": [{"id": key, "name": key, "finish": {"lrv": 60}} for key in "abcd"],
    },
    "gear": [
        {"id": "c", "kind": "camera", "name": "Camera", "sensor_width": 0.0235, "sensor_height": 0.0156},
        {"id": "l", "kind": "lens", "name": "Lens", "focal": 0.05, "widest": 1.8},
        {"id": "f", "kind": "lamp", "name": "Panel", "lumens": 4000, "width": 0.3, "height": 0.3},
        {"id": "b", "kind": "lamp", "name": "Bulb", "lumens": 900, "beam": 40, "diameter": 0.08},
        {"id": "m", "kind": "board", "name": "Mirror", "surface": "mirror", "width": 0.5, "height": 0.7},
    ],
    "shots": [
        {
            "id": "s",
            "orientation": "landscape",
            "aperture": 2.0,
            "iso": 100,
            "shutter": 0.02,
            "crop": "half length",
            "subjects": [
                {"id": "p", "height": 1.7},
                {
                    "id": "o",
                    "kind": "object",
                    "height": 0.3,
                    "across": 0.4,
                    "base": 1.0,
                    "shape": "cylinder",
                    "shine": "satin",
                },
            ],
        }
    ],
    "sets": [
        {
            "id": "a",
            "name": "A",
            "shot": "s",
            "mark": {"x": 1.0, "y": 1.5, "facing": 0.0},
            "camera": {"x": 3.2, "y": 1.5, "height": 1.4, "body": "c", "lens": "l"},
            "lights": [
                {"id": "k", "role": "key", "head": "f", "x": 2.2, "y": 0.7, "height": 1.9},
                {"id": "h", "role": "rim", "head": "b", "x": 0.3, "y": 2.6, "height": 2.0},
            ],
            "props": [{"id": "m", "item": "m", "x": 0.6, "y": 2.0, "height": 0.8, "turn": 80}],
        }
    ],
}


def warm() -> None:
    """A small picture of a person and a shiny thing by two lamps and a mirror, coarse and fine."""
    studio = Studio.model_validate(SMALL)
    scene = scene_of(studio, studio.sets[0])
    state = lit(scene) if scene is not None else None
    if state is not None and not isinstance(state, Missing):
        for fine in (False, True):
            picture(state, 60, fine=fine)
