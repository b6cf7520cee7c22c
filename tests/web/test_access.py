"""The access matrix: every route by everybody who may come, made from the routes there are."""

import re
from datetime import date
from typing import Any

import pytest
from helpers.hosted import Browser, Hosted, hosted_on, routes_of
from helpers.studios import one_portrait, parse
from sqlalchemy import Engine

from evrant.core.edits.language import EditRefused
from evrant.store.people import Role
from evrant.store.repository import Repository
from evrant.web.access import LOOKED, NAMED, OF_STUDIO, OPEN, OWNED, Need, need_of

RANK = {"stranger": 0, "another": 0, "operator": 0, "link": 1, "looker": 1, "editor": 2, "owner": 3}
LEAST = {Need.LOOK: 1, Need.EDIT: 2, Need.OWN: 3}
SIGNED_IN = frozenset(RANK) - {"stranger", "link"}


class World:
    """One hosted app with a studio and somebody in every role."""

    def __init__(self, hosted: Hosted, engine: Engine) -> None:
        self.hosted, self.engine = hosted, engine
        self.owner = hosted.someone("Olive Owner")
        assert self.owner.account is not None
        self.store = Repository(engine).acting(self.owner.account.id, self.owner.account.id)
        self.studio = self.store.create(parse(one_portrait()), label="New").studio_id
        self.browsers: dict[str, Browser] = {"owner": self.owner, "stranger": hosted.browser()}
        self.browsers["another"] = hosted.someone("Ann Other")
        self.browsers["operator"] = hosted.someone("Opal Operator", operator=True)
        for name, role in (("looker", Role.LOOKER), ("editor", Role.EDITOR)):
            self.browsers[name] = hosted.someone(name)
            hosted.people.share_with(self.studio, self.owner.account.id, name, role)
        token = hosted.people.share_by_link(self.studio, self.owner.account.id, None)
        self.browsers["link"] = hosted.browser()
        assert self.browsers["link"].get(f"/look/{token}").status_code == 303


@pytest.fixture(scope="module")
def world(engine: Engine) -> World:
    return World(hosted_on(engine), engine)


def filled(path: str, studio: str) -> str:
    """A pattern with a studio and parts that it may have."""
    parts = {"studio_id": studio, "set_id": "s", "shot_id": "half", "light_id": "key", "part": "key", "step": "undo"}
    parts |= {"name": "adoption-corner", "number": "1", "item_id": "head", "kind": "dxf", "key": "none"}
    return re.sub(r"\{(\w+)(?::\w+)?\}", lambda m: parts.get(m.group(1), "none"), path)


def ask(browser: Browser, method: str, path: str) -> Any:
    return browser.get(path) if method in ("GET", "HEAD") else browser.post(path)


def turned_away(answer: Any) -> bool:
    """To sign in, refused, or told that there is nothing."""
    to_sign_in = "/sign-in" in (answer.headers.get("location", "") + answer.headers.get("hx-redirect", ""))
    return to_sign_in or answer.status_code in (401, 403) or "no such studio" in answer.text


STORES = "newest at raw change create set_archived delete undo redo branch studios"


class Reached(EditRefused):
    """The gate let it through to the studios."""


@pytest.fixture
def stopped(monkeypatch: pytest.MonkeyPatch) -> None:
    """Whatever is let through ends at the first word to the studios: the gate alone is looked at, and quickly."""

    def reached(*_: Any, **__: Any) -> Any:
        raise Reached("reached the studios")

    for name in STORES.split():
        monkeypatch.setattr(Repository, name, reached)


def test_every_route_by_everybody(world: World, stopped: None) -> None:
    tried, wrong = 0, []
    for method, path in routes_of(world.hosted.app):
        need = need_of(method, path)
        for name, browser in world.browsers.items():
            if path == "/sign-out":
                continue
            answer = ask(browser, method, filled(path, world.studio))
            away = turned_away(answer)
            if need is Need.NOBODY:
                may = True
            elif need is Need.ACCOUNT:
                may = name in SIGNED_IN
            elif need is Need.OPERATOR:
                may, away = name == "operator", away or answer.status_code == 404
                if may and "{" in path:
                    continue
            else:
                may = RANK[name] >= LEAST[need] and not (method == "POST" and path in NAMED and name == "link")
            tried += 1
            if away == may or answer.status_code >= 500:
                wrong.append((method, path, name, "may" if may else "may not", answer.status_code, answer.text[:80]))
    assert wrong == []
    assert tried > 700, "all routes by seven kinds of people"


def test_nobody_learns_whether_a_studio_exists(world: World, stopped: None) -> None:
    """Who may not see a studio is answered as if there were none, word for word."""
    for method, path in routes_of(world.hosted.app):
        if not path.startswith(OF_STUDIO):
            continue
        for name in ("stranger", "another", "operator"):
            browser = world.browsers[name]
            there = ask(browser, method, filled(path, world.studio))
            nowhere = ask(browser, method, filled(path, "0123456789ab"))
            assert there.status_code == nowhere.status_code, (method, path, name)
            plain = [answer.text.replace(world.studio, "x").replace("0123456789ab", "x") for answer in (there, nowhere)]
            token = re.compile(r'content="[\w.-]{60,}"')
            assert token.sub("", plain[0]) == token.sub("", plain[1]), (method, path, name)


