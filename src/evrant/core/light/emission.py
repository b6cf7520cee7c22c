"""From a light's gear to what leaves it: flux, spread, colour, its luminous face and its body.

Makers' figures come first (lux-seconds or lux at a distance, IES table, guide number, lumens); failing
those the physical estimate from stored energy or watts, with its wider uncertainty.
References:
[1] Xenon flash 30–45 lm s per W s, from memory.
[2] Filament bulbs: 230 V 60 W 710 lm, 100 W 1350 lm; 120 V 100 W 1600 lm, public efficiency labels, from memory.
[3] Losses of a diffusion layer, a grid, an umbrella: common practice, no source.
"""

import math
from dataclasses import dataclass, field

import numpy as np

from evrant.core.base.estimate import Share
from evrant.core.base.quantity import Figure
from evrant.core.light import photometry as ph
from evrant.core.light import spread
from evrant.core.light.bounce.sources import Source, round_face, square_face
from evrant.core.light.bounce.surfaces import Bands, Surface, grey
from evrant.core.light.colour import bands_of, gelled, linear, luminance
from evrant.core.space.lights import Light
from evrant.core.space.solids import Vector, frame_axes
from evrant.core.space.volumes import HOLE
from evrant.core.studio.gear import Flash, Gel, Lamp, Modifier
from evrant.core.studio.room import value

LUMENS_PER_WATT = {"LED": 95.0, "compact fluorescent": 60.0, "filament": 12.5}
WATT_SPREAD = 0.15
LAYER = 0.62
"""Share of light a further layer of diffusion lets through [3]."""
GRID_CUT = 40.0
GRID_LOSS = 0.85
DAYLIGHT, FLASHLIGHT = 5600.0, 5500.0
OWN_BEAM = {"flash": 100.0, "spot": 110.0, "ring": 100.0}
FRONT, BODY = 0.5, 0.05
"""Reflectance of a white diffuser's front and of a modifier's black outside, from memory."""
BARE_RADIUS = 0.04
TAPER = 0.3
"""Back of a modifier as a share of its face."""
FORM_BEAM = {"reflector dish": 65.0, "beauty dish": 80.0, "snoot": 18.0, "gobo holder": 20.0}
SOFT = frozenset({"softbox", "octabox", "strip box", "ring"})


@dataclass(frozen=True)
class Missing:
    """What cannot be known yet, in words, and where to enter it."""

    text: str
    where: str


@dataclass(frozen=True, eq=False)
class Emission:
    """A light at full power: its source (flux in lm, or lm s for flash) and what makes the figure unsure."""

    light: Light
    source: Source
    kelvin: float
    kelvin_known: bool
    shares: tuple[Share, ...]
    basis: str
    steady: bool
    notes: tuple[str, ...] = field(default=())

    @property
    def flux(self) -> float:
        """Luminous flux [lm] or energy [lm s] that leaves the light."""
        return luminance(self.source.flux)

    @property
    def axis(self) -> float:
        """Intensity far away on the axis [cd or cd s]."""
        return self.flux * spread.axis_of(self.source.table)


