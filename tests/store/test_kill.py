"""The server is killed mid-edit, again and again; no acknowledged edit may be missing."""

import os
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import httpx
import psycopg
import pytest
from conftest import CHECKOUT, CLUSTER, LONG
from helpers.studios import demo
from sqlalchemy import text

from evrant.store import cluster
from evrant.store.cluster import Cluster, free_port, start
from evrant.store.repository import Repository

SERVER = """
import sys, uvicorn
from evrant.store.repository import engine_for
from evrant.web.app import create_app
port = int(sys.argv[2])
uvicorn.run(create_app(engine_for(sys.argv[1]), [f"127.0.0.1:{port}"]), host="127.0.0.1", port=port, log_level="error")
"""


@contextmanager
def serving(url: str, port: int) -> Iterator[tuple[subprocess.Popen[bytes], httpx.Client]]:
    environment = os.environ | {"PYTHONPATH": str(CHECKOUT / "src")}
    process = subprocess.Popen([sys.executable, "-c", SERVER, url, str(port)], env=environment)
    client = httpx.Client(base_url=f"http://127.0.0.1:{port}", timeout=60, trust_env=False)
    try:
        for _ in range(1200):
            try:
                if client.get("/bare").status_code == 200:
                    break
            except httpx.HTTPError:
                time.sleep(0.05)
        client.headers["X-Evrant-Token"] = client.cookies["evrant_token"]
        yield process, client
    finally:
        process.kill()
        process.wait()
        client.close()


def test_no_acknowledged_edit_is_lost_when_the_server_is_killed(own_cluster: Cluster, store: Repository) -> None:
    studio_id = store.create(demo(), label="Demo").studio_id
    acknowledged: list[str] = []
    sent, rounds = 0, 100 if LONG else 10
    for turn in range(rounds):
        with serving(own_cluster.url(), free_port()) as (process, client):
            deadline = time.monotonic() + 0.05 + 0.013 * (turn % 17)
            killer: subprocess.Popen[bytes] | None = None
            while killer is None:
                if time.monotonic() > deadline:
                    killer = subprocess.Popen(["sh", "-c", f"sleep 0.00{turn % 10}; kill -9 {process.pid}"])
                sent += 1
                edit_id = f"kill-{sent}"
                item = {"id": f"box-{sent % 60}", "name": edit_id}
                there = any(box.id == item["id"] for box in store.newest(studio_id).studio.room.boxes)
                edit = (
                    {"verb": "remove", "target": f"room/boxes/{item['id']}"}
                    if there
                    else {"verb": "add", "list": "room/boxes", "item": item}
                )
                body = {"edit_id": edit_id, "revision": store.newest(studio_id).number, "edit": edit}
                try:
                    answer = client.post(f"/studios/{studio_id}/edits", json=body)
                except httpx.HTTPError:
                    assert killer is not None
                    continue
                assert answer.status_code == 200, answer.text
                acknowledged.append(edit_id)
            killer.wait()
    with store._engine.connect() as connection:
        kept = set(connection.execute(text("SELECT edit_id FROM revision")).scalars())
    assert len(acknowledged) >= rounds and set(acknowledged) <= kept
    numbers = [line.number for line in store.history(studio_id, limit=1_000_000)]
    assert numbers == list(range(len(numbers), 0, -1))


def test_the_cluster_syncs_and_listens_on_loopback_only(own_cluster: Cluster) -> None:
    with psycopg.connect(own_cluster.keeper()) as connection:
        rows = connection.execute("SELECT name, setting FROM pg_settings")
        settings = {row[0]: row[1] for row in rows}
    assert settings["fsync"] == "on" and settings["synchronous_commit"] == "on"
    assert settings["listen_addresses"] == "127.0.0.1" and settings["unix_socket_directories"] == ""
    assert settings["password_encryption"] == "scram-sha-256" and settings["server_encoding"] == "UTF8"


def test_a_running_cluster_is_used_again(own_cluster: Cluster) -> None:
    again = start(CHECKOUT, name=CLUSTER)
    assert (again.port, again.folder) == (own_cluster.port, own_cluster.folder)
    assert (again.folder / "password").stat().st_mode & 0o077 == 0


def test_a_missing_server_program_is_said(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(cluster, "_binaries", lambda: None)
    monkeypatch.setattr(os, "geteuid", lambda: 1000)
    with pytest.raises(cluster.ClusterFault, match="apt-get install postgresql"):
        cluster.find_binaries()


def test_a_second_start_does_not_take_the_database_away(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Only the first of two apps on one checkout stops the server; a dead one's claim counts for nothing."""
    assert cluster.claim(tmp_path) and cluster.claim(tmp_path)
    monkeypatch.setattr(os, "getpid", lambda: 1)
    assert not cluster.claim(tmp_path)
    monkeypatch.setattr(cluster, "_folder", lambda checkout, account: tmp_path.parent)
    with pytest.raises(cluster.ClusterFault, match="stop it before"):
        start(CHECKOUT, fresh=True, name=tmp_path.name)
    (tmp_path / "claimed-by").write_text("999999999")
    assert cluster.claim(tmp_path)
