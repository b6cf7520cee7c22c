"""Caches for results of frozen inputs, bounded by bytes each and by what the process really holds all together."""

import heapq
import itertools
import math
import os
from collections import OrderedDict
from collections.abc import Callable, Hashable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import fields as dataclass_fields
from dataclasses import is_dataclass
from threading import Event, Lock
from typing import Any, Generic, TypeVar
from weakref import WeakSet

import numpy as np

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


def is_fresh() -> bool:
    return _FRESH.get()


CHECKED = "EVRANT_CHECK_CACHES"
"""Environment variable: when set, every result found in a cache is computed anew and compared."""


class Stale(AssertionError):
    """A remembered result differs from one computed anew: its key leaves out something that it depends on."""


_CHECKING = bool(os.environ.get(CHECKED))


def check_hits(on: bool) -> bool:
    """Compare every hit from now on, in all threads, or no longer; says whether they were compared before."""
    global _CHECKING
    before, _CHECKING = _CHECKING, on
    return before


PATIENCE = 20.0
"""Seconds a thread waits for another that makes the same result, before it makes its own."""


_USES = itertools.count()
"""Numbers every use of every cache, so that the oldest of all is known."""
QUANTUM = 1_000_000
"""The process is measured again after so much was remembered [estimated bytes]."""
SLACK, KEPT = 0.1, 0.25
"""Shares of the bound: so much more than what is too much goes at a time, and so much is kept in any case, for what a
process holds besides would not become less [estimated bytes]."""


class Budget:
    """One bound for all caches together, on what the process holds beyond what it held when it began to be watched:
    what entries keep alive besides themselves is counted with them, whatever they are taken to weigh."""

    def __init__(self) -> None:
        self._memos: WeakSet[Memo[Any]] = WeakSet()
        self._measure: Callable[[], int] | None = None
        self._give_back: Callable[[], None] = lambda: None
        self._limit = self._base = self._since = 0
        self._lock = Lock()

    def watch(self, limit: int, measure: Callable[[], int], give_back: Callable[[], None] = lambda: None) -> None:
        """Hold at most `limit` bytes more than now. `measure` tells what the process holds; `give_back` hands what was
        freed back to the system."""
        self._limit, self._measure, self._give_back, self._base = limit, measure, give_back, measure()

    def stop(self) -> None:
        """Watch no longer."""
        self._measure = None

    def join(self, memo: "Memo[Any]") -> None:
        self._memos.add(memo)

    def remembered(self) -> int:
        """What all caches are taken to weigh [bytes]."""
        return sum(memo.weight for memo in self._memos)

    def added(self, size: int) -> None:
        """Something was remembered; now and then the process is measured."""
        measure = self._measure
        if measure is None:
            return
        with self._lock:
            self._since += size
            if self._since < QUANTUM:
                return
            self._since = 0
        held = measure() - self._base
        if held > self._limit:
            self.free(1 - self._limit * (1 - SLACK) / held)
            self._give_back()

    def free(self, share: float) -> None:
        """Forget what was used longest ago, over all caches, until that share of their weight is gone."""
        left = max(self.remembered() * (1 - share), KEPT * self._limit)
        memos = list(self._memos)
        oldest = [(used, n) for n, memo in enumerate(memos) if (used := memo.oldest()) is not None]
        heapq.heapify(oldest)
        weight = self.remembered()
        while oldest and weight > left:
            _, n = heapq.heappop(oldest)
            weight -= memos[n].forget_oldest()
            used = memos[n].oldest()
            if used is not None:
                heapq.heappush(oldest, (used, n))


BUDGET = Budget()


class _Entry:
    """A result with what it was computed from, its weight and when it was used last."""

    __slots__ = ("parts", "result", "size", "used")

    def __init__(self, parts: tuple[Any, ...], result: Any, size: int) -> None:
        self.parts, self.result, self.size, self.used = parts, result, size, next(_USES)


