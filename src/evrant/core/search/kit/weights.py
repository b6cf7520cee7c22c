"""Which weights to take for a mass that must hang low."""

import math

from evrant.core.search.kit.market import Good, Market
from evrant.core.studio.gear import Item, Part


def weighs(item: Item) -> int:
    """What a weight weighs [g]; nothing for what is none."""
    return round(item.mass.value * 1000) if isinstance(item, Part) and item.use == "weight" and item.mass else 0


def bags(market: Market, mass: float) -> list[str]:
    """Keys of the cheapest weights on the market that make a mass [kg]; owned ones count as free."""
    goods = [g for g in market.of("part") if isinstance(g.item, Part) and g.item.use == "weight" and g.item.mass]
    return cheapest(mass, goods)


def cheapest(mass: float, goods: list[Good]) -> list[str]:
    """Keys of the weights that together make at least a mass for the least money, owned ones first [kg]."""
    kinds = [(good, good.item.mass.value) for good in goods if good.item.mass and good.item.mass.value > 0]
    if not kinds:
        return []
    best: tuple[float, list[str]] | None = None
    for first, heavy in kinds:
        for count in range(math.ceil(mass / heavy) + 1):
            rest = mass - count * heavy
            for second, light in kinds:
                more = max(math.ceil(rest / light - 1e-9), 0)
                cost = _cost(first, count) + (
                    _cost(second, more) if second is not first else _cost(first, more + count) - _cost(first, count)
                )
                if best is None or (cost, count + more) < (best[0], len(best[1])):
                    best = (cost, [first.key] * count + [second.key] * more)
    return [] if best is None else best[1]


def _cost(good: Good, count: int) -> float:
    bought = max(count - good.owned, 0)
    return 0.0 if not bought else (float("inf") if good.cents is None else float(good.cents * bought))
