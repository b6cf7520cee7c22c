"""The core has no clock of its own: whoever asks for something within a time brings one along."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar

Clock = Callable[[], float]
"""Seconds from any beginning, only ever more."""


def standing_still() -> float:
    """A clock that does not move: with it nothing is ever too late, and a search goes on to its end."""
    return 0.0


class TooLate(Exception):
    """The time for an answer is up; what was not begun is left out."""


_UNTIL: ContextVar[tuple[Clock, float]] = ContextVar("until", default=(standing_still, 1.0))


@contextmanager
def within(seconds: float, clock: Clock) -> Iterator[None]:
    """Inside, no rule begins after this many seconds."""
    token = _UNTIL.set((clock, clock() + seconds))
    try:
        yield
    finally:
        _UNTIL.reset(token)


def too_late() -> bool:
    """Whether the time for the answer at work is up."""
    clock, until = _UNTIL.get()
    return clock() >= until
