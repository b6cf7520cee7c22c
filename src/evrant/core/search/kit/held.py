"""What holds the cards of a set that is made: the floor, furniture, or a stand that is bought with it."""

from collections import Counter
from collections.abc import Iterator, Mapping
from itertools import product
from math import inf

from evrant.core.place.cards import WAYS, drawn_near, set_down
from evrant.core.search.kit.market import Good, Market
from evrant.core.space.scene import Scene
from evrant.core.space.stands import holds_at
from evrant.core.space.volumes import card_middle
from evrant.core.studio.gear import Board, Stand
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
