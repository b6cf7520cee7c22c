"""A set in its light: what each light gives at the subject, directly and by way of the room, at full power;
the powers that suit the shot; and every figure that follows from them.

Amounts are lx s for flash and lx for continuous light until they are joined as exposures.
"""

import math
from copy import copy
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from evrant.core.base.memo import Memo, is_fresh
from evrant.core.light import photometry as ph
from evrant.core.light.beams import FIRST, Beam, beams_of
from evrant.core.light.bounce.enclosure import Reading, Settled, direct, settled
from evrant.core.light.bounce.patches import blockers_of
from evrant.core.light.bounce.sources import Source
from evrant.core.light.bounce.surfaces import Bands
from evrant.core.light.colour import LUMINANCE, luminance
from evrant.core.light.emission import Missing
from evrant.core.light.powers import Asked, role_stops, settable, solved
from evrant.core.light.receivers import Rows, rows_of
from evrant.core.light.surroundings import Surroundings, surroundings
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import Flash, Lamp
from evrant.core.studio.sets import used_by

LEDGER_PATCHES, PAGE_PATCHES = 140, 1000
FROM_BEHIND = ("rim", "hair light")
"""Lights whose part is told by a meter turned to them."""
ALIKE = 1 / 3
"""Lights that are meant to be within so much of each other are set alike [stops]: the usual step; project choice."""
_LIT: Memo["Lit"] = Memo(48_000_000, lambda lit: lit.weight)


