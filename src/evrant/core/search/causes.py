"""One cause, one card: lines that one change settles, or one figure, stand together under it, worst first.

For Short lines every remedy is carried out and judged by the whole ledger; those that make nothing else Short are
causes, the one that lifts most first, each line under one of them. Unknown lines stand under what is to be entered,
Tight ones under the figure they are unsure of.
"""

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from typing import Any

from evrant.core.base.margins import Margin, Verdict
from evrant.core.edits.language import EDIT, Edit
from evrant.core.judge.ledger import Ledger, ledger_of
from evrant.core.judge.remedies import remedies_of
from evrant.core.search.settle import tried
from evrant.core.studio.studio import Studio, by_id

Stop = Callable[[], bool]
NO_REMEDY = "No single change on offer settles"


@dataclass(frozen=True)
class Cause:
    """What is behind some lines, in words: the change that settles them, or where a figure is entered."""

    words: str
    verdict: Verdict
    lines: tuple[Margin, ...]
    edit: Edit | None = None
    enter: str | None = None

    @property
    def order(self) -> tuple[int, int, float]:
        """As its worst line."""
        return min(line.order() for line in self.lines)


def causes(studio: Studio, stop: Stop = lambda: False) -> list[Cause]:
    """What is behind every line that is not Clear, worst first; lines that were accepted are left out."""
    ledger = ledger_of(studio)
    open_ = [line for line in ledger.lines if line.token not in ledger.accepted]
    found = [
        *_changes(studio, ledger, [one for one in open_ if one.verdict is Verdict.SHORT], stop),
        *_missing([one for one in open_ if one.verdict is Verdict.UNKNOWN]),
        *_unsure([one for one in open_ if one.verdict is Verdict.TIGHT]),
    ]
    return sorted(found, key=lambda cause: cause.order)


def _changes(studio: Studio, ledger: Ledger, lines: list[Margin], stop: Stop) -> Iterator[Cause]:
    """Changes that lift Short lines, the one that lifts most first; then what no change lifts, thing by thing."""
    shorts = {line.key: line for line in lines}
    lifted: dict[str, tuple[str, Edit, frozenset[str]]] = {}
    for line in lines:
        if stop():
            break
        for remedy in remedies_of(studio, line, ledger):
            key = EDIT.dump_json(EDIT.validate_python(remedy.edit)).decode()
            if key in lifted:
                continue
            edit = EDIT.validate_python(remedy.edit)
            after = tried(studio, [edit])
            left = {m.key for m in ledger_of(after).lines if m.verdict is Verdict.SHORT} if after else set(shorts)
            gone = frozenset(shorts) - left
            lifted[key] = remedy.label, edit, gone if not left - set(shorts) else frozenset()
    rest = set(shorts)
    while rest and lifted:
        label, edit, gone = max(lifted.values(), key=lambda one: len(one[2] & rest))
        if not gone & rest:
            break
        yield Cause(label, Verdict.SHORT, tuple(shorts[key] for key in shorts if key in gone & rest), edit)
        rest -= gone
    for thing, left_over in _by((shorts[key] for key in shorts if key in rest), lambda line: _thing(studio, line)):
        yield Cause(f"{NO_REMEDY} {thing}", Verdict.SHORT, left_over)


def _missing(lines: list[Margin]) -> Iterator[Cause]:
    for enter, those in _by(lines, lambda line: line.enter or (line.about[0] if line.about else "")):
        yield Cause(those[0].sentence, Verdict.UNKNOWN, those, enter=enter)


def _unsure(lines: list[Margin]) -> Iterator[Cause]:
    for figure, those in _by(lines, lambda line: line.settles or ""):
        words = f"Measure again: {figure}" if figure else "As near as makes no difference"
        yield Cause(words, Verdict.TIGHT, those)


def _by(lines: Iterable[Margin], key: Callable[[Margin], str]) -> Iterator[tuple[str, tuple[Margin, ...]]]:
    """Lines by what they have in common, in the order of the first of each."""
    groups: dict[str, list[Margin]] = {}
    for line in lines:
        groups.setdefault(key(line), []).append(line)
    for name, those in groups.items():
        yield name, tuple(those)


def _thing(studio: Studio, line: Margin) -> str:
    """What a line is about, in words: the set it is in, or the studio."""
    plan = by_id(studio.sets, line.set_id)
    return f"what is Short in {plan.name}" if plan else "what is Short in the studio"


def told_cause(studio: Studio, cause: Cause) -> dict[str, Any]:
    """A cause as plain data: each line with the set it is in, where there are several."""
    sets = {plan.id: plan.name for plan in studio.sets} if len(studio.sets) > 1 else {}
    return {
        "words": cause.words,
        "verdict": cause.verdict.value,
        "lines": [
            {"sentence": line.sentence, "set": sets.get(line.set_id or "", ""), "title": line.title}
            for line in cause.lines
        ],
        "edit": None if cause.edit is None else cause.edit.model_dump(mode="json"),
        "enter": cause.enter,
    }
