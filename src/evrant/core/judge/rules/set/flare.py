"""Does a light shine into the lens? Code frame.flare."""

from collections.abc import Iterable, Iterator

import numpy as np

from evrant.core.base.estimate import Estimate
from evrant.core.base.margins import Basis, Line, Margin, judge
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import Proposal, SetRule
from evrant.core.place.patterns import apart
from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene
from evrant.core.space.shares import picture_shares
from evrant.core.space.solids import bar, separation, unit
from evrant.core.studio.gear import Modifier
from evrant.core.studio.sets import PropPlace
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say

FLARE = Line(
    "frame.flare",
    "Flare from the …",
    "°",
    Basis(
        "angle from the light's axis to the lens ≥ half its beam, or angle from the lens axis ≥ half the picture's "
        "diagonal + 20° of hood",
        "Plane trigonometry; usual beams by form of modifier and the hood are common practice, no source",
        "common practice",
    ),
    asks="Does a light shine into the lens?",
    step="set",
    search="kept",
    fails=True,
)
HALF_BEAM: dict[str, float] = {
    "softbox": 50,
    "octabox": 55,
    "strip box": 50,
    "umbrella": 65,
    "reflector dish": 50,
    "beauty dish": 50,
    "lantern": 150,
    "ring": 60,
    "snoot": 12,
    "gobo holder": 15,
}
GRIDDED, BARE, HOOD = 20.0, 80.0, 20.0
BLOCKERS = ("subject", "prop", "holder", "box", "person")
"""What stands in a line of sight."""


def margins(scene: Scene) -> Iterable[Margin]:
    """A line for each light before the lens."""
    for light in scene.lights:
        yield from _flare(scene, light)


def half_beam(modifier: Modifier | None, gridded: bool = False) -> float:
    """Half of a light's beam, edge to axis [degrees]; behind a grid, built in or put on, it is the grid's: a cell
    passes half of what comes at half its cut-off."""
    if modifier is None:
        return BARE
    usual = modifier.beam / 2 if modifier.beam is not None else HALF_BEAM.get(modifier.form or "", BARE)
    grid = modifier.grid_angle / 2 if modifier.grid_angle else GRIDDED
    return min(usual, grid) if modifier.grid or gridded else usual


def _flare_spare(scene: Scene, path: str) -> float | None:
    """How far the lens lies outside the beam, or the light outside what the hood lets in [degrees]."""
    light = scene.light_at(path)
    view = scene.view
    if light is None or view is None or light.at is None or light.forward is None:
        return None
    toward = view.eye - light.at
    if float((light.at - view.eye) @ view.forward) < 0.05:
        return None
    beam = apart(light.forward, unit(toward)) - half_beam(light.modifier, light.place.gridded)
    cut = view.half_diagonal + HOOD
    return max(beam, apart(view.forward, unit(-toward)) - cut)


def _flare(scene: Scene, light: Light) -> Iterable[Margin]:
    spare = _flare_spare(scene, light.path)
    if spare is None or light.at is None or light.place.role in ("practical", "ring light") or scene.eye is None:
        return
    if spare < 0 and any(_between(scene, light)):
        return
    half = half_beam(light.modifier, light.place.gridded)
    yield judge(
        FLARE,
        (light.path, f"{scene.path}/camera"),
        Estimate(spare, picture_shares(scene, lambda one: _flare_spare(one, light.path))),
        title=f"Flare from the {light.name}",
        need=half,
        have=half + spare,
        clear=f"The {light.name} does not shine into the lens.",
        short=f"The {light.name} shines into the lens.",
        reason=f"Its beam reaches {half:.0f}° from its axis"
        f"{' (gridded)' if light.place.gridded or (light.modifier and light.modifier.grid) else ''}; "
        f"the lens lies {abs(spare):.0f}° {'outside what reaches it' if spare >= 0 else 'inside'}.",
        at=(float(light.at[0]), float(light.at[1]), float(light.at[2])),
        placing=2.0,
    )


def shaded_from(scene: Scene, place: PropPlace) -> bool:
    """Whether a thing of a set keeps a light off the lens that would shine into it."""
    path = f"{scene.path}/props/{place.id}"
    glaring = (light for light in scene.lights if (_flare_spare(scene, light.path) or 0.0) < 0)
    return any(path in _between(scene, light) for light in glaring)


def _between(scene: Scene, light: Light) -> Iterator[str]:
    """Paths of what stands between a light and the lens."""
    if light.at is None or scene.eye is None:
        return
    sight = bar(light.at, scene.eye, 0.005, 6)
    for thing in scene.around:
        stands = thing.kind in BLOCKERS and thing.path != light.path
        if stands and any(separation(sight, part.solid)[0] < 0 for part in thing.parts):
            yield thing.path


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Another modifier, a grid, another place."""
    light = scene.light_at(margin.about[0]) if scene is not None else None
    if scene is None or light is None or light.at is None or scene.axis is None or scene.mark is None:
        return
    for item in studio.gear:
        if isinstance(item, Modifier) and half_beam(item) < half_beam(light.modifier):
            yield Proposal(f"Use the {item.called}", SetFields(target=light.path, fields={"modifier": item.id}))
    if light.modifier is not None and not light.modifier.grid:
        label = f"Put a grid on the {light.modifier.called}"
        yield Proposal(label, SetFields(target=f"gear/{light.modifier.id}", fields={"grid": True}))
    side = np.array([-scene.axis[1], scene.axis[0]])
    side = side if float((light.at[:2] - scene.mark) @ side) >= 0 else -side
    for step in (0.2, 0.4):
        spot = light.at[:2] + side * step + scene.axis * step
        fields = {"x": round(float(spot[0]), 3), "y": round(float(spot[1]), 3)}
        words = f"Bring the {light.name} {Say.of(scene.brief).length(step)} forward and out"
        yield Proposal(words, SetFields(target=light.path, fields=fields))


RULE = SetRule("flare", margins, (FLARE,), propose, order=5)
