"""Light against time and against other light: codes light.ambient, light.mixed, light.balance, light.sync,
light.freeze, light.motion, light.flicker, light.glare."""

import math
from collections.abc import Iterable

from evrant.core.base.estimate import Estimate, Share
from evrant.core.base.margins import Basis, Line, Margin, judge, unknown
from evrant.core.base.tables.countries import MAINS, Country, Mains
from evrant.core.base.tables.steps import F_NUMBERS, ISOS
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import Proposal, SetRule
from evrant.core.light import account
from evrant.core.light.beams import LEFT_ON
from evrant.core.light.colour import LUMINANCE, gel_for, mired
from evrant.core.light.effective import effective
from evrant.core.light.emission import Missing
from evrant.core.light.lit import Lit, lit, pulsed
from evrant.core.light.softness import glare
from evrant.core.space.scene import Scene
from evrant.core.space.wanted import SMEAR, SPEED
from evrant.core.studio.gear import Flash, Gel, Lamp
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say, f_words, time_words

AMBIENT = Line(
    "light.ambient",
    "Room light under the flash",
    "stop",
    Basis(
        "log₂ of flash exposure over E t of all other light, on a dome at the face; without flash, of planned "
        "continuous light over all lamps of the room together",
        "ISO 2720; 5 stops or more are invisible beside flash, 3 beside continuous light: common practice, no source",
        "common practice",
    ),
    asks="Is a frame without flash black?",
    step="light",
)
MIXED = Line(
    "light.mixed",
    "Colour of the …",
    "mired",
    Basis(
        "|10⁶/T₁ − 10⁶/T₂| of each light that matters against the key, gels counted",
        "Mired arithmetic, any handbook on colour photography; at most 30 mired, common practice, no source",
        "published",
    ),
    asks="Do all lights that matter have the key's colour?",
    step="light",
)
BALANCE = Line(
    "light.balance",
    "White balance",
    "mired",
    Basis(
        "mired between what the camera balances on and the light of the picture",
        "White balance fixed, not automatic: common practice, no source; 20 mired drift from memory",
        "common practice",
    ),
    asks="Is the white balance fixed?",
    step="light",
)
SYNC = Line(
    "light.sync",
    "Flash synchronisation",
    "stop",
    Basis(
        "log₂ of the shutter time over the shortest synchronised one, half a step of a third allowed",
        "Maker's sync speed",
        "declared",
    ),
    asks="Is the shutter slow enough for flash?",
    step="light",
)
FREEZE = Line(
    "light.freeze",
    "Freezing movement with the …",
    "stop",
    Basis(
        "speed × t0.5 ≤ frame height / 1000; t0.5 = t0.1/3 of a pulse that dies away, t0.1 of one that is cut off; "
        "duration between its ends on a logarithmic scale",
        "exp(−t/τ): t0.5/t0.1 = ln 2 / ln 10 = 0.30, about a third; 3 m/s for jumps, dance and animals: common "
        "practice, no source",
        "common practice",
    ),
    asks="Does the flash stop the movement?",
    step="light",
)
MOTION = Line(
    "light.motion",
    "Movement in the film",
    "stop",
    Basis(
        "|log₂ (shutter × 2 × frames a second)| ≤ 0.5: open for half of each frame's time",
        "180° shutter, common practice, no source",
        "common practice",
    ),
    asks="Is the shutter right for the film's frame rate?",
    step="light",
)
FLICKER = Line(
    "light.flicker",
    "Flicker of the …",
    "%",
    Basis(
        "2 A / (1 + A), A = M |sin π p| / (π p) for p = shutter × 2 × mains frequency pulses of modulation M",
        "Light pulses twice a mains period; modulation of filament 15 %, fluorescent 30 %, LED up to "
        "100 %, from memory",
        "computed",
    ),
    asks="Does a lamp flicker in the picture?",
    step="light",
    fails=True,
    blames="light",
)
GLARE = Line(
    "light.glare",
    "… in the glasses",
    "°",
    Basis(
        "angle between a lens normal and the half-way direction of lens and light − spread of the normals (14° about "
        "8° down)",
        "Law of reflection, family of angles; form of spectacle lenses from memory",
        "published",
    ),
    asks="Do the lights show in glasses?",
    step="light",
)
ENOUGH, MOST_MIRED, DRIFT = 5.0, 30.0, 20.0
BESIDE = 3.0
"""Stops the planned continuous light should lie over the room's lamps; common practice, no source."""
DARK = 12.0
"""Stops under the flash that count for a room without any other light."""
MODULATION = {"filament": 0.15, "compact fluorescent": 0.30, "LED": 1.0}
MOST_FLICKER = 2.0


