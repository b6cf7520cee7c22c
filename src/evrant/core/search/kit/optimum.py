"""The best kit under a budget, with proof: choose, check what was chosen, forbid what fails, choose again.

The programme of `master` knows less than the room does, so what it finds is at least as good as anything that
works. When every recipe it picks passes the check, its optimum is the optimum: over all combinations the market
offers, on the grid the check searches.
"""

from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from math import inf

from evrant.core.base.clock import Clock, standing_still
from evrant.core.place.hanging import MOST_SLID
from evrant.core.search.kit.alone import Alone
from evrant.core.search.kit.brightness import NEAR
from evrant.core.search.kit.case import NOTHING, Case, Recipe
from evrant.core.search.kit.casting import case_of
from evrant.core.search.kit.check import LEVELS, Checker
from evrant.core.search.kit.crew import Crew, Lone, Start
from evrant.core.search.kit.cupboard import Cupboard
from evrant.core.search.kit.lenses import GRID
from evrant.core.search.kit.market import Market, market
from evrant.core.search.kit.master import Choice, Master, Need, over_units, rents, value_of
from evrant.core.search.kit.verdicts import Besides, Fail, Pass, Report, Stopped
from evrant.core.search.kit.weights import weighs
from evrant.core.studio.gear import Flash, Item, Part
from evrant.core.studio.studio import Studio

Say = Callable[[str, int, int], None]
"""Told of progress: what is done, checks so far, lines learnt."""
Stop = Callable[[], bool]


@dataclass(frozen=True)
class Kit:
    """A choice whose recipes all pass: sets by shot, what is bought, its cost [cents], and whether it is proved.

    `besides`: weights and leads each shot needs [count by key].
    """

    choice: Choice
    passes: Mapping[str, Pass]
    besides: Mapping[str, Mapping[str, int]]

    @property
    def cents(self) -> int:
        return self.choice.cents

    @property
    def value(self) -> tuple[int, int, int, int]:
        return self.choice.value


