"""Attempts counted in the database, by all processes and machines together: where limits on guessing keep count.

What was tried is kept as its SHA-256 and forgotten once it no longer counts.
"""

from datetime import timedelta
from typing import cast

from limits.storage import MovingWindowSupport, Storage
from sqlalchemy import Engine, Table, delete, func, insert, select, text
from sqlalchemy.engine import Connection
from sqlalchemy.exc import SQLAlchemyError

from evrant.store.people import digest
from evrant.store.tables import AttemptRow

_T = cast(Table, AttemptRow.__table__)
KEPT = timedelta(hours=2)
"""Older attempts count in no limit."""


class Attempts(Storage, MovingWindowSupport):
    """Keeps count for a moving window. Raises what the database raises: who cannot count lets nobody guess."""

    def __init__(self, engine: Engine) -> None:
        super().__init__(None)
        self._engine = engine

    @property
    def base_exceptions(self) -> type[Exception]:
        return SQLAlchemyError

    def acquire_entry(self, key: str, limit: int, expiry: int, amount: int = 1) -> bool:
        """Count so many attempts, if they are within the limit of as many seconds; whether they were."""
        with self._engine.begin() as connection:
            what = digest(key)
            connection.execute(text("SELECT pg_advisory_xact_lock(hashtextextended(:what, 0))"), {"what": what})
            if self._since(connection, what, expiry)[1] + amount > limit:
                return False
            connection.execute(delete(_T).where(_T.c.at < func.now() - KEPT))
            for _ in range(amount):
                connection.execute(insert(_T).values(what=what, at=func.now()))
            return True

    def get_moving_window(self, key: str, limit: int, expiry: int) -> tuple[float, int]:
        """When the first attempt that still counts was made [s], and how many count."""
        with self._engine.begin() as connection:
            return self._since(connection, digest(key), expiry)

    def _since(self, connection: Connection, what: str, expiry: int) -> tuple[float, int]:
        wanted = (_T.c.what == what) & (_T.c.at > func.now() - timedelta(seconds=expiry))
        first = func.extract("epoch", func.coalesce(func.min(_T.c.at), func.now()))
        row = connection.execute(select(first, func.count()).where(wanted)).one()
        return float(row[0]), int(row[1])

    # --- what the library's other ways of counting would ask ---

    def incr(self, key: str, expiry: int, amount: int = 1) -> int:
        self.acquire_entry(key, 2**31, expiry, amount)
        return self.get(key)

    def get(self, key: str) -> int:
        return self.get_moving_window(key, 0, round(KEPT.total_seconds()))[1]

    def get_expiry(self, key: str) -> float:
        return self.get_moving_window(key, 0, round(KEPT.total_seconds()))[0] + KEPT.total_seconds()

    def check(self) -> bool:
        with self._engine.begin() as connection:
            return bool(connection.execute(select(1)).scalar_one())

    def reset(self) -> int:
        """Forget everything."""
        with self._engine.begin() as connection:
            return connection.execute(delete(_T)).rowcount

    def clear(self, key: str) -> None:
        with self._engine.begin() as connection:
            connection.execute(delete(_T).where(_T.c.what == digest(key)))
