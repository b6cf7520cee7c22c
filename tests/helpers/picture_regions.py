"""Sets whose pictures are compared with a reference renderer, and the regions they are compared by."""

import numpy as np
from numpy.typing import NDArray

from evrant.core.light.lit import PAGE_PATCHES, Lit, lit
from evrant.core.picture.render import Picture
from evrant.core.picture.told import names_of
from evrant.core.space import rounds
from evrant.core.space.scene import scene_of
from evrant.core.studio.studio import Studio
from evrant.demo import demo_studio
from helpers.products import Data, product
from helpers.studios import parse

COLUMNS = 160
CASES = {
    "lesson": ("hands-in-view", "lesson-a"),
    "kneeling": ("adoption-corner", "kneeling-a"),
    "rock": ("stones-on-file", "rock-a"),
    "bottle": ("", "s"),
}
CARD: Data = {"kind": "board", "id": "card", "name": "Card", "surface": "white", "width": 0.12, "height": 0.16}
BY_THE_CARD: Data = {"id": "card", "item": "card", "x": 2.0, "y": 1.838, "height": 0.751, "turn": 180}
COVERS = {"skin": rounds.SKIN, "top": rounds.TOP, "trousers": rounds.TROUSERS}
LEAST = 60
"""Pixels a region has at least."""


def set_of(name: str) -> Lit:
    """A demo set in its light, solved as finely as the Light page does."""
    studio = _bottle() if name == "bottle" else demo_studio(CASES[name][0])
    scene = scene_of(studio, next(one for one in studio.sets if one.id == CASES[name][1]))
    assert scene is not None
    found = lit(scene, PAGE_PATCHES)
    assert isinstance(found, Lit)
    return found


def _bottle() -> Studio:
    """A mirror-like cylinder on a table before paper, a softbox on one side and a white card on the other."""
    size = {"height": 0.085, "width": 0.034, "depth": 0.034}
    data = product((CARD,), (BY_THE_CARD,), 1, shape="cylinder", shine="mirror-like", **size)
    return parse(data)


def masks_of(picture: Picture) -> dict[str, NDArray[np.bool_]]:
    """Regions of a picture by name: each thing, its left and right half, what people wear; none at edges."""
    seen = picture.seen
    columns = np.broadcast_to(np.arange(seen.columns), (seen.rows, seen.columns))
    whole: dict[str, NDArray[np.bool_]] = {}
    thin = {name for name, owner in zip(picture.stage.names, picture.stage.owners, strict=True) if not owner}
    for name, mask in names_of(picture).items():
        if name in thin:
            continue
        inner = mask.copy()
        inner[1:] &= mask[:-1]
        inner[:-1] &= mask[1:]
        inner[:, 1:] &= mask[:, :-1]
        inner[:, :-1] &= mask[:, 1:]
        if inner.sum() < LEAST:
            continue
        middle = float(columns[inner].mean())
        whole[f"{name}, left"] = inner & (columns < middle)
        whole[f"{name}, right"] = inner & (columns >= middle)
    part = seen.part.reshape(seen.rows, seen.columns)
    for name, cover in COVERS.items():
        mask = (part >= 0) & (picture.stage.parts[np.maximum(part, 0), 10] == cover)
        if mask.sum() >= LEAST:
            whole[name] = mask
    return {name: mask for name, mask in whole.items() if mask.sum() >= LEAST // 2}
