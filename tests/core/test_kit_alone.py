"""Kit: shots looked into by themselves, what is told of one light there, and the spots at which all lights serve."""

import random
from collections import Counter
from dataclasses import replace
from functools import cache
from itertools import product
from math import inf

import pytest
from helpers.kits import few, plain, spare_room
from hypothesis import given, settings
from hypothesis import strategies as st

from evrant.catalogue import load
from evrant.core.base.margins import Margin, Verdict
from evrant.core.base.memo import plain as without_shares
from evrant.core.judge.rules.light import aim, exposure, scrims, shadow
from evrant.core.judge.rules.power import sight
from evrant.core.judge.rules.set import flare, intrusion, overlap
from evrant.core.judge.rules.support import support
from evrant.core.light.lit import lit
from evrant.core.search.kit.alone import Alone
from evrant.core.search.kit.brightness import NEAR, Brightness, pairs_of, with_light
from evrant.core.search.kit.case import NOTHING, Case, Clause, Slot
from evrant.core.search.kit.casting import case_of
from evrant.core.search.kit.check import LENSES, Checker
from evrant.core.search.kit.crew import Crew, Lone
from evrant.core.search.kit.market import Good, Market, market
from evrant.core.search.kit.master import Cuts, Master
from evrant.core.search.kit.optimum import Search
from evrant.core.search.kit.unit import Bench, Trial
from evrant.core.search.kit.verdicts import Fail, Pass, Report, Unlit
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import Part
from evrant.core.studio.shots import Shot
from evrant.core.studio.studio import Studio

AIMED = (aim.margins, flare.margins, shadow.margins, scrims.margins, sight.margins)
OWNED = ("camera-full", "lens-35", "lens-50", "lens-85", "tripod-160", "table-fold-80")


@cache
def cast(name: str) -> tuple[Checker, Case]:
    """A checker over the whole catalogue, and the one shot as a case whose lenses are known."""
    studio = spare_room(80.0, name, owned=OWNED)
    shelf = market(studio, load().all())
    checker, case = Checker(studio, shelf), case_of(studio, studio.shots[0], shelf)
    checker.report(case, {}, LENSES)
    return checker, case


def lone_light(case: Case, choose: random.Random, lens: str) -> tuple[str, dict[str, str]]:
    """One light of a case with what it lights, by chance."""
    name = choose.choice(case.lights())
    pair = choose.choice(pairs_of(case, name))
    still = {slot: case.slots[slot].keys[0] for slot in ("body", "tripod", "table") if slot in case.slots}
    light = {f"{name}.head": pair[0], f"{name}.modifier": pair[1]}
    stands = [key for key in case.slots[f"{name}.support"].keys if key.startswith("stand-")]
    return name, still | {"lens": lens} | light | {f"{name}.support": choose.choice(stands)}


# --- what is told of one light holds in the room ------------------------------------------------------


@pytest.mark.parametrize(
    "name",
    [
        "Person kneeling with dog",
        "Business headshots in series",
        "Garment on a hanger",
        "Product on a sweep",
        "Three-quarter, standing",
        "Head and shoulders, seated",
    ],
)
def test_a_light_refused_in_the_open_fits_nowhere_in_the_room(name: str) -> None:
    """By looking at the whole grid of the room, on both sides of the face."""
    checker, case = cast(name)
    choose, refused, fitting = random.Random(name), 0, 0
    for _ in range(24):
        light, part = lone_light(case, choose, choose.choice(("lens-50", "lens-85")))
        still = {slot: key for slot, key in part.items() if "." not in slot}
        opened, usual = checker.stage.opened(case, still), checker.lenses.usually(case)
        if opened is None or usual is None:
            continue
        near = choose.choice(NEAR)
        why = checker.lights.units._by_size(Trial(case, part, light, Bench(opened, usual, NEAR)), near)
        fits = checker._fits_at(case, part, near, frozenset())
        assert not (why and fits), (part, near, why)
        possible = checker.lights.units.possible(case, part, light, opened)
        assert near in possible or not fits, (part, near)
        refused, fitting = refused + bool(why), fitting + fits
    assert refused or fitting


