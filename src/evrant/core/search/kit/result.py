"""The answer of a search as plain data: what is kept of a job, printed by the command line and drawn by the page."""

from collections.abc import Callable, Mapping, Sequence
from typing import Any, NotRequired, TypedDict

from evrant.core.base.clock import Clock, standing_still
from evrant.core.base.margins import Verdict
from evrant.core.judge.ledger import ledger_of, lines_of_set
from evrant.core.search.kit.case import NOTHING, Case
from evrant.core.search.kit.crew import Start
from evrant.core.search.kit.instead import instead
from evrant.core.search.kit.master import Bound, rents
from evrant.core.search.kit.optimum import Kit, Search, Step, frontier, needed, proof_words
from evrant.core.search.kit.phases import Phase, months, phases
from evrant.core.search.kit.shopping import figures
from evrant.core.search.kit.standing_back import stood_back
from evrant.core.search.kit.verdicts import Stopped
from evrant.core.search.kit.whynot import never, others, why_not
from evrant.core.studio.gear import Item
from evrant.core.studio.room import value
from evrant.core.studio.studio import Studio, by_id
from evrant.core.studio.words import Say

PRIORITIES = ("must", "should", "could")
INSTEAD = 90.0
"""How long what would make the shots that are not made is looked for, all together [s]."""
BEYOND = 2.0
"""The frontier is followed up to this many times the budget."""
OPEN = "whether the money reaches for it is not known yet"
Data = dict[str, Any]


class Value(TypedDict):
    """Shots made by priority, and sessions a year they serve."""

    must: int
    should: int
    could: int
    sessions: int


class Stats(TypedDict):
    """How the search went."""

    recipes: int
    searches: int
    ledger_runs: int
    cuts: int
    first_s: float | None
    bound: int | None


class Best(TypedDict):
    """The best kit under a budget."""

    budget: float
    currency: str
    found: bool
    proved: bool
    covers: str
    cost: float
    left: float
    value: Value
    shots: list[Data]
    buy: list[Data]
    rent: list[Data]
    phases: list[Data]
    frontier: list[Data]
    others: list[Data]
    why_not: list[Data]
    stats: Stats
    stopped: NotRequired[bool]


def best_kit(
    studio: Studio,
    library: Sequence[Item],
    budget: float,
    *,
    tell: Callable[[str, Best | None], None] = lambda words, so_far: None,
    stop: Callable[[], bool] = lambda: False,
    whole: bool = True,
    changes: bool = False,
    hasty: bool = False,
    helper: Start | None = None,
    clock: Clock = standing_still,
    failed: Callable[[str, str], None] = lambda shot, why: None,
) -> Best:
    """The most valuable kit under a budget, its phases, the frontier, why not, and others as good.

    `tell` hears what is being looked at, and the answer so far each time more of it is known; `stop` ends the search:
    what is known by then is given, and not called proved. `whole` false leaves out frontier, others and why not;
    `changes` looks for what would make the shots that are not made; `hasty` is content with something that works;
    `failed` hears of recipes of a shot, by its id, why they failed.
    """
    cents = round(budget * 100)
    search = Search.of(
        studio,
        library,
        lambda words, checks, cuts: tell(f"{words}: {checks} recipes checked{_hope(search)}", None),
        stop,
        helper=helper,
        clock=clock,
        hasty=hasty,
    )
    answer = _nothing(search, studio, budget)

    def so_far(kit: Kit) -> None:
        _fill(answer, search, studio, kit, budget)
        tell("Something works; better is looked for", _with_stats(answer, search))

    search.tell = so_far
    try:
        kit = search.best(cents)
        search.tell = lambda kit: None
        if kit is None or not kit.choice.recipes:
            answer["proved"] = kit is not None and kit.choice.proved and not hasty
            for told, case in zip(answer["shots"], search.cases, strict=True):
                told["open"] = not (case.impossible or answer["proved"] or (hasty and kit is not None))
                told["why"] = case.impossible or (OPEN if told["open"] else _left_out(search, case))
            if changes:
                _instead(answer, search, library, cents, tell)
            return _with_stats(answer, search)
        kit = stood_back(search, kit)
        _fill(answer, search, studio, kit, budget)
        tell("The best kit is found; now what more money would do", _with_stats(answer, search))
        if whole:
            steps = frontier(search, round(cents * BEYOND))
            answer["frontier"] = _frontier(search, steps)
            tell("Now kits of another character", _with_stats(answer, search))
            answer["others"] = [_other(search, one.words, one.kit) for one in others(search, kit, cents)]
            tell("Now why the rest is left out", _with_stats(answer, search))
            say = Say.of(studio.brief)
            answer["why_not"] = [one.__dict__ for one in why_not(search, kit, cents, say.money)]
        if changes:
            _instead(answer, search, library, cents, tell)
    except Stopped:
        answer["stopped"] = True
        answer["proved"] = answer["proved"] and answer["found"]
    finally:
        for shot, why in search.whys():
            failed(shot, why)
        search.close()
    return _with_stats(answer, search)


