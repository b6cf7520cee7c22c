"""Gear as CSV: one line a thing, one column a field, units in the header. Read whole or not at all.

A file may hold things of several kinds: the column `kind` says which, and columns a kind does not have stay empty.
The columns of each kind are written to docs/format/gear-csv.md from the models.
"""

import csv
import io
import re
from collections.abc import Iterable, Sequence
from decimal import Decimal
from typing import Any

from pydantic import TypeAdapter, ValidationError

from evrant.core.base.quantity import Figure
from evrant.core.studio.columns import HEADER, LENGTHS, MASSES, Column, columns, read_cell
from evrant.core.studio.gear import KINDS, Item
from evrant.files.document import Fault, Refused, plain_message

ITEM: TypeAdapter[Item] = TypeAdapter(Item)
MOST_ROWS, MOST_BYTES = 500, 1_000_000
MOST_HEAD, MOST_COLUMNS, MOST_CELL = 80, 200, 4000
DANGEROUS = ("=", "+", "-", "@", "\t")


# --- out ---------------------------------------------------------------------------------------------


def rows_of(items: Iterable[Item]) -> list[list[Any]]:
    """A header and a line for each item; only columns that some of the items have a figure in."""
    things = list(items)
    heads: dict[str, None] = {}
    cells: list[dict[str, Any]] = []
    for item in things:
        row = {column.head: _cell(item, column) for column in columns(item.kind)}
        cells.append({head: cell for head, cell in row.items() if cell != ""})
        heads |= dict.fromkeys(row)
    used = [head for head in heads if any(head in row for row in cells)]
    body = [[item.kind, *(row.get(head, "") for head in used)] for item, row in zip(things, cells, strict=True)]
    return [["kind", *used], *body]


def _cell(item: Item, column: Column) -> Any:
    value = getattr(item, column.field, None)
    if value is None or value == "":
        return ""
    if isinstance(value, Figure):
        factor = LENGTHS.get(column.unit) or MASSES.get(column.unit) or 1.0
        return float(f"{value.value / factor:.9g}")
    if isinstance(value, bool):
        usual = type(item).model_fields[column.field].default
        return "yes" if value else ("no" if usual else "")
    return str(value) if isinstance(value, Decimal) else value


