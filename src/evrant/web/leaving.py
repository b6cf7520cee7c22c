"""How web processes leave. One that is replaced waits for connections that were taken but have not been asked anything
yet, so that no question is dropped that was already on its way; one that dies is missed at once."""

import asyncio

from uvicorn.protocols.http.h11_impl import H11Protocol
from uvicorn.supervisors.multiprocess import Process

ROOM_TO_ASK = 10.0
"""Seconds a connection that was opened has to ask: what it opened for may lie unread in the socket."""
ROOM_TO_ASK_AGAIN = 1.0
"""Seconds for one that was answered before and is kept open. A client asks again by itself where that fails."""


class Leaving(H11Protocol):
    """HTTP/1.1 with a patient leave. Stock uvicorn closes every connection at once that no question was read from."""

    leave: "asyncio.TimerHandle | None" = None

    def shutdown(self) -> None:
        """The process is about to end: what is asked is answered as the last, the silent are closed after a while."""
        if self.leave is not None or (self.cycle is not None and not self.cycle.response_complete):
            self._last()
            super().shutdown()
            return
        begun = self.cycle is None or bool(self.conn.trailing_data[0])
        self.leave = self.loop.call_later(ROOM_TO_ASK if begun else ROOM_TO_ASK_AGAIN, super().shutdown)

    def handle_events(self) -> None:
        super().handle_events()
        if self.leave is not None:
            self._last()

    def _last(self) -> None:
        """The answer under way is this connection's last, and says so."""
        if self.cycle is not None and not self.cycle.response_complete and self.cycle.keep_alive:
            self.cycle.keep_alive = False
            self.cycle.default_headers = [*self.cycle.default_headers, (b"connection", b"close")]

    def connection_lost(self, exc: Exception | None) -> None:
        if self.leave is not None:
            self.leave.cancel()
        super().connection_lost(exc)


class Watched(Process):
    """A web process whose end is heard at once. Stock uvicorn keeps the child's end of their pipe open itself, so that
    one that dies while it is asked how it is leaves its supervisor waiting, and the others unattended, as long as a
    slow one may take to answer."""

    def start(self) -> None:
        super().start()
        self.child_conn.close()

    def ping(self, timeout: float = 5) -> bool:
        """Whether it answers in time. Answers to what it was asked before, when it was too slow, do not count: one that
        hangs was taken to be well as often as its start had been waited for."""
        try:
            while self.parent_conn.poll(0):
                self.parent_conn.recv()
        except (OSError, EOFError):
            return False
        return super().ping(timeout)
