"""Why a thing is not in the plan, and what a plan of another character would be."""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

from evrant.core.search.kit.case import NOTHING, Case
from evrant.core.search.kit.handling import handled
from evrant.core.search.kit.market import Good
from evrant.core.search.kit.optimum import Kit, Search
from evrant.core.search.kit.verdicts import Stopped
from evrant.core.studio.gear import Backdrop, Flash, Holder, Item

Money = Callable[[float], str]


@dataclass(frozen=True)
class WhyNot:
    """A thing and the reason it is not bought."""

    key: str
    name: str
    kind: str
    why: str


def why_not(search: Search, kit: Kit, budget: int | None, money: Money) -> list[WhyNot]:
    """The reason for every thing on offer that the plan leaves out.

    First what the market or every shot dropped; then what the best plan with it would be, by the same programme:
    its bound holds for all plans, so what it says is proved as far as the plan is.
    """
    found = [WhyNot(d.key, d.name, "", d.why) for d in search.market.dropped]
    for good in search.market.goods:
        if good.cents is None or kit.choice.bought.get(good.key) or search.stop():
            continue
        why = _dropped(search.cases, good) or _unstowed(search, good) or _forced(search, kit, good, budget, money)
        found.append(WhyNot(good.key, good.item.name, good.item.kind, why))
    kinds = {good.key: good.item.kind for good in search.market.goods}
    return [WhyNot(one.key, one.name, one.kind or kinds.get(one.key, ""), one.why) for one in found]


def _dropped(cases: Iterable[Case], good: Good) -> str:
    """Why no shot can use it at all, or nothing."""
    words = ""
    for case in cases:
        if any(good.key in slot.keys for slot in case.slots.values()) and good.key not in case.dropped:
            return ""
        words = words or case.dropped.get(good.key, "")
    if good.item.kind in ("part", "lead"):
        return ""
    return words or "no shot of yours has a role for it"


def _unstowed(search: Search, good: Good) -> str:
    """That it finds no place at all, or nothing."""
    return next((bound.why for bound in search.master.cuts.bounds if bound.goods == {good.key: 1}), "")


def _forced(search: Search, kit: Kit, good: Good, budget: int | None, money: Money) -> str:
    """What the best plan with it would be."""
    if budget is not None and good.cents is not None and good.cents > budget:
        return "it costs more than the budget"
    with_it = search.master.solve(budget, force={good.key: 1}, seconds=5.0)
    if with_it is None:
        return "the budget does not reach for it and a picture"
    if not with_it.proved:
        return "whether a plan with it would be as good was not settled in its time"
    if with_it.value < kit.value:
        lost = [
            case.shot.name for case in search.cases if case.id in kit.choice.recipes and case.id not in with_it.recipes
        ]
        names = ", ".join(f"“{name}”" for name in lost) or "a shot"
        return f"with it the money no longer reaches for {names}"
    more = (with_it.cents - kit.cents) / 100
    uses = any(good.key in recipe.values() for recipe in with_it.recipes.values())
    if uses:
        return f"it would serve, but the same pictures cost {money(more)} more with it"
    failed = next(
        (
            clause.why
            for case in search.cases
            for clause in search.master.cuts.holding(case.id)
            if any(key == good.key for _, key in clause.never)
        ),
        "",
    )
    if failed and good.item.kind not in ("part", "lead"):
        return (
            f"it adds nothing for {money(more)} more; where it was tried: {failed[:1].lower()}{failed[1:].rstrip('.')}"
        )
    return f"it adds nothing to what the plan can take, for {money(more)} more"


