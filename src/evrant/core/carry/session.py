"""A session's timetable: setting up, each set in the order of least change-over, breaks, striking, and what to prepare.

Times are minutes after midnight; a session may run past it. Set-up, change-over and striking take three times as long
for those who are new to it (common practice).
"""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

import numpy as np

from evrant.core.buying.costs import USUAL_CUT
from evrant.core.judge.rules.power.batteries import AGED, power_of
from evrant.core.light.emission import Missing
from evrant.core.light.hours import hours, open_windows
from evrant.core.search.order import Order, in_order
from evrant.core.space.scene import Scene, scene_of
from evrant.core.stowage.striking import BEGINNER
from evrant.core.studio.gear import Backdrop, Flash, Lamp
from evrant.core.studio.log import Attendee, Session
from evrant.core.studio.room import value
from evrant.core.studio.sets import SetPlan
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say

SHOOT = 30.0
"""A set is photographed for so long where nothing is said [min]; project choice."""
EARLY = 10
"""People come so long before their set [min]; common practice, no source."""
DAY = 1440
Kind = Literal["set up", "shoot", "change over", "break", "strike"]


@dataclass(frozen=True)
class Slot:
    """A stretch of the session [minutes after midnight]."""

    kind: Kind
    words: str
    start: float
    end: float
    set_id: str = ""
    why: str = ""


@dataclass(frozen=True)
class Coming:
    """When someone is there, and whether that is in time."""

    who: Attendee
    at: int
    needed: int
    note: str = ""


@dataclass(frozen=True)
class Need:
    """Something to prepare or that is used up."""

    words: str
    kind: Literal["prepare", "charge", "use"]


@dataclass(frozen=True)
class Timetable:
    """A session in time; `whole` is its order of sets, `light` when the daylight of a set works."""

    session: Session
    order: Order
    slots: tuple[Slot, ...]
    people: tuple[Coming, ...]
    prepare: tuple[Need, ...]
    warnings: tuple[str, ...]

    @property
    def start(self) -> float:
        return self.slots[0].start if self.slots else 0.0

    @property
    def end(self) -> float:
        return self.slots[-1].end if self.slots else 0.0


def of_session(studio: Studio, session: Session) -> Studio:
    """The studio with the session's sets alone."""
    return studio.changed(sets=sets_of(studio, session))


def sets_of(studio: Studio, session: Session) -> tuple[SetPlan, ...]:
    """The session's sets as they are listed: those it names, else all."""
    return tuple(plan for plan in studio.sets if not session.only or plan.id in session.only)


def timetable(studio: Studio, session: Session) -> Timetable:
    """The session in its best order."""
    here = of_session(studio, session)
    order = in_order(here)
    slots = tuple(_slots(session, order))
    scenes = {plan.id: scene_of(here, plan) for plan in order.sets}
    known = {key: scene for key, scene in scenes.items() if scene is not None}
    people = tuple(_people(session, slots))
    warnings = [*_late(session, slots), *_daylight(session, slots, known)]
    warnings += [one.note for one in people if one.note]
    return Timetable(session, order, slots, people, tuple(_needs(here, known, order)), tuple(warnings))


def minutes_of(text: str) -> int:
    """Minutes after midnight of a time of day."""
    hour, minute = text.split(":")
    return 60 * int(hour) + int(minute)


def clock_words(minutes: float) -> str:
    """A time of day, to the minute."""
    whole = round(minutes) % DAY
    return f"{whole // 60:02d}:{whole % 60:02d}"


def _slots(session: Session, order: Order) -> Iterator[Slot]:
    if not order.sets:
        return
    factor = 1.0 if session.practised else BEGINNER
    now = float(minutes_of(session.start)) if session.start else 9 * 60.0
    first = order.sets[0]
    yield Slot("set up", f"Set up “{first.name}” and test it", now, now + factor * order.set_up, first.id)
    now += factor * order.set_up
    worked = 0.0
    for number, plan in enumerate(order.sets):
        if number:
            leg = order.legs[number - 1]
            spent = factor * leg.change.minutes
            yield Slot("change over", f"Change over to “{plan.name}”", now, now + spent, plan.id, leg.why)
            now, worked = now + spent, worked + spent
        if worked >= session.break_after and session.break_minutes:
            yield Slot("break", "Break", now, now + session.break_minutes)
            now, worked = now + session.break_minutes, 0.0
        spent = plan.minutes.value if plan.minutes else SHOOT
        yield Slot("shoot", f"Photograph “{plan.name}”", now, now + spent, plan.id)
        now, worked = now + spent, worked + spent
    yield Slot("strike", "Strike, and put everything back in its place", now, now + factor * order.strike)


def _people(session: Session, slots: tuple[Slot, ...]) -> Iterator[Coming]:
    shoots = [slot for slot in slots if slot.kind == "shoot"]
    for who in session.people:
        own = [slot for slot in shoots if not who.only or slot.set_id == who.only]
        if not own:
            yield Coming(who, 0, 0, f"{who.name} is to come for a set this session does not have.")
            continue
        needed = int(own[0].start)
        at = minutes_of(who.comes) if who.comes else max(needed - EARLY, 0)
        late = at - needed
        note = ""
        if late > 0:
            note = f"{who.name} comes {late} min after “{own[0].words.split('“')[1]} begins."
        elif -late > 60 and at > slots[0].start:
            note = f"{who.name} would wait {-late} min for the set; {clock_words(needed - EARLY)} is early enough."
        yield Coming(who, at, needed, note)


