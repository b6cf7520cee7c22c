"""`support.weights`: what hangs on the stands against what there is to hang; added up by hand beside each."""

from typing import Any

import pytest
from helpers.studios import item, one_portrait, parse
from pydantic import TypeAdapter

from evrant.core.base.margins import Margin, Verdict
from evrant.core.edits.language import Edit
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.remedies import remedies_of
from evrant.core.place.moves import change

Data = dict[str, Any]
EDIT: TypeAdapter[Edit] = TypeAdapter(Edit)


def weights(data: Data) -> list[Margin]:
    return [line for line in ledger_of(parse(data)).lines if line.code == "support.weights"]


def hanging(kit: int | None = None, mass: float | None = 5.0, **places: float) -> Data:
    """The plain portrait with so much on its key, its background's stands, its camera; `kit` bags of `mass`."""
    data = one_portrait()
    plan = data["sets"][0]
    plan["lights"][0]["bag"] = places.get("key")
    plan["background"]["bag"] = places.get("background")
    plan["camera"]["bag"] = places.get("camera")
    data["gear"] = [one for one in data["gear"] if one["id"] != "bag"]
    if kit is not None:
        bag = {"kind": "part", "id": "bag", "name": "Weight bag", "use": "weight", "mass": mass, "quantity": kit}
        data["gear"].append(bag)
    return data


@pytest.mark.parametrize(
    ("data", "need", "have", "verdict"),
    [
        (hanging(2, key=10), 10, 10, Verdict.CLEAR),
        (hanging(1, key=10), 10, 5, Verdict.SHORT),
        (hanging(None, key=10), 10, 0, Verdict.SHORT),
        (hanging(3, background=8), 16, 15, Verdict.SHORT),  # two stands of 8
        (hanging(4, key=6, background=4, camera=5), 19, 20, Verdict.CLEAR),  # 6 + 2 × 4 + 5
        (hanging(10, mass=4.5, key=21, camera=22), 43, 45, Verdict.CLEAR),
    ],
)
def test_what_hangs_against_what_there_is(data: Data, need: float, have: float, verdict: Verdict) -> None:
    (found,) = weights(data)
    assert found.verdict is verdict and (found.need, found.have) == pytest.approx((need, have))
    assert found.margin == pytest.approx(have - 0.95 * need), "a twentieth of what hangs is reserve"


def test_nothing_hung_has_no_line() -> None:
    assert not weights(hanging()) and not weights(hanging(3))


def test_what_is_only_considered_does_not_count() -> None:
    data = hanging(2, key=10)
    item(data, "bag")["status"] = "considered"
    (found,) = weights(data)
    assert found.verdict is Verdict.SHORT and found.have == 0 and "no weights" in found.sentence


def test_an_unweighed_bag_is_unknown() -> None:
    (found,) = weights(hanging(2, mass=None, key=10))
    assert found.verdict is Verdict.UNKNOWN and "mass of the weight bag" in found.sentence


def test_a_counterweight_counts_beyond_what_comes_with_its_boom() -> None:
    """6 kg on the tail, 4.5 kg came with the boom: 1.5 kg to bring, and 3 kg on its foot."""
    data = hanging(1, key=3)
    item(data, "stand").update(use="boom stand", reach=1.5, tail=0.6, counterweight=4.5)
    data["sets"][0]["lights"][0].update(boom=90, boom_length=1.0, counterweight=6)
    (found,) = weights(data)
    assert found.need == pytest.approx(4.5) and found.verdict is Verdict.CLEAR


def test_cards_are_weighed_down_too() -> None:
    data = hanging(1, key=3)
    data["gear"] += [
        {"kind": "board", "id": "card", "name": "Card", "surface": "white", "width": 0.7, "height": 1.0, "mass": 0.4},
        item(data, "stand") | {"id": "holds", "name": "Second stand"},
    ]
    prop = {"id": "card", "item": "card", "x": 2.4, "y": 1.0, "height": 0.9, "support": "holds", "bag": 4}
    data["sets"][0]["props"] = [prop]
    (found,) = weights(data)
    assert found.need == pytest.approx(7) and found.verdict is Verdict.SHORT


def test_sets_that_stand_together_hang_theirs_at_once() -> None:
    data = hanging(3, key=10)
    other = data["sets"][0] | {"id": "other", "name": "Other", "together": "A"}
    other["lights"] = [other["lights"][0] | {"x": 3.3, "y": 0.8}]
    data["sets"] = [data["sets"][0] | {"together": "A"}, other]
    assert [(line.need, line.verdict) for line in weights(data)] == [(20, Verdict.SHORT)] * 2
    assert any("“Other” 10 kg" in line.reason for line in weights(data))
    for one in data["sets"]:
        one.pop("together")
    assert {line.verdict for line in weights(data)} == {Verdict.CLEAR}


@pytest.mark.parametrize("kit", [None, 1])
def test_each_remedy_is_enough(kit: int | None) -> None:
    """21 kg: five bags of 5 kg in all; with none, six of 4 kg sewn, with 5 kg at hand four."""
    studio = parse(hanging(kit, key=21))
    ledger = ledger_of(studio)
    line = next(one for one in ledger.lines if one.code == "support.weights")
    remedies = remedies_of(studio, line, ledger)
    labels = {one.label for one in remedies}
    wanted = {"Sew 6 weight bags from jeans"} if kit is None else {"Plan 5 of the weight bag"}
    assert wanted <= labels
    assert kit is None or "Sew 4 weight bags from jeans" in labels
    for one in remedies:
        after = ledger_of(change(studio, EDIT.validate_python(one.edit)))
        assert next(m for m in after.lines if m.code == "support.weights").verdict is Verdict.CLEAR, one.label


def test_over_the_budget_no_weight_is_offered_up() -> None:
    """They hang in a set though no place of it names them; a spare stand goes first."""
    data = hanging(3, key=10)
    item(data, "bag").update(status="planned", price="50", packed_length=0.3, packed_width=0.2, packed_height=0.1)
    data["gear"].append(item(data, "stand") | {"id": "spare", "name": "Spare stand"})
    data["brief"]["budget"] = "100"
    studio = parse(data)
    ledger = ledger_of(studio)
    line = next(one for one in ledger.lines if one.code == "budget.total")
    labels = [one.label for one in remedies_of(studio, line, ledger)]
    assert line.verdict is Verdict.SHORT
    assert any("spare stand" in label for label in labels) and not any("bag" in label for label in labels)
