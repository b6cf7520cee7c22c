"""The floor of a set as leads see it: what they go round, where people walk, where sockets are."""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from math import inf

import numpy as np

from evrant.core.base.memo import Memo
from evrant.core.base.quantity import Figure
from evrant.core.space.booms import pivot_of
from evrant.core.space.footprint import Plan, plan_of
from evrant.core.space.lights import Light
from evrant.core.space.room_twins import room_twins
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Points, Vector
from evrant.core.space.things import box_thing, door_place, door_swing
from evrant.core.studio.room import Room, Socket, value
from evrant.core.studio.studio import by_id
from evrant.core.wiring.hung import HUNG, HungWay, hung_ways
from evrant.core.wiring.routes import Block, Floor, Route, length_inside

WAY = 0.50
"""Width of the path people walk on [m]; common practice, no source."""
SLACK = 0.30
"""Spare lead at both ends together [m]; common practice, no source."""
ON_FLOOR = 0.05
MOST_RUN = 1.5
"""A background is rolled out over the floor at most this far [m]."""
_FLOORS: Memo[Floor] = Memo(8_000_000, lambda floor: 2000 + 40_000)
_ROUTES: Memo["tuple[Found, ...]"] = Memo(4_000_000, lambda found: 400 + 1200 * len(found))
_HUNG: Memo[HungWay | None] = Memo(1_000_000, lambda way: 600)


@dataclass(frozen=True, eq=False)
class Found:
    """A way for a lead from one socket: the route, whether it had to cross where people walk, and how far."""

    socket: Socket
    route: Route
    crosses: bool
    crossing: float
    walls: Plan


def hung_way(scene: Scene, light: Light) -> HungWay | None:
    """The way of a hanging light's lead down to the floor: the one by which the whole lead, to the socket that could
    feed it, is shortest; None for what does not hang."""
    if light.stand is None or light.stand.use not in HUNG:
        return None
    parts = (*_read(scene), light.place, light.stand, light.modifier or light.head, scene.holder)
    return _HUNG.get(light.path, parts, lambda: _shortest(scene, light, hung_ways(scene, light)))


def _shortest(scene: Scene, light: Light, ways: Sequence[HungWay]) -> HungWay | None:
    """The way by which the whole lead is shortest, not over where people walk if that can be: those first that would
    be by a straight line to a socket, until no other can be shorter than the best."""
    if len(ways) < 2:
        return next(iter(ways), None)
    spots = _spots(scene, light)
    least = [way.rise + min((float(np.linalg.norm(spot - way.foot)) for spot in spots), default=0.0) for way in ways]
    best, whole = ways[0], (True, inf)
    for bound, number in sorted(zip(least, range(len(ways)), strict=True)):
        if not whole[0] and bound >= whole[1]:
            break
        first = next(iter(_from(scene, light, ways[number].foot)), None)
        found = (True, inf) if first is None else (first.crosses, first.route.cost + ways[number].rise)
        if found < whole:
            best, whole = ways[number], found
    return best


def _spots(scene: Scene, light: Light) -> list[Vector]:
    """Where the sockets are on the plan that may feed a light (2,)."""
    walls, found = scene.walls, []
    names = [] if walls is None else [wall.id for wall in scene.room.edges(walls.count)]
    for socket in candidates(scene, light):
        if walls is not None and socket.wall in names and socket.offset is not None:
            start, end = walls.wall(names.index(socket.wall))
            found.append(start + (end - start) / np.linalg.norm(end - start) * socket.offset.value)
    return found


def device_of(scene: Scene, light: Light) -> Vector | None:
    """The place on the floor a light's lead comes up at: the foot of its support, or where the lead of what hangs
    comes down (2,)."""
    hung = hung_way(scene, light)
    if hung is not None:
        return hung.foot
    pivot = pivot_of(light)
    return None if pivot is None else np.asarray(pivot[:2])


def rise_of(scene: Scene, light: Light) -> float:
    """How far a lead runs from the floor to the head [m]: up the stand and along the boom, or as `hung_way` has it."""
    hung = hung_way(scene, light)
    if hung is not None:
        return hung.rise
    mount, pivot = light.mount, pivot_of(light)
    if mount is None or pivot is None:
        return 0.0
    return float(mount[2]) + float(np.linalg.norm(pivot[:2] - mount[:2]))


def socket_place(room: Room, walls: Plan, socket: Socket) -> float | None:
    """Distance of a socket from corner A along the walls [m]."""
    names = [wall.id for wall in room.edges(walls.count)]
    if socket.wall not in names or socket.offset is None:
        return None
    index = names.index(socket.wall)
    return float(walls.sides[:index].sum() + min(socket.offset.value, float(walls.sides[index])))


