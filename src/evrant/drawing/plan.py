"""The plan: room, set, field of view and distances, seen from above."""

from functools import partial
from itertools import pairwise

import numpy as np

from evrant.core.space.footprint import Plan, first_wall
from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Points, Vector
from evrant.core.space.things import Thing, door_place
from evrant.core.studio.room import Window
from evrant.core.studio.words import Say
from evrant.drawing.bodies import (
    drawn,
    floor_sheet,
    group,
    light_shapes,
    outline,
    prop_outline,
    silhouette,
    stand_shapes,
    subject_shapes,
)
from evrant.drawing.labels import NOTE_SIZE, width
from evrant.drawing.layout import Frame
from evrant.drawing.rails import rail_lines
from evrant.drawing.scale import ticks_below, ticks_left
from evrant.drawing.svg import element, line, number, path_of, shape, text, title

OVERHEAD = 1.8
NAMED_FROM = 90.0
"""Furniture drawn wider than this has its name in it [px]."""


def plan_view(frame: Frame, scene: Scene, *, lengths: bool = False) -> str:
    """Everything on the plan, from the floor up. `lengths`: each wall's name with how long it is."""
    assert scene.walls is not None
    return "".join(
        [
            shape(_flat(frame, scene.walls.corners), "floor"),
            ticks_below(frame.width / frame.scale, frame.scale, frame.height + 4, scene.brief.units),
            ticks_left(frame.height / frame.scale, frame.scale, frame.height, scene.brief.units),
            _background(frame, scene),
            drawn(f"boxes {frame.key}", (scene.room, scene.brief), partial(_boxes, frame, scene)),
            drawn(
                f"walls {lengths} {scene.brief.units} {frame.key}",
                (scene.room,),
                partial(_walls, frame, scene, scene.walls, lengths),
            ),
            _slopes(frame, scene, scene.walls),
            _zones(frame, scene),
            rail_lines(frame, scene),
            _seen_floor(frame, scene) if scene.overhead else _view_cone(frame, scene),
            _things(frame, scene),
            _distances(frame, scene),
            _mark(frame, scene),
        ]
    )


def _flat(frame: Frame, points: Points) -> Points:
    return frame.place(np.column_stack([points, np.zeros(len(points))]))


def _walls(frame: Frame, scene: Scene, walls: Plan, lengths: bool) -> str:
    parts = [shape(_flat(frame, walls.corners), "wall")]
    say = Say.of(scene.brief)
    for i, wall in enumerate(scene.room.edges(walls.count)):
        start, end = walls.wall(i)
        outward = np.array([*-walls.inward(i), 0.0])
        outside = float(outward @ frame.across) > 0.5 or float(outward @ frame.up) > 0.5
        middle = (start + end) / 2 + outward[:2] * (12 / frame.scale if outside else -11 / frame.scale)
        x, y = frame.one(float(middle[0]), float(middle[1]), 0.0)
        a, b = _flat(frame, np.array([start, end]))
        turn = _upright(b - a)
        parts.append(
            text(
                x,
                y + 3,
                f"{wall.name}, {say.length(float(np.linalg.norm(end - start)))}" if lengths else wall.name,
                "wall-name",
                text_anchor="middle",
                transform=f"rotate({number(turn)} {number(x)} {number(y)})",
            )
        )
    for window in scene.room.windows:
        place = _window_place(scene, walls, window)
        if place is not None:
            a, b = _flat(frame, np.array(place))
            parts.append(element("g", title(window.name), line(a, b, "window"), data_path=f"room/windows/{window.id}"))
    parts += _corner_letters(frame, walls)
    return "".join(parts) + _doors(frame, scene, walls) + _sockets(frame, scene, walls)


def _corner_letters(frame: Frame, walls: Plan) -> list[str]:
    """A, B, C … in the corners, a little inside: what measures are taken from."""
    parts = []
    for i in range(min(walls.count, 26)):
        inside = walls.inward(i) + walls.inward(i - 1)
        spot = walls.corners[i] + inside / np.linalg.norm(inside) * (13 / frame.scale)
        x, y = frame.one(float(spot[0]), float(spot[1]), 0.0)
        parts.append(text(x, y + 4, chr(65 + i), "corner", text_anchor="middle"))
    return parts


def _window_place(scene: Scene, walls: Plan, window: Window) -> tuple[Vector, Vector] | None:
    names = [wall.id for wall in scene.room.edges(walls.count)]
    if window.wall not in names or window.offset is None or window.width is None:
        return None
    start, end = walls.wall(names.index(window.wall))
    along = (end - start) / np.linalg.norm(end - start)
    first = start + along * window.offset.value
    return first, first + along * window.width.value