def write_gear(items: Iterable[Item]) -> str:
    """Items as CSV text; cells that a spreadsheet might run are defused."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    for row in rows_of(items):
        writer.writerow([_safe(cell) for cell in row])
    return out.getvalue()


def _safe(cell: Any) -> Any:
    if isinstance(cell, float):
        return f"{cell:.9g}"
    return "'" + cell if isinstance(cell, str) and cell[:1] in DANGEROUS else cell


# --- in ----------------------------------------------------------------------------------------------


def read_gear(raw: bytes, taken: Iterable[str] = (), currency: str = "EUR") -> list[Item]:
    """Items from CSV. Raises Refused with a fault for every cell that cannot be used, as `line 3, mass`.

    `taken` are ids in use: a line with such an id stands for that thing anew; a line without an id gets a free one.
    """
    table = _table(raw)
    heads = _heads(table[0])
    kind_at = next((i for i, head in enumerate(heads) if head[0] == "kind"), None)
    faults: list[Fault] = []
    if kind_at is None:
        raise Refused([Fault("line 1", "There is no column “kind”; it says what each line is, for instance stand.")])
    items: list[Item] = []
    known = set(taken)
    here: set[str] = set()
    for number, row in enumerate(table[1:], start=2):
        if not any(cell.strip() for cell in row):
            continue
        found = _line(number, row, heads, kind_at, faults, currency)
        if found is None:
            continue
        key = str(found.get("id") or _free(str(found.get("name", "thing")), known | here))
        if key in here:
            faults.append(Fault(f"line {number}, id", f"“{key}” stands in an earlier line too."))
            continue
        here.add(key)
        items += _valid(number, found | {"id": key}, faults)
    if not items and not faults:
        raise Refused([Fault("", "There is no line with a thing in it.")])
    if faults:
        raise Refused(faults[:40])
    return items


def _table(raw: bytes) -> list[list[str]]:
    if len(raw) > MOST_BYTES:
        raise Refused([Fault("", "This is larger than 1 MB; a table of gear is far smaller.")])
    try:
        text = raw.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise Refused([Fault("", "This is not UTF-8 text. Save it as CSV UTF-8.")]) from None
    first = text.partition("\n")[0]
    delimiter = ";" if first.count(";") > first.count(",") else ","
    try:
        table = list(csv.reader(io.StringIO(text, newline=""), delimiter=delimiter, strict=True))
    except csv.Error as error:
        raise Refused([Fault("", f"This is not CSV: {error}.")]) from error
    if not table:
        raise Refused([Fault("", "The file is empty.")])
    if len(table[0]) > MOST_COLUMNS or any(len(cell) > MOST_CELL for row in table for cell in row):
        raise Refused([Fault("", f"No more than {MOST_COLUMNS} columns, and {MOST_CELL} characters a cell.")])
    if len(table) > MOST_ROWS + 1:
        raise Refused([Fault("", f"No more than {MOST_ROWS} lines at once.")])
    return table


def _heads(cells: Sequence[str]) -> list[tuple[str, str]]:
    """Field and unit of each column; unknown ones are refused by name."""
    known = {column.field for kind in KINDS for column in columns(kind)} | {"kind"}
    faults: list[Fault] = []
    found: list[tuple[str, str]] = []
    for number, cell in enumerate(cells, start=1):
        match = HEADER.fullmatch(cell.strip()) if len(cell) <= MOST_HEAD else None
        name = match[1] if match else ""
        if name not in known:
            words = f"“{cell.strip()[:40]}” is no column; see the list of columns."
            faults.append(Fault(f"line 1, column {number}", words))
        elif match and (name, (match[2] or "").strip()) in found:
            faults.append(Fault(f"line 1, column {number}", f"The column “{name}” stands here twice."))
        found.append((name, (match[2] or "").strip() if match else ""))
    if faults:
        raise Refused(faults)
    return found


def _line(
    number: int, row: Sequence[str], heads: Sequence[tuple[str, str]], kind_at: int, faults: list[Fault], currency: str
) -> dict[str, Any] | None:
    if len(row) > len(heads):
        faults.append(Fault(f"line {number}", f"{len(row)} cells; the header has {len(heads)}."))
        return None
    kind = row[kind_at].strip().lower() if kind_at < len(row) else ""
    if kind not in KINDS:
        words = f"“{kind}” is no kind. There are: {', '.join(KINDS)}." if kind else "The kind is missing."
        faults.append(Fault(f"line {number}, kind", words))
        return None
    mine = {column.field: column for column in columns(kind)}
    found: dict[str, Any] = {"kind": kind, "currency": currency}
    before = len(faults)
    for (field, unit), raw in zip(heads, row, strict=False):
        text = raw.strip().removeprefix("'") if raw.strip()[1:2] in DANGEROUS else raw.strip()
        if field == "kind" or not text:
            continue
        if field not in mine:
            faults.append(Fault(f"line {number}, {field}", f"A {kind} has no such figure; leave it empty."))
            continue
        try:
            found[field] = read_cell(text, mine[field], unit)
        except ValueError as error:
            faults.append(Fault(f"line {number}, {field}", str(error)))
    return found if len(faults) == before else None


def _valid(number: int, raw: dict[str, Any], faults: list[Fault]) -> list[Item]:
    try:
        return [ITEM.validate_python(raw)]
    except ValidationError as error:
        for one in error.errors(include_url=False, include_input=False):
            where = [str(part) for part in one["loc"] if part != raw["kind"]]
            faults.append(Fault(f"line {number}, {'.'.join(where)}", plain_message(one["type"], one["msg"])))
        return []


def _free(name: str, taken: set[str]) -> str:
    wish = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:40] or "thing"
    if wish not in taken:
        return wish
    return next(f"{wish}-{n}" for n in range(2, 10_000) if f"{wish}-{n}" not in taken)


def column_guide() -> str:
    """The columns of each kind as a document."""
    out = [
        "# Gear as CSV\n",
        (
            "One line a thing, one column a field, units in the header in square brackets. The column `kind` says what"
            " a line is; columns a kind does not have stay empty. UTF-8, comma or semicolon. Lengths may be in m, cm,"
            " mm, in or ft and masses in kg, g or lb: write the unit in the header. A file is taken whole or not at"
            " all; what is wrong is said by line and column. A line whose `id` is in use stands for that thing anew.\n"
        ),
    ]
    for kind in KINDS:
        out.append(f"\n## {kind}\n\n| Column | Meaning | Takes |\n| --- | --- | --- |")
        for column in columns(kind):
            takes = {"yes": "yes or empty", "whole": "a whole number", "money": "an amount", "text": "text"}.get(
                column.kind, ", ".join(column.choices) or "a number"
            )
            out.append(f"| `{column.head}` | {column.title} | {takes} |")
    return "\n".join(out) + "\n"
