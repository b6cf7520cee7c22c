"""What the room does to the picture: codes light.contrast, light.tint, light.background_tone, light.group."""

import math
from collections.abc import Iterable

from evrant.core.base.estimate import Estimate, Share
from evrant.core.base.margins import Basis, Line, Margin, judge, unknown
from evrant.core.base.units import signed
from evrant.core.edits.language import Light as LightEdit
from evrant.core.edits.language import SetFields, Several
from evrant.core.judge.rules.light.light_measures import card_beside, floor_covered, measures
from evrant.core.judge.rules.rule import Proposal, SetRule
from evrant.core.light import account
from evrant.core.light.beams import Beam
from evrant.core.light.emission import Missing
from evrant.core.light.lit import Lit, background_wish, lit
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import Backdrop
from evrant.core.studio.shots import Pattern
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say

CONTRAST = Line(
    "light.contrast",
    "Contrast on the subject",
    "stop",
    Basis(
        "log₂ of illuminance on two upright planes 45° round from the nose line, towards the key and away from it, "
        "direct light by contour integral and returned light by diffuse radiosity in three bands",
        "Radiosity, any text on radiant exchange; flat up to 1 stop, soft 1–2, medium 2–3, strong from 3: common "
        "practice, no source",
        "computed",
    ),
    asks="Does the subject get the contrast wanted, with what the walls return?",
    step="light",
)
TINT = Line(
    "light.tint",
    "Tint from the walls",
    "ΔE",
    Basis(
        "CIEDE2000 of a 90 % white on the side of the face, or of a subject that has none, away from the key (of a "
        "pair of keys on the worse side), white balanced on the key alone; where that is sent back into the room, on "
        "what of it reaches the subject",
        "CIE 142-2001; ±20 % for three bands; at most 4 is the project's choice",
        "published",
    ),
    asks="Do coloured walls tint the far side of the subject?",
    step="light",
)
BACKGROUND_TONE = Line(
    "light.background_tone",
    "Tone of the background",
    "stop",
    Basis(
        "luminance of the background behind the frame over that of a white at the subject: ρ E_background / E_subject",
        "Grey 18 % to white is log₂ (0.90/0.18) = 2.3 stops, black 3 stops under the subject; common "
        "practice, no source",
        "common practice",
    ),
    asks="Does the background come out in the tone wanted?",
    step="light",
)
GROUP = Line(
    "light.group",
    "Evenness over the group",
    "stop",
    Basis(
        "log₂ of the exposure at each face or thing over the one that is metered, direct and returned light: the "
        "first, of three people or more who is nearest to their middle",
        "At most half a stop; common practice, no source",
        "common practice",
    ),
    asks="Does everyone in a group get the same light?",
    step="light",
)
MOST_TINT, TINT_SPREAD = 4.0, 0.20
WHITE_OVER = 1.5
"""Stops a white background may be lit over white; common practice, no source."""
TONE_WITHIN = {"white": 0.5, "grey": 1.0}
COARSE = Share("division of the room into patches", 0.04, measurable=False)
MODEL = Share("form of the subject's body", 0.15, measurable=False)
"""What a body of a few prisms leaves out of the shade on far side and background [stops]; project choice."""
EVEN = 0.5


def margins(scene: Scene) -> Iterable[Margin]:
    """What the walls do to contrast, colour and background of a set, by its lights or by its window."""
    state = lit(scene)
    if isinstance(state, Missing) or not state.beams or state.key is None:
        return
    yield from _group(scene, state)
    if isinstance(state.around, Missing):
        if scene.shot.contrast is not None:
            yield _not_known(scene, state.around)
        return
    yield from _contrast(scene, state)
    yield from _tint(scene, state)
    yield from _tone(scene, state)


def _not_known(scene: Scene, missing: Missing) -> Margin:
    return unknown(
        CONTRAST,
        (missing.where, f"{scene.path}/lights"),
        missing.text,
        "Paint cards give a light reflectance value (LRV); hold the card to the wall, or compare with a white sheet.",
        subject=f"{scene.path}/lights",
    )


