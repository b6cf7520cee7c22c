"""Nothing typed or dragged is lost in silence: what is not saved says so, stays marked, and is sent again by itself."""

import re

import pytest
from conftest import Live
from helpers.pages import drawn_to_size, open_kneeling, place_of, settled
from helpers.studios import one_portrait, parse
from playwright.sync_api import Page, Route, expect

EDITS = re.compile(r"/studios/[^/]+/edits$")


def away(page: Page, status: int | None) -> None:
    """From now on the server does not answer changes: an error, or nothing at all."""

    def refuse(route: Route) -> None:
        if status is None:
            route.abort()
        else:
            route.fulfill(status=status, body="down")

    page.route(EDITS, refuse)


def back(page: Page) -> None:
    page.unroute(EDITS)


@pytest.mark.away
@pytest.mark.parametrize("status", [500, None])
def test_a_field_that_is_not_saved_stays_marked_until_it_is(page: Page, live: Live, status: int | None) -> None:
    """A field fails, another succeeds: the header goes on saying so, and the first is sent again by itself."""
    key = live.store.create(parse(one_portrait()), label="One").studio_id
    page.goto(f"/studios/{key}/brief")
    away(page, status)
    field = page.locator("#f-brief-budget")
    field.locator("input[name=budget]").fill("650")
    field.locator("input[name=budget]").press("Tab")
    expect(page.locator("#saved")).to_contain_text("not saved, trying again")
    expect(field).to_have_class(re.compile("unsaved"))
    expect(page.locator("#notice")).to_contain_text("not saved")
    back(page)
    expect(page.locator("#saved")).to_have_text("saved")
    assert live.store.newest(key).studio.brief.budget == 650
    expect(page.locator("#f-brief-budget input[name=budget]")).to_have_value("650")
    expect(page.locator("#f-brief-budget")).not_to_have_class(re.compile("unsaved"))
    assert live.store.newest(key).number == 2


@pytest.mark.away
def test_a_good_edit_does_not_hide_one_that_failed(page: Page, live: Live) -> None:
    key = live.store.create(parse(one_portrait()), label="One").studio_id
    page.goto(f"/studios/{key}/brief")
    page.route(EDITS, lambda route: route.fulfill(status=500, body="x") if "budget" in (route.request.post_data or "")
               else route.continue_())  # fmt: skip
    page.locator("#f-brief-budget input[name=budget]").fill("777")
    page.locator("#f-brief-budget input[name=budget]").press("Tab")
    expect(page.locator("#saved")).to_contain_text("1 not saved")
    page.locator("#f-studio-name input[name=name]").fill("Renamed meanwhile")
    page.locator("#f-studio-name input[name=name]").press("Tab")
    expect(page.locator(".plan-name")).to_have_text("Renamed meanwhile")
    expect(page.locator("#saved")).to_contain_text("1 not saved")
    expect(page.locator("#f-brief-budget")).to_have_class(re.compile("unsaved"))
    back(page)
    expect(page.locator("#saved")).to_have_text("saved")
    assert live.store.newest(key).studio.brief.budget == 777


def test_a_draft_put_back_after_a_reload_is_saved(page: Page, live: Live) -> None:
    key = live.store.create(parse(one_portrait()), label="One").studio_id
    page.goto(f"/studios/{key}/brief")
    page.locator("#f-brief-budget input[name=budget]").type("5")
    page.evaluate(
        "sessionStorage.setItem(`draft:${document.getElementById('page').dataset.studio}:f-brief-budget:budget`, '455')"
    )
    page.reload()
    expect(page.locator("#saved")).to_have_text("saved")
    page.wait_for_function("() => document.getElementById('page').dataset.revision === '2'")
    assert live.store.newest(key).studio.brief.budget == 455


@pytest.mark.away
def test_a_drag_released_offline_is_kept_and_sent(page: Page, live: Live) -> None:
    """The ledger is not left dimmed; the change is sent again by itself."""
    open_kneeling(page)
    key = page.locator("#page").get_attribute("data-studio") or ""
    paper = place_of(page.locator("#plan-sets-kneeling-a-background .paper"))
    x, y = paper["x"] + paper["width"] / 2, paper["y"] + paper["height"] / 3
    away(page, None)
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 30, y, steps=4)
    page.mouse.up()
    expect(page.locator("#saved")).to_contain_text("not saved")
    expect(page.locator("#ledger")).not_to_have_class(re.compile("previewing"))
    assert live.store.newest(key).number == 1
    back(page)
    settled(page, 2)
    assert live.store.newest(key).number == 2


