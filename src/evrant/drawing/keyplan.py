"""A small plan that is never turned, with the lens axis and north; and the cut lines on the large one."""

import numpy as np

from evrant.core.light.hours import north_of
from evrant.core.space.scene import Scene
from evrant.drawing.layout import Frame, Layout
from evrant.drawing.svg import element, number, path_of, shape, text, title

SIZE = 74.0


def key_plan(scene: Scene, layout: Layout) -> str:
    """The untouched plan in the free corner right of the picture, or nothing where there is no room."""
    walls = scene.walls
    x, y, width, height = layout.picture
    taken = height * _ratio(scene)
    if walls is None or width - taken < SIZE + 34:
        return ""
    span = np.ptp(walls.corners, axis=0)
    scale = SIZE / float(span.max())
    low = walls.corners.min(axis=0)
    flat = (walls.corners - low) * (scale, -scale) + (0.0, float(span[1]) * scale)
    parts = [title("The room as measured, not turned"), shape(flat, "wall")]
    letter = (walls.corners[0] - low) * (scale, -scale) + (0.0, float(span[1]) * scale)
    parts.append(text(float(letter[0]) - 9, float(letter[1]) + 4, "A", "corner", text_anchor="middle"))
    if scene.mark is not None and scene.camera_spot is not None:
        ends = (np.array([scene.camera_spot, scene.mark]) - low) * (scale, -scale) + (0.0, float(span[1]) * scale)
        parts.append(element("path", d=path_of(ends, closed=False), class_="axis"))
        parts.append(element("circle", cx=float(ends[0, 0]), cy=float(ends[0, 1]), r=3.0, class_="column-dot"))
    north = north_of(scene, walls)
    if north is not None:
        parts.append(_north(float(span[0]) * scale / 2, float(span[1]) * scale + 26, north[0], north[1]))
    place = f"translate({number(x + width - SIZE)} {number(y + 2)})"
    return element("g", *parts, class_="key-plan", transform=place)


def north_mark(scene: Scene, frame: Frame) -> str:
    """North on the turned plan, in its upper right corner outside the wall; nothing when it is not known."""
    north = north_of(scene, scene.walls) if scene.walls is not None else None
    if north is None:
        return ""
    across = float(np.array([*north, 0.0]) @ frame.across)
    up = float(np.array([*north, 0.0]) @ frame.up)
    return _north(frame.width - 14, -11, across, up)


def _north(x: float, y: float, across: float, up: float) -> str:
    long = 9.0
    tip, tail = (x + across * long, y - up * long), (x - across * long, y + up * long)
    side = (up * 3.2, across * 3.2)
    head = (x + across * (long - 6), y - up * (long - 6))
    arrow = [(head[0] + side[0], head[1] + side[1]), tip, (head[0] - side[0], head[1] - side[1])]
    return element(
        "g",
        title("North"),
        element("path", d=path_of([tail, tip], closed=False) + path_of(arrow, closed=False), class_="north"),
        text(x + across * 17, y - up * 17 + 4, "N", "north-letter", text_anchor="middle"),
    )


def _ratio(scene: Scene) -> float:
    return scene.view.across / scene.view.upward if scene.view else 0.7


def cut_lines(frame: Frame, scene: Scene) -> str:
    """Where the two sections are cut and which way each looks: arrow heads outside the walls."""
    if scene.mark is None:
        return ""
    x, y = frame.one(float(scene.mark[0]), float(scene.mark[1]), 0.0)
    parts = []
    for left in (-9.0, frame.width + 23.0):
        out = 6.0 if left > 0 else -6.0
        parts.append(element("path", d=path_of([(left, y), (left + out, y)], closed=False), class_="cut-line"))
        parts.append(shape([(left - 4, y), (left + 4, y), (left, y - 7)], "cut"))
    return element("g", title("Cut of the section along the lens"), *parts)
