"""The Support page, the Power page, the safety sheet and the four hazards, over HTTP and on the command line."""

import csv
import io
import json
import re
from pathlib import Path

import pytest
from conftest import Live
from helpers.studios import demo, one_portrait, parse

from evrant import cli
from evrant.core.studio.studio import Studio
from evrant.demo import demo_studio

ROOT = Path(__file__).parents[2]
HAZARDS = ROOT / "examples/hazards.json"
FOUR = {"support.load", "support.hook", "power.holder", "power.lead_chain"}


@pytest.fixture
def studio_id(live: Live) -> str:
    return live.store.create(demo(), label="Demo").studio_id


@pytest.fixture
def attic(live: Live) -> str:
    return live.store.create(demo_studio("stones-on-file"), label="Attic").studio_id


@pytest.mark.parametrize("kind", ["support", "power", "safety"])
@pytest.mark.parametrize("plan", ["cat-a", "standing-a"])
def test_pages_answer_with_a_strict_policy(live: Live, studio_id: str, kind: str, plan: str) -> None:
    answer = live.client.get(f"/studios/{studio_id}/{kind}/{plan}")
    assert answer.status_code == 200
    assert "unsafe" not in answer.headers["Content-Security-Policy"]
    assert not re.search(r"\sstyle=|\shx-on|\bon(click|load|error)=", answer.text)
    assert "built-in method" not in answer.text
    ids = re.findall(r'\sid="([^"]+)"', answer.text)
    assert len(ids) == len(set(ids)), "ids are unique"


def test_the_support_page_shows_every_stand_with_what_it_bears(live: Live, studio_id: str) -> None:
    text = live.client.get(f"/studios/{studio_id}/support/kneeling-a").text
    for words in (
        "bears",
        "must 50 N",
        "2.6 kg of 4 kg",
        'class="plumb"',
        'class="bag"',
        "footing-bar",
        "2 bags, 43 kg",
    ):
        assert words in text, words
    assert "The frame looks past" not in text, "only lines about supports stand beside them"
    cat = live.client.get(f"/studios/{studio_id}/support/cat-a").text
    assert "A push tips the stand of the key" in cat and "animals in the room" in cat


def test_an_edit_on_the_support_page_is_answered_by_it(live: Live, studio_id: str) -> None:
    edit = {"verb": "set", "target": "sets/cat-a/lights/key", "fields": {"bag": 21}}
    answer = live.client.post(
        f"/studios/{studio_id}/edits",
        data={"edit": json.dumps(edit), "edit_id": "bag-of-21"},
        headers={"HX-Request": "true", "X-Evrant-Revision": "1", "X-Evrant-Page": "support/cat-a"},
    )
    assert answer.status_code == 200, answer.text[:600]
    assert "A push tips" not in answer.text
    assert 'class="bag"' in answer.text and "21 kg" in answer.text and 'data-path="support/cat-a"' in answer.text


def test_the_power_page_shows_ways_and_circuits(live: Live, attic: str) -> None:
    text = live.client.get(f"/studios/{attic}/power/glow-a").text
    for words in (
        "Circuits over the session",
        "Fan heater 1350 W",
        "15 A breaker",
        "at most 12.5 A",
        'class="cable"',
        "40 W, 0.4 A",
    ):
        assert words in text, words
    assert "Attic circuit is overloaded" in text and "Switch the fan heater off" not in text, "remedies come after"
    remedies = live.client.get(f"/studios/{attic}/remedies?revision=1&set_id=glow-a&only=power").text
    assert "Switch the fan heater off for pictures" in remedies


def test_leads_as_csv(live: Live, studio_id: str) -> None:
    answer = live.client.get(f"/studios/{studio_id}/download/kneeling-a/leads.csv")
    rows = list(csv.DictReader(io.StringIO(answer.text.lstrip("\ufeff"))))
    assert [row["light"] for row in rows] == ["key", "fill"]
    assert float(rows[0]["lead needed [m]"]) > float(rows[0]["along walls [m]"]) + float(rows[0]["over floor [m]"])
    assert live.client.get(f"/studios/{studio_id}/download/none/leads.csv").status_code == 404


def test_the_safety_sheet_tells_cause_caution_and_what_to_do(live: Live, studio_id: str) -> None:
    text = live.client.get(f"/studios/{studio_id}/safety/cat-a").text
    for words in (
        "Tipping and falling",
        "Key tips at 8° (wanted 15°)",
        "Beware:",
        "Do:",
        "licensed electrician",
        "no approval",
    ):
        assert words in text, words
    whole = live.client.get(f"/studios/{studio_id}/safety").text
    assert whole.count("Tipping and falling") >= 3 and "Kneeling, along the room" in whole
    assert "8 lines about it are Clear" in live.client.get(f"/studios/{studio_id}/safety/kneeling-a").text


def test_pages_without_a_set_or_a_room(live: Live) -> None:
    bare = live.store.create(parse({"format": "evrant-studio", "schema": 1, "name": "x"}), label="x").studio_id
    assert live.client.get(f"/studios/{bare}/safety").status_code == 404
    assert live.client.get(f"/studios/{bare}/support/none").status_code == 404
    data = one_portrait() | {"room": {}}
    roomless = live.store.create(parse(data), label="x").studio_id
    for kind in ("support", "power", "safety"):
        assert live.client.get(f"/studios/{roomless}/{kind}/s").status_code == 200
        assert live.client.get(f"/studios/{roomless}/{kind}/gone", follow_redirects=False).status_code == 404
    for kind in ("support", "power"):
        drawn = live.client.get(f"/studios/{roomless}/{kind}/s/sheet")
        assert drawn.status_code == 200 and drawn.text.startswith("<svg")


def test_four_hazards_are_short_and_nothing_else(capsys: pytest.CaptureFixture[str]) -> None:
    assert cli.main(["check", str(HAZARDS), "--json"]) == 1
    told = json.loads(capsys.readouterr().out)["margins"]
    shorts = [m["code"] for m in told if m["verdict"] == "Short"]
    assert sorted(code for code in shorts if code.startswith(("support.", "power."))) == sorted(FOUR)
    assert set(shorts) == FOUR, "and the set is sound but for these"
    assert Studio.model_validate_json(HAZARDS.read_text()).name == "Four hazards"


def test_the_safety_sheet_on_the_command_line(capsys: pytest.CaptureFixture[str]) -> None:
    assert cli.main(["safety", str(HAZARDS), "--json"]) == 1
    told = json.loads(capsys.readouterr().out)
    heat = next(one for one in told["sets"]["s"] if one["name"] == "Heat and fire")
    assert heat["verdict"] == "Short" and "power.holder" in [m["code"] for m in heat["margins"]]
    assert any("electrician" in notice for notice in told["notices"])
    assert cli.main(["safety", str(ROOT / "examples/hands-in-view.json")]) == 0
    words = capsys.readouterr().out
    assert "Tipping and falling" in words and "no approval" in words
