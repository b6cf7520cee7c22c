"""Minutes that what fills a slot takes to set up and strike, for those who strike each time."""

from collections.abc import Mapping

from evrant.core.search.kit.case import Recipe
from evrant.core.search.kit.market import Good
from evrant.core.stowage.striking import BOARD, HANG, HEAD, MODIFIER, STAND, STRUCK, TABLE, holding
from evrant.core.studio.gear import Holder

PARTS = {"head": HEAD, "modifier": MODIFIER, "support": STAND, "backdrop": HANG, "table": TABLE, "tent": TABLE}


def handling(slot: str, good: Good) -> float:
    """Minutes of one thing in a slot, put up and taken down."""
    if isinstance(good.item, Holder):
        up = holding(good.item.system)
    else:
        up = BOARD if slot.startswith("card") else PARTS.get(slot.rpartition(".")[2], 0.0)
    return up * (1 + STRUCK)


def handled(recipe: Recipe, goods: Mapping[str, Good]) -> float:
    """Minutes of everything a recipe names; what every set takes, as the camera and the test frame, is left out."""
    return sum(handling(slot, goods[key]) for slot, key in recipe.items() if key in goods)
