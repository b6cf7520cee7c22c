"""A hosted app in this process, and people with browsers of their own."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from fastapi import FastAPI
from fastapi.routing import APIRoute
from sqlalchemy import Engine, text
from starlette.testclient import TestClient

from evrant.store.people import Account, People
from evrant.web.app import create_app
from evrant.web.hosting import Hosting

HOST = "testserver"
HOSTING = Hosting(f"http://{HOST}")
PASSWORD = "four words make one"
EMPTY = "TRUNCATE revision, standing, frame, share, remark, studio, ticket, sign_in, account"


@dataclass
class Browser:
    """Somebody's browser: keeps cookies, sends the page's token with every change."""

    client: TestClient
    account: Account | None = None

    def get(self, path: str, **headers: str) -> Any:
        return self.client.get(path, headers={"accept": "text/html", **headers}, follow_redirects=False)

    def post(self, path: str, **fields: Any) -> Any:
        """A change as a page sends it."""
        self.client.get("/health")
        token = self.client.cookies.get("evrant_token") or ""
        headers = {"X-Evrant-Token": token, "HX-Request": "true"}
        return self.client.post(path, data=fields, headers=headers, follow_redirects=False)

    def sign_in(self, name: str, password: str = PASSWORD) -> Any:
        answer = self.post("/sign-in", name=name, password=password)
        self.client.cookies.delete("evrant_token")
        return answer


@dataclass
class Hosted:
    """The app for many, with its gateway to people."""

    app: FastAPI
    people: People

    def browser(self) -> Browser:
        client = TestClient(self.app, base_url=f"http://{HOST}", raise_server_exceptions=False)
        return Browser(client)

    def someone(self, name: str, *, operator: bool = False) -> Browser:
        """A new account, signed in."""
        made = self.people.add(name, PASSWORD, operator=operator)
        browser = self.browser()
        assert browser.sign_in(name).status_code == 204
        browser.account = made
        return browser


def hosted_on(engine: Engine, hosting: Hosting = HOSTING) -> Hosted:
    """A hosted app on empty tables."""
    with engine.begin() as connection:
        connection.execute(text(EMPTY))
    app = create_app(engine, [HOST], hosting=hosting)
    return Hosted(app, app.state.people)


def routes_of(app: FastAPI) -> Iterator[tuple[str, str]]:
    """Method and pattern of every route, those of included routers too."""
    yield from _routes(app.routes)


def _routes(routes: Any) -> Iterator[tuple[str, str]]:
    for route in routes:
        if isinstance(route, APIRoute):
            yield from ((method, route.path) for method in sorted(route.methods or ()))
        else:
            inner = getattr(route, "original_router", None)
            yield from _routes(inner.routes) if inner is not None else ()
