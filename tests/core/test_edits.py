"""Edits: what they change, what they refuse, what they write."""

import json
from typing import Any

import pytest
from helpers.studios import demo, one_portrait, parse
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from evrant.core.edits.language import (
    EDIT,
    Add,
    Edit,
    EditRefused,
    Remove,
    Reorder,
    Reshape,
    SetFields,
    Shift,
    clash,
    differing,
    say,
)
from evrant.core.place.moves import change as apply
from evrant.core.place.moves import writes
from evrant.core.studio.room import Ell
from evrant.core.studio.studio import Studio
from evrant.files.document import read_studio, write_studio

TARGETS: list[tuple[str, dict[str, st.SearchStrategy[Any]]]] = [
    ("room", {"height": st.floats(2, 3), "floor": st.sampled_from(["carpet", "tile", None])}),
    ("brief", {"budget": st.integers(0, 5000).map(str), "animals": st.booleans()}),
    ("sets/kneeling-a/camera", {"x": st.floats(0, 3), "operator": st.just("remote or timer")}),
    ("sets/kneeling-a/lights/key", {"height": st.floats(0, 3), "power": st.floats(0.01, 1)}),
    ("gear/octa-90", {"price": st.integers(0, 500).map(str), "width": st.floats(0.2, 2)}),
    ("shots/cat", {"aperture": st.floats(1, 22), "iso": st.integers(50, 6400)}),
]


@st.composite
def field_edits(draw: st.DrawFn) -> SetFields:
    target, fields = draw(st.sampled_from(TARGETS))
    name = draw(st.sampled_from(sorted(fields)))
    return SetFields(target=target, fields={name: draw(fields[name])})


@settings(max_examples=60, deadline=None)
@given(field_edits())
def test_an_edit_and_its_opposite_give_the_same_document(edit: SetFields) -> None:
    before = demo()
    name = next(iter(edit.fields))
    after = apply(before, edit)
    data = json.loads(before.dump_json())
    here: Any = data
    for step in edit.target.split("/"):
        here = next(t for t in here if t["id"] == step) if isinstance(here, list) else here[step]
    back = apply(after, SetFields(target=edit.target, fields={name: here.get(name)}))
    assert back == before
    assert differing(before, after) <= {f"{edit.target}/{name}"}


@settings(max_examples=40, deadline=None)
@given(st.lists(field_edits(), max_size=6))
def test_documents_survive_the_open_format(several: list[SetFields]) -> None:
    studio = demo()
    for edit in several:
        studio = apply(studio, edit)
    assert read_studio(write_studio(studio)) == studio
    assert EDIT.validate_python(EDIT.dump_python(several[0], mode="json")) == several[0] if several else True


def test_unchanged_parts_are_shared() -> None:
    """What makes the ledger's memory work: an edit leaves everything else the same object."""
    before = demo()
    after = apply(before, SetFields(target="sets/kneeling-a/lights/key", fields={"height": 1.5}))
    assert after.room is before.room and after.gear is before.gear and after.sets[0] is before.sets[0]
    assert after.sets[1].lights[1] is before.sets[1].lights[1]


def test_add_remove_and_reorder() -> None:
    studio = parse(one_portrait())
    grown = apply(studio, Add(list="room/boxes", item={"id": "bed", "name": "Bed"}, index=0))
    assert grown.room.boxes[0].name == "Bed"
    assert apply(grown, Remove(target="room/boxes/bed")) == studio
    order = tuple(reversed([item.id for item in studio.gear]))
    assert [i.id for i in apply(studio, Reorder(list="gear", order=order)).gear] == list(order)


def test_removing_a_shot_takes_its_sets_along() -> None:
    after = apply(demo(), Remove(target="shots/cat"))
    assert [plan.id for plan in after.sets] == ["kneeling-a", "dog-a", "standing-a"]


