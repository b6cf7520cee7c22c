"""Many people at once: each looks at a set, moves its light every three seconds and reads the ledger beside it.

Starts its own database and the app hosted with one process, then with two; people are coroutines of one client on
loopback, each with a studio and a sign-in of their own, opened before the clock starts. Prints one JSON line; the
arrays have one entry a step. `--seconds N`: length of a step; `--people 10,50`: other numbers.
"""

import argparse
import asyncio
import json
import os
import random
import re
import secrets
import signal
import subprocess
import sys
import time
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import httpx
from sqlalchemy import Engine, text

from evrant.demo import demo_studio
from evrant.store import cluster
from evrant.store.migrate import migrate
from evrant.store.people import People
from evrant.store.repository import Repository, engine_for

CHECKOUT = Path(__file__).parents[1]
EVERY = 3.0
TOKEN = re.compile(r'name="evrant-token" content="([^"]+)"')
REVISION = re.compile(r'data-revision="(\d+)"')
PASSWORD = "four words make one"
AT_ONCE = 4
"""So many open their page at a time before a step."""
BOUND = 30.0
"""An answer that takes longer is an error [s]."""


@dataclass
class Heard:
    """What the people of one step saw."""

    times: list[float] = field(default_factory=list)
    errors: list[str] = field(default_factory=list)
    moves: int = 0


class Person:
    """Somebody with a studio and a sign-in of their own."""

    def __init__(self, client: httpx.AsyncClient, key: str, session: str, seed: int, heard: Heard) -> None:
        self.client, self.key, self.session, self.heard = client, key, session, heard
        self.dice, self.seed, self.said, self.acknowledged = random.Random(seed), seed, 0, 0
        self.token, self.revision = "", 0

    async def ask(self, method: str, path: str, headers: dict[str, str], **more: Any) -> httpx.Response | None:
        """An answer in its time, counted; None for an error."""
        begun = time.perf_counter()
        try:
            answer = await self.client.request(method, path, headers=headers, timeout=BOUND, **more)
        except httpx.HTTPError as error:
            self.heard.errors.append(type(error).__name__)
            return None
        self.heard.times.append(time.perf_counter() - begun)
        if answer.status_code >= 400:
            self.heard.errors.append(str(answer.status_code))
            return None
        return answer

    async def look(self) -> None:
        """The whole page, as one opens it."""
        answer = await self.ask(
            "GET", f"/studios/{self.key}/sets/kneeling-a", {"Cookie": f"evrant_session={self.session}"}
        )
        if answer is not None:
            token, revision = TOKEN.search(answer.text), REVISION.search(answer.text)
            assert token is not None and revision is not None
            self.token, self.revision = token[1], int(revision[1])

    async def move(self) -> None:
        """The light to another place; the answer is the sheet and the ledger anew."""
        fields = {"x": round(self.dice.uniform(1.5, 2.0), 4), "y": round(self.dice.uniform(1.8, 2.2), 4)}
        edit = {"verb": "set", "target": "sets/kneeling-a/lights/key", "fields": fields}
        headers = {"Cookie": f"evrant_session={self.session}; evrant_token={self.token}", "HX-Request": "true"}
        headers |= {"X-Evrant-Token": self.token, "X-Evrant-Page": "sets/kneeling-a"}
        headers["X-Evrant-Revision"] = str(self.revision)
        body = {"edit": json.dumps(edit), "edit_id": f"load-{secrets.token_hex(6)}"}
        answer = await self.ask("POST", f"/studios/{self.key}/edits", headers, data=body)
        if answer is None:
            await self.look()
            return
        self.acknowledged += 1
        told = REVISION.search(answer.text)
        assert told is not None
        self.revision = int(told[1])

    async def stay(self, until: float) -> int:
        """Until the step is over; how many moves were acknowledged."""
        await asyncio.sleep(self.dice.uniform(0, EVERY))
        while time.monotonic() < until:
            begun = time.monotonic()
            await (self.move() if self.token else self.look())
            await asyncio.sleep(max(0.0, EVERY * self.dice.uniform(0.8, 1.2) - (time.monotonic() - begun)))
        self.heard.moves += self.acknowledged
        return self.acknowledged


async def step(base: str, who: list[tuple[str, str]], seconds: float, seed: int) -> tuple[Heard, list[int]]:
    """All of them at once for a while; each has opened the page before the clock starts."""
    heard = Heard()
    limits = httpx.Limits(max_connections=len(who) + 10, max_keepalive_connections=len(who) + 10)
    async with httpx.AsyncClient(base_url=base, limits=limits, trust_env=False) as client:
        everybody = [Person(client, key, session, seed + n, Heard()) for n, (key, session) in enumerate(who)]
        for first in range(0, len(everybody), AT_ONCE):
            await asyncio.gather(*(one.look() for one in everybody[first : first + AT_ONCE]))
        for one in everybody:
            one.heard = heard
        until = time.monotonic() + seconds
        acknowledged = await asyncio.gather(*(one.stay(until) for one in everybody))
    return heard, list(acknowledged)


