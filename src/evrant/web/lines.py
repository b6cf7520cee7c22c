"""Ledger lines as the page shows them."""

from dataclasses import dataclass

from evrant.core.base.margins import Margin, Verdict
from evrant.core.base.memo import Memo
from evrant.core.judge.ledger import Ledger
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say
from evrant.web.hashed import hashed_once
from evrant.web.registry import specs

HALF = {"m": 0.20, "stop": 2.0, "ΔE": 6.0, "mired": 100.0, "%": 20.0, "°": 30.0}
"""What half a tape shows, by unit; of other units a third of the rating."""
WIDE = 60.0


@dataclass(frozen=True)
class Tape:
    """A margin as a small tape, in units of its drawing: zero in the middle."""

    bar_x: float
    bar_width: float
    band_x: float
    band_width: float


@dataclass(frozen=True)
class Line:
    """A line with everything its template needs."""

    margin: Margin
    id: str
    word: str
    figure: str
    band: str
    tape: Tape | None
    accepted: bool
    enter: str | None
    needs: str
    has: str

    @property
    def about(self) -> str:
        return " ".join(self.margin.about)

    def __hash__(self) -> int:
        return hashed_once(self)


_LINES: Memo[Line] = Memo(8_000_000, lambda line: 1500)


def line_of(margin: Margin, ledger: Ledger, say: Say) -> Line:
    """A margin in words and figures; the same object while nothing of it changes."""
    accepted = margin.token in ledger.accepted and margin.verdict is Verdict.TIGHT
    return _LINES.get(f"{accepted} {say.units} {say.currency}", (margin,), lambda: _line(margin, accepted, say))


def _line(margin: Margin, accepted: bool, say: Say) -> Line:
    band = "" if margin.uncertainty is None else say.margin(margin.uncertainty, margin.unit).lstrip("+−")
    enter = enter_page(margin.enter) if margin.enter else None
    show = {"need": "", "have": ""}
    for name in show:
        value = getattr(margin, name)
        if value is not None and margin.unit != "stop":
            show[name] = say.margin(value, margin.unit).lstrip("+")
    return Line(
        margin,
        margin.token,
        margin.verdict.value,
        "" if margin.line.first and margin.unit == "parts" else say.margin(margin.margin, margin.unit),
        band,
        tape(margin),
        accepted,
        enter,
        show["need"],
        show["have"],
    )


def tape(margin: Margin) -> Tape | None:
    """Bar to the left for what is missing, to the right for what is spare; a band for the ±."""
    if margin.margin is None:
        return None
    rating = abs(margin.have or margin.need or 1.0)
    half = HALF.get(margin.unit) or max(rating / 3, 1e-9)
    value = max(min(margin.margin / half, 1.0), -1.0) * WIDE
    spread = min((margin.uncertainty or 0.0) / half, 1.0) * WIDE
    low, high = max(value - spread, -WIDE), min(value + spread, WIDE)
    return Tape(WIDE + min(value, 0.0), abs(value), WIDE + low, high - low)


def enter_page(path: str) -> str:
    """Page and fragment where a missing figure is entered."""
    first, _, rest = path.partition("/")
    if first == "gear":
        return f"kit#card-gear-{rest}"
    if first == "shots":
        return f"shots#card-shots-{rest}"
    if first == "sets":
        parts = rest.split("/")
        return f"sets/{parts[0]}#{'-'.join(parts[1:])}"
    if first == "room":
        return f"room#card-{path.replace('/', '-')}" if rest else "room"
    return first


@dataclass(frozen=True)
class Column:
    """The ledger beside a page: what is open, what is clear, what other sets hold."""

    headline: str
    ready: bool
    counts: str
    open: tuple[Line, ...]
    clear: tuple[Line, ...]
    others: tuple[tuple[str, str, str], ...]


def shown_lines(ledger: Ledger, set_id: str | None, only: str | None = None) -> tuple[Margin, ...]:
    """Lines beside a page: of its set and of the studio, or only those the page named `only` is about."""
    shown = ledger.shown_with(set_id)
    spec = specs().get(only or "")
    words = spec.ledger if spec else None
    return shown if words is None else tuple(m for m in shown if m.code.split(".")[0] in words)


def column(studio: Studio, ledger: Ledger, set_id: str | None, only: str | None = None) -> Column:
    """Lines of one set and of the studio; other sets are named with what is open in them."""
    say = Say.of(studio.brief)
    shown = shown_lines(ledger, set_id, only)
    lines = [line_of(m, ledger, say) for m in shown]
    others = []
    for plan in studio.sets if only is None else ():
        if plan.id != set_id:
            inside = [m.verdict for m in ledger.of_set(plan.id)]
            words = _counted({v: inside.count(v) for v in Verdict if v is not Verdict.CLEAR})
            others.append((plan.id, plan.name, words or "all Clear"))
    return Column(
        ledger.headline,
        ledger.ready,
        _counted({v: ledger.count(v) for v in Verdict})
        if only is None
        else _counted({v: sum(m.verdict is v for m in shown) for v in Verdict}),
        tuple(line for line in lines if line.margin.verdict is not Verdict.CLEAR and not line.accepted),
        tuple(line for line in lines if line.margin.verdict is Verdict.CLEAR or line.accepted),
        tuple(others),
    )


def _counted(numbers: dict[Verdict, int]) -> str:
    return ", ".join(f"{count} {verdict.value}" for verdict, count in numbers.items() if count)
