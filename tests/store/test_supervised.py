"""What was started is looked after: restarted when it dies, ended when told, and no wait is without an end."""

import os
import shutil
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from pathlib import Path

import httpx
import pytest
from conftest import CHECKOUT, Live
from helpers.studios import demo
from sqlalchemy import Engine, create_engine, text
from sqlalchemy.exc import DBAPIError

from evrant.store import cluster, limits
from evrant.store.cluster import Cluster
from evrant.store.repository import Repository
from evrant.web import serve

ENVIRONMENT = os.environ | {"PYTHONPATH": str(CHECKOUT / "src")}
STARTS_AND_DIES = """
import os, sys
from evrant.web.serve import Kept
print(Kept(sys.argv[1]).process.pid, flush=True)
os._exit(0)
"""


def until(true: Callable[[], bool], seconds: float = 40.0) -> bool:
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        if true():
            return True
        time.sleep(0.1)
    return False


def alive(process: int) -> bool:
    try:
        return Path(f"/proc/{process}/stat").read_text().rpartition(")")[2].split()[0] != "Z"
    except OSError:
        return False


def test_a_killed_worker_is_started_again(own_cluster: Cluster, engine: Engine) -> None:
    with serve.worker(own_cluster.url()) as kept:
        first = kept.process.pid
        os.kill(first, signal.SIGKILL)
        assert until(lambda: kept.process.pid != first and alive(kept.process.pid))
        second = kept.process.pid
    assert until(lambda: not alive(second))


def test_a_worker_does_not_outlive_an_app_that_died_at_once(own_cluster: Cluster, engine: Engine) -> None:
    command = [sys.executable, "-c", STARTS_AND_DIES, own_cluster.url()]
    done = subprocess.run(command, env=ENVIRONMENT, capture_output=True, text=True, check=True)
    assert until(lambda: not alive(int(done.stdout)))


def test_the_app_ends_when_told_and_takes_its_worker_along(own_cluster: Cluster, engine: Engine) -> None:
    address = own_cluster.url().replace("postgresql+psycopg://", "postgresql://")
    command = [sys.executable, "-m", "evrant.cli", "serve", "--port", str(cluster.free_port())]
    process = subprocess.Popen(
        command, env=ENVIRONMENT | {"EVRANT_DATABASE_URL": address}, stdout=subprocess.PIPE, text=True
    )
    assert process.stdout is not None and "ready" in process.stdout.readline()
    children = Path(f"/proc/{process.pid}/task/{process.pid}/children").read_text().split()
    process.send_signal(signal.SIGTERM)
    assert process.wait(30) == 0
    assert children and all(until(lambda child=child: not alive(int(child))) for child in children)  # type: ignore[misc]


def test_no_secret_is_in_the_environment_of_what_is_started(own_cluster: Cluster, engine: Engine) -> None:
    with serve.worker(own_cluster.url()) as kept:
        assert until(lambda: b"evrant" in Path(f"/proc/{kept.process.pid}/cmdline").read_bytes())
        told = Path(f"/proc/{kept.process.pid}/environ").read_bytes()
        assert own_cluster.password.encode() not in told and b"DATABASE_URL" not in told
        time.sleep(1.0)
        assert kept.process.poll() is None, "it has its address from elsewhere"