def emission(light: Light, gel: Gel | None, volts: float, reference: float = DAYLIGHT) -> Emission | Missing:
    """What a placed light gives at full power, in bands relative to a white of `reference` [K]."""
    head, modifier = light.head, light.modifier
    if head is None:
        return Missing(f"The {light.name} has no head yet.", light.path)
    if light.at is None or light.forward is None:
        return Missing(f"The {light.name} has no place yet.", light.path)
    if modifier is not None and modifier.width is None:
        return Missing(f"The size of the {modifier.called} is missing.", f"gear/{modifier.id}")
    got = _flux(light, head, modifier, volts)
    if isinstance(got, Missing):
        return got
    flux, shares, basis = got
    table = _table(light, head, modifier)
    cut, cut_shares = _front(light, modifier)
    flux *= cut * light.place.heads
    if head.trim is not None or (modifier is not None and modifier.trim is not None):
        factor, shares = _by_readings(head, modifier, shares)
        flux *= factor
        basis += ", corrected by readings"
    notes = []
    known = head.kelvin is not None
    kelvin = head.kelvin.value if head.kelvin else (FLASHLIGHT if isinstance(head, Flash) else DAYLIGHT)
    if gel is not None:
        lost, pm = gel_loss(gel)
        flux *= 2**-lost
        shares = (*shares, Share("gel's loss", pm, f"gear/{gel.id}")) if pm else shares
        kelvin = gelled(kelvin, gel.shift or 0.0)
        notes.append(f"{gel.called} {gel.shift or 0:+.0f} mired")
    bands = _colour(head, gel, kelvin, reference)
    face = face_of(light)
    right, _ = frame_axes(light.forward)
    hole = hole_of(light)
    if hole and table is None:
        table = spread.both_ways(1.0, 0.0)  # a cosine face, by points: the closed form knows no hole
    source = Source(light.name, face, light.forward, right, flux * bands, table, body_of(light, face), hole)
    steady = isinstance(head, Lamp)
    return Emission(light, source, kelvin, known, (*shares, *cut_shares), basis, steady, tuple(notes))


def _by_readings(
    head: Flash | Lamp, modifier: Modifier | None, claimed: tuple[Share, ...]
) -> tuple[float, tuple[Share, ...]]:
    """What readings in the room make of a claim: the factor on the flux, and the shares that are left [stops].

    Where head and modifier were read together their ± is one, smaller than both one by one would give.
    """
    factor, kept = 1.0, claimed
    trims = [(one, one.trim) for one in (head, modifier) if one is not None and one.trim is not None]
    for item, trim in trims:
        factor *= 2**trim.value
        kept = tuple(share for share in kept if share.of != f"gear/{item.id}")
    both = modifier is not None and len(trims) == 2
    together = next((one.pm for one in head.known_with if modifier and one.id == modifier.id), None) if both else None
    if together is not None:
        return factor, (*kept, Share("output as measured", together, f"gear/{head.id}"))
    own = (Share(f"{item.called} as measured", trim.pm, f"gear/{item.id}") for item, trim in trims)
    return factor, (*kept, *own)


def gel_loss(gel: Gel) -> tuple[float, float]:
    """Stops a gel takes, and their ±; of a coloured one without a figure what its colour leaves of white."""
    if gel.loss is not None:
        return gel.loss.value, gel.loss.pm
    if gel.colour is not None:
        return -math.log2(max(luminance(linear(gel.colour)), 1e-3)), 0.5
    return 0.0, 0.0


def _colour(head: Flash | Lamp, gel: Gel | None, kelvin: float, reference: float) -> Bands:
    bands = bands_of(kelvin, reference)
    if isinstance(head, Lamp) and head.colour:
        bands = linear(head.colour) + 1e-3
    if gel is not None and gel.colour:
        bands = bands * (linear(gel.colour) + 1e-3)
    return bands / luminance(bands)


_Flux = tuple[float, tuple[Share, ...], str]


def _flux(light: Light, head: Flash | Lamp, modifier: Modifier | None, volts: float) -> _Flux | Missing:
    """Flux at the face before grids and further layers, its shares in stops, and what it rests on."""
    on_axis = _axis(head)
    if on_axis is not None and (modifier is None or modifier.loss is not None):
        return _from_axis(light, head, modifier, on_axis)
    bare = _bare(head, volts)
    if isinstance(bare, Missing):
        if on_axis is not None and modifier is not None:
            return Missing(f"The loss of the {modifier.called} is missing.", f"gear/{modifier.id}")
        return bare
    flux, shares, basis = bare
    if modifier is None:
        return flux, shares, basis
    if modifier.efficiency is None:
        return Missing(f"What the {modifier.called} lets through is missing.", f"gear/{modifier.id}")
    part = modifier.efficiency
    through = _stop_share("share let through", part, modifier)
    return flux * part.value, (*shares, through), f"{basis}, modifier's share"


def _stop_share(label: str, figure: Figure, item: Flash | Lamp | Modifier) -> Share:
    return Share(label, abs(math.log2((figure.value + figure.pm) / figure.value)), f"gear/{item.id}")


