"""Over the plan and the sections: legs, the plumb of the whole mass, booms' arcs, bags, leads and sockets' loads."""

import math

import numpy as np

from evrant.core.base.tables.countries import MAINS
from evrant.core.mechanics.supports import Missing, Standing, all_standing, friction_of
from evrant.core.space.booms import boom_out, pivot_of
from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Vector
from evrant.core.studio.room import Socket, value
from evrant.core.studio.words import Say
from evrant.core.wiring.floor import Found, routes, socket_place
from evrant.core.wiring.loads import scene_load
from evrant.core.wiring.routes import Floor
from evrant.core.wiring.tether import tether_of
from evrant.drawing.layout import Frame
from evrant.drawing.svg import element, line, number, path_of, shape, text, title

ARC = 70.0
"""A boom's arc is drawn this far to either side of where it points [degrees]."""
BAR = 26.0


def rig_on_plan(frame: Frame, scene: Scene) -> str:
    """Legs with the one under the load, plumbs, bags, booms' arcs, leads and sockets, seen from above."""
    parts = [_route(frame, scene, light) for light in scene.lights]
    parts += [_sockets(frame, scene), _tether(frame, scene)]
    parts += [_arc(frame, light) for light in scene.lights]
    parts += [
        _legs(frame, made) + _bags(frame, scene, made) + _plumb_on_plan(frame, scene, made)
        for _, made in all_standing(scene)
        if isinstance(made, Standing)
    ]
    return element("g", *parts, class_="rig", aria_hidden="true")


def _tether(frame: Frame, scene: Scene) -> str:
    """The camera's cable to the desk, straight."""
    laid = tether_of(scene)
    if laid is None:
        return ""
    ends = frame.place(np.column_stack([np.array([laid.start, laid.end]), np.zeros(2)]))
    return element("path", title(laid.cable.name), d=path_of(ends, closed=False), class_="cable")


def rig_on_section(frame: Frame, scene: Scene) -> str:
    """Plumb lines and bags in a section."""
    parts = []
    for _, made in all_standing(scene):
        if isinstance(made, Missing):
            continue
        centre = made.stability(friction_of(scene)).centre
        high, low = frame.place(np.array([centre, [centre[0], centre[1], 0.0]]))
        dot = element("circle", cx=float(high[0]), cy=float(high[1]), r=3.4, class_="mass")
        parts += [line(high, low, "plumb"), dot]
        parts.append(_bags(frame, scene, made))
    return element("g", *parts, class_="rig", aria_hidden="true")


def _flat(frame: Frame, points: np.ndarray) -> np.ndarray:
    return frame.place(np.column_stack([points, np.zeros(len(points))]))


def _legs(frame: Frame, made: Standing) -> str:
    """Lines to the feet; the leg nearest to the load is the heavy one."""
    if made.path.endswith("/background"):
        return ""
    feet = _flat(frame, made.polygon)
    middle = _flat(frame, made.spot[None])[0]
    legs = made.polygon - made.spot
    heavy = int((legs @ made.offset).argmax()) if np.hypot(*made.offset) > 1e-6 else -1
    shapes = [
        line(middle, foot, "leg heavy" if number_ == heavy and made.turned else "leg")
        for number_, foot in enumerate(feet)
    ]
    return "".join([shape(feet, "footing"), *shapes])


def _plumb_on_plan(frame: Frame, scene: Scene, made: Standing) -> str:
    found = made.stability(friction_of(scene))
    x, y = frame.one(float(found.centre[0]), float(found.centre[1]), 0.0)
    cross = f"M{number(x - 4)} {number(y)}H{number(x + 4)}M{number(x)} {number(y - 4)}V{number(y + 4)}"
    words = f"Middle of {Say.of(scene.brief).mass(float(found.mass))}; tips at {float(found.angle):.0f}°"
    return element(
        "g", title(words), element("circle", cx=x, cy=y, r=3.4, class_="mass"), element("path", d=cross, class_="plumb")
    )


