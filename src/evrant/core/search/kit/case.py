"""One shot as slots and clauses: the words in which a kit's recipes are told."""

from dataclasses import dataclass, field

from evrant.core.studio.shots import Pattern, Shot

NOTHING = ""
Literal_ = tuple[str, str]
"""A slot and the key that fills it."""
Spot = tuple[float, float]
"""Where the key stands: its distance as a share of the usual one, and how much further round [degrees]."""
CARRIES = ("support", "stands_on")
"""What carries a light: a stand, or an arm and the stand it is put on."""
PARTS_OF_LIGHT = ("head", "modifier", *CARRIES, "joint", "ring")


@dataclass(frozen=True)
class Slot:
    """A role to be filled, with the keys that may fill it; `NOTHING` among them means it may stay empty."""

    name: str
    word: str
    keys: tuple[str, ...]


@dataclass(frozen=True)
class Clause:
    """Slots filled like this never go together, and why. `own`: only because one there is already serves; it holds no
    longer where nothing works with that."""

    never: frozenset[Literal_]
    why: str
    own: bool = False


@dataclass
class Case:
    """One shot as slots and clauses. `impossible` says why no recipe exists at all; `hasty`: a light the ledger refused
    for its strength in one place is taken to be refused in all."""

    shot: Shot
    pattern: Pattern
    slots: dict[str, Slot] = field(default_factory=dict)
    clauses: list[Clause] = field(default_factory=list)
    dropped: dict[str, str] = field(default_factory=dict)
    impossible: str = ""
    hasty: bool = False

    @property
    def id(self) -> str:
        return self.shot.id

    def lights(self) -> list[str]:
        """Names of the lights, in the pattern's order."""
        return [name.removesuffix(".head") for name in self.slots if name.endswith(".head")]


Recipe = dict[str, str]
"""Slot → key of one filled case."""
