"""A session step by step: what is done, what comes next, each step under a name that stays the same."""

from collections.abc import Iterator
from dataclasses import dataclass
from hashlib import sha256

from evrant.core.carry.expected import Trial
from evrant.core.carry.marks import Mark
from evrant.core.carry.session import Timetable, of_session
from evrant.core.carry.sheet import Sheet, sheet_of
from evrant.core.log.calibrate import Calibration
from evrant.core.space.scene import scene_of
from evrant.core.stowage.striking import BEGINNER
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
    done = {one.id for one in table.session.done}
    factor = 1.0 if table.session.practised else BEGINNER
    return Run(tuple(_turns(studio, table, known, done, factor)))


def _turns(studio: Studio, table: Timetable, known: Calibration, done: set[str], factor: float) -> Iterator[Turn]:
    here = of_session(studio, table.session)
    last: tuple[str, str, Sheet] | None = None
    for number, plan in enumerate(table.order.sets):
        scene = scene_of(here, plan)
        if scene is None:
            continue
        sheet = sheet_of(scene, known)
        last = plan.id, plan.name, sheet

        def turn(
            key: str,
            stage: str,
            title: str,
            lines: tuple[str, ...],
            minutes: float,
            two: str = "",
            mark: Mark | None = None,
            trial: Trial | None = None,
            of: tuple[str, str] = (plan.id, plan.name),
        ) -> Turn:
            whole = name_of(of[0], key)
            return Turn(whole, *of, stage, title, lines, minutes, two, mark, trial, whole in done)

        if number == 0:
            for step in sheet.steps:
                if step.trial is None:
                    minutes = step.minutes * factor
                    yield turn(step.key, step.stage, step.title, step.lines, minutes, step.two, step.mark)
        else:
            leg = table.order.legs[number - 1]
            for at, change in enumerate(leg.change.work):
                title = f"{change.thing[:1].upper()}{change.thing[1:]}"
                yield turn(f"change-{at}", "Change over", title, (change.words,), change.minutes * factor)
        for step in sheet.steps:
            if step.trial is not None:
                yield turn(step.key, "Test", step.title, step.lines, step.minutes * factor, trial=step.trial)
        slot = next((one for one in table.slots if one.kind == "shoot" and one.set_id == plan.id), None)
        long = slot.end - slot.start if slot else 0.0
        yield turn("shoot", "Photograph", f"Photograph “{plan.name}”", (), long)
    if last is not None:
        for step in last[2].strike:
            whole = name_of("strike", step.key)
            yield Turn(whole, last[0], last[1], step.stage, step.title, (), step.minutes * factor, done=whole in done)


def name_of(set_id: str, key: str) -> str:
    """A step's name for good, short enough to be kept."""
    whole = f"{set_id}-{key}"
    return whole if len(whole) <= LONGEST else f"{whole[:35]}-{sha256(whole.encode()).hexdigest()[:12]}"
