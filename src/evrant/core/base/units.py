"""Reading and showing lengths, masses and other figures at the edge; inside it is SI floats.

Parsing stands on the `pint` library; nothing in the rules calls it.
"""

import re
from fractions import Fraction
from functools import cache
from typing import Literal

import pint

Units = Literal["metric", "imperial"]

MM_PER_INCH = 25.4  # exact, international yard and pound agreement of 1959
_SIGNS = str.maketrans({"′": "'", "’": "'", "″": '"', "”": '"', "“": '"', "−": "-", ",": ".", "\u00a0": " "})
_TERM = re.compile(r"\s*([0-9]+/[0-9]+|[0-9]*\.?[0-9]+(?:\s+[0-9]+/[0-9]+)?|[0-9]+\.)\s*([a-zA-Z'\"µ]*)")
_ALIASES = {
    "'": "foot",
    '"': "inch",
    "''": "inch",
    "in": "inch",
    "ft": "foot",
    "feet": "foot",
    "lb": "pound",
    "lbs": "pound",
    "oz": "ounce",
}


class CannotRead(ValueError):
    """The text is not a figure of the wanted kind; the message is for the person who typed it."""


@cache
def _registry() -> "pint.UnitRegistry[float]":
    return pint.UnitRegistry(cache_folder=None)


@cache
def _factor(unit: str, base: str) -> float:
    name = _ALIASES.get(unit, unit)
    try:
        return float(_registry().Quantity(1, name).to(base).magnitude)
    except (pint.errors.PintError, AttributeError, ValueError, TypeError) as error:
        raise CannotRead(f"“{unit}” is not a unit known here.") from error


def _number(text: str) -> float:
    try:
        return float(sum(Fraction(part) for part in text.split()))
    except (ValueError, ZeroDivisionError) as error:
        raise CannotRead(f"“{text}” is not a number.") from error


def read(text: str, base: str, default: str, hint: str) -> float:
    """Sum of terms such as `3.2 m`, `10' 6 1/2"` or `320`, in the unit `base`.

    A lone number takes the unit `default`; after feet a lone number is inches. Raises CannotRead.
    """
    cleaned = text.translate(_SIGNS).strip()
    if not cleaned or len(cleaned) > 60:
        raise CannotRead(f"Give {hint}.")
    sign = -1.0 if cleaned.startswith("-") else 1.0
    rest, total, last = cleaned[1:] if cleaned[0] in "+-" else cleaned, 0.0, ""
    if not rest.strip():
        raise CannotRead(f"Give {hint}.")
    while rest.strip():
        term = _TERM.match(rest)
        if not term:
            raise CannotRead(f"“{text.strip()}” cannot be read. Give {hint}.")
        unit = term[2] or ("inch" if last in ("'", "ft", "feet", "foot") else default)
        total += _number(term[1]) * (_factor(unit, base) if unit else 1.0)
        last, rest = unit, rest[term.end() :]
    return sign * total


def read_length(text: str, units: Units = "metric") -> float:
    """A length in metres from text in metric or feet and inches."""
    hint = "a length such as 3.2 m, 320 cm or 10' 6\""
    return read(text, "meter", "m" if units == "metric" else "foot", hint)


def show_length(metres: float, units: Units = "metric") -> str:
    """A length for reading: `3.40 m`, `12.5 mm`-free, or `11' 1 7/8"` to the nearest eighth inch."""
    if units == "imperial":
        return _feet(metres)
    if abs(metres) < 0.995:
        return f"{_plain(metres * 100, 1 if abs(metres) < 0.0995 else 0)} cm"
    return f"{metres:.2f} m".replace("-", "−")


def show_gap(metres: float, units: Units = "metric") -> str:
    """A spare or missing length with its sign: `+12 cm`, `−3 1/2"`."""
    sign = "−" if metres < 0 else "+"
    if units == "imperial":
        return sign + _feet(abs(metres), eighths=4)
    centimetres = abs(metres) * 100
    return f"{sign}{centimetres:.0f} cm" if centimetres >= 0.95 else f"{sign}{centimetres * 10:.0f} mm"


def _feet(metres: float, eighths: int = 8) -> str:
    parts = round(abs(metres) * 1000 / MM_PER_INCH * eighths)
    inches, rest = divmod(parts, eighths)
    feet, inches = divmod(inches, 12)
    fraction = f" {Fraction(rest, eighths)}" if rest else ""
    sign = "−" if metres < 0 and parts else ""
    if feet == 0:
        return f'{sign}{inches}{fraction}"' if inches or not rest else f'{sign}{fraction.strip()}"'
    return f"{sign}{feet}' {inches}{fraction}\""


def _plain(number: float, digits: int) -> str:
    text = f"{number:.{digits}f}"
    return (text.rstrip("0").rstrip(".") if "." in text else text).replace("-", "−")


def show_number(number: float, digits: int = 2) -> str:
    """A plain number without trailing zeros and with a true minus sign."""
    return _plain(number, digits)
