"""Named actions of a session and its log: begin one, take a step, take a reading, take what readings say."""

import secrets
from collections.abc import Callable, Mapping
from datetime import UTC, datetime
from typing import Any

from pydantic import ValidationError

from evrant.core.edits.language import Add, Edit, EditRefused, Remove, SetFields, Several, Single
from evrant.core.log.calibrate import calibrate
from evrant.core.log.corrections import corrections, take
from evrant.core.log.taken import kept_copy, plan_as_lit
from evrant.core.studio.log import Reading, Session
from evrant.core.studio.studio import Studio, by_id
from evrant.devices.instruments import NoReading
from evrant.devices.simulated import laser_for, meter_for
from evrant.web.forms import read_form
from evrant.web.naming import added, free_id, slug

Form = Mapping[str, str]
HIDDEN_ROOM = 7
"""The seed of the room the simulated instruments measure."""


def today() -> str:
    """The day as ISO 8601 text."""
    return datetime.now(UTC).date().isoformat()


def _session(studio: Studio, form: Form) -> Edit:
    """A new session, of one set where one is named."""
    wanted = form.get("set")
    plan = by_id(studio.sets, wanted)
    if wanted and plan is None:
        raise EditRefused("That set is gone.")
    name = f"Session {len(studio.sessions) + 1}"
    item: dict[str, Any] = {"name": name, "only": [plan.id] if plan else []}
    if form.get("now"):
        item |= {"day": today(), "id": form["now"]}
        return Add(list="sessions", item=item)
    return added(studio, "sessions", name, item)


def _held(studio: Studio, form: Form) -> Session:
    session = by_id(studio.sessions, form.get("session"))
    if session is None:
        raise EditRefused("That session is gone.")
    return session


def _session_set(studio: Studio, form: Form) -> Edit:
    """A set into a session, or out of it."""
    session = _held(studio, form)
    every = [plan.id for plan in studio.sets]
    key = form.get("set", "")
    if key not in every:
        raise EditRefused("That set is gone.")
    now = [one for one in every if one in session.only] if session.only else every
    new = [one for one in every if (one in now) != (one == key)]
    if not new:
        raise EditRefused("A session has at least one set.")
    return SetFields(target=f"sessions/{session.id}", fields={"only": [] if new == every else new})


def _attendee(studio: Studio, form: Form) -> Edit:
    session = _held(studio, form)
    return added(studio, f"sessions/{session.id}/people", "someone", {"name": "Someone"})


def _entry(studio: Studio, form: Form) -> Edit:
    session = _held(studio, form)
    return added(studio, f"sessions/{session.id}/entries", "entry", {"kind": form.get("kind") or "note"})


def _done(studio: Studio, form: Form) -> Edit:
    """A step done, or done no more."""
    session = _held(studio, form)
    key = form.get("step", "")
    if any(one.id == key for one in session.done):
        if form.get("again") != "yes":
            raise EditRefused("That step is done already.")
        return Remove(target=f"sessions/{session.id}/done/{key}")
    at = datetime.now().strftime("%H:%M")
    return Add(list=f"sessions/{session.id}/done", item={"id": key, "at": at})


def _reading(studio: Studio, form: Form) -> Edit:
    """A reading as it was typed."""
    blank = Reading(id="blank", set="blank")
    typed = read_form(blank, form, studio.brief.units)
    if typed.errors:
        name, message = next(iter(typed.errors.items()))
        raise EditRefused(message, name)
    if typed.values.get("reads") is None:
        raise EditRefused("Enter what it reads.", "reads")
    return reading_edit(studio, {key: value for key, value in typed.values.items() if value not in (None, "")})


def reading_edit(studio: Studio, values: dict[str, Any]) -> Edit:
    """A reading kept with the set as it stands now. Raises EditRefused."""
    plan = by_id(studio.sets, values.get("set"))
    if plan is None:
        raise EditRefused("Say in which set it was read.", "set")
    if values.get("light") and by_id(plan.lights, values["light"]) is None:
        raise EditRefused("That set has no such light.", "light")
    shot = by_id(studio.shots, plan.shot)
    key = free_id(studio.readings, slug(f"{plan.id}-{values.get('light') or 'all'}"))
    item: dict[str, Any] = {"day": today(), **values, "id": key}
    if shot is not None:
        item.setdefault("iso", shot.iso)
        item.setdefault("aperture", shot.aperture.value if shot.aperture else None)
        item.setdefault("shutter", shot.shutter)
    edits: list[Single] = []
    copy = kept_copy(studio, plan)
    if copy is None:
        made = free_id(studio.as_set, slug(f"{plan.id}-as-set"))
        whole = plan_as_lit(studio, plan).model_dump(mode="json", exclude_none=True)
        edits.append(Add(list="as_set", item={"id": made, "plan": whole}))
        item["as_set"] = made
    else:
        item["as_set"] = copy.id
    try:
        Reading.model_validate({name: value for name, value in item.items() if value is not None})
    except ValidationError as error:
        first = error.errors()[0]
        raise EditRefused("That cannot be read as it stands.", str(first["loc"][0]) if first["loc"] else "") from error
    edits.append(Add(list="readings", item={name: value for name, value in item.items() if value is not None}))
    return Several(edits=tuple(edits), label=f"Reading in {plan.name}"[:120])


def _simulated(studio: Studio, form: Form) -> Edit:
    """A reading with the simulated light meter."""
    plan = by_id(studio.sets, form.get("set"))
    if plan is None:
        raise EditRefused("Say in which set it is read.", "set")
    kind = form.get("kind") or "meter: aperture"
    wanted = Reading.model_validate(
        {
            "id": slug(f"{plan.id}-{form.get('light') or 'all'}-{len(studio.readings)}"),
            "set": plan.id,
            "light": form.get("light") or None,
            "kind": kind,
            "without_flash": form.get("without_flash") == "yes",
        }
    )
    try:
        value = meter_for(studio, HIDDEN_ROOM).read(wanted)
    except NoReading as none:
        raise EditRefused(str(none)) from none
    values = wanted.model_dump(mode="json", exclude_none=True, exclude={"id"})
    return reading_edit(
        studio, {**values, "reads": value, "by": "simulated light meter", "session": form.get("session") or None}
    )


def _laser(studio: Studio, form: Form) -> Edit:
    """A length as the simulated laser measure shows it."""
    target, field = form.get("target", ""), form.get("field", "")
    try:
        figure = laser_for(studio, HIDDEN_ROOM).length(target, field)
    except NoReading as none:
        raise EditRefused(str(none)) from none
    return SetFields(target=target, fields={field: {"value": figure.value, "pm": figure.pm, "origin": "laser"}})


def _take(studio: Studio, form: Form) -> Edit:
    """What the readings say into the plan: one thing of it, or all."""
    rows = corrections(studio, calibrate(studio))
    path = form.get("path")
    edit = take(row for row in rows if not path or row.unknown.path == path)
    if edit is None:
        raise EditRefused("The plan has it already.")
    return edit


CARRYING: dict[str, Callable[[Studio, Form], Edit]] = {
    "session": _session,
    "session-set": _session_set,
    "attendee": _attendee,
    "entry": _entry,
    "done": _done,
    "reading": _reading,
    "simulated-reading": _simulated,
    "laser": _laser,
    "take-readings": _take,
}


def new_session_id() -> str:
    """An id for a session that is begun on the spot, known to the page before it is made."""
    return f"now-{secrets.token_hex(4)}"
