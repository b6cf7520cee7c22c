"""Things a remedy buys: at a usual price, planned, in the studio's currency."""

from decimal import Decimal
from typing import Any

from evrant.core.base.tables.money import converted
from evrant.core.edits.language import Add
from evrant.core.studio.studio import Studio


def to_buy(studio: Studio, euros: Decimal | int, **item: Any) -> Add:
    """An item to be bought at a usual price [EUR]; planned unless `item` says otherwise."""
    currency = studio.brief.currency
    price = str(converted(Decimal(euros), "EUR", currency))
    return Add(list="gear", item={"status": "planned", "price": price, "currency": currency, **item})