@pytest.mark.parametrize(
    "name",
    [
        "Person kneeling with dog",
        "Small collectable, close",
        "Three-quarter, standing",
        "Half-length, standing",
    ],
)
def test_what_is_told_whatever_the_lens_holds_with_every_other_lens(name: str) -> None:
    """Lights refused with one lens and told for all: with other lenses each is looked at anew, on both sides."""
    studio = spare_room(80.0, name, owned=OWNED)
    shelf = market(studio, load().all())
    checker, case = Checker(studio, shelf), case_of(studio, studio.shots[0], shelf)
    checker.report(case, {}, LENSES)
    choose, free = random.Random(name), list[Clause]()
    for _ in range(5):
        light, part = lone_light(case, choose, "lens-50")
        for other in case.lights():
            part |= {f"{other}.{slot.rpartition('.')[2]}": key for slot, key in part.items() if f"{light}." in slot}
        report = checker.report(case, part, 0)
        own = (report.found.clause,) if isinstance(report.found, Fail) else ()
        told = [clause for clause in (*report.clauses, *own) if any(f"{light}." in slot for slot, _ in clause.never)]
        free += [one for one in told if f"{light}.support" in dict(one.never) and "lens" not in dict(one.never)]
    bright, looked = Brightness(checker.stage), 0
    for clause in choose.sample(free, min(len(free), 8)):
        light = next(slot.rpartition(".")[0] for slot, _ in clause.never if "." in slot)
        for lens in ("lens-35", "lens-85"):
            part = {slot: case.slots[slot].keys[0] for slot in ("body", "tripod", "table") if slot in case.slots}
            part |= {"lens": lens} | dict(clause.never)
            opened = checker.stage.opened(case, {slot: key for slot, key in part.items() if "." not in slot})
            usual = checker.lenses.usually(case)
            if opened is None or usual is None or f"{light}.head" not in part:
                continue
            made, pair = checker.stage.made(part, light), (part[f"{light}.head"], part[f"{light}.modifier"])
            for near, side in product(NEAR, (1.0, -1.0)):
                bare = replace(opened, gear=opened.gear | dict(made[1]))
                set_ = with_light(bare, case, light, made, near, side).plan
                anew = Scene(bare.room, bare.brief, bare.shot, set_, bare.gear)
                with without_shares():
                    lines = [*support.of_lights(anew), *aim.margins(anew)]
                short = any(line.verdict is Verdict.SHORT for line in lines)
                looked += 1
                assert short or bright.fault(case, light, pair, usual, near), (clause, lens, near, side)
    assert looked >= 16


@pytest.mark.parametrize("name", ["Person kneeling with dog", "Small collectable, close", "Garment on a hanger"])
def test_a_set_with_another_light_is_as_if_made_anew(name: str) -> None:
    """What is carried over from the set without lights is what would be found again."""
    checker, case = cast(name)
    choose, looked = random.Random(name), 0
    for near, side in product(NEAR[:4], (1.0, -1.0)):
        light, part = lone_light(case, choose, choose.choice(("lens-50", "lens-85")))
        opened = checker.stage.opened(case, {slot: key for slot, key in part.items() if "." not in slot})
        if opened is None:
            continue
        lit_ = with_light(opened, case, light, checker.stage.made(part, light), near, side)
        anew = Scene(lit_.room, lit_.brief, lit_.shot, lit_.plan, lit_.gear)
        for rule in (support.margins, *AIMED, intrusion.margins, overlap.margins):
            with without_shares():
                one, other = list(rule(lit_)), list(rule(anew))
            assert one == other, (rule, near)
            looked += len(one)
    assert looked > 20


