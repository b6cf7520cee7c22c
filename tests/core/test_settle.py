"""Settle all: the least set of remedies, against every choice of them; nothing made worse, nothing unsaid."""

import contextlib
import json
from itertools import combinations
from pathlib import Path
from typing import Any

import pytest
from helpers.studios import item, one_portrait, parse

from evrant.cli import main
from evrant.core.base.margins import Verdict
from evrant.core.edits.language import EDIT, Edit, EditRefused, Several
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.remedies import remedies_of
from evrant.core.place.moves import change
from evrant.core.search.settle import settle, told
from evrant.core.studio.studio import Studio

Data = dict[str, Any]


def shorts(studio: Studio) -> set[str]:
    return {line.key for line in ledger_of(studio).lines if line.verdict is Verdict.SHORT}


def crooked() -> Data:
    """A portrait with a stand that tips, a short lead and the wrong white balance: three things by hand."""
    data = one_portrait()
    data["sets"][0]["lights"][0] |= {"bag": None, "leg": None}
    data["brief"]["animals"] = True
    item(data, "head")["cord"] = 1
    data["gear"].append(
        {"kind": "lead", "id": "lead", "name": "Lead 10 m", "length": 10, "conductor": "1.5 mm²", "rating": 16}
        | {"status": "owned", "outlets": 1}
    )
    data["shots"][0]["balance"] = "automatic"
    return data


def candidates(studio: Studio) -> list[Edit]:
    """Every remedy of every Short line, once."""
    ledger = ledger_of(studio)
    found = {}
    for line in ledger.lines:
        if line.verdict is Verdict.SHORT:
            for remedy in remedies_of(studio, line, ledger):
                found[json.dumps(remedy.edit, sort_keys=True)] = EDIT.validate_python(remedy.edit)
    return list(found.values())


def test_it_takes_as_few_as_any_choice_of_remedies_does() -> None:
    studio = parse(crooked())
    found = settle(studio)
    assert len(shorts(studio)) >= 3 and not found.binds and found.least
    assert found.studio == apply_all(studio, [one.edit for one in found.taken])
    assert shorts(found.studio) == set()
    pool = candidates(studio)
    for size in range(len(found.taken)):
        for choice in combinations(pool, size):
            with contextlib.suppress(EditRefused):  # two that buy the same thing do not go together
                assert shorts(apply_all(studio, choice)), "no smaller choice leaves nothing Short"


def apply_all(studio: Studio, edits: Any) -> Studio:
    for edit in edits:
        studio = change(studio, edit)
    return studio


def test_what_nothing_lifts_binds_and_nothing_gets_worse() -> None:
    data = crooked()
    data["brief"]["budget"] = "10"
    studio = parse(data)
    found = settle(studio)
    assert shorts(found.studio) <= shorts(studio), "no line is Short that was not"
    assert {line.key for line in found.binds} == shorts(found.studio)
    answer = told(found)
    assert answer["before"]["Short"] == len(shorts(studio)) and answer["after"]["Short"] == len(shorts(found.studio))


def test_a_plan_without_a_short_line_needs_nothing() -> None:
    found = settle(parse(one_portrait()))
    assert found.taken == () and found.least and found.studio == parse(one_portrait())


def test_it_stops_when_told_and_says_so() -> None:
    found = settle(parse(crooked()), stop=lambda: True)
    assert found.taken == () and not found.whole and not found.least and found.binds


def test_all_of_it_is_one_edit_that_can_be_undone() -> None:
    studio = parse(crooked())
    found = settle(studio)
    assert change(studio, EDIT.validate_json(found.edit.model_dump_json())) == found.studio


@pytest.mark.parametrize("write", [True, False])
def test_the_command(write: bool, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    file, out = tmp_path / "studio.json", tmp_path / "settled.json"
    file.write_text(parse(crooked()).dump_json())
    assert main(["settle", str(file), "--json", *(["-o", str(out)] if write else [])]) == 0
    answer = json.loads(capsys.readouterr().out)
    assert answer["after"]["Short"] == 0 and answer["changes"] and answer["finished"]
    assert out.exists() == write
    if write:
        assert not shorts(Studio.model_validate_json(out.read_text()))
        assert main(["settle", str(file), "-o", str(tmp_path / "none" / "x.json")]) == 2
    else:
        assert main(["settle", str(file)]) == 0 and "changes" in capsys.readouterr().out


def test_a_remedy_of_several_edits_is_laid_open_in_the_whole() -> None:
    """A heavy bag with the weights for it, bought: the whole is one change without changes in changes."""
    data = one_portrait()
    data["sets"][0]["lights"][0] |= {"bag": None, "leg": None}
    data["brief"]["animals"] = True
    data["gear"] = [one for one in data["gear"] if one["id"] != "bag"]
    data["sets"][0]["background"]["bag"] = None
    studio = parse(data)
    found = settle(studio)
    assert any(isinstance(one.edit, Several) for one in found.taken)
    assert not any(isinstance(one, Several) for one in found.edit.edits)
    assert change(studio, EDIT.validate_json(found.edit.model_dump_json())) == found.studio
