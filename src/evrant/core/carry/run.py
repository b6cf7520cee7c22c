"""A session step by step: what is done, what comes next, each step under a name that stays the same."""

from dataclasses import dataclass, replace
from hashlib import sha256

from evrant.core.carry.bring import Bring, bring
from evrant.core.carry.expected import Trial
from evrant.core.carry.marks import Mark
from evrant.core.carry.session import Timetable, of_session
from evrant.core.carry.sheet import Sheet, Step, sheet_of
from evrant.core.log.calibrate import Calibration
from evrant.core.space.scene import scene_of
from evrant.core.stowage.striking import BEGINNER
from evrant.core.studio.sets import SetPlan
from evrant.core.studio.studio import Studio

LONGEST = 48


@dataclass(frozen=True)
class Turn:
    """One step of a session: its name, the set it belongs to, what to do, its minutes, and whether it is done."""

    key: str
    set_id: str
    set_name: str
    stage: str
    title: str
    lines: tuple[str, ...]
    minutes: float
    two: str = ""
    mark: Mark | None = None
    trial: Trial | None = None
    done: bool = False


@dataclass(frozen=True)
class Run:
    """All steps of a session in their order."""

    turns: tuple[Turn, ...]

    @property
    def next(self) -> Turn | None:
        """The first that is not done."""
        return next((turn for turn in self.turns if not turn.done), None)

    @property
    def done(self) -> int:
        return sum(turn.done for turn in self.turns)

    @property
    def minutes_left(self) -> float:
        return sum(turn.minutes for turn in self.turns if not turn.done)

    def find(self, key: str | None) -> Turn | None:
        return next((turn for turn in self.turns if turn.key == key), None)

    def beside(self, turn: Turn) -> tuple[str | None, str | None]:
        """Names of the steps before and after one."""
        at = self.turns.index(turn)
        before = self.turns[at - 1].key if at else None
        return before, self.turns[at + 1].key if at + 1 < len(self.turns) else None


def run_of(studio: Studio, table: Timetable, known: Calibration) -> Run:
    """The steps of a session: the first set from the bare room, the others by change-over, all tested, then struck."""
    here = of_session(studio, table.session)
    made = [(plan, scene) for plan in table.order.sets if (scene := scene_of(here, plan)) is not None]
    if not made:
        return Run(())
    sheets = [sheet_of(scene, known) for _, scene in made]
    things = bring(studio, table.order.sets)
    session = table.session
    factor = 1.0 if session.practised else BEGINNER
    say = _Saying({one.id for one in session.done}, factor, session.helper)
    turns = [say.carried(made[0][0], "bring", "Before", "Bring everything", things)] if things else []
    for number, ((plan, _), sheet) in enumerate(zip(made, sheets, strict=True)):
        turns += _set_up(say, plan, sheet) if number == 0 else _change_over(say, plan, table, number)
        turns += [say.step(plan, step) for step in sheet.steps if step.trial is not None]
        turns.append(_photograph(say, plan, table))
    last = made[-1][0]
    turns += [say.step(last, step, of="strike") for step in sheets[-1].strike]
    if things:
        turns.append(
            say.carried(last, "put-back", "Strike", "Put everything back, the last out first in", things[::-1])
        )
    return Run(tuple(turns))


def _set_up(say: "_Saying", plan: SetPlan, sheet: Sheet) -> list[Turn]:
    return [say.step(plan, step) for step in sheet.steps if step.trial is None]


def _change_over(say: "_Saying", plan: SetPlan, table: Timetable, number: int) -> list[Turn]:
    work = table.order.legs[number - 1].change.work
    return [
        say.turn(
            plan, f"change-{at}", "Change over", f"{one.thing[:1].upper()}{one.thing[1:]}", (one.words,), one.minutes
        )
        for at, one in enumerate(work)
    ]


def _photograph(say: "_Saying", plan: SetPlan, table: Timetable) -> Turn:
    slot = next((one for one in table.slots if one.kind == "shoot" and one.set_id == plan.id), None)
    long = slot.end - slot.start if slot else 0.0
    return say.turn(plan, "shoot", "Photograph", f"Photograph “{plan.name}”", (), long / say.factor)


@dataclass(frozen=True)
class _Saying:
    """Makes turns: knows what is done, how much longer everything takes than for those who know it, and whether
    somebody helps."""

    done: set[str]
    factor: float
    helper: bool

    def turn(
        self, plan: SetPlan, key: str, stage: str, title: str, lines: tuple[str, ...], minutes: float, of: str = ""
    ) -> Turn:
        """A turn of a set; `of` begins its name where that is not the set."""
        whole = name_of(of or plan.id, key)
        return Turn(whole, plan.id, plan.name, stage, title, lines, minutes * self.factor, done=whole in self.done)

    def step(self, plan: SetPlan, step: Step, of: str = "") -> Turn:
        """A step of a sheet."""
        made = self.turn(plan, step.key, step.stage, step.title, step.lines, step.minutes, of)
        two = f"By two: {step.two}" if self.helper else f"Alone: {step.alone}"
        return replace(made, two=two if step.two else "", mark=step.mark, trial=step.trial)

    def carried(self, plan: SetPlan, key: str, stage: str, title: str, things: list[Bring]) -> Turn:
        """Everything from its place, or back to it, in one turn."""
        lines = []
        for one in things:
            many = f"{one.count} × " if one.count > 1 else ""
            first = f" (under {', '.join(one.first)})" if one.first else ""
            lines.append(f"{many}{one.name}{f': {one.place}' if one.place else ''}{first}")
        return self.turn(plan, key, stage, title, tuple(lines), EACH * len(things))


EACH = 0.25
"""Minutes to carry one thing from or to its place; common practice, no source."""


def name_of(set_id: str, key: str) -> str:
    """A step's name for good, short enough to be kept."""
    whole = f"{set_id}-{key}"
    return whole if len(whole) <= LONGEST else f"{whole[:35]}-{sha256(whole.encode()).hexdigest()[:12]}"
