"""In which order to buy: the first phase makes a picture, each later one adds most for its money."""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from evrant.core.search.kit.case import Case
from evrant.core.search.kit.market import Market
from evrant.core.search.kit.optimum import Kit, needed

MONTHS_AHEAD = 60


@dataclass(frozen=True)
class Phase:
    """A step of buying: its number, what is bought [count by key], its cost [cents] and the shots it unlocks."""

    number: int
    buy: Mapping[str, int]
    cents: int
    shots: tuple[str, ...]


def phases(kit: Kit, cases: Sequence[Case], market: Market, weights: Mapping[str, int]) -> list[Phase]:
    """The plan's purchases in turn. A phase is one shot and all that become possible with it; next comes the shot
    that adds most value for its money."""
    needs = {key: _bought(needed(kit, key, market), market) for key in kit.choice.recipes}
    left = [case.id for case in cases if case.id in needs]
    have: Counter[str] = Counter({good.key: good.owned for good in market.goods if good.owned})
    found: list[Phase] = []
    while left:
        costs = {key: _cost(needs[key], have, market) for key in left}
        if not found and any(costs.values()):
            first = min(left, key=lambda key: (-_class(weights[key], weights), costs[key]))
        else:
            first = max(left, key=lambda key: (weights[key] / (costs[key] + 1), -costs[key]))
        buy = {key: count - have[key] for key, count in needs[first].items() if count > have[key]}
        have.update(buy)
        now = [key for key in left if _cost(needs[key], have, market) == 0]
        left = [key for key in left if key not in now]
        cents = sum((market.by_key[key].cents or 0) * count for key, count in buy.items())
        found.append(Phase(len(found) + 1, buy, cents, tuple(now)))
    return found


def _bought(need: Counter[str], market: Market) -> Counter[str]:
    """What of it is to be had for good: what is rented is paid for day by day."""
    return Counter({key: count for key, count in need.items() if market.by_key[key].rent is None})


def _class(weight: int, weights: Mapping[str, int]) -> int:
    """How many shots a shot's priority outweighs: the same for shots of one priority."""
    return sum(other * 2 < weight for other in weights.values())


def _cost(need: Mapping[str, int], have: Mapping[str, int], market: Market) -> int:
    return sum((market.by_key[key].cents or 0) * max(count - have.get(key, 0), 0) for key, count in need.items())


def months(steps: Sequence[Phase], monthly_cents: int | None) -> list[int | None]:
    """In which month each phase is paid for, when so much is put aside each; None where nothing is said."""
    found: list[int | None] = []
    total = 0
    for step in steps:
        total += step.cents
        found.append(None if not monthly_cents else max(-(-total // monthly_cents), 1))
    return found
