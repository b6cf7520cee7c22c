"""`support.floating`: tables, trays and tents stand on something; and one on another is as high as both."""

from typing import Any

import pytest
from helpers.products import IN_TENT, TENT, product
from helpers.studios import parse
from helpers.windows import the_scene

from evrant.core.base.margins import Margin, Verdict
from evrant.core.edits.language import EDIT
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.remedies import remedies_of
from evrant.core.place.moves import change
from evrant.core.studio.studio import Studio

Data = dict[str, Any]
LIGHT_TABLE = {"kind": "table", "id": "lt", "name": "Light table", "form": "translucent table", "length": 0.6}
LIGHT_TABLE |= {"width": 0.4, "height": 0.2, "load": 8.0, "mass": 3.0, "status": "owned"}


def lines(data: Data | Studio) -> list[Margin]:
    studio = parse(data) if isinstance(data, dict) else data
    return [m for m in ledger_of(studio).lines if m.code == "support.floating"]


@pytest.mark.parametrize("height", [None, 0, 0.03])
def test_what_stands_on_the_floor_has_no_line(height: float | None) -> None:
    data = product()
    data["sets"][0]["props"][0]["height"] = height
    assert not lines(data)


def test_a_table_half_a_metre_up_hangs_in_the_air() -> None:
    """Once there was no line."""
    data = product()
    data["sets"][0]["props"][0]["height"] = 0.5
    (found,) = lines(data)
    assert found.verdict is Verdict.SHORT and found.margin == pytest.approx(-0.5)
    studio = parse(data)
    (remedy,) = remedies_of(studio, found, ledger_of(studio))
    assert not lines(change(studio, EDIT.validate_python(remedy.edit)))


def test_one_on_another_stands_and_its_top_is_as_high_as_both() -> None:
    on = {"id": "lt", "item": "lt", "x": 2.0, "y": 1.9, "height": 0.75}
    data = product((LIGHT_TABLE,), (on,), base=0.95)
    assert not lines(data)
    tops = {place.id: the_scene(data).table_top(place) for place in parse(data).sets[0].props}
    assert [round(top.height, 3) for top in tops.values() if top] == [0.75, 0.95]
    carried = [m for m in ledger_of(parse(data)).lines if m.code == "support.under"]
    assert not [m for m in carried if m.verdict is Verdict.SHORT]
    on["x"] = 3.0
    assert [one.verdict for one in lines(product((LIGHT_TABLE,), (on,)))] == [Verdict.SHORT]


def test_a_tent_beside_its_table() -> None:
    assert not lines(product((TENT,), (IN_TENT | {"height": 0.75},)))
    (found,) = lines(product((TENT,), (IN_TENT | {"height": 0.75, "x": 3.4},)))
    assert found.verdict is Verdict.SHORT and "tent" in found.sentence
