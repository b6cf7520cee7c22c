"""Heavy pages wait in a line of their own; light ones go past them, and a line that is full says so."""

import re
from typing import Any

import anyio
import pytest
from helpers.hosted import routes_of
from sqlalchemy import create_engine
from starlette.types import Message, Receive, Scope, Send

from evrant.web import queueing
from evrant.web.app import create_app
from evrant.web.queueing import HEAVY, InLine, Line

HEAVY_PATH, LIGHT_PATH = "/studios/3f2a/arrange/half/found", "/studios/3f2a/brief"


class Slow:
    """An app whose answers wait until they are let go; counts how many are at work at once."""

    def __init__(self) -> None:
        self.open, self.most, self.go = 0, 0, anyio.Event()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        self.open += 1
        self.most = max(self.most, self.open)
        await self.go.wait()
        self.open -= 1
        await send({"type": "http.response.start", "status": 200, "headers": []})


def headers(session: str) -> list[tuple[bytes, bytes]]:
    return [(b"cookie", f"__Host-evrant_session={session}".encode())] if session else []


async def status(app: InLine, path: str, found: list[int], session: str = "") -> None:
    async def receive() -> Message:
        return {"type": "http.request"}

    async def send(message: Message) -> None:
        if message["type"] == "http.response.start":
            found.append(message["status"])

    await app({"type": "http", "method": "GET", "path": path, "headers": headers(session)}, receive, send)


def test_so_many_heavy_at_once_and_light_ones_past_them() -> None:
    async def run() -> None:
        slow, heavy, light = Slow(), list[int](), list[int]()
        app = InLine(slow, Line(at_once=2))
        async with anyio.create_task_group() as tasks:
            for _ in range(6):
                tasks.start_soon(status, app, HEAVY_PATH, heavy)
            await anyio.wait_all_tasks_blocked()
            assert slow.open == 2, "the others wait in line"
            for _ in range(5):
                tasks.start_soon(status, app, LIGHT_PATH, light)
            await anyio.wait_all_tasks_blocked()
            assert slow.open == 7, "light ones are at work beside them"
            slow.go.set()
        assert heavy == [200] * 6 and light == [200] * 5

    anyio.run(run)


def test_a_line_that_is_full_or_too_slow_says_so(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(queueing, "WAITING", 3)
    monkeypatch.setattr(queueing, "PATIENCE", 1.0)

    async def run() -> None:
        slow, found = Slow(), list[int]()
        line = Line(at_once=1)
        app = InLine(slow, line)
        async with anyio.create_task_group() as tasks:
            for _ in range(6):
                tasks.start_soon(status, app, HEAVY_PATH, found)
            await anyio.wait_all_tasks_blocked()
            assert found == [503, 503], "one at work, three wait, two are told at once"
            await anyio.sleep(1.6)
            assert found == [503] * 5 and line.waiting == 0, "who waited too long is told too"
            slow.go.set()
        assert found == [503] * 5 + [200]
        again: list[int] = []
        await status(app, HEAVY_PATH, again)
        assert again == [200], "and the line goes on"

    anyio.run(run)


def test_every_heavy_pattern_is_a_route_there_is() -> None:
    app = create_app(create_engine("postgresql+psycopg://nowhere"), ["x"])
    paths = {re.sub(r"\{\w+\}", "x", path) for method, path in routes_of(app) if method == "GET"}
    heavy = {path for path in paths if HEAVY.fullmatch(path)}
    parts: Any = HEAVY.pattern.count("|") + 1
    assert len(heavy) >= parts - 2, sorted(heavy)
    assert not any(word in path for path in heavy for word in ("brief", "/room/", "standing", "download"))


def test_one_asker_does_not_fill_the_line_for_all(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(queueing, "OF_ONE", 3)

    async def run() -> None:
        slow, greedy, other = Slow(), list[int](), list[int]()
        line = Line(at_once=1)
        app = InLine(slow, line)
        async with anyio.create_task_group() as tasks:
            for _ in range(5):
                tasks.start_soon(status, app, HEAVY_PATH, greedy, "one")
            tasks.start_soon(status, app, HEAVY_PATH, other, "another")
            await anyio.wait_all_tasks_blocked()
            assert greedy == [429, 429] and other == []
            slow.go.set()
        assert greedy == [429, 429, 200, 200, 200] and other == [200] and not line.askers

    anyio.run(run)
