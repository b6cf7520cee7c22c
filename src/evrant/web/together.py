"""Several people at one studio: who else is there, and each other's changes, as they come (server-sent events)."""

import asyncio
import json
import secrets
import threading
import time
from collections import Counter
from collections.abc import AsyncIterator, Awaitable, Callable
from dataclasses import dataclass, field
from typing import Any

from fastapi import APIRouter, Request, Response
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import PlainTextResponse, StreamingResponse

from evrant.store.bell import Bell
from evrant.store.revisions import split
from evrant.web.context import repository, who

router = APIRouter()
STILL, LONGEST, GONE = 12.0, 120.0, 40.0
"""Seconds: between two signs of life, of one stream (the browser begins another), until a silent process is gone."""
MOST_STREAMS = 400
MOST_WAITING = 64


@dataclass(eq=False)
class Listener:
    """One page that is open: its studio, who looks at it, and what it is still to be told."""

    studio: str
    name: str
    loop: asyncio.AbstractEventLoop
    queue: "asyncio.Queue[tuple[str, dict[str, Any]]]" = field(default_factory=lambda: asyncio.Queue(MOST_WAITING))

    def tell(self, kind: str, words: dict[str, Any]) -> None:
        """From any thread; a page that does not listen any more is told nothing."""

        def put() -> None:
            if not self.queue.full():
                self.queue.put_nowait((kind, words))

        if not self.loop.is_closed():
            self.loop.call_soon_threadsafe(put)


class Together:
    """The open pages of one process, and who has the same studios open in others."""

    def __init__(self, bell: Bell) -> None:
        self.bell = bell
        self.process = secrets.token_hex(4)
        self._here: list[Listener] = []
        self._others: dict[tuple[str, str], tuple[list[str], float]] = {}
        self._lock = threading.Lock()
        self._listens = False

    @property
    def count(self) -> int:
        return len(self._here)

    def enter(self, listener: Listener) -> None:
        with self._lock:
            self._here.append(listener)
            begin, self._listens = not self._listens, True
        if begin:
            self.bell.listen(self._heard)
        self.say(listener.studio, asking=True)

    def leave(self, listener: Listener) -> None:
        with self._lock:
            self._here = [one for one in self._here if one is not listener]
        self.say(listener.studio)

    def say(self, studio: str, *, asking: bool = False) -> None:
        """Tell all processes who is at a studio here; `asking` has them tell the same."""
        names = self._names(studio)
        self.bell.ring(kind="here", studio=studio, names=names, process=self.process, asking=asking)

    def _names(self, studio: str) -> list[str]:
        with self._lock:
            return sorted(one.name for one in self._here if one.studio == studio)

    def _heard(self, words: dict[str, Any]) -> None:
        studio, kind = str(words.get("studio", "")), words.get("kind")
        if kind == "changed":
            self._pass_on(studio, "changed", {key: words.get(key) for key in ("key", "number", "by", "label")})
        elif kind == "remarked":
            self._pass_on(studio, "remarked", {"by": words.get("by")})
        elif kind == "here":
            key = studio, str(words.get("process"))
            with self._lock:
                self._others[key] = (list(words.get("names") or []), time.monotonic())
            self._pass_on(studio, "here", {"names": self.names(studio)})
            if words.get("asking") and key[1] != self.process and self._names(studio):
                threading.Thread(target=self.say, args=(studio,), daemon=True).start()

    def names(self, studio: str) -> dict[str, int]:
        """Who has a studio open, in any process, and how many pages of it."""
        now, found = time.monotonic(), Counter[str]()
        with self._lock:
            self._others = {key: held for key, held in self._others.items() if now - held[1] < GONE}
            for (there, _), (names, _) in self._others.items():
                found.update(names if there == studio else ())
        return dict(found)

    def _pass_on(self, studio: str, kind: str, words: dict[str, Any]) -> None:
        with self._lock:
            listeners = [one for one in self._here if one.studio == studio]
        for one in listeners:
            one.tell(kind, words)


@router.get("/studios/{studio_id}/events")
async def events(request: Request, studio_id: str) -> Response:
    """Who else has the studio open, and every change of it as it is made."""
    together: Together = request.app.state.together
    if together.count >= MOST_STREAMS:
        return PlainTextResponse("Too many pages are open.", 503)
    account, store = who(request).account, repository(request)
    name = account.called if account else "someone with the link"
    listener = Listener(split(studio_id)[0], name, asyncio.get_running_loop())

    async def newest() -> int:
        return (await run_in_threadpool(store.newest, studio_id)).number

    return StreamingResponse(
        _stream(together, listener, newest),
        media_type="text/event-stream",
        headers={"X-Accel-Buffering": "no"},
    )


async def _stream(together: Together, listener: Listener, newest: Callable[[], Awaitable[int]]) -> AsyncIterator[str]:
    """Listens first and then tells where the studio is, so that no change falls between; ends after a while, and when
    the bell was away, for the browser to begin again."""
    try:
        await run_in_threadpool(together.enter, listener)
        begun, until = together.bell.times, time.monotonic() + LONGEST
        yield f"retry: 2000\n{_event('now', {'number': await newest()})}"
        while time.monotonic() < until and together.bell.times == begun:
            try:
                yield _event(*await asyncio.wait_for(listener.queue.get(), STILL))
            except TimeoutError:
                yield ": still here\n\n"
                await run_in_threadpool(together.say, listener.studio)
    finally:
        threading.Thread(target=together.leave, args=(listener,), daemon=True).start()


def _event(kind: str, words: dict[str, Any]) -> str:
    return f"event: {kind}\ndata: {json.dumps(words, ensure_ascii=False)}\n\n"
