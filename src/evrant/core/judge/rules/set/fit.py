"""Does everything stay under the ceiling and inside the walls? Codes fit.ceiling, fit.headroom, fit.wall,
fit.holder_ceiling, fit.holder_wall; remedies also for what is in each other's way."""

from collections.abc import Iterable
from dataclasses import replace
from functools import partial

import numpy as np

from evrant.core.base.estimate import Estimate, Share, estimate
from evrant.core.base.margins import PLACED, Basis, Line, Margin, judge, unknown
from evrant.core.base.memo import Memo
from evrant.core.edits.language import SetFields, Shift
from evrant.core.judge.rules.rule import GEOMETRY, Proposal, SetRule
from evrant.core.space.ceiling import Ceiling
from evrant.core.space.doorway import doorway
from evrant.core.space.footprint import Clearance, Plan, clearance, first_wall, reflex_corners
from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene
from evrant.core.space.shares import gear_shares
from evrant.core.space.solids import Points, flat_separation, plan_hull
from evrant.core.space.things import Thing
from evrant.core.space.twins import size_shares, twins
from evrant.core.studio.gear import Modifier
from evrant.core.studio.room import value
from evrant.core.studio.sets import BackgroundPlace, CameraPlace, Mark
from evrant.core.studio.studio import Studio, by_id
from evrant.core.studio.words import Say

CEILING_BASIS = Basis(
    "least height of the ceiling over the outline's points ≥ 0, slopes as planes",
    "Plane geometry of true outlines",
    "computed",
)
WALLS_BASIS = Basis(
    "least signed distance of the outline to the walls ≥ 0", "Plane geometry of true outlines", "computed"
)
CEILING = Line(
    "fit.ceiling",
    "Ceiling above …",
    "m",
    CEILING_BASIS,
    asks="Does a light's outline stay under the ceiling?",
    step="set",
    search="placed",
    fails=True,
    helped_by=("gear/", "posture"),
)
HOLDER_CEILING = Line(
    "fit.holder_ceiling",
    "Background under the ceiling",
    "m",
    CEILING_BASIS,
    asks="Does the background's bar fit under the ceiling?",
    step="set",
    search="placed",
    fails=True,
    helped_by=("gear/", "background_gap"),
)
HEADROOM = Line(
    "fit.headroom",
    "Headroom of …",
    "m",
    CEILING_BASIS,
    asks="Do subject, people and camera clear a sloped ceiling, and an overhead camera any?",
    step="set",
    search="placed",
    fails=True,
)
WALL = Line(
    "fit.wall",
    "… inside the walls",
    "m",
    WALLS_BASIS,
    asks="Does each thing stay inside the walls?",
    step="set",
    search="placed",
    fails=True,
    helped_by=("room/boxes", "gear/", "background_gap", "lens", "beyond"),
)
HOLDER_WALL = Line(
    "fit.holder_wall",
    "The background and its holder inside the walls",
    "m",
    WALLS_BASIS,
    asks="Do background and holder fit between the walls?",
    step="set",
    search="placed",
    fails=True,
    helped_by=("gear/", "background_gap"),
)
FARTHEST_ASIDE = 9.0
"""Nothing is proposed to be pushed further than this [m]: a set goes no further at once."""
FARTHER = 2.0
"""So many times as far, where the shortest push, past a corner, does not do; project choice."""


def margins(scene: Scene) -> Iterable[Margin]:
    """Every clearance line of a set."""
    for light in scene.lights:
        yield from _ceiling(scene, light)
    yield from _headroom(scene)
    yield from _holder_ceiling(scene)
    yield from _walls(scene)


def _name(light: Light) -> str:
    return f"the {light.name}"


def _ceiling(scene: Scene, light: Light) -> Iterable[Margin]:
    title = f"Ceiling above {_name(light)}"
    about = (light.path,)
    if light.at is None or light.forward is None:
        missing = "The light has no place or height yet." if light.at is None else "Nothing to aim the light at yet."
        yield unknown(
            CEILING,
            about,
            missing,
            "Give its place and height, and the shot a subject.",
            title=title,
        )
        return
    if scene.room.height is None:
        yield unknown(
            CEILING,
            ("room", *about),
            "The ceiling height is missing.",
            "Measure at the lowest point, floor to ceiling.",
            title=title,
        )
        return
    if light.modifier and light.modifier.width is None:
        yield unknown(
            CEILING,
            (f"gear/{light.modifier.id}", *about),
            f"The size of the {light.modifier.called} is missing.",
            "Measure its face.",
            title=title,
        )
        return
    thing = next((one for one in scene.things if one.path == light.path), None)
    if scene.ceiling is None or thing is None:
        missing = "A figure of the sloped ceiling is missing." if thing else "The light has neither head nor modifier."
        find = "Measure how low it is at the wall and how far from it the slope ends." if thing else "Choose them."
        yield unknown(
            CEILING,
            ("room" if thing else light.path, *about),
            missing,
            find,
            title=title,
        )
        return
    yield _under_ceiling(scene, scene.ceiling, thing, CEILING, title, _name(light))


