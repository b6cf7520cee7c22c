"""Does the ISO leave the picture clean enough for its sensor? Code frame.grain."""

import math
from collections.abc import Iterable

from evrant.core.base.estimate import Estimate, Share
from evrant.core.base.margins import Basis, Line, Margin, judge
from evrant.core.base.tables.steps import F_NUMBERS, ISOS, SLOWEST, nearest_time
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import UNLIT, Proposal, SetRule
from evrant.core.space.framing import cleanest_iso
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import Flash
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import f_words, time_words

GRAIN = Line(
    "frame.grain",
    "Grain at this ISO",
    "stop",
    Basis(
        "ISO ≤ 12 800 × area of the sensor / (36 × 24 mm), in stops, ± 1 stop for what passes; from two stops below on",
        "Grain goes by the light on the whole sensor: counting statistics, any text on noise; ISO 12 800 on 36 × 24 mm "
        "is common practice, no source",
        "common practice",
    ),
    asks="Is the ISO low enough for the sensor?",
    step="set",
    goes=True,
)
PASSES = 1.0
"""How much what passes differs from one to the next [stops]."""
NEAR = 2.0


def margins(scene: Scene) -> Iterable[Margin]:
    """One line where the ISO comes within two stops of what shows: lower it never does."""
    body, iso = scene.body, scene.shot.iso
    if body is None or iso is None or body.sensor_width is None or body.sensor_height is None:
        return
    most = cleanest_iso(body.sensor_width.value, body.sensor_height.value)
    spare = math.log2(most / iso)
    if spare > NEAR:
        return
    yield judge(
        GRAIN,
        (f"shots/{scene.shot.id}", f"{scene.path}/camera"),
        Estimate(spare, (Share("grain that passes as clean", PASSES),)),
        need=math.log2(iso),
        have=math.log2(most),
        clear="The picture stays clean at this ISO.",
        short="At this ISO the picture is grainy.",
        reason=f"ISO {iso} on a sensor of {body.sensor_width.value * 1000:g} × {body.sensor_height.value * 1000:g} mm; "
        f"up to about ISO {round(most, -2):.0f} passes.",
    )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Every lower ISO with what makes up for it: more power of flashes, a longer time for things, a wider aperture."""
    shot = None if scene is None else scene.shot
    if scene is None or shot is None or shot.iso is None:
        return
    flashed = any(isinstance(light.head, Flash) for light in scene.lights)
    for iso in (one for one in reversed(ISOS) if one < shot.iso):
        if flashed:
            yield _set(shot.id, f"Set ISO {iso}", iso=iso)
            continue
        time = None if shot.shutter is None else nearest_time(shot.shutter * shot.iso / iso)
        if shot.still and time is not None and time <= SLOWEST:
            yield _set(shot.id, f"Set ISO {iso} and {time_words(time)}", iso=iso, shutter=time)
        if shot.aperture is not None and (stop := _opened(scene, shot.aperture.value * math.sqrt(iso / shot.iso))):
            yield _set(shot.id, f"Open up to {f_words(stop)} at ISO {iso}", aperture=stop, iso=iso)


def _opened(scene: Scene, wanted: float) -> float | None:
    """The aperture nearest to one that is wanted, where the lens has it."""
    widest = scene.lens.widest.value if scene.lens is not None and scene.lens.widest is not None else 0.0
    near = min(F_NUMBERS, key=lambda stop: abs(math.log2(stop / wanted)))
    return near if abs(math.log2(near / wanted)) < 0.2 and near >= widest * 0.98 else None


def _set(shot: str, label: str, **fields: object) -> Proposal:
    return Proposal(label, SetFields.model_validate({"target": f"shots/{shot}", "fields": fields}))


RULE = SetRule("grain", margins, (GRAIN,), propose, reads=UNLIT)
