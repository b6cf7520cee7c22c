"""Taking in all of a studio from a file: its plans with their histories, and its pictures, within one transaction."""

from collections.abc import Iterable, Iterator
from datetime import datetime, timedelta
from hashlib import sha256
from itertools import islice
from typing import Any, cast

from sqlalchemy import Table, insert
from sqlalchemy.dialects.postgresql import insert as upsert
from sqlalchemy.engine import Connection

from evrant.core.studio.past import Past, Picture
from evrant.core.studio.studio import SCHEMA
from evrant.store.tables import FrameRow, RevisionRow, Written

_R = cast(Table, RevisionRow.__table__)
_F = cast(Table, FrameRow.__table__)
AT_ONCE = 40
"""Revisions written at a time."""
Row = dict[str, Any]


def write_plan(connection: Connection, studio: str, plan: str, pasts: Iterable[Past], by: str, key: str) -> Past:
    """A plan's revisions, as they come; the first has the edit_id `key` itself. What came last, and as its parent the
    revision that undoing it leads to."""
    grew: dict[int, int | None] = {}
    last: Past | None = None

    def rows() -> Iterator[Row]:
        nonlocal last
        for last in pasts:
            origin = last.parent if last.cause in ("undo", "redo") else None
            grew[last.number] = grew[origin] if origin is not None else last.parent
            edit_id = key if last.number == 1 else f"{key[:40]}-{plan}-{last.number}"
            yield _row(last, studio=studio, plan=plan, by=by, edit_id=edit_id)

    coming = rows()
    while some := list(islice(coming, AT_ONCE)):
        connection.execute(insert(_R), some)
    assert last is not None, "a plan has a revision"
    return Past(last.number, grew[last.number], last.cause, last.label, last.at, last.studio)


def _row(past: Past, **beside: str) -> Row:
    return {
        **beside,
        "number": past.number,
        "parent": past.parent,
        "cause": past.cause,
        "label": past.label,
        "document": Written(past.studio.dump_json()),
        "edit": None,
        "schema": SCHEMA,
        "at": past.at,
    }


def write_pictures(connection: Connection, studio: str, pictures: Iterable[Picture], now: datetime) -> int:
    """Pictures in the order they come. How many."""
    count = 0
    for count, one in enumerate(pictures, 1):
        values: Row = {"studio": studio, "sha256": sha256(one.picture).hexdigest(), "told": one.told}
        values |= {"picture": one.picture, "at": now + timedelta(microseconds=count)}
        connection.execute(upsert(_F).values(**values).on_conflict_do_nothing())
    return count
