"""What comes in is checked once, at the edge: each of these was a fault of the server."""

import io
import json
import threading
import time
from typing import Any

import psycopg
import pytest
from conftest import Live
from helpers.kits import few, plain
from helpers.studios import demo, one_portrait, parse
from sqlalchemy import Engine, text
from sqlalchemy.exc import OperationalError

from evrant.core.base import memo
from evrant.core.judge import declared
from evrant.core.search.kit.result import best_kit
from evrant.core.studio.studio import Studio
from evrant.files.document import Refused, write_studio
from evrant.files.gear_table import read_gear
from evrant.files.photometric import read_photometric
from evrant.files.scaled import read_footprint
from evrant.jobs.kit import ask_for_kit
from evrant.store import revisions
from evrant.store.jobs import Jobs, State
from evrant.store.repository import Repository
from evrant.store.revisions import Unreadable

HX = {"HX-Request": "true"}
CLAMPED = b"IESNA:LM-63-2002\nTILT=NONE\n1 1000 1 2 1 1 2 0 0 0\n1 1 0\n0 90\n0\n"


def made(live: Live, studio: Studio | None = None) -> str:
    return live.store.create(studio or parse(one_portrait()), label="Test").studio_id


# --- addresses, numbers, ids ---------------------------------------------------------------------


@pytest.mark.parametrize(
    "path",
    ["/studios/%00/brief",
     "/studios/a%0Ab/brief", "/studios/%ED%A0%80/brief", "/studios/x~%00", "/?page=%00", "/studios/x?a=%00"],
)  # fmt: skip
def test_no_address_reaches_the_database_unread(live: Live, path: str) -> None:
    answer = live.client.get(path)
    assert answer.status_code in (200, 404) and "content-security-policy" in answer.headers


@pytest.mark.parametrize("revision", ["0", "-1", "99999999999999999999", "²", "1e3", "x", ""])
def test_a_revision_is_a_plain_number(live: Live, revision: str) -> None:
    key = made(live)
    assert live.client.get(f"/studios/{key}/remedies", params={"revision": revision}).status_code == 404
    restored = live.client.post(f"/studios/{key}/restore", data={"number": revision, "revision": "1"})
    assert restored.status_code in (404, 422), restored.text


def test_a_number_of_five_thousand_digits_is_refused(live: Live) -> None:
    key = made(live)
    answer = live.client.post(f"/studios/{key}/restore", data={"number": "9" * 5000, "revision": "1"})
    assert answer.status_code == 422 and answer.json()["faults"]


@pytest.mark.parametrize("edit_id", ["short", "x" * 65, "a" * 63 + "\n", "nul\x00nul", "🦔🦔🦔🦔🦔🦔", "a b c d e f"])
def test_an_edit_id_is_checked_wherever_it_comes_in(live: Live, edit_id: str) -> None:
    key = made(live)
    edit = {"verb": "set", "target": "room", "fields": {"height": 2.5}}
    whole = live.client.post(f"/studios/{key}/edits", json={"edit_id": edit_id, "revision": 1, "edit": edit})
    forms = [
        live.client.post("/studios", data={"name": "New", "edit_id": edit_id}),
        live.client.post(f"/studios/{key}/copy", data={"edit_id": edit_id}),
        live.client.post(f"/studios/{key}/branch", data={"edit_id": edit_id}),
    ]
    for answer in (whole, *forms):
        assert answer.status_code == 422 and "edit_id" in answer.text
    assert live.store.newest(key).number == 1 and len(live.store.studios()) == 1


def test_a_page_named_set_without_a_set_is_answered(live: Live) -> None:
    key = made(live)
    edit = json.dumps({"verb": "set", "target": "room", "fields": {"height": 2.6}})
    headers = HX | {"X-Evrant-Page": "set", "X-Evrant-Revision": "1"}
    assert live.client.post(f"/studios/{key}/edits", data={"edit": edit}, headers=headers).status_code == 200


