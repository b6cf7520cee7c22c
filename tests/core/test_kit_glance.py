"""A glance at a room: has a picture its place, and how much room would it want?"""

from itertools import count

import pytest
from helpers.clocks import patient

from evrant.catalogue import load
from evrant.core.base.quantity import ROOM_LENGTH
from evrant.core.search.begin.answers import Answers, Where, studio_of
from evrant.core.search.begin.propose import IN_THE_WAY, propose
from evrant.core.search.kit import glance, instead
from evrant.core.search.kit.glance import GLANCES, SECONDS, STEP, STEPS, has_place, large_enough
from evrant.core.search.kit.instead import ways
from evrant.core.studio.room import Rectangle
from evrant.core.studio.studio import Studio


def asked(take: str, like: str, *have: str) -> Studio:
    library = load()
    items = [item.changed(status="owned") for key in have if (item := library.find(key)) is not None]
    assert len(items) == len(have)
    return studio_of(Answers(take=(take,), where=Where(like=like), spend="150"), items)


def sized(studio: Studio, length: float, width: float) -> Studio:
    sides = {"length": ROOM_LENGTH.figure(length), "width": ROOM_LENGTH.figure(width)}
    return studio.changed(room=studio.room.changed(footprint=Rectangle(**sides), boxes=(), zones=()))


def test_a_whole_figure_wants_a_longer_room_than_a_small_bedroom_and_no_longer_than_told() -> None:
    studio = asked("Full-length, standing", "small bedroom", "camera-half", "lens-50")
    shot = studio.shots[0]
    assert not has_place(studio, shot)
    size = large_enough(studio, shot)
    assert size is not None and size.width == pytest.approx(3.2) and 4.5 < size.length <= 3.8 + STEP * STEPS
    assert has_place(sized(studio, size.length, size.width), shot)
    assert not has_place(sized(studio, size.length - STEP, size.width), shot)
    near = 1.69 * 1.14 * 0.05 / 0.0235  # frame height on the long side of a sensor of 23.5 mm, at 50 mm
    assert size.length > near + 1.0 + 0.3, "distance to the subject, to its background and behind the camera"


def test_a_head_has_its_place_and_where_there_is_no_camera_nothing_is_said() -> None:
    studio = asked("Head and shoulders, seated", "small bedroom", "camera-full", "lens-85")
    assert has_place(studio, studio.shots[0])
    bare = asked("Full-length, standing", "small bedroom")
    assert has_place(bare, bare.shots[0])


def test_what_gives_a_picture_its_place_is_tried_before_other_settings() -> None:
    """Four in a garage before its end wall: nearer to it there is a place, with no other light there is none."""
    studio = asked("Group of four", "garage", "camera-full", "lens-24-70", "tripod-160")
    first = [way.words for _, way in zip(range(2), ways(studio, studio.shots[0]), strict=False)]
    assert all("before the background" in words[0] for words in first), first


def test_where_nothing_makes_it_one_is_told_how_much_room_it_wants() -> None:
    studio = asked("Full-length, standing", "small bedroom", "camera-half", "lens-50")
    found = propose(studio, [], seconds=1.0, clock=patient)
    assert [one.character for one in found] == [IN_THE_WAY]
    assert "in an empty one of" in found[0].missing["Full-length, standing"]


def test_glances_end_with_their_time(monkeypatch: pytest.MonkeyPatch) -> None:
    """Forty pairs of changes at a second and a half each took a minute in which nobody could stop them."""
    glanced, now = [0], [0.0]

    def never(*_: object, **__: object) -> bool:
        glanced[0], now[0] = glanced[0] + 1, now[0] + SECONDS
        return False

    for where in (instead, glance):
        monkeypatch.setattr(where, "has_place", never)
    studio = asked("Group of four", "garage", "camera-full", "lens-24-70", "tripod-160")
    shot = studio.shots[0]
    assert next(instead.ways(studio, shot, clock=lambda: now[0])) is not None
    assert 2 < glanced[0] <= 2 + GLANCES / SECONDS
    glanced[0] = 0
    assert large_enough(studio, shot, clock=lambda: now[0]) is None
    assert 2 < glanced[0] <= 2 + GLANCES / SECONDS


def test_where_nothing_was_found_in_time_the_lines_it_failed_by_are_told() -> None:
    """A small room round a corner, and any sum: not that money is not known to reach. Every look at the clock is a
    second, so that the time is up after as much work on any machine."""
    library = load()
    have = tuple(item.changed(status="owned") for item in library.all() if item.id in ("camera-half", "lens-16-50"))
    where = Where.model_validate({"like": "empty room", "shape": "ell", "length": 3.1, "width": 2.5})
    studio = studio_of(Answers(take=("Person kneeling with dog",), where=where, spend="800"), have)
    seconds = count()
    found = propose(studio, library.all(), seconds=20.0, clock=lambda: float(next(seconds)))
    assert [one.character for one in found] == [IN_THE_WAY]
    told = found[0].missing["Person kneeling with dog"]
    _, often, lines = told.partition("nothing that was tried in this time makes it; most often: ")
    assert often and 1 <= lines.count(".") <= 2 and lines[0].isupper() and lines.endswith("."), lines
