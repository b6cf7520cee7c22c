"""Remarks on a studio, a thing or a line: said, shown where they belong, settled, and open again."""

import pytest
from conftest import Live
from helpers.hosted import hosted_on
from helpers.studios import one_portrait, parse
from sqlalchemy import Engine

from evrant.core.edits.language import EDIT, EditRefused
from evrant.core.judge.ledger import ledger_of
from evrant.store.people import Role
from evrant.store.remarks import MOST_LETTERS, Remarks
from evrant.store.repository import Repository


@pytest.fixture
def key(live: Live) -> str:
    return live.store.create(parse(one_portrait()), label="New").studio_id


def say(live: Live, key: str, **fields: str) -> "tuple[int, str]":
    answer = live.client.post(f"/studios/{key}/remarks", data=fields, headers={"HX-Request": "true"})
    return answer.status_code, answer.text


def test_a_remark_is_said_settled_and_opened_again(live: Live, key: str, engine: Engine) -> None:
    assert "Nothing has been said" in live.client.get(f"/studios/{key}/remarks").text
    status, page = say(live, key, words="Is the ceiling really 2.8?\nMeasure it again.", about="sets/s")
    assert status == 200 and "Is the ceiling really 2.8?" in page and f"/studios/{key}/sets/s" in page
    assert 'Remarks <span class="count">1</span>' in page
    one = Remarks(engine).of(key)[0]
    answer = live.client.post(f"/studios/{key}/remarks/{one.id}", headers={"HX-Request": "true"})
    assert "Settled" in answer.text and Remarks(engine).open(key) == 0
    live.client.post(f"/studios/{key}/remarks/{one.id}", data={"again": "yes"}, headers={"HX-Request": "true"})
    assert Remarks(engine).open(key) == 1
    assert live.store.newest(key).number == 1, "the plan itself is as it was"


def test_a_remark_about_a_line_tells_when_the_line_is_gone(live: Live, key: str) -> None:
    line = ledger_of(live.store.newest(key).studio).lines[0]
    page = live.client.get(f"/studios/{key}/remarks", params={"about": f"line:{line.key}"}).text
    assert f'value="line:{line.key}" selected'.replace("'", "&#39;") in page.replace("\n  ", "")
    say(live, key, words="Why?", about=f"line:{line.key}")
    say(live, key, words="And this?", about="line:of.no.rule a-b-c")
    say(live, key, words="This one?", about="gear/head")
    gone = EDIT.validate_python({"verb": "set", "target": "sets/s/lights/key", "fields": {"head": None}})
    live.store.change(key, 1, "without-a-head", gone)
    live.store.change(key, 2, "no-head-at-all", EDIT.validate_python({"verb": "remove", "target": "gear/head"}))
    page = live.client.get(f"/studios/{key}/remarks").text
    assert "about a line that is no more" in page.replace("\n  ", " ") and "something that is gone" in page


@pytest.mark.parametrize(
    ("words", "says"), [("", "Say something."), ("  \n ", "Say something."), ("x" * (MOST_LETTERS + 1), "at most")]
)
def test_what_cannot_be_taken_is_said_and_nothing_is_lost(live: Live, key: str, words: str, says: str) -> None:
    status, page = say(live, key, words=words, about="sets/s")
    assert status == 422 and says in page and 'value="sets/s" selected' in page
    assert not words.strip() or words in page


def test_what_the_database_cannot_hold_is_refused_with_words(engine: Engine, live: Live, key: str) -> None:
    with pytest.raises(EditRefused, match="cannot be stored"):
        Remarks(engine).say(key, "", "a\x00b", "local")
    assert say(live, key, words="fine", about="../../etc")[0] == 200
    assert say(live, key, words="<script>alert(1)</script>", about="")[1].count("<script>alert") == 0


def test_plans_have_remarks_of_their_own_and_a_deleted_studio_none(live: Live, key: str, engine: Engine) -> None:
    branch = live.store.branch(key, "another-plan").studio_id
    say(live, key, words="About the first plan")
    assert len(Remarks(engine).of(key)) == 1 and Remarks(engine).of(branch) == []
    live.store.set_archived(key, True)
    live.store.delete(key, "One portrait")
    assert Remarks(engine).of(key) == []


def test_who_looks_may_speak_and_is_named(engine: Engine) -> None:
    hosted = hosted_on(engine)
    owner, looker = hosted.someone("Olive Owner"), hosted.someone("Lena Look")
    assert owner.account is not None
    store = Repository(engine).acting(owner.account.id, owner.account.id)
    key = store.create(parse(one_portrait()), label="New").studio_id
    hosted.people.share_with(key, owner.account.id, "Lena Look", Role.LOOKER)
    assert looker.post(f"/studios/{key}/remarks", words="A larger face?").status_code == 200
    page = owner.get(f"/studios/{key}/remarks").text
    assert "Lena Look" in page and "A larger face?" in page
