"""How stale the air gets over a session. Code power.air."""

import math
from collections.abc import Iterable
from dataclasses import dataclass, replace

from evrant.core.base.estimate import Estimate, Share
from evrant.core.base.margins import Basis, Line, Margin, judge
from evrant.core.base.units import show_number
from evrant.core.edits.language import SetFields, Several
from evrant.core.judge.rules.power.heat import CHANGES, OPENED, aired, airing_words, measures, volume_of
from evrant.core.judge.rules.rule import Proposal, StudioRule
from evrant.core.space.scene import Scene
from evrant.core.studio.room import value
from evrant.core.studio.sets import SetPlan
from evrant.core.studio.studio import Studio, by_id
from evrant.core.studio.words import Say
from evrant.core.wiring.loads import USUAL_MINUTES, session

AIR = Line(
    "power.air",
    "Air in the room",
    "ppm",
    Basis(
        "CO₂ over outdoors = c₀ e^(−n t) + G / (n V) × (1 − e^(−n t)) ≤ 1000 ppm; c₀ what sets before left, G 0.020 "
        "m³/h a person who poses, 0.030 one who works, V the volume, n air changes an hour, unsure by a factor of two",
        "Mass balance of a mixed room; breaths by activity (ISO 8996, EN 16798-1) and 1000 ppm from memory",
        "from memory",
    ),
    asks="How stale does the air get?",
    step="power",
)
RESTING, WORKING = 0.020, 0.030
"""CO₂ of a person who sits or stands, and of one who works [m³/h]; from memory."""
MOST = 1000.0
SHORTER = (30, 20, 10)
"""After so many minutes windows are opened wide; common practice, no source."""


@dataclass(frozen=True)
class Stretch:
    """A set of the session: how long [h], and what those in the room breathe out [m³/h]."""

    plan: SetPlan
    hours: float
    breathed: float
    people: int


def margins(studio: Studio) -> Iterable[Margin]:
    """One line a set: the air at its end, with what the sets before it in the session left."""
    size = volume_of(studio.room)
    if size is None:
        return
    order = [span.plan for span in session(studio)]
    run = [_stretch(studio, plan) for key in order if (plan := by_id(studio.sets, key)) is not None]
    for number, one in enumerate(run):
        for plan in studio.sets:  # another set of the same shot stands in its turn
            if plan.shot == one.plan.shot:
                yield from _line(studio, run[:number], _stretch(studio, plan), size[0])


def _stretch(studio: Studio, plan: SetPlan) -> Stretch:
    shot = by_id(studio.shots, plan.shot)
    posing = sum(subject.kind == "person" for subject in shot.subjects) if shot else 0
    working = len(plan.people) + (plan.camera.operator == "photographer behind it")
    hours = (value(plan.minutes) or USUAL_MINUTES) / 60
    return Stretch(plan, hours, RESTING * posing + WORKING * working, posing + working)


def stale(run: Iterable[Stretch], volume: float, changes: float) -> float:
    """CO₂ over outdoors at the end of stretches one after another, begun with fresh air [ppm]."""
    there = 0.0
    for one in run:
        fresh = math.exp(-changes * one.hours)
        there = there * fresh + 1e6 * one.breathed / (changes * volume) * (1 - fresh)
    return there


def _line(studio: Studio, before: list[Stretch], one: Stretch, volume: float) -> Iterable[Margin]:
    if not one.people:
        return
    run, changes = [*before, one], CHANGES[studio.room.airing or "closed"]
    there = stale(run, volume, changes)
    shares = [Share("air changes, unsure by a factor of two", stale(run, volume, changes / 2) - there)]
    for label, moved in measures(studio.room):
        other = volume_of(moved)
        if other is not None and abs(stale(run, other[0], changes) - there) > 1e-9:
            shares.append(Share(label, abs(stale(run, other[0], changes) - there)))
    who = "one person" if one.people == 1 else f"{one.people} people"
    earlier, say = ", after the sets before it" if before else "", Say.of(studio.brief)
    yield judge(
        AIR,
        (f"sets/{one.plan.id}/air",),
        Estimate(MOST - there, tuple(shares)),
        title="Air in the room",
        need=there,
        have=MOST,
        clear="The air lasts.",
        short="The air gets stale: open a window between sets.",
        reason=f"{who[:1].upper()}{who[1:]} in {say.volume(volume)}, {airing_words(studio.room)}: about "
        f"{show_number(there, 0)} ppm of CO₂ over outdoors after {one.hours * 60:.0f} min{earlier}; how much air "
        "comes in by itself is unsure by a factor of two.",
    )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Windows opened further; shorter stretches with the windows open between; both where neither is enough."""
    yield from aired(studio)
    plan, size = by_id(studio.sets, margin.set_id), volume_of(studio.room)
    if plan is None or size is None:
        return
    now, one = studio.room.airing or "closed", _stretch(studio, plan)
    for airing in (now, *(other for other in OPENED if other != now)):
        if airing != now and stale([one], size[0], CHANGES[airing]) < MOST:
            continue  # open windows are enough
        for minutes in SHORTER:
            if minutes / 60 < one.hours and stale([replace(one, hours=minutes / 60)], size[0], CHANGES[airing]) < MOST:
                yield _shorter(plan, minutes, None if airing == now else airing)
                break


def _shorter(plan: SetPlan, minutes: int, airing: str | None) -> Proposal:
    """A set that is broken off to open all windows, with some of them open meanwhile."""
    stop = SetFields(target=f"sets/{plan.id}", fields={"minutes": minutes})
    if airing is None:
        return Proposal(f"Open the windows wide every {minutes} minutes", stop)
    label = f"{OPENED[airing]}, and open all wide every {minutes} minutes"
    meanwhile = SetFields(target="room", fields={"airing": airing})
    return Proposal(label, Several(edits=(meanwhile, stop), label=label))


RULE = StudioRule("air", margins, (AIR,), propose, places=False)