@dataclass(frozen=True, eq=False)
class Lit:
    """Light at the receivers by source: `direct` and `returned` (rows, sources, 3) at full power."""

    scene: Scene
    beams: tuple[Beam, ...]
    missing: tuple[Missing, ...]
    rows: Rows
    direct: NDArray[np.float64]
    returned: NDArray[np.float64]
    settled: Settled | None
    reading: Reading | None
    first: NDArray[np.float64] | None
    around: Surroundings | Missing
    weight: int = field(default=100_000)

    @property
    def whole(self) -> NDArray[np.float64]:
        """(rows, sources, 3), direct and returned."""
        return self.direct + self.returned

    def row(self, name: str) -> int:
        return int(self.rows.at[name].start)

    @property
    def lead(self) -> str:
        """Whose body the receivers at the face lie inside."""
        return self.rows.owners[self.row("face")]

    def dome(self, name: str, part: NDArray[np.float64]) -> NDArray[np.float64]:
        """An ideal dome from its three rows (all round, ahead, behind): (sources, 3)."""
        rows = part[self.rows.at[name]]
        return np.asarray((rows[0] + rows[1] - rows[2]) / 2)

    @cached_property
    def incident(self) -> Bands | None:
        """All light arriving at every patch as set (n, 3) [lx s]; None where the room is not known."""
        if self.settled is None or self.first is None or not self.beams:
            return None
        return self.settled.incident(self.first * self.doses, [b.source for b in self.beams])

    @cached_property
    def slopes(self) -> dict[tuple[str, ...], dict[int, NDArray[np.float64]]]:
        """What `reflectance_shares` has found, by receivers."""
        return {}

    @cached_property
    def key(self) -> int | None:
        """Number of the light the picture is exposed for; where no light is set up, the brightest window."""
        for role in FIRST:
            for i, beam in enumerate(self.beams):
                if beam.kind != "around" and beam.role == role:
                    return i
        if any(beam.light is not None for beam in self.beams):
            return None
        windows = [i for i, beam in enumerate(self.beams) if beam.role == "window"]
        return max(windows, key=lambda i: float(self.dome("face", self.whole)[i] @ LUMINANCE), default=None)

    @cached_property
    def powers(self) -> NDArray[np.float64]:
        """Share of full power each source is set to (sources,): as typed, else as the whole set asks, in the steps a
        head has; the key is set last, with those it is alike, and takes up what the others' steps leave."""
        powers = self.meant.copy()
        free = np.isnan(self._typed)
        last = [i for i in self._alike if free[i]]
        for i, beam in enumerate(self.beams):
            if beam.light is not None and free[i] and i not in last:
                powers[i] = settable(beam.light.head, powers[i])
        if last:
            powers = self._solved(typed=True, held={i: p for i, p in enumerate(powers) if i not in last})
        for i in last:
            light = self.beams[i].light
            powers[i] = settable(light.head if light else None, float(np.exp(np.log(powers[last]).mean())))
        return powers

    @property
    def _alike(self) -> list[int]:
        """The key, and lights of its role and head that are meant to be as strong: nobody sets such a pair apart."""
        if self.key is None or (light := self.beams[self.key].light) is None:
            return []
        apart = np.abs(np.log2(self.meant / self.meant[self.key]))
        same = [b.light is not None and (b.role, b.light.head) == (light.place.role, light.head) for b in self.beams]
        return [i for i in range(len(self.beams)) if i == self.key or (same[i] and apart[i] <= ALIKE)]

    @cached_property
    def meant(self) -> NDArray[np.float64]:
        """Share of full power each source is set to before a head's steps round it (sources,), within its range."""
        return self._solved(typed=True)

    @property
    def metered(self) -> NDArray[np.float64]:
        """(sources,) exposure on a dome at the subject by each light as it is meant to be set [lx s]."""
        return np.asarray(self.dome("face", self.whole) @ LUMINANCE * self.times * self.meant)

    @cached_property
    def suited(self) -> NDArray[np.float64]:
        """Share of full power that suits each source (sources,), whatever is typed; over 1 where it is too weak."""
        return self._solved(typed=False)

    def wish(self, index: int) -> float:
        """Share of full power that gives a light what its role asks for; 1 where nothing asks."""
        return float(self.suited[index])

    def alone(self, index: int) -> float:
        """Share of full power by which a light does its part with no other light there: for looks at one light."""
        got, ratio = self.measured(index) * float(self.times[index]), self._ratio(index)
        return self.needed * ratio / got if self.needed is not None and got > 0 and ratio > 0 else self.wish(index)

    def ends(self, index: int) -> tuple[float, float]:
        """Least and greatest power of a source; a lamp that is not said to dim is as bright as it is."""
        light = self.beams[index].light
        head = light.head if light else None
        if isinstance(head, Flash):
            return head.lowest_power or 1e-4, 1.0
        return (head.dims_to if isinstance(head, Lamp) else None) or 1.0, 1.0

    @cached_property
    def _typed(self) -> NDArray[np.float64]:
        """Powers that are not to be found (sources,): typed ones, what has no power, and lamps without a shutter."""
        timed = self.scene.shot.shutter is not None
        found = []
        for beam in self.beams:
            power = beam.light.place.power if beam.light is not None else 1.0
            found.append(1.0 if power is None and beam.kind == "steady" and not timed else power)
        return np.array([np.nan if power is None else power for power in found], dtype=float)

    def _solved(self, *, typed: bool, held: dict[int, float] | None = None) -> NDArray[np.float64]:
        """Powers that suit: beside those typed, within every head's range; or all of them, out of range too."""
        needed = self.needed
        fixed = self._typed.copy()
        if not typed:
            fixed[[i for i, beam in enumerate(self.beams) if beam.light is not None]] = np.nan
        if needed is None or not len(self.beams):
            return np.where(np.isnan(fixed), 1.0, fixed)
        for number, power in (held or {}).items():
            fixed[number] = power
        low, high = (np.array(ends) for ends in zip(*(self.ends(i) for i in range(len(self.beams))), strict=True))
        if not typed:
            low, high = np.full_like(low, 1e-9), np.full_like(high, 1e9)
        return solved(self._asked(needed, low, high), fixed)

    def _asked(self, needed: float, low: NDArray[np.float64], high: NDArray[np.float64]) -> Asked:
        """What the lights give at full power, and what is asked of them."""
        time, count = self.times, range(len(self.beams))
        behind = np.zeros(len(self.beams))
        if "ground" in self.rows.at:
            behind = self.whole[self.rows.at["ground"]].mean(axis=0) @ LUMINANCE * time
        tone, grey = background_wish(self.scene), self.ground_reflectance
        wall = needed if tone is None else needed * tone / grey if grey else None
        return Asked(
            front=self.dome("face", self.whole) @ LUMINANCE * time,
            counted=np.array([self._counted(i) for i in count]) * time,
            behind=behind,
            ratio=np.array([self._ratio(i) for i in count]),
            tone=np.array([b.role == "background light" for b in self.beams]),
            low=low,
            high=high,
            needed=needed,
            ground=wall if behind.any() else None,
            key=self.key,
        )

    def _ratio(self, index: int) -> float:
        """Share of the key's level that a light's role asks for; 0 where none does. Where no role does but the key's
        own, as of two lanterns, each has its part."""
        beam = self.beams[index]
        stops = role_stops(beam.role, self.scene.shot.contrast)
        leads = self.key is not None and beam.role == self.beams[self.key].role
        if beam.light is None or (stops is None and not leads):
            return 0.0
        return float(2 ** (stops or 0.0))

    def _counted(self, index: int) -> float:
        """What a light gives where its part is told [lx s or lx]: of light from the front on several people, the mean
        over their faces, so that none of two keys gets less power for being nearer to who is metered."""
        people = [one for one in self.scene.shot.subjects if one.kind == "person"]
        others = [name for one in people if (name := f"subject {one.id}") in self.rows.at]
        if not others or not self.scene.shot.of_person or self.beams[index].role in FROM_BEHIND:
            return self.measured(index)
        return float(np.mean([luminance(self.dome(name, self.whole)[index]) for name in ("face", *others)]))

    @property
    def ground_reflectance(self) -> float | None:
        """Reflectance of what the picture shows behind its subject, as a share."""
        return self.rows.ground.share if self.rows.ground else None

    def measured(self, index: int) -> float:
        """What a light gives where it counts [lx s or lx]: on a dome to the lens from the front, flat to
        the light from behind."""
        beam = self.beams[index]
        if beam.role in FROM_BEHIND and f"to {beam.path}" in self.rows.at:
            flat = float(luminance(self.whole[self.row(f"to {beam.path}"), index]))
            return flat * ph.DOME / ph.FLAT
        return float(luminance(self.dome("face", self.whole)[index]))

    @property
    def needed(self) -> float | None:
        """Exposure the shot asks for at the face [lx s], the filter on the lens and a close distance counted."""
        shot = self.scene.shot
        if shot.aperture is None or shot.iso is None:
            return None
        needed = ph.needed_exposure(shot.aperture.value, shot.iso) * 2**shot.dark_filter
        return needed * ph.close_up(self.scene.magnification)

    @property
    def time(self) -> float:
        """How long light that shines on counts [s]; the usual time where none is set."""
        return self.scene.shot.shutter or 1 / 125

    @cached_property
    def times(self) -> NDArray[np.float64]:
        """(sources,) what turns each source's amount into exposure: 1 for a flash, the time for what shines on [s];
        of a flash that pulses through a short shutter time, its part."""
        return np.array([self._flashed(beam) if beam.kind == "flash" else self.time for beam in self.beams])

    def _flashed(self, beam: Beam) -> float:
        sync = self.scene.body.sync_shutter if self.scene.body else None
        head = beam.light.head if beam.light else None
        return pulsed(self.scene.shot.shutter, sync, head) if isinstance(head, Flash) else 1.0

    @property
    def exposed(self) -> float:
        """Exposure on a dome at the subject that the camera is set for [lx s]; where it is not set, what is there."""
        settled = self.scene.shot.shutter is not None or all(b.kind == "flash" for b in self.beams)
        return self.needed if self.needed is not None and settled else self.total("face")

    @cached_property
    def doses(self) -> NDArray[np.float64]:
        """(sources,) factor that turns full-power amounts into exposure [lx s]: power, and time for what shines on."""
        return np.asarray(self.powers * self.times)

    def exposure(self, name: str, part: NDArray[np.float64] | None = None) -> NDArray[np.float64]:
        """(sources, 3) exposure [lx s] as set: on a dome where the receiver is one, else flat."""
        rows = self.rows.at[name]
        amounts = self.whole if part is None else part
        here = self.dome(name, amounts) if rows.stop - rows.start == 3 else amounts[rows].mean(axis=0)
        return np.asarray(here * self.doses[:, None])

    def total(self, name: str, part: NDArray[np.float64] | None = None) -> float:
        """Luminous exposure of everything in the picture [lx s]."""
        return float(luminance(self.exposure(name, part).sum(axis=0)))


