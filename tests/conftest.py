"""Shared fixtures: studios to judge, and one real PostgreSQL for the whole run."""

import os
from collections.abc import Iterator
from pathlib import Path

import pytest
from helpers.studios import demo
from sqlalchemy import Engine, text

from evrant.core.studio.studio import Studio
from evrant.store import cluster
from evrant.store.migrate import migrate
from evrant.store.repository import Repository, engine_for

CHECKOUT = Path(__file__).parents[1]
LONG = bool(os.environ.get("EVRANT_LONG"))


@pytest.fixture
def studio() -> Studio:
    """The demo studio."""
    return demo()


@pytest.fixture(scope="session")
def own_cluster() -> Iterator[cluster.Cluster]:
    """A cluster of the tests' own, made anew and stopped at the end."""
    made = cluster.start(CHECKOUT, fresh=True, name="pg-test")
    yield made
    cluster.stop(made.folder)


@pytest.fixture(scope="session")
def engine(own_cluster: cluster.Cluster) -> Iterator[Engine]:
    made = engine_for(own_cluster.url())
    migrate(made)
    yield made
    made.dispose()


@pytest.fixture
def store(engine: Engine) -> Repository:
    """A repository on empty tables."""
    with engine.begin() as connection:
        connection.execute(text("TRUNCATE revision, studio"))
    return Repository(engine)
