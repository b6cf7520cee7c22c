"""The best kit under a budget, with proof: choose, check what was chosen, forbid what fails, choose again.

The programme of `master` knows less than the room does, so what it finds is at least as good as anything that
works. When every recipe it picks passes the check, its optimum is the optimum: over all combinations the market
offers, on the grid the check searches.
"""

import time
from collections import Counter
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field

from evrant.core.kit.case import Case, Recipe, case_of
from evrant.core.kit.check import GRID, Checker, Fail, Pass
from evrant.core.kit.market import Market, market
from evrant.core.kit.master import Bound, Choice, Master, Need
from evrant.core.kit.unit import NEAR
from evrant.core.stow.packing import pack
from evrant.core.stow.pieces import pieces_of, spaces_of
from evrant.core.studio.gear import Item, Lead
from evrant.core.studio.studio import Studio

Say = Callable[[str, int, int], None]
"""Told of progress: what is done, checks so far, lines learnt."""
Stop = Callable[[], bool]


class Stopped(Exception):
    """The person cancelled, or the time is up."""


@dataclass(frozen=True)
class Kit:
    """A choice whose recipes all pass: sets by shot, what is bought, its cost [cents], and whether it is proved."""

    choice: Choice
    passes: Mapping[str, Pass]

    @property
    def cents(self) -> int:
        return self.choice.cents

    @property
    def value(self) -> tuple[int, int, int, int]:
        return self.choice.value


@dataclass
class Search:
    """One studio's search over its market; what it learns serves every budget."""

    studio: Studio
    market: Market
    cases: list[Case]
    checker: Checker
    master: Master
    say: Say = lambda words, checks, cuts: None
    stop: Stop = lambda: False
    first_s: float | None = None
    ready: bool = False
    begun: float = field(default_factory=time.perf_counter)

    @classmethod
    def of(cls, studio: Studio, library: Sequence[Item], say: Say | None = None, stop: Stop | None = None) -> "Search":
        goods = market(studio, library)
        cases = [case_of(studio, shot, goods) for shot in studio.shots]
        found = cls(studio, goods, cases, Checker(studio, goods), Master(goods, cases, spaces(studio)))
        found.say = say or found.say
        found.stop = stop or found.stop
        return found

    def best(
        self,
        budget: int | None,
        *,
        least: int = 0,
        force: Mapping[str, int] | None = None,
        ban: Iterable[frozenset[tuple[str, str, str]]] = (),
    ) -> Kit | None:
        """The most valuable kit within a budget [cents], the cheapest of equals. Raises Stopped."""
        banned = tuple(ban)
        self._begin()
        while True:
            if self.stop():
                raise Stopped
            choice = self.master.solve(budget, least=least, force=force, ban=banned, stop=self.stop)
            if choice is None:
                return None
            passes = self._checked(choice)
            if passes is not None and self._stows(choice):
                if self.first_s is None and choice.recipes:
                    self.first_s = time.perf_counter() - self.begun
                return Kit(choice, passes)

    def _begin(self) -> None:
        """Once: which lenses fit the room for each shot at all."""
        if self.ready:
            return
        self.ready = True
        for case in self.master.cases:
            if self.stop():
                raise Stopped
            self.say(case.shot.name, len(self.checker.kept), len(self.master.cuts))
            for clause in self.checker.lenses(case):
                self.master.cuts.clauses.append((case.id, clause))
                for _, key in clause.never:
                    case.dropped.setdefault(key, clause.why)

    def _checked(self, choice: Choice) -> dict[str, Pass] | None:
        """Every picked recipe's pass, or None after what was learnt has been added."""
        passes, learnt = {}, 0
        cases = {case.id: case for case in self.cases}
        for key, recipe in choice.recipes.items():
            if self.stop():
                raise Stopped
            found = self.checker.check(cases[key], recipe)
            self.master.cuts.clauses += (more := self.checker.learnt())
            learnt += len(more)
            self.master.cuts.needs += [Need(*one) for one in self.checker.weighed()]
            self.say(cases[key].shot.name, len(self.checker.kept), len(self.master.cuts))
            if isinstance(found, Fail):
                self.master.cuts.clauses.append((key, found.clause))
                learnt += 1
                continue
            passes[key] = found
            learnt += self._needs(choice, key, recipe, found)
        return None if learnt else passes

    def _needs(self, choice: Choice, case: str, recipe: Recipe, found: Pass) -> int:
        """What a recipe needs besides that the choice does not have yet."""
        wanted = [
            Need(case, one.unit, frozenset((slot, recipe[slot]) for slot in one.slots), one.key, one.count)
            for one in found.besides
        ]
        wanted = [self._longest(need) for need in wanted]
        sums: Counter[str] = Counter()
        for need in wanted:
            sums[need.key] += need.count
        lacking = {k for k, n in sums.items() if self.market.by_key[k].owned + choice.bought.get(k, 0) < n}
        for need in wanted:
            known = self.master.cuts.needs if self._long(need.key) is None else self.master.cuts.leads
            if need.key in lacking and need not in known:
                known.append(need)
        return len(lacking)

    def _longest(self, need: Need) -> Need:
        """Of leads that one unit was found to need in different places, the longest stands for all."""
        length = self._long(need.key)
        if length is None:
            return need
        known = self.master.cuts.leads
        for other in known:
            if (other.case, other.unit, other.when) != (need.case, need.unit, need.when):
                continue
            if (self._long(other.key) or 0.0) >= length:
                return other
            known.remove(other)
            break
        return need

    def _long(self, key: str) -> float | None:
        """Length of a lead [m]; None for what is none."""
        item = self.market.by_key[key].item
        return item.length.value if isinstance(item, Lead) and item.length else None

    def _stows(self, choice: Choice) -> bool:
        """Whether everything owned and bought goes into the places; what does not is forbidden together."""
        if self.studio.brief.schools.standing == "leave it standing" or not spaces_of(self.studio.room.places):
            return True
        if not self._unstowed(choice.bought):
            return True
        culprits = dict(choice.bought)
        for key in sorted(culprits, key=lambda k: -(self.market.by_key[k].cents or 0)):
            without = {k: n for k, n in culprits.items() if k != key}
            if self._unstowed(without):
                culprits = without
        names = ", ".join(self.market.by_key[key].item.called for key in culprits)
        self.master.cuts.bounds.append(Bound(culprits, f"they find no place together: {names}"))
        return False

    def _unstowed(self, bought: Mapping[str, int]) -> int:
        """How many things find no place because of what is bought."""
        owned = [good.item.changed(quantity=good.owned) for good in self.market.goods if good.owned]
        more = [self.market.by_key[k].item.changed(status="planned", quantity=n) for k, n in bought.items() if n]
        places = spaces_of(self.studio.room.places)
        already = {one.piece.key for one in pack(pieces_of(owned), places).left}
        return sum(one.piece.key not in already for one in pack(pieces_of([*owned, *more]), places).left)


