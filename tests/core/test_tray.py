"""Things put on a room's plan by hand: usual sizes, free places, turning and swinging over."""

from typing import Any

import numpy as np
import pytest
import shapely
from helpers.studios import one_portrait, parse

from evrant.core.base.margins import Verdict
from evrant.core.edits.language import EDIT
from evrant.core.judge.ledger import ledger_of
from evrant.core.place.moves import change
from evrant.core.place.tray import BY_HAND, TRAY, Wish, free_stretches, quarter_turned, swung_over, usual_thing
from evrant.core.space.footprint import plan_of
from evrant.core.space.scene import Scene
from evrant.core.space.things import door_swing
from evrant.core.studio.brief import Brief
from evrant.core.studio.room import Box, Door, Room, Zone
from evrant.core.studio.sets import SetPlan
from evrant.core.studio.shots import Shot
from evrant.core.studio.typical import TYPICAL, typical_room
from evrant.drawing.roomplan import room_plan

ROOMS = [(like, ell) for like in TYPICAL for ell in (False, True)]


def with_thing(room: Room, name: str, item: dict[str, Any]) -> Room:
    data = room.model_dump(mode="json", exclude_none=True)
    return Room.model_validate(data | {name: [*data.get(name, []), {"id": "new", **item}]})


def floor_of(room: Room) -> shapely.Polygon:
    walls = plan_of(room)
    assert walls is not None
    return shapely.Polygon(walls.corners)


def body(box: Any) -> Any:
    return shapely.box(box.x.value, box.y.value, box.x.value + box.length.value, box.y.value + box.width.value)


@pytest.mark.parametrize(("like", "ell"), ROOMS)
@pytest.mark.parametrize("what", list(TRAY))
def test_everything_lands_in_every_usual_room_as_assumed(like: str, ell: bool, what: str) -> None:
    """Each figure is a guess; furniture stands inside, openings within their wall, and the ledger judges the room."""
    room = Room.model_validate(typical_room(like, ell=ell))
    name, item = usual_thing(room, what, Wish())
    after = with_thing(room, name, item)
    thing = getattr(after, name)[-1]
    figures = [value for value in item.values() if isinstance(value, dict)]
    assert figures and all(value["origin"] == "guess" for value in figures)
    walls = plan_of(after)
    assert walls is not None
    if name in ("doors", "windows", "sockets"):
        index = [wall.id for wall in after.edges(walls.count)].index(thing.wall)
        length = float(np.linalg.norm(walls.nexts[index] - walls.corners[index]))
        assert (
            thing.offset.value >= 0 and thing.offset.value + item.get("width", {"value": 0})["value"] <= length + 1e-3
        )


def test_the_first_free_place_is_found_wherever_there_is_one() -> None:
    """Against a search of its own over every place 5 cm apart: none is said only where there is none."""
    for like, ell in ROOMS:
        room = Room.model_validate(typical_room(like, ell=ell))
        walls = plan_of(room)
        swings = [door_swing(room, walls, door) for door in room.doors]
        taken = shapely.union_all(
            [body(one) for one in room.boxes]
            + [shapely.box(*one[:, :2].min(axis=0), *one[:, :2].max(axis=0)) for one in swings if one is not None]
        )
        floor = floor_of(room).buffer(1e-6)
        for what in [
            key for key, one in TRAY.items() if one.list in ("boxes", "zones") and one.group == "On the floor"
        ]:
            _, item = usual_thing(room, what, Wish())
            placed = body(Zone.model_validate({"id": "new", **item}) if what == "keep free" else Box(id="new", **item))
            if floor.buffer(2e-3).contains(placed) and placed.intersection(taken).area < 1e-3:
                continue
            long, across, _ = TRAY[what].size
            low_x, low_y, high_x, high_y = floor.bounds
            for width, height in ((long, across), (across, long)):
                x, y = np.meshgrid(np.arange(low_x, high_x, 0.05), np.arange(low_y, high_y, 0.05))
                tried = shapely.box(x, y, x + width, y + height)
                free = shapely.within(tried, floor) & (shapely.area(shapely.intersection(tried, taken)) < 1e-6)
                assert not free.any(), (like, ell, what)


def test_where_it_is_wished() -> None:
    room = Room.model_validate(typical_room("empty room"))
    _, door = usual_thing(room, "door", Wish(wall="b", along=1.0))
    assert door["wall"] == "b" and door["offset"] == {"value": pytest.approx(0.6), "origin": "guess", "pm": BY_HAND}
    _, window = usual_thing(room, "window", Wish(wall="b", along=99.0))
    assert window["offset"]["value"] == pytest.approx(3.6 - 1.2)
    _, table = usual_thing(room, "table", Wish(x=2.0, y=1.5))
    assert (table["x"]["value"], table["y"]["value"]) == (pytest.approx(1.3), pytest.approx(1.1))
    _, corner = usual_thing(room, "table", Wish(x=-5.0, y=90.0))
    assert [corner["x"]["value"], corner["y"]["value"]] == pytest.approx([0.0, 3.6 - 0.8])
    _, slope = usual_thing(room, "slope", Wish(wall="d", along=1.0))
    assert slope["wall"] == "d"
    with pytest.raises(KeyError):
        usual_thing(room, "piano", Wish())