def _contrast(scene: Scene, state: Lit) -> Iterable[Margin]:
    wish, found = scene.shot.contrast, account.contrast(state)
    if wish is None or found is None:
        return
    low, high = account.RANGES[wish]
    above = math.inf if low is None else abs(found) - low
    below = math.inf if high is None else high - abs(found)
    spare = min(above, below)
    share = account.returned_share(state)
    most = account.parts(state)[:1]
    walls = f"; {most[0].share:.0%} of that from the {most[0].name}" if most and share > 0.02 else ""
    side, part = account.side_word(state), scene.shot.lit_part
    flat = above <= below
    dark = "far side" if found > 0 else "key's side"
    yield judge(
        CONTRAST,
        (f"{scene.path}/lights", f"shots/{scene.shot.id}"),
        Estimate(spare, (*paint_shares(state), COARSE, MODEL)),
        title=f"Contrast on {part}",
        need=low if flat and low is not None else (high if high is not None else 0.0),
        have=abs(found),
        clear=f"{part.capitalize()} is lit with the {wish} contrast wanted.",
        short="The room returns too much light for the contrast wanted."
        if flat and share > 0.3
        else (f"{part.capitalize()} is lit too flatly." if flat else f"The {dark} of {part} is too dark."),
        reason=f"The {side} side is {abs(found):.1f} stops {'darker' if found >= 0 else 'brighter'} "
        f"(1:{2 ** abs(found):.1f}); {share:.0%} of its light "
        f"comes by way of the room{walls}.",
    )


def paint_shares(state: Lit) -> tuple[Share, ...]:
    """How the ± of each reflectance moves the contrast [stops]."""
    assert not isinstance(state.around, Missing)
    bright, dark = state.total("key side"), state.total("shadow side")
    shares = []
    for number, (a, b) in account.reflectance_shares(state, ("key side", "shadow side")).items():
        pm = state.around.unsure.get(number, 0.03)
        amount = abs(a / bright - b / dark) * pm / math.log(2) if bright > 0 and dark > 0 else 0.0
        if amount > 1e-3 and state.settled is not None:
            shares.append(Share(f"reflectance of the {state.settled.surfaces[number].name}", amount))
    return tuple(shares)


def _tint(scene: Scene, state: Lit) -> Iterable[Margin]:
    assert not isinstance(state.around, Missing)
    side = account.tinted_side(state)
    found = account.tint_at(state, side)
    if found is None:
        return
    where = f"{'one' if account.paired(state) else 'the'} side of {scene.shot.lit_part}"
    where += "" if account.paired(state) else " away from the key"
    lamp = account.tinting(state, side)
    if lamp is not None:
        yield _tinted_by(scene, state.beams[lamp], found, where)
        return
    parts = account.parts(state, side)
    about = (f"{scene.path}/lights", *(p.path for p in parts[:1]))
    if account.returned_share(state, side) < 0.02:
        return
    blank = [name for name in state.around.colourless if sum(p.share for p in parts if p.name == name) > 0.05]
    if blank:
        at = next(p.path for p in parts if p.name == blank[0])
        yield unknown(
            TINT,
            (at, f"{scene.path}/lights"),
            f"The colour of the {blank[0]} is missing.",
            "Choose the colour of the paint; without it the tint cannot be told.",
            subject=f"{scene.path}/lights",
        )
        return
    if not parts:
        return
    coloured = max(parts, key=lambda p: p.share * (max(p.bands) - min(p.bands)) / max(max(p.bands), 1e-12))
    yield judge(
        TINT,
        about,
        Estimate(
            MOST_TINT - found.white, (Share("three bands for a spectrum", TINT_SPREAD * found.white, measurable=False),)
        ),
        need=found.white,
        have=MOST_TINT,
        clear="The walls leave the colours alone.",
        short=f"The {coloured.name} tints {where}.",
        reason=f"A white there is off by ΔE {found.white:.1f}{_on_skin(scene, found)} "
        f"({found.kelvin:.0f} K, Duv {signed(found.duv, 4)}); at most {MOST_TINT:.0f} is wanted.",
    )


def _on_skin(scene: Scene, found: account.Tint) -> str:
    """What a tint does to skin, where there is any."""
    return f", skin by {found.skin:.1f}" if scene.shot.of_person else ""


def _tinted_by(scene: Scene, beam: Beam, found: account.Tint, where: str) -> Margin:
    """The line where a lamp or a window of another colour makes the tint, and not the walls."""
    return judge(
        TINT,
        (f"{scene.path}/lights", beam.path),
        Estimate(
            MOST_TINT - found.white, (Share("three bands for a spectrum", TINT_SPREAD * found.white, measurable=False),)
        ),
        title=f"Tint from the {beam.name}",
        need=found.white,
        have=MOST_TINT,
        clear=f"The {beam.name} leaves the colours of {scene.shot.lit_part} alone.",
        short=f"The {beam.name} tints {where}.",
        reason=f"A white there is off by ΔE {found.white:.1f}{_on_skin(scene, found)}; without it most of that is "
        f"gone. At most {MOST_TINT:.0f} is wanted.",
    )


