"""The frame at other crops: what a picture that is taken wider can be cut to."""

from dataclasses import dataclass

import numpy as np

from evrant.core.space.posed import crop_heights
from evrant.core.space.scene import Scene
from evrant.core.space.wanted import wanted
from evrant.core.studio.shots import Crop

FORMATS = (("1 : 1", 1.0), ("4 : 5", 0.8), ("3 : 2", 1.5), ("16 : 9", 16 / 9))
"""Shapes pictures are shown in: width over height."""
WHOLE = 1e-6


@dataclass(frozen=True)
class Cut:
    """A rectangle of the picture in shares of its width and height from the upper left; `fits` when all of it is in
    the picture."""

    key: str
    words: str
    left: float
    top: float
    right: float
    low: float

    @property
    def fits(self) -> bool:
        return min(self.left, self.top) >= -WHOLE and max(self.right, self.low) <= 1 + WHOLE

    @property
    def kept(self) -> float:
        """Share of the picture's pixels."""
        return (self.right - self.left) * (self.low - self.top)


def cuts(scene: Scene) -> list[Cut]:
    """Crops of the people in the picture, then formats cut from its middle."""
    view = scene.view
    if view is None:
        return []
    found = [cut for crop in crop_heights(scene.shot) if (cut := _of_people(scene, crop)) is not None]
    shape = view.across / view.upward
    for words, ratio in FORMATS:
        wide, high = min(ratio / shape, 1.0), min(shape / ratio, 1.0)
        key = words.replace(" : ", "-by-")
        found.append(Cut(key, words, (1 - wide) / 2, (1 - high) / 2, (1 + wide) / 2, (1 + high) / 2))
    return found


def _of_people(scene: Scene, crop: Crop) -> Cut | None:
    """A crop as the shot would ask for it, laid into the picture that is taken."""
    asked = wanted(scene.shot.changed(crop=crop, frame_height=None, parts=1))
    view = scene.view
    if asked is None or view is None or scene.aim is None or scene.overhead:
        return None
    middle = np.array([[*scene.aim[:2], asked.middle]])
    depth = float(view.depth(middle)[0])
    if depth < 0.05:
        return None
    high = asked.height.value * view.image / depth / view.upward
    wide = high  # the picture's own shape, in shares of its sides
    x, y = (float(v) for v in view.project(middle)[0])
    across, down = (1 + x) / 2, (1 - y) / 2
    key = crop.replace(" ", "-")
    return Cut(key, crop, across - wide / 2, down - high / 2, across + wide / 2, down + high / 2)