def _axis(head: Flash | Lamp) -> tuple[float, Share, str] | None:
    """Intensity on the axis with the head's own reflector [cd or cd s]."""
    if isinstance(head, Flash):
        if head.dose is not None:
            return head.dose.value, _stop_share("measured lux-seconds", head.dose, head), "lux-seconds at one metre"
        if head.guide_number is None:
            return None
        offset = 0.0 if head.guide_measured else ph.GUIDE_CLAIM
        spread_of = ph.GUIDE_OWN_SPREAD if head.guide_measured else ph.GUIDE_CLAIM_SPREAD
        own = head.guide_number.pm / head.guide_number.value * 2 / math.log(2)
        read_with = ph.DOME if head.guide_measured else ph.FLAT
        axis = ph.intensity_from_guide(head.guide_number.value, read_with) * 2**offset
        return axis, Share("guide number", math.hypot(spread_of, own), f"gear/{head.id}"), "guide number"
    if head.lux is not None and head.lux_at is not None:
        share = math.hypot(_stop_share("", head.lux, head).amount, 2 * _stop_share("", head.lux_at, head).amount)
        own_share = Share("lux at a distance", share, f"gear/{head.id}")
        return head.lux.value * head.lux_at.value**2, own_share, "lux at a distance"
    return None


def _from_axis(light: Light, head: Flash | Lamp, modifier: Modifier | None, on_axis: tuple[float, Share, str]) -> _Flux:
    axis, share, basis = on_axis
    shares = [share]
    if modifier is not None and modifier.loss is not None:
        axis *= 2**-modifier.loss.value
        shares.append(Share("modifier's loss", modifier.loss.pm, f"gear/{modifier.id}"))
        basis += ", modifier's loss"
    built_in = modifier is not None and modifier.grid
    own = _table(light, head, modifier, gridded=built_in)
    return axis / spread.axis_of(own), tuple(shares), basis


def _bare(head: Flash | Lamp, volts: float) -> _Flux | Missing:
    own = f"gear/{head.id}"
    if isinstance(head, Flash):
        if head.energy is None:
            return Missing(f"The {head.called} has neither energy nor a guide number.", f"gear/{head.id}")
        shares = (
            _stop_share("energy", head.energy, head),
            Share("flash efficacy", math.log2(1 + ph.XENON_SPREAD / ph.XENON_EFFICACY), own),
        )
        return head.energy.value * ph.XENON_EFFICACY, shares, "stored energy × efficacy of xenon"
    if head.distribution is not None:
        return head.distribution.lumens, (Share("photometric file", math.log2(1.05), own),), "photometric file"
    if head.lumens is not None:
        return head.lumens.value, (_stop_share("lumens", head.lumens, head),), "lumens"
    if head.equivalent is not None:
        flux = filament_lumens(head.equivalent.value, volts)
        return flux, (Share("watts it is sold as", math.log2(1 + WATT_SPREAD), own),), "equivalent filament bulb"
    if head.power is not None and head.technology is not None:
        watts = head.power.value
        flux = (
            filament_lumens(watts, volts) if head.technology == "filament" else watts * LUMENS_PER_WATT[head.technology]
        )
        return flux, (Share("lumens a watt gives", math.log2(1 + 2 * WATT_SPREAD), own),), "watts × efficacy"
    return Missing(f"The luminous flux of the {head.called} is missing.", f"gear/{head.id}")


def filament_lumens(watts: float, volts: float) -> float:
    """Light of an ordinary filament bulb [lm]: 100 W gives 1600 at 120 V, 1350 at 230 V, less per watt below [2]."""
    full = 1600.0 if volts < 160 else 1350.0
    return float(full * (watts / 100) ** 1.24)