def test_what_sticks_into_the_picture_most_is_found_without_every_turn_of_every_leg() -> None:
    """Against all parts in all their turns, of lights at random places."""
    checker, case = cast("Product on a sweep")
    choose, looked = random.Random(5), 0
    for near, side in product(NEAR, (1.0, -1.0)):
        light, part = lone_light(case, choose, "lens-50")
        opened = checker.stage.opened(case, {slot: key for slot, key in part.items() if "." not in slot})
        assert opened is not None
        scene = with_light(opened, case, light, checker.stage.made(part, light), near, side)
        assert scene.view is not None
        for thing in scene.things:
            if thing.kind != "light":
                continue
            gaps = []
            for number, piece in enumerate(thing.parts):
                turns = range(intrusion._turn_count(scene, thing, piece))
                solids = [intrusion._turned(scene, thing, piece, turn) for turn in turns]
                seen = [intrusion._of(scene, scene.view, solid, number, 0) for solid in solids]
                if all(found is not None for found in seen):
                    gaps.append(max(found.gap for found in seen if found is not None))
            found = intrusion.nearest(scene, thing)
            assert (None if found is None else found.gap) == (min(gaps) if gaps else None)
            looked += found is not None
    assert looked >= 8


def test_a_key_that_is_in_the_picture_on_one_side_may_stand_on_the_other() -> None:
    """Of two in the picture one is nearer to the light's side: on the other side the same light stays out of it."""
    checker, case = cast("Person kneeling with dog")
    part = {"body": "camera-full", "lens": "lens-35", "key.head": "flash-300", "key.modifier": "umbrella-105"}
    opened, usual = checker.stage.opened(case, {"body": "camera-full", "lens": "lens-35"}), checker.lenses.usually(case)
    assert opened is not None and usual is not None
    part |= {"key.support": "stand-rolling-240"}
    units, bench = checker.lights.units, Bench(opened, usual, NEAR)
    assert checker._fits_at(case, part, (0.5, 0.0), frozenset())
    assert units._by_size(Trial(case, part, "key", bench), (0.5, 0.0)) is None


def test_where_a_bare_stand_is_hangs_on_the_modifier() -> None:
    """Behind a deep box the stand is out of the way of table and camera where, before an umbrella that light is thrown
    into, it is not: no reason against the box."""
    checker, case = cast("Product on a sweep")
    still = {"body": "camera-full", "lens": "lens-50", "tripod": "tripod-160", "table": "table-fold-80"}
    opened = checker.stage.opened(case, still)
    assert opened is not None
    recipe = still | {"key.head": "flash-100", "key.support": "stand-260"}
    spots = {
        modifier: checker.lights.units.possible(case, recipe | {"key.modifier": modifier}, "key", opened)
        for modifier in ("umbrella-110-white", "octa-120")
    }
    assert set(spots["umbrella-110-white"]) < set(spots["octa-120"])
    near = next(spot for spot in spots["octa-120"] if spot not in spots["umbrella-110-white"])
    for modifier, fits in (("umbrella-110-white", False), ("octa-120", True)):
        assert checker._fits_at(case, recipe | {"key.modifier": modifier}, near, frozenset()) is fits


@pytest.mark.parametrize("name", ["Person kneeling with dog", "Product on a sweep", "Business headshots in series"])
def test_heads_that_shine_alike_are_returned_alike(name: str) -> None:
    """What the room does to a light is found with the first head in a modifier; by lighting each by itself there."""
    checker, case = cast(name)
    usual, bright = checker.lenses.usually(case), checker.lights.units.brightness
    assert usual is not None
    looked = 0
    for near in ((1.4, 0.0), (1.0, 9.0)):
        every = bright._open(case, "key", pairs_of(case, "key"), usual, near)
        for pair, told in list(every.items())[::7]:
            alike = next(one for one in every if every[one].like(told))
            more = bright._there(case, "key", alike, every[alike], usual, near, {})
            made = checker.stage.made({"key.head": pair[0], "key.modifier": pair[1]}, "key")
            with without_shares():
                lines = _exposed(with_light(usual[1], case, "key", made, near))
            there = {line.code: line.margin for line in lines if line.margin is not None}
            for code, margin, _ in told.lines:
                looked += 1
                assert margin + more[code] == pytest.approx(there[code], abs=0.07), (pair, near, code)
    assert looked > 30


