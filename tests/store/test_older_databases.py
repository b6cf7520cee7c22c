"""Databases of every released schema, brought to the newest with what is in them."""

import json
from collections.abc import Iterator
from pathlib import Path

import psycopg
import pytest
from alembic import command
from alembic.config import Config
from alembic.script import ScriptDirectory
from helpers.studios import demo
from sqlalchemy import Engine, text

from evrant.core.edits.language import EDIT
from evrant.core.judge.ledger import ledger_of
from evrant.store import cluster, migrate
from evrant.store.repository import Repository, engine_for
from evrant.store.revisions import Unreadable

FOLDER = Path(migrate.__file__).parent / "migrations"
KEPT = (
    "INSERT INTO studio (id, owner, name, archived, created, touched) "
    "VALUES ('old', 'local', 'Old', false, now(), now())"
)
REVISION = (
    'INSERT INTO revision (studio, plan, number, parent, cause, edit_id, label, document, edit, schema, "by", at) '
    "VALUES ('old', 'a', 1, NULL, 'edit', 'made-long-ago', 'Long ago', CAST(:document AS jsonb), NULL, :schema, "
    "'local', now())"
)


def config() -> Config:
    found = Config()
    found.set_main_option("script_location", str(FOLDER))
    return found


RELEASED = sorted(one.revision for one in ScriptDirectory.from_config(config()).walk_revisions())


@pytest.fixture
def empty(own_cluster: cluster.Cluster) -> Iterator[Engine]:
    with psycopg.connect(own_cluster.keeper(), autocommit=True) as keeper:
        keeper.execute("DROP DATABASE IF EXISTS long_ago")
        keeper.execute(f"CREATE DATABASE long_ago OWNER {cluster.APP}")
    engine = engine_for(own_cluster.url("long_ago"))
    yield engine
    engine.dispose()


def kept_at(engine: Engine, released: str, schema: int = 1) -> None:
    """A database of a released schema with one studio in it."""
    alembic = config()
    with engine.begin() as connection:
        alembic.attributes["connection"] = connection
        command.upgrade(alembic, released)
        connection.execute(text(KEPT))
        connection.execute(text(REVISION), {"document": demo().dump_json(), "schema": schema})


@pytest.mark.parametrize("released", RELEASED)
def test_a_database_of_each_released_schema_is_brought_up_with_what_is_in_it(empty: Engine, released: str) -> None:
    kept_at(empty, released)
    migrate.migrate(empty)
    store = Repository(empty)
    found = store.newest("old").studio
    assert found == demo() and ledger_of(found).lines == ledger_of(demo()).lines
    edit = EDIT.validate_python({"verb": "set", "target": "brief", "fields": {"budget": "9"}})
    assert store.change("old", 1, "after-the-upgrade", edit).number == 2
    assert [one.label for one in store.history("old")][-1] == "Long ago"
    migrate.migrate(empty)


def test_a_document_of_a_newer_schema_is_refused_with_words_and_can_be_taken_away(empty: Engine) -> None:
    kept_at(empty, RELEASED[-1], schema=2)
    store = Repository(empty)
    with pytest.raises(Unreadable, match="schema 2; this version reads 1"):
        store.newest("old")
    assert json.loads(store.raw("old"))["name"] == demo().name