def _bags(frame: Frame, scene: Scene, made: Standing) -> str:
    parts = []
    for one in made.carried:
        if one.what in ("bag", "counterweight"):
            x, y = frame.one(*one.at)
            kind = "bag" if one.what == "bag" else "counterweight"
            parts.append(
                element(
                    "g",
                    title(f"{one.name}: {Say.of(scene.brief).mass(one.mass)}"),
                    element("rect", x=x - 5, y=y - 4, width=10, height=8, rx=2.5, class_=kind),
                )
            )
    return "".join(parts)


def _arc(frame: Frame, light: Light) -> str:
    """Where the end of a boom can swing."""
    out, pivot, mount = boom_out(light), pivot_of(light), light.mount
    if out is None or pivot is None or mount is None:
        return ""
    way = mount[:2] - pivot[:2]
    base = math.atan2(way[1], way[0])
    turns = base + np.radians(np.linspace(-ARC, ARC, 25))
    ring = pivot[:2] + np.column_stack([np.cos(turns), np.sin(turns)]) * out[1]
    return element("path", d=path_of(_flat(frame, ring), closed=False), class_="boom-arc")


def best_route(scene: Scene, light: Light) -> Found | None:
    """The way a light's lead takes; None for a light without one."""
    head = light.head
    if head is None or head.supply != "mains":
        return None
    ways = routes(scene, light)
    return ways[0] if ways else None


def _route(frame: Frame, scene: Scene, light: Light) -> str:
    found = best_route(scene, light)
    if found is None:
        return ""
    say = Say.of(scene.brief)
    points = _flat(frame, found.route.points)
    kind = "cable crossing" if found.crossing > 0.01 and not light.place.covered else "cable"
    middle = _label_spot(points)
    words = f"{light.name} {say.length(found.route.length)}"
    return element(
        "g",
        title(f"Lead of the {light.name}: {say.length(found.route.length)} from {found.socket.name}"),
        element("path", d=path_of(points, closed=False), class_=kind),
        text(float(middle[0]), float(middle[1]) - 4, words, "note cable-label", text_anchor="middle"),
        class_="thing",
        data_path=light.path,
    )


def _label_spot(points: np.ndarray) -> np.ndarray:
    """The middle of the longest piece of a way."""
    long = np.linalg.norm(np.diff(points, axis=0), axis=1)
    at = int(long.argmax())
    return np.asarray((points[at] + points[at + 1]) / 2)


def _sockets(frame: Frame, scene: Scene) -> str:
    """A small bar at each socket: what its circuit carries in this set, of what it may."""
    walls = scene.walls
    if walls is None:
        return ""
    parts = []
    for socket in scene.room.sockets:
        around = socket_place(scene.room, walls, socket)
        if around is None:
            continue
        parts.append(_bar(frame, scene, socket, Floor(walls, ()), around))
    return "".join(parts)


def _bar(frame: Frame, scene: Scene, socket: Socket, floor: Floor, around: float) -> str:
    circuit = next((one for one in scene.room.circuits if one.id == socket.circuit), None)
    mains = MAINS[scene.brief.country]
    limit = value(circuit.breaker) if circuit is not None else None
    if circuit is None or not limit:
        return ""
    inward = floor.walls.inward(floor.wall_of(around))
    spot = floor.at(around) + inward * 0.17
    x, y = frame.one(float(spot[0]), float(spot[1]), 0.0)
    share = scene_load(scene, circuit.id) / mains.volts / (limit * mains.continuous_share)
    full = min(share, 1.0) * BAR
    kind = "load over" if share > 1 else "load"
    return element(
        "g",
        title(f"{socket.name}, {circuit.name}: {share:.0%} of what it may carry in this set"),
        element("rect", x=x - BAR / 2, y=y - 3, width=BAR, height=5, class_="load-frame"),
        element("rect", x=x - BAR / 2, y=y - 3, width=max(full, 0.5), height=5, class_=kind),
    )


def side_of(made: Standing, light: Light | None) -> Vector:
    """The plan direction in which a stand is best seen from the side: along its boom, else along its load."""
    out = boom_out(light) if light is not None else None
    if out is not None:
        return np.asarray(-out[0][:2])
    if np.hypot(*made.offset) > 1e-6:
        return np.asarray(made.offset / np.hypot(*made.offset))
    return np.array([1.0, 0.0])
