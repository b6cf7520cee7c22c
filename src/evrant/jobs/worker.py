"""The worker: takes long jobs off the queue, one at a time, and takes up again what a dead worker left."""

import asyncio
import logging
import os
import sys
import threading
import time
from collections.abc import Callable
from typing import Any

import procrastinate
from sqlalchemy import Engine
from sqlalchemy.exc import OperationalError

from evrant.jobs.kit_search import find_kit
from evrant.jobs.plan import plan_job
from evrant.jobs.settle import settle_job
from evrant.store.jobs import QUEUE, TASK, Jobs, LongJob, State
from evrant.store.repository import engine_for

Stop = Callable[[], bool]
Tell = Callable[[str, Any], None]


def answer_at_once(job: LongJob, tell: Tell, stop: Stop) -> dict[str, Any]:
    """The least a job can do: shows that queue, worker and database are alive."""
    return {"alive": True}


KINDS: dict[str, Callable[[LongJob, Tell, Stop], dict[str, Any]]] = {
    "kit": find_kit,
    "settle": settle_job,
    "plan": plan_job,
    "alive": answer_at_once,
}
OFTEN = 0.4
"""Seconds between two words of progress, at least."""
SWEEP = "*/2 * * * * *"
"""How often jobs of dead workers are looked for: every other second."""
TRIES = 5
WITH_STARTER = "EVRANT_WORKER_WITH_STARTER"
"""The process a worker belongs to and must not outlive, by its number."""


class _Telling:
    """Progress of one job, not too often; remembers that it was cancelled."""

    def __init__(self, jobs: Jobs, job: str) -> None:
        self.jobs, self.job = jobs, job
        self.cancelled, self.last, self.asked = False, 0.0, 0.0

    def tell(self, words: str, so_far: Any = None) -> None:
        now = time.monotonic()
        if so_far is None and now - self.last < OFTEN:
            return
        self.last = now
        try:
            self.cancelled = self.jobs.tell(self.job, words, so_far) or self.cancelled
        except OperationalError:
            logging.getLogger(__name__).warning("The database does not answer; the job goes on.")

    def stop(self) -> bool:
        if time.monotonic() - self.asked >= OFTEN:
            self.asked = time.monotonic()
            try:
                found = self.jobs.find(self.job)
            except OperationalError:
                return self.cancelled
            self.cancelled = found is None or found.cancel or self.cancelled
        return self.cancelled


def run_job(jobs: Jobs, job: str) -> None:
    """Do one job and write its answer once."""
    held = jobs.begin(job)
    if held is None:
        return
    telling = _Telling(jobs, job)
    work = KINDS.get(held.kind)
    if work is None:
        jobs.finish(job, State.FAILED, None, f"No worker knows “{held.kind}”.")
        return
    try:
        answer = work(held, telling.tell, telling.stop)
    except Exception:
        logging.getLogger(__name__).exception("A long job failed.")
        _patiently(
            lambda: jobs.finish(job, State.FAILED, None, "The search failed; ask again, or tell us what it was.")
        )
        return
    state = State.CANCELLED if telling.cancelled else State.DONE
    _patiently(lambda: jobs.finish(job, state, answer, "Cancelled." if telling.cancelled else ""))


def _patiently(write: Callable[[], Any]) -> None:
    """Write through a restart of the database."""
    for wait in (0.5, 1, 2, 4, 8, 15):
        try:
            write()
        except OperationalError:
            time.sleep(wait)
        else:
            return
    write()


def app_for(engine: Engine, stalled: float = 20.0) -> procrastinate.App:
    """The queue's app on a database: one task, and the sweep that takes up what dead workers left."""
    url = engine.url.set(drivername="postgresql").render_as_string(hide_password=False)
    app = procrastinate.App(connector=procrastinate.PsycopgConnector(conninfo=url))
    jobs = Jobs(engine)

    @app.task(name=TASK, queue=QUEUE, retry=procrastinate.RetryStrategy(max_attempts=TRIES, wait=1))
    def long_job(job: str) -> None:
        run_job(jobs, job)

    @app.periodic(cron=SWEEP)
    @app.task(name="take_up_again", queue=QUEUE, queueing_lock="take_up_again", pass_context=True)
    async def take_up_again(context: procrastinate.JobContext, timestamp: int) -> None:
        manager = context.app.job_manager
        for dead in await manager.get_stalled_jobs(seconds_since_heartbeat=stalled):
            await manager.retry_job(dead)

    return app


def _end_with(parent: int) -> None:
    """End this process when the one that started it is gone (also before it could look); what it was doing is taken
    up again elsewhere."""
    while os.getppid() == parent:
        time.sleep(0.5)
    os._exit(0)


def work(*, heartbeat: float = 5.0, stalled: float = 20.0, drain: bool = False, url: str | None = None) -> int:
    """Run a worker until it is told to stop, or with `drain` until the queue is empty. Returns the exit status.

    A database that goes away is waited for.
    """
    address = url or os.environ.get("EVRANT_DATABASE_URL")
    if not address:
        print("Set EVRANT_DATABASE_URL; `evrant serve` starts a worker by itself.", file=sys.stderr)
        return 2
    logging.basicConfig(level=logging.WARNING)
    if os.environ.get(WITH_STARTER):
        threading.Thread(target=_end_with, args=(int(os.environ[WITH_STARTER]),), daemon=True).start()
    engine = engine_for(address.replace("postgresql://", "postgresql+psycopg://", 1))
    while True:
        try:
            asyncio.run(_work(engine, heartbeat, stalled, drain))
        except (procrastinate.exceptions.ConnectorException, OperationalError):
            if drain:
                raise
            time.sleep(1.0)
        else:
            return 0


async def _work(engine: Engine, heartbeat: float, stalled: float, drain: bool) -> None:
    app = app_for(engine, stalled)
    async with app.open_async():
        await app.run_worker_async(
            queues=[QUEUE],
            concurrency=2,
            wait=not drain,
            update_heartbeat_interval=heartbeat,
            stalled_worker_timeout=stalled * 4,
            fetch_job_polling_interval=2.0,
            shutdown_graceful_timeout=3.0,
            delete_jobs="successful",
        )
