"""Studio → every margin, worst first.

Each set rule declares which parts of the studio it reads; its lines are kept by the identity of
those parts, so that an edit re-runs only what it can change. What a rule of the whole studio reads is noted while it
runs, and is its key.
"""

from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial
from typing import Any, cast

from evrant.core.base.clock import TooLate, too_late
from evrant.core.base.margins import Margin, Step, Verdict, unknown
from evrant.core.base.memo import Memo
from evrant.core.base.noting import Noted, Path, Reader, Reads
from evrant.core.base.turns import JUDGING
from evrant.core.judge.declared import set_rules, studio_rules
from evrant.core.judge.keys import Keys
from evrant.core.judge.rules.rule import EVERYTHING, SetRule, StudioRule
from evrant.core.space.scene import Scene, scene_of
from evrant.core.studio.sets import PLACE, LightPlace, SetPlan
from evrant.core.studio.studio import Studio

LEFT_OUT = "Not worked out yet: the time this page may take was up."
AGAIN = "Open the page again: what was worked out is kept, and the rest goes on from there."
_Ranked = tuple[tuple[int, int, float], Margin]
_STUDIO: Noted[tuple[_Ranked, ...]] = Noted(Memo(32_000_000, lambda lines: 400 + 1500 * len(lines)))
_NOWHERE: Memo[tuple[SetPlan, ...]] = Memo(4_000_000, lambda sets: 6000 * len(sets))
_MEMO: Memo[tuple[_Ranked, ...]] = Memo(128_000_000, lambda lines: 400 + 1500 * len(lines))


@dataclass(frozen=True)
class Ledger:
    """Every margin of a studio, worst first, and which Tight lines were accepted."""

    lines: tuple[Margin, ...]
    by_set: dict[str | None, tuple[Margin, ...]]
    accepted: frozenset[str]
    has_set: bool
    whole: bool = True
    """Whether every rule was run: none was left out because the time was up."""

    def count(self, verdict: Verdict) -> int:
        return self.counts()[verdict]

    def counts(self) -> Counter[Verdict]:
        return Counter(line.verdict for line in self.lines)

    def shorts(self) -> Counter[Step]:
        """Short lines by step."""
        return Counter(line.line.step for line in self.lines if line.verdict is Verdict.SHORT)

    def of_set(self, set_id: str) -> tuple[Margin, ...]:
        return self.by_set.get(set_id, ())

    def shown_with(self, set_id: str | None) -> tuple[Margin, ...]:
        """Lines of the studio and of one set, worst first: what stands beside a page."""
        studio = self.by_set.get(None, ())
        return tuple(sorted((*studio, *self.by_set.get(set_id, ())), key=Margin.order)) if set_id else studio

    def find(self, key: str) -> Margin | None:
        return next((line for line in self.lines if line.key == key), None)

    @property
    def worst(self) -> Margin | None:
        return self.lines[0] if self.lines else None

    @property
    def ready(self) -> bool:
        """At least one set, nothing Short or Unknown, every Tight line accepted."""
        open_tight = any(m.verdict is Verdict.TIGHT and m.token not in self.accepted for m in self.lines)
        return (
            self.has_set
            and bool(self.lines)
            and not open_tight
            and not (self.count(Verdict.SHORT) or self.count(Verdict.UNKNOWN))
        )

    @property
    def headline(self) -> str:
        if not self.has_set:
            return "Nothing to judge yet"
        return "Ready to buy" if self.ready else "Not ready to buy"


def ledger_of(studio: Studio) -> Ledger:
    """The ledger, without remedies. Pictures of this process stand back until it is judged."""
    with JUDGING.first():
        return _judged(studio)


