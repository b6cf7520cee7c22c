"""Web processes, the worker, the database's processes and the database itself are killed under writers: no
acknowledged change is lost, none is done twice, and all comes back by itself."""

import contextlib
import json
import os
import random
import signal
import subprocess
import sys
import threading
import time
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from pathlib import Path

import httpx
import psycopg
import pytest
from conftest import CHECKOUT, LONG
from helpers.studios import one_portrait, parse
from sqlalchemy import text

from evrant.store import cluster
from evrant.store.repository import Repository, engine_for

KILLS = 1000 if LONG else 30
WRITERS = 3
BURST = 5
"""So many are killed one upon another; then all must have come back before the next."""
PATIENCE = 240.0
"""Seconds one change may take until it is acknowledged, whatever dies meanwhile, on a machine that is busy besides."""
SERVES = """
import sys
from pathlib import Path
from evrant.web import serve
serve.CHECKOUT = Path(sys.argv[1])
sys.exit(serve.serve(int(sys.argv[2]), workers=2))
"""


@dataclass
class Writer:
    """Changes one studio again and again, each change sent until it is acknowledged."""

    base: str
    studio: str
    over: threading.Event
    acknowledged: list[str] = field(default_factory=list)
    faults: list[str] = field(default_factory=list)

    def run(self) -> None:
        number = 0
        while not self.over.is_set():
            number += 1
            edit = {"verb": "set", "target": "brief", "fields": {"budget": str(number)}}
            body = {"edit_id": f"{self.studio}-{number:06d}", "revision": number, "edit": edit}
            try:
                self._until_taken(body)
            except AssertionError as fault:
                self.faults.append(str(fault))
                return
            self.acknowledged.append(str(body["edit_id"]))

    def _until_taken(self, body: dict[str, object]) -> None:
        end, last = time.monotonic() + PATIENCE, ""
        while time.monotonic() < end:
            try:
                with httpx.Client(base_url=self.base, timeout=20, trust_env=False) as client:
                    answer = self._sent(client, body)
            except httpx.HTTPError as fault:
                last = repr(fault)
            else:
                last = f"{answer.status_code} {answer.text[:200]}"
                if answer.status_code == 200:
                    return
                assert answer.status_code >= 500, f"{body['edit_id']}: {last}"
            time.sleep(0.05)
        raise AssertionError(f"{body['edit_id']} was not taken in {PATIENCE} s: {last}")

    def _sent(self, client: httpx.Client, body: dict[str, object]) -> httpx.Response:
        """The answer to a change; where not even a token was given, as while the database is away, to that."""
        page = client.get("/bare")
        token = client.cookies.get("evrant_token")
        if not token:
            return page
        return client.post(f"/studios/{self.studio}/edits", json=body, headers={"X-Evrant-Token": token})


def children(process: int) -> Iterator[tuple[int, str]]:
    """Processes a process has started, theirs too, with their command lines."""
    for task in Path(f"/proc/{process}/task").glob("*/children"):
        try:
            numbers = task.read_text().split()
        except OSError:
            continue
        for number in numbers:
            try:
                line = Path(f"/proc/{number}/cmdline").read_bytes().replace(b"\0", b" ").decode(errors="replace")
            except OSError:
                continue
            yield int(number), line
            yield from children(int(number))


def kill(process: int) -> None:
    with contextlib.suppress(ProcessLookupError):
        os.kill(process, signal.SIGKILL)


@dataclass
class Served:
    """The app with two web processes, a worker and a database of its own, and what of it can be killed."""

    own: cluster.Cluster
    process: "subprocess.Popen[str]"
    base: str
    dice: random.Random
    done: Counter[str] = field(default_factory=Counter)

    def one_of(self, word: str) -> None:
        found = [number for number, line in children(self.process.pid) if word in line]
        if found:
            kill(self.dice.choice(found))

    def back_end(self) -> None:
        query = "SELECT pid FROM pg_stat_activity WHERE usename = %s AND pid <> pg_backend_pid()"
        with contextlib.suppress(psycopg.Error), psycopg.connect(self.own.keeper(), connect_timeout=3) as line:
            found = [row[0] for row in line.execute(query, [cluster.APP])]
            if found:
                kill(self.dice.choice(found))

    def server(self) -> None:
        with contextlib.suppress(OSError, ValueError, IndexError):
            kill(int((self.own.folder / "data" / "postmaster.pid").read_text().split()[0]))

    def strike(self) -> None:
        """Kill something of some kind."""
        kinds: dict[str, Callable[[], None]] = {
            "web": lambda: self.one_of("spawn_main"),
            "worker": lambda: self.one_of("evrant.cli worker"),
            "back-end": self.back_end,
            "server": self.server,
        }
        kind = self.dice.choice(("web", "web", "web", "worker", "back-end", "back-end", "server"))
        self.done[kind] += 1
        kinds[kind]()

    def stop(self) -> None:
        left = [number for number, _ in children(self.process.pid)]
        self.process.send_signal(signal.SIGTERM)
        try:
            self.process.wait(60)
        except subprocess.TimeoutExpired:
            self.process.kill()
        for number in left:
            kill(number)
        cluster.stop(self.own.folder)


