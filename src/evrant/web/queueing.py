"""Heavy pages wait in a line of their own, so that light ones and files never wait behind them."""

import os
import re
from dataclasses import dataclass, field

import anyio
from starlette.responses import PlainTextResponse
from starlette.types import ASGIApp, Receive, Scope, Send

HEAVY = re.compile(
    r"/studios/[^/]{1,80}/(?:"
    r"arrange/[^/]+/(?:found|possible)|lenses/[^/]+|rooms/[^/]+|order|light/[^/]+/hours|"
    r"picture/[^/]+/(?:faces|verdict|frame\.png|picture\.png)|best/[^/]+/frame\.png|proposals/[^/]+/[^/]+/frame\.png|"
    r"support/[^/]+/table/[^/]+|setup/[^/]+/sheet\.pdf)"
)
"""Pages and parts that search the room, trace a picture or judge many trials."""
WAITING, PATIENCE = 48, 40.0
"""How many may wait in line, and how long [s]."""
BUSY = "Too much is being computed just now; nothing was changed. Try again in a minute."


@dataclass
class Line:
    """So many at once, so many waiting."""

    at_once: int = field(default_factory=lambda: max(1, (os.cpu_count() or 2) - 1))
    waiting: int = 0
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
