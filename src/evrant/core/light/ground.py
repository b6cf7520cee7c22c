"""What the picture shows behind its subject: a background, a wall, a tent's back, or what a flat lay lies on; and
points over the part of it that the frame shows and the subject does not hide."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from evrant.core.base.tables import finishes
from evrant.core.light.bodies import shading
from evrant.core.light.bounce import sight
from evrant.core.space.framing import View
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Points, Vector
from evrant.core.space.tents import panels
from evrant.core.studio.gear import Board, Table, Tent
from evrant.core.studio.sets import PropPlace

LIES = 75.0
"""A card tilted at least so far lies [degrees]."""
ON_IT = 0.06
"""A thing stands on what ends so near to its own base [m]."""
STEPS = (0.1, 0.3, 0.5, 0.7, 0.9)


@dataclass(frozen=True, eq=False)
class Ground:
    """Points (n, 3) of what is behind the subject with one normal, its reflectance (None: not known) as a share and
    ±, and whose it is."""

    points: Points
    normal: Vector
    share: float | None
    unsure: float
    name: str
    path: str


def ground_of(scene: Scene) -> Ground | None:
    """What is behind the subject in the picture; None where nothing is, or no place is known."""
    if scene.wanted is None:
        return None
    found = _under(scene) if scene.overhead else _tent(scene) or _behind(scene)
    if found is None or scene.eye is None:
        return found
    shown = ~_hidden(scene, found.points + found.normal * 1e-3)
    if not shown.any():
        return found
    return replace(found, points=found.points[shown])


def tent_round(scene: Scene) -> tuple[PropPlace, Tent] | None:
    """The tent the lead subject stands in."""
    if scene.mark is None:
        return None
    for place in scene.plan.props:
        item = scene.gear.get(place.item or "")
        if not isinstance(item, Tent) or place.x is None or place.y is None:
            continue
        walls = panels(item, np.array([place.x, place.y]), place.turn, scene.base_of(place), place.tilt)
        if not walls:
            continue
        cloud = np.vstack([wall.outline for wall in walls])
        low, high = cloud.min(axis=0), cloud.max(axis=0)
        if (low[:2] < scene.mark).all() and (scene.mark < high[:2]).all() and scene.surface < high[2]:
            return place, item
    return None


def laid(scene: Scene) -> PropPlace | None:
    """The card that lies under the subject, which is meant to be seen: a flat lay's background, a wet black sheet."""
    if scene.mark is None:
        return None
    for place in scene.plan.props:
        item, thing = scene.gear.get(place.item or ""), scene.prop_thing(place)
        if not isinstance(item, Board) or thing is None or abs(place.tilt) < LIES:
            continue
        top = float(thing.cloud[:, 2].max())
        if abs(top - scene.surface) <= ON_IT and _over(thing.parts[0].solid, scene.mark[None])[0]:
            return place
    return None


def _under(scene: Scene) -> Ground | None:
    """What lies under an overhead camera: a card, a table's top, the floor."""
    view = scene.view
    if view is None or scene.mark is None:
        return None
    rays = _rays(view)
    up = np.array([0.0, 0.0, 1.0])
    for name, path, top, solid, share, unsure in _levels(scene):
        closing = -rays[:, 2]
        if (closing <= 1e-6).any() or float(view.eye[2]) <= top:
            continue
        points = view.eye + rays * ((float(view.eye[2]) - top) / closing)[:, None]
        if solid is not None:
            points = points[_over(solid, points[:, :2])]
        if len(points):
            return Ground(points + up * 4e-3, up, share, unsure, name, path)
    return None


def _rays(view: View) -> Points:
    """5 × 5 rays spread over the picture."""
    grid = np.array([[2 * a - 1, 2 * b - 1] for a in STEPS for b in STEPS])
    x, y = view.across / 2 / view.image, view.upward / 2 / view.image
    return np.asarray(view.forward + grid[:, :1] * x * view.right + grid[:, 1:] * y * view.up)


