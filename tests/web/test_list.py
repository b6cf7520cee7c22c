"""The first page with many studios: each is judged once and kept; what cannot be judged yet is said."""

import re
import time

from conftest import Live
from fastapi.testclient import TestClient
from helpers.studios import demo, one_portrait, parse
from sqlalchemy import Engine

from evrant.store.mend import mend
from evrant.store.repository import Repository
from evrant.web.app import create_app
from evrant.web.standing import judged_by


def seconds(live: Live, path: str = "/") -> float:
    begun = time.perf_counter()
    assert live.client.get(path).status_code == 200
    return time.perf_counter() - begun


def test_a_standing_is_kept_with_its_revision_and_judged_anew_after_an_edit(live: Live) -> None:
    key = live.store.create(parse(one_portrait()), label="One").studio_id
    assert "Ready to buy" in live.client.get("/").text
    listed = live.store.studios()[0]
    assert listed.standing is not None and listed.standing[0] == judged_by() and listed.number == 1
    live.store.keep_standing(key, 1, judged_by(), listed.standing[1] | {"sentence": "Kept words."})
    assert "Kept words." in live.client.get("/").text, "what is kept is shown, not judged again"
    live.post(f"/studios/{key}/edits", revision=1, edit={"verb": "set", "target": "room", "fields": {"height": 2.05}})
    changed = live.client.get("/").text
    assert "Kept words." not in changed and "Not ready to buy" in changed
    live.store.keep_standing(key, 1, judged_by(), {"headline": "Old", "verdict": "", "sentence": "", "figure": ""})
    assert "Old" not in live.client.get("/").text, "an older revision's standing replaces no newer one"


def test_other_rules_judge_anew(live: Live) -> None:
    key = live.store.create(parse(one_portrait()), label="One").studio_id
    told = {"headline": "By other rules", "verdict": "", "sentence": "", "figure": ""}
    live.store.keep_standing(key, 1, "other", told)
    assert "By other rules" not in live.client.get("/").text


def test_five_hundred_studios_are_listed_as_quickly_as_five(live: Live) -> None:
    """By the row: forty a page, each judged at most once. Compared in one run, most of it the same work."""
    for number in range(5):
        live.store.create(parse(one_portrait() | {"name": f"Studio {number}"}), label="One")
    seconds(live)
    few = min(seconds(live) for _ in range(5))
    for number in range(5, 500):
        live.store.create(parse(one_portrait() | {"name": f"Studio {number}"}), label="One")
    shown = live.client.get("/").text
    assert "Page 1 of 13" in shown and shown.count('class="studio-name"') == 40
    for waiting in re.findall(r'hx-get="(/studios/[0-9a-f]+/standing)"', shown):
        assert "Ready to buy" in live.client.get(waiting).text
    many = min(seconds(live) for _ in range(5))
    assert many < 3 * few + 0.05, (few, many)
    last = live.client.get("/?page=13").text
    assert last.count('class="studio-name"') == 20 and "Newer" in last and "Older" not in last


def test_what_could_not_be_read_is_set_back_once_to_the_last_that_could(live: Live) -> None:
    from sqlalchemy import text

    key = live.store.create(demo(), label="Demo").studio_id
    live.post(f"/studios/{key}/edits", revision=1, edit={"verb": "set", "target": "room", "fields": {"height": 2.4}})
    engine = live.store._engine
    with engine.begin() as connection:
        spoil = "UPDATE revision SET document = document || '{\"cellar\": 1}' WHERE studio = :key AND number = 2"
        connection.execute(text(spoil), {"key": key})
        assert mend(connection) == 1
        assert mend(connection) == 0
    line = live.store.history(key)[0]
    assert line.number == 3 and "Mended" in line.label and line.parent == 1
    assert live.store.newest(key).studio == demo()


def test_a_page_whose_time_is_up_stands_and_says_which_lines_wait(engine: Engine, store: Repository) -> None:
    key = store.create(parse(one_portrait()), label="One").studio_id
    with TestClient(create_app(engine, ["testserver"], seconds=0.0)) as client:
        for path in ("sets/s", "light/s", "safety", "compare", "history"):
            answer = client.get(f"/studios/{key}/{path}")
            assert answer.status_code == 200, path
        assert "the time this page may take was up" in client.get(f"/studios/{key}/sets/s").text
        assert "Ready to buy" not in client.get("/").text
        assert store.studios()[0].standing is None, "half a judgement is not kept"
    with TestClient(create_app(engine, ["testserver"])) as client:
        assert "Ready to buy" in client.get("/").text
