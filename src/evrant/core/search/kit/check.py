"""Does a recipe pass? It is arranged in the room and put through the ledger, like any set.

A recipe passes when the search finds a place for it without a Short line of geometry and the ledger then has no
Short line that gear can change. What the check saw is kept by the look of its parts, so that things that differ
in name and price only are judged once.

When a recipe fails, the smallest failing combination is looked for: first its background and lights by themselves;
then, for geometry, groups of things are taken out one by one, and what still does not fit without them is their
fault not; for other lines, the things they are about.
"""

from collections import Counter
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from functools import partial

from evrant.core.base.margins import Margin, Verdict
from evrant.core.judge.ledger import lines_of_set
from evrant.core.judge.rules.light.as_set import EXPOSURE
from evrant.core.judge.rules.support.anchor import ANCHOR
from evrant.core.judge.rules.support.rails import RAIL
from evrant.core.search.arrange.formations import Offer
from evrant.core.search.arrange.search import Result, arrange
from evrant.core.search.kit.blame import groups, is_small, slots_of
from evrant.core.search.kit.brightness import LIGHT, NEAR, Spot
from evrant.core.search.kit.case import CARRIES, NOTHING, Case, Clause, Recipe
from evrant.core.search.kit.grounds import Grounds
from evrant.core.search.kit.lenses import GRID, Lenses
from evrant.core.search.kit.lights import Lights
from evrant.core.search.kit.market import Market
from evrant.core.search.kit.stage import GAPS, Stage, geared, ideal, renamed
from evrant.core.search.kit.verdicts import Besides, Counts, Fail, Lessons, Pass, Report, Stopped
from evrant.core.search.kit.weights import bags
from evrant.core.studio.gear import Lead
from evrant.core.studio.sets import SetPlan
from evrant.core.studio.studio import Studio

LENSES, LEVELS = -1, 3
"""How far a recipe is looked into: its background and each light by themselves; its base in the room; all of it."""
Serve = Callable[[Case, Recipe], tuple[Spot, ...]]
"""At which distances the lights of part of a recipe serve."""
COUNTED = frozenset({"parts", "leads", "holes"})
"""Units of lines that only count: none of them is a close call."""