def _doors(frame: Frame, scene: Scene, walls: Plan) -> str:
    parts = []
    for door in scene.room.doors:
        place = door_place(scene.room, walls, door)
        if place is None or door.width is None:
            continue
        first, last, index = place
        hinge, other = (first, last) if door.hinge == "start" else (last, first)
        jambs = _flat(frame, np.array([first, last]))
        shapes = [line(jambs[0], jambs[1], "opening")]
        if door.swing != "slides":
            way = walls.inward(index) * (1 if door.swing == "in" else -1)
            opened = hinge + way * door.width.value
            a, b, c = _flat(frame, np.array([hinge, opened, other]))
            radius = number(door.width.value * frame.scale)
            turn = (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])
            sweep = 1 if turn > 0 else 0
            arc = f"M{number(b[0])} {number(b[1])}A{radius} {radius} 0 0 {sweep} {number(c[0])} {number(c[1])}"
            shapes += [line(a, b, "leaf"), element("path", d=arc, class_="ghost")]
        parts.append(group("plan", f"room/doors/{door.id}", door.name, *shapes))
    return "".join(parts)


def _sockets(frame: Frame, scene: Scene, walls: Plan) -> str:
    parts = []
    names = [wall.id for wall in scene.room.edges(walls.count)]
    for socket in scene.room.sockets:
        if socket.wall in names and socket.offset is not None:
            index = names.index(socket.wall)
            start, end = walls.wall(index)
            along = (end - start) / np.linalg.norm(end - start)
            spot = start + along * socket.offset.value
            tip = spot + walls.inward(index) * 0.07
            a, b = _flat(frame, np.array([spot, tip]))
            parts.append(
                element(
                    "g",
                    title(socket.name),
                    line(a, b, "socket"),
                    element("circle", cx=float(b[0]), cy=float(b[1]), r=2.2, class_="socket-dot"),
                    data_path=f"room/sockets/{socket.id}",
                )
            )
    return "".join(parts)


LOW = 2.0
"""Height under which a slope is marked on the plan: where a standing person begins to stoop [m]."""


def _slopes(frame: Frame, scene: Scene, walls: Plan) -> str:
    """Where a sloped ceiling is lower than a standing person needs, and where it begins."""
    parts = []
    if scene.ceiling is None:
        return ""
    say = Say.of(scene.brief)
    for pitch in scene.ceiling.pitches:
        end = pitch.along * pitch.length
        for high, class_ in ((scene.ceiling.flat.value, "slope-edge"), (LOW, "slope-low")):
            away = (high - pitch.low.value) / pitch.rise if pitch.rise > 1e-6 else 0.0
            if away > 0.05:
                first = pitch.start + pitch.inward * away
                a, b = _flat(frame, np.array([first, first + end]))
                words = f"ceiling {say.length(high)}"
                x, y = a + (b - a) * (0.16 if class_ == "slope-edge" else 0.84)
                turn = _upright(b - a)
                about = f"rotate({number(turn)} {number(float(x))} {number(float(y))})"
                label = text(float(x), float(y) - 4, words, "note along", text_anchor="middle", transform=about)
                if frame.scale < 60 or float(np.hypot(*(b - a))) < 150:
                    label = ""
                parts.append(element("g", title(f"{pitch.name}: {words}"), line(a, b, class_), label))
    return "".join(parts)


def _zones(frame: Frame, scene: Scene) -> str:
    """Parts of the floor that must stay free."""
    parts = []
    for thing in scene.things:
        if thing.kind == "zone":
            points = outline(frame, thing.parts[0])
            x, y = points[:-1].mean(axis=0)
            words = (
                text(float(x), float(y) + 4, thing.name, "note", text_anchor="middle")
                if np.ptp(points[:, 0]) > 6.2 * len(thing.name)
                else ""
            )
            path = "/".join(thing.path.split("/")[:3])
            parts.append(
                element(
                    "g", title(f"Keep free: {thing.name}"), shape(points, "zone"), words, class_="thing", data_path=path
                )
            )
    return "".join(parts)


def _seen_floor(frame: Frame, scene: Scene) -> str:
    """What a camera overhead sees of the surface the subject lies on."""
    view = scene.view
    if view is None:
        return ""
    rays = view.rays()
    if (rays[:, 2] > -1e-3).any():
        return ""
    points = view.eye + rays * ((float(view.eye[2]) - scene.surface) / -rays[:, 2])[:, None]
    return shape(frame.place(points), "seen")


def _boxes(frame: Frame, scene: Scene) -> str:
    parts = []
    for thing in scene.things:
        if thing.kind != "box":
            continue
        points = outline(frame, thing.parts[0])
        low = float(thing.parts[0].solid[:, 2].min())
        label, words = thing.name, ""
        if low > OVERHEAD:
            label = f"{thing.name}, {Say.of(scene.brief).length(low)} clear"
        if np.ptp(points[:, 0]) > NAMED_FROM:
            words = _named_along(points, label, "note on-hatch" if low > OVERHEAD else "note")
        shapes = [shape(points, "overhead" if low > OVERHEAD else "furniture"), words]
        if low > OVERHEAD:
            shapes.insert(0, element("path", d=_hatch(points), class_="hatch"))
        parts.append(group("plan", thing.path, label, *shapes))
    return "".join(parts)


