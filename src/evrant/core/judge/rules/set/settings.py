"""Can the camera be set as the shot says? Codes frame.aperture, frame.iso."""

import math
from collections.abc import Iterable

from evrant.core.base.estimate import Estimate
from evrant.core.base.margins import Basis, Line, Margin, judge
from evrant.core.base.tables.steps import nearest_time
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import UNLIT, Proposal, SetRule
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import Flash
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import f_words, time_words

APERTURE = Line(
    "frame.aperture",
    "Aperture of the lens",
    "stop",
    Basis("widest ≤ aperture ≤ smallest of the lens, in stops 2 log₂ of the ratio", "Maker's figures", "computed"),
    asks="Can the lens be set to the aperture?",
    step="set",
    fails=True,
)
ISO = Line(
    "frame.iso",
    "ISO of the camera",
    "stop",
    Basis("ISO ≥ the least the camera has", "Maker's figure", "computed"),
    asks="Does the camera go that low?",
    step="set",
)
THIRD = 1 / 3
"""Engraved apertures are rounded to about so much of a stop."""


def margins(scene: Scene) -> Iterable[Margin]:
    """Aperture where it lies outside the lens's, or the lens has one only; ISO where it lies under the camera's."""
    yield from _aperture(scene)
    yield from _iso(scene)


def _aperture(scene: Scene) -> Iterable[Margin]:
    lens, wish = scene.lens, scene.shot.aperture
    if lens is None or wish is None:
        return
    over = 2 * math.log2(wish.value / lens.widest.value) if lens.widest else math.inf
    under = 2 * math.log2(lens.narrowest.value / wish.value) if lens.narrowest else math.inf
    spare = min(over, under)
    fixed = lens.widest and lens.narrowest and lens.narrowest.value == lens.widest.value
    if math.isinf(spare) or (spare >= -THIRD / 2 and not fixed):
        return
    end = lens.widest if over < under else lens.narrowest
    assert end is not None
    words = f"is fixed at {f_words(end.value)}" if fixed else f"goes to {f_words(end.value)}"
    yield judge(
        APERTURE,
        (f"{scene.path}/camera", f"shots/{scene.shot.id}"),
        Estimate(spare + THIRD if spare >= -THIRD / 2 else spare),
        need=end.value,
        have=wish.value,
        clear=f"The {lens.called} has {f_words(wish.value)}.",
        short=f"The {lens.called} has no {f_words(wish.value)}.",
        reason=f"It {words}.",
    )


def _iso(scene: Scene) -> Iterable[Margin]:
    body, wish = scene.body, scene.shot.iso
    if body is None or wish is None or body.base_iso is None or wish >= body.base_iso * 0.99:
        return
    yield judge(
        ISO,
        (f"{scene.path}/camera", f"shots/{scene.shot.id}"),
        Estimate(math.log2(wish / body.base_iso)),
        need=float(body.base_iso),
        have=float(wish),
        clear="",
        short=f"The {body.called} has no ISO {wish}.",
        reason=f"It begins at {body.base_iso}; a neutral filter on the lens does the same.",
    )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """The nearest setting there is; under light that stays on, as much shorter as the ISO is higher."""
    if scene is None or margin.need is None:
        return
    shot, time, iso = f"shots/{scene.shot.id}", scene.shot.shutter, scene.shot.iso
    if margin.code == ISO.code:
        flashed = any(isinstance(light.head, Flash) for light in scene.lights)
        if time is not None and iso is not None and scene.shot.capture == "stills" and not flashed:
            shorter = nearest_time(time * iso / margin.need)
            fields = {"iso": round(margin.need), "shutter": shorter}
            words = f"Set ISO {margin.need:.0f} and expose for {time_words(shorter)}"
            yield Proposal(words, SetFields(target=shot, fields=fields))
        yield Proposal(f"Set ISO {margin.need:.0f}", SetFields(target=shot, fields={"iso": round(margin.need)}))
    else:
        yield Proposal(f"Set {f_words(margin.need)}", SetFields(target=shot, fields={"aperture": margin.need}))


RULE = SetRule("camera settings", margins, (APERTURE, ISO), propose, reads=UNLIT, order=1)
