"""How light leaves a face: tables of candela per lumen over the angle from forward, 0 to 180° in half-degree rows.

A uniform cosine face has no table. Tables of several columns go round by the side, 0 to 360°.
"""

import math
from functools import cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

Table = NDArray[np.float64]
ROWS = 361
ANGLES = np.linspace(0.0, math.pi, ROWS)


def flux_of(table: Table) -> float:
    """∫ I dω of a table (rows, columns), the trapezium rule on a fine grid [lm per unit]."""
    fine = np.linspace(0.0, math.pi, 1441)
    mean = table.mean(axis=1)
    values = np.interp(fine, np.linspace(0.0, math.pi, len(mean)), mean)
    return float(2 * math.pi * np.trapezoid(values * np.sin(fine), fine))


def normalised(table: Table) -> Table:
    """The table per lumen."""
    return np.ascontiguousarray(table / flux_of(table))


@cache
def everywhere(behind: float = 1.0) -> Table:
    """Alike in all directions; `behind` scales what leaves within 25° of backward (the holder's shadow)."""
    values = np.where(math.radians(155) > ANGLES, 1.0, behind)
    return normalised(values[:, None])


@cache
def beam(width: float) -> Table:
    """cosⁿ with half the axis's intensity at half the beam width [degrees]; nothing behind."""
    half = math.radians(min(max(width, 3.0), 175.0) / 2)
    power = math.log(0.5) / math.log(math.cos(half))
    values = np.where(math.pi / 2 > ANGLES, np.maximum(np.cos(ANGLES), 0.0) ** power, 0.0)
    return normalised(values[:, None])


@cache
def gridded(cut: float) -> Table:
    """A cosine face behind an egg-crate grid: each cell passes 1 − tan θ / tan(cut) of the light at θ."""
    edge = math.tan(math.radians(min(max(cut, 3.0), 88.0)))
    ahead = math.pi / 2 - 1e-9 > ANGLES
    passed = np.where(ahead, np.maximum(1 - np.tan(np.where(ahead, ANGLES, 0.0)) / edge, 0.0), 0.0)
    return normalised((np.maximum(np.cos(ANGLES), 0.0) * passed)[:, None])


def grid_share(cut: float) -> float:
    """Share of a cosine face's light that an egg-crate grid lets through."""
    fine = np.linspace(0.0, math.pi / 2 - 1e-6, 2000)
    edge = math.tan(math.radians(min(max(cut, 3.0), 88.0)))
    passed = np.maximum(1 - np.tan(fine) / edge, 0.0)
    weight = np.cos(fine) * np.sin(fine)
    return float(np.trapezoid(passed * weight, fine) / np.trapezoid(weight, fine))


@cache
def both_ways(ahead: float, behind: float) -> Table:
    """Cosine lobes ahead and behind with those shares of the light."""
    cosine = np.cos(ANGLES)
    values = np.where(cosine >= 0, ahead * cosine, -behind * cosine)
    return normalised(values[:, None])


def axis_of(table: Table | None) -> float:
    """Intensity on the axis per lumen [cd/lm]."""
    return 1 / math.pi if table is None else float(table[0].mean())


def measured(
    vertical: tuple[float, ...], horizontal: tuple[float, ...], candela: tuple[tuple[float, ...], ...]
) -> Table:
    """A type C table on our rows and 24 columns, per lumen; missing sides by the file's symmetry."""
    sides = np.asarray(horizontal)
    rows = np.asarray(candela)
    degrees = np.degrees(ANGLES)
    known = np.array([np.interp(degrees, vertical, row, right=0.0, left=row[0]) for row in rows])
    if vertical[0] > 0.5:
        known[:, degrees < vertical[0] - 1e-9] = 0.0
    if len(sides) == 1:
        return normalised(known.T)
    wanted = np.arange(24) * 15.0
    folded = _folded(wanted, float(sides[0]), float(sides[-1]))
    columns = np.array([[np.interp(a, sides, known[:, k]) for k in range(ROWS)] for a in folded])
    return normalised(columns.T)


def _folded(angles: NDArray[Any], first: float, last: float) -> Table:
    """Sides brought into the file's range by its symmetry: quadrant, half (0–180 or 90–270) or whole."""
    a = angles % 360
    if last - first > 181:
        return a
    if last <= 90.5 and first < 1:
        a = np.where(a > 180, 360 - a, a)
        return np.where(a > 90, 180 - a, a)
    if first < 1:
        return np.where(a > 180, 360 - a, a)
    return np.where((a < 90) | (a > 270), (180 - a) % 360, a)
