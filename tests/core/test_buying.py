"""What it really costs: orders, delivery and tax, what was paid, running costs; the list; parts; what to leave."""

from datetime import date
from decimal import Decimal
from typing import Any, get_args

import pytest
from helpers.studios import demo, item, line, one_portrait, parse

from evrant.catalogue import load
from evrant.core.base.margins import Verdict
from evrant.core.base.tables.money import converted
from evrant.core.buying.costs import against_plan, orders, per_session, running, sessions, spent, to_spend
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.rules.kit.budget import used
from evrant.core.place.moves import change as apply
from evrant.core.search.kit.leave import BY_SCHOOL, leave_it
from evrant.core.search.kit.parts import parts_wanted
from evrant.core.search.kit.shopping import last_day, reminders, shopping
from evrant.core.space.scene import scene_of
from evrant.core.studio.brief import Schools
from evrant.core.studio.studio import Studio, by_id
from evrant.web.actions import action_edit


def with_shop(**terms: Any) -> dict[str, Any]:
    data = one_portrait()
    data["shops"] = [{"id": "corner", "name": "corner shop", **terms}]
    for one in data["gear"]:
        if one.get("price"):
            one["shop"] = "corner"
    return data


GOODS = Decimal(39 + 90 + 215 + 38 + 49 + 48)


def test_joints_and_leads_of_a_set_are_never_called_unused() -> None:
    data = one_portrait()
    data["gear"].append({"kind": "lead", "id": "lead", "name": "lead", "length": 5.0, "price": "11"})
    data["gear"].append({"kind": "part", "id": "joint", "name": "joint", "use": "adapter", "price": "9"})
    data["sets"][0]["lights"][0] |= {"lead": "lead", "joint": "joint"}
    assert {"lead", "joint", "head", "paper"} <= used(parse(data))


def test_delivery_counts_until_it_is_free_and_tax_is_added_where_it_is() -> None:
    """439 + 6.90 delivery; free from 400; 19 % on top makes 522.41."""
    assert to_spend(parse(one_portrait())) == GOODS == 479
    assert to_spend(parse(with_shop(delivery="6.90", free_from="500"))) == GOODS + Decimal("6.90")
    assert to_spend(parse(with_shop(delivery="6.90", free_from="400"))) == GOODS
    (order,) = orders(parse(with_shop(delivery="6.90", free_from="500", tax="added", tax_rate=19.0)))
    assert order.tax == Decimal("91.01") and order.delivery == 0 and order.total == GOODS + Decimal("91.01")
    (dear,) = orders(parse(with_shop(delivery="6.90", free_from="500")))
    assert dear.to_free == 500 - GOODS


def test_the_budget_line_counts_what_is_delivered() -> None:
    data = with_shop(delivery="9", tax="added", tax_rate=20.0)
    data["brief"]["budget"] = "580"
    margin = line(parse(data), "budget.total")
    assert margin.verdict is Verdict.SHORT and margin.need == pytest.approx(float(GOODS) * 1.2 + 9)
    assert "tax and delivery" in margin.reason


def bought(data: dict[str, Any], key: str, **fields: Any) -> Studio:
    """The studio after a planned thing was bought by the page's own action."""
    studio = parse(data)
    return apply(studio, action_edit(studio, {"action": "bought", "item": key, **fields}))


def test_buying_moves_money_from_planned_to_spent_and_the_thing_to_owned() -> None:
    data = with_shop(return_days=14)
    after = bought(data, "head", paid="199,50", bought="2026-11-03")
    head = by_id(after.gear, "head")
    assert head is not None and head.status == "owned" and spent(after) == Decimal("199.50")
    assert to_spend(after) == GOODS - 215
    (actual,) = against_plan(after)
    assert actual.dearer == Decimal("-15.50") and actual.purchase.return_by == "2026-11-17"
    assert line(after, "budget.total").need == pytest.approx(float(GOODS) - 15.5)


def test_what_goes_back_costs_only_its_way() -> None:
    data = one_portrait()
    data["purchases"] = [
        {"id": "a", "item": "head", "paid": "200", "delivery": "5", "returned": "2026-11-10", "return_cost": "7"},
        {"id": "b", "item": "box", "paid": "40"},
    ]
    assert spent(parse(data)) == Decimal(52)


