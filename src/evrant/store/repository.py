"""The gateway to studios: every query, every revision, scoped by owner."""

import json
import secrets
from collections.abc import Iterator
from contextlib import contextmanager
from copy import copy
from dataclasses import dataclass
from datetime import UTC, datetime
from hashlib import sha256
from typing import Any, Literal, cast

from pydantic import ValidationError
from sqlalchemy import ColumnElement, Engine, Table, create_engine, delete, func, insert, or_, select, text, update
from sqlalchemy.dialects.postgresql import insert as upsert
from sqlalchemy.engine import Connection

from evrant.core.base.grafting import grafted
from evrant.core.base.memo import Memo
from evrant.core.edits import language as edits
from evrant.core.edits.language import EDIT, Edit, EditRefused
from evrant.core.edits.paths import NoSuchThing, find
from evrant.core.place import moves
from evrant.core.studio.past import MAIN_PLAN, MOST_FRAMES, PLANS, Cause, Whole
from evrant.core.studio.studio import SCHEMA, Studio, dangling
from evrant.store import bell, limits
from evrant.store.tables import FrameRow, LongJobRow, RemarkRow, RevisionRow, ShareRow, StandingRow, StudioRow, Written
from evrant.store.wholes import write_pictures, write_plan

MARK = "~"
"""Between a studio's id and the letter of a plan other than the first: `3f2a~b`."""
ONE_AT_A_TIME = text("SELECT pg_advisory_xact_lock(hashtextextended(:key, 0))")
_R, _S = cast(Table, RevisionRow.__table__), cast(Table, StudioRow.__table__)
_F = cast(Table, FrameRow.__table__)
IN_ONE = 50
"""Revisions with their documents read at a time."""
_T, _J = cast(Table, StandingRow.__table__), cast(Table, LongJobRow.__table__)
_H, _N = cast(Table, ShareRow.__table__), cast(Table, RemarkRow.__table__)


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


@dataclass
class Conflict(Exception):
    """The page's revision is too old for this change; both values where one field is concerned."""

    message: str
    newest: int
    path: str | None = None
    theirs: Any = None
    mine: Any = None


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


