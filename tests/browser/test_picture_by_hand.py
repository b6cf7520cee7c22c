"""The picture in a browser: it stands in the sheet, follows a light, opens large, is read, compared and saved."""

import re
from typing import Any

from helpers.pages import drawn_to_size
from playwright.sync_api import Page, Response, expect

from evrant.demo import demo_studio

MEAN = """() => {
  const canvas = document.querySelector('canvas.taken');
  const data = canvas.getContext('2d').getImageData(0, 0, canvas.width, canvas.height).data;
  let total = 0;
  for (let i = 0; i < data.length; i += 4) total += data[i] + data[i + 1] + data[i + 2];
  return total / data.length;
}"""


def opened(page: Page, live: Any, path: str) -> str:
    key: str = live.store.create(demo_studio("hands-in-view"), label="Filmed").studio_id
    page.goto(f"/studios/{key}/{path}")
    return key


def nudged(page: Page, ending: str) -> None:
    """The key light moved by keys until a moving picture was asked for: a busy machine may answer late, and what is let
    go before its first answer is shown at rest only."""
    moved: list[tuple[int, str | None]] = []

    def heard(answer: Response) -> None:
        if answer.url.endswith(ending):
            moved.append((answer.status, answer.request.post_data))

    page.on("response", heard)
    page.locator("#plan-sets-lesson-a-lights-key").focus()
    ways = ["Shift+ArrowRight"] * 4 + ["ArrowLeft", "ArrowRight"] * 100
    for way in ways:
        page.keyboard.press(way)
        page.wait_for_timeout(200)
        if moved:
            break
    assert moved and moved[0][0] in (200, 204), moved
    expect(page.locator("#page")).not_to_have_attribute("data-revision", "1")
    expect(page.locator("#saved")).to_have_text("saved")


def test_it_stands_in_the_sheet_and_follows_a_light(page: Page, live: Any) -> None:
    opened(page, live, "sets/lesson-a")
    drawn_to_size(page)
    expect(page.locator("canvas.taken.there")).to_be_visible(timeout=60000)
    page.wait_for_function("() => document.querySelector('canvas.taken').width === 480", timeout=60000)
    before = page.evaluate(MEAN)
    nudged(page, "/moving")
    page.wait_for_function("() => document.querySelector('canvas.taken').width === 480", timeout=60000)
    after = page.evaluate(MEAN)
    assert abs(after - before) > 0.2
    page.get_by_role("button", name="Outline in place of the picture").click()
    expect(page.locator("canvas.taken")).to_be_hidden()
    expect(page.get_by_role("button", name="Outline in place of the picture")).to_have_attribute("aria-pressed", "true")


def test_what_the_hand_asked_for_last_does_not_stay_when_all_is_at_rest(page: Page, live: Any) -> None:
    """A movement waits for the answer to the one before it while the place is saved: the settled picture must still
    come, though its first two requests were given up."""
    opened(page, live, "sets/lesson-a")
    drawn_to_size(page)
    page.wait_for_function("() => document.querySelector('canvas.taken').width === 480", timeout=60000)
    held: list[Any] = []
    refused: list[str] = []

    def given_up_at_first(route: Any) -> None:
        if len(refused) < 2 and "revision=1" not in route.request.url:
            refused.append(route.request.url)
            route.fulfill(status=204)
        else:
            route.continue_()

    page.route("**/moving*", lambda route: held.append(route))
    page.route("**/frame.png?*", lambda route: given_up_at_first(route))
    page.locator("#plan-sets-lesson-a-lights-key").focus()
    while not held:
        page.keyboard.press("ArrowRight")
        page.wait_for_timeout(100)
    with page.expect_response("**/preview"):
        page.keyboard.press("Shift+ArrowRight")
    expect(page.locator("#page")).not_to_have_attribute("data-revision", "1")
    expect(page.locator("#saved")).to_have_text("saved")
    settled = re.compile(r"revision=[2-9]\d*&size=480")
    with page.expect_response(lambda answer: answer.ok and bool(settled.search(answer.url)), timeout=60000):
        for route in held:
            route.continue_()
    page.wait_for_timeout(500)
    assert page.evaluate("() => document.querySelector('canvas.taken').width") == 480
    assert len(held) == 1
    assert len(refused) == 2


def test_large_it_is_read_by_mouse_and_keys_marked_and_compared(page: Page, live: Any) -> None:
    opened(page, live, "sets/lesson-a")
    drawn_to_size(page)
    page.locator("a.larger").click()
    expect(page.locator("#picture-img")).to_be_visible()
    page.wait_for_load_state("load")  # a click before the page's script is there reads nothing
    page.locator("#picture-frame").click(position={"x": 30, "y": 30})
    expect(page.locator("#picture-reading")).to_contain_text("background")
    page.locator("#picture-frame").focus()
    for _ in range(5):
        page.keyboard.press("Shift+ArrowRight")
        page.keyboard.press("Shift+ArrowDown")
    expect(page.locator("#picture-reading")).to_contain_text("teacher")
    page.get_by_label("Show what is burnt out or black").check()
    expect(page.locator("#picture-img")).to_have_attribute("src", re.compile("marks=1"), timeout=60000)
    page.get_by_label("Beside it").select_option(label="Hands close up")
    expect(page.locator("#picture-other")).to_be_visible()
    page.locator("#picture-slide").fill("20")
    expect(page.locator("#picture-other")).to_have_css("clip-path", "inset(0px 0px 0px 20%)")
    page.get_by_role("link", name="Key alone").click()
    expect(page.get_by_role("link", name="Key alone")).to_have_attribute("aria-current", "true")
    with page.expect_download(timeout=90000) as saved:
        page.get_by_role("link", name="Save as PNG").click()
    assert saved.value.suggested_filename.endswith(".png")


def test_the_face_on_the_light_page_is_the_computed_one_and_follows_too(page: Page, live: Any) -> None:
    opened(page, live, "light/lesson-a")
    drawn_to_size(page)
    expect(page.locator("canvas.taken.there")).to_be_visible(timeout=60000)
    expect(page.locator("canvas.bust")).to_be_hidden()
    size = page.locator("canvas.taken").evaluate("(one) => one.height / one.width")
    assert abs(size - 0.40 / 0.34) < 0.02, "the face alone, upright"
    page.wait_for_function("() => document.querySelector('canvas.taken').height === 480", timeout=60000)
    before = page.evaluate(MEAN)
    nudged(page, "/moving?close=1")
    page.wait_for_function("() => document.querySelector('canvas.taken').height === 480", timeout=60000)
    assert abs(page.evaluate(MEAN) - before) > 0.2
