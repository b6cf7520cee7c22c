"""Every figure of a set's light, in absolute units, from its lit state."""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property, partial
from typing import Any

import numpy as np
from numpy.typing import NDArray

from evrant.core.light import photometry as ph
from evrant.core.light.beams import Beam, key_side, key_sides, working_white
from evrant.core.light.bounce.surfaces import Bands
from evrant.core.light.colour import LUMINANCE, PAPER, SKIN, Triple, cct_duv, luminance, tint
from evrant.core.light.effective import ITSELF, effective
from evrant.core.light.emission import Missing
from evrant.core.light.lit import Lit, background_wish
from evrant.core.light.lit import lit as lit_of
from evrant.core.light.softness import Softness, glare, softness
from evrant.core.studio.gear import Flash
from evrant.core.studio.room import value


@dataclass(frozen=True)
class LightFigures:
    """One light as set. Exposures are on a dome to the lens [lx s]; `stops` is over the key; `aperture` what
    it alone gives at the shot's ISO; `full` and `lowest` the apertures of the ends of its range; `comes_from` names the
    surface it comes from at the face where that is not the head."""

    name: str
    path: str
    role: str
    kind: str
    basis: str
    distance: float
    power: float
    wish: float
    flux: float
    axis: float
    direct: float
    returned: float
    flat: float
    stops: float
    aperture: float
    full: float
    lowest: float | None
    unsure: float
    kelvin: float
    kelvin_known: bool
    recycle: float | None
    duration: float | None
    soft: Softness | None
    glare: float | None
    notes: tuple[str, ...]
    comes_from: str


@dataclass(frozen=True)
class Part:
    """What one surface returns to a receiver: its last-bounce share, in luminance and in bands [lx s]."""

    name: str
    path: str
    share: float
    amount: float
    bands: tuple[float, float, float]


@dataclass(frozen=True, eq=False)
class Tint:
    """Light at a receiver against the key alone, both in bands; `reference`: the colour temperature that white is
    balanced on [K]."""

    light: Triple
    key: Triple
    reference: float

    @cached_property
    def white(self) -> float:
        """ΔE on white."""
        return tint(self.light, self.key, PAPER)

    @cached_property
    def skin(self) -> float:
        """ΔE on skin."""
        return tint(self.light, self.key, SKIN)

    @cached_property
    def _colour(self) -> tuple[float, float]:
        return cct_duv(self.light / self.key, self.reference)

    @property
    def kelvin(self) -> float:
        """Correlated colour temperature [K]."""
        return self._colour[0]

    @property
    def duv(self) -> float:
        return self._colour[1]


@dataclass(frozen=True)
class Ground:
    """The background: luminance relative to a perfect white at the subject (least, mean, greatest), stops from the
    subject's exposure, stops from what the shot's tone asks for, spread over the frame [stops]."""

    least: float
    mean: float
    most: float
    stops: float
    off: float | None
    spread: float


MODELLING_LED, MODELLING_HALOGEN, SMALL = 90.0, 16.0, 40.0
"""Lumens a watt of a modelling lamp, up to 40 W taken as LED and beyond as halogen; from memory."""


def light_figures(lit: Lit) -> list[LightFigures]:
    """Every light of the set, windows and room lamps too."""
    found = []
    whole, returned, direct = (lit.exposure("face", part) for part in (lit.whole, lit.returned, lit.direct))
    reference = float(luminance(whole[lit.key])) if lit.key is not None else 0.0
    iso = lit.scene.shot.iso or 100
    filtered = 2**lit.scene.shot.dark_filter
    for i, beam in enumerate(lit.beams):
        got = float(luminance(whole[i]))
        power = float(lit.powers[i])
        head = beam.light.head if beam.light else None
        low = None
        if beam.light is not None:
            least = head.lowest_power if isinstance(head, Flash) else getattr(head, "dims_to", None)
            low = _aperture(got / power * least, iso, filtered) if least else None
        flat_name = f"to {beam.path}"
        flat = float(luminance(lit.exposure(flat_name)[i])) if flat_name in lit.rows.at else got
        recycle, duration = times_of(head, power)
        emission = beam.emission
        found.append(
            LightFigures(
                beam.name,
                beam.path,
                beam.role,
                beam.kind,
                emission.basis if emission else "as it stands: a window or a lamp",
                float(np.linalg.norm(beam.source.centre - lit.scene.face)) if lit.scene.face is not None else 0.0,
                power,
                lit.wish(i) if beam.light else 1.0,
                float(luminance(beam.source.flux)),
                emission.axis if emission else 0.0,
                float(luminance(direct[i])),
                float(luminance(returned[i])),
                flat,
                _over_key(lit, i, got, flat, reference),
                _aperture(got, iso, filtered),
                _aperture(got / power, iso, filtered),
                low,
                math.sqrt(sum(s.amount**2 for s in emission.shares)) if emission else 0.5,
                beam.kelvin,
                beam.kelvin_known,
                recycle,
                duration,
                softness(lit.scene, effective(lit, i).source) if _in_front(lit, beam) else None,
                glare(lit.scene, effective(lit, i).source) if any(s.glasses for s in lit.scene.shot.subjects) else None,
                emission.notes if emission else (),
                effective(lit, i).name if _in_front(lit, beam) else "",
            )
        )
    return found


