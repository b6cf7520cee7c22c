"""The choice itself, as an integer programme for CP-SAT: which shots, by which recipes, with what bought.

Variables: for each shot whether it is made; for each slot and thing whether it fills it; for each thing how many
are bought. A shot that is made fills every slot once; forbidden combinations are clauses; in every shot no more of
a thing is used than is owned and bought; firing parts are counted; what a recipe needs besides is bought with it.
"""

from collections import Counter
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from math import inf
from typing import Literal, TypeVar

from ortools.sat.python import cp_model

from evrant.core.search.kit.brightness import NEAR
from evrant.core.search.kit.case import NOTHING, Case, Clause, Recipe, Spot
from evrant.core.search.kit.handling import handling
from evrant.core.search.kit.market import Good, Market
from evrant.core.search.kit.verdicts import Fail, Report, Unlit
from evrant.core.search.kit.weights import weighs
from evrant.core.studio.gear import Camera, Flash, Part

PRIORITIES = ("must", "should", "could")
MOST_OF_ONE = 30
MOST_BESIDES = 60
T = TypeVar("T")
NONE: Mapping[str, int] = {}
Among = Mapping[str, Sequence[Recipe]]
"""Recipes by shot."""


@dataclass(frozen=True)
class Choice:
    """A solution: recipes by shot, what is bought [count by key], and its cost with a year's rent [cents].

    `value` counts shots by priority and sessions served; `proved`: nothing better exists under the clauses.
    """

    recipes: Mapping[str, Recipe]
    bought: Mapping[str, int]
    cents: int
    value: tuple[int, int, int, int]
    proved: bool


@dataclass(frozen=True)
class Bound:
    """Buying all of `goods` at these counts leaves something unstowed: never all at once."""

    goods: Mapping[str, int]
    why: str


@dataclass(frozen=True)
class Need:
    """What one unit of a shot (a light, the background), filled like this, needs besides: count of one thing.

    The needs of a shot's units add up.
    """

    case: str
    unit: str
    when: frozenset[tuple[str, str]]
    key: str
    count: int


def over_units(counts: Counter[tuple[str, str]]) -> Counter[str]:
    """What units need together, by thing."""
    sums: Counter[str] = Counter()
    for (_, key), count in counts.items():
        sums[key] += count
    return sums


@dataclass
class Cuts:
    """Everything learnt from checking: shared by all budgets. It only ever grows, but for what an opened shot lifts."""

    clauses: list[tuple[str, Clause]] = field(default_factory=list)
    needs: list[Need] = field(default_factory=list)
    bounds: list[Bound] = field(default_factory=list)
    unlit: list[tuple[str, Unlit]] = field(default_factory=list)
    known: set[object] = field(default_factory=set)
    beyond: dict[str, float] = field(default_factory=dict)
    """Shots that cannot be made for this sum [cents] or less, even by themselves."""
    opened: set[str] = field(default_factory=set)
    """Shots with which nothing works that is there, so that what was left out for it is asked too."""

    def learn(self, case: str, report: Report) -> None:
        """What a look at a recipe of a case taught that is not known yet."""
        if report.opened and case not in self.opened:
            self.opened.add(case)
            self.known -= {(case, clause.never) for shot, clause in self.clauses if shot == case and clause.own}
        failed = [report.found.clause] if isinstance(report.found, Fail) else []
        for clause in (*report.clauses, *failed):
            if self._first((case, clause.never)):
                self.clauses.append((case, clause))
        for one in report.weights:
            need = Need(case, one.light, one.when, one.key, one.count)
            if self._first(need):
                self.needs.append(need)
        for dark in report.unlit:
            if self._first((case, dark)):
                self.unlit.append((case, dark))

    def holding(self, case: str) -> list[Clause]:
        """What is known never to go together in a shot, and holds still."""
        return [clause for shot, clause in self.clauses if shot == case and self.holds(case, clause)]

    def holds(self, case: str, clause: Clause) -> bool:
        return not (clause.own and case in self.opened)

    def _first(self, one: object) -> bool:
        new = one not in self.known
        self.known.add(one)
        return new

    def besides(self, case: str, recipe: Recipe) -> Counter[str]:
        """What a shot filled like this needs besides, by thing: of each unit the most, over its units the sum."""
        return over_units(self.by_unit(case, recipe))

    def weighing(self, case: str, recipe: Recipe, goods: Mapping[str, Good]) -> Counter[str]:
        """What the weights counted for each unit of a shot filled like this weigh [g]."""
        sums: Counter[str] = Counter()
        for (unit, key), count in self.by_unit(case, recipe).items():
            sums[unit] += weighs(goods[key].item) * count
        return sums

    def by_unit(self, case: str, recipe: Recipe) -> Counter[tuple[str, str]]:
        """What each unit of a shot filled like this needs besides: the most that is known, by unit and thing."""
        filled, most = set(recipe.items()), Counter[tuple[str, str]]()
        for need in self.needs:
            if need.case == case and need.when <= filled:
                most[need.unit, need.key] = max(most[need.unit, need.key], need.count)
        return most

    def __len__(self) -> int:
        return len(self.clauses) + len(self.needs) + len(self.bounds) + len(self.unlit) + len(self.opened)


