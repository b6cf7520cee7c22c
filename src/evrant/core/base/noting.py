"""Keys of remembered results, derived: what a builder reads is noted, and is its key from then on.

A builder is given a stand-in of what it reads from. Every field it looks at is noted with its value; when all of
these are the same objects again, so is the result, for a builder looks at nothing else.
"""

from collections.abc import Callable, Iterator, Mapping
from functools import cached_property
from itertools import count
from threading import Lock
from types import FunctionType, MethodType
from typing import Any, Generic, TypeVar

from evrant.core.base.memo import Memo, is_fresh

R = TypeVar("R")
Path = tuple[str, ...]
Reads = dict[Path, Any]
MOST_WAYS = 16
"""Ways of reading that are kept for one kind of builder: one for each turn it took."""


class Reader:
    """Stands in for an object and notes which of its fields are read; its methods and properties read through it."""

    __slots__ = ("_name", "_of", "_reads")

    def __init__(self, of: Any, name: str, reads: Reads) -> None:
        self._of, self._name, self._reads = of, name, reads

    def __getattr__(self, field: str) -> Any:
        declared = getattr(type(self._of), field, None)
        if isinstance(declared, property) and declared.fget is not None:
            return declared.fget(self)
        if isinstance(declared, cached_property):
            return declared.func(self)
        if isinstance(declared, FunctionType):
            return MethodType(declared, self)
        value = getattr(self._of, field)
        self._reads[self._name, field] = value
        return value


class Shelf(Mapping[str, Any]):
    """Stands in for things by id and notes which are asked for."""

    def __init__(self, of: Mapping[str, Any], name: str, reads: Reads) -> None:
        self._of, self._name, self._reads = of, name, reads

    def __getitem__(self, key: str) -> Any:
        self._reads[self._name, key] = self._of.get(key)
        return self._of[key]

    def __iter__(self) -> Iterator[str]:
        for key in self._of:
            self._reads[self._name, key] = self._of[key]
            yield key

    def __len__(self) -> int:
        return len(self._of)


class Noted(Generic[R]):
    """Results under the keys that their builders' reading gave."""

    def __init__(self, memo: Memo[R]) -> None:
        self._memo = memo
        self._ways: dict[str, tuple[tuple[str, tuple[Path, ...]], ...]] = {}
        self._tags = count()
        self._lock = Lock()

    def get(
        self,
        kind: str,
        name: str,
        parts: tuple[Any, ...],
        read: Callable[[Path], Any],
        build: Callable[[Reads | None], R],
    ) -> R:
        """The result of a builder of a kind. `read` gives what lies at a path now; `build` gets the notes to fill,
        or None when nothing is remembered. `parts` are what it gets besides."""
        if is_fresh():
            return build(None)
        for tag, paths in self._ways.get(kind, ()):
            now = (*parts, *(read(path) for path in paths))
            hit = self._memo.look(f"{name}{tag}", now, lambda: build(None))
            if hit is not None:
                return hit[0]
        reads: Reads = {}
        result = build(reads)
        paths = tuple(sorted(reads))
        now = (*parts, *(reads[path] for path in paths))
        return self._memo.keep(f"{name}{self._tag(kind, paths)}", now, result)

    def _tag(self, kind: str, paths: tuple[Path, ...]) -> str:
        """A name of its own for each way of reading: two ways never share a key."""
        with self._lock:
            ways = self._ways.get(kind, ())
            known = next((tag for tag, way in ways if way == paths), None)
            if known is not None:
                return known
            tag = f" way {next(self._tags)}"
            self._ways[kind] = ((tag, paths), *ways)[:MOST_WAYS]
            return tag
