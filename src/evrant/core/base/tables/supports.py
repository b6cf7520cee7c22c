"""What a support must bear, and what fits on what.

Demands are a project choice around the 6° of the lighting standards' test of floor-standing units (IEC 60598
series, from memory). Friction coefficients are ordinary handbook ranges, taken low (from memory).
"""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

from evrant.core.base.units import KG_PER_POUND, Units

GRAVITY = 9.81
PUSH_HEIGHT = 1.0
"""Height at which someone brushes past a stand [m]; lower stands are pushed at their top."""


@dataclass(frozen=True, slots=True)
class Demand:
    """Slope a stand must bear [degrees], push it must bear at 1 m [N], and because of what, each."""

    angle: float
    push: float
    why: str
    why_push: str

    def scaled(self, falls: float, caution: str) -> "Demand":
        """In proportion to what would fall, `falls` [J], and to the caution chosen; the 6° of lamp standards stay."""
        part = min(max((falls / FULL_FALL) ** 2, LEAST_PART), 1.0)
        share = part * CAUTION[caution]
        low = "" if part > 0.99 else f"; what is on it is light and low, so it asks for {part:.0%}"
        angle = PLAIN_SLOPE + (self.angle - PLAIN_SLOPE) * share
        return Demand(angle, self.push * share, self.why + low, self.why_push + low)


PLAIN_SLOPE = 6.0
"""IEC 60598's slope for luminaires that stand (from memory) [degrees]."""
FULL_FALL, LEAST_PART = 20.0, 0.05
"""What falls with so much energy [J], a kilogram from two metres, is guarded against fully; lighter and lower things by
the square of theirs, for harm grows faster than energy, down to this share: project choice."""
CAUTION = {"light": 0.6, "usual": 1.0, "strict": 1.5}
"""Three stages: alone and careful; as most work; a room of strangers, or insured work. Project choice."""
BAGS = (0.5, 1.0, 2.0, 3.0, 4.0, 5.0, 7.5, 10.0, 12.5, 15.0, 20.0, 25.0, 30.0, 40.0, 50.0, 60.0, 80.0, 100.0)
"""Sizes weights are offered in [kg]."""
POUNDS = (1.0, 2.0, 5.0, 10.0, 15.0, 20.0, 25.0, 30.0, 40.0, 50.0, 60.0, 80.0, 100.0, 120.0, 150.0, 200.0)
"""Sizes weights are offered in where they are told in pounds [lb]; common practice, no source."""


def weights_in(units: Units) -> tuple[float, ...]:
    """Sizes weights are offered in, as they are told [kg]."""
    return BAGS if units == "metric" else tuple(pounds * KG_PER_POUND for pounds in POUNDS)


PLAIN = (6.0, 20.0, "people who know where it stands")
RAISED: dict[str, tuple[float, float, str]] = {
    "castors": (10.0, 30.0, "castors"),
    "carpet": (10.0, 20.0, "carpet"),
    "animals": (15.0, 50.0, "animals in the room"),
    "children": (15.0, 50.0, "children in the room"),
    "public": (15.0, 50.0, "visitors who do not know the set"),
}
"""Slope [degrees] and push [N] by what raises them, in words. A carpet gives way under a foot, so that a stand leans;
nobody bumps into it the harder."""


SUBJECT_MASSES: dict[str, tuple[float, float]] = {"person": (80.0, 25.0), "dog": (25.0, 15.0), "cat": (5.0, 2.0)}
"""Mass and ± of who is not weighed [kg]; project choice."""
PUSHES = 0.5
"""Share of its weight an animal pushes with: its paws hold no more. Project choice, by a friction of a half."""


def animal(mass: float) -> tuple[float, float, str]:
    """Slope [degrees] and push [N] asked for because of an animal of some mass [kg] on the set, in words: half its
    weight, from what people ask for up to what is asked of any animal, the slope in step."""
    _, most, _ = RAISED["animals"]
    push = min(max(PUSHES * mass * 9.81, PLAIN[1]), most)
    share = (push - PLAIN[1]) / (most - PLAIN[1])
    return (
        PLAIN[0] + share * (RAISED["animals"][0] - PLAIN[0]),
        push,
        f"an animal of up to {mass:.0f} kg in the picture",
    )