def _judged(studio: Studio) -> Ledger:
    ranked: list[_Ranked] = []
    by_set: dict[str | None, tuple[Margin, ...]] = {}
    for plan in studio.sets:
        lines = _of_set(studio, plan)
        by_set[plan.id] = tuple(line for _, line in lines)
        ranked += lines
    wide: list[_Ranked] = []
    nowhere = without_places(studio)
    for rule in studio_rules():
        seen = studio if rule.places else nowhere
        try:
            wide += _STUDIO.get(rule.name, rule.name, (), partial(_of_studio, seen), partial(_run_studio, rule, seen))
        except TooLate:
            wide.append(_left_out(rule, ""))
    wide.sort(key=_rank)
    by_set[None] = tuple(line for _, line in wide)
    ranked += wide
    ranked.sort(key=_rank)
    accepted = frozenset(a.id for a in studio.accepted)
    whole = not any(line.sentence == LEFT_OUT for _, line in ranked)
    return Ledger(tuple(line for _, line in ranked), by_set, accepted, bool(studio.sets), whole)


def lines_of_set(studio: Studio, plan: SetPlan) -> tuple[Margin, ...]:
    """The lines of one set alone, without those of the studio as a whole."""
    return tuple(line for _, line in _of_set(studio, plan))


def _of_set(studio: Studio, plan: SetPlan) -> tuple[_Ranked, ...]:
    scene = scene_of(studio, plan)
    if scene is None:
        return ()
    try:
        keys = Keys(studio, scene)
        return _kept("set", keys.of(EVERYTHING, True), partial(_run_set, scene, keys))
    except _Unfinished as unfinished:
        return tuple(unfinished.lines)


def _run_set(scene: Scene, keys: Keys) -> list[_Ranked]:
    lines: list[_Ranked] = []
    left: list[SetRule] = []
    for rule in set_rules():
        try:
            lines += _kept(rule.name, keys.of(rule.reads, rule.whole_kit), partial(_run_rule, rule, scene))
        except TooLate:
            left.append(rule)
    lines += [_left_out(rule, scene.path) for rule in left]
    lines.sort(key=_rank)
    if left:
        raise _Unfinished(lines)
    return lines


class _Unfinished(Exception):
    """Lines of a set without those of rules that were left out: shown, not remembered."""

    def __init__(self, lines: list[_Ranked]) -> None:
        super().__init__()
        self.lines = lines


def _left_out(rule: SetRule | StudioRule, path: str) -> _Ranked:
    """In place of a rule's lines when the time is up."""
    about = f"{path}/later-{rule.name}" if path else f"later-{rule.name}"
    told = replace(unknown(rule.lines[0], (about,), LEFT_OUT, AGAIN, title=f"What judges {rule.name}"), enter=None)
    return told.order(), told


def _run_rule(rule: SetRule, scene: Scene) -> list[_Ranked]:
    if too_late():
        raise TooLate
    seen = scene if "set" in rule.reads else scene.unlit
    return [(line.order(), line) for line in rule.of(seen)]


def _of_studio(studio: Studio, path: Path) -> Any:
    """A field of the studio, as a rule's notes name it."""
    return getattr(studio, path[1])


def _run_studio(rule: StudioRule, studio: Studio, reads: Reads | None) -> tuple[_Ranked, ...]:
    if too_late():
        raise TooLate
    seen = studio if reads is None else cast(Studio, Reader(studio, "studio", reads))
    return tuple((line.order(), line) for line in rule.of(seen))


def without_places(studio: Studio) -> Studio:
    """The studio with every placed light of its sets in the same corner: the same parts while lights only move."""
    told: list[Any] = []
    for plan in studio.sets:
        told += [value for name, value in vars(plan).items() if name != "lights"]
        told.append(len(plan.lights))
        for light in plan.lights:
            told += [value is None if name in PLACE else value for name, value in vars(light).items()]
    return studio.changed(sets=_NOWHERE.get("sets", tuple(told), partial(_moved_away, studio.sets)))


def _moved_away(sets: tuple[SetPlan, ...]) -> tuple[SetPlan, ...]:
    return tuple(plan.changed(lights=tuple(_away(light) for light in plan.lights)) for plan in sets)


def _away(light: LightPlace) -> LightPlace:
    return light.changed(**{name: 0.0 for name in PLACE if getattr(light, name) is not None})


def _rank(pair: _Ranked) -> tuple[int, int, float]:
    return pair[0]


def _kept(name: str, parts: tuple[Any, ...], run: Callable[[], list[_Ranked]]) -> tuple[_Ranked, ...]:
    return _MEMO.get(name, parts, lambda: tuple(run()))
