"""The timetable of each session, or a calendar file of all."""

import argparse
import json
import sys

from evrant.core.studio.studio import Studio


def run(studio: Studio, given: argparse.Namespace) -> int:
    """Exit status 0 with a timetable, 1 when there is no session."""
    from evrant.core.carry.session import clock_words, timetable

    tables = [timetable(studio, one) for one in studio.sessions]
    if given.ics:
        from evrant.files.calendar import write_calendar

        sys.stdout.buffer.write(write_calendar(studio, tables))
        return 0 if tables else 1
    if given.json:
        told = [
            {
                "id": table.session.id,
                "name": table.session.name,
                "day": table.session.day,
                "sets": [plan.id for plan in table.order.sets],
                "slots": [
                    {"kind": s.kind, "words": s.words, "from": clock_words(s.start), "to": clock_words(s.end)}
                    for s in table.slots
                ],
                "people": [{"name": one.who.name, "comes": clock_words(one.at)} for one in table.people],
                "prepare": [one.words for one in table.prepare],
                "warnings": list(table.warnings),
            }
            for table in tables
        ]
        print(json.dumps({"sessions": told}, ensure_ascii=False))
        return 0 if tables else 1
    for table in tables:
        print(f"{table.session.name}{f', {table.session.day}' if table.session.day else ''}")
        for slot in table.slots:
            print(f"  {clock_words(slot.start)}–{clock_words(slot.end)}  {slot.words}")
        for one in table.people:
            print(f"  {clock_words(one.at)}  {one.who.name} comes")
        for need in table.prepare:
            print(f"  - {need.words}")
        for words in table.warnings:
            print(f"  ! {words}")
    if not tables:
        print("There is no session yet.")
    return 0 if tables else 1
