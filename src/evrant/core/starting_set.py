"""A first arrangement to start from: plain rules, no search. The ledger judges it like any other."""

import math
from typing import TypeVar

import numpy as np

from evrant.core.footprint import Plan, first_wall, plan_of
from evrant.core.framing import subject_distance
from evrant.core.rules.support import stand_height_wanted
from evrant.core.solids import Vector
from evrant.core.studio.gear import Backdrop, Camera, Flash, Holder, Item, Lamp, Lens, Modifier, Stand
from evrant.core.studio.sets import BackgroundPlace, CameraPlace, LightPlace, Mark, SetPlan
from evrant.core.studio.shots import Shot
from evrant.core.studio.studio import Studio
from evrant.core.wanted import wanted

K = TypeVar("K")
BACKGROUND_OFF_WALL = 0.45
GAP = 1.0
KEY_ROUND, KEY_UP = 40.0, 40.0
"""Key light round and up from the nose line [degrees]; 45/45 is common practice, a little less fits lower rooms."""


def starting_set(studio: Studio, shot: Shot, set_id: str) -> SetPlan:
    """Mark, camera, background and one key light along the room's longest free line through its middle."""
    name = f"{shot.name}, first arrangement"
    walls = plan_of(studio.room)
    asked = wanted(shot)
    body, lens = _first(studio, Camera), _lens(studio)
    plan = SetPlan(
        id=set_id,
        name=name[:80],
        shot=shot.id,
        camera=CameraPlace(body=body.id if body else None, lens=lens.id if lens else None),
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
    if walls is None:
        return plan
    back, axis, room = _longest_line(walls)
    gap = min(shot.background_gap.value if shot.background_gap else GAP, 0.4 * room)
    line = back + axis * min(BACKGROUND_OFF_WALL, 0.15 * room)
    mark = line + axis * gap
    distance = 0.5 * room
    if asked and body and lens and lens.focal and body.sensor_width and body.sensor_height:
        upright = shot.orientation == "portrait"
        side = body.sensor_width if upright else body.sensor_height
        distance = subject_distance(lens.focal.value, side.value, asked.height.value) * 1.02 + 0.02
    camera = mark + axis * min(distance, max(room - float((mark - back) @ axis) - 0.1, 0.3))
    out = min(max(1.5 * asked.height.value, 0.7), 1.7) if asked else 1.2
    height = min(asked.top + 0.4 if asked else 2.0, studio.room.height.value - 0.15 if studio.room.height else 2.2)
    return plan.changed(
        mark=Mark(x=_r(mark[0]), y=_r(mark[1])),
        camera=plan.camera.changed(x=_r(camera[0]), y=_r(camera[1])),
        background=plan.background.changed(x=_r(line[0]), y=_r(line[1]), height=_r(height)),
        lights=(_key(studio, plan.lights[0], mark, axis, asked.face if asked else 1.5, out),),
    )


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


def _lens(studio: Studio) -> Lens | None:
    """The owned lens nearest a normal one, else the first planned."""
    lenses = [item for item in studio.gear if isinstance(item, Lens) and item.focal]
    owned = [lens for lens in lenses if lens.status == "owned"]
    return min(owned or lenses, key=lambda lens: abs((lens.focal.value if lens.focal else 1) - 0.05), default=None)


def _light_stand(studio: Studio) -> Stand | None:
    stands = [item for item in studio.gear if isinstance(item, Stand) and item.use == "light stand"]
    return max(stands, key=lambda s: s.max_height.value if s.max_height else 0.0, default=None)


def _first(studio: Studio, kind: type[K]) -> K | None:
    found = [item for item in studio.gear if isinstance(item, kind) and item.status != "considered"]
    return found[0] if found else None


def _id(item: Item | None) -> str | None:
    return item.id if item else None


def _r(value: float) -> float:
    return round(float(value), 2)
