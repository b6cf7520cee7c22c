"""Each shot by itself, before shots are chosen together: the cheapest recipe that passes, or that none does for a sum.

What a shot cannot be made with is learnt at the price of a small programme and one look, not of the whole choice; and
nobody waits for the other shots.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from math import inf

from evrant.core.search.kit.case import Case, Recipe
from evrant.core.search.kit.check import LENSES, LEVELS, Checker
from evrant.core.search.kit.master import NONE, Master
from evrant.core.search.kit.verdicts import Fail, Pass, Report


@dataclass
class Alone:
    """Shots by themselves, on one checker. What else the checker learns is to be told through `report` too, so that it
    counts here."""

    checker: Checker
    masters: dict[str, Master] = field(default_factory=dict)
    settled: dict[str, float] = field(default_factory=dict)
    """Up to which sum [cents] it is known what a shot costs by itself, or that it cannot be made."""
    told: dict[str, list[Report]] = field(default_factory=dict)
    begun: set[str] = field(default_factory=set)
    """Shots whose lenses are known here."""

    def report(self, case: Case, recipe: Recipe, level: int) -> Report:
        """As the checker's, and learnt from."""
        report = self.checker.report(case, recipe, level)
        self._master(case).cuts.learn(case.id, report)
        if level == LENSES:
            self.begun.add(case.id)
        return report

    def looks(self, case: Case, budget: int | None, free: Mapping[str, int] = NONE) -> Iterator[None]:
        """Look into one recipe after the other, the cheapest within a budget [cents] first, until one passes; so many
        of some things are `free`. Raises Stopped; what was learnt by then stays to be taken."""
        limit = inf if budget is None else float(budget)
        if not free and self.settled.get(case.id, -1.0) >= limit:
            return
        told = self.told.setdefault(case.id, [])
        if case.id not in self.begun:
            told.append(self.report(case, Recipe(), LENSES))
        while True:
            choice = self._master(case).solve(budget, free=free)
            if choice is None or not choice.recipes:
                if self._opens(case):
                    told.append(self._open(case))
                    continue
                self.settled[case.id] = self.settled.get(case.id, -1.0) if free else limit
                return
            recipe = choice.recipes[case.id]
            for level in range(LEVELS):
                report = self.report(case, recipe, level)
                told.append(report if report.found is None else replace(report, recipe=recipe, bought=choice.bought))
                yield
                if not isinstance(report.found, Pass) and not report.empty:
                    break
            else:
                self.settled[case.id] = self.settled.get(case.id, -1.0) if free else inf
                return

    def taken(self, case: Case) -> Report:
        """All that was learnt of a shot since it was taken last, and the recipe that passes if one was found."""
        told = self.told.pop(case.id, [])
        failed = (report.found.clause for report in told if isinstance(report.found, Fail))
        clauses = (*(clause for report in told for clause in report.clauses), *failed)
        weights = tuple(weight for report in told for weight in report.weights)
        unlit = tuple(one for report in told for one in report.unlit)
        passed = next((report for report in told if isinstance(report.found, Pass)), Report(None))
        opened = any(report.opened for report in told)
        return Report(passed.found, clauses, weights, unlit, passed.recipe, passed.bought, opened)

    def _opens(self, case: Case) -> bool:
        """Whether something was left out for what there is, and with that nothing works whatever the sum."""
        master = self._master(case)
        if case.id in master.cuts.opened or not any(clause.own for _, clause in master.cuts.clauses):
            return False
        choice = master.solve(None)
        return choice is None or not choice.recipes

    def _open(self, case: Case) -> Report:
        report = Report(None, opened=True)
        self._master(case).cuts.learn(case.id, report)
        return report

    def _master(self, case: Case) -> Master:
        if case.id not in self.masters:
            self.masters[case.id] = Master(self.checker.market, [case])
        return self.masters[case.id]
