"""Two who change one studio at once: nothing is put back, taken away or left dangling without a word."""

from typing import Any

import pytest
from helpers.studios import demo, one_portrait, parse

from evrant.core.edits.language import EDIT, Add, Remove, SetFields, Shift, Turn
from evrant.core.studio.studio import Studio, dangling
from evrant.store.changing import Conflict
from evrant.store.repository import Repository

KEY = "sets/kneeling-a/lights/key"


def two(store: Repository, first: Any, second: Any, studio: Studio | None = None) -> Studio:
    """The studio after two edits, both made on its first revision."""
    made = store.create(studio or demo(), label="Two")
    store.change(made.studio_id, 1, "first-one", first)
    return store.change(made.studio_id, 1, "second-one", second).studio


def light(pattern: str = "loop") -> Any:
    return EDIT.validate_python({"verb": "light", "target": "sets/kneeling-a", "pattern": pattern})


@pytest.mark.parametrize(
    ("first", "second"),
    [
        (SetFields(target=KEY, fields={"bag": 33.0}), light()),
        (SetFields(target="sets/kneeling-a/mark", fields={"x": 1.7}), light()),
        (SetFields(target="sets/kneeling-a/background", fields={"height": 2.03}), light("hair light")),
        (Remove(target="shots/kneeling"), SetFields(target=KEY, fields={"x": 1.0})),
        (SetFields(target=KEY, fields={"x": 1.0}), Remove(target="shots/kneeling")),
        (
            Add(list="sets", item={"id": "new", "shot": "kneeling", "name": "Another"}),
            Remove(target="shots/kneeling"),
        ),
        (SetFields(target="sets/cat-a/camera", fields={"lens": "zoom-24-70"}), Remove(target="gear/zoom-24-70")),
        (SetFields(target=KEY, fields={"y": 1.0}), Turn(target="sets/kneeling-a", facing=30.0)),
    ],
)
def test_what_would_be_lost_in_silence_is_asked(store: Repository, first: Any, second: Any) -> None:
    studio = demo()
    gear = {item.id for item in studio.gear}
    if isinstance(first, SetFields) and first.fields.get("lens") not in (None, *gear):
        lens = next(item.id for item in studio.gear if item.kind == "lens" and item.id != studio.sets[0].camera.lens)
        first = SetFields(target="sets/cat-a/camera", fields={"lens": lens})
        second = Remove(target=f"gear/{lens}")
    made = store.create(studio, label="Two")
    store.change(made.studio_id, 1, "first-one", first)
    before = store.newest(made.studio_id).studio
    with pytest.raises(Conflict):
        store.change(made.studio_id, 1, "second-one", second)
    assert store.newest(made.studio_id).studio == before


def test_a_set_moved_whole_moves_its_people_and_clashes_with_who_moves_them(store: Repository) -> None:
    data = one_portrait()
    data["sets"][0]["people"] = [{"id": "helper", "x": 1.0, "y": 1.0}]
    with pytest.raises(Conflict):
        two(
            store,
            SetFields(target="sets/s/people/helper", fields={"x": 1.5}),
            Shift(target="sets/s", dx=0.1, dy=0.0),
            parse(data),
        )


def test_what_does_not_meet_is_kept_from_both(store: Repository) -> None:
    after = two(
        store,
        SetFields(target="sets/cat-a/mark", fields={"x": 1.0}),
        light(),
    )
    cat = next(plan for plan in after.sets if plan.id == "cat-a")
    assert cat.mark.x == 1.0 and not dangling(after)


@pytest.mark.parametrize("fields", [{"bag": 33.0}, {"x": 1.9, "y": 0.9}, {"bag": None}])
def test_who_asks_for_what_is_there_already_is_not_asked_back(store: Repository, fields: Any) -> None:
    """The same edit from two pages, or sent again after its answer was lost: nothing to choose between."""
    made = store.create(demo(), label="Two")
    edit = SetFields(target=KEY, fields=fields)
    first = store.change(made.studio_id, 1, "first-one", edit)
    again = store.change(made.studio_id, 1, "second-one", edit)
    assert again.number == first.number and again.studio == first.studio
    with pytest.raises(Conflict):
        store.change(made.studio_id, 1, "third-one", SetFields(target=KEY, fields={next(iter(fields)): 7.7}))
