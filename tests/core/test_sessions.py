"""Sessions: order, times, people, what to prepare; the calendar file read by its library; wear and cost by the log."""

import json
from datetime import UTC, datetime
from decimal import Decimal
from itertools import pairwise, permutations
from pathlib import Path
from typing import Any

import icalendar
import pytest
from helpers.studios import demo, one_portrait, parse

from evrant.cli import main
from evrant.core.carry.run import name_of, run_of
from evrant.core.carry.session import clock_words, minutes_of, of_session, timetable
from evrant.core.carry.wear import total, used_in, worn
from evrant.core.edits.language import EDIT, EditRefused, apply
from evrant.core.log.calibrate import calibrate
from evrant.core.space.changeover import changeover
from evrant.core.space.scene import scene_of
from evrant.core.stowage.striking import BEGINNER
from evrant.core.studio.log import Session
from evrant.core.studio.studio import Studio
from evrant.demo import demo_studio
from evrant.files.calendar import write_calendar


def session(**fields: Any) -> Session:
    return Session.model_validate({"id": "s", "name": "Day", "day": "2026-12-12", "start": "10:00"} | fields)


def test_the_order_is_the_least_of_all_orders_of_its_sets() -> None:
    for name in ("adoption-corner", "stones-on-file"):
        studio = demo_studio(name)
        here = of_session(studio, session())
        found = timetable(studio, session()).order
        scenes: dict[str, Any] = {plan.id: scene_of(here, plan) for plan in here.sets}
        cost = {(a, b): changeover(scenes[a], scenes[b]).minutes for a in scenes for b in scenes if a != b}
        least = min(sum(cost[pair] for pair in pairwise(order)) for order in permutations(scenes))
        assert found.minutes == pytest.approx(least)


def test_eight_sets_are_in_the_order_that_no_other_beats() -> None:
    """Eight portraits with marks and lights at other places: all 40,320 orders are gone through."""
    data = one_portrait()
    plan = data["sets"][0]
    data["sets"] = []
    for number, step in enumerate((0.0, 0.3, 0.6, 0.1, 0.5, 0.2, 0.7, 0.4)):
        moved = json.loads(json.dumps(plan)) | {"id": f"s{number}", "name": f"Set {number}"}
        moved["lights"][0]["height"] = 1.9 + step
        moved["mark"]["x"] += (number % 3) * 0.2
        data["sets"].append(moved)
    studio = parse(data)
    found = timetable(studio, session()).order
    scenes: dict[str, Any] = {one.id: scene_of(studio, one) for one in studio.sets}
    cost = {(a, b): changeover(scenes[a], scenes[b]).minutes for a in scenes for b in scenes if a != b}
    least = min(sum(cost[pair] for pair in pairwise(order)) for order in permutations(scenes))
    assert found.exact and found.minutes == pytest.approx(least)


def test_times_add_up_and_beginners_take_three_times_as_long() -> None:
    studio = demo()
    slow, quick = timetable(studio, session()), timetable(studio, session(practised=True))
    assert slow.start == 600 and all(a.end == b.start for a, b in pairwise(slow.slots))

    def working(table: Any) -> float:
        return float(sum(s.end - s.start for s in table.slots if s.kind in ("set up", "change over", "strike")))

    assert working(slow) == pytest.approx(BEGINNER * working(quick))
    assert slow.slots[0].kind == "set up" and slow.slots[-1].kind == "strike"
    assert any(s.kind == "break" for s in timetable(studio, session(break_after=30)).slots)
    assert minutes_of("09:05") == 545 and clock_words(545) == "09:05" and clock_words(1500) == "01:00"