def test_the_last_day_is_brought_to_mind_until_the_thing_is_checked() -> None:
    data = with_shop(return_days=14)
    data["purchases"] = [{"id": "a", "item": "head", "shop": "corner", "arrived": "2026-11-03"}]
    studio = parse(data)
    assert last_day(studio, studio.purchases[0]) == date(2026, 11, 17)
    assert reminders(studio, date(2026, 11, 10)) == []
    (soon,) = reminders(studio, date(2026, 11, 15))
    assert soon.days == 2 and soon.name == "head 200"
    assert reminders(studio, date(2026, 11, 20))[0].days == -3
    data["purchases"][0]["checked"] = True
    assert reminders(parse(data), date(2026, 11, 15)) == []
    data["purchases"][0] |= {"checked": False, "return_by": "2026-12-24"}
    assert last_day(parse(data), parse(data).purchases[0]) == date(2026, 12, 24)


def test_a_bought_thing_that_measures_otherwise_re_runs_the_ledger() -> None:
    data = one_portrait()
    assert line(parse(data), "support.load").verdict is Verdict.CLEAR
    item(data, "stand").update(status="owned", load=1.5)
    assert line(parse(data), "support.load").verdict is Verdict.SHORT


# --- running -----------------------------------------------------------------------------------------


def test_running_costs_by_the_metre_the_year_and_the_session() -> None:
    """Paper 39 for 11 m, 30 cm a session, 22 sessions: 6.6 m, 23.40; a stand of 49 in seven years 7.00; software 12 a
    month 144; cards 60 once in four years 15; rented head 20 × 22 = 440; sold on: (90 − 30) / 5 = 12."""
    data = one_portrait()
    data["shots"][0]["sessions"] = 22
    item(data, "paper").update(cut=0.3)
    item(data, "stand").update(lasts=7.0)
    item(data, "stands").update(lasts=5.0, resale="30")
    item(data, "head").update(condition="rented", rent="20")
    data["upkeep"] = [
        {"id": "soft", "name": "Editing software", "price": "12", "every": "month"},
        {"id": "cards", "name": "Memory cards", "price": "60", "every": "once", "lasts": 4.0},
        {"id": "tape", "name": "Tape", "price": "0.50", "every": "session"},
    ]
    studio = parse(data)
    found = {one.word: one.yearly for one in running(studio)}
    assert found == {
        "head 200": Decimal(440),
        "Editing software": Decimal(144),
        "paper 1.35": Decimal("23.40"),
        "Memory cards": Decimal(15),
        "background stands": Decimal(12),
        "Tape": Decimal(11),
        "stand 2.6": Decimal(7),
    }
    assert sessions(studio) == 22 and per_session(studio) == Decimal("29.65")
    assert per_session(parse(one_portrait())) is None


def test_example_prices_are_turned_to_whole_units() -> None:
    assert converted(Decimal(180), "EUR", "GBP") == 155 and converted(Decimal("9.99"), "EUR", "EUR") == Decimal("9.99")


# --- the list ----------------------------------------------------------------------------------------


def test_the_list_asks_for_what_the_sets_need_and_how_to_check_it() -> None:
    data = one_portrait()
    item(data, "head")["phase"] = 2
    studio = parse(data)
    rows = {one.item.id: one for one in shopping(studio)}
    assert rows["head"].phase == 2 and list(rows)[-1] == "head"
    stand = {one.words: one.check for one in rows["stand"].figures}
    need = next(m.need for m in ledger_of(studio).lines if m.code == "support.load")
    assert need is not None and f"load at least {need:.1f} kg" in stand and stand[f"load at least {need:.1f} kg"]
    assert "reaches at least 2.10 m" in stand
    full = next(m.margin for m in ledger_of(studio).lines if m.code == "light.power_full")
    assert full is not None
    guide = next(one.words for one in rows["head"].figures if one.words.startswith("guide number"))
    asked = float(guide.split()[4])
    assert 52 * 2 ** (-full / 2) <= asked < 52 * 2 ** (-full / 2) + 1.01
    wide = next(m.need for m in ledger_of(studio).lines if m.code == "frame.backdrop_width")
    assert wide is not None and any(f"{wide:.2f}" in one.words for one in rows["paper"].figures)
    assert any(one.words.startswith("packed length at most") for one in rows["paper"].figures)


