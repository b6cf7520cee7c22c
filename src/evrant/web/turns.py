"""What takes much memory or time waits for its turn, so long and no longer."""

from collections.abc import Iterator
from contextlib import contextmanager
from threading import BoundedSemaphore

from fastapi import HTTPException

WAIT = 30.0
"""Seconds one waits for a turn."""


@contextmanager
def turn_of(turns: BoundedSemaphore, words: str) -> Iterator[None]:
    """Inside, one of the turns is taken. Raises a 503 with these words where none came free in time."""
    if not turns.acquire(timeout=WAIT):
        raise HTTPException(503, words, {"Retry-After": "5"})
    try:
        yield
    finally:
        turns.release()