@dataclass
class Checker:
    """Checks recipes of one studio; counts how often the room was searched and the ledger asked."""

    studio: Studio
    market: Market
    kept: dict[tuple[object, ...], Pass | Fail] = field(default_factory=dict)
    geometry: dict[tuple[object, ...], Result] = field(default_factory=dict)
    lessons: Lessons = field(default_factory=Lessons)
    ledger_runs: int = 0
    searches: int = 0
    stop: Callable[[], bool] = lambda: False
    """Asked while the room is searched; then `Stopped` is raised and nothing of that search is kept."""

    def __post_init__(self) -> None:
        self.stage = Stage(self.studio, self.market)
        self.lenses = Lenses(self.stage)
        self.grounds = Grounds(self.stage, self.lessons)
        self.lights = Lights(self.stage, self.lenses, self.lessons)

    @property
    def counts(self) -> Counts:
        return Counts(len(self.kept), self.searches + self.lenses.searches, self.ledger_runs)

    def check(self, case: Case, recipe: Recipe) -> Pass | Fail:
        """The verdict on a recipe."""
        for level in range(LEVELS):
            found = self._look_into(case, recipe, level)
            if found is not None:
                return found
        raise AssertionError("the last level ends in a verdict")

    def report(self, case: Case, recipe: Recipe, level: int) -> Report:
        """A recipe looked into at one level, of those below `LEVELS`; the dear ones come last. Levels before it are
        taken to have passed. At `LENSES`, the lenses of the case, whatever the recipe."""
        found = None
        if level == LENSES:
            self.lessons.clauses += self.lenses.clauses(case)
        else:
            found = self._look_into(case, recipe, level)
        return Report(found, *self.lessons.take())

    def _look_into(self, case: Case, recipe: Recipe, level: int) -> Pass | Fail | None:
        base = {slot: key for slot, key in recipe.items() if "." not in slot and not slot.startswith("card")}
        if level == 0:
            clause = self.grounds.fault(case, base) or self.lights.fault(case, recipe)
            return None if clause is None else Fail(clause)
        if level == 1:
            placed = self._arranged(case, base)
            return None if placed.fits else Fail(self._smallest(case, base, placed))
        key = (case.id, self.stage.looks(recipe))
        if key not in self.kept:
            self.kept[key] = self._judge(case, recipe, self.lights.serve(case, recipe))
        return _again(recipe, self.kept[key])

    # --- room ---

    def _judge(self, case: Case, recipe: Recipe, near: tuple[Spot, ...]) -> Pass | Fail:
        """A recipe arranged at each distance that serves, nearest the usual first, and put through the ledger."""
        fault: list[Margin] = []
        miss: Result | None = None
        for one in near:
            tried = self._arranged(case, recipe, (one,))
            if not tried.fits:
                miss = tried
                continue
            made = self._through_ledger(case, recipe, tried.sets[0].plan)
            if isinstance(made, Pass):
                return made
            fault += made
        if fault and case.hasty and (weak := _too_weak(recipe, fault, partial(self.stage.hangs, recipe))):
            return Fail(weak)
        if fault and miss is not None:
            # Where it was placed the ledger refused it; elsewhere the rest of the set was in the way: all had a part.
            whole = {slot: key for slot, key in recipe.items() if not is_small(slot)}
            return Fail(Clause(frozenset(whole.items()), fault[0].sentence))
        if fault or miss is None:
            return Fail(self._blamed(case, recipe, fault))
        return Fail(self._smallest(case, recipe, miss, self.lights.serve))

    def _arranged(
        self,
        case: Case,
        part: Mapping[str, str],
        near: tuple[Spot, ...] = NEAR,
        spared: frozenset[str] = frozenset(),
    ) -> Result:
        """The first set that fits, of a whole recipe or of some slots of it; `spared` slots hold ideal things."""
        key = (case.id, near, spared, self.stage.looks(part))
        if key not in self.geometry:
            self.searches += 1
            free = {part[slot] for slot in spared}
            gear = tuple(ideal(item) if item.id in free else item for item in self.stage.gear(part))
            bare = "backdrop" not in part
            offer = Offer(
                gaps=GAPS[:1] if bare else GAPS,
                near=tuple(dict.fromkeys(one for one, _ in near)),
                wide=tuple(dict.fromkeys(wide for _, wide in near)),
                modifiers=1,
                geared=geared(case, part),
                bare=bare,
            )
            kit = self.stage.studio.changed(gear=(*gear, *self.stage.shelf()), sets=())
            if self.stop():
                raise Stopped
            found = arrange(
                kit, case.shot, offer=offer, grid=GRID, budget=0.5, most=1, misses=1, first=True, clock=self._stopped
            )
            if not found.fits and self.stop():
                raise Stopped
            self.geometry[key] = found
        return self.geometry[key]

    def _stopped(self) -> float:
        """The time as a search of the room sees it: none has passed until it is to stop."""
        return float(self.stop())

    def _own_leads(self, plan: SetPlan) -> SetPlan:
        """The set with leads that are owned in place of those to be bought, where one is as long and is left."""
        left = {good.key: good.owned for good in self.stage.market.of("lead") if good.owned}
        lights = []
        for light in plan.lights:
            wish = self._length(light.lead)
            own = [key for key in left if left[key] and wish is not None and (self._length(key) or 0.0) >= wish]
            best = min(own, key=lambda key: self._length(key) or 0.0, default=None)
            if best is not None:
                left[best] -= 1
                light = light.changed(lead=best)
            lights.append(light)
        return plan.changed(lights=tuple(lights))

    def _length(self, key: str | None) -> float | None:
        item = self.stage.market.by_key[key].item if key else None
        return item.length.value if isinstance(item, Lead) and item.length and not item.drum else None

    # --- ledger ---

    def _through_ledger(self, case: Case, recipe: Recipe, plan: SetPlan) -> Pass | list[Margin]:
        """What the ledger says of a recipe where it was placed; Short lines gear can change are faults."""
        plan = self._own_leads(renamed(plan, recipe))
        plan = plan.changed(id=f"{case.id[:40]}-kit", name=f"{case.shot.name}, planned"[:80])
        kit = self.stage.studio.changed(gear=(*self.stage.gear(recipe), *self.stage.shelf()), sets=(plan,))
        self.ledger_runs += 1
        lines = [line for line in lines_of_set(kit, plan) if line.line.fails]
        faults = [line for line in lines if line.verdict is Verdict.SHORT or hangs_on_nothing(line)]
        if faults:
            return faults
        besides = tuple(self._needs(recipe, plan))
        measured = [line for line in lines if line.margin is not None and line.unit not in COUNTED]
        worst = min(measured, key=Margin.order, default=None)
        unknown = tuple(line.sentence for line in lines if line.verdict is Verdict.UNKNOWN)
        return Pass(plan, besides, worst, unknown)

    def _needs(self, recipe: Recipe, plan: SetPlan) -> Iterable[Besides]:
        """Leads and weights a set needs besides, unit by unit, counted where the set was first found, and the slots
        that settle it: for a light, whose place hangs on everything else, all of them."""

        def of(unit: str, keys: Iterable[str], slots: Iterable[str]) -> Iterable[Besides]:
            here = tuple(slot for slot in slots if slot in recipe)
            return (Besides(unit, key, count, here) for key, count in Counter(keys).items())

        for light in plan.lights:
            yield from of(light.id, [key for key in (light.lead, light.lead_on) if key], recipe)
            if light.bag:
                yield from of(light.id, bags(self.stage.market, light.bag), recipe)
        if plan.background.bag:
            yield from of(
                "background", bags(self.stage.market, plan.background.bag) * 2, ("body", "lens", "backdrop", "holder")
            )
        if plan.camera.bag:
            yield from of("camera", bags(self.stage.market, plan.camera.bag), ("body", "lens", "tripod"))

    # --- whose fault ---

    def _smallest(self, case: Case, recipe: Recipe, result: Result, serve: Serve = lambda case, part: NEAR) -> Clause:
        """The fewest groups of a recipe that do not fit even by themselves, and of these the fewest things. `serve`
        says at which distances the lights that are left serve: one that is taken out binds the others no more."""
        left, last = dict(recipe), result
        for group in groups(case, recipe):
            without = {slot: key for slot, key in left.items() if slot not in group}
            if len(without) == len(left):
                continue
            tried = self._arranged(case, without, serve(case, without))
            if not tried.fits:
                left, last = without, tried
        ideals: frozenset[str] = frozenset()
        innocent: frozenset[str] = frozenset()
        for name in ("", *case.lights()):
            lights = ((f"{name}.head", f"{name}.modifier"), tuple(f"{name}.{part}" for part in CARRIES))
            for parts in lights if name else (("holder",),):
                slots = frozenset(slot for slot in parts if left.get(slot, NOTHING) != NOTHING)
                free = {slot: key for slot, key in left.items() if slot not in innocent | slots}
                if slots and not (tried := self._arranged(case, left, serve(case, free), ideals | slots)).fits:
                    ideals, innocent, last = ideals | slots, innocent | slots, tried
                elif slots and parts[0].endswith(".head"):
                    near = serve(case, {slot: key for slot, key in left.items() if slot not in innocent})
                    if not self._arranged(case, left, near, ideals | slots).fits:
                        ideals |= slots
                        self._too_far(case, left, innocent, name, near)
        guilty = {slot: key for slot, key in left.items() if slot not in innocent and not is_small(slot)}
        miss = last.nearest.judged.short if last.nearest else ()
        why = miss[0].sentence if miss else last.missing or "it does not fit"
        return Clause(frozenset((guilty or left).items()), why)

    def _too_far(self, case: Case, left: Recipe, innocent: frozenset[str], name: str, near: tuple[Spot, ...]) -> None:
        """It is not a light's size that does not fit but where it must stand: so with all that must stand there."""
        rest = {slot: key for slot, key in left.items() if slot not in innocent and not is_small(slot)}
        for head, modifier in self.lights.bound(case, name, near):
            whole = rest | {f"{name}.head": head, f"{name}.modifier": modifier}
            self.lessons.clauses.append(Clause(frozenset(whole.items()), "its light must stand where it does not fit"))

    def _blamed(self, case: Case, recipe: Recipe, faults: list[Margin]) -> Clause:
        """The slots the ledger's lines are about; the whole recipe when they do not say."""
        slots: set[str] = set()
        for line in faults:
            slots |= slots_of(line, recipe)
        why = faults[0].sentence if faults else "no place on the grid suits its light"
        if not slots:
            slots = set(recipe)
        return Clause(frozenset((slot, key) for slot, key in recipe.items() if slot in slots), why)


