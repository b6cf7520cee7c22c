"""The camera further back and the picture cropped: less near, deeper sharp, and what that costs in pixels."""

from collections.abc import Iterable
from typing import Any

import numpy as np

from evrant.core.edits.language import SetFields, Several, Shift
from evrant.core.judge.rules.rule import Proposal
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Vector
from evrant.core.studio.words import Say

FURTHER = (1.25, 1.6, 2.0)
"""How many times as far it is tried from."""
NEAREST_GAP = 0.4
"""Nearer than this nobody stands before a background [m]; common practice, no source."""
OFFERED = 0.4
"""Share of a picture's height down to which this is offered unasked; common practice, no source."""
LEAST = 0.1
"""Coming nearer to the background by less than this is no help worth telling [m]."""


def closer_to_the_ground(scene: Scene, times: float) -> Iterable[Proposal]:
    """The same picture from so many times as far where there is no room behind the camera: who is in it comes nearer to
    the background, which stays, by as much as the camera goes back, and the lights with them."""
    if scene.line is None or scene.mark is None or scene.camera_spot is None or not scene.distance:
        return
    spot, way = scene.line
    gap = float((scene.mark - spot) @ way)
    closer = min(scene.distance * (times - 1), gap - NEAREST_GAP)
    if closer < LEAST:
        return
    say, move = Say.of(scene.brief), -way * closer
    left = round(gap - closer - 0.005, 2)
    for one in step_back(scene, (times,)):
        assert isinstance(one.edit, Several)
        kept, camera = one.edit.edits
        assert isinstance(kept, SetFields) and isinstance(camera, SetFields)
        place = scene.mark + move + (scene.camera_spot - scene.mark) * times
        label = f"Come to {say.length(left)} before the background; {one.label[:1].lower()}{one.label[1:]}"
        ground = scene.plan.background
        hangs = ground.x is not None and ground.y is not None
        stays = (_at(f"{scene.path}/background", np.array([ground.x, ground.y])),) if hangs else ()
        edits = (
            SetFields(target=kept.target, fields={**kept.fields, "background_gap": left}),
            Shift(target=scene.path, dx=round(float(move[0]), 3), dy=round(float(move[1]), 3)),
            *stays,
            _at(camera.target, place),
        )
        yield Proposal(label, Several(edits=edits, label=label[:120]))


def _at(target: str, spot: Vector) -> SetFields:
    return SetFields(target=target, fields=dict(zip("xy", np.round(spot, 3).tolist(), strict=True)))


def step_back(
    scene: Scene, further: Iterable[float] = FURTHER, words: str = "", fields: dict[str, Any] | None = None
) -> Iterable[Proposal]:
    """The same picture from further back, so many times as far each; with other settings of the shot, in words."""
    if scene.mark is None or scene.axis is None or scene.camera_spot is None or scene.focal is None:
        return
    if scene.overhead or not scene.distance or scene.distance <= scene.focal.value:
        return
    say, focal = Say.of(scene.brief), scene.focal.value
    for times in further:
        kept = round(scene.shot.kept * (scene.distance - focal) / (scene.distance * times - focal), 3)
        if kept < OFFERED:
            return
        spot = scene.mark + (scene.camera_spot - scene.mark) * times
        place = {"x": round(float(spot[0]), 3), "y": round(float(spot[1]), 3)}
        label = (
            f"Step back to {say.length(scene.distance * times)} and crop{words}: {kept**2:.0%} of the pixels are left"
        )
        edits = (
            SetFields(target=f"shots/{scene.shot.id}", fields={**(fields or {}), "kept": kept}),
            SetFields(target=f"{scene.path}/camera", fields=place),
        )
        yield Proposal(label, Several(edits=edits, label=label))
