"""Does the subject's shadow show on the background? Code light.shadow."""

import math
from collections.abc import Iterable

import numpy as np

from evrant.core.base.estimate import Estimate
from evrant.core.base.margins import Basis, Line, Margin, judge
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import Proposal, SetRule
from evrant.core.light.effective import effective
from evrant.core.light.emission import Missing
from evrant.core.light.lit import lit
from evrant.core.light.softness import cone
from evrant.core.place.patterns import apart
from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene
from evrant.core.space.shares import gear_shares, picture_shares
from evrant.core.space.solids import Vector, unit
from evrant.core.studio.gear import Board, Modifier
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say

SHADOW = Line(
    "light.shadow",
    "Shadow of the …'s light",
    "m",
    Basis(
        "shadow outside the frame, or penumbra W·b/D ≥ size of the shadow w·(1 + b/D), so that no core is left",
        "Similar triangles from a source of width W at D from the subject, b before the background",
        "published",
    ),
    asks="Does the subject's shadow miss the picture, or dissolve?",
    step="light",
    search="kept",
    fails=True,
)
PAST = 75.0
"""Angle from the subject at which a light no longer shines on it straight [degrees]."""
HEAD = 0.12
"""Width of the head as a share of the frame's height: what throws the shadow that is seen; common practice."""


def margins(scene: Scene) -> Iterable[Margin]:
    """A line for each key light."""
    for light in scene.lights:
        if light.place.role == "key":
            yield from _shadow(scene, light)


def _source_of(scene: Scene, path: str) -> tuple[Vector, float] | None:
    """Centre and width of a light's own face [m]."""
    light = scene.light_at(path)
    if light is None or light.at is None or light.face is None:
        return None
    width, height = light.face
    return light.at, min(width, height) if height else width


def turned_away(scene: Scene, path: str) -> bool:
    """Whether a light looks so far past the subject that it may come from something else first."""
    light = scene.light_at(path)
    if light is None or light.at is None or light.forward is None or scene.face is None:
        return False
    return apart(light.forward, unit(scene.face - light.at)) > PAST


def _has_sheet(scene: Scene) -> bool:
    """Whether anything that lets light through stands in the set."""
    props = (scene.gear.get(prop.item or "") for prop in scene.plan.props)
    return any(isinstance(item, Board) and item.surface == "translucent" for item in props)


def _sent_by(scene: Scene, path: str) -> tuple[Vector, float, str] | None:
    """Centre, width and name of what a light comes from at the subject, where that is not the head."""
    if not (turned_away(scene, path) or _has_sheet(scene)):
        return None
    state = lit(scene)
    if isinstance(state, Missing) or scene.face is None:
        return None
    number = next((i for i, beam in enumerate(state.beams) if beam.path == path), None)
    found = effective(state, number) if number is not None else None
    if found is None or not found.name:
        return None
    far = float(np.linalg.norm(found.centre - scene.face))
    return found.centre, 2 * far * math.tan(min(cone(found.angle) / 2, math.radians(80))), found.name


def _shadow_spare(scene: Scene, path: str, sent: tuple[Vector, float] | None = None) -> float | None:
    """How far the head's shadow lies outside the frame, or how far its core has dissolved [m]; `sent`: centre and
    width of what the light comes from, where that is not the head."""
    view, line, face, source = scene.view, scene.line, scene.face, sent or _source_of(scene, path)
    if view is None or line is None or face is None or source is None:
        return None
    at, wide = source
    spot, way = line
    ahead = np.array([way[0], way[1], 0.0])
    before = float((at - [*spot, 0.0]) @ ahead)
    head = float((face - [*spot, 0.0]) @ ahead)
    if not before > head > 0.01:
        return None
    behind = head / (before - head)
    shadow = face + (face - at) * behind
    size = HEAD * (scene.wanted.height.value if scene.wanted else 0.2)
    far, near = float(np.linalg.norm(at - face)), float(np.linalg.norm(shadow - face))
    core = size * (1 + near / far) - wide * near / far
    outside = _beyond_frame(scene, shadow, size * (1 + near / far) / 2)
    return max(outside, -core)


def _beyond_frame(scene: Scene, shadow: Vector, radius: float) -> float:
    """Distance of a round shadow on the background from the frame's edge there, positive outside [m]."""
    assert scene.view is not None and scene.line is not None
    view = scene.view
    offset = shadow - view.eye
    depth = max(float(offset @ view.forward), 0.05)
    x, y = float(offset @ view.right), float(offset @ view.up)
    half_x, half_y = view.across / 2 / view.image * depth, view.upward / 2 / view.image * depth
    return max(abs(x) - half_x, abs(y) - half_y) - radius


def _shadow(scene: Scene, light: Light) -> Iterable[Margin]:
    bounced = _sent_by(scene, light.path)
    sent = bounced[:2] if bounced else None
    spare = _shadow_spare(scene, light.path, sent)
    if spare is None or light.at is None or scene.line is None or scene.overhead:
        return
    if bounced is None and turned_away(scene, light.path):
        return  # it shines elsewhere: what it comes from is not known while the room's finishes are not
    say = Say.of(scene.brief)
    shares = (
        *picture_shares(scene, lambda one: _shadow_spare(one, light.path, sent)),
        *gear_shares(scene, [light.modifier], ("width", "height"), lambda one: _shadow_spare(one, light.path, sent)),
        *gear_shares(
            scene,
            [light.head if light.modifier is None else None],
            ("diameter",),
            lambda one: _shadow_spare(one, light.path, sent),
        ),
    )
    yield judge(
        SHADOW,
        (light.path, f"{scene.path}/background"),
        Estimate(spare, shares),
        title=f"Shadow of the {light.name}'s light",
        need=0.0,
        have=spare,
        clear="The subject's shadow stays out of the picture, or dissolves.",
        short="The subject's shadow shows on the background.",
        reason=(
            f"Its core there is {say.length(-spare)} wide, inside the frame."
            if spare < 0
            else f"It falls {say.length(spare)} outside the frame, or has that much no core left."
        )
        + (f" The light comes from the {bounced[2]}." if bounced else ""),
        placing=0.02,
    )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """More distance, a wider source."""
    light = scene.light_at(margin.about[0]) if scene is not None else None
    if scene is None or light is None:
        return
    if scene.line is not None and scene.bare_wall is None:
        for step in (0.2, 0.4):
            spot = scene.line[0] - scene.line[1] * step
            fields = {"x": round(float(spot[0]), 3), "y": round(float(spot[1]), 3)}
            words = f"Move the background {Say.of(scene.brief).length(step)} back"
            yield Proposal(words, SetFields(target=f"{scene.path}/background", fields=fields))
    wide = light.face[0] if light.face else 0.0
    for item in studio.gear:
        if isinstance(item, Modifier) and item.width and item.width.value > wide:
            yield Proposal(f"Use the {item.called}", SetFields(target=light.path, fields={"modifier": item.id}))


RULE = SetRule("shadow", margins, (SHADOW,), propose, order=5)