def _late(session: Session, slots: tuple[Slot, ...]) -> Iterator[str]:
    if not slots:
        return
    if session.quiet_from is not None:
        quiet = minutes_of(session.quiet_from)
        after = [slot for slot in slots if slot.end > quiet and slot.kind != "break"]
        if after:
            over = round(slots[-1].end - quiet)
            yield (
                f"It goes on until {clock_words(slots[-1].end)}, and neighbours want quiet from {session.quiet_from}: "
                f"{_lower(after[0].words)} falls into it. Begin {over} min sooner, or leave a set out."
            )
    if slots[-1].end > DAY:
        yield "It runs past midnight."
    if slots[-1].end - slots[0].start > 8 * 60:
        yield f"It takes {(slots[-1].end - slots[0].start) / 60:.0f} hours: make two days of it."


def _lower(words: str) -> str:
    return words[:1].lower() + words[1:]


def _daylight(session: Session, slots: tuple[Slot, ...], scenes: dict[str, Scene]) -> Iterator[str]:
    """Sets that live by a window, photographed when it does not carry them."""
    month = int(session.day[5:7]) - 1 if session.day else None
    for slot in slots:
        scene = scenes.get(slot.set_id)
        if slot.kind != "shoot" or scene is None or scene.shot.around == "dark" or "daylight" not in scene.shot.around:
            continue
        if not open_windows(scene):
            continue
        name = scene.plan.name
        if month is None:
            yield f"“{name}” lives by daylight: give the session its day, and when it works can be told."
            continue
        found = hours(scene)
        if isinstance(found, Missing):
            yield f"Whether daylight carries “{name}” then cannot be told: {found.text}"
            continue
        good = [hour for hour in range(24) if found.works("overcast")[month][hour]]
        inside = all(int(t // 60) % 24 in good for t in np.arange(slot.start, slot.end, 30.0))
        if not good:
            yield f"“{name}”: under cloud no hour of that month is bright and steady enough for it."
        elif not inside:
            yield (
                f"“{name}” is planned for {clock_words(slot.start)} to {clock_words(slot.end)}; under cloud its window "
                f"carries it from {good[0]}:00 to {good[-1] + 1}:00, standard time."
            )


def _needs(studio: Studio, scenes: dict[str, Scene], order: Order) -> Iterator[Need]:
    yield from _charges(scenes)
    shots = sum(plan.exposures or 0 for plan in order.sets)
    much = f" for {shots} pictures" if shots else ""
    yield Need(f"Camera battery charged and a second one; cards empty{much}.", "prepare")
    used = {}
    for scene in scenes.values():
        item = scene.backdrop
        if item is not None:
            used[item.id] = item
    say = Say.of(studio.brief)
    for item in used.values():
        yield from _ground(item, say)
    if any(subject.glasses for scene in scenes.values() for subject in scene.shot.subjects):
        yield Need("Glasses clean, and an empty frame if one can be had.", "prepare")
    if any(subject.shine != "matt" for scene in scenes.values() for subject in scene.shot.subjects):
        yield Need("Shining things clean and dusted; cotton gloves.", "prepare")
    if any(scene.mark is not None for scene in scenes.values()):
        yield Need("Tape for marks and leads; a tape measure; a grey card.", "prepare")


def _ground(item: Backdrop, say: Say) -> Iterator[Need]:
    if item.material == "fabric":
        yield Need(f"{item.name}: ironed or steamed, hung the evening before if it can be.", "prepare")
    if item.material == "paper":
        cut = value(item.cut) or USUAL_CUT
        yield Need(f"{item.name}: the dirty end cut off, about {say.length(cut)}.", "use")
    if item.material in ("vinyl", "panel", "board"):
        yield Need(f"{item.name}: wiped and dry.", "prepare")


def _charges(scenes: dict[str, Scene]) -> Iterator[Need]:
    """Charges the battery lights use over all sets."""
    spent: dict[str, float] = {}
    names: dict[str, str] = {}
    unknown: set[str] = set()
    for scene in scenes.values():
        for light in scene.lights:
            head = light.head
            if head is None or head.supply != "battery":
                continue
            names[head.id] = head.name
            share, _ = power_of(scene, light)
            part = _charge(scene, head, share)
            if part is None:
                unknown.add(head.id)
            else:
                spent[head.id] = spent.get(head.id, 0.0) + part * light.place.heads
    for key, name in names.items():
        if key in unknown:
            yield Need(f"{name}: charged, with a spare; how many pictures or minutes it is for is not said.", "charge")
        else:
            whole = spent[key]
            spare = "" if whole <= 1 else f"; take {int(np.ceil(whole)) - 1} spare"
            yield Need(f"{name}: charged; the session takes {whole:.1f} charges{spare}.", "charge")


def _charge(scene: Scene, head: Flash | Lamp, share: float) -> float | None:
    """Share of a charge a set takes."""
    if isinstance(head, Flash):
        asked = scene.plan.exposures
        return None if asked is None or head.flashes is None else asked * share / (AGED * head.flashes)
    minutes = scene.plan.minutes
    if minutes is None or head.watt_hours is None or head.power is None:
        return None
    return head.power.value * share * minutes.value / 60 / (AGED * head.watt_hours.value)