def value_of(cases: Iterable[Case], made: Iterable[str]) -> tuple[int, int, int, int]:
    """Must, should and could shots made, and sessions a year they serve."""
    shots = {case.id: case.shot for case in cases}
    chosen = [shots[key] for key in made]
    counts = [sum(shot.priority == priority for shot in chosen) for priority in PRIORITIES]
    return counts[0], counts[1], counts[2], sum(shot.sessions or 1 for shot in chosen)


Hired = dict[tuple[str, str], tuple[int, int]]
"""Count and cost in a year [cents] of what is rented, by shot and thing."""


def rents(market: Market, cases: Iterable[Case], recipes: Mapping[str, Recipe]) -> Hired:
    """What is rented for each shot: count and cost in a year [cents], by shot and thing."""
    sessions = {case.id: case.shot.sessions or 1 for case in cases}
    found = {}
    for case, recipe in recipes.items():
        for key, count in Counter(recipe.values()).items():
            rent = market.by_key[key].rent if key in market.by_key else None
            if rent is not None:
                found[case, key] = (count, count * rent * sessions[case])
    return found


class Master:
    """The programme over fixed cases; cuts grow as recipes are checked."""

    def __init__(
        self,
        market: Market,
        cases: Sequence[Case],
        spaces: tuple[float, float] | None = None,
        *,
        struck: bool = False,
    ) -> None:
        """`spaces`: litres and kilograms the storage places take, where everything is struck; `struck`: every set is
        put up anew, so that of choices of equal worth and cost the one that takes fewest minutes is wanted."""
        self.market, self.spaces, self.struck = market, spaces, struck
        self.cases = [case for case in cases if not case.impossible]
        self.cuts = Cuts()
        self.weights = self._weights()
        self._model: _Model | None = None

    def _weights(self) -> dict[str, int]:
        """Value of each shot, so that one of a higher priority outweighs all of the lower together."""
        sessions = sum(case.shot.sessions or 1 for case in self.cases)
        step, weight = sessions + 1, {}
        for priority in reversed(PRIORITIES):
            group = [case for case in self.cases if case.shot.priority == priority]
            for case in group:
                weight[case.id] = step + (case.shot.sessions or 1)
            step *= len(group) + 1
        return weight

    def solve(
        self,
        budget: int | None,
        *,
        least: int = 0,
        force: Mapping[str, int] | None = None,
        ban: Iterable[frozenset[tuple[str, str, str]]] = (),
        only: str | None = None,
        quick: bool = False,
        free: Mapping[str, int] = NONE,
        among: Among | None = None,
        seconds: float = 20.0,
        stop: Callable[[], bool] = lambda: False,
    ) -> Choice | None:
        """The most valuable choice within a budget [cents], then the cheapest, then where every set is struck the one
        that takes fewest minutes; `quick`: minutes come before money. None when none is found.

        `force`: at least so many of a thing are bought. `least`: value at least this. `ban`: sets of (shot, slot,
        key) of which not all may be chosen. `only`: no other shot is made. `free`: so many of a thing cost nothing.
        `among`: no other recipes than these.
        """
        if self._model is None or self._model.opened != self.cuts.opened:
            self._model = _Model(self)
        return self._model.solve(budget, least, force or {}, ban, only, quick, free, among, _solver(seconds), stop)


