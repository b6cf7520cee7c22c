"""Words, exercises, tours: what belongs to no studio."""

import re

import pytest
from conftest import Live
from helpers.studios import demo

from evrant.core.base.margins import Verdict
from evrant.core.judge.ledger import ledger_of
from evrant.core.studio.terms import TERMS, first_told, used_in
from evrant.demo import NAMES, demo_studio
from evrant.demo.exercises import EXERCISES, applied, marked
from evrant.demo.tours import TOURS
from evrant.web.registry import specs

HTML = {"Accept": "text/html"}


@pytest.mark.parametrize("one", EXERCISES, ids=lambda one: one.id)
def test_every_exercise_has_an_answer_that_holds_and_one_that_does_not(one: object) -> None:
    """The ledger is the judge: asked anew, it says of each answer what the exercise shows."""
    assert one in EXERCISES
    exercise = next(other for other in EXERCISES if other is one)
    answers = marked(exercise)
    assert {answer.right for answer in answers} == {True, False}
    for answer, edits in zip(answers, exercise.answers.values(), strict=True):
        assert answer.line is not None and answer.line.code in {line.code for line in exercise.lines}
        anew = ledger_of(applied(applied(demo_studio(exercise.demo), exercise.before), edits))
        said = {line.verdict for line in anew.lines if line.key == answer.line.key}
        assert said == {answer.line.verdict}
        assert answer.right == (answer.line.verdict in (Verdict.CLEAR, Verdict.TIGHT))


def test_the_trainer_asks_and_marks(live: Live) -> None:
    listed = live.client.get("/trainer", headers=HTML).text
    assert all(f"/trainer/{one.id}" in listed for one in EXERCISES)
    asked = live.client.get("/trainer/lens", headers=HTML).text
    assert "Which lens" in asked and "Clear" not in asked and asked.count("?answer=") == 3
    wrong = live.client.get("/trainer/lens?answer=2", headers=HTML).text
    assert "Not 85 mm" in wrong and "cannot step back far enough" in wrong and "Focal length costs floor" in wrong
    right = live.client.get("/trainer/lens?answer=0", headers=HTML).text
    assert "Yes: 24 mm on half frame" in right
    for answer in ("9", "-1", "x", ""):
        assert "?answer=" in live.client.get(f"/trainer/lens?answer={answer}", headers=HTML).text
    assert live.client.get("/trainer/none", headers=HTML).status_code == 404


def test_words_are_found_whole_and_in_any_case() -> None:
    assert list(used_in("The Key and two stops; a keyboard stopped.")) == ["key", "stop"]
    assert list(used_in("ΔE 3 by the LRV of both softboxes")) == ["LRV", "softbox", "ΔE"]
    assert used_in("") == {}


def test_a_word_is_explained_in_the_first_line_that_uses_it(live: Live) -> None:
    told = first_told([("a", "The key lights the mark."), ("b", "No key here, two stops."), ("c", "Key and mark.")])
    assert [(key, list(words)) for key, words in told.items()] == [("a", ["key", "mark"]), ("b", ["stop"])]
    studio_id = live.store.create(demo_studio("adoption-corner"), label="Demo").studio_id
    page = live.client.get(f"/studios/{studio_id}/sets/kneeling-a").text
    explained = re.findall(r'<p class="term" data-term="([^"]+)">', page)
    assert len(explained) >= 5 and len(explained) == len(set(explained))
    foot = re.findall(r"<dt>([^<]+)</dt>", page.split('id="words"')[1])
    assert sorted(foot) == sorted(explained)
    first = page.index('data-term="key"')
    line = page.rindex("<article", 0, first)
    assert re.search(r"\bkeys?\b", re.sub(r"<[^>]+>", " ", page[line:first]), re.IGNORECASE)
    assert all(says and says[0].islower() and not says.endswith(".") for says in TERMS.values())


def test_a_page_explains_the_words_it_uses(live: Live) -> None:
    key = live.store.create(demo(), label="Demo").studio_id
    page = live.client.get(f"/studios/{key}/sets/kneeling-a", headers=HTML).text
    block = re.search(r'<details class="words".*?</details>', page, re.S)
    assert block and "<dt>key</dt>" in block.group() and TERMS["key"] in block.group().replace("&#39;", "'")
    every = live.client.get("/glossary", headers=HTML).text
    assert every.count("<dt") == len(TERMS)
    assert "Tight" in live.client.get("/how-sure", headers=HTML).text


def test_tours_lead_through_pages_that_are_there(live: Live) -> None:
    answer = live.client.get("/tours").json()
    assert set(answer) == set(TOURS) == set(NAMES)
    paths = {spec.of_set or spec.name for spec in specs().values()}
    for name, steps in answer.items():
        assert {step["page"] for step in steps} <= paths and len(steps) >= 4
        studio = demo_studio(name)
        key = live.store.create(studio, label=name).studio_id
        for step in steps:
            spec = next(one for one in specs().values() if (one.of_set or one.name) == step["page"])
            path = f"{step['page']}/{studio.sets[0].id}" if spec.of_set else step["page"]
            assert live.client.get(f"/studios/{key}/{path}", headers=HTML).status_code == 200
