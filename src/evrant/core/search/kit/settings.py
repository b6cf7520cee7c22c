"""Settings and light a shot can be taken with: a flash, lamps that stay on, the window; what of it the camera has."""

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from itertools import chain

from evrant.core.base.quantity import F_NUMBER
from evrant.core.base.tables.steps import ISOS, SLOWEST, nearest_time
from evrant.core.edits.language import Edit, SetFields
from evrant.core.light import photometry as ph
from evrant.core.light.colour import LUMINANCE
from evrant.core.light.lit import Lit, lit
from evrant.core.place.moves import change
from evrant.core.place.patterns import PATTERNS
from evrant.core.search.kit.casting import case_of
from evrant.core.search.kit.lenses import Lenses
from evrant.core.search.kit.market import market
from evrant.core.search.kit.stage import Stage
from evrant.core.space.framing import cleanest_iso
from evrant.core.space.scene import Scene
from evrant.core.space.wanted import holds_for
from evrant.core.studio.gear import Camera, Lens
from evrant.core.studio.shots import LIVING, Pattern, Shot
from evrant.core.studio.studio import Studio, by_id
from evrant.core.studio.words import f_words, time_words

FLASHED = ((100, 5.6), (200, 5.6), (400, 5.6), (400, 4.0))
"""ISO and aperture for a flash that is too weak; common practice, no source."""
ON_PEOPLE, ON_THINGS = (400.0, 1500.0, 150.0), (150.0, 600.0, 40.0)
"""What lamps of usual strength, softened and turned down a little, give a face or a table top [lx]; common practice,
no source."""
STEADY = 1 / 60
"""Longest shutter for those who hold still [s]; common practice, no source."""
OPEN_PEOPLE, OPEN_THINGS = 4.0, 8.0
"""Aperture for people and for things where the shot names none; common practice, no source."""
WINDOW: Pattern = "window and reflector"
Fields = dict[str, object]
Lights = Callable[[Studio, Shot], "Iterable[Way]"]
"""Ways of lighting a shot."""


@dataclass(frozen=True)
class Way:
    """A change of a shot or of the room, in words and as edits."""

    words: tuple[str, ...]
    edits: tuple[Edit, ...]
    place: str = ""
    """What of it the room's fit hangs on: where that fails once, no other light helps."""
    light: str = ""
    """What a shot is lit by, where that is another than asked for."""
    setting: str = ""
    """Which of the words say how the camera is set."""

    @property
    def besides(self) -> tuple[str, ...]:
        """What is changed but the camera's settings."""
        return tuple(words for words in self.words if words != self.setting)

    def joined(self, other: "Way") -> "Way":
        light, setting = other.light or self.light, other.setting or self.setting
        return Way((*self.words, *other.words), (*self.edits, *other.edits), self.place + other.place, light, setting)


def lights(studio: Studio, shot: Shot) -> Iterator[Way]:
    """Settings that suit the camera, and another light: flash a little weaker, lamps, the window."""
    seen: list[Shot | None] = []
    for way in chain(by_flash(studio, shot), by_lamps(studio, shot), by_window(studio, shot)):
        after = by_id(change(studio, way.edits[0]).shots, shot.id)
        if after not in (shot, *seen):
            seen.append(after)
            yield way


def by_flash(studio: Studio, shot: Shot) -> Iterator[Way]:
    """More sensitive or wider open, where the camera fires a flash."""
    if shot.capture == "video" or not fires_flash(studio):
        return
    for iso, stop in FLASHED:
        if shot.aperture is None or stop < shot.aperture.value or iso != shot.iso:
            wider = min(stop, shot.aperture.value) if shot.aperture else stop
            yield _way(studio, shot, wider, iso)


def by_lamps(studio: Studio, shot: Shot) -> Iterator[Way]:
    """By lamps of usual strength; ISO and shutter follow from what they give."""
    living = any(subject.kind in LIVING for subject in shot.subjects)
    by_day = shot.pattern == WINDOW
    fields: Fields = {"pattern": "loop" if living else "side", "around": "dark"} if by_day else {}
    for strong in ON_PEOPLE if living else ON_THINGS:
        yield _by(studio, shot, strong, fields, "lit by lamps")


def by_window(studio: Studio, shot: Shot) -> Iterator[Way]:
    """By what the windows give, where they are not blacked out and that is known."""
    if any(window.blackout != "in place" for window in studio.room.windows):
        wish: Fields = {"pattern": WINDOW, "around": "daylight"}
        lux = daylight(studio, shot.changed(pattern=WINDOW, around="daylight"))
        if lux is not None:
            for share in (1.2, 0.8):
                yield _by(studio, shot, lux * share, wish, "by the window")


