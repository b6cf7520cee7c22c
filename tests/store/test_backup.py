"""Everything into one file and back into a fresh database: the same studios, histories and ledgers."""

import stat
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import psycopg
import pytest
from sqlalchemy import Engine, text

from evrant.core.edits.language import EDIT
from evrant.core.judge.ledger import Ledger, ledger_of
from evrant.demo import NAMES, demo_studio
from evrant.store import cluster
from evrant.store.backup import backup, restore, studios_in
from evrant.store.cluster import ClusterFault
from evrant.store.migrate import migrate
from evrant.store.repository import Repository, engine_for


@pytest.fixture
def other(own_cluster: cluster.Cluster) -> Iterator[tuple[str, Engine]]:
    """A second, empty database of the same server."""
    with psycopg.connect(own_cluster.keeper(), autocommit=True) as connection:
        connection.execute("DROP DATABASE IF EXISTS restored")
        connection.execute(f"CREATE DATABASE restored OWNER {cluster.APP}")
    url = own_cluster.url("restored")
    engine = engine_for(url)
    yield url, engine
    engine.dispose()


def lines(ledger: Ledger) -> list[tuple[Any, ...]]:
    return [(m.key, m.verdict, m.need, m.have, m.margin, m.uncertainty, m.sentence) for m in ledger.lines]


def test_a_backup_restored_elsewhere_is_the_same_to_the_last_line(
    own_cluster: cluster.Cluster, store: Repository, other: tuple[str, Engine], tmp_path: Path
) -> None:
    keys = [store.create(demo_studio(name), label="Kept").studio_id for name in NAMES]
    edit = EDIT.validate_python({"verb": "set", "target": "brief", "fields": {"budget": "777"}})
    store.change(keys[0], 1, "edit-of-the-budget", edit)
    store.branch(keys[1], "a-plan-of-its-own")
    frame = store.keep_frame(keys[0], b"picture", {"day": "2026-11-29"})
    file = tmp_path / "all.backup"
    size = backup(own_cluster.url(), file)
    assert size == file.stat().st_size > 10_000
    assert stat.S_IMODE(file.stat().st_mode) & 0o077 == 0, "others could read it"
    assert [one.name for one in tmp_path.iterdir()] == ["all.backup"], "nothing is left beside it"
    url, engine = other
    assert restore(url, file, engine) == len(keys)
    migrate(engine)
    again = Repository(engine)
    for key in keys:
        assert again.newest(key).studio == store.newest(key).studio
        assert lines(ledger_of(again.newest(key).studio)) == lines(ledger_of(store.newest(key).studio))
        assert again.history(key) == store.history(key) and again.plans(key) == store.plans(key)
    assert again.frame(keys[0], frame) == store.frame(keys[0], frame)
    assert again.undo(keys[0], 2, "undone-after-all").studio.brief.budget == demo_studio(NAMES[0]).brief.budget


def test_what_is_there_is_not_written_over_unasked(
    own_cluster: cluster.Cluster, store: Repository, other: tuple[str, Engine], tmp_path: Path
) -> None:
    store.create(demo_studio(NAMES[0]), label="Kept")
    file = tmp_path / "one.backup"
    backup(own_cluster.url(), file)
    url, engine = other
    migrate(engine)
    here = Repository(engine)
    mine = here.create(demo_studio(NAMES[1]), label="Mine").studio_id
    with pytest.raises(ClusterFault, match="holds one studio"):
        restore(url, file, engine)
    assert here.newest(mine).studio.name == demo_studio(NAMES[1]).name
    assert restore(url, file, engine, replace=True) == 1
    with engine.connect() as connection:
        names = [row[0] for row in connection.execute(text("SELECT name FROM studio"))]
    assert names == [demo_studio(NAMES[0]).name]


def test_a_newer_database_is_refused_with_words(other: tuple[str, Engine]) -> None:
    _, engine = other
    migrate(engine)
    with engine.begin() as connection:
        connection.execute(text("UPDATE alembic_version SET version_num = '9999'"))
    with pytest.raises(ClusterFault, match="newer Evrant"):
        migrate(engine)
    with engine.connect() as connection:
        assert connection.execute(text("SELECT version_num FROM alembic_version")).scalar() == "9999"


def test_files_that_are_no_backups_change_nothing(
    own_cluster: cluster.Cluster, store: Repository, other: tuple[str, Engine], tmp_path: Path
) -> None:
    store.create(demo_studio(NAMES[0]), label="Kept")
    file = tmp_path / "one.backup"
    backup(own_cluster.url(), file)
    url, engine = other
    migrate(engine)
    Repository(engine).create(demo_studio(NAMES[1]), label="Mine")
    (tmp_path / "text").write_text("not a backup")
    (tmp_path / "cut").write_bytes(file.read_bytes()[: file.stat().st_size // 2])
    for name, words in (("text", "not a backup"), ("none", "No such file"), ("cut", "nothing was changed")):
        with pytest.raises(ClusterFault, match=words):
            restore(url, tmp_path / name, engine, replace=True)
        assert studios_in(engine) == 1
    with pytest.raises(ClusterFault, match="no folder"):
        backup(own_cluster.url(), tmp_path / "nowhere" / "x")
    with pytest.raises(ClusterFault, match="pg_dump failed"):
        backup(own_cluster.url("missing"), tmp_path / "x")
    assert not (tmp_path / "x").exists()
