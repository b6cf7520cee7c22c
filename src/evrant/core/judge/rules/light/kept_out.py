"""Is the room as dark as the shot has it, by day too? Code light.kept_out."""

import math
from collections.abc import Iterable
from dataclasses import replace

import numpy as np

from evrant.core.base.estimate import Estimate, Share
from evrant.core.base.margins import Basis, Line, Margin, judge
from evrant.core.base.memo import Memo
from evrant.core.base.quantity import Figure
from evrant.core.edits.language import SetFields, Several
from evrant.core.judge.rules.light.sources import BESIDE, ENOUGH
from evrant.core.judge.rules.room.survey import blackout_cloth
from evrant.core.judge.rules.rule import Proposal, SetRule
from evrant.core.light import photometry as ph
from evrant.core.light.colour import LUMINANCE
from evrant.core.light.emission import Missing
from evrant.core.light.hours import open_windows
from evrant.core.light.lit import lit
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import Flash
from evrant.core.studio.room import Window
from evrant.core.studio.studio import Studio
from evrant.core.studio.typical import CLOUDED

OUT = Line(
    "light.kept_out",
    "Daylight kept out",
    "stop",
    Basis(
        "log₂ of the exposure as set over daylight at the subject × shutter; 5 stops under flash and 3 under lamps do "
        "not show; as sure as it is dark outside",
        "ISO 2720; the stops are common practice, no source; 5,000 lx on a window that is not measured, from memory",
        "common practice",
    ),
    asks="Would daylight show where the shot has the room dark?",
    step="light",
    goes=True,
)
NEEDED = {"blackout": "needed"}
_DAY: Memo[float] = Memo(500_000, lambda found: 200)


def margins(scene: Scene) -> Iterable[Margin]:
    """One line where lights of the set are to shine alone and a window is not darkened."""
    shot = scene.shot
    heads = [light.head for light in scene.lights if light.head is not None]
    windows = [window for window in open_windows(scene) if window.blackout == "not needed"]
    if "daylight" in shot.around or not heads or not windows:
        return
    if shot.aperture is None or shot.iso is None or shot.shutter is None or scene.face is None:
        return
    lux = _by_day(scene)
    if not lux > 0:
        return
    wanted = ph.needed_exposure(shot.aperture.value, shot.iso) * 2**shot.dark_filter
    under = math.log2(wanted / (lux * shot.shutter))
    most = ENOUGH if any(isinstance(head, Flash) for head in heads) else BESIDE
    if under >= most:
        return
    name = windows[0].name.lower() if len(windows) == 1 else "windows"
    yield judge(
        OUT,
        (f"{scene.path}/lights", f"shots/{shot.id}", *(f"room/windows/{window.id}" for window in windows)),
        Estimate(0.0, (Share("hour of the day", most - under, measurable=False),)),
        need=most,
        have=under,
        clear=f"No daylight shows after dark, or with the {name} darkened.",
        short="",
        reason=f"The shot has the room dark. By day about {lux:.0f} lx come through the {name}: "
        f"{_stops(under)} the exposure; {most:.0f} under it do not show.",
    )


def _stops(under: float) -> str:
    return f"{under:.1f} stops under" if under >= 0 else f"{-under:.1f} stops over"


def _by_day(scene: Scene) -> float:
    """What the windows would give the subject by day [lx]; nothing where that cannot be computed."""
    plan = scene.plan
    gear = (
        scene.body,
        scene.lens,
        scene.backdrop,
        scene.holder,
        *(scene.gear.get(one.item or "") for one in plan.props),
    )
    parts = (scene.room, scene.shot, plan.mark, plan.camera, plan.background, *plan.props, *plan.aside)
    return _DAY.get(f"{scene.path} {plan.doors}", (*parts, *gear, *scene.parts_beside), lambda: _computed(scene))


def _computed(scene: Scene) -> float:
    windows = tuple(_measured(window) for window in scene.room.windows)
    shot = scene.shot.changed(around="daylight")
    state = lit(replace(scene.unlit, room=scene.room.changed(windows=windows), shot=shot))
    if isinstance(state, Missing):
        return 0.0
    return float(np.sum(state.dome("face", state.whole) @ LUMINANCE))


def _measured(window: Window) -> Window:
    if window.blackout == "needed":
        return window.changed(blackout="in place")
    return window if window.daylight is not None else window.changed(daylight=Figure(CLOUDED, CLOUDED / 2, "typical"))


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Every window darkened with cloth that is bought, or dark already."""
    paths = [path for path in margin.about if path.startswith("room/windows/")]
    windows = [window for window in studio.room.windows if f"room/windows/{window.id}" in paths]
    if not windows:
        return
    cloths = [(window, cloth) for window in windows if (cloth := blackout_cloth(studio, window)) is not None]
    if len(cloths) == len(windows):
        edits = [(cloth, SetFields(target=f"room/windows/{one.id}", fields=NEEDED)) for one, cloth in cloths]
        label = "Darken it with blackout cloth"
        yield Proposal(label, Several(edits=tuple(edit for pair in edits for edit in pair), label=label))
    dark = tuple(SetFields(target=f"room/windows/{one.id}", fields={"blackout": "in place"}) for one in windows)
    label = "It can be made dark already: shutters, heavy curtains"
    yield Proposal(label, Several(edits=dark, label=label))


RULE = SetRule("kept out", margins, (OUT,), propose)
