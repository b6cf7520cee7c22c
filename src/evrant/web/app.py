"""The application: one factory, its routers and how faults are told."""

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path

import anyio.to_thread
from fastapi import Depends, FastAPI
from sqlalchemy import Engine

from evrant.store.attempts import Attempts
from evrant.store.bell import Bell
from evrant.store.jobs import Jobs
from evrant.store.people import People
from evrant.store.repository import Repository
from evrant.web import begin, changes, downloads, health, helping, sharing, signing, studios, together, views
from evrant.web.access import gate
from evrant.web.assets import Assets
from evrant.web.edge import answer_faults
from evrant.web.guard import PAGE_SECONDS, Guard
from evrant.web.health import Figures
from evrant.web.hosting import Hosting
from evrant.web.queueing import InLine, Line
from evrant.web.telling import Counted
from evrant.web.together import Together

THREADS = 3
"""Requests a process works on at once, whatever its cores: more only take turns at one interpreter, and throughput
falls (bench/load.py); several cores are for several processes."""
STATIC = Path(__file__).parent / "static"


def create_app(
    engine: Engine, hosts: list[str], seconds: float = PAGE_SECONDS, hosting: Hosting | None = None
) -> FastAPI:
    """The app on a migrated database, answering only to the given Host headers; no rule begins later than `seconds`
    after its request. `hosting`: for many, who sign in; else for one person on this machine."""
    people, hosted = People(engine), hosting or Hosting()

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        anyio.to_thread.current_default_thread_limiter().total_tokens = THREADS
        yield

    app = FastAPI(
        title="Evrant",
        lifespan=lifespan,
        docs_url=None,
        redoc_url=None,
        openapi_url=None,
        dependencies=[Depends(gate)],
    )
    app.state.together = Together(Bell(engine))
    app.state.people, app.state.hosting, app.state.figures = people, hosted, Figures()
    app.state.repository, app.state.attempts = Repository(engine), Attempts(engine)
    app.state.engine = engine
    app.state.jobs = Jobs(engine)
    app.mount("/static", Assets(STATIC), name="static")
    app.state.line = Line()
    app.add_middleware(InLine, line=app.state.line)
    app.add_middleware(Counted, figures=app.state.figures)
    app.add_middleware(Guard, hosts=hosts, secret=people.secret, hosting=hosted, seconds=seconds)
    if hosted.on:
        app.include_router(signing.router)
        app.include_router(sharing.router)
        app.include_router(together.router)
    app.include_router(health.router)
    for router in (studios.router, begin.router, helping.router, views.router(), changes.router, downloads.router):
        app.include_router(router)
    answer_faults(app)
    return app