def _over_key(lit: Lit, index: int, got: float, flat: float, reference: float) -> float:
    """Stops over the key: on a dome from the front, flat toward the light for rims and hair lights."""
    if lit.beams[index].role in ("rim", "hair light"):
        got = flat * ph.DOME / ph.FLAT
    return math.log2(got / reference) if got > 0 and reference > 0 else -math.inf


def _in_front(lit: Lit, beam: Beam) -> bool:
    return beam.role not in ("room lamp", "background light")


def _aperture(exposure: float, iso: int, filtered: float) -> float:
    return ph.f_number_for(max(exposure / filtered, 1e-12), iso)


def times_of(head: object, power: float) -> tuple[float | None, float | None]:
    """Recycle time and flash duration t0.1 at a power [s]: recycling goes with the energy; durations between the
    ends are read off on a logarithmic scale."""
    if not isinstance(head, Flash):
        return None, None
    full, low = value(head.duration), value(head.lowest_duration)
    duration = full
    if full is not None and low is not None and head.lowest_power and head.lowest_power < 1:
        part = math.log2(max(power, head.lowest_power)) / math.log2(head.lowest_power)
        duration = full * (low / full) ** part
    return (head.recycle.value * power if head.recycle else None), duration


def contrast(lit: Lit) -> float | None:
    """Stops between the key's side and the other side of the face, direct and returned light together."""
    bright, dark = lit.total("key side"), lit.total("shadow side")
    return math.log2(bright / dark) if bright > 0 and dark > 0 else None


RANGES: dict[str, tuple[float | None, float | None]] = {
    "flat": (None, 1.0),
    "soft": (1.0, 2.0),
    "medium": (2.0, 3.0),
    "strong": (3.0, None),
}
"""Contrast by word [stops]; common practice, no source."""


def grade(stops: float) -> str:
    """Contrast in a word, whichever side is the brighter."""
    return next(name for name, (_, high) in RANGES.items() if high is None or abs(stops) < high)


def returned_share(lit: Lit, name: str = "shadow side") -> float:
    """Share of the light at a receiver that comes by way of the room."""
    whole = lit.total(name)
    return lit.total(name, lit.returned) / whole if whole > 0 else 0.0


def leaving(lit: Lit) -> Bands | None:
    """What every patch gives off as set (n, 3) [lx s]."""
    if lit.settled is None or lit.incident is None:
        return None
    return lit.settled.leaving(lit.incident)


def weights(lit: Lit, name: str) -> NDArray[np.float64]:
    """Factors (n,) of what patches give off for a receiver; a dome's from its three rows."""
    assert lit.reading is not None
    return _joined(lit.reading.factors[lit.rows.at[name]])


def parts(lit: Lit, name: str = "shadow side") -> list[Part]:
    """Who returns the light at a receiver, greatest first."""
    out = leaving(lit)
    if out is None or lit.settled is None:
        return []
    given = weights(lit, name)[:, None] * out
    owner = lit.settled.patches.surface
    surfaces = lit.settled.surfaces
    joined: dict[tuple[str, str], Triple] = {}
    for number in np.unique(owner):
        surface = surfaces[number]
        key = surface.name, surface.path
        joined[key] = joined.get(key, np.zeros(3)) + given[owner == number].sum(axis=0)
    total = sum(luminance(v) for v in joined.values())
    if total <= 0:
        return []
    found = [
        Part(n, p, luminance(v) / total, float(luminance(v)), (float(v[0]), float(v[1]), float(v[2])))
        for (n, p), v in joined.items()
    ]
    return sorted((one for one in found if one.share > 1e-4), key=lambda one: -one.share)


