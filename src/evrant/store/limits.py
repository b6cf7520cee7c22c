"""No wait without an end: how long a connection, a lock and a statement may take, whatever the server does.

The server itself ends what takes too long; where it no longer answers at all, a watch in this process closes the
connection's socket, so that whoever waits for it hears an error instead of nothing.
"""

import contextlib
import os
import socket
import threading
import time
from typing import Any

from sqlalchemy import Engine, event

CONNECT, LOCK, STATEMENT = 5, 6, 15
"""Seconds: to reach the server, to wait for a row that another holds, to do one statement."""
SILENT = STATEMENT + 3
"""Seconds after which a server that says nothing is taken for gone."""
POOL = 6
OPTIONS = (
    f"-c lock_timeout={LOCK * 1000} -c statement_timeout={STATEMENT * 1000} "
    f"-c idle_in_transaction_session_timeout={STATEMENT * 4000}"
)
CONNECTING = {"connect_timeout": CONNECT, "options": OPTIONS, "tcp_user_timeout": SILENT * 1000}


class Watch:
    """Closes the sockets of statements that were begun too long ago."""

    def __init__(self, silent: float = SILENT) -> None:
        self._silent = silent
        self._begun: dict[int, tuple[float, int]] = {}
        self._lock = threading.Lock()
        self._thread: threading.Thread | None = None

    def over(self, engine: Engine) -> None:
        """Watch every statement of an engine."""
        event.listen(engine, "before_cursor_execute", self._begin)
        event.listen(engine, "after_cursor_execute", self._end)
        event.listen(engine, "handle_error", self._failed)

    def _begin(self, connection: Any, cursor: Any, *_: Any) -> None:
        if self._thread is None:
            self._thread = threading.Thread(target=self._watch, daemon=True, name="database watch")
            self._thread.start()
        with self._lock:
            self._begun[id(cursor)] = (time.monotonic() + self._silent, cursor.connection.fileno())

    def _end(self, connection: Any, cursor: Any, *_: Any) -> None:
        with self._lock:
            self._begun.pop(id(cursor), None)

    def _failed(self, context: Any) -> None:
        with self._lock:
            self._begun.pop(id(getattr(context.execution_context, "cursor", None)), None)

    def _watch(self) -> None:
        while True:
            time.sleep(min(1.0, self._silent / 4))
            now = time.monotonic()
            with self._lock:
                late = [(key, file) for key, (until, file) in self._begun.items() if until < now]
                for key, _ in late:
                    self._begun.pop(key)
                for _, file in late:
                    _shut(file)


def _shut(file: int) -> None:
    with contextlib.suppress(OSError), socket.socket(fileno=os.dup(file)) as line:
        line.shutdown(socket.SHUT_RDWR)
