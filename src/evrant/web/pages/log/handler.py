"""The log: readings against claims, what they correct, what sessions used, what wears out."""

from dataclasses import dataclass

from evrant.core.carry.sheet import sheet_of
from evrant.core.carry.wear import Used, Worn, total, used_in, worn
from evrant.core.log.calibrate import calibrate
from evrant.core.log.corrections import Correction, corrections
from evrant.core.space.scene import scene_of
from evrant.core.stowage.striking import BEGINNER
from evrant.core.studio.log import Reading, Session
from evrant.core.studio.studio import by_id
from evrant.drawing.log_chart import log_chart
from evrant.web.carrying import today
from evrant.web.context import Page, repository
from evrant.web.pages.carry.handler import reading_row, reads_words
from evrant.web.parts import Card, card
from evrant.web.registry import Context, PageSpec, Row


@dataclass(frozen=True)
class SessionLog(Card):
    """A session's entries, and what it used."""

    session: Session
    entries: list[Card]
    used: list[Used]
    cost: str
    took: list[str]


@dataclass(frozen=True)
class Log(Context):
    """What its template shows."""

    rows: list[Row]
    chart: str
    found: list[Correction]
    open: bool
    wanted: list[Row]
    sessions: list[SessionLog]
    wear: list[Worn]
    frames: list[Row]
    simulated: bool


def log(page: Page) -> Log:
    """Everything the room has told so far."""
    studio = page.studio
    known = calibrate(studio)
    found = corrections(studio, known)
    names = {reading.id: _name(page, reading) for reading in studio.readings}
    rows = [
        {**reading_row(one), "name": names[one.reading.id], "target": f"readings/{one.reading.id}"}
        for one in known.told
    ]
    return Log(
        rows=rows,
        chart=log_chart(list(known.told), names),
        found=found,
        open=any(not one.taken for one in found),
        wanted=[{"name": plan.name, "reading": Reading(id=f"log-{plan.id}"[:48], set=plan.id)} for plan in studio.sets],
        sessions=[_session(page, one) for one in reversed(studio.sessions)],
        wear=worn(studio, today()),
        frames=[{"key": key, **told} for key, told in repository(page.request).frames(page.revision.studio_id)],
        simulated=any(one.by.startswith("simulated") for one in studio.readings),
    )


def _name(page: Page, reading: Reading) -> str:
    plan = by_id(page.studio.sets, reading.set)
    light = by_id(plan.lights, reading.light) if plan is not None else None
    what = "without flash" if reading.without_flash else plan.name_of(light) if plan and light else "all"
    return f"{plan.name if plan is not None else 'a set that is gone'}, {what}: {reads_words(reading)}"


def _session(page: Page, session: Session) -> SessionLog:
    target = f"sessions/{session.id}"
    used = used_in(page.studio, session)
    return SessionLog(
        target,
        session.name,
        [],
        session=session,
        entries=[card(page, f"{target}/entries/{one.id}", one) for one in session.entries],
        used=used,
        cost=page.say.money(float(total(used))) if used else "",
        took=_took(page, session),
    )


def _took(page: Page, session: Session) -> list[str]:
    """Minutes a set really took beside those of its sheet."""
    found = []
    for entry in session.entries:
        plan = by_id(page.studio.sets, entry.set)
        scene = scene_of(page.studio, plan) if plan is not None else None
        if entry.kind == "took" and entry.amount is not None and scene is not None and plan is not None:
            said = sum(step.minutes for step in sheet_of(scene, calibrate(page.studio)).steps)
            said *= 1 if session.practised else BEGINNER
            found.append(f"“{plan.name}” took {entry.amount:.0f} min to set up; its sheet said {said:.0f}.")
    return found


SPEC = PageSpec("log", log, word="Log", order=11)
