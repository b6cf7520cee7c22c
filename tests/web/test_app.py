"""Pages, the write path, and what guards them."""

import csv
import io
import json
import re

import pytest
from conftest import Live
from helpers.studios import demo

from evrant.catalogue import load
from evrant.core.judge import ledger
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.rules.rule import SetRule
from evrant.core.space.scene import Scene
from evrant.files.document import read_studio, write_studio
from evrant.web import context, parts

HTML = {"HX-Request": "true"}


@pytest.fixture
def studio_id(live: Live) -> str:
    return live.store.create(demo(), label="Demo").studio_id


def test_every_page_answers_with_a_strict_policy(live: Live, studio_id: str) -> None:
    for path in (
        "/",
        *(
            f"/studios/{studio_id}/{p}"
            for p in ("brief", "room", "shots", "kit", "history", "sets/cat-a", "sets/kneeling-a")
        ),
    ):
        answer = live.client.get(path)
        assert answer.status_code == 200, path
        policy = answer.headers["Content-Security-Policy"]
        assert "default-src 'self'" in policy and "unsafe" not in policy and "frame-ancestors 'none'" in policy
        assert not re.search(r"<script(?![^>]*\bsrc=)", answer.text), "inline script"
        assert not re.search(r"\sstyle=|\shx-on|\bon(click|load|error)=", answer.text), "inline style or handler"


def test_the_cookie_is_strict_and_not_readable_by_scripts(live: Live) -> None:
    live.client.cookies.clear()
    cookie = live.client.get("/").headers["Set-Cookie"]
    assert "SameSite=Strict" in cookie and "HttpOnly" in cookie


@pytest.mark.parametrize("path", ["/studios", "/studios/import", "/studios/demo/adoption-corner"])
def test_changes_need_the_token(live: Live, path: str) -> None:
    answer = live.client.post(path, headers={"X-Evrant-Token": "wrong"}, data={"name": "x"})
    assert answer.status_code == 403 and live.store.studios() == []


def test_changes_of_a_studio_need_the_token_and_the_origin(live: Live, studio_id: str) -> None:
    body = {"edit_id": "edit-1", "revision": 1, "edit": {"verb": "set", "target": "room", "fields": {"height": 2.4}}}
    for path in ("edits", "preview", "undo", "redo", "restore", "copy", "archive", "bring-back", "delete"):
        address = f"/studios/{studio_id}/{path}"
        assert live.client.post(address, json=body, headers={"X-Evrant-Token": ""}).status_code == 403
        assert live.client.post(address, json=body, headers={"Origin": "http://elsewhere.example"}).status_code == 403
    assert live.store.newest(studio_id).number == 1


def test_another_host_is_not_served(live: Live) -> None:
    assert live.client.get("/", headers={"Host": "elsewhere.example"}).status_code == 421


def test_an_edit_answers_with_the_ledger(live: Live, studio_id: str) -> None:
    edit = {"verb": "set", "target": "brief", "fields": {"budget": "100"}}
    answer = live.post(f"/studios/{studio_id}/edits", revision=1, edit=edit).json()
    assert answer["revision"] == 2
    budget = next(m for m in answer["ledger"]["margins"] if m["code"] == "budget.total")
    assert budget["verdict"] == "Short" and isinstance(budget["margin"], float)
    assert sum(answer["ledger"]["short_by_step"].values()) == answer["ledger"]["counts"]["Short"]


def test_an_edit_from_a_page_answers_with_that_page(live: Live, studio_id: str) -> None:
    edit = {"verb": "set", "target": "sets/kneeling-a/lights/key", "fields": {"height": 1.6}}
    answer = live.client.post(
        f"/studios/{studio_id}/edits",
        data={"edit": json.dumps(edit), "edit_id": "edit-1"},
        headers=HTML | {"X-Evrant-Revision": "1", "X-Evrant-Page": "sets/kneeling-a"},
    )
    assert answer.status_code == 200 and answer.text.startswith('<div id="page"')
    for view in ("view-plan", "view-lens", "view-facing", "view-picture", "ledger", "panel-lights-key"):
        assert f'id="{view}"' in answer.text
    assert 'data-revision="2"' in answer.text


def test_a_preview_stores_nothing(live: Live, studio_id: str) -> None:
    edit = {"verb": "set", "target": "sets/kneeling-a/background", "fields": {"x": 1.0}}
    page = live.client.post(
        f"/studios/{studio_id}/preview",
        json={"edit_id": "edit-1", "edit": edit},
        headers=HTML | {"X-Evrant-Page": "sets/kneeling-a", "X-Evrant-Turn": "0.0"},
    )
    assert page.status_code == 200 and 'id="sheet"' in page.text and "too near the background" in page.text
    assert live.store.newest(studio_id).number == 1


