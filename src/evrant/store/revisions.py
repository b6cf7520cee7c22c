"""The gateway's floor: revisions of studios, read and written, scoped by owner."""

import json
from collections.abc import Iterator
from copy import copy
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any, Self, cast

from pydantic import ValidationError
from sqlalchemy import ColumnElement, Engine, Table, insert, select, update
from sqlalchemy.engine import Connection

from evrant.core.base.grafting import grafted
from evrant.core.base.memo import Memo
from evrant.core.studio.past import MAIN_PLAN, Cause
from evrant.core.studio.studio import SCHEMA, Studio
from evrant.store import bell
from evrant.store.reading import reader
from evrant.store.tables import RevisionRow, StudioRow, Written

MARK = "~"
"""Between a studio's id and the letter of a plan other than the first: `3f2a~b`."""
REVISION, STUDIO = cast(Table, RevisionRow.__table__), cast(Table, StudioRow.__table__)
_R, _S = REVISION, STUDIO
IN_ONE = 50
"""Revisions with their documents read at a time."""


def split(key: str) -> tuple[str, str]:
    """Studio and plan of a key."""
    studio, _, plan = key.partition(MARK)
    return studio, plan or MAIN_PLAN


def key_of(studio: str, plan: str) -> str:
    """The key of a studio's plan; of its first plan the studio's id alone."""
    return studio if plan == MAIN_PLAN else f"{studio}{MARK}{plan}"


class NotFound(LookupError):
    """No such studio for this owner."""


@dataclass
class Unreadable(Exception):
    """A studio's document does not follow the schema this version reads; its file can still be taken away."""

    message: str
    studio_id: str


@dataclass(frozen=True)
class Revision:
    """A version of a studio with what is known of its making."""

    studio_id: str
    number: int
    studio: Studio
    label: str
    cause: Cause
    parent: int | None = None
    repeated: bool = False

    @property
    def origin(self) -> int:
        """The change whose document this shows: itself, or what an undo or redo went to."""
        return self.parent if self.cause in ("undo", "redo") and self.parent is not None else self.number


@dataclass(frozen=True)
class HistoryLine:
    """One line of a studio's history."""

    number: int
    parent: int | None
    cause: Cause
    label: str
    by: str
    at: datetime


