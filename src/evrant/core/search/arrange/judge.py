"""The geometry of a set as the ledger judges it, and the one number a search compares."""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

from evrant.core.base.margins import Margin, Search, Verdict
from evrant.core.base.memo import fresh, plain
from evrant.core.judge.declared import lines, placed, searched
from evrant.core.judge.rules.support.holding import HOLDER_PLACE
from evrant.core.judge.rules.support.support import HOLDER_SPAN
from evrant.core.space.scene import Scene

Rule = Callable[[Scene], Iterable[Margin]]
GEOMETRY: tuple[Search, ...] = ("kept", "placed", "either")
"""Kinds of lines that are about where things are: those a search compares sets by."""


def geometry() -> tuple[Rule, ...]:
    """The rules of a set that are about where things are, the cheap ones first."""
    return tuple(rule.of for rule in searched(*GEOMETRY))


@dataclass(frozen=True)
class Judged:
    """Geometry lines of a set, worst first, and the least severity among them."""

    lines: tuple[Margin, ...]
    worst: float

    @property
    def fits(self) -> bool:
        return self.worst >= 0

    @property
    def short(self) -> tuple[Margin, ...]:
        return tuple(line for line in self.lines if line.verdict is Verdict.SHORT)


def counts(line: Margin) -> bool:
    """Whether a line is one that arranging can better, and known."""
    return line.margin is not None and line.line.search != "no"


def judged(scene: Scene) -> Judged:
    """Every counting line of a set as the ledger has it."""
    return _of([line for rule in geometry() for line in rule(scene)])


def judged_plainly(scene: Scene, floor: float = float("-inf"), leave: frozenset[str] = frozenset()) -> float:
    """At least the worst severity of a set that fits, without the shares of sizes and pictures; below zero when
    it does not fit. Gives up below `floor`; codes in `leave` do not count."""
    with plain():
        return _worst(scene, geometry(), floor, leave)


def rules_of_places() -> list[Rule]:
    """The rules whose verdict hangs on where in the room a set stands."""
    return [rule.of for rule in placed()]


def judged_by_place(scene: Scene, floor: float, rules: list[Rule]) -> float:
    """`judged_plainly` of a set that passed in the open: only by the `rules` that its place in the room changes. The
    one that told the most of it is asked first of the next place: poses of one formation fail by the same."""
    worst = float("inf")
    with plain():
        for number, rule in enumerate(rules):
            worst = min(worst, _worst(scene, (rule,), floor, frozenset()))
            if worst < floor:
                rules.insert(0, rules.pop(number))
                break
    return worst


def _worst(scene: Scene, rules: Sequence[Rule], floor: float, leave: frozenset[str]) -> float:
    worst = float("inf")
    for rule in rules:
        for line in rule(scene):
            if counts(line) and line.code not in leave:
                worst = min(worst, line.severity)
                if worst < floor:
                    return worst
    return worst


def judged_in_the_open(scene: Scene, floor: float = float("-inf")) -> float:
    """`judged_plainly` of a formation in the open room, where no wall is near that something could hang from."""
    rod = scene.holder is not None and scene.holder.system == "tension rod"
    return judged_plainly(scene, floor, frozenset({HOLDER_PLACE.code, *((HOLDER_SPAN.code,) if rod else ())}))


def hangs_on_place() -> frozenset[str]:
    """Codes of lines that depend on where in the room a set stands."""
    return frozenset(code for code, line in lines().items() if line.search == "placed")


def judged_within(scene: Scene, floor: float) -> float:
    """The worst severity, in full, among lines that stay the same wherever a set is put; gives up below `floor`."""
    with fresh():
        kept = [rule.of for rule in searched("kept", "either")]
        return _worst(scene, kept, floor, hangs_on_place())


def judged_anew(scene: Scene) -> Judged:
    """As `judged`, remembering nothing: for a search's many sets that are looked at once."""
    with fresh():
        return judged(scene)


def _of(lines: Sequence[Margin]) -> Judged:
    counting = [line for line in lines if counts(line)]
    found = sorted(counting, key=lambda line: (line.order()[0], line.severity))
    return Judged(tuple(found), worst_of(counting))


def worst_of(lines: Iterable[Margin]) -> float:
    return min((line.severity for line in lines), default=float("inf"))
