"""Settle all: the fewest remedies that leave no Short line, each combination judged by the whole ledger.

First remedies are taken one by one, each that lifts most and breaks nothing; then every one of them that can be spared
is left out again; then, where the remedies seen are few, every smaller choice of them is tried: what none of those
reaches is the least.
"""

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field, replace
from itertools import combinations
from typing import Any

from pydantic import ValidationError

from evrant.core.base.clock import Clock, standing_still
from evrant.core.base.margins import Margin, Verdict
from evrant.core.edits.language import EDIT, Edit, EditRefused, Several, together
from evrant.core.judge.ledger import Ledger, ledger_of
from evrant.core.judge.remedies import remedies_of
from evrant.core.place.moves import change
from evrant.core.studio.studio import Studio, by_id

FEW_TRIALS = 200
"""Choices of remedies that are tried to prove that a smaller one does not do."""
NEARLY, PARTLY = 4, 2
"""Remedies that make one other line Short, and such as better a line but not enough, that are tried with another."""
FAR = 24
"""Remedies taken at most."""
Tell = Callable[[str], None]


@dataclass(frozen=True)
class Taken:
    """A remedy that is part of the answer: in words, as an edit, the line it is for and all lines it lifts."""

    label: str
    edit: Edit
    line: str
    lifts: tuple[str, ...] = ()


@dataclass(frozen=True)
class Settled:
    """What to change, the studio with it, how many Short and Unknown lines there were and are, and what binds.

    `least`: no fewer of the remedies seen reach as far. `tight` are lines to be accepted. `whole`: it was not cut off.
    """

    taken: tuple[Taken, ...]
    studio: Studio
    before: Ledger
    after: Ledger
    least: bool
    whole: bool

    @property
    def edit(self) -> Several:
        """All of it as one change."""
        return together((one.edit for one in self.taken), "Settled")

    @property
    def binds(self) -> tuple[Margin, ...]:
        """Lines that stay Short whatever was tried."""
        return tuple(line for line in self.after.lines if line.verdict is Verdict.SHORT)

    @property
    def unknown(self) -> tuple[Margin, ...]:
        """What is to be measured or read first: no change settles it."""
        return tuple(line for line in self.after.lines if line.verdict is Verdict.UNKNOWN)

    @property
    def tight(self) -> tuple[Margin, ...]:
        """What is to be accepted, or measured better."""
        accepted = self.after.accepted
        return tuple(m for m in self.after.lines if m.verdict is Verdict.TIGHT and m.token not in accepted)


@dataclass
class _Search:
    """The remedies seen, and until when more is looked for."""

    until: float
    clock: Clock
    tell: Tell
    stop: Callable[[], bool]
    seen: dict[str, Taken] = field(default_factory=dict)

    def late(self) -> bool:
        return self.clock() >= self.until or self.stop()


def settle(
    studio: Studio,
    *,
    seconds: float = 90.0,
    clock: Clock = standing_still,
    tell: Tell = lambda words: None,
    stop: Callable[[], bool] = lambda: False,
) -> Settled:
    """The fewest remedies after which no line is Short, or as few as can be."""
    before = ledger_of(studio)
    search = _Search(clock() + seconds, clock, tell, stop)
    taken, after = _greedily(studio, before, search)
    whole = not search.late()
    taken = _spared(studio, taken, after)
    least = False
    if whole:
        taken, least = _smaller(studio, taken, search)
    done = _carried(studio, taken)
    return Settled(tuple(_lifting(studio, taken)), done, before, ledger_of(done), least, whole)


def told(found: Settled) -> dict[str, Any]:
    """An answer as plain data."""
    return {
        "changes": [
            {"label": one.label, "for": one.line, "lifts": list(one.lifts), "edit": one.edit.model_dump(mode="json")}
            for one in found.taken
        ],
        "before": _counts(found.before),
        "after": _counts(found.after),
        "least": found.least,
        "finished": found.whole,
        "ready": found.after.ready,
        "binds": [_where(found, line) for line in found.binds],
        "measure": [_where(found, line) for line in found.unknown],
        "accept": [line.token for line in found.tight],
    }


def _where(found: Settled, line: Margin) -> str:
    """A line's sentence, with the set it is about where there are several."""
    plan = by_id(found.studio.sets, line.set_id)
    return f"{plan.name}: {line.sentence}" if plan and len(found.studio.sets) > 1 else line.sentence


def _counts(ledger: Ledger) -> dict[str, int]:
    return {verdict.value: ledger.count(verdict) for verdict in Verdict}


def _shorts(ledger: Ledger) -> set[str]:
    return {line.key for line in ledger.lines if line.verdict is Verdict.SHORT}


def _greedily(studio: Studio, ledger: Ledger, search: _Search) -> tuple[list[Taken], Ledger]:
    """Remedies one after another: of the worst line that has any, the one that leaves the fewest lines Short."""
    taken: list[Taken] = []
    given_up: set[str] = set()
    while len(taken) < FAR and not search.late():
        found = None
        for line in [m for m in ledger.lines if m.verdict is Verdict.SHORT and m.key not in given_up]:
            found = _best(studio, ledger, line, search)
            if found is not None or search.late():
                break
            given_up.add(line.key)
        if found is None:
            break
        step, studio, ledger = found
        search.tell(step.label)
        taken.append(step)
    return taken, ledger