def spaces(studio: Studio) -> tuple[float, float] | None:
    """Litres and kilograms of all places, where everything is struck after a session and places are measured."""
    found = spaces_of(studio.room.places)
    if studio.brief.schools.standing == "leave it standing" or not found:
        return None
    return sum(space.volume for space in found) * 1000, sum(space.load for space in found)


@dataclass(frozen=True)
class Step:
    """A point of the frontier: from this cost on [cents], this much is possible."""

    cents: int
    value: tuple[int, int, int, int]
    shots: tuple[str, ...]
    bought: Mapping[str, int]


def frontier(search: Search, top: int | None, most: int = 14) -> list[Step]:
    """Budget against shots, dearest first found, cheapest first given: each step is the least money for what it
    makes, and nothing lies between two steps."""
    steps: list[Step] = []
    budget = top
    while len(steps) < most:
        kit = search.best(budget)
        if kit is None or not kit.choice.recipes:
            break
        made = tuple(case.id for case in search.cases if case.id in kit.choice.recipes)
        steps.append(Step(kit.cents, kit.value, made, kit.choice.bought))
        if kit.cents == 0:
            break
        budget = kit.cents - 1
    return steps[::-1]


def proof_words() -> str:
    """What a proof covers."""
    far = ", ".join(f"{near:g}" for near in sorted({one for one, _ in NEAR}))
    return (
        "Proved for every combination of what is owned and on offer, on the search's grid: marks every "
        f"{GRID.step * 100:.0f} cm, the lens every {GRID.turn:.0f}°, along walls every {GRID.along * 100:.0f} cm, "
        f"the key at {far} of its usual distance and up to 9° further round. Of camera, lens, tripod and table, "
        "what you own is used where it serves. Light, leads and weights are judged at the first place on that grid "
        "where a set fits, and a light half a stop outside its window at a usual place counts as outside everywhere; "
        "a packing that was not found counts as none. Contrast, tint, depth of field and room light are left to the "
        "ledger: settings and walls settle them, not gear."
    )
