"""How good a pose can be at best, for thousands of poses at once.

For every formation the margins that depend on the room are bounded from above without running the rules:
distances to walls exactly (support functions of the true outlines), ceilings by the outlines' points,
furniture, zones and door swings by points that surely belong to the bodies, the free length of the lens
axis up to its wall. Divided by the least their uncertainty can be, the least of them is a number no
ledger of that pose can exceed: a pose whose bound is below a set already found need not be looked at.
"""

from collections.abc import Iterable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from evrant.core.place.hanging import MOST_SLID
from evrant.core.search.arrange.formations import MIDDLE, Formation
from evrant.core.search.arrange.poses import Poses, ways
from evrant.core.space.anchors import ARM_AT_WALL
from evrant.core.space.ceiling import Ceiling
from evrant.core.space.footprint import Plan
from evrant.core.space.gaps import to_prism
from evrant.core.space.rails import CLAMPS, ON_RAIL, rails_of
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Points, Vector, plan_hull
from evrant.core.space.stepback import behind_lens, needed_distance
from evrant.core.space.things import Thing, box_thing, door_place, keep_free, zone_thing
from evrant.core.space.volumes import OPERATOR_WIDTH
from evrant.core.studio.room import value

Bound = NDArray[np.float64]
STEP = 0.01
MANY = 2_000_000
"""Most distances taken at once."""
AGAINST: dict[str, frozenset[str]] = {
    "box": frozenset({"light", "holder", "subject", "prop", "operator", "camera", "backdrop"}),
    "zone": frozenset({"light", "holder", "backdrop", "prop", "camera"}),
    "door": frozenset({"light", "holder", "subject", "prop", "camera"}),
}
INSIDE = frozenset({"light", "holder", "backdrop", "subject", "prop", "camera", "operator"})
UNDER = frozenset({"light", "subject", "operator", "camera", "backdrop"})


@dataclass(frozen=True)
class Prism:
    """An obstacle: convex outline (counter-clockwise), from low to high, and the least ± of its place [m]."""

    kind: str
    outline: Points
    low: float
    high: float
    unsure: float


@dataclass(frozen=True)
class Doorway:
    """An opening the lens axis may go through: its wall, from and to along it (0 … 1), free depth behind [m]."""

    wall: int
    first: float
    last: float
    beyond: float


@dataclass(frozen=True)
class Site:
    """A room as the bounds see it."""

    walls: Plan
    ceiling: Ceiling | None
    prisms: tuple[Prism, ...]
    doorways: tuple["Doorway", ...]
    convex: bool
    wall_unsure: NDArray[np.float64]
    rails: tuple[Points, Points]

    @classmethod
    def of(cls, scene: Scene) -> "Site | None":
        """The room of any scene in it, or None while it has no footprint."""
        walls = scene.walls
        if walls is None:
            return None
        turn = np.roll(walls.corners, -1, axis=0) - walls.corners
        following = np.roll(turn, -1, axis=0)
        convex = bool((turn[:, 0] * following[:, 1] - turn[:, 1] * following[:, 0] > 0).all())
        return cls(
            walls,
            scene.ceiling,
            tuple(_prisms(scene)),
            tuple(_doorways(scene)),
            convex,
            _wall_unsure(walls),
            _rails(scene),
        )


def _rails(scene: Scene) -> tuple[Points, Points]:
    """Starts and ends (n, 2) of the room's rails on the plan."""
    rails = rails_of(scene)
    empty = np.zeros((0, 2))
    return (np.array([r.start[:2] for r in rails]), np.array([r.end[:2] for r in rails])) if rails else (empty, empty)


def _wall_unsure(walls: Plan) -> NDArray[np.float64]:
    """(walls,) the least ± any place of each wall can have, with the tape's 1 cm of placing [m]."""
    squares = np.full(walls.count, STEP**2)
    for index in range(walls.count):
        way = walls.inward(index)
        for _, figure, moves in walls.figures:
            ends = [abs(float(way @ moves[end])) for end in (index, (index + 1) % walls.count)]
            squares[index] += (min(ends) * figure.pm) ** 2
    return np.asarray(np.sqrt(squares))


def _doorways(scene: Scene) -> Iterable[Doorway]:
    for door in scene.room.doors:
        place = door_place(scene.room, scene.walls, door)
        if place is not None and scene.walls is not None and door.beyond is not None:
            start, end = scene.walls.wall(place[2])
            parts = [float((jamb - start) @ (end - start)) / float((end - start) @ (end - start)) for jamb in place[:2]]
            aside = OPERATOR_WIDTH / 2 / float(np.linalg.norm(end - start))
            yield Doorway(place[2], min(parts) + aside, max(parts) - aside, door.beyond.value)


