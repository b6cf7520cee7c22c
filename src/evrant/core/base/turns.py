"""Who goes first where several compute in one process: a ledger that somebody waits for, before pictures."""

import threading
from collections.abc import Iterator
from contextlib import contextmanager


class Turns:
    """Counts what goes first; what stands back waits between its steps until there is none, though not for ever."""

    def __init__(self) -> None:
        self._guard, self._count = threading.Lock(), 0
        self._free = threading.Event()
        self._free.set()

    @contextmanager
    def first(self) -> Iterator[None]:
        """Meanwhile, others stand back."""
        with self._guard:
            self._count += 1
            self._free.clear()
        try:
            yield
        finally:
            with self._guard:
                self._count -= 1
                if not self._count:
                    self._free.set()

    def stand_back(self, most: float) -> bool:
        """Wait until nothing goes first, at most so long [s]; whether nothing does."""
        return self._free.wait(most)


JUDGING = Turns()
"""Ledgers being judged; pictures stand back."""
