"""Who looks into recipes: a checker here and, where a core is free for it, one in a process aside.

Each case is always looked into by the same of them, so that what it learnt there serves the next look; what is
found does not depend on who looks.
"""

import os
from collections import Counter
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from evrant.core.search.kit.aside import Aside, Gone, Task
from evrant.core.search.kit.case import Case, Recipe
from evrant.core.search.kit.check import LENSES, Checker
from evrant.core.search.kit.verdicts import Counts, Fail, Report

Heard = Callable[[Case], None]


def cores() -> int:
    """Cores this process may use."""
    return len(os.sched_getaffinity(0)) if hasattr(os, "sched_getaffinity") else os.cpu_count() or 1


@dataclass
class Crew:
    """One or two checkers over a studio's cases."""

    checker: Checker
    cases: Mapping[str, Case]
    aside: Aside | None = None
    theirs: frozenset[str] = frozenset()
    elsewhere: Counts = field(default_factory=Counts)
    failures: Counter[str] = field(default_factory=Counter)

    @classmethod
    def of(cls, checker: Checker, cases: Mapping[str, Case], *, both: bool) -> "Crew":
        """`both`: with every other case looked into aside, where there is a core for it."""
        possible = [case for case in cases.values() if not case.impossible]
        if not both or len(possible) < 2 or cores() < 2:
            return cls(checker, cases)
        theirs = possible[1::2]
        aside = Aside(checker.studio, checker.market, theirs)
        return cls(checker, cases, aside, frozenset(case.id for case in theirs))

    @property
    def counts(self) -> Counts:
        """What both have counted."""
        return self.checker.counts + self.elsewhere

    def lenses(self, stop: Callable[[], bool], heard: Heard) -> dict[str, Report]:
        """What is known of the lenses of every case before anything is chosen."""
        possible = {key: Recipe() for key, case in self.cases.items() if not case.impossible}
        return self.reports(LENSES, possible, stop, heard)

    def reports(
        self,
        level: int,
        recipes: Mapping[str, Recipe],
        stop: Callable[[], bool],
        heard: Heard,
        *,
        every: bool = True,
    ) -> dict[str, Report]:
        """Each recipe looked into, by case. Ends early when `stop` says so and, unless `every` is wanted, each of the
        two at its first failure; then what has failed most often is looked into first."""
        order = list(recipes) if every else sorted(recipes, key=lambda key: -self.failures[key])
        away = {key: recipes[key] for key in order if key in self.theirs}
        if self.aside is not None and away:
            self.aside.ask(Task(level, away, every))
        found: dict[str, Report] = {}
        for key in order:
            if key in self.theirs or stop():
                continue
            heard(self.cases[key])
            found[key] = self.checker.report(self.cases[key], recipes[key], level)
            if not every and isinstance(found[key].found, Fail):
                break
        if self.aside is not None and away:
            try:
                answer = self.aside.answer()
            except Gone:
                self.close()
                return found | self.reports(level, away, stop, heard, every=every)
            self.elsewhere = answer.counts
            found |= answer.reports
        self.failures.update(key for key, report in found.items() if isinstance(report.found, Fail))
        return {key: found[key] for key in recipes if key in found}

    def close(self) -> None:
        """End the process aside; what it looked into is looked into here from now on."""
        if self.aside is not None:
            self.aside.close()
            self.aside, self.theirs = None, frozenset()