def test_shift_keeps_places_to_each_other() -> None:
    before = demo()
    after = apply(before, Shift(target="sets/kneeling-a", dx=0.1, dy=-0.2))
    old, new = before.sets[1], after.sets[1]
    for name in ("mark", "camera", "background"):
        assert getattr(new, name).x == pytest.approx(getattr(old, name).x + 0.1)
        assert getattr(new, name).y == pytest.approx(getattr(old, name).y - 0.2)
    assert new.lights[0].y == pytest.approx((old.lights[0].y or 0) - 0.2)


def test_reshape_names_the_new_walls() -> None:
    shape = Ell.model_validate({"length": 4, "width": 3, "cut_length": 1, "cut_width": 1})
    room = apply(parse(one_portrait()), Reshape(footprint=shape)).room
    assert [w.name for w in room.walls] == ["south", "east", "north", "west", "Wall 5", "Wall 6"]


@pytest.mark.parametrize(
    ("edit", "words"),
    [
        (SetFields(target="gear/nothing", fields={"price": 1}), "no “gear/nothing”"),
        (SetFields(target="room", fields={"colour": "red"}), "cannot be written"),
        (SetFields(target="gear/box", fields={"id": "other"}), "cannot be written"),
        (SetFields(target="room", fields={"doors": []}), "is a list"),
        (SetFields(target="gear", fields={"x": 1}), "belong to a thing"),
        (Add(list="room", item={}), "not a list"),
        (Add(list="gear", item={"kind": "part", "id": "box", "name": "x"}), "taken"),
        (Remove(target="room/height"), "cannot be removed"),
        (Reorder(list="gear", order=("box",)), "every thing"),
        (Shift(target="room", dx=0, dy=0), "Only a set"),
    ],
)
def test_refusals_say_why(edit: Any, words: str) -> None:
    with pytest.raises(EditRefused, match=words):
        apply(parse(one_portrait()), edit)


@pytest.mark.parametrize(
    ("target", "field", "value"),
    [
        ("room", "height", 0.005),
        ("room", "height", "tall"),
        ("gear/box", "price", -1),
        ("gear/box", "name", ""),
        ("gear/box", "name", "a\u0000b"),
        ("gear/box", "name", "a\ud800b"),
        ("gear/box", "name", "x" * 81),
        ("shots/half", "iso", 3),
        ("sets/s/camera", "x", 1e9),
        ("sets/s/camera", "x", float("nan")),
        ("brief", "country", "Atlantis"),
        ("gear/head", "lowest_power", 0),
    ],
)
def test_bad_fields_are_named(target: str, field: str, value: Any) -> None:
    with pytest.raises(ValidationError) as caught:
        apply(parse(one_portrait()), SetFields(target=target, fields={field: value}))
    assert field in caught.value.errors()[0]["loc"]


def test_two_edits_clash_only_where_they_meet() -> None:
    studio = parse(one_portrait())

    def of(edit: Edit) -> frozenset[str]:
        return writes(studio, edit)

    x = of(SetFields(target="sets/s/camera", fields={"x": 1.25}))
    y = of(SetFields(target="sets/s/camera", fields={"y": 1.25}))
    assert clash(x, y) is None
    assert clash(x, x) == "sets/s/camera/x"
    assert clash(x, of(Remove(target="sets/s"))) is not None
    assert clash(x, of(Shift(target="sets/s", dx=0.1, dy=0))) is not None
    back = Reorder(list="gear", order=tuple(item.id for item in reversed(studio.gear)))
    assert clash(of(back), of(back)) is not None
    assert clash(of(Add(list="gear", item={"id": "new", "kind": "part", "name": "x"})), x) is None


def test_labels_name_the_thing_and_the_field() -> None:
    studio = demo()
    assert say(studio, SetFields(target="room", fields={"height": 2.4})).startswith("Room: ceiling height")
    assert say(studio, Remove(target="gear/octa-90")) == "Remove Octabox 90 cm, inner diffuser"
    assert say(studio, Shift(target="sets/cat-a", dx=1, dy=0)) == "Move the set Cat, on the table"


def test_half_described_studios_are_legal() -> None:
    bare = Studio.model_validate({"format": "evrant-studio", "schema": 1, "name": "x"})
    assert read_studio(write_studio(bare)) == bare
