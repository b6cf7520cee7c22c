"""Two people at one studio: who is there, each other's changes, looking only, signing in by keyboard."""

import threading
import time
from collections.abc import Iterator
from dataclasses import dataclass

import pytest
import uvicorn
from helpers.hosted import EMPTY, PASSWORD
from helpers.studios import one_portrait, parse
from playwright.sync_api import Browser, Page, expect
from sqlalchemy import Engine, text

from evrant.store import cluster
from evrant.store.attempts import Attempts
from evrant.store.people import People, Role
from evrant.store.repository import Repository
from evrant.web.app import create_app
from evrant.web.hosting import Hosting


@dataclass
class Server:
    """A hosted app of two processes' worth: each address is an app of its own on the same database."""

    addresses: list[str]
    people: People
    store: Repository
    studio: str


@pytest.fixture
def hosted(engine: Engine) -> Iterator[Server]:
    with engine.begin() as connection:
        connection.execute(text(EMPTY))
    Attempts(engine).reset()
    running, addresses = [], []
    for _ in range(2):
        port = cluster.free_port()
        address = f"http://127.0.0.1:{port}"
        app = create_app(engine, [f"127.0.0.1:{port}"], hosting=Hosting(address))
        one = uvicorn.Server(
            uvicorn.Config(app, host="127.0.0.1", port=port, log_level="error", timeout_graceful_shutdown=1)
        )
        thread = threading.Thread(target=one.run)
        thread.start()
        while not one.started:
            time.sleep(0.02)
        running.append((one, thread))
        addresses.append(address)
    people = People(engine)
    owner, editor = people.add("Mara Field", PASSWORD), people.add("Jonas Reed", PASSWORD)
    people.add("Lena Look", PASSWORD)
    store = Repository(engine).acting(owner.id, owner.id)
    studio = store.create(parse(one_portrait()), label="New").studio_id
    people.share_with(studio, owner.id, editor.called, Role.EDITOR)
    people.share_with(studio, owner.id, "Lena Look", Role.LOOKER)
    yield Server(addresses, people, store, studio)
    for one, thread in running:
        one.should_exit = True
        thread.join()


def signed_in(browser: Browser, address: str, name: str) -> Page:
    """Somebody's own window, signed in by keyboard alone."""
    page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
    page.goto(f"{address}/")
    expect(page.get_by_role("heading", name="Sign in")).to_be_visible()
    page.get_by_label("Name").focus()
    page.keyboard.type(name)
    page.keyboard.press("Tab")
    page.keyboard.type(PASSWORD)
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Studios", exact=True)).to_be_visible()
    return page


def test_two_see_each_other_and_each_others_changes(browser: Browser, hosted: Server) -> None:
    """Each on a process of its own: what one changes comes to the other without a reload, and is not lost."""
    first, second = hosted.addresses
    mara, jonas = signed_in(browser, first, "Mara Field"), signed_in(browser, second, "Jonas Reed")
    mara.goto(f"{first}/studios/{hosted.studio}/brief")
    jonas.goto(f"{second}/studios/{hosted.studio}/brief")
    expect(mara.locator("#others")).to_have_text("Jonas Reed is here")
    expect(jonas.locator("#others")).to_have_text("Mara Field is here")
    jonas.locator("input[name=budget]").fill("1234")
    jonas.keyboard.press("Tab")
    expect(mara.locator("#page")).to_have_attribute("data-revision", "2")
    expect(mara.locator("input[name=budget]")).to_have_value("1234")
    expect(mara.locator("#others")).to_have_text("Jonas Reed is here")
    # Whoever is typing is not interrupted; what they typed is stored upon the other's change.
    mara.locator("input[name=budget]").fill("77")
    jonas.locator("input[name=name]").first.fill("A shared corner")
    jonas.keyboard.press("Tab")
    expect(jonas.locator("#page")).to_have_attribute("data-revision", "3")
    mara.wait_for_timeout(1200)
    expect(mara.locator("input[name=budget]")).to_have_value("77")
    mara.keyboard.press("Tab")
    expect(mara.locator("#page")).to_have_attribute("data-revision", "4")
    newest = hosted.store.newest(hosted.studio).studio
    assert newest.name == "A shared corner" and newest.brief.budget == 77
    jonas.close()
    expect(mara.locator("#others")).to_be_empty()


def test_who_may_only_look_finds_nothing_to_press(browser: Browser, hosted: Server) -> None:
    page = signed_in(browser, hosted.addresses[0], "Lena Look")
    page.get_by_role("link", name="One portrait").click()
    expect(page.locator("#saved")).to_have_text("to look at")
    page.goto(f"{hosted.addresses[0]}/studios/{hosted.studio}/brief")
    expect(page.locator("input[name=budget]")).to_be_disabled()
    expect(page.get_by_role("link", name="Share")).to_have_count(0)
    page.get_by_role("button", name="Copy to yours").click()
    expect(page.get_by_role("link", name="One portrait (copy)")).to_be_visible()
    assert hosted.store.newest(hosted.studio).number == 1


def test_a_link_opens_the_studio_for_whoever_has_it_until_it_is_taken_back(browser: Browser, hosted: Server) -> None:
    address = hosted.addresses[0]
    mara = signed_in(browser, address, "Mara Field")
    mara.goto(f"{address}/studios/{hosted.studio}/share")
    mara.get_by_role("button", name="Make a link to look at it").click()
    link = mara.locator(".address").inner_text()
    guest = browser.new_context().new_page()
    guest.goto(link)
    expect(guest.locator("#saved")).to_have_text("to look at")
    mara.get_by_role("button", name="Take back from the link").click()
    expect(mara.get_by_role("button", name="Take back from the link")).to_have_count(0)
    again = guest.context.new_page()  # the first may be leaving by itself just now
    again.goto(f"{address}/studios/{hosted.studio}")
    expect(again.get_by_role("heading", name="Sign in")).to_be_visible()
