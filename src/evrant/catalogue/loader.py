"""Reads the catalogue's CSV files, one a kind; the header names each field and its unit."""

import csv
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib.resources import files

from pydantic import ValidationError

from evrant.core.studio.columns import HEADER, Column, columns, read_cell
from evrant.core.studio.gear import KINDS, Item


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
    known = {column.field: column for column in columns(kind)}
    heads = [_head(cell, kind, known) for cell in rows[0]]
    items = []
    for number, row in enumerate(rows[1:], start=2):
        if len(row) != len(heads):
            raise CatalogueFault(f"{kind}.csv line {number}: {len(row)} cells, the header has {len(heads)}.")
        raw: dict[str, object] = {"kind": kind, "status": "planned"}
        for (field, unit), cell in zip(heads, row, strict=True):
            if cell.strip():
                raw |= _cell(known[field], unit, cell.strip(), f"{kind}.csv line {number}, {field}")
        raw["library"] = raw.get("name")
        try:
            items.append(KINDS[kind].model_validate(raw))
        except ValidationError as error:
            first = error.errors()[0]
            where = ".".join(str(part) for part in first["loc"])
            raise CatalogueFault(f"{kind}.csv line {number}, {where}: {first['msg']}") from error
    return items  # type: ignore[return-value]


def _head(cell: str, kind: str, known: Mapping[str, Column]) -> tuple[str, str]:
    match = HEADER.fullmatch(cell.strip())
    if not match or match[1] not in known:
        raise CatalogueFault(f"{kind}.csv: the column “{cell}” cannot be read.")
    return match[1], (match[2] or "").strip()


def _cell(column: Column, unit: str, text: str, where: str) -> dict[str, object]:
    if column.field == "price":
        return {"price": text, "currency": unit or "EUR"}
    try:
        return {column.field: read_cell(text, column, unit)}
    except ValueError as error:
        raise CatalogueFault(f"{where}: {error}") from error
