"""Each shot by itself, before shots are chosen together: the cheapest recipe that passes, or that none does for a sum.

What a shot cannot be made with is learnt at the price of a small programme and one look, not of the whole choice; and
nobody waits for the other shots.
"""

from collections.abc import Iterator
from dataclasses import dataclass, field
from math import inf

from evrant.core.search.kit.case import Case, Recipe
from evrant.core.search.kit.check import LEVELS, Checker
from evrant.core.search.kit.master import Master, Need
from evrant.core.search.kit.verdicts import Fail, Report


@dataclass
class Alone:
    """Shots by themselves, on one checker. What else the checker learns is to be told through `report` too, so that it
    counts here."""

    checker: Checker
    masters: dict[str, Master] = field(default_factory=dict)
    settled: dict[str, float] = field(default_factory=dict)
    """Up to which sum [cents] it is known what a shot costs by itself, or that it cannot be made."""
    told: dict[str, list[Report]] = field(default_factory=dict)

    def report(self, case: Case, recipe: Recipe, level: int) -> Report:
        """As the checker's, and learnt from."""
        report = self.checker.report(case, recipe, level)
        take(self._master(case), case.id, report)
        return report

    def looks(self, case: Case, budget: int | None) -> Iterator[None]:
        """Look into one recipe after the other, the cheapest within a budget [cents] first, until one passes. Raises
        Stopped; what was learnt by then stays to be taken."""
        limit = inf if budget is None else float(budget)
        if self.settled.get(case.id, -1.0) >= limit:
            return
        while True:
            choice = self._master(case).solve(budget)
            if choice is None or not choice.recipes:
                self.settled[case.id] = limit
                return
            for level in range(LEVELS):
                report = self.report(case, choice.recipes[case.id], level)
                self.told.setdefault(case.id, []).append(report)
                yield
                if isinstance(report.found, Fail) or report.clauses or report.weights:
                    break
            else:
                self.settled[case.id] = inf
                return

    def taken(self, case: Case) -> Report:
        """All that was learnt of a shot since it was taken last; no verdict."""
        told = self.told.pop(case.id, [])
        failed = (report.found.clause for report in told if isinstance(report.found, Fail))
        clauses = (*(clause for report in told for clause in report.clauses), *failed)
        return Report(None, clauses, tuple(weight for report in told for weight in report.weights))

    def _master(self, case: Case) -> Master:
        if case.id not in self.masters:
            self.masters[case.id] = Master(self.checker.market, [case])
        return self.masters[case.id]


def take(master: Master, key: str, report: Report) -> None:
    """Add what was learnt of a case to a programme."""
    failed = [report.found.clause] if isinstance(report.found, Fail) else []
    master.cuts.clauses += [(key, clause) for clause in (*report.clauses, *failed)]
    master.cuts.needs += [Need(key, w.light, w.when, w.key, w.count) for w in report.weights]
