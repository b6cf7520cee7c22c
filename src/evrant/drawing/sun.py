"""The plan of a room with the sun's patch on its floor at an hour of a month."""

import math
from calendar import month_name

import numpy as np
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from evrant.core.light.hours import north_of, pane_of, patch
from evrant.core.light.sky import Site, sun_over
from evrant.core.light.surroundings import window_face
from evrant.core.space.footprint import Plan
from evrant.core.space.scene import Scene
from evrant.drawing.svg import element, number, text, title

WIDE, HIGH, MARGIN = 420.0, 170.0, 8.0


def sun_plan(scene: Scene, site: Site, month: int, hour: int) -> str:
    """Walls, windows and mark, with the patch of each window the sun strikes; words where there is none."""
    walls = scene.walls
    if walls is None:
        return ""
    low, high = walls.corners.min(axis=0), walls.corners.max(axis=0)
    span = high - low
    scale = min((WIDE - 2 * MARGIN) / span[0], (HIGH - 2 * MARGIN) / span[1])

    def at(x: float, y: float) -> str:
        return f"{number(MARGIN + (x - low[0]) * scale)} {number(MARGIN + (high[1] - y) * scale)}"

    def ring(points: np.ndarray[tuple[int, ...], np.dtype[np.float64]]) -> str:
        return "M" + "L".join(at(float(x), float(y)) for x, y in points) + "Z"

    sun = sun_over(site)
    altitude, azimuth = float(sun.altitude[month, hour]), float(sun.azimuth[month, hour])
    parts = [element("path", d=ring(walls.corners), class_="sun-floor")]
    lit = 0
    for piece in patches(scene, walls, altitude, azimuth):
        lit += 1
        parts.append(element("path", d=ring(piece), class_="sun-patch"))
    for window in scene.room.windows:
        face = window_face(walls, scene.room, window)
        if face is not None:
            (x1, y1), (x2, y2) = face[0, :2], face[1, :2]
            parts.append(element("path", d=f"M{at(x1, y1)}L{at(x2, y2)}", class_="sun-window"))
    if scene.mark is not None:
        x, y = at(float(scene.mark[0]), float(scene.mark[1])).split()
        parts.append(element("circle", title("The mark"), cx=x, cy=y, r="4", class_="sun-mark"))
    words = f"The sun stands {altitude:.0f}° up" if altitude > 0 else "The sun is down"
    end = "." if lit or altitude <= 0 else ", and comes in by no window."
    words = f"{month_name[month + 1]}, {hour} h: {words[:1].lower()}{words[1:]}{end}"
    parts.append(text(MARGIN, HIGH + 6, words, "note"))
    return element(
        "svg",
        *parts,
        viewBox=f"0 0 {number(WIDE)} {number(HIGH + 12)}",
        xmlns="http://www.w3.org/2000/svg",
        class_="sun-plan",
        role="img",
        aria_label=f"Plan with the sun's patch: {words}",
    )


def patches(
    scene: Scene, walls: Plan, altitude: float, azimuth: float
) -> list[np.ndarray[tuple[int, ...], np.dtype[np.float64]]]:
    """Polygons (n, 2) of sun on the floor inside the walls [m]."""
    north = north_of(scene, walls)
    if north is None or altitude <= 0:
        return []
    room = Polygon(walls.corners)
    turn = math.degrees(math.atan2(float(north[1]), float(north[0])))
    found = []
    for window in scene.room.windows:
        pane = pane_of(window)
        if pane is None or altitude <= pane.skyline or window.blackout == "in place":
            continue
        cast = patch(scene, window, altitude, azimuth, turn)
        if cast is not None and room.is_valid:
            found += _rings(room.intersection(Polygon(cast).buffer(0)))
    return found


def _rings(shape: BaseGeometry) -> list[np.ndarray[tuple[int, ...], np.dtype[np.float64]]]:
    """Outlines of every polygon of a shape."""
    pieces = getattr(shape, "geoms", [shape])
    return [np.asarray(one.exterior.coords)[:-1] for one in pieces if isinstance(one, Polygon) and not one.is_empty]
