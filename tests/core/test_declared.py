"""One declaration a line: found by itself, used by all, and a rule that fails takes down nothing but its own line."""

import ast
import logging
import re
import sys
from collections import Counter
from collections.abc import Iterable, Iterator
from pathlib import Path

import pytest
from helpers.studios import demo, one_portrait, parse

from evrant.core.base.faults import at_work_on
from evrant.core.base.margins import Margin, Verdict
from evrant.core.judge import declared
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.remedies import remedies_of
from evrant.core.judge.rules import set as of_sets
from evrant.core.judge.rules.rule import FAULT
from evrant.core.judge.safety import KINDS
from evrant.core.search.arrange.judge import geometry, hangs_on_place
from evrant.core.space.scene import Scene
from evrant.demo import NAMES, demo_studio

SRC = Path(__file__).parents[2] / "src/evrant"
RULE = '''"""A planted rule."""
from evrant.core.base.estimate import Estimate
from evrant.core.base.margins import Basis, Line, judge
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import Proposal, SetRule

TALL = Line("fit.planted", "Planted", "m", Basis("a", "b", "computed"), asks="Is it planted?", step="set", safety=True,
            search="placed", fails=True, hazards=("Water",), mark="planted")

def margins(scene):
    if scene.plan.name == "raise":
        raise ZeroDivisionError("planted fault")
    yield judge(TALL, (f"{scene.path}/planted",), Estimate(-1.0), need=1, have=0, clear="Yes.", short="No.",
                reason="So.")

def propose(studio, scene, margin):
    yield Proposal("Plant it", SetFields(target=scene.path, fields={"name": "planted"}))

RULE = SetRule("planted", margins, (TALL,), propose)
'''


def forget() -> None:
    for cached in (declared.rules, declared.set_rules, declared.studio_rules, declared.lines, declared.proposers):
        cached.cache_clear()
    declared.searched.cache_clear()
    declared.placed.cache_clear()