def _exposed(scene: Scene) -> list[Margin]:
    state = lit(scene)
    return [
        line
        for light in scene.lights
        for rule in (exposure.window, exposure.falloff)
        for line in rule(scene, light, state, alone=True)
    ]


def test_whether_something_fits_is_what_arranging_finds() -> None:
    for name in ("Person kneeling with dog", "Garment on a hanger"):
        checker, case = cast(name)
        choose = random.Random(4)
        for _ in range(5):
            _, part = lone_light(case, choose, "lens-50")
            near = choose.choice(NEAR)
            assert checker._fits_at(case, part, near, frozenset()) == checker._arranged(case, part, (near,)).fits


# --- the programme ------------------------------------------------------------------------------------


def made_up(prices: list[tuple[int, int]], slots: list[list[int]]) -> tuple[Master, Case]:
    """One shot over things owned and priced; slots are lists of their numbers."""
    goods = [Good(Part(id=f"k{n}", name=f"k{n}", use="other"), owned, cents) for n, (owned, cents) in enumerate(prices)]
    case = Case(Shot.model_validate({"id": "s", "priority": "must"}), "loop")
    for number, keys in enumerate(slots):
        case.slots[f"slot{number}"] = Slot(f"slot{number}", "", tuple(f"k{key}" for key in dict.fromkeys(keys)))
    return Master(Market(tuple(goods), (), "EUR"), [case]), case


PRICES = st.lists(st.tuples(st.integers(0, 1), st.integers(1, 30)), min_size=4, max_size=4)
SLOTS = st.lists(st.lists(st.integers(0, 3), min_size=1, max_size=3), min_size=2, max_size=3)
DARK = st.lists(
    st.tuples(st.lists(st.tuples(st.integers(0, 2), st.integers(0, 3)), min_size=1, max_size=2), st.integers(0, 7)),
    max_size=40,
)


@settings(max_examples=80, deadline=None)
@given(PRICES, SLOTS, DARK, st.integers(0, 80))
def test_lights_serve_together_only_at_a_spot_where_all_do(
    prices: list[tuple[int, int]], slots: list[list[int]], dark: list[tuple[list[tuple[int, int]], int]], budget: int
) -> None:
    """By trying every recipe at every spot."""
    master, case = made_up(prices, slots)
    facts = [Unlit(frozenset((f"slot{slot}", f"k{key}") for slot, key in when), NEAR[spot]) for when, spot in dark]
    master.cuts.learn("s", Report(None, unlit=tuple(facts)))
    costs = []
    for keys in product(*(slot.keys for slot in case.slots.values())):
        filled = set(zip(case.slots, keys, strict=True))
        serves = [spot for spot in NEAR if not any(fact.spot == spot and fact.when <= filled for fact in facts)]
        counts = {key: keys.count(key) for key in keys}
        cost = sum(max(n - prices[int(key[1:])][0], 0) * prices[int(key[1:])][1] for key, n in counts.items())
        if serves and cost <= budget:
            costs.append(cost)
    found = master.solve(budget)
    assert found is not None and found.proved
    assert (bool(found.recipes), found.cents) == ((True, min(costs)) if costs else (False, 0))


@settings(max_examples=40, deadline=None)
@given(PRICES, SLOTS, st.dictionaries(st.integers(0, 3), st.integers(1, 2)), st.integers(0, 60))
def test_what_is_free_counts_as_if_it_were_owned(
    prices: list[tuple[int, int]], slots: list[list[int]], free: dict[int, int], budget: int
) -> None:
    master, _ = made_up(prices, slots)
    owned, _ = made_up([(n + free.get(key, 0), cents) for key, (n, cents) in enumerate(prices)], slots)
    given_, having = master.solve(budget, free={f"k{key}": n for key, n in free.items()}), owned.solve(budget)
    assert given_ is not None and having is not None and len(given_.recipes) == len(having.recipes)
    paid = sum(max(n - free.get(int(key[1:]), 0), 0) * prices[int(key[1:])][1] for key, n in given_.bought.items())
    assert paid == having.cents


