"""Sessions: when, which sets in which order, who comes, what to prepare."""

from dataclasses import dataclass

from fastapi import APIRouter, Request, Response

from evrant.core.carry.session import Timetable, clock_words, timetable
from evrant.core.studio.log import Session
from evrant.files.calendar import write_calendar
from evrant.web.answers import file_answer
from evrant.web.context import Page, repository
from evrant.web.forms import Shown, fields
from evrant.web.naming import slug
from evrant.web.parts import Card, card
from evrant.web.registry import Context, PageSpec, Row

router = APIRouter()


@dataclass(frozen=True)
class SessionCard(Card):
    """A session with its timetable, its sets to choose from and its people."""

    session: Session
    table: Timetable
    sets: list[Row]
    slots: list[Row]
    people: list[Card]
    done: int


@dataclass(frozen=True)
class Sessions(Context):
    """What its template shows."""

    cards: list[SessionCard]
    has_sets: bool


def sessions(page: Page) -> Sessions:
    """Newest first."""
    return Sessions([_card(page, one) for one in reversed(page.studio.sessions)], bool(page.studio.sets))


def _card(page: Page, session: Session) -> SessionCard:
    studio, target = page.studio, f"sessions/{session.id}"
    table = timetable(studio, session)
    shown: list[Shown] = fields(studio, target, session)
    return SessionCard(
        target,
        session.name,
        shown,
        session=session,
        table=table,
        sets=[
            {"id": plan.id, "name": plan.name, "in": not session.only or plan.id in session.only}
            for plan in studio.sets
        ],
        slots=[
            {
                "from": clock_words(slot.start),
                "minutes": f"{slot.end - slot.start:.0f}",
                "words": slot.words,
                "why": slot.why,
                "set": slot.set_id if slot.kind == "set up" else "",
                "kind": slot.kind.replace(" ", "-"),
            }
            for slot in table.slots
        ],
        people=[card(page, f"{target}/people/{who.id}", who) for who in session.people],
        done=len(session.done),
    )


@router.get("/studios/{studio_id}/session/sessions.ics")
def calendar(request: Request, studio_id: str) -> Response:
    """Every session with a day, days to buy by and to send back by, as a calendar file."""
    studio = repository(request).newest(studio_id).studio
    tables = [timetable(studio, one) for one in studio.sessions]
    return file_answer(write_calendar(studio, tables), f"{slug(studio.name)}.ics", "text/calendar; charset=utf-8")


SPEC = PageSpec("session", sessions, word="Session", order=10, router=router)
