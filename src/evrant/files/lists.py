"""Tables as CSV: the shopping list and the ledger. Cells that a spreadsheet might run are defused."""

import csv
import io
import re
from collections.abc import Iterable

from evrant.core.judge.ledger import Ledger
from evrant.core.search.kit.shopping import shopping
from evrant.core.space.scene import Scene
from evrant.core.studio.studio import Studio
from evrant.core.wiring.feeds import fed
from evrant.core.wiring.floor import need_of
from evrant.core.wiring.loads import head_watts

SHOPPING = ["phase", "kind", "name", "count", "price each", "price", "currency", "condition"]


def shopping_rows(studio: Studio) -> list[list[object]]:
    """Everything to be bought by phase, with must-have figures and what to check on arrival."""
    rows: list[list[object]] = [[*SHOPPING, "must have", "check on arrival", "notes"]]
    for one in shopping(studio):
        item = one.item
        total = item.price * item.quantity if item.price is not None else None
        figures = "; ".join(figure.words for figure in one.figures)
        checks = "; ".join(f"{figure.words}: {figure.check}" for figure in one.figures if figure.check)
        facts = [one.phase, item.kind, item.name, item.quantity, _money(item.price), _money(total)]
        rows.append([*facts, item.currency, item.condition, figures, checks, item.notes])
    return rows


def shopping_list(studio: Studio) -> str:
    """The shopping list as CSV."""
    return _csv(shopping_rows(studio))


def lead_table(scene: Scene) -> str:
    """Every light on the mains: socket, way along walls and over floor, lead needed, leads used, draw; in m and W."""
    header = ["light", "socket", "along walls [m]", "over floor [m]", "where people walk [m]", "lead needed [m]"]
    rows: list[list[object]] = [[*header, "leads", "draws [W]"]]
    for one in fed(scene):
        way = one.found
        watts = head_watts(one.head)
        figures: list[object] = [""] * 5
        if way is not None:
            lengths = (way.route.along, way.route.open, way.crossing, need_of(scene, one.light, way))
            figures = [way.socket.name, *(round(length, 3) for length in lengths)]
        names = " into ".join(lead.name for lead in one.leads)
        rows.append([one.light.name, *figures, names, "" if watts is None else round(watts * one.light.place.heads, 1)])
    return _csv(rows)


def ledger_table(ledger: Ledger) -> str:
    """Every margin with its figures in SI units."""
    rows: list[list[object]] = [
        [
            "code",
            "verdict",
            "margin",
            "uncertainty",
            "need",
            "have",
            "unit",
            "line",
            "reason",
            "formula",
            "source",
            "kind of source",
            "about",
        ]
    ]
    for m in ledger.lines:
        rows.append(
            [
                m.code,
                m.verdict.value,
                m.margin,
                m.uncertainty,
                m.need,
                m.have,
                m.unit,
                m.sentence,
                m.reason,
                m.basis.formula,
                m.basis.source,
                m.basis.kind,
                m.about[0],
            ]
        )
    return _csv(rows)


def _money(amount: object) -> str:
    return "" if amount is None else f"{amount:.2f}"


def _csv(rows: Iterable[list[object]]) -> str:
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerows([[_cell(cell) for cell in row] for row in rows])
    return out.getvalue()


def _cell(value: object) -> object:
    if isinstance(value, float):
        return f"{value:.6g}"
    text = "" if value is None else str(value)
    return "'" + text if FORMULA.match(text) else text


FORMULA = re.compile(r"[\s;,|]{0,40}[=+\-@\uff1d\uff0b\uff0d\uff20]|[\t\r]")
"""What a spreadsheet may take for a formula: its first sign, also full-width, also after blanks or separators."""