@settings(max_examples=40, deadline=None)
@given(PRICES, SLOTS, st.sets(st.integers(0, 26), max_size=4), st.integers(0, 60))
def test_a_choice_among_some_recipes_is_the_cheapest_of_them(
    prices: list[tuple[int, int]], slots: list[list[int]], some: set[int], budget: int
) -> None:
    """By pricing each; without any the shot is not made."""
    master, case = made_up(prices, slots)
    every = [dict(zip(case.slots, keys, strict=True)) for keys in product(*(s.keys for s in case.slots.values()))]
    known = [every[number] for number in some if number < len(every)]
    costs = []
    for recipe in known:
        counts = Counter(recipe.values())
        costs.append(sum(max(n - prices[int(k[1:])][0], 0) * prices[int(k[1:])][1] for k, n in counts.items()))
    within = [cost for cost in costs if cost <= budget]
    found = master.solve(budget, among={"s": known})
    assert found is not None and found.proved
    assert (bool(found.recipes), found.cents) == ((True, min(within)) if within else (False, 0))
    assert not found.recipes or found.recipes["s"] in known


def test_a_kit_is_made_of_what_is_known_to_pass_whenever_that_is_more() -> None:
    studio = plain()
    shot = studio.shots[0]
    studio = studio.changed(shots=(shot, shot.changed(id="again", name="The same again")))
    search = Search.of(studio, few())
    kit = search.best(None)
    assert kit is not None and len(kit.choice.recipes) == 2
    again = Search.of(studio, few())
    again.master.cuts = search.master.cuts
    assert again._of_known(None) is None, "nothing is known"
    for count, key in enumerate(("half", "again"), start=1):
        again.passed[key] = search.passed[key]
        held = again._of_known(None)
        assert held is not None and len(held.choice.recipes) == count
        assert again._of_known(None) is None, "no more is known than before"
        if count == 2:
            assert held.cents == kit.cents and held.value == kit.value and not held.choice.proved
            assert again.so_far is held


def test_a_lesson_is_taken_once() -> None:
    master, _ = made_up([(0, 3), (0, 5)], [[0, 1]])
    lesson = Report(Fail(Clause(frozenset({("slot0", "k0")}), "too weak")), unlit=(Unlit(frozenset(), NEAR[0]),))
    master.cuts.learn("s", lesson)
    master.cuts.learn("s", replace(lesson, found=Fail(Clause(frozenset({("slot0", "k0")}), "in other words"))))
    assert len(master.cuts) == 2
    cheapest = master.solve(None)
    assert cheapest is not None and cheapest.cents == 5


# --- by themselves ------------------------------------------------------------------------------------


def alone_on(studio: Studio) -> tuple[Alone, Case]:
    shelf = market(studio, few())
    return Alone(Checker(studio, shelf)), case_of(studio, studio.shots[0], shelf)


def test_a_shot_by_itself_costs_what_it_costs_in_a_choice() -> None:
    studio = plain()
    alone, case = alone_on(studio)
    for _ in alone.looks(case, 100):
        pass
    none = alone.taken(case)
    assert none.found is None and none.recipe is None and alone.settled[case.id] == 100
    for _ in alone.looks(case, None):
        pass
    report = alone.taken(case)
    assert isinstance(report.found, Pass) and report.recipe is not None and alone.settled[case.id] == inf
    assert alone.taken(case).empty and not list(alone.looks(case, None)), "nothing is looked into twice"
    picked = alone._master(case).solve(None)
    best = Search.of(studio, few()).best(None)
    assert picked is not None and best is not None and set(best.choice.recipes) == {case.id}
    assert picked.cents <= best.cents <= picked.cents + 5000, "weights and leads besides"


def test_what_others_need_makes_a_shot_by_itself_cost_less() -> None:
    alone, case = alone_on(plain())
    for _ in alone.looks(case, None):
        pass
    whole = alone._master(case).solve(None)
    assert whole is not None and whole.recipes[case.id]["key.head"] != NOTHING
    head = whole.recipes[case.id]["key.head"]
    price = alone.checker.market.by_key[head].cents or 0
    for _ in alone.looks(case, whole.cents - price, {head: 1}):
        pass
    assert isinstance(alone.taken(case).found, Pass) and alone.settled[case.id] == inf


