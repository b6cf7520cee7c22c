"""Every page at both sizes, light and dark: accessible, nothing cut, no words over others."""

import random
import re
from typing import Any

import numpy as np
import pytest
from helpers.pages import open_kneeling, settled
from helpers.screens import CUT, LABELS, faults_of_access
from helpers.studios import one_portrait, parse
from playwright.sync_api import Page, expect

from evrant.core.judge.ledger import ledger_of
from evrant.core.space.scene import scene_of
from evrant.demo import NAMES, demo_studio
from evrant.demo.tours import TOURS
from evrant.drawing.circuits import power_sheet
from evrant.drawing.roomplan import room_plan
from evrant.drawing.sheet import sheet

ALONE = ["/", "/begin", "/glossary", "/how-sure", "/trainer", "/trainer/lens?answer=1"]
OF_STUDIO = [
    "brief",
    "room",
    "shots",
    "kit",
    "shopping",
    "stow",
    "best",
    "order",
    "history",
    "remarks",
    "rooms",
    "lenses",
    "survey",
    "session",
    "carry",
    "log",
    "frame",
]
MORE = ["survey/paint", "compare", "settle"]
OF_SET = ["sets", "picture", "light", "support", "power", "safety", "setup", "sound"]
SIZES = {"desk": (1280, 800), "phone": (390, 844)}


def addresses(key: str, set_id: str) -> list[str]:
    base = f"/studios/{key}"
    return ALONE + [f"{base}/{one}" for one in OF_STUDIO + MORE] + [f"{base}/{one}/{set_id}" for one in OF_SET]


@pytest.mark.parametrize("size", list(SIZES))
def test_every_page_is_accessible_and_nothing_is_cut(page: Page, live: Any, size: str) -> None:
    studio = demo_studio("stones-on-file")
    key = live.store.create(studio, label="Demo").studio_id
    page.set_viewport_size({"width": SIZES[size][0], "height": SIZES[size][1]})
    found = {}
    test_step = f"/studios/{key}/carry/stone-evening?at=rock-a-test-key"
    for address in [*addresses(key, studio.sets[0].id), test_step]:
        page.goto(address)
        expect(page.locator("main")).to_be_visible()
        page.wait_for_timeout(250)
        wrong = [*faults_of_access(page), *page.evaluate(CUT), *page.evaluate(LABELS)]
        titles = page.evaluate("[document.title, document.querySelectorAll('h1').length]")
        if wrong or not titles[0] or not titles[1]:
            found[address] = wrong or titles
    assert not found, "\n".join(f"{key}: {one}" for key, faults in found.items() for one in faults)


@pytest.mark.parametrize("scheme", ["dark", "light"])
def test_colours_are_told_apart_in_both_themes(page: Page, live: Any, scheme: Any) -> None:
    """With panels, folds and lists open, where most colours are."""
    studio = demo_studio("adoption-corner")
    key = live.store.create(studio, label="Demo").studio_id
    page.emulate_media(color_scheme=scheme)
    for address in (f"sets/{studio.sets[1].id}", "shots", "kit", "log", "session", f"setup/{studio.sets[1].id}"):
        page.goto(f"/studios/{key}/{address}")
        page.evaluate("for (const one of document.querySelectorAll('details')) one.open = true")
        assert not [fault for fault in faults_of_access(page) if fault[0].startswith("color")], address


@pytest.mark.parametrize("name", NAMES)
def test_no_words_lie_over_others_on_any_demo(page: Page, live: Any, name: str) -> None:
    studio = demo_studio(name)
    key = live.store.create(studio, label="Demo").studio_id
    for size in SIZES.values():
        page.set_viewport_size({"width": size[0], "height": size[1]})
        for address in [*(f"sets/{plan.id}" for plan in studio.sets), f"light/{studio.sets[0].id}", "room"]:
            page.goto(f"/studios/{key}/{address}")
            page.wait_for_timeout(450)
            assert page.evaluate(LABELS) == [], (size, address)


