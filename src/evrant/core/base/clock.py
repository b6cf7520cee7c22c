"""The core has no clock of its own: whoever asks for something within a time brings one along."""

from collections.abc import Callable

Clock = Callable[[], float]
"""Seconds from any beginning, only ever more."""


def standing_still() -> float:
    """A clock that does not move: with it nothing is ever too late, and a search goes on to its end."""
    return 0.0
