"""From a head and a modifier to lux-seconds and stops at the mark.

Units: luminous exposure H [lx s], luminous flux Φ [lm], luminous energy Q [lm s], distances [m].
References:
[1] ISO 2720: N²/t = E S / C and N² = H S / C. Calibration constants from memory: flat receptor 250,
    dome 340 within the ranges the standard gives.
[2] ISO 1230: guide number GN = N d, scaling with √(S/100) and √power.
[3] Uniform diffuse disc on axis: E = π L R² / (R² + d²), any photometry handbook.
[4] ISO 12232: focal-plane exposure 0.65 L t / N² holds at 80 focal lengths; image distance grows as 1 + m.
"""

import math

FLAT, DOME = 250.0, 340.0
XENON_EFFICACY, XENON_SPREAD = 37.5, 7.5
"""Luminous energy of a xenon flash [lm s per W s], 30-45 from memory."""
GUIDE_CLAIM, GUIDE_CLAIM_SPREAD = -0.5, 0.6
GUIDE_OWN_SPREAD = 1 / 3
"""Stops by which a maker's guide number of unstated constant is centred below its claim, and its ±."""


def stops(ratio: float) -> float:
    """log₂ of a ratio of exposures."""
    return math.log2(ratio)


def needed_exposure(f_number: float, iso: float, constant: float = DOME) -> float:
    """Flash exposure wanted at the subject: H = C N² / S [1]."""
    return constant * f_number**2 / iso


def close_up(magnification: float) -> float:
    """Factor by which a lens near its subject asks for more light: ((1 + m) / (1 + 1/79))², for exposure constants
    hold for a lens focused at 80 focal lengths [4]. Never under 1; the pupils are taken as alike."""
    return max(((1 + magnification) / (1 + 1 / 79)) ** 2, 1.0)


def f_number_for(exposure: float, iso: float, constant: float = DOME) -> float:
    """Aperture that a flash exposure asks for: N = √(H S / C) [1]."""
    return math.sqrt(exposure * iso / constant)


def needed_illuminance(f_number: float, shutter: float, iso: float, constant: float = DOME) -> float:
    """Continuous illuminance wanted: E = C N² / (t S) [1]."""
    return constant * f_number**2 / (shutter * iso)


def intensity_from_guide(guide: float, constant: float = FLAT) -> float:
    """Beam luminous intensity × time [cd s] behind a guide number in metres at ISO 100."""
    return constant * guide**2 / 100.0


def disc_illuminance(luminance: float, radius: float, distance: float) -> float:
    """Illuminance on axis from a uniform diffuse disc [3]."""
    return math.pi * luminance * radius**2 / (radius**2 + distance**2)


def face_radius(width: float, height: float | None) -> float:
    """Radius of the disc with the face's area."""
    return width / 2 if height is None else math.sqrt(width * height / math.pi)


def face_exposure(output: float, radius: float, distance: float) -> float:
    """On-axis exposure from a diffuse face that sends out `output` [lm or lm s]: Φ / (π (R² + d²)) [3]."""
    luminance = output / (math.pi**2 * radius**2)
    return disc_illuminance(luminance, radius, distance)


def dome_share(cosine: float) -> float:
    """Response of an ideal dome to light whose direction makes that cosine with its axis."""
    return (1 + cosine) / 2
