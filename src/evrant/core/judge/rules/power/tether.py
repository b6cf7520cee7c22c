"""The cable from the camera to the computer. Codes power.tether, power.tether_trip."""

from collections.abc import Iterable

import numpy as np

from evrant.core.base.estimate import Estimate, Share
from evrant.core.base.margins import Basis, Line, Margin, judge, unknown
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import GEOMETRY, Proposal, SetRule
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Vector
from evrant.core.studio.gear import Part
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say
from evrant.core.wiring.floor import walked
from evrant.core.wiring.routes import length_inside
from evrant.core.wiring.tether import tether_of

TETHER = Line(
    "power.tether",
    "Tether of the camera",
    "m",
    Basis(
        "cable ≥ height of the lens + straight way over the floor + height of the desk + 50 cm for the stopper's loop",
        "Plane geometry; desk 75 cm and loop are common practice, no source",
        "computed",
    ),
    asks="Does the cable from the camera reach the computer?",
    step="power",
    fails=True,
)
TRIP = Line(
    "power.tether_trip",
    "Where the tether lies",
    "m",
    Basis(
        "metres of the cable where people walk = 0, or at most 1.5 m of it under a cover; the last 50 cm at the camera "
        "are the photographer's own",
        "As for leads; project choice",
        "project choice",
    ),
    asks="Does the camera's cable lie where people walk?",
    step="power",
    safety=True,
    fails=True,
    hazards=("Tripping",),
)
OWN, COVER, SPARE = 0.50, 1.5, 0.10


def margins(scene: Scene) -> Iterable[Margin]:
    """Whether it reaches, and whether anyone trips over it; nothing where the camera is not tethered."""
    place, about = scene.plan.camera, f"{scene.path}/camera"
    cable = scene.gear.get(place.tether or "")
    if not isinstance(cable, Part):
        return
    laid, say = tether_of(scene), Say.of(scene.brief)
    if laid is None or cable.length is None:
        what = (
            "The desk with the computer has no place."
            if laid is None
            else f"How long the {cable.called} is, is missing."
        )
        where = about if laid is None else f"gear/{cable.id}"
        yield unknown(TETHER, (where, about), what, "Say which zone of the room is the desk, and where it stands.")
        return
    yield judge(
        TETHER,
        (about, f"gear/{cable.id}"),
        Estimate(cable.length.value - laid.need, (Share("place of the camera", 0.05), Share("cable", cable.length.pm))),
        need=laid.need,
        have=cable.length.value,
        clear="The cable from the camera reaches the computer.",
        short="The cable from the camera is too short.",
        reason=f"{say.length(laid.need)} down, over the floor and up to the desk; "
        f"it is {say.length(cable.length.value)} long.",
    )
    yield trip(
        scene,
        TRIP,
        laid.start,
        laid.end,
        "The camera's cable keeps off the path people walk.",
        "The camera's cable lies where people walk: a trip pulls the camera down.",
        f"room/zones/{place.tether_to}",
    )


def crossed(scene: Scene, camera: Vector, end: Vector, own: str = "") -> float:
    """Metres of a straight cable that lie where people walk; the last 50 cm at the camera are the photographer's own.
    `own` is the path of what it leads to."""
    ways = [block.outline for block in walked(scene) if block.path != own]
    long = float(np.linalg.norm(end - camera))
    start = camera + (end - camera) * min(OWN / max(long, 1e-9), 1.0)
    crossing = length_inside(np.array([start, end]), ways)
    return crossing if crossing > 0.01 else 0.0


def trip(scene: Scene, line: Line, camera: Vector, end: Vector, clear: str, short: str, own: str = "") -> Margin:
    """Whether a straight cable between the camera and a place on the floor lies where people walk."""
    say = Say.of(scene.brief)
    crossing = crossed(scene, camera, end, own)
    covered = scene.plan.camera.tether_covered
    allowed = COVER if covered else 0.0
    middle = (camera + end) / 2
    return judge(
        line,
        (f"{scene.path}/camera",),
        Estimate(allowed - crossing, (Share("way people walk", 0.05),)) if crossing else Estimate(SPARE),
        need=crossing,
        have=allowed,
        clear=clear,
        short=short,
        reason=f"{say.length(crossing)} of it lie on a way{' under a cover' if covered else ''}. A stopper at the "
        "camera lets the plug go before anything falls.",
        at=(float(middle[0]), float(middle[1]), 0.0),
    )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """A longer cable of the kit; a cover over it."""
    if scene is None:
        return
    target = f"{scene.path}/camera"
    if margin.code == TRIP.code:
        if not scene.plan.camera.tether_covered:
            yield Proposal("Lay a cover over it", SetFields(target=target, fields={"tether_covered": True}))
        return
    need = margin.need or 0.0
    for item in studio.gear:
        if isinstance(item, Part) and item.use == "cable" and item.length and item.length.value >= need:
            yield Proposal(f"Take the {item.called}", SetFields(target=target, fields={"tether": item.id}))


RULE = SetRule("tether", margins, (TETHER, TRIP), propose, reads=GEOMETRY)