def _prisms(scene: Scene) -> list[Prism]:
    found = []
    for box in scene.boxes:
        figures = [f.pm for f in (box.x, box.y, box.length, box.width, box.height) if f is not None]
        for thing in (box_thing(box), keep_free(box)):
            if thing is not None:
                found.append(_prism(thing, min(figures, default=0.0)))
    for zone in scene.room.zones:
        thing = zone_thing(zone)
        if thing is not None:
            found.append(_prism(thing, 0.0))
    for door in scene.room.doors:
        swing = scene.door_thing(door)
        if swing is not None and door_place(scene.room, scene.walls, door) is not None:
            found.append(_prism(swing, 0.0))
    return found


def _prism(thing: Thing, unsure: float) -> Prism:
    solid = thing.parts[0].solid
    low, high = float(solid[:, 2].min()), float(solid[:, 2].max())
    flat = np.unique(np.round(solid[:, :2], 9), axis=0)
    middle = flat.mean(axis=0)
    order = np.argsort(np.arctan2(flat[:, 1] - middle[1], flat[:, 0] - middle[0]))
    return Prism(thing.kind, flat[order], low, high, float(np.hypot(STEP, unsure)))


@dataclass(frozen=True)
class Body:
    """A formation's things as points about its mark: groups for walls, and kinds for obstacles."""

    groups: tuple[Points, ...]
    camera: Points | None
    kinds: dict[str, Points]
    clouds: Points
    need: float
    need_unsure: float
    behind: float
    behind_unsure: float
    level: float
    far: float
    arms: tuple[tuple[Vector, float], ...] = ()
    """Lights on arms at a wall: the mount (2,), and the arm's reach [m]."""
    clamps: tuple[tuple[Vector, float], ...] = ()
    """Lights clamped to a rail of the room: the mount (2,), and how far from there a rail may be [m]."""

    @classmethod
    def of(cls, formation: Formation) -> "Body":
        scene = formation.scene
        shift = np.array([MIDDLE, MIDDLE, 0.0])
        grouped: dict[str, list[Points]] = {}
        kinds: dict[str, list[Points]] = {}
        rod = scene.holder is not None and scene.holder.system == "tension rod"
        for thing in scene.things:
            if thing.kind not in INSIDE or (rod and thing.kind == "holder"):
                continue
            cloud = thing.cloud - shift
            grouped.setdefault(thing.path, []).append(cloud)
            kinds.setdefault(thing.kind, []).append(_sure(thing, shift))
        need = needed_distance(scene)
        behind = behind_lens(scene)
        under = [t.cloud - shift for t in scene.things if t.kind in UNDER]
        camera = grouped.pop(f"{scene.path}/camera", None)
        return cls(
            tuple(plan_hull(np.vstack(clouds))[:, :2] for clouds in grouped.values()),
            None if camera is None else plan_hull(np.vstack(camera))[:, :2],
            {kind: np.vstack(points) for kind, points in kinds.items()},
            np.vstack([_tops(cloud) for cloud in under]) if under else np.zeros((0, 3)),
            need.value,
            need.uncertainty,
            behind.value,
            behind.pm,
            float(np.cos(np.radians(scene.shot.angle))),
            0.0 if scene.camera_spot is None else float(scene.camera_spot[0]) - MIDDLE,
            *_hanging(formation),
        )


Reaches = tuple[tuple[Vector, float], ...]


def _hanging(formation: Formation) -> tuple[Reaches, Reaches]:
    """Of the lights that hang: those on a wall's arm, and those that only a rail of the room could hold."""
    if not formation.hung:
        return (), ()
    scene = replace(formation.scene, plan=formation.plan)
    shift = np.array([MIDDLE, MIDDLE])
    arms, clamps = [], []
    for light in scene.lights:
        if light.stand is None or light.mount is None:
            continue
        spot, reach = light.mount[:2] - shift, value(light.stand.reach) or 0.0
        if light.stand.use == ARM_AT_WALL:
            arms.append((spot, reach))
        elif light.stand.use == CLAMPS:
            far = reach + MOST_SLID + ON_RAIL
            if all(rail.nearest(light.mount)[0] > far for rail in rails_of(scene)):
                clamps.append((spot, far))
    return tuple(arms), tuple(clamps)


