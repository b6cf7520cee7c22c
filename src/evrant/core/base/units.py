"""Reading and showing lengths, masses and other figures at the edge; inside it is SI floats.

Parsing stands on the `pint` library; nothing in the rules calls it.
"""

import re
from fractions import Fraction
from functools import cache
from typing import Literal

import pint

Units = Literal["metric", "imperial"]
KG_PER_POUND = 0.45359237  # exact
FOOT = 0.3048
"""[m], exact."""

MM_PER_INCH = 25.4  # exact, international yard and pound agreement of 1959
_SIGNS = str.maketrans({"′": "'", "’": "'", "″": '"', "”": '"', "“": '"', "−": "-", "\u00a0": " ", "\u202f": " "})
_TERM = re.compile(r"\s*([0-9]+/[0-9]+|[0-9.,]*[0-9.,](?:\s+[0-9]+/[0-9]+)?)\s*([a-zA-Z'\"µ]*)")
_PLAIN = re.compile(r"[0-9]+(?:[.,][0-9]*)?|[.,][0-9]+")
_POWER = re.compile(r"([0-9]+(?:[.,][0-9]+)?)[eE]([+-]?[0-6])")
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
        return float(sum(Fraction(part) for part in text.replace(",", ".").split()))
    except (ValueError, ZeroDivisionError) as error:
        raise CannotRead(f"“{text}” is not a number.") from error


def read(text: str, base: str, default: str, hint: str) -> float:
    """Sum of terms such as `3.2 m`, `10' 6 1/2"`, `3 m 40` or `320`, in the unit `base`.

    A lone number takes the unit `default`; after feet a lone number is inches, after metres two digits are
    centimetres. What could be read in two ways is refused with both. Raises CannotRead.
    """
    cleaned = text.translate(_SIGNS).strip()
    if not cleaned or len(cleaned) > 60:
        raise CannotRead(f"Give {hint}.")
    power = _POWER.match(cleaned.lstrip("+-"))
    if power:
        plain = f"{float(power[1].replace(',', '.')) * 10.0 ** int(power[2]):.6g}"
        raise CannotRead(f"Write “{text.strip()}” out, as {plain}. Give {hint}.")
    sign = -1.0 if cleaned.startswith("-") else 1.0
    terms = _terms(cleaned[1:] if cleaned[0] in "+-" else cleaned, text.strip(), hint)
    total, last, size = 0.0, "", float("inf")
    for at, (number, unit) in enumerate(terms):
        if not unit:
            unit = _left_out(terms, at, last, default, text.strip())
        factor = _factor(unit, base) if unit else 1.0
        if factor >= size:
            raise CannotRead(f"“{text.strip()}” names its units in no order. Give {hint}.")
        total, last, size = total + number * factor, unit, factor
    return sign * total


def _terms(rest: str, text: str, hint: str) -> list[tuple[float, str]]:
    """Numbers with the units that follow them, where they were written."""
    found = []
    while rest.strip():
        term = _TERM.match(rest)
        if not term:
            raise CannotRead(f"“{text}” cannot be read. Give {hint}.")
        whole = term[1].split()[0]
        if "/" not in whole and not _PLAIN.fullmatch(whole):
            raise CannotRead(_two_points(whole, text, hint))
        found.append((_number(term[1]), term[2]))
        rest = rest[term.end() :]
    if not found:
        raise CannotRead(f"Give {hint}.")
    return found


def _left_out(terms: list[tuple[float, str]], at: int, last: str, default: str, text: str) -> str:
    """The unit of a number that was written without one; two readings are refused."""
    number, alone = terms[at][0], len(terms) == 1
    small = f"{number:g}"
    if alone:
        return default
    if last and _ALIASES.get(last, last) == "foot":
        return "inch"
    if last in ("m", "meter", "metre", "meters", "metres") and len(small) == 2 and small.isdigit():
        return "cm"
    first, unit = terms[max(at - 1, 0)]
    other = terms[1][0] if at == 0 else number
    if not unit and default in ("foot", "inch"):
        raise CannotRead(f"“{text}” could be {first:g}' {other:g}\" or {first:g}.{other:g}'; write one of them.")
    here = unit or ("m" if default in ("m", "meter") else default)
    if here == "m":
        two = f"{first:g} m {other:g} cm or {first:g}.{other:g} m"
        raise CannotRead(f"“{text}” could be {two}; write one of them.")
    raise CannotRead(f"“{text}” could be {first:g}.{other:g} {here} or {first:g} {here} and more; write its units.")


def _two_points(number: str, text: str, hint: str) -> str:
    parts = re.split(r"[.,]", number)
    if not all(part.isdigit() for part in parts) or len(parts) > 4:
        return f"“{text}” cannot be read. Give {hint}."
    joined = "".join(parts[:-1]) + "." + parts[-1], parts[0] + "." + "".join(parts[1:])
    return f"“{text}” could be {joined[0]} or {joined[1]}; write one of them."


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


def signed(number: float, digits: int = 1) -> str:
    """A number with its sign, the minus as long as the plus."""
    words = f"{number:+.{digits}f}".replace("-", "−")
    return words if words.strip("+−0.") else words.replace("−", "+")


def show_number(number: float, digits: int = 2) -> str:
    """A plain number without trailing zeros and with a true minus sign."""
    return _plain(number, digits)