@dataclass
class Search:
    """One studio's search over its market; what it learns serves every budget. `bound`: how many shots the best choice
    of recipes nothing speaks against yet would make within the first sum `asked` about [cents]."""

    studio: Studio
    market: Market
    cases: list[Case]
    crew: Crew
    cupboard: Cupboard
    master: Master
    say: Say = lambda words, checks, cuts: None
    stop: Stop = lambda: False
    tell: Callable[[Kit], None] = lambda kit: None
    first_s: float | None = None
    so_far: Kit | None = None
    bound: int | None = None
    asked: int | None = None
    ready: bool = False
    clock: Clock = standing_still
    begun: float = 0.0
    passed: dict[str, list[tuple[Recipe, Pass]]] = field(default_factory=dict)
    lone: dict[str, Report] = field(default_factory=dict)
    """Of each shot the recipe that passes by itself."""
    failed: list[str] = field(default_factory=list)
    """Shots of the last choice that failed."""
    tried: int = 0
    """How many recipes were known to pass when a kit of this sum was made of them last."""

    @classmethod
    def of(
        cls,
        studio: Studio,
        library: Sequence[Item],
        say: Say | None = None,
        stop: Stop | None = None,
        *,
        helper: Start | None = None,
        clock: Clock = standing_still,
        hasty: bool = False,
    ) -> "Search":
        """`helper` starts one that looks into recipes elsewhere; such a search is to be closed. `clock` times it.
        `stop` ends it also while a room is searched; what is set as `search.stop` later, between two looks only.
        `hasty` finds something that works sooner and proves nothing."""
        goods = market(studio, library)
        cases = [replace(case_of(studio, shot, goods), hasty=hasty) for shot in studio.shots]
        checker = Checker(studio, goods, stop=stop or (lambda: False))
        crew = Crew.of(Alone(checker), {case.id: case for case in cases}, helper=helper)
        cupboard = Cupboard(studio, goods)
        struck = studio.brief.schools.standing == "strike every time"
        master = Master(goods, cases, cupboard.spaces(), struck=struck)
        found = cls(studio, goods, cases, crew, cupboard, master)
        found.say = say or found.say
        found.stop = stop or found.stop
        found.clock, found.begun = clock, clock()
        return found

    @property
    def hasty(self) -> bool:
        return any(case.hasty for case in self.cases)

    def close(self) -> None:
        """End the process that helped, if one did."""
        self.crew.close()

    def best(
        self,
        budget: int | None,
        *,
        least: int = 0,
        force: Mapping[str, int] | None = None,
        ban: Iterable[frozenset[tuple[str, str, str]]] = (),
        quick: bool = False,
    ) -> Kit | None:
        """The most valuable kit within a budget [cents], the cheapest of equals; `quick`: the one that takes fewest
        minutes before the cheapest. Raises Stopped."""
        banned = tuple(ban)
        held: Kit | None = None
        self.tried = 0
        self.asked = budget if self.asked is None else self.asked
        self._begin()
        if not (force or banned):
            self._by_themselves(budget)
        while True:
            if self.stop():
                raise Stopped
            choice = self.master.solve(budget, least=least, force=force, ban=banned, quick=quick, stop=self.stop)
            if choice is None:
                return None
            free = not (force or banned or quick or self.master.struck)
            if choice.proved and not force and not banned and budget == self.asked:
                self.bound = len(choice.recipes)
            if free and held is not None and choice.proved and _no_better(choice, held.choice):
                return replace(held, choice=replace(held.choice, proved=not self.hasty))
            if free:
                choice = self._with_known(choice)
            passes, short = self._checked(choice)
            if passes.keys() == choice.recipes.keys() and not short:
                choice = replace(choice, proved=choice.proved and not self.hasty)
                self._found(self._kit(choice, passes))
                return self._kit(choice, passes)
            if free and self.failed:
                self._go_on(choice, budget)
            kits = [self._in_any_case(choice, passes, short, budget), self._of_known(budget) if free else None]
            for kit in kits:
                if kit is not None and (held is None or _no_better(held.choice, kit.choice)):
                    held = kit

    def whys(self) -> Iterator[tuple[str, str]]:
        """Why what was looked into failed, each with the shot's id; what was not taken over yet when the time was up
        too."""
        yield from ((case, clause.why) for case, clause in self.master.cuts.clauses)
        for case, reports in self.crew.alone.told.items():
            for report in reports:
                failed = [report.found.clause] if isinstance(report.found, Fail) else []
                yield from ((case, clause.why) for clause in (*report.clauses, *failed))

    def as_good(self, kit: Kit, case: str, recipe: Recipe) -> Kit | None:
        """The kit with a shot made by another recipe; None where that fails or needs more than is bought. Raises
        Stopped."""
        choice = replace(kit.choice, recipes={**kit.choice.recipes, case: recipe})
        passes, short = self._checked(choice)
        whole = passes.keys() == choice.recipes.keys() and not short
        return self._kit(choice, passes) if whole else None

    def _by_themselves(self, budget: int | None) -> None:
        """Once for a sum: what each shot can be made with by itself. What works by then is told as it is found."""
        limit = inf if budget is None else budget

        def told(key: str, report: Report) -> None:
            self._take({key: report})
            if isinstance(report.found, Pass):
                self.lone[key] = report
                self._of_these(self.lone, limit)
            elif not self.passed.get(key) and not self.stop():
                self.master.cuts.beyond[key] = max(self.master.cuts.beyond.get(key, -1.0), limit)

        jobs = [Lone(case.id, budget) for case in self.cases if not case.impossible]
        self.crew.by_themselves(jobs, self.stop, self._heard, told)
        if self.stop():
            raise Stopped

    def _of_these(self, lone: Mapping[str, Report], limit: float) -> None:
        """A first kit of recipes that pass by themselves: what matters most first, as far as the sum goes."""
        bought: Counter[str] = Counter()
        recipes: dict[str, Recipe] = {}
        for key in sorted(lone, key=lambda key: -self.master.weights[key]):
            recipe, more = lone[key].recipe, bought | Counter(lone[key].bought)
            cost = sum((self.market.by_key[one].cents or 0) * count for one, count in more.items())
            if recipe is not None and cost <= limit:
                recipes[key], bought = recipe, more
        passes = {key: found for key in recipes if isinstance(found := lone[key].found, Pass)}
        kit = self._part_of(Choice(recipes, bought, 0, (0, 0, 0, 0), False), passes)
        if kit is not None and kit.cents <= limit:
            self._found(kit)

    def _go_on(self, choice: Choice, budget: int | None) -> None:
        """Shots of a choice that failed, each looked into further by itself: the cheapest way to make it with what is
        bought for the others, until one passes."""
        jobs = []
        for key in self.failed:
            others: Counter[str] = Counter()
            for other, recipe in choice.recipes.items():
                if other != key:
                    used = Counter(one for one in recipe.values() if one != NOTHING)
                    others |= used + self.master.cuts.besides(other, recipe)
            free = {one: min(n, choice.bought[one]) for one, n in others.items() if choice.bought.get(one)}
            spent = sum((self.market.by_key[one].cents or 0) * n for one, n in free.items())
            jobs.append(Lone(key, None if budget is None else budget - spent, free))

        def told(key: str, report: Report) -> None:
            self._take({key: report})

        self.crew.by_themselves(jobs, self.stop, self._heard, told)
        if self.stop():
            raise Stopped

    def _begin(self) -> None:
        """Once: which lenses fit the room for each shot at all."""
        if self.ready:
            return
        reports = self.crew.lenses(self.stop, self._heard)
        self._take(reports)
        self.master.cuts.bounds += self.cupboard.too_large()
        for key, report in reports.items():
            for clause in report.clauses:
                for _, lens in clause.never:
                    self.crew.cases[key].dropped.setdefault(lens, clause.why)
        if self.stop():
            raise Stopped
        self.ready = True

    def _passes(self, key: str, recipe: Recipe, found: Pass) -> None:
        known = self.passed.setdefault(key, [])
        if all(one != recipe for one, _ in known):
            known.append((recipe, found))

    def _heard(self, case: Case) -> None:
        self.say(case.shot.name, self.crew.counts.recipes, len(self.master.cuts))

    def _checked(self, choice: Choice) -> tuple[dict[str, Pass], list[str]]:
        """The recipes that pass, and those of them that need more than the choice buys; if not all pass as they are,
        something was learnt. What is cheap to find out is found out of all of them first; what is dear, once something
        works, up to a failure."""
        reports: dict[str, Report] = {}
        learnt = 0
        for level in range(LEVELS):
            every = level == 0 or self.so_far is None
            reports = self.crew.reports(level, choice.recipes, self.stop, self._heard, every=every)
            learnt = self._take(reports)
            self.failed = [key for key, report in reports.items() if isinstance(report.found, Fail)]
            if self.stop():
                raise Stopped
            if level == 0 and (bound := self.cupboard.fault(choice.bought)):
                self.master.cuts.bounds.append(bound)
                learnt += 1
            if learnt:
                break
        passes = {key: report.found for key, report in reports.items() if isinstance(report.found, Pass)}
        for key, found in passes.items():
            self._passes(key, choice.recipes[key], found)
        return passes, [key for key, found in passes.items() if self._needs(choice, key, choice.recipes[key], found)]

    def _kit(self, choice: Choice, passes: Mapping[str, Pass]) -> Kit:
        besides = {key: self.master.cuts.besides(key, recipe) for key, recipe in choice.recipes.items()}
        besides |= {key: self._besides(key, choice.recipes[key], found) for key, found in passes.items()}
        return Kit(choice, passes, besides)

    def _beyond(self, case: str, recipe: Recipe, found: Pass) -> list[Besides]:
        """What a recipe needs besides, without weights that are no heavier than those counted for its unit already."""
        goods = self.market.by_key
        counted = self.master.cuts.weighing(case, recipe, goods)
        hung: Counter[str] = Counter()
        for one in found.besides:
            hung[one.unit] += weighs(goods[one.key].item) * one.count
        return [b for b in found.besides if not weighs(goods[b.key].item) or hung[b.unit] > counted[b.unit]]

    def _in_any_case(
        self, choice: Choice, passes: Mapping[str, Pass], short: Sequence[str], budget: int | None
    ) -> Kit | None:
        """What can be had within a budget of a choice that does not work as it is: some shots work while others do not
        yet, with what is lacking, or without those that are `short` of something."""
        for parts in (passes, {key: found for key, found in passes.items() if key not in short}):
            kit = self._part_of(choice, parts) if parts else None
            if kit is not None and (budget is None or kit.cents <= budget):
                self._found(kit)
                return kit
        return None

    def _of_known(self, budget: int | None) -> Kit | None:
        """The best kit of recipes that are known to pass, looked for whenever there are more of them."""
        known = {key: [recipe for recipe, _ in pairs] for key, pairs in self.passed.items()}
        count = sum(map(len, known.values()))
        if count == self.tried:
            return None
        self.tried = count
        choice = self.master.solve(budget, among=known, stop=self.stop)
        if choice is None or not choice.recipes:
            return None
        passes = {
            key: next(found for one, found in self.passed[key] if one == recipe)
            for key, recipe in choice.recipes.items()
        }
        kit = self._part_of(choice, passes)
        if kit is None or (budget is not None and kit.cents > budget):
            return None
        self._found(kit)
        return kit

    def _part_of(self, choice: Choice, passes: Mapping[str, Pass]) -> Kit | None:
        """The shots of a choice that pass, with all they need. None where its things find no place."""
        recipes = {key: choice.recipes[key] for key in passes}
        made = value_of(self.master.cases, recipes)
        kit = self._kit(replace(choice, recipes=recipes, value=made, proved=False), passes)
        bought = lacking(kit, self.market)
        if self.cupboard.left(bought):
            return None
        cents = sum((self.market.by_key[key].cents or 0) * count for key, count in bought.items())
        cents += sum(cost for _, cost in rents(self.market, self.cases, recipes).values())
        return replace(kit, choice=replace(kit.choice, bought=bought, cents=cents))

    def _with_known(self, choice: Choice) -> Choice:
        """The same things bought, used in recipes that are known to pass where they allow it: of equal worth and cost,
        and nothing of it is to be looked into again."""
        recipes = {}
        for key, recipe in choice.recipes.items():
            known = (one for one in self.passed.get(key, ()) if self._allows(choice, key, recipe, *one))
            recipes[key] = next((one for one, _ in known), recipe)
        used = {one for recipe in recipes.values() for one in recipe.values()}
        bought = {one: n for one, n in choice.bought.items() if self.market.by_key[one].cents or one in used}
        return replace(choice, recipes=recipes, bought=bought)

    def _allows(self, choice: Choice, key: str, picked: Recipe, known: Recipe, found: Pass) -> bool:
        """Whether what is owned and bought is enough for another recipe of a shot, with the camera and heads it has."""
        if any(picked.get(slot) != known[slot] for slot in known if slot == "body" or slot.endswith(".head")):
            return False
        uses = Counter(one for one in known.values() if one != NOTHING)
        if any(self.market.by_key[one].rent is not None for one in uses):
            return False
        uses += self._besides(key, known, found)
        return all(self.market.by_key[one].owned + choice.bought.get(one, 0) >= count for one, count in uses.items())

    def _besides(self, key: str, recipe: Recipe, found: Pass) -> Counter[str]:
        """What a recipe that passes needs besides what fills it [count by key]."""
        counts = self.master.cuts.by_unit(key, recipe)
        for one in self._beyond(key, recipe, found):
            counts[one.unit, one.key] = max(counts[one.unit, one.key], one.count)
        return over_units(counts)

    def _found(self, kit: Kit) -> None:
        """The first kit that makes anything, or a better one than the best so far, or as good a one for less money."""
        if not kit.choice.recipes or (self.so_far is not None and _no_better(kit.choice, self.so_far.choice)):
            return
        if self.so_far is None:
            self.first_s = self.clock() - self.begun
        self.so_far = kit
        self.tell(kit)

    def _take(self, reports: Mapping[str, Report]) -> int:
        """Add what was learnt of each case; how much that was."""
        before = len(self.master.cuts)
        for key, report in reports.items():
            self.master.cuts.learn(key, report)
            if report.opened:
                self._ask_again(key)
            if report.recipe is not None and isinstance(report.found, Pass):
                self._passes(key, report.recipe, report.found)
        return len(self.master.cuts) - before

    def _ask_again(self, case: str) -> None:
        """What was left out of an opened shot for what there is counts as dropped no longer."""
        out = (clause.never for shot, clause in self.master.cuts.clauses if shot == case and clause.own)
        for _, key in (one for never in out for one in never):
            self.crew.cases[case].dropped.pop(key, None)

    def _needs(self, choice: Choice, case: str, recipe: Recipe, found: Pass) -> int:
        """How many things a recipe needs besides that the choice does not have yet; they are added."""
        beyond = self._beyond(case, recipe, found)
        sums = Counter(recipe.values()) + self._besides(case, recipe, found)
        keys = {one.key for one in beyond}
        lacking = {key for key in keys if self.market.by_key[key].owned + choice.bought.get(key, 0) < sums[key]}
        for one in beyond:
            if one.key in lacking:
                when = frozenset((slot, recipe[slot]) for slot in one.slots if slot in recipe)
                self.master.cuts.needs.append(Need(case, one.unit, when, one.key, one.count))
        return len(lacking)


