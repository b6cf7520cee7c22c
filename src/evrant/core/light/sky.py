"""Daylight on a window's glass: the sun's place, the sky's luminance, what stands opposite, the sun itself.

References:
[1] ISO 15469:2004 (CIE S 011): relative luminance of fifteen skies, L/Lz = f(χ) φ(Z) / (f(Zs) φ(0)) with
    φ(Z) = 1 + a exp(b / cos Z) and f(χ) = 1 + c (exp(d χ) − exp(d π/2)) + e cos² χ.
[2] DIN 5034-2: horizontal illuminance under an overcast sky, 300 + 21000 sin γ [lx], from memory.
[3] Solar position and the clear sky's irradiance by pvlib (NREL's algorithm; simplified Solis).
[4] Luminous efficacy of a clear sky's light 120 lm/W, of the sun's 105 lm/W: usual figures, from memory.
"""

import math
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

import numpy as np
from numpy.typing import NDArray

Sky = Literal["overcast", "intermediate", "clear"]
SKIES: tuple[Sky, ...] = ("overcast", "intermediate", "clear")
STANDARD: dict[Sky, tuple[float, float, float, float, float]] = {
    "overcast": (4.0, -0.70, 0.0, -1.0, 0.0),
    "intermediate": (0.0, -1.0, 5.0, -2.5, 0.30),
    "clear": (-1.0, -0.32, 10.0, -3.0, 0.45),
}
"""Parameters a to e of the standard's skies 1, 7 and 12 [1]."""
OF_SKY, OF_SUN = 120.0, 105.0
KELVIN: dict[Sky, float] = {"overcast": 6500.0, "intermediate": 8000.0, "clear": 12000.0}
"""Colour of what a window gets of each sky but the sun's own beam [K]: CIE D65's for clouds, blue sky from memory."""
GROUND, OPPOSITE = 0.20, 0.20
"""Reflectance of the ground and of what stands opposite; usual figures of daylight tables, from memory."""
STEP = 3.0
"""Width of the cells the sky is summed by [degrees]."""
Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Site:
    """A place on the earth [degrees, north and east positive] and its standard time [hours ahead of universal]."""

    latitude: float
    longitude: float
    ahead: float


@dataclass(frozen=True)
class Pane:
    """A window's glass: the way it looks [degrees from north by east] and how high what stands opposite rises."""

    azimuth: float
    skyline: float = 0.0


@dataclass(frozen=True, eq=False)
class Sun:
    """The sun over a year: altitude and azimuth from north by east [degrees], irradiance of its beam and of the clear
    sky on level ground [W/m²]; each (12, 24) for the twenty-first of each month and each full hour of standard time."""

    altitude: Floats
    azimuth: Floats
    beam: Floats
    diffuse: Floats


@lru_cache(maxsize=64)
def sun_over(site: Site) -> Sun:
    """The sun at a site [3]."""
    import pandas as pd
    from pvlib.clearsky import simplified_solis
    from pvlib.solarposition import get_solarposition

    stamps = [f"2025-{month:02d}-21 {hour:02d}:00" for month in range(1, 13) for hour in range(24)]
    times = pd.DatetimeIndex(stamps) - pd.Timedelta(hours=site.ahead)
    found = get_solarposition(times.tz_localize("UTC"), site.latitude, site.longitude)
    altitude = found["apparent_elevation"].to_numpy(dtype=float)
    sky = simplified_solis(np.maximum(altitude, 0.0))
    up = altitude > 0
    shaped = (np.where(up, np.asarray(sky[name], float), 0.0).reshape(12, 24) for name in ("dni", "dhi"))
    beam, diffuse = shaped
    return Sun(altitude.reshape(12, 24), found["azimuth"].to_numpy(dtype=float).reshape(12, 24), beam, diffuse)


def level(sky: Sky, altitude: Floats, diffuse: Floats) -> Floats:
    """Illuminance of the sky alone on level ground [lx]."""
    up = altitude > 0
    dull = np.where(up, 300 + 21000 * np.sin(np.radians(np.maximum(altitude, 0.0))), 0.0)
    bright = np.where(up, OF_SKY * diffuse, 0.0)
    return {"overcast": dull, "clear": bright, "intermediate": (dull + bright) / 2}[sky]


def luminance(sky: Sky, zenith: Floats, toward_sun: Floats, sun_zenith: Floats) -> Floats:
    """Luminance over the zenith's of elements at angles from zenith and from the sun [rad] [1]."""
    a, b, c, d, e = STANDARD[sky]
    grade = 1 + a * np.exp(b / np.maximum(np.cos(zenith), 1e-3))
    top = 1 + a * math.exp(b)

    def scatter(angle: Floats) -> Floats:
        return 1 + c * (np.exp(d * angle) - math.exp(d * math.pi / 2)) + e * np.cos(angle) ** 2

    return np.asarray(scatter(toward_sun) * grade / (scatter(sun_zenith) * top))


def share(sky: Sky, pane: Pane, altitude: Floats, azimuth: Floats) -> Floats:
    """Illuminance on a pane over that on level ground, from the sky above the skyline, the ground and what stands
    opposite; of the same shape as the sun's angles [degrees]."""
    heights = np.radians(np.arange(STEP / 2, 90, STEP))
    turns = np.radians(np.arange(STEP / 2, 360, STEP))
    high, round_ = (grid.ravel() for grid in np.meshgrid(heights, turns, indexing="ij"))
    cell = np.cos(high) * math.radians(STEP) ** 2
    way = np.stack([np.cos(high) * np.sin(round_), np.cos(high) * np.cos(round_), np.sin(high)])
    face = math.radians(pane.azimuth)
    ahead = np.maximum(way[0] * math.sin(face) + way[1] * math.cos(face), 0.0)
    open_ = np.where(high > math.radians(pane.skyline), 1.0, 0.0)
    sun_high, sun_round = np.radians(np.maximum(altitude, 0.5)), np.radians(azimuth)
    sun = np.stack([np.cos(sun_high) * np.sin(sun_round), np.cos(sun_high) * np.cos(sun_round), np.sin(sun_high)])
    apart = np.arccos(np.clip(np.tensordot(sun, way, axes=(0, 0)), -1, 1))
    bright = luminance(sky, math.pi / 2 - high, apart, np.asarray(math.pi / 2 - sun_high)[..., None])
    flat = (bright * np.sin(high) * cell).sum(axis=-1)
    seen = (bright * ahead * open_ * cell).sum(axis=-1) / flat
    hidden = float((ahead * (1 - open_) * cell).sum()) / math.pi
    return np.asarray(seen + GROUND / 2 + hidden * OPPOSITE * (seen + GROUND / 2))


@lru_cache(maxsize=256)
def on_glass(sky: Sky, site: Site, pane: Pane) -> Floats:
    """Illuminance outside on a pane without the sun's own beam, (12, 24) [lx]; kept, not to be written to."""
    sun = sun_over(site)
    return level(sky, sun.altitude, sun.diffuse) * share(sky, pane, sun.altitude, sun.azimuth)


def beam_on(site: Site, pane: Pane) -> Floats:
    """Illuminance of the sun's own beam on a pane under a clear sky, (12, 24) [lx]; 0 behind the skyline."""
    sun = sun_over(site)
    high, off = np.radians(sun.altitude), np.radians(sun.azimuth - pane.azimuth)
    strikes = np.maximum(np.cos(high) * np.cos(off), 0.0)
    return np.where(sun.altitude > max(pane.skyline, 0.0), OF_SUN * sun.beam * strikes, 0.0)