class _Model:
    """The programme without budget and wishes; what is learnt is added as it comes."""

    def __init__(self, master: Master) -> None:
        self.master, self.model = master, cp_model.CpModel()
        self.done = {case.id: self.model.new_bool_var(f"made {case.id}") for case in master.cases}
        self.fill: dict[tuple[str, str, str], cp_model.IntVar] = {}
        self.units: dict[tuple[str, str, str], cp_model.IntVar] = {}
        self.uses: dict[tuple[str, str], list[cp_model.IntVar]] = {}
        self.spots: dict[tuple[str, Spot], cp_model.IntVar] = {}
        self.opened = frozenset(master.cuts.opened)
        self.taken = {"clauses": 0, "needs": 0, "bounds": 0, "unlit": 0}
        goods = master.market.goods
        self.cents = {good.key: good.cents for good in goods if good.cents is not None}
        self.buy = {key: self.model.new_int_var(0, MOST_OF_ONE, f"buy {key}") for key in self.cents}
        self.rents: list[tuple[int, cp_model.IntVar]] = []
        for case in master.cases:
            self._case(case)
        self._firing()
        self._stowed()
        paid = [(price, self.buy[key]) for key, price in self.cents.items()]
        self.cost = sum(price * var for price, var in (*paid, *self.rents))
        self.worth = sum(master.weights[key] * var for key, var in self.done.items())
        tenths = {one: _tenths(master.market, one) for one in self.fill}
        self.time = sum(tenths[one] * var for one, var in self.fill.items())
        self.longest = sum(tenths.values())

    def solve(
        self,
        budget: int | None,
        least: int,
        force: Mapping[str, int],
        ban: Iterable[frozenset[tuple[str, str, str]]],
        only: str | None,
        quick: bool,
        free: Mapping[str, int],
        among: Among | None,
        solver: cp_model.CpSolver,
        stop: Callable[[], bool],
    ) -> Choice | None:
        """As `Master.solve`, with everything learnt by now."""
        self._learn()
        asked = self.model.clone()
        self._besides(asked)
        for key, count in force.items():
            if key in self.buy:
                asked.add(self.buy[key] >= count)
        for group in ban:
            literals = [self.fill[one] for one in group if one in self.fill]
            if literals:
                asked.add_bool_or([literal.negated() for literal in literals])
        if among is not None:
            self._restrict(asked, among)
        for key, made in self.done.items():
            least_sum = self.master.cuts.beyond.get(key, -1.0)
            if only not in (None, key) or (inf if budget is None else budget) <= least_sum:
                asked.add(made == 0)
        cost = self._cost(asked, free)
        top = (sum(self.cents.values()) + sum(price for price, _ in self.rents)) * MOST_OF_ONE
        if budget is not None:
            asked.add(cost <= budget)
            top = min(budget, top)
        if least:
            asked.add(self.worth >= least)
        if quick:
            asked.maximize((self.worth * (self.longest + 1) - self.time) * (top + 1) - cost)
        elif self.master.struck:
            asked.maximize((self.worth * (top + 1) - cost) * (self.longest + 1) - self.time)
        else:
            asked.maximize(self.worth * (top + 1) - cost)
        return self._run(asked, solver, stop)

    def _restrict(self, model: cp_model.CpModel, among: Among) -> None:
        """Every shot that is made, by one of some recipes."""
        for case, made in self.done.items():
            chosen = [model.new_bool_var(f"{case} {number}") for number in range(len(among.get(case, ())))]
            for one, recipe in zip(chosen, among.get(case, ()), strict=True):
                for slot, key in recipe.items():
                    model.add_implication(one, self.fill[case, slot, key])
            model.add(sum(chosen) == made)

    def _cost(self, model: cp_model.CpModel, free: Mapping[str, int]) -> cp_model.LinearExpr | int:
        """What is bought and rented costs, beyond what is `free`."""
        if not free:
            return self.cost
        paid: list[tuple[int, cp_model.IntVar]] = []
        for key, price in self.cents.items():
            var = self.buy[key]
            if key in free:
                var = model.new_int_var(0, MOST_OF_ONE, f"pays {key}")
                model.add(var >= self.buy[key] - free[key])
            paid.append((price, var))
        return sum(price * var for price, var in (*paid, *self.rents))

    def _have(self, key: str) -> cp_model.LinearExprT:
        good = self.master.market.by_key[key]
        return good.owned + self.buy.get(key, 0)

    def _case(self, case: Case) -> None:
        uses: dict[str, list[cp_model.IntVar]] = {}
        for slot in case.slots.values():
            row = []
            for key in slot.keys:
                var = self.model.new_bool_var(f"{case.id} {slot.name} {key}")
                self.fill[case.id, slot.name, key] = var
                row.append(var)
                if key != NOTHING:
                    uses.setdefault(key, []).append(var)
            self.model.add(sum(row) == self.done[case.id])
        self.uses |= {(case.id, key): row for key, row in uses.items()}
        for key, row in uses.items():
            rent = self.master.market.by_key[key].rent
            if rent is None:
                self.model.add(sum(row) <= self._have(key))
            else:
                hired = self.model.new_int_var(0, MOST_OF_ONE, f"{case.id} rents {key}")
                self.model.add(sum(row) <= hired)
                self.rents.append((rent * (case.shot.sessions or 1), hired))
        for clause in case.clauses:
            self._forbid(case.id, clause.never)

    def _forbid(self, case: str, never: Iterable[tuple[str, str]]) -> None:
        literals = [self.fill.get((case, slot, key)) for slot, key in never]
        if all(literal is not None for literal in literals):
            self.model.add_bool_or([literal.negated() for literal in literals if literal is not None])

    def _firing(self) -> None:
        """A transmitter that fits the camera, and a receiver for each head without one."""
        goods = self.master.market.goods
        senders = [g for g in goods if isinstance(g.item, Part) and g.item.use in ("trigger", "transmitter")]
        catchers = [g for g in goods if isinstance(g.item, Part) and g.item.use in ("trigger", "receiver")]
        for case in self.master.cases:
            heads = [(slot, key) for slot in case.slots if slot.endswith(".head") for key in case.slots[slot].keys]
            radio = [(s, k, _flash(self.master.market, k)) for s, k in heads if _flash(self.master.market, k)]
            deaf = [self.fill[case.id, s, k] for s, k, flash in radio if flash and not flash.receiver]
            if deaf:
                self.model.add(sum(deaf) <= sum(self._have(g.key) for g in catchers))
            for body in case.slots["body"].keys if "body" in case.slots else ():
                camera = self.master.market.by_key[body].item
                fits = [g for g in senders if isinstance(camera, Camera) and _fits(g, camera)]
                for slot, key, _ in radio:
                    both = self.fill[case.id, "body", body] + self.fill[case.id, slot, key] - 1
                    self.model.add(sum(self._have(g.key) for g in fits) >= both)

    def _new(self, what: Literal["clauses", "needs", "bounds", "unlit"], learnt: Sequence[T]) -> Sequence[T]:
        """What was learnt since it was asked for last."""
        fresh = learnt[self.taken[what] :]
        self.taken[what] = len(learnt)
        return fresh

    def _learn(self) -> None:
        cuts = self.master.cuts
        for case, clause in self._new("clauses", cuts.clauses):
            if cuts.holds(case, clause):
                self._forbid(case, clause.never)
        for need in self._new("needs", cuts.needs):
            self._need(need)
        for bound in self._new("bounds", cuts.bounds):
            self._bound(bound)
        for case, dark in self._new("unlit", cuts.unlit):
            self._unlit(case, dark)

    def _unlit(self, case: str, dark: Unlit) -> None:
        """A shot that is made has a spot of its key at which all its lights serve."""
        literals = [self.fill.get((case, slot, key)) for slot, key in dark.when]
        if case not in self.done or any(literal is None for literal in literals):
            return
        if (case, dark.spot) not in self.spots:
            here = [self.model.new_bool_var(f"{case} {spot}") for spot in NEAR]
            self.spots |= {(case, spot): var for spot, var in zip(NEAR, here, strict=True)}
            self.model.add(sum(here) >= self.done[case])
        never = [literal.negated() for literal in literals if literal is not None]
        self.model.add_bool_or([*never, self.spots[case, dark.spot].negated()])

    def _bound(self, bound: Bound) -> None:
        over: list[cp_model.IntVar] = []
        if any(key not in self.buy for key in bound.goods):
            return
        for key, count in bound.goods.items():
            many = self.model.new_bool_var(f"many {key}")
            self.model.add(self.buy[key] >= count).only_enforce_if(many)
            self.model.add(self.buy[key] < count).only_enforce_if(many.negated())
            over.append(many)
        self.model.add_bool_or([many.negated() for many in over])

    def _need(self, need: Need) -> None:
        """A unit of a shot, filled so, needs so many of a thing."""
        literals = [self.fill.get((need.case, slot, key)) for slot, key in need.when]
        sure = [literal for literal in literals if literal is not None]
        if len(sure) < len(literals):
            return
        key = (need.case, need.key, need.unit)
        if key not in self.units:
            self.units[key] = self.model.new_int_var(0, MOST_BESIDES, " ".join(key))
        self.model.add(self.units[key] >= need.count).only_enforce_if(sure)

    def _besides(self, model: cp_model.CpModel) -> None:
        """Weights, leads, stands of cards: what units of a shot need, with what fills it, is no more than there is."""
        sums: dict[tuple[str, str], list[cp_model.IntVar]] = {}
        for (case, thing, _), var in self.units.items():
            sums.setdefault((case, thing), []).append(var)
        for (case, thing), row in sums.items():
            model.add(sum(row) + sum(self.uses.get((case, thing), ())) <= self._have(thing))

    def _stowed(self) -> None:
        """No more litres and kilograms than the places take."""
        spaces = self.master.spaces
        if spaces is None:
            return
        for take, limit in ((_millilitres, spaces[0] * 1000), (_grams, spaces[1] * 1000)):
            owned = sum(take(good) * good.owned for good in self.master.market.goods)
            if owned <= limit < 1e12:
                goods = [self.master.market.by_key[key] for key in self.buy]
                self.model.add(sum(take(good) * self.buy[good.key] for good in goods) <= int(limit - owned))

    def _run(self, model: cp_model.CpModel, solver: cp_model.CpSolver, stop: Callable[[], bool]) -> Choice | None:
        status = solver.solve(model, _Stop(stop))
        if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
            return None
        made = [key for key, var in self.done.items() if solver.value(var)]
        recipes = {
            case.id: {
                slot.name: next(key for key in slot.keys if solver.value(self.fill[case.id, slot.name, key]))
                for slot in case.slots.values()
            }
            for case in self.master.cases
            if case.id in made
        }
        used = {key for recipe in recipes.values() for key in recipe.values()}
        counts = {key: int(solver.value(var)) for key, var in self.buy.items()}
        bought = {key: count for key, count in counts.items() if count and (self.cents[key] or key in used)}
        prices = self.master.market.by_key
        cents = sum((prices[key].cents or 0) * count for key, count in bought.items())
        hired = rents(self.master.market, self.master.cases, recipes)
        cents += sum(cost for _, cost in hired.values())
        return Choice(recipes, bought, cents, value_of(self.master.cases, made), status == cp_model.OPTIMAL)