class Memo(Generic[R]):
    """Results by the identity of the frozen objects they were computed from.

    Frozen objects with the same identity have the same content, so a hit can never be stale; the
    entry holds the objects, so an identity is never reused while it is in the cache.
    """

    def __init__(self, max_bytes: int, size: Callable[[R], int]) -> None:
        self._max, self._size = max_bytes, size
        self._held: OrderedDict[Hashable, _Entry] = OrderedDict()
        self._bytes = 0
        self._making: dict[Hashable, Event] = {}
        self._lock = Lock()
        BUDGET.join(self)

    @property
    def weight(self) -> int:
        """What it is taken to weigh [bytes]."""
        return self._bytes

    def oldest(self) -> int | None:
        """The number of the use of what was used longest ago; None where nothing is held."""
        with self._lock:
            return next((entry.used for entry in self._held.values()), None)

    def forget_oldest(self) -> int:
        """Forget what was used longest ago; what that was taken to weigh [bytes]."""
        with self._lock:
            if not self._held:
                return 0
            _, entry = self._held.popitem(last=False)
            self._bytes -= entry.size
            return entry.size

    def get(self, name: str, parts: tuple[Any, ...], make: Callable[[], R]) -> R:
        """The result for these parts, computed once while it stays in the cache."""
        if _FRESH.get():
            return make()
        key = (name, *map(id, parts))
        hit = self._look(key)
        if hit is None:
            return self._once(key, parts, make)
        if _CHECKING:
            _compare(name, hit[0], make)
        return hit[0]

    def look(self, name: str, parts: tuple[Any, ...], make: Callable[[], R]) -> tuple[R] | None:
        """What is remembered for these parts, if anything; `make` is only for checking it."""
        hit = self._look((name, *map(id, parts)))
        if hit is not None and _CHECKING:
            _compare(name, hit[0], make)
        return hit

    def keep(self, name: str, parts: tuple[Any, ...], result: R) -> R:
        """Remember a result for these parts."""
        return self._keep((name, *map(id, parts)), parts, result)

    def get_by(self, name: Hashable, make: Callable[[], R]) -> R:
        """The result with this name, for content that a name alone determines; the values themselves may be it."""
        hit = self._look((name,))
        return hit[0] if hit else self._once((name,), (), make)

    def put(self, name: str, result: R) -> None:
        """Replace what is held under a name."""
        with self._lock:
            held = self._held.pop((name,), None)
            if held:
                self._bytes -= held.size
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
            hit.used = next(_USES)
            return (hit.result,)

    def _keep(self, key: Hashable, parts: tuple[Any, ...], result: R) -> R:
        size = self._size(result)
        with self._lock:
            if key not in self._held:
                self._held[key] = _Entry(parts, result, size)
                self._bytes += size
            while self._bytes > self._max and len(self._held) > 1:
                self._bytes -= self._held.popitem(last=False)[1].size
        BUDGET.added(size)
        return result


def _compare(name: str, held: Any, make: Callable[[], Any]) -> None:
    with fresh():
        found = make()
    where = difference(held, found, name)
    if where is not None:
        raise Stale(where)


def difference(one: Any, other: Any, path: str = "", depth: int = 8) -> str | None:
    """Where two results differ by more than rounding, or None. Things without figures or fields are not looked into."""
    if one is other or depth == 0:
        return None
    if isinstance(one, np.ndarray) or isinstance(other, np.ndarray):
        a, b = np.asarray(one), np.asarray(other)
        same = a.shape == b.shape and (
            bool(np.allclose(a, b, rtol=1e-6, atol=1e-9, equal_nan=True)) if a.dtype.kind in "fiub" else True
        )
        off = float(np.max(np.abs(a - b), initial=0.0)) if a.shape == b.shape and a.dtype.kind in "fiu" else math.inf
        return None if same else f"{path}: figures are remembered that are off by {off:g}"
    if isinstance(one, float) and isinstance(other, (int, float)):
        same = math.isclose(one, other, rel_tol=1e-6, abs_tol=1e-9) or (math.isnan(one) and math.isnan(other))
        return None if same else f"{path}: {one} is remembered, fresh it is {other}"
    if type(one) is not type(other):
        return f"{path}: a {type(one).__name__} is remembered, fresh it is a {type(other).__name__}"
    if isinstance(one, (str, int, bool, bytes)):
        return None if one == other else f"{path}: {one!r} is remembered, fresh it is {other!r}"
    pairs: list[tuple[str, Any, Any]] = []
    if isinstance(one, (tuple, list)):
        if len(one) != len(other):
            return f"{path}: {len(one)} are remembered, fresh there are {len(other)}"
        pairs = [(f"{path}[{i}]", a, b) for i, (a, b) in enumerate(zip(one, other, strict=True))]
    elif isinstance(one, dict):
        if one.keys() != other.keys():
            return f"{path}: other keys are remembered"
        pairs = [(f"{path}[{key}]", value, other[key]) for key, value in one.items()]
    elif is_dataclass(one):
        pairs = [(f"{path}.{f.name}", getattr(one, f.name), getattr(other, f.name)) for f in dataclass_fields(one)]
    return next((found for at, a, b in pairs if (found := difference(a, b, at, depth - 1))), None)
