"""A cache for results of frozen inputs, bounded by bytes."""

from collections import OrderedDict
from collections.abc import Callable, Hashable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from threading import Event, Lock
from typing import Any, Generic, TypeVar

R = TypeVar("R")
_FRESH: ContextVar[bool] = ContextVar("fresh", default=False)


@contextmanager
def fresh() -> Iterator[None]:
    """Inside, results of frozen inputs are computed anew: for checking what is remembered."""
    token = _FRESH.set(True)
    try:
        yield
    finally:
        _FRESH.reset(token)


_PLAIN: ContextVar[bool] = ContextVar("plain", default=False)


@contextmanager
def plain() -> Iterator[None]:
    """Inside, margins are computed anew and without the shares of sizes and pictures: never more unsure than
    they are, so never worse than their severity says. For bounds in a search."""
    token = _PLAIN.set(True)
    try:
        with fresh():
            yield
    finally:
        _PLAIN.reset(token)


def is_plain() -> bool:
    return _PLAIN.get()


PATIENCE = 20.0
"""Seconds a thread waits for another that makes the same result, before it makes its own."""


class Memo(Generic[R]):
    """Results by the identity of the frozen objects they were computed from.

    Frozen objects with the same identity have the same content, so a hit can never be stale; the
    entry holds the objects, so an identity is never reused while it is in the cache.
    """

    def __init__(self, max_bytes: int, size: Callable[[R], int]) -> None:
        self._max, self._size = max_bytes, size
        self._held: OrderedDict[Hashable, tuple[tuple[Any, ...], R, int]] = OrderedDict()
        self._bytes = 0
        self._making: dict[Hashable, Event] = {}
        self._lock = Lock()

    def get(self, name: str, parts: tuple[Any, ...], make: Callable[[], R]) -> R:
        """The result for these parts, computed once while it stays in the cache."""
        if _FRESH.get():
            return make()
        key = (name, *map(id, parts))
        hit = self._look(key)
        return hit[0] if hit else self._once(key, parts, make)

    def get_by(self, name: str, make: Callable[[], R]) -> R:
        """The result with this name, for content that a name alone determines."""
        hit = self._look((name,))
        return hit[0] if hit else self._once((name,), (), make)

    def put(self, name: str, result: R) -> None:
        """Replace what is held under a name."""
        with self._lock:
            held = self._held.pop((name,), None)
            if held:
                self._bytes -= held[2]
        self._keep((name,), (), result)

    def _once(self, key: Hashable, parts: tuple[Any, ...], make: Callable[[], R]) -> R:
        """Make a result while other threads that want the same one wait for it."""
        with self._lock:
            mine = key not in self._making
            turn = self._making.setdefault(key, Event())
        if not mine:
            turn.wait(PATIENCE)
            hit = self._look(key)
            return hit[0] if hit else self._keep(key, parts, make())
        try:
            return self._keep(key, parts, make())
        finally:
            with self._lock:
                self._making.pop(key, None)
            turn.set()

    def _look(self, key: Hashable) -> tuple[R] | None:
        with self._lock:
            hit = self._held.get(key)
            if hit is None:
                return None
            self._held.move_to_end(key)
            return (hit[1],)

    def _keep(self, key: Hashable, parts: tuple[Any, ...], result: R) -> R:
        size = self._size(result)
        with self._lock:
            if key not in self._held:
                self._held[key] = (parts, result, size)
                self._bytes += size
            while self._bytes > self._max and len(self._held) > 1:
                _, (_, _, freed) = self._held.popitem(last=False)
                self._bytes -= freed
        return result
