"""The app for a process manager of one's own: `uvicorn --factory evrant.web.asgi:app`; settings come from the
environment (docs/hosting.md)."""

import os

from fastapi import FastAPI

from evrant.core.search.warm import warm
from evrant.store.repository import engine_for
from evrant.web.app import create_app
from evrant.web.hosting import Unhostable, hosting_of
from evrant.web.telling import tell_in

SERVED = "EVRANT_SERVED"
"""Where a process that is not hosted is served: Host headers, with commas between."""


def app() -> FastAPI:
    """The app on the database EVRANT_DATABASE_URL names. Raises Unhostable."""
    tell_in(os.environ.get("EVRANT_LOG", ""))
    url = os.environ.get("EVRANT_DATABASE_URL")
    if not url:
        raise Unhostable("EVRANT_DATABASE_URL names no database.")
    hosting = hosting_of()
    hosts = [hosting.host] if hosting.on else os.environ.get(SERVED, "").split(",")
    warm()
    return create_app(engine_for(url.replace("postgresql://", "postgresql+psycopg://", 1)), hosts, hosting=hosting)