def _by(studio: Studio, shot: Shot, lux: float, fields: Fields, light: str) -> Way:
    """A shot taken by so much light that shines on [lx]: as short as the subject needs, then as little ISO."""
    living = any(subject.kind in LIVING for subject in shot.subjects)
    film = shot.capture == "video"
    usual = OPEN_PEOPLE if living else OPEN_THINGS
    stop = suited(studio, min(usual, shot.aperture.value) if shot.aperture else usual)
    least = _least_iso(studio)
    longest = (shot.shutter or STEADY) if film else holds_for(shot) or SLOWEST
    able = [one for one in ISOS if least <= one <= _most_iso(studio)] or [least]
    iso = next((one for one in able if ph.needed_exposure(stop, one) / lux <= longest * 1.1), able[-1])
    time = longest if film else min(nearest_time(ph.needed_exposure(stop, iso) / lux), longest)
    return _way(studio, shot, stop, iso, {"shutter": time, **fields}, light)


def _usually(studio: Studio, shot: Shot) -> tuple[Scene, Scene] | None:
    """A shot without lights as it usually stands, in the open and in its room."""
    alone = studio.changed(shots=(shot,), sets=())
    goods = market(alone, ())
    case = case_of(alone, shot, goods)
    framed = "lens" in case.slots and case.slots["lens"].keys
    return Lenses(Stage(alone, goods)).usually(case) if framed else None


CROPPED = 0.4
"""Where a lens does not focus so near, daylight is asked for as from where it does: what falls on the subject is much
the same. So much of each side of the picture is kept then."""


def daylight(studio: Studio, shot: Shot) -> float | None:
    """What the windows give the subject where the shot usually stands [lx]; None where that is not known."""
    if shot.aperture is not None:
        shot = shot.changed(aperture=F_NUMBER.figure(suited(studio, shot.aperture.value)))
    usual = _usually(studio, shot) or _usually(studio, shot.changed(kept=min(shot.kept, CROPPED)))
    state = None if usual is None else lit(usual[1])
    if not isinstance(state, Lit):
        return None
    amount = state.dome("face", state.whole) @ LUMINANCE
    found = sum(float(a) for a, beam in zip(amount, state.beams, strict=True) if beam.role == "window")
    return found or None


def _way(studio: Studio, shot: Shot, stop: float, iso: int, more: Fields | None = None, light: str = "") -> Way:
    """A change of settings, held within what the camera and its lenses have."""
    stop, iso = suited(studio, stop), max(iso, _least_iso(studio))
    fields: Fields = {"aperture": stop, "iso": iso, **(more or {})}
    time = fields.get("shutter")
    lost = PATTERNS[shot.pattern].lost if shot.pattern else ""
    if lost and fields.get("pattern", shot.pattern) != shot.pattern:
        light += f", {lost}"
    words = set_words(stop, iso, time if isinstance(time, float) else None, light)
    edit = SetFields.model_validate({"target": f"shots/{shot.id}", "fields": fields})
    return Way((words,), (edit,), light=light, setting=words)


def set_words(stop: float | None, iso: int | None, time: float | None, light: str) -> str:
    """How a camera is set and what it is lit by, as one says it."""
    parts = [f_words(stop) if stop else "", f"ISO {iso}" if iso else "", time_words(time) if time else "", light]
    return f"set {', '.join(part for part in parts if part)}"


def _least_iso(studio: Studio) -> int:
    return min((item.base_iso for item in bodies(studio) if item.base_iso), default=0)


def _most_iso(studio: Studio) -> float:
    """The highest ISO that passes as clean with a body that is owned; with none, as on the smallest sensor but a
    telephone's."""
    sides = [
        (b.sensor_width.value, b.sensor_height.value) for b in bodies(studio) if b.sensor_width and b.sensor_height
    ]
    return max((cleanest_iso(*side) for side in sides), default=BOUGHT)


BOUGHT = 3200.0
"""ISO that passes with any body one buys for this; see `cleanest_iso`."""


def bodies(studio: Studio) -> list[Camera]:
    return [item for item in studio.gear if isinstance(item, Camera) and item.status == "owned"]


def fires_flash(studio: Studio) -> bool:
    """Whether a camera that is owned fires a flash, or one could be bought that does."""
    owned = bodies(studio)
    return not owned or any(body.fires != "nothing" for body in owned)


def suited(studio: Studio, stop: float) -> float:
    """The aperture nearest to a wished one that a lens at hand has; the wished one where none is at hand."""
    owned = [item for item in studio.gear if isinstance(item, Lens) and item.status == "owned"]
    ends = [_within(lens, stop) for lens in owned]
    return min(ends, key=lambda one: abs(one - stop), default=stop)


def _within(lens: Lens, stop: float) -> float:
    low = lens.widest.value if lens.widest else 0.0
    high = lens.narrowest.value if lens.narrowest else 1e3
    return min(max(stop, low), high)
