"""What holds a card is bought with it: counted in the sum, named in the set, and not the stand of a light twice."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from evrant.catalogue import load
from evrant.catalogue.bundles import things
from evrant.core.base.margins import Verdict
from evrant.core.edits.language import SetFields
from evrant.core.judge.ledger import lines_of_set
from evrant.core.place.moves import change
from evrant.core.search.begin.answers import Answers, studio_of
from evrant.core.search.kit.case import Case, Slot
from evrant.core.search.kit.market import Good, Market
from evrant.core.search.kit.master import Master, Need
from evrant.core.search.kit.parts import parts_wanted
from evrant.core.search.kit.result import best_kit
from evrant.core.studio.gear import Item, Part
from evrant.core.studio.room import Finish
from evrant.core.studio.sets import SetPlan
from evrant.core.studio.shots import Shot
from evrant.core.studio.studio import Studio

LIBRARY = {item.id: item for item in load().all()}
DAYLIGHT = {
    "pattern": "window and reflector", "aperture": 1.8, "iso": 200, "shutter": 0.0125, "kept": 0.641,
    "around": "daylight",
}  # fmt: skip


def by_the_window(like: str, *more: Item, dark: bool = True, take: str = "Half-length, standing") -> Studio:
    """Somebody by the window of a room, its walls and ceiling as they come or `dark`, with a telephone and what is
    owned besides."""
    have = ["telephone"]
    asked = {"take": [take], "where": {"like": like, "window": "yes"}, "have": have}
    studio = studio_of(Answers.model_validate(asked | {"spend": 200, "country": "DE"}), things(have))
    studio = studio.changed(gear=(*studio.gear, *(item.changed(status="owned", quantity=1) for item in more)))
    for target, fields in ((f"shots/{studio.shots[0].id}", DAYLIGHT), ("brief/schools", {"source": "window"})):
        studio = change(studio, SetFields(target=target, fields=fields))
    if not dark:
        return studio
    grey = Finish.model_validate({"lrv": 25, "colour": "#808080"})
    walls = tuple(wall.changed(finish=grey) for wall in studio.room.walls)
    studio = studio.changed(room=studio.room.changed(walls=walls, ceiling=grey))
    return change(studio, SetFields(target=f"shots/{studio.shots[0].id}", fields={"iso": 400}))


def shelf(*keys: str) -> list[Item]:
    return [LIBRARY[key] for key in keys]


@pytest.mark.parametrize(
    ("like", "owned", "offered", "bought", "held"),
    [
        ("garage", (), ("home-white-box", "stand-180", "stand-260"), {"home-white-box": 1, "stand-180": 1}, True),
        ("garage", ("stand-180",), ("home-white-box", "stand-180"), {"home-white-box": 1}, True),
        ("living-room corner", (), ("home-white-box", "stand-260"), {"home-white-box": 1, "stand-260": 1}, True),
        # the wardrobe stands where the legs would: there is nothing to hold it, and one is counted all the same
        ("small bedroom", (), ("home-white-box", "stand-180"), {"home-white-box": 1, "stand-180": 1}, False),
        # none on offer goes so high
        ("garage", (), ("home-white-box", "stand-floor"), {"home-white-box": 1}, False),
    ],
)
def test_the_stand_of_a_card_is_bought_with_it(
    like: str, owned: tuple[str, ...], offered: tuple[str, ...], bought: dict[str, int], held: bool
) -> None:
    """By hand: the card's middle is about 1.58 m up, at the face; the cheapest stand of the market that goes so high
    holds it, one that is owned for nothing. Once: 2 for the cardboard was all, and it hung in the air."""
    studio = by_the_window(like, *shelf(*owned))
    found = best_kit(studio, shelf(*offered), 200.0, whole=False)
    (shot,) = found["shots"]
    assert shot["made"] and {row["key"]: row["count"] for row in found["buy"]} == bought
    assert found["cost"] == sum(float(LIBRARY[key].price or 0) * n for key, n in bought.items())
    plan = shot["set"]
    (card,) = [prop for prop in plan["props"] if prop.get("item") == "home-white-box"]
    gear = [LIBRARY[key].changed(status="planned", quantity=count) for key, count in bought.items()]
    after = studio.changed(gear=(*studio.gear, *gear), sets=(SetPlan.model_validate(plan),))
    lines = lines_of_set(after, after.sets[0])
    air = [line for line in lines if line.code == "support.card" and line.verdict is Verdict.SHORT]
    assert bool(air) is not held and bool(card.get("support")) is held
    if held:
        assert card["support"] in {*owned, *bought}
        good = [line for line in lines if line.code in ("support.card_reach", "support.card_load", "support.tipping")]
        assert len(good) >= 3 and all(line.verdict is not Verdict.SHORT for line in good)
        assert not [row for row in parts_wanted(after, list(LIBRARY.values())) if row.word == "stands for cards"]


@pytest.mark.parametrize(("dark", "bought"), [(True, {"home-white-box": 1, "stand-180": 1}), (False, {})])
def test_a_reflector_is_bought_where_the_room_does_not_fill_what_the_window_leaves_dark(
    dark: bool, bought: dict[str, int]
) -> None:
    """The same room with grey and with light walls. Once: a card that added 0.05 stops was bought for either."""
    studio = by_the_window("garage", dark=dark)
    found = best_kit(studio, shelf("home-white-box", "stand-180"), 200.0, whole=False)
    (shot,) = found["shots"]
    assert shot["made"] and {row["key"]: row["count"] for row in found["buy"]} == bought
    gear = [LIBRARY[key].changed(status="planned", quantity=count) for key, count in bought.items()]
    after = studio.changed(gear=(*studio.gear, *gear), sets=(SetPlan.model_validate(shot["set"]),))
    lines = {line.code: line for line in lines_of_set(after, after.sets[0])}
    wanted = lines.get("light.reflector_wanted")
    assert ("light.card" in lines) is dark and (wanted is None) is dark
    if wanted is None:
        assert lines["light.card"].verdict is Verdict.CLEAR
        bare = after.sets[0].changed(props=())
        without = {line.code: line for line in lines_of_set(after, bare)}["light.reflector_wanted"]
        assert without.verdict is Verdict.SHORT
    else:
        assert wanted.verdict is not Verdict.SHORT


def test_who_is_in_a_hurry_is_offered_a_board_that_something_holds() -> None:
    """By that wardrobe the small board has no stand that fits; the large one stands on the floor."""
    studio = by_the_window("small bedroom", take="Head and shoulders, seated")
    found = best_kit(studio, shelf("home-white-box", "foam-100-70", "stand-180"), 200.0, whole=False, hasty=True)
    (shot,) = found["shots"]
    assert shot["made"] and not [words for words in shot["left"] if "hangs in the air" in words]
    assert [row["key"] for row in found["buy"]] == ["foam-100-70"] and not found["proved"]
    (card,) = [prop for prop in shot["set"]["props"] if prop.get("item") == "foam-100-70"]
    assert card["height"] == 0.0


ONE = st.sampled_from(["a", "b"])


@settings(max_examples=60, deadline=None)
@given(
    st.tuples(st.integers(0, 2), st.integers(0, 2)),
    st.tuples(st.integers(1, 40), st.integers(1, 40)),
    st.lists(st.tuples(ONE, st.integers(1, 2)), min_size=1, max_size=2),
    st.integers(0, 160),
)
def test_what_is_needed_besides_is_another_one_than_what_fills_a_slot(
    owned: tuple[int, int], prices: tuple[int, int], needed: list[tuple[str, int]], budget: int
) -> None:
    """A shot's light stands on `a` or `b`; whichever, units of it need some of the same things. By trying both."""
    goods = [Good(Part(id=key, name=key, use="other"), n, p) for key, n, p in zip("ab", owned, prices, strict=True)]
    case = Case(Shot.model_validate({"id": "s", "priority": "must", "sessions": 1}), "loop")
    case.slots["key.support"] = Slot("key.support", "", ("a", "b"))
    master = Master(Market(tuple(goods), (), "EUR"), [case])
    for number, (key, count) in enumerate(needed):
        for filled in "ab":
            master.cuts.needs.append(Need("s", f"card-{number}", frozenset({("key.support", filled)}), key, count))
    found = master.solve(budget)
    costs = []
    for filled in "ab":
        counts = {key: (filled == key) + sum(n for one, n in needed if one == key) for key in "ab"}
        costs.append(sum(max(counts[good.key] - good.owned, 0) * (good.cents or 0) for good in goods))
    assert found is not None and found.proved
    assert bool(found.recipes) == (min(costs) <= budget)
    if found.recipes:
        assert found.cents == min(costs)