def demand(reasons: Iterable[str], animals: Iterable[float] = ()) -> Demand:
    """The strictest of the demands that apply, with all that make each figure so strict; `animals` are the masses of
    those in the picture [kg]."""
    found = [PLAIN, *(RAISED[reason] for reason in reasons), *(animal(mass) for mass in animals)]
    angle, push = max(one[0] for one in found), max(one[1] for one in found)
    leaning = [one[2] for one in found if one[0] == angle]
    pushing = [one[2] for one in found if one[1] == push and (one is PLAIN or push > PLAIN[1])]
    return Demand(angle, push, " and ".join(leaning), " and ".join(pushing))


FRICTION: dict[str, float] = {
    "laminate": 0.3,
    "wood": 0.35,
    "tile": 0.35,
    "vinyl": 0.4,
    "concrete": 0.5,
    "carpet": 0.5,
}
"""Rubber feet on a floor, low end of handbook ranges; from memory."""
WALL_FRICTION = 0.3
"""Rubber ends of a rod on paint, low end; from memory."""
GRIP_FACTOR, FIXING_FACTOR, OVERHEAD_FACTOR = 2.0, 2.0, 4.0
"""Factors on what holds by grip, on fixings, and on fixings over people. Project choice."""
Connector = Literal[
    "16 mm spigot",
    "28 mm spigot",
    "1/4 inch thread",
    "3/8 inch thread",
    "accessory shoe",
    "bulb cap",
    "hook or eye",
]
"""What the lower thing ends in and the upper thing sits on."""
Mount = Literal[
    "three-claw bayonet",
    "four-lug bayonet",
    "ring bayonet",
    "friction collar",
    "strap",
    "umbrella shaft",
    "bulb cap",
]
"""Families of fittings between a head and its modifier, in general words."""
FEETLESS = frozenset(
    {
        "boom arm",
        "wall boom",
        "wall bracket",
        "ceiling bracket",
        "rail or crossbar",
        "floor-to-ceiling pole",
        "door clip",
        "hook",
        "adhesive hook",
    }
)
"""Supports that do not stand on the floor by their own feet."""
CARD_STANDS = ("light stand", "rolling stand")
"""Supports that cards are clamped to by their middle; common practice, no source."""
CAMERA_OVER, CAMERA_BEFORE = ("copy arm", "boom stand"), ("tripod",)
"""Supports that hold a camera over what is taken, those made for it first, and before it; common practice."""
FIXED = {"wall boom": 2, "wall bracket": 2, "ceiling bracket": 2}
"""Supports that screws hold, and how many as a rule; common practice, no source."""
HOLDER_FIXINGS = {"wall brackets": 4, "ceiling brackets": 4}
CAUTIOUS_FIXING: dict[str, float] = {
    "masonry": 25.0,
    "timber": 30.0,
    "stud and board": 20.0,
    "board only": 5.0,
    "glass": 0.0,
    "concrete": 40.0,
    "joists and board": 30.0,
    "suspended board": 0.0,
}
"""Mass one ordinary fixing holds when its own rating is not known [kg], cautious; from memory, never a rating."""
CEILING_PRESS: dict[str, float] = {
    "concrete": 2000.0,
    "timber": 800.0,
    "joists and board": 300.0,
    "suspended board": 0.0,
}
"""Upward force on a hand-sized pad a ceiling bears away from joists [N], cautious; from memory."""
CENTRE_OF_STAND = 0.5
"""Height of a stand's own centre of mass as a share of its height: cautious, for its legs pull it lower."""
BAG_LOW = 0.30
"""Height of a bag hung at the column [m]; common practice."""
PACK_LOW = 0.40
"""Height of a power pack hung on the stand [m]; common practice."""
MODULUS: dict[str, float] = {"aluminium": 69e9, "steel": 200e9}
"""Young's modulus [Pa]; any mechanics handbook."""
DENSITY: dict[str, float] = {"aluminium": 2700.0, "steel": 7850.0}
"""[kg/m³]; any mechanics handbook."""