def _best(studio: Studio, ledger: Ledger, line: Margin, search: _Search) -> tuple[Taken, Studio, Ledger] | None:
    """The remedy of a line after which the fewest lines are Short, fewer than before; where there is none, one that
    makes a single line Short together with what settles that, or two that clear the line together."""
    shorts = _shorts(ledger)
    best: tuple[int, Taken, Studio, Ledger] | None = None
    nearly: list[tuple[Taken, Studio, Ledger]] = []
    partly: list[tuple[Taken, Studio, Ledger]] = []
    for step, after, there in _remedied(studio, ledger, line, search):
        left = _shorts(there)
        more = left - shorts
        if not more and len(left) < len(shorts) and (best is None or len(left) < best[0]):
            best = len(left), step, after, there
        if len(more) == 1 and line.key not in left:
            nearly.append((step, after, there))
        if left == shorts:
            partly.append((step, after, there))
    if best is not None:
        return best[1:]
    partly.sort(key=lambda one: -_severity(one[2], line.key))
    two = (*nearly[:NEARLY], *partly[:PARTLY])
    return next((found for one in two if (found := _with_second(shorts, one, search))), None)


def _severity(ledger: Ledger, key: str) -> float:
    line = ledger.find(key)
    return line.severity if line is not None else 0.0


def _remedied(studio: Studio, ledger: Ledger, line: Margin, search: _Search) -> Iterator[tuple[Taken, Studio, Ledger]]:
    """Each remedy of a line carried out and judged."""
    for remedy in remedies_of(studio, line, ledger):
        edit = EDIT.validate_python(remedy.edit)
        after = tried(studio, [edit])
        if after is not None:
            step = Taken(remedy.label, edit, line.key)
            search.seen.setdefault(EDIT.dump_json(edit).decode(), step)
            yield step, after, ledger_of(after)


def _with_second(
    shorts: set[str], first: tuple[Taken, Studio, Ledger], search: _Search
) -> tuple[Taken, Studio, Ledger] | None:
    """A remedy together with one of the line it makes Short, or does not clear, if fewer lines than before are Short
    then."""
    step, studio, ledger = first
    for line in ledger.lines:
        others = line.key in shorts and line.key != step.line
        if line.verdict is not Verdict.SHORT or others or search.late():
            continue
        for second, after, there in _remedied(studio, ledger, line, search):
            left = _shorts(there)
            if len(left) < len(shorts) and not left - shorts:
                label = f"{step.label}; then {second.label[:1].lower()}{second.label[1:]}"
                pair = Taken(label, together((step.edit, second.edit), label), step.line)
                search.seen.setdefault(EDIT.dump_json(pair.edit).decode(), pair)
                return pair, after, there
    return None


def tried(studio: Studio, edits: Iterable[Edit]) -> Studio | None:
    """The studio after some edits; None where one cannot be made."""
    try:
        for edit in edits:
            studio = change(studio, edit)
    except (EditRefused, ValidationError):
        return None
    return studio


def _carried(studio: Studio, taken: Iterable[Taken]) -> Studio:
    after = tried(studio, [one.edit for one in taken])
    assert after is not None
    return after


def _lifting(studio: Studio, taken: Iterable[Taken]) -> Iterator[Taken]:
    """What is taken in its turn, each with the lines that are Short no more after it."""
    before = _shorts(ledger_of(studio))
    for one in taken:
        studio = _carried(studio, [one])
        after = _shorts(ledger_of(studio))
        yield replace(one, lifts=tuple(sorted(before - after)))
        before = after


def _spared(studio: Studio, taken: list[Taken], ledger: Ledger) -> list[Taken]:
    """Without each that the others make needless, the last taken first."""
    goal = _shorts(ledger)
    for one in taken[::-1]:
        rest = [other for other in taken if other is not one]
        after = tried(studio, [other.edit for other in rest])
        if after is not None and _shorts(ledger_of(after)) <= goal:
            taken = rest
    return taken


def _smaller(studio: Studio, taken: list[Taken], search: _Search) -> tuple[list[Taken], bool]:
    """A smaller choice of the remedies seen that reaches as far, and whether all smaller ones were tried."""
    goal = _shorts(ledger_of(_carried(studio, taken)))
    for trials, choice in enumerate(_choices(list(search.seen.values()), len(taken))):
        if trials >= FEW_TRIALS or search.late():
            return taken, False
        after = tried(studio, [one.edit for one in choice])
        if after is not None and _shorts(ledger_of(after)) <= goal:
            return list(choice), True
    return taken, True


def _choices(seen: list[Taken], below: int) -> Iterator[tuple[Taken, ...]]:
    for size in range(below):
        yield from combinations(seen, size)
