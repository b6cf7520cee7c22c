"""The hands that fill a shot's case slot by slot."""

from collections.abc import Iterator, Sequence
from typing import TypeVar

from evrant.core.search.kit.case import Case, Clause, Literal_, Slot
from evrant.core.search.kit.market import Good, Market
from evrant.core.space.footprint import plan_of
from evrant.core.space.wanted import Wanted
from evrant.core.studio.gear import Item
from evrant.core.studio.shots import LIVING, Shot
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say

T = TypeVar("T", bound=Item)


class Filling:
    """A case on the way, with the shot, the studio and the market it is filled from."""

    def __init__(self, studio: Studio, shot: Shot, asked: Wanted, market: Market, case: Case) -> None:
        self.studio, self.shot, self.asked, self.market, self.case = studio, shot, asked, market, case
        self.walls = plan_of(studio.room)
        self.people = any(subject.kind in LIVING for subject in shot.subjects)
        self.schools, self.tell = studio.brief.schools, Say.of(studio.brief)

    def goods(self, *kinds: type[Item]) -> Iterator[Good]:
        """Everything of these kinds on the market."""
        return (good for good in self.market.goods if isinstance(good.item, kinds))

    def slot(self, name: str, word: str, keys: Sequence[str]) -> None:
        """A role and what may fill it, each once."""
        self.case.slots[name] = Slot(name, word, tuple(dict.fromkeys(keys)))

    def drop(self, good: Good, why: str) -> None:
        """Say why something on offer is left out."""
        if not good.owned:
            self.case.dropped.setdefault(good.key, why)

    def never(self, why: str, *pairs: Literal_) -> None:
        """Say what never goes together."""
        self.case.clauses.append(Clause(frozenset(pairs), why))

    def owned_first(self, goods: Sequence[Good]) -> list[str]:
        """What is owned, where something is; else all that is on offer."""
        owned = [good for good in goods if good.owned]
        for good in goods if owned else ():
            self.drop(good, f"the {owned[0].item.called} you have serves")
        return [good.key for good in owned or goods]


def is_a(good: Good, kind: type[T]) -> T:
    """A good's item as what it is known to be."""
    assert isinstance(good.item, kind)
    return good.item