def _sure(thing: Thing, shift: Points) -> Points:
    """Points that surely belong to a thing: what reaches farthest on the plan, low and high, columns, and some within
    legs, which low furniture stands among."""
    points = []
    for part in thing.parts:
        solid = part.solid - shift
        if part.kind == "column":
            low, high = solid[:16].mean(axis=0), solid[16:].mean(axis=0)
            share = np.linspace(0, 1, max(int((high[2] - low[2]) / 0.15), 2))[:, None]
            points.append(low + (high - low) * share)
        if part.kind == "legs":
            ring, top = solid[solid[:, 2] <= solid[:, 2].min() + 1e-9], solid[int(solid[:, 2].argmax())]
            points += [
                ring + (top - ring) * 0.12,
                (ring + (top - ring) * 0.35)[::2],
                (ring[::2] + solid.mean(axis=0)) / 2,
            ]
    cloud = thing.cloud - shift
    middle = (cloud[:, 2].min() + cloud[:, 2].max()) / 2
    for half in (cloud[cloud[:, 2] <= middle], cloud[cloud[:, 2] >= middle]):
        far = np.unique((half[:, :2] @ _ROUND).argmax(axis=0))
        points.append(half[far])
    points.append(cloud[[int(cloud[:, 2].argmax()), int(cloud[:, 2].argmin())]])
    return np.vstack(points)


_ROUND: Points = np.vstack([np.cos(np.arange(16) * np.pi / 8), np.sin(np.arange(16) * np.pi / 8)])


