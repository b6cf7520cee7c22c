"""The margin contract: need, have, what is spare, how sure, why, and what would help."""

import math
from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from enum import StrEnum
from hashlib import sha256
from typing import Any, Literal

from evrant.core.base.estimate import Estimate, Share


class Verdict(StrEnum):
    """How a line stands. The order of members is the order in the ledger."""

    SHORT = "Short"
    """It does not fit, reach, carry or pay."""
    UNKNOWN = "Unknown"
    """A needed figure is missing."""
    TIGHT = "Tight"
    """The spare lies inside the uncertainty of the inputs."""
    CLEAR = "Clear"
    """More is spare than the inputs are unsure."""


Unit = Literal[
    "m",
    "stop",
    "A",
    "W",
    "kg",
    "litre",
    "money",
    "°",
    "holes",
    "ΔE",
    "mired",
    "%",
    "N",
    "N·m",
    "parts",
    "leads",
    "flashes",
    "min",
    "K",
    "ppm",
    "dB",
]
STEP: dict[str, float] = {
    "m": 0.01,
    "stop": 0.1,
    "°": 1.0,
    "holes": 1.0,
    "ΔE": 0.5,
    "mired": 5.0,
    "%": 1.0,
    "parts": 1.0,
    "leads": 1.0,
    "K": 0.5,
    "ppm": 50.0,
    "dB": 1.0,
}
"""Least step that counts in ranking; of ratings 5 %, of the budget 1 % (see `Margin.severity`)."""
Kind = Literal["published", "computed", "common practice", "from memory", "project choice", "declared"]


@dataclass(frozen=True, slots=True)
class Basis:
    """Why a margin holds: the formula and where it comes from."""

    formula: str
    source: str
    kind: Kind


Step = Literal["brief", "room", "shots", "set", "light", "support", "power", "stow", "kit"]
STUDIO_STEPS: frozenset[Step] = frozenset({"room", "stow", "kit"})
"""Steps whose lines judge the studio rather than one set."""
Search = Literal["no", "kept", "placed", "either"]
Blames = Literal["everything", "light", "joint and light", "cards"]


@dataclass(frozen=True)
class Line:
    """A line of the ledger as declared, once, by the rule that judges it.

    `asks` is its question in the guide; a title's … stands for the thing. `step` is where it is counted. To
    `search` it does not matter; or it is *kept* wherever in the room a set is put; or it hangs on the *place*; or
    is kept but can be worsened by a place (*either*). `fails` says whether it can fail a recipe of the kit, and
    `blames` which slots. `helped_by` are words of edits that can better it; `mark` what its drawing calls it.
    """

    code: str
    title: str
    unit: Unit
    basis: Basis
    asks: str = ""
    step: Step = "set"
    safety: bool = False
    search: Search = "no"
    fails: bool = False
    blames: Blames = "everything"
    hazards: tuple[str, ...] = ()
    helped_by: tuple[str, ...] = ()
    mark: str = ""
    first: bool = False
    """Where it is Short nothing else matters yet: it stands before all others."""
    goes: bool = False
    """An edit after which there is nothing left to judge settles it."""

    def but(self, **fields: Any) -> "Line":
        """The same line where its basis or unit differs."""
        return replace(self, **fields)


@dataclass(frozen=True, slots=True)
class Change:
    """How another line's verdict changes under a remedy."""

    key: str
    title: str
    before: Verdict | None
    after: Verdict


@dataclass(frozen=True, slots=True)
class Remedy:
    """A concrete edit with what it gives, computed by applying it."""

    label: str
    edit: dict[str, Any]
    margin: float | None
    verdict: Verdict
    changes: tuple[Change, ...] = ()
    worse: bool = False


