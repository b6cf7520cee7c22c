"""Is what should be sharp sharp, and what should blur blurred? Codes frame.depth, frame.nearest,
frame.blur, frame.diffraction."""

import math
from collections.abc import Iterable
from typing import Any

from evrant.core.base.estimate import Estimate, Share
from evrant.core.base.margins import PLACED, Basis, Line, Margin, judge, unknown
from evrant.core.base.tables.steps import SLOWEST, nearest_iso, nearest_time
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import UNLIT, Proposal, SetRule
from evrant.core.judge.rules.set.stepping import step_back
from evrant.core.space import framing
from evrant.core.space.scene import Scene
from evrant.core.space.shares import picture_estimate, picture_shares
from evrant.core.space.wanted import Wanted
from evrant.core.studio.gear import Flash
from evrant.core.studio.shots import Shot
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say, f_words, time_words

DEPTH = Line(
    "frame.depth",
    "Depth of field",
    "m",
    Basis(
        "H = f² / (N c) + f; near and far limits from H and d",
        "Depth-of-field equations, any optics handbook; c = 0.030 mm for 36 × 24",
        "published",
    ),
    asks="Is the subject sharp from front to back?",
    step="set",
)


NEAREST = Line(
    "frame.nearest",
    "Nearest focus",
    "m",
    Basis("distance + f (1 + m) ≥ nearest focus from the sensor", "Thin-lens equation; maker's figure", "published"),
    asks="Does the lens focus that near?",
    step="set",
    search="kept",
    fails=True,
)
BLUR = Line(
    "frame.blur",
    "Blur of the background",
    "m",
    Basis(
        "D = (f / N) · b / (d + b), against 2 % of the frame (soft) or 0.3 % (sharp)",
        "Similar triangles through the entrance pupil; the two shares are a project choice",
        "project choice",
    ),
    asks="Does the background blur (or stay readable) as the shot asks?",
    step="set",
)
DIFFRACTION = Line(
    "frame.diffraction",
    "Softened by the aperture",
    "stop",
    Basis(
        "the Airy disc 2.44 λ N (1 + m) at 550 nm is no wider than the blur that passes as sharp",
        "Diffraction at a round aperture, any optics handbook; c = 0.030 mm for 36 × 24",
        "published",
    ),
    asks="Is the aperture not so small that it softens everything?",
    step="set",
)
SOFT, SHARP = 0.02, 0.003


def margins(scene: Scene) -> Iterable[Margin]:
    """Every line about sharpness of a set whose camera and subject have their places."""
    asked = scene.wanted
    if asked is None or not scene.distance or scene.focal is None or scene.sensor is None or scene.walls is None:
        return
    yield from _depth(scene, asked)
    yield from _nearest(scene)
    yield from _blur(scene, asked)
    yield from _diffraction(scene)


def _diffraction_spare(scene: Scene) -> float | None:
    """Stops by which the lens may still be closed before diffraction alone blurs as much as passes."""
    if scene.shot.aperture is None or scene.sensor is None or not scene.magnification:
        return None
    blur = framing.blur_circle(scene.sensor[0].value, scene.sensor[1].value)
    return 2 * math.log2(blur / framing.diffraction(scene.shot.aperture.value, scene.magnification))


def _diffraction(scene: Scene) -> Iterable[Margin]:
    """Only where diffraction is within two stops of showing: wider open it is never the reason."""
    result = picture_estimate(scene, _diffraction_spare)
    if result is None or result.value > NEAR_DIFFRACTION or scene.shot.aperture is None or scene.sensor is None:
        return
    disc = framing.diffraction(scene.shot.aperture.value, scene.magnification)
    blur = framing.blur_circle(scene.sensor[0].value, scene.sensor[1].value)
    bound = scene.shot.aperture.value * 2 ** (result.value / 2)
    yield judge(
        DIFFRACTION,
        (f"{scene.path}/camera", f"shots/{scene.shot.id}"),
        result.plus(Share("wavelength", 0.2)),
        need=2 * math.log2(scene.shot.aperture.value),
        have=2 * math.log2(bound),
        clear="The aperture is not so small that it softens the picture.",
        short="The aperture is so small that it softens everything.",
        reason=f"At {f_words(scene.shot.aperture.value)} and {scene.magnification:.2g} times life size a point spreads "
        f"to {disc * 1e6:.0f} µm on the sensor; {blur * 1e6:.0f} µm pass as sharp, up to about {f_words(bound)}.",
    )