def margins(scene: Scene) -> Iterable[Margin]:
    """Every line of a set's light against time and other light."""
    yield from _times(scene)
    state = lit(scene)
    if isinstance(state, Missing) or not state.beams:
        return
    yield from _ambient(scene, state)
    yield from _mixed(scene, state)
    yield from _balance(scene, state)
    yield from _freeze(scene, state)
    yield from _glare(scene, state)


def _times(scene: Scene) -> Iterable[Margin]:
    shot, body = scene.shot, scene.body
    about = (f"{scene.path}/camera", f"shots/{shot.id}")
    heads = [light.head for light in scene.lights if isinstance(light.head, Flash)]
    if heads and shot.shutter is not None and body is not None and body.sync_shutter is not None:
        spare = math.log2(shot.shutter / body.sync_shutter) + 1 / 6
        lost = max(-math.log2(pulsed(shot.shutter, body.sync_shutter, head)) for head in heads)
        through = spare < 0 and all(head.high_speed for head in heads)
        yield judge(
            SYNC,
            about,
            # Whole pulses carry a flash as far as its shutter goes: what they cost is counted in its power.
            Estimate(-spare if through else spare, ()),
            need=body.sync_shutter,
            have=shot.shutter,
            clear="The flash pulses on while the shutter passes."
            if through
            else "The shutter is open long enough for the flash.",
            short="The shutter is too short for flash: part of the picture stays dark.",
            reason=f"{time_words(shot.shutter)} is set, the {body.called} synchronises up to "
            f"1/{1 / body.sync_shutter:.0f} s."
            + (f" High-speed sync costs about {lost:.1f} stops of light; it freezes nothing." if through else ""),
        )
    if shot.capture == "video" and shot.frames is not None and shot.shutter is not None:
        off = math.log2(shot.shutter * 2 * int(shot.frames))
        yield judge(
            MOTION,
            (f"shots/{shot.id}", f"{scene.path}/camera"),
            Estimate(0.5 - abs(off), ()),
            need=abs(off),
            have=0.5,
            clear="Movement looks natural.",
            short=f"Movement will look {'smeared' if off > 0 else 'choppy'}.",
            reason=f"{time_words(shot.shutter)} at {shot.frames} frames a second; about 1/{2 * int(shot.frames)} s "
            "is usual.",
        )
    if shot.shutter is not None:
        yield from _flicker(scene, shot.shutter)


def _flicker(scene: Scene, shutter: float) -> Iterable[Margin]:
    mains = MAINS[scene.brief.country]
    for light in scene.lights:
        lamp = light.head
        if not isinstance(lamp, Lamp) or lamp.supply == "battery":
            continue
        if lamp.flicker is None:
            yield unknown(
                FLICKER,
                (f"gear/{lamp.id}", light.path),
                f"Whether the {lamp.called} flickers is not known.",
                "Film it at 1/1000 s: bands or pulsing mean that it flickers with the mains.",
                title=f"Flicker of the {light.name}",
            )
            continue
        got, hertz = swing_of(lamp, shutter, mains)
        steps = round(shutter * 2 * hertz)
        near = max(steps, 1) / (2 * hertz)
        yield judge(
            FLICKER,
            (light.path, f"shots/{scene.shot.id}"),
            Estimate(MOST_FLICKER - got, ()),
            title=f"Flicker of the {light.name}",
            need=got,
            have=MOST_FLICKER,
            clear=f"The {light.name} does not flicker in the picture.",
            short=f"The {light.name} flickers: brightness changes from frame to frame.",
            reason=f"Up to {got:.0f} % at {time_words(shutter)} on {hertz:.0f} Hz mains; {time_words(near)} takes in "
            "whole pulses.",
        )


