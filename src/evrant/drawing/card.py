"""A shot as a small picture: who or what is in the frame, how much of it, and the light's side, before any room."""

from collections.abc import Callable

import numpy as np

from evrant.core.place.patterns import PATTERNS
from evrant.core.space.footprint import Plan, plan_of
from evrant.core.space.posed import SIDE, posed
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Points, hull
from evrant.core.studio.room import Door, Room, Slope, Window
from evrant.core.studio.shots import Shot
from evrant.drawing.picture import Mapping, subject_groups
from evrant.drawing.svg import element, line, number, shape


def shot_card(shot: Shot, width: float, height: float) -> str:
    """The picture fitted into a rectangle; nothing of it where the shot says too little."""
    scene = posed(shot)
    view = scene.view
    inner = ""
    wide, tall = width, height
    if view is not None:
        ratio = view.across / view.upward
        tall = min(height, width / ratio)
        wide = tall * ratio
        inner = posed_bodies(Mapping(view, wide, tall), scene) + _light(shot, wide, tall)
    return element(
        "svg",
        element("rect", width=wide, height=tall, class_="card-wall"),
        element("svg", inner, x=0, y=0, width=wide, height=tall),
        element("rect", width=wide, height=tall, class_="card-edge"),
        xmlns="http://www.w3.org/2000/svg",
        viewBox=f"-1 -1 {number(wide + 2)} {number(tall + 2)}",
        class_="shot-card",
        aria_hidden="true",
        focusable="false",
    )


def posed_bodies(to: Mapping, scene: Scene) -> str:
    """Subjects of a posed shot on what they stand or lie on."""
    bodies = "".join(markup for _, markup in sorted(subject_groups(to, scene), key=lambda one: -one[0]))
    return _ground(to, scene, to.wide, to.tall) + bodies


def _ground(to: Mapping, scene: Scene, wide: float, tall: float) -> str:
    """The table's top where something stands on one; the floor where it is seen."""
    tops = [subject.base.value for subject in scene.shot.subjects if subject.base is not None]
    top = min(tops, default=0.0)
    if scene.overhead:
        return element("rect", width=wide, height=tall, class_="card-floor")
    half = 0.45 if tops else SIDE / 2 - 0.3
    middle = SIDE / 2
    sheet = np.array(
        [[middle + x, middle + y, top] for x, y in ((-half, -half), (half, -half), (half, half), (-half, half))]
    )
    points = to.in_front(sheet)
    return "" if points is None else shape(hull(points), "card-floor")


def room_card(room: Room, width: float, height: float) -> str:
    """A room's outline with what stands in it, its window and its door."""
    plan = plan_of(room)
    inner = ""
    if plan is not None:
        low, span = plan.corners.min(axis=0), np.ptp(plan.corners, axis=0)
        scale = float(min((width - 8) / span[0], (height - 8) / span[1]))
        off = np.array([(width - span[0] * scale) / 2, (height + span[1] * scale) / 2])

        def flat(points: Points) -> Points:
            return np.asarray((points - low) * np.array([scale, -scale]) + off)

        inner = shape(flat(plan.corners), "card-room")
        for slope in room.slopes:
            inner += _strip(plan, room, slope, flat)
        for box in room.boxes:
            if box.x and box.y and box.length and box.width:
                x, y, long, wide = (figure.value for figure in (box.x, box.y, box.length, box.width))
                inner += shape(
                    flat(np.array([[x, y], [x + long, y], [x + long, y + wide], [x, y + wide]])), "card-thing"
                )
        for opening, class_ in ((room.windows, "card-window"), (room.doors, "card-door")):
            for one in opening:
                inner += _opening(plan, room, one, flat, class_)
    return element(
        "svg",
        inner,
        xmlns="http://www.w3.org/2000/svg",
        viewBox=f"0 0 {number(width)} {number(height)}",
        class_="room-card",
        aria_hidden="true",
        focusable="false",
    )


Flat = Callable[[Points], Points]


def _around(x: float, y: float, long: float, wide: float) -> Points:
    """Corners of a rectangle."""
    return np.array([[x, y], [x + long, y], [x + long, y + wide], [x, y + wide]])


def _wall(plan: Plan, room: Room, key: str | None) -> int | None:
    names = [wall.id for wall in room.edges(plan.count)]
    return names.index(key) if key in names else None


def _opening(plan: Plan, room: Room, one: Door | Window, flat: Flat, class_: str) -> str:
    index = _wall(plan, room, one.wall)
    if index is None or one.offset is None or one.width is None:
        return ""
    start, end = plan.wall(index)
    along = (end - start) / np.linalg.norm(end - start)
    first = start + along * one.offset.value
    a, b = flat(np.array([first, first + along * one.width.value]))
    return line(a, b, class_)


def _strip(plan: Plan, room: Room, slope: Slope, flat: Flat) -> str:
    """Where the ceiling is lower than elsewhere."""
    index = _wall(plan, room, slope.wall)
    if index is None or slope.run is None:
        return ""
    start, end = plan.wall(index)
    into = plan.inward(index) * slope.run.value
    return shape(flat(np.array([start, end, end + into, start + into])), "card-slope")


def _light(shot: Shot, wide: float, tall: float) -> str:
    """A ray from where the key comes, as a wedge in the corner."""
    beams = PATTERNS[shot.pattern].beams if shot.pattern else ()
    key = next((beam for beam in beams if beam.role == "key"), None)
    if key is None:
        return ""
    left = key.round > 0
    x = 0.0 if left else wide
    across = (1 if left else -1) * tall * 0.16
    points = np.array([[x, 0.0], [x + across * 1.6, 0.0], [x, tall * 0.26]])
    return shape(points, "card-light")