def test_escape_right_after_a_movement_puts_everything_back(page: Page, live: Live) -> None:
    open_kneeling(page)
    key = page.locator("#page").get_attribute("data-studio") or ""
    paper = page.locator("#plan-sets-kneeling-a-background")
    before = paper.get_attribute("data-x")
    box = place_of(page.locator("#plan-sets-kneeling-a-background .paper"))
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 3)
    page.mouse.down()
    for step in range(12):
        page.mouse.move(box["x"] + box["width"] / 2 + 4 * step, box["y"] + box["height"] / 3)
    page.keyboard.press("Escape")
    page.mouse.up()
    page.wait_for_timeout(900)
    expect(page.locator("#preview-lines")).to_have_count(0)
    expect(page.locator("#ledger")).not_to_have_class(re.compile("previewing"))
    expect(paper).to_have_attribute("data-x", before or "")
    assert live.store.newest(key).number == 1


def test_enter_it_opens_the_field_also_on_the_same_page(page: Page, live: Live) -> None:
    """Every link of an Unknown line puts the cursor into a field, whether or not it leaves the page."""
    data = one_portrait()
    for item in data["gear"]:
        if item["kind"] == "stand":
            item.pop("load", None)
    light = data["sets"][0]["lights"][0]
    light.pop("support", None)
    key = live.store.create(parse(data), label="Gaps").studio_id
    page.goto(f"/studios/{key}/sets/{data['sets'][0]['id']}")
    drawn_to_size(page)
    link = page.locator("article.unknown", has_text="has no stand").locator("a.remedy")
    for _ in range(2):
        link.click()
        expect(page.locator(f"#panel-lights-{light['id']}")).to_be_visible()
        focused = page.evaluate("document.activeElement.closest('form.field')?.dataset.field")
        assert focused == "support"
        page.locator("#strip [role=tab]").first.click()
    count = page.locator("article.unknown a.remedy").count()
    assert count >= 1
    for number in range(count):
        page.goto(f"/studios/{key}/sets/{data['sets'][0]['id']}")
        drawn_to_size(page)
        page.locator("article.unknown a.remedy").nth(number).click()
        page.wait_for_function("() => document.activeElement?.closest('form.field')")


def test_a_press_counts_for_what_it_began_on_when_the_page_moves_under_it(page: Page, live: Live) -> None:
    """Lines that arrive between pressing and letting go push a button away; it is pressed all the same, once."""
    page.goto("/")
    page.evaluate(
        """() => {
          window.times = 0;
          const button = document.createElement("button");
          button.textContent = "Press here";
          button.addEventListener("click", () => { window.times += 1; });
          button.addEventListener("pointerdown", () => { button.style.marginTop = window.shift; });
          document.getElementById("main").prepend(button);
        }"""
    )
    for shift, times in (("0px", 1), ("300px", 2)):
        page.evaluate(f"window.shift = '{shift}'")
        box = place_of(page.get_by_role("button", name="Press here"))
        page.mouse.move(box["x"] + 8, box["y"] + 8)
        page.mouse.down()
        page.mouse.up()
        page.wait_for_timeout(100)
        assert page.evaluate("window.times") == times


def test_a_field_changed_before_the_scripts_are_there_is_saved(page: Page, live: Live) -> None:
    key = live.store.create(parse(one_portrait()), label="Early").studio_id
    held: list[Route] = []
    page.route("**/static/app.js", lambda route: held.append(route))
    page.goto(f"/studios/{key}/brief", wait_until="commit")
    page.locator("select[name=units]").select_option("imperial")
    assert held and live.store.newest(key).number == 1
    held[0].continue_()
    settled(page, 2)
    assert live.store.newest(key).studio.brief.units == "imperial"


def test_a_double_click_makes_one_studio(page: Page, live: Live) -> None:
    page.goto("/")
    page.get_by_label("Name").fill("Twice clicked")
    page.get_by_role("button", name="Begin with the brief").dblclick()
    expect(page.locator(".plan-name")).to_have_text("Twice clicked")
    assert [one.name for one in live.store.studios()].count("Twice clicked") == 1


