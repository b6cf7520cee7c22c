"""The room corrects the model: claims and readings joined.

Each claim is off by an unknown number of stops, normal with the claim's own ±, independent; each reading is its
forecast moved along its slopes, plus its own ±. Mean and covariance of what the claims are off by, given the
readings, in Kalman's form, linearised again once at what was found [1]. A reading further from what all others make
likely than three times its ± is asked about and left out until it is confirmed [2].
References:
[1] R. E. Kalman (1960), measurement update; any text on linear estimation.
[2] Leaving one out: the residual over the root of its variance under all other readings; 3 is a project choice.
"""

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from evrant.core.base.memo import Memo
from evrant.core.log.claimed import claimed, corrected, writable
from evrant.core.log.doubts import Cause, causes
from evrant.core.log.forecast import Forecast, Unknown, carried, forecast
from evrant.core.log.taken import Said, said, scene_for, spelt_out
from evrant.core.studio.log import Reading
from evrant.core.studio.studio import Studio

Vector = NDArray[np.float64]
_KNOWN: Memo["Calibration"] = Memo(8_000_000, lambda found: 4_000 + 16 * found.spread.size + 2_000 * len(found.told))
ODD = 3.0
"""A reading so many times its ± from what the others make likely is asked about."""


@dataclass(frozen=True)
class Told:
    """A reading beside its forecasts, in stops against the claims' forecast. `off` is what it says the claims' light
    is off by; `now` what is forecast of it with all corrections, ± `now_pm`; `odd` how many ± it is from what the
    other readings make likely; `missing` what keeps it from being compared."""

    reading: Reading
    counts: bool
    off: float = 0.0
    pm: float = 0.0
    now: float = 0.0
    now_pm: float = 0.0
    before_pm: float = 0.0
    odd: float = 0.0
    bound: int = 0
    missing: str = ""
    because: tuple[Cause, ...] = ()
    """What would explain one that is asked about."""

    @property
    def asked(self) -> bool:
        """Whether it is to be confirmed or left out first."""
        return not self.missing and not self.counts and self.reading.counts == "if it fits" and self.bound == 0


@dataclass(frozen=True)
class Calibration:
    """What the claims are off by [stops]: `mean` (n,) and `spread` (n, n), in the order of `unknowns`."""

    planned: Studio = field(repr=False)
    """The studio as it is, with the corrections it has."""
    studio: Studio = field(repr=False)
    """The studio without any correction, powers as planned."""
    unknowns: tuple[Unknown, ...]
    mean: Vector
    spread: NDArray[np.float64]
    told: tuple[Told, ...]
    kept: dict[str, tuple[Studio, Studio]] = field(default_factory=dict, repr=False, compare=False)
    """By set: the studio as claimed and as corrected, so that what they are forecast from is computed once."""

    def _studios(self, set_id: str) -> tuple[Studio, Studio]:
        if set_id not in self.kept:
            base = claimed(spelt_out(self.planned, set_id))
            self.kept[set_id] = base, corrected(base, self.off())
        return self.kept[set_id]

    def off(self) -> dict[str, float]:
        return {one.path: float(stops) for one, stops in zip(self.unknowns, self.mean, strict=True)}

    def expects(self, reading: Reading) -> tuple[float, float, float] | str:
        """What a reading would be with all that is known [log₂ of lx or lx s], its ±, and the ± the claims alone would
        leave; or why not."""
        base, better = self._studios(reading.set)
        found, bare = forecast(better, reading), forecast(base, reading)
        if isinstance(found, str) or isinstance(bare, str):
            return found if isinstance(found, str) else str(bare)
        off = self.off()
        stops = carried(found, off, writable(self.studio, off)).stops
        slope = np.array([found.slopes.get(one.path, 0.0) for one in self.unknowns])
        rest = [path for path in found.slopes if path not in off]
        square = float(slope @ self.spread @ slope) + found.own**2
        square += sum((found.slopes[path] * bare.unknowns.get(path, found.unknowns[path]).prior) ** 2 for path in rest)
        before = sum((slope_ * bare.unknowns[path].prior) ** 2 for path, slope_ in bare.slopes.items()) + bare.own**2
        return stops, math.sqrt(square), math.sqrt(before)


