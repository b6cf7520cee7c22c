"""What a reading should be by the plan, and how it moves with everything the plan is unsure of.

All in stops. An unknown is one thing's claim: the output of a head, the loss of a modifier or a gel, of a grid or
further layers on it, the reflectance of a surface; named by its path, in stops off its claim, ± as claimed.
"""

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from evrant.core.light.account import slopes
from evrant.core.light.beams import Beam
from evrant.core.light.colour import LUMINANCE, luminance
from evrant.core.light.emission import Missing
from evrant.core.light.lit import Lit, lit, pulsed
from evrant.core.log.taken import CARD, CURVE, scene_for
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import Flash
from evrant.core.studio.log import Reading
from evrant.core.studio.studio import Studio

Join = Callable[[NDArray[Any]], NDArray[Any]]
STEADY_KINDS = ("meter: lux", "meter: EV at ISO 100")
PLACED = 0.0141
"""± of a distance between two things put by tape [m]: √2 cm."""
MODEL = 0.05
"""What a model of plane walls and smooth bodies leaves out [stops]; project choice."""
AROUND = 0.5
"""± of what a window or a lamp of the room gives [stops]; project choice."""
NEGLIGIBLE = 0.002
"""A surface that moves a reading by no more than this within its ± is left out [stops]."""


@dataclass(frozen=True)
class Unknown:
    """A claim that may be off: its ± [stops], and whose it is in words."""

    path: str
    name: str
    prior: float
    kind: str


@dataclass(frozen=True)
class Forecast:
    """log₂ of lx or lx s at the receiver; by how much it moves per stop of each unknown; the ± that is of this
    reading alone; which sources it counts, by path."""

    stops: float
    slopes: dict[str, float]
    own: float
    unknowns: dict[str, Unknown] = field(repr=False)
    shares: dict[str, float]


def forecast(studio: Studio, reading: Reading) -> Forecast | str:
    """What a reading should be; or in words why that cannot be told. `studio` is without the readings' corrections,
    or with those that are tried."""
    state = lit_for(studio, reading)
    return state if isinstance(state, str) else forecast_in(state, reading, doses_for(state, reading))


def lit_for(studio: Studio, reading: Reading) -> Lit | str:
    """The set a reading was taken in, in its light; or why that cannot be told."""
    scene = scene_for(studio, reading)
    if scene is None:
        return "The set it was taken in is gone."
    state = lit(scene)
    if isinstance(state, Missing):
        return state.text
    if state.settled is None or state.first is None:
        return state.around.text if isinstance(state.around, Missing) else "The room is not known well enough."
    return state


def forecast_in(state: Lit, reading: Reading, doses: NDArray[np.float64]) -> Forecast | str:
    """The forecast with sources of these doses (sources,) on."""
    if not doses.any():
        return _dark(state, reading)
    name, join = _receiver(state, reading)
    if name not in state.rows.at:
        return "Nothing of a background is in the picture."
    return _forecast(state, reading, doses, join)


def _dark(state: Lit, reading: Reading) -> str:
    if state.missing:
        return state.missing[0].text
    steady = reading.kind in ("meter: lux", "meter: EV at ISO 100")
    return (
        "A flash has no lux: read it as an aperture."
        if steady and not reading.without_flash
        else "Nothing shines then."
    )


def doses_for(state: Lit, reading: Reading) -> NDArray[np.float64]:
    """(sources,) what turns amounts at full power into what is read: power, and time where a picture or a flash
    meter counts it; 0 for what was off."""
    steady_only = reading.kind in STEADY_KINDS
    time = reading.shutter or state.time
    found = np.zeros(len(state.beams))
    for i, beam in enumerate(state.beams):
        flash = beam.kind == "flash"
        if not _shone(state, beam, reading) or (flash and (steady_only or reading.without_flash)):
            continue
        found[i] = float(state.powers[i])
        if reading.power is not None and beam.path == _light_path(state.scene, reading):
            found[i] = reading.power
        if not steady_only:
            found[i] *= _flashed(state, beam, reading) if flash else time
    return found


def _light_path(scene: Scene, reading: Reading) -> str:
    return f"{scene.path}/lights/{reading.light}" if reading.light else ""


def _shone(state: Lit, beam: Beam, reading: Reading) -> bool:
    """Whether a source was on: with one light alone all other lights of the set were off, the room as the shot has
    it."""
    return reading.light is None or beam.light is None or beam.path == _light_path(state.scene, reading)


def _flashed(state: Lit, beam: Beam, reading: Reading) -> float:
    head = beam.light.head if beam.light else None
    sync = state.scene.body.sync_shutter if state.scene.body else None
    shutter = reading.shutter or state.scene.shot.shutter
    return pulsed(shutter, sync, head) if isinstance(head, Flash) else 1.0


def _receiver(state: Lit, reading: Reading) -> tuple[str, Join]:
    """Name of the rows it reads, and how they are joined: a dome to the lens, a flat card that faces it, the mean of
    the background."""
    behind = reading.kind == "background in a frame"
    name = "ground" if behind else "face"
    rows = state.rows.at.get(name, slice(0, 0))
    if behind:
        return name, lambda part: part[rows].mean(axis=0)
    if reading.kind == "grey card in a frame":
        return name, lambda part: part[rows.start + 1]
    return name, lambda part: (part[rows.start] + part[rows.start + 1] - part[rows.start + 2]) / 2


