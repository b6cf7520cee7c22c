"""Verbs that move several things, spelt out: the same studio, the fewest fields, nothing hidden."""

import pytest
from helpers.studios import demo, one_portrait, parse

from evrant.core.edits.language import (
    EDIT,
    Edit,
    EditRefused,
    Light,
    SetFields,
    Several,
    Turn,
    apply,
    between,
    differing,
)
from evrant.core.place.moves import change, expanded, relies_on, tried, writes
from evrant.core.studio.studio import Studio

KNEELING = "sets/kneeling-a"


def verbs(edit: Edit) -> set[str]:
    return {one.verb for one in edit.edits} if isinstance(edit, Several) else {edit.verb}


@pytest.mark.parametrize("pattern", ["loop", "butterfly", "Rembrandt", "split", "clamshell"])
@pytest.mark.parametrize("side", ["left", "right"])
def test_a_pattern_is_spelt_out_in_plain_verbs(pattern: str, side: str) -> None:
    studio = demo()
    wish = Light(target=KNEELING, pattern=pattern, side=side)
    spelt = expanded(studio, wish)
    assert verbs(spelt) <= {"set", "add", "remove", "reorder"}
    assert apply(studio, spelt) == change(studio, wish)
    again = EDIT.validate_json(EDIT.dump_json(spelt))
    assert apply(studio, again) == change(studio, wish), "as it is stored"
    touched = {path.split("/")[1] for path in writes(studio, wish)}
    assert touched == {"kneeling-a"}


def test_turning_the_face_is_spelt_out_too() -> None:
    studio = demo()
    facing = (studio.sets[0].mark.facing or 0.0) + 25
    spelt = expanded(studio, Turn(target=KNEELING, facing=facing))
    assert f"{KNEELING}/mark/facing" in writes(studio, spelt)
    assert any("/lights/" in path for path in writes(studio, spelt)), "lights that belong to the face go round with it"


def test_inside_several_each_is_spelt_out_where_the_ones_before_it_led() -> None:
    studio = demo()
    moved = SetFields(target=f"{KNEELING}/mark", fields={"x": 1.5})
    both = Several(edits=(moved, Light(target=KNEELING, pattern="loop")), label="Moved and lit")
    after = change(studio, both)
    assert after == change(change(studio, moved), Light(target=KNEELING, pattern="loop"))
    assert verbs(expanded(studio, both)) <= {"set", "add", "remove", "reorder"}


def test_the_pure_language_takes_no_wish() -> None:
    with pytest.raises(EditRefused, match="spelt out"):
        apply(demo(), Light(target=KNEELING, pattern="loop"))


@pytest.mark.parametrize("target", ["sets/none", "room", "gear/octa-90", "shots/cat"])
def test_only_sets_are_lit(target: str) -> None:
    with pytest.raises(EditRefused):
        change(demo(), Light(target=target, pattern="loop"))


def test_between_two_states_are_the_fields_that_differ_and_no_others() -> None:
    studio = parse(one_portrait())
    plan = studio.sets[0]
    after = plan.changed(
        mark=plan.mark.changed(x=2.2),
        lights=(plan.lights[0].changed(id="new", role="fill"), plan.lights[0].changed(power=0.5)),
    )
    found = between(plan, after, "sets/s")
    assert sorted(one.verb for one in found) == ["add", "reorder", "set", "set"]
    walked: Studio = studio
    for one in found:
        walked = apply(walked, one)
    assert walked.sets[0] == after
    assert differing(studio, walked) == {
        "sets/s/mark/x",
        f"sets/s/lights/{plan.lights[0].id}/power",
        "sets/s/lights/new",
    }
    assert between(plan, plan, "sets/s") == ()


def test_what_an_edit_was_made_from_is_told() -> None:
    studio = demo()
    wish = Light(target=KNEELING, pattern="loop")
    relied = relies_on(studio, wish)
    assert {f"{KNEELING}/mark", f"{KNEELING}/camera", f"{KNEELING}/background", "shots/kneeling"} <= relied
    assert relies_on(studio, SetFields(target="room", fields={"height": 2.4})) == frozenset()


def test_what_is_looked_at_proposed_and_done_is_the_same_studio() -> None:
    """So that what was worked out for a preview or a remedy is known when it is done."""
    studio, key = demo(), f"{KNEELING}/lights/key"
    edit = SetFields(target=key, fields={"x": 1.7})
    assert tried(studio, edit) is tried(studio, SetFields(target=key, fields={"x": 1.7}))
    assert tried(studio, edit) == change(studio, edit) and tried(studio, edit) is not studio
    wish = Light(target=KNEELING, pattern="loop")
    assert tried(studio, wish) is tried(studio, expanded(studio, wish)) == change(studio, wish)
    assert tried(studio, SetFields(target=key, fields={"x": 1.71})) != tried(studio, edit)
    later = change(studio, SetFields(target="room", fields={"height": 2.4}))
    assert tried(later, edit) == change(later, edit) != tried(studio, edit)
    for _ in range(2):
        with pytest.raises(EditRefused):
            tried(studio, SetFields(target=f"{KNEELING}/lights/none", fields={"x": 1.7}))