PULSED = 0.25
"""What a flash that pulses through a short shutter time gives of its full light at the sync time; about two stops are
lost at once, common practice, no source."""


def pulsed(shutter: float | None, sync: float | None, head: Flash) -> float:
    """Share of a flash's light that a shutter time lets in: all to the sync time, then, where the head can pulse on, a
    quarter that falls with the time."""
    if shutter is None or sync is None or not head.high_speed or math.log2(shutter / sync) + 1 / 6 >= 0:
        return 1.0
    return PULSED * shutter / sync


TONES = {"white": 0.90, "grey": 0.18, "black": 0.023}


def background_wish(scene: Scene) -> float | None:
    """Luminance the background should have, relative to a perfect white at the subject."""
    return TONES.get(scene.shot.tone or ("white" if scene.shot.pattern == "silhouette" else ""))


def lit(scene: Scene, patches: int = LEDGER_PATCHES, *, bodies: bool = True) -> Lit | Missing:
    """The set in its light. Missing when there is nobody to light or no light that can be computed at all.

    Without `bodies` nobody in the picture shades or returns light: to tell how much they do."""
    if scene.face is None or scene.axis is None:
        return Missing("The subject has no place yet.", f"{scene.path}/mark")
    if not bodies:
        return _lit(scene, patches, bodies=False)
    if is_fresh():  # nothing is remembered then but with the scene itself
        held: dict[int, Lit] = scene.__dict__.setdefault("_lit", {})
        if patches not in held:
            held[patches] = _lit(scene, patches, bodies=True)
        return held[patches]
    used = [scene.gear[key] for key in used_by(scene.plan) if key in scene.gear]
    parts = (scene.room, scene.brief, scene.shot, scene.plan, *used, *scene.parts_beside)
    return _LIT.get(str(patches), parts, lambda: _lit(scene, patches, bodies=True))


