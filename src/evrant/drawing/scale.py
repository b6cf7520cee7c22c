"""Tape ticks along the walls, in metric or feet and inches."""

from functools import lru_cache

from evrant.core.base.units import FOOT, Units
from evrant.drawing.svg import element, line, text

ROOMS = 256
"""Tapes of so many views are kept."""


@lru_cache(ROOMS)
def ticks_below(length: float, scale: float, y: float, units: Units) -> str:
    """A tape under a view: `length` [m] from its left end."""
    parts = []
    for metres, label, size in _marks(length, units):
        x = metres * scale
        parts.append(line((x, y), (x, y + size), "tick"))
        if label:
            parts.append(text(x, y + 21, label, "tape", text_anchor="middle"))
    return element("g", *parts, class_="tape-line", aria_hidden="true")


@lru_cache(ROOMS)
def ticks_left(length: float, scale: float, bottom: float, units: Units) -> str:
    """A tape to the left of a view, from `bottom` upward."""
    parts = []
    for metres, label, size in _marks(length, units):
        y = bottom - metres * scale
        parts.append(line((-2 - size, y), (-2, y), "tick"))
        if label:
            parts.append(text(-14, y + 4, label, "tape", text_anchor="end"))
    return element("g", *parts, class_="tape-line", aria_hidden="true")


def _marks(length: float, units: Units) -> list[tuple[float, str, float]]:
    """(place [m], label or "", tick length) along a tape."""
    if units == "imperial":
        step, per_label = FOOT / 4, 4
        return [
            (i * step, f"{i // per_label}'" if i % per_label == 0 and i else "", 9.0 if i % per_label == 0 else 4.0)
            for i in range(int(length / step + 1e-6) + 1)
        ]
    return [
        (i / 10, f"{i // 10} m" if i % 10 == 0 and i else "", 9.0 if i % 10 == 0 else 6.0 if i % 5 == 0 else 4.0)
        for i in range(int(length * 10 + 1e-6) + 1)
    ]
