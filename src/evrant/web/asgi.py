"""The app for a process manager of one's own: `uvicorn --factory evrant.web.asgi:app`; settings come from the
environment (docs/hosting.md)."""

import os
from dataclasses import dataclass, field

from fastapi import FastAPI

from evrant.core.search.warm import warm
from evrant.store.repository import engine_for
from evrant.web.app import create_app
from evrant.web.hosting import Hosting, Unhostable, hosting_of
from evrant.web.memory import keep_within
from evrant.web.telling import tell_in


@dataclass(frozen=True)
class Made:
    """Makes the app in another process; what it needs goes there by itself and not by the environment."""

    url: str = field(repr=False)
    hosts: tuple[str, ...]
    hosting: Hosting

    def __call__(self) -> FastAPI:
        tell_in(os.environ.get("EVRANT_LOG", ""))
        warm()
        keep_within()
        return create_app(engine_for(self.url), list(self.hosts), hosting=self.hosting)


def app() -> FastAPI:
    """The app on the database EVRANT_DATABASE_URL names. Raises Unhostable."""
    url, hosting = os.environ.get("EVRANT_DATABASE_URL"), hosting_of()
    if not url or not hosting.on:
        raise Unhostable("Set EVRANT_DATABASE_URL and EVRANT_ADDRESS (docs/hosting.md).")
    return Made(url.replace("postgresql://", "postgresql+psycopg://", 1), (hosting.host,), hosting)()
