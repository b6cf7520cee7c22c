"""Is a filmed voice heard clearly? Codes sound.microphone, sound.reverberation, sound.noise."""

import math
from collections.abc import Iterable

from evrant.core.base.estimate import Estimate, Share
from evrant.core.base.margins import Basis, Line, Margin, judge, unknown
from evrant.core.base.tables.absorption import UNSURE
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import Proposal, SetRule
from evrant.core.sound.hall import Hall, critical_distance, hall_of
from evrant.core.sound.heard import (
    VOICE_UNSURE,
    Pickup,
    is_told,
    noises,
    over_noise,
    over_reverberant,
    pickup_of,
    spot_above,
)
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import Microphone
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say

CLOSE = 3.0
"""Direct over reverberant sound that a recorded voice wants at least [dB]; common practice, no source."""
QUIET = 30.0
"""What a recorded voice is to be over everything else [dB]; common practice, no source."""
PLACE = 0.03
"""± with which a microphone is put [m]; common practice, no source."""
MICROPHONE = Line(
    "sound.microphone",
    "A microphone",
    "parts",
    Basis("sound counts: one microphone nearer than the camera's own", "Common practice", "common practice"),
    asks="Is there a microphone for a filmed voice?",
)
REVERBERATION = Line(
    "sound.reverberation",
    "The voice over the room’s echo",
    "dB",
    Basis(
        "20 log(r_c / r) ≥ 3 dB; r_c = √(Q A / 16 π), A = −S ln(1 − ᾱ)",
        "C. F. Eyring (1930); critical distance in any textbook of room acoustics; absorption from textbooks, from "
        "memory; 3 dB common practice",
        "published",
    ),
    asks="Is the microphone near enough for this room?",
)
NOISE = Line(
    "sound.noise",
    "The voice over everything that runs",
    "dB",
    Basis(
        "voice 60 dB at 1 m − 20 log r − noise at the microphone ≥ 30 dB",
        "ISO 9921 for the voice; levels add as energies; 30 dB common practice",
        "common practice",
    ),
    asks="Is it quiet enough?",
)


def margins(scene: Scene) -> Iterable[Margin]:
    """Lines of a shot whose sound counts."""
    if not scene.shot.sound:
        return
    about = (f"{scene.path}/camera", f"shots/{scene.shot.id}")
    item = scene.gear.get(scene.plan.camera.microphone or "")
    there = isinstance(item, Microphone)
    yield judge(
        MICROPHONE,
        about,
        Estimate(1.0 if there else -1.0),
        need=0.0 if there else 1.0,
        have=1.0 if there else 0.0,
        clear="There is a microphone for the voice.",
        short="The sound counts, and the set has no microphone.",
        reason="A camera's own microphone is as far away as the camera and hears the room.",
    )
    if not there:
        return
    hall, pickup = hall_of(scene), pickup_of(scene)
    if hall is None:
        yield unknown(REVERBERATION, ("room", *about), "The room's outline or height is missing.", "Measure the room.")
        return
    if pickup is None:
        words = "Where the microphone is cannot be told: camera, lens or mark is missing."
        yield unknown(REVERBERATION, about, words, "Place camera and mark.")
        return
    yield _reverberation(scene, hall, pickup, about)
    yield _noise(scene, hall, pickup, about)


def _reverberation(scene: Scene, hall: Hall, pickup: Pickup, about: tuple[str, ...]) -> Margin:
    say = Say.of(scene.brief)
    have = over_reverberant(hall, pickup)
    room = 10 * math.log10(1 + UNSURE)
    put = 20 * math.log10(1 + PLACE / pickup.distance)
    spare = Estimate(have - CLOSE, (Share("absorption of the room", room), Share("place of the microphone", put)))
    speech = float(hall.eyring[3])
    far = critical_distance(hall.for_speech, pickup.directivity)
    near = f" Over the picture's edge it may come to {say.length(pickup.nearest)}." if pickup.nearest else ""
    return judge(
        REVERBERATION,
        about,
        spare,
        need=CLOSE,
        have=have,
        clear="The voice stands clear of the room.",
        short="The voice drowns in the room.",
        reason=f"The {pickup.item.called}, {pickup.words}, is {say.length(pickup.distance)} from the mouth; the room "
        f"rings {speech:.2f} s, and answers as loud as the voice from {say.length(far)} on.{near}",
    )


