"""What holds the cards of a set that is made, the floor, furniture, or a stand that is bought with it; and what holds a
telephone on its tripod."""

from collections import Counter
from collections.abc import Iterator, Mapping
from itertools import product
from math import inf

from evrant.core.judge.rules.support.clamped import USE as HOLDER_USE
from evrant.core.place.cards import WAYS, drawn_near, set_down
from evrant.core.search.kit.case import Recipe
from evrant.core.search.kit.market import Good, Market
from evrant.core.space.scene import Scene
from evrant.core.space.stands import holds_at
from evrant.core.space.tripods import is_clamped
from evrant.core.space.volumes import card_middle
from evrant.core.studio.gear import Board, Camera, Part, Stand
from evrant.core.studio.room import value
from evrant.core.studio.sets import PropPlace

MOST = 2
"""So many stands are tried under one card, the cheapest first."""


def holding(scene: Scene, place: PropPlace, market: Market, used: Mapping[str, int]) -> Iterator[PropPlace]:
    """A card set down or held, what costs least first; `used` things are taken [count by key]."""
    item = scene.gear.get(place.item or "")
    if not isinstance(item, Board) or item.height is None:
        return
    places = [drawn_near(scene, place, way) for way in WAYS]
    for one in places:
        yield from (one.changed(height=height) for _, height in set_down(scene, one, item))
    middle = card_middle(scene.base_of(place), item.height.value, place.tilt)
    for good, one in product(_stands(market, item, middle, used)[:MOST], places):
        yield one.changed(support=good.key)


def holders(market: Market, recipe: Recipe) -> list[str]:
    """What a recipe's camera without a thread is clamped by, owned before bought, then by price."""
    body = market.by_key[recipe["body"]].item if recipe.get("body") in market.by_key else None
    if not isinstance(body, Camera) or not is_clamped(body):
        return []
    found = [good for good in market.of("part") if isinstance(good.item, Part) and good.item.use == HOLDER_USE]
    return [good.key for good in sorted(found, key=lambda good: (not good.owned, good.cents or 0))][:1]


def _stands(market: Market, card: Board, middle: float, used: Mapping[str, int]) -> list[Good]:
    """Stands that hold a card by its middle [m], those that are owned and free first, then by price."""
    taken, mass = Counter(used), value(card.mass) or 0.0
    costs = {
        good.key: 0 if good.owned > taken[good.key] else good.cents
        for good in market.of("stand")
        if isinstance(good.item, Stand) and holds_at(good.item, middle) and (value(good.item.load) or inf) >= mass
    }
    found = [key for key, cost in costs.items() if cost is not None]
    return [market.by_key[key] for key in sorted(found, key=lambda key: (costs[key] or 0, key))]
