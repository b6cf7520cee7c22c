"""Kit, best kit, shopping and stow over HTTP; tables of gear in and out; the command line."""

import csv
import io
import json
import re
from pathlib import Path
from typing import Any

import pytest
from conftest import Live
from helpers.kits import few, plain
from helpers.studios import demo, one_portrait, parse
from openpyxl import load_workbook
from sqlalchemy import Engine, text

from evrant import cli
from evrant.catalogue import load
from evrant.commands import kit as kit_command
from evrant.core.search.kit.result import best_kit
from evrant.core.studio.columns import columns
from evrant.core.studio.studio import Studio
from evrant.files.document import Refused, write_studio
from evrant.files.gear_table import column_guide, read_gear, write_gear
from evrant.jobs.kit import ask_for_kit
from evrant.store.jobs import Jobs, State

ROOT = Path(__file__).parents[2]
HX = {"HX-Request": "true"}


@pytest.fixture
def jobs(engine: Engine) -> Jobs:
    with engine.begin() as connection:
        connection.execute(text("TRUNCATE long_job, procrastinate_jobs, procrastinate_workers CASCADE"))
    return Jobs(engine)


def made(live: Live, studio: Studio) -> str:
    return f"/studios/{live.store.create(studio, label='Test').studio_id}"


# --- pages -------------------------------------------------------------------------------------------


@pytest.mark.parametrize("name", ["kit", "best", "shopping", "stow"])
def test_pages_of_the_demo_and_of_an_empty_studio(live: Live, jobs: Jobs, name: str) -> None:
    for studio in (demo(), Studio(name="Nothing yet")):
        answer = live.client.get(f"{made(live, studio)}/{name}")
        assert answer.status_code == 200 and "<h1>" in answer.text


def test_stow_draws_every_thing_and_names_what_finds_no_place(live: Live) -> None:
    page = live.client.get(f"{made(live, demo())}/stow").text
    assert "foam board" in page and page.count('class="box') >= 18 and "Setting up and striking" in page


def test_the_list_of_parts_offers_to_add_what_is_missing(live: Live) -> None:
    base = made(live, demo())
    page = live.client.get(f"{base}/kit").text
    assert "Parts nobody thinks of" in page and "Weight bags" in page


def answered(live: Live, jobs: Jobs) -> tuple[str, str]:
    """A studio whose search a worker has done."""
    studio = plain()
    base = made(live, studio)
    job = ask_for_kit(jobs, base.rpartition("/")[2], studio, 900.0)
    assert jobs.begin(job) is not None
    assert jobs.finish(job, State.DONE, dict(best_kit(studio, few(), 900.0)))
    assert not jobs.finish(job, State.DONE, {"twice": True}), "an answer is written once"
    return base, job


def test_the_answer_is_shown_and_a_phase_accepted(live: Live, jobs: Jobs) -> None:
    base, job = answered(live, jobs)
    page = live.client.get(f"{base}/best").text
    assert "Nothing better exists on offer: proved." in page and "Accept phase 1" in page and "Why not" in page
    data = live.client.get(f"{base}/best.json").json()
    assert data["proved"] and data["buy"]
    shot = next(one for one in data["shots"] if one["made"])
    picture = live.client.get(f"{base}/best/{shot['id']}/frame.png?job={job}")
    assert f"/best/{shot['id']}/frame.png" in page
    assert picture.status_code == 200 and picture.content[:4] == b"\x89PNG"
    assert live.client.get(f"{base}/best/none/frame.png?job={job}").status_code == 404
    assert live.client.get(f"{base}/best/{shot['id']}/frame.png?job=none").status_code == 404
    taken = live.client.post(f"{base}/kit-accept", data={"job": job, "phase": "1"}, headers=HX)
    assert taken.status_code == 204 and taken.headers["HX-Redirect"].endswith("/shopping")
    studio = live.store.newest(base.rpartition("/")[2]).studio
    assert {one.id for one in studio.gear if one.status == "planned"} >= {row["key"] for row in data["buy"]}
    assert [plan.shot for plan in studio.sets] == ["half"]
    assert "Taken into the kit" in live.client.get(f"{base}/best").text
    wrong = live.client.post(f"{base}/kit-accept", data={"job": job, "phase": "9"}, headers=HX)
    assert wrong.status_code == 422 and "no such phase" in wrong.text
    gone = live.client.post(f"{base}/kit-accept", data={"job": "none", "phase": "1"}, headers=HX)
    assert gone.status_code == 422


