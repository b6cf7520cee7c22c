"""How long the parts of an answer took, told in the standard Server-Timing header."""

import time
from collections.abc import Iterator
from contextlib import contextmanager

from starlette.requests import Request


@contextmanager
def span(request: Request, name: str) -> Iterator[None]:
    """Add the time spent inside to the request's part of that name."""
    began = time.perf_counter()
    try:
        yield
    finally:
        spans: dict[str, float] = request.scope["state"].setdefault("spans", {})
        spans[name] = spans.get(name, 0.0) + time.perf_counter() - began


def server_timing(spans: dict[str, float]) -> str:
    """The header's text, durations in milliseconds."""
    return ", ".join(f"{name};dur={seconds * 1000:.2f}" for name, seconds in spans.items())