def hangs_on_nothing(line: Margin) -> bool:
    """Whether what carries a light has no rail, wall or ceiling to be at: nothing to buy mends that."""
    return line.verdict is Verdict.UNKNOWN and line.code in (RAIL.code, ANCHOR.code)


def _too_weak(recipe: Recipe, faults: list[Margin], hangs: Callable[[str], bool]) -> Clause | None:
    """The head and modifier of a light whose strength is all the ledger found fault with; with what it `hangs` from,
    by its name, where that tells how far away it is."""
    paths = {path for line in faults if line.code in LIGHT for path in line.about if "/lights/" in path}
    names = {path.rsplit("/", 1)[-1] for path in paths}
    if len(names) != 1 or not all(line.code in (*LIGHT, EXPOSURE.code) for line in faults):
        return None
    parts = ("head", "modifier", *(CARRIES if hangs(min(names)) else ()))
    pair = [(slot, recipe[slot]) for part in parts if (slot := f"{min(names)}.{part}") in recipe]
    return Clause(frozenset(pair), faults[0].sentence) if pair else None


def _again(recipe: Recipe, found: Pass | Fail) -> Pass | Fail:
    """A verdict found with equal-looking things, in this recipe's keys."""
    if isinstance(found, Fail):
        slots = {slot for slot, _ in found.clause.never}
        return Fail(Clause(frozenset((s, k) for s, k in recipe.items() if s in slots), found.clause.why))
    return Pass(renamed(found.plan, recipe), found.besides, found.worst, found.unknown)
