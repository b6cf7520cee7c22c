"""Gear as a table: the columns of each kind, derived from its model, and how a cell is read."""

import math
import re
from dataclasses import dataclass
from decimal import Decimal, InvalidOperation
from functools import cache
from typing import Any, Literal, get_args, get_origin

from evrant.core.base.annotations import flattened
from evrant.core.base.quantity import Quantity
from evrant.core.studio.gear import KINDS

LENGTHS = {"m": 1.0, "cm": 0.01, "mm": 0.001, "in": 0.0254, "ft": 0.3048}
MASSES = {"kg": 1.0, "g": 0.001, "lb": 0.45359237}
HEADER = re.compile(r"([a-z_]{1,40})\s{0,4}(?:\[([^\[\]]{0,20})\])?")
LEFT_OUT = frozenset({"distribution", "known_with", "library", "kind"})
SHOWN_AS = {"length": "cm", "mm": "mm", "kg": "kg", "N·m": "Nm", "lx·s": "lx s"}
Kind = Literal["text", "choice", "number", "whole", "yes", "money", "figure"]


@dataclass(frozen=True)
class Column:
    """A column of a kind: its field, what stands in it, the unit it is written in, and the words it may take."""

    field: str
    title: str
    kind: Kind
    unit: str = ""
    choices: tuple[str, ...] = ()

    @property
    def head(self) -> str:
        return f"{self.field} [{self.unit}]" if self.unit else self.field


@cache
def columns(kind: str) -> tuple[Column, ...]:
    """Every column of a kind, in the models' order."""
    found = []
    for name, info in KINDS[kind].model_fields.items():
        if name in LEFT_OUT:
            continue
        found.append(_column(name, info.title or name, info.annotation, tuple(info.metadata)))
    return tuple(found)


def _column(name: str, title: str, annotation: Any, metadata: tuple[Any, ...]) -> Column:
    kinds, more = flattened(annotation)
    quantity = next((one for one in (*metadata, *more) if isinstance(one, Quantity)), None)
    if quantity is not None:
        unit = SHOWN_AS.get(quantity.show, quantity.show)
        plain = quantity.show in ("", "f", "fraction", "time")
        return Column(name, title, "figure", "" if plain else unit)
    literal = next((one for one in kinds if get_origin(one) is Literal), None)
    if literal is not None:
        return Column(name, title, "choice", choices=tuple(str(word) for word in get_args(literal)))
    for python, what in ((bool, "yes"), (int, "whole"), (Decimal, "money"), (float, "number")):
        if python in kinds:
            return Column(name, title, what)  # type: ignore[arg-type]
    return Column(name, title, "text")


def read_cell(text: str, column: Column, unit: str) -> Any:
    match column.kind:
        case "text":
            return text
        case "choice":
            if text not in column.choices:
                raise ValueError(f"“{text}” is none of: {', '.join(column.choices)}.")
            return text
        case "yes":
            if text.lower() not in ("yes", "no", "true", "false", "1", "0"):
                raise ValueError(f"“{text}” is neither yes nor no.")
            return text.lower() in ("yes", "true", "1")
        case "money":
            try:
                amount = Decimal(text.replace(" ", "").replace(",", "."))
            except InvalidOperation:
                amount = Decimal("NaN")
            if not amount.is_finite():
                raise ValueError(f"“{text[:40]}” is no amount such as 49 or 49.90.")
            return str(amount)
    number = _number(text)
    if column.kind == "whole":
        if number != int(number):
            raise ValueError(f"“{text}” is not a whole number.")
        return int(number)
    return round(number * _factor(unit, column), 9)


def _number(text: str) -> float:
    top, stroke, bottom = text.replace(",", ".").partition("/")
    try:
        number = float(top) / float(bottom) if stroke else float(top)
    except (ValueError, ZeroDivisionError, OverflowError):
        number = math.nan
    if not math.isfinite(number):
        raise ValueError(f"“{text[:40]}” is not a number.")
    return number


def _factor(unit: str, column: Column) -> float:
    if not unit or unit == column.unit:
        unit = column.unit
    for table in (LENGTHS, MASSES):
        if column.unit in table:
            if unit not in table:
                raise ValueError(f"The unit “{unit}” is not known here; there are: {', '.join(table)}.")
            return table[unit]
    if unit != column.unit:
        raise ValueError(f"The unit “{unit}” is not known here; write {column.unit or 'no unit'}.")
    return 1.0
