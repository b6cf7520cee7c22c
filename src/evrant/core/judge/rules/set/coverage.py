"""Does the lens cover the sensor? Code frame.coverage."""

import math
from collections.abc import Iterable

from evrant.core.base.estimate import estimate
from evrant.core.base.margins import Basis, Line, Margin, judge
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import FRAMED, Proposal, SetRule
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import Camera, Lens
from evrant.core.studio.shots import LEAST_KEPT
from evrant.core.studio.studio import Studio

COVERAGE = Line(
    "frame.coverage",
    "Corners of the picture",
    "%",
    Basis("diagonal that the lens covers ≥ diagonal of what is kept of the sensor", "Pythagoras", "declared"),
    asks="Does the lens light the whole sensor, or are its corners black?",
    step="set",
    first=True,
    goes=True,
)
HARDLY = 1.0
"""Where so little more than the sensor is covered a line says so [%]."""


def uncovered(body: Camera, lens: Lens, kept: float = 1.0) -> float | None:
    """How much of what is kept of a sensor's diagonal a lens leaves black, below zero where it covers more [share];
    None where a size is not known."""
    if lens.covers is None or body.sensor_width is None or body.sensor_height is None:
        return None
    return 1 - lens.covers.value / (kept * math.hypot(body.sensor_width.value, body.sensor_height.value))


def margins(scene: Scene) -> Iterable[Margin]:
    """One line where the lens does not cover what is kept of the sensor, or hardly does."""
    body, lens, kept = scene.body, scene.lens, scene.shot.kept
    if body is None or lens is None or lens.covers is None:
        return
    if body.sensor_width is None or body.sensor_height is None:
        return
    found = estimate(
        lambda covers, sensor_width, sensor_height: (
            100 * (covers / (kept * math.hypot(sensor_width, sensor_height)) - 1)
        ),
        covers=lens.covers,
        sensor_width=body.sensor_width,
        sensor_height=body.sensor_height,
    )
    if found.value > max(found.uncertainty, HARDLY):
        return
    used = kept * math.hypot(body.sensor_width.value, body.sensor_height.value)
    yield judge(
        COVERAGE,
        (f"{scene.path}/camera", f"gear/{lens.id}"),
        found,
        need=100.0,
        have=100 + found.value,
        clear="The lens lights the whole picture.",
        short="The lens leaves the corners of the picture black.",
        reason=f"The {lens.called} covers {lens.covers.value * 1000:.1f} mm across; what is kept of the {body.called} "
        f"is {used * 1000:.1f} mm.",
    )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Another lens or body of the kit, or only the middle kept."""
    if scene is None or not margin.need or not margin.have:
        return
    for item in studio.gear:
        for kind, field in ((Lens, "lens"), (Camera, "body")):
            if isinstance(item, kind) and item.at_hand and item.id != getattr(scene.plan.camera, field):
                yield Proposal(f"Use the {item.called}", SetFields(target=margin.about[0], fields={field: item.id}))
    kept = math.floor(scene.shot.kept * margin.have / margin.need * 100) / 100
    if kept >= LEAST_KEPT:
        words = f"Keep the middle {kept:.0%} of each side"
        yield Proposal(words, SetFields(target=f"shots/{scene.shot.id}", fields={"kept": kept}), otherwise=True)


RULE = SetRule("coverage", margins, (COVERAGE,), propose, reads=FRAMED)