def test_a_thing_that_a_later_phase_buys_more_of_stands_in_both(live: Live, jobs: Jobs) -> None:
    """Three bags, one with the first phase: each shows its own count and sum, and the second is not for nothing."""
    studio = plain()
    base = made(live, studio)
    job = ask_for_kit(jobs, base.rpartition("/")[2], studio, 900.0)
    assert jobs.begin(job) is not None
    answer: dict[str, Any] = {**best_kit(studio, few(), 900.0, whole=False)}
    row = next(one for one in answer["buy"] if one["cost"])
    each = row["cost"] / row["count"]
    row |= {"count": 3, "cost": 3 * each}
    first = answer["phases"][0]
    first["buy"] = first["buy"] | {row["key"]: 1}
    answer["phases"] = [first, first | {"number": 2, "buy": {row["key"]: 2}, "cost": 2 * each}]
    assert jobs.finish(job, State.DONE, answer)
    page = live.client.get(f"{base}/best").text
    phases = [part.partition("</section>")[0] for part in page.split('<section class="phase">')[1:3]]
    for text_, count in zip(phases, (1, 2), strict=True):
        assert f"<td>{count} ×</td><td>{count * each:.2f}</td>" in text_ and row["name"] in text_
        assert "Nothing to buy" not in text_


def test_how_far_a_search_is_is_shown_as_a_bar_with_its_bound_and_time(live: Live, jobs: Jobs) -> None:
    """Also for an answer of an older search, which had no bound."""
    studio = plain()
    base = made(live, studio)
    job = ask_for_kit(jobs, base.rpartition("/")[2], studio, 900.0)
    assert jobs.begin(job) is not None
    answer: Any = dict(best_kit(studio, few(), 900.0))
    for bound in ({"bound": 1}, {}):
        stats = {key: one for key, one in answer["stats"].items() if key != "bound"}
        jobs.tell(job, "Half: 12 recipes checked", answer | {"stats": stats | bound})
        page = live.client.get(f"{base}/best/found").text
        assert 'class="kit-bar"' in page and "shots made so far; the best plan still open makes 1" in page
        assert re.search(r"\d+ s gone", page) and 'data-say="1 of 1 shots made so far."' in page
        assert "aria-live" not in page


def test_a_search_cancelled_before_anything_was_found_claims_nothing(live: Live, jobs: Jobs) -> None:
    studio = plain()
    base = made(live, studio)
    job = ask_for_kit(jobs, base.rpartition("/")[2], studio, 900.0)
    assert jobs.begin(job) is not None
    stopped = best_kit(studio, few(), 900.0, stop=lambda: True)
    assert jobs.finish(job, State.CANCELLED, dict(stopped))
    page = live.client.get(f"{base}/best").text
    assert "Nothing that works was found by then." in page
    assert "No shot can be made" not in page and "Not made" not in page


def test_asking_queues_once_and_a_bad_sum_answers_at_its_field(live: Live, jobs: Jobs) -> None:
    base = made(live, plain())
    for sum_, words in (("much", "49.90"), ("0", "above zero"), ("-4", "49.90"), ("", "49.90"), ("NaN", "49.90")):
        refused = live.client.post(f"{base}/kit-search", data={"budget": sum_}, headers=HX)
        assert refused.status_code == 422 and words in refused.text and refused.headers["HX-Retarget"] == "#ask-kit"
        assert f'value="{sum_}"' in refused.text and "checked" not in refused.text, "nothing of what was said is lost"
    for _ in range(2):
        asked = live.client.post(f"{base}/kit-search", data={"budget": "700", "lonely": "yes"}, headers=HX)
        assert asked.status_code == 200 and "Cancel" in asked.text
        form = asked.text[asked.text.index('id="ask-kit"') :]
        assert "hx-swap-oob" in form and 'value="700"' in form and "checked" in form
        assert "wrong" not in form and "aria-invalid" not in form, "a sum that was taken is not called wrong any more"
    assert "hx-swap-oob" not in live.client.get(f"{base}/best").text
    job = jobs.newest(base.rpartition("/")[2], "kit")
    assert job is not None and job.asked["budget"] == 700.0 and job.state is State.WAITING
    stopped = live.client.post(f"{base}/best-cancel", data={"job": job.id}, headers=HX)
    assert "Cancelled" in stopped.text
    assert live.client.get(f"{base}/best.json").status_code == 404


def test_a_thing_is_marked_bought_at_another_price(live: Live) -> None:
    base = made(live, parse(one_portrait()))
    body = {"action": "bought", "item": "head", "paid": "189.90", "bought": "2026-11-20"}
    page = live.client.post(
        f"{base}/edits", data=body, headers=HX | {"X-Evrant-Page": "shopping", "X-Evrant-Revision": "1"}
    )
    assert (
        page.status_code == 200 and "189.90" in page.text and "25.10" in page.text and "less than planned" in page.text
    )
    wrong = live.client.post(
        f"{base}/edits", data=body | {"item": "box", "paid": "cheap"}, headers=HX | {"X-Evrant-Revision": "2"}
    )
    assert wrong.status_code == 422 and "49.90" in wrong.text