def _under_ceiling(scene: Scene, ceiling: Ceiling, thing: Thing, line: Line, title: str, name: str) -> Margin:
    """A thing's highest point under the ceiling over it."""
    found = ceiling.over(thing.cloud)
    shares = {label: abs(ceiling.over(twin.cloud).value - found.value) for label, twin in twins(scene, thing)}
    spare = Estimate(found.value, found.shares).plus(*(Share(k, v) for k, v in shares.items() if v > 1e-9))
    x, y, top = (float(part) for part in thing.cloud[found.point])
    say = Say.of(scene.brief)
    return judge(
        line,
        (thing.path,),
        spare,
        title=title,
        need=top,
        have=found.height,
        clear=f"{name.capitalize()} clears the ceiling.",
        short=f"{name.capitalize()} hits the ceiling.",
        reason=f"Its highest point is {say.length(top)} up; there the {found.under} is at {say.length(found.height)}.",
        at=(x, y, top),
        placing=PLACED,
    )


def _headroom(scene: Scene) -> Iterable[Margin]:
    """Subject, people and camera under a sloped ceiling; an overhead camera under any."""
    if scene.ceiling is None:
        return
    sloped = bool(scene.ceiling.pitches)
    for thing in scene.things:
        if (sloped and thing.kind in ("subject", "operator", "person", "camera")) or (
            scene.overhead and thing.kind == "camera"
        ):
            name = f"the {thing.name}"
            if thing.kind == "operator":
                thing = replace(thing, path=f"{thing.path}/operator")
            yield _under_ceiling(scene, scene.ceiling, thing, HEADROOM, f"Headroom of {name}", name)


def _holder_ceiling(scene: Scene) -> Iterable[Margin]:
    """Both ends of the background, with its roll, under the ceiling over them."""
    height, line = scene.plan.background.height, scene.line
    if height is None or line is None or (scene.backdrop is None and scene.holder is None):
        return
    about = f"{scene.path}/background"
    title = "Background under the ceiling"
    say = Say.of(scene.brief)
    if scene.ceiling is None:
        yield unknown(
            HOLDER_CEILING,
            ("room", about),
            "The ceiling height is missing." if scene.room.height is None else "A figure of the slope is missing.",
            "Measure from floor to ceiling.",
            title=title,
        )
        return
    roll = scene.backdrop.roll_diameter if scene.backdrop else None
    ends = scene.background_ends or (line[0], line[0])
    points = np.array([[*end, height] for end in ends])
    found = scene.ceiling.over(points)
    result = estimate(lambda roll_diameter: found.value - roll_diameter / 2, roll_diameter=roll or 0.0)
    if scene.ceiling.pitches:
        result = result.plus(*gear_shares(scene, [scene.backdrop], ("width",), _over_ends))
    yield judge(
        HOLDER_CEILING,
        (about,),
        result.plus(*found.shares),
        title=title,
        need=height + (value(roll) or 0.0) / 2,
        have=found.height,
        clear="The background's holder fits under the ceiling.",
        short="The background hangs higher than the ceiling allows.",
        reason=f"Its bar is at {say.length(height)}; there the {found.under} is at {say.length(found.height)}.",
        at=(float(points[found.point][0]), float(points[found.point][1]), height),
        placing=PLACED,
    )


def _over_ends(scene: Scene) -> float | None:
    height, ends = scene.plan.background.height, scene.background_ends
    if scene.ceiling is None or ends is None or height is None:
        return None
    return scene.ceiling.over(np.array([[*end, height] for end in ends])).value


_LINES: Memo[Margin] = Memo(6_000_000, lambda line: 1800)


