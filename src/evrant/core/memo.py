"""A cache for results of frozen inputs, bounded by bytes."""

from collections import OrderedDict
from collections.abc import Callable, Hashable
from threading import Lock
from typing import Any, Generic, TypeVar

R = TypeVar("R")


class Memo(Generic[R]):
    """Results by the identity of the frozen objects they were computed from.

    Frozen objects with the same identity have the same content, so a hit can never be stale; the
    entry holds the objects, so an identity is never reused while it is in the cache.
    """

    def __init__(self, max_bytes: int, size: Callable[[R], int]) -> None:
        self._max, self._size = max_bytes, size
        self._held: OrderedDict[Hashable, tuple[tuple[Any, ...], R, int]] = OrderedDict()
        self._bytes = 0
        self._lock = Lock()

    def get(self, name: str, parts: tuple[Any, ...], make: Callable[[], R]) -> R:
        """The result for these parts, computed at most once while it stays in the cache."""
        key = (name, *map(id, parts))
        with self._lock:
            hit = self._held.get(key)
            if hit is not None:
                self._held.move_to_end(key)
                return hit[1]
        result = make()
        size = self._size(result)
        with self._lock:
            if key not in self._held:
                self._held[key] = (parts, result, size)
                self._bytes += size
            while self._bytes > self._max and len(self._held) > 1:
                _, (_, _, freed) = self._held.popitem(last=False)
                self._bytes -= freed
        return result