NEAR_DIFFRACTION = 2.0
STACK_OVERLAP = 0.25
"""What two frames of a stack share of what each keeps sharp; common practice, no source."""
MOST_FRAMES = 24
IN_TURN = "focused one behind the other and joined"


def _sharp_spare(scene: Scene, f_number: float) -> float | None:
    """Depth of field beyond the depth of what must be sharp [m]."""
    if scene.wanted is None or scene.distance is None or scene.focal is None or scene.sensor is None:
        return None
    blur = framing.blur_circle(scene.sensor[0].value, scene.sensor[1].value)
    near, far = framing.depth_of_field(scene.focal.value, f_number, scene.distance, blur)
    return (min(far, 100.0) - near) * _stacked(scene.shot) - scene.wanted.depth


def _stacked(shot: Shot) -> float:
    """How many times as deep frames focused in turn keep sharp; once, where the subject moves between them."""
    return 1 + (shot.stack - 1) * (1 - STACK_OVERLAP) if shot.still else 1.0


def _depth(scene: Scene, asked: Wanted) -> Iterable[Margin]:
    """Depth of field against the subject's depth, focus on its near third [m]."""
    if scene.shot.aperture is None:
        yield unknown(
            DEPTH,
            (f"shots/{scene.shot.id}", f"{scene.path}/camera"),
            "The shot has no aperture.",
            "Enter the aperture you want to work at.",
        )
        return
    assert scene.distance is not None
    stopped = scene.shot.aperture
    moved = _sharp_spare(scene, stopped.value + stopped.pm) or 0.0
    result = picture_estimate(scene, lambda one: _sharp_spare(one, stopped.value)) or Estimate(-math.inf)
    if stopped.pm > 0:
        result = result.plus(Share("aperture", abs(moved - result.value)))
    have = result.value + asked.depth
    say = Say.of(scene.brief)
    yield judge(
        DEPTH,
        (f"{scene.path}/camera", f"shots/{scene.shot.id}"),
        result,
        need=asked.depth,
        have=have,
        clear="The subject is sharp from front to back.",
        short="The subject is deeper than what is sharp.",
        reason=f"{f_words(scene.shot.aperture.value)} at {say.length(scene.distance)} keeps {say.length(have)} sharp"
        f"{_in_frames(scene.shot)}; the subject is {say.length(asked.depth)} deep.",
        placing=PLACED,
    )


def _in_frames(shot: Shot) -> str:
    if shot.stack == 1:
        return ""
    return f" in {shot.stack} frames" if shot.still else ", for what moves cannot be joined from several frames"


def _focus_spare(scene: Scene) -> float | None:
    """Sensor to subject beyond the nearest focus [m]."""
    lens, far, focal = scene.lens, scene.distance, scene.focal
    if lens is None or lens.nearest is None or far is None or focal is None or far < focal.value * 1.05:
        return None
    return far + framing.image_distance(far, focal.value) - lens.nearest.value


MAY_NOT_FOCUS = 12.0
"""Most lenses focus to about ten focal lengths; nearer than so many it is asked for. Common practice, no source."""


def _nearest(scene: Scene) -> Iterable[Margin]:
    spare = _focus_spare(scene)
    lens, far = scene.lens, scene.distance
    if lens is not None and lens.nearest is None and far is not None and scene.focal is not None:
        if far < MAY_NOT_FOCUS * scene.focal.value:
            words = f"How near the {lens.called} focuses is missing."
            find = f"Read it off its barrel; here it stands {Say.of(scene.brief).length(far)} from the subject."
            yield unknown(NEAREST, (f"gear/{lens.id}", f"{scene.path}/camera", f"shots/{scene.shot.id}"), words, find)
        return
    if spare is None or scene.lens is None or scene.lens.nearest is None or scene.distance is None:
        return
    say = Say.of(scene.brief)
    need = scene.lens.nearest
    shares = (*picture_shares(scene, _focus_spare), Share("nearest focus", need.pm))
    yield judge(
        NEAREST,
        (f"{scene.path}/camera", f"shots/{scene.shot.id}"),
        Estimate(spare, shares),
        need=need.value,
        have=need.value + spare,
        clear="The lens focuses as near as it stands.",
        short="The lens does not focus that near.",
        reason=f"Sensor to subject {say.length(need.value + spare)}; it focuses from {say.length(need.value)} on.",
        placing=PLACED,
    )


