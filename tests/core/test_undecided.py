"""`budget.undecided`: what a set uses is owned or planned, not only considered."""

import pytest
from helpers.studios import item, one_portrait, parse
from pydantic import TypeAdapter

from evrant.core.base.margins import Margin, Verdict
from evrant.core.edits.language import Edit
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.remedies import remedies_of
from evrant.core.place.moves import change
from evrant.core.studio.studio import Studio

EDIT: TypeAdapter[Edit] = TypeAdapter(Edit)


def undecided(*keys: str) -> tuple[Studio, list[Margin]]:
    """The plain portrait with some of its things only considered, and the line about them."""
    data = one_portrait()
    for key in keys:
        item(data, key)["status"] = "considered"
    studio = parse(data)
    return studio, [line for line in ledger_of(studio).lines if line.code == "budget.undecided"]


@pytest.mark.parametrize("keys", [("head",), ("head", "box"), ("head", "box", "paper", "cam")])
def test_what_is_used_must_be_decided_on(keys: tuple[str, ...]) -> None:
    """A line for each, so that one more is one more Short; each is planned by itself, and all at once."""
    studio, told = undecided(*keys)
    assert {line.about[0] for line in told} == {f"gear/{key}" for key in keys}
    assert all(line.verdict is Verdict.SHORT and "“set” uses the " in line.sentence for line in told)
    made = remedies_of(studio, told[0], ledger_of(studio))
    left = []
    for one in made:
        after = change(studio, EDIT.validate_python(one.edit))
        left.append(sum(line.code == "budget.undecided" for line in ledger_of(after).lines))
    assert sorted(left) == ([0, 0] if len(keys) == 1 else [0, len(keys) - 1, len(keys) - 1])


def test_what_no_set_uses_may_stay_undecided() -> None:
    assert not undecided("l85")[1] and not undecided()[1]


def test_a_remedy_that_uses_what_is_only_considered_plans_it() -> None:
    """A stand that reaches, so far only thought of: taken with the remedy, it is in the sum; one owned is left so."""
    for status in ("considered", "owned"):
        data = one_portrait()
        taller = {"id": "taller", "name": "Stand 4 m", "max_height": 4.0, "status": status}
        data["gear"].append(item(data, "stand") | taller)
        data["sets"][0]["lights"][0].update(height=3.2)
        data["room"]["height"] = 4.5
        studio = parse(data)
        before = ledger_of(studio)
        made = {
            one.label: change(studio, EDIT.validate_python(one.edit))
            for line in before.lines
            if line.verdict is Verdict.SHORT
            for one in remedies_of(studio, line, before)
        }
        after = next(found for label, found in made.items() if label.startswith("Use the stand 4 m"))
        assert {one.id: one.status for one in after.gear}["taller"] == (
            "planned" if status == "considered" else "owned"
        )
