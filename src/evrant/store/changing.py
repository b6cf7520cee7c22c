"""The one way a studio changes: under its lock, on the newest revision, once for each edit_id."""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any, Literal

from pydantic import ValidationError
from sqlalchemy import func, select
from sqlalchemy.engine import Connection

from evrant.core.edits import language as edits
from evrant.core.edits.language import EDIT, Edit, EditRefused
from evrant.core.edits.paths import NoSuchThing, find
from evrant.core.place import moves
from evrant.core.studio.past import Cause
from evrant.core.studio.studio import Studio, dangling
from evrant.store.revisions import REVISION as _R
from evrant.store.revisions import Revision, Revisions, of_plan, split, utc_now


@dataclass
class Conflict(Exception):
    """The page's revision is too old for this change; both values where one field is concerned."""

    message: str
    newest: int
    path: str | None = None
    theirs: Any = None
    mine: Any = None


class Changing(Revisions):
    """Edits, and the tree of changes that undo and redo walk."""

    def can_undo_redo(self, shown: Revision) -> tuple[bool, bool]:
        """Whether there is something to undo and to redo from the newest revision."""
        if shown.cause not in ("undo", "redo"):
            return shown.parent is not None, False
        with self._reader.connect() as connection:
            undo, redo = (seek(connection, shown) for seek in (self._undo_target, self._redo_target))
            return undo is not None, redo is not None

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
                utc_now(),
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
                utc_now(),
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
                connection, studio_id, current.number, target, goal.studio, cause, edit_id, label, None, utc_now()
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

    def _undo_target(self, connection: Connection, shown: Revision) -> int | None:
        """The change before the one shown."""
        if shown.origin == shown.number:
            return shown.parent
        return self._load(connection, shown.studio_id, shown.origin).parent

    def _redo_target(self, connection: Connection, shown: Revision) -> int | None:
        """The change after the one shown, on the way to the last change made."""
        query = select(func.max(_R.c.number)).where(*of_plan(shown.studio_id), _R.c.cause.not_in(("undo", "redo")))
        tip: int | None = connection.execute(query).scalar()
        while tip is not None and tip != shown.origin:
            parent = connection.execute(
                select(_R.c.parent).where(*of_plan(shown.studio_id), _R.c.number == tip)
            ).scalar()
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


def _value_at(studio: Studio, path: str) -> Any:
    try:
        return edits.plain(find(studio, path))
    except NoSuchThing:
        return None


def _there_already(studio: Studio, edit: Edit) -> bool:
    """Whether an edit asks for what the studio says already: sent twice, or by two who want the same."""
    try:
        return edits.apply(studio, moves.expanded(studio, edit)) == studio
    except (EditRefused, ValidationError):
        return False
