"""Tables for spreadsheets: cells that one might run are defused."""

import csv
import io

import pytest
from helpers.studios import one_portrait, parse

from evrant.files.lists import shopping_list

RUN = ["=1+1", "+49", "-2", "@cmd", "\tx", " =1", ";=1", ", ;=1", "\uff1d1", "\uff0bx"]


@pytest.mark.parametrize("name", RUN)
def test_a_cell_that_might_be_run_is_quoted(name: str) -> None:
    data = one_portrait()
    data["gear"][3] |= {"notes": name, "name": name.strip()}
    text = shopping_list(parse(data))
    cells = [cell for row in csv.reader(io.StringIO(text)) for cell in row]
    for cell in cells:
        bare = cell.lstrip(" ;,|")
        assert not bare.startswith(("=", "+", "-", "@", "\uff1d", "\uff0b")), cell


def test_plain_cells_stay_as_they_are() -> None:
    rows = list(csv.reader(io.StringIO(shopping_list(parse(one_portrait())))))
    assert rows[0][:3] == ["phase", "kind", "name"] and "paper 1.35" in [cell for row in rows for cell in row]
