"""From an empty page to a plan that fits, in a real browser: three wishes, by mouse, by touch and by keys alone.

Actions are counted as a person makes them: a click, a tap, a choice, a figure typed; a key press that only moves on is
none.
"""

import time
from collections.abc import Callable

import pytest
from conftest import Live
from playwright.sync_api import Browser, Locator, Page, expect

FIRST, WHOLE = 12, 25
"""Actions to a first proposal, and to a fitting set and its list, at most."""
SECONDS = 90.0
PATIENCE = 3.0
"""How many times as long other tests beside this one may make it."""
Press = Callable[[Locator], None]


@pytest.fixture
def patient(monkeypatch: pytest.MonkeyPatch) -> None:
    """The worker that is started next gets as long for its steps as a machine needs that does other tests too."""
    monkeypatch.setenv("EVRANT_PACE", str(PATIENCE))


def answer(page: Page, press: Press, wish: tuple[str, str, tuple[str, ...], str]) -> int:
    """Five answers; how many actions they took."""
    take, like, have, spend = wish
    press(page.locator(f'input[name=take][value="{take}"]'))
    press(page.locator(f'input[name=like][value="{like}"]'))
    actions = 2
    for key in have:
        box = page.locator(f'input[name=have][value="{key}"]')
        if not box.is_visible():
            press(page.locator("details", has=box).locator("summary"))
            actions += 1
        press(box)
        actions += 1
    page.locator("#begin-spend").fill(spend)
    press(page.get_by_role("button", name="Work out a plan"))
    return actions + 2


def carried_through(page: Page, live: Live, press: Press, wish: tuple[str, str, tuple[str, ...], str]) -> None:
    page.goto("/begin")
    begun = time.monotonic()
    actions = answer(page, press, wish)
    page.wait_for_url("**/proposals")
    first = page.locator("article.proposal").first
    expect(first).to_be_visible(timeout=SECONDS * PATIENCE * 1000)
    assert actions <= FIRST and time.monotonic() - begun <= SECONDS * PATIENCE
    expect(page.locator(".assumed")).to_be_visible(timeout=180_000 * PATIENCE)
    expect(first).to_contain_text("Everything fits.")
    press(first.get_by_role("button", name="Take this plan"))
    page.wait_for_url("**/sets/**")
    expect(page.locator("#sheet .wall").first).to_be_visible()
    assert "Short" not in page.locator(".counts").inner_text()
    press(page.get_by_role("link", name="Kit", exact=True))
    expect(page.get_by_role("link", name="Shopping list as CSV")).to_be_visible()
    assert actions + 2 <= WHOLE
    assert len(live.store.studios()) == 1


def test_headshots_by_telephone_by_mouse(page: Page, live: Live, patient: None, worker: None) -> None:
    wish = ("Head and shoulders, seated", "small bedroom", ("telephone",), "200")
    carried_through(page, live, lambda what: what.click(force=True), wish)


def test_things_with_one_camera_by_keys_alone(page: Page, live: Live, patient: None, worker: None) -> None:
    def press(what: Locator) -> None:
        what.focus()
        page.keyboard.press("Space" if what.get_attribute("type") in ("checkbox", "radio") else "Enter")

    wish = ("Product on a sweep", "empty room", ("camera-half", "lens-50", "flash-hot-60"), "250")
    carried_through(page, live, press, wish)


def test_talking_to_camera_owning_nothing_by_touch(
    browser: Browser, live: Live, server: str, patient: None, worker: None
) -> None:
    context = browser.new_context(
        viewport={"width": 390, "height": 844}, has_touch=True, is_mobile=True, base_url=server, locale="en-GB"
    )
    try:
        page = context.new_page()
        wish = ("Talking to camera", "living-room corner", (), "1100")
        carried_through(page, live, lambda what: what.tap(force=True), wish)
        assert page.evaluate("document.documentElement.scrollWidth") <= 391
    finally:
        context.close()