def _tone(scene: Scene, state: Lit) -> Iterable[Margin]:
    found, wish = account.ground(state), background_wish(scene)
    tone = scene.shot.tone
    if found is None or wish is None or found.off is None or tone is None:
        return
    spare = -found.off if tone == "black" else TONE_WITHIN[tone] - abs(found.off)
    if tone == "white" and found.off > 0:
        spare = WHITE_OVER - found.off  # lit over white on purpose: until it flares; what it spills has its own line
    bright = found.off > 0
    behind = state.rows.ground
    shares = [COARSE, MODEL, Share("placing by tape", 0.15)]
    if behind is not None and behind.share:
        shares.append(Share(f"reflectance of the {behind.name}", behind.unsure / behind.share / math.log(2)))
    yield judge(
        BACKGROUND_TONE,
        (f"{scene.path}/background", f"shots/{scene.shot.id}"),
        Estimate(spare, tuple(shares)),
        need=math.log2(wish),
        have=math.log2(found.mean),
        clear=f"The background comes out {tone}.",
        short=f"The background comes out too {'light' if bright else 'dark'} for {tone}.",
        reason=f"It is {found.mean:.0%} as light as a white at the subject ({found.least:.0%} to {found.most:.0%} "
        f"over the frame); {tone} is about {wish:.0%}. It gets {signed(found.stops)} stops against the subject.",
    )


def _group(scene: Scene, state: Lit) -> Iterable[Margin]:
    others = [(name, stops) for name, stops in account.fall(state) if name.startswith("subject")]
    if not others:
        return
    name, worst = max(others, key=lambda one: abs(one[1]))
    who = next((s.name for s in scene.shot.subjects if name == f"subject {s.id}"), "other subject").lower()
    lead, way = scene.shot.lead.name.lower(), "more" if worst > 0 else "less"
    yield judge(
        GROUP,
        (f"{scene.path}/lights", f"shots/{scene.shot.id}"),
        Estimate(EVEN - abs(worst), (COARSE, Share("placing by tape", 0.05))),
        need=abs(worst),
        have=EVEN,
        clear="Everyone gets the same light.",
        short=f"The {who} gets {way} light than the {lead}.",
        reason=f"{signed(worst)} stops; half a stop is usual. Farther lights even it out.",
    )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Cards, cloth, paint, grid, diffusion, distance; for the background another one, nearer or farther."""
    if scene is None or margin.margin is None:
        return
    if margin.code == "light.background_tone":
        yield from _other_background(studio, scene)
        return
    if margin.code == "light.group":
        yield from (m for m in measures(studio, scene) if "Move" in m.label)
        yield from (_otherwise(scene, pattern) for pattern in EVENER if pattern != scene.shot.pattern)
        return
    state = lit(scene)
    found = None if isinstance(state, Missing) else account.contrast(state)
    low, _ = account.RANGES.get(scene.shot.contrast or "", (None, None))
    darker = margin.code == "light.tint" or (found is not None and low is not None and found < low)
    if margin.code == "light.tint":
        yield from floor_covered()
        if not isinstance(state, Missing) and not scene.plan.lights:
            yield from card_beside(studio, scene, state, "white")  # its light has the window's colour, not the wall's
    yield from measures(studio, scene, darker=darker)


WHITE = 0.7
"""What is to be so light is lit by itself."""
EVENER: tuple[Pattern, ...] = ("butterfly", "bounced", "even pair")
"""Light from the front reaches all of a group alike, light from a side the nearest first."""


def _otherwise(scene: Scene, pattern: Pattern) -> Proposal:
    """The set lit by another pattern."""
    label = f"Light it: {pattern}"
    asked = SetFields(target=f"shots/{scene.shot.id}", fields={"pattern": pattern})
    return Proposal(label, Several(edits=(asked, LightEdit(target=scene.path, pattern=pattern)), label=label))


def _other_background(studio: Studio, scene: Scene) -> Iterable[Proposal]:
    target = f"{scene.path}/background"
    wish = background_wish(scene) or 0.18
    items = [i for i in studio.gear if isinstance(i, Backdrop) and i.id != scene.plan.background.backdrop]
    for item in sorted(items, key=lambda i: abs((i.reflectance.value / 100 if i.reflectance else 9) - wish))[:3]:
        yield Proposal(f"Hang the {item.called}", SetFields(target=target, fields={"backdrop": item.id}))
    if wish >= WHITE and scene.shot.pattern != "background pair":
        yield _otherwise(scene, "background pair")
    say = Say.of(scene.brief)
    line, place = scene.line, scene.plan.background
    if line is None or place.x is None or place.y is None:
        return
    for step in (-0.5, -0.25, 0.25, 0.5):
        spot = line[0] + line[1] * step
        way = "nearer" if step > 0 else "back"
        yield Proposal(
            f"Bring the background {say.length(abs(step))} {way}",
            SetFields(target=target, fields={"x": round(float(spot[0]), 3), "y": round(float(spot[1]), 3)}),
        )


RULE = SetRule(
    "returned light",
    margins,
    (
        CONTRAST,
        TINT,
        BACKGROUND_TONE,
        GROUP,
    ),
    propose,
)
