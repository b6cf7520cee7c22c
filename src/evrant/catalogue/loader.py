"""Reads the catalogue's CSV files, one a kind; the header names each field and its unit."""

import csv
import re
from dataclasses import dataclass
from functools import cache
from importlib.resources import files

from pydantic import ValidationError

from evrant.core.studio.gear import KINDS, Item

FACTORS = {"m": 1.0, "cm": 0.01, "mm": 0.001} | dict.fromkeys(
    ("kg", "W", "Ws", "s", "A", "stop", "%", "N", "Nm", "Wh"), 1.0
)
_HEADER = re.compile(r"^([a-z_]+)(?: \[([^\]]+)\])?$")
WORDS = {
    "id",
    "name",
    "notes",
    "material",
    "system",
    "supply",
    "form",
    "use",
    "surface",
    "steps",
    "technology",
    "flicker",
    "umbrella",
    "top",
    "foot",
    "front",
    "mount",
    "conductor",
    "bar_material",
    "below",
    "above",
    "head_side",
    "modifier_side",
    "fits",
    "fired",
    "fires",
    "stowed",
    "condition",
    "made_from",
}
WHOLE = {"base_iso", "rolls", "layers", "phase", "legs", "outlets", "groups", "flashes"}
YES = {"grid", "fan", "castors", "through_screw", "drum", "swivel", "shaft", "yoke", "receiver", "fragile"}


class CatalogueFault(ValueError):
    """A line of a catalogue file that cannot be used; the message names file, line and column."""


@dataclass(frozen=True)
class Catalogue:
    """All library items by kind, in file order."""

    by_kind: dict[str, tuple[Item, ...]]

    def all(self) -> list[Item]:
        return [item for items in self.by_kind.values() for item in items]

    def find(self, key: str) -> Item | None:
        return next((item for item in self.all() if item.id == key), None)


@cache
def load() -> Catalogue:
    """The catalogue that ships with the app."""
    folder = files("evrant.catalogue") / "items"
    return Catalogue({kind: tuple(read((folder / f"{kind}.csv").read_text("utf-8"), kind)) for kind in KINDS})


def read(text: str, kind: str) -> list[Item]:
    """Items of one kind from CSV text. Raises CatalogueFault naming line and column."""
    rows = list(csv.reader(text.splitlines()))
    columns = [_column(cell, kind) for cell in rows[0]]
    items = []
    for number, row in enumerate(rows[1:], start=2):
        if len(row) != len(columns):
            raise CatalogueFault(f"{kind}.csv line {number}: {len(row)} cells, the header has {len(columns)}.")
        raw: dict[str, object] = {"kind": kind, "status": "planned"}
        for (field, unit), cell in zip(columns, row, strict=True):
            if cell.strip():
                raw |= _cell(field, unit, cell.strip(), f"{kind}.csv line {number}, {field}")
        raw["library"] = raw.get("name")
        try:
            items.append(KINDS[kind].model_validate(raw))
        except ValidationError as error:
            first = error.errors()[0]
            where = ".".join(str(part) for part in first["loc"])
            raise CatalogueFault(f"{kind}.csv line {number}, {where}: {first['msg']}") from error
    return items  # type: ignore[return-value]


def _column(cell: str, kind: str) -> tuple[str, str | None]:
    match = _HEADER.match(cell.strip())
    if not match:
        raise CatalogueFault(f"{kind}.csv: the column “{cell}” cannot be read.")
    return match[1], match[2]


def _cell(field: str, unit: str | None, text: str, where: str) -> dict[str, object]:
    if field in WORDS:
        return {field: text}
    if field in YES:
        return {field: text == "yes"}
    if field == "price":
        return {"price": text, "currency": unit or "EUR"}
    try:
        number = float(text)
    except ValueError as error:
        raise CatalogueFault(f"{where}: “{text}” is not a number.") from error
    if unit is not None and unit not in FACTORS:
        raise CatalogueFault(f"{where}: the unit “{unit}” is not known.")
    if field in WHOLE:
        return {field: int(number)}
    return {field: round(number * (FACTORS[unit] if unit else 1.0), 9)}
