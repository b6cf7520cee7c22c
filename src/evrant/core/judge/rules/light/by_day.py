"""Does the window carry the shot, and does the sun keep off it? Codes light.hours, light.sunbeam."""

from calendar import month_name
from collections.abc import Iterable

import numpy as np

from evrant.core.base.estimate import Estimate, Share
from evrant.core.base.margins import Basis, Line, Margin, judge
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import Proposal, SetRule
from evrant.core.light.emission import Missing
from evrant.core.light.hours import Hours, hours, site_of, sun_on_subject
from evrant.core.space.scene import Scene
from evrant.core.studio.studio import Studio

HOURS = Line(
    "light.hours",
    "Daylight for a session",
    "min",
    Basis(
        "longest time on end, in the darkest month, in which a clouded sky gives the exposure and changes it by less "
        "than half a stop an hour",
        "ISO 15469 sky 1, the sun by its almanac; half a stop is common practice, no source",
        "computed",
    ),
    asks="Does the window carry a session in every month?",
    step="light",
)
SUNBEAM = Line(
    "light.sunbeam",
    "Sun on the subject",
    "min",
    Basis(
        "hours of the year's twelve days at which the line from the subject to the sun passes through bare glass above "
        "the skyline",
        "The sun by its almanac; plane geometry",
        "computed",
    ),
    asks="Does the sun's own beam keep off the subject?",
    step="light",
)
USUAL_SESSION = 60.0


def margins(scene: Scene) -> Iterable[Margin]:
    """Two lines of a set by daylight whose place on the earth is known."""
    site = site_of(scene.brief)
    if "daylight" not in scene.shot.around or site is None:
        return
    found = hours(scene)
    if isinstance(found, Missing):
        return
    yield _session(scene, found)
    if scene.face is not None:
        yield _sun(scene, found, sun_on_subject(scene, site))


def _session(scene: Scene, found: Hours) -> Margin:
    asked = scene.plan.minutes.value if scene.plan.minutes else USUAL_SESSION
    by_month = [60 * found.longest("overcast", month) for month in range(12)]
    least = min(by_month)
    dark = [month_name[m + 1] for m in range(12) if by_month[m] < asked]
    best = month_name[int(np.argmax(by_month)) + 1]
    words = f"Not in {_listed(dark)}. " if dark else ""
    return judge(
        HOURS,
        (f"{scene.path}/lights", f"shots/{scene.shot.id}"),
        Estimate(least - asked, (Share("rounding to whole hours", 60.0),)),
        need=asked,
        have=least,
        clear="The window carries a session in every month, under a clouded sky too.",
        short="There are months in which the window does not carry a session.",
        reason=f"{words}Under a clouded sky it lasts {least:.0f} minutes on end in the darkest month, "
        f"{max(by_month):.0f} in {best}; {asked:.0f} are wanted.",
    )


def _listed(months: list[str]) -> str:
    return months[0] if len(months) == 1 else f"{', '.join(months[:-1])} and {months[-1]}"


def _sun(scene: Scene, found: Hours, struck: np.ndarray[tuple[int, ...], np.dtype[np.bool_]]) -> Margin:
    times = np.argwhere(struck)
    first = ""
    if len(times):
        month, hour = times[0]
        until = int(times[times[:, 0] == month][-1][1])
        first = f" First in {month_name[month + 1]}, from {hour} to {until + 1} h."
    return judge(
        SUNBEAM,
        (f"{scene.path}/mark", f"shots/{scene.shot.id}"),
        Estimate(-60.0 * len(times) if len(times) else 60.0, (Share("rounding to whole hours", 30.0),)),
        need=60.0 * len(times),
        have=0.0 if len(times) else 60.0,
        clear="The sun's beam never falls on the subject.",
        short="At times the sun's beam falls on the subject: hard, and many stops over the sky's light.",
        reason=f"On the twenty-first of each month under a clear sky: {len(times)} hours in the twelve days.{first}",
    )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """A net curtain against the sun; a higher ISO or a slower shutter against the dark."""
    if scene is None:
        return
    if margin.code == "light.sunbeam":
        for window in scene.room.windows:
            if window.cover is None and window.faces is not None:
                label = f"Draw a net curtain before the {window.name}"
                yield Proposal(label, SetFields(target=f"room/windows/{window.id}", fields={"cover": "net curtain"}))
        return
    target = f"shots/{scene.shot.id}"
    if scene.shot.iso is not None:
        for more in (2, 4):
            yield Proposal(
                f"Set ISO {scene.shot.iso * more}", SetFields(target=target, fields={"iso": scene.shot.iso * more})
            )
    if scene.shot.shutter is not None:
        for longer in (2, 4, 8):
            time = scene.shot.shutter * longer
            words = f"1/{1 / time:.0f} s" if time < 0.6 else f"{time:.1f} s"
            yield Proposal(f"Expose for {words}", SetFields(target=target, fields={"shutter": round(time, 5)}))


RULE = SetRule("by day", margins, (HOURS, SUNBEAM), propose)
