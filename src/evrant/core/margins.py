"""The margin contract: need, have, what is spare, how sure, why, and what would help."""

from collections.abc import Iterable
from dataclasses import dataclass, field
from enum import StrEnum
from hashlib import sha256
from typing import Any, Literal

from evrant.core.estimate import Estimate, Share


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
}
"""Least step that counts in ranking; of ratings 5 %, of the budget 1 % (see `Margin.severity`)."""
STUDIO_WIDE = frozenset({"room", "stow", "budget"})
"""First words of codes that judge the studio rather than one set."""
Kind = Literal["published", "computed", "common practice", "from memory", "project choice", "declared"]


@dataclass(frozen=True, slots=True)
class Basis:
    """Why a margin holds: the formula and where it comes from."""

    formula: str
    source: str
    kind: Kind


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

    code: str
    about: tuple[str, ...]
    title: str
    need: float | None
    have: float | None
    margin: float | None
    unit: Unit
    uncertainty: float | None
    verdict: Verdict
    sentence: str
    reason: str
    basis: Basis
    at: tuple[float, float, float] | None = None
    safety: bool = False
    settles: str | None = None
    enter: str | None = None
    remedies: tuple[Remedy, ...] = field(default=())

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
        if self.code.split(".")[0] in STUDIO_WIDE or not self.about:
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
        """Sort key: verdict, safety lines first, then severity."""
        return list(Verdict).index(self.verdict), 0 if self.safety else 1, self.severity


def verdict_of(margin: float, uncertainty: float) -> Verdict:
    """Clear m > u, Tight 0 ≤ m ≤ u, Short m < 0."""
    if margin < 0:
        return Verdict.SHORT
    return Verdict.TIGHT if margin <= uncertainty else Verdict.CLEAR


def judge(
    code: str,
    about: Iterable[str],
    title: str,
    spare: Estimate,
    *,
    need: float,
    have: float,
    unit: Unit,
    clear: str,
    short: str,
    reason: str,
    basis: Basis,
    at: tuple[float, float, float] | None = None,
    safety: bool = False,
    placing: float = 0.0,
) -> Margin:
    """A margin from an estimate of what is spare.

    `placing` is the ± with which people put things where the plan says [unit]. `clear` is the
    sentence when it fits, `short` when it does not.
    """
    if placing:
        spare = spare.plus(Share("placing by tape", placing))
    value, uncertainty = spare.value, spare.uncertainty
    verdict = verdict_of(value, uncertainty)
    sentence = short if verdict is Verdict.SHORT else clear
    settles = spare.dominant if abs(value) <= uncertainty else None
    if settles and verdict is Verdict.SHORT:
        reason = f"{reason} Measuring again may settle it ({settles})."
    elif settles:
        reason = f"{reason} Unsure mostly because of the {settles}."
    return Margin(
        code,
        tuple(about),
        title,
        need,
        have,
        value,
        unit,
        uncertainty,
        verdict,
        sentence,
        reason,
        basis,
        at,
        safety,
        settles,
    )


def unknown(
    code: str,
    about: Iterable[str],
    title: str,
    unit: Unit,
    missing: str,
    find: str,
    basis: Basis,
    at: tuple[float, float, float] | None = None,
    safety: bool = False,
    subject: str | None = None,
) -> Margin:
    """A line whose figure is missing: what, and how to find it.

    The first of `about` is where to enter it; the line keeps the key it has once it is known, that
    of `subject` or else of the part of the set it is about.
    """
    paths = tuple(about)
    first = subject or next((path for path in paths if path.startswith("sets/")), paths[0])
    ordered = (first, *(path for path in paths if path != first))
    return Margin(
        code,
        ordered,
        title,
        None,
        None,
        None,
        unit,
        None,
        Verdict.UNKNOWN,
        missing,
        find,
        basis,
        at,
        safety,
        None,
        paths[0],
    )
