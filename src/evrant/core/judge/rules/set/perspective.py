"""Is the lens far enough from a face that its nose does not grow? Code frame.perspective."""

from collections.abc import Iterable

import numpy as np

from evrant.core.base.estimate import Estimate
from evrant.core.base.margins import PLACED_BOTH, Basis, Line, Margin, judge
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import FRAMED, Proposal, SetRule
from evrant.core.judge.rules.set.stepping import closer_to_the_ground, step_back
from evrant.core.space.framing import subject_distance
from evrant.core.space.scene import Scene
from evrant.core.space.shares import picture_shares
from evrant.core.studio.gear import Lens
from evrant.core.studio.room import value
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say

PERSPECTIVE = Line(
    "frame.perspective",
    "Distance to the face",
    "m",
    Basis(
        "lens to face ≥ 1.2 m; a nose 11 cm before the ears shows 11 / d larger than they do",
        "Central projection; 1.2 m is common practice, no source",
        "common practice",
    ),
    asks="Is the lens far enough from a face to leave its proportions alone?",
    step="set",
)
NEAREST, NOSE = 1.2, 0.11
CLOSE = ("head and shoulders", "half length")


def margins(scene: Scene) -> Iterable[Margin]:
    """One line for a person whose face fills a good part of the picture."""
    far = _distance(scene) if _asked(scene) else None
    if far is None:
        return
    say = Say.of(scene.brief)
    need = _lens_for(scene)
    lens = f" At {say.length(NEAREST)} the same picture takes {need * 1000:.0f} mm." if need and far < NEAREST else ""
    yield judge(
        PERSPECTIVE,
        (f"{scene.path}/camera", f"shots/{scene.shot.id}"),
        Estimate(far - NEAREST, picture_shares(scene, _distance)),
        need=NEAREST,
        have=far,
        clear="The face keeps its proportions.",
        short="The lens is so near that the nose grows and the ears shrink.",
        reason=f"{say.length(far)} to the face: the nose is drawn {NOSE / far:.0%} larger than the ears; from "
        f"{say.length(NEAREST)} on nobody minds, whatever the lens.{lens}",
        placing=PLACED_BOTH,
    )


def strained(scene: Scene) -> bool:
    """Whether the lens is so near a face that it draws it otherwise than it is."""
    far = _distance(scene) if _asked(scene) else None
    return far is not None and far < NEAREST


def _asked(scene: Scene) -> bool:
    return scene.shot.of_person and scene.shot.crop in CLOSE and not scene.overhead


def _distance(scene: Scene) -> float | None:
    """Lens to the lead subject's face [m]."""
    return None if scene.eye is None or scene.face is None else float(np.linalg.norm(scene.eye - scene.face))


def _lens_for(scene: Scene) -> float | None:
    """Focal length that takes the wanted frame from the nearest distance that passes [m]."""
    if scene.wanted is None or scene.sensor is None:
        return None
    return NEAREST / (1 + scene.wanted.height.value / scene.sensor[1].value)


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """The same picture from far enough and cropped; a longer lens at its own framing distance, from the kit."""
    far = None if scene is None else _distance(scene)
    if scene is not None and far is not None and 0 < far < NEAREST:
        yield from step_back(scene, (NEAREST * 1.04 / far, NEAREST * 1.15 / far))
        yield from closer_to_the_ground(scene, NEAREST * 1.04 / far)
    if scene is None or scene.wanted is None or scene.sensor is None or scene.mark is None or scene.axis is None:
        return
    say = Say.of(scene.brief)
    for item in studio.gear:
        focal = value(item.focal) if isinstance(item, Lens) else None
        if focal is None or item.id == scene.plan.camera.lens:
            continue
        across, up = (side.value for side in scene.sensor)
        far = max(
            subject_distance(focal, up, scene.wanted.height.value), subject_distance(focal, across, scene.wanted.width)
        )
        if NEAREST < far < 12:
            spot = scene.mark + scene.axis * (far * 1.02 + 0.02)
            fields = {"lens": item.id, "focal": None, "x": round(float(spot[0]), 3), "y": round(float(spot[1]), 3)}
            label = f"Use the {item.called}, {say.length(far)} from the mark"
            yield Proposal(label, SetFields(target=f"{scene.path}/camera", fields=fields))


RULE = SetRule("perspective", margins, (PERSPECTIVE,), propose, reads=FRAMED, whole_kit=True, order=2)