class Repository:
    """Studios of one owner in one database; `by` is who changes them, the owner where nobody else is named."""

    def __init__(self, engine: Engine, owner: str = "local") -> None:
        self._engine = engine
        self._owner = self._by = owner
        self._parsed: Memo[Studio] = Memo(
            64_000_000, lambda studio: 20_000 + 4_000 * len(studio.gear) + 6_000 * len(studio.sets)
        )

    def acting(self, owner: str, by: str) -> "Repository":
        """Another owner's studios, changed by somebody; documents parsed for one are parsed for all."""
        twin = copy(self)
        twin._owner, twin._by = owner, by
        return twin

    # --- studios -----------------------------------------------------------------------------

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
        with self._engine.connect() as connection:
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
        with self._engine.connect() as connection:
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
        studio_id, now = secrets.token_hex(6), _now()
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

    # --- plans -------------------------------------------------------------------------------

    def plans(self, studio_id: str) -> list[str]:
        """Keys of all plans of a studio, the first plan first."""
        bare, _ = split(studio_id)
        query = select(_R.c.plan).where(_R.c.studio == bare).distinct().order_by(_R.c.plan)
        with self._engine.connect() as connection:
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
                connection, key_of(bare, free), 0, None, now.studio, "edit", edit_id, label, None, _now()
            )
        return self._kept(made)

    def set_archived(self, studio_id: str, archived: bool) -> None:
        with self._engine.begin() as connection:
            self._lock(connection, studio_id)
            connection.execute(
                update(_S).where(_S.c.id == split(studio_id)[0]).values(archived=archived, touched=_now())
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

    # --- test frames -------------------------------------------------------------------------

    def keep_frame(self, studio_id: str, picture: bytes, told: dict[str, Any]) -> str:
        """Keep a test frame; its name is the picture's SHA-256. The oldest go when there are too many."""
        bare, _ = split(studio_id)
        key = sha256(picture).hexdigest()
        values = {"studio": bare, "sha256": key, "told": told, "picture": picture, "at": _now()}
        with self._engine.begin() as connection:
            self._lock(connection, studio_id)
            same = upsert(_F).values(**values)
            connection.execute(same.on_conflict_do_update(index_elements=[_F.c.studio, _F.c.sha256], set_=values))
            newest = select(_F.c.sha256).where(_F.c.studio == bare).order_by(_F.c.at.desc()).limit(MOST_FRAMES)
            connection.execute(delete(_F).where(_F.c.studio == bare, _F.c.sha256.not_in(newest)))
        return key

    def frame(self, studio_id: str, key: str) -> tuple[bytes, dict[str, Any]]:
        """A kept test frame and what was told with it. Raises NotFound."""
        bare, _ = split(studio_id)
        query = select(_F.c.picture, _F.c.told).where(_F.c.studio == bare, _F.c.sha256 == key)
        with self._engine.connect() as connection:
            self._check_owner(connection, studio_id)
            found = connection.execute(query).one_or_none()
        if found is None:
            raise NotFound("That test frame is not kept any more.")
        return bytes(found.picture), dict(found.told)

    def frames(self, studio_id: str, most: int = 12) -> list[tuple[str, dict[str, Any]]]:
        """The newest test frames by name, each with what was told with it."""
        bare, _ = split(studio_id)
        query = select(_F.c.sha256, _F.c.told).where(_F.c.studio == bare).order_by(_F.c.at.desc()).limit(most)
        with self._engine.connect() as connection:
            self._check_owner(connection, studio_id)
            return [(str(row.sha256), dict(row.told)) for row in connection.execute(query)]

    # --- reading -----------------------------------------------------------------------------

    def newest(self, studio_id: str) -> Revision:
        """The newest revision; its document is parsed at most once in this process."""
        with self._engine.connect() as connection:
            return self._newest(connection, studio_id)

    def raw(self, studio_id: str) -> str:
        """The newest document as it is stored, readable or not, as JSON text."""
        query = select(_R.c.document).where(*_of(studio_id)).order_by(_R.c.number.desc()).limit(1)
        with self._engine.connect() as connection:
            self._check_owner(connection, studio_id)
            held = connection.execute(query).scalar()
        if held is None:
            raise NotFound("There is no such studio.")
        return json.dumps(held, indent=1, ensure_ascii=False) + "\n"

    def at(self, studio_id: str, number: int) -> Revision:
        with self._engine.connect() as connection:
            self._check_owner(connection, studio_id)
            return self._load(connection, studio_id, number)

    def history(self, studio_id: str, limit: int = 200) -> list[HistoryLine]:
        query = (
            select(_R.c.number, _R.c.parent, _R.c.cause, _R.c.label, _R.c.by, _R.c.at)
            .where(*_of(studio_id))
            .order_by(_R.c.number.desc())
            .limit(limit)
        )
        with self._engine.connect() as connection:
            self._check_owner(connection, studio_id)
            return [HistoryLine(*row) for row in connection.execute(query)]

    def whole_history(self, studio_id: str) -> Iterator[dict[str, Any]]:
        """Every revision with its document as it is stored, oldest first, a few at a time: there may be thousands."""
        columns = (_R.c.number, _R.c.parent, _R.c.cause, _R.c.label, _R.c.by, _R.c.at, _R.c.schema, _R.c.document)
        query = select(*columns).where(*_of(studio_id)).order_by(_R.c.number).limit(IN_ONE)
        last = 0
        while True:
            with self._engine.connect() as connection:
                self._check_owner(connection, studio_id)
                rows = connection.execute(query.where(_R.c.number > last)).all()
            yield from ({**row._asdict(), "at": row.at.isoformat()} for row in rows)
            if len(rows) < IN_ONE:
                return
            last = rows[-1].number

    def can_undo_redo(self, shown: Revision) -> tuple[bool, bool]:
        """Whether there is something to undo and to redo from the newest revision."""
        if shown.cause not in ("undo", "redo"):
            return shown.parent is not None, False
        with self._engine.connect() as connection:
            undo, redo = (seek(connection, shown) for seek in (self._undo_target, self._redo_target))
            return undo is not None, redo is not None

    # --- changing ----------------------------------------------------------------------------

    def change(self, studio_id: str, base: int, edit_id: str, edit: Edit, *, rebase: bool = True) -> Revision:
        """Apply an edit made on revision `base`. Raises Conflict, EditRefused or NotFound."""
        with self._changing(studio_id, edit_id) as (connection, first):
            if first is not None:
                return first
            current = self._newest(connection, studio_id)
            if base != current.number and not _there_already(current.studio, edit):
                self._check_conflict(connection, current, base, edit, rebase)
            exact = moves.expanded(current.studio, edit)
            after = moves.tried(current.studio, exact)
            label = edits.say(current.studio, edit)
            if after == current.studio:
                return current
            cause: Cause = "import" if edit.verb == "import" else "edit"
            made = self._append(
                connection,
                studio_id,
                current.number,
                current.origin,
                after,
                cause,
                edit_id,
                label,
                EDIT.dump_python(exact, mode="json", exclude={"document"}),
                _now(),
            )
        return self._kept(made)

    def undo(self, studio_id: str, base: int, edit_id: str) -> Revision:
        """Back to the document before the last change not yet undone; only from the newest page."""
        return self._step(studio_id, base, edit_id, "undo")

    def redo(self, studio_id: str, base: int, edit_id: str) -> Revision:
        return self._step(studio_id, base, edit_id, "redo")

    def restore(self, studio_id: str, base: int, edit_id: str, number: int) -> Revision:
        """The document of an older revision as a new change, which can itself be undone."""
        with self._changing(studio_id, edit_id) as (connection, first):
            if first is not None:
                return first
            current = self._newest(connection, studio_id)
            if base != current.number:
                raise Conflict("The studio has changed since this page was loaded.", current.number)
            wanted = self._load(connection, studio_id, number)
            made = self._append(
                connection,
                studio_id,
                current.number,
                current.origin,
                wanted.studio,
                "restore",
                edit_id,
                f"Restore revision {number}: {wanted.label}",
                None,
                _now(),
            )
        return self._kept(made)

    def _step(self, studio_id: str, base: int, edit_id: str, cause: Literal["undo", "redo"]) -> Revision:
        with self._changing(studio_id, edit_id) as (connection, first):
            if first is not None:
                return first
            current = self._newest(connection, studio_id)
            if base != current.number:
                words = f"The studio has changed since this page was loaded; {cause} from the newest page."
                raise Conflict(words, current.number)
            seek = self._undo_target if cause == "undo" else self._redo_target
            target = seek(connection, current)
            if target is None:
                raise EditRefused(f"There is nothing to {cause}.")
            goal = self._load(connection, studio_id, target)
            undone = self._load(connection, studio_id, current.origin)
            label = f"{cause.capitalize()}: {undone.label if cause == 'undo' else goal.label}"
            made = self._append(
                connection, studio_id, current.number, target, goal.studio, cause, edit_id, label, None, _now()
            )
        return self._kept(made)

    @contextmanager
    def _changing(self, studio_id: str, edit_id: str) -> Iterator[tuple[Connection, Revision | None]]:
        """A transaction under the studio's lock, with the first answer if this edit was seen before."""
        with self._engine.begin() as connection:
            self._lock(connection, studio_id)
            bare, plan = split(studio_id)
            query = select(_R.c.plan, _R.c.number).where(_R.c.studio == bare, _R.c.edit_id == edit_id)
            row = connection.execute(query).first()
            if row is not None and row.plan != plan:
                raise EditRefused("This edit_id was used in another plan of this studio.", "edit_id")
            yield connection, self._load(connection, studio_id, row.number, repeated=True) if row else None

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
        number = newest + 1
        connection.execute(
            insert(_R).values(
                studio=split(studio_id)[0],
                plan=split(studio_id)[1],
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
        )
        bare, plan = split(studio_id)
        rung = bell.said(kind="changed", studio=bare, key=studio_id, number=number, by=self._by, label=label[:200])
        connection.execute(bell.RING, rung)
        named = {"name": studio.name} if plan == MAIN_PLAN else {}
        connection.execute(update(_S).where(_S.c.id == bare).values(**named, touched=now))
        return Revision(studio_id, number, studio, label, cause, parent)

    # --- the tree of changes -----------------------------------------------------------------

    def _undo_target(self, connection: Connection, shown: Revision) -> int | None:
        """The change before the one shown."""
        if shown.origin == shown.number:
            return shown.parent
        return self._load(connection, shown.studio_id, shown.origin).parent

    def _redo_target(self, connection: Connection, shown: Revision) -> int | None:
        """The change after the one shown, on the way to the last change made."""
        query = select(func.max(_R.c.number)).where(*_of(shown.studio_id), _R.c.cause.not_in(("undo", "redo")))
        tip: int | None = connection.execute(query).scalar()
        while tip is not None and tip != shown.origin:
            parent = connection.execute(select(_R.c.parent).where(*_of(shown.studio_id), _R.c.number == tip)).scalar()
            if parent == shown.origin:
                return tip
            tip = parent
        return None

    def _check_conflict(self, connection: Connection, current: Revision, base: int, edit: Edit, rebase: bool) -> None:
        """The two-tabs rule: rebased only when nothing since `base` touched what this edit writes or relies on,
        and nothing it leaves behind refers to what is gone."""
        stale = Conflict("The studio has changed since this page was loaded.", current.number)
        if not rebase or not 0 < base < current.number:
            raise stale
        made_on = self._load(connection, current.studio_id, base).studio
        theirs = edits.differing(made_on, current.studio)
        mine = edits.differing(made_on, moves.change(made_on, edit)) | moves.relies_on(made_on, edit)
        clash = edits.clash(mine, theirs)
        if clash is None:
            try:
                after = moves.change(current.studio, edit)
            except (EditRefused, ValidationError) as error:
                raise stale from error
            before = {*dangling(current.studio), *dangling(made_on)}
            clash = edits.clash(edits.differing(current.studio, after), theirs) or next(
                (path for path in dangling(after) if path not in before), None
            )
        if clash is not None:
            value = getattr(edit, "fields", {}).get(clash.split("/")[-1])
            words = "Another window changed the same thing meanwhile."
            raise Conflict(words, current.number, clash, _value_at(current.studio, clash), value)

    # --- small things ------------------------------------------------------------------------

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
            .where(_S.c.owner == self._owner, *_of(studio_id))
            .order_by(_R.c.number.desc())
            .limit(1)
        )
        row = connection.execute(query).first()
        if row is None:
            raise NotFound("There is no such studio.")
        studio = self._documents(connection, studio_id, row.number)
        return Revision(studio_id, row.number, studio, row.label, row.cause, row.parent)

    def _load(self, connection: Connection, studio_id: str, number: int, *, repeated: bool = False) -> Revision:
        query = select(_R.c.label, _R.c.cause, _R.c.parent).where(*_of(studio_id), _R.c.number == number)
        row = connection.execute(query).first()
        if row is None:
            raise NotFound("There is no such revision.")
        studio = self._documents(connection, studio_id, number)
        return Revision(studio_id, number, studio, row.label, row.cause, row.parent, repeated)

    def _documents(self, connection: Connection, studio_id: str, number: int) -> Studio:
        def parse() -> Studio:
            query = select(_R.c.document, _R.c.schema).where(*_of(studio_id), _R.c.number == number)
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


def _of(key: str) -> tuple[ColumnElement[bool], ColumnElement[bool]]:
    """Revisions of one plan."""
    studio, plan = split(key)
    return _R.c.studio == studio, _R.c.plan == plan


def _value_at(studio: Studio, path: str) -> Any:
    try:
        return edits.plain(find(studio, path))
    except NoSuchThing:
        return None


def _now() -> datetime:
    return datetime.now(UTC)


def _there_already(studio: Studio, edit: Edit) -> bool:
    """Whether an edit asks for what the studio says already: sent twice, or by two who want the same."""
    try:
        return edits.apply(studio, moves.expanded(studio, edit)) == studio
    except (EditRefused, ValidationError):
        return False
