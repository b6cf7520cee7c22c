"""What a set rule says that it reads is all it looks at; and what it does not read does not run it again."""

from collections.abc import Iterable, Iterator
from dataclasses import replace
from functools import cache
from pathlib import Path
from typing import Any

import pytest
from helpers.studios import demo, one_portrait, parse

from evrant.core.base.alike import Alike
from evrant.core.base.margins import Margin
from evrant.core.base.memo import fresh
from evrant.core.base.model import Model
from evrant.core.edits.language import EDIT
from evrant.core.judge import ledger
from evrant.core.judge.declared import set_rules
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.rules.rule import GEOMETRY, SetRule
from evrant.core.place.moves import change
from evrant.core.space.scene import Scene, scene_of
from evrant.core.studio.brief import MEANS
from evrant.core.studio.gear import WARES
from evrant.core.studio.sets import RUNNING
from evrant.core.studio.shots import EXPOSURE, WANTED
from evrant.core.studio.studio import Studio
from evrant.files.document import read_studio

EXAMPLES = sorted((Path(__file__).parents[2] / "examples").glob("*.json"))
SEEN: set[tuple[str, str]] = set()


@cache
def spying(cls: type[Model], what: str) -> type[Model]:
    """A class whose things note which of their fields are looked at."""
    names = frozenset(cls.model_fields)

    def look(self: Any, name: str) -> Any:
        if name in names:
            SEEN.add((what, name))
        return cls.__getattribute__(self, name)

    return type(cls.__name__, (cls,), {"__getattribute__": look, "__module__": cls.__module__})


def spied(thing: Any, what: str) -> Any:
    cls: type[Model] = type(thing)
    return spying(cls, what).model_construct(**{name: vars(thing)[name] for name in cls.model_fields})


def watched(scene: Scene) -> Scene:
    """The scene with its brief, shot, set, lights and things noted."""
    lights = tuple(spied(light, "set") for light in scene.plan.lights)
    plan = spied(scene.plan.changed(lights=lights), "set")
    gear = {key: spied(item, "gear") for key, item in scene.gear.items()}
    return replace(scene, brief=spied(scene.brief, "brief"), shot=spied(scene.shot, "shot"), plan=plan, gear=gear)


def looked_at(rule: SetRule, scene: Scene) -> set[tuple[str, str]]:
    with fresh():
        there = watched(scene if "set" in rule.reads else scene.unlit)
        SEEN.clear()
        told = list(rule.of(there))
        found = set(SEEN)
    assert not any("fault of the program" in line.sentence for line in told), rule.name
    return found


def hidden(rule: SetRule) -> set[tuple[str, str]]:
    """What a rule must not look at."""
    found = {("brief", name) for name in MEANS} | {("gear", name) for name in WARES}
    found |= {("shot", name) for name in WANTED}
    if "exposure" not in rule.reads:
        found |= {("shot", name) for name in EXPOSURE}
    if "running" not in rule.reads:
        found |= {("set", name) for name in RUNNING}
    return found


def studios() -> Iterator[tuple[str, Studio]]:
    yield "portrait", parse(one_portrait())
    for path in EXAMPLES:
        yield path.stem, read_studio(path.read_bytes())


@pytest.mark.parametrize(("name", "studio"), [pytest.param(*pair, id=pair[0]) for pair in studios()])
def test_no_rule_looks_at_what_it_does_not_name(name: str, studio: Studio) -> None:
    for plan in studio.sets:
        scene = scene_of(studio, plan)
        assert scene is not None
        for rule in set_rules():
            assert not looked_at(rule, scene) & hidden(rule), (rule.name, plan.id)


@pytest.mark.parametrize("part", ["exposure", "wanted", "running", "wares", "means"])
def test_one_that_does_is_caught(part: str) -> None:
    def margins(scene: Scene) -> Iterable[Margin]:
        match part:
            case "exposure":
                _ = scene.shot.iso
            case "wanted":
                _ = scene.shot.priority
            case "running":
                _ = [light.power for light in scene.plan.lights]
            case "wares":
                _ = [item.price for item in scene.gear.values()]
            case _:
                _ = scene.brief.budget
        return ()

    rule = SetRule("sly", margins, set_rules()[0].lines, reads=GEOMETRY)
    studio = demo()
    scene = scene_of(studio, studio.sets[0])
    assert scene is not None and looked_at(rule, scene) & hidden(rule)


@pytest.mark.parametrize(
    ("target", "fields", "runs", "rests"),
    [
        ("shots/{shot}", {"aperture": 6.3}, {"exposure", "sharpness"}, {"fit", "overlap", "way out", "standing"}),
        ("shots/{shot}", {"iso": 320}, {"exposure", "grain"}, {"fit", "frame", "outlets", "wiring"}),
        ("shots/{shot}", {"notes": "on Friday", "sessions": 3}, set(), {rule.name for rule in set_rules()}),
        ("{light}", {"power": 0.21}, {"exposure", "heat"}, {"fit", "intrusion", "support", "triggers"}),
        ("{set}", {"minutes": 47}, {"heat", "by day"}, {"fit", "overlap", "count"}),
        ("gear/{gear}", {"price": "3.21"}, set(), {rule.name for rule in set_rules()}),
        ("brief", {"budget": "1234"}, set(), {rule.name for rule in set_rules()}),
        ("{light}", {"x": 1.234}, {"fit", "exposure", "overlap"}, {"frame", "sharpness"}),
    ],
)
def test_an_edit_runs_the_rules_that_read_it_and_no_others(
    monkeypatch: pytest.MonkeyPatch, target: str, fields: dict[str, Any], runs: set[str], rests: set[str]
) -> None:
    studio = demo()
    ledger_of(studio)
    plan = studio.sets[1]
    own = f"sets/{plan.id}"
    light, thing = f"{own}/lights/{plan.lights[0].id}", plan.lights[0].head
    path = target.format(shot=plan.shot, set=own, light=light, gear=thing)
    after = change(studio, EDIT.validate_python({"verb": "set", "target": path, "fields": fields}))
    ran: set[str] = set()
    run = ledger._run_rule

    def noted(rule: SetRule, scene: Scene) -> Any:
        if scene.plan.id == plan.id:
            ran.add(rule.name)
        return run(rule, scene)

    monkeypatch.setattr(ledger, "_run_rule", noted)
    found = ledger_of(after)
    assert runs <= ran and not ran & rests, (ran & rests, runs - ran)
    with fresh():
        assert found.lines == ledger_of(after).lines


def test_a_key_is_the_same_while_only_what_is_left_out_differs() -> None:
    keys, shot = Alike(EXPOSURE), demo().shots[0]
    key = keys.key(shot)
    other = shot.changed(iso=12800, aperture=None)
    assert keys.key(shot) is key and keys.key(other) is key
    assert keys.key(shot.changed(angle=12.0)) is not key
    assert keys.key(shot, shot) is not key


def test_an_edit_leaves_what_it_does_not_write_the_same_objects() -> None:
    studio = demo()
    shot = studio.shots[0]
    after = change(studio, EDIT.validate_python({"verb": "set", "target": f"shots/{shot.id}", "fields": {"iso": 777}}))
    there = after.shots[0]
    assert there.iso == 777
    kept = {name for name in type(shot).model_fields if getattr(shot, name) is getattr(there, name)}
    assert kept == set(type(shot).model_fields) - {"iso"}
