"""How long a thing may be to get round a turn, or through a door."""

import numpy as np

from evrant.core.studio.room import Passage


def longest_round(before: float, after: float, thick: float = 0.0) -> float:
    """Longest thing of a thickness [m] that goes level round a right-angled turn between two widths [m].

    At an angle θ in the turn there is room for (a sin θ + b cos θ − w)/(sin θ cos θ); the least of it over θ
    counts. For a line, w = 0, it is (a^⅔ + b^⅔)^1½. Published: the ladder round a corner, any calculus textbook.
    Zero when the thing is thicker than a width.
    """
    if thick >= min(before, after):
        return 0.0
    angle = np.linspace(0.02, np.pi / 2 - 0.02, 721)
    room = (before * np.sin(angle) + after * np.cos(angle) - thick) / (np.sin(angle) * np.cos(angle))
    best = int(np.argmin(room))
    fine = np.linspace(angle[max(best - 1, 0)], angle[min(best + 1, len(angle) - 1)], 201)
    room = (before * np.sin(fine) + after * np.cos(fine) - thick) / (np.sin(fine) * np.cos(fine))
    return float(max(room.min(), 0.0))


def passes(passage: Passage, thick: float) -> float | None:
    """Longest thing of a thickness that gets through [m]; None while a width is missing.

    Round a turn it may be tilted as far as the free height lets it: √(level² + (height − thickness)²), the
    shadow on the floor being what must go round. A doorway is no limit for what is thinner than it.
    """
    if passage.width is None:
        return None
    if passage.kind == "door":
        return float("inf") if thick < passage.width.value else 0.0
    if passage.beyond is None:
        return None
    level = longest_round(passage.width.value, passage.beyond.value, thick)
    tilt = max((passage.height.value if passage.height else 0.0) - thick, 0.0)
    return float(np.hypot(level, tilt)) if level > 0 else 0.0