def test_the_window_itself_never_scrolls(page: Page, live: Live) -> None:
    """One scroll bar, the page's own, on every page of the demo; nothing scrolls into emptiness."""
    open_kneeling(page)
    base = f"/studios/{page.locator('#page').get_attribute('data-studio')}"
    for path in ("sets/kneeling-a", "brief", "room", "shots", "kit", "shopping", "stow", "best", "light/kneeling-a"):
        page.goto(f"{base}/{path}")
        high, wide = page.evaluate("[document.documentElement.scrollHeight, document.documentElement.scrollWidth]")
        assert (high, wide) == (800, 1280), path


def test_lengths_with_two_readings_are_refused_beside_the_field(page: Page, live: Live) -> None:
    key = live.store.create(parse(one_portrait()), label="One").studio_id
    page.goto(f"/studios/{key}/room")
    field = page.locator("#f-room-height")
    field.locator("input[name=height]").fill("2 m 5")
    field.locator("input[name=height]").press("Tab")
    expect(field.locator(".error")).to_contain_text("2 m 5 cm or 2.5 m")
    expect(field.locator("input[name=height]")).to_have_value("2 m 5")
    assert live.store.newest(key).number == 1


def test_places_at_which_outlines_do_not_unite_leave_the_set_page_standing(page: Page, live: Live) -> None:
    """A light and a mark dragged to where the union of outlines once failed."""
    open_kneeling(page)
    key = page.locator("#page").get_attribute("data-studio") or ""
    for number, (target, x, y) in enumerate(
        [("sets/kneeling-a/lights/key", 2.39, 0.47), ("sets/kneeling-a/mark", 1.34, 2.74)], start=1
    ):
        edit = {"verb": "set", "target": target, "fields": {"x": x, "y": y}}
        assert live.post(f"/studios/{key}/edits", revision=number, edit=edit).status_code == 200
        page.goto(f"/studios/{key}/sets/kneeling-a")
        expect(page.locator("#view-plan")).to_be_visible()


@pytest.mark.away
@pytest.mark.parametrize("status", [500, None])
def test_a_file_that_did_not_arrive_is_sent_again(page: Page, live: Live, status: int | None) -> None:
    key = live.store.create(parse(one_portrait()), label="One").studio_id
    page.goto(f"/studios/{key}/kit")
    taken = re.compile(r"/gear-table$")
    page.route(taken, lambda route: route.abort() if status is None else route.fulfill(status=status, body="down"))
    table = "kind,id,name,status,price\nlens,short,Short lens,planned,95\n"
    page.locator("#gear-table-in").set_input_files(
        {"name": "gear.csv", "mimeType": "text/csv", "buffer": table.encode()}
    )
    page.locator("#gear-table button").click()
    expect(page.locator("#saved")).to_contain_text("1 not saved, trying again")
    expect(page.locator("#notice")).to_contain_text("asked again until it does")
    assert live.store.newest(key).number == 1
    page.unroute(taken)
    expect(page.locator("#card-gear-short")).to_be_visible(timeout=15_000)
    assert [item.id for item in live.store.newest(key).studio.gear].count("short") == 1


@pytest.mark.away
def test_a_button_of_the_list_is_pressed_again(page: Page, live: Live) -> None:
    live.store.create(parse(one_portrait() | {"name": "To be put away"}), label="One")
    page.goto("/")
    archive = re.compile(r"/archive$")
    page.route(archive, lambda route: route.abort())
    page.get_by_role("button", name="Archive").click()
    expect(page.locator("#notice")).to_contain_text("asked again until it does")
    assert not live.store.studios(archived=True)
    page.unroute(archive)
    expect(page.get_by_text("1 archived")).to_be_visible(timeout=15_000)


def test_what_is_pressed_before_the_scripts_are_there_is_not_lost(page: Page, live: Live) -> None:
    """On a slow line the first press of a button, and the first form sent, wait for the page's scripts."""
    key = live.store.create(parse(one_portrait()), label="One").studio_id

    def late(route: Route) -> None:
        page.wait_for_timeout(1200)
        route.continue_()

    page.route(re.compile(r"htmx\.min\.js"), late)
    page.goto(f"/studios/{key}/best", wait_until="commit")
    page.get_by_label("Budget in EUR").fill("plenty")
    page.get_by_role("button", name="Find the best kit").click()
    expect(page.locator("#kit-budget-error")).to_contain_text("49.90")
    expect(page.get_by_label("Budget in EUR")).to_have_value("plenty")
    page.goto(f"/studios/{key}/shots", wait_until="commit")
    page.get_by_role("button", name="Copy it").click()
    page.wait_for_function("() => document.getElementById('page').dataset.revision === '2'")
    assert live.store.newest(key).studio.shots[-1].name.endswith("copy")
