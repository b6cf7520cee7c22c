"""A set carried out on a telephone: steps, simulated readings, the correction taken, the ledger narrower, struck; and a
while without a line in the middle."""

import re
from typing import Any

import pytest
from playwright.sync_api import Page, ViewportSize, expect

from evrant.core.judge.ledger import ledger_of
from evrant.demo import demo_studio

PHONE: ViewportSize = {"width": 390, "height": 844}
FITS = "() => document.documentElement.scrollWidth <= innerWidth"


def heading(page: Page) -> str:
    return page.locator(".carry h1").inner_text()


def done(page: Page) -> None:
    before = heading(page)
    page.get_by_role("button", name="Done", exact=True).click()
    page.wait_for_function("(was) => document.querySelector('.carry h1').textContent !== was", arg=before)


def until(page: Page, title: str) -> None:
    for _ in range(60):
        if heading(page) == title:
            return
        done(page)
    raise AssertionError(f"{title} never came")


def test_a_set_is_set_up_read_corrected_and_struck_on_a_telephone(page: Page, live: Any) -> None:
    key = live.store.create(demo_studio("adoption-corner"), label="Carried").studio_id
    page.set_viewport_size(PHONE)
    page.goto(f"/studios/{key}/setup/dog-a")
    page.get_by_role("button", name="Set it up now, step by step").click()
    page.wait_for_url(re.compile(r"/carry/now-"))
    expect(page.locator(".carry h1")).to_have_text("Bring everything")
    assert page.evaluate(FITS)
    big = page.get_by_role("button", name="Done", exact=True).bounding_box()
    assert big is not None and big["height"] >= 56 and big["width"] >= 300
    until(page, "Set up the key")
    expect(page.locator("svg.tape .measure")).to_have_count(2)
    assert page.evaluate(FITS)
    until(page, "The key alone")
    page.get_by_text("No meter or camera at hand?").click()
    page.get_by_role("button", name="Read with the simulated meter").click()
    expect(page.locator(".reading")).to_have_count(2)  # the demo's odd one, and this
    expect(page.locator(".reading").last).to_contain_text("simulated light meter")
    page.get_by_text("No meter or camera at hand?").click()
    page.get_by_role("button", name="Take a simulated test frame").click()
    page.wait_for_url(re.compile(r"/frame/"))
    expect(page.get_by_text("Simulated: it shows an invented room")).to_be_visible()
    frame = page.locator("#picture-frame")
    frame.focus()
    page.keyboard.press("ArrowUp")
    value = page.get_by_label("Value, 0 to 255")
    expect(value).not_to_have_value("")
    expect(page.locator("#picture-reading")).to_contain_text("of 255")
    assert page.evaluate(FITS)
    value.fill("104")
    page.get_by_role("button", name="Keep the reading").click()
    page.wait_for_url(re.compile(r"/carry/now-"))
    expect(page.locator(".reading")).to_have_count(3)

    before = {m.key: m.uncertainty or 0.0 for m in ledger_of(live.store.newest(key).studio).lines}
    page.goto(f"/studios/{key}/log")
    expect(page.locator("svg.log-chart circle")).not_to_have_count(0)
    page.get_by_role("button", name="Take all of it into the plan").click()
    expect(page.locator("#corrections")).not_to_contain_text("Take this")
    after = {m.key: m.uncertainty or 0.0 for m in ledger_of(live.store.newest(key).studio).lines}
    power = next(name for name in before if name.startswith("light.power_full sets/dog-a"))
    assert after[power] < 0.6 * before[power]

    session = live.store.newest(key).studio.sessions[-1].id
    page.goto(f"/studios/{key}/carry/{session}")
    until(page, "Everything is done")
    assert len(live.store.newest(key).studio.sessions[-1].done) > 12


@pytest.mark.away
def test_what_is_done_and_typed_without_a_line_is_kept_and_sent(page: Page, live: Any) -> None:
    key = live.store.create(demo_studio("adoption-corner"), label="Carried").studio_id
    page.set_viewport_size(PHONE)
    page.goto(f"/studios/{key}/carry/first-saturday?at=kneeling-a-test-fill")
    expect(page.locator(".carry h1")).to_have_text("The fill alone")
    number = live.store.newest(key).number
    page.route("**/edits", lambda route: route.abort())
    page.get_by_label("It reads").fill("4.5")
    page.get_by_role("button", name="Keep the reading").click()
    expect(page.locator("#saved")).to_contain_text("not saved")
    expect(page.get_by_label("It reads")).to_have_value("4.5")
    page.get_by_role("button", name="Done", exact=True).click()
    page.wait_for_timeout(1500)
    assert live.store.newest(key).number == number
    page.unroute("**/edits")
    page.wait_for_function("() => document.getElementById('saved').textContent.trim() === 'saved'")
    studio = live.store.newest(key).studio
    assert studio.readings[-1].reads == 4.5 and studio.readings[-1].light == "fill"
    assert [one.id for one in studio.sessions[0].done] == ["kneeling-a-test-fill"]


def test_a_session_is_planned_with_the_keyboard(page: Page, live: Any) -> None:
    key = live.store.create(demo_studio("stones-on-file"), label="Planned").studio_id
    page.goto(f"/studios/{key}/session")
    button = page.get_by_role("button", name="Plan a session")
    button.focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Session 2")).to_be_visible()
    start = page.locator(".session-card").first.get_by_label("Setting up begins at")
    start.focus()
    start.fill("tea time")
    page.keyboard.press("Tab")
    expect(page.get_by_text("Write a time of day")).to_be_visible()
    expect(start).to_have_value("tea time")
    start.fill("17:45")
    page.keyboard.press("Tab")
    expect(page.locator(".timetable").first).to_contain_text("17:45")
    with page.expect_download() as taken:
        page.get_by_role("link", name="Calendar file (ICS)").click()
    assert "VEVENT" in taken.value.path().read_text()