def _forecast(state: Lit, reading: Reading, doses: NDArray[np.float64], join: Join) -> Forecast | str:
    by_source = np.asarray(join(state.whole) @ LUMINANCE) * doses
    total = float(by_source.sum())
    if not total > 0:
        return "No light reaches it."
    shares = by_source / total
    unknowns: dict[str, Unknown] = {}
    moved: dict[str, float] = {}
    for beam, share in zip(state.beams, shares, strict=True):
        for one in _claims(beam) if share > 0 else ():
            unknowns[one.path] = one
            moved[one.path] = moved.get(one.path, 0.0) + float(share)
    stops = math.log2(total)
    for one, slope in _surfaces(state, doses, join, total):
        unknowns[one.path] = one
        moved[one.path] = moved.get(one.path, 0.0) + slope
    ground = state.rows.ground
    if reading.kind == "background in a frame" and ground is not None and ground.share:
        stops += math.log2(ground.share)
        own = Unknown(_owner(state.scene, ground.path), ground.name, _in_stops(ground.share, ground.unsure), "surface")
        unknowns.setdefault(own.path, own)
        moved[own.path] = moved.get(own.path, 0.0) + 1.0
    if reading.kind in CARD:
        body = state.scene.body
        curve = Unknown(f"gear/{body.id if body else 'camera'}/curve", "camera's tone curve", CURVE, "camera")
        unknowns[curve.path], moved[curve.path] = curve, 1.0
    placing = math.sqrt(sum((_placing(state, beam) * s) ** 2 for beam, s in zip(state.beams, shares, strict=True)))
    counted = {beam.path: float(s) for beam, s in zip(state.beams, shares, strict=True)}
    return Forecast(stops, moved, math.hypot(placing, MODEL), unknowns, counted)


def _claims(beam: Beam) -> list[Unknown]:
    """What a source's light hangs on: its head, what is before it, and how a window or a lamp was described."""
    if beam.emission is None or beam.light is None:
        return [Unknown(f"{beam.path}/light", f"light of the {beam.name}", AROUND, "around")]
    light = beam.light
    names = {f"gear/{item.id}": item.called for item in (light.head, light.modifier) if item is not None}
    sums: dict[str, float] = {}
    for share in beam.emission.shares:
        over = f"gear/{light.modifier.id}/fitted" if light.modifier else f"{beam.path}/fitted"
        path = share.of or over
        sums[path] = sums.get(path, 0.0) + share.amount**2
    found = []
    for path, square in sums.items():
        if square > 0:
            kind = "fitted" if path.endswith("/fitted") else "gear"
            usual = f"what is fitted before the {beam.name}" if kind == "fitted" else f"gel of the {beam.name}"
            word = names.get(path, usual)
            found.append(Unknown(path, word, math.sqrt(square), kind))
    return found


def _surfaces(state: Lit, doses: NDArray[np.float64], join: Join, total: float) -> list[tuple[Unknown, float]]:
    """Each surface whose ± the reading feels, with the stops it moves by per stop of reflectance."""
    settled, around = state.settled, state.around
    if settled is None or state.first is None or isinstance(around, Missing):
        return []
    incident = settled.incident(state.first * doses, [beam.source for beam in state.beams])
    found = []
    for number, moves in slopes(state, [join], incident).items():
        if number not in around.unsure:
            continue
        surface = settled.surfaces[number]
        share = luminance(surface.reflectance)
        prior = _in_stops(share, around.unsure[number])
        slope = share * float(moves[0]) / total
        if prior * abs(slope) > NEGLIGIBLE:
            found.append((Unknown(_owner(state.scene, surface.path), surface.name, prior, "surface"), slope))
    return found


def _owner(scene: Scene, path: str) -> str:
    """Whose reflectance it is: a background's is its own, in whichever set it hangs."""
    if path == f"{scene.path}/background" and scene.backdrop is not None:
        return f"gear/{scene.backdrop.id}"
    return f"{path}/finish" if path.startswith("room/boxes/") else path


def _in_stops(share: float, pm: float) -> float:
    """± of a reflectance in stops, no wider than two."""
    return min(pm / max(share * math.log(2), 1e-6), 2.0)


def _placing(state: Lit, beam: Beam) -> float:
    """What putting a light by tape does to its light at the mark [stops]."""
    face = state.scene.face
    if beam.light is None or beam.light.at is None or face is None:
        return 0.0
    return 2 * PLACED / max(float(np.linalg.norm(beam.light.at - face)), 0.05) / math.log(2)


def carried(found: Forecast, off: Mapping[str, float], applied: frozenset[str]) -> Forecast:
    """A forecast with what could not be written into the studio moved along its slope."""
    more = sum(
        found.slopes[path] * stops for path, stops in off.items() if path in found.slopes and path not in applied
    )
    return replace(found, stops=found.stops + more)