def _walls(scene: Scene) -> Iterable[Margin]:
    """Each light, the background, the subject and the camera inside the walls."""
    if scene.walls is None:
        return
    grouped: dict[str, list[Thing]] = {}
    for thing in scene.things:
        if thing.kind in ("light", "holder", "backdrop", "subject", "prop", "camera", "operator", "person"):
            if thing.kind == "holder" and scene.holder and scene.holder.system == "tension rod":
                continue  # it is meant to touch both walls; support.holder_span judges it
            grouped.setdefault(thing.path, []).append(thing)
    for path, things in grouped.items():
        if not (path.endswith("/camera") and _in_doorway(scene)):
            parts = (scene.room, scene.brief, *things)
            yield _LINES.get(path, parts, partial(_wall_line, scene, scene.walls, path, things))


def _wall_line(scene: Scene, walls: Plan, path: str, things: list[Thing]) -> Margin:
    say = Say.of(scene.brief)
    solid = plan_hull(np.vstack([thing.cloud for thing in things]))
    points = solid[:, :2]
    found = inside(walls, points)
    background = path.endswith("/background")
    names = "background and its holder" if background else " and ".join(thing.name for thing in things)
    wall = scene.room.edges(walls.count)[found.wall].name
    return judge(
        HOLDER_WALL if background else WALL,
        (path,),
        Estimate(found.value, found.shares + size_shares(scene, things, found.way)),
        title=f"{names.capitalize()} inside the walls",
        need=0.0,
        have=found.value,
        clear=f"There is room between the walls and the {names}.",
        short=f"The {wall} is in the way of the {names}.",
        reason=f"Nearest wall: {wall}, {say.short_by(found.value)} {'free' if found.value >= 0 else 'too far'}.",
        at=_nearest_point(solid, found),
        placing=PLACED,
    )


def _in_doorway(scene: Scene) -> bool:
    """Camera (and photographer) go through the opening of a door with free depth behind it;
    frame.distance judges how deep."""
    if scene.walls is None or scene.mark is None or scene.axis is None or scene.camera_spot is None:
        return False
    hit = first_wall(scene.walls, scene.mark, scene.axis)
    if hit is None:
        return False
    door = doorway(scene, hit[1], scene.mark + scene.axis * hit[0])
    past = float(np.linalg.norm(scene.camera_spot - scene.mark)) - hit[0]
    return door is not None and door.beyond is not None and past <= door.beyond.value


def _nearest_point(solid: Points, found: Clearance) -> tuple[float, float, float]:
    x, y, z = solid[int((solid[:, :2] @ found.way).argmin())]
    return float(x), float(y), float(z)


def inside(walls: Plan, points: Points) -> Clearance:
    """How far a body's outline (n, 2) is inside the walls, corners that stick into the room counted."""
    return _reflex(walls, points, clearance(walls, points))


