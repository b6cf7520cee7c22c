"""When a window carries a shot: stops to the exposure wanted by hour and month, and when the sun comes in."""

import math
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from evrant.core.base.memo import Memo
from evrant.core.base.quantity import Figure
from evrant.core.base.tables.towns import TOWNS
from evrant.core.light.beams import Beam
from evrant.core.light.emission import Missing
from evrant.core.light.lit import Lit, lit
from evrant.core.light.sky import SKIES, Pane, Site, Sky, beam_on, on_glass, sun_over
from evrant.core.light.surroundings import window_face
from evrant.core.space.footprint import Plan
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Vector
from evrant.core.studio.brief import Brief
from evrant.core.studio.room import Room, Window
from evrant.core.studio.shots import Shot

POINTS = ("north", "north-east", "east", "south-east", "south", "south-west", "west", "north-west")
TRIAL = 10_000.0
"""Daylight by which a window's share of the picture is found [lx]; all of it goes in proportion."""
SUNNY = 1000.0
"""Sun on the glass from which its patch is seen [lx]; project choice."""
STEADY, DARKER = 0.5, 0.5
"""Stops that light may change by within an hour, and that a picture may be too dark; common practice, no source."""
UNPLACED = Missing("Where the room is has not been said: the sun's way hangs on it.", "brief")
Floats = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Hours:
    """For each sky, month and hour of standard time (12, 24): `stops` over the exposure wanted, −∞ by night; for all
    skies `sun`: whether its beam strikes a window under a clear sky."""

    site: Site
    stops: dict[Sky, Floats]
    sun: NDArray[np.bool_]

    def works(self, sky: Sky) -> NDArray[np.bool_]:
        """Bright enough, and steady to the next hour or from the last; a shorter time takes what is too bright."""
        stops = self.stops[sky]
        with np.errstate(invalid="ignore"):
            later = np.abs(np.roll(stops, -1, axis=1) - stops)
            sooner = np.abs(np.roll(stops, 1, axis=1) - stops)
        steady = np.fmin(later, sooner) <= STEADY
        return np.asarray((stops >= -DARKER) & steady)

    def longest(self, sky: Sky, month: int) -> float:
        """Hours on end in a month (0 to 11) at which the shot works."""
        best = run = 0
        for good in self.works(sky)[month]:
            run = run + 1 if good else 0
            best = max(best, run)
        return float(max(best - 1, 0))


def site_of(brief: Brief) -> Site | None:
    """Where the room is, by degrees or by town."""
    if brief.latitude is not None and brief.longitude is not None:
        return Site(brief.latitude, brief.longitude, float(round(brief.longitude / 15)))
    return Site(*TOWNS[brief.town]) if brief.town is not None else None


def pane_of(window: Window) -> Pane | None:
    """A window's glass, where it is known which way it looks."""
    if window.faces is None:
        return None
    return Pane(45.0 * POINTS.index(window.faces), window.skyline or 0.0)


def hours(scene: Scene) -> Hours | Missing:
    """The calendar of a set by its windows."""
    site = site_of(scene.brief)
    if site is None:
        return UNPLACED
    panes = {}
    for window in open_windows(scene):
        pane = pane_of(window)
        if pane is None:
            return Missing(f"Which way the {window.name} faces is missing.", f"room/windows/{window.id}")
        panes[f"room/windows/{window.id}"] = pane
    if not panes:
        return Missing("No window lets daylight in.", "room")
    state = lit(_by_trial(scene))
    if isinstance(state, Missing):
        return state
    if state.needed is None or scene.shot.shutter is None:
        return Missing("The shot has no aperture, ISO or shutter time.", f"shots/{scene.shot.id}")
    blind = next((m for m in state.missing if m.where.startswith("room/")), None)
    if blind is not None:
        return blind
    return _calendar(site, panes, state, state.needed)


def _calendar(site: Site, panes: dict[str, Pane], state: Lit, needed: float) -> Hours:
    share = {b.path: float(v) / TRIAL for b, v in zip(state.beams, state.metered, strict=True) if b.path in panes}
    rest = sum(float(v) for b, v in zip(state.beams, state.metered, strict=True) if _stays(b, panes))
    stops = {}
    for sky in SKIES:
        got = rest + sum((share.get(path, 0.0) * on_glass(sky, site, pane) for path, pane in panes.items()))
        with np.errstate(divide="ignore"):
            stops[sky] = np.asarray(np.log2(np.asarray(got) / needed))
    sun = np.any([beam_on(site, pane) > SUNNY for pane in panes.values()], axis=0)
    return Hours(site, stops, np.asarray(sun))


