"""Laws of edits: what a verb says it writes covers what differs; what is stored can be read again."""

import pytest
from helpers.flood import Flood
from helpers.studios import demo, one_portrait, parse
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from evrant.core.edits.language import EDIT, EditRefused, Light, Remove, Reshape, differing
from evrant.core.place.moves import change, expanded, writes
from evrant.core.place.patterns import PATTERNS
from evrant.core.studio.room import Ell
from evrant.core.studio.studio import Studio


def read_again(studio: Studio) -> Studio:
    return Studio.model_validate_json(studio.dump_json())


@settings(max_examples=60, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(st.integers(0, 10**6))
def test_every_verb_writes_what_it_says_and_leaves_a_studio_that_can_be_read(seed: int) -> None:
    flood, studio = Flood(seed), parse(one_portrait())
    for _ in range(12):
        try:
            edit = EDIT.validate_python(flood.edit(studio))
            after = change(studio, edit)
        except (EditRefused, ValidationError):
            continue
        said = writes(studio, edit)
        spelt = differing(studio, change(studio, expanded(studio, edit)))
        assert differing(studio, after) <= said and spelt == said
        assert read_again(after) == after
        studio = after


@pytest.mark.parametrize("pattern", PATTERNS)
@pytest.mark.parametrize("where", [(39.9, 39.9), (-9.9, -9.9), (0.01, 0.01), (2.0, 1.5)])
def test_a_pattern_near_the_edge_of_the_plan_is_refused_or_readable(pattern: str, where: tuple[float, float]) -> None:
    data = one_portrait()
    data["sets"][0]["mark"] |= {"x": where[0], "y": where[1]}
    studio = parse(data)
    try:
        after = change(studio, EDIT.validate_python({"verb": "light", "target": "sets/s", "pattern": pattern}))
    except (EditRefused, ValidationError):
        return
    assert read_again(after) == after


@pytest.mark.parametrize("pattern", ["hair light", "top light"])
def test_a_long_boom_is_drawn_out_no_further_than_a_place_may_say(pattern: str) -> None:
    data = one_portrait()
    if pattern not in PATTERNS:
        pytest.skip("no such pattern")
    boom = {"id": "boom", "kind": "stand", "name": "Boom", "use": "boom stand", "reach": 2.4, "max_height": 3.0}
    data["gear"].append(boom | {"status": "owned", "legs": 3, "foot_radius": 0.5, "mass": 8.0})
    people = [{"id": f"p{i}", "name": f"P{i}", "height": 1.7, "across": i * 0.5 - 1} for i in range(5)]
    data["shots"][0] |= {"subjects": people, "crop": "whole subject"}
    after = change(parse(data), Light(target="sets/s", pattern=pattern))
    assert read_again(after) == after
    assert all(light.boom_length is None or light.boom_length <= 2 for light in after.sets[0].lights)


def test_a_shape_after_a_removed_wall_names_every_wall_once() -> None:
    studio = demo()
    shape = Ell.model_validate({"length": 4, "width": 3, "cut_length": 1, "cut_width": 1})
    studio = change(studio, Reshape(footprint=shape))
    for wall in [wall.id for wall in studio.room.walls][:3]:
        studio = change(studio, Remove(target=f"room/walls/{wall}"))
    studio = change(studio, Reshape(footprint=shape))
    ids = [wall.id for wall in studio.room.walls]
    assert len(ids) == len(set(ids)) == 6 and read_again(studio) == studio


@pytest.mark.parametrize(
    "edit",
    [
        {"verb": "add", "list": "sets", "item": {"id": "n", "shot": "half", "lights": [{"id": "a"}, {"id": "a"}]}},
        {"verb": "add", "list": "shots", "item": {"id": "n", "subjects": [{"id": "a"}, {"id": "a"}]}},
        {"verb": "add", "list": "rooms", "item": {"id": "n", "room": {"boxes": [{"id": "b", "name": "B"}] * 2}}},
    ],
)
def test_nothing_is_added_that_holds_an_id_twice(edit: dict[str, object]) -> None:
    with pytest.raises((ValidationError, EditRefused), match="used twice"):
        change(parse(one_portrait()), EDIT.validate_python(edit))
