"""Which of several lenses a kit takes for a face."""

import pytest
from helpers.kits import few, spare_room

from evrant.catalogue import load
from evrant.core.search.kit.optimum import Kit, Search
from evrant.core.search.kit.result import best_kit
from evrant.core.search.kit.standing_back import stood_back
from evrant.core.studio.studio import Studio

OWNED = ("camera-full", "lens-35", "lens-85", "tripod-160")


@pytest.fixture(scope="module")
def studio() -> Studio:
    return spare_room(60.0, "Head and shoulders, seated", owned=OWNED)


def taken(kit: Kit) -> str:
    (recipe,) = kit.choice.recipes.values()
    return recipe["lens"]


def test_of_two_lenses_there_are_the_longer_is_taken_for_a_face(studio: Studio) -> None:
    """35 mm frame a head from 70 cm; the 85 stands where a face keeps its proportions, for the same money."""
    search = Search.of(studio, few())
    kit = search.best(60_000)
    assert kit is not None
    (case,) = kit.choice.recipes
    near = search.as_good(kit, case, {**kit.choice.recipes[case], "lens": "lens-35"})
    assert near is not None and taken(near) == "lens-35"
    back = stood_back(search, near)
    assert taken(back) == "lens-85" and back.cents == near.cents and back.value == near.value
    assert taken(stood_back(search, back)) == "lens-85", "what stands well stays"


def test_the_answer_stands_back(studio: Studio) -> None:
    answer = best_kit(studio, few(), 600.0, whole=False)
    (shot,) = answer["shots"]
    assert shot["made"] and shot["set"]["camera"]["lens"] == "lens-85"
    assert not [words for words in shot["left"] if "nose grows" in words]


def test_where_no_other_lens_passes_the_near_one_stays(studio: Studio) -> None:
    small = studio.changed(gear=tuple(one for one in studio.gear if one.id != "lens-85"))
    search = Search.of(small, few())
    kit = search.best(60_000)
    assert kit is not None and taken(kit) == "lens-35"
    assert taken(stood_back(search, kit)) == "lens-35"


def test_a_zoom_focuses_near_enough_where_its_long_end_does() -> None:
    """A cat from 30 cm at 24 mm, nearer than it focuses; at 70 mm from 85: nothing need be bought for that."""
    studio = spare_room(60.0, "Pet on a table", owned=("camera-full", "lens-24-70", "tripod-160", "table-fold-80"))
    answer = best_kit(studio, [*few(), *(one for one in load().all() if one.kind == "lens")], 900.0, whole=False)
    (shot,) = answer["shots"]
    assert shot["made"] and shot["set"]["camera"]["lens"] == "lens-24-70"
    assert shot["set"]["camera"]["focal"] > 0.03 and not [row for row in answer["buy"] if "lens" in row["key"]]