def _no_better(one: Choice, other: Choice) -> bool:
    """Whether a choice is worth no more than another, and no less money for the same."""
    return one.value < other.value or (one.value == other.value and one.cents >= other.cents)


def lacking(kit: Kit, market: Market) -> dict[str, int]:
    """What is to be bought for all shots of a kit [count by key]."""
    counts: Counter[str] = Counter()
    for case in kit.choice.recipes:
        counts |= needed(kit, case, market)
    goods = {key: market.by_key[key] for key in counts if market.by_key[key].rent is None}
    return {key: counts[key] - good.owned for key, good in goods.items() if counts[key] > good.owned}


def needed(kit: Kit, case: str, market: Market) -> Counter[str]:
    """Everything one shot of a plan needs: what fills its slots, weights, leads, and what fires its flashes."""
    recipe = kit.choice.recipes[case]
    counts: Counter[str] = Counter(key for key in recipe.values() if key != NOTHING)
    counts.update(kit.besides[case])
    heads = [market.by_key[recipe[slot]].item for slot in recipe if slot.endswith(".head")]
    radio = [head for head in heads if isinstance(head, Flash) and head.fired == "radio"]
    if radio:
        counts += _firing(kit, market, sum(not head.receiver for head in radio))
    return counts


def _firing(kit: Kit, market: Market, deaf: int) -> Counter[str]:
    """Of the firing parts owned or bought, a transmitter and as many receivers as the shot needs."""
    found: Counter[str] = Counter()
    for uses, count in ((("trigger", "transmitter"), 1), (("trigger", "receiver"), deaf)):
        for good in sorted(market.goods, key=lambda g: not g.owned):
            if not (isinstance(good.item, Part) and good.item.use in uses):
                continue
            there = good.owned + kit.choice.bought.get(good.key, 0)
            take = min(there, count)
            found[good.key] = max(found[good.key], take)
            count -= take
    return +found