def _hope(search: Search) -> str:
    """How many shots the best plan makes that nothing speaks against yet."""
    return (
        "" if search.bound is None else f"; the best plan still open makes {search.bound} of {len(search.cases)} shots"
    )


def _nothing(search: Search, studio: Studio, budget: float) -> Best:
    impossible = [
        {
            "id": case.id,
            "name": case.shot.name,
            "priority": case.shot.priority,
            "made": False,
            "open": not case.impossible,
            "why": case.impossible or OPEN,
        }
        for case in search.cases
    ]
    return {
        "budget": budget,
        "currency": studio.brief.currency,
        "found": False,
        "proved": False,
        "covers": proof_words(Say.of(search.studio.brief).length),
        "cost": 0.0,
        "left": budget,
        "value": {"must": 0, "should": 0, "could": 0, "sessions": 0},
        "shots": impossible,
        "buy": [],
        "rent": [],
        "phases": [],
        "frontier": [],
        "others": [],
        "why_not": [],
        "stats": {"recipes": 0, "searches": 0, "ledger_runs": 0, "cuts": 0, "first_s": None, "bound": None},
    }


def _with_stats(answer: Best, search: Search) -> Best:
    counts = search.crew.counts
    answer["stats"] = {
        "recipes": counts.recipes,
        "searches": counts.searches,
        "ledger_runs": counts.ledger_runs,
        "cuts": len(search.master.cuts),
        "first_s": search.first_s,
        "bound": search.bound,
    }
    return answer


def _fill(answer: Best, search: Search, studio: Studio, kit: Kit, budget: float) -> None:
    must, should, could, served = kit.value
    answer["found"], answer["proved"] = True, kit.choice.proved
    answer["cost"], answer["left"] = kit.cents / 100, round(budget - kit.cents / 100, 2)
    answer["value"] = {"must": must, "should": should, "could": could, "sessions": served}
    steps = phases(kit, search.cases, search.market, search.master.weights)
    phase_of = {key: step.number for step in reversed(steps) for key in step.buy}
    finished = finished_studio(search, studio, kit)
    answer["shots"] = [_shot(search, kit, case, finished) for case in search.cases]
    answer["buy"] = _buy(search, finished, kit, phase_of)
    answer["phases"] = _phases(search, studio, steps)
    answer["rent"] = _rent(search, kit)


def _shot(search: Search, kit: Kit, case: Case, finished: Studio) -> Data:
    """A shot of the plan: what it is made of and where it stands, what is left to walls and settings; or why not."""
    key = case.id
    told: Data = {"id": key, "name": case.shot.name, "priority": case.shot.priority, "made": key in kit.choice.recipes}
    if not told["made"]:
        told["open"] = not (case.impossible or kit.choice.proved)
        told["why"] = OPEN if told["open"] else case.impossible or _left_out(search, case)
        return told
    recipe, passed = kit.choice.recipes[key], kit.passes[key]
    names = search.market.by_key
    told["recipe"] = {slot: names[item].item.name for slot, item in recipe.items() if item != NOTHING}
    told["set"] = passed.plan.model_dump(mode="json", exclude_none=True)
    told["worst"] = passed.worst.sentence if passed.worst else ""
    told["unknown"] = list(passed.unknown)
    told["left"] = [m.sentence for m in lines_of_set(finished, passed.plan) if m.verdict is Verdict.SHORT]
    return told


def _left_out(search: Search, case: Case) -> str:
    """Why a shot is not in the best plan: the least a way of making it would cost that is not ruled out yet; or, where
    all are, what failed last."""
    alone = search.master.solve(None, only=case.id, seconds=5.0)
    if alone is not None and alone.recipes:
        least = Say.of(search.studio.brief).money(alone.cents / 100)
        return f"nothing that works fits the money; the least not ruled out yet is {least} alone"
    goods = search.market.by_key
    large = {key: bound.why for bound in search.master.cuts.bounds for key in bound.goods if _one(bound)}
    for slot in case.slots.values():
        if all(key in large and not goods[key].owned for key in slot.keys):
            narrow = min((goods[key].item for key in slot.keys), key=lambda item: value(item.packed_length) or 0.0)
            return f"of all on offer as {slot.word}, even the {narrow.called}: {large[narrow.id]}"
    for slot in case.slots.values():
        why = never(search, case, slot.keys, slot.name)
        if why:
            return f"{slot.word} is what fails: {why}"
    tried = [clause for clause in search.master.cuts.holding(case.id) if len(clause.never) > 1]
    last = f"; the last that was tried: {tried[-1].why}" if tried else ""
    return f"no combination on offer works in this room and its storage{last}"


