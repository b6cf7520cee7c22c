"""Tables as XLSX workbooks, one sheet a table."""

import io
from collections.abc import Mapping, Sequence
from decimal import Decimal
from typing import Any

from openpyxl import Workbook
from openpyxl.styles import Alignment, Font

WIDEST = 60


def write_workbook(sheets: Mapping[str, Sequence[Sequence[Any]]]) -> bytes:
    """A workbook; the first row of each sheet is its header. Texts are texts, never formulas."""
    book = Workbook()
    book.remove(book.worksheets[0])
    for name, rows in sheets.items():
        sheet = book.create_sheet(name[:31])
        for number, row in enumerate(rows, start=1):
            for place, value in enumerate(row, start=1):
                cell = sheet.cell(number, place)
                if isinstance(value, Decimal):
                    cell.value, cell.number_format = float(value), "0.00"
                elif isinstance(value, str):
                    cell.value, cell.data_type = value, "s"
                else:
                    cell.value = value
                if number == 1:
                    cell.font = Font(bold=True)
                cell.alignment = Alignment(vertical="top", wrap_text=isinstance(value, str) and len(value) > 40)
        sheet.freeze_panes = "A2"
        for letter, column in zip("ABCDEFGHIJKLMNOPQRSTUVWXYZ", zip(*rows, strict=False), strict=False):
            sheet.column_dimensions[letter].width = min(max(len(str(cell)) for cell in column) + 2, WIDEST)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()