def _reflex(walls: Plan, points: Points, found: Clearance) -> Clearance:
    """Corners that stick into the room may poke into a hull none of whose points is outside."""
    for corner in reflex_corners(walls):
        gap, way = flat_separation(points, walls.corners[corner][None])
        if gap < found.value:
            shares = tuple(Share(label, abs(float(way @ moves[corner])) * f.pm) for label, f, moves in walls.figures)
            found = replace(
                found,
                value=gap,
                wall=corner,
                along=0.0,
                way=-way,
                shares=tuple(s for s in shares if s.amount > 1e-12),
            )
    return found


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Lower, move aside, take a smaller modifier, move the whole set."""
    if scene is None or margin.margin is None:
        return
    say = Say.of(scene.brief)
    lack = -margin.margin + (margin.uncertainty or 0.0) + 0.01
    light = scene.light_at(margin.about[0])
    if light is None and len(margin.about) > 1:
        light = next((one for one in scene.lights if one.path in margin.about), None)
    if margin.code == "fit.holder_ceiling" and scene.plan.background.height is not None:
        yield Proposal(
            f"Hang it {say.short_by(lack)} lower",
            SetFields(
                target=f"{scene.path}/background", fields={"height": round(scene.plan.background.height - lack, 3)}
            ),
        )
    if light is not None:
        yield from _light_remedies(studio, scene, light, margin, lack, say)
    yield from _aside(scene, margin, lack, say)


def _light_remedies(
    studio: Studio, scene: Scene, light: Light, margin: Margin, lack: float, say: Say
) -> Iterable[Proposal]:
    if margin.code in ("fit.ceiling", "fit.overlap") and light.place.height is not None:
        lowered = round(light.place.height - lack, 3)
        if lowered > 0.3:
            yield Proposal(
                f"Lower the {light.name} {say.short_by(lack)}", SetFields(target=light.path, fields={"height": lowered})
            )
    face = light.face
    if face is None:
        return
    for item in studio.gear:
        if isinstance(item, Modifier) and item.width and item.width.value < face[0] and item.id != light.place.modifier:
            yield Proposal(f"Use the {item.called}", SetFields(target=light.path, fields={"modifier": item.id}))


def _aside(scene: Scene, margin: Margin, lack: float, say: Say) -> Iterable[Proposal]:
    """Push a thing away from what it meets; where two of the set meet, the other one; then the whole set."""
    own = [path for path in margin.about if path.startswith(scene.path + "/") and "/doors/" not in path]
    if not own or margin.at is None or margin.code in ("fit.ceiling", "fit.holder_ceiling"):
        return
    place = _place(scene, own[0])
    if place is None or lack > FARTHEST_ASIDE:
        return
    yield from _pushed(scene, margin, own[0], lack, say, 3)
    others = [one for one in own[1:2] if margin.code == "fit.overlap" and ("/props/" in one or "/lights/" in one)]
    for path in others:
        yield from _pushed(scene, margin, path, lack, say, 1)
    for dx, dy in _ways(margin, *place)[:2]:
        yield Proposal(
            f"Move the whole set by {say.short_by(lack)} {_towards(scene, dx, dy)}",
            Shift(target=scene.path, dx=round(dx * lack, 3), dy=round(dy * lack, 3)),
        )
    if margin.code == "fit.overlap" and FARTHER * lack <= FARTHEST_ASIDE:
        for path in (own[0], *others):
            yield from (replace(one, otherwise=True) for one in _pushed(scene, margin, path, FARTHER * lack, say, 0))


def _pushed(scene: Scene, margin: Margin, path: str, lack: float, say: Say, ways: int) -> Iterable[Proposal]:
    """One thing straight away from where it meets another, and so many ways along the room's axes."""
    place = _place(scene, path)
    if place is None or margin.at is None:
        return
    x, y = place
    name = _called(scene, path)
    away = np.array([x - margin.at[0], y - margin.at[1]])
    if np.hypot(*away) > 0.03 and margin.code in ("fit.overlap", "fit.door"):
        spot = np.array([x, y]) + away / np.hypot(*away) * lack
        yield Proposal(
            f"Move the {name} by {say.short_by(lack)} straight away",
            SetFields(target=path, fields={"x": round(float(spot[0]), 3), "y": round(float(spot[1]), 3)}),
        )
    for dx, dy in _ways(margin, x, y)[:ways]:
        fields = {"x": round(x + dx * lack, 3), "y": round(y + dy * lack, 3)}
        yield Proposal(
            f"Move the {name} by {say.short_by(lack)} {_towards(scene, dx, dy)}", SetFields(target=path, fields=fields)
        )


def _called(scene: Scene, path: str) -> str:
    """What the thing at a path is called: a light by its name, a thing of the kit by its own."""
    key = path.split("/")[-1]
    light, prop = scene.light_at(path), by_id(scene.plan.props, key)
    item = scene.gear.get(prop.item or "") if prop is not None and "/props/" in path else None
    return light.name if light is not None else item.called if item is not None else key


def _place(scene: Scene, path: str) -> tuple[float, float] | None:
    key = path.split("/")[-1]
    plan = scene.plan
    parts: dict[str, Mark | CameraPlace | BackgroundPlace] = {
        "mark": plan.mark,
        "camera": plan.camera,
        "background": plan.background,
    }
    found = parts.get(key) or by_id(plan.lights, key) or by_id(plan.props, key)
    if found is None or found.x is None or found.y is None:
        return None
    return found.x, found.y


def _ways(margin: Margin, x: float, y: float) -> list[tuple[float, float]]:
    """The room's axes that lead away from the place of conflict, best first."""
    assert margin.at is not None
    away = np.array([x - margin.at[0], y - margin.at[1]])
    axes = sorted(((1.0, 0.0), (-1.0, 0.0), (0.0, 1.0), (0.0, -1.0)), key=lambda w: -(away[0] * w[0] + away[1] * w[1]))
    return axes[:3]


def _towards(scene: Scene, dx: float, dy: float) -> str:
    """The wall one moves towards, by name."""
    if scene.walls is None:
        return "aside"
    facing = [float(scene.walls.inward(i) @ np.array([dx, dy])) for i in range(scene.walls.count)]
    return f"toward {scene.room.edges(scene.walls.count)[int(np.argmin(facing))].name}"


RULE = SetRule(
    "fit",
    margins,
    (
        CEILING,
        HOLDER_CEILING,
        HEADROOM,
        WALL,
        HOLDER_WALL,
    ),
    propose,
    order=6,
    place_order=5,
    reads=GEOMETRY,
)
