"""Ids of new things: from their names, and free in their list."""

import re
from typing import Any

from evrant.core.edits.language import Add, EditRefused
from evrant.core.edits.paths import NoSuchThing, find
from evrant.core.studio.studio import Studio


def slug(words: str) -> str:
    """An id from a name."""
    return re.sub(r"[^a-z0-9]+", "-", words.lower()).strip("-")[:40] or "thing"


def free_id(things: Any, wish: str) -> str:
    """The wished id, or the first numbered one that is free."""
    taken = {thing.id for thing in things}
    if wish not in taken:
        return wish
    return next(f"{wish[:40]}-{n}" for n in range(2, 10_000) if f"{wish[:40]}-{n}" not in taken)


def added(studio: Studio, list_path: str, wish: str, item: dict[str, Any]) -> Add:
    """A new thing in a list, under the wished id or the next free one."""
    try:
        things = find(studio, list_path)
    except NoSuchThing as error:
        raise EditRefused(str(error)) from error
    return Add(list=list_path, item={**item, "id": free_id(things, slug(wish))})
