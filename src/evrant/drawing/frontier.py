"""Budget against shots: steps that say from which sum on how much is possible."""

from collections.abc import Callable, Sequence
from typing import Any

from evrant.drawing.svg import element, number, path_of, text, title

WIDTH, HEIGHT = 640.0, 250.0
LEFT, RIGHT, TOP, BOTTOM = 44.0, 24.0, 22.0, 44.0


def frontier_chart(steps: Sequence[dict[str, Any]], budget: float, currency: str, shots: int) -> str:
    """Steps of the frontier (cost and shots made), the budget as a mark."""
    if not steps:
        return ""
    most = max(budget * 1.08, float(steps[-1]["cost"]) * 1.12, 1.0)

    def x(money: float) -> float:
        return LEFT + (WIDTH - LEFT - RIGHT) * min(money / most, 1.0)

    def y(count: float) -> float:
        return HEIGHT - BOTTOM - (HEIGHT - TOP - BOTTOM) * count / max(shots, 1)

    points = [(x(0), y(0))]
    for step in steps:
        points += [(x(step["cost"]), points[-1][1]), (x(step["cost"]), y(len(step["shots"])))]
    points.append((x(most), points[-1][1]))
    parts = [_grid(x, y, most, shots)]
    parts.append(element("path", d=path_of(points, closed=False), class_="steps-line"))
    parts.append(
        element("path", d=path_of([(x(budget), TOP), (x(budget), HEIGHT - BOTTOM)], closed=False), class_="budget-line")
    )
    anchor = "end" if x(budget) > WIDTH * 0.7 else "start"
    parts.append(text(x(budget) + (-6 if anchor == "end" else 6), TOP + 8, "budget", "budget-word", text_anchor=anchor))
    for step in steps:
        here = (x(step["cost"]), y(len(step["shots"])))
        words = f"{step['cost']:.0f} {currency}: {', '.join(step['shots'])}"
        parts.append(element("circle", title(words), cx=here[0], cy=here[1], r=5.0, class_="steps-dot"))
    return element(
        "svg",
        title("Money against shots"),
        *parts,
        text(WIDTH - RIGHT, HEIGHT - 6, currency, "axis-word", text_anchor="end"),
        text(LEFT - 30, TOP - 8, "shots", "axis-word"),
        xmlns="http://www.w3.org/2000/svg",
        viewBox=f"0 0 {number(WIDTH)} {number(HEIGHT)}",
        class_="frontier",
        role="img",
    )


def _grid(x: Callable[[float], float], y: Callable[[float], float], most: float, shots: int) -> str:
    parts = []
    step = max(1, round(shots / 6))
    for count in range(0, shots + 1, step):
        high = y(count)
        parts.append(
            element("path", d=path_of([(LEFT, high), (WIDTH - RIGHT, high)], closed=False), class_="grid-line")
        )
        parts.append(text(LEFT - 8, high + 4, str(count), "axis-word", text_anchor="end"))
    for money in _ticks(most):
        wide = x(money)
        parts.append(
            element(
                "path",
                d=path_of([(wide, HEIGHT - BOTTOM), (wide, HEIGHT - BOTTOM + 5)], closed=False),
                class_="grid-line",
            )
        )
        parts.append(text(wide, HEIGHT - BOTTOM + 19, f"{money:.0f}", "axis-word", text_anchor="middle"))
    return "".join(parts)


def _ticks(most: float) -> list[float]:
    """Round sums along the axis, four to nine of them."""
    for step in (10, 20, 50, 100, 200, 500, 1000, 2000, 5000, 10000, 50000, 100000):
        if most / step <= 9:
            return [float(step * i) for i in range(int(most / step) + 1)]
    return [0.0, most]
