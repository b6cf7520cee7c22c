"""What a rule is to the ledger: what it judges, what it reads, and how it answers when it fails itself."""

import logging
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, replace
from typing import Literal, TypeVar

from evrant.core.base.faults import where
from evrant.core.base.margins import Line, Margin, unknown
from evrant.core.base.memo import Stale
from evrant.core.edits.language import Edit
from evrant.core.space.scene import Scene
from evrant.core.studio.studio import Studio

Reads = Literal["room", "brief", "shot", "exposure", "set", "running", "places", "gear"]
EVERYTHING: frozenset[Reads] = frozenset({"room", "brief", "shot", "exposure", "set", "running", "gear"})
UNLIT: frozenset[Reads] = frozenset({"room", "brief", "shot", "exposure", "places", "gear"})
UNEXPOSED, FRAMED = EVERYTHING - {"exposure"}, UNLIT - {"exposure"}
GEOMETRY = UNEXPOSED - {"running"}
FAULT = "This could not be worked out; it is a fault of the program, not of your plan."
FIND = "Every other line stands. Change what it is about a little, and tell whoever looks after the program."
T = TypeVar("T")
_LOG = logging.getLogger("evrant.rules")


@dataclass(frozen=True)
class Proposal:
    """A candidate edit in words, without figures; only remedies.py evaluates it. One that is `otherwise` is looked at
    only where none before it clears the line without harm."""

    label: str
    edit: Edit
    otherwise: bool = False


Propose = Callable[[Studio, Scene | None, Margin], Iterable[Proposal]]


@dataclass(frozen=True)
class SetRule:
    """Judges one set.

    `lines` are all it yields. `reads` names the parts of the studio it looks at, so that others may change without
    running it again; "places" means all of the set but its lights and people, which it does not get, "exposure" the
    shot's aperture, ISO, shutter and filter, "running" the lights' powers, the minutes and pictures of a session: those
    that do not name them must not look at them, "gear" the items the set uses, `whole_kit`
    all items. `order` is its turn in a search's look at a whole set, the cheap first;
    `place_order` in a look at a set that passed in the open, those that most fail first.
    """

    name: str
    margins: Callable[[Scene], Iterable[Margin]]
    lines: tuple[Line, ...]
    propose: Propose | None = None
    reads: frozenset[Reads] = EVERYTHING
    whole_kit: bool = False
    order: int = 50
    place_order: int = 50

    def of(self, scene: Scene) -> Iterator[Margin]:
        """Its lines of a set; where it raises, one that says so after those it had yielded."""
        return _contained(self.name, self.lines[0], scene.path, self.margins, scene)


@dataclass(frozen=True)
class StudioRule:
    """Judges the studio as a whole. `lines` are all it yields; what it reads is noted while it runs. Where it says that
    it does not look at `places`, it gets every light where no light stands, and is not run again when one is moved."""

    name: str
    margins: Callable[[Studio], Iterable[Margin]]
    lines: tuple[Line, ...]
    propose: Propose | None = None
    places: bool = True

    def of(self, studio: Studio) -> Iterator[Margin]:
        """Its lines of a studio; where it raises, one that says so after those it had yielded."""
        return _contained(self.name, self.lines[0], "", self.margins, studio)


Rule = SetRule | StudioRule


def _contained(
    name: str, line: Line, path: str, margins: Callable[[T], Iterable[Margin]], subject: T
) -> Iterator[Margin]:
    try:
        yield from margins(subject)
    except Stale:
        raise
    except Exception:
        _LOG.exception("The rule “%s” failed on %s %s", name, where(), path)
        about = f"{path}/fault-{name}" if path else f"fault-{name}"
        told = unknown(line, (about,), FAULT, FIND, title=f"A fault in what judges {name}")
        yield replace(told, enter=None)
