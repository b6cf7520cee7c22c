"""Lights that are there to be seen: lamps in the picture, rims, the bright ground behind a silhouette. Codes
light.practical, light.rim, light.silhouette."""

import math
from collections.abc import Iterable

import numpy as np

from evrant.core.base.estimate import Estimate, Share
from evrant.core.base.margins import Basis, Line, Margin, judge
from evrant.core.base.units import signed
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import Proposal, SetRule
from evrant.core.light import account
from evrant.core.light.beams import Beam
from evrant.core.light.bounce.sources import seen_luminance
from evrant.core.light.emission import Missing
from evrant.core.light.lit import Lit, lit
from evrant.core.light.powers import role_stops
from evrant.core.space.scene import Scene
from evrant.core.space.solids import unit
from evrant.core.studio.gear import Lamp
from evrant.core.studio.studio import Studio

PRACTICAL = Line(
    "light.practical",
    "How bright the … looks",
    "stop",
    Basis(
        "log₂ of the lamp's luminance toward the lens, I / A, over that of a face of 36 % in the light of the set",
        "Luminance by definition; 1 to 4 stops over the face read as a lit lamp, common practice, no source",
        "common practice",
    ),
    asks="Does a lamp in the picture look lit, without burning out?",
    step="light",
)
RIM = Line(
    "light.rim",
    "Strength of the …",
    "stop",
    Basis(
        "log₂ of what a flat meter turned to the light reads over what a dome reads of the key",
        "Within a stop of what the role asks; common practice, no source",
        "common practice",
    ),
    asks="Is a rim or hair light as strong as it should be?",
    step="light",
)
SILHOUETTE = Line(
    "light.silhouette",
    "Silhouette",
    "stop",
    Basis(
        "log₂ of the background's luminance over that of a face of 36 %",
        "4 stops or more leave no face; common practice, no source",
        "common practice",
    ),
    asks="Is the subject dark enough before the bright background?",
    step="light",
)
SKIN = 0.36
"""Reflectance of a fair face [1]; from memory."""
LIT, BURNT, RIM_WITHIN, DARK = 1.0, 4.0, 1.0, 4.0


def margins(scene: Scene) -> Iterable[Margin]:
    """Lines of each lamp in the picture, each rim, and of a silhouette."""
    state = lit(scene)
    if isinstance(state, Missing) or not state.beams:
        return
    for number, beam in enumerate(state.beams):
        if beam.role == "practical":
            yield from _practical(scene, state, number, beam)
        elif beam.role in ("rim", "hair light"):
            yield from _rim(scene, state, number, beam)
    if scene.shot.pattern == "silhouette":
        yield from _silhouette(scene, state)


def in_picture(scene: Scene, beam: Beam) -> bool:
    """Whether a light's face shows in the picture."""
    view = scene.view
    if view is None:
        return False
    spots = np.array([*beam.source.face, beam.source.centre])
    rays = spots - view.eye
    deep = rays @ view.forward
    ahead = deep > 0.05
    x, y = (np.abs(rays @ way)[ahead] / deep[ahead] * view.image for way in (view.right, view.up))
    return bool(((x < view.across / 2) & (y < view.upward / 2)).any())


def _practical(scene: Scene, state: Lit, number: int, beam: Beam) -> Iterable[Margin]:
    if not in_picture(scene, beam) or scene.view is None or state.exposed <= 0:
        return
    over = math.log2(max(luminance_of(state, number, scene.view.eye) * math.pi / (SKIN * state.exposed), 1e-9))
    spare = min(over - LIT, BURNT - over)
    spilt = account.share_of(state, number)
    yield judge(
        PRACTICAL,
        (beam.path, f"shots/{scene.shot.id}"),
        Estimate(spare, (Share("size of the luminous face", 0.7),)),
        title=f"How bright the {beam.name} looks",
        need=over,
        have=BURNT if over > (LIT + BURNT) / 2 else LIT,
        clear=f"The {beam.name} looks lit and keeps its colour.",
        short=f"The {beam.name} {'burns out to white' if over > BURNT else 'looks as if it were off'}.",
        reason=f"It is {abs(over):.1f} stops {'over' if over >= 0 else 'under'} {scene.shot.lit_part}; "
        f"{LIT:.0f} to {BURNT:.0f} over it look lit. Its own light makes {spilt:.0%} of the subject's.",
    )


def luminance_of(state: Lit, number: int, eye: np.ndarray[tuple[int, ...], np.dtype[np.float64]]) -> float:
    """Luminance of a light's face toward a point, times the time it counts for [cd s/m²]."""
    beam = state.beams[number]
    source = beam.source
    cosine = unit(eye - source.centre) @ source.forward
    return float(seen_luminance(source, np.array([cosine]))[0] * state.doses[number])


def _rim(scene: Scene, state: Lit, number: int, beam: Beam) -> Iterable[Margin]:
    if state.key is None or beam.light is None:
        return
    doses = state.doses
    key, own = state.measured(state.key) * doses[state.key], state.measured(number) * doses[number]
    if key <= 0 or own <= 0:
        return
    asked = role_stops(beam.role) or 0.0
    off = math.log2(own / key) - asked
    yield judge(
        RIM,
        (beam.path, f"{scene.path}/lights"),
        Estimate(RIM_WITHIN - abs(off), (Share("output of both heads", 0.3),)),
        title=f"Strength of the {beam.name}",
        need=abs(off),
        have=RIM_WITHIN,
        clear=f"The {beam.name} draws its edge.",
        short=f"The {beam.name} is too {'strong: its edge burns out' if off > 0 else 'weak to draw an edge'}.",
        reason=f"A meter turned to it reads {signed(off + asked)} stops against the key; "
        f"about {signed(asked)} is usual.",
    )


def _silhouette(scene: Scene, state: Lit) -> Iterable[Margin]:
    ground = account.ground(state)
    face, part = state.total("face") * SKIN, scene.shot.lit_part
    if ground is None or ground.mean <= 0:
        return
    over = min(math.log2(ground.mean * state.exposed / max(face, 1e-9)), 12.0)
    yield judge(
        SILHOUETTE,
        (f"{scene.path}/lights", f"shots/{scene.shot.id}"),
        Estimate(over - DARK, (Share("light that creeps round", 0.5),)),
        need=DARK,
        have=over,
        clear=f"{part.capitalize()} is dark before the bright background.",
        short=f"{part.capitalize()} is too light for a silhouette.",
        reason=f"The background is {over:.1f} stops lighter than {part}; {DARK:.0f} or more leave only its outline.",
    )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """The lamp dimmed, another bulb, the power that the role asks for, the subject farther from its background."""
    if scene is None or margin.need is None:
        return
    light = scene.light_at(margin.about[0])
    state = lit(scene)
    if isinstance(state, Missing):
        return
    if margin.code == "light.practical" and light is not None:
        number = next((i for i, b in enumerate(state.beams) if b.path == light.path), None)
        if number is not None:
            power = float(np.clip(state.powers[number] * 2 ** (2.5 - margin.need), 0.001, 1.0))
            yield Proposal(f"Dim it to {power:.1%}", SetFields(target=light.path, fields={"power": round(power, 4)}))
        for item in studio.gear:
            if isinstance(item, Lamp) and item.id != light.place.head:
                yield Proposal(f"Use the {item.called}", SetFields(target=light.path, fields={"head": item.id}))
    elif margin.code == "light.rim" and light is not None:
        yield Proposal("Let its power follow the key", SetFields(target=light.path, fields={"power": None}))


RULE = SetRule("accents", margins, (PRACTICAL, RIM, SILHOUETTE), propose)
