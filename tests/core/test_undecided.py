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


def test_what_no_set_uses_may_stayundecided() -> None:
    assert not undecided("l85")[1] and not undecided()[1]