def turned(dice: random.Random) -> dict[str, Any]:
    """A portrait in a room of random size with furniture and doors, the lens turned any way."""
    data = one_portrait()
    long, wide = dice.uniform(3.4, 6.5), dice.uniform(3.0, 5.0)
    data["room"]["footprint"] = {"kind": "rectangle", "length": round(long, 2), "width": round(wide, 2)}
    data["room"]["doors"][0]["offset"] = round(dice.uniform(0.1, long - 1.0), 2)
    for socket in data["room"]["sockets"]:
        socket["offset"] = round(dice.uniform(0.2, long - 0.2), 2)
    data["room"]["boxes"] = [
        {
            "id": f"b{i}",
            "name": name,
            "x": round(dice.uniform(0, long - 1.2), 2),
            "y": round(dice.uniform(0, wide - 0.7), 2),
            "length": 1.2,
            "width": 0.6,
            "height": 0.8,
        }
        for i, name in enumerate(("Chest of drawers", "Bookshelf", "Desk"))
    ]
    angle = dice.uniform(0, 2 * np.pi)
    middle = np.array([long / 2, wide / 2])
    camera = middle + 0.42 * min(long, wide) * np.array([np.cos(angle), np.sin(angle)])
    plan = data["sets"][0]
    plan["mark"] = {
        "x": round(float(middle[0]), 2),
        "y": round(float(middle[1]), 2),
        "facing": round(float(np.degrees(angle)), 1),
    }
    plan["camera"] |= {"x": round(float(camera[0]), 2), "y": round(float(camera[1]), 2)}
    return data


def test_no_words_lie_over_others_in_twenty_turned_rooms(page: Page, live: Any) -> None:
    page.goto("/glossary")
    dice, drawn = random.Random(20), 0
    while drawn < 20:
        studio = parse(turned(dice))
        scene = scene_of(studio, studio.sets[0])
        assert scene is not None
        lines = ledger_of(studio).of_set(scene.plan.id)
        for made in (
            sheet(scene, lines, 760.0, 620.0),
            power_sheet(studio, scene, 640.0, 560.0),
            room_plan(scene, 700.0, 520.0),
        ):
            page.evaluate("(made) => { document.getElementById('main').innerHTML = made; }", made)
            box = page.evaluate("document.querySelector('svg.sheet').viewBox.baseVal.width")
            page.evaluate("(wide) => { document.querySelector('svg.sheet').style.width = `${wide}px`; }", box)
            assert page.evaluate(LABELS) == [], drawn
        drawn += 1


def test_a_tour_goes_from_page_to_page_and_ends(page: Page, live: Any) -> None:
    page.goto("/")
    page.locator("[data-tour=hands-in-view]").click()
    bar = page.locator(".tour")
    for number, (address, words) in enumerate(TOURS["hands-in-view"], start=1):
        expect(bar).to_contain_text(f"{number} of 4 {words[:30]}")
        expect(page.locator(f'#page[data-path^="{address}"]')).to_be_visible()
        bar.locator("button").first.click()
    expect(bar).to_have_count(0)
    page.reload()
    expect(page.locator("main")).to_be_visible()
    expect(bar).to_have_count(0)


def test_an_exercise_by_keys(page: Page, live: Any) -> None:
    page.goto("/trainer/pattern")
    page.get_by_role("link", name="In front and high").focus()
    page.keyboard.press("Enter")
    expect(page.locator(".judged")).to_contain_text("Not in front and high")
    expect(page.locator("svg.sheet")).to_be_visible()
    page.get_by_role("link", name="Next").focus()
    page.keyboard.press("Enter")
    expect(page.locator("h1")).to_contain_text("painted anew")


def test_on_a_telephone_the_answer_is_at_the_thumb_and_one_sees_where_one_is(page: Page, live: Any) -> None:
    studio = demo_studio("adoption-corner")
    key = live.store.create(studio, label="Demo").studio_id
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"/studios/{key}/power/{studio.sets[-1].id}")
    for strip in (".rail", ".set-tabs"):
        here = page.locator(f"{strip} a[aria-current]").bounding_box()
        assert here and here["x"] >= 0 and here["x"] + here["width"] <= 390, strip
    page.goto(f"/studios/{key}/sets/{studio.sets[1].id}")
    page.wait_for_timeout(700)
    dock = page.locator("#dock")
    box = dock.bounding_box()
    assert box and box["y"] + box["height"] == pytest.approx(844, abs=1) and box["height"] >= 44
    before = dock.text_content() or ""
    assert "Not ready to buy" in before
    page.locator("#plan-sets-kneeling-a-lights-key").focus()
    page.keyboard.press("Shift+ArrowLeft")
    expect(dock).not_to_have_text(before)
    expect(dock).to_contain_text("Short")
    page.keyboard.press("Escape")
    for control in page.locator(".rail a, .set-tabs a, #dock").all():
        size = control.bounding_box()
        assert size and size["height"] >= 36


