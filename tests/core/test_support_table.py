"""What could hold a light: every support owned and on offer, put under it and judged."""

import json
import math
from pathlib import Path
from typing import Any

import pytest
from helpers.studios import one_portrait, parse

from evrant.catalogue import load
from evrant.cli import main
from evrant.core.base.margins import Verdict
from evrant.core.judge.ledger import ledger_of
from evrant.core.place.moves import change as apply
from evrant.core.search.support_table import support_table
from evrant.core.space.scene import Scene, scene_of
from evrant.core.studio.sets import LightPlace
from evrant.core.studio.studio import Studio
from evrant.files.document import write_studio

Data = dict[str, Any]
KEY = "sets/s/lights/key"


def scene(studio: Studio) -> Scene:
    found = scene_of(studio, studio.sets[0])
    assert found is not None
    return found


def overhead_key() -> dict[str, Any]:
    """A light over the subject's head, which no plain stand can carry without standing in the picture."""
    data = one_portrait()
    data["sets"][0]["lights"][0] |= {"x": 2.0, "y": 1.9, "height": 2.45}
    return data


def test_every_support_is_put_under_the_light_and_the_ledger_agrees() -> None:
    studio = parse(overhead_key())
    here = scene(studio)
    table = support_table(studio, here, "sets/s/lights/key", load().all())
    assert {"boom stand", "wall boom", "twin stand", "light stand"} <= {one.item.use for one in table.options}
    assert not [one for one in table.options if one.item.use == "tripod"]
    ours = next(one for one in table.options if one.used)
    assert ours.ours and not ours.works, "its column stands before the subject"
    # Each row is what the ledger says once the row's own edit is carried out.
    for one in [table.options[0], *[o for o in table.options if o.item.use == "boom stand"][:1]]:
        after = ledger_of(apply(studio, one.edit))
        short = {m.code for m in after.lines if m.verdict is Verdict.SHORT and "sets/s/lights/key" in m.about}
        told = {m.code for m in (*one.short, *table.always)}
        assert {code for code in short if code.startswith("support.") or code == "fit.overlap"} <= told
        place = apply(studio, one.edit).sets[0].lights[0]
        assert isinstance(one.place, LightPlace)
        assert place.support == one.item.id and place.boom == one.place.boom
    order = [(len(one.short), len(one.unknown)) for one in table.options]
    assert order == sorted(order)


def test_a_support_that_is_too_short_or_too_weak_says_so() -> None:
    studio = parse(overhead_key())
    table = support_table(studio, scene(studio), "sets/s/lights/key", load().all())
    by_name = {one.item.name: one for one in table.options}
    floor = by_name["Floor stand 0.5 m"]
    assert "support.reach" in {m.code for m in floor.short} and floor.reach is not None and floor.reach < -1.5
    hook = by_name["Adhesive hook"]
    assert {"support.load", "support.hook", "support.joint"} & {m.code for m in hook.short}
    assert hook.floor == 0.0 and by_name["Floor stand 0.5 m"].floor > 0.1


def test_a_light_without_a_place_has_no_table() -> None:
    data = one_portrait()
    data["sets"][0]["lights"][0].pop("x")
    studio = parse(data)
    assert support_table(studio, scene(studio), "sets/s/lights/key").options == ()
    assert support_table(studio, scene(studio), "sets/s/lights/none").options == ()


def test_the_table_on_the_command_line(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    file = tmp_path / "s.json"
    file.write_text(write_studio(parse(one_portrait())))
    assert main(["supports", str(file), "--set", "s", "--light", "key", "--json"]) in (0, 1)
    found = json.loads(capsys.readouterr().out)
    assert found["light"] == "key" and len(found["supports"]) > 10
    assert {"support", "works", "against", "bag_kg", "edit"} <= set(found["supports"][0])
    assert main(["supports", str(file), "--set", "s", "--light", "none"]) == 2
    assert "no light" in capsys.readouterr().err
    main(["supports", str(file), "--set", "s", "--light", "key"])
    assert "(to buy)" in capsys.readouterr().out


def test_what_is_in_the_way_whatever_carries_the_light_is_not_called_working(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    """A light through the ceiling: said once, no row of its own says so, and none is said to work."""
    data = one_portrait()
    data["sets"][0]["lights"][0]["height"] = 2.75
    studio = parse(data)
    table = support_table(studio, scene(studio), KEY, load().all())
    assert "fit.ceiling" in {m.code for m in table.always}
    assert not [one for one in table.options if "fit.ceiling" in {m.code for m in one.short}]
    file = tmp_path / "s.json"
    file.write_text(write_studio(studio))
    assert main(["supports", str(file), "--set", "s", "--light", "key", "--json"]) == 1
    found = json.loads(capsys.readouterr().out)
    assert found["always"] and not any(row["works"] for row in found["supports"])


def test_a_collision_of_each_supports_own_stays_with_it() -> None:
    studio = parse(overhead_key())
    table = support_table(studio, scene(studio), KEY, load().all())
    told = {(m.code, m.sentence) for m in table.always}
    for one in table.options:
        assert not told & {(m.code, m.sentence) for m in one.short}
    assert {m.code for one in table.options for m in one.short} & {"fit.overlap", "frame.intrusion"}


@pytest.mark.parametrize("bags", [0, 9])
def test_what_is_taken_comes_with_its_weights_and_is_planned(bags: int) -> None:
    """Every row that hangs weights takes those the kit lacks along, and plans what was only considered: no line says
    afterwards that something is missing; with bags enough nothing is added."""
    data = one_portrait()
    data["gear"] = [one for one in data["gear"] if one["id"] not in ("bag", "stand")]
    data["gear"] += [
        {"kind": "part", "id": "bag", "name": "Bag", "use": "weight", "mass": 5.0, "quantity": bags, "status": "owned"}
    ] * bool(bags)
    plain = {"kind": "stand", "use": "light stand", "top": "16 mm spigot", "min_height": 0.9, "load": 6, "mass": 2.3}
    for key, status, height in (("low", "owned", 2.1), ("mid", "considered", 2.6), ("high", "considered", 2.8)):
        stand = {"id": key, "name": key, "status": status, "max_height": height, "foot_radius": 0.5, "price": "49"}
        data["gear"].append(plain | stand)
    data["sets"][0]["lights"][0] |= {"support": "low", "bag": None, "height": 1.9}
    data["sets"][0]["background"]["bag"] = None
    studio = parse(data)
    rows = {one.item.id: one for one in support_table(studio, scene(studio), KEY).options}
    assert rows["low"].used and not rows["low"].besides and rows["low"].price == 0
    assert not rows["mid"].ours and rows["mid"].price == 49, "what is only considered is still to be paid"
    for key in ("mid", "high"):
        after = apply(studio, rows[key].edit)
        assert {one.id: one.status for one in after.gear}[key] == "planned"
        assert rows[key].besides.startswith("plan it")
        hung = rows[key].bag
        missing = {m.code for m in ledger_of(after).lines if m.verdict is Verdict.SHORT}
        assert hung > 0 and not missing & {"support.weights", "budget.undecided"}
        sewn = [one.quantity for one in after.gear if one.id == "home-sandbag"]
        assert sewn == ([] if bags else [math.ceil(hung / 4.0)]), "a sewn bag weighs 4 kg"
        assert ("sew " in rows[key].besides) is (not bags)