def _blur_spare(scene: Scene, f_number: float) -> float | None:
    """Blur of the background in the plane of the subject beyond (short of) what is asked [m]."""
    if (
        scene.wanted is None
        or scene.distance is None
        or scene.focal is None
        or scene.line is None
        or scene.mark is None
    ):
        return None
    behind = max(float((scene.mark - scene.line[0]) @ scene.line[1]), 0.0)
    disc = framing.blur_disc(scene.focal.value, f_number, scene.distance, behind)
    soft = scene.shot.blur == "background soft"
    return disc - SOFT * scene.wanted.height.value if soft else SHARP * scene.wanted.height.value - disc


def _blur(scene: Scene, asked: Wanted) -> Iterable[Margin]:
    """A background wanted soft blurs to a share of the frame; one wanted sharp stays under another."""
    stopped = scene.shot.aperture
    if scene.shot.blur is None or stopped is None:
        return
    spare = _blur_spare(scene, stopped.value)
    if spare is None:
        return
    soft = scene.shot.blur == "background soft"
    need = (SOFT if soft else SHARP) * asked.height.value
    have = need + spare if soft else need - spare
    moved = _blur_spare(scene, stopped.value + stopped.pm) or 0.0
    shares = (
        *picture_shares(scene, lambda one: _blur_spare(one, stopped.value)),
        Share("aperture", abs(moved - spare)),
    )
    say = Say.of(scene.brief)
    yield judge(
        BLUR,
        (f"{scene.path}/background", f"shots/{scene.shot.id}"),
        Estimate(spare, tuple(share for share in shares if share.amount > 1e-9)),
        need=need,
        have=have,
        clear="The background blurs as wanted." if soft else "The background is sharp enough to be read.",
        short="The background stays too sharp." if soft else "The background blurs too much.",
        reason=f"A point of it spreads to {say.length(have)} at the subject; "
        f"{'at least' if soft else 'at most'} {say.length(need)} is wanted.",
        placing=0.001,
    )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Stop down or step back for depth, open up or stop down for the background."""
    if scene is None:
        return
    if margin.code == "frame.depth":
        yield from _in_turn(scene)
        yield from _stop_down(scene)
        yield from step_back(scene)
        yield from _both(scene)
    elif margin.code == "frame.nearest":
        yield from step_back(scene)
    elif margin.code == "frame.blur":
        yield from _open_up(scene)
    elif margin.code == "frame.diffraction":
        yield from _less_diffraction(scene)


def _less_diffraction(scene: Scene) -> Iterable[Proposal]:
    """Each wider stop with the time it leaves; and where too little is sharp at it, in several frames besides."""
    now = scene.shot.aperture
    for stop in (16.0, 11.0, 8.0, 5.6, 4.0) if now is not None else ():
        assert now is not None
        if stop < now.value * 0.95 and _has(scene, stop):
            words, fields = _made_up(scene, (stop / now.value) ** 2) or ("", {})
            words, fields = f"Open up to {f_words(stop)} {words}".rstrip(), {**fields, "aperture": stop}
            yield _set(scene, words, **fields)
            frames = _frames(scene, stop)
            if scene.shot.stack < frames <= MOST_FRAMES:
                yield _set(scene, f"{words}, in {frames} frames {IN_TURN}", **fields, stack=frames)


def _stop_down(scene: Scene) -> Iterable[Proposal]:
    """Each stop further down, alone and with what makes up for it."""
    stop_now = scene.shot.aperture
    if stop_now is None:
        return
    for stop in (8.0, 11.0, 16.0):
        if stop > stop_now.value * 1.05 and _has(scene, stop):
            yield _set(scene, f"Stop down to {f_words(stop)}", aperture=stop)
            made_up = _made_up(scene, (stop / stop_now.value) ** 2)
            if made_up:
                words, fields = made_up
                yield _set(scene, f"Stop down to {f_words(stop)}, {words}", aperture=stop, **fields)


def _frames(scene: Scene, stop: float) -> int:
    """Frames focused one behind the other that keep a thing sharp as deep as it is; 0 where that helps nothing."""
    spare = _sharp_spare(scene, stop)
    if spare is None or scene.wanted is None or not scene.shot.still:
        return 0
    once = (spare + scene.wanted.depth) / _stacked(scene.shot)
    return math.ceil((scene.wanted.depth * 1.15 / once - 1) / (1 - STACK_OVERLAP)) + 1


def _in_turn(scene: Scene) -> Iterable[Proposal]:
    """For things: as many frames as the subject is deep."""
    frames = 0 if scene.shot.aperture is None else _frames(scene, scene.shot.aperture.value)
    if scene.shot.stack < frames <= MOST_FRAMES:
        yield _set(scene, f"Take it in {frames} frames, {IN_TURN}", stack=frames)


def _both(scene: Scene) -> Iterable[Proposal]:
    """Further back and stopped down together, where neither alone may do."""
    stop_now = scene.shot.aperture
    for stop in (11.0, 16.0) if stop_now is not None else ():
        assert stop_now is not None
        made_up = _made_up(scene, (stop / stop_now.value) ** 2)
        if stop > stop_now.value * 1.05 and _has(scene, stop) and made_up:
            words, fields = made_up
            yield from step_back(scene, (1.6, 2.0), f", {f_words(stop)} {words}", {**fields, "aperture": stop})


def _has(scene: Scene, stop: float) -> bool:
    """Whether the lens has an aperture, as far as is known."""
    low, high = (scene.lens.widest, scene.lens.narrowest) if scene.lens else (None, None)
    return (low is None or stop >= low.value * 0.98) and (high is None or stop <= high.value * 1.02)


def _made_up(scene: Scene, more: float) -> tuple[str, dict[str, Any]] | None:
    """What gives so many times the exposure: a longer time for things under light that stays on, else more ISO."""
    shot = scene.shot
    flashed = any(isinstance(light.head, Flash) for light in scene.lights)
    if shot.still and not flashed and shot.shutter and shot.shutter * more <= SLOWEST:
        time = nearest_time(shot.shutter * more)
        return f"at {time_words(time)}", {"shutter": time}
    if shot.iso is None or nearest_iso(shot.iso * more) <= shot.iso:
        return None
    return f"at ISO {nearest_iso(shot.iso * more)}", {"iso": nearest_iso(shot.iso * more)}


def _open_up(scene: Scene) -> Iterable[Proposal]:
    """Each stop that serves the background, alone and with the ISO it leaves; and doing without."""
    shot, soft = scene.shot, scene.shot.blur == "background soft"
    if shot.aperture is not None:
        for stop in (4.0, 2.8, 2.0) if soft else (8.0, 11.0, 16.0):
            if (stop < shot.aperture.value) is soft and stop != shot.aperture.value and _has(scene, stop):
                words = f"{'Open up' if soft else 'Stop down'} to {f_words(stop)}"
                yield _set(scene, words, aperture=stop)
                iso = nearest_iso((shot.iso or 100) * (stop / shot.aperture.value) ** 2)
                if shot.iso is not None and iso != shot.iso:
                    yield _set(scene, f"{words} at ISO {iso}", aperture=stop, iso=iso)
    yield _set(scene, f"Do without a {'soft' if soft else 'sharp'} background", blur=None)


def _set(scene: Scene, label: str, **fields: Any) -> Proposal:
    return Proposal(label, SetFields(target=f"shots/{scene.shot.id}", fields=fields))


RULE = SetRule(
    "sharpness",
    margins,
    (
        DEPTH,
        NEAREST,
        BLUR,
        DIFFRACTION,
    ),
    propose,
    reads=UNLIT,
    order=1,
)