@pytest.fixture
def planted(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    """One more module beside the rules, and nothing else."""
    (tmp_path / "zz_planted.py").write_text(RULE)
    monkeypatch.setattr(of_sets, "__path__", [*of_sets.__path__, str(tmp_path)])
    forget()
    yield
    sys.modules.pop("evrant.core.judge.rules.set.zz_planted", None)
    monkeypatch.undo()
    forget()


def test_a_new_rule_is_one_module(planted: None) -> None:
    """Ledger, remedies, searches, counts by step: all know it by its declaration alone."""
    studio = parse(one_portrait())
    ledger = ledger_of(studio)
    line = next(m for m in ledger.lines if m.code == "fit.planted")
    assert line.verdict is Verdict.SHORT and line.safety and ledger.lines[0] is line
    assert ledger.shorts()["set"] >= 1
    assert "fit.planted" in declared.lines() and "fit.planted" in hangs_on_place()
    assert any(rule.__self__.name == "planted" for rule in geometry())  # type: ignore[attr-defined]
    assert remedies_of(studio, line, ledger) == (), "its candidate helps nothing, so it is not offered"


def test_a_rule_that_raises_becomes_one_unknown_line(planted: None, caplog: pytest.LogCaptureFixture) -> None:
    data = one_portrait()
    whole = [m.key for m in ledger_of(parse(data)).lines if m.code != "fit.planted"]
    data["sets"][0]["name"] = "raise"
    with caplog.at_level(logging.ERROR, "evrant.rules"), at_work_on("studio 3f2a, revision 12"):
        ledger = ledger_of(parse(data))
    faults = [m for m in ledger.lines if m.sentence == FAULT]
    assert [m.code for m in faults] == ["fit.planted"] and faults[0].verdict is Verdict.UNKNOWN
    assert faults[0].enter is None, "nothing can be entered to settle it"
    assert sorted(m.key for m in ledger.lines if m not in faults) == sorted(whole), "every other line stands"
    told = caplog.records[0].getMessage()
    assert "planted" in told and "studio 3f2a, revision 12" in told and "sets/s" in told


def test_proposals_that_raise_are_no_fault_of_the_page(monkeypatch: pytest.MonkeyPatch) -> None:
    studio = demo()
    ledger = ledger_of(studio)
    short = next(m for m in ledger.lines if m.verdict is Verdict.SHORT)

    def broken(*_: object) -> Iterable[object]:
        raise ZeroDivisionError
        yield

    monkeypatch.setattr("evrant.core.judge.remedies.proposers", lambda: {short.code: broken})
    assert remedies_of(studio, short, ledger) == ()


def test_every_rule_yields_only_the_lines_it_declares() -> None:
    own = {rule.name: {line.code for line in rule.lines} for rule in declared.rules()}
    owner = {line.code: rule.name for rule in declared.rules() for line in rule.lines}
    seen: Counter[str] = Counter()
    for name in NAMES:
        studio = demo_studio(name)
        for rule in declared.set_rules():
            for plan in studio.sets:
                shot = next(shot for shot in studio.shots if shot.id == plan.shot)
                scene = Scene(studio.room, studio.brief, shot, plan, {item.id: item for item in studio.gear})
                for margin in rule.margins(scene):
                    seen[margin.code] += 1
                    declared_by = owner[margin.code]
                    assert margin.code in own[rule.name] or {rule.name, declared_by} == {"hung", "mounting"}
    assert len(seen) > 50


def test_declarations_are_whole() -> None:
    found = declared.lines()
    hazards = {kind.name for kind in KINDS}
    for code, line in found.items():
        assert "?" in line.asks and line.title and line.basis.formula and line.basis.source, code
        assert set(line.hazards) <= hazards, code
        assert line.search == "no" or line.unit in ("m", "°"), f"{code}: a search compares lengths and angles"
    for hazard in hazards - {"Eyes"}:
        assert any(hazard in line.hazards for line in found.values()), hazard


def test_no_list_of_codes_stands_outside_the_declarations() -> None:
    """A code in quotes is only found where its line is declared (or in that rule's own module)."""
    codes = "|".join(map(re.escape, declared.lines()))
    pattern = re.compile(f'"({codes})"')
    for path in SRC.rglob("*.py"):
        if path.parents[1].name != "rules":
            assert not pattern.findall(path.read_text()), path


def test_one_code_declared_twice_is_refused(planted: None, monkeypatch: pytest.MonkeyPatch) -> None:
    known = declared.rules()
    twin = next(rule for rule in known if rule.name == "planted")
    other = type(twin)("other", twin.margins, (twin.lines[0].but(title="Again"),))  # type: ignore[arg-type]
    monkeypatch.setattr(declared, "rules", lambda: (*known, other))
    declared.lines.cache_clear()
    with pytest.raises(ValueError, match="declared twice"):
        declared.lines()


def lines_of(data: dict[str, object]) -> list[Margin]:
    return list(ledger_of(parse(data)).lines)


@pytest.mark.parametrize(
    "name", ["stand | old", "a|b|c", "x__3", "other_load", "appliance__1", "{0}", "%s", "\u202eabc"]
)
def test_names_are_only_names(name: str) -> None:
    """Whatever a thing is called, the same lines come out with the same figures."""
    plain = one_portrait()
    named = one_portrait()
    for data in (plain, named):
        for item in data["gear"]:
            if item["kind"] == "stand":
                item.pop("load", None)
        data["room"]["appliances"] = [{"id": "one", "name": "Heater", "circuit": "main", "power": 500}]
    for item in named["gear"]:
        item["name"] = name
    named["room"]["circuits"][0]["name"] = name
    named["room"]["appliances"][0]["name"] = name
    before = {(m.key, m.verdict, m.margin) for m in lines_of(plain)}
    after = {(m.key, m.verdict, m.margin) for m in lines_of(named)}
    assert before == after


def test_more_of_a_thing_than_there_are_is_short() -> None:
    """Two lights on one flash, one stand and one softbox of which there is one each."""
    data = one_portrait()
    first = data["sets"][0]["lights"][0]
    data["sets"][0]["lights"].append(first | {"id": "fill", "role": "fill", "x": first["x"] + 1.0})
    counted = {m.about[1]: m for m in lines_of(data) if m.code == "kit.count"}
    used = [f"gear/{first[part]}" for part in ("head", "modifier", "support")]
    for path in used:
        assert counted[path].verdict is Verdict.SHORT and (counted[path].need, counted[path].have) == (2, 1)
    studio = parse(data)
    line = counted[used[0]]
    remedy = next(r for r in remedies_of(studio, line, ledger_of(studio)) if r.label == "Plan 2 of them")
    assert remedy.verdict is Verdict.CLEAR
    for item in data["gear"]:
        item["quantity"] = 2
    assert all(m.verdict is Verdict.CLEAR for m in lines_of(data) if m.code == "kit.count")
    data["sets"][0]["lights"][1]["heads"] = 2
    short = [m for m in lines_of(data) if m.code == "kit.count" and m.verdict is Verdict.SHORT]
    assert [(m.about[1], m.need) for m in short] == [(used[0], 3)]


def test_a_rule_lies_in_the_folder_of_a_step_it_counts_under() -> None:
    for rule in declared.rules():
        folder = rule.margins.__module__.split(".")[-2]
        assert folder in {line.step for line in rule.lines}, rule.name


def test_what_a_line_is_unsure_of_reads_after_the() -> None:
    """Once: "Unsure mostly because of the how still the subject holds"."""
    calls = [
        node
        for path in sorted((SRC / "core").rglob("*.py"))
        for node in ast.walk(ast.parse(path.read_text()))
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id == "Share"
    ]
    named = [call.args[0].value for call in calls if call.args and isinstance(call.args[0], ast.Constant)]
    assert len(named) > 40 and "ceiling height" in named
    assert not [name for name in named if re.match(r"(the|an?|how|where|what|whether|when|why) ", str(name))]
