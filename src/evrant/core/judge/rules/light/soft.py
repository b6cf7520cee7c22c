"""Is the light soft enough? Code light.soft."""

import math
from collections.abc import Iterable

import numpy as np

from evrant.core.base.estimate import Estimate, Share
from evrant.core.base.margins import Basis, Line, Margin, judge
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.light.shadow import turned_away
from evrant.core.judge.rules.rule import Proposal, SetRule
from evrant.core.light.effective import Effective, effective
from evrant.core.light.emission import Missing
from evrant.core.light.lit import Lit, lit
from evrant.core.light.softness import apparent, edge_at_nose, grade_of
from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene
from evrant.core.space.shares import picture_shares
from evrant.core.studio.gear import Modifier
from evrant.core.studio.room import value
from evrant.core.studio.shots import LIVING
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say

SOFT = Line(
    "light.soft",
    "Softness of the …",
    "°",
    Basis(
        "apparent size of what the light comes from, as a cone of the same solid angle, seen from the subject ≥ 10° "
        "where no strong contrast is asked for",
        "Similar triangles: a shadow's edge is as wide as its source is seen; that shadows look hard under about 10° "
        "is common practice, no source",
        "common practice",
    ),
    asks="Is what makes the shadows large enough for the subject, or are their edges hard?",
    step="light",
    goes=True,
)
LEAST, UNSURE = 10.0, 1.5
"""Apparent size from which on a light is no longer hard, with the ± of where that is [degrees]; common practice, no
source."""
HARD_ENDS = Share("limit of what looks hard", UNSURE, measurable=False)
SHADOWS = ("key", "top light")
"""Roles whose light makes the shadows that one sees."""
HARD = frozenset({"split", "silhouette", "gobo", "under-light", "practicals"})
"""Patterns that live by hard edges, or by no shadow at all."""
NEAREST = 0.5
"""No nearer is a light brought [m]; project choice."""


def margins(scene: Scene) -> Iterable[Margin]:
    """A line for each light that makes shadows, where hard ones are not wanted."""
    if scene.shot.contrast == "strong" or scene.shot.pattern in HARD or scene.face is None:
        return
    lights = [light for light in scene.lights if light.place.role in SHADOWS and light.head is not None]
    state = lit(scene) if lights else None
    if state is None or isinstance(state, Missing):
        return
    for light in lights:
        number = next((i for i, beam in enumerate(state.beams) if beam.path == light.path), None)
        if number is None or (state.settled is None and turned_away(scene, light.path)):
            continue  # what it comes from is not known while the room's finishes are not
        yield _soft(state, light, effective(state, number))


def _soft(state: Lit, light: Light, seen: Effective) -> Margin:
    scene = state.scene
    size, say = apparent(scene, seen.source) or 0.0, Say.of(scene.brief)
    living, nose = scene.shot.lead.kind in LIVING, ""
    if living and scene.face is not None:
        edge = edge_at_nose(size, float(np.linalg.norm(seen.source.centre - scene.face)))
        nose = f" A nose's shadow has an edge of {say.fine(edge)}."
    comes = f" The light comes from the {seen.name}." if seen.name else ""
    return judge(
        SOFT,
        (light.path, scene.path),
        Estimate(
            size - LEAST,
            (*_shares(scene, light, seen, size), HARD_ENDS),
        ),
        title=f"Softness of the {light.name}",
        need=LEAST,
        have=size,
        clear=f"The {light.name} is soft enough.",
        short=f"The {light.name} makes hard shadows.",
        reason=f"Seen from the {'face' if living else 'subject'} it is {size:.0f}° wide: {grade_of(size)}; under "
        f"about {LEAST:.0f}° shadows have hard edges.{nose}{comes}",
        at=(float(seen.centre[0]), float(seen.centre[1]), float(seen.centre[2])),
    )


def _shares(scene: Scene, light: Light, seen: Effective, size: float) -> Iterable[Share]:
    """What the ± of where the face is, and of the light's own size where that is what is seen, make of its apparent
    size [degrees]."""
    yield from picture_shares(scene, lambda one: apparent(one, seen.source))
    if seen.name:
        return
    item = light.modifier or light.head
    for name in ("width", "height", "diameter"):
        figure = getattr(item, name, None)
        if figure is not None and figure.value > 0 and item is not None:
            part = 0.5 if getattr(item, "height", None) is not None else 1.0  # a round face has one measure
            yield Share(f"{name} of the {item.called}", size * part * figure.pm / figure.value)


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """A larger modifier of the kit; the light nearer; hard shadows asked for."""
    light = scene.light_at(margin.about[0]) if scene is not None else None
    if scene is None or light is None or light.at is None or scene.face is None or margin.have is None:
        return
    wide = light.face[0] if light.face else 0.0
    for item in studio.gear:
        if isinstance(item, Modifier) and item.at_hand and (value(item.width) or 0.0) > wide:
            yield Proposal(f"Use the {item.called}", SetFields(target=light.path, fields={"modifier": item.id}))
    far = float(np.linalg.norm(light.at - scene.face))
    near = far * margin.have / (LEAST + 2 * UNSURE)
    if NEAREST <= near < far:
        spot = scene.face + (light.at - scene.face) * (math.floor(near * 100) / 100 / far)
        fields = {name: round(float(at), 3) for name, at in zip(("x", "y", "height"), spot, strict=True)}
        words = f"Bring the {light.name} to {Say.of(scene.brief).length(math.floor(near * 100) / 100)}"
        yield Proposal(words, SetFields(target=light.path, fields=fields))
    shot = f"shots/{scene.shot.id}"
    label = "Hard shadows are wanted: ask for strong contrast"
    yield Proposal(label, SetFields(target=shot, fields={"contrast": "strong"}), otherwise=True)


RULE = SetRule("softness", margins, (SOFT,), propose)
