"""A set in its light: what each light gives at the subject, directly and by way of the room, at full power;
the powers that suit the shot; and every figure that follows from them.

Amounts are lx s for flash and lx for continuous light until they are joined as exposures.
"""

import math
from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from evrant.core.base.memo import Memo
from evrant.core.base.tables import finishes
from evrant.core.base.tables.countries import MAINS
from evrant.core.light import photometry as ph
from evrant.core.light.bounce.enclosure import Reading, Settled, direct, settled
from evrant.core.light.bounce.patches import blockers_of
from evrant.core.light.bounce.sources import Source, round_face
from evrant.core.light.bounce.surfaces import Bands
from evrant.core.light.colour import LUMINANCE, bands_of, gelled, luminance
from evrant.core.light.emission import DAYLIGHT, Emission, Missing, emission
from evrant.core.light.face import nose_of, to_lens, turned
from evrant.core.light.powers import Asked, role_stops, settable, solved
from evrant.core.light.spread import everywhere
from evrant.core.light.surroundings import Surroundings, surroundings, window_face
from evrant.core.space.figures import extent
from evrant.core.space.scene import Light, Scene
from evrant.core.space.solids import Points, Vector, frame_axes, unit
from evrant.core.studio.gear import Flash, Gel, Lamp
from evrant.core.studio.room import value
from evrant.core.studio.sets import used_by

Kind = Literal["flash", "steady", "around"]
LEDGER_PATCHES, PAGE_PATCHES = 140, 1000
FIRST = ("key", "ring light", "top light", "under-light", "practical", "fill")
SKY, BULB = 6500.0, 3000.0
"""Colour temperature of daylight by a window and of a room's lamp, where none is entered [K]."""
SIDE = 45.0
"""The two normals contrast is told by: so far round from the nose line, to the key's side and away [degrees]."""
_LIT: Memo["Lit"] = Memo(48_000_000, lambda lit: lit.weight)


@dataclass(frozen=True, eq=False)
class Beam:
    """One source of light in a set: a light of it, a window, a lamp of the room."""

    name: str
    path: str
    kind: Kind
    source: Source
    emission: Emission | None = None
    role: str = ""
    stands_at: float | None = None
    """Colour temperature entered for what stands as it is [K]."""

    @property
    def kelvin(self) -> float:
        """Colour temperature, gel counted; the usual one where none is entered [K]."""
        if self.emission is not None:
            return self.emission.kelvin
        return self.stands_at or (SKY if self.role == "window" else BULB)

    @property
    def kelvin_known(self) -> bool:
        return self.emission.kelvin_known if self.emission is not None else self.stands_at is not None

    @property
    def light(self) -> Light | None:
        return self.emission.light if self.emission else None


@dataclass(frozen=True, eq=False)
class Rows:
    """Receivers with names: each is a row, or several, of the reading."""

    points: Points
    ways: Points
    at: dict[str, slice]


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
        head has; the key is set last and takes up what the others' steps leave."""
        powers = self.meant.copy()
        free = np.isnan(self._typed)
        order = sorted(range(len(self.beams)), key=lambda i: i == self.key)
        for i in order:
            light = self.beams[i].light
            if light is not None and free[i]:
                if i == self.key:
                    powers = self._solved(typed=True, held={j: powers[j] for j in order if j != i})
                powers[i] = settable(light.head, powers[i])
        return powers

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
        wall = needed * tone / grey if tone is not None and grey and behind.any() else None
        return Asked(
            front=self.dome("face", self.whole) @ LUMINANCE * time,
            counted=np.array([self.measured(i) for i in count]) * time,
            behind=behind,
            ratio=np.array([self._ratio(i) for i in count]),
            tone=np.array([b.role == "background light" for b in self.beams]),
            low=low,
            high=high,
            needed=needed,
            ground=wall,
            key=self.key,
        )

    def _ratio(self, index: int) -> float:
        """Share of the key's level that a light's role asks for; 0 where none does."""
        beam = self.beams[index]
        stops = role_stops(beam.role, self.scene.shot.contrast)
        if beam.light is None or (stops is None and index != self.key):
            return 0.0
        return float(2 ** (stops or 0.0))

    @property
    def ground_reflectance(self) -> float | None:
        item = self.scene.backdrop
        if item is not None:
            return item.reflectance.value / 100 if item.reflectance else None
        if self.scene.bare_wall is None or self.scene.walls is None:
            return None
        finish = self.scene.room.edges(self.scene.walls.count)[self.scene.bare_wall].finish
        return finish.lrv.value / 100 if finish.lrv else None

    def measured(self, index: int) -> float:
        """What a light gives where it counts [lx s or lx]: on a dome to the lens from the front, flat to
        the light from behind."""
        beam = self.beams[index]
        if beam.role in ("rim", "hair light") and f"to {beam.path}" in self.rows.at:
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
        """(sources,) what turns each source's amount into exposure: 1 for a flash, the time for what shines on [s]."""
        return np.array([1.0 if beam.kind == "flash" else self.time for beam in self.beams])

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