def test_people_quiet_hours_and_daylight_are_warned_of() -> None:
    studio = demo()
    late = session(only=["dog-a"], people=[{"id": "p", "name": "Ann", "comes": "13:00"}], quiet_from="11:00")
    found = timetable(studio, late)
    assert any("Ann comes" in words for words in found.warnings)
    assert any("quiet from 11:00" in words for words in found.warnings)
    unset = timetable(studio, session(only=["dog-a"], people=[{"id": "p", "name": "Ann"}]))
    shoot = next(slot for slot in unset.slots if slot.kind == "shoot")
    assert unset.people[0].at == int(shoot.start) - 10 and not unset.people[0].note
    gone = session(people=[{"id": "p", "name": "Ann", "only": "nowhere"}])
    assert any("does not have" in words for words in timetable(studio, gone).warnings)


def by_window(**fields: Any) -> Studio:
    data = one_portrait()
    data["brief"] |= {"latitude": 53.5, "longitude": 10.0}
    data["room"] |= {"ceiling": {"lrv": 80}, "floor": "wood"}
    for wall in data["room"]["walls"]:
        wall["finish"] = {"lrv": 80}
    window = {"id": "w", "name": "window", "wall": "west", "offset": 1, "width": 2, "sill": 0.8, "height": 1.4}
    data["room"]["windows"] = [window | {"faces": "south", "daylight": 10000}]
    data["shots"][0] |= {"around": "daylight", "aperture": 2.8, "iso": 12800, "shutter": 0.008}
    data["sets"][0]["lights"] = []
    return parse(data).changed(sessions=(session(**fields),))


def test_a_set_by_a_window_is_held_to_the_hours_of_its_month() -> None:
    night = by_window(start="18:00")
    words = timetable(night, night.sessions[0]).warnings
    assert any("under cloud" in one for one in words), words
    noon = by_window(day="2026-06-12", start="11:00", practised=True)
    assert not any("under cloud" in one for one in timetable(noon, noon.sessions[0]).warnings)
    undated = by_window(day=None)
    assert any("give the session its day" in one for one in timetable(undated, undated.sessions[0]).warnings)


def test_charges_and_paper_are_counted() -> None:
    studio = demo_studio("stones-on-file")
    found = timetable(studio, studio.sessions[0])
    words = [need.words for need in found.prepare]
    assert any("charges" in one and "spare" in one for one in words)
    assert any("ironed" in one for one in words)
    data = one_portrait()
    paper = timetable(parse(data), session())
    assert any("cut off" in need.words and need.kind == "use" for need in paper.prepare)


def test_the_calendar_is_read_by_its_library() -> None:
    studio = demo()
    bought = {"id": "b", "item": studio.gear[0].id, "bought": "2026-11-20", "return_by": "2026-12-04"}
    data = json.loads(studio.dump_json())
    data["purchases"] = [bought]
    studio = parse(data)
    stamp = datetime(2026, 11, 29, tzinfo=UTC)
    raw = write_calendar(studio, [timetable(studio, one) for one in studio.sessions], stamp)
    read = icalendar.Calendar.from_ical(raw)
    events: dict[str, Any] = {str(one["uid"]): one for one in read.walk("VEVENT")}
    first = events["session-first-saturday@evrant"]
    assert first["dtstart"].dt == datetime(2026, 12, 12, 10, 0)
    assert first["dtend"].dt > first["dtstart"].dt and "Change over" in str(first["description"])
    assert events["return-b@evrant"]["dtstart"].dt.isoformat() == "2026-12-04"
    assert events["buy-by@evrant"]["dtstart"].dt.isoformat() == "2026-12-05"
    assert raw.decode().count("\r\n") > 20 and all(len(line) <= 75 for line in raw.split(b"\r\n"))
    assert write_calendar(studio, [], stamp) == write_calendar(studio, [], stamp)


