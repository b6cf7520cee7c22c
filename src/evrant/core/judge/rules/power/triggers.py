"""Is every flash fired? Codes trigger.fired, trigger.transmitter, trigger.receivers, trigger.groups, trigger.cable
(trigger.sight is with the aims)."""

from collections.abc import Iterable, Sequence

import numpy as np

from evrant.core.base.estimate import Estimate, Share
from evrant.core.base.margins import Basis, Line, Margin, judge, unknown
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import GEOMETRY, Proposal, SetRule
from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene
from evrant.core.space.shares import picture_shares
from evrant.core.studio.gear import Camera, Flash, Part
from evrant.core.studio.room import value
from evrant.core.studio.studio import Studio

PARTS_BASIS = Basis(
    "transmitters and receivers in the kit ≥ flashes fired by radio that have none built in",
    "Counting; makers' figures as entered",
    "declared",
)
CAMERA = Line(
    "trigger.camera",
    "What fires on the camera",
    "parts",
    Basis(
        "what the transmitter or flash sits on = what the camera offers",
        "Makers' figures as entered; shoes with contacts of their own fit no other make, common practice",
        "common practice",
    ),
    asks="Does the transmitter fit what the camera offers?",
    step="power",
    blames="light",
)
CABLE = Line(
    "trigger.cable",
    "Sync cable of the …",
    "m",
    Basis(
        "camera down to the floor + over the floor + up to the head + 30 cm slack ≤ cable",
        "Plane geometry; slack is common practice, no source",
        "computed",
    ),
    asks="Does the sync cable reach down to the floor, over it and up again?",
    step="power",
    fails=True,
    blames="light",
)
FIRED = Line(
    "trigger.fired",
    "What fires the slaves",
    "parts",
    PARTS_BASIS,
    asks="Is it known what fires each flash, and does something fire the first?",
    step="power",
    fails=True,
    blames="light",
)
TRANSMITTER = Line(
    "trigger.transmitter",
    "Radio transmitter",
    "parts",
    PARTS_BASIS,
    asks="Is there a radio transmitter in the kit?",
    step="power",
    blames="light",
    first=True,
)
RECEIVERS = Line(
    "trigger.receivers",
    "Radio receivers",
    "parts",
    PARTS_BASIS,
    asks="Are there receivers for flashes without one built in?",
    step="power",
    blames="light",
)
GROUPS = Line(
    "trigger.groups",
    "Groups of the transmitter",
    "parts",
    PARTS_BASIS,
    asks="Has the transmitter as many groups as the set uses?",
    step="power",
    blames="light",
)
SLACK = 0.30


def margins(scene: Scene) -> Iterable[Margin]:
    """Every line about firing the flashes of a set."""
    flashes = [light for light in scene.lights if isinstance(light.head, Flash)]
    radio, leading = [], 0
    for light in flashes:
        match _fired(light):
            case None:
                yield from _unknown(light)
            case "radio":
                radio.append(light)
                leading += 1
            case "cable":
                leading += 1
                yield from _cable(scene, light)
            case "camera shoe":
                leading += 1
                yield from _shoe(scene, light)
    if radio:
        yield from _radio(scene, radio)
    slaves = [light for light in flashes if _fired(light) == "optical slave"]
    if slaves and not leading:
        yield judge(
            FIRED,
            (slaves[0].path,),
            Estimate(-1.0),
            need=1.0,
            have=0.0,
            clear="",
            short="Only optical slaves: nothing fires the first of them.",
            reason="One flash must be fired by radio, by cable or on the camera's shoe.",
        )


def _fired(light: Light) -> str | None:
    return light.head.fired if isinstance(light.head, Flash) else None


def _unknown(light: Light) -> Iterable[Margin]:
    head = light.head
    assert head is not None
    yield unknown(
        FIRED,
        (f"gear/{head.id}", light.path),
        f"How the {head.called} is fired is not said.",
        "By radio, as optical slave, by cable or on the camera's shoe: look at its panel.",
        title=f"What fires the {light.name}",
    )


def _own(scene: Scene, *uses: str) -> list[Part]:
    """Parts of the kit of some uses that are owned or planned."""
    return [item for item in scene.gear.values() if isinstance(item, Part) and item.use in uses and item.at_hand]


def _count(parts: Iterable[Part]) -> int:
    return sum(part.quantity for part in parts)


def _radio(scene: Scene, radio: list[Light]) -> Iterable[Margin]:
    path = f"{scene.path}/triggers"
    senders = _own(scene, "trigger", "transmitter")
    need = sum(light.place.heads for light in radio if not (isinstance(light.head, Flash) and light.head.receiver))
    have = _count(_own(scene, "trigger", "receiver"))
    yield _parts(TRANSMITTER, path, "Radio transmitter", 1, min(_count(senders), 1), "transmitter")
    names = ", ".join(light.name for light in radio)
    if need:
        yield _parts(RECEIVERS, path, "Radio receivers", need, have, "receiver", f" For: {names}.")
    body = scene.body
    if senders and body is not None:
        yield from _fits(f"{scene.path}/camera", body, senders)
    groups = {light.place.group for light in radio if light.place.group}
    room = max((part.groups or 1 for part in senders), default=0)
    if len(groups) > 1 and senders:
        yield _parts(GROUPS, path, "Groups of the transmitter", len(groups), room, "group")


