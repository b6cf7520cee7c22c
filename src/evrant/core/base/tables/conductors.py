"""Resistance of flexible copper conductors, and what leads of a size are usually rated for.

References: [1] IEC 60228, table 3, class 5 flexible plain copper, at 20 °C. [2] NFPA 70 (US code), chapter 9,
table 8, stranded uncoated copper, at 75 °C. [3] JIS C 3306, flexible cords, at 20 °C. All from memory as
printed there.
"""

from typing import Literal

from evrant.core.base.units import FOOT

Conductor = Literal[
    "0.75 mm²", "1.0 mm²", "1.25 mm²", "1.5 mm²", "2.0 mm²", "2.5 mm²",
    "18 AWG", "16 AWG", "14 AWG", "12 AWG", "10 AWG",
]  # fmt: skip
ALPHA = 0.00393
"""Temperature coefficient of copper at 20 °C [1/K]; IEC 60028."""
IEC_20: dict[str, float] = {"0.75 mm²": 26.0, "1.0 mm²": 19.5, "1.5 mm²": 13.3, "2.5 mm²": 7.98}
"""[Ω/km] at 20 °C [1]."""
JIS_20: dict[str, float] = {"1.25 mm²": 14.7, "2.0 mm²": 9.5}
"""[Ω/km] at 20 °C [3]."""
TABLE_8: dict[str, float] = {"18 AWG": 7.95, "16 AWG": 4.99, "14 AWG": 3.14, "12 AWG": 1.98, "10 AWG": 1.24}
"""[Ω/kft] at 75 °C, stranded uncoated copper [2]."""
USUAL_RATING: dict[str, float] = {
    "0.75 mm²": 6.0,
    "1.0 mm²": 10.0,
    "1.25 mm²": 12.0,
    "1.5 mm²": 16.0,
    "2.0 mm²": 15.0,
    "2.5 mm²": 16.0,
    "18 AWG": 10.0,
    "16 AWG": 13.0,
    "14 AWG": 15.0,
    "12 AWG": 20.0,
    "10 AWG": 25.0,
}
"""Usual rating of a laid-out lead of that size [A], shown only as the cautious value; from memory."""
ROLLED = 0.3
"""Share of its rating a drum carries rolled up, when its own figure is not known: cautious; from memory
(drums of 25 m and 1.5 mm² are commonly marked about 1000 W rolled up, 3000 W rolled out)."""


def at(resistance: float, known_at: float, wanted_at: float) -> float:
    """A resistance known at one temperature, at another [Ω, °C]; linear in temperature from 20 °C."""
    return resistance * (1 + ALPHA * (wanted_at - 20)) / (1 + ALPHA * (known_at - 20))


def ohms_per_metre(conductor: str, celsius: float = 70.0) -> float:
    """Resistance of one conductor [Ω/m] at a temperature [°C]."""
    metric = IEC_20 | JIS_20
    if conductor in metric:
        return at(metric[conductor], 20.0, celsius) / 1000
    return at(TABLE_8[conductor], 75.0, celsius) / (1000 * FOOT)
