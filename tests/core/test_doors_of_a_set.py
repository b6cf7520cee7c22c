"""Doors that stay shut or open while a set stands: what may stand there, the way out, clips on them, leads."""

from typing import Any

import pytest
from helpers.studios import one_portrait, parse

from evrant.core.base.margins import Margin, Verdict
from evrant.core.edits.language import EDIT, apply
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.remedies import remedies_of
from evrant.core.space.scene import scene_of
from evrant.core.stowage.striking import setting_up

Data = dict[str, Any]


def lines(data: Data, code: str) -> list[Margin]:
    return [m for m in ledger_of(parse(data)).lines if m.code == code]


def before_the_door(doors: str, swing: str = "in") -> Data:
    """The key's stand in the sweep of a door of 0.8 m from 4.0 along wall y = 0, hinged at its end."""
    data = one_portrait()
    data["room"]["doors"][0]["swing"] = swing
    data["sets"][0]["lights"][0] |= {"x": 4.35, "y": 1.35, "height": 1.6}
    return data | {"sets": [data["sets"][0] | {"doors": doors}]}


def clip(doors: str, **fields: Any) -> Data:
    data = one_portrait()
    data["gear"].append(
        {"kind": "stand", "id": "clip", "name": "Door clip", "use": "door clip", "status": "owned", "load": 1.5}
        | {"top": "accessory shoe", "min_height": 1.8, "max_height": 2.2, "mass": 0.3}
    )
    light = {"support": "clip", "x": 4.4, "y": 0.05, "height": 2.0, "modifier": None, "aim_x": 4.4, "aim_y": 3.0}
    data["sets"][0]["lights"][0] |= light | {"aim_height": 2.0} | fields
    data["sets"][0]["doors"] = doors
    return data


def test_a_door_that_stays_shut_sweeps_nothing_but_bars_the_way_out() -> None:
    used = lines(before_the_door("used"), "fit.door")
    assert [m.verdict for m in used] == [Verdict.SHORT]
    assert not lines(before_the_door("stay shut"), "fit.door")
    (way,) = lines(before_the_door("stay shut"), "fit.way_out")
    assert way.verdict is Verdict.SHORT and way.have == 0 and "closes the way out" in way.sentence
    (free,) = lines(before_the_door("stay shut", "out"), "fit.way_out")
    assert free.have is not None and free.have > 0, "a door that opens outward is not barred by what stands before it"


def test_a_door_held_open_takes_up_its_leaf_alone() -> None:
    """Held open the leaf stands along x = 4.8; 0.5 m of legs round 4.35 are clear of it, round 4.7 not."""
    (held,) = lines(before_the_door("stay open"), "fit.door")
    assert "held" in held.title
    touching = before_the_door("stay open")
    touching["sets"][0]["lights"][0] |= {"x": 4.7, "y": 1.1}
    (found,) = lines(touching, "fit.door")
    assert found.verdict is Verdict.SHORT and "is held" in found.sentence
    assert held.margin is not None and found.margin is not None and held.margin > found.margin


@pytest.mark.parametrize(
    ("doors", "fields", "verdict"),
    [
        ("used", {}, Verdict.SHORT),
        ("stay shut", {}, Verdict.CLEAR),
        ("stay open", {}, Verdict.SHORT),
        ("stay open", {"x": 4.78, "y": 0.4, "aim_x": 4.78}, Verdict.CLEAR),
        ("stay shut", {"x": 2.0, "aim_x": 2.0}, Verdict.SHORT),
    ],
)
def test_a_clip_wants_a_door_that_keeps_still(doors: str, fields: Data, verdict: Verdict) -> None:
    (found,) = lines(clip(doors, **fields), "support.door_clip")
    assert found.verdict is verdict, found.sentence


def test_it_is_mended_by_saying_so_and_the_list_hangs_a_sign() -> None:
    studio = parse(clip("used"))
    (short,) = [m for m in ledger_of(studio).lines if m.code == "support.door_clip"]
    options = remedies_of(studio, short, ledger_of(studio))
    shut = next(one for one in options if "stays shut" in one.label)
    after = apply(studio, EDIT.validate_python(shut.edit))
    assert after.sets[0].doors == "stay shut"
    scene, before = scene_of(after, after.sets[0]), scene_of(studio, studio.sets[0])
    assert scene is not None and before is not None
    assert any("sign on the" in task.words and "shut" in task.words for task in setting_up(scene))
    assert not any("sign" in task.words for task in setting_up(before))
