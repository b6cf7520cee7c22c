"""The shelf: what suits a room and a kit, and what changes when a thing takes another's place."""

import re
from decimal import Decimal
from typing import Any

import pytest
from helpers.studios import demo, one_portrait, parse

from evrant.catalogue import load
from evrant.core.base.margins import Verdict
from evrant.core.edits.language import EDIT
from evrant.core.judge.ledger import ledger_of
from evrant.core.place.moves import change
from evrant.core.search.shelf import Wish, carries, compared, lives, shelf, under_ceiling
from evrant.core.studio.gear import Flash, Holder, Item, Lamp, Modifier, Stand
from evrant.core.studio.studio import Studio
from evrant.drawing.gearcard import SCALE, STATURE, gear_card, person

LIBRARY = load().all()


def item(key: str) -> Item:
    found = load().find(key)
    assert found is not None
    return found


def room_of(height: float, **more: Any) -> Studio:
    data = one_portrait()
    data["room"]["height"] = height
    data["room"] |= more
    return parse(data)


def test_every_thing_of_the_catalogue_is_drawn_and_stands_beside_a_person() -> None:
    empty = [one.id for one in LIBRARY if gear_card(one).count("<path") + gear_card(one).count("<ellipse") < 2
             and "column" not in gear_card(one)]  # fmt: skip
    assert not empty
    assert "body" in person() and STATURE * SCALE < 100


def test_what_fits_under_a_ceiling() -> None:
    """By the figures of the data sheets: least height and 10 cm of air; poles must reach."""
    low = room_of(2.1)
    for one in LIBRARY:
        if isinstance(one, Stand) and one.use == "light stand" and one.min_height:
            assert under_ceiling(one, low) == (one.min_height.value + 0.10 <= 2.1)
        if isinstance(one, Holder) and one.system == "floor-to-ceiling poles" and one.min_height and one.max_height:
            assert under_ceiling(one, low) == (one.min_height.value <= 2.1 <= one.max_height.value)
            assert under_ceiling(one, room_of(one.max_height.value + 0.2)) is False
        if isinstance(one, Modifier) and one.width:
            assert under_ceiling(one, low) == ((one.height or one.width).value + 0.10 <= 2.1)
    assert under_ceiling(item("stand-220"), parse({"name": "No height"})) is None


def test_what_carries_the_heaviest_light() -> None:
    studio = demo()
    heads = [one.mass.value for one in studio.gear if isinstance(one, (Flash, Lamp)) and one.at_hand and one.mass]
    fronts = [one.mass.value for one in studio.gear if isinstance(one, Modifier) and one.at_hand and one.mass]
    weight = max(heads) + max(fronts)
    for one in LIBRARY:
        answer = carries(one, studio)
        if isinstance(one, Stand) and one.use == "light stand" and one.load:
            assert answer == (one.load.value >= weight)
        elif not isinstance(one, Stand):
            assert answer is None
    assert carries(item("stand-220"), parse({"name": "No light"})) is None


def test_what_goes_into_the_places_there_are() -> None:
    """A crate of 60 × 40 × 40 cm takes what its diagonal and sides allow; nothing longer than its space diagonal."""
    crate = {"id": "crate", "name": "crate", "length": 0.6, "width": 0.4, "height": 0.4}
    studio = room_of(2.4, places=[crate])
    diagonal, inside = (0.6**2 + 0.4**2 + 0.4**2) ** 0.5, 0
    for one in LIBRARY:
        answer = lives(one, studio)
        sides = [side.value for side in (one.packed_length, one.packed_width, one.packed_height) if side]
        if answer is None:
            assert len(sides) < 3 or one.mass is None
            continue
        if max(sides) > diagonal:
            assert answer is False, one.id
        lies_in = all(side <= room for side, room in zip(sorted(sides), (0.4, 0.4, 0.6), strict=True))
        if lies_in and one.stowed is None:
            assert answer is True, one.id
            inside += 1
    assert inside > 20
    assert lives(item("stand-220"), room_of(2.4, places=[])) is None


def test_the_wish_narrows_and_what_is_not_known_stays() -> None:
    studio = demo()
    stands = shelf(studio, LIBRARY, Wish(kind="stand"))
    assert stands and {one.item.kind for one in stands} == {"stand"}
    assert [one.item.id for one in stands][:1] == [next(g.id for g in studio.gear if g.kind == "stand")]
    strong = shelf(studio, LIBRARY, Wish(kind="stand", carries=True))
    assert {one.item.id for one in stands} - {one.item.id for one in strong} == {
        one.item.id for one in stands if one.carries is False
    }
    cheap = shelf(studio, LIBRARY, Wish(most=Decimal("20")))
    assert cheap and all(one.price is None or one.price <= 20 for one in cheap)
    assert {one.item.id for one in shelf(studio, LIBRARY, Wish(words="octabox"))} >= {"octa-90", "octa-65"}
    assert shelf(studio, LIBRARY, Wish(words="no such thing")) == ()


def test_a_thing_in_anothers_place_is_judged_by_the_ledger() -> None:
    """Counts equal those of the plan with the edits made by hand."""
    studio = demo()
    (small,) = compared(studio, [item("octa-65")])
    assert small.instead is not None and small.instead.id == "octa-90"
    edits = [
        {"verb": "set", "target": "gear/octa-65", "fields": {"status": "planned"}},
        {"verb": "set", "target": "gear/octa-90", "fields": {"status": "considered"}},
    ] + [
        {"verb": "set", "target": f"sets/{plan.id}/lights/{light.id}", "fields": {"modifier": "octa-65"}}
        for plan in studio.sets
        for light in plan.lights
        if light.modifier == "octa-90"
    ]
    by_hand = studio
    for edit in edits:
        by_hand = change(by_hand, EDIT.validate_python(edit))
    lines = ledger_of(by_hand).lines
    assert small.short == sum(line.verdict is Verdict.SHORT for line in lines)
    assert small.tight == sum(line.verdict is Verdict.TIGHT for line in lines)
    before = {line.key for line in ledger_of(studio).lines if line.verdict is Verdict.SHORT}
    after = {line.key for line in lines if line.verdict is Verdict.SHORT}
    assert len(small.lifts) <= 4 and (not small.breaks) == (not after - before)


def test_what_is_used_is_judged_as_it_is_and_what_nothing_answers_is_added() -> None:
    studio = demo()
    used, added = compared(studio, [item("octa-90"), item("tent-40")])
    now = ledger_of(studio).lines
    assert used.instead is None and used.short == sum(line.verdict is Verdict.SHORT for line in now)
    assert added.instead is None


@pytest.mark.parametrize("key", ["stand-220", "octa-90", "paper-135-grey", "table-fold-80", "flash-200"])
def test_the_drawing_has_the_things_own_size(key: str) -> None:
    """The outline's extent, read back from the drawing, is the data sheet's at the card's scale."""
    one = item(key)
    drawn = gear_card(one).split("translate(60", 1)[1]
    numbers = [float(part) for part in re.findall(r"-?\d+\.?\d*", drawn.split(")", 1)[1])]
    wide = getattr(one, "length" if one.kind in ("table", "flash") else "width", None)
    wanted = one.max_height.value if isinstance(one, Stand) and one.max_height else wide.value if wide else 0.0
    reach = max(abs(part) for part in numbers)
    assert any(abs(abs(part) - wanted * SCALE / (1 if isinstance(one, Stand) else 2)) < 0.1 for part in numbers), reach