def tint_at(lit: Lit, name: str, without: tuple[int, ...] = ()) -> Tint | None:
    """Tint of the light at a receiver, white balanced on the key alone; of all sources, or without some of them."""
    if lit.key is None:
        return None
    by_source = lit.exposure(name)
    light = by_source.sum(axis=0) - by_source[list(without)].sum(axis=0)
    key = balanced_on(lit, lit.key)
    if luminance(light) <= 0 or luminance(key) <= 0:
        return None
    return Tint(light, key, working_white(lit.scene))


def paired(lit: Lit) -> bool:
    """Whether keys stand on either side of the face, so that neither side is away from the key."""
    return len(set(key_sides(lit.scene, lit.beams))) > 1


def tinted_side(lit: Lit) -> str:
    """Where a tint shows: on the side of the face away from the key; of a pair of keys on the side it is greater on."""
    sides = ("shadow side", "key side") if paired(lit) else ("shadow side",)
    tints = {side: found.white for side in sides if (found := tint_at(lit, side)) is not None}
    return max(tints, key=tints.__getitem__, default=sides[0])


def balanced_on(lit: Lit, key: int) -> Bands:
    """What a camera is balanced on (3,): the colour of the key; where it comes by way of the room (sent back into wall
    and ceiling, or through a sheet), of what of it reaches the subject."""
    here = lit.exposure("face")[key]
    straight = float(luminance(lit.exposure("face", lit.direct)[key]))
    return here if 0 <= straight < ITSELF * float(luminance(here)) else lit.beams[key].source.flux


def share_of(lit: Lit, index: int) -> float:
    """Share of the subject's exposure that one source makes, by way of the room too."""
    whole = lit.exposure("face")
    total = float(luminance(whole.sum(axis=0)))
    return float(luminance(whole[index])) / total if total > 0 else 0.0


def tinting(lit: Lit, name: str) -> int | None:
    """The source but for which most of the tint at a receiver would not be there, or the strongest of several that
    make it together; None where the walls make it."""
    found = tint_at(lit, name)
    if found is None or lit.key is None:
        return None
    key = lit.beams[lit.key].source.flux
    rest = {}
    for i, beam in enumerate(lit.beams):
        hue = beam.source.flux / key
        if i == lit.key or hue.max() <= hue.min() * 1.001:
            continue  # the key's own colour tints nothing
        less = tint_at(lit, name, without=(i,))
        if less is not None:
            rest[i] = less.white
    least = min(rest, key=rest.__getitem__, default=None)
    none_of_them = tint_at(lit, name, without=tuple(rest))
    if least is None or none_of_them is None:
        return None
    return least if min(rest[least], none_of_them.white) < found.white / 2 else None


def ground(lit: Lit) -> Ground | None:
    """How light the background is."""
    share = lit.ground_reflectance
    if "ground" not in lit.rows.at or share is None:
        return None
    rows = lit.whole[lit.rows.at["ground"]] * lit.doses[:, None]
    values = rows.sum(axis=1) @ LUMINANCE
    subject = lit.exposed
    if subject <= 0 or values.mean() <= 0:
        return None
    relative = values * share / subject
    mean = float(relative.mean())
    wish = background_wish(lit.scene)
    return Ground(
        float(relative.min()),
        mean,
        float(relative.max()),
        math.log2(float(values.mean()) / subject),
        math.log2(mean / wish) if wish else None,
        math.log2(float(relative.max()) / max(float(relative.min()), 1e-9)),
    )


def own_shade(lit: Lit) -> dict[str, float]:
    """How much the subject's own body changes the light on itself, on its far side and behind it [stops], by solving
    the set without it at the same powers."""
    bare = lit_of(lit.scene, bodies=False)
    if isinstance(bare, Missing) or lit.settled is None or bare.settled is None:
        return {}
    found = {name: over(lit, bare, name) for name in ("face", "shadow side", "ground") if name in lit.rows.at}
    return {name: stops for name, stops in found.items() if math.isfinite(stops)}


