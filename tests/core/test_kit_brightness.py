"""Kit: is a light bright and even enough where the shot usually stands, walls and all?"""

import json
from dataclasses import replace
from typing import Any

import pytest
from helpers.kits import spare_room

from evrant.catalogue import load
from evrant.core.base.margins import Verdict
from evrant.core.judge.rules.light import exposure
from evrant.core.judge.rules.support import standing
from evrant.core.light.lit import Lit, lit
from evrant.core.place.rigging import weighted
from evrant.core.search.kit.brightness import company, with_light
from evrant.core.search.kit.case import NOTHING
from evrant.core.search.kit.casting import case_of
from evrant.core.search.kit.check import Checker
from evrant.core.search.kit.lights import facing
from evrant.core.search.kit.market import market
from evrant.core.search.kit.verdicts import Pass
from evrant.core.space.rails import CLAMPS
from evrant.core.studio.room import Room
from evrant.core.studio.studio import Studio

RECIPE = {
    "body": "camera-full",
    "lens": "lens-50",
    "backdrop": NOTHING,
    "holder": NOTHING,
    "key.head": "flash-hot-60",
    "key.modifier": "umbrella-85",
    "key.support": "stand-260",
    "key.joint": "swivel-shoe",
    "key.ring": NOTHING,
}


def checker_of(studio: Studio) -> Checker:
    return Checker(studio, market(studio, load().all()))


@pytest.mark.parametrize(("lrv", "works"), [(80.0, True), (8.0, False)])
def test_white_walls_even_out_what_falls_off_in_the_open(lrv: float, works: bool) -> None:
    """A small flash in an umbrella at a person kneeling with a dog: in the open the feet are too dark at 1.4 of its
    usual distance, in a white room not, and the ledger of the whole set agrees; between dark walls it never serves."""
    studio = spare_room(lrv, "Person kneeling with dog")
    checker = checker_of(studio)
    case = case_of(studio, studio.shots[0], checker.market)
    usual = checker.lenses.usually(case)
    assert usual is not None
    near, pair = (1.4, 0.0), ("flash-hot-60", "umbrella-85")
    made = checker.stage.made({"key.head": pair[0], "key.modifier": pair[1]}, "key")
    short = []
    for scene in usual:
        shown = with_light(scene, case, "key", made, near)
        (light,) = shown.lights
        lines = [*exposure.window(shown, light, lit(shown)), *exposure.falloff(shown, light, lit(shown))]
        short.append({line.code for line in lines if line.verdict is Verdict.SHORT})
    assert exposure.FALLOFF.code in short[0]
    assert bool(short[1] & {exposure.FALLOFF.code, exposure.POWER_FULL.code}) is not works
    said = checker.lights.units.brightness.fault(case, "key", pair, usual, near)
    assert (said is None) is works
    assert isinstance(checker.check(case, RECIPE), Pass) is works


def test_what_is_too_weak_where_the_shot_usually_stands_is_told_before_the_room_is_searched() -> None:
    studio = spare_room(30.0, "Person kneeling with dog")
    checker = checker_of(studio)
    case = case_of(studio, studio.shots[0], checker.market)
    report = checker.report(case, RECIPE, 0)
    assert report.found is not None and checker.counts.ledger_runs == 0
    clause = report.found.clause  # type: ignore[union-attr]
    assert ("key.head", "flash-hot-60") in clause.never and not {slot for slot, _ in clause.never} & {"backdrop"}


@pytest.mark.parametrize("pattern", ["clamshell", "loop", "butterfly", "hair light", "rim pair", "top"])
def test_the_background_s_bar_holds_nothing_that_comes_from_before_the_subject(pattern: str) -> None:
    """By the angles of the patterns: 42° up and from straight before is before; a light from behind is not."""
    name = "Half-length, standing"
    offered = {}
    for rail in (False, True):
        studio = spare_room(80.0, name, rail, pattern)
        goods = market(studio, load().all())
        case = case_of(studio, studio.shots[0], goods)
        for slot, filled in case.slots.items():
            if slot.endswith(".support"):
                uses = {getattr(goods.by_key[key].item, "use", "") for key in filled.keys if key != NOTHING}
                offered[slot, rail] = CLAMPS in uses
        if not rail:
            bars = [clause.never for clause in case.clauses if clause.why.startswith("there is no rail")]
            clamped = {slot for (slot, _), there in offered.items() if there}
            assert {slot for never in bars for slot, _ in never} - {"holder"} == clamped
    for (slot, rail), there in offered.items():
        if slot.startswith("key") and not rail:
            assert not there
        if there:
            assert offered[slot, True]
    if pattern == "hair light":
        assert any(there for (slot, rail), there in offered.items() if not rail)