def swing_of(lamp: Lamp, shutter: float, mains: Mains) -> tuple[float, float]:
    """Greatest change of a lamp's exposure from frame to frame [%], and on which of a country's mains [Hz]."""
    depth = MODULATION[lamp.technology or "LED"] if lamp.flicker != "none" else 0.0
    return max((flicker_of(shutter, one, depth), one) for one in (mains.hertz, *mains.others))


def flickers(lamp: Lamp, shutter: float, country: Country) -> bool:
    """Whether a lamp that is known to changes too much from frame to frame."""
    told = lamp.supply != "battery" and lamp.flicker is not None
    return told and swing_of(lamp, shutter, MAINS[country])[0] > MOST_FLICKER


def flicker_of(shutter: float, hertz: float, modulation: float) -> float:
    """Greatest change of exposure from frame to frame, of the brightest [%]: light 1 + M cos(2π·2 f t) taken in for
    the shutter's time swings by M |sin(π p)| / (π p) to either side of its mean, for p pulses."""
    pulses = max(shutter * 2 * hertz, 1e-9)
    swing = modulation * abs(math.sin(math.pi * pulses)) / (math.pi * pulses)
    return 100 * 2 * swing / (1 + swing)


def _ambient(scene: Scene, state: Lit) -> Iterable[Margin]:
    if not any(beam.kind == "flash" for beam in state.beams):
        yield from _beside_lamps(scene, state)
        return
    missing = next((m for m in state.missing if m.where.startswith("room/")), None)
    if missing is not None:
        yield unknown(
            AMBIENT,
            (missing.where, f"shots/{scene.shot.id}", f"{scene.path}/lights"),
            missing.text,
            "Measure with a lux meter or a phone: an overcast sky gives a north window some 4000 to 8000 lx.",
            subject=f"{scene.path}/lights",
        )
        return
    found = account.ambient(state)
    if found is None:
        return
    found = min(found, DARK)
    models = account.modelling_lux(state)
    lux = account.ambient_lux(state) + models
    own = f" {models:.0f} lx of that come from modelling lamps." if models > 0.05 * lux and models >= 0.5 else ""
    yield judge(
        AMBIENT,
        (f"{scene.path}/lights", f"shots/{scene.shot.id}"),
        Estimate(found - ENOUGH, (*_ambient_shares(state),) if lux > 0 else ()),
        need=ENOUGH,
        have=found,
        clear="A frame without flash stays black.",
        short="Room light shows in the picture: a frame without flash is not black.",
        reason=f"{lux:.0f} lx at {scene.shot.lit_part} lie {found:.1f} stops under the flash; "
        f"5 or more do not show.{own}"
        if scene.shot.around != "dark" or own or any(beam.role == LEFT_ON for beam in state.beams)
        else "The room is dark while this is taken, by the shot's own words.",
    )


def _ambient_shares(state: Lit) -> Iterable[Share]:
    """What makes room light against flash unsure [stops]; a modelling lamp is told by its flash's energy."""
    yield from (Share("daylight and lamps", 0.5), Share("flash", 0.6))
    for beam in state.beams:
        head = beam.light.head if beam.light else None
        if isinstance(head, Flash) and head.modelling is not None and head.energy is not None:
            own = math.hypot(head.energy.pm / head.energy.value, head.modelling.pm / head.modelling.value)
            yield Share(f"modelling lamp of the {beam.name}", own / math.log(2))


