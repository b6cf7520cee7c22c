"""The geometry of a set as the ledger judges it, and the one number a search compares."""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

from evrant.core.margins import Margin, Verdict
from evrant.core.memo import fresh, plain
from evrant.core.rules import aim, backdrop, fit, frame, holding, intrusion, overlap, sharpness, support, way_out
from evrant.core.scene import Scene

Rule = Callable[[Scene], Iterable[Margin]]
GEOMETRY: tuple[Rule, ...] = (
    frame.margins,
    sharpness.margins,
    backdrop.margins,
    support.margins,
    holding.margins,
    aim.margins,
    fit.margins,
    overlap.margins,
    way_out.margins,
    intrusion.margins,
)
"""The rules of a set that are about where things are, the cheap ones first."""
BY_PLACE: tuple[Rule, ...] = (
    overlap.margins,
    frame.margins,
    backdrop.margins,
    support.margins,
    holding.margins,
    fit.margins,
    way_out.margins,
)
"""Those that can come out worse for a set put somewhere in the room than for the same set in the open, but for a
slave's sight past furniture, which the full judgement sees; first the one that most sets fail by."""
SEARCHED = ("frame.", "fit.", "support.", "light.pattern", "light.shadow", "light.scrim", "trigger.")
SETTLED_ELSEWHERE = frozenset(
    {
        "frame.lens",
        "frame.depth",
        "frame.blur",
        "support.load",
        "support.holder_load",
        "support.tipping",
        "support.crossbar",
        "trigger.cable",
        "fit.reach",
    }
)
"""Lines that no place in the room changes: aperture, masses, a person's reach, other lenses, bags."""
LENGTHS = frozenset({"m", "°"})


@dataclass(frozen=True)
class Judged:
    """Geometry lines of a set, worst first, and the least severity among them."""

    lines: tuple[Margin, ...]
    worst: float

    @property
    def fits(self) -> bool:
        return self.worst >= 0

    @property
    def short(self) -> tuple[Margin, ...]:
        return tuple(line for line in self.lines if line.verdict is Verdict.SHORT)


def counts(line: Margin) -> bool:
    """Whether a line is one that arranging can better, and known."""
    return (
        line.margin is not None
        and line.unit in LENGTHS
        and line.code.startswith(SEARCHED)
        and line.code not in SETTLED_ELSEWHERE
    )


def judged(scene: Scene) -> Judged:
    """Every counting line of a set as the ledger has it."""
    return _of([line for rule in GEOMETRY for line in rule(scene)])


def judged_plainly(scene: Scene, floor: float = float("-inf"), leave: frozenset[str] = frozenset()) -> float:
    """At least the worst severity of a set that fits, without the shares of sizes and pictures; below zero when
    it does not fit. Gives up below `floor`; codes in `leave` do not count."""
    with plain():
        return _worst(scene, GEOMETRY, floor, leave)


def judged_by_place(scene: Scene, floor: float) -> float:
    """`judged_plainly` of a set that passed in the open: only by the rules that its place in the room changes."""
    with plain():
        return _worst(scene, BY_PLACE, floor, frozenset())


def _worst(scene: Scene, rules: Sequence[Rule], floor: float, leave: frozenset[str]) -> float:
    worst = float("inf")
    for rule in rules:
        for line in rule(scene):
            if counts(line) and line.code not in leave:
                worst = min(worst, line.severity)
                if worst < floor:
                    return worst
    return worst


def judged_in_the_open(scene: Scene, floor: float = float("-inf")) -> float:
    """`judged_plainly` of a formation in the open room, where no wall is near that something could hang from."""
    rod = scene.holder is not None and scene.holder.system == "tension rod"
    return judged_plainly(scene, floor, frozenset({"support.holder_place", *(("support.holder_span",) if rod else ())}))


INVARIANT: tuple[Rule, ...] = (
    frame.margins,
    sharpness.margins,
    backdrop.margins,
    support.margins,
    aim.margins,
    intrusion.margins,
)
PLACED = frozenset({"frame.distance", "support.holder_span", "support.holder_place"})
"""Lines of those rules that do depend on where in the room a set stands."""


def judged_within(scene: Scene, floor: float) -> float:
    """The worst severity, in full, among lines that stay the same wherever a set is put; gives up below `floor`."""
    with fresh():
        return _worst(scene, INVARIANT, floor, PLACED)


def judged_anew(scene: Scene) -> Judged:
    """As `judged`, remembering nothing: for a search's many sets that are looked at once."""
    with fresh():
        return judged(scene)


def _of(lines: Sequence[Margin]) -> Judged:
    counting = [line for line in lines if counts(line)]
    found = sorted(counting, key=lambda line: (line.order()[0], line.severity))
    return Judged(tuple(found), worst_of(counting))


def worst_of(lines: Iterable[Margin]) -> float:
    return min((line.severity for line in lines), default=float("inf"))
