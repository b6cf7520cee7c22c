"""Light from above and from below at a face, and what a background's lights spill on it: codes light.eyes,
light.from_below, light.spill."""

import math
from collections.abc import Iterable

import numpy as np

from evrant.core.base.estimate import Estimate, Share
from evrant.core.base.margins import Basis, Line, Margin, judge
from evrant.core.base.units import signed
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import Proposal, SetRule
from evrant.core.light.colour import luminance
from evrant.core.light.emission import Missing
from evrant.core.light.lit import Lit, lit
from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene
from evrant.core.space.shares import picture_shares
from evrant.core.studio.shots import LIVING
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say

EYES = Line(
    "light.eyes",
    "Light in the eyes",
    "stop",
    Basis(
        "log₂ of illuminance on a level surface at the face over that on the upright one before or beside it that gets "
        "most: what opposite sides share and √((ahead − behind)² + (left − right)²); 1 is a light 63° up",
        "Projection of flux, any photometry handbook; a brow shades the eye from about 60°, common practice, no source",
        "common practice",
    ),
    asks="Does light reach the eyes, or does it all come from above?",
    step="light",
)
BELOW = Line(
    "light.from_below",
    "Light from below",
    "stop",
    Basis(
        "log₂ of illuminance on a surface that looks up over that on one that looks down, at the face",
        "Faces look lit from below when more comes from there; common practice, no source",
        "common practice",
    ),
    asks="Does more light come from above than from below?",
    step="light",
)
SPILL = Line(
    "light.spill",
    "Background light on the subject",
    "stop",
    Basis(
        "log₂ of the exposure at the subject over what background lights bring there, by way of the background too",
        "3 stops or more do not wrap round the subject; common practice, no source",
        "common practice",
    ),
    asks="Does the background's light keep off the subject?",
    step="light",
)
STEEP, OFF_SUBJECT = 1.0, 3.0
FROM_BEHIND = 1.5
"""Where so many times more comes from behind than from anywhere before, an outline is wanted, not a lit face; project
choice."""
COARSE = Share("brow and the way the head is held", 0.2, measurable=False)


def margins(scene: Scene) -> Iterable[Margin]:
    """Lines of a set with light; the first two where it is a person's or an animal's face."""
    state = lit(scene)
    if isinstance(state, Missing) or not state.beams:
        return
    about = (f"{scene.path}/lights", f"shots/{scene.shot.id}")
    first = scene.shot.lead.kind if scene.shot.subjects else ""
    ahead, behind, left, right, above, under = cube(state)
    shared = (min(ahead, behind) + min(left, right)) / 2
    level = shared + math.hypot(max(ahead - behind, 0.0), left - right)
    turned = behind > FROM_BEHIND * max(ahead, left, right)
    if first in LIVING and not scene.overhead and not turned and level > 0 and above > 0:
        steep = math.log2(above / level)
        yield judge(
            EYES,
            about,
            Estimate(STEEP - steep, (COARSE, *picture_shares(scene, _rise))),
            need=steep,
            have=STEEP,
            clear="Light reaches the eyes.",
            short="Most light comes from above: the eyes lie in shadow.",
            reason=f"From above comes {2**steep:.1f} times what comes from ahead and beside, as from a light "
            f"{math.degrees(math.atan(above / level)):.0f}° up; about 60° is the most.",
        )
        if scene.shot.pattern not in ("under-light", "silhouette"):
            over = min(math.log2(above / max(under, 1e-9)), 12.0)
            yield judge(
                BELOW,
                about,
                Estimate(over, (Share("light the floor returns", 0.2),)),
                need=0.0,
                have=over,
                clear="More light comes from above than from below.",
                short="More light comes from below than from above.",
                reason=f"From above come {signed(over)} stops more than from below.",
            )
    yield from _spill(scene, state)


def _rise(scene: Scene) -> float | None:
    """log₂ of how much higher over the face than away from it the first light stands."""
    light = next((one for role in ("key", "ring light") for one in scene.lights if one.place.role == role), None)
    if light is None or light.at is None or scene.face is None or scene.axis is None:
        return None
    way = light.at - scene.face
    out = math.hypot(way[0], way[1])
    return math.log2(float(way[2]) / out) if out > 0.05 and way[2] > 0.05 else None


def cube(state: Lit) -> list[float]:
    """Illuminance as set on six surfaces at the face: ahead, behind, left, right, up, down [lx s]."""
    amounts = state.whole[state.rows.at["cube"]] * state.doses[None, :, None]
    return [float(luminance(row.sum(axis=0))) for row in amounts]


def _spill(scene: Scene, state: Lit) -> Iterable[Margin]:
    back = [i for i, beam in enumerate(state.beams) if beam.role == "background light"]
    whole = state.exposure("face")
    spilt, total = (float(luminance(whole[rows].sum(axis=0))) for rows in (back, slice(None)))
    if not back or total <= 0:
        return
    under = min(math.log2(total / max(spilt, 1e-12)), 12.0)
    yield judge(
        SPILL,
        (f"{scene.path}/background", f"{scene.path}/lights"),
        Estimate(under - OFF_SUBJECT, (Share("subject's own shade", 0.5),)),
        need=OFF_SUBJECT,
        have=under,
        clear="The background's light keeps off the subject.",
        short="The background's light spills on the subject.",
        reason=f"It brings {spilt / total:.0%} of the subject's exposure, {under:.1f} stops under it; "
        f"{OFF_SUBJECT:.0f} stops or more do not show. Flag it, turn it away, or bring the subject forward.",
    )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """The key lower or higher, room lamps off, a fill of less power."""
    if scene is None:
        return
    shot = f"shots/{scene.shot.id}"
    if margin.code == "light.eyes":
        if scene.shot.around in ("room lamps on", "daylight and room lamps"):
            around = "dark" if scene.shot.around == "room lamps on" else "daylight"
            yield Proposal("Turn the room's lamps off", SetFields(target=shot, fields={"around": around}))
        for light in scene.lights:
            if light.place.role in ("key", "ring light", "top light", "fill"):
                yield from _raised(scene, light, (-0.2, -0.4))
    elif margin.code == "light.from_below":
        for light in scene.lights:
            yield from _raised(scene, light, (0.3, 0.6))
    else:
        for light in scene.lights:
            if light.place.role == "background light" and not light.place.gridded and light.modifier is not None:
                yield Proposal(
                    f"Put a grid on the {light.name}", SetFields(target=light.path, fields={"gridded": True})
                )


def _raised(scene: Scene, light: Light, steps: tuple[float, ...]) -> Iterable[Proposal]:
    """A light higher or lower, kept inside the room."""
    if light.at is None:
        return
    say = Say.of(scene.brief)
    for step in steps:
        height = round(float(np.clip(light.at[2] + step, 0.2, 5.0)), 2)
        if abs(height - light.at[2]) > 0.05:
            yield Proposal(
                f"Set the {light.name} at {say.length(height)}",
                SetFields(target=light.path, fields={"height": height}),
            )


RULE = SetRule("light up and down", margins, (EYES, BELOW, SPILL), propose)
