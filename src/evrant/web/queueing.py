"""Heavy pages wait in a line of their own, so that light ones and files never wait behind them."""

import re
from collections import Counter
from dataclasses import dataclass, field

import anyio
from starlette.requests import HTTPConnection
from starlette.responses import PlainTextResponse
from starlette.types import ASGIApp, Receive, Scope, Send

HEAVY = re.compile(
    r"/studios/[^/]{1,80}/(?:"
    r"arrange/[^/]+/(?:found|possible)|lenses/[^/]+|rooms/[^/]+|order|light/[^/]+/hours|"
    r"picture/[^/]+/(?:faces|verdict|frame\.png|picture\.png)|best/[^/]+/frame\.png|proposals/[^/]+/[^/]+/frame\.png|"
    r"support/[^/]+/table/[^/]+/[^/]+|setup/[^/]+/sheet\.pdf)"
)
"""Pages and parts that search the room, trace a picture or judge many trials."""
WAITING, PATIENCE = 48, 40.0
"""How many may wait in line, and how long [s]."""
OF_ONE = 16
"""How many of them may be one asker's: a page of twelve shots asks for each of them at once."""
MANY = "You have many computations waiting already. Let some of them end first."
BUSY = "Too much is being computed just now; nothing was changed. Try again in a minute."


def asker(connection: HTTPConnection) -> str:
    """Who asks, as far as a line cares: a sign-in, a link, or an address."""
    for name, held in sorted(connection.cookies.items()):
        if name.endswith(("evrant_session", "evrant_link")):
            return held[:64]
    return connection.client.host if connection.client else ""


@dataclass
class Line:
    """So many at once, so many waiting."""

    at_once: int = 1
    waiting: int = 0
    askers: Counter[str] = field(default_factory=Counter)
    _turns: anyio.Semaphore | None = None

    @property
    def turns(self) -> anyio.Semaphore:
        """Made in the loop that waits for it."""
        if self._turns is None:
            self._turns = anyio.Semaphore(self.at_once)
        return self._turns


class InLine:
    """ASGI middleware: heavy requests one after another, the others past them."""

    def __init__(self, app: ASGIApp, line: Line) -> None:
        self.app, self.line = app, line

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or not HEAVY.fullmatch(scope["path"]):
            await self.app(scope, receive, send)
            return
        who = asker(HTTPConnection(scope))
        if self.line.askers[who] >= OF_ONE:
            await PlainTextResponse(MANY, 429, {"Retry-After": "10"})(scope, receive, send)
            return
        self.line.askers[who] += 1
        try:
            await self._in_turn(scope, receive, send)
        finally:
            self.line.askers[who] -= 1
            if not self.line.askers[who]:
                del self.line.askers[who]

    async def _in_turn(self, scope: Scope, receive: Receive, send: Send) -> None:
        if not await self._turn():
            await PlainTextResponse(BUSY, 503, {"Retry-After": "30"})(scope, receive, send)
            return
        try:
            await self.app(scope, receive, send)
        finally:
            self.line.turns.release()

    async def _turn(self) -> bool:
        """Whether it was one's turn before one's patience, or the line's room, was at an end."""
        try:
            self.line.turns.acquire_nowait()
        except anyio.WouldBlock:
            if self.line.waiting >= WAITING:
                return False
        else:
            return True
        self.line.waiting += 1
        try:
            with anyio.move_on_after(PATIENCE) as waited:
                await self.line.turns.acquire()
        finally:
            self.line.waiting -= 1
        return not waited.cancelled_caught
