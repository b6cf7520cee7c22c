"""The gateway to long jobs: asked for, told of, cancelled, answered once."""

import json
import secrets
from dataclasses import dataclass
from datetime import UTC, datetime
from enum import StrEnum
from typing import Any, cast

from sqlalchemy import Engine, Table, bindparam, insert, select, text, update
from sqlalchemy.dialects.postgresql import JSONB

from evrant.store.reading import reader
from evrant.store.tables import LongJobRow

_J = cast(Table, LongJobRow.__table__)
QUEUE = "long"
TASK = "long_job"
DEFER = text(
    "SELECT unnest(procrastinate_defer_jobs_v1(ARRAY[ROW(:queue, :task, 0, NULL, :lock, :args, NULL)]"
    "::procrastinate_job_to_defer_v1[]))"
).bindparams(bindparam("args", type_=JSONB))


class State(StrEnum):
    """Where a long job is."""

    WAITING = "waiting"
    RUNNING = "running"
    DONE = "done"
    CANCELLED = "cancelled"
    FAILED = "failed"


@dataclass(frozen=True)
class LongJob:
    """A long job as it stands: what was asked, how far it is, and the answer so far or for good."""

    id: str
    studio: str
    kind: str
    asked: dict[str, Any]
    state: State
    progress: str
    answer: dict[str, Any] | None
    attempts: int
    cancel: bool
    at: datetime

    @property
    def over(self) -> bool:
        return self.state in (State.DONE, State.CANCELLED, State.FAILED)


COLUMNS = (
    _J.c.id,
    _J.c.studio,
    _J.c.kind,
    _J.c.asked,
    _J.c.state,
    _J.c.progress,
    _J.c.answer,
    _J.c.attempts,
    _J.c.cancel,
    _J.c.at,
)


class Jobs:
    """Long jobs of one owner in one database."""

    def __init__(self, engine: Engine, owner: str = "local") -> None:
        self._engine, self._reader, self._owner = engine, reader(engine), owner

    def ask(self, studio: str, kind: str, key: str, asked: dict[str, Any]) -> str:
        """The job for this content, queued once: the same question gets the same job, unless that one failed or
        was cancelled. Row and queue entry are written in one transaction."""
        with self._engine.begin() as connection:
            connection.execute(text("SELECT pg_advisory_xact_lock(hashtext(:key))"), {"key": f"{self._owner}/{key}"})
            query = select(_J.c.id, _J.c.state).where(_J.c.owner == self._owner, _J.c.key == key)
            held = connection.execute(query).first()
            if held is not None and held.state not in (State.CANCELLED, State.FAILED):
                return str(held.id)
            if held is not None:
                connection.execute(_J.delete().where(_J.c.id == held.id))
            made = secrets.token_hex(8)
            connection.execute(
                insert(_J).values(
                    id=made,
                    owner=self._owner,
                    studio=studio,
                    kind=kind,
                    key=key,
                    asked=asked,
                    state=State.WAITING,
                    progress="",
                    attempts=0,
                    cancel=False,
                    at=datetime.now(UTC),
                )
            )
            connection.execute(DEFER, {"queue": QUEUE, "task": TASK, "lock": None, "args": {"job": made}})
            return made

    def find(self, job: str) -> LongJob | None:
        query = select(*COLUMNS).where(_J.c.id == job, _J.c.owner == self._owner)
        with self._reader.connect() as connection:
            row = connection.execute(query).first()
        return None if row is None else LongJob(*row[:4], State(row.state), *row[5:9], row.at)

    def newest(self, studio: str, kind: str) -> LongJob | None:
        """The job asked for last."""
        query = (
            select(_J.c.id)
            .where(_J.c.owner == self._owner, _J.c.studio == studio, _J.c.kind == kind)
            .order_by(_J.c.at.desc())
            .limit(1)
        )
        with self._reader.connect() as connection:
            found = connection.execute(query).scalar()
        return None if found is None else self.find(found)

    def cancel(self, job: str) -> None:
        """Ask a job to stop; one that nobody has begun is over at once."""
        mine = (_J.c.id == job, _J.c.owner == self._owner)
        with self._engine.begin() as connection:
            connection.execute(update(_J).where(*mine).values(cancel=True))
            waiting = update(_J).where(*mine, _J.c.state == State.WAITING)
            connection.execute(waiting.values(state=State.CANCELLED, progress="Cancelled before it began."))

    # --- the worker's side -------------------------------------------------------------------

    def begin(self, job: str) -> LongJob | None:
        """Take a job up, again if a worker died over it; None when it is over or gone."""
        with self._engine.begin() as connection:
            row = connection.execute(select(_J.c.state).where(_J.c.id == job).with_for_update()).first()
            if row is None or row.state in (State.DONE, State.CANCELLED, State.FAILED):
                return None
            values = {"state": State.RUNNING, "attempts": _J.c.attempts + 1}
            connection.execute(update(_J).where(_J.c.id == job).values(**values))
        return self.find(job)

    def tell(self, job: str, progress: str, so_far: dict[str, Any] | None = None) -> bool:
        """Say how far a job is; answers whether it was cancelled."""
        values: dict[str, Any] = {"progress": progress[:300]}
        if so_far is not None:
            values["answer"] = json.loads(json.dumps(so_far))
        with self._engine.begin() as connection:
            query = (
                update(_J).where(_J.c.id == job, _J.c.state == State.RUNNING).values(**values).returning(_J.c.cancel)
            )
            found = connection.execute(query).scalar()
        return True if found is None else bool(found)

    def finish(self, job: str, state: State, answer: dict[str, Any] | None, progress: str = "") -> bool:
        """Write the answer, once: whoever comes second finds the job over and writes nothing."""
        values: dict[str, Any] = {"state": state, "progress": progress[:300]}
        if answer is not None:
            values["answer"] = answer
        query = update(_J).where(_J.c.id == job, _J.c.state == State.RUNNING).values(**values)
        with self._engine.begin() as connection:
            return connection.execute(query).rowcount == 1