def _levels(scene: Scene) -> list[tuple[str, str, float, Points | None, float | None, float]]:
    """Cards that lie, tables' tops and the floor, nearest to the subject first: name, path, height, solid, finish."""
    found: list[tuple[str, str, float, Points | None, float | None, float]] = []
    card = laid(scene)
    for place in scene.plan.props:
        item, thing = scene.gear.get(place.item or ""), scene.prop_thing(place)
        if thing is None:
            continue
        solid = thing.parts[0].solid
        top = float(solid[:, 2].max())
        if place is card and isinstance(item, Board):
            share = item.reflectance.value / 100 if item.reflectance else finishes.BOARDS[item.surface or "white"][0]
            found.insert(0, (thing.name, thing.path, top, solid, share, 0.03))
        elif isinstance(item, Table) and abs(top - scene.surface) <= ON_IT:
            own = item.reflectance
            found.append((thing.name, thing.path, top, solid, own.value / 100 if own else finishes.TABLE_TOP, 0.1))
    if scene.surface <= ON_IT:
        finish, kind = scene.room.floor_finish.share, scene.room.floor
        usual = finishes.FLOORS[kind] if kind else None
        bare = finish.value / 100 if finish else usual[0] if usual else None
        pm = finish.pm / 100 if finish else usual[1] if usual else 0.1
        found.append(("floor", "room/floor_finish", 0.0, None, bare, pm))
    return found


def _over(solid: Points, spots: Points) -> NDArray[np.bool_]:
    """Which plan points lie over a convex solid."""
    from scipy.spatial import ConvexHull  # a heavy import that only this needs

    planes = ConvexHull(solid[:, :2]).equations
    return np.asarray((spots @ planes[:, :2].T + planes[:, 2] <= 1e-9).all(axis=1))


def _tent(scene: Scene) -> Ground | None:
    """The back of the tent the subject stands in."""
    found, view = tent_round(scene), scene.view
    if found is None or view is None:
        return None
    place, item = found
    walls = panels(item, np.array([place.x, place.y]), place.turn, scene.base_of(place), place.tilt)
    back = next((wall.outline for wall in walls if wall.wall == "back"), None)
    if back is None:
        return None
    normal = np.cross(back[1] - back[0], back[2] - back[1])
    normal = normal / np.linalg.norm(normal)
    normal = normal if float((view.eye - back[0]) @ normal) > 0 else -normal
    low, high = back.min(axis=0), back.max(axis=0)
    rays = _rays(view)
    closing = -(rays @ normal)
    if (closing <= 1e-6).any():
        return None
    points = view.eye + rays * (float((view.eye - back[0]) @ normal) / closing)[:, None]
    points = points[((points > low - 1e-6) & (points < high + 1e-6)).all(axis=1)]
    share = item.reflectance.value / 100 if item.reflectance else finishes.TENT[0]
    name, path = item.name.lower(), f"{scene.path}/props/{place.id}"
    return Ground(points + normal * 4e-3, normal, share, 0.05, name, path) if len(points) else None


def _behind(scene: Scene) -> Ground | None:
    """5 × 5 points over the part of a background or a bare wall behind the frame."""
    line = scene.line
    if line is None or scene.wanted is None:
        return None
    spot, way = line
    along = np.array([way[1], -way[0]])
    ends, top = scene.background_ends, scene.background_top
    if ends is None or top is None:
        return None
    grown = 1.0
    if scene.distance and scene.aim is not None:
        behind = abs(float((scene.aim[:2] - spot) @ way))
        grown = (scene.distance + behind) / scene.distance
    half = min(scene.wanted.width * grown / 2, float(np.linalg.norm(ends[1] - ends[0])) / 2)
    middle = (ends[0] + ends[1]) / 2 if scene.bare_wall is None else spot
    high = scene.wanted.height.value * grown / 2
    low, high = max(scene.wanted.middle - high, 0.03), min(scene.wanted.middle + high, top - 0.03)
    if high <= low:
        return None
    points = [
        np.array([*(middle + along * half * (2 * a - 1) + way * 0.004), low + (high - low) * b])
        for a in STEPS
        for b in STEPS
    ]
    return Ground(np.array(points), np.array([*way, 0.0]), *_finish(scene))


def _finish(scene: Scene) -> tuple[float | None, float, str, str]:
    """Reflectance, its ±, name and path of the background or of the bare wall that is one."""
    item = scene.backdrop
    if item is not None:
        own = item.reflectance
        return own.value / 100 if own else None, own.pm / 100 if own else 0.0, "background", f"{scene.path}/background"
    if scene.bare_wall is None or scene.walls is None:
        return None, 0.0, "background", f"{scene.path}/background"
    wall = scene.room.edges(scene.walls.count)[scene.bare_wall]
    lrv = wall.finish.share
    return lrv.value / 100 if lrv else None, lrv.pm / 100 if lrv else 0.0, wall.name, f"room/walls/{wall.id}/finish"


def _hidden(scene: Scene, points: Points) -> NDArray[np.bool_]:
    """Which points a subject's body hides from the lens."""
    assert scene.eye is not None
    bodies = shading(scene)
    ex, ey, ez = (float(part) for part in scene.eye)
    return np.array([sight.blocked(ex, ey, ez, x, y, z, *bodies.arrays) for x, y, z in points.tolist()], dtype=np.bool_)
