"""A window's calendar as data: hours at which it carries a shot, and when the sun comes in."""

import math
from typing import Any

from evrant.core.light.hours import Hours
from evrant.core.light.sky import KELVIN, SKIES
from evrant.core.space.scene import Scene


def hours_data(scene: Scene, found: Hours) -> dict[str, Any]:
    """`months`: 12 lists of 24 hours, each with stops over the exposure wanted by sky (None by night), whether the
    light is enough and steady, and whether the sun's beam strikes a window under a clear sky."""
    good = {sky: found.works(sky) for sky in SKIES}
    return {
        "set": scene.plan.name,
        "shot": scene.shot.id,
        "site": {
            "latitude": found.site.latitude,
            "longitude": found.site.longitude,
            "standard_time_h": found.site.ahead,
        },
        "kelvin": {sky: KELVIN[sky] for sky in SKIES},
        "months": [
            [
                {
                    "hour": hour,
                    "stops": {sky: _finite(float(found.stops[sky][month, hour])) for sky in SKIES},
                    "works": {sky: bool(good[sky][month, hour]) for sky in SKIES},
                    "sun": bool(found.sun[month, hour]),
                }
                for hour in range(24)
            ]
            for month in range(12)
        ],
        "works": [{sky: spans(good[sky][month].tolist()) for sky in SKIES} for month in range(12)],
    }


def _finite(stops: float) -> float | None:
    return round(stops, 2) if math.isfinite(stops) else None


def spans(good: list[bool]) -> str:
    """Hours that are good in words: 9 to 15 h, 17 h."""
    found, start = [], None
    for hour, yes in enumerate([*good, False]):
        if yes and start is None:
            start = hour
        if not yes and start is not None:
            found.append(f"{start} to {hour - 1} h" if hour - 1 > start else f"{start} h")
            start = None
    return ", ".join(found)
