"""Hashes of what is drawn, worked out once for each object."""

from typing import Any


def hashed_once(one: Any) -> int:
    """The hash of a frozen dataclass over all its fields, which are hashed with it the first time only: what is looked
    up with every page is deep."""
    held = vars(one)
    if "_hash" not in held:
        held["_hash"] = hash(tuple(held.values()))
    found: int = held["_hash"]
    return found
