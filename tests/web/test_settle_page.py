"""Settle all over HTTP: asked for, worked off as a worker would, shown, and taken as one edit."""

from typing import Any

import pytest
from conftest import Live
from helpers.studios import one_portrait, parse
from sqlalchemy import Engine, text

from evrant.core.base.margins import Verdict
from evrant.core.judge.ledger import ledger_of
from evrant.core.studio.studio import Studio
from evrant.jobs.settle import KIND
from evrant.jobs.worker import run_job
from evrant.store.jobs import Jobs

HX = {"HX-Request": "true"}


@pytest.fixture
def jobs(engine: Engine) -> Jobs:
    with engine.begin() as connection:
        connection.execute(text("TRUNCATE long_job, procrastinate_jobs, procrastinate_workers CASCADE"))
    return Jobs(engine)


def wobbly() -> Studio:
    data: dict[str, Any] = one_portrait()
    data["sets"][0]["lights"][0] |= {"bag": None, "leg": None}
    data["shots"][0]["balance"] = "automatic"
    return parse(data)


def test_it_is_found_shown_and_taken_at_once(live: Live, jobs: Jobs) -> None:
    key = live.store.create(wobbly(), label="Test").studio_id
    base = f"/studios/{key}"
    page = live.client.get(f"{base}/settle").text
    assert "Find what settles it" in page and "Short now" in page
    asked = live.client.post(f"{base}/settle-ask", headers=HX)
    assert asked.status_code == 200 and "settle-cancel" in asked.text
    job = jobs.newest(key, KIND)
    assert job is not None
    run_job(jobs, job.id)
    done = live.client.get(f"{base}/settle").text
    assert "Change all of it" in done and "Fix the white balance" in done and "Only this" in done
    assert "What is behind it" in done and "Do this" in done
    answer = jobs.find(job.id)
    assert answer is not None and answer.answer is not None
    everything = {"verb": "several", "edits": [one["edit"] for one in answer.answer["changes"]], "label": "Settled"}
    taken = live.post(f"{base}/edits", revision=live.store.newest(key).number, edit=everything)
    assert taken.status_code in (200, 204)
    after = live.store.newest(key).studio
    assert not [m for m in ledger_of(after).lines if m.verdict is Verdict.SHORT]
    changed = live.client.get(f"{base}/settle").text
    assert "was changed since" in changed and "Look again" in changed and "Change all of it" not in changed


def test_what_takes_several_edits_is_shown_and_taken_too(live: Live, jobs: Jobs) -> None:
    """A bag hung, and bought: one remedy of two edits, laid open in the whole."""
    data: dict[str, Any] = one_portrait()
    data["gear"] = [one for one in data["gear"] if one["id"] != "bag"]
    data["sets"][0]["lights"][0]["bag"] = data["sets"][0]["background"]["bag"] = None
    key = live.store.create(parse(data), label="Test").studio_id
    assert live.client.post(f"/studios/{key}/settle-ask", headers=HX).status_code == 200
    job = jobs.newest(key, KIND)
    assert job is not None
    run_job(jobs, job.id)
    page = live.client.get(f"/studios/{key}/settle")
    assert page.status_code == 200 and "Change all of it" in page.text and "sew" in page.text
    made = jobs.find(job.id)
    assert made is not None and made.answer is not None
    assert any(one["edit"]["verb"] == "several" for one in made.answer["changes"])


def test_the_same_plan_asks_once_and_a_cancelled_look_says_what_it_knew(live: Live, jobs: Jobs) -> None:
    key = live.store.create(wobbly(), label="Test").studio_id
    for _ in range(2):
        assert live.client.post(f"/studios/{key}/settle-ask", headers=HX).status_code == 200
    job = jobs.newest(key, KIND)
    assert job is not None
    assert live.client.post(f"/studios/{key}/settle-cancel", data={"job": job.id}, headers=HX).status_code == 200
    run_job(jobs, job.id)
    page = live.client.get(f"/studios/{key}/settle").text
    assert page.count("<h1") == 1 and "Traceback" not in page
