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
PAINTS: dict[str, tuple[float, str]] = {
    "white paint": (84.0, "#ececec"),
    "off-white": (74.0, "#e4dfd3"),
    "cream": (68.0, "#e1d7b7"),
    "beige": (52.0, "#d1bc9c"),
    "light grey": (55.0, "#c4c4c2"),
    "mid grey": (30.0, "#939595"),
    "dark grey": (11.0, "#5b5e60"),
    "matt black": (4.0, "#383838"),
    "pale blue": (60.0, "#bdced8"),
    "deep blue": (7.0, "#334b75"),
    "pale green": (62.0, "#c4d3be"),
    "sage": (35.0, "#94a490"),
    "yellow": (62.0, "#e9cd67"),
    "pale pink": (62.0, "#e5c8c3"),
    "terracotta": (20.0, "#b9654a"),
    "bare plaster": (58.0, "#d1c7bc"),
    "brick": (16.0, "#a25d48"),
    "bare concrete": (32.0, "#9b9994"),
    "pine boards": (45.0, "#d3ad78"),
    "dark wood": (10.0, "#755135"),
}
"""Usual paints and materials: light reflectance value and a colour of that luminance; values from memory, common
practice, no source. A paint card's own value goes before them."""
