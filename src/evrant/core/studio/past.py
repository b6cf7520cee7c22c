"""A studio with all it was, as a file tells it: every plan's revisions, and the pictures of its log."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any, Literal

from evrant.core.studio.studio import Studio

MAIN_PLAN = "a"
PLANS = "abcdefgh"
"""Letters of a studio's plans, the first plan first."""
MOST_FRAMES = 80
"""Test frames a studio keeps; the oldest go first."""
Cause = Literal["edit", "undo", "redo", "import", "restore"]
"""Why a revision was made."""


@dataclass(frozen=True)
class Past:
    """One revision of a plan. `parent` is the revision its content grew from."""

    number: int
    parent: int | None
    cause: Cause
    label: str
    at: datetime
    studio: Studio


@dataclass(frozen=True)
class Picture:
    """A test frame (JPEG) and what was told with it."""

    picture: bytes
    told: dict[str, Any]


@dataclass(frozen=True)
class Whole:
    """All of a studio. `plans` by letter, the first plan first; revisions are read as they are asked for, once."""

    plans: Mapping[str, Iterable[Past]]
    pictures: Iterable[Picture] = field(default=())
