"""Does the camera look from where the shot asks it to? Code frame.angle."""

import math
from collections.abc import Iterable

from evrant.core.base.estimate import Estimate
from evrant.core.base.margins import Basis, Line, Margin, judge
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import FRAMED, Proposal, SetRule
from evrant.core.space.scene import Scene
from evrant.core.space.shares import picture_shares
from evrant.core.studio.studio import Studio

ANGLE = Line(
    "frame.angle",
    "Angle the camera looks down by",
    "°",
    Basis(
        "|arcsin((height of the lens − middle of the frame) / distance) − angle of the shot| ≤ 10°",
        "Plane trigonometry; the ten degrees are a project choice",
        "computed",
    ),
    asks="Does the camera look down, or up, as the shot asks?",
    step="set",
    goes=True,
)
WITHIN, ASKED_FROM = 10.0, 7.0
"""How far the angle may be off, and from where on that is asked [degrees]; project choice."""


def looks_down(scene: Scene) -> float | None:
    """The angle that the lens looks down by, below zero up [degrees]; None where it has no place."""
    if scene.eye is None or scene.aim is None:
        return None
    way = scene.eye - scene.aim
    return math.degrees(math.atan2(float(way[2]), math.hypot(float(way[0]), float(way[1]))))


def _off(scene: Scene) -> float | None:
    looks = looks_down(scene)
    return None if looks is None else abs(looks - scene.shot.angle)


def margins(scene: Scene) -> Iterable[Margin]:
    """One line where the camera stands higher or lower than the shot asks."""
    looks, off = looks_down(scene), _off(scene)
    if looks is None or off is None or off < ASKED_FROM or scene.eye is None:
        return
    high = looks > scene.shot.angle
    yield judge(
        ANGLE,
        (f"{scene.path}/camera", f"shots/{scene.shot.id}"),
        Estimate(WITHIN - off, picture_shares(scene, lambda one: None if (o := _off(one)) is None else WITHIN - o)),
        need=off,
        have=WITHIN,
        clear="The camera looks from about where the shot asks.",
        short=f"The camera stands too {'high' if high else 'low'} for the shot.",
        reason=f"It looks {abs(looks):.0f}° {'down' if looks >= 0 else 'up'}; the shot asks for "
        f"{_words(scene.shot.angle)}.",
        at=(float(scene.eye[0]), float(scene.eye[1]), float(scene.eye[2])),
        placing=0.5,
    )


def _words(angle: float) -> str:
    if not angle:
        return "a level view"
    return f"{abs(angle):.0f}° {'down' if angle > 0 else 'up'}"


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """The height that the shot's angle gives; the angle that the camera has."""
    looks = looks_down(scene) if scene is not None else None
    if scene is None or looks is None:
        return
    path = f"{scene.path}/camera"
    if scene.plan.camera.height is not None:
        yield Proposal("Put the camera as high as the shot asks", SetFields(target=path, fields={"height": None}))
    if -30 <= round(looks) <= 90:
        fields = {"angle": float(round(looks))}
        yield Proposal(f"Ask for {_words(round(looks))}", SetFields(target=f"shots/{scene.shot.id}", fields=fields))


RULE = SetRule("angle of view", margins, (ANGLE,), propose, reads=FRAMED)
