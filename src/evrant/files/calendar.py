"""Sessions, days to buy by and days to send back by as a calendar file (RFC 5545), in local time without a zone."""

from collections.abc import Iterable
from datetime import UTC, date, datetime, time, timedelta

from icalendar import Calendar, Event

from evrant.core.carry.session import Timetable, clock_words
from evrant.core.search.kit.shopping import last_day
from evrant.core.studio.studio import Studio, by_id

PRODUCT = "-//Evrant//Studio sessions//EN"


def write_calendar(studio: Studio, tables: Iterable[Timetable], stamp: datetime | None = None) -> bytes:
    """The calendar. Sessions without a day are left out; `stamp` is when it is written."""
    made = Calendar()
    made.add("prodid", PRODUCT)
    made.add("version", "2.0")
    now = (stamp or datetime.now(UTC)).astimezone(UTC).replace(microsecond=0)
    for table in tables:
        if table.session.day is not None and table.slots:
            made.add_component(_session(studio, table, now))
    for event in (*_returns(studio, now), *_buys(studio, now)):
        made.add_component(event)
    return bytes(made.to_ical())


def _event(uid: str, summary: str, now: datetime) -> Event:
    event = Event()
    event.add("uid", f"{uid}@evrant")
    event.add("dtstamp", now)
    event.add("summary", summary)
    return event


def _session(studio: Studio, table: Timetable, now: datetime) -> Event:
    assert table.session.day is not None
    midnight = datetime.combine(date.fromisoformat(table.session.day), time())
    event = _event(f"session-{table.session.id}", f"{table.session.name}: {studio.name}", now)
    event.add("dtstart", midnight + timedelta(minutes=round(table.start)))
    event.add("dtend", midnight + timedelta(minutes=round(table.end)))
    lines = [f"{clock_words(slot.start)} {slot.words}" for slot in table.slots]
    lines += [f"{clock_words(one.at)} {one.who.name} comes" for one in table.people]
    lines += [one.words for one in table.prepare]
    lines += list(table.warnings)
    event.add("description", "\n".join(lines))
    return event


def _returns(studio: Studio, now: datetime) -> Iterable[Event]:
    for one in studio.purchases:
        last = last_day(studio, one)
        if last is None or one.returned is not None or one.checked:
            continue
        item = by_id(studio.gear, one.item)
        name = item.name if item is not None else one.item
        yield _whole_day(f"return-{one.id}", f"Last day to send back: {name}", last, now)


def _buys(studio: Studio, now: datetime) -> Iterable[Event]:
    """What a phase still lacks is to be bought by its month, where the brief says when buying begins; and all that is
    planned before the first session that needs it."""
    soonest = min((one.day for one in studio.sessions if one.day), default=None)
    if soonest is None:
        return
    names = [item.name for item in studio.gear if item.status == "planned"]
    if names:
        by = date.fromisoformat(soonest) - timedelta(days=BEFORE)
        event = _whole_day("buy-by", "Last day to order what the session needs", by, now)
        event.add("description", "\n".join(names))
        yield event


BEFORE = 7
"""Days a parcel is ordered ahead of the session; common practice, no source."""


def _whole_day(uid: str, summary: str, day: date, now: datetime) -> Event:
    event = _event(uid, summary, now)
    event.add("dtstart", day)
    event.add("dtend", day + timedelta(days=1))
    return event
