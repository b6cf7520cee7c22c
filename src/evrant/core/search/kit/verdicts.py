"""What a look at a recipe says, and what is learnt on the way."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from evrant.core.base.margins import Margin
from evrant.core.search.kit.case import Clause, Literal_, Recipe, Spot
from evrant.core.studio.sets import SetPlan


class Stopped(Exception):
    """The person cancelled, or the time is up."""


@dataclass(frozen=True)
class Besides:
    """Weights or leads one unit of a set needs: how many of what, and the slots that settle it."""

    unit: str
    key: str
    count: int
    slots: tuple[str, ...]


@dataclass(frozen=True)
class Weight:
    """What a light filled like this needs hung low to stand: so many of a weight."""

    light: str
    when: frozenset[Literal_]
    key: str
    count: int


@dataclass(frozen=True)
class Unlit:
    """Slots of one light filled like this do not serve where the key stands at a spot: with others they do only where
    all serve."""

    when: frozenset[Literal_]
    spot: Spot


@dataclass(frozen=True)
class Pass:
    """A recipe that works: its set, what its units need besides, and the worst line it has."""

    plan: SetPlan
    besides: tuple[Besides, ...]
    worst: Margin | None
    unknown: tuple[str, ...]


@dataclass(frozen=True)
class Fail:
    """A recipe that does not: the smallest failing combination found, and why."""

    clause: Clause


@dataclass(frozen=True)
class Counts:
    """Recipes judged, searches of the room, runs of the ledger."""

    recipes: int = 0
    searches: int = 0
    ledger_runs: int = 0

    def __add__(self, other: "Counts") -> "Counts":
        return Counts(
            self.recipes + other.recipes, self.searches + other.searches, self.ledger_runs + other.ledger_runs
        )


@dataclass(frozen=True)
class Report:
    """What a look at a recipe found: its verdict, where it was looked into to the end or failed; combinations that
    fail and weights that are needed, found on the way; and the `recipe` that passed with what is `bought` for it [count
    by key], where it was not named by who asked. `opened`: nothing works with what there is, so that what was left out
    for it is asked too."""

    found: Pass | Fail | None
    clauses: tuple[Clause, ...] = ()
    weights: tuple[Weight, ...] = ()
    unlit: tuple[Unlit, ...] = ()
    recipe: Recipe | None = None
    bought: Mapping[str, int] = field(default_factory=dict)
    opened: bool = False

    @property
    def empty(self) -> bool:
        return self.found is None and not (self.clauses or self.weights or self.unlit or self.opened)


@dataclass
class Lessons:
    """Combinations that fail and weights that are needed, found besides what was asked, to be taken over once."""

    clauses: list[Clause] = field(default_factory=list)
    weights: list[Weight] = field(default_factory=list)
    unlit: list[Unlit] = field(default_factory=list)
    tried: set[tuple[object, ...]] = field(default_factory=set)

    def first(self, *key: object) -> bool:
        """Whether this is looked for for the first time."""
        new = key not in self.tried
        self.tried.add(key)
        return new

    def take(self) -> tuple[tuple[Clause, ...], tuple[Weight, ...], tuple[Unlit, ...]]:
        """All that was found since they were taken last."""
        found = tuple(self.clauses), tuple(self.weights), tuple(self.unlit)
        self.clauses, self.weights, self.unlit = [], [], []
        return found