@dataclass(frozen=True)
class _Case:
    """A reading that can be compared."""

    index: int
    said: Said
    found: Forecast


def calibrate(studio: Studio) -> Calibration:
    """What all readings of a studio say about its claims; remembered while neither they nor the plan change."""
    parts = (studio.readings, studio.as_set, studio.room, studio.gear, studio.brief, studio.shots, studio.sets)
    return _KNOWN.get("known", parts, lambda: _calibrated(studio))


def _calibrated(studio: Studio) -> Calibration:
    base = claimed(spelt_out(studio, *(one.set for one in studio.readings if one.as_set is None)))
    cases, missing = _cases(base, studio.readings)
    unknowns = _unknowns(case.found for case in cases)
    prior = np.array([one.prior for one in unknowns])
    kept, odd = _believed(studio.readings, cases, unknowns, prior)
    mean, spread = _joined([cases[k] for k in kept], unknowns, prior, {})
    if kept and unknowns:
        mean, spread = _again(base, studio.readings, [cases[k] for k in kept], unknowns, prior, mean)
    whole = Calibration(studio, base, tuple(unknowns), mean, spread, ())
    told = []
    by_index = {case.index: k for k, case in enumerate(cases)}
    for index, reading in enumerate(studio.readings):
        if index not in by_index:
            told.append(Told(reading, False, missing=missing[index]))
            continue
        k = by_index[index]
        one = _told(whole, reading, cases[k], k in kept, odd[k], prior)
        others = [cases[j] for j in kept if j != k]
        told.append(_explained(base, one, cases[k], others, unknowns, prior) if one.asked or one.odd > ODD else one)
    return Calibration(studio, base, tuple(unknowns), mean, spread, tuple(told))


def _told(whole: Calibration, reading: Reading, case: _Case, counts: bool, odd: float, prior: Vector) -> Told:
    slope = _row(case.found, whole.unknowns)
    own = case.found.own
    return Told(
        reading,
        counts,
        off=case.said.stops - case.found.stops,
        pm=case.said.pm,
        now=float(slope @ whole.mean),
        now_pm=math.hypot(math.sqrt(max(float(slope @ whole.spread @ slope), 0.0)), own),
        before_pm=math.hypot(float(np.linalg.norm(slope * prior)), own),
        odd=odd,
        bound=case.said.bound,
    )


def _explained(
    base: Studio, told: Told, case: _Case, others: list[_Case], unknowns: list[Unknown], prior: Vector
) -> Told:
    """One that is odd, with what would explain it."""
    mean, spread = _joined(others, unknowns, prior, {})

    def oddness(found: Forecast, wrong: float) -> float:
        slope = _row(found, unknowns)
        off = case.said.stops - wrong - found.stops - float(slope @ mean)
        pm = math.hypot(case.said.pm, found.own)
        return abs(off) / math.sqrt(float(slope @ spread @ slope) + pm**2)

    return replace(told, because=causes(base, told.reading, oddness))


def _cases(studio: Studio, readings: tuple[Reading, ...]) -> tuple[list[_Case], dict[int, str]]:
    cases, missing = [], {}
    forecasts: dict[Reading, Forecast | str] = {}
    for index, reading in enumerate(readings):
        scene = scene_for(studio, reading)
        if scene is None:
            missing[index] = "The set it was taken in is gone."
            continue
        what = said(scene, reading)
        same = reading.changed(id="any", reads=None, pm=None, day=None, session=None, by="light meter", counts="yes")
        if not isinstance(what, str) and same not in forecasts:
            forecasts[same] = forecast(studio, reading)
        found = what if isinstance(what, str) else forecasts[same]
        if isinstance(what, str) or isinstance(found, str):
            missing[index] = what if isinstance(what, str) else str(found)
        else:
            cases.append(_Case(index, what, found))
    return cases, missing


def _unknowns(found: Iterable[Forecast]) -> list[Unknown]:
    """Everything that any of them hangs on."""
    kept: dict[str, Unknown] = {}
    for one in found:
        for path, unknown in one.unknowns.items():
            if path not in kept or unknown.prior > kept[path].prior:
                kept[path] = unknown
    return list(kept.values())


def _row(found: Forecast, unknowns: Sequence[Unknown]) -> Vector:
    return np.array([found.slopes.get(one.path, 0.0) for one in unknowns])


