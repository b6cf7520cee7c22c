"""Does who is in the picture look into it? Code frame.turned."""

import math
from collections.abc import Iterable

from evrant.core.base.estimate import Estimate, Share
from evrant.core.base.margins import Basis, Line, Margin, judge
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import FRAMED, Proposal, SetRule
from evrant.core.space.scene import Scene
from evrant.core.studio.studio import Studio

TURNED = Line(
    "frame.turned",
    "Face to the camera",
    "°",
    Basis("angle between nose line and lens ≤ 90°", "Plane geometry; beyond a profile one sees no face", "computed"),
    asks="Does the face look into the picture, or does one see its back?",
    step="set",
    goes=True,
)
PROFILE, UNSURE, ASKED_FROM = 90.0, 5.0, 80.0
"""A face in profile, how exactly people stand, and from where on that is asked [degrees]; project choice."""


def margins(scene: Scene) -> Iterable[Margin]:
    """A line for people who look away from the camera."""
    if scene.overhead or scene.shot.lead.kind != "person" or scene.shot.pattern == "silhouette":
        return
    if scene.mark is None or scene.camera_spot is None:
        return
    way = scene.camera_spot - scene.mark
    toward = math.degrees(math.atan2(float(way[1]), float(way[0])))
    off = abs((scene.facing - toward + 180) % 360 - 180)
    if off < ASKED_FROM:
        return
    yield judge(
        TURNED,
        (f"{scene.path}/mark",),
        Estimate(PROFILE - off, (Share("way the head is held", UNSURE),)),
        need=off,
        have=PROFILE,
        clear="One sees the face in profile.",
        short="One sees the back of the head.",
        reason=f"The face is turned {off:.0f}° from the camera; from 90° on it looks away.",
        at=(float(scene.mark[0]), float(scene.mark[1]), 1.2),
    )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Turned to the camera."""
    yield Proposal("Turn to the camera", SetFields(target=margin.about[0], fields={"facing": None}))


RULE = SetRule("turned away", margins, (TURNED,), propose, reads=FRAMED)
