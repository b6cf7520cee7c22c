"""What goes where from one set to the next, on a small plan that is never turned."""

from collections.abc import Callable, Iterable

import numpy as np

from evrant.core.space.changeover import Changeover, Step
from evrant.core.space.footprint import Plan
from evrant.core.space.solids import Points, Vector
from evrant.drawing.svg import element, path_of, shape, text, title

WIDTH, HEIGHT, PAD = 380.0, 280.0, 24.0
RADIUS, ARROW = 4.5, 7.0


def moves_drawing(walls: Plan, change: Changeover) -> str:
    """Walls; what stays as faint dots, what moves as arrows from ring to dot, what comes and goes as dot and ring;
    numbers are those of the steps."""
    numbers = {id(step): number for number, step in enumerate(change.work, start=1)}
    shown = [step for step in change.steps if step.here is not None or step.there is not None]
    places = [spot for step in shown for spot in (step.here, step.there) if spot is not None]
    every = np.vstack([walls.corners, *places])
    low, span = every.min(axis=0), np.ptp(every, axis=0)
    scale = min((WIDTH - 2 * PAD) / float(span[0]), (HEIGHT - 2 * PAD) / float(span[1]))
    deep = float(span[1]) * scale

    def place(spots: Points) -> Points:
        return np.asarray((spots - low) * (scale, -scale) + (PAD, PAD + deep))

    corner = place(walls.corners[:1])[0]
    parts = [title("What moves from this set to the next"), shape(place(walls.corners), "wall")]
    parts.append(text(float(corner[0]) - 12, float(corner[1]) + 6, "A", "corner", text_anchor="middle"))
    taken: list[Vector] = []
    for step in shown:
        drawn = _drawn(step, place, numbers.get(id(step)), taken)
        parts.append(element("g", *drawn, class_=f"move {step.what.replace(' ', '-')}"))
    size = f"0 0 {WIDTH:.0f} {2 * PAD + deep:.0f}"
    return element("svg", *parts, viewBox=size, class_="moves", role="img")


def _drawn(step: Step, place: Callable[[Points], Points], number: int | None, taken: list[Vector]) -> Iterable[str]:
    yield title(f"{step.thing}: {step.words}")
    here, there = (None if spot is None else place(spot[None])[0] for spot in (step.here, step.there))
    if here is not None and there is not None and step.what != "stays":
        yield _arrow(here, there)
    if here is not None and step.what != "stays":
        yield element("circle", cx=float(here[0]), cy=float(here[1]), r=RADIUS, class_="left")
    if there is not None:
        yield element("circle", cx=float(there[0]), cy=float(there[1]), r=RADIUS, class_="there")
    spot = there if there is not None else here
    if number is not None and spot is not None:
        x, y = _free(spot, there - here if here is not None and there is not None else np.zeros(2), taken)
        yield text(x, y, str(number), "number", text_anchor="middle")


def _arrow(here: Vector, there: Vector) -> str:
    way = there - here
    long = float(np.linalg.norm(way))
    if long < 2 * RADIUS:
        return ""
    way = way / long
    start, tip = here + way * RADIUS, there - way * RADIUS
    side = np.array([-way[1], way[0]]) * ARROW / 2
    head = np.array([tip - way * ARROW + side, tip, tip - way * ARROW - side]).tolist()
    return element(
        "path", d=path_of([start.tolist(), tip.tolist()], closed=False) + path_of(head, closed=False), class_="way"
    )


def _free(spot: Vector, way: Vector, taken: list[Vector]) -> tuple[float, float]:
    """Where a number stands beside its dot, off the arrow that comes to it and clear of those before it."""
    ways = [np.array(one) for one in ((0, -9), (12, 4), (-12, 4), (0, 18), (13, -9), (-13, -9), (13, 18), (-13, 18))]
    ways.sort(key=lambda one: -float((one - (0, 4)) @ way))
    free = [spot + one for one in ways if all(np.abs(spot + one - other).max() > 12 for other in taken)]
    best = free[0] if free else spot + ways[0]
    taken.append(best)
    return float(best[0]), float(best[1])