def test_cancel_of_a_job_that_cannot_be(live: Live) -> None:
    key = made(live)
    for job in ("nul\x00", "x" * 4000, "\ud800".encode("utf-8", "replace").decode()):
        assert live.client.post(f"/studios/{key}/best-cancel", data={"job": job}).status_code < 500


def test_a_studio_asked_for_twice_at_once_is_made_once(live: Live) -> None:
    answers: list[int] = []

    def ask() -> None:
        answers.append(live.client.post("/studios", data={"name": "One", "edit_id": "one-edit-id"}).status_code)

    threads = [threading.Thread(target=ask) for _ in range(6)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert answers == [204] * 6 and [one.name for one in live.store.studios()] == ["One"]


def test_one_edit_id_on_two_plans_is_refused(live: Live) -> None:
    key = made(live)
    other = live.store.branch(key, "branch-id").studio_id
    edit = {"verb": "set", "target": "room", "fields": {"height": 2.5}}
    body = {"edit_id": "the-same-one", "revision": 1, "edit": edit}
    assert live.client.post(f"/studios/{key}/edits", json=body).status_code == 200
    again = live.client.post(f"/studios/{other}/edits", json=body)
    assert again.status_code == 422 and "another plan" in again.text


# --- files ---------------------------------------------------------------------------------------


@pytest.mark.parametrize("count", ["inf", "nan", "-inf", "1e999", "1/0"])
def test_a_table_holds_ordinary_numbers(live: Live, count: str) -> None:
    key = made(live)
    file = f"kind,name,quantity\nstand,Stand,{count}\n".encode()
    answer = live.client.post(f"/studios/{key}/gear-table", files={"file": ("g.csv", file)}, headers=HX)
    assert answer.status_code == 422 and "line 2" in answer.text and "not a number" in answer.text


def test_a_header_of_forty_thousand_characters_is_refused_at_once() -> None:
    begun = time.process_time()
    for head in ("a" * 40_000, "mass" + " " * 40_000 + "[", "kind [" + "[" * 40_000):
        with pytest.raises(Refused):
            read_gear(f"{head},kind\nx,stand\n".encode())
    assert time.process_time() - begun < 2, "what took half a minute takes no time"


@pytest.mark.parametrize("word", ["inf", "nan", "1e999"])
def test_photometric_counts_are_ordinary_numbers(word: str) -> None:
    for file in (
        f"IESNA:LM-63-2002\nTILT=NONE\n1 1000 1 {word} 1 1 2 0 0 0\n1 1 0\n",
        f"IESNA:LM-63-2002\nTILT=NONE\n{word} 1000 1 2 1 1 2 0 0 0\n1 1 0\n0 90\n0\n100 50\n",
        f"IESNA:LM-63-2002\nTILT=INCLUDE\n1 {word}\n",
    ):
        with pytest.raises(Refused):
            read_photometric(file.encode())


@pytest.mark.parametrize("table", ["0 0", "1e-300 1e-300", "1e300 1e300"])
def test_a_table_that_no_lamp_gives_is_refused(table: str) -> None:
    with pytest.raises(Refused, match=r"lumens|zero"):
        read_photometric(CLAMPED + table.encode())


@pytest.mark.parametrize("unit", ["1e999", "-1e999", "x"])
def test_a_drawing_with_an_infinite_unit(unit: str) -> None:
    head = f"0\nSECTION\n2\nHEADER\n9\n$INSUNITS\n40\n{unit}\n0\nENDSEC\n0\nSECTION\n2\nENTITIES\n0\nENDSEC\n0\nEOF\n"
    with pytest.raises(Refused):
        read_footprint(head.encode())


def test_an_upload_on_a_stale_revision_is_made_anew(live: Live, monkeypatch: pytest.MonkeyPatch) -> None:
    """Somebody is quicker, once: the upload is applied to what they left."""
    key = made(live)
    newest, times = Repository.newest, [0]

    def slow(self: Repository, studio_id: str) -> Any:
        found = newest(self, studio_id)
        times[0] += 1
        if times[0] == 1:
            edit = {"verb": "set", "target": "room", "fields": {"floor": "carpet"}}
            live.client.post(f"/studios/{key}/edits", json={"edit_id": "quicker-one", "revision": 1, "edit": edit})
        return found

    monkeypatch.setattr(Repository, "newest", slow)
    file = io.BytesIO(b"kind,name\nstand,From a table\n")
    answer = live.client.post(f"/studios/{key}/gear-table", files={"file": ("g.csv", file)}, headers=HX)
    monkeypatch.undo()
    assert answer.status_code == 204
    after = live.store.newest(key).studio
    assert after.room.floor == "carpet" and any(item.name == "From a table" for item in after.gear)


def test_the_last_day_of_all_days(live: Live) -> None:
    data = one_portrait()
    data["shops"] = [{"id": "shop", "name": "Shop", "return_days": 30}]
    data["purchases"] = [{"id": "p", "item": "box", "shop": "shop", "bought": "9999-12-31", "paid": "10"}]
    key = made(live, parse(data))
    page = live.client.get(f"/studios/{key}/shopping")
    assert page.status_code == 200 and "9999-12-31" in page.text
    assert live.client.get(f"/studios/{key}/download/shopping.xlsx").status_code == 200


def test_things_that_last_no_time_at_all(live: Live) -> None:
    data = one_portrait()
    data["gear"][0] |= {"lasts": 1e-30, "price": "9999999"}
    data["upkeep"] = [{"id": "u", "name": "Upkeep", "every": "once", "price": "9999999", "lasts": 1e-30}]
    assert live.client.get(f"/studios/{made(live, parse(data))}/shopping").status_code == 200


# --- half-described things -----------------------------------------------------------------------


def test_the_safety_page_of_a_set_whose_shot_is_gone(live: Live) -> None:
    data = one_portrait()
    data["sets"][0]["shot"] = "gone"
    key = made(live, parse(data))
    for path in ("safety", f"safety/{data['sets'][0]['id']}"):
        assert live.client.get(f"/studios/{key}/{path}").status_code in (200, 404)


def test_lenses_of_a_camera_with_half_a_sensor(live: Live) -> None:
    data = one_portrait()
    for item in data["gear"]:
        if item["kind"] == "camera":
            item.pop("sensor_height")
    page = live.client.get(f"/studios/{made(live, parse(data))}/lenses")
    assert page.status_code == 200


@pytest.mark.parametrize(
    ("target", "fields"),
    [
        ("sets/s/lights/key", {"power": 1e-49}),
        ("sets/s/lights/key", {"x": 39.0, "y": 39.0}),
        ("sets/s/mark", {"x": -9.0, "y": 39.0}),
    ],
)
def test_figures_far_from_anything_usual_are_judged_without_a_fault(
    live: Live, target: str, fields: dict[str, float]
) -> None:
    key = made(live)
    body = {"edit_id": "far-off-1", "revision": 1, "edit": {"verb": "set", "target": target, "fields": fields}}
    answer = live.client.post(f"/studios/{key}/edits", json=body)
    assert answer.status_code == 200
    told = json.dumps(answer.json())
    assert "NaN" not in told and "Infinity" not in told and "fault of the program" not in told
    for number in range(6):
        assert live.client.get(
            f"/studios/{key}/remedies", params={"revision": 2, "set_id": "s", "start": number}
        ).is_success
    assert "nan" not in live.client.get(f"/studios/{key}/download/ledger.csv").text.lower().split(",")


def test_a_corner_is_not_taken_out_by_an_id_it_has_not(live: Live) -> None:
    data = one_portrait()
    corners = [{"x": 0, "y": 0}, {"x": 5, "y": 0}, {"x": 5, "y": 4}, {"x": 0, "y": 4}]
    data["room"]["footprint"] = {"kind": "outline", "corners": corners}
    key = made(live, parse(data))
    for edit in (
        {"verb": "add", "list": "room/footprint/corners", "item": {"x": 1, "y": 1}},
        {"verb": "remove", "target": "room/footprint/corners/a"},
        {"verb": "reorder", "list": "room/footprint/corners", "order": []},
    ):
        answer = live.client.post(f"/studios/{key}/edits", json={"revision": 1, "edit": edit})
        assert answer.status_code == 422, answer.text


# --- the best kit where nothing fits -------------------------------------------------------------


def test_a_kit_that_finds_nothing_is_shown_and_can_be_asked_again(live: Live, engine: Engine) -> None:
    with engine.begin() as connection:
        connection.execute(text("TRUNCATE long_job, procrastinate_jobs, procrastinate_workers CASCADE"))
    jobs = Jobs(engine)
    studio = plain()
    key = made(live, studio)
    job = ask_for_kit(jobs, key, studio, 1.0)
    assert jobs.begin(job) is not None
    so_far = dict(best_kit(studio, few(), 1.0, stop=lambda: True))
    assert jobs.tell(job, "0 recipes checked", so_far) is False
    assert live.client.get(f"/studios/{key}/best/found").status_code == 200
    assert jobs.finish(job, State.DONE, dict(best_kit(studio, few(), 1.0)))
    page = live.client.get(f"/studios/{key}/best")
    assert page.status_code == 200 and "No shot can be made for this money" in page.text and "Not made" in page.text
    assert 'name="budget"' in page.text


# --- what cannot be read, what cannot be written -------------------------------------------------


def spoil(engine: Engine, key: str, change: str) -> None:
    with engine.begin() as connection:
        connection.execute(text(f"UPDATE revision SET {change} WHERE studio = :key"), {"key": key})


@pytest.mark.parametrize(
    "change",
    ["document = document || '{\"cellar\": 1}'::jsonb", "schema = 99", "document = jsonb_set(document, '{sets}', '3')"],
)
def test_one_unreadable_studio_leaves_all_others_standing(live: Live, engine: Engine, change: str) -> None:
    good, bad = made(live), made(live, demo())
    spoil(engine, bad, change)
    fresh = Repository(engine)
    with pytest.raises(Unreadable):
        fresh.newest(bad)
    first = live.client.get("/")
    assert first.status_code == 200 and "Unreadable" in first.text and "One portrait" in first.text
    assert live.client.get(f"/studios/{good}/brief").status_code == 200
    page = live.client.get(f"/studios/{bad}/brief", headers={"Accept": "text/html"})
    assert page.status_code == 422 and "download/raw.json" in page.text
    taken = live.client.get(f"/studios/{bad}/download/raw.json")
    assert taken.status_code == 200 and json.loads(taken.text)["name"] == "Adoption corner"


def test_a_database_that_takes_no_writes_says_so(live: Live, engine: Engine) -> None:
    key = made(live)
    with engine.begin() as connection:
        connection.execute(text("ALTER ROLE CURRENT_USER SET default_transaction_read_only = on"))
    engine.dispose()
    try:
        edit = {"verb": "set", "target": "room", "fields": {"height": 2.5}}
        answer = live.client.post(f"/studios/{key}/edits", json={"revision": 1, "edit": edit})
        assert answer.status_code == 503 and "content-security-policy" in answer.headers
    finally:
        with engine.connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
            connection.execute(text("SET default_transaction_read_only = off"))
            connection.execute(text("ALTER ROLE CURRENT_USER RESET default_transaction_read_only"))
        engine.dispose()


def test_an_import_is_bounded(live: Live) -> None:
    data = one_portrait()
    light = data["sets"][0]["lights"][0]
    one = data["sets"][0] | {"lights": [light | {"id": f"l{i}"} for i in range(16)]}
    data["sets"] = [one | {"id": f"s{i}"} for i in range(150)]
    file = json.dumps(data).encode()
    answer = live.client.post("/studios/import", files={"file": ("s.json", file)})
    assert answer.status_code == 422 and "lights" in answer.text
    few = json.dumps(json.loads(write_studio(parse(one_portrait())))).encode()
    assert live.client.post("/studios/import", files={"file": ("s.json", few)}).status_code == 204


def test_a_fault_of_a_rule_is_logged_with_studio_revision_and_rule(
    live: Live, monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    """A rule that raises: every page stands, its line says so, and the log names where it happened."""
    broken = next(rule for rule in declared.set_rules() if rule.name == "sharpness")

    def raises(scene: object) -> Any:
        raise ZeroDivisionError("planted")

    monkeypatch.setitem(broken.__dict__, "margins", raises)
    key = made(live, demo())
    with memo.fresh(), caplog.at_level("ERROR", "evrant.rules"):
        page = live.client.get(f"/studios/{key}/sets/cat-a")
    assert page.status_code == 200 and "it is a fault of the program, not of your plan" in page.text
    told = [record.getMessage() for record in caplog.records if record.name == "evrant.rules"]
    assert any("sharpness" in words and f"studio {key}, revision 1" in words for words in told)


@pytest.mark.parametrize(
    ("state", "words"), [("53100", "disk is full"), ("25006", "takes no changes"), ("53300", "Too many use")]
)
def test_what_the_database_cannot_do_is_told_by_its_own_word(
    live: Live, monkeypatch: pytest.MonkeyPatch, state: str, words: str
) -> None:
    """A full disk, a read-only server, connections used up: said in the answer, nothing changed, and over when it is
    over."""
    key = made(live)

    class Refuses(psycopg.Error):
        sqlstate = state

    def refuse(*_: Any, **__: Any) -> Any:
        raise OperationalError("INSERT", {}, Refuses("refused"))

    edit = {"verb": "set", "target": "room", "fields": {"height": 2.51}}
    with monkeypatch.context() as patched:
        patched.setattr(Repository, "_append", refuse)
        answer = live.client.post(f"/studios/{key}/edits", json={"revision": 1, "edit": edit, "edit_id": "full-disk"})
        assert answer.status_code == 503 and words in answer.text
    again = live.client.post(f"/studios/{key}/edits", json={"revision": 1, "edit": edit, "edit_id": "full-disk"})
    assert again.status_code == 200 and live.store.newest(key).number == 2


def test_pages_from_elsewhere_get_nothing_and_start_no_search(live: Live) -> None:
    key = made(live)
    path = f"/studios/{key}/arrange/half/found"
    image = {"Sec-Fetch-Site": "cross-site", "Sec-Fetch-Mode": "no-cors", "Sec-Fetch-Dest": "image"}
    assert live.client.get(path, headers=image).status_code == 403
    link = {"Sec-Fetch-Site": "cross-site", "Sec-Fetch-Mode": "navigate", "Sec-Fetch-Dest": "document"}
    assert live.client.get(f"/studios/{key}/brief", headers=link).status_code == 200
    assert live.client.get(f"/studios/{key}/brief", headers={"Sec-Fetch-Site": "same-origin"}).status_code == 200


def test_the_whole_history_is_a_file(live: Live, monkeypatch: pytest.MonkeyPatch) -> None:
    key = made(live)
    live.client.post(f"/studios/{key}/edits", json={"revision": 1, "edit": SET_HEIGHT, "edit_id": "a-height"})
    live.client.post(f"/studios/{key}/undo", json={"revision": 2, "edit_id": "undo-it"})
    rows = live.client.get(f"/studios/{key}/download/history.json").json()
    assert [(row["number"], row["cause"]) for row in rows] == [(1, "edit"), (2, "edit"), (3, "undo")]
    monkeypatch.setattr(revisions, "IN_ONE", 2)
    assert live.client.get(f"/studios/{key}/download/history.json").json() == rows, "in pieces it is the same"
    assert rows[1]["document"]["room"]["height"] == 2.52 and rows[0]["document"] == rows[2]["document"]


SET_HEIGHT = {"verb": "set", "target": "room", "fields": {"height": 2.52}}
