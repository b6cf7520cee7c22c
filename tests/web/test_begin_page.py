"""Begin here over HTTP: five answers, what is wrong with them, the proposals, and one taken."""

import html
import re
from typing import Any

import pytest
from conftest import Live
from sqlalchemy import Engine, text

from evrant.core.base.margins import Verdict
from evrant.core.judge.ledger import ledger_of
from evrant.core.studio.presets import PRESETS
from evrant.core.studio.room import Rectangle
from evrant.core.studio.typical import TYPICAL
from evrant.jobs.plan import KIND
from evrant.jobs.worker import run_job
from evrant.store.jobs import Jobs

HX = {"HX-Request": "true"}
HEADS: dict[str, Any] = {
    "take": ["Head and shoulders, seated"],
    "like": "small bedroom",
    "have": ["telephone"],
    "spend": "200",
    "country": "DE",
}


@pytest.fixture
def jobs(engine: Engine) -> Jobs:
    with engine.begin() as connection:
        connection.execute(text("TRUNCATE long_job, procrastinate_jobs, procrastinate_workers CASCADE"))
    return Jobs(engine)


def test_every_picture_and_room_is_offered_drawn(live: Live) -> None:
    page = live.client.get("/begin", headers={"Accept-Language": "fr-FR,fr;q=0.8"})
    assert page.status_code == 200
    for name in (*(one.name for one in PRESETS), *(one.words for one in TYPICAL.values())):
        assert name in page.text
    assert page.text.count('class="shot-card"') == len(PRESETS) and page.text.count('class="room-card"') == len(TYPICAL)
    assert '<option value="FR" selected>' in page.text
    assert 'href="/begin"' in live.client.get("/").text


@pytest.mark.parametrize(
    ("wrong", "field", "words"),
    [
        ({"take": []}, "take", "Choose at least one kind of picture."),
        ({"like": ""}, "like", "Choose the room that is most like yours."),
        ({"spend": ""}, "spend", "0 is an answer too"),
        ({"spend": "lots"}, "spend", "Give an amount such as 49"),
        ({"length": "wide"}, "length", "wide"),
        ({"height": "90"}, "height", "lies between"),
        ({"have": ["teapot"]}, "have", "not in the catalogue"),
        ({"take": [one.name for one in PRESETS[:7]]}, "take", "at most 6"),
    ],
)
def test_a_wrong_answer_is_said_at_its_field_and_loses_nothing(
    live: Live, wrong: dict[str, Any], field: str, words: str
) -> None:
    asked = HEADS | {"length": "3.70", "width": "3.10"} | wrong
    page = live.client.post("/begin", data=asked, headers=HX)
    assert page.status_code == 422 and live.store.count() == 0
    at = page.text.index(f'id="fault-{field}"')
    assert words in page.text[at : at + 200]
    if field != "length":
        assert 'value="3.70"' in page.text
    if "take" not in wrong:
        assert re.search(r'value="Head and shoulders, seated" checked', page.text)
    if "have" not in wrong:
        assert re.search(r'value="telephone" checked', page.text)


@pytest.mark.parametrize(
    ("typed", "units"),
    [
        ({"country": "DE", "length": "3.70"}, "metric"),
        ({"country": "US", "length": "12' 2\""}, "imperial"),
        ({"country": "US", "units": "metric", "length": "3.70"}, "metric"),
        ({"country": "DE", "units": "imperial", "length": "12 ft 2 in"}, "imperial"),
    ],
)
def test_a_room_is_measured_as_is_usual_where_it_stands_unless_said(
    live: Live, typed: dict[str, str], units: str
) -> None:
    """Whatever the browser speaks."""
    asked = live.client.post("/begin", data=HEADS | typed, headers={**HX, "Accept-Language": "en-US"})
    studio = live.store.newest(asked.headers["HX-Redirect"].split("/")[2]).studio
    shape = studio.room.footprint
    assert studio.brief.units == units and isinstance(shape, Rectangle) and shape.length is not None
    assert shape.length.value == pytest.approx(3.7084 if "12" in typed["length"] else 3.70, abs=1e-3)


def test_proposals_are_asked_for_shown_and_one_is_taken(live: Live, jobs: Jobs) -> None:
    asked = live.client.post("/begin", data=HEADS, headers=HX)
    assert asked.status_code == 204
    address = asked.headers["HX-Redirect"]
    key = address.split("/")[2]
    page = live.client.get(address).text
    assert "proposals/found" in page and "Stop looking" in page
    job = jobs.newest(key, KIND)
    assert job is not None
    run_job(jobs, job.id)
    done = jobs.find(job.id)
    assert done is not None and done.answer is not None
    first = done.answer["proposals"][0]
    page = live.client.get(address).text
    assert "Everything fits." in page and "Take this plan" in page and "things are assumed" in page
    assert f"{first['cost']:.2f} EUR" in page and first["settled"][0] in page
    frames = re.findall(r'src="([^"]+/frame\.png[^"]*)"', page)
    assert frames
    shown = live.client.get(html.unescape(frames[0]))
    assert shown.status_code == 200 and shown.content[:4] == b"\x89PNG"
    for wrong in ("99/s", "x/s", "0/none"):
        assert live.client.get(f"/studios/{key}/proposals/{wrong}/frame.png").status_code == 404
    edit = {"verb": "import", "document": first["studio"]}
    taken = live.post(f"/studios/{key}/edits", revision=live.store.newest(key).number, edit=edit)
    assert taken.status_code in (200, 204)
    studio = live.store.newest(key).studio
    assert studio.sets and not ledger_of(studio).count(Verdict.SHORT)
    after = live.client.get(address).text
    assert "This is your plan now." in after and "were changed since" not in after
    assert "Measure what is assumed" in live.client.get(f"/studios/{key}/brief").text
    told = live.post(
        f"/studios/{key}/edits",
        revision=live.store.newest(key).number,
        edit={"verb": "set", "target": "room", "fields": {"height": 2.31}},
    )
    assert told.status_code in (200, 204)
    assert "were changed since this was worked out" in live.client.get(address).text


def test_looking_can_be_stopped_and_asked_again(live: Live, jobs: Jobs) -> None:
    address = live.client.post("/begin", data=HEADS, headers=HX).headers["HX-Redirect"]
    key = address.split("/")[2]
    job = jobs.newest(key, KIND)
    assert job is not None
    stopped = live.client.post(f"/studios/{key}/proposals-cancel", data={"job": job.id}, headers=HX)
    assert stopped.status_code == 200
    run_job(jobs, job.id)
    page = live.client.get(address).text
    assert "Work it out again" in page and page.count("<h1") == 1
    assert live.client.post(f"/studios/{key}/proposals-ask", headers=HX).status_code == 200
