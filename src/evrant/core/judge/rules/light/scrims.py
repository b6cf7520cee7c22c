"""Does the light pass through the scrim? Code light.scrim."""

import math
from collections.abc import Iterable

import numpy as np

from evrant.core.base.estimate import Estimate
from evrant.core.base.margins import Basis, Line, Margin, judge
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import Proposal, SetRule
from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene
from evrant.core.space.shares import gear_shares, picture_shares
from evrant.core.space.solids import Points, Vector
from evrant.core.space.volumes import card_middle
from evrant.core.studio.gear import Board
from evrant.core.studio.sets import PropPlace
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say

SCRIM = Line(
    "light.scrim",
    "Scrim before the …",
    "m",
    Basis(
        "rays from the light to the edges of subject and background cross the scrim inside its edges",
        "Plane geometry of true outlines",
        "computed",
    ),
    asks="Does the scrim cover subject and background?",
    step="light",
    search="kept",
    fails=True,
)


def margins(scene: Scene) -> Iterable[Margin]:
    """Two lines for each scrim: before the subject and before the background."""
    for prop in scene.plan.props:
        item = scene.gear.get(prop.item or "")
        if isinstance(item, Board) and item.surface == "translucent":
            yield from _before(scene, prop, item, "subject")
            yield from _before(scene, prop, item, "background")


def _before(scene: Scene, prop: PropPlace, item: Board, what: str) -> Iterable[Margin]:
    def spare_of(one: Scene) -> float | None:
        return _scrim_spare(one, prop.id, background=what == "background")

    spare = spare_of(scene)
    if spare is None or prop.x is None or prop.y is None:
        return
    path = f"{scene.path}/props/{prop.id}"
    shares = picture_shares(scene, spare_of) + gear_shares(scene, [item], ("width", "height"), spare_of)
    inside = "inside" if spare >= 0 else "beside"
    yield judge(
        SCRIM,
        (f"{path}/{what}", path),
        Estimate(spare, shares),
        title=f"Scrim before the {what}",
        need=0.0,
        have=spare,
        clear=f"All light on the {what} comes through the scrim.",
        short=f"The scrim does not cover the {what}.",
        reason=f"Light to its edge passes {Say.of(scene.brief).short_by(spare)} {inside} the scrim.",
        at=(prop.x, prop.y, 1.2),
        placing=0.02,
    )


def _scrim_spare(scene: Scene, prop: str, *, background: bool) -> float | None:
    """Least distance inside the scrim's edges at which the wanted rays cross it [m]."""
    place = next((p for p in scene.plan.props if p.id == prop), None)
    item = scene.gear.get(place.item or "") if place else None
    if place is None or not isinstance(item, Board) or not item.width or not item.height:
        return None
    if place.x is None or place.y is None:
        return None
    light = _behind_scrim(scene, np.array([place.x, place.y]))
    targets = _background_edges(scene) if background else _subject_edges(scene)
    if light is None or light.at is None or targets is None:
        return None
    angle, tilt = math.radians(place.turn), math.radians(place.tilt)
    along = np.array([math.cos(angle), math.sin(angle), 0.0])
    flat = np.array([-math.sin(angle), math.cos(angle), 0.0])
    up = np.array([0, 0, 1.0]) * math.cos(tilt) - flat * math.sin(tilt)
    normal = np.cross(along, up)
    middle = np.array([place.x, place.y, card_middle(place.height or 0.0, item.height.value, place.tilt)])
    rays = targets - light.at
    closing = rays @ normal
    if (np.abs(closing) < 1e-9).any():
        return None
    share = ((middle - light.at) @ normal) / closing
    if (share < 0).any() or (share > 1).any():
        # A target beside or before the scrim gets no light through it: by how far its edges would have to move.
        reach = np.abs((targets - middle) @ along) - item.width.value / 2
        return -float(max(reach.max(), np.abs((targets - middle) @ normal).max(), 0.01))
    hit = light.at + rays * share[:, None]
    x, y = np.abs((hit - middle) @ along), np.abs((hit - middle) @ up)
    return float(min((item.width.value / 2 - x).min(), (item.height.value / 2 - y).min()))


def _behind_scrim(scene: Scene, spot: Vector) -> Light | None:
    """The light whose line to the face passes nearest to the scrim and lies beyond it."""
    best: tuple[float, Light] | None = None
    for light in scene.lights:
        if light.at is None or scene.face is None or light.place.role == "background light":
            continue
        way = scene.face[:2] - light.at[:2]
        long = float(np.linalg.norm(way))
        if long < 0.05:
            continue
        t = float((spot - light.at[:2]) @ way) / long**2
        if 0 < t < 1:
            off = float(np.linalg.norm(light.at[:2] + way * t - spot))
            if best is None or off < best[0]:
                best = (off, light)
    return best[1] if best else None


def _subject_edges(scene: Scene) -> Points | None:
    """Outermost points of the subject that the frame shows."""
    solids = [solid for subject in scene.shot.subjects for solid in scene.body_parts(subject.id)]
    if not solids or scene.wanted is None:
        return None
    points = np.vstack(solids)
    low = scene.wanted.top - scene.wanted.height.value
    seen = points[(points[:, 2] >= low) & (points[:, 2] <= scene.wanted.top)]
    return seen[:: max(len(seen) // 60, 1)] if len(seen) else None


def _background_edges(scene: Scene) -> Points | None:
    """Where the frame's corners meet the background."""
    if scene.view is None or scene.line is None:
        return None
    spot, way = scene.line
    normal = np.array([way[0], way[1], 0.0])
    rays = scene.view.rays()
    closing = -(rays @ normal)
    far = float((scene.view.eye - np.array([*spot, 0.0])) @ normal)
    if far <= 0.02 or (closing <= 1e-6).any():
        return None
    return np.asarray(scene.view.eye + rays * (far / closing)[:, None])


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Another sheet of the kit, another place."""
    if scene is None:
        return
    target = margin.about[1]
    for item in studio.gear:
        if isinstance(item, Board) and item.surface == "translucent":
            yield Proposal(f"Use the {item.called}", SetFields(target=target, fields={"item": item.id}))
    prop = next((p for p in scene.plan.props if target.endswith(f"/{p.id}")), None)
    if prop is None or prop.x is None or prop.y is None or scene.line is None:
        return
    for step in (0.15, 0.3, -0.15):
        spot = np.array([prop.x, prop.y]) - scene.line[1] * step
        fields = {"x": round(float(spot[0]), 3), "y": round(float(spot[1]), 3)}
        way = "toward the background" if step > 0 else "toward the camera"
        words = f"Move the scrim {Say.of(scene.brief).length(abs(step))} {way}"
        yield Proposal(words, SetFields(target=target, fields=fields))


RULE = SetRule("scrims", margins, (SCRIM,), propose, order=5)