def _parts(line: Line, path: str, title: str, need: int, have: int, what: str, more: str = "") -> Margin:
    lacks = need - have
    return judge(
        line,
        (path,),
        Estimate(float(have - need) if lacks > 0 else 1.0),
        title=title,
        need=float(need),
        have=float(have),
        clear=f"There {'is a' if need == 1 else 'are enough'} {what}{'' if need == 1 else 's'}.",
        short=f"{lacks} {what}{'' if lacks == 1 else 's'} {'is' if lacks == 1 else 'are'} missing from the kit.",
        reason=f"{need} needed, {have} owned or planned.{more}",
    )


def _fits(path: str, body: Camera, senders: Sequence[Part]) -> Iterable[Margin]:
    fires, called = body.fires, body.called
    fits = [part.fits for part in senders if part.fits]
    title = "What fires on the camera"
    if fires is None or not fits:
        words = (
            f"How the {called} fires flash is not said."
            if fires is None
            else "What the transmitter sits on is missing."
        )
        find = "Look at the camera's shoe and sockets; shoes with contacts of their own take only their own kind."
        enter = f"gear/{body.id if fires is None else senders[0].id}"
        yield unknown(
            CAMERA,
            (enter, path),
            words,
            find,
            title=title,
        )
        return
    goes = fires in fits
    yield judge(
        CAMERA,
        (path,),
        Estimate(1.0 if goes else -1.0),
        title=title,
        need=0.0 if goes else 1.0,
        have=0.0,
        clear="The camera fires the flashes.",
        short=f"The transmitter does not fit the {called}.",
        reason=f"The camera offers: {fires}; the transmitter sits on: {' or '.join(sorted(set(fits)))}."
        + ("" if goes else " An adapter with a sync socket, or another transmitter."),
    )


def _shoe(scene: Scene, light: Light) -> Iterable[Margin]:
    """A flash on the camera's own shoe: it must be at the camera."""
    if light.mount is None or scene.eye is None:
        return
    off = float(np.linalg.norm(light.mount - scene.eye))
    if off <= 0.4:
        return
    yield judge(
        FIRED,
        (light.path,),
        Estimate(-1.0),
        title=f"What fires the {light.name}",
        need=1.0,
        have=0.0,
        clear="",
        short=f"The {light.name} is fired by the camera's shoe, but stands away from it.",
        reason="Off the camera it needs radio, an optical slave or a cable.",
    )


def cable_need(scene: Scene, path: str) -> float | None:
    """Sync cable from camera to head, along the floor [m]."""
    light = scene.light_at(path)
    if light is None or light.mount is None or scene.eye is None:
        return None
    level = float(np.linalg.norm(light.mount[:2] - scene.eye[:2]))
    return float(scene.eye[2]) + level + float(light.mount[2]) + SLACK


def _cable(scene: Scene, light: Light) -> Iterable[Margin]:
    title = f"Sync cable of the {light.name}"
    need = cable_need(scene, light.path)
    if need is None:
        return
    cables = [part for part in _own(scene, "sync cable", "cable") if part.length is not None]
    best = max(cables, key=lambda part: value(part.length) or 0.0, default=None)
    if best is None or best.length is None:
        words, find = (
            f"No sync cable with a length is in the kit for the {light.name}.",
            "Add one, or fire it by radio.",
        )
        yield unknown(
            CABLE,
            ("kit", light.path),
            words,
            find,
            title=title,
            subject=light.path,
        )
        return
    shares = picture_shares(scene, lambda one: cable_need(one, light.path))
    yield judge(
        CABLE,
        (light.path,),
        Estimate(best.length.value - need, (*shares, Share("length of the cable", best.length.pm))),
        title=title,
        need=need,
        have=best.length.value,
        clear=f"The cable reaches the {light.name}.",
        short=f"The cable does not reach the {light.name}.",
        reason=f"The {best.called} must go down to the floor and up again; radio needs no cable.",
        placing=0.02,
    )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Plan parts that are only considered, more of what is planned, or flashes with receivers."""
    uses = {
        "trigger.transmitter": ("trigger", "transmitter"),
        "trigger.receivers": ("receiver", "trigger"),
    }.get(margin.code, ())
    lacks = int(-(margin.margin or 0))
    for item in studio.gear:
        if isinstance(item, Part) and item.use in uses:
            target = f"gear/{item.id}"
            if not item.at_hand:
                yield Proposal(f"Plan the {item.called}", SetFields(target=target, fields={"status": "planned"}))
            elif lacks > 0:
                fields = {"quantity": item.quantity + lacks}
                yield Proposal(f"Plan {lacks} more: {item.called}", SetFields(target=target, fields=fields))
    for light in scene.lights if scene else ():
        for item in studio.gear if margin.code == "trigger.fired" and light.path in margin.about else ():
            if isinstance(item, Flash) and item.id != light.place.head:
                yield Proposal(f"Use the {item.called}", SetFields(target=light.path, fields={"head": item.id}))


RULE = SetRule(
    "triggers",
    margins,
    (
        CAMERA,
        CABLE,
        FIRED,
        TRANSMITTER,
        RECEIVERS,
        GROUPS,
    ),
    propose,
    whole_kit=True,
    reads=GEOMETRY,
)