def test_a_crew_settles_every_case_whoever_looks() -> None:
    studio = plain()
    shelf = market(studio, few())
    case = case_of(studio, studio.shots[0], shelf)
    crew = Crew.of(Alone(Checker(studio, shelf)), {case.id: case}, helper=None)
    heard: list[str] = []
    found: dict[str, Report] = {}
    crew.by_themselves([Lone(case.id, None)], lambda: False, lambda case: heard.append(case.id), found.__setitem__)
    assert set(found) == {case.id} and isinstance(found[case.id].found, Pass) and heard
    stopped = Crew.of(Alone(Checker(studio, shelf)), {case.id: case}, helper=None)
    stopped.by_themselves([Lone(case.id, None)], lambda: True, lambda case: None, found.__setitem__)
    assert found[case.id].found is None


def test_headshots_between_a_boom_and_a_low_umbrella_can_be_made() -> None:
    """A clamshell in a room of 5.2 × 4.4 m: an umbrella on a boom and, thrown into, one on a floor stand. It was said
    to be impossible, for a bare stand was taken to be where it is without the umbrella."""
    checker, case = cast("Business headshots in series")
    recipe = {
        "body": "camera-full",
        "lens": "lens-85",
        "backdrop": "home-sheet-grey",
        "holder": "tape-and-pins",
        "key.head": "flash-hot-60",
        "key.modifier": "umbrella-85",
        "key.support": "boom-light-180",
        "key.stands_on": NOTHING,
        "key.joint": "swivel-shoe",
        "key.ring": NOTHING,
        "fill.head": "flash-hot-60",
        "fill.modifier": "umbrella-110-white",
        "fill.support": "stand-floor",
        "fill.joint": "swivel-shoe",
        "fill.ring": NOTHING,
    }
    assert isinstance(checker.check(case, recipe), Pass)


# --- what is left out for what one owns --------------------------------------------------------------


def test_another_lens_is_asked_where_nothing_works_with_ones_own() -> None:
    """From so near that a 50 mm frames it, the camera's legs and the stand under the table meet at every distance."""
    studio = spare_room(80.0, "Product lit from below", owned=("camera-full", "lens-50", "tripod-160"))
    search = Search.of(studio, load().all())
    case = search.cases[0]
    kit = search.best(None)
    assert kit is not None and kit.choice.proved and case.id in kit.choice.recipes
    recipe = kit.choice.recipes[case.id]
    assert recipe["lens"] != "lens-50" and search.master.cuts.opened == {case.id}
    assert recipe["lens"] not in case.dropped
    told = [clause for _, clause in search.master.cuts.clauses if ("lens", "lens-50") in clause.never]
    assert any("in the way" in clause.why for clause in told)


def test_one_that_owns_a_lens_that_serves_is_offered_no_other() -> None:
    studio = spare_room(80.0, "Product on a sweep", owned=OWNED)
    search = Search.of(studio, load().all())
    kit = search.best(None)
    assert kit is not None and kit.choice.recipes and not search.master.cuts.opened
    assert set(kit.choice.bought).isdisjoint({"lens-90-close", "lens-24-70"})


def test_what_a_shot_lifts_may_be_refused_for_a_reason_of_its_own() -> None:
    """It was taken to be known already, and the same recipe looked into for ever."""
    never = frozenset({("lens", "long")})
    cuts = Cuts()
    cuts.learn("a", Report(None, (Clause(never, "the short one serves", own=True),)))
    cuts.learn("b", Report(None, (Clause(never, "the short one serves", own=True),)))
    before = len(cuts)
    cuts.learn("a", Report(None, opened=True))
    assert len(cuts) > before and not cuts.holding("a") and [one.why for one in cuts.holding("b")]
    cuts.learn("a", Report(Fail(Clause(never, "the room is too short"))))
    assert [one.why for one in cuts.holding("a")] == ["the room is too short"]
    assert not Report(None, opened=True).empty and Report(None).empty
