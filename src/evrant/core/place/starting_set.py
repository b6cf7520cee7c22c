"""A first arrangement to start from: plain rules, no search. The ledger judges it like any other."""

import math
from dataclasses import replace
from typing import TypeVar

import numpy as np

from evrant.core.base.quantity import Figure
from evrant.core.place.hanging import hung
from evrant.core.place.patterns import stand_height_wanted
from evrant.core.place.rigging import rigged
from evrant.core.space.footprint import Plan, first_wall, plan_of
from evrant.core.space.framing import focal_for, subject_distance
from evrant.core.space.scene import Scene, gear_of
from evrant.core.space.solids import Vector
from evrant.core.space.tripods import held_by, released
from evrant.core.space.volumes import OPERATOR_DEPTH
from evrant.core.space.wanted import OVERHEAD, Wanted, stands_still, wanted
from evrant.core.studio.gear import Backdrop, Camera, Flash, Holder, Item, Lamp, Lens, Modifier, Stand
from evrant.core.studio.sets import BackgroundPlace, CameraPlace, LightPlace, Mark, SetPlan
from evrant.core.studio.shots import Shot
from evrant.core.studio.studio import Studio

K = TypeVar("K")
BACKGROUND_OFF_WALL = 0.45
GAP = 1.0
LONGEST_USUAL = 0.09
"""Longest focal length to begin with on 36 × 24 mm [m]; longer ones flatten a small room's work for nothing."""
KEY_ROUND, KEY_UP = 40.0, 40.0
"""Key light round and up from the nose line [degrees]; 45/45 is common practice, a little less fits lower rooms."""


def starting_set(studio: Studio, shot: Shot, set_id: str) -> SetPlan:
    """A first arrangement with the weights and leads it needs."""
    plan = _placed(studio, shot, set_id)
    scene = Scene(studio.room, studio.brief, shot, plan, gear_of(studio))
    if stands_still(shot):
        hand = [item for item in studio.gear if item.at_hand]
        camera = plan.camera.changed(support=held_by(scene, hand), operator=released(shot))
        scene = replace(scene, plan=plan.changed(camera=camera))
    return rigged(replace(scene, plan=hung(scene)))


def _placed(studio: Studio, shot: Shot, set_id: str) -> SetPlan:
    """Mark, camera, background and one key light along the room's longest free line through its middle."""
    body = _first(studio, Camera)
    plan = SetPlan(
        id=set_id,
        name=f"{shot.name}, first arrangement"[:80],
        shot=shot.id,
        camera=CameraPlace(body=_id(body)),
        background=BackgroundPlace(backdrop=_id(_first(studio, Backdrop)), holder=_id(_first(studio, Holder))),
        lights=(
            LightPlace(
                id="key",
                role="key",
                head=_id(_first(studio, Flash) or _first(studio, Lamp)),
                modifier=_id(_first(studio, Modifier)),
                support=_id(_light_stand(studio)),
            ),
        ),
    )
    walls, asked = plan_of(studio.room), wanted(shot)
    if walls is None:
        return plan.changed(camera=plan.camera.changed(lens=_id(_first(studio, Lens))))
    back, axis, room = _longest_line(walls)
    gap = min((shot.background_gap.value if shot.background_gap else GAP) + 0.05, 0.4 * room)
    line = back + axis * min(BACKGROUND_OFF_WALL, 0.15 * room)
    mark = line + axis * gap
    free = max(room - float((mark - back) @ axis) - OPERATOR_DEPTH - 0.1, 0.3)
    lens, focal, distance = _lens(studio, shot, body, asked, free)
    if shot.angle >= OVERHEAD:
        return _from_above(plan, lens, focal, mark, axis, distance, asked)
    spot = mark + axis * distance
    height = _background_height(studio, asked, distance, gap)
    out = min(max(1.5 * asked.height.value, 0.7), 1.7) if asked else 1.2
    return plan.changed(
        mark=Mark(x=_r(mark[0]), y=_r(mark[1])),
        camera=CameraPlace(body=_id(body), lens=_id(lens), focal=focal, x=_r(spot[0]), y=_r(spot[1])),
        background=plan.background.changed(x=_r(line[0]), y=_r(line[1]), height=_r(height)),
        lights=(_key(studio, plan.lights[0], mark, axis, asked.face if asked else 1.5, out),),
    )


