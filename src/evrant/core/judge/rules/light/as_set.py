"""The exposure of a set as it stands, all its light together: code light.exposure."""

import math
from collections.abc import Iterable

import numpy as np

from evrant.core.base.estimate import Estimate, Share
from evrant.core.base.margins import Basis, Line, Margin, judge, unknown
from evrant.core.base.units import signed
from evrant.core.edits.language import Edit, SetFields, Several
from evrant.core.judge.rules.rule import Proposal, SetRule
from evrant.core.light.emission import Missing
from evrant.core.light.lit import Lit, lit
from evrant.core.space.scene import Scene
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import f_words, time_words

EXPOSURE = Line(
    "light.exposure",
    "Exposure of the set",
    "stop",
    Basis(
        "|log₂ (Σ H / (C N² / S))| ≤ 0.5 with C = 340 on a dome toward the camera; H of every light as set, window, "
        "room lamp and return together, continuous light times the shutter",
        "ISO 2720; half a stop either way is set right afterwards, common practice",
        "published",
    ),
    asks="Is the subject exposed right with all the light of the set together?",
    step="light",
    fails=True,
)
WITHIN = 0.5
"""Stops that a picture may be off; common practice, no source."""
STOPS = (1.4, 1.8, 2.0, 2.8, 4.0, 5.6, 8.0, 11.0, 16.0, 22.0)
NOTHING = 12.0
"""Stops under the exposure that count for no light at all."""
OUTPUT = 0.5
"""± of light that stands as it is: windows and lamps of the room [stops]."""


def margins(scene: Scene) -> Iterable[Margin]:
    """The exposure of a set, where there is light in it that can be computed."""
    shot = scene.shot
    state = lit(scene)
    if isinstance(state, Missing) or state.needed is None:
        return
    if not (state.beams or state.missing):
        if shot.around in ("daylight", "daylight and room lamps") and not scene.lights:
            yield _no_light(scene)
        return
    if shot.pattern == "silhouette":
        return  # the background is exposed for, and has its own line
    about = (f"{scene.path}/lights", f"shots/{shot.id}")
    if shot.shutter is None and any(beam.kind != "flash" for beam in state.beams):
        if not any(beam.light is not None for beam in state.beams):
            yield unknown(
                EXPOSURE,
                (f"shots/{shot.id}", about[0]),
                "The shot has no shutter time.",
                "Enter the time you want to expose.",
                subject=about[0],
            )
        return
    blind = next((m for m in state.missing if m.where.startswith("room/")), None)
    if blind is not None and shot.around != "dark":
        yield unknown(
            EXPOSURE,
            (blind.where, *about),
            blind.text,
            "Measure with a lux meter or a phone.",
            subject=about[0],
        )
        return
    got = float(state.metered.sum())
    if got <= 0 or len(state.missing) > 0:
        return
    off = math.log2(got / state.needed)
    assert shot.aperture is not None
    time = f", {time_words(shot.shutter)}" if shot.shutter and any(b.kind != "flash" for b in state.beams) else ""
    settings = f"{f_words(shot.aperture.value)}, ISO {shot.iso}{time}"
    reads = shot.aperture.value * 2 ** (off / 2)
    yield judge(
        EXPOSURE,
        about,
        Estimate(WITHIN - abs(off), _shares(state)),
        need=abs(off),
        have=WITHIN,
        clear="All the light together exposes the subject right.",
        short=f"All the light together makes the picture too {'bright' if off > 0 else 'dark'}.",
        reason=f"A meter at the subject would read {f_words(reads)}; {settings} is set: {signed(off)} stops. "
        f"{_who(state)}",
    )


def _no_light(scene: Scene) -> Margin:
    """The line of a shot by daylight in a room that none comes into."""
    return judge(
        EXPOSURE,
        (f"{scene.path}/lights", f"shots/{scene.shot.id}"),
        Estimate(WITHIN - NOTHING, ()),
        need=NOTHING,
        have=WITHIN,
        clear="There is light.",
        short="There is no light: no window lets daylight in, and none is set up.",
        reason="A shot by daylight needs a room with a window that is not covered, or lights.",
    )


def _by_light(state: Lit) -> list[float]:
    """Share of the exposure each source makes."""
    parts = state.metered
    return [float(part) for part in parts / max(float(parts.sum()), 1e-12)]


def _who(state: Lit) -> str:
    """Who makes the exposure, in words, greatest first."""
    shares = sorted(zip(_by_light(state), (b.name for b in state.beams), strict=True), reverse=True)
    return ", ".join(f"{name} {share:.0%}" for share, name in shares[:3] if share >= 0.05) + "."


def _shares(state: Lit) -> tuple[Share, ...]:
    """What is unsure of light that will not be set by a meter: typed powers, ends of a range, what stands as it is."""
    found = []
    for i, (beam, share) in enumerate(zip(state.beams, _by_light(state), strict=True)):
        if _follows(state, i) or share < 0.02:
            continue
        own = math.sqrt(sum(s.amount**2 for s in beam.emission.shares)) if beam.emission else OUTPUT
        found.append(Share(f"output of the {beam.name.lower()}", share * own))
    return (Share("steps and placing", 0.1), *found)


def _follows(state: Lit, index: int) -> bool:
    """Whether a light's power is set by the meter in the end: not typed, and not at the end of its range."""
    light = state.beams[index].light
    if light is None or light.place.power is not None:
        return False
    low, high = state.ends(index)
    return low * 1.001 < float(state.meant[index]) < high * 0.999


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Powers that suit, each head's own; aperture, ISO, shutter, filter."""
    if scene is None or margin.need is None:
        return
    state, shot = lit(scene), scene.shot
    if isinstance(state, Missing) or state.needed is None or shot.aperture is None or shot.iso is None:
        return
    typed = [b.light for b in state.beams if b.light is not None and b.light.place.power is not None]
    if typed:
        free: tuple[Edit, ...] = tuple(SetFields(target=one.path, fields={"power": None}) for one in typed)
        yield Proposal("Let the powers follow the aperture", Several(edits=free, label="Powers follow the aperture"))
    off = math.log2(max(float(state.metered.sum()), 1e-9) / state.needed)
    target = f"shots/{shot.id}"
    wanted = shot.aperture.value * 2 ** (off / 2)
    near = min(STOPS, key=lambda n: abs(math.log2(n / wanted)))
    if near != shot.aperture.value:
        yield Proposal(f"Work at {f_words(near)}", SetFields(target=target, fields={"aperture": near}))
    iso = int(np.clip(50 * 2 ** round(math.log2(shot.iso * 2**-off / 50)), 12, 102400))
    base = (scene.body.base_iso if scene.body else None) or 0
    if iso != shot.iso and iso >= base:
        yield Proposal(f"Set ISO {iso}", SetFields(target=target, fields={"iso": iso}))
    if off > 0 and shot.dark_filter + math.ceil(off) <= 10:
        dark = shot.dark_filter + math.ceil(off)
        yield Proposal(
            f"Put a neutral filter of {dark:.0f} stops on the lens",
            SetFields(target=target, fields={"dark_filter": float(dark)}),
        )
    steady = sum(s for s, b in zip(_by_light(state), state.beams, strict=True) if b.kind != "flash")
    if shot.capture != "video" and shot.shutter is not None and steady > 0.5:
        time = min(max(shot.shutter * 2**-off, 1 / 8000), 30.0)
        yield Proposal(f"Expose for {time_words(time)}", SetFields(target=target, fields={"shutter": round(time, 6)}))


RULE = SetRule("exposure of the set", margins, (EXPOSURE,), propose)