@dataclass(frozen=True)
class Step:
    """A point of the frontier: from this cost on [cents], this much is possible."""

    cents: int
    value: tuple[int, int, int, int]
    shots: tuple[str, ...]
    bought: Mapping[str, int]


def frontier(search: Search, top: int | None, most: int = 14) -> list[Step]:
    """Budget against shots, dearest first found, cheapest first given: each step is the least money for what it
    makes, and nothing lies between two steps."""
    steps: list[Step] = []
    budget = top
    while len(steps) < most:
        kit = search.best(budget)
        if kit is None or not kit.choice.recipes:
            break
        made = tuple(case.id for case in search.cases if case.id in kit.choice.recipes)
        steps.append(Step(kit.cents, kit.value, made, kit.choice.bought))
        if kit.cents == 0:
            break
        budget = kit.cents - 1
    return steps[::-1]


def proof_words(length: Callable[[float], str]) -> str:
    """What a proof covers; `length` says one in the studio's units."""
    far = ", ".join(f"{near:g}" for near in sorted({one for one, _ in NEAR}))
    return (
        "Proved for every combination of what is owned and on offer, on the search's grid: marks every "
        f"{length(GRID.step)}, the lens every {GRID.turn:.0f}°, along walls every {length(GRID.along)}, "
        f"the key at {far} of its usual distance and up to 9° further round, what hangs at most "
        f"{length(MOST_SLID)} from where it is wished. Of camera, lens, tripod and table, "
        "what you own is used where it serves; where nothing works with your lens, others are asked. Light and "
        "leads are judged at the first place on that grid where a set fits, weights for the farthest distance at "
        "which a light serves, or where the shot usually stands; a light half a stop outside its window at a usual "
        "place counts as outside everywhere, and one that is too weak or too uneven there counts so everywhere; in "
        "a room without rails, what comes from before the subject is not put on the background's bar; what holds a "
        "card is counted where it was first found; a packing "
        "that was not found counts as none. Contrast, tint, depth of field and room "
        "light are left to the ledger: settings and walls settle them, not gear."
    )
