"""A background by itself: does it fill the picture, and does its holder take it, wherever they stand?"""

from collections.abc import Iterable
from dataclasses import dataclass, field

from evrant.core.base.margins import Margin, Verdict
from evrant.core.base.memo import plain
from evrant.core.judge.rules.set import backdrop, fit
from evrant.core.judge.rules.support import support
from evrant.core.search.arrange.formations import Offer, drafts
from evrant.core.search.arrange.judge import Rule, counts
from evrant.core.search.kit.case import NOTHING, Case, Clause, Recipe
from evrant.core.search.kit.stage import GAPS, STILL, Stage
from evrant.core.search.kit.verdicts import Lessons

OF_GROUNDS: tuple[Rule, ...] = (backdrop.margins, support.margins, fit.margins)
TOO_NARROW = backdrop.BACKDROP_WIDTH.code
HELD = (support.HOLDER_REACH.code, support.HOLDER_LOAD.code, fit.HOLDER_CEILING.code)


@dataclass
class Grounds:
    """Verdicts on backgrounds by themselves, kept by the look of what they hang on."""

    stage: Stage
    lessons: Lessons
    kept: dict[tuple[object, ...], tuple[frozenset[str], str] | None] = field(default_factory=dict)

    def fault(self, case: Case, base: Recipe) -> Clause | None:
        """A background too small for what the lens shows, or that its holder cannot take, wherever they stand."""
        if base.get("backdrop", NOTHING) == NOTHING:
            return None
        fault = self._fault(case, base)
        still = {slot: base[slot] for slot in STILL if slot in base}
        if fault is not None and self.lessons.first(case.id, "grounds", self.stage.looks(still)):
            self.lessons.clauses += self._others(case, base)
        return fault

    def _others(self, case: Case, base: Recipe) -> Iterable[Clause]:
        """Once one background fails with a lens: all others that do, each on the first holder that takes it."""
        never = {clause.never for clause in case.clauses}
        for ground in case.slots["backdrop"].keys:
            for holder in case.slots["holder"].keys if ground != NOTHING else ():
                if frozenset({("backdrop", ground), ("holder", holder)}) not in never:
                    fault = self._fault(case, base | {"backdrop": ground, "holder": holder})
                    if fault is not None:
                        yield fault
                    break

    def _fault(self, case: Case, base: Recipe) -> Clause | None:
        key = (case.id, self.stage.looks(base))
        if key not in self.kept:
            self.kept[key] = self._found(case, base)
        found = self.kept[key]
        return found and Clause(frozenset((slot, base[slot]) for slot in found[0] if slot in base), found[1])

    def _found(self, case: Case, base: Recipe) -> tuple[frozenset[str], str] | None:
        """Slots and words of a background that fails in every formation: for its width whatever holds it."""
        kit = self.stage.studio.changed(gear=tuple(self.stage.gear(base)), sets=())
        faults: list[Margin | None] = []
        for draft in drafts(kit, case.shot, Offer(geared={}, gaps=GAPS), lambda scene: 0.0):
            with plain():
                lines = [line for rule in OF_GROUNDS for line in rule(draft.base) if counts(line)]
            short = [m for m in lines if m.verdict is Verdict.SHORT and m.code.startswith(("frame.backdrop", *HELD))]
            faults.append(min(short, key=lambda line: line.code != TOO_NARROW, default=None))
        sure = [fault for fault in faults if fault is not None]
        if not sure or len(sure) < len(faults):
            return None
        slots = {"body", "lens", "backdrop"}
        if any(fault.code != TOO_NARROW for fault in sure):
            slots |= {"holder"}
        return frozenset(slots), sure[-1].sentence
