"""What processes write about their work: lines for people, or JSON for machines. Never a path somebody sent, a
document, a name or a password: routes are named by their pattern."""

import json
import logging
import time
from typing import Any

from starlette.types import ASGIApp, Message, Receive, Scope, Send

from evrant.web.health import Figures

_LOG = logging.getLogger("evrant.answers")
METHODS = frozenset({"GET", "HEAD", "POST"})
"""Any other word a sender makes up is counted under one."""
EXTRA = ("method", "route", "status", "ms")


class Lines(logging.Formatter):
    """Each record as one JSON object on a line."""

    def format(self, record: logging.LogRecord) -> str:
        told: dict[str, Any] = {
            "at": time.strftime("%Y-%m-%dT%H:%M:%SZ", time.gmtime(record.created)),
            "level": record.levelname.lower(),
            "from": record.name,
            "says": record.getMessage(),
            "process": record.process,
        }
        told |= {name: getattr(record, name) for name in EXTRA if hasattr(record, name)}
        if record.exc_info:
            told["trace"] = self.formatException(record.exc_info)
        return json.dumps(told, ensure_ascii=False)


def tell_in(kind: str) -> None:
    """`json`: every record and every answer as a line of JSON on stderr; else warnings only, as lines for people."""
    if kind != "json":
        return
    handler = logging.StreamHandler()
    handler.setFormatter(Lines())
    root = logging.getLogger()
    root.handlers, root.level = [handler], logging.INFO
    for noisy in ("uvicorn.access", "procrastinate"):
        logging.getLogger(noisy).setLevel(logging.WARNING)


def route_of(scope: Scope) -> str:
    """The pattern of the route that answered, never the path."""
    return str(
        getattr(scope.get("route"), "path", "") or ("static" if scope["path"].startswith("/static/") else "none")
    )


class Counted:
    """ASGI middleware: counts answers and how long they took."""

    def __init__(self, app: ASGIApp, figures: Figures) -> None:
        self.app, self.figures = app, figures

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        began, status = time.perf_counter(), "500"

        async def seen(message: Message) -> None:
            nonlocal status
            if message["type"] == "http.response.start":
                status = str(message["status"])
            await send(message)

        self.figures.open.inc()
        try:
            await self.app(scope, receive, seen)
        finally:
            self.figures.open.dec()
            took, route = time.perf_counter() - began, route_of(scope)
            method = scope["method"] if scope["method"] in METHODS else "other"
            self.figures.answers.labels(method, route, status).inc()
            if not route.endswith("/events"):
                self.figures.seconds.labels("change" if scope["method"] == "POST" else "page").observe(took)
            told = {"method": method, "route": route, "status": status, "ms": round(took * 1000, 1)}
            _LOG.info("answered", extra=told)
