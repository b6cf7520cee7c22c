"""Who looks into recipes: a checker here and, where somebody starts one, a helper elsewhere.

Each case is always looked into by the same of them, so that what it learnt there serves the next look; what is
found does not depend on who looks.
"""

from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Protocol

from evrant.core.search.kit.case import Case, Recipe
from evrant.core.search.kit.check import LENSES, Checker
from evrant.core.search.kit.market import Market
from evrant.core.search.kit.verdicts import Counts, Fail, Report
from evrant.core.studio.studio import Studio

Heard = Callable[[Case], None]


@dataclass(frozen=True)
class Task:
    """Recipes to look into at a level, by case; with `all`, also after one has failed."""

    level: int
    recipes: Mapping[str, Recipe]
    all: bool = True


@dataclass(frozen=True)
class Answer:
    """What was found, by case, and what the checker has counted so far."""

    reports: Mapping[str, Report]
    counts: Counts


class Gone(Exception):
    """The process has ended."""


class Helper(Protocol):
    """One that looks into recipes elsewhere, and is waited for."""

    def ask(self, task: Task) -> None: ...

    def answer(self) -> Answer:
        """Raises Gone when it has ended."""
        ...

    def close(self) -> None: ...


Start = Callable[[Studio, Market, Sequence[Case]], Helper | None]
"""Starts a helper for some cases; None where there is no core for one."""


@dataclass
class Crew:
    """One or two checkers over a studio's cases."""

    checker: Checker
    cases: Mapping[str, Case]
    aside: Helper | None = None
    theirs: frozenset[str] = frozenset()
    elsewhere: Counts = field(default_factory=Counts)
    failures: Counter[str] = field(default_factory=Counter)

    @classmethod
    def of(cls, checker: Checker, cases: Mapping[str, Case], *, helper: Start | None) -> "Crew":
        """With a helper that can be started, every other case is looked into by it."""
        possible = [case for case in cases.values() if not case.impossible]
        theirs = possible[1::2]
        aside = helper(checker.studio, checker.market, theirs) if helper is not None and theirs else None
        if aside is None:
            return cls(checker, cases)
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
