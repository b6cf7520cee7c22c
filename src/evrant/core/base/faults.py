"""Where the program is at work, for its log: the studio and the revision at hand."""

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar

_WHERE: ContextVar[str] = ContextVar("where", default="a studio")


def where() -> str:
    """What is being judged, in words for the log."""
    return _WHERE.get()


@contextmanager
def at_work_on(what: str) -> Iterator[None]:
    """Inside, faults are logged as those of `what`: “studio 3f2a, revision 12”."""
    token = _WHERE.set(what)
    try:
        yield
    finally:
        _WHERE.reset(token)