def _solver(seconds: float) -> cp_model.CpSolver:
    """A solver for many small programmes one after another: presolved once and lightly, which takes half the time."""
    solver = cp_model.CpSolver()
    solver.parameters.max_time_in_seconds = seconds
    solver.parameters.num_workers = 1
    solver.parameters.random_seed = 7
    solver.parameters.max_presolve_iterations = 1
    solver.parameters.cp_model_probing_level = 0
    solver.parameters.symmetry_level = 0
    return solver


class _Stop(cp_model.CpSolverSolutionCallback):
    """Asks between solutions whether to go on."""

    def __init__(self, stop: Callable[[], bool]) -> None:
        super().__init__()
        self.stop = stop

    def on_solution_callback(self) -> None:
        if self.stop():
            self.stop_search()


def _tenths(market: Market, one: tuple[str, str, str]) -> int:
    """Tenths of a minute that a thing in a slot takes to set up and strike."""
    _, slot, key = one
    return 0 if key == NOTHING else round(10 * handling(slot, market.by_key[key]))


def _flash(market: Market, key: str) -> Flash | None:
    item = market.by_key[key].item
    return item if isinstance(item, Flash) and item.fired == "radio" else None


def _fits(good: Good, camera: Camera) -> bool:
    part = good.item
    return isinstance(part, Part) and (part.fits is None or camera.fires is None or part.fits == camera.fires)


def _millilitres(good: Good) -> int:
    """Packed volume [ml], rounded down; nothing for what stays in the room or is not measured."""
    item = good.item
    if item.stowed == "stays in the room" or not (item.packed_length and item.packed_width and item.packed_height):
        return 0
    return int(item.packed_length.value * item.packed_width.value * item.packed_height.value * 1e6)


def _grams(good: Good) -> int:
    return int(good.item.mass.value * 1000) if good.item.mass and good.item.stowed != "stays in the room" else 0
