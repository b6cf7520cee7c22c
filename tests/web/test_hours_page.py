"""The Light page of a set by a window: its calendar, and the sun's patch at any hour that is asked for."""

import pytest
from conftest import Live
from helpers.studios import one_portrait, parse

from evrant.core.edits.language import SetFields


def by_window(live: Live) -> str:
    data = one_portrait()
    data["brief"]["town"] = "Berlin"
    data["room"] |= {"floor": "wood", "ceiling": {"lrv": 80, "colour": "#ffffff"}}
    for wall in data["room"]["walls"]:
        wall["finish"] = {"lrv": 60, "colour": "#ffffff"}
    glass = {"width": 1.4, "height": 1.5, "sill": 0.8, "faces": "south"}
    data["room"]["windows"] = [{"id": "w", "name": "window", "wall": "north", "offset": 2.4, **glass}]
    data["sets"][0]["lights"] = []
    data["shots"][0] |= {"around": "daylight", "shutter": 1 / 30, "iso": 800, "aperture": 4}
    return live.store.create(parse(data), label="By a window").studio_id


def test_the_calendar_and_the_patch(live: Live) -> None:
    key = by_window(live)
    page = live.client.get(f"/studios/{key}/light/s").text
    assert "Hours by the window" in page and "Sun on the floor" in page
    hours = live.client.get(f"/studios/{key}/light/s/hours").text
    assert hours.count("<tr>") == 3 * 13 and 'class="good' in hours and "sunny" in hours
    noon = live.client.get(f"/studios/{key}/light/s/sun?month=12&hour=12").text
    assert "sun-patch" in noon and "December, 12 h" in noon
    assert "sun-patch" not in live.client.get(f"/studios/{key}/light/s/sun?month=12&hour=4").text


def test_without_a_place_the_page_says_so(live: Live) -> None:
    key = by_window(live)
    live.store.change(key, 1, "no-town-any-more", SetFields(target="brief", fields={"town": None}))
    for part in ("hours", "sun"):
        answer = live.client.get(f"/studios/{key}/light/s/{part}")
        assert answer.status_code == 200 and "Where the room is" in answer.text and "#f-brief-town" in answer.text


@pytest.mark.parametrize(
    "asked", ["month=13&hour=4", "month=0&hour=4", "month=5&hour=24", "month=x&hour=1", "month=&hour="]
)
def test_hours_that_are_none_are_not_there(live: Live, asked: str) -> None:
    assert live.client.get(f"/studios/{by_window(live)}/light/s/sun?{asked}").status_code == 404


def test_a_set_without_daylight_has_no_calendar(live: Live) -> None:
    key = live.store.create(parse(one_portrait()), label="Flash").studio_id
    assert "Hours by the window" not in live.client.get(f"/studios/{key}/light/s").text