TONES = {"white": 0.90, "grey": 0.18, "black": 0.023}


def background_wish(scene: Scene) -> float | None:
    """Luminance the background should have, relative to a perfect white at the subject."""
    return TONES.get(scene.shot.tone or ("white" if scene.shot.pattern == "silhouette" else ""))


def lit(scene: Scene, patches: int = LEDGER_PATCHES) -> Lit | Missing:
    """The set in its light. Missing when there is nobody to light or no light that can be computed at all."""
    if scene.face is None or scene.axis is None:
        return Missing("The subject has no place yet.", f"{scene.path}/mark")
    held: dict[int, Lit] = scene.__dict__.setdefault("_lit", {})
    if patches not in held:
        used = [scene.gear[key] for key in used_by(scene.plan) if key in scene.gear]
        parts = (scene.room, scene.brief, scene.shot, scene.plan, *used)
        held[patches] = _LIT.get(str(patches), parts, lambda: _lit(scene, patches))
    return held[patches]


def _lit(scene: Scene, patches: int) -> Lit:
    around = surroundings(scene)
    beams, missing = beams_of(scene)
    rows = rows_of(scene, beams)
    sources = [beam.source for beam in beams]
    if isinstance(around, Missing):
        alone = _unhindered(rows, sources)
        return Lit(scene, beams, missing, rows, alone, np.zeros_like(alone), None, None, None, around)
    rest = _settled(around, sources, patches)
    reading = rest.reading(rows.points, rows.ways)
    first = rest.first_light(sources)
    weight = 200_000 + 16 * rest.patches.count**2 + 16 * reading.factors.size
    return Lit(
        scene,
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


def _settled(around: Surroundings, sources: list[Source], patches: int) -> Settled:
    return settled(around.enclosure(patches), sources)


def _unhindered(rows: Rows, sources: list[Source]) -> NDArray[np.float64]:
    """Direct light alone, where the room is not known."""
    nothing = blockers_of([])
    found = np.zeros((len(rows.points), len(sources), 3))
    for s, source in enumerate(sources):
        found[:, s] = direct(source, rows.points, rows.ways, nothing)[:, None] * source.flux
    return found


def beams_of(scene: Scene) -> tuple[tuple[Beam, ...], tuple[Missing, ...]]:
    """Every source of a set; what cannot be computed is said."""
    volts = MAINS[scene.brief.country].volts
    reference = working_white(scene)
    found, missing = [], []
    for light in scene.lights:
        gel = scene.gear.get(light.place.gel or "")
        got = emission(light, gel if isinstance(gel, Gel) else None, volts, reference)
        if isinstance(got, Missing):
            missing.append(got)
            continue
        if _outside(scene, light):
            missing.append(Missing(f"The {light.name} is not inside the room.", light.path))
            continue
        kind: Kind = "steady" if got.steady else "flash"
        found.append(Beam(light.name, light.path, kind, got.source, got, light.place.role))
    for beam in _around(scene, reference):
        if isinstance(beam, Missing):
            missing.append(beam)
        else:
            found.append(beam)
    return tuple(found), tuple(missing)


def _outside(scene: Scene, light: Light) -> bool:
    """Whether a light is behind a wall or over the ceiling, from where the solve would let it shine in."""
    if light.at is None or scene.walls is None:
        return False
    if not scene.walls.contains(light.at[None, :2]).all():
        return True
    return scene.ceiling is not None and float(light.at[2]) > scene.ceiling.height(
        float(light.at[0]), float(light.at[1])
    )


def working_white(scene: Scene) -> float:
    """Colour temperature the bands are relative to: the key's, gel counted; daylight's where no light is set up."""
    ranked = sorted(scene.lights, key=lambda one: FIRST.index(one.place.role) if one.place.role in FIRST else 99)
    for light in ranked:
        if light.head is not None:
            gel = scene.gear.get(light.place.gel or "")
            own = light.head.kelvin.value if light.head.kelvin else DAYLIGHT
            return gelled(own, gel.shift or 0.0) if isinstance(gel, Gel) else own
    return SKY if scene.shot.around in ("daylight", "daylight and room lamps") else DAYLIGHT


def _around(scene: Scene, reference: float) -> list["Beam | Missing"]:
    """Windows by day and lamps of the room, where the shot leaves them on."""
    found: list[Beam | Missing] = []
    around = scene.shot.around
    if around in ("daylight", "daylight and room lamps") and scene.walls is not None:
        for window in scene.room.windows:
            face = window_face(scene.walls, scene.room, window)
            if face is None or window.blackout == "in place":
                continue
            path = f"room/windows/{window.id}"
            if window.daylight is None:
                found.append(Missing(f"The daylight on the {window.name} is missing.", path))
                continue
            area = (window.width.value if window.width else 0.0) * (window.height.value if window.height else 0.0)
            flux = window.daylight.value * finishes.WINDOW_LETS_IN * area
            way = unit(np.cross(face[1] - face[0], face[2] - face[1]))
            source = Source(window.name, face + way * 1e-4, way, frame_axes(way)[0], flux * bands_of(SKY, reference))
            found.append(Beam(window.name, path, "around", source, role="window"))
    if around in ("room lamps on", "daylight and room lamps"):
        for box in scene.room.boxes:
            if box.kind != "lamp" or box.x is None or box.y is None or box.length is None or box.width is None:
                continue
            path = f"room/boxes/{box.id}"
            if box.lumens is None:
                found.append(Missing(f"The luminous flux of the {box.name} is missing.", path))
                continue
            low = (value(box.base) or 0.0) - 0.02
            spot = np.array([box.x.value + box.length.value / 2, box.y.value + box.width.value / 2, max(low, 0.05)])
            down = np.array([0.0, 0.0, -1.0])
            kelvin = box.kelvin.value if box.kelvin else BULB
            source = Source(
                box.name,
                round_face(spot, down, 0.06, 8),
                down,
                frame_axes(down)[0],
                box.lumens.value * bands_of(kelvin, reference),
                everywhere(0.2),
            )
            stands_at = box.kelvin.value if box.kelvin else None
            found.append(Beam(box.name, path, "around", source, role="room lamp", stands_at=stands_at))
    return found


def key_side(scene: Scene, beams: tuple[Beam, ...]) -> float:
    """1 when the key stands to the subject's left of the nose line, −1 to its right."""
    nose = nose_of(scene)
    left = np.array([-nose[1], nose[0], 0.0])
    for role in FIRST:
        for beam in beams:
            if beam.role == role and beam.light is not None and beam.light.at is not None and scene.face is not None:
                return 1.0 if float((beam.light.at - scene.face) @ left) >= 0 else -1.0
    windows = [] if any(beam.light is not None for beam in beams) else [b for b in beams if b.role == "window"]
    if windows and scene.face is not None:
        face = scene.face
        near = min(windows, key=lambda b: float(np.linalg.norm(b.source.centre - face)))
        return 1.0 if float((near.source.centre - face) @ left) >= 0 else -1.0
    return 1.0


def rows_of(scene: Scene, beams: tuple[Beam, ...]) -> Rows:
    """Where light is asked for in a set."""
    assert scene.face is not None
    points: list[Vector] = []
    ways: list[Vector] = []
    at: dict[str, slice] = {}

    def put(name: str, spots: list[Vector], normals: list[Vector]) -> None:
        at[name] = slice(len(points), len(points) + len(spots))
        points.extend(spots)
        ways.extend(normals)

    face, lens, nose = scene.face, to_lens(scene), nose_of(scene)
    none, up = np.zeros(3), np.array([0.0, 0.0, 1.0])

    def dome(name: str, spot: Vector) -> None:
        put(name, [spot] * 3, [none, lens, -lens])

    dome("face", face)
    side = key_side(scene, beams)
    put("key side", [face], [turned(nose, SIDE * side)])
    put("shadow side", [face], [turned(nose, -SIDE * side)])
    left = turned(nose, 90)
    put("cube", [face] * 6, [nose, -nose, left, -left, up, -up])
    for beam in beams:
        if beam.light is not None and beam.light.at is not None:
            put(f"to {beam.path}", [face], [unit(beam.light.at - face)])
    for name, spot in body_points(scene):
        dome(name, spot)
    ground = ground_points(scene)
    if ground is not None:
        put("ground", [*ground[0]], [ground[1]] * len(ground[0]))
    return Rows(np.array(points), np.array(ways), at)


def body_points(scene: Scene) -> list[tuple[str, Vector]]:
    """Top to bottom of what is in the frame, and each further subject of a group."""
    found: list[tuple[str, Vector]] = []
    if scene.face is None or scene.wanted is None:
        return found
    low = max(scene.wanted.top - scene.wanted.height.value, 0.0)
    low = max(low, min((s.base.value if s.base else 0.0 for s in scene.shot.subjects), default=0.0)) + 0.02
    lead = scene.shot.subjects[0]
    if lead.height is not None and not scene.overhead:
        edge = (lead.base.value if lead.base else 0.0) + extent(lead, lead.height.value).top
        high = max(min(edge, scene.wanted.top) - 0.02, float(scene.face[2]))
        found.append(("top", np.array([scene.face[0], scene.face[1], high])))
    for i, share in enumerate((0.25, 0.5, 0.75, 1.0)):
        spot = np.array([scene.face[0], scene.face[1], scene.face[2] + (low - scene.face[2]) * share])
        found.append((f"down {i + 1}", spot))
    angle = math.radians(scene.facing)
    ahead, left = np.array([math.cos(angle), math.sin(angle)]), np.array([-math.sin(angle), math.cos(angle)])
    if scene.mark is not None:
        for one in scene.shot.subjects[1:]:
            spot = scene.mark + ahead * one.ahead + left * one.across
            found.append((f"subject {one.id}", np.array([*spot, scene.face[2]])))
    return found


def ground_points(scene: Scene) -> tuple[Points, Vector] | None:
    """5 × 5 points over the part of the background behind the frame, and its normal."""
    line = scene.line
    if line is None or scene.wanted is None or scene.overhead:
        return None
    spot, way = line
    along = np.array([way[1], -way[0]])
    ends, top = scene.background_ends, scene.background_top
    if ends is None or top is None:
        return None
    grown = 1.0
    if scene.distance and scene.aim is not None:
        behind = abs(float((scene.aim[:2] - spot) @ way))
        grown = (scene.distance + behind) / scene.distance
    half = min(scene.wanted.width * grown / 2, float(np.linalg.norm(ends[1] - ends[0])) / 2)
    middle = (ends[0] + ends[1]) / 2 if scene.bare_wall is None else spot
    high = scene.wanted.height.value * grown / 2
    low, high = max(scene.wanted.middle - high, 0.03), min(scene.wanted.middle + high, top - 0.03)
    if high <= low:
        return None
    points = [
        np.array([*(middle + along * half * (2 * a - 1) + way * 0.004), low + (high - low) * b])
        for a in (0.1, 0.3, 0.5, 0.7, 0.9)
        for b in (0.1, 0.3, 0.5, 0.7, 0.9)
    ]
    return np.array(points), np.array([*way, 0.0])