def test_several_things_are_moved_together_as_one_change(page: Page, live: Any) -> None:
    """By Shift and click, and by keys; Undo takes all of it back; what is not chosen stays."""
    open_kneeling(page)
    key = page.locator("#page").get_attribute("data-studio") or ""

    def places() -> dict[str, tuple[float, float]]:
        plan = next(one for one in live.store.newest(key).studio.sets if one.id == "kneeling-a")
        return {light.id: (light.x, light.y) for light in plan.lights}

    before = places()
    page.locator("#plan-sets-kneeling-a-lights-fill").focus()
    page.keyboard.press("Shift+Enter")
    expect(page.locator("#plan-sets-kneeling-a-lights-fill")).to_have_class(re.compile("together"))
    page.locator("#plan-sets-kneeling-a-lights-key").focus()
    page.keyboard.press("Shift+Enter")
    page.keyboard.press("Shift+ArrowLeft")
    settled(page, 2)
    after = places()
    moved = {name: (after[name][0] - before[name][0], after[name][1] - before[name][1]) for name in before}
    assert moved["key"] == pytest.approx(moved["fill"], abs=0.011) and max(map(abs, moved["key"])) == pytest.approx(
        0.1, abs=0.011
    )
    page.get_by_role("button", name="Undo").click()
    settled(page, 3)
    assert places() == before
    page.locator("#plan-sets-kneeling-a-lights-key").focus()
    page.keyboard.press("Escape")
    expect(page.locator(".grab.together")).to_have_count(0)
    page.keyboard.press("Shift+ArrowLeft")
    settled(page, 4)
    assert places()["fill"] == before["fill"] and places()["key"] != before["key"]


def test_what_is_said_of_a_movement_is_in_the_studios_units(page: Page, live: Any) -> None:
    studio = demo_studio("stones-on-file")
    key = live.store.create(studio, label="Demo").studio_id
    page.goto(f"/studios/{key}/sets/crystal-a")
    light = page.locator("#plan-sets-crystal-a-lights-key")
    light.focus()
    page.wait_for_timeout(500)
    page.evaluate("""() => {
      const said = document.getElementById("said");
      window.heard = [];
      const watcher = new MutationObserver(() => window.heard.push(said.textContent));
      watcher.observe(said, { childList: true, characterData: true, subtree: true });
    }""")
    page.keyboard.press("Shift+ArrowLeft")
    settled(page, 2)
    heard = " | ".join(page.evaluate("window.heard"))
    assert re.search(r"Moved: [xy] (\d' )?\d+( \d/\d)?\"", heard), heard
    figures = page.evaluate(
        "[0.3048, 0.0254, 1.8542, 0.0127, 0.9999].map((one) => window.evrant.length(one, 'imperial'))"
    )
    assert figures == ["1' 0\"", '1"', "6' 1\"", '1/2"', "3' 3 3/8\""]
    assert page.evaluate("[window.evrant.length(0.4, 'metric', true), window.evrant.length(0.4, 'metric')]") == [
        "40 cm",
        "0.40 m",
    ]


def test_at_four_times_the_size_nothing_is_read_sideways(page: Page, live: Any) -> None:
    """WCAG 2.2, 1.4.10: 1280 pixels at 400 % are 320; pages run downwards only."""
    studio = demo_studio("adoption-corner")
    key = live.store.create(studio, label="Demo").studio_id
    page.set_viewport_size({"width": 320, "height": 640})
    for address in addresses(key, studio.sets[0].id):
        page.goto(address)
        page.wait_for_timeout(150)
        assert page.evaluate("document.documentElement.scrollWidth") <= 320, address