def _joined(
    cases: list[_Case], unknowns: list[Unknown], prior: Vector, at: Mapping[int, tuple[float, Vector]]
) -> tuple[Vector, NDArray[np.float64]]:
    """Mean and covariance from the prior and the cases, one after the other; `at` gives for a case's index what it is
    off by and its slopes where they were linearised anew."""
    mean, spread = np.zeros(len(prior)), np.diag(prior**2)
    for case in cases:
        off, slope = at.get(case.index, (case.said.stops - case.found.stops, _row(case.found, unknowns)))
        mean, spread = update(mean, spread, slope, off, math.hypot(case.said.pm, case.found.own))
    return mean, spread


def update(
    mean: Vector, spread: NDArray[np.float64], slope: Vector, off: float, pm: float
) -> tuple[Vector, NDArray[np.float64]]:
    """One measurement update: `off` = slope · x ± pm, in Joseph's form, which keeps the covariance symmetric [1]."""
    gain = spread @ slope / (float(slope @ spread @ slope) + pm**2)
    left = np.eye(len(mean)) - np.outer(gain, slope)
    return mean + gain * (off - float(slope @ mean)), left @ spread @ left.T + pm**2 * np.outer(gain, gain)


def _believed(
    readings: tuple[Reading, ...], cases: list[_Case], unknowns: list[Unknown], prior: Vector
) -> tuple[list[int], list[float]]:
    """Cases that count, and how odd each is among them. The oddest goes first, until none is odd any more."""
    kept = [k for k, case in enumerate(cases) if readings[case.index].counts != "no" and case.said.bound == 0]
    sure = {k for k in kept if readings[cases[k].index].counts == "yes"}
    while True:
        odd = _oddness(cases, kept, unknowns, prior)
        doubtful = [k for k in kept if k not in sure and odd[k] > ODD]
        if not doubtful:
            return kept, odd
        kept = [k for k in kept if k != _culprit(cases, kept, doubtful, unknowns, prior)]


def _culprit(cases: list[_Case], kept: list[int], doubtful: list[int], unknowns: list[Unknown], prior: Vector) -> int:
    """Of the doubtful, the one without which the others agree best: a wrong reading makes right ones look odd too."""

    def rest(k: int) -> float:
        others = [j for j in kept if j != k]
        odd = _oddness(cases, others, unknowns, prior)
        return sum(odd[j] ** 2 for j in others)

    return min(doubtful, key=rest)


def _oddness(cases: list[_Case], kept: list[int], unknowns: list[Unknown], prior: Vector) -> list[float]:
    """How many ± each case is from what the other kept ones make likely; of a bound only what goes beyond it.

    Leaving a kept one out needs no new update: with residual r, own variance R and leverage L = h P hᵀ / R after all of
    them, the others' residual is r / (1 − L) and its variance R / (1 − L).
    """
    mean, spread = _joined([cases[j] for j in kept], unknowns, prior, {})
    among, found = set(kept), []
    for k, case in enumerate(cases):
        slope = _row(case.found, unknowns)
        own = case.said.pm**2 + case.found.own**2
        off = case.said.stops - case.found.stops - float(slope @ mean)
        known = float(slope @ spread @ slope)
        if case.said.bound and off * case.said.bound < 0:
            found.append(0.0)
        elif k in among:
            found.append(abs(off) / math.sqrt(own * max(1 - known / own, 1e-9)))
        else:
            found.append(abs(off) / math.sqrt(known + own))
    return found


def _again(
    base: Studio,
    readings: tuple[Reading, ...],
    cases: list[_Case],
    unknowns: list[Unknown],
    prior: Vector,
    mean: Vector,
) -> tuple[Vector, NDArray[np.float64]]:
    """Linearised once more at what was found."""
    off = {one.path: float(stops) for one, stops in zip(unknowns, mean, strict=True)}
    better, written = corrected(base, off), writable(base, off)
    at: dict[int, tuple[float, Vector]] = {}
    for case in cases:
        found = forecast(better, readings[case.index])
        if isinstance(found, str):
            continue
        slope = _row(found, unknowns)
        expected = carried(found, off, written).stops
        at[case.index] = case.said.stops - expected + float(slope @ mean), slope
    return _joined(cases, unknowns, prior, at)
