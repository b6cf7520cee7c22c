"""Does somebody stand between a light and the subject? Code light.in_the_way."""

import math
from collections.abc import Iterable, Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from evrant.core.base.estimate import Estimate, Share
from evrant.core.base.margins import Basis, Line, Margin, judge
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.light.shadow import turned_away
from evrant.core.judge.rules.rule import GEOMETRY, Proposal, SetRule
from evrant.core.light.by_window import vector_irradiance
from evrant.core.light.hours import open_windows
from evrant.core.light.surroundings import lets_in, points_on, window_face
from evrant.core.place.patterns import apart
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Points, Vector, frame_axes, unit
from evrant.core.space.things import Thing
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say

WAY = Line(
    "light.in_the_way",
    "Light of the … past who stands there",
    "°",
    Basis(
        "share of the light's face that lies behind photographer or helper × its apparent width ≤ a fifth of that "
        "width, a third of a stop",
        "Straight lines from the light's face to the subject; the fifth is a project choice",
        "computed",
    ),
    asks="Does the photographer or a helper stand in the light?",
    step="light",
    search="either",
    fails=True,
    goes=True,
)
MOST, UNSURE = 0.2, 0.05
"""Share of a light that who stands there may hide, and how exactly they stand there [m]; project choice."""
ASKED_FROM = 0.05
"""Share of a light's face that is hidden from where on there is a line."""
WEAK = 0.1
"""A window that gives less than this share of the daylight at the subject is not missed; project choice."""
GRID = (np.arange(20) + 0.5) / 20 - 0.5


def margins(scene: Scene) -> Iterable[Margin]:
    """A line for each light and window that somebody stands before."""
    people = [thing for thing in scene.things if thing.kind in ("operator", "person")]
    if not people or scene.face is None or scene.axis is None:
        return
    for source in (*_lights(scene), *_windows(scene)):
        for thing in people:
            if not _near(source.points, scene.face, thing):
                continue
            share = float(_hidden(source.points, scene.face, thing, scene.axis).mean())
            if share > ASKED_FROM:
                yield _line(scene, source, thing, share)


@dataclass(frozen=True, eq=False)
class _Source:
    """What shines on the subject: path, name and points (n, 3) of its face."""

    path: str
    name: str
    points: Points


def _lights(scene: Scene) -> Iterator[_Source]:
    """The lights that shine straight on the subject."""
    for light in scene.lights:
        if light.at is None or light.forward is None or light.place.role in ("ring light", "background light"):
            continue
        if turned_away(scene, light.path):
            continue
        width, height = light.face or (0.1, None)
        right, up = frame_axes(light.forward)
        across, high = (part.ravel() for part in np.meshgrid(GRID, GRID))
        points = light.at + np.outer(across * width, right) + np.outer(high * (height or width), up)
        yield _Source(light.path, light.name, points)


def _windows(scene: Scene) -> Iterator[_Source]:
    """The windows by day that give a share of the daylight worth missing."""
    if "daylight" not in scene.shot.around or scene.walls is None or scene.lit_spot is None:
        return
    found = []
    for window in open_windows(scene):
        glass = window_face(scene.walls, scene.room, window)
        if glass is not None:
            weight = lets_in(window) * float(np.linalg.norm(vector_irradiance(glass - scene.lit_spot)))
            found.append((window, glass, weight))
    whole = sum(weight for _, _, weight in found)
    for window, glass, weight in found:
        if weight > WEAK * whole:
            yield _Source(f"room/windows/{window.id}", window.name.lower(), points_on(glass, GRID + 0.5, GRID + 0.5))


def _near(points: Points, eye: Vector, thing: Thing) -> bool:
    """Whether a thing comes as near to the line from the middle of a face to the eye, in plan, as both are wide."""
    middle, low, high = points.mean(axis=0), thing.cloud.min(axis=0), thing.cloud.max(axis=0)
    start, way = middle[:2], eye[:2] - middle[:2]
    spot = (low[:2] + high[:2]) / 2 - start
    part = min(max(float(spot @ way) / max(float(way @ way), 1e-9), 0.0), 1.0)
    wide = float(np.linalg.norm(points[0] - middle)) + float(np.linalg.norm(high[:2] - low[:2])) / 2
    return float(np.linalg.norm(spot - way * part)) < wide


def _hidden(points: Points, eye: Vector, thing: Thing, axis: Vector) -> NDArray[np.bool_]:
    """Which of the points (n, 3) one does not see from the eye past a thing, taken as the box round it that looks along
    the lens axis: where a line runs through all three pairs of its planes at once."""
    frame = np.array([[*axis, 0.0], [-axis[1], axis[0], 0.0], [0.0, 0.0, 1.0]])
    cloud, start = thing.cloud @ frame.T, points @ frame.T
    way = eye @ frame.T - start
    way = np.where(np.abs(way) < 1e-9, 1e-9, way)
    first, second = (cloud.min(axis=0) - start) / way, (cloud.max(axis=0) - start) / way
    enters, leaves = np.minimum(first, second).max(axis=1), np.maximum(first, second).min(axis=1)
    return np.asarray((enters < leaves) & (leaves > 0) & (enters < 1))


def _line(scene: Scene, source: _Source, thing: Thing, share: float) -> Margin:
    assert scene.face is not None
    wide = apart(unit(source.points[0] - scene.face), unit(source.points[-1] - scene.face))
    low, high = thing.cloud.min(axis=0), thing.cloud.max(axis=0)
    far = float(np.linalg.norm((low + high)[:2] / 2 - scene.face[:2]))
    return judge(
        WAY,
        (source.path if source.path.startswith("sets/") else f"{scene.path}/camera", thing.path, source.path),
        Estimate((MOST - share) * wide, (Share("place of who stands there", math.degrees(UNSURE / max(far, UNSURE))),)),
        title=f"Light of the {source.name} past the {thing.name}",
        need=share * wide,
        have=MOST * wide,
        clear=f"The {thing.name} hardly stands in the light of the {source.name}.",
        short=f"The {thing.name} stands in the light of the {source.name}.",
        reason=f"{share:.0%} of it lies behind the {thing.name}, seen from the subject; no figure of exposure counts "
        "that.",
        at=(float(low[0] + high[0]) / 2, float(low[1] + high[1]) / 2, 1.5),
    )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """The light raised over who stands there, or moved to either side; the camera released from afar."""
    if scene is None or scene.axis is None:
        return
    light, say = scene.light_at(margin.about[0]), Say.of(scene.brief)
    if light is not None and light.at is not None:
        side = np.array([-scene.axis[1], scene.axis[0]])
        for step in (0.3, 0.6, -0.3, -0.6):
            spot = light.at[:2] + side * step
            fields = {"x": round(float(spot[0]), 3), "y": round(float(spot[1]), 3)}
            words = f"Move the {light.name} {say.short_by(step)} to its {'left' if step > 0 else 'right'}"
            yield Proposal(words, SetFields(target=light.path, fields=fields))
        high = {"height": round(float(light.at[2]) + 0.3, 3)}
        yield Proposal(f"Raise the {light.name} {say.short_by(0.3)}", SetFields(target=light.path, fields=high))
    if margin.about[1].endswith("/camera"):
        away = {"operator": "remote or timer"}
        yield Proposal("Release it from beside the set", SetFields(target=f"{scene.path}/camera", fields=away))


RULE = SetRule("in the way", margins, (WAY,), propose, order=8, place_order=5, reads=GEOMETRY)