# --- tables ------------------------------------------------------------------------------------------


def test_the_whole_catalogue_goes_out_and_comes_back() -> None:
    items = load().all()
    back = read_gear(write_gear(items).encode())
    plain_items = [one.model_dump(exclude={"library"}) for one in items]
    assert [one.model_dump(exclude={"library"}) for one in back] == plain_items


def test_units_of_the_header_are_read() -> None:
    text_ = "kind;name;mass [lb];packed_length [in];max_height [ft];load [g]\nstand;My stand;2;30;7,5;4000\n"
    (stand,) = read_gear(text_.encode())
    assert stand.mass is not None and stand.mass.value == pytest.approx(0.90718, rel=1e-4)
    assert stand.packed_length is not None and stand.packed_length.value == pytest.approx(0.762)
    assert stand.kind == "stand" and stand.max_height is not None and stand.max_height.value == pytest.approx(2.286)
    assert stand.load is not None and stand.load.value == pytest.approx(4.0) and stand.id == "my-stand"


BAD: list[tuple[str, str, str]] = [
    ("name\nx\n", "line 1", "no column “kind”"),
    ("kind,name,colour of love\nstand,x,3\n", "line 1, column 3", "is no column"),
    ("kind,name\nspaceship,x\n", "line 2, kind", "is no kind"),
    ("kind,name,mass [kg]\nstand,x,heavy\n", "line 2, mass", "is not a number"),
    ("kind,name,mass [stone]\nstand,x,3\n", "line 2, mass", "is not known"),
    ("kind,name,load [kg]\nlens,x,3\n", "line 2, load", "has no such figure"),
    ("kind,name,use\nstand,x,flying\n", "line 2, use", "is none of"),
    ("kind,name,legs\nstand,x,3.5\n", "line 2, legs", "whole number"),
    ("kind,name,castors\nstand,x,perhaps\n", "line 2, castors", "neither yes nor no"),
    ("kind,name,price\nstand,x,much\n", "line 2, price", "no amount"),
    ("kind,name,max_height [cm]\nstand,x,9999999\n", "line 2, max_height", "lies between"),
    ("kind,name\nstand,a,b,c\n", "line 2", "cells"),
    ("kind,id,name\nstand,same,a\nstand,same,b\n", "line 3, id", "earlier line"),
    ("kind,name,priced\nstand,x,yesterday\n", "line 2, priced", "year-month-day"),
    ("", "", "empty"),
    ("kind,name\n", "", "no line"),
]


@pytest.mark.parametrize(("table", "where", "words"), BAD, ids=[words for _, _, words in BAD])
def test_a_fault_is_said_by_line_and_column(table: str, where: str, words: str) -> None:
    with pytest.raises(Refused) as refused:
        read_gear(table.encode())
    assert any(fault.path == where and words in fault.message for fault in refused.value.faults), refused.value.faults


def test_a_table_with_two_faults_takes_nothing_and_names_both(live: Live) -> None:
    base = made(live, parse(one_portrait()))
    before = live.store.newest(base.rpartition("/")[2]).number
    table = "kind,name,mass [kg],load [kg],price\nstand,Mine,1.2,4,20\nstand,Other,heavy,4,20\nlens,Third,0.3,9,100\n"
    refused = live.client.post(f"{base}/gear-table", files={"file": ("g.csv", table.encode())}, headers=HX)
    assert refused.status_code == 422 and "Nothing was taken" in refused.text
    assert "line 3, mass" in refused.text and "line 4, load" in refused.text
    assert live.store.newest(base.rpartition("/")[2]).number == before
    mended = table.replace("heavy", "1.4").replace("0.3,9,", "0.3,,")
    taken = live.client.post(
        f"{base}/gear-table", files={"file": ("g.csv", mended.encode())}, data={"status": "owned"}, headers=HX
    )
    assert taken.status_code == 204
    gear = {one.id: one for one in live.store.newest(base.rpartition("/")[2]).studio.gear}
    assert gear["mine"].status == "owned" and gear["other"].mass is not None and gear["third"].currency == "EUR"


