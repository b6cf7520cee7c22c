"""The kit's search on two cores, in any order, up to a cancel: the same answer, and what works so far."""

import os
import signal
from dataclasses import replace

import pytest
from helpers.kits import few, plain
from hypothesis import given, settings
from hypothesis import strategies as st

from evrant.catalogue import load
from evrant.core.base.margins import Verdict
from evrant.core.base.quantity import GEAR_LENGTH
from evrant.core.judge.declared import lines
from evrant.core.judge.ledger import ledger_of
from evrant.core.search.kit.blame import slots_of
from evrant.core.search.kit.crew import Answer, Gone, Lone, Task
from evrant.core.search.kit.cupboard import Cupboard
from evrant.core.search.kit.market import market
from evrant.core.search.kit.master import Need
from evrant.core.search.kit.optimum import Kit, Search, lacking
from evrant.core.search.kit.result import best_kit, finished_studio
from evrant.core.search.kit.verdicts import Besides, Pass, Stopped
from evrant.core.search.kit.weights import weighs
from evrant.core.studio.gear import Item
from evrant.core.studio.room import Place
from evrant.core.studio.sets import SetPlan
from evrant.core.studio.studio import Studio
from evrant.demo import demo_studio
from evrant.jobs import aside as aside_module
from evrant.jobs.aside import Aside, cores

CORNER = (
    "bg-stands-26",
    "tension-rod-32",
    "paper-135-grey",
    "paper-210-grey",
    "vinyl-150-grey",
    "poles-pair",
    "flash-hot-60",
    "umbrella-85",
    "softbox-60-90",
    "stand-220",
    "stand-260",
    "swivel-shoe",
    "swivel-umbrella",
    "trigger-one",
    "home-sandbag",
)


def corner() -> tuple[Studio, list[Item]]:
    """The adoption corner with four shots, of which two can be made, and a short shelf."""
    studio = demo_studio("adoption-corner")
    owned = tuple(one for one in studio.gear if one.status == "owned")
    shelf = [found for key in CORNER if (found := load().find(key)) is not None]
    return studio.changed(gear=owned, sets=()), shelf


@pytest.fixture(scope="module")
def alone() -> Kit:
    search = Search.of(*corner())
    found = search.best(90_000)
    assert found is not None and search.crew.aside is None
    return found


