"""What a support would change is drawn while one points at it, and nothing is stored."""

import re
from typing import Any

from helpers.pages import drawn_to_size, open_kneeling
from playwright.sync_api import Page, expect


def test_a_support_is_drawn_while_one_points_at_it(page: Page, live: Any) -> None:
    open_kneeling(page)
    key = page.locator("#page").get_attribute("data-studio") or ""
    page.goto(f"/studios/{key}/support/kneeling-a")
    drawn_to_size(page)
    page.get_by_role("tab", name="What could hold the key").click()
    buttons = page.locator("[data-try]")
    expect(buttons.first).to_be_visible(timeout=60000)
    before = page.locator("#sheet").inner_html()
    packed = page.locator("#table-lights-key tbody tr td:nth-of-type(6)").all_inner_texts()
    assert any(" m" in one or "cm" in one for one in packed)
    buttons.last.hover()
    expect(page.locator("#sheet.tried")).to_be_visible(timeout=20000)
    expect(page.locator("#sheet")).to_have_attribute("aria-label", re.compile("support", re.IGNORECASE))
    assert page.locator("#sheet").inner_html() != before
    page.mouse.move(5, 5)
    expect(page.locator("#sheet.tried")).to_have_count(0, timeout=20000)
    drawn_to_size(page)
    page.wait_for_function("() => !document.getElementById('preview-lines')")
    buttons.first.focus()
    expect(page.locator("#sheet.tried")).to_be_visible(timeout=20000)
    assert live.store.newest(key).number == 1
