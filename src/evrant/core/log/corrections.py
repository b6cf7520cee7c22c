"""What readings correct, in words, and the edit that takes it into the plan."""

import math
from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from evrant.core.base.quantity import Figure
from evrant.core.edits.language import Add, Remove, SetFields, Several, Single
from evrant.core.edits.paths import find
from evrant.core.log.calibrate import Calibration
from evrant.core.log.claimed import claim_of, writable
from evrant.core.log.forecast import Unknown
from evrant.core.studio.gear import Flash, Lamp, Modifier
from evrant.core.studio.log import Reading
from evrant.core.studio.studio import Studio, by_id

WORTH = 0.9
"""A claim is corrected once its ± has shrunk to this share: before that nothing was learnt of it."""

TOGETHER = 0.02
"""Correlation from which head and modifier were read together: what the two lights of one frame tell of each other's
is less."""


@dataclass(frozen=True)
class Correction:
    """A claim with what readings make of it [stops]. `taken` says whether the plan has it already."""

    unknown: Unknown
    stops: float
    pm: float
    words: str
    edits: tuple[Single, ...]
    taken: bool


def corrections(studio: Studio, found: Calibration) -> list[Correction]:
    """Everything readings tell more of than was claimed, what they move most first."""
    can = writable(found.studio, (one.path for one in found.unknowns))
    rows = []
    for k, one in enumerate(found.unknowns):
        stops, pm = float(found.mean[k]), math.sqrt(max(float(found.spread[k, k]), 0.0))
        if one.path in can and pm < WORTH * one.prior:
            edits = tuple(_edits(studio, found, k))
            rows.append(Correction(one, stops, pm, words(one, stops, pm), edits, not edits))
    return sorted(rows, key=lambda row: -abs(row.stops))


def words(one: Unknown, stops: float, pm: float) -> str:
    """“The 200 Ws head gives 0.4 stop less than claimed, ± 0.1.”"""
    amount = f"{abs(stops):.1f} stop{'' if abs(stops) < 1.05 else 's'}"
    small = abs(stops) < 0.05
    if one.kind == "surface":
        told = "returns what is written" if small else f"returns {amount} {_way(stops)} than is written"
    else:
        told = "gives what is claimed" if small else f"gives {amount} {_way(stops)} than claimed"
    return f"The {one.name} {told}, ± {pm:.1f}."


def _way(stops: float) -> str:
    return "more" if stops > 0 else "less"


def take(corrected: Iterable[Correction]) -> Several | None:
    """All of them as one edit."""
    edits = tuple(edit for one in corrected for edit in one.edits)
    return Several(edits=edits, label="Take what the readings say") if edits else None


def _edits(studio: Studio, found: Calibration, k: int) -> Iterable[Single]:
    """Fields to write for one claim; none when the plan has them."""
    one, stops = found.unknowns[k], float(found.mean[k])
    pm = math.sqrt(max(float(found.spread[k, k]), 0.0))
    if not one.path.startswith("gear/"):
        claim = claim_of(found.studio.room, one.path)
        if claim is not None:
            value = min(claim.value * 2**stops, 99.0)
            yield from _written(studio, one.path, "measured", value, value * pm * math.log(2), 1)
        return
    item = by_id(studio.gear, one.path.removeprefix("gear/"))
    yield from _written(studio, one.path, "trim", stops, pm, 3)
    if isinstance(item, (Flash, Lamp)):
        wanted = _pairs(studio, found, k)
        have = {known.id: known.pm for known in item.known_with}
        for key in have if wanted != have else ():
            yield Remove(target=f"{one.path}/known_with/{key}")
        for key, both in wanted.items() if wanted != have else ():
            yield Add(list=f"{one.path}/known_with", item={"id": key, "pm": both})


def _written(studio: Studio, path: str, name: str, value: float, pm: float, places: int) -> Iterable[Single]:
    figure = {"value": round(value, places), "pm": round(pm, 4), "origin": "measured"}
    thing = find(studio, path)
    now, simulated = getattr(thing, name), any(is_simulated(one) for one in studio.readings)
    if not isinstance(now, Figure) or now.dump() != figure or thing.simulated != simulated:
        yield SetFields(target=path, fields={name: figure, "simulated": simulated})


def is_simulated(reading: Reading) -> bool:
    """Whether it was taken in the invented room."""
    return reading.by in ("simulated light meter", "simulated camera") and reading.counts != "no"


def _pairs(studio: Studio, found: Calibration, k: int) -> dict[str, float]:
    """Modifiers a head's light was read through, with the ± of both together [stops]."""
    pairs = {}
    for j, other in enumerate(found.unknowns):
        if not isinstance(by_id(studio.gear, other.path.removeprefix("gear/")), Modifier):
            continue
        if abs(float(found.spread[k, j])) > TOGETHER * math.sqrt(float(found.spread[k, k] * found.spread[j, j])):
            both = np.zeros(len(found.unknowns))
            both[[k, j]] = 1.0
            pairs[other.path.removeprefix("gear/")] = round(math.sqrt(float(both @ found.spread @ both)), 4)
    return pairs
