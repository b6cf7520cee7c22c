"""A shot's camera, lenses and their support: what serves, and what was dropped and why."""

from evrant.core.judge.rules.set.coverage import uncovered
from evrant.core.search.kit.filling import Filling, is_a
from evrant.core.search.kit.market import Good
from evrant.core.space.footprint import Plan
from evrant.core.space.framing import subject_distance
from evrant.core.space.wanted import OVERHEAD, stands_still
from evrant.core.studio.gear import Camera, Lens, Stand
from evrant.core.studio.room import value

TELEPHONE_LENS, TELEPHONE_SENSOR = 0.011, 0.0121
"""Lenses shorter than this go with sensors narrower than that [m]: neither is taken off."""


def fill_camera(filling: Filling) -> None:
    """The camera, its lenses and, where it stands still, its support."""
    bodies = list(filling.goods(Camera))
    owned = [good for good in bodies if good.owned]
    if owned:
        for good in bodies:
            filling.drop(good, f"you have the {owned[0].item.called}; light comes before a newer body")
        bodies = owned
    filling.slot("body", "the camera", [good.key for good in bodies])
    lenses = [good for good in filling.goods(Lens) if _lens_serves(filling, good)]
    filling.slot("lens", "the lens", [good.key for good in lenses])
    for lens in lenses:
        for body in bodies:
            why = _frames(filling, is_a(body, Camera), is_a(lens, Lens))
            if why:
                filling.never(why, ("body", body.key), ("lens", lens.key))
                filling.drop(lens, why)
    if stands_still(filling.shot):
        use = "copy arm" if filling.shot.angle >= OVERHEAD else "tripod"
        stands = [good for good in filling.goods(Stand) if is_a(good, Stand).use == use]
        filling.slot("tripod", "the camera's support", filling.owned_first(stands))


def _lens_serves(filling: Filling, good: Good) -> bool:
    lens, stop = is_a(good, Lens), filling.shot.aperture
    if lens.focal is None:
        return False
    if stop is not None and lens.widest is not None and lens.widest.value > stop.value * 1.001:
        filling.drop(good, f"it opens to f/{lens.widest.value:g} only")
        return False
    if stop is not None and lens.narrowest is not None and lens.narrowest.value < stop.value * 0.999:
        fixed = lens.widest is not None and lens.widest.value == lens.narrowest.value
        filling.drop(good, f"it {'is fixed at' if fixed else 'closes to'} f/{lens.narrowest.value:g}")
        return False
    return True


def _frames(filling: Filling, body: Camera, lens: Lens) -> str:
    """Why a lens cannot take the shot with a body in this room, or nothing."""
    assert lens.focal is not None
    if body.sensor_width is None or body.sensor_height is None:
        return "the camera's sensor is not measured"
    small_lens, small_body = lens.focal.value < TELEPHONE_LENS, body.sensor_width.value < TELEPHONE_SENSOR
    if small_lens != small_body or (uncovered(body, lens, filling.shot.kept) or 0.0) > 0:
        return f"it is no lens for the {body.called}"
    wide, high = body.sensor_width.value * filling.shot.kept, body.sensor_height.value * filling.shot.kept
    across, up = (high, wide) if filling.shot.orientation == "portrait" else (wide, high)

    def far(focal: float) -> float:
        high, wide = filling.asked.height.value, filling.asked.width
        return max(subject_distance(focal, up, high), subject_distance(focal, across, wide))

    short, long = lens.focal.value, value(lens.focal_long) or lens.focal.value
    if lens.nearest and far(long) * 1.05 + long * 2 < lens.nearest.value and filling.shot.angle < OVERHEAD:
        return "it does not focus near enough"
    need, room = far(short), _longest(filling)
    if room is not None and need > room:
        back, longest = filling.tell.length(need), filling.tell.length(room)
        return f"the camera would have to step back {back}; the longest line in the room is {longest}"
    return ""


def _longest(filling: Filling) -> float | None:
    if filling.walls is None:
        return None
    if filling.shot.angle >= OVERHEAD:
        return value(filling.studio.room.height)
    return _longest_line(filling.walls) + max((value(d.beyond) or 0.0 for d in filling.studio.room.doors), default=0.0)


def _longest_line(walls: Plan) -> float:
    """Longest straight line between two corners [m]."""
    corners = [walls.wall(i)[0] for i in range(walls.count)]
    return max(float(((a - b) ** 2).sum() ** 0.5) for a in corners for b in corners)