def over(lit: Lit, other: Lit, name: str) -> float:
    """Stops by which a receiver gets more light than in another state of a set with the same sources, both at the
    powers of the first; infinite where one of them is dark."""
    rows = other.rows.at[name]
    amounts = other.dome(name, other.whole) if rows.stop - rows.start == 3 else other.whole[rows].mean(axis=0)
    here, there = lit.total(name), float(luminance((amounts * lit.doses[:, None]).sum(axis=0)))
    return math.log2(here / there) if here > 0 and there > 0 else -math.inf


def fall(lit: Lit) -> list[tuple[str, float]]:
    """Stops under the face at points down the body and at further subjects."""
    top = lit.total("face")
    found = []
    for name in lit.rows.at:
        if name.startswith(("down", "subject")):
            here = lit.total(name)
            found.append((name, math.log2(here / top) if here > 0 and top > 0 else -math.inf))
    return found


def ambient(lit: Lit) -> float | None:
    """Stops by which light that is not flash lies under the flash exposure, modelling lamps among it; None without
    flash, infinite when dark."""
    flash = np.array([b.kind == "flash" for b in lit.beams])
    if not flash.any():
        return None
    by_source = lit.exposure("face") @ LUMINANCE
    lit_by, rest = float(by_source[flash].sum()), float(by_source[~flash].sum())
    rest += lit.time * modelling_lux(lit)
    return math.inf if rest <= 0 else math.log2(lit_by / rest)


def modelling_lux(lit: Lit) -> float:
    """Illuminance at the face from the modelling lamps of all flashes, left on [lx]: their lumens go the way of the
    flash's, which is told by its energy."""
    part = lit.dome("face", lit.whole) @ LUMINANCE
    found = 0.0
    for amount, beam in zip(part, lit.beams, strict=True):
        head = beam.light.head if beam.light else None
        if isinstance(head, Flash) and head.modelling is not None and head.energy is not None:
            watts = head.modelling.value
            lumens = watts * (MODELLING_LED if watts <= SMALL else MODELLING_HALOGEN)
            found += float(amount) * lumens / (head.energy.value * ph.XENON_EFFICACY)
    return found


def ambient_lux(lit: Lit) -> float:
    """Illuminance on the dome from what is not flash [lx]."""
    part = lit.dome("face", lit.whole) @ LUMINANCE
    return float(sum(v for v, b in zip(part, lit.beams, strict=True) if b.kind != "flash"))


def reflectance_shares(lit: Lit, names: tuple[str, ...]) -> dict[int, NDArray[np.float64]]:
    """For each surface by number: how the exposure at each receiver moves per unit of its reflectance [lx s]."""
    if lit.settled is None or lit.incident is None or lit.reading is None:
        return {}
    if names in lit.slopes:
        return lit.slopes[names]
    lit.slopes[names] = slopes(lit, [partial(_rows_of, lit, name) for name in names], lit.incident)
    return lit.slopes[names]


def slopes(
    lit: Lit, receivers: Sequence[Callable[[NDArray[Any]], NDArray[Any]]], incident: Bands
) -> dict[int, NDArray[np.float64]]:
    """For each surface by number: how what the receivers get moves per unit of its reflectance, under the light that
    arrives at the patches (n, 3). Each receiver joins its rows of (rows, n) into one (n,)."""
    settled, reading = lit.settled, lit.reading
    assert settled is not None and reading is not None
    found = np.zeros((len(receivers), settled.patches.count))
    straight = np.array([join(reading.factors) for join in receivers])
    for band, weight in enumerate(LUMINANCE):
        response = reading.response[settled.bands[band]]
        carried = np.array([join(response) for join in receivers])
        found += weight * (straight + carried @ settled.factors) * incident[:, band]
    owner = settled.patches.surface
    return {int(n): found[:, owner == n].sum(axis=1) for n in np.unique(owner)}


def _rows_of(lit: Lit, name: str, rows: NDArray[Any]) -> NDArray[Any]:
    return _joined(rows[lit.rows.at[name]])


def _joined(rows: NDArray[Any]) -> NDArray[Any]:
    """A dome from its three rows; the mean of others."""
    return np.asarray((rows[0] + rows[1] - rows[2]) / 2 if len(rows) == 3 else rows.mean(axis=0))


def side_word(lit: Lit) -> str:
    """The side of the face away from the key, as the subject has it."""
    return "right" if key_side(lit.scene, lit.beams) > 0 else "left"
