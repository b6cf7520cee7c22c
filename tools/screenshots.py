"""Walks the demo studio in a browser and keeps one picture of each main view."""

import sys
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

TO = Path(__file__).parents[1] / "docs/screenshots"
ARGUMENTS = ["--no-sandbox", "--disable-gpu", "--no-first-run", "--disable-background-networking"]


def keep(page: Page, name: str, wait: int = 2500) -> None:
    page.wait_for_timeout(wait)
    page.screenshot(path=TO / f"{name}.png")


def opened(page: Page, base: str, name: str) -> str:
    """A demo studio as one's own copy: its address."""
    page.goto(base)
    page.get_by_role("button", name=name).click()
    page.wait_for_selector("#sheet")
    return "/".join(page.url.split("/")[:5])


def kit_of_the_teacher(page: Page, base: str) -> None:
    """The best kit of the second demo, its first phase taken, and the list."""
    teacher = opened(page, base, "Hands in view")
    page.goto(f"{teacher}/best")
    page.get_by_role("button", name="Find the best kit").click()
    page.wait_for_selector(".kit-answer[data-done]", timeout=300_000)
    keep(page, "best-kit", 800)
    page.get_by_role("button", name="Accept phase 1").click()
    page.wait_for_selector(".to-buy")
    page.locator(".to-buy").first.get_by_role("button", name="Bought").click()
    page.wait_for_selector(".bought-row")
    keep(page, "shopping", 800)


def from_the_beginning(page: Page, base: str) -> None:
    """Five answers, and what comes of them."""
    page.goto(f"{base}/begin")
    page.locator('input[name=take][value="Head and shoulders, seated"]').check()
    keep(page, "begin", 500)
    page.locator('input[name=like][value="small bedroom"]').check()
    page.locator('input[name=have][value="telephone"]').check()
    page.locator("#begin-spend").fill("200")
    page.locator("#begin-country").select_option("DE")
    page.get_by_role("button", name="Work out a plan").click()
    page.wait_for_selector(".assumed", timeout=300_000)
    keep(page, "proposals", 800)


def main(base: str) -> None:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(base)
        from_the_beginning(page, base)
        attic = opened(page, base, "Stones on file")
        studio = opened(page, base, "Adoption corner")
        page.goto(f"{studio}/arrange/dog")
        keep(page, "arrange", 5000)
        page.goto(f"{studio}/gear?kind=modifier&compare=octa-90&compare=octa-65&compare=umbrella-85")
        keep(page, "gear", 2000)
        page.goto(f"{studio}/light/kneeling-a")
        keep(page, "light", 5000)
        page.goto(f"{studio}/support/cat-a")
        keep(page, "support", 4000)
        page.goto(f"{attic}/power/glow-a")
        keep(page, "power", 4000)
        for name in ("room", "shots", "log"):
            page.goto(f"{studio}/{name}")
            keep(page, name, 1200)
        page.goto(f"{studio}/setup/kneeling-a")
        keep(page, "setup", 1200)
        page.goto(f"{studio}/sets/kneeling-a")
        keep(page, "set", 9000)
        page.goto(f"{studio}/picture/kneeling-a")
        page.locator("#picture-frame").click(position={"x": 150, "y": 70})
        keep(page, "picture", 12000)
        kit_of_the_teacher(page, base)
        page.goto(f"{studio}/stow")
        keep(page, "stow", 1500)
        lesson = opened(page, base, "Hands in view")
        page.goto(f"{lesson}/picture/lesson-a/faces")
        keep(page, "faces", 15000)
        page.evaluate("sessionStorage.clear()")
        phone = browser.new_page(viewport={"width": 390, "height": 844}, device_scale_factor=1)
        phone.goto(f"{attic}/survey/slopes-roof")
        keep(phone, "phone-survey", 1500)
        phone.goto(f"{studio}/carry/first-saturday?at=kneeling-a-light-key")
        keep(phone, "phone-carry", 1500)
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1])
