"""`kit.gone`: what a set names and nothing of the studio answers to."""

from typing import Any

import pytest
from helpers.studios import one_portrait, parse
from pydantic import TypeAdapter

from evrant.core.base.margins import Margin, Verdict
from evrant.core.edits.language import Edit
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.remedies import remedies_of
from evrant.core.place.moves import change
from evrant.core.studio.studio import Studio, dangling

EDIT: TypeAdapter[Edit] = TypeAdapter(Edit)
Data = dict[str, Any]


def told(studio: Studio) -> list[Margin]:
    return [line for line in ledger_of(studio).lines if line.code == "kit.gone"]


def removed(data: Data, *targets: str) -> Studio:
    studio = parse(data)
    for target in targets:
        studio = change(studio, EDIT.validate_python({"verb": "remove", "target": target}))
    return studio


def crowded() -> Data:
    """The portrait plugged in, with a table, and a chest put aside for it."""
    data = one_portrait()
    data["gear"].append({"kind": "table", "id": "table", "name": "table", "length": 0.8, "width": 0.6, "height": 0.7})
    data["room"]["boxes"] = [{"id": "chest", "name": "Chest", "x": 3.0, "y": 3.4, "length": 0.6, "width": 0.5}]
    plan = data["sets"][0]
    plan["props"] = [{"id": "low-table", "item": "table", "x": 3.2, "y": 0.9}]
    plan["aside"] = [{"id": "chest-out", "box": "chest"}]
    plan["lights"][0]["socket"] = "outlet"
    return data


@pytest.mark.parametrize(
    ("target", "about", "said"),
    [
        ("gear/box", "sets/s/lights/key/modifier", "“Modifier” of the key names “box”"),
        ("gear/head", "sets/s/lights/key/head", "“Head” of the key"),
        ("gear/stand", "sets/s/lights/key/support", "“Stand” of the key"),
        ("gear/l50", "sets/s/camera/lens", "“Lens” of the camera"),
        ("gear/paper", "sets/s/background/backdrop", "“Background” of the background"),
        ("gear/table", "sets/s/props/low-table/item", "“What” of the low table"),
        ("room/sockets/outlet", "sets/s/lights/key/socket", "not in the room any more"),
        ("room/boxes/chest", "sets/s/aside/chest-out/box", "not in the room any more"),
    ],
)
def test_each_name_that_leads_nowhere_is_said_and_can_be_left(target: str, about: str, said: str) -> None:
    assert not told(parse(crowded()))
    studio = removed(crowded(), target)
    (line,) = told(studio)
    assert (line.about[0], line.verdict) == (about, Verdict.UNKNOWN) and said in line.sentence
    (remedy,) = remedies_of(studio, line, ledger_of(studio))
    assert not told(change(studio, EDIT.validate_python(remedy.edit)))


def test_several_are_told_one_by_one_and_gear_is_what_a_merge_asks_for() -> None:
    studio = removed(crowded(), "gear/box", "gear/l50", "room/sockets/outlet")
    assert len(told(studio)) == 3 and len({line.key for line in told(studio)}) == 3
    assert sorted(dangling(studio)) == ["sets/s/camera/lens", "sets/s/lights/key/modifier"]


def test_a_wall_that_nobody_named_is_there() -> None:
    data = one_portrait()
    data["room"]["walls"] = []
    data["sets"][0]["background"] = {"x": 0.02, "y": 1.9, "wall": "wall-4"}
    assert not told(parse(data))
    data["sets"][0]["background"]["wall"] = "attic-wall"
    assert len(told(parse(data))) == 1


def test_it_is_told_again_after_a_light_has_moved() -> None:
    """The rule looks at no place: what it keeps must still follow the names."""
    studio = removed(one_portrait(), "gear/box")
    moved = change(studio, EDIT.validate_python({"verb": "set", "target": "sets/s/lights/key", "fields": {"x": 2.75}}))
    assert told(studio) and told(moved)
    bare = {"verb": "set", "target": "sets/s/lights/key", "fields": {"modifier": None}}
    assert not told(change(moved, EDIT.validate_python(bare)))
