"""What the test frames and the meter should show, with what is known from readings, and what to do when they do not.

The order is the trade's: a frame without flash, the key alone, every other light alone, then all together.
"""

from dataclasses import dataclass, replace

import numpy as np

from evrant.core.light import photometry as ph
from evrant.core.light.colour import coded
from evrant.core.light.lit import Lit, lit
from evrant.core.log.calibrate import Calibration
from evrant.core.log.taken import GREY, exposure_of
from evrant.core.space.scene import Scene
from evrant.core.studio.log import Reading
from evrant.core.studio.words import f_words

BLACK = 6.0
"""Value of 0 to 255 up to which a frame without flash counts as black."""


@dataclass(frozen=True)
class Trial:
    """One frame or reading: what is on, what it should show, and what to do when it is off. `meter` is an aperture or
    lux in words, `card` the value of a grey card in the frame, `pm` the ± of both in stops; `missing` says why there
    is no figure."""

    key: str
    title: str
    reading: Reading
    meter: str = ""
    card: float | None = None
    low: float | None = None
    high: float | None = None
    pm: float | None = None
    behind: bool = False
    """Whether the value is the background's in the frame, which is all a background light is told by."""
    judge: str = ""
    off: tuple[str, ...] = ()
    missing: str = ""


def trials_of(scene: Scene, known: Calibration) -> list[Trial]:
    """The tests of a set in their order; none where nothing shines."""
    state = lit(scene)
    if not isinstance(state, Lit) or not state.beams:
        return []
    own = [beam for beam in state.beams if beam.light is not None]
    flashes = [beam for beam in own if beam.kind == "flash"]
    wanted = Reading(id="test", set=scene.plan.id)
    found = []
    if flashes:
        rest = "the lamps that stay on" if len(own) > len(flashes) else "the room alone"
        found.append(_dark(scene, known, wanted.changed(id="test-dark", without_flash=True), rest))
    order = sorted(own, key=lambda beam: beam.role != "key")
    for number, beam in enumerate(order):
        assert beam.light is not None
        one = wanted.changed(id=f"test-{beam.light.place.id}", light=beam.light.place.id)
        light_it = _behind if beam.role == "background light" else _alone
        made = light_it(scene, known, one, beam.name, flash=beam.kind == "flash")
        found.append(replace(made, off=(f"as with the {order[0].name}.",)) if number else made)
    if len(own) > 1:
        found.append(_all(scene, known, wanted.changed(id="test-all")))
    if not own:
        found.append(_all(scene, known, wanted.changed(id="test-all", without_flash=True)))
    return found


def _figures(scene: Scene, known: Calibration, wanted: Reading, *, flash: bool) -> Trial:
    kind = "meter: aperture"
    told = known.expects(wanted.changed(kind=kind))
    if isinstance(told, str):
        return Trial(wanted.id, "", wanted, missing=told)
    stops, pm, _ = told
    iso = scene.shot.iso
    meter = ""
    if iso is not None:
        meter = f"{f_words(ph.f_number_for(2**stops, iso))} at ISO {iso}"
    if not flash:
        lux = known.expects(wanted.changed(kind="meter: lux"))
        meter = f"{2 ** lux[0]:.0f} lx" if not isinstance(lux, str) else meter
    card = known.expects(wanted.changed(kind="grey card in a frame"))
    exposed = exposure_of(scene, wanted)
    if isinstance(card, str) or exposed is None:
        return Trial(wanted.id, "", wanted, meter, pm=pm)
    white = exposed * ph.FLAT / ph.DOME
    value, low, high = (_value(GREY * 2 ** (card[0] + step) / white) for step in (0.0, -card[1], card[1]))
    return Trial(wanted.id, "", wanted, meter, value, low, high, pm)


def _value(light: float) -> float:
    return float(coded(np.array(min(max(light, 0.0), 1.0)))) * 255


def _dark(scene: Scene, known: Calibration, wanted: Reading, rest: str) -> Trial:
    found = _figures(scene, known, wanted, flash=False)
    if found.missing == "Nothing shines then.":
        card, judge = 0.0, "Black: with the room dark nothing else lights the picture."
    elif found.missing:
        return _titled(found, "A frame without flash", "It should be black, or as good as.", _too_bright())
    else:
        card = found.card or 0.0
        judge = (
            "Black, or as good as: the room does not show."
            if card <= BLACK
            else f"Not black: {rest} gives a grey card {card:.0f} of 255. That is counted in."
        )
    made = _titled(found, "A frame without flash", judge, _too_bright())
    return replace(made, card=card, missing="", meter="")


def _too_bright() -> tuple[str, ...]:
    return (
        "brighter than that: draw the curtain, switch the room's lamps off, or take a shorter time, up to the sync.",
    )


def _titled(found: Trial, title: str, judge: str, off: tuple[str, ...]) -> Trial:
    return replace(found, title=title, judge=judge, off=off)


def _alone(scene: Scene, known: Calibration, wanted: Reading, name: str, *, flash: bool) -> Trial:
    found = _figures(scene, known, wanted, flash=flash)
    what = "fires" if flash else "shines"
    judge = f"Only the {name} {what}: all others are off, not only turned away."
    off = (
        f"darker: is it at its power, does its {'receiver' if flash else 'plug'} sit, is a cover or cap still on it?",
        "Brighter: is another light on, or ISO or power a step off?",
        "Half a stop either way is what claims are worth: set the power by the reading, and note it.",
    )
    return _titled(found, f"The {name} alone", judge, off)


def _behind(scene: Scene, known: Calibration, wanted: Reading, name: str, *, flash: bool) -> Trial:
    """A background light, told by the background in the frame."""
    reading = wanted.changed(kind="background in a frame")
    told, exposed = known.expects(reading), exposure_of(scene, wanted)
    judge = f"Only the {name} {'fires' if flash else 'shines'}: look at the background, not at the mark."
    off = ("uneven from side to side: turn it, or move it away from the background.",)
    if isinstance(told, str) or exposed is None:
        why = told if isinstance(told, str) else "The shot has no aperture or ISO."
        return Trial(wanted.id, f"The {name} alone", reading, judge=judge, off=off, missing=why)
    white = exposed * ph.FLAT / ph.DOME
    value, low, high = (_value(2 ** (told[0] + step) / white) for step in (0.0, -told[1], told[1]))
    title = f"The {name} alone"
    return Trial(wanted.id, title, reading, "", value, low, high, told[1], behind=True, judge=judge, off=off)


def _all(scene: Scene, known: Calibration, wanted: Reading) -> Trial:
    found = _figures(scene, known, wanted, flash=not wanted.without_flash)
    wish = scene.shot.aperture
    goal = f" The shot is set to {f_words(wish.value)}." if wish else ""
    judge = f"Everything on, as the picture is taken.{goal}"
    off = (
        "all of it darker or brighter by the same: change ISO or all powers by that much.",
        "Only the ratio is off: change the fill, leave the key.",
    )
    return _titled(found, "All together", judge, off)