def test_several_processes_answer_and_one_that_is_killed_is_replaced(own_cluster: Cluster, engine: Engine) -> None:
    """What one stores the other shows at once; a killed one is started anew and loses nothing; all end together."""
    address = own_cluster.url().replace("postgresql+psycopg://", "postgresql://")
    port = cluster.free_port()
    command = [sys.executable, "-m", "evrant.cli", "serve", "--port", str(port), "--workers", "2"]
    environment = ENVIRONMENT | {"EVRANT_DATABASE_URL": address}
    process = subprocess.Popen(command, env=environment, stdout=subprocess.PIPE, text=True)
    base = f"http://127.0.0.1:{port}"

    def answering() -> set[str]:
        """Numbers of the processes that answer, each asked over a new line."""
        found = set()
        for _ in range(24):
            try:
                found.add(httpx.get(f"{base}/health", trust_env=False, timeout=5).text.removeprefix("alive "))
            except httpx.HTTPError:
                time.sleep(0.2)
        return found

    try:
        assert process.stdout is not None and "ready" in process.stdout.readline()
        assert until(lambda: len(answering()) == 2, 60)
        for number in answering():
            assert own_cluster.password.encode() not in Path(f"/proc/{number}/environ").read_bytes()
        with httpx.Client(base_url=base, trust_env=False, timeout=60) as client:
            client.get("/bare")
            headers = {"X-Evrant-Token": client.cookies["evrant_token"], "Connection": "close"}
            key = client.post("/studios", data={"name": "Of two"}, headers=headers).headers["hx-redirect"].split("/")[2]
            for sum_ in range(1, 7):
                edit = {"verb": "set", "target": "brief", "fields": {"budget": str(sum_)}}
                body = {"edit_id": f"number-{sum_}", "revision": sum_, "edit": edit}
                answer = client.post(f"/studios/{key}/edits", json=body, headers=headers)
                assert answer.status_code == 200, answer.text
                shown = client.get(f"/studios/{key}/download/studio.json", headers={"Connection": "close"}).json()
                assert shown["brief"]["budget"] == str(sum_)
        killed = answering().pop()
        os.kill(int(killed), signal.SIGKILL)
        assert until(lambda: len(now := answering()) == 2 and killed not in now, 60)
        assert Repository(engine).newest(key).number == 7
    finally:
        process.send_signal(signal.SIGTERM)
    assert process.wait(40) == 0
    assert until(lambda: not answering())


def test_a_database_that_goes_down_is_started_again_and_stopped_at_the_end(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(serve, "CHECKOUT", tmp_path)
    monkeypatch.delenv("EVRANT_DATABASE_URL", raising=False)
    with serve.database() as url:
        engine = create_engine(url, pool_pre_ping=True)
        folder = next(
            path for path in (*tmp_path.rglob("data"), *cluster.ROOT_HOME.rglob("data")) if _is_ours(path, url)
        )
        main = int((folder / "postmaster.pid").read_text().split()[0])
        os.kill(main, signal.SIGKILL)

        def answers() -> bool:
            try:
                with engine.connect() as connection:
                    return int(connection.execute(text("SELECT 1")).scalar_one()) == 1
            except DBAPIError:
                return False

        assert until(lambda: not alive(main)) and until(answers)
        again = int((folder / "postmaster.pid").read_text().split()[0])
        engine.dispose()
    assert again != main and until(lambda: not alive(again))
    shutil.rmtree(folder.parent, ignore_errors=True)


def _is_ours(data: Path, url: str) -> bool:
    try:
        return (data.parent / "port").read_text() in url
    except OSError:
        return False


def test_a_row_that_is_held_blocks_one_change_for_a_while_and_nothing_else(live: Live, engine: Engine) -> None:
    key = live.store.create(demo(), label="Held").studio_id
    answers: list[httpx.Response] = []

    def change() -> None:
        edit = {"verb": "set", "target": "room", "fields": {"height": 2.5}}
        answers.append(live.post(f"/studios/{key}/edits", revision=1, edit=edit))

    with engine.connect() as holder:
        holder.execute(text("SELECT id FROM studio WHERE id = :key FOR UPDATE"), {"key": key})
        asked = [threading.Thread(target=change) for _ in range(3)]
        for thread in asked:
            thread.start()
        time.sleep(0.5)
        assert live.client.get("/static/evrant.css").elapsed.total_seconds() < 2
        for thread in asked:
            thread.join(limits.LOCK * 4)
        holder.rollback()
    assert [answer.status_code for answer in answers] == [503] * 3
    assert all("Nothing was lost that was saved" in answer.text for answer in answers)
    again = live.post(
        f"/studios/{key}/edits", revision=1, edit={"verb": "set", "target": "room", "fields": {"height": 2.5}}
    )
    assert again.status_code == 200


def test_a_server_that_says_nothing_is_given_up(own_cluster: Cluster) -> None:
    engine = create_engine(own_cluster.url())
    limits.Watch(silent=1.0).over(engine)
    begun = time.monotonic()
    with pytest.raises(DBAPIError), engine.connect() as connection:
        connection.execute(text("SELECT pg_sleep(60)"))
    assert time.monotonic() - begun < 10
    with engine.connect() as connection:
        assert connection.execute(text("SELECT 1")).scalar_one() == 1
    engine.dispose()
