"""What a euro is in other currencies: round figures from memory, only to turn example prices into a studio's own.

A price typed from a shop is never converted.
"""

from decimal import Decimal

PER_EURO: dict[str, Decimal] = {
    "EUR": Decimal(1),
    "GBP": Decimal("0.86"),
    "USD": Decimal("1.10"),
    "CAD": Decimal("1.50"),
    "JPY": Decimal(160),
    "AUD": Decimal("1.65"),
    "CHF": Decimal("0.95"),
}


WHOLE = frozenset({"JPY"})
"""Currencies without a smaller unit; ISO 4217."""


def amount(sum_: float | Decimal, currency: str) -> str:
    """A sum without its currency, thousands apart, with as many places as it has."""
    return f"{sum_:,.{0 if currency in WHOLE else 2}f}".replace(",", " ")


def converted(amount: Decimal, currency: str, wanted: str) -> Decimal:
    """An example price in another currency, to whole units."""
    if currency == wanted:
        return amount
    return (amount / PER_EURO[currency] * PER_EURO[wanted]).quantize(Decimal(1))
