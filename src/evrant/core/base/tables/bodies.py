"""Body measures of adults, for presets and as check values of the proportions the bodies are drawn with.

DIN 33402-2:2005, adults of 18 to 65 years in Germany, 5th, 50th and 95th percentile [m]; the figures
are from memory. Heights of children: medians of the WHO growth reference (2006, 2007), from memory.
"""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Body:
    """Stature and what goes with it [m]. Sitting measures are above the seat."""

    name: str
    stature: float
    eye: float
    shoulder: float
    sitting: float
    sitting_eye: float
    shoulder_width: float


BODIES: tuple[Body, ...] = (
    Body("Small woman", 1.535, 1.430, 1.260, 0.810, 0.705, 0.395),
    Body("Middle woman", 1.625, 1.515, 1.345, 0.860, 0.755, 0.435),
    Body("Tall woman", 1.720, 1.605, 1.425, 0.910, 0.805, 0.485),
    Body("Small man", 1.650, 1.530, 1.345, 0.855, 0.740, 0.440),
    Body("Middle man", 1.750, 1.630, 1.450, 0.910, 0.795, 0.480),
    Body("Tall man", 1.855, 1.735, 1.550, 0.965, 0.855, 0.525),
)
CHILDREN: tuple[tuple[str, float], ...] = (
    ("Child of 2", 0.87),
    ("Child of 5", 1.10),
    ("Child of 8", 1.27),
    ("Child of 12", 1.50),
)
REACH_UP = 1.19
"""Height a standing person grips at, as a share of stature: 2.075 m at 1.750 m and 1.940 m at 1.625 m in
DIN 33402-2:2005 (from memory)."""
