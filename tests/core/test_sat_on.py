"""`fit.overlap` of who is in the picture against what stands there: what one sits, kneels or lies on belongs to them,
anything else must be clear; by hand on the plain portrait, whose person stands at (2.0, 1.9)."""

from typing import Any

import pytest
from helpers.studios import one_portrait, parse

from evrant.core.base.margins import Verdict
from evrant.core.judge.ledger import ledger_of

Data = dict[str, Any]


def with_table(posture: str, form: str, high: float, **place: float) -> Data:
    """A stool, or a table of 1.2 × 0.6 m along the picture, with its middle at the mark or at a place."""
    data = one_portrait()
    data["shots"][0]["subjects"][0]["posture"] = posture
    sides = (0.4, 0.4) if form == "stool" else (0.6, 1.2)
    table = {"kind": "table", "id": "t", "name": form, "form": form, "height": high, "status": "owned"}
    data["gear"].append(table | {"length": sides[0], "width": sides[1]})
    data["sets"][0]["props"] = [{"id": "t", "item": "t", "x": 2.0, "y": 1.9} | place]
    return data


def hit(data: Data) -> bool:
    """Whether table and person are told to be in each other's way."""
    pairs = [m for m in ledger_of(parse(data)).lines if m.code == "fit.overlap" and m.verdict is Verdict.SHORT]
    return any({"sets/s/props/t", "sets/s/mark"} == set(m.about) for m in pairs)


@pytest.mark.parametrize("high", [0.3, 0.45, 0.5, 0.6, 0.75])
def test_nobody_is_in_the_way_of_the_stool_they_sit_on(high: float) -> None:
    assert not hit(with_table("seated", "stool", high))


@pytest.mark.parametrize(
    ("posture", "form", "high", "place", "wrong"),
    [
        ("standing", "stool", 0.45, {}, True),  # nobody stands inside a stool
        ("standing", "table", 0.75, {"x": 2.1}, True),
        ("standing", "table", 0.75, {"x": 2.9}, False),
        ("lying", "table", 0.5, {}, False),
        ("kneeling", "table", 0.3, {}, False),
        ("seated", "table", 0.74, {"x": 2.33}, True),  # the desk's edge 3 cm before the middle of the sitter
        ("seated", "table", 0.74, {"x": 2.6}, False),  # and 30 cm before it
    ],
)
def test_a_table_is_sat_at_or_on_and_not_stood_in(
    posture: str, form: str, high: float, place: dict[str, float], wrong: bool
) -> None:
    assert hit(with_table(posture, form, high, **place)) is wrong


def test_a_turned_table_reaches_where_it_is_turned_to() -> None:
    """Its middle 45 cm off across the picture: along it lies the mark, a quarter turned it does not."""
    assert not hit(with_table("seated", "table", 0.45, y=1.45))
    assert hit(with_table("seated", "table", 0.74, y=1.48, turn=90.0))
