"""What journeys in the browser do again and again."""

from playwright.sync_api import FloatRect, Locator, Page, expect


def settled(page: Page, revision: int) -> None:
    """The page shows a revision and nothing is on its way."""
    expect(page.locator("#page")).to_have_attribute("data-revision", str(revision))
    expect(page.locator("#saved")).to_have_text("saved")


def open_kneeling(page: Page) -> None:
    """The demo's second set as one's own copy, drawn for the window it has."""
    page.goto("/")
    page.get_by_role("button", name="Adoption corner").click()
    page.get_by_role("link", name="Kneeling with dog").click()
    expect(page.locator('#page[data-path="sets/kneeling-a"]')).to_be_visible()
    drawn_to_size(page)


def drawn_to_size(page: Page) -> None:
    page.wait_for_function(
        """() => {
          const room = document.getElementById("sheet-holder")?.clientWidth;
          const drawn = document.getElementById("sheet")?.viewBox.baseVal.width;
          return room && drawn && Math.abs(drawn - room) < 0.03 * room;
        }"""
    )


def place_of(thing: Locator) -> FloatRect:
    """Where something lies on the page, asked again while the sheet is being redrawn."""
    for _ in range(50):
        box = thing.bounding_box()
        if box is not None:
            return box
        thing.page.wait_for_timeout(100)
    raise AssertionError("it never stood on the page")