def _noise(scene: Scene, hall: Hall, pickup: Pickup, about: tuple[str, ...]) -> Margin:
    found = noises(scene, hall, pickup)
    if not found or not is_told(scene):
        words = "What can be heard in the room is not said: fridge, computer, fans, the street."
        return unknown(NOISE, ("room", *about), words, "Enter the level of what runs, or the noise outside a window.")
    have = over_noise(found, pickup)
    total = sum(10 ** (one.level / 10) for one in found)
    shares = [Share(one.name, one.pm * 10 ** (one.level / 10) / total) for one in found]
    shares.append(Share("loudness of the voices", VOICE_UNSURE))
    loudest = found[0]
    return judge(
        NOISE,
        about,
        Estimate(have - QUIET, tuple(shares)),
        need=QUIET,
        have=have,
        clear="It is quiet enough for the voice.",
        short="Something is heard under the voice.",
        reason=f"The voice is {have:.0f} dB over everything else at the microphone; loudest is the {loudest.name} with "
        f"{loudest.level:.0f} dB there.",
    )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """A nearer microphone; against the echo what swallows it, against noise what runs switched off."""
    if scene is None:
        return
    for item in studio.gear:
        if isinstance(item, Microphone) and item.at_hand and item.id != scene.plan.camera.microphone:
            fields = {"microphone": item.id}
            yield Proposal(f"Record with the {item.called}", SetFields(target=f"{scene.path}/camera", fields=fields))
    if margin.code == REVERBERATION.code:
        yield from _against_echo(scene)
    if margin.code == NOISE.code:
        for box in scene.boxes:
            if box.noise is not None and not box.hushed:
                words = f"Switch the {box.name.lower()} off while sound is recorded"
                yield Proposal(words, SetFields(target=f"room/boxes/{box.id}", fields={"hushed": True}))


def _against_echo(scene: Scene) -> Iterable[Proposal]:
    """The boom nearer, blankets, carpet, curtains."""
    pickup = pickup_of(scene)
    if pickup is not None and pickup.place is not None and pickup.nearest and pickup.nearest < pickup.distance:
        yield from _nearer(scene, pickup)
    where = _barest(scene)
    for more in (2, 4, 8):
        words = f"Hang up {more} blankets of 1.5 × 2 m{where}, a hand off"
        yield Proposal(words, SetFields(target=scene.path, fields={"blankets": scene.plan.blankets + more}))
    if scene.room.floor not in (None, "carpet"):
        yield Proposal("Lay a thick carpet wall to wall", SetFields(target="room", fields={"floor": "carpet"}))
    for window in scene.room.windows:
        if window.cover != "heavy curtain":
            words = f"Draw a heavy curtain before the {window.name.lower()}"
            yield Proposal(words, SetFields(target=f"room/windows/{window.id}", fields={"cover": "heavy curtain"}))


def _barest(scene: Scene) -> str:
    """The two walls that throw back most, in words."""
    hall = hall_of(scene)
    if hall is None:
        return ""
    walls = [one for one in hall.areas if one.path.startswith("room/walls/") and one.area > 1]
    most = sorted(walls, key=lambda one: -one.area * (1 - one.shares[3]))[:2]
    return f" on {' and '.join(one.name for one in most)}" if most else ""


def _nearer(scene: Scene, pickup: Pickup) -> Iterable[Proposal]:
    """The boom to just over the picture's edge."""
    spot = spot_above(scene)
    if spot is None or pickup.place is None:
        return
    fields = {"x": round(float(spot[0]), 3), "y": round(float(spot[1]), 3), "height": round(float(spot[2]), 3)}
    words = f"Bring the {pickup.item.called} to just over the picture"
    yield Proposal(words, SetFields(target=f"{scene.path}/props/{pickup.place.id}", fields=fields))


RULE = SetRule("sound", margins, (MICROPHONE, REVERBERATION, NOISE), propose)
