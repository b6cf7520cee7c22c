"""Usual reflectances of what nobody measures [share of 1, ±]. From memory after lighting handbooks' lists of
interior surfaces (for instance IES Lighting Handbook, reflectance of building materials); used only where a
document is silent, and with their ±."""

FLOORS: dict[str, tuple[float, float]] = {
    "laminate": (0.32, 0.10),
    "wood": (0.28, 0.10),
    "tile": (0.40, 0.15),
    "vinyl": (0.35, 0.12),
    "concrete": (0.30, 0.10),
    "carpet": (0.15, 0.08),
}
FURNITURE = (0.35, 0.15)
BY_BOX: dict[str, float] = {"radiator": 0.75, "beam or pipe": 0.70, "bed": 0.55, "appliance": 0.70, "screen": 0.06}
TABLE_TOP = 0.50
SUBJECTS: dict[str, float] = {"person": 0.30, "cat": 0.30, "dog": 0.30, "object": 0.40, "garment": 0.40}
"""Bodies in their clothes, fur, things: the mean of skin (0.2 to 0.5) and cloth; project choice."""
SUBJECT_SPREAD = 0.15
GLASS_BY_NIGHT = 0.10
"""A window seen from inside when it is dark outside, about 4 % a face and two panes."""
BLACKOUT = 0.06
WINDOW_LETS_IN = 0.65
"""Share of daylight through clean double glazing, frame taken off."""
COVERS: dict[str, tuple[float, float]] = {
    "net curtain": (0.60, 0.30),
    "light curtain": (0.30, 0.55),
    "light blind": (0.15, 0.65),
    "slats half closed": (0.25, 0.40),
    "heavy curtain": (0.01, 0.25),
}
"""What is drawn before a window: share of light it lets through, and reflectance toward the room; from memory. Of slats
whose tilt is entered the share is computed from their geometry."""
SLAT = 0.60
"""Reflectance of a white slat; from memory."""
BOARDS: dict[str, tuple[float, float]] = {
    "white": (0.85, 0.0),
    "silver": (0.80, 0.0),
    "black": (0.05, 0.0),
    "translucent": (0.40, 0.50),
    "mirror": (0.90, 0.0),
    "foil": (0.80, 0.0),
    "glossy white": (0.85, 0.0),
    "glossy black": (0.08, 0.0),
}
"""Reflectance and share let through by surface; silver spread evenly, which its gloss is not."""
GLOSS: dict[str, tuple[float, float]] = {
    "mirror": (1.0, 0.0),
    "foil": (0.75, 60.0),
    "glossy white": (0.05, 0.0),
    "glossy black": (0.50, 0.0),
}
"""Share of that reflectance that leaves as from a mirror, and how rough the mirror is: the power n of a lobe cosⁿ
round the mirrored ray (0: flat). Foil from memory; gloss by Fresnel's 4 % of clear plastic."""
TABLE_THROUGH = (0.35, 0.50)
"""A translucent table's top: reflectance and share let through, as of opal plastic; from memory."""
TENT = (0.40, 0.50)
"""A tent's cloth, as a scrim's; from memory."""
