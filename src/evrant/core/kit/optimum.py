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
from evrant.core.kit.check import GRID, LEVELS, Checker, Fail, Pass, Report
from evrant.core.kit.crew import Crew
from evrant.core.kit.market import Market, market
from evrant.core.kit.master import Bound, Choice, Master, Need
from evrant.core.kit.unit import NEAR
from evrant.core.stow.packing import pack
from evrant.core.stow.pieces import pieces_of, spaces_of
from evrant.core.studio.gear import Item
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
    crew: Crew
    master: Master
    say: Say = lambda words, checks, cuts: None
    stop: Stop = lambda: False
    first_s: float | None = None
    ready: bool = False
    begun: float = field(default_factory=time.perf_counter)

    @classmethod
    def of(
        cls,
        studio: Studio,
        library: Sequence[Item],
        say: Say | None = None,
        stop: Stop | None = None,
        *,
        both: bool = False,
    ) -> "Search":
        """`both`: on two cores, where there are; such a search is to be closed."""
        goods = market(studio, library)
        cases = [case_of(studio, shot, goods) for shot in studio.shots]
        crew = Crew.of(Checker(studio, goods), {case.id: case for case in cases}, both=both)
        found = cls(studio, goods, cases, crew, Master(goods, cases, spaces(studio)))
        found.say = say or found.say
        found.stop = stop or found.stop
        return found

    def close(self) -> None:
        """End the process that helped, if one did."""
        self.crew.close()

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
        reports = self.crew.lenses(self.stop, self._heard)
        self._take(reports)
        for key, report in reports.items():
            for clause in report.clauses:
                for _, lens in clause.never:
                    self.crew.cases[key].dropped.setdefault(lens, clause.why)
        if self.stop():
            raise Stopped
        self.ready = True

    def _heard(self, case: Case) -> None:
        self.say(case.shot.name, self.crew.counts.recipes, len(self.master.cuts))

    def _checked(self, choice: Choice) -> dict[str, Pass] | None:
        """Every picked recipe's pass, or None after what was learnt has been added: what is cheap to find out of all
        of them first."""
        reports: dict[str, Report] = {}
        for level in range(LEVELS):
            reports = self.crew.reports(level, choice.recipes, self.stop, self._heard)
            learnt = self._take(reports)
            if self.stop():
                raise Stopped
            if learnt:
                return None
        passes = {key: report.found for key, report in reports.items() if isinstance(report.found, Pass)}
        lacking = [self._needs(choice, key, choice.recipes[key], found) for key, found in passes.items()]
        return None if any(lacking) else passes

    def _take(self, reports: Mapping[str, Report]) -> int:
        """Add what was learnt of each case; how much that was."""
        before = len(self.master.cuts)
        for key, report in reports.items():
            failed = [report.found.clause] if isinstance(report.found, Fail) else []
            self.master.cuts.clauses += [(key, clause) for clause in (*report.clauses, *failed)]
            self.master.cuts.needs += [Need(key, w.light, w.when, w.key, w.count) for w in report.weights]
        return len(self.master.cuts) - before

    def _needs(self, choice: Choice, case: str, recipe: Recipe, found: Pass) -> int:
        """How many things a recipe needs besides that the choice does not have yet; they are added."""
        sums: Counter[str] = Counter()
        for one in found.besides:
            sums[one.key] += one.count
        lacking = {k for k, n in sums.items() if self.market.by_key[k].owned + choice.bought.get(k, 0) < n}
        for one in found.besides:
            if one.key in lacking:
                when = frozenset((slot, recipe[slot]) for slot in one.slots if slot in recipe)
                self.master.cuts.needs.append(Need(case, one.unit, when, one.key, one.count))
        return len(lacking)

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