def _table(light: Light, head: Flash | Lamp, modifier: Modifier | None, gridded: bool = True) -> spread.Table | None:
    """Spread of the light; None for a uniform cosine face."""
    grid_on = gridded and (light.place.gridded or (modifier is not None and modifier.grid))
    if modifier is None:
        return _own_table(head)
    if modifier.form == "lantern":
        return spread.everywhere(0.2)
    if modifier.umbrella == "shoot-through":
        return spread.both_ways(0.62, 0.38)
    if modifier.umbrella == "silver, bounced":
        return spread.beam(modifier.beam or 90.0)
    wide = modifier.beam or FORM_BEAM.get(modifier.form or "")
    if wide is not None and modifier.form not in SOFT:
        return spread.beam(min(wide, 2 * (modifier.grid_angle or 15.0)) if grid_on else wide)
    if grid_on:
        return spread.gridded(modifier.grid_angle or GRID_CUT)
    return None


def _own_table(head: Flash | Lamp) -> spread.Table | None:
    if isinstance(head, Flash):
        return spread.beam(head.beam or OWN_BEAM["flash"])
    if head.distribution is not None:
        d = head.distribution
        return spread.measured(d.vertical, d.horizontal, d.candela)
    if head.beam is not None:
        return spread.beam(head.beam)
    if head.form in ("panel", "screen"):
        return None
    if head.form == "tube":
        return spread.both_ways(0.85, 0.15)
    if head.form == "bulb":
        return spread.everywhere(0.2)
    return spread.beam(OWN_BEAM.get(head.form or "", 110.0))


def _front(light: Light, modifier: Modifier | None) -> tuple[float, tuple[Share, ...]]:
    """What a grid and further layers let through, and how sure that is [stops]."""
    share, shares = 1.0, []
    extra = light.place.diffusers
    if extra:
        share *= LAYER**extra
        shares.append(Share("further layers", 0.25 * extra))
    soft = modifier is not None and (modifier.form in SOFT or modifier.form is None)
    if soft and modifier is not None and light.place.gridded and not modifier.grid:
        share *= GRID_LOSS * spread.grid_share(modifier.grid_angle or GRID_CUT)
        shares.append(Share("grid", 0.3))
    return share, tuple(shares)


def face_of(light: Light) -> np.ndarray[tuple[int, ...], np.dtype[np.float64]]:
    """Outline of the luminous face."""
    assert light.at is not None and light.forward is not None
    sizes = light.face
    if sizes is None and isinstance(light.head, Lamp) and light.head.width is not None:
        sizes = light.head.width.value, value(light.head.height) or light.head.width.value
    if sizes is None:
        return round_face(light.at, light.forward, BARE_RADIUS, 12)
    width, height = sizes
    if height is None:
        return round_face(light.at, light.forward, width / 2)
    return square_face(light.at, light.forward, width, height)


def hole_of(light: Light) -> float:
    """Width of the hole a lens looks through as a share of a ring's own; 0 for all other lights."""
    if light.modifier is not None:
        return HOLE["modifier"] if light.modifier.form == "ring" else 0.0
    return HOLE["lamp"] if isinstance(light.head, Lamp) and light.head.form == "ring" else 0.0


def body_of(light: Light, face: Vector) -> tuple[Surface, ...]:
    """The modifier as a body: a white face and a black outside. Lanterns and shoot-through umbrellas let
    light through themselves and small heads hide nothing: they have none."""
    modifier = light.modifier
    if modifier is None or modifier.width is None or modifier.width.value < 0.25:
        return ()
    if modifier.form == "lantern" or modifier.umbrella == "shoot-through":
        return ()
    assert light.at is not None and light.forward is not None
    deep = max(value(modifier.depth) or 0.05, 0.02)
    if modifier.height is None:
        front = round_face(light.at, light.forward, modifier.width.value / 2, 8)
    else:
        front = square_face(light.at, light.forward, modifier.width.value, modifier.height.value)
    back = light.at - light.forward * deep + (front - light.at) * TAPER
    sides = [
        np.array([a, c, d, b])
        for a, b, c, d in zip(front, np.roll(front, -1, axis=0), back, np.roll(back, -1, axis=0), strict=True)
    ]
    rest = (*sides, back[::-1])
    name = light.name
    return (
        Surface(f"{name}'s face", light.path, (front,), grey(FRONT), body=light.path, sheds=True),
        Surface(f"{name}'s outside", light.path, rest, grey(BODY), body=light.path, fine=4.0, sheds=True),
    )