def test_a_line_with_a_known_id_stands_for_that_thing_anew(live: Live) -> None:
    base = made(live, parse(one_portrait()))
    table = "kind,id,name,max_height [cm],load [kg]\nstand,stand,measured stand,255,5\n"
    assert (
        live.client.post(f"{base}/gear-table", files={"file": ("g.csv", table.encode())}, headers=HX).status_code == 204
    )
    gear = live.store.newest(base.rpartition("/")[2]).studio.gear
    stands = [one for one in gear if one.id == "stand"]
    assert len(stands) == 1 and stands[0].name == "measured stand" and len(gear) == len(parse(one_portrait()).gear)


def test_the_columns_are_documented_from_the_models() -> None:
    assert (ROOT / "docs/format/gear-csv.md").read_text() == column_guide()
    assert "load [kg]" in [column.head for column in columns("stand")]


def test_downloads_of_kit_and_list(live: Live) -> None:
    base = made(live, demo())
    gear = live.client.get(f"{base}/download/gear.csv")
    assert len(read_gear(gear.content)) == len(demo().gear)
    rows = list(csv.DictReader(io.StringIO(live.client.get(f"{base}/download/shopping.csv").text)))
    assert rows and "must have" in rows[0] and any("guide number at least" in row["must have"] for row in rows)
    assert live.client.get(f"{base}/download/catalogue.csv").text.count("\n") == len(load().all()) + 1
    book = load_workbook(io.BytesIO(live.client.get(f"{base}/download/shopping.xlsx").content))
    assert book.sheetnames == ["to buy", "bought", "gear"] and book["to buy"].max_row == len(rows) + 1


def test_a_formula_in_a_name_is_only_a_text(live: Live) -> None:
    data = one_portrait()
    data["gear"][3]["name"] = "=1+1"
    base = made(live, parse(data))
    book = load_workbook(io.BytesIO(live.client.get(f"{base}/download/shopping.xlsx").content))
    cells = [cell for row in book["to buy"].iter_rows() for cell in row if cell.value == "=1+1"]
    assert cells and cells[0].data_type == "s"
    assert "'=1+1" in live.client.get(f"{base}/download/gear.csv").text


# --- command line ------------------------------------------------------------------------------------


def test_kit_on_the_command_line(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    class Few:
        @staticmethod
        def all() -> list[Any]:
            return few()

    monkeypatch.setattr(kit_command, "load", lambda: Few)
    file = tmp_path / "studio.json"
    file.write_text(write_studio(plain()))
    assert cli.main(["kit", str(file), "--budget", "900", "--json"]) == 0
    data = json.loads(capsys.readouterr().out)
    assert data["proved"] and data["value"]["must"] == 1 and data["cost"] <= 900 and data["phases"]
    assert cli.main(["kit", str(file), "--budget", "900"]) == 0
    assert "Proved" in capsys.readouterr().out
    assert cli.main(["kit", str(file), "--budget", "1"]) == 1
    bare = tmp_path / "bare.json"
    bare.write_text(write_studio(Studio(name="x")))
    assert cli.main(["kit", str(bare)]) == 2 and "budget" in capsys.readouterr().err


def test_stow_on_the_command_line(capsys: pytest.CaptureFixture[str]) -> None:
    assert cli.main(["stow", str(ROOT / "examples/adoption-corner.json"), "--json"]) == 1
    data = json.loads(capsys.readouterr().out)
    assert data["places"][0]["things"] and data["left"][0]["why"]
    assert cli.main(["stow", str(ROOT / "examples/hands-in-view.json")]) == 0
    assert "Hall cupboard" in capsys.readouterr().out


def test_gear_to_scale_is_searched_filtered_and_set_side_by_side(live: Live) -> None:
    key = live.store.create(demo(), label="Demo").studio_id
    base = f"/studios/{key}/gear"
    all_of_it = live.client.get(base, headers={"Accept": "text/html"}).text
    assert all_of_it.count('class="gear-thing"') == 48 and "more: say what it is for" in all_of_it
    stands = live.client.get(f"{base}?kind=stand&carries=1").text
    assert "Light stand 2.2 m" in stands and "Light stand 1.8 m" not in stands
    wrong = live.client.get(f"{base}?most=plenty&words=softbox").text
    assert 'value="plenty"' in wrong and 'id="most-error"' in wrong and 'value="softbox"' in wrong
    pair = live.client.get(f"{base}?compare=octa-90&compare=octa-65&compare=none&compare=octa-65").text
    assert "Side by side" in pair and pair.count("verdict-word") == 2 and "octabox 90 cm, inner diffuser" in pair
    one = live.client.get(f"{base}?compare=octa-90").text
    assert "Choose a second thing" in one
    assert live.client.get(f"{base}?kind=%3Cb%3E&words={'x' * 500}&compare={'y' * 300}").status_code == 200