def _beside_lamps(scene: Scene, state: Lit) -> Iterable[Margin]:
    """Planned continuous light over that of all lamps of the room together."""
    by_source = state.exposure("face") @ LUMINANCE
    planned = sum(float(v) for v, b in zip(by_source, state.beams, strict=True) if b.light is not None)
    lamps = sum(float(v) for v, b in zip(by_source, state.beams, strict=True) if b.role in ("room lamp", LEFT_ON))
    beside = any(beam.role == LEFT_ON for beam in state.beams)
    whose = "The lamps that stay on" if beside else "The room's own lamps"
    if planned <= 0 or lamps <= 0:
        return
    found = min(math.log2(planned / lamps), DARK)
    yield judge(
        AMBIENT,
        (f"{scene.path}/lights", f"shots/{scene.shot.id}"),
        Estimate(found - BESIDE, (Share("lamps of the room", 0.5), Share("planned light", 0.3))),
        title="Other lamps beside the planned light" if beside else "Room lamps beside the planned light",
        need=BESIDE,
        have=found,
        clear=f"{whose} do not show beside the planned light.",
        short=f"{whose} show beside the planned light.",
        reason=f"All of them together lie {found:.1f} stops under it at {scene.shot.lit_part}; {BESIDE:.0f} or more "
        "hardly show.",
    )


def _counted(state: Lit) -> list[tuple[int, float]]:
    """Sources that give the face at least a tenth of what the key gives, with their share of it."""
    whole = state.exposure("face") @ LUMINANCE
    reference = whole[state.key] if state.key is not None else 0.0
    if reference <= 0:
        return []
    return [(i, float(v / reference)) for i, v in enumerate(whole) if i != state.key and v > 0.1 * reference]


def _kelvin(state: Lit, index: int) -> float:
    return state.beams[index].kelvin


def _mixed(scene: Scene, state: Lit) -> Iterable[Margin]:
    if state.key is None:
        return
    own = _kelvin(state, state.key)
    gaps = [(abs(mired(_kelvin(state, i)) - mired(own)), i) for i, _ in _counted(state)]
    gaps = [(gap, i) for gap, i in gaps if not _is_coloured(state, i)]
    if not gaps:
        return
    worst, index = max(gaps)
    beam = state.beams[index]
    guess = not (beam.kelvin_known and state.beams[state.key].kelvin_known)
    yield judge(
        MIXED,
        (beam.path, f"{scene.path}/lights"),
        Estimate(MOST_MIRED - worst, (Share("colour temperatures", 15.0 if guess else 8.0),)),
        title=f"Colour of the {beam.name}",
        need=worst,
        have=MOST_MIRED,
        clear=f"The {beam.name} has the key's colour.",
        short=f"The {beam.name} has another colour than the key.",
        reason=f"{_kelvin(state, index):.0f} K against {own:.0f} K: {worst:.0f} mired apart.",
    )


def _is_coloured(state: Lit, index: int) -> bool:
    light = state.beams[index].light
    return light is not None and isinstance(light.head, Lamp) and light.head.colour is not None


def _balance(scene: Scene, state: Lit) -> Iterable[Margin]:
    if scene.shot.balance != "automatic" or state.key is None:
        return
    flash = state.beams[state.key].kind == "flash"
    gaps = [abs(mired(_kelvin(state, i)) - mired(_kelvin(state, state.key))) for i, _ in _counted(state)]
    # Under flash the camera sees the room's or the modelling lamp's light, about 3000 K, before the flash fires.
    wrong = max([abs(mired(3000.0) - mired(_kelvin(state, state.key)))] if flash else [DRIFT], default=DRIFT)
    wrong = max([wrong, *gaps])
    yield judge(
        BALANCE,
        (f"shots/{scene.shot.id}", f"{scene.path}/lights"),
        Estimate(10.0 - wrong, ()),
        need=wrong,
        have=10.0,
        clear="The white balance holds.",
        short="Automatic white balance goes by another light than the picture's"
        if flash
        else "Automatic white balance drifts from picture to picture.",
        reason=f"It can be {wrong:.0f} mired off. Set it once on a grey card under the key.",
    )


