"""Studios with figures taken out at random: every page's judge, every drawing and every command bears them."""

import copy
import json
import os
import random
from pathlib import Path
from typing import Any

import pytest
from helpers.studios import one_portrait, parse
from pydantic import ValidationError

from evrant import cli
from evrant.core.edits.language import SetFields, apply
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.safety import hazards
from evrant.core.search.kit import instead
from evrant.core.space.scene import scene_of
from evrant.drawing.circuits import power_sheet
from evrant.drawing.sheet import room_sheet, sheet
from evrant.drawing.stands import stands_sheet
from evrant.files.document import Refused, faults_of, read_studio
from evrant.files.lists import lead_table, ledger_table, shopping_list

EXAMPLES = sorted((Path(__file__).parents[2] / "examples").glob("*.json"))
LOOKED = 4.0
"""How long it is looked for what to change of a shot that is not made [s]: it ends in words here, not in an answer."""
TIMES = 40 if os.environ.get("EVRANT_LONG") else 3
KEPT = {"format", "schema", "name", "id", "kind"}


def thinned(data: Any, dice: random.Random, share: float) -> Any:
    """A copy with fields left out, but for what makes a thing a thing."""
    if isinstance(data, dict):
        return {k: thinned(v, dice, share) for k, v in data.items() if k in KEPT or dice.random() > share}
    if isinstance(data, list):
        return [thinned(one, dice, share) for one in data]
    return copy.copy(data)


@pytest.mark.parametrize("path", EXAMPLES, ids=lambda path: path.stem)
def test_no_gap_is_a_fault(
    path: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str], caplog: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(instead, "WHOLE", LOOKED)
    whole = json.loads(path.read_text())
    dice, done = random.Random(path.stem), 0
    for turn in range(TIMES * 12):
        if done == TIMES:
            break
        data = thinned(whole, dice, (0.03, 0.1, 0.3)[turn % 3])
        try:
            studio = read_studio(json.dumps(data))
        except Refused:
            continue
        done += 1
        ledger = ledger_of(studio)
        assert all(m.sentence and "fault of the program" not in m.sentence for m in ledger.lines)
        assert ledger_table(ledger).count("\n") > len(ledger.lines)
        assert all(item.name in shopping_list(studio) for item in studio.gear if item.status == "planned")
        for plan in studio.sets[:2]:
            scene = scene_of(studio, plan)
            if scene is None:
                continue
            lines = ledger.of_set(plan.id)
            assert "nan" not in sheet(scene, lines, 760.0, 560.0)
            room_sheet(scene, 300.0, 200.0)
            stands_sheet(scene, lines, 600.0, 400.0)
            power_sheet(studio, scene, 600.0, 400.0)
            lead_table(scene)
            assert all(h.cause for h in hazards(scene, ledger.lines))
        file = tmp_path / "thin.json"
        file.write_text(json.dumps(data))
        shot = studio.shots[0].id if studio.shots else "none"
        for words in (["check"], ["light", "--shot", shot], ["safety"], ["stow"], ["kit", "--budget", "1"]):
            verb, *more = words
            if verb == "kit" and turn > 1:
                continue
            assert cli.main([verb, str(file), *more, "--json"]) in (0, 1, 2)
        capsys.readouterr()
    assert done == TIMES
    assert not [record for record in caplog.records if record.name == "evrant.rules"]


@pytest.mark.parametrize(
    ("target", "fields", "words"),
    [
        ("sets/s", {"together": "both"}, "one capital letter"),
        ("gear/paper", {"colour": "red"}, "#rrggbb"),
        ("gear/paper", {"name": "x" * 200}, "At most 80 characters."),
    ],
)
def test_a_form_of_writing_is_said_in_plain_words(target: str, fields: dict[str, str], words: str) -> None:
    with pytest.raises(ValidationError) as caught:
        apply(parse(one_portrait()), SetFields.model_validate({"target": target, "fields": fields}))
    (fault,) = faults_of(caught.value)
    assert words in fault.message