def fixed_blocks(scene: Scene) -> Iterable[Block]:
    """Furniture on the floor, doors with their sweep, and the doorways themselves."""
    for box in scene.boxes:
        thing = box_thing(box)
        if thing is not None and (value(box.base) or 0.0) < ON_FLOOR:
            low, high = thing.cloud[:, :2].min(axis=0), thing.cloud[:, :2].max(axis=0)
            yield Block(thing.path, thing.name, _rectangle(low, high))
    walls = scene.walls
    for door in scene.room.doors:
        place = door_place(scene.room, walls, door)
        if place is None or walls is None:
            continue
        first, last, index = place
        inward = walls.inward(index)
        path = f"room/doors/{door.id}"
        yield Block(path, door.name.lower(), np.array([first, last, last + inward * 0.15, first + inward * 0.15]))
        swing = door_swing(scene.room, walls, door)
        if swing is not None and scene.plan.doors == "used":
            flat = swing[: len(swing) // 2, :2]
            yield Block(path, f"sweep of the {door.name.lower()}", _counter(flat))


def _rectangle(low: Vector, high: Vector) -> Points:
    return np.array([[low[0], low[1]], [high[0], low[1]], [high[0], high[1]], [low[0], high[1]]])


def _counter(points: Points) -> Points:
    """The same outline counter-clockwise."""
    x, y = points[:, 0], points[:, 1]
    area = float((x * np.roll(y, -1) - np.roll(x, -1) * y).sum())
    return points if area > 0 else points[::-1]


def walked(scene: Scene) -> list[Block]:
    """Where people walk: straight from every door that lets in to the mark and to who works the camera, the
    background on the floor, and what must stay free by the plan."""
    found = list(_ways(scene))
    for thing in scene.things:
        if thing.kind == "zone":
            flat = thing.cloud[:, :2]
            found.append(Block(thing.path, thing.name, _rectangle(flat.min(axis=0), flat.max(axis=0))))
    return found


def _ways(scene: Scene) -> Iterator[Block]:
    """Ways from the doors into one set, and its background on the floor."""
    walls = scene.walls
    ends = [] if scene.mark is None or scene.overhead else [("mark", scene.mark)]
    if scene.camera_spot is not None and scene.axis is not None:
        behind = scene.plan.camera.operator == "photographer behind it"
        ends += [("camera", np.asarray(scene.camera_spot + scene.axis * 0.4))] if behind else []
    for door in scene.room.doors:
        place = door_place(scene.room, walls, door)
        if place is None or walls is None:
            continue
        start = (place[0] + place[1]) / 2
        for name, end in ends:
            way = end - start
            long = float(np.linalg.norm(way))
            if long < 0.1:
                continue
            across = np.array([-way[1], way[0]]) / long * WAY / 2
            outline = np.array([start - across, end - across, end + across, start + across])
            path = f"{scene.path}/way/{door.id}/{name}"
            yield Block(path, f"way from the {door.name.lower()} to the {name}", outline)
    paper = _paper(scene)
    if paper is not None:
        yield paper


def _paper(scene: Scene) -> Block | None:
    """The background where it lies on the floor before the camera: no lead lies on it."""
    ends, line, height = scene.background_ends, scene.line, scene.plan.background.height
    length = value(scene.backdrop.length) if scene.backdrop else None
    if ends is None or line is None or height is None or not length or scene.lands != "on the floor":
        return None
    run = min(length - height, MOST_RUN)
    if run < 0.1:
        return None
    left, right = (np.asarray(end) for end in ends)
    out = line[1] * run
    outline = _counter(np.array([left, right, right + out, left + out]))
    return Block(f"{scene.path}/background", "background on the floor", outline)


def routes(scene: Scene, light: Light) -> tuple[Found, ...]:
    """Ways for a light's lead from every socket that could feed it, the cheapest first; none when room, light or
    sockets have no place, or no way but through a door is left."""
    device = device_of(scene, light)
    if scene.walls is None or device is None:
        return ()
    return _from(scene, light, device)


def _from(scene: Scene, light: Light, device: Vector) -> "tuple[Found, ...]":
    """The same to a place on the floor (2,)."""
    parts = (*_read(scene), light.place, light.stand, light.modifier or light.head, scene.holder)
    key = f"{light.path} {device[0]:.6f} {device[1]:.6f}"
    return _ROUTES.get(key, parts, lambda: _routes(scene, light, device))


def _read(scene: Scene) -> tuple[object, ...]:
    """What decides where leads may lie."""
    plan = scene.plan
    own = (scene.room, plan.doors, plan.mark, plan.camera, plan.aside, plan.background, scene.backdrop, scene.shot)
    return (*own, *scene.parts_beside)


def candidates(scene: Scene, light: Light) -> list[Socket]:
    """Sockets that may feed a light: the one said, else those of its circuit, else all."""
    sockets = scene.room.sockets
    chosen = by_id(sockets, light.place.socket)
    if chosen is not None:
        return [chosen]
    same = [s for s in sockets if s.circuit is not None and s.circuit == light.place.circuit]
    return same or list(sockets)


def _routes(scene: Scene, light: Light, device: Vector) -> tuple[Found, ...]:
    walls = scene.walls
    assert walls is not None
    known = [(s, socket_place(scene.room, walls, s)) for s in candidates(scene, light)]
    placed = [(s, at) for s, at in known if at is not None]
    if not placed or not walls.contains(device[None])[0]:
        return ()
    spots = np.array([at for _, at in placed])
    paths = [*walked(scene), *(block for other in scene.beside for block in _ways(other))]
    clear = [block for block in paths if not _holds(block, device)]
    first = _floor(scene, tuple(clear)).route(spots, device)
    second: tuple[Route | None, ...] = ()
    if any(route is None for route in first) or len(clear) < len(paths):
        second = _floor(scene, ()).route(spots, device)
    found = []
    for number, (socket, _) in enumerate(placed):
        route, crosses = first[number], False
        if route is None and second:
            route, crosses = second[number], True
        if route is not None:
            crossing = length_inside(route.points, [block.outline for block in paths])
            found.append(Found(socket, route, crosses or crossing > 0.01, crossing, walls))
    return tuple(sorted(found, key=lambda one: (one.crosses, one.route.cost)))


def _holds(block: Block, spot: Vector) -> bool:
    a, along = block.outline, np.roll(block.outline, -1, axis=0) - block.outline
    away = spot - a
    return bool((along[:, 0] * away[:, 1] - along[:, 1] * away[:, 0] > 0).all())


def _floor(scene: Scene, extra: tuple[Block, ...]) -> Floor:
    """A floor with what bars leads, kept while the room (and what makes the ways people walk) stays the same."""
    walls = scene.walls
    assert walls is not None
    parts = _read(scene) if extra else (scene.room, scene.plan.aside, scene.plan.doors)

    def build() -> Floor:
        return Floor(walls, (*fixed_blocks(scene), *extra))

    return _FLOORS.get(" ".join(block.path for block in extra), parts, build)


def need_of(scene: Scene, light: Light, found: Found) -> float:
    """Lead wanted from a socket to a head [m]: down from the socket, the way, up the support, and slack. The light
    may stand a little elsewhere than when the way was found."""
    device = device_of(scene, light)
    way = found.route.length
    if device is not None:
        way = found.route.length_on(found.walls, found.route.leave.socket, device)
    return (value(found.socket.height) or 0.3) + way + rise_of(scene, light) + SLACK


def length_shares(scene: Scene, light: Light, found: Found) -> Iterator[tuple[str, float]]:
    """(label, change of the lead wanted [m]) for each measure of the room moved by its ±: the outline, the
    socket's place, and what the lead turns at. The way keeps its turns."""
    device = device_of(scene, light)
    if device is None:
        return
    route, here = found.route, found.route.length_on(found.walls, found.route.leave.socket, device)
    for label, room in room_twins(scene.room):
        walls = plan_of(room)
        socket = None if walls is None else socket_place(room, walls, found.socket)
        if walls is not None and socket is not None and "walls" not in route.touches:
            yield label, abs(route.length_on(walls, socket, device) - here)
        else:
            yield label, abs(_again(replace(scene, room=room), light, found) - here)
    socket_ = found.socket
    if socket_.height is not None:
        yield f"height of the {socket_.name.lower()}", socket_.height.pm
    if socket_.offset is not None:
        moved = route.length_on(found.walls, route.leave.socket + socket_.offset.pm, device)
        yield f"offset of the {socket_.name.lower()}", abs(moved - here)
    for label, twin in _touched_twins(scene, route):
        yield label, abs(_again(twin, light, found) - here)


def _touched_twins(scene: Scene, route: Route) -> Iterator[tuple[str, Scene]]:
    """The scene with each measure moved of what the way turns at."""
    room = scene.room
    for path in route.touches:
        parts = path.split("/")
        kind = "doors" if parts[0] == "way" else parts[1] if parts[0] == "room" else ""
        things = getattr(room, kind) if kind in ("boxes", "doors", "zones") else ()
        thing = by_id(things, parts[1] if parts[0] == "way" else parts[2]) if things else None
        if thing is None:
            continue
        for name in ("x", "y", "length", "width", "offset", "clearance"):
            figure = getattr(thing, name, None)
            if isinstance(figure, Figure) and figure.pm > 0:
                changed = thing.changed(**{name: figure.moved()})
                others = tuple(changed if t.id == thing.id else t for t in things)
                yield f"{name} of the {thing.name.lower()}", replace(scene, room=room.changed(**{kind: others}))


def _again(scene: Scene, light: Light, found: Found) -> float:
    """Length of the way from the same socket, found anew [m]."""
    same = next((one for one in routes(scene, light) if one.socket.id == found.socket.id), found)
    return same.route.length