def _freeze(scene: Scene, state: Lit) -> Iterable[Margin]:
    shot = scene.shot
    if shot.movement is None or shot.movement.value <= 0 or state.key is None or scene.wanted is None:
        return
    beam = state.beams[state.key]
    if beam.kind != "flash" or beam.light is None or beam.light.head is None:
        return
    _, duration = account.times_of(beam.light.head, float(state.powers[state.key]))
    about = (beam.path, f"shots/{shot.id}")
    title = f"Freezing movement with the {beam.name}"
    if duration is None:
        yield unknown(
            FREEZE,
            (f"gear/{beam.light.head.id}", *about),
            f"The flash duration of the {beam.light.head.called} is missing.",
            "The data sheet gives t0.1 at full power.",
            title=title,
        )
        return
    limit, say = SMEAR * scene.wanted.height.value, Say.of(scene.brief)
    power = float(state.powers[state.key])
    smear = SPEED * duration * _half(beam.light.head, power)
    yield judge(
        FREEZE,
        about,
        Estimate(math.log2(limit / smear), (Share("speed of the movement", 0.5),)),
        title=title,
        need=smear,
        have=limit,
        clear="Movement stands still.",
        short="Movement smears during the flash.",
        reason=f"t0.1 about 1/{1 / duration:.0f} s: a movement of {say.length(SPEED)} a second smears "
        f"{say.fine(smear)}; {say.fine(limit)} do not show.",
    )


def _half(head: object, power: float) -> float:
    """t0.5 as a share of t0.1. A head whose flash gets shorter as it is turned down cuts its pulse off: below full
    power the light stops at once, and the whole of it counts."""
    if not isinstance(head, Flash) or head.lowest_duration is None or head.duration is None:
        return 1 / 3
    cut = head.lowest_duration.value < head.duration.value
    return 1.0 if cut and power < 0.7 else 1 / 3


