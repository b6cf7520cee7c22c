"""The two sections: along the lens, and facing the background."""

from functools import partial

import numpy as np

from evrant.core.space.scene import Scene
from evrant.core.space.solids import Points
from evrant.core.space.strokes import room_profile
from evrant.core.space.things import Thing
from evrant.drawing.bodies import (
    background_sheet,
    drawn,
    group,
    light_shapes,
    outline,
    prop_outline,
    silhouette,
    stand_shapes,
    subject_shapes,
    sweep_section,
)
from evrant.drawing.layout import Frame
from evrant.drawing.plan import OVERHEAD, _hatch
from evrant.drawing.rails import rail_lines
from evrant.drawing.scale import ticks_below, ticks_left
from evrant.drawing.svg import element, line, shape, title


def section_along(frame: Frame, scene: Scene) -> str:
    """Seen from the side, lens axis level, camera on the right."""
    things = rail_lines(frame, scene) + _in_order(frame, scene)
    return "".join([_room(frame, scene), sweep_section(frame, scene), things, _rays(frame, scene)])


def section_facing(frame: Frame, scene: Scene) -> str:
    """Seen from the camera towards the background."""
    sheet = background_sheet(scene)
    paper = shape(frame.place(sheet), "paper-face") if sheet is not None else ""
    return "".join([_room(frame, scene, left=False), paper, rail_lines(frame, scene), _in_order(frame, scene)])


def _room(frame: Frame, scene: Scene, *, left: bool = True) -> str:
    box = [(0.0, 0.0), (frame.width, 0.0), (frame.width, frame.height), (0.0, frame.height)]
    tapes = ticks_below(frame.width / frame.scale, frame.scale, frame.height + 4, scene.brief.units)
    if left:
        tapes += ticks_left(frame.height / frame.scale, frame.scale, frame.height, scene.brief.units)
    known = scene.room.height is not None
    profile = room_profile(scene, frame.across)
    if profile is None or not known:
        return shape(box, "floor") + tapes + shape(box, "ghost")
    points = frame.flat(profile)
    beyond = shape(box, "ghost") if float(np.ptp(points[:, 0])) < frame.width - 3 else ""
    return shape(points, "floor") + tapes + beyond + shape(points, "wall")


def _in_order(frame: Frame, scene: Scene) -> str:
    """Things from far to near as this section is seen."""
    toward = np.cross(frame.across, frame.up)
    found = []
    for thing in scene.things:
        shapes = drawn(frame.key, (thing,), partial(_thing, frame, scene, thing))
        if shapes:
            middle = thing.cloud.mean(axis=0)
            hides = _behind_camera if frame.name == "facing" else partial(_before_set, toward, thing)
            if hides(scene, middle):
                shapes = element("g", shapes, class_="behind")
            found.append((float(middle @ toward), shapes))
    return "".join(shapes for _, shapes in sorted(found, key=lambda pair: pair[0]))


def _behind_camera(scene: Scene, middle: Points) -> bool:
    """Whether a thing lies nearer the viewer than the lens, so that it would hide the set."""
    return (
        scene.camera_spot is not None
        and scene.axis is not None
        and float((middle[:2] - scene.camera_spot) @ scene.axis) > 0
    )


def _before_set(toward: Points, thing: Thing, scene: Scene, middle: Points) -> bool:
    """Whether furniture stands on the floor nearer the viewer than the lens axis, so that it would hide the set."""
    if thing.kind != "box" or scene.camera_spot is None or _overhead(thing):
        return False
    return float((middle[:2] - scene.camera_spot) @ toward[:2]) > 0


def _overhead(thing: Thing) -> bool:
    return float(thing.parts[0].solid[:, 2].min()) > OVERHEAD


def _thing(frame: Frame, scene: Scene, thing: Thing) -> str:
    plan = scene.plan
    match thing.kind:
        case "door" | "zone":
            return ""
        case "person":
            return shape(outline(frame, thing.parts[0]), "ghost person")
        case "box":
            return _box(frame, thing)
        case "subject":
            return subject_shapes(frame, scene)
        case "light":
            light = next(one for one in scene.lights if one.path == thing.path)
            return group(
                frame.name,
                thing.path,
                f"{thing.name} light",
                *light_shapes(frame, scene, light, thing),
                grab=thing.path,
                focus=frame.name == "facing",
                x=light.place.x,
                y=light.place.y,
                height=light.place.height,
            )
        case "backdrop":
            path = thing.path
            roll = shape(outline(frame, thing.parts[0]), "solid paper")
            return group(
                frame.name,
                path,
                "background",
                roll,
                grab=path,
                x=plan.background.x,
                y=plan.background.y,
                height=plan.background.height,
            )
        case "holder":
            return element("g", *stand_shapes(frame, thing), class_="thing", data_path=thing.path)
        case "operator":
            return shape(outline(frame, thing.parts[0]), "ghost") if frame.name == "lens" else ""
        case "camera":
            return _camera(frame, scene, thing) if frame.name == "lens" or scene.overhead else ""
        case "prop":
            return element("g", prop_outline(frame, thing), class_="thing", data_path=thing.path)
    return ""


def _camera(frame: Frame, scene: Scene, thing: Thing) -> str:
    place = scene.plan.camera
    height = None if scene.lens_height is None else round(scene.lens_height, 3)
    body = silhouette(frame, [part for part in thing.parts if part.kind == "head"], "solid")
    return group(
        frame.name,
        thing.path,
        "camera",
        *stand_shapes(frame, thing),
        body,
        grab=thing.path,
        x=place.x,
        y=place.y,
        height=height,
    )


def _box(frame: Frame, thing: Thing) -> str:
    points = outline(frame, thing.parts[0])
    overhead = _overhead(thing)
    shapes = [shape(points, "overhead" if overhead else "furniture")]
    if overhead:
        shapes.insert(0, element("path", d=_hatch(points), class_="hatch"))
    return element("g", title(thing.name), *shapes, class_="thing", data_path=thing.path)


def _rays(frame: Frame, scene: Scene) -> str:
    """Upper and lower edge of the picture, from the lens to the background, the floor or the wall."""
    if scene.view is None or scene.eye is None or scene.axis is None:
        return ""
    rays = scene.view.rays()
    parts = []
    for pair in ((0, 1), (2, 3)):
        way = rays[list(pair)].mean(axis=0)
        reach = 6.0
        if scene.line is not None:
            normal = np.array([*scene.line[1], 0.0])
            closing = -float(way @ normal)
            gap = float((scene.eye[:2] - scene.line[0]) @ scene.line[1])
            if closing > 1e-6 and gap > 0:
                reach = gap / closing
        if way[2] < -1e-6:
            reach = min(reach, -float(scene.eye[2]) / float(way[2]))
        ends: Points = frame.place(np.array([scene.eye, scene.eye + way * reach]))
        parts.append(line(ends[0], ends[1], "ray"))
    return "".join(parts)