def _lit(scene: Scene, patches: int, *, bodies: bool) -> Lit:
    around = surroundings(scene, bodies=bodies)
    beams, missing = beams_of(scene)
    rows = rows_of(scene, beams)
    sources = [beam.source for beam in beams]
    if isinstance(around, Missing):
        alone = _unhindered(rows, sources)
        return Lit(_apart(scene), beams, missing, rows, alone, np.zeros_like(alone), None, None, None, around)
    rest = _settled(around, sources, patches)
    reading = rest.reading(rows.points, rows.ways, rows.owners)
    first = rest.first_light(sources)
    weight = 200_000 + 16 * rest.patches.count**2 + 16 * reading.factors.size
    return Lit(
        _apart(scene),
        beams,
        missing,
        rows,
        reading.direct(sources),
        reading.returned_by(first, sources),
        rest,
        reading,
        first,
        around,
        weight,
    )


def _apart(scene: Scene) -> Scene:
    """The scene without what it holds of its light: in a ring of the two both would outlive everybody's use."""
    own = copy(scene)
    own.__dict__.pop("_lit", None)
    return own


def _settled(around: Surroundings, sources: list[Source], patches: int) -> Settled:
    return settled(around.enclosure(patches), sources)


def _unhindered(rows: Rows, sources: list[Source]) -> NDArray[np.float64]:
    """Direct light alone, where the room is not known."""
    nothing = blockers_of([])
    found = np.zeros((len(rows.points), len(sources), 3))
    for s, source in enumerate(sources):
        found[:, s] = direct(source, rows.points, rows.ways, nothing)[:, None] * source.flux
    return found