def test_the_drawing_alone_asks_no_rule(live: Live, studio_id: str, monkeypatch: pytest.MonkeyPatch) -> None:
    """What follows a hand: the same drawing without its marks, and without a word of the ledger."""
    edit = {"verb": "set", "target": "sets/kneeling-a/background", "fields": {"x": 1.0}}

    def asked(part: str) -> str:
        answer = live.client.post(
            f"/studios/{studio_id}/preview",
            json={"edit_id": "edit-1", "edit": edit},
            headers=HTML | {"X-Evrant-Page": "sets/kneeling-a", "X-Evrant-Turn": "0.0", "X-Evrant-Part": part},
        )
        assert answer.status_code == 200
        return answer.text

    def bare(drawing: str) -> str:
        """Without the places of labels, which make room for marks."""
        return re.sub(r'(<text) x="[^"]*" y="[^"]*"', r"\1", drawing).strip()

    whole = asked("whole")
    monkeypatch.setattr(context, "ledger_of", lambda studio: pytest.fail("no rule is asked"))
    alone = asked("drawing")
    drawn = whole[: whole.index('<ol id="preview-lines">')].strip()
    unmarked = re.sub(r'<g class="conflict-mark[^>]*>.*?</g>', "", drawn, flags=re.S)
    assert bare(unmarked) == bare(alone)
    assert drawn.count("conflict-mark") > 0 and "conflict-mark" not in alone and 'id="sheet"' in alone


