"""Is the picture sharp in its time? Codes frame.shake (the camera by hand), frame.still (the subject)."""

import math
from collections.abc import Iterable

from evrant.core.base.estimate import Estimate, Share
from evrant.core.base.margins import Basis, Line, Margin, judge
from evrant.core.base.tables.steps import ISOS, longest_within
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import Proposal, SetRule
from evrant.core.space.scene import Scene
from evrant.core.space.wanted import SPEED, freezes_in, holds_for
from evrant.core.studio.gear import Flash, Stand
from evrant.core.studio.shots import LIVING
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say, time_words

SHAKE = Line(
    "frame.shake",
    "Held by hand",
    "stop",
    Basis(
        "time ≤ 1 / (focal length as on 36 × 24 mm in mm) s, in stops, ± 1 stop for steady and unsteady hands",
        "Rule of thumb; common practice, no source",
        "common practice",
    ),
    asks="Is the shutter short enough to hold the camera by hand?",
    step="set",
    first=True,
)
STILL = Line(
    "frame.still",
    "Holding still",
    "stop",
    Basis(
        "time ≤ 1/60 s for people who hold still, 1/125 s for animals, under light that stays on, ± 1 stop; who has "
        "room to move does so at 3 m/s and smears no more than a thousandth of the frame's height",
        "Common practice, no source; what of a smear shows is the project's choice",
        "common practice",
    ),
    asks="Is the shutter short enough for who is in the picture?",
    step="set",
)
FULL_DIAGONAL = math.hypot(0.036, 0.024)
UNSURE = 1.0
"""How much hands and sitters differ [stops]."""


def margins(scene: Scene) -> Iterable[Margin]:
    """For stills under light that stays on; a flash in the dark is short by itself."""
    time = scene.shot.shutter
    if time is None or scene.shot.capture != "stills" or not _steady(scene):
        return
    about = (f"{scene.path}/camera", f"shots/{scene.shot.id}")
    longest, cropped = _by_hand(scene), ", cropped so," if scene.shot.kept < 1 else ""
    if scene.plan.camera.support is None and not scene.overhead and longest is not None:
        yield judge(
            SHAKE,
            about,
            Estimate(math.log2(longest / time), (Share("steadiness of the hand", UNSURE),)),
            need=time,
            have=longest,
            clear="The shutter is short enough to hold the camera by hand.",
            short="By hand this time blurs the picture.",
            reason=f"{time_words(time)}; without a tripod this lens{cropped} takes about {time_words(longest)}.",
        )
    yield from _held_still(scene, time)


def _held_still(scene: Scene, time: float) -> Iterable[Margin]:
    """Against who holds still, or against who moves on purpose."""
    moving, most = freezes_in(scene.shot), holds_for(scene.shot)
    if most is None:
        return
    kinds = {one.kind for one in scene.shot.subjects} & LIVING
    who = "people" if kinds <= {"person"} else "animals"
    reason = f"{time_words(time)}; {who} hold still for about {time_words(most)}."
    if moving is not None:
        say = Say.of(scene.brief)
        reason = (
            f"{time_words(time)}: a movement of {say.length(SPEED)} a second smears {say.fine(SPEED * time)}; "
            f"{say.fine(SPEED * most)} do not show."
        )
    yield judge(
        STILL,
        (f"shots/{scene.shot.id}", scene.path),
        Estimate(math.log2(most / time), (Share("stillness of the subject", UNSURE),)),
        need=time,
        have=most,
        clear="The subject holds still for so long." if moving is None else "Movement stands still.",
        short="Nobody holds still for so long." if moving is None else "Movement smears.",
        reason=reason,
    )


def _steady(scene: Scene) -> bool:
    """Whether light that stays on makes the picture: a lamp or none in the set, or the room's own light."""
    heads = [light.head for light in scene.lights if light.head is not None]
    return not any(isinstance(head, Flash) for head in heads) and bool(heads or scene.shot.around != "dark")


def _by_hand(scene: Scene) -> float | None:
    """Longest time by hand [s]; what is kept of a cropped picture counts as its sensor."""
    if scene.focal is None or scene.sensor is None:
        return None
    diagonal = math.hypot(*(side.value for side in scene.sensor))
    return 1 / (scene.focal.value * 1000 * FULL_DIAGONAL / diagonal)


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """A tripod of the kit; a shorter time with as much more ISO."""
    if scene is None or margin.have is None or scene.shot.shutter is None:
        return
    if margin.code == SHAKE.code:
        for item in studio.gear:
            if isinstance(item, Stand) and item.use == "tripod" and item.at_hand:
                fields = {"support": item.id}
                yield Proposal(f"Put the camera on the {item.called}", SetFields(target=margin.about[0], fields=fields))
    time, iso = longest_within(margin.have), scene.shot.iso
    if iso is not None:
        more = iso * scene.shot.shutter / time
        high = min((one for one in ISOS if one >= more * 0.8), default=None)
        if high is not None and time < scene.shot.shutter:
            fields_ = {"shutter": time, "iso": high}
            target = f"shots/{scene.shot.id}"
            yield Proposal(f"Set {time_words(time)} at ISO {high}", SetFields(target=target, fields=fields_))


RULE = SetRule("shake", margins, (SHAKE, STILL), propose)
