"""What goes first, and what stands back meanwhile."""

import time

from helpers.studios import demo

from evrant.core.base.memo import fresh
from evrant.core.base.turns import JUDGING, Turns
from evrant.core.judge import ledger
from evrant.core.light.emission import Missing
from evrant.core.light.lit import lit
from evrant.core.picture import render
from evrant.core.space.scene import scene_of


def test_one_stands_back_until_all_that_go_first_are_through() -> None:
    turns = Turns()
    assert turns.stand_back(0.0)
    with turns.first():
        with turns.first():
            assert not turns.stand_back(0.01)
        assert not turns.stand_back(0.01), "one of two is through"
    assert turns.stand_back(0.0)


def test_a_fault_lets_go_too() -> None:
    turns = Turns()
    try:
        with turns.first():
            raise ValueError
    except ValueError:
        pass
    assert turns.stand_back(0.0)


def test_a_picture_asks_for_its_turn_and_is_not_kept_for_ever() -> None:
    """With a ledger that never ends it waits as long as it is said to, then goes on; and a ledger is one that goes
    first."""
    studio = demo()
    scene = scene_of(studio, studio.sets[0])
    state = lit(scene) if scene is not None else None
    assert state is not None and not isinstance(state, Missing)
    render.picture(state, 60, fine=False)
    began = time.perf_counter()
    with JUDGING.first():
        asked: list[float] = []

        def stop() -> bool:
            asked.append(time.perf_counter())
            return False

        found = render.picture(state, 60, fine=False, stop=stop)
    assert found is not None and len(asked) >= 3
    assert asked[0] - began >= render.STANDS_BACK * 0.9
    inside: list[bool] = []
    rule = ledger._of_set

    def looked(*given: object) -> object:
        inside.append(JUDGING.stand_back(0.0))
        return rule(*given)  # type: ignore[arg-type]

    ledger._of_set = looked  # type: ignore[assignment]
    try:
        with fresh():
            ledger.ledger_of(studio)
    finally:
        ledger._of_set = rule
    assert inside and not any(inside) and JUDGING.stand_back(0.0)
