"""Whether a process lives, whether it can serve, and its figures, for those who keep it running."""

import hmac
import os
import resource
import time

from fastapi import APIRouter, Request, Response
from fastapi.responses import PlainTextResponse
from prometheus_client import CONTENT_TYPE_LATEST, CollectorRegistry, Counter, Gauge, Histogram, generate_latest
from sqlalchemy import text
from sqlalchemy.exc import SQLAlchemyError

from evrant.web.hosting import LOOPBACK, Hosting

router = APIRouter()
BEGUN = time.time()


class Figures:
    """What one process counts. Labels are words of ours only: no path, name or address that somebody sent."""

    def __init__(self) -> None:
        self.registry = CollectorRegistry()
        self.answers = Counter("evrant_answers", "Answers given", ["method", "route", "status"], registry=self.registry)
        self.seconds = Histogram(
            "evrant_answer_seconds",
            "How long answers took",
            ["kind"],
            buckets=(0.02, 0.05, 0.1, 0.2, 0.3, 0.5, 1, 2, 5, 10, 20),
            registry=self.registry,
        )
        self.open = Gauge("evrant_answers_open", "Requests being answered", registry=self.registry)
        self.memory = Gauge("evrant_memory_bytes", "Most memory this process has held", registry=self.registry)
        self.up = Gauge("evrant_begun_seconds", "When this process began, seconds since 1970", registry=self.registry)
        self.up.set(BEGUN)

    def text(self) -> bytes:
        self.memory.set(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024)
        return generate_latest(self.registry)


@router.get("/health")
def health() -> Response:
    """The process lives; asks nothing of the database."""
    return PlainTextResponse(f"alive {os.getpid()}")


@router.get("/ready")
def ready(request: Request) -> Response:
    """The database answers and has the schema this version writes."""
    try:
        with request.app.state.engine.connect() as connection:
            connection.execute(text("SELECT 1 FROM secret LIMIT 1"))
    except SQLAlchemyError:
        return PlainTextResponse("The database does not answer.", 503)
    return PlainTextResponse("ready")


@router.get("/metrics")
def metrics(request: Request) -> Response:
    """Figures of this process in the Prometheus text format, for this machine or whoever brings the word."""
    hosting: Hosting = request.app.state.hosting
    sent = request.headers.get("authorization", "").removeprefix("Bearer ")
    known = bool(hosting.metrics) and hmac.compare_digest(sent.encode(), hosting.metrics.encode())
    near = request.client is not None and request.client.host in LOOPBACK and "x-forwarded-for" not in request.headers
    if not (known or near):
        return PlainTextResponse("There is no such page.", 404)
    figures: Figures = request.app.state.figures
    return Response(figures.text(), media_type=CONTENT_TYPE_LATEST)