@pytest.fixture
def served(tmp_path: Path) -> Iterator[Served]:
    own = cluster.start(tmp_path, fresh=True)
    port = cluster.free_port()
    environment = {key: value for key, value in os.environ.items() if not key.startswith("EVRANT_")}
    environment["PYTHONPATH"] = str(CHECKOUT / "src")
    command = [sys.executable, "-c", SERVES, str(tmp_path), str(port)]
    process = subprocess.Popen(command, env=environment, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True)
    found = Served(own, process, f"http://127.0.0.1:{port}", random.Random(20261129))
    try:
        assert process.stdout is not None and "ready" in process.stdout.readline()
        yield found
    finally:
        found.stop()


def again(writers: list[Writer], more: int, seconds: float) -> bool:
    """Whether so many more changes of every writer are acknowledged in that time."""
    before, end = [len(writer.acknowledged) for writer in writers], time.monotonic() + seconds
    while time.monotonic() < end:
        if all(len(writer.acknowledged) >= count + more for writer, count in zip(writers, before, strict=True)):
            return True
        time.sleep(0.1)
    return False


def test_nothing_acknowledged_is_lost_whatever_is_killed(served: Served) -> None:
    engine = engine_for(served.own.url())
    studios = [Repository(engine).create(parse(one_portrait()), label="Chaos").studio_id for _ in range(WRITERS)]
    engine.dispose()
    over = threading.Event()
    writers = [Writer(served.base, studio, over) for studio in studios]
    threads = [threading.Thread(target=writer.run) for writer in writers]
    for thread in threads:
        thread.start()
    try:
        for number in range(1, KILLS + 1):
            time.sleep(served.dice.uniform(0.05, 0.6))
            served.strike()
            if number % BURST == 0:
                assert again(writers, 1, PATIENCE), f"all comes back by itself: {[writer.faults for writer in writers]}"
    finally:
        over.set()
        for thread in threads:
            thread.join(PATIENCE)
    assert [writer.faults for writer in writers] == [[]] * WRITERS
    assert set(served.done) == {"web", "worker", "back-end", "server"}
    engine = engine_for(served.own.url())
    query = text("SELECT number, edit_id FROM revision WHERE studio = :studio ORDER BY number")
    with engine.connect() as connection:
        for writer in writers:
            rows = connection.execute(query, {"studio": writer.studio}).all()
            assert [row.edit_id for row in rows[1:]] == writer.acknowledged, "each once, in their order"
            assert [row.number for row in rows] == list(range(1, len(rows) + 1))
            newest = Repository(engine).newest(writer.studio).studio
            assert str(newest.brief.budget) == str(len(writer.acknowledged))
    engine.dispose()
    print(json.dumps({"kills": served.done, "acknowledged": [len(writer.acknowledged) for writer in writers]}))


def test_new_processes_take_over_without_a_lost_answer(served: Served) -> None:
    """An upgrade: each process is replaced once its replacement is ready, under writers who never see a fault."""
    engine = engine_for(served.own.url())
    studio = Repository(engine).create(parse(one_portrait()), label="Upgrade").studio_id
    engine.dispose()
    over, answers = threading.Event(), Counter[str]()
    writer = Writer(served.base, studio, over)

    def look() -> None:
        while not over.is_set():
            try:
                page = httpx.get(f"{served.base}/studios/{studio}/brief", trust_env=False, timeout=PATIENCE)
                answers[str(page.status_code)] += 1
            except httpx.HTTPError as fault:
                answers[repr(fault)] += 1

    def processes() -> set[int]:
        return {number for number, line in children(served.process.pid) if "spawn_main" in line}

    threads = [threading.Thread(target=writer.run), threading.Thread(target=look)]
    for thread in threads:
        thread.start()
    try:
        assert again([writer], 2, PATIENCE)
        before = processes()
        served.process.send_signal(signal.SIGHUP)
        end = time.monotonic() + PATIENCE
        while time.monotonic() < end and (processes() & before or len(processes()) < 2):
            time.sleep(0.2)
        assert not processes() & before and len(processes()) == 2
        assert again([writer], 3, PATIENCE)
    finally:
        over.set()
        for thread in threads:
            thread.join(PATIENCE)
    assert not writer.faults and set(answers) == {"200"}, answers