def test_what_was_looked_at_is_not_worked_out_again_when_it_is_done(
    live: Live, studio_id: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The hand rests, the ledger is seen, the hand lets go: no rule is run and nothing drawn anew."""
    page = live.client.get(f"/studios/{studio_id}/sets/kneeling-a", headers=HTML).text
    told = re.search(r'data-turn="([^"]+)"', page)
    assert told is not None
    edit = {"verb": "set", "target": "sets/kneeling-a/lights/key", "fields": {"x": 1.83, "y": 2.01}}
    headers = HTML | {"X-Evrant-Page": "sets/kneeling-a", "X-Evrant-Revision": "1"}
    seen = live.client.post(
        f"/studios/{studio_id}/preview",
        json={"edit_id": "edit-1", "edit": edit},
        headers=headers | {"X-Evrant-Turn": told[1], "X-Evrant-Part": "whole"},
    ).text
    ran: list[str] = []
    drawn: list[str] = []
    real = ledger._run_rule

    def run(rule: SetRule, scene: Scene) -> object:
        ran.append(rule.name)
        return real(rule, scene)

    def draw(*given: object) -> str:
        drawn.append("sheet")
        return ""

    monkeypatch.setattr(ledger, "_run_rule", run)
    monkeypatch.setattr(parts, "sheet", draw)
    done = live.client.post(
        f"/studios/{studio_id}/edits", data={"edit": json.dumps(edit), "edit_id": "edit-2"}, headers=headers
    )
    assert done.status_code == 200 and 'data-revision="2"' in done.text
    assert (ran, drawn) == ([], [])
    sheet = seen[seen.index('<svg id="sheet"') : seen.index('<ol id="preview-lines">')].strip()
    assert sheet in done.text


def test_a_conflict_shows_both_values_and_offers_mine(live: Live, studio_id: str) -> None:
    first = {"verb": "set", "target": "room", "fields": {"height": 2.4}}
    live.post(f"/studios/{studio_id}/edits", revision=1, edit=first)
    data = live.post(f"/studios/{studio_id}/edits", revision=1, edit=first | {"fields": {"height": 2.6}})
    assert data.status_code == 409 and (data.json()["theirs"], data.json()["mine"]) == (2.4, 2.6)
    page = live.client.post(
        f"/studios/{studio_id}/edits",
        data={"target": "room", "height": "2.6 m"},
        headers=HTML | {"X-Evrant-Revision": "1", "X-Evrant-Page": "room"},
    )
    assert page.status_code == 409 and "Use mine" in page.text and "2.4" in page.text and "2.6" in page.text


def test_undo_redo_restore_over_http(live: Live, studio_id: str) -> None:
    edit = {"verb": "set", "target": "room", "fields": {"height": 2.4}}
    live.post(f"/studios/{studio_id}/edits", revision=1, edit=edit)
    assert live.post(f"/studios/{studio_id}/undo", revision=1).status_code == 409
    assert live.post(f"/studios/{studio_id}/undo", revision=2).json()["revision"] == 3
    assert live.post(f"/studios/{studio_id}/redo", revision=3).json()["revision"] == 4
    assert live.post(f"/studios/{studio_id}/redo", revision=4).status_code == 422
    back = live.client.post(
        f"/studios/{studio_id}/restore",
        data={"number": "1", "edit_id": "restore-1"},
        headers=HTML | {"X-Evrant-Revision": "4"},
    )
    assert back.headers["HX-Redirect"].endswith(studio_id)
    assert live.store.newest(studio_id).studio == demo()
    assert live.client.post(f"/studios/{studio_id}/explode", json={"revision": 5}).status_code == 404


def test_the_file_goes_out_and_comes_in_the_same(live: Live, studio_id: str) -> None:
    out = live.client.get(f"/studios/{studio_id}/download/studio.json")
    assert read_studio(out.content) == demo() and out.text == write_studio(demo())
    answer = live.client.post(
        "/studios/import", files={"file": ("s.json", out.content, "application/json")}, headers=HTML
    )
    assert answer.status_code == 204
    twin = answer.headers["HX-Redirect"].split("/")[-1]
    assert live.store.newest(twin).studio == demo()


def test_the_shopping_list(live: Live, studio_id: str) -> None:
    rows = list(csv.DictReader(io.StringIO(live.client.get(f"/studios/{studio_id}/download/shopping.csv").text)))
    planned = [item for item in demo().gear if item.status == "planned"]
    assert {row["name"] for row in rows} == {item.name for item in planned}
    stands = next(row for row in rows if row["name"] == "Light stand 2.2 m")
    assert (stands["count"], stands["price each"], stands["price"]) == ("2", "32.00", "64.00")


def test_the_ledger_as_a_table(live: Live, studio_id: str) -> None:
    rows = list(csv.DictReader(io.StringIO(live.client.get(f"/studios/{studio_id}/download/ledger.csv").text)))
    assert len(rows) == len(ledger_of(demo()).lines) and {"Short", "Unknown", "Tight", "Clear"} == {
        row["verdict"] for row in rows
    }


def test_remedies_are_asked_for_line_by_line(live: Live, studio_id: str) -> None:
    page = live.client.get(f"/studios/{studio_id}/remedies?revision=1&set_id=kneeling-a&start=0&count=1")
    assert page.status_code == 200 and page.text.count("data-for=") == 1 and "hx-post" in page.text


def test_a_new_studio_needs_a_name_and_keeps_the_rest(live: Live) -> None:
    answer = live.client.post("/studios", data={"name": " ", "country": "US", "units": "imperial"}, headers=HTML)
    assert answer.status_code == 422 and "cannot be left empty" in answer.text
    assert '<option value="US" selected' in answer.text
    made = live.client.post("/studios", data={"name": "Attic", "country": "US", "units": "imperial"}, headers=HTML)
    studio = live.store.newest(made.headers["HX-Redirect"].split("/")[2]).studio
    assert (studio.name, studio.brief.currency, studio.brief.units) == ("Attic", "USD", "imperial")


def test_copy_archive_and_bring_back(live: Live, studio_id: str) -> None:
    live.client.post(f"/studios/{studio_id}/copy", data={"edit_id": "copy-123"})
    assert sorted(s.name for s in live.store.studios()) == ["Adoption corner", "Adoption corner (copy)"]
    live.client.post(f"/studios/{studio_id}/archive")
    assert "1 archived" in live.client.get("/").text
    live.client.post(f"/studios/{studio_id}/bring-back")
    assert len(live.store.studios()) == 2


def test_an_archived_studio_is_deleted_once_its_name_is_typed(live: Live, studio_id: str) -> None:
    other = live.client.post(f"/studios/{studio_id}/copy", data={"edit_id": "copy-777"})
    assert other.status_code == 204
    live.client.post(f"/studios/{studio_id}/branch", data={"edit_id": "branch-1"})
    early = live.client.post(f"/studios/{studio_id}/delete", data={"name": "Adoption corner"}, headers=HTML)
    assert early.status_code == 422
    live.client.post(f"/studios/{studio_id}/archive")
    wrong = live.client.post(f"/studios/{studio_id}/delete", data={"name": "adoption"}, headers=HTML)
    assert wrong.status_code == 422 and 'value="adoption"' in wrong.text and "nothing was deleted" in wrong.text
    assert len(live.store.studios(archived=True)) == 1
    done = live.client.post(f"/studios/{studio_id}/delete", data={"name": " Adoption corner "}, headers=HTML)
    assert done.status_code == 204 and not live.store.studios(archived=True)
    assert [one.name for one in live.store.studios()] == ["Adoption corner (copy)"]
    for path in ("", "~b", "/brief"):
        assert live.client.get(f"/studios/{studio_id}{path}").status_code == 404
    assert live.client.post(f"/studios/{studio_id}/delete", data={"name": "x"}, headers=HTML).status_code == 404


def test_what_is_not_there_is_said(live: Live, studio_id: str) -> None:
    for path in (
        "/studios/none",
        "/studios/none/room",
        f"/studios/{studio_id}/cellar",
        f"/studios/{studio_id}/sets/none",
    ):
        assert live.client.get(path, headers={"Accept": "text/html"}).status_code == 404
    assert (
        live.post(
            "/studios/none/edits", revision=1, edit={"verb": "set", "target": "room", "fields": {"height": 2}}
        ).status_code
        == 404
    )


def test_every_catalogue_item_can_be_added(live: Live, studio_id: str) -> None:
    items = load().all()
    assert len(items) >= 60 and len({item.id for item in items}) == len(items)
    for item in items[::7]:
        answer = live.client.post(
            f"/studios/{studio_id}/edits",
            data={"action": "catalogue", "item": item.id, "status": "owned"},
            headers=HTML | {"X-Evrant-Revision": str(live.store.newest(studio_id).number), "X-Evrant-Page": "kit"},
        )
        assert answer.status_code == 200, answer.text
    assert len(live.store.newest(studio_id).studio.gear) == len(demo().gear) + len(items[::7])
