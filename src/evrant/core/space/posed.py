"""A shot before any room: its subjects on a mark in the middle of a large hall, the camera where it frames them."""

import math
from dataclasses import dataclass, replace
from typing import get_args

from evrant.core.base.tables.steps import F_NUMBERS
from evrant.core.space import framing
from evrant.core.space.scene import Scene
from evrant.core.space.wanted import wanted
from evrant.core.studio.brief import Brief
from evrant.core.studio.gear import Camera, Item, Lens
from evrant.core.studio.room import Room
from evrant.core.studio.sets import SetPlan
from evrant.core.studio.shots import Crop, Shot
from evrant.core.studio.studio import Studio

SIDE, HIGH = 8.0, 4.0
BODY = Camera.model_validate(
    {"kind": "camera", "id": "body", "name": "Body", "sensor_width": 0.036, "sensor_height": 0.024}
)
LENS = Lens.model_validate({"kind": "lens", "id": "lens", "name": "Lens", "focal": 0.07})
ROOM = Room.model_validate({"footprint": {"kind": "rectangle", "length": SIDE, "width": SIDE}, "height": HIGH})


def posed(
    shot: Shot, body: Camera = BODY, lens: Lens = LENS, focal: float | None = None, brief: Brief | None = None
) -> Scene:
    """The shot in the middle of a large hall, the camera where it frames it; a zoom set to `focal` [m]."""
    middle = SIDE / 2
    plan = {"id": "set", "shot": shot.id, "mark": {"x": middle, "y": middle, "facing": 90.0}}
    gear: dict[str, Item] = {body.id: body, lens.id: lens}
    camera_data: dict[str, object] = {"body": body.id, "lens": lens.id, "x": middle, "y": middle + 2.0}
    if focal is not None:
        camera_data["focal"] = focal
    scene = Scene(ROOM, brief or Brief(), shot, SetPlan.model_validate(plan | {"camera": camera_data}), gear)
    far = scene.framing_distance or 2.0
    level = 0.0 if scene.overhead else far * math.cos(math.radians(shot.angle))
    camera = scene.plan.camera.changed(y=middle + level)
    return replace(scene, plan=scene.plan.changed(camera=camera))


def posed_in(studio: Studio, shot: Shot) -> Scene:
    """The shot taken by the camera and lens of its first set, or by those at hand, or by usual ones."""
    items = {item.id: item for item in studio.gear}
    plan = next((one for one in studio.sets if one.shot == shot.id and one.camera.body and one.camera.lens), None)
    body = items.get(plan.camera.body or "") if plan else None
    lens = items.get(plan.camera.lens or "") if plan else None
    focal = plan.camera.focal.value if plan and plan.camera.focal else None
    if not isinstance(body, Camera) or not body.sensor_width or not body.sensor_height:
        body = next((one for one in items.values() if isinstance(one, Camera) and one.sensor_width), BODY)
    if not isinstance(lens, Lens) or not lens.focal:
        lens, focal = next((one for one in items.values() if isinstance(one, Lens) and one.focal), LENS), None
    return posed(shot, body, lens, focal, studio.brief)


@dataclass(frozen=True)
class Sharp:
    """What is sharp at an aperture: so far before the plane in focus and behind it [m], inf to the horizon."""

    f_number: float
    before: float
    behind: float


def sharp_at(scene: Scene) -> tuple[Sharp, ...]:
    """What is sharp at each usual aperture the lens has, and at the shot's own, focused on the subject; empty where
    camera, lens or subject say too little. By the thin lens, with the blur that passes as sharp on the sensor."""
    focal, distance = scene.focal, scene.distance
    if focal is None or scene.sensor is None or not distance or distance < focal.value * 1.05:
        return ()
    blur = framing.blur_circle(scene.sensor[0].value, scene.sensor[1].value)
    widest = scene.lens.widest.value if scene.lens and scene.lens.widest else 0.0
    narrowest = scene.lens.narrowest.value if scene.lens and scene.lens.narrowest else F_NUMBERS[-1]
    own = scene.shot.aperture
    marks = {f for f in F_NUMBERS if widest - 1e-6 <= f <= narrowest + 1e-6} or {widest}
    if own is not None:
        marks.add(own.value)
    found = []
    for f_number in sorted(marks):
        near, far = framing.depth_of_field(focal.value, f_number, distance, blur)
        found.append(Sharp(f_number, distance - near, far - distance))
    return tuple(found)


def crop_heights(shot: Shot) -> dict[Crop, float]:
    """Frame height each crop asks for [m]; those a subject has no part for are as the whole of it, and left out."""
    found: dict[Crop, float] = {}
    for crop in get_args(Crop):
        asked = wanted(shot.changed(crop=crop, frame_height=None))
        if asked is not None and all(abs(asked.height.value - other) > 1e-6 for other in found.values()):
            found[crop] = asked.height.value
    if shot.subjects and shot.lead.kind != "person" and found:
        found = {"whole subject": next(iter(found.values()))}
    return found
