"""The cable of a microphone to the camera. Codes power.microphone, power.microphone_trip."""

import math
from collections.abc import Iterable

import numpy as np

from evrant.core.base.estimate import Estimate, Share
from evrant.core.base.margins import Basis, Line, Margin, judge, unknown
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.power.tether import trip
from evrant.core.judge.rules.rule import UNEXPOSED, Proposal, SetRule
from evrant.core.sound.heard import Pickup, pickup_of, spot_above
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Vector
from evrant.core.space.volumes import ARM
from evrant.core.studio.gear import Microphone
from evrant.core.studio.room import value
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say
from evrant.core.wiring.tether import Cable, cable_to_camera

CABLE = Line(
    "power.microphone",
    "Cable of the microphone",
    "m",
    Basis(
        "cable ≥ height of the microphone + straight way over the floor + height of the lens + 50 cm for the stopper’s "
        "loop",
        "Plane geometry; loop common practice, no source",
        "computed",
    ),
    asks="Does the microphone's cable reach the camera?",
    step="power",
)
TRIP = Line(
    "power.microphone_trip",
    "Where the microphone’s cable lies",
    "m",
    Basis(
        "metres of it where people walk = 0, or at most 1.5 m of it under a cover",
        "As for leads; project choice",
        "project choice",
    ),
    asks="Does the microphone's cable lie where people walk?",
    step="power",
    safety=True,
    hazards=("Tripping",),
)
CHEST = 1.3
"""Height at which a worn microphone's cable leaves a person who stands [m]; common practice, no source."""


def margins(scene: Scene) -> Iterable[Margin]:
    """Lines of a filmed shot whose microphone hangs on a cable."""
    pickup = pickup_of(scene) if scene.shot.sound else None
    if pickup is None or pickup.item.form == "on the camera" or pickup.item.wireless:
        return
    about, item = f"{scene.path}/camera", pickup.item
    from_ = _foot(scene, pickup)
    laid = cable_to_camera(scene, *from_) if from_ is not None else None
    if laid is None or item.cord is None:
        where = about if laid is None else f"gear/{item.id}"
        words = (
            "Camera or mark has no place."
            if laid is None
            else f"How long the cable of the {item.called} is, is missing."
        )
        find = "Place them." if laid is None else "Measure it, or say that it sends without one."
        yield unknown(CABLE, (where, about), words, find)
        return
    yield _reach(scene, item, laid, about)
    yield trip(
        scene,
        TRIP,
        laid.end,
        laid.start,
        "The microphone's cable keeps off the path people walk.",
        "The microphone's cable lies where people walk.",
    )


def _foot(scene: Scene, pickup: Pickup) -> tuple[Vector, float] | None:
    """Where a microphone's cable comes down to the floor, and from what height."""
    place, item = pickup.place, pickup.item
    if item.form != "on a boom":
        return None if scene.mark is None else (scene.mark, CHEST)
    far = (value(item.length) or 0.18) + (value(item.reach) or ARM)
    if place is not None and place.x is not None and place.y is not None and place.height is not None:
        angle = math.radians(place.turn)
        return np.array([place.x + far * math.cos(angle), place.y + far * math.sin(angle)]), far + place.height
    spot = spot_above(scene)
    if spot is None or scene.axis is None:
        return None
    side = np.array([-scene.axis[1], scene.axis[0]])
    return np.asarray(spot[:2] + side * far), far + float(spot[2])


def _reach(scene: Scene, item: Microphone, laid: Cable, about: str) -> Margin:
    say = Say.of(scene.brief)
    assert item.cord is not None
    return judge(
        CABLE,
        (about, f"gear/{item.id}"),
        Estimate(item.cord.value - laid.need, (Share("places of things", 0.05), Share("cable", item.cord.pm))),
        need=laid.need,
        have=item.cord.value,
        clear="The microphone's cable reaches the camera.",
        short="The microphone's cable is too short.",
        reason=f"{say.length(laid.need)} down, over the floor and up to the camera; it is "
        f"{say.length(item.cord.value)} long.",
    )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """A cover; a microphone that sends without a cable, or one on the camera."""
    if scene is None:
        return
    target = f"{scene.path}/camera"
    if margin.code == TRIP.code and not scene.plan.camera.tether_covered:
        yield Proposal("Lay a cover over it", SetFields(target=target, fields={"tether_covered": True}))
    for item in studio.gear:
        if isinstance(item, Microphone) and item.at_hand and item.id != scene.plan.camera.microphone:
            yield Proposal(f"Record with the {item.called}", SetFields(target=target, fields={"microphone": item.id}))


RULE = SetRule("microphone cable", margins, (CABLE, TRIP), propose, reads=UNEXPOSED)
