"""What a rule is to the ledger."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Literal

from evrant.core.edits import Edit
from evrant.core.margins import Margin
from evrant.core.scene import Scene
from evrant.core.studio.studio import Studio

Reads = Literal["room", "brief", "shot", "set", "places", "gear"]


@dataclass(frozen=True)
class Proposal:
    """A candidate edit in words, without figures; only remedies.py evaluates it."""

    label: str
    edit: Edit


@dataclass(frozen=True)
class SetRule:
    """Judges one set. `reads` names the parts of the studio it looks at, so that others may change
    without running it again; "places" means all of the set but its lights and people, "gear" the items
    the set uses, `whole_kit` all items."""

    name: str
    margins: Callable[[Scene], Iterable[Margin]]
    reads: frozenset[Reads]
    whole_kit: bool = False


@dataclass(frozen=True)
class StudioRule:
    """Judges the studio as a whole."""

    name: str
    margins: Callable[[Studio], Iterable[Margin]]
    reads: tuple[str, ...]


Propose = Callable[[Studio, Scene | None, Margin], Iterable[Proposal]]