def _upright(way: Vector) -> float:
    """By how much words along a line are turned, so that they do not stand on their heads [degrees]."""
    turn = float(np.degrees(np.arctan2(way[1], way[0])))
    return turn - 180 if turn > 90.5 else turn + 180 if turn < -89.5 else turn


def _named_along(points: Points, words: str, class_: str) -> str:
    """A name inside an outline, along its longest side; nothing where it is longer than that."""
    sides = np.diff(points, axis=0)
    longest = sides[int(np.argmax(np.hypot(*sides.T)))]
    turn = _upright(longest)
    low, high = points.min(axis=0), points.max(axis=0)
    if abs(turn) < 1.0:
        return text(float(low[0]) + 24, float(low[1] + high[1]) / 2 + 4, words, class_)
    long, across = np.abs(sides @ np.array([longest, [-longest[1], longest[0]]]).T).max(axis=0) / np.hypot(*longest)
    if long < width(words) * NOTE_SIZE or across < 1.5 * NOTE_SIZE:
        return ""
    x, y = float(low[0] + high[0]) / 2, float(low[1] + high[1]) / 2
    about = f"rotate({number(turn)} {number(x)} {number(y)})"
    return text(x, y + 4, words, f"{class_} along", text_anchor="middle", transform=about)


def _hatch(points: Points) -> str:
    """Diagonal lines clipped to a convex outline."""
    edges = list(pairwise(points))
    sums = points[:, 0] + points[:, 1]
    pieces = []
    for level in np.arange(float(sums.min()) + 6.0, float(sums.max()), 9.0):
        ends = []
        for a, b in edges:
            low, high = float(a.sum()) - level, float(b.sum()) - level
            if low * high < 0:
                ends.append(a + (b - a) * (low / (low - high)))
        if len(ends) == 2:
            (x0, y0), (x1, y1) = ends
            pieces.append(f"M{number(float(x0))} {number(float(y0))}L{number(float(x1))} {number(float(y1))}")
    return "".join(pieces)


def _background(frame: Frame, scene: Scene) -> str:
    floor = floor_sheet(scene)
    return shape(frame.place(floor), "sweep") if floor is not None else ""


def _view_cone(frame: Frame, scene: Scene) -> str:
    """The sides of the picture from the lens to the background or the wall behind."""
    view, walls = scene.view, scene.walls
    if view is None or walls is None or scene.eye is None:
        return ""
    rays = view.rays()
    parts = []
    for pair in ((0, 3), (1, 2)):
        way = rays[list(pair)].mean(axis=0)[:2]
        length = float(np.linalg.norm(way))
        if length < 1e-6:
            return ""
        hit = first_wall(walls, scene.eye[:2], way / length)
        reach = hit[0] if hit else 3.0
        if scene.line is not None:
            closing = -float(way / length @ scene.line[1])
            gap = float((scene.eye[:2] - scene.line[0]) @ scene.line[1])
            if closing > 1e-6 and gap > 0:
                reach = min(reach, gap / closing)
        end = scene.eye[:2] + way / length * reach
        a, b = _flat(frame, np.array([scene.eye[:2], end]))
        parts.append(line(a, b, "ray"))
    return "".join(parts)


def _things(frame: Frame, scene: Scene) -> str:
    parts = []
    background = ""
    lights = {light.path: light for light in scene.lights}
    for thing in scene.things:
        match thing.kind:
            case "backdrop":
                background += shape(outline(frame, thing.parts[0]), "solid paper")
            case "holder":
                background += "".join(stand_shapes(frame, thing))
            case "prop":
                parts.append(_prop(frame, scene, thing.path, prop_outline(frame, thing), thing.name))
            case "operator":
                parts.append(shape(outline(frame, thing.parts[0]), "ghost"))
            case "person":
                parts.append(_person(frame, scene, thing))
            case "light":
                parts.append(drawn(frame.key, (thing,), partial(_light, frame, scene, lights[thing.path], thing)))
    if background:
        place_b = scene.plan.background
        path = f"{scene.path}/background"
        parts.insert(
            0,
            group(
                "plan",
                path,
                "background",
                background,
                grab=path,
                focus=True,
                x=place_b.x,
                y=place_b.y,
                height=place_b.height,
            ),
        )
    parts.append(subject_shapes(frame, scene))
    parts.append(_camera(frame, scene))
    return _beside(frame, scene) + "".join(parts)


