"""Whether what is bought goes into the places besides what is owned, and what of it does not."""

from collections.abc import Iterable, Mapping
from functools import cached_property

from evrant.core.search.kit.market import Market
from evrant.core.search.kit.master import Bound
from evrant.core.stowage.packing import pack
from evrant.core.stowage.pieces import pieces_of, spaces_of
from evrant.core.studio.studio import Studio


class Cupboard:
    """The places of a studio, with what is owned in them. Everything fits where nothing is struck or no place is
    measured."""

    def __init__(self, studio: Studio, market: Market) -> None:
        self.market = market
        struck = studio.brief.schools.standing != "leave it standing"
        self.places = spaces_of(studio.room.places) if struck else []
        self._owned = [good.item.changed(quantity=good.owned) for good in market.goods if good.owned]

    @cached_property
    def _already(self) -> set[str]:
        """What finds no place of what is owned."""
        return {one.piece.key for one in pack(pieces_of(self._owned), self.places).left}

    def spaces(self) -> tuple[float, float] | None:
        """Litres and kilograms of all places together."""
        if not self.places:
            return None
        return sum(space.volume for space in self.places) * 1000, sum(space.load for space in self.places)

    def left(self, bought: Mapping[str, int]) -> int:
        """How many things find no place because of what is bought [count by key]."""
        if not self.places:
            return 0
        goods = self.market.by_key
        more = [goods[key].item.changed(status="planned", quantity=count) for key, count in bought.items() if count]
        pieces = pieces_of([*self._owned, *more])
        packed = pack(pieces, self.places, first=True)
        return sum(one.piece.key not in self._already for one in packed.left)

    def fault(self, bought: Mapping[str, int]) -> Bound | None:
        """The fewest of the things bought that already find no place, or None when all do."""
        if not self.left(bought):
            return None
        culprits = dict(bought)
        for key in sorted(culprits, key=lambda k: -(self.market.by_key[k].cents or 0)):
            without = {k: n for k, n in culprits.items() if k != key}
            if self.left(without):
                culprits = without
        names = ", ".join(self.market.by_key[key].item.called for key in culprits)
        return Bound(culprits, f"they find no place together: {names}")

    def too_large(self) -> Iterable[Bound]:
        """What goes into none of the places even when they are empty."""
        for good in self.market.goods:
            if not self.places or good.cents is None:
                continue
            pieces = pieces_of([good.item.changed(status="planned", quantity=1)])
            if pack(pieces, self.places, first=True).left:
                yield Bound({good.key: 1}, "it goes into none of your places, even when they are empty")
