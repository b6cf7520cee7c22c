"""Which lens of those there are: of the same kit, the one that leaves a face its proportions."""

from evrant.core.judge.rules.set.perspective import strained
from evrant.core.search.kit.case import NOTHING, Case, Recipe
from evrant.core.search.kit.optimum import Kit, Search
from evrant.core.search.kit.verdicts import Stopped
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import Lens
from evrant.core.studio.room import value
from evrant.core.studio.sets import SetPlan


def stood_back(search: Search, kit: Kit) -> Kit:
    """The kit with another lens, owned or bought for it anyway, where the one it takes would be too near a face and the
    other passes as well: the same shots for the same money. Longest lenses first."""
    for case in search.cases:
        recipe = kit.choice.recipes.get(case.id)
        if recipe is None or not _near(search, case, recipe, kit.passes[case.id].plan):
            continue
        for lens in _others(search, kit, case, recipe):
            try:
                better = search.as_good(kit, case.id, {**recipe, "lens": lens})
            except Stopped:
                return kit
            if better is not None and not _near(search, case, recipe, better.passes[case.id].plan):
                kit = better
                break
    return kit


def _near(search: Search, case: Case, recipe: Recipe, plan: SetPlan) -> bool:
    """Whether the lens of a set that passes would draw a face otherwise than it is."""
    goods = search.market.by_key
    lenses = {key: goods[key].item for key in case.slots["lens"].keys}
    gear = {key: goods[key].item for key in recipe.values() if key != NOTHING} | lenses
    return strained(Scene(search.studio.room, search.studio.brief, case.shot, plan, gear))


def _others(search: Search, kit: Kit, case: Case, recipe: Recipe) -> list[str]:
    """Other lenses there are with this kit, longest first."""
    goods = search.market.by_key
    there = [
        key
        for key in case.slots["lens"].keys
        if key != recipe["lens"] and goods[key].owned + kit.choice.bought.get(key, 0) > 0
    ]
    return sorted(there, key=lambda key: -_long(goods[key].item))


def _long(item: object) -> float:
    return (value(item.focal_long) or value(item.focal) or 0.0) if isinstance(item, Lens) else 0.0