@dataclass(frozen=True, slots=True)
class Margin:
    """One line of the ledger. Figures are in `unit`; `margin` is what is spare."""

    line: Line
    about: tuple[str, ...]
    title: str
    need: float | None
    have: float | None
    margin: float | None
    uncertainty: float | None
    verdict: Verdict
    sentence: str
    reason: str
    at: tuple[float, float, float] | None = None
    settles: str | None = None
    enter: str | None = None
    remedies: tuple[Remedy, ...] = field(default=())

    @property
    def code(self) -> str:
        return self.line.code

    @property
    def unit(self) -> Unit:
        return self.line.unit

    @property
    def basis(self) -> Basis:
        return self.line.basis

    @property
    def safety(self) -> bool:
        return self.line.safety

    @property
    def key(self) -> str:
        """Stable name of the line: its code and what it is about."""
        return f"{self.code} {self.about[0]}" if self.about else self.code

    @property
    def token(self) -> str:
        """The key as a short identifier: what an acceptance is stored under."""
        return "line-" + sha256(self.key.encode()).hexdigest()[:12]

    @property
    def set_id(self) -> str | None:
        """The set the line judges, or None when it judges the studio."""
        if self.line.step in STUDIO_STEPS or not self.about:
            return None
        parts = self.about[0].split("/")
        return parts[1] if parts[0] == "sets" else None

    @property
    def severity(self) -> float:
        """m / max(u, step): the number the ledger and the search call worst (lower is worse)."""
        if self.margin is None:
            return 0.0
        rating = abs(self.have or self.need or 1.0)
        step = STEP.get(self.unit) or (0.01 if self.unit == "money" else 0.05) * max(rating, 1e-9)
        return self.margin / max(self.uncertainty or 0.0, step)

    def order(self) -> tuple[int, int, float]:
        """Sort key: verdict; what makes all else moot, then safety lines, first; then severity."""
        rank = 0 if self.line.first and self.verdict is Verdict.SHORT else 1 if self.safety else 2
        return list(Verdict).index(self.verdict), rank, self.severity


def verdict_of(margin: float, uncertainty: float) -> Verdict:
    """Clear m > u, Tight 0 ≤ m ≤ u, Short m < 0."""
    if margin < 0:
        return Verdict.SHORT
    return Verdict.TIGHT if margin <= uncertainty else Verdict.CLEAR


NOTHING = 1e-9
"""Share of a figure that is only rounding: 30.0 of 30 cm is enough."""
PLACED = 0.01
"""± with which people put one thing where the plan says, by tape [m]; common practice, no source."""
PLACED_BOTH = PLACED * 2**0.5
"""The same of the way between two things that are put (√2 cm) [m]."""
NO_FIGURE = "With these figures this cannot be worked out."
LOOK_AGAIN = "One of them is far from anything usual: look at the sizes, powers and distances of what it is about."
MOST_UNSURE = 1e9
"""A ± that knows no bound is given as this."""


def judge(
    line: Line,
    about: Iterable[str],
    spare: Estimate,
    *,
    need: float,
    have: float,
    clear: str,
    short: str,
    reason: str,
    title: str | None = None,
    at: tuple[float, float, float] | None = None,
    placing: float = 0.0,
) -> Margin:
    """A margin from an estimate of what is spare.

    `placing` is the ± with which people put things where the plan says [unit]. `clear` is the sentence when it
    fits, `short` when it does not; `title` names the thing where the declared one leaves it open.
    """
    if placing:
        spare = spare.plus(Share("placing by tape", placing))
    value, uncertainty = spare.value, spare.uncertainty
    if abs(value) < NOTHING * max(abs(need), abs(have), 1.0):
        value = 0.0
    if not math.isfinite(value) or math.isnan(uncertainty):
        return unknown(line, about, NO_FIGURE, LOOK_AGAIN, title=title, at=at)
    verdict = verdict_of(value, uncertainty)
    sentence = short if verdict is Verdict.SHORT else clear
    largest = spare.largest if abs(value) <= uncertainty else None
    settles = largest.label if largest is not None else None
    if largest is not None and verdict is Verdict.SHORT and largest.measurable:
        reason = f"{reason} Measuring again may settle it ({settles})."
    elif settles:
        reason = f"{reason} Unsure mostly because of the {settles}."
    named = title or line.title
    figures = (_finite(need), _finite(have), value, min(uncertainty, MOST_UNSURE))
    return Margin(line, tuple(about), named, *figures, verdict, sentence, reason, at, settles)


def _finite(figure: float) -> float | None:
    return figure if math.isfinite(figure) else None


def unknown(
    line: Line,
    about: Iterable[str],
    missing: str,
    find: str,
    *,
    title: str | None = None,
    at: tuple[float, float, float] | None = None,
    subject: str | None = None,
) -> Margin:
    """A line whose figure is missing: what, and how to find it.

    The first of `about` is where to enter it; the line keeps the key it has once it is known, that
    of `subject` or else of the part of the set it is about.
    """
    paths = tuple(about)
    first = subject or next((path for path in paths if path.startswith("sets/")), paths[0])
    ordered = (first, *(path for path in paths if path != first))
    named = title or line.title
    return Margin(line, ordered, named, None, None, None, None, Verdict.UNKNOWN, missing, find, at, None, paths[0])