def test_every_kind_of_the_catalogue_has_figures_to_look_for() -> None:
    data = one_portrait()
    data["gear"] = []
    data["sets"] = []
    kinds: dict[str, Any] = {}
    for one in load().all():
        kinds.setdefault(one.kind, one)
    studio = parse(data).changed(gear=tuple(one.changed(status="planned") for one in kinds.values()))
    bare = {one.item.kind for one in shopping(studio) if not one.figures}
    assert bare <= {"camera", "gel", "part"}


def test_leave_it_follows_school_and_room() -> None:
    data = one_portrait()
    data["brief"]["schools"] = {"source": "continuous", "background": "fabric"}
    data["room"]["floor"] = "carpet"
    words = {one.what for one in leave_it(parse(data))}
    assert {"A newer camera", "Flash heads and triggers", "The widest paper roll", "Stands on castors"} <= words
    data["brief"]["schools"] = {"source": "flash"}
    data["room"]["floor"] = "wood"
    other = {one.what for one in leave_it(parse(data))}
    assert "Flash heads and triggers" not in other and "Continuous lamps for stills" in other


# --- parts -------------------------------------------------------------------------------------------


def test_weights_leads_clamps_and_boards_are_derived_with_reasons() -> None:
    data = one_portrait()
    data["room"]["floor"] = "carpet"
    item(data, "head")["cord"] = 1.0
    data["gear"] = [one for one in data["gear"] if one["id"] != "bag"]
    found = {one.word: one for one in parts_wanted(parse(data), load().all())}
    assert found["weight bags"].count == 3 and found["weight bags"].have == 0, "10 + 2 × 2 kg in bags of 5"
    assert found["floor boards"].lacks == 2 and found["spring clamps"].lacks == 1 and found["cloth tape"].lacks == 1
    assert found["leads"].count == 1 and found["leads"].item is not None and "cords end" in found["leads"].why
    assert found["transmitter"].lacks == 0 and found["receivers"].lacks == 0
    assert all(one.why.endswith(".") for one in found.values())
    assert parts_wanted(parse(data | {"sets": []}), load().all()) == []


def test_a_missing_swivel_and_receiver_are_found_in_the_catalogue() -> None:
    data = one_portrait()
    item(data, "head").update(foot="accessory shoe", supply="battery", receiver=False)
    item(data, "trigger").update(use="transmitter")
    found = {one.word: one for one in parts_wanted(parse(data), load().all())}
    assert found["receivers"].lacks == 1 and found["receivers"].item is not None
    joints = [one for one in found.values() if one.item is not None and one.item.id == "swivel-shoe"]
    assert joints and joints[0].lacks == 1
    assert found["sets of cells"].count == 2


def test_cotton_gloves_for_what_shows_every_finger() -> None:
    data = one_portrait()
    data["shots"][0]["subjects"][0]["shine"] = "mirror-like"
    found = {one.word for one in parts_wanted(parse(data), load().all())}
    assert "cotton gloves" in found


def test_rolls_without_a_place_ask_for_hooks() -> None:
    data = one_portrait()
    item(data, "paper").update(packed_length=2.75, packed_width=0.08, packed_height=0.08, stowed="upright")
    found = {one.word: one for one in parts_wanted(parse(data), load().all())}
    assert found["screw hooks"].lacks == 1 and "finds no place upright" in found["screw hooks"].why
    item(data, "paper").update(packed_length=1.4)
    assert "screw hooks" not in {one.word for one in parts_wanted(parse(data), load().all())}


def test_parts_of_the_demo_name_their_set() -> None:
    studio = demo()
    found = parts_wanted(studio, load().all())
    assert any("“" in one.why for one in found) and all(scene_of(studio, plan) for plan in studio.sets)


def test_every_school_has_something_to_leave() -> None:
    """Every choice but two of every school names one thing at least, with its reason."""
    for name, field in Schools.model_fields.items():
        choices = {choice for part in get_args(field.annotation) for choice in get_args(part)}
        told = {choice for (field_, choice), leaves in BY_SCHOOL.items() if field_ == name and leaves}
        assert choices >= told and choices - told <= {"mixed", "boards or wall"}, (name, choices - told)
    assert all(one.what and one.why.endswith(".") for leaves in BY_SCHOOL.values() for one in leaves)
