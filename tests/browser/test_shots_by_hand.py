"""Shots as pictures: the frame's edge, the aperture, the faces, by mouse and by keys."""

from typing import Any

import pytest
from helpers.pages import place_of, settled
from helpers.studios import one_portrait, parse
from playwright.sync_api import Locator, Page, expect


@pytest.fixture
def portrait(page: Page, live: Any) -> str:
    key: str = live.store.create(parse(one_portrait()), label="One").studio_id
    page.goto(f"/studios/{key}/shots")
    expect(page.locator(".finder").first).to_be_visible()
    return key


def shot_now(live: Any, key: str) -> Any:
    return live.store.newest(key).studio.shots[0]


def pull(page: Page, grip: Locator, by: tuple[float, float]) -> None:
    box = place_of(grip.locator(".grip"))
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + by[0], y + by[1], steps=5)
    page.mouse.up()


def test_the_frames_edge_is_pulled_and_takes_a_usual_crop_nearby(page: Page, live: Any, portrait: str) -> None:
    frame = place_of(page.locator(".finder-frame"))
    high = float(page.locator(".finder").get_attribute("data-height") or 0)
    pull(page, page.locator(".frame-grip[data-edge=bottom]"), (0, frame["height"] * 0.1))
    settled(page, 2)
    assert shot_now(live, portrait).frame_height.value == pytest.approx(high * 1.2, rel=0.03)
    # Back to a head and shoulders: 0.41 of a stature of 1.70 m.
    high = float(page.locator(".finder").get_attribute("data-height") or 0)
    frame = place_of(page.locator(".finder-frame"))
    share = 0.41 * 1.7 / high
    pull(page, page.locator(".frame-grip[data-edge=top]"), (0, frame["height"] / 2 * (1 - share)))
    settled(page, 3)
    shot = shot_now(live, portrait)
    assert (shot.crop, shot.frame_height) == ("head and shoulders", None)
    expect(page.get_by_role("button", name="Head and shoulders").first).to_have_class("pick picked")


def test_a_picture_that_comes_late_moves_nothing_under_the_hand(page: Page, live: Any, portrait: str) -> None:
    held: list[Any] = []
    page.route("**/frame.png*", lambda route: held.append(route))
    page.reload()
    expect(page.locator(".finder").first).to_be_visible()
    before = place_of(page.locator(".finder").first)
    page.wait_for_function("() => true")
    assert held
    for route in held:
        route.continue_()
    page.wait_for_function("() => document.querySelector('.small-picture img').naturalWidth > 0")
    assert place_of(page.locator(".finder").first) == before


def test_by_keys(page: Page, live: Any, portrait: str) -> None:
    grip = page.get_by_role("slider", name="How much the frame holds")
    grip.focus()
    high = float(page.locator(".finder").get_attribute("data-height") or 0)
    page.keyboard.press("Shift+ArrowUp")
    expect(grip).to_have_attribute("aria-valuetext", f"{high * 1.02**5:.2f} m high")
    settled(page, 2)
    assert shot_now(live, portrait).frame_height.value == pytest.approx(high * 1.02**5, rel=0.01)
    slide = page.get_by_label("Aperture and what is sharp")
    slide.focus()
    before = page.locator(".strip-sharp").get_attribute("width")
    page.keyboard.press("ArrowLeft")
    settled(page, 3)
    assert shot_now(live, portrait).aperture.value < 8
    assert page.locator(".strip-sharp").get_attribute("width") != before
    expect(page.locator(".aperture output")).to_contain_text(f"f/{shot_now(live, portrait).aperture.value:g}")


def test_faces_tones_and_figures(page: Page, live: Any, portrait: str) -> None:
    page.get_by_role("button", name="Rembrandt").click()
    settled(page, 2)
    expect(page.get_by_role("button", name="Rembrandt")).to_have_attribute("aria-pressed", "true")
    page.get_by_role("button", name="black", exact=True).click()
    settled(page, 3)
    shot = shot_now(live, portrait)
    assert (shot.pattern, shot.tone) == ("Rembrandt", "black")
    page.get_by_role("button", name="Rembrandt").click()
    settled(page, 4)
    assert shot_now(live, portrait).pattern is None
    drawn = "(all) => all.every((one) => one.complete && one.naturalWidth > 0)"
    assert page.locator(".faces img").evaluate_all(drawn)
    page.get_by_text("All its figures").click()
    page.get_by_label("ISO").first.fill("400")
    page.keyboard.press("Tab")
    settled(page, 5)
    assert shot_now(live, portrait).iso == 400
    page.set_viewport_size({"width": 390, "height": 844})
    assert page.evaluate("document.documentElement.scrollWidth") == 390
