"""The gateway to studios: every query, every revision, scoped by owner."""

import json
import secrets
from dataclasses import dataclass
from datetime import datetime
from typing import Any, cast

from sqlalchemy import Engine, Table, create_engine, delete, func, insert, or_, select, text, update
from sqlalchemy.dialects.postgresql import insert as upsert
from sqlalchemy.engine import Connection

from evrant.core.edits.language import EditRefused
from evrant.core.studio.past import MAIN_PLAN, PLANS, Cause, Whole
from evrant.core.studio.studio import Studio
from evrant.store import limits
from evrant.store.changing import Changing
from evrant.store.frames import Frames
from evrant.store.revisions import REVISION as _R
from evrant.store.revisions import STUDIO as _S
from evrant.store.revisions import Revision, key_of, split, utc_now
from evrant.store.tables import FrameRow, LongJobRow, RemarkRow, ShareRow, StandingRow, Written
from evrant.store.wholes import write_pictures, write_plan

ONE_AT_A_TIME = text("SELECT pg_advisory_xact_lock(hashtextextended(:key, 0))")
_F = cast(Table, FrameRow.__table__)
_T, _J = cast(Table, StandingRow.__table__), cast(Table, LongJobRow.__table__)
_H, _N = cast(Table, ShareRow.__table__), cast(Table, RemarkRow.__table__)


@dataclass(frozen=True)
class Listed:
    """A studio in the list."""

    id: str
    name: str
    archived: bool
    touched: datetime
    number: int = 0
    standing: tuple[str, dict[str, Any]] | None = None
    """By which rules its newest revision was judged, and what they said."""


def engine_for(url: str) -> Engine:
    """An engine with a small pool; connections are checked before use, so a restart heals."""
    engine = create_engine(
        url,
        pool_size=8,
        max_overflow=8,
        pool_pre_ping=True,
        pool_timeout=limits.POOL,
        connect_args=limits.CONNECTING,
        json_serializer=lambda value: value if isinstance(value, Written) else json.dumps(value, ensure_ascii=False),
    )
    limits.Watch().over(engine)
    return engine