def _glare(scene: Scene, state: Lit) -> Iterable[Margin]:
    if not any(s.glasses for s in scene.shot.subjects):
        return
    for number, beam in enumerate(state.beams):
        if beam.role in ("background light", "hair light", "rim", "room lamp"):
            continue
        seen = effective(state, number)
        spare, at = glare(scene, seen.source), seen.centre
        yield judge(
            GLARE,
            (beam.path, f"shots/{scene.shot.id}"),
            Estimate(spare, (Share("way the head is held", 5.0),)),
            title=f"{beam.name.capitalize()} in the glasses",
            need=0.0,
            have=spare,
            clear=f"The {beam.name} does not show in the glasses.",
            short=f"The {beam.name} shows in the glasses.",
            reason="Raise it or take it farther round, or tilt the glasses down a little.",
            at=(float(at[0]), float(at[1]), float(at[2])),
        )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Shutter, blackout, gels, settings of the shot, the light higher."""
    if scene is None or margin.margin is None:
        return
    shot = f"shots/{scene.shot.id}"
    match margin.code:
        case "light.ambient":
            yield from _darker(scene, shot)
        case "light.mixed":
            yield from _gels(studio, scene, margin)
        case "light.balance":
            yield Proposal("Fix the white balance", SetFields(target=shot, fields={"balance": "fixed"}))
        case "light.sync":
            if scene.body is not None and scene.body.sync_shutter is not None:
                time = scene.body.sync_shutter
                yield Proposal(f"Set 1/{1 / time:.0f} s", SetFields(target=shot, fields={"shutter": time}))
        case "light.motion" if scene.shot.frames is not None:
            time = 1 / (2 * int(scene.shot.frames))
            yield Proposal(f"Set 1/{1 / time:.0f} s", SetFields(target=shot, fields={"shutter": time}))
        case "light.flicker" if scene.shot.shutter is not None:
            mains = MAINS[scene.brief.country]
            # Where there are mains of 50 and of 60 Hz, a tenth of a second holds whole pulses of both.
            times = [pulses / (2 * mains.hertz) for pulses in (1, 2, 3)] if not mains.others else [0.05, 0.1, 0.2]
            for time in times:
                yield Proposal(f"Set 1/{1 / time:.0f} s", SetFields(target=shot, fields={"shutter": time}))
        case "light.glare":
            yield from _higher(scene, margin)
        case "light.freeze":
            yield from _shorter(studio, scene, margin)


def _shorter(studio: Studio, scene: Scene, margin: Margin) -> Iterable[Proposal]:
    """Less power, whose flash is shorter: a higher ISO or a wider aperture makes up for it; then other heads."""
    shot = scene.shot
    target = f"shots/{shot.id}"
    for iso in (one for one in ISOS if shot.iso is not None and one > shot.iso):
        yield Proposal(f"Set ISO {iso}", SetFields(target=target, fields={"iso": iso}))
    widest = scene.lens.widest.value if scene.lens is not None and scene.lens.widest is not None else None
    if widest is not None and shot.aperture is not None:
        for stop in (one for one in F_NUMBERS[::-3] if widest * 0.98 <= one < shot.aperture.value):
            yield Proposal(f"Open up to {f_words(stop)}", SetFields(target=target, fields={"aperture": stop}))
    light = scene.light_at(margin.about[0])
    for item in studio.gear:
        if light is not None and isinstance(item, Flash) and item.at_hand and item.id != light.place.head:
            yield Proposal(f"Use the {item.called}", SetFields(target=light.path, fields={"head": item.id}))


def _darker(scene: Scene, shot: str) -> Iterable[Proposal]:
    sync = scene.body.sync_shutter if scene.body else None
    if scene.shot.shutter is not None and sync is not None and sync < scene.shot.shutter:
        yield Proposal(f"Set 1/{1 / sync:.0f} s", SetFields(target=shot, fields={"shutter": sync}))
    if "daylight" in scene.shot.around:
        for window in scene.room.windows:
            if window.blackout != "in place":
                yield Proposal(
                    f"Black out the {window.name}",
                    SetFields(target=f"room/windows/{window.id}", fields={"blackout": "in place"}),
                )
    if "lamps" in scene.shot.around:
        rest = "daylight" if "daylight" in scene.shot.around else "dark"
        yield Proposal("Switch the room lamps off", SetFields(target=shot, fields={"around": rest}))
    for other in scene.beside:
        if other.plan.stays_lit:
            words = f"Switch the lamps of “{other.plan.name}” off meanwhile"
            yield Proposal(words, SetFields(target=other.path, fields={"stays_lit": False}))


def _gels(studio: Studio, scene: Scene, margin: Margin) -> Iterable[Proposal]:
    state = lit(scene)
    if isinstance(state, Missing) or state.key is None:
        return
    index = next((i for i, beam in enumerate(state.beams) if beam.path == margin.about[0]), None)
    if index is None or state.beams[index].light is None:
        if "lamps" in scene.shot.around:
            yield from _darker(scene, f"shots/{scene.shot.id}")
        return
    wish = gel_for(_kelvin(state, index), _kelvin(state, state.key))
    gels = [item for item in studio.gear if isinstance(item, Gel) and item.shift]
    for gel in sorted(gels, key=lambda g: abs((g.shift or 0.0) - wish))[:3]:
        yield Proposal(
            f"Put the {gel.called} on the {state.beams[index].name}",
            SetFields(target=margin.about[0], fields={"gel": gel.id}),
        )


def _higher(scene: Scene, margin: Margin) -> Iterable[Proposal]:
    light = scene.light_at(margin.about[0])
    if light is None or light.at is None:
        return
    for step in (0.2, 0.4):
        yield Proposal(
            f"Raise the {light.name} {Say.of(scene.brief).length(step)}",
            SetFields(target=light.path, fields={"height": round(float(light.at[2]) + step, 3)}),
        )


RULE = SetRule(
    "sources",
    margins,
    (
        AMBIENT,
        MIXED,
        BALANCE,
        SYNC,
        FREEZE,
        MOTION,
        FLICKER,
        GLARE,
    ),
    propose,
)