def test_an_opening_goes_beside_what_is_there_and_shrinks_to_a_short_wall() -> None:
    room = Room.model_validate(typical_room("empty room"))
    window = room.windows[0]
    assert window.offset is not None and window.width is not None
    spans = list(free_stretches(room, "c", 4.2))
    assert spans == [(0.0, window.offset.value), (window.offset.value + window.width.value, 4.2)]
    _, second = usual_thing(room, "window", Wish(wall="c", along=2.1))
    start = second["offset"]["value"]
    assert start + second["width"]["value"] <= window.offset.value + 1e-9 or start >= window.offset.value + 1.2 - 1e-9
    narrow = Room.model_validate({"footprint": {"kind": "rectangle", "length": 1.0, "width": 0.6}})
    _, door = usual_thing(narrow, "door", Wish(wall="wall-2", along=0.3))
    assert door["width"]["value"] == pytest.approx(0.54)


def test_a_room_nobody_measured_takes_things_without_a_place() -> None:
    for what, one in TRAY.items():
        name, item = usual_thing(Room(), what, Wish(x=1.0, y=1.0, wall="a", along=1.0))
        assert name == one.list and not {"x", "y", "offset", "wall"} & set(item)
        assert getattr(with_thing(Room(), name, item), name)


def test_names_are_told_apart() -> None:
    room = Room.model_validate(typical_room("empty room"))
    for expected in ("Desk", "Desk 2", "Desk 3"):
        name, item = usual_thing(room, "desk", Wish())
        assert item["name"] == expected
        data = room.model_dump(mode="json", exclude_none=True)
        boxes = [*data.get(name, []), {"id": f"d{expected[-1]}".lower(), **item}]
        room = Room.model_validate(data | {name: boxes})


def test_four_quarter_turns_come_round_and_keep_the_middle() -> None:
    room = Room.model_validate(typical_room("empty room"))
    box = Box.model_validate(
        {"id": "b", "x": 1.0, "y": 1.2, "length": 1.4, "width": 0.7, "height": 0.7, "front": "A–B"}
    )
    turned, fronts = box, []
    for _ in range(4):
        turned = Box.model_validate(turned.model_dump(mode="json", exclude_none=True) | quarter_turned(room, turned))
        fronts.append(turned.front)
        assert shapely.area(body(turned)) == pytest.approx(1.4 * 0.7)
        assert [body(turned).centroid.x, body(turned).centroid.y] == pytest.approx([1.7, 1.55])
    assert body(turned).equals_exact(body(box), 1e-9) and fronts == ["B–C", "C–D", "D–A", "A–B"]
    flush = Box.model_validate({"id": "b", "x": 0.0, "y": 0.0, "length": 2.0, "width": 0.9, "height": 0.5})
    aside = quarter_turned(room, flush)
    assert (aside["x"]["value"], aside["y"]["value"]) == (pytest.approx(0.55), 0.0)
    assert quarter_turned(room, Box(id="b")) == {"length": None, "width": None}


def test_a_door_comes_round_all_its_ways() -> None:
    door, seen = Door(id="d"), []
    for _ in range(5):
        seen.append((door.hinge, door.swing))
        door = door.model_copy(update=swung_over(door))
    assert len(set(seen)) == 5 and (door.hinge, door.swing) == ("start", "in")
    assert swung_over(Door(id="d", hinge="end", swing="slides")) == {"hinge": "start", "swing": "in"}


def test_a_thing_from_the_tray_counts_in_the_ledger() -> None:
    """A wardrobe put where the subject stands is in the way; a socket adds a line of none."""
    studio = parse(one_portrait())
    mark = studio.sets[0].mark
    _, item = usual_thing(studio.room, "wardrobe", Wish(x=mark.x, y=mark.y))
    before, after = (
        {line.code for line in ledger_of(one).lines if line.verdict is Verdict.SHORT}
        for one in (
            studio,
            change(
                studio, EDIT.validate_python({"verb": "add", "list": "room/boxes", "item": {"id": "wardrobe", **item}})
            ),
        )
    )
    assert after - before == {"fit.overlap", "frame.furniture"}


@pytest.mark.parametrize(("like", "ell"), ROOMS)
def test_what_can_be_held_is_drawn_with_what_the_hand_needs(like: str, ell: bool) -> None:
    room = Room.model_validate(typical_room(like, ell=ell))
    drawn = room_plan(
        Scene(room, Brief(), Shot(id="none"), SetPlan(id="none", name="the room", shot="none"), {}), 700.0, 500.0
    )
    for kind in ("doors", "windows", "boxes", "slopes"):
        for thing in getattr(room, kind):
            assert f'id="hold-room-{kind}-{thing.id}"' in drawn
    assert drawn.count('class="grip"') == 4  # an L's walls at A stay; a rectangle's move the wall opposite
    assert drawn.count("wall-spot") == (6 if ell else 4)
    assert "assumed" in drawn and 'class="hold loose"' in drawn