def _stays(beam: Beam, panes: dict[str, Pane]) -> bool:
    """Light that is there whatever the day gives: lamps of the room, and lights whose power is typed."""
    return beam.path not in panes and (beam.light is None or beam.light.place.power is not None)


def open_windows(scene: Scene) -> list[Window]:
    """Windows that let light in."""
    walls = scene.walls
    if walls is None:
        return []
    return [w for w in scene.room.windows if w.blackout != "in place" and window_face(walls, scene.room, w) is not None]


_TRIALS: Memo[tuple[Room, Shot]] = Memo(1_000_000, lambda found: 4_000)


def _by_trial(scene: Scene) -> Scene:
    """The same set with one and the same daylight on every window; room and shot stay the same objects, so that what
    does not hang on the lights is not built again for every one of their moves."""

    def made() -> tuple[Room, Shot]:
        windows = tuple(w.changed(daylight=Figure(TRIAL, 0.0, "typical")) for w in scene.room.windows)
        by_day = "daylight" in scene.shot.around
        shot = scene.shot if by_day else scene.shot.changed(around="daylight")
        return scene.room.changed(windows=windows), shot

    room, shot = _TRIALS.get("", (scene.room, scene.shot), made)
    return replace(scene, room=room, shot=shot)


def north_of(scene: Scene, walls: Plan) -> Vector | None:
    """Plan direction of north, from the first window whose outlook is known; None when none is."""
    names = [wall.id for wall in scene.room.edges(walls.count)]
    for window in scene.room.windows:
        if window.faces is not None and window.wall in names:
            outward = -walls.inward(names.index(window.wall))
            # The window looks along its bearing, clockwise from north; turn back by it, seen from above.
            angle = math.atan2(outward[1], outward[0]) + math.radians(45.0 * POINTS.index(window.faces))
            return np.array([math.cos(angle), math.sin(angle)])
    return None


def toward_sun(altitude: float, azimuth: float, north: Vector) -> Vector:
    """Unit vector to the sun in the room [degrees]; `north` is the plan direction of north."""
    turn = math.atan2(north[1], north[0]) - math.radians(azimuth)
    high = math.radians(altitude)
    return np.array([math.cos(turn) * math.cos(high), math.sin(turn) * math.cos(high), math.sin(high)])


def sun_on_subject(scene: Scene, site: Site) -> NDArray[np.bool_]:
    """(12, 24) whether the sun's beam, past the skyline and through bare glass, falls on the subject's face."""
    found, walls, face = np.zeros((12, 24), dtype=bool), scene.walls, scene.face
    north = north_of(scene, walls) if walls is not None else None
    if walls is None or face is None or north is None:
        return found
    sun = sun_over(site)
    for window in open_windows(scene):
        pane, glass = pane_of(window), window_face(walls, scene.room, window)
        if pane is None or glass is None or window.cover is not None:
            continue
        inward = np.cross(glass[1] - glass[0], glass[2] - glass[1])
        for month, hour in np.argwhere(beam_on(site, pane) > SUNNY):
            way = toward_sun(float(sun.altitude[month, hour]), float(sun.azimuth[month, hour]), north)
            closing = float(way @ inward)
            if closing >= -1e-9:
                continue
            hit = face + way * (float((glass[0] - face) @ inward) / closing)
            edges = np.roll(glass, -1, axis=0) - glass
            found[month, hour] |= bool((np.cross(edges, hit - glass) @ inward > 0).all())
    return found


def patch(scene: Scene, window: Window, altitude: float, azimuth: float, north: float) -> Floats | None:
    """Where the sun's patch of a window falls on the floor, as a polygon (4, 2) [m], walls left out; None where the
    sun does not strike the glass. `north` is the room's direction that points north [degrees, counter-clockwise]."""
    face = window_face(scene.walls, scene.room, window) if scene.walls is not None else None
    if face is None or altitude <= 0:
        return None
    turn = math.radians(north - azimuth)
    toward = np.array([math.cos(turn), math.sin(turn)])
    inward = np.cross(face[1] - face[0], face[2] - face[1])[:2]
    if float(toward @ inward) >= 0:
        return None
    reach = face[:, 2] / math.tan(math.radians(altitude))
    return np.asarray(face[:, :2] - toward * reach[:, None])
