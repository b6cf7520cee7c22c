"""The floor with its tape marks: walls, what stands there, each mark numbered with its two distances."""

from collections.abc import Callable

import numpy as np

from evrant.core.carry.marks import Mark, corner_name
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Points, hull
from evrant.core.space.strokes import views
from evrant.core.studio.words import Say
from evrant.drawing.svg import element, line, path_of, text, title, union_path

Place = Callable[[Points], Points]
PAD = 26.0
CROSS = 6.0


def tape_drawing(
    scene: Scene, marks: tuple[Mark, ...], width: float = 620.0, height: float = 470.0, only: str = ""
) -> str:
    """The plan as measured, not turned; `only` shows the distances of one mark alone, the others as faint crosses."""
    walls = scene.walls
    if walls is None:
        return ""
    plan = views(scene)[0]
    low, span = walls.corners.min(axis=0), np.ptp(walls.corners, axis=0)
    scale = min((width - 2 * PAD) / float(span[0]), (height - 2 * PAD) / float(span[1]))
    deep = float(span[1]) * scale

    def place(spots: Points) -> Points:
        return np.asarray((np.asarray(spots) - low) * (scale, -scale) + (PAD, PAD + deep))

    parts = [title("The floor with its tape marks")]
    bodies = []
    for stroke in plan.lines:
        if stroke.layer == "subject" and stroke.closed:
            bodies.append(hull(place(stroke.points)))
        else:
            data = path_of(place(stroke.points).tolist(), closed=stroke.closed)
            parts.append(element("path", d=data, class_=f"stroke {stroke.layer}"))
    if bodies:
        parts.append(element("path", d=union_path(bodies), class_="stroke subject"))
    middle = walls.corners.mean(axis=0)
    for number, corner in enumerate(walls.corners):
        out = corner + (corner - middle) / max(float(np.linalg.norm(corner - middle)), 1e-9) * 14 / scale
        x, y = place(out[None])[0]
        parts.append(text(float(x), float(y) + 5, corner_name(number), "corner", text_anchor="middle"))
    say = Say.of(scene.brief)
    for number, mark in enumerate(marks, 1):
        shown = not only or mark.key == only
        parts.append(_mark(mark, "" if only else str(number), scene, place, say, shown))
    wide = float(span[0]) * scale + 2 * PAD
    size = f"0 0 {wide:.0f} {deep + 2 * PAD:.0f}"
    return element("svg", *parts, viewBox=size, class_="tape", role="img")


def _mark(mark: Mark, number: str, scene: Scene, place: Place, say: Say, shown: bool) -> str:
    walls = scene.walls
    assert walls is not None
    spot = np.array(mark.at)
    x, y = (float(v) for v in place(spot[None])[0])
    parts = [title(f"{number}: {mark.what}" if number else mark.what)]
    if shown:
        for one in (mark.first, mark.second):
            foot = spot - walls.inward(one.index) * one.distance
            a, b = place(np.array([spot, foot]))
            parts.append(line(a, b, "measure"))
            at = (float(a[0] + b[0]) / 2, float(a[1] + b[1]) / 2 + 4)
            parts.append(text(*at, say.length(one.distance), "length", text_anchor="middle"))
    parts.append(line((x - CROSS, y), (x + CROSS, y), "cross"))
    parts.append(line((x, y - CROSS), (x, y + CROSS), "cross"))
    if number:
        parts.append(text(x + 8, y - 6, number, "number"))
    return element("g", *parts, class_="mark-at" if shown else "mark-at faint")
