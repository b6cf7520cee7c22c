"""Plans whose newest document cannot be read any more: the last that can be read is put on top as a new revision.

Nothing is taken away. A document of a newer schema is left alone: a newer version of the program reads it.
"""

import json
import secrets
from datetime import UTC, datetime

from pydantic import ValidationError
from sqlalchemy import text
from sqlalchemy.engine import Connection

from evrant.core.studio.studio import SCHEMA, Studio

NEWEST = text(
    "SELECT DISTINCT ON (studio, plan) studio, plan, number, document, schema FROM revision "
    "ORDER BY studio, plan, number DESC"
)
EARLIER = text(
    "SELECT number, document FROM revision WHERE studio = :studio AND plan = :plan AND number < :number "
    "ORDER BY number DESC"
)
APPEND = text(
    'INSERT INTO revision (studio, plan, number, parent, cause, edit_id, label, document, edit, schema, "by", at) '
    "VALUES (:studio, :plan, :number, :parent, 'restore', :edit_id, :label, CAST(:document AS jsonb), NULL, :schema, "
    "'local', :at)"
)


def mend(connection: Connection) -> int:
    """Set unreadable plans back to their last readable document. Returns how many."""
    mended = 0
    for studio, plan, number, document, schema in list(connection.execute(NEWEST)):
        if schema > SCHEMA or readable(document):
            continue
        where = {"studio": studio, "plan": plan, "number": number}
        for earlier, held in connection.execute(EARLIER, where):
            if readable(held):
                words = f"Mended: revision {number} could not be read; this is revision {earlier} again"
                values = {
                    **where,
                    "number": number + 1,
                    "parent": earlier,
                    "edit_id": f"mend-{secrets.token_hex(8)}",
                    "label": words,
                    "document": json.dumps(held),
                    "schema": SCHEMA,
                    "at": datetime.now(UTC),
                }
                connection.execute(APPEND, values)
                mended += 1
                break
    return mended


def readable(document: object) -> bool:
    try:
        Studio.model_validate(document)
    except ValidationError:
        return False
    return True