def _instead(
    answer: Best, search: Search, library: Sequence[Item], cents: int, tell: Callable[[str, Best | None], None]
) -> None:
    """For each shot that is not made, what would make it: the smallest change, carried out and searched alone."""
    shots, end = {shot.id: shot for shot in search.studio.shots}, search.clock() + INSTEAD
    for told in sorted(answer["shots"], key=lambda told: PRIORITIES.index(told["priority"])):
        if told["made"] or search.clock() > end:
            continue
        tell(f"{told['name']}: what would make it", _with_stats(answer, search))
        found = instead(search.studio, library, shots[told["id"]], cents, stop=search.stop, clock=search.clock)
        if found is not None:
            told["instead"] = {
                "words": list(found.way.words),
                "edit": found.edit.model_dump(mode="json") if found.way.edits else None,
                "cost": found.kit.cents / 100,
                "within": found.within,
                "buy": found.names,
            }


def _one(bound: Bound) -> bool:
    """Whether a single thing finds no place."""
    return list(bound.goods.values()) == [1]


def _buy(search: Search, finished: Studio, kit: Kit, phase_of: Mapping[str, int]) -> list[Data]:
    """What is bought, with the figures to look for; the ledger of the finished kit tells what is needed."""
    lines = ledger_of(finished).lines
    needs = {key: needed(kit, key, search.market) for key in kit.choice.recipes}
    rows = []
    for key, count in kit.choice.bought.items():
        good = search.market.by_key[key]
        item = by_id(finished.gear, key) or good.item
        users = [case.shot.name for case in search.cases if case.id in needs and needs[case.id][key]]
        rows.append(
            {
                "key": key,
                "name": good.item.name,
                "kind": good.item.kind,
                "count": count,
                "each": (good.cents or 0) / 100,
                "cost": (good.cents or 0) * count / 100,
                "phase": phase_of.get(key, 1),
                "for": users,
                "figures": [one.words for one in figures(item, finished, lines)],
                "item": good.item.model_dump(mode="json", exclude_none=True),
            }
        )
    return sorted(rows, key=lambda row: (row["phase"], -row["cost"], row["name"]))


def _rent(search: Search, kit: Kit) -> list[Data]:
    """What is rented for which shot: count, days a year, and what that costs."""
    names = {case.id: case.shot for case in search.cases}
    rows = []
    for (case, key), (count, cents) in rents(search.market, search.cases, kit.choice.recipes).items():
        good, shot = search.market.by_key[key], names[case]
        row = {"key": key, "name": good.item.name, "count": count, "shot": case, "for": shot.name}
        row |= {"days": shot.sessions or 1, "each": (good.rent or 0) / 100, "cost": cents / 100}
        rows.append(row | {"item": good.item.model_dump(mode="json", exclude_none=True)})
    return rows


def finished_studio(search: Search, studio: Studio, kit: Kit) -> Studio:
    """The studio with everything bought and the plan's sets: what the ledger has the last word on."""
    owned = [item for item in studio.gear if item.status == "owned"]
    bought = [
        search.market.by_key[key].item.changed(status="planned", quantity=count)
        for key, count in kit.choice.bought.items()
    ]
    most: dict[str, int] = {}
    for (_, key), (count, _) in rents(search.market, search.cases, kit.choice.recipes).items():
        most[key] = max(most.get(key, 0), count)
    hired = [search.market.by_key[key].item.changed(quantity=count) for key, count in most.items()]
    return studio.changed(gear=(*owned, *bought, *hired), sets=tuple(one.plan for one in kit.passes.values()))


def _phases(search: Search, studio: Studio, steps: Sequence[Phase]) -> list[Data]:
    names = {case.id: case.shot.name for case in search.cases}
    monthly = None if studio.brief.monthly is None else round(float(studio.brief.monthly) * 100)
    total, rows = 0, []
    for step, month in zip(steps, months(steps, monthly), strict=True):
        total += step.cents
        rows.append(
            {
                "number": step.number,
                "cost": step.cents / 100,
                "total": total / 100,
                "buy": dict(step.buy),
                "shots": [names[key] for key in step.shots],
                "sets": list(step.shots),
                "month": month,
            }
        )
    return rows


def _frontier(search: Search, steps: Sequence[Step]) -> list[Data]:
    names = {case.id: case.shot.name for case in search.cases}
    rows: list[Data] = []
    for before, step in zip((None, *steps), steps, strict=False):
        old = set(before.shots) if before else set()
        must, should, could, served = step.value
        rows.append(
            {
                "cost": step.cents / 100,
                "value": {"must": must, "should": should, "could": could, "sessions": served},
                "shots": [names[key] for key in step.shots],
                "gains": [names[key] for key in step.shots if key not in old],
                "buy": {search.market.by_key[key].item.name: count for key, count in step.bought.items()},
            }
        )
    return rows


def _other(search: Search, words: str, kit: Kit) -> Data:
    names = {search.market.by_key[key].item.name: count for key, count in kit.choice.bought.items()}
    return {"words": words, "cost": kit.cents / 100, "buy": names}
