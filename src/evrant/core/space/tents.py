"""Tents and cones: closed diffusing bodies round a product, with a hole for the lens.

Local axes before a tent is turned: x across, y to the back, z up; the front looks along −y, as a card's does.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np

from evrant.core.space.solids import Points, Vector, turned
from evrant.core.studio.gear import Tent
from evrant.core.studio.room import value
from evrant.core.studio.shots import Shot

Wall = Literal["front", "back", "side", "floor"]
CONE_SIDES = 8
LYING = 45.0
"""A cone tilted further than this lies round the lens instead of standing over the product [degrees]."""


@dataclass(frozen=True, eq=False)
class Panel:
    """A flat wall of a tent: its outline, fronts inward."""

    wall: Wall
    outline: Points


def panels(item: Tent, spot: Vector, turn: float, base: float, tilt: float) -> tuple[Panel, ...]:
    """The walls of a tent in the room (plan spot, degrees, m); none while a size is missing.

    A box stands with its hole to the front; a cone's hole is at its top, tilted forward by `tilt`.
    """
    if item.width is None or item.height is None:
        return ()
    if item.form == "cone":
        local = _cone(item.width.value, item.height.value, value(item.opening) or 0.1, tilt)
    else:
        deep = value(item.depth) or item.width.value
        local = _box(item.width.value, deep, item.height.value, value(item.opening) or 0.1, value(item.opening_at))
    move = np.array([*spot, base])
    return tuple(Panel(p.wall, turned(p.outline, turn, (0, 0)) + move) for p in local)


def _box(width: float, depth: float, height: float, hole: float, high: float | None) -> list[Panel]:
    x, y = width / 2, depth / 2
    low = FLOOR
    back = _ring((x, y, low), (x, y, height), (-x, y, height), (-x, y, low))
    left = _ring((-x, -y, low), (-x, y, low), (-x, y, height), (-x, -y, height))
    right = _ring((x, -y, low), (x, -y, height), (x, y, height), (x, y, low))
    top = _ring((-x, -y, height), (-x, y, height), (x, y, height), (x, -y, height))
    floor = _ring((-x, -y, low), (x, -y, low), (x, y, low), (-x, y, low))
    half, middle = min(hole, width - 0.02, height - 0.02) / 2, height / 2 if high is None else high
    middle = min(max(middle, half + low + 0.005), height - half - 0.005)
    bottom_edge, top_edge = middle - half, middle + half
    front = [
        _upright(-x, x, low, bottom_edge, -y),
        _upright(-x, x, top_edge, height, -y),
        _upright(-x, -half, bottom_edge, top_edge, -y),
        _upright(half, x, bottom_edge, top_edge, -y),
    ]
    sides = [Panel("side", ring) for ring in (left, right, top)]
    return [*(Panel("front", ring) for ring in front), Panel("back", back), *sides, Panel("floor", floor)]


FLOOR = 0.003
"""A tent's floor lies this far over what it stands on [m]."""


def _upright(x0: float, x1: float, z0: float, z1: float, y: float) -> Points:
    """A piece of the front wall; its own front looks into the tent, along +y."""
    return _ring((x0, y, z0), (x0, y, z1), (x1, y, z1), (x1, y, z0))


def _cone(width: float, height: float, hole: float, tilt: float) -> list[Panel]:
    """Eight walls from the wide rim to the hole."""
    # Corners a little out, so that the walls are as wide as the cone on average.
    angles = (np.arange(CONE_SIDES) + 0.5) * (2 * math.pi / CONE_SIDES)
    out = 1 / math.sqrt(math.sin(2 * math.pi / CONE_SIDES) / (2 * math.pi / CONE_SIDES))
    ways = np.column_stack([np.cos(angles), np.sin(angles)]) * out
    wide, narrow = width / 2, min(hole, width - 0.02) / 2
    lean = math.radians(tilt)
    c, s = math.cos(lean), math.sin(lean)
    found = []
    for a, b in zip(ways, np.roll(ways, -1, axis=0), strict=True):
        ring = np.array([[*(b * wide), FLOOR], [*(a * wide), FLOOR], [*(a * narrow), height], [*(b * narrow), height]])
        y, z = ring[:, 1], ring[:, 2]
        ring = np.column_stack([ring[:, 0], y * c - z * s, y * s + z * c])
        found.append(ring)
    lift = -min(float(ring[:, 2].min()) for ring in found) + FLOOR
    return [Panel("front", ring + (0.0, 0.0, lift)) for ring in found]


def _ring(*corners: tuple[float, float, float]) -> Points:
    return np.array(corners)


def outgrown(shot: Shot, tent: Tent, length: Callable[[float], str]) -> str:
    """Why a tent does not serve a shot, in words; nothing when it does. `length` says one in the studio's units."""
    if tent.form != "box":
        return "a cone is looked into from above"
    if tent.width is None or tent.height is None:
        return "its size is not known"
    across = max(math.hypot(value(s.width) or 0.0, value(s.depth) or value(s.width) or 0.0) for s in shot.subjects)
    tall = max((value(s.height) or 0.0) for s in shot.subjects)
    inside = min(tent.width.value, value(tent.depth) or tent.width.value)
    if across >= inside or tall >= tent.height.value:
        return f"what is in the picture is {length(max(across, tall))} large; it holds {length(inside)}"
    return ""