def test_what_is_listed_is_a_route_there_is(world: World) -> None:
    """A listed exception that no route has any more would hide a mistake."""
    known = {path for _, path in routes_of(world.hosted.app)}
    assert {*OPEN, *OWNED, *LOOKED, *NAMED} <= known


def test_a_link_opens_its_studio_and_no_other(world: World) -> None:
    second = world.store.create(parse(one_portrait()), label="Second").studio_id
    link = world.browsers["link"]
    assert link.get(f"/studios/{world.studio}/brief").status_code == 200
    assert turned_away(link.get(f"/studios/{second}/brief"))
    assert turned_away(link.get("/"))
    page = link.get(f"/studios/{world.studio}/brief").text
    assert "data-look-only" in page and "to look at" in page


def test_links_end_and_are_taken_back(world: World, monkeypatch: pytest.MonkeyPatch) -> None:
    people, owner = world.hosted.people, world.owner.account
    assert owner is not None
    token = people.share_by_link(world.studio, owner.id, date(2999, 1, 1))
    browser = world.hosted.browser()
    assert browser.get(f"/look/{token}").status_code == 303
    assert browser.get(f"/studios/{world.studio}/brief").status_code == 200
    dated = next(one for one in people.shares(world.studio) if one.ends is not None)
    assert world.owner.post(f"/studios/{world.studio}/share/{dated.id}").status_code == 200
    assert turned_away(browser.get(f"/studios/{world.studio}/brief")), "the cookie opens nothing any more"
    assert browser.get(f"/look/{token}").status_code == 404
    with pytest.raises(EditRefused, match="over"):
        people.share_by_link(world.studio, owner.id, date(2001, 1, 1))


def test_who_edits_what_is_shared_is_named_in_its_history(world: World) -> None:
    editor, studio = world.browsers["editor"], world.studio
    answer = editor.post(
        f"/studios/{studio}/edits", edit='{"verb": "set", "target": "brief", "fields": {"budget": "812"}}', revision=1
    )
    assert answer.status_code == 200
    assert world.store.newest(studio).studio.brief.budget == 812
    page = world.owner.get(f"/studios/{studio}/history").text
    assert ">editor<" in page.replace("\n  ", "") and "Olive Owner" in page
    refused = world.browsers["looker"].post(
        f"/studios/{studio}/edits", edit='{"verb": "set", "target": "brief", "fields": {"budget": "1"}}', revision=2
    )
    assert refused.status_code == 403 and "look at this studio" in refused.text
    assert world.store.newest(studio).studio.brief.budget == 812


def test_a_looker_copies_to_their_own(world: World) -> None:
    looker = world.browsers["looker"]
    assert looker.account is not None
    before = world.store.count()
    assert looker.post(f"/studios/{world.studio}/copy").status_code == 204
    own = Repository(world.engine).acting(looker.account.id, looker.account.id)
    assert own.count() == 1 and world.store.count() == before
    page = looker.get("/").text
    assert "Shared with you" in page and "by Olive Owner" in page and "One portrait (copy)" in page


def test_roles_change_and_are_taken_back(world: World) -> None:
    people, owner = world.hosted.people, world.owner
    assert owner.account is not None
    guest = world.hosted.someone("Gus Guest")
    path = f"/studios/{world.studio}"
    assert turned_away(guest.get(f"{path}/brief"))
    assert owner.post(f"{path}/share", name=" gus  GUEST ", role="looker").status_code == 200
    assert guest.get(f"{path}/brief").status_code == 200 and turned_away(guest.post(f"{path}/branch"))
    assert owner.post(f"{path}/share", name="Gus Guest", role="editor").status_code == 200
    mine = [one for one in people.shares(world.studio) if one.called == "Gus Guest"]
    assert [one.role for one in mine] == [Role.EDITOR], "one share, the other role"
    assert not turned_away(guest.post(f"{path}/undo"))
    owner.post(f"{path}/share/{mine[0].id}")
    assert turned_away(guest.get(f"{path}/brief"))


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        ({"name": "Nobody Here", "role": "looker"}, "Nobody of that name"),
        ({"name": "Olive Owner", "role": "looker"}, "That is you"),
        ({"name": "looker", "role": "owner"}, "to look at or to change"),
        ({"by_link": "yes", "until": "2001-02-03"}, "That day is over"),
        ({"by_link": "yes", "until": "next week"}, "Write the day as"),
    ],
)
def test_what_cannot_be_shared_is_said_where_it_was_typed(world: World, fields: dict[str, str], words: str) -> None:
    before = len(world.hosted.people.shares(world.studio))
    answer = world.owner.post(f"/studios/{world.studio}/share", **fields)
    assert answer.status_code == 422 and words in answer.text
    assert len(world.hosted.people.shares(world.studio)) == before
