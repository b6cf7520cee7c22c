"""Ways to hold a background: what each hangs from, what it needs of the building, how it is exchanged.

Screws and minutes are common practice, no source.
"""

from dataclasses import dataclass
from typing import Literal

HangsFrom = Literal["floor", "floor and ceiling", "two walls", "wall", "ceiling", "door", "table", "itself"]


@dataclass(frozen=True, slots=True)
class HolderKind:
    """`holes` into wall or ceiling; `off` usual distance of the background from what it hangs from [m];
    `spread` more than that is out of its reach [m]; `exchange` how another background takes its place
    and the minutes it takes; `standing` whether that goes without taking the set down."""

    hangs_from: HangsFrom
    holes: int
    off: float
    spread: float
    exchange: str
    minutes: float
    standing: bool


HOLDERS: dict[str, HolderKind] = {
    "two stands and crossbar": HolderKind(
        "floor", 0, 0.0, 0.0, "lower both stands, slide the roll off the bar", 6, False
    ),
    "floor-to-ceiling poles": HolderKind(
        "floor and ceiling", 0, 0.0, 0.0, "lift the next roll into the hooks", 3, True
    ),
    "tension rod": HolderKind("two walls", 0, 0.0, 0.0, "slide or clip the next cloth along the rod", 3, True),
    "wall brackets": HolderKind("wall", 4, 0.15, 0.25, "roll one up by its chain, let the next one down", 1, True),
    "ceiling brackets": HolderKind(
        "ceiling", 4, 0.10, 0.25, "roll one up by its chain, let the next one down", 1, True
    ),
    "table clamps": HolderKind("table", 0, 0.02, 0.15, "unclip the sheet, clip on the next", 1, True),
    "door hooks": HolderKind("door", 0, 0.05, 0.15, "lift the bar out of the hooks", 2, True),
    "tape or pins": HolderKind("wall", 0, 0.02, 0.08, "peel it off and tape up the next", 5, True),
    "stands by itself": HolderKind("itself", 0, 0.0, 0.0, "turn the panel round or fold it away", 1, True),
    "board pair": HolderKind("table", 0, 0.0, 0.9, "lift one board away and lean up the next", 1, True),
}
CURL = {"paper": 0.02, "fabric": 0.02, "vinyl": 0.01}
"""Unusable width at each edge where paper curls or a hem shows, when the item does not say [m]; common
practice, no source."""
SCREWS_ALLOWED = {"owned": 99, "rented, small holes allowed": 4, "no drilling": 0}
"""Holes a tenancy bears; the four of the middle row are a project choice."""
