"""Sound absorption by octave, 125 to 4000 Hz: usual coefficients as textbooks of room acoustics list them
(H. Kuttruff, Room Acoustics; M. Long, Architectural Acoustics), from memory; ± a quarter counts where they are used.
"""

Octaves = tuple[float, float, float, float, float, float]
OCTAVES: tuple[int, ...] = (125, 250, 500, 1000, 2000, 4000)
UNSURE = 0.25
"""± of an absorption as a share of it; what tables differ by."""
WALLS: dict[str, Octaves] = {
    "masonry": (0.013, 0.015, 0.02, 0.03, 0.04, 0.05),
    "stud and board": (0.29, 0.10, 0.05, 0.04, 0.07, 0.09),
    "board only": (0.29, 0.10, 0.05, 0.04, 0.07, 0.09),
    "timber": (0.28, 0.22, 0.17, 0.09, 0.10, 0.11),
    "glass": (0.18, 0.06, 0.04, 0.03, 0.02, 0.02),
}
"""Plaster on brick, gypsum board on studs, panelling, large panes."""
CEILINGS: dict[str, Octaves] = {
    "concrete": (0.01, 0.01, 0.02, 0.02, 0.02, 0.03),
    "timber": (0.28, 0.22, 0.17, 0.09, 0.10, 0.11),
    "joists and board": (0.29, 0.10, 0.05, 0.04, 0.07, 0.09),
    "suspended board": (0.15, 0.11, 0.04, 0.04, 0.07, 0.08),
}
FLOORS: dict[str, Octaves] = {
    "laminate": (0.04, 0.04, 0.07, 0.06, 0.06, 0.07),
    "wood": (0.15, 0.11, 0.10, 0.07, 0.06, 0.07),
    "tile": (0.01, 0.01, 0.015, 0.02, 0.02, 0.02),
    "vinyl": (0.02, 0.03, 0.03, 0.03, 0.03, 0.02),
    "concrete": (0.01, 0.01, 0.015, 0.02, 0.02, 0.02),
    "carpet": (0.02, 0.06, 0.14, 0.37, 0.60, 0.65),
}
WINDOW: Octaves = (0.35, 0.25, 0.18, 0.12, 0.07, 0.04)
DOOR: Octaves = (0.28, 0.22, 0.17, 0.09, 0.10, 0.11)
DRAPES: dict[str, Octaves] = {
    "net curtain": (0.03, 0.04, 0.11, 0.17, 0.24, 0.35),
    "light curtain": (0.07, 0.31, 0.49, 0.75, 0.70, 0.60),
    "heavy curtain": (0.14, 0.35, 0.55, 0.72, 0.70, 0.65),
}
"""Light cloth hung straight; medium and heavy velour gathered to half its width."""
CLOTH: Octaves = (0.03, 0.04, 0.11, 0.17, 0.24, 0.35)
PAPER: Octaves = (0.01, 0.01, 0.02, 0.02, 0.03, 0.04)
WOODEN: Octaves = (0.28, 0.22, 0.17, 0.09, 0.10, 0.11)
SOFT: Octaves = (0.19, 0.37, 0.56, 0.67, 0.61, 0.59)
"""Upholstery and beds, by the area that is free."""
HARD: Octaves = (0.01, 0.01, 0.02, 0.02, 0.02, 0.03)
BLANKET: Octaves = (0.08, 0.20, 0.45, 0.70, 0.80, 0.80)
"""A moving blanket hung 5 to 10 cm off the wall."""
BLANKET_AREA = 3.0
"""Area of one [m²]: 1.5 × 2 m."""
PERSON: Octaves = (0.17, 0.36, 0.47, 0.52, 0.53, 0.46)
"""Absorption area of a person who stands [m²]."""
DIRECTIVITY: dict[str, float] = {
    "all round": 1.0,
    "cardioid": 3.0,
    "supercardioid": 3.7,
    "hypercardioid": 4.0,
    "shotgun": 5.0,
}
"""Random-energy directivity factor Q: 1, 3, 3.73 and 4 follow from the patterns; a short shotgun's is usual, from
memory."""
