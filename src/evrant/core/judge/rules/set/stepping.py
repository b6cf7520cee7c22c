"""The camera further back and the picture cropped: less near, deeper sharp, and what that costs in pixels."""

from collections.abc import Iterable
from typing import Any

from evrant.core.edits.language import SetFields, Several
from evrant.core.judge.rules.rule import Proposal
from evrant.core.space.scene import Scene
from evrant.core.studio.words import Say

FURTHER = (1.25, 1.6, 2.0)
"""How many times as far it is tried from."""
OFFERED = 0.4
"""Share of a picture's height down to which this is offered unasked; common practice, no source."""


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
