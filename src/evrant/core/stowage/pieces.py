"""What is to be stowed and where: gear as packed boxes, places as boxes to fill."""

from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from evrant.core.studio.gear import Item, Stowed
from evrant.core.studio.room import HANGING, Place, PlaceKind, value
from evrant.core.studio.sets import SetPlan, used_by
from evrant.core.studio.studio import Studio

Sides = tuple[float, float, float]


@dataclass(frozen=True, slots=True)
class Piece:
    """One packed thing: its sides longest first [m], mass [kg], how it must lie and whether it carries others.

    `used` is how many sets use it: what is used most comes to the front.
    """

    item: str
    number: int
    name: str
    sides: Sides
    mass: float
    stowed: Stowed | None
    fragile: bool
    used: int

    @property
    def key(self) -> str:
        """The item, and which of several."""
        return f"{self.item}/{self.number}"

    @property
    def volume(self) -> float:
        """Volume of the packed box [m³]."""
        return self.sides[0] * self.sides[1] * self.sides[2]


@dataclass(frozen=True, slots=True)
class Space:
    """A place as the packing sees it: inside width, depth and height [m], what it may carry [kg].

    Where things hang, `hooks` is how many and `each` what one hook carries.
    """

    id: str
    name: str
    kind: PlaceKind
    width: float
    depth: float
    height: float
    load: float
    hooks: int
    each: float

    @property
    def hangs(self) -> bool:
        return self.kind in HANGING

    @property
    def volume(self) -> float:
        return self.width * self.depth * self.height


MANY = 1e6


def spaces_of(places: Iterable[Place]) -> list[Space]:
    """Every place that is measured inside."""
    return [
        Space(
            place.id,
            place.name,
            place.kind,
            place.length.value,
            place.width.value,
            place.height.value,
            MANY if place.load is None else place.load.value,
            place.hooks or (1 if place.kind in HANGING else 0),
            MANY if place.each is None else place.each.value,
        )
        for place in places
        if place.length and place.width and place.height
    ]


def kept(gear: Iterable[Item]) -> list[Item]:
    """What the kit holds: owned, or planned to be bought."""
    return [item for item in gear if item.at_hand]


def struck(gear: Iterable[Item]) -> list[Item]:
    """What must be put away when everything is struck."""
    return [item for item in kept(gear) if item.stowed != "stays in the room"]


def is_measured(item: Item) -> bool:
    """Whether all packed sides and the mass are known."""
    return None not in (item.packed_length, item.packed_width, item.packed_height, item.mass)


def pieces_of(gear: Iterable[Item], sets: Sequence[SetPlan] = ()) -> list[Piece]:
    """Every struck thing whose packed sides and mass are known, one by one."""
    used = uses(sets)
    found = []
    for item in struck(gear):
        if not is_measured(item):
            continue
        sides = sorted(
            (value(item.packed_length) or 0.0, value(item.packed_width) or 0.0, value(item.packed_height) or 0.0),
            reverse=True,
        )
        for number in range(1, item.quantity + 1):
            found.append(
                Piece(
                    item.id,
                    number,
                    item.name,
                    (sides[0], sides[1], sides[2]),
                    value(item.mass) or 0.0,
                    item.stowed,
                    item.fragile,
                    used[item.id],
                )
            )
    return found


def uses(sets: Sequence[SetPlan]) -> Counter[str]:
    """How many sets use each item."""
    counts: Counter[str] = Counter()
    for plan in sets:
        counts.update(gear_of(plan))
    return counts


def gear_of(plan: SetPlan) -> frozenset[str]:
    """Ids of everything a set uses, each once."""
    return frozenset(used_by(plan))


def unmeasured(studio: Studio) -> list[Item]:
    """Struck things of which a packed side or the mass is missing."""
    return [item for item in struck(studio.gear) if not is_measured(item)]
