"""A session carried out step by step, one step on the screen: for a telephone in one hand."""

from dataclasses import dataclass, field
from urllib.parse import parse_qs, urlsplit

from evrant.core.carry.run import Run, Turn, run_of
from evrant.core.carry.session import of_session, timetable
from evrant.core.log.calibrate import Told, calibrate
from evrant.core.space.scene import scene_of
from evrant.core.studio.log import Reading, Session
from evrant.core.studio.studio import by_id
from evrant.core.studio.words import f_words
from evrant.drawing.tape import tape_drawing
from evrant.store.revisions import NotFound
from evrant.web.context import Page
from evrant.web.registry import Context, PageSpec, Row


@dataclass(frozen=True)
class Carried(Context):
    """What its template shows: the step that is at hand, where it stands among all, what was read in it."""

    session: Session | None
    run: Run
    turn: Turn | None
    before: str | None = None
    after: str | None = None
    drawing: str = ""
    readings: list[Row] = field(default_factory=list)
    flash: bool = True


def carry(page: Page) -> Carried:
    """The step asked for, else the first that is not done; of the newest session where none is named."""
    studio = page.studio
    newest = studio.sessions[-1] if studio.sessions and page.part is None else None
    session = newest or by_id(studio.sessions, page.part)
    if session is None and page.part is not None:
        raise NotFound("There is no such session.")
    if session is None:
        return Carried(None, Run(()), None)
    known = calibrate(studio)
    run = run_of(studio, timetable(studio, session), known)
    turn = _at_hand(page, run)
    if turn is None:
        return Carried(session, run, None)
    before, after = run.beside(turn)
    plan = by_id(of_session(studio, session).sets, turn.set_id)
    scene = scene_of(studio, plan) if plan is not None else None
    drawing = tape_drawing(scene, (turn.mark,), 400.0, 300.0, turn.mark.key) if scene is not None and turn.mark else ""
    trial = turn.trial
    rows = [] if trial is None else [reading_row(one) for one in known.told if _of(one.reading, turn)]
    light = scene.light_at(f"{scene.path}/lights/{trial.reading.light}") if scene is not None and trial else None
    flash = light is None or light.head is None or light.head.kind == "flash"
    return Carried(session, run, turn, before, after, drawing, rows, flash)


def _at_hand(page: Page, run: Run) -> Turn | None:
    """The step the address names; once a change has made it done, the next open one after it, else the first open."""
    changed = page.request.method != "GET"
    address = urlsplit(page.request.headers.get("referer", "")).query if changed else page.request.url.query
    asked = run.find(next(iter(parse_qs(address).get("at", [])), None))
    if asked is None:
        return run.next
    if not (changed and asked.done):
        return asked
    after = run.turns[run.turns.index(asked) + 1 :]
    return next((turn for turn in after if not turn.done), run.next)


def _of(reading: Reading, turn: Turn) -> bool:
    """Whether a reading was taken in this test."""
    wanted = turn.trial.reading if turn.trial is not None else None
    return (
        wanted is not None
        and reading.set == wanted.set
        and reading.light == wanted.light
        and reading.without_flash == wanted.without_flash
    )


def reads_words(reading: Reading) -> str:
    """What was read, in words."""
    if reading.reads is None:
        return "no figure"
    match reading.kind:
        case "meter: aperture":
            return f_words(reading.reads)
        case "meter: lux":
            return f"{reading.reads:.0f} lx"
        case "meter: EV at ISO 100":
            return f"EV {reading.reads:.1f}"
    return f"{reading.reads:.0f} of 255"


def reading_row(told: Told) -> Row:
    """A reading with how it stands: against the claims, against what is known now, and what to do about it."""
    off, left = told.off, told.off - told.now
    if told.missing:
        says = told.missing
    elif told.bound:
        says = "too dark to tell more" if told.bound < 0 else "burnt out: it tells only the least there was"
    else:
        way = "more" if off > 0 else "less"
        claim = "as claimed" if abs(off) < 0.1 else f"{abs(off):.1f} stop {way} than claimed"
        says = f"{claim}; {abs(left):.1f} from what all readings make likely"
    return {
        "id": told.reading.id,
        "reads": reads_words(told.reading),
        "kind": told.reading.kind,
        "by": told.reading.by,
        "says": says,
        "asked": told.asked,
        "counts": told.counts,
        "because": [cause.words for cause in told.because],
    }


SPEC = PageSpec("carry", carry, under="session", part=True)