def _beside(frame: Frame, scene: Scene) -> str:
    """What stands in the room of sets used at the same time, in outline."""
    parts = []
    for thing in scene.around:
        if not scene.owns(thing):
            shapes = [shape(outline(frame, part), "beside") for part in thing.parts]
            parts.append(element("g", title(thing.name), *shapes))
    return "".join(parts)


def _person(frame: Frame, scene: Scene, thing: Thing) -> str:
    place = next(p for p in scene.plan.people if thing.path.endswith(f"/{p.id}"))
    points = outline(frame, thing.parts[0])
    x, y = points[:-1].mean(axis=0)
    words = text(float(x), float(y) + 4, place.name, "note", text_anchor="middle")
    return group(
        "plan",
        thing.path,
        thing.name,
        shape(points, "ghost person"),
        words,
        grab=thing.path,
        focus=True,
        x=place.x,
        y=place.y,
    )


def _prop(frame: Frame, scene: Scene, path: str, outlines: str, name: str) -> str:
    place = next(p for p in scene.plan.props if path.endswith(f"/{p.id}"))
    return group("plan", path, name, outlines, grab=path, focus=True, x=place.x, y=place.y)


def _light(frame: Frame, scene: Scene, light: Light, thing: Thing) -> str:
    place = light.place
    return group(
        "plan",
        thing.path,
        f"{thing.name} light",
        *light_shapes(frame, scene, light, thing),
        _light_name(frame, light.at, thing.name),
        grab=thing.path,
        focus=True,
        x=place.x,
        y=place.y,
        height=place.height,
    )


def _light_name(frame: Frame, at: Vector | None, name: str) -> str:
    if at is None:
        return ""
    x, y = frame.place(at[None])[0]
    return text(x, y + (14 if y < frame.height / 2 else -8), name, "note light-name", text_anchor="middle")


def _camera(frame: Frame, scene: Scene) -> str:
    thing = next((t for t in scene.things if t.kind == "camera"), None)
    if thing is None:
        return ""
    place = scene.plan.camera
    legs = [shape(outline(frame, part), "ghost") for part in thing.parts if part.kind == "legs"]
    legs += [shape(outline(frame, part), "solid boom") for part in thing.parts if part.kind == "boom"]
    solid = silhouette(frame, [part for part in thing.parts if part.kind == "head"], "solid")
    height = None if scene.lens_height is None else round(scene.lens_height, 3)
    return group(
        "plan", thing.path, "camera", *legs, solid, grab=thing.path, focus=True, x=place.x, y=place.y, height=height
    )


def _mark(frame: Frame, scene: Scene) -> str:
    if scene.mark is None:
        return ""
    x, y = frame.one(float(scene.mark[0]), float(scene.mark[1]), 0.0)
    cross = f"M{number(x - 7)} {number(y)}H{number(x + 7)}M{number(x)} {number(y - 7)}V{number(y + 7)}"
    path = f"{scene.path}/mark"
    place = scene.plan.mark
    return group(
        "plan",
        path,
        "mark",
        element("circle", cx=x, cy=y, r=13.0, class_="handle"),
        element("path", d=cross, class_="mark"),
        grab=path,
        focus=True,
        x=place.x,
        y=place.y,
    )


def _distances(frame: Frame, scene: Scene) -> str:
    """Dimension lines along the lens axis: lens to mark, mark to background."""
    if scene.mark is None or scene.axis is None:
        return ""
    say = Say.of(scene.brief)
    parts = []
    if scene.camera_spot is not None:
        along = float((scene.camera_spot - scene.mark) @ scene.axis)
        lens = f"{say.focal(scene.focal.value)}, " if scene.focal else ""
        parts.append(_dimension(frame, scene.mark, scene.camera_spot, f"{lens}{say.length(along)}"))
    if scene.line is not None:
        gap = float((scene.mark - scene.line[0]) @ scene.line[1])
        parts.append(_dimension(frame, scene.mark - scene.line[1] * gap, scene.mark, say.length(gap), above=True))
    return "".join(parts)


def _dimension(frame: Frame, start: Vector, end: Vector, words: str, *, above: bool = False) -> str:
    a, b = _flat(frame, np.array([start, end]))
    if abs(b[0] - a[0]) < 12:
        return ""
    drop = 22.0
    pieces = [f"M{number(p[0])} {number(p[1] + drop - 4)}V{number(p[1] + drop + 4)}" for p in (a, b)]
    pieces.append(path_of([(a[0], a[1] + drop), (b[0], b[1] + drop)], closed=False))
    middle = (a + b) / 2
    return element(
        "g",
        element("path", d="".join(pieces), class_="dimension"),
        text(middle[0], middle[1] + drop + (-6 if above else 14), words, "note dimension-label", text_anchor="middle"),
        aria_hidden="true",
    )