@pytest.fixture
def two_cores(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(aside_module, "cores", lambda: 2)


def test_two_find_what_one_finds(alone: Kit, two_cores: None) -> None:
    search = Search.of(*corner(), helper=aside_module.start)
    assert isinstance(search.crew.aside, Aside) and search.crew.theirs == {"dog", "standing"}
    found = search.best(90_000)
    pid = search.crew.aside.pid
    search.close()
    assert found is not None
    assert (found.value, found.cents, set(found.choice.recipes)) == (alone.value, alone.cents, {"cat", "dog"})
    assert search.crew.elsewhere.searches > 0
    with pytest.raises(ProcessLookupError):
        os.kill(pid, 0)


def test_a_search_whose_helper_dies_goes_on_by_itself(alone: Kit, two_cores: None) -> None:
    search = Search.of(*corner(), helper=aside_module.start)
    assert isinstance(search.crew.aside, Aside)
    os.kill(search.crew.aside.pid, signal.SIGKILL)
    found = search.best(90_000)
    assert search.crew.aside is None and not search.crew.theirs
    assert found is not None and (found.value, found.cents) == (alone.value, alone.cents)


def test_one_core_or_one_shot_needs_no_helper(monkeypatch: pytest.MonkeyPatch) -> None:
    assert cores() == len(os.sched_getaffinity(0))
    monkeypatch.setattr(aside_module, "cores", lambda: 1)
    assert Search.of(*corner(), helper=aside_module.start).crew.aside is None
    monkeypatch.setattr(aside_module, "cores", lambda: 2)
    assert Search.of(plain(), few(), helper=aside_module.start).crew.aside is None


def test_a_helper_that_has_ended_says_so() -> None:
    studio, shelf = corner()
    aside = Aside(studio, market(studio, shelf), [])
    aside.close()
    with pytest.raises((Gone, ValueError)):
        aside.answer()


@pytest.mark.parametrize("budgets", [(90_000, 35_000, 20_000), (20_000, 35_000, 90_000)])
def test_the_answer_does_not_hang_on_what_was_asked_before(alone: Kit, budgets: tuple[int, ...]) -> None:
    """What one budget taught does not make another's optimum worse."""
    search = Search.of(*corner())
    found = {budget: search.best(budget) for budget in budgets}
    best = found[90_000]
    assert best is not None and (best.value, best.cents) == (alone.value, alone.cents)
    for budget in budgets[:-1]:
        anew = Search.of(*corner()).best(budget)
        kept = found[budget]
        assert (kept is None) == (anew is None)
        if kept is not None and anew is not None:
            assert (kept.value, kept.cents) == (anew.value, anew.cents)


def test_what_works_so_far_is_told_and_kept_after_a_cancel() -> None:
    """Kits told on the way get better, are within the budget, and their sets pass room and ledger. One is told before
    the answer, and is kept when somebody stops then."""
    studio, shelf = corner()
    search = Search.of(studio, shelf)
    told: list[Kit] = []
    search.tell = told.append
    best = search.best(90_000)
    assert best is not None and search.so_far is not None and search.so_far.value == best.value
    assert told and told[-1].value == best.value and told[-1].cents == best.cents and best.choice.proved
    order = [(kit.value, -kit.cents) for kit in told]
    assert order == sorted(set(order)), "each is worth more than the one before, or as much for less"
    for kit in told:
        assert kit.choice.bought == lacking(kit, search.market)
        assert kit.cents <= 90_000
        finished = finished_studio(search, studio, kit)
        short = [m.code for m in ledger_of(finished).lines if m.verdict is Verdict.SHORT]
        assert not [code for code in short if code.startswith(("fit.", "support.", "trigger.", "light.power"))], short
    seen: list[bool] = []
    answer = best_kit(
        studio, shelf, 900.0, tell=lambda words, so_far: seen.append(so_far is not None), stop=lambda: any(seen)
    )
    assert answer["stopped"] and answer["found"] and answer["phases"]
    assert answer["cost"] == pytest.approx(told[0].cents / 100)


def test_a_cancel_before_anything_works_says_nothing() -> None:
    search = Search.of(*corner(), stop=lambda: True)
    with pytest.raises(Stopped):
        search.best(90_000)
    assert search.so_far is None and search.first_s is None


# --- the cupboard ------------------------------------------------------------------------------------


def cupboard(length: float, height: float = 0.5) -> Cupboard:
    """The portrait's room with one box to strike everything into."""
    place = Place(id="box", name="box", kind="cupboard", length=length, width=0.5, height=height, load=60)
    studio = plain()
    studio = studio.changed(room=studio.room.changed(places=(place,)))
    return Cupboard(studio, market(studio, few()))


def test_what_is_longer_than_every_place_is_known_at_once() -> None:
    short, long = cupboard(0.8), cupboard(3.0, 2.5)
    too_large = {key for bound in short.too_large() for key in bound.goods}
    assert "paper-210-grey" in too_large and "flash-200" not in too_large
    assert not list(long.too_large())
    for bound in short.too_large():
        assert short.left(bound.goods) and not long.left(bound.goods)


def test_a_shot_whose_backgrounds_go_into_no_place_says_so() -> None:
    """Only rolls are on offer, and they stand upright: a low cupboard takes none."""
    place = Place(id="box", name="box", kind="cupboard", length=1.4, width=0.5, height=0.5, load=60)
    studio = plain()
    shots = tuple(shot.changed(tone="grey") for shot in studio.shots)
    low = studio.changed(room=studio.room.changed(places=(place,)), shots=shots)
    answer = best_kit(low, few(), 2000.0, whole=False)
    assert not answer["found"] and answer["proved"]
    assert "even the paper roll 1.35" in answer["shots"][0]["why"].lower()
    assert "none of your places" in answer["shots"][0]["why"]
    poor = best_kit(plain(), few(), 1.0, whole=False)
    assert not poor["found"] and "the least not ruled out yet is" in poor["shots"][0]["why"]


@settings(deadline=None, max_examples=25)
@given(st.dictionaries(st.sampled_from([item.id for item in few()]), st.integers(1, 6), max_size=6))
def test_the_fault_of_a_full_cupboard_is_itself_too_much_and_no_part_of_it(bought: dict[str, int]) -> None:
    box = cupboard(1.4)
    fault = box.fault(bought)
    assert (fault is None) == (box.left(bought) == 0)
    if fault is not None:
        assert box.left(fault.goods)
        assert fault.goods.items() <= bought.items()


# --- blame -------------------------------------------------------------------------------------------


def test_a_line_that_hangs_on_the_place_blames_the_whole_recipe() -> None:
    """What a light gives depends on the walls about it, so on all that settles where the set stands."""
    recipe = {"body": "b", "lens": "l", "backdrop": "g", "holder": "h", "key.head": "f", "key.joint": "j"}
    line = next(m for m in ledger_of(demo_studio("adoption-corner")).lines if m.code.startswith("light.power"))

    def blamed(code: str, unit: str) -> set[str]:
        about = (f"sets/one/{unit}",)
        return slots_of(replace(line, line=lines()[code], about=about), recipe)

    assert blamed("light.power_full", "lights/key") == set(recipe) - {"key.joint"}
    assert blamed("support.joint", "lights/key") == {"key.head", "key.joint"}
    assert blamed("support.push", "camera") == {"body", "lens"}
    assert blamed("support.holder_load", "background") == {"body", "lens", "backdrop", "holder"}


def test_weights_are_counted_for_the_farthest_place_whatever_the_recipe() -> None:
    """The weights a kit buys are at least those its sets hang up, and enough for the stand farther away."""
    search = Search.of(plain(), few())
    kit = search.best(200_000)
    assert kit is not None
    for key, found in kit.passes.items():
        hung = sum(one.count for one in found.besides if one.key == "sandbag-10")
        assert kit.besides[key].get("sandbag-10", 0) >= hung
        assert kit.choice.bought.get("sandbag-10", 0) >= kit.besides[key].get("sandbag-10", 0)
    tall = [one.changed(max_height=GEAR_LENGTH.figure(4.0)) if one.id.startswith("stand-") else one for one in few()]
    assert Search.of(plain(), tall).best(200_000) is not None


def test_weights_counted_for_a_unit_serve_for_lighter_ones_of_another_kind() -> None:
    """Twenty kilograms in two bags are there; what hangs up to that needs no other bag, what is heavier does."""
    search = Search.of(plain(), [*few(), found] if (found := load().find("home-sandbag")) else few())
    recipe = {"key.head": "flash-200", "key.modifier": "octa-90", "key.support": "stand-260"}
    search.master.cuts.needs.append(Need("half", "key", frozenset(recipe.items()), "sandbag-10", 2))
    counted = search.master.cuts.weighing("half", recipe, search.market.by_key)
    assert counted == {"key": 20_000} and weighs(search.market.by_key["home-sandbag"].item) == 4000

    def beyond(count: int, unit: str = "key") -> list[str]:
        hung = (Besides(unit, "home-sandbag", count, ()), Besides(unit, "lead-5", 1, ()))
        passed = Pass(SetPlan(id="one", shot="half"), hung, None, ())
        return [one.key for one in search._beyond("half", recipe, passed)]

    assert beyond(5) == ["lead-5"]
    assert beyond(6) == ["home-sandbag", "lead-5"]
    assert beyond(1, "fill") == ["home-sandbag", "lead-5"]


class Stuck:
    """A helper that never answers."""

    def __init__(self) -> None:
        self.asked, self.waits, self.closed = 0, 0, False

    def ask(self, task: Task | Lone) -> None:
        self.asked += 1

    def ready(self, seconds: float = 0.0) -> bool:
        self.waits += seconds > 0
        return False

    def answer(self) -> Answer:
        raise AssertionError("nobody waits here for good")

    def close(self) -> None:
        self.closed = True


def test_who_waits_for_a_helper_hears_that_the_time_is_up() -> None:
    stuck = Stuck()
    search = Search.of(*corner(), helper=lambda studio, goods, cases: stuck)
    search.stop = lambda: stuck.waits > 3
    with pytest.raises(Stopped):
        search.best(90_000)
    assert stuck.asked and stuck.closed and stuck.waits == 4
    assert search.crew.aside is None and not search.crew.theirs


def test_a_helper_that_hears_nothing_is_ended_at_once() -> None:
    """It is stopped while it is still being told of the whole catalogue, more than a pipe holds."""
    studio, shelf = corner()
    aside = Aside(studio, market(studio, load().all()), [])
    os.kill(aside.pid, signal.SIGSTOP)
    assert not aside.ready(0.05)
    aside.close()
    with pytest.raises(ProcessLookupError):
        os.kill(aside.pid, 0)