def never(search: Search, case: Case, keys: Sequence[str], slot: str) -> str:
    """Why nothing that may fill a slot ever does, in the words of what is owned or comes first; or nothing."""
    bodies = case.slots["body"].keys if "body" in case.slots else ()
    alone = frozenset({("body", bodies[0])}) if len(bodies) == 1 else frozenset()
    learnt = search.master.cuts.holding(case.id)
    whys: dict[str, str] = {}
    for clause in (*case.clauses, *learnt):
        rest = clause.never - alone
        if len(rest) == 1:
            (where, key) = next(iter(rest))
            if where == slot:
                whys.setdefault(key, clause.why)
    if not all(key in whys for key in keys):
        return ""
    names = search.market.by_key
    return next((whys[key] for key in keys if key in names and names[key].owned), whys[keys[0]] if keys else "")


Trait = Callable[[Item], str]


def _head(item: Item) -> str:
    if item.kind not in ("flash", "lamp"):
        return ""
    return "flash" if isinstance(item, Flash) else f"continuous light, {getattr(item, 'form', '') or 'lamp'}"


def _ground(item: Item) -> str:
    return f"{item.material} background" if isinstance(item, Backdrop) else ""


def _hold(item: Item) -> str:
    return item.system or "" if isinstance(item, Holder) else ""


TRAITS: tuple[Trait, ...] = (_head, _ground, _hold)


@dataclass(frozen=True)
class Other:
    """A plan of equal value and another character: what is different, and the plan."""

    words: str
    kit: Kit


SAVES = 3.0
"""Minutes less that are worth another plan; project choice."""
LOOKED = 8.0
"""How long one other character is looked for [s]: it is an offer, not a proof."""


def others(search: Search, kit: Kit, budget: int | None, seconds: float = LOOKED) -> list[Other]:
    """Plans that make the same shots with another kind of light, background or holder; each looked for so long."""
    worth = sum(search.master.weights[key] for key in kit.choice.recipes)
    found: list[Other] = []
    for trait in TRAITS:
        mine = _traits(search, kit, trait)
        ban = [
            frozenset({(case.id, slot.name, key)})
            for case in search.master.cases
            for slot in case.slots.values()
            for key in slot.keys
            if key != NOTHING and trait(search.market.by_key[key].item) in mine
        ]
        other = _within(search, seconds, budget, worth, ban) if ban else None
        if other is None or other.cents > kit.cents * 2 + 1:
            continue
        theirs = sorted(_traits(search, other, trait))
        words = f"{', '.join(theirs) or 'the bare wall'} instead of {', '.join(sorted(mine))}"
        if all(words != one.words for one in found):
            found.append(Other(words, other))
    if search.master.struck and (quicker := _quicker(search, kit, budget, worth, seconds)):
        found.append(quicker)
    return found


def _quicker(search: Search, kit: Kit, budget: int | None, worth: int, seconds: float) -> Other | None:
    """The plan that takes fewest minutes to set up and strike, where that is worth speaking of."""
    other = _within(search, seconds, budget, worth, [], quick=True)
    if other is None:
        return None
    saved = minutes_of(search, kit) - minutes_of(search, other)
    if saved < SAVES:
        return None
    return Other(f"{saved:.0f} minutes less to set up and strike, all sets together", other)


def minutes_of(search: Search, kit: Kit) -> float:
    """Minutes to set up and strike what the recipes of a plan name."""
    return sum(handled(recipe, search.market.by_key) for recipe in kit.choice.recipes.values())


def _traits(search: Search, kit: Kit, trait: Trait) -> set[str]:
    """The character of a plan in one respect."""
    keys = {key for recipe in kit.choice.recipes.values() for key in recipe.values() if key != NOTHING}
    return {trait(search.market.by_key[key].item) for key in keys} - {""}


def _within(
    search: Search,
    seconds: float,
    budget: int | None,
    worth: int,
    ban: list[frozenset[tuple[str, str, str]]],
    *,
    quick: bool = False,
) -> Kit | None:
    """The best kit without some things, looked for only so long; raises Stopped when the person stops it."""
    end, asked = search.clock() + seconds, search.stop
    search.stop = lambda: asked() or search.clock() > end
    try:
        return search.best(budget, least=worth, ban=ban, quick=quick)
    except Stopped:
        if asked():
            raise
        return None
    finally:
        search.stop = asked
