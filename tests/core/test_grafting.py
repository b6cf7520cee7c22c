"""Equal parts of two studios become one object; what differs stays as it is."""

import json

import pytest
from helpers.flood import Flood
from helpers.studios import demo, one_portrait, parse
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from evrant.core.base.grafting import grafted
from evrant.core.base.memo import fresh
from evrant.core.edits.language import EDIT, EditRefused
from evrant.core.judge.ledger import ledger_of
from evrant.core.place.moves import change
from evrant.core.studio.studio import Studio


def again(studio: Studio) -> Studio:
    """The same studio read from its text: equal, and no object of it the same."""
    return Studio.model_validate(json.loads(studio.dump_json()))


def test_what_is_equal_is_the_very_object() -> None:
    studio = demo()
    read = again(studio)
    assert read is not studio and read.room is not studio.room
    assert grafted(read, studio) is studio


def test_only_what_differs_is_new() -> None:
    studio = demo()
    edit = EDIT.validate_python({"verb": "set", "target": "sets/kneeling-a/lights/key", "fields": {"x": 1.77}})
    moved = change(studio, edit)
    found = grafted(again(moved), studio)
    assert found == moved
    assert found.room is studio.room and found.gear is studio.gear and found.shots is studio.shots
    same = [one is other for one, other in zip(found.sets, studio.sets, strict=True)]
    assert same.count(False) == 1
    light = next(one for one in found.sets[same.index(False)].lights if one.id == "key")
    assert light.x == 1.77
    others = {id(one) for plan in studio.sets for one in plan.lights}
    assert sum(id(one) not in others for plan in found.sets for one in plan.lights) == 1


def test_things_are_found_by_their_ids_whatever_their_order() -> None:
    studio = demo()
    turned = studio.changed(gear=tuple(reversed(studio.gear[1:])))
    found = grafted(again(turned), studio)
    assert found == turned and len(found.gear) == len(studio.gear) - 1
    assert {id(one) for one in found.gear} <= {id(one) for one in studio.gear}


@settings(max_examples=40, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(st.integers(0, 10_000))
def test_after_any_edit_the_graft_is_equal_to_what_was_read(seed: int) -> None:
    before = parse(one_portrait())
    flood = Flood(seed)
    try:
        after = change(before, EDIT.validate_python(flood.edit(before)))
    except (EditRefused, ValidationError):
        return
    found = grafted(again(after), before)
    assert found == after and found.dump_json() == after.dump_json()


@pytest.mark.parametrize("height", [2.41, 2.8])
def test_the_ledger_of_a_graft_is_that_of_what_was_read(height: float) -> None:
    studio = demo()
    ledger_of(studio)
    moved = change(studio, EDIT.validate_python({"verb": "set", "target": "room", "fields": {"height": height}}))
    found = ledger_of(grafted(again(moved), studio))
    with fresh():
        anew = ledger_of(again(moved))
    assert [(m.key, m.verdict, m.sentence) for m in found.lines] == [(m.key, m.verdict, m.sentence) for m in anew.lines]