def _tops(cloud: Points) -> Points:
    """The points of a body that can be the first to meet a ceiling."""
    high = cloud[cloud[:, 2] > cloud[:, 2].max() - 1.2]
    return np.asarray(high[:: max(len(high) // 80, 1)])


def coarse(site: Site, body: Body, where: Poses) -> Bound:
    """(n,) what the worst margin of each pose can be at best [severity], by walls and the lens axis."""
    free, through = _axis(site, where, body.far)
    best = _walls(site, body.groups, where)
    if body.camera is not None and not through.all():
        inside = np.flatnonzero(~through)
        best[inside] = np.minimum(best[inside], _walls(site, (body.camera,), where.only(inside)))
    if body.level > 0.5:
        unsure = float(np.sqrt(STEP**2 + (body.need_unsure * body.level) ** 2 + body.behind_unsure**2))
        best = np.minimum(best, _severity(free - body.need * body.level - body.behind, unsure))
    for spot, reach in body.arms:
        a, b = site.walls.corners, site.walls.nexts
        best = np.minimum(best, _severity(reach - _off(spot, where, a, b), STEP))
    for spot, far in body.clamps:
        off = _off(spot, where, *site.rails)
        best = np.minimum(best, np.where(off > far, (far - off) / STEP, np.inf))
    return best


def _off(spot: Vector, where: Poses, starts: Points, ends: Points) -> NDArray[np.float64]:
    """(n,) how far a formation's place (2,) is at every pose from the nearest of some lines on the plan [m]."""
    if not len(starts):
        return np.full(len(where), np.inf)
    offset = _turned(spot[None], where)[:, 0, None, :] - starts[None]
    along = ends - starts
    part = np.clip(np.einsum("pwk,wk->pw", offset, along) / (along**2).sum(axis=1), 0, 1)
    return np.asarray(np.linalg.norm(offset - part[..., None] * along, axis=2).min(axis=1))


def fine(site: Site, body: Body, where: Poses) -> Bound:
    """(n,) the same by ceilings, furniture, zones and door swings."""
    best = np.full(len(where), np.inf)
    if site.ceiling is not None and site.ceiling.pitches and len(body.clouds):
        best = np.minimum(best, _ceiling(site.ceiling, body.clouds, where))
    for prism in site.prisms:
        best = np.minimum(best, _prism_bound(prism, body, where))
    return best


def _severity(margins: NDArray[np.float64], unsure: float | NDArray[np.float64]) -> NDArray[np.float64]:
    """Upper bound of m / max(u, step): by the least u where there is room, by the step where there is none."""
    return np.asarray(np.where(margins >= 0, margins / np.maximum(unsure, STEP), margins / STEP))


def _walls(site: Site, groups: tuple[Points, ...], where: Poses) -> Bound:
    if not groups:
        return np.full(len(where), np.inf)
    return _convex_walls(site, groups, where) if site.convex else _any_walls(site, groups, where)


def _convex_walls(site: Site, groups: tuple[Points, ...], where: Poses) -> Bound:
    """Exact: how far each group reaches towards each wall depends on the direction alone."""
    angles, which = ways(where.turns)
    best = np.full(len(where), np.inf)
    for index in range(site.walls.count):
        way = site.walls.inward(index)
        local = np.stack(
            [np.cos(angles) * way[0] + np.sin(angles) * way[1], np.cos(angles) * way[1] - np.sin(angles) * way[0]]
        )
        reach = np.min([(group @ local).min(axis=0) for group in groups], axis=0)
        margin = (where.marks - site.walls.corners[index]) @ way + reach[which]
        best = np.minimum(best, _severity(margin, float(site.wall_unsure[index])))
    return best


def _turned(points: Points, where: Poses) -> Points:
    """(poses, points, 2) plan points of a formation at every pose."""
    angles = np.radians(where.turns)
    c, s = np.cos(angles)[:, None], np.sin(angles)[:, None]
    x, y = points[:, 0], points[:, 1]
    return np.stack([where.marks[:, :1] + c * x - s * y, where.marks[:, 1:] + s * x + c * y], axis=-1)


def _any_walls(site: Site, groups: tuple[Points, ...], where: Poses) -> Bound:
    """For rooms with corners that stick in: least signed distance of the outlines' points to the walls."""
    points = np.vstack(groups)
    best = _few_walls(site, points[::FEW], where)
    inside = np.flatnonzero(best >= 0)
    if len(inside):
        best[inside] = _few_walls(site, points, where.only(inside))
    return best


FEW = 6
"""Every which point of an outline is asked first: a pose that one of those already forbids needs no more."""


def _few_walls(site: Site, points: Points, where: Poses) -> Bound:
    best = np.empty(len(where))
    size = max(MANY // (len(points) * site.walls.count), 1)
    a = site.walls.corners
    edge = site.walls.nexts - a
    long = (edge**2).sum(axis=1)
    for first in range(0, len(where), size):
        part = where.only(np.arange(first, min(first + size, len(where))))
        spots = _turned(points, part).reshape(-1, 2)
        offset = spots[:, None, :] - a[None]
        t = np.clip(np.einsum("pwk,wk->pw", offset, edge) / long, 0, 1)
        away = offset - t[..., None] * edge
        far = np.sqrt((away**2).sum(axis=2))
        near = far.argmin(axis=1)
        gap = far[np.arange(len(near)), near]
        margin = np.where(site.walls.contains(spots), gap, -gap)
        value = _severity(margin, site.wall_unsure[near])
        best[first : first + len(part)] = value.reshape(len(part), -1).min(axis=1)
    return best


def _axis(site: Site, where: Poses, lens: float) -> tuple[Bound, NDArray[np.bool_]]:
    """Free length of the lens axis to its wall [m], further through a doorway, and whether a lens at that
    distance stands in or behind one."""
    angles = np.radians(where.turns)
    way = np.stack([np.cos(angles), np.sin(angles)], axis=1)
    a = site.walls.corners
    edge = site.walls.nexts - a
    cross = way[:, :1] * edge[:, 1] - way[:, 1:] * edge[:, 0]
    offset = a[None] - where.marks[:, None, :]
    with np.errstate(divide="ignore", invalid="ignore"):
        far = (offset[..., 0] * edge[:, 1] - offset[..., 1] * edge[:, 0]) / cross
        along = (offset[..., 0] * way[:, 1:] - offset[..., 1] * way[:, :1]) / cross
    hit = (np.abs(cross) > 1e-12) & (far > 1e-9) & (along >= -1e-9) & (along <= 1 + 1e-9)
    far = np.where(hit, far, np.inf)
    wall = far.argmin(axis=1)
    rows = np.arange(len(where))
    free, place = far[rows, wall], along[rows, wall]
    through = np.zeros(len(where), dtype=bool)
    for doorway in site.doorways:
        here = (wall == doorway.wall) & (place >= doorway.first) & (place <= doorway.last)
        free = np.where(here, free + doorway.beyond, free)
        through |= here & (lens - far[rows, wall] <= doorway.beyond)
    return free, through


def _ceiling(ceiling: Ceiling, clouds: Points, where: Poses) -> Bound:
    best = np.empty(len(where))
    size = max(MANY // max(len(clouds), 1), 1)
    for first in range(0, len(where), size):
        part = where.only(np.arange(first, min(first + size, len(where))))
        margin = (ceiling.heights(_turned(clouds, part)) - clouds[:, 2]).min(axis=1)
        best[first : first + len(part)] = _severity(margin, STEP)
    return best


def _prism_bound(prism: Prism, body: Body, where: Poses) -> Bound:
    """Least distance of sure points to the obstacle: a body cannot be further from it than its own points."""
    kinds = [body.kinds[kind] for kind in AGAINST[prism.kind] if kind in body.kinds]
    if not kinds:
        return np.full(len(where), np.inf)
    points = np.vstack(kinds)
    points = points[(points[:, 2] > prism.low - 0.4) & (points[:, 2] < prism.high + 0.4)]
    if not len(points):
        return np.full(len(where), np.inf)
    best = np.empty(len(where))
    heights = np.ascontiguousarray(points[:, 2])
    size = max(MANY // (len(points) * len(prism.outline)), 1)
    for first in range(0, len(where), size):
        part = where.only(np.arange(first, min(first + size, len(where))))
        gap = to_prism(prism.outline, prism.low, prism.high, _turned(points, part), heights)
        best[first : first + len(part)] = _severity(gap, prism.unsure)
    return best