def test_steps_keep_their_names_and_what_is_done_stays_done() -> None:
    studio = demo()
    plan = studio.sessions[0]
    table, known = timetable(studio, plan), calibrate(studio)
    run = run_of(studio, table, known)
    keys = [turn.key for turn in run.turns]
    assert len(set(keys)) == len(keys) and run.done == 0 and run.next is run.turns[0]
    stages = [turn.stage for turn in run.turns]
    assert stages.index("Lights") < stages.index("Test") < stages.index("Photograph") < stages.index("Change over")
    assert stages[-1] == "Strike"
    first, last = run.turns[0], run.turns[-1]
    assert first.title == "Bring everything" and last.lines == first.lines[::-1] and len(first.lines) > 5
    edit = EDIT.validate_python({"verb": "add", "list": f"sessions/{plan.id}/done", "item": {"id": keys[0]}})
    after = apply(studio, edit)
    again = run_of(after, timetable(after, after.sessions[0]), known)
    assert again.done == 1 and again.next is again.turns[1] and again.minutes_left < run.minutes_left
    assert run.beside(run.turns[0]) == (None, keys[1]) and run.beside(run.turns[-1])[1] is None
    two = [turn.two for turn in run.turns if turn.two]
    apart = apply(
        studio, EDIT.validate_python({"verb": "set", "target": f"sessions/{plan.id}", "fields": {"helper": False}})
    )
    by_one = [turn.two for turn in run_of(apart, timetable(apart, apart.sessions[0]), known).turns if turn.two]
    assert all(words.startswith("By two") for words in two) and all(words.startswith("Alone") for words in by_one)
    assert len(two) == len(by_one)
    long = name_of("a-set-with-a-rather-long-name-indeed", "light-and-its-name-too")
    assert len(long) <= 48 and long == name_of("a-set-with-a-rather-long-name-indeed", "light-and-its-name-too")


def test_what_a_session_used_costs_its_share_and_tells_what_is_left() -> None:
    data = one_portrait()
    paper = next(item for item in data["gear"] if item["id"] == "paper")
    paper |= {"length": 5.0, "price": "40"}
    cuts = [{"id": f"c{n}", "kind": "cut off", "item": "paper", "amount": 1.2} for n in range(2)]
    broke = {"id": "x", "kind": "broke", "item": "stands", "text": "a lock"}
    data["sessions"] = [{"id": "one", "entries": [cuts[0]]}, {"id": "two", "entries": [cuts[1], broke]}]
    studio = parse(data)
    used = used_in(studio, studio.sessions[0])
    assert total(used) == Decimal("9.60")  # 1.2 of 5 m of 40
    rows = {row.item: row for row in worn(studio, "2026-11-29")}
    assert rows["paper"].left == pytest.approx(2.6 / 5) and rows["paper"].now and "2 more" in rows["paper"].words
    assert rows["stands"].now and next(iter(rows)) == "stands"


def test_times_of_day_and_lists_written_whole_are_checked() -> None:
    studio = demo()
    for wrong in ("25:00", "9", "noon", "10:75"):
        bad = {"verb": "set", "target": "sessions/first-saturday", "fields": {"start": wrong}}
        with pytest.raises(ValueError, match="time of day"):
            apply(studio, EDIT.validate_python(bad))
    good = {"verb": "set", "target": "sessions/first-saturday", "fields": {"start": "9.05", "only": ["dog-a"]}}
    after = apply(studio, EDIT.validate_python(good)).sessions[0]
    assert after.start == "09:05" and after.only == ("dog-a",)
    things = {"verb": "set", "target": "sessions/first-saturday", "fields": {"people": []}}
    with pytest.raises(EditRefused, match="is a list"):
        apply(studio, EDIT.validate_python(things))


def test_the_command_prints_times_and_the_calendar(tmp_path: Path, capsys: Any) -> None:
    file = tmp_path / "studio.json"
    file.write_text(demo().dump_json())
    assert main(["session", str(file), "--json"]) == 0
    told = json.loads(capsys.readouterr().out)["sessions"][0]
    assert told["slots"][0]["from"] == "10:00" and told["sets"] == ["kneeling-a", "dog-a"]
    assert main(["session", str(file)]) == 0
    assert "Photograph" in capsys.readouterr().out
    assert main(["session", str(file), "--ics"]) == 0
    assert capsys.readouterr().out.startswith("BEGIN:VCALENDAR")
    file.write_text(parse(one_portrait()).dump_json())
    assert main(["session", str(file)]) == 1
