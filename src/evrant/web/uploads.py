"""Files that become an edit: one place for all uploads."""

from collections.abc import Callable

from fastapi import Request

from evrant.core.edits.language import Edit
from evrant.core.studio.studio import Studio
from evrant.store.changing import Conflict
from evrant.store.revisions import Revision
from evrant.web.context import repository

TRIES = 3


def take_file(request: Request, studio_id: str, edit_id: str, edit_of: Callable[[Studio], Edit]) -> Revision:
    """Store the edit that `edit_of` makes for the newest studio; made anew when somebody was quicker.

    Raises whatever reading the file or the edit raises; nothing is changed then.
    """
    store = repository(request)
    for attempt in range(TRIES):
        newest = store.newest(studio_id)
        try:
            return store.change(studio_id, newest.number, edit_id, edit_of(newest.studio))
        except Conflict:
            if attempt == TRIES - 1:
                raise
    raise AssertionError("the last try returns or raises")