class Revisions:
    """Revisions of the studios of one owner in one database; `by` is who changes them, the owner where nobody else is
    named."""

    def __init__(self, engine: Engine, owner: str = "local") -> None:
        self._engine, self._reader = engine, reader(engine)
        self._owner = self._by = owner
        self._parsed: Memo[Studio] = Memo(
            64_000_000, lambda studio: 20_000 + 4_000 * len(studio.gear) + 6_000 * len(studio.sets)
        )

    def acting(self, owner: str, by: str) -> Self:
        """Another owner's studios, changed by somebody; documents parsed for one are parsed for all."""
        twin = copy(self)
        twin._owner, twin._by = owner, by
        return twin

    def newest(self, studio_id: str) -> Revision:
        """The newest revision; its document is parsed at most once in this process."""
        with self._reader.connect() as connection:
            return self._newest(connection, studio_id)

    def raw(self, studio_id: str) -> str:
        """The newest document as it is stored, readable or not, as JSON text."""
        query = select(_R.c.document).where(*of_plan(studio_id)).order_by(_R.c.number.desc()).limit(1)
        with self._reader.connect() as connection:
            self._check_owner(connection, studio_id)
            held = connection.execute(query).scalar()
        if held is None:
            raise NotFound("There is no such studio.")
        return json.dumps(held, indent=1, ensure_ascii=False) + "\n"

    def at(self, studio_id: str, number: int) -> Revision:
        with self._reader.connect() as connection:
            self._check_owner(connection, studio_id)
            return self._load(connection, studio_id, number)

    def history(self, studio_id: str, limit: int = 200) -> list[HistoryLine]:
        query = (
            select(_R.c.number, _R.c.parent, _R.c.cause, _R.c.label, _R.c.by, _R.c.at)
            .where(*of_plan(studio_id))
            .order_by(_R.c.number.desc())
            .limit(limit)
        )
        with self._reader.connect() as connection:
            self._check_owner(connection, studio_id)
            return [HistoryLine(*row) for row in connection.execute(query)]

    def whole_history(self, studio_id: str) -> Iterator[dict[str, Any]]:
        """Every revision with its document as it is stored, oldest first, a few at a time: there may be thousands."""
        columns = (_R.c.number, _R.c.parent, _R.c.cause, _R.c.label, _R.c.by, _R.c.at, _R.c.schema, _R.c.document)
        query = select(*columns).where(*of_plan(studio_id)).order_by(_R.c.number).limit(IN_ONE)
        last = 0
        while True:
            with self._reader.connect() as connection:
                self._check_owner(connection, studio_id)
                rows = connection.execute(query.where(_R.c.number > last)).all()
            yield from ({**row._asdict(), "at": row.at.isoformat()} for row in rows)
            if len(rows) < IN_ONE:
                return
            last = rows[-1].number

    def _append(
        self,
        connection: Connection,
        studio_id: str,
        newest: int,
        parent: int | None,
        studio: Studio,
        cause: Cause,
        edit_id: str,
        label: str,
        edit: dict[str, Any] | None,
        now: datetime,
    ) -> Revision:
        number, (bare, plan) = newest + 1, split(studio_id)
        made = insert(_R).values(
            studio=bare,
            plan=plan,
            number=number,
            parent=parent,
            cause=cause,
            edit_id=edit_id,
            label=label[:300],
            document=Written(studio.dump_json()),
            edit=edit,
            schema=SCHEMA,
            by=self._by,
            at=now,
        )
        named = {"name": studio.name} if plan == MAIN_PLAN else {}
        touched = update(_S).where(_S.c.id == bare).values(**named, touched=now)
        ring = bell.rung(kind="changed", studio=bare, key=studio_id, number=number, by=self._by, label=label[:200])
        connection.execute(ring.add_cte(made.cte("made"), touched.cte("touched")))
        return Revision(studio_id, number, studio, label, cause, parent)

    def _lock(self, connection: Connection, studio_id: str) -> None:
        query = select(_S.c.id).where(_S.c.id == split(studio_id)[0], _S.c.owner == self._owner).with_for_update()
        if connection.execute(query).scalar() is None:
            raise NotFound("There is no such studio.")

    def _check_owner(self, connection: Connection, studio_id: str) -> None:
        query = select(_S.c.id).where(_S.c.id == split(studio_id)[0], _S.c.owner == self._owner)
        if connection.execute(query).scalar() is None:
            raise NotFound("There is no such studio.")

    def _newest(self, connection: Connection, studio_id: str) -> Revision:
        query = (
            select(_R.c.number, _R.c.label, _R.c.cause, _R.c.parent)
            .join(_S, _S.c.id == _R.c.studio)
            .where(_S.c.owner == self._owner, *of_plan(studio_id))
            .order_by(_R.c.number.desc())
            .limit(1)
        )
        row = connection.execute(query).first()
        if row is None:
            raise NotFound("There is no such studio.")
        studio = self._documents(connection, studio_id, row.number)
        return Revision(studio_id, row.number, studio, row.label, row.cause, row.parent)

    def _load(self, connection: Connection, studio_id: str, number: int, *, repeated: bool = False) -> Revision:
        query = select(_R.c.label, _R.c.cause, _R.c.parent).where(*of_plan(studio_id), _R.c.number == number)
        row = connection.execute(query).first()
        if row is None:
            raise NotFound("There is no such revision.")
        studio = self._documents(connection, studio_id, number)
        return Revision(studio_id, number, studio, row.label, row.cause, row.parent, repeated)

    def _documents(self, connection: Connection, studio_id: str, number: int) -> Studio:
        def parse() -> Studio:
            query = select(_R.c.document, _R.c.schema).where(*of_plan(studio_id), _R.c.number == number)
            held = connection.execute(query).first()
            assert held is not None
            if held.schema != SCHEMA:
                raise Unreadable(f"This studio has schema {held.schema}; this version reads {SCHEMA}.", studio_id)
            try:
                return self._known(studio_id, Studio.model_validate(held.document))
            except ValidationError as error:
                first = error.errors(include_url=False, include_input=False)[0]
                where = ".".join(map(str, first["loc"]))
                raise Unreadable(f"This studio cannot be read: {where}: {first['msg']}", studio_id) from error

        return self._parsed.get_by(f"{studio_id}/{number}", parse)

    def _kept(self, made: Revision) -> Revision:
        """Keep a committed document parsed; never before the commit, which may still fail."""
        self._parsed.put(f"{made.studio_id}/{made.number}", made.studio)
        self._parsed.put(f"{made.studio_id}/last", made.studio)
        return made

    def _known(self, studio_id: str, parsed: Studio) -> Studio:
        """A studio just parsed, with the parts of the revision this process saw last wherever they are equal: what is
        remembered of those parts serves, though another process made the change."""
        name = f"{studio_id}/last"
        last = self._parsed.look(name, (), lambda: parsed)
        studio = parsed if last is None else grafted(parsed, last[0])
        self._parsed.put(name, studio)
        return studio


def of_plan(key: str) -> tuple[ColumnElement[bool], ColumnElement[bool]]:
    """Revisions of one plan."""
    studio, plan = split(key)
    return _R.c.studio == studio, _R.c.plan == plan


def utc_now() -> datetime:
    return datetime.now(UTC)