@pytest.mark.parametrize("lrv", [80.0, 15.0])
def test_a_light_fired_into_a_corner_is_told_before_the_room_is_searched(lrv: float) -> None:
    """Between dark walls nothing comes back: every head that is refused on the bench is Short by the ledger where the
    shot usually stands, and by more than a stop; between white ones the strongest is not refused."""
    studio = spare_room(lrv, "Half-length, standing", pattern="bounced")
    checker = checker_of(studio)
    case = case_of(studio, studio.shots[0], checker.market)
    usual = checker.lenses.usually(case)
    assert usual is not None
    judge = checker.lights.units.brightness.into_corner
    refused = []
    for head in case.slots["key.head"].keys:
        made = checker.stage.made({"key.head": head, "key.modifier": NOTHING}, "key")
        shown = with_light(usual[1], case, "key", made, (1.0, 0.0))
        (light,) = shown.lights
        lines = {line.code: line for line in exposure.window(shown, light, lit(shown))}
        outside = [line.margin for line in lines.values() if line.margin is not None and line.margin < 0]
        why = judge(case, "key", (head, NOTHING), usual)
        refused.append(why is not None)
        assert (why is not None) == any(margin < -1.0 for margin in outside)
    assert any(refused) and (lrv < 50 or not all(refused))


@pytest.mark.parametrize("pattern", ["silhouette", "background pair, bounced fill", "bounced"])
def test_weights_of_lights_behind_are_told_before_a_room_is_searched(pattern: str) -> None:
    """With every weight that is told for a background or bounced light its stand stands; without some tip, and those
    that do not have less to spare than is asked for."""
    studio = spare_room(80.0, "Half-length, standing", pattern=pattern)
    checker = checker_of(studio)
    case = case_of(studio, studio.shots[0], checker.market)
    usual = checker.lenses.usually(case)
    assert usual is not None
    behind = [name for name in case.lights() if name not in facing(case)]
    assert behind
    told, tipped = 0, 0
    for name in behind:
        for support in case.slots[f"{name}.support"].keys[:3]:
            for when, mass in list(checker.lights.units.weights_there(case, name, support, usual[1]))[:6]:
                told += 1
                made = checker.stage.made(dict(when), name)
                shown = with_light(usual[1], case, name, made, (1.0, 0.0))
                (light,) = shown.plan.lights
                placed = weighted(shown, shown.lights[0])
                spare = []
                for bag in (None, mass):
                    plan = shown.plan.changed(lights=(placed.changed(bag=bag),))
                    lines = standing.margins(replace(shown, plan=plan))
                    about = [line for line in lines if any(path.endswith(f"lights/{light.id}") for path in line.about)]
                    assert about and all(line.margin is not None for line in about)
                    if bag:
                        assert not any(line.verdict is Verdict.SHORT for line in about), (name, sorted(when), mass)
                    else:
                        tipped += any(line.verdict is Verdict.SHORT for line in about)
                    spare.append(min(line.margin for line in about if line.margin is not None))
                assert spare[0] < spare[1] and told >= tipped
    assert told and (tipped or pattern != "bounced")


AROUND = ("dark", "room lamps on", "daylight", "daylight and room lamps")
LAMP = {"id": "l", "name": "Lamp", "kind": "lamp", "x": 2, "y": 2, "length": 0.3, "width": 0.3, "base": 2.4,
        "height": 0.2, "lumens": 1500}  # fmt: skip
WINDOW = {"id": "w", "name": "Window", "wall": "a", "offset": 1.0, "width": 1.2, "height": 1.2, "sill": 0.9,
          "daylight": 5000}  # fmt: skip


@pytest.mark.parametrize("around", AROUND)
@pytest.mark.parametrize(
    "there", [{}, {"boxes": [LAMP]}, {"windows": [WINDOW]}, {"boxes": [LAMP], "windows": [WINDOW]}]
)
def test_only_light_that_is_there_relieves_a_flash(around: str, there: dict[str, Any]) -> None:
    """The relief is counted exactly where the ledger finds light of the room on the subject."""
    studio = spare_room(30.0, "Head and shoulders, seated")
    data = json.loads(studio.dump_json())
    data["room"] |= there
    data["shots"][0]["around"] = around
    studio = Studio.model_validate(data)
    checker = checker_of(studio)
    case = case_of(studio, studio.shots[0], checker.market)
    usual = checker.lenses.usually(case)
    assert usual is not None
    state = lit(usual[1])
    assert isinstance(state, Lit)
    beside = any(beam.kind == "around" for beam in state.beams)
    dark = company(case_of(spare_room(30.0, "Head and shoulders, seated"), studio.shots[0], checker.market), Room())
    assert company(case, studio.room) - dark == (2.0 if beside else 0.0)