class Repository(Changing, Frames):
    """Studios of one owner in one database: their list, their beginning and end, their plans."""

    def studios(self, *, archived: bool = False, start: int = 0, count: int = 100_000) -> list[Listed]:
        """Studios, touched last first, each with how it stood when it was judged last, if its newest revision was."""
        newest = select(func.max(_R.c.number)).where(_R.c.studio == _S.c.id, _R.c.plan == MAIN_PLAN).scalar_subquery()
        query = (
            select(_S.c.id, _S.c.name, _S.c.archived, _S.c.touched, newest.label("number"))
            .where(_S.c.owner == self._owner, _S.c.archived == archived)
            .order_by(_S.c.touched.desc(), _S.c.id)
            .offset(start)
            .limit(count)
        )
        with self._reader.connect() as connection:
            rows = connection.execute(query).all()
            held = select(_T).where(_T.c.studio.in_([row.id for row in rows]), _T.c.plan == MAIN_PLAN)
            known = {(row.studio, row.number): row for row in connection.execute(held)}
        found = []
        for row in rows:
            standing = known.get((row.id, row.number))
            judged = (standing.judged_by, standing.told) if standing else None
            found.append(Listed(row.id, row.name, row.archived, row.touched, row.number or 0, judged))
        return found

    def count(self, *, archived: bool = False) -> int:
        query = select(func.count()).where(_S.c.owner == self._owner, _S.c.archived == archived)
        with self._reader.connect() as connection:
            return int(connection.execute(query).scalar_one())

    def keep_standing(self, studio_id: str, number: int, judged_by: str, told: dict[str, Any]) -> None:
        """Keep how a revision stands; an older revision's standing never replaces a newer one's."""
        bare, plan = split(studio_id)
        values = {"studio": bare, "plan": plan, "number": number, "judged_by": judged_by, "told": told}
        query = upsert(_T).values(**values)
        query = query.on_conflict_do_update(
            index_elements=[_T.c.studio, _T.c.plan], set_=values, where=_T.c.number <= number
        )
        with self._engine.begin() as connection:
            self._check_owner(connection, studio_id)
            connection.execute(query)

    def create(self, studio: Studio, *, label: str, cause: Cause = "edit", edit_id: str | None = None) -> Revision:
        """A new studio with its first revision. A repeated edit_id gives the first answer."""
        key = f"{edit_id}" if edit_id else secrets.token_hex(8)
        with self._engine.begin() as connection:
            connection.execute(ONE_AT_A_TIME, {"key": f"create {self._owner} {key}"})
            known = self._created_before(connection, key)
            if known:
                return known
            studio_id, now = self._begin(connection, studio.name)
            made = self._append(connection, studio_id, 0, None, studio, cause, key, label, None, now)
        return self._kept(made)

    def take_in(self, whole: Whole, *, edit_id: str) -> Revision:
        """A new studio with all its plans, histories and pictures; its newest revision says that it was taken in, and
        by whom. Raises what reading the file raises; nothing is stored then. A repeated edit_id gives the first
        answer."""
        with self._engine.begin() as connection:
            connection.execute(ONE_AT_A_TIME, {"key": f"create {self._owner} {edit_id}"})
            known = self._created_before(connection, edit_id)
            if known:
                return known
            studio_id, now = self._begin(connection, "")
            taken = [self._taken_in(connection, studio_id, plan, whole, edit_id, now) for plan in whole.plans]
            write_pictures(connection, studio_id, whole.pictures, now)
        return self._kept(taken[0])

    def _taken_in(
        self, connection: Connection, studio_id: str, plan: str, whole: Whole, edit_id: str, now: datetime
    ) -> Revision:
        """A plan's revisions, and the one that says that they were taken in; undone, it leads where the last led."""
        first = edit_id if plan == MAIN_PLAN else f"{edit_id[:56]}-{plan}"
        last = write_plan(connection, studio_id, plan, whole.plans[plan], self._by, first)
        label = f"Taken in from a file, with {last.number} revision{'s' if last.number > 1 else ''}"
        mark, key = f"{first[:58]}-in", key_of(studio_id, plan)
        return self._append(connection, key, last.number, last.parent, last.studio, "import", mark, label, None, now)

    def _begin(self, connection: Connection, name: str) -> tuple[str, datetime]:
        """A studio's handle, and when it was made."""
        studio_id, now = secrets.token_hex(6), utc_now()
        values = {"id": studio_id, "owner": self._owner, "name": name, "created": now, "touched": now}
        connection.execute(insert(_S).values(**values, archived=False))
        return studio_id, now

    def _created_before(self, connection: Connection, edit_id: str) -> Revision | None:
        query = (
            select(_R.c.studio)
            .join(_S, _S.c.id == _R.c.studio)
            .where(_S.c.owner == self._owner, _R.c.edit_id == edit_id, _R.c.number == 1)
        )
        studio_id = connection.execute(query).scalar()
        return self._load(connection, studio_id, 1, repeated=True) if studio_id else None

    def plans(self, studio_id: str) -> list[str]:
        """Keys of all plans of a studio, the first plan first."""
        bare, _ = split(studio_id)
        query = select(_R.c.plan).where(_R.c.studio == bare).distinct().order_by(_R.c.plan)
        with self._reader.connect() as connection:
            self._check_owner(connection, bare)
            return [key_of(bare, plan) for (plan,) in connection.execute(query)]

    def branch(self, studio_id: str, edit_id: str) -> Revision:
        """A further plan that begins as the newest state of this one. Raises EditRefused when all letters are taken."""
        bare, _ = split(studio_id)
        with self._engine.begin() as connection:
            self._lock(connection, studio_id)
            query = select(_R.c.plan).where(_R.c.studio == bare, _R.c.edit_id == edit_id, _R.c.number == 1)
            known = connection.execute(query).scalar()
            if known is not None:
                return self._load(connection, key_of(bare, known), 1, repeated=True)
            taken = {plan for (plan,) in connection.execute(select(_R.c.plan).where(_R.c.studio == bare).distinct())}
            free = next((letter for letter in PLANS if letter not in taken), None)
            if free is None:
                raise EditRefused(f"A studio has at most {len(PLANS)} plans.")
            now = self._newest(connection, studio_id)
            here = split(studio_id)[1].upper()
            label = f"Plan {free.upper()} begins as plan {here}, revision {now.number}"
            made = self._append(
                connection, key_of(bare, free), 0, None, now.studio, "edit", edit_id, label, None, utc_now()
            )
        return self._kept(made)

    def set_archived(self, studio_id: str, archived: bool) -> None:
        with self._engine.begin() as connection:
            self._lock(connection, studio_id)
            connection.execute(
                update(_S).where(_S.c.id == split(studio_id)[0]).values(archived=archived, touched=utc_now())
            )

    def delete(self, studio_id: str, name: str) -> None:
        """Take an archived studio away for good, with its plans, history and answers. Raises EditRefused unless it is
        archived and `name` is its name, letter for letter."""
        bare, _ = split(studio_id)
        with self._engine.begin() as connection:
            self._lock(connection, studio_id)
            called, archived = connection.execute(select(_S.c.name, _S.c.archived).where(_S.c.id == bare)).one()
            if not archived:
                raise EditRefused("Archive it first; what is archived can be deleted.", "name")
            if name.strip() != called.strip():
                raise EditRefused(f"Type its name as it is written, “{called}”; nothing was deleted.", "name")
            connection.execute(delete(_J).where(or_(_J.c.studio == bare, _J.c.studio.startswith(f"{bare}~"))))
            for table in (_T, _F, _R, _H, _N):
                connection.execute(delete(table).where(table.c.studio == bare))
            connection.execute(delete(_S).where(_S.c.id == bare))
