"""The bell: what one process did, the others hear at once, over the database they share (LISTEN and NOTIFY)."""

import contextlib
import json
import logging
import threading
import time
from collections.abc import Callable
from typing import Any

import psycopg
from sqlalchemy import Engine, Select, func, select

CHANNEL = "evrant"
MOST_LETTERS = 7000
"""PostgreSQL passes on less than 8,000 bytes at a time."""
Heard = Callable[[dict[str, Any]], None]
_LOG = logging.getLogger("evrant.bell")


def rung(**words: Any) -> Select[Any]:
    """A statement that says what is to be heard, once its transaction is committed."""
    return select(func.pg_notify(CHANNEL, json.dumps(words)[:MOST_LETTERS]))


class Bell:
    """Hears what is rung on a database and tells whoever listens here; begins to listen with the first of them."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine
        self._address = engine.url.set(drivername="postgresql").render_as_string(hide_password=False)
        self._heard: list[Heard] = []
        self._lock = threading.Lock()
        self._thread: threading.Thread | None = None
        self._ready = threading.Event()
        self.times = 0
        """How often the line to the database was begun: what was rung in between may not have been heard."""

    def ring(self, **words: Any) -> None:
        with self._engine.begin() as connection:
            connection.execute(rung(**words))

    def listen(self, heard: Heard) -> None:
        """Tell all that is rung from now on; `heard` is called in another thread and must not wait."""
        with self._lock:
            self._heard.append(heard)
            if self._thread is None:
                self._thread = threading.Thread(target=self._run, daemon=True, name="bell")
                self._thread.start()
        self._ready.wait(5.0)

    def _run(self) -> None:
        while True:
            with contextlib.suppress(psycopg.Error):
                self._hear()
            time.sleep(1.0)

    def _hear(self) -> None:
        with psycopg.connect(self._address, autocommit=True, connect_timeout=5) as line:
            line.execute(f"LISTEN {CHANNEL}")
            self.times += 1
            self._ready.set()
            for note in line.notifies():
                try:
                    words = json.loads(note.payload)
                except ValueError:
                    continue
                for heard in list(self._heard):
                    try:
                        heard(words)
                    except Exception:
                        _LOG.exception("Somebody could not be told of what was rung.")
