"""Shared fixtures: studios to judge, and one real PostgreSQL for the whole run."""

import os
import re
import secrets
import threading
import time
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import httpx
import pytest
import uvicorn
from helpers.studios import demo
from hypothesis import settings
from playwright.sync_api import Browser, Page, expect, sync_playwright
from sqlalchemy import Engine, text
from sqlalchemy.exc import OperationalError

from evrant.core.studio.studio import Studio
from evrant.store import cluster
from evrant.store.migrate import migrate
from evrant.store.repository import Repository, engine_for
from evrant.web.app import create_app
from evrant.web.serve import worker as running_worker

# The same examples on every run, so that a change is judged by what it changes; the long run looks for new ones.
settings.register_profile("steady", derandomize=True)
if not os.environ.get("EVRANT_LONG"):
    settings.load_profile("steady")

CHECKOUT = Path(__file__).parents[1]
LONG = bool(os.environ.get("EVRANT_LONG"))
CLUSTER = os.environ.get("EVRANT_TEST_CLUSTER", "pg-test")
"""Parts of the tests that run beside each other have a server each."""


@pytest.fixture
def studio() -> Studio:
    """The demo studio."""
    return demo()


@pytest.fixture(scope="session")
def own_cluster() -> Iterator[cluster.Cluster]:
    """A cluster of the tests' own, made anew and stopped at the end."""
    made = cluster.start(CHECKOUT, fresh=True, name=CLUSTER)
    yield made
    cluster.stop(made.folder)


@pytest.fixture(scope="session")
def engine(own_cluster: cluster.Cluster) -> Iterator[Engine]:
    made = engine_for(own_cluster.url())
    migrate(made)
    yield made
    made.dispose()


@dataclass(frozen=True)
class Live:
    """The app served on loopback, and a client with the page's token."""

    base: str
    client: httpx.Client
    store: Repository

    def post(self, path: str, **body: Any) -> httpx.Response:
        """A JSON change; each gets an edit_id of its own unless it brings one."""
        return self.client.post(path, json={"edit_id": secrets.token_hex(6)} | body)


@pytest.fixture(scope="session")
def server(engine: Engine) -> Iterator[str]:
    """The app in a thread, on a free port."""
    port = cluster.free_port()
    app = create_app(engine, [f"127.0.0.1:{port}"])
    running = uvicorn.Server(uvicorn.Config(app, host="127.0.0.1", port=port, log_level="error"))
    thread = threading.Thread(target=running.run)
    thread.start()
    while not running.started:
        time.sleep(0.02)
    yield f"http://127.0.0.1:{port}"
    running.should_exit = True
    thread.join()


@pytest.fixture
def live(server: str, store: Repository) -> Iterator[Live]:
    with httpx.Client(base_url=server, timeout=30, trust_env=False) as client:
        client.get("/bare")
        client.headers["X-Evrant-Token"] = client.cookies["evrant_token"]
        yield Live(server, client, store)


@pytest.fixture
def store(engine: Engine) -> Repository:
    """A repository on empty tables."""
    for left in reversed(range(20)):
        try:
            with engine.begin() as connection:
                connection.execute(text("TRUNCATE revision, standing, frame, share, remark, studio"))
            break
        except OperationalError:
            # A page of the test before may still be asking; whoever of the two is stopped, we try again.
            if not left:
                raise
            time.sleep(0.3)
    return Repository(engine)


@pytest.fixture
def worker(own_cluster: cluster.Cluster, engine: Engine) -> Iterator[None]:
    """A worker beside the app, on an empty queue."""
    with engine.begin() as connection:
        connection.execute(text("TRUNCATE long_job, procrastinate_jobs, procrastinate_workers CASCADE"))
    with running_worker(own_cluster.url()):
        yield


ARGUMENTS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]
SLOWEST = 120_000
"""A busy machine may take this long [ms] for what takes a tenth of a second here."""
REFUSED = re.compile(r"status of (409|422)")
AWAY = re.compile(r"status of 50[03]|ERR_FAILED|Failed to fetch")
"""What the browser itself says when a test (marked `away`) takes the server away."""


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    expect.set_options(timeout=SLOWEST)
    with sync_playwright() as playwright:
        started = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
        yield started
        started.close()


@pytest.fixture
def page(browser: Browser, live: Live, request: pytest.FixtureRequest) -> Iterator[Page]:
    away = request.node.get_closest_marker("away") is not None
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=live.base, accept_downloads=True)
    context.set_default_timeout(SLOWEST)
    opened = context.new_page()
    faults: list[str] = []

    def hear(text: str) -> None:
        if not REFUSED.search(text) and not (away and AWAY.search(text)):
            faults.append(text)

    opened.on("console", lambda m: hear(m.text) if m.type == "error" else None)
    opened.on("pageerror", lambda error: faults.append(str(error)))
    yield opened
    context.close()
    assert faults == []