def _from_above(
    plan: SetPlan,
    lens: Lens | None,
    focal: Figure | None,
    mark: Vector,
    axis: Vector,
    distance: float,
    asked: Wanted | None,
) -> SetPlan:
    """The camera over the mark, its picture's lower edge towards the open room; no background behind."""
    middle = asked.middle if asked else 0.0
    facing = round(math.degrees(math.atan2(axis[1], axis[0])), 1)
    camera = plan.camera.changed(
        lens=_id(lens),
        focal=focal,
        x=_r(mark[0]),
        y=_r(mark[1]),
        height=_r(middle + distance),
    )
    out = mark + np.array([-axis[1], axis[0]]) * 0.9
    light = plan.lights[0].changed(x=_r(out[0]), y=_r(out[1]), height=_r(middle + 0.7))
    return plan.changed(
        mark=Mark(x=_r(mark[0]), y=_r(mark[1]), facing=facing),
        camera=camera,
        background=BackgroundPlace(),
        lights=(light,),
    )


def _background_height(studio: Studio, asked: Wanted | None, distance: float, gap: float) -> float:
    """A little over what the frame sees there, within the holder and under the ceiling."""
    height = 2.0
    if asked:
        height = asked.middle + asked.height.value / 2 * (distance + gap) / max(distance, 0.1) + 0.08
    holder = _first(studio, Holder)
    if holder and holder.max_height:
        height = min(height, holder.max_height.value)
    return min(height, studio.room.height.value - 0.12) if studio.room.height else height


def _lens(
    studio: Studio, shot: Shot, body: Camera | None, asked: Wanted | None, free: float
) -> tuple[Lens | None, Figure | None, float]:
    """The longest lens (and setting of a zoom) that frames the shot within `free` metres, owned before
    planned; the shortest when none does. With it the distance to stand at [m]."""
    lenses = [item for item in studio.gear if isinstance(item, Lens) and item.focal and item.at_hand]
    lenses = [lens for lens in lenses if lens.status == "owned"] or lenses
    if not lenses or asked is None or body is None or body.sensor_width is None or body.sensor_height is None:
        return (lenses[0] if lenses else None), None, free
    long, short = body.sensor_width.value, body.sensor_height.value
    across, up = (short, long) if shot.orientation == "portrait" else (long, short)
    most = min(focal_for(free / 1.05, up, asked.height.value), focal_for(free / 1.05, across, asked.width))
    most = min(most, LONGEST_USUAL * long / 0.036)

    def setting(lens: Lens) -> float:
        least = lens.focal.value if lens.focal else 0.0
        return min(max(most, least), lens.focal_long.value) if lens.focal_long else least

    fitting = [lens for lens in lenses if setting(lens) <= most * 1.0001]
    lens = max(fitting, key=setting) if fitting else min(lenses, key=setting)
    focal = setting(lens)
    need = max(subject_distance(focal, up, asked.height.value), subject_distance(focal, across, asked.width))
    used = Figure(round(focal, 4), 0.02 * focal, "maker") if lens.focal_long else None
    return lens, used, need * 1.04 + 0.02


def _key(studio: Studio, light: LightPlace, mark: Vector, axis: Vector, face: float, out: float) -> LightPlace:
    """The light `out` metres from the face, round and up from the nose line."""
    angle = math.atan2(axis[1], axis[0]) + math.radians(KEY_ROUND)
    flat = out * math.cos(math.radians(KEY_UP))
    spot = mark + flat * np.array([math.cos(angle), math.sin(angle)])
    height = stand_height_wanted(face, out, KEY_UP)
    if studio.room.height:
        height = min(height, studio.room.height.value - 0.45)
    circuits = studio.room.circuits
    return light.changed(
        x=_r(spot[0]), y=_r(spot[1]), height=_r(max(height, 0.3)), circuit=circuits[0].id if circuits else None
    )


def _longest_line(walls: Plan) -> tuple[Vector, Vector, float]:
    """From the middle of which wall one looks farthest straight across: start, direction, length [m]."""
    best: tuple[Vector, Vector, float] | None = None
    for i in range(walls.count):
        start, end = walls.wall(i)
        if np.linalg.norm(end - start) < 1.0:
            continue
        middle, way = (start + end) / 2, walls.inward(i)
        hit = first_wall(walls, middle + way * 0.01, way)
        if hit and (best is None or hit[0] > best[2] + 0.05):
            best = middle, way, hit[0]
    if best is None:
        return walls.corners[0], walls.inward(0), 1.0
    return best


def _light_stand(studio: Studio) -> Stand | None:
    stands = [item for item in studio.gear if isinstance(item, Stand) and item.use == "light stand"]
    return max(stands, key=lambda s: s.max_height.value if s.max_height else 0.0, default=None)


def _first(studio: Studio, kind: type[K]) -> K | None:
    found = [item for item in studio.gear if isinstance(item, kind) and item.at_hand]
    return found[0] if found else None


def _id(item: Item | None) -> str | None:
    return item.id if item else None


def _r(value: float) -> float:
    return round(float(value), 2)
