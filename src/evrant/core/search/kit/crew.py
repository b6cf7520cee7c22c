"""Who looks into recipes: a checker here and, where somebody starts one, a helper elsewhere.

Each case is looked into by the same of them, so that what it learnt there serves the next look: by the one that had
time for it when it was first looked into by itself. What is found does not depend on who looks.
"""

from collections import Counter
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Protocol

from evrant.core.search.kit.case import Case, Recipe
from evrant.core.search.kit.check import LENSES, Checker
from evrant.core.search.kit.market import Market
from evrant.core.search.kit.verdicts import Counts, Fail, Report
from evrant.core.studio.studio import Studio

if TYPE_CHECKING:
    from evrant.core.search.kit.alone import Alone  # it loads the solver, which who only starts a search does not need

WAITED = 0.2
"""So often it is asked whether the time is up while a helper is waited for [s]."""
Heard = Callable[[Case], None]
Told = Callable[[str, Report], None]
"""Hears what was found of a case, by its id."""


@dataclass(frozen=True)
class Task:
    """Recipes to look into at a level, by case; with `all`, also after one has failed."""

    level: int
    recipes: Mapping[str, Recipe]
    all: bool = True


@dataclass(frozen=True)
class Lone:
    """One case to look into by itself, within a budget [cents], where so many of some things are there `free`."""

    case: str
    budget: int | None
    free: Mapping[str, int] = field(default_factory=dict)


@dataclass(frozen=True)
class Answer:
    """What was found, by case, and what the checker has counted so far."""

    reports: Mapping[str, Report]
    counts: Counts


class Gone(Exception):
    """The process has ended."""


class Helper(Protocol):
    """One that looks into recipes elsewhere, and is waited for."""

    def ask(self, task: Task | Lone) -> None: ...

    def ready(self, seconds: float = 0.0) -> bool:
        """Whether `answer` would come at once, or would after so long."""
        ...

    def answer(self) -> Answer:
        """Raises Gone when it has ended."""
        ...

    def close(self) -> None: ...


Start = Callable[[Studio, Market, Sequence[Case]], Helper | None]
"""Starts a helper for some cases; None where there is no core for one."""


@dataclass
class Crew:
    """One or two checkers over a studio's cases."""

    alone: "Alone"
    cases: Mapping[str, Case]
    aside: Helper | None = None
    theirs: frozenset[str] = frozenset()
    elsewhere: Counts = field(default_factory=Counts)
    failures: Counter[str] = field(default_factory=Counter)
    owned: set[str] = field(default_factory=set)
    """Cases of which it is settled who looks into them."""
    busy: Lone | None = None
    """What the helper looks into by itself."""

    @property
    def checker(self) -> Checker:
        return self.alone.checker

    @classmethod
    def of(cls, alone: "Alone", cases: Mapping[str, Case], *, helper: Start | None) -> "Crew":
        """With a helper that can be started, every other case is looked into by it."""
        possible = [case for case in cases.values() if not case.impossible]
        theirs = possible[1::2]
        aside = helper(alone.checker.studio, alone.checker.market, possible) if helper is not None and theirs else None
        if aside is None:
            return cls(alone, cases)
        return cls(alone, cases, aside, frozenset(case.id for case in theirs))

    @property
    def counts(self) -> Counts:
        """What both have counted."""
        return self.checker.counts + self.elsewhere

    def lenses(self, stop: Callable[[], bool], heard: Heard) -> dict[str, Report]:
        """What is known of the lenses of every case before anything is chosen."""
        possible = {key: Recipe() for key, case in self.cases.items() if not case.impossible}
        return self.reports(LENSES, possible, stop, heard)

    def by_themselves(self, jobs: Iterable[Lone], stop: Callable[[], bool], heard: Heard, told: Told) -> None:
        """Look into cases, each alone, the largest first; `told` hears what is learnt as it comes. Ends early when
        `stop` says so."""
        todo = sorted(jobs, key=lambda job: _size(self.cases[job.case]), reverse=True)
        self._back(todo, told, stop)
        while todo or self.busy is not None:
            self._hand_over(todo)
            mine = next((job for job in todo if job.case not in self.owned or job.case not in self.theirs), None)
            if mine is None:
                self._back(todo, told, stop)
                continue
            todo.remove(mine)
            case = self.cases[mine.case]
            for _ in self.alone.looks(case, mine.budget, mine.free):
                heard(case)
                if stop():
                    break
                if self.aside is not None and self.busy is not None and self.aside.ready():
                    self._back(todo, told, stop)
                    self._hand_over(todo)
            told(case.id, self._learnt(case.id, self.alone.taken(case), aside=False))
            if stop():
                return

    def _hand_over(self, todo: list[Lone]) -> None:
        """Give the helper the next case that is nobody's or its own, if it has none."""
        job = next((job for job in todo if job.case not in self.owned or job.case in self.theirs), None)
        if self.aside is None or self.busy is not None or job is None:
            return
        todo.remove(job)
        self.aside.ask(job)
        self.busy = job

    def _back(self, todo: list[Lone], told: Told, stop: Callable[[], bool]) -> None:
        """What the helper found of the case it has, waited for; when it has ended, its case is to do again."""
        if self.aside is None or self.busy is None:
            return
        job, self.busy = self.busy, None
        try:
            answer = self._answer(self.aside, stop)
        except Gone:
            self.close()
            todo.append(job)
            return
        self.elsewhere = answer.counts
        for key, report in answer.reports.items():
            told(key, self._learnt(key, report, aside=True))

    @staticmethod
    def _answer(helper: Helper, stop: Callable[[], bool]) -> Answer:
        """What a helper found. Raises Gone when it has ended, and when `stop` says so while it is waited for."""
        while not helper.ready(WAITED):
            if stop():
                raise Gone
        return helper.answer()

    def _learnt(self, key: str, report: Report, *, aside: bool) -> Report:
        """A case stays with whoever learnt something of it first."""
        if key not in self.owned and not report.empty:
            self.owned.add(key)
            self.theirs = self.theirs | {key} if aside else self.theirs - {key}
        return report

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
        self._back([], lambda key, report: None, stop)
        order = list(recipes) if every else sorted(recipes, key=lambda key: -self.failures[key])
        away = {key: recipes[key] for key in order if key in self.theirs}
        if self.aside is not None and away:
            self.aside.ask(Task(level, away, every))
        found: dict[str, Report] = {}
        for key in order:
            if key in self.theirs or stop():
                continue
            heard(self.cases[key])
            found[key] = self.alone.report(self.cases[key], recipes[key], level)
            if not every and isinstance(found[key].found, Fail):
                break
        if self.aside is not None and away:
            try:
                answer = self._answer(self.aside, stop)
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
            self.aside, self.theirs, self.busy = None, frozenset(), None


def _size(case: Case) -> tuple[int, int]:
    """How much there is to a case: how many lights, and how many things to choose from."""
    return len(case.lights()), sum(len(slot.keys) for slot in case.slots.values())