def revisions(engine: Engine, who: list[tuple[str, str]]) -> list[int]:
    """How many revisions each of the studios has."""
    query = text("SELECT studio, max(number) AS number FROM revision GROUP BY studio")
    with engine.connect() as connection:
        held = {row.studio: row.number for row in connection.execute(query)}
    return [held[key] for key, _ in who]


def percentile(values: list[float], share: float) -> float:
    return round(1000 * sorted(values)[min(int(share * len(values)), len(values) - 1)], 1) if values else -1.0


def memory(process: int) -> float:
    """Memory of a process and its children [MB]."""
    children = subprocess.run(["pgrep", "-P", str(process)], capture_output=True, text=True, check=False).stdout.split()
    total = 0.0
    for one in [str(process), *children]:
        try:
            found = re.search(r"VmRSS:\s+(\d+)", Path(f"/proc/{one}/status").read_text())
        except OSError:
            continue
        total += int(found[1]) / 1000 if found else 0.0
    return round(total)


def serve(url: str, port: int, workers: int) -> "subprocess.Popen[bytes]":
    """The app as one hosts it, without the worker for long jobs."""
    environment = os.environ | {"OPENBLAS_NUM_THREADS": "1", "EVRANT_ADDRESS": f"http://127.0.0.1:{port}"}
    environment["EVRANT_DATABASE_URL"] = url.replace("postgresql+psycopg://", "postgresql://")
    command = [sys.executable, "-m", "uvicorn", "--factory", "evrant.web.asgi:app", "--port", str(port)]
    command += ["--workers", str(workers), "--log-level", "error", "--no-access-log"]
    started = subprocess.Popen(command, env=environment)
    for _ in range(1200):
        try:
            if httpx.get(f"http://127.0.0.1:{port}/ready", trust_env=False, timeout=2).status_code == 200:
                return started
        except httpx.HTTPError:
            time.sleep(0.1)
    raise RuntimeError("the app did not start")


def main() -> None:
    given = argparse.ArgumentParser()
    given.add_argument("--seconds", type=float, default=20.0)
    given.add_argument("--people", default="10,50,100,300")
    given.add_argument("--processes", default="1,2")
    asked = given.parse_args()
    steps = [int(one) for one in asked.people.split(",")]
    own = cluster.start(CHECKOUT, fresh=True, name="pg-bench")
    engine = engine_for(own.url())
    migrate(engine)
    people, demo = People(engine), demo_studio("adoption-corner")
    who = []
    for number in range(max(steps)):
        account = people.add(f"Person {number}", PASSWORD)
        store = Repository(engine).acting(account.id, account.id)
        made = store.create(demo.changed(name=f"Corner {number}"), label="New")
        who.append((made.studio_id, people._begun(account.id)))
    found: dict[str, list[float]] = {name: [] for name in ("people", "p50_ms", "p95_ms", "errors", "moves_a_second")}
    found |= {"processes": [], "rss_mb": []}
    lost, kinds = 0, set[str]()
    try:
        for workers in map(int, asked.processes.split(",")):
            port = cluster.free_port()
            running = serve(own.url(), port, workers)
            try:
                for count in steps:
                    here = who[:count]
                    before = revisions(engine, here)
                    heard, kept = asyncio.run(
                        step(f"http://127.0.0.1:{port}", here, asked.seconds, 1000 * len(found["people"]))
                    )
                    kinds |= set(heard.errors)
                    after = revisions(engine, here)
                    lost += sum(max(n - (b - a), 0) for n, a, b in zip(kept, before, after, strict=True))
                    row: tuple[float, ...] = (
                        count,
                        percentile(heard.times, 0.5),
                        percentile(heard.times, 0.95),
                        len(heard.errors),
                    )
                    row += (round(heard.moves / asked.seconds, 1), workers, memory(running.pid))
                    for name, value in zip(found, row, strict=True):
                        found[name].append(value)
                    print(dict(zip(found, row, strict=True)), file=sys.stderr)
            finally:
                running.send_signal(signal.SIGTERM)
                running.wait(40)
        print(json.dumps({**found, "kinds_of_error": sorted(kinds), "lost": lost}))
    finally:
        engine.dispose()
        cluster.stop(own.folder)


if __name__ == "__main__":
    main()
