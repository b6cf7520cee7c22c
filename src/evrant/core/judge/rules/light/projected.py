"""A shape thrown on the background: how large it is and how sharp its edge. Code light.projected."""

import math
from collections.abc import Iterable

import numpy as np

from evrant.core.base.estimate import Estimate, Share
from evrant.core.base.margins import Basis, Line, Margin, judge
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import GEOMETRY, Proposal, SetRule
from evrant.core.space.footprint import first_wall
from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene
from evrant.core.studio.room import value
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say

PROJECTED = Line(
    "light.projected",
    "Edge of the shape of the …",
    "%",
    Basis(
        "width of the edge A |d − f| / f over that of the circle 2 d tan(β / 2): lens A, throw d, sharp at f, beam β",
        "Similar triangles through the lens; an edge of a tenth reads as sharp, common practice, no source",
        "computed",
    ),
    asks="Is a shape thrown on the background sharp, and how large is it?",
    step="light",
)
SHARP = 10.0
USUAL_BEAM = 20.0


def margins(scene: Scene) -> Iterable[Margin]:
    """One line for each light with a projecting modifier that is said to be focused."""
    for light in scene.lights:
        if light.modifier is None or light.modifier.form != "gobo holder" or light.place.focused is None:
            continue
        throw = _throw(scene, light)
        if throw is not None and throw > 0.1:
            yield _line(scene, light, throw, light.place.focused)


def circle(throw: float, beam: float) -> float:
    """Width of the circle a beam (degrees, edge to edge) makes at a distance [m]."""
    return 2 * throw * math.tan(math.radians(beam) / 2)


def edge(throw: float, sharp_at: float, lens: float) -> float:
    """Width of a shape's edge at a distance where the lens is set to another [m]."""
    return lens * abs(throw - sharp_at) / sharp_at


def _line(scene: Scene, light: Light, throw: float, sharp_at: float) -> Margin:
    assert light.modifier is not None
    say, lens = Say.of(scene.brief), value(light.modifier.width) or 0.08
    wide = circle(throw, light.modifier.beam or USUAL_BEAM)
    blurred = edge(throw, sharp_at, lens)
    share = 100 * blurred / wide
    moved = 100 * edge(throw + 0.03, sharp_at, lens) / circle(throw + 0.03, light.modifier.beam or USUAL_BEAM)
    return judge(
        PROJECTED,
        (light.path, f"{scene.path}/background"),
        Estimate(SHARP - share, (Share("throw", abs(moved - share)), Share("width of the lens", 0.2 * share))),
        title=f"Edge of the shape of the {light.name}",
        need=share,
        have=SHARP,
        clear=f"The {light.name} throws a sharp shape.",
        short=f"The {light.name}'s shape is too soft to read.",
        reason=f"At {say.length(throw)} its circle is {say.length(wide)} wide and its edge {say.length(blurred)}; "
        f"it is sharp at {say.length(sharp_at)}.",
    )


def _throw(scene: Scene, light: Light) -> float | None:
    """From the light along its axis to the background, else to the wall it meets [m]."""
    if light.at is None or light.forward is None:
        return None
    if scene.line is not None:
        spot, way = scene.line
        closing = -float(light.forward[:2] @ way)
        before = float((light.at[:2] - spot) @ way)
        if closing > 0.05 and before > 0:
            return before / closing
    level = float(np.hypot(*light.forward[:2]))
    if scene.walls is None or level < 0.05:
        return None
    hit = first_wall(scene.walls, light.at[:2], light.forward[:2] / level)
    return None if hit is None else hit[0] / level


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Focus on where it falls."""
    light = scene.light_at(margin.about[0]) if scene is not None else None
    throw = _throw(scene, light) if scene is not None and light is not None else None
    if light is not None and throw is not None:
        yield Proposal("Focus it where it falls", SetFields(target=light.path, fields={"focused": round(throw, 2)}))


RULE = SetRule("projected", margins, (PROJECTED,), propose, reads=GEOMETRY)
