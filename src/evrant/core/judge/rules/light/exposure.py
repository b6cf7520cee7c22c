"""Is the light bright enough, and weak enough? Codes light.power_full, light.power_lowest,
light.falloff, light.shutter."""

from collections.abc import Iterable

import numpy as np

from evrant.core.base.estimate import Estimate, Share, estimate
from evrant.core.base.margins import Basis, Line, Margin, judge, unknown
from evrant.core.base.quantity import Figure
from evrant.core.base.tables.steps import nearest_time
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import Proposal, SetRule
from evrant.core.light import photometry as ph
from evrant.core.light.account import reflectance_shares
from evrant.core.light.colour import luminance
from evrant.core.light.emission import Missing
from evrant.core.light.lit import Lit, background_wish, lit
from evrant.core.light.powers import ROLE_STOPS, settable
from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene
from evrant.core.space.shares import picture_shares
from evrant.core.studio.gear import Flash, Lamp
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say, f_words, power_words, setting_words, time_words

FLASH_BASIS = Basis(
    "N² = H S / C with C = 340 and a dome toward the camera; H direct from the luminous face by the contour "
    "integral, and returned by radiosity; output from lux-seconds, guide number or energy × efficacy × efficiency",
    "ISO 2720 and ISO 1230; xenon 30–45 lm·s per W·s and modifier losses from memory",
    "published",
)
FALLOFF = Line(
    "light.falloff",
    "Light from top to bottom",
    "stop",
    Basis(
        "greatest less least log₂ of the exposure, all light as set, on a dome at the top, the face and down to the "
        "lowest part in the frame; ± as for a disc of radius R: log₂ ((R² + d₂²)/(R² + d₁²))",
        "Uniform diffuse disc, any photometry handbook; at most 1 stop wanted, 1.5 in a crop to the waist: "
        "common practice",
        "published",
    ),
    asks="Is the light even enough from top to bottom?",
    step="light",
    fails=True,
)
SHUTTER = Line(
    "light.shutter",
    "Brightness of the …",
    "stop",
    Basis(
        "N²/t = E S / C with C = 340; E direct by the contour integral and returned by radiosity; output from lux, "
        "an IES file, lumens or watts",
        "ISO 2720; modifier losses from memory",
        "published",
    ),
    asks="Is a continuous light bright enough for the shutter wanted?",
    step="light",
    fails=True,
)
POWER_FULL = Line(
    "light.power_full",
    "Full power of the …",
    "stop",
    FLASH_BASIS,
    asks="Is full power enough for the aperture, ISO and distance?",
    step="light",
    fails=True,
)
POWER_LOWEST = Line(
    "light.power_lowest",
    "Lowest power of the …",
    "stop",
    FLASH_BASIS,
    asks="Can the light be turned down far enough?",
    step="light",
    fails=True,
)
FALLOFF_WANTED, CROPPED = 1.0, 1.5
"""Stops that a subject seen whole may fall off, and one cut at the waist; common practice, no source."""
MODEL = Share("form of the subject's body", 0.1, measurable=False)
"""What points on the axis of a body leave out of the light down it [stops]; project choice."""
PARTS = {
    "top": "the top",
    "face": "the face",
    "down 1": "the upper part",
    "down 2": "the middle",
    "down 3": "the lower part",
    "down 4": "the lowest part",
}
"""Receivers down the subject, in words."""
UNDIMMED = "Full power, for no dimming is stated,"
EVEN = ("key", "ring light")
"""Lights that should be as bright at the feet as at the head."""


def margins(scene: Scene) -> Iterable[Margin]:
    """Every exposure line of a set."""
    state = lit(scene) if scene.lights else None
    for light in scene.lights:
        yield from window(scene, light, state)
    lit_ones = [light for light in scene.lights if light.at is not None]
    key = next((one for role in EVEN for one in lit_ones if one.place.role == role), None)
    if key is not None:
        yield from falloff(scene, key, state)


def _is_judged(scene: Scene, light: Light) -> bool:
    """Lamps in the picture are as bright as they are; a background light needs a tone to be judged by."""
    role = light.place.role
    if role == "background light":
        return background_wish(scene) is not None and isinstance(light.head, Flash)
    if role == "top light":
        return not any(one.place.role in ("key", "ring light") for one in scene.lights)
    return role in ROLE_STOPS


def window(scene: Scene, light: Light, state: Lit | Missing | None, *, alone: bool = False) -> Iterable[Margin]:
    """Is one light of a lit set bright enough, and weak enough? `alone`: as if it had to do its part without others."""
    if not _is_judged(scene, light):
        return
    shot = f"shots/{scene.shot.id}"
    title = f"Power of the {light.name}"
    line = SHUTTER if isinstance(light.head, Lamp) else POWER_FULL

    def missing(paths: tuple[str, ...], text: str, find: str) -> Margin:
        return unknown(
            line,
            paths,
            text,
            find,
            title=title,
        )

    if light.head is None:
        yield missing((light.path,), f"The {light.name} has no head yet.", "Choose a flash or lamp from the kit.")
        return
    if scene.shot.aperture is None or scene.shot.iso is None:
        yield missing((shot, light.path), "The shot has no aperture or ISO.", "Enter the settings you want to work at.")
        return
    index = _beam(state, light)
    if state is None or isinstance(state, Missing) or light.at is None or (index is None and _too_near(scene, light)):
        yield missing((light.path,), f"The {light.name} has no place yet.", "Place it on the sheet.")
        return
    if index is None:
        found = next((m for m in state.missing if m.where == light.path or m.where.startswith("gear/")), None)
        for one in state.missing:
            if light.head.id in one.where or (light.modifier and light.modifier.id in one.where):
                found = one
        text, where = (found.text, found.where) if found else (f"The {light.name} cannot be computed.", light.path)
        find = "Look in the data sheet, or measure it with a meter at one metre."
        yield missing((where, light.path), text, "Move it inside on the sheet." if where == light.path else find)
        return
    if isinstance(light.head, Flash):
        yield from _flash(scene, light, light.head, state, index, alone)
    else:
        yield from _lamp(scene, light, light.head, state, index, alone)


def _too_near(scene: Scene, light: Light) -> bool:
    return scene.face is None or light.at is None or float(np.linalg.norm(light.at - scene.face)) < 0.05


def _beam(state: Lit | Missing | None, light: Light) -> int | None:
    """Number of a light among the sources of the lit set."""
    if state is None or isinstance(state, Missing) or _too_near(state.scene, light):
        return None
    return next((i for i, beam in enumerate(state.beams) if beam.path == light.path), None)


def _distance(scene: Scene, light: Light) -> float:
    assert light.at is not None and scene.face is not None
    return float(np.linalg.norm(light.at - scene.face))


def _geometry_stops(scene: Scene, light: Light) -> float | None:
    """Stops by which distance and angle alone set the exposure at the face: the disc of the face's area."""
    if light.at is None or scene.face is None or scene.axis is None:
        return None
    offset = light.at - scene.face
    distance = float(np.linalg.norm(offset))
    if distance < 0.05:
        return None
    cosine = float(offset @ np.array([*scene.axis, 0.0])) / distance
    radius = ph.face_radius(*light.face) if light.face else 0.05
    got = ph.face_exposure(1.0, radius, distance) * ph.dome_share(cosine)
    return ph.stops(got / ph.close_up(scene.magnification))


def _output_shares(scene: Scene, light: Light, state: Lit, index: int) -> tuple[Share, ...]:
    """What makes a light's exposure at the face unsure [stops]."""
    emission = state.beams[index].emission
    assert emission is not None
    shares = [*emission.shares, *_face_shares(light, _distance(scene, light))]
    shares += picture_shares(scene, lambda one: _geometry_stops(one, light))
    shares += _aperture_share(scene)
    got = state.measured(index)
    rows = ("face",)
    moved = reflectance_shares(state, rows) if not isinstance(state.around, Missing) else {}
    total = state.total("face")
    for number, per_unit in moved.items():
        assert not isinstance(state.around, Missing)
        pm = state.around.unsure.get(number, 0.03)
        if total > 0 and got > 0 and state.settled is not None:
            amount = abs(float(np.log2(1 + abs(float(per_unit[0])) * pm / total)))
            if amount > 1e-3:
                shares.append(Share(f"reflectance of the {state.settled.surfaces[number].name}", amount))
    return tuple(shares)


def _face_shares(light: Light, distance: float) -> tuple[Share, ...]:
    """How the ± of the luminous face's sizes moves the exposure on its axis [stops]."""
    sizes = _face(light)
    on_axis = light.modifier is None or light.modifier.loss is not None

    def stops(face_width: float, face_height: float) -> float:
        radius = ph.face_radius(face_width, face_height or None)
        near = ph.stops(distance**2 / (radius**2 + distance**2))
        return near if on_axis else ph.stops(ph.face_exposure(1.0, radius, distance))

    return estimate(stops, **sizes).shares


def _aperture_share(scene: Scene) -> tuple[Share, ...]:
    """What a stated ± of the aperture adds, in stops."""
    stopped = scene.shot.aperture
    if stopped is None or stopped.pm == 0:
        return ()
    return (Share("aperture", 2 * ph.stops((stopped.value + stopped.pm) / stopped.value)),)


def _face(light: Light, bare: float = 0.1) -> dict[str, Figure | float]:
    """Width and height of the luminous face with their ±, for `estimate`; the height is 0 when it is round."""
    if light.modifier and light.modifier.width:
        return {"face_width": light.modifier.width, "face_height": light.modifier.height or 0.0}
    if light.modifier is None and light.head and light.head.diameter:
        return {"face_width": light.head.diameter, "face_height": 0.0}
    return {"face_width": bare, "face_height": 0.0}


def _placing(distance: float) -> float:
    """± with which people put a light, in stops."""
    return 2 * 0.0141 / distance / float(np.log(2))


def _wanted(state: Lit, index: int, alone: bool) -> float:
    """log₂ of what is asked of a light where it counts [lx s or lx]: its share of the settings the set needs."""
    got = state.measured(index)
    wish = state.alone(index) if alone else state.wish(index)
    return ph.stops(got * wish) if got > 0 else 0.0


def _setting(head: Flash, share: float) -> str:
    return setting_words(settable(head, share) if head.steps else min(share, 1.0), head.steps)


def _without(state: Lit) -> str:
    return " What the walls return is not counted: a finish is missing." if isinstance(state.around, Missing) else ""


def _flash(scene: Scene, light: Light, head: Flash, state: Lit, index: int, alone: bool) -> Iterable[Margin]:
    title = f"Full power of the {light.name}"
    assert scene.shot.aperture is not None and scene.shot.iso is not None
    measured = state.measured(index)
    if measured <= 0:
        return
    got = Estimate(ph.stops(measured), _output_shares(scene, light, state, index))
    iso, aperture = scene.shot.iso, scene.shot.aperture.value
    wanted = _wanted(state, index, alone)
    say = Say.of(scene.brief)
    assert light.at is not None
    at = (float(light.at[0]), float(light.at[1]), float(light.at[2]))
    distance = _distance(scene, light)
    reach = aperture * 2 ** ((got.value - wanted) / 2)
    facts = f"ISO {iso}, {say.length(distance)} to {scene.shot.lit_part}"
    for_what = f_words(aperture)
    if light.place.role == "background light":
        for_what, facts = f"a {scene.shot.tone or 'white'} background at {for_what}", f"ISO {iso}"
    yield judge(
        POWER_FULL,
        (light.path, f"shots/{scene.shot.id}"),
        Estimate(got.value - wanted, got.shares),
        title=title,
        need=wanted,
        have=got.value,
        clear=f"The {light.name} reaches {for_what}.",
        short=f"At full power the {light.name} is too weak for {for_what}.",
        reason=f"Full power gives about {f_words(reach)} ({facts}); set about "
        f"{_setting(head, 2 ** (wanted - got.value))} for {for_what}.{_without(state)}",
        at=at,
        placing=_placing(distance),
    )
    yield from _lowest(scene, light, head.lowest_power, got, wanted, facts, _placing(distance))


def _lowest(
    scene: Scene, light: Light, least: float | None, got: Estimate, wanted: float, facts: str, placing: float
) -> Iterable[Margin]:
    title, head = f"Lowest power of the {light.name}", light.head
    assert head is not None
    if least is None:
        yield unknown(
            POWER_LOWEST,
            (f"gear/{head.id}", light.path),
            f"The lowest setting of the {head.called} is missing.",
            "The data sheet gives it, for instance 1/16 or 1/128.",
            title=title,
        )
        return
    assert scene.shot.aperture is not None and scene.shot.iso is not None
    lowest = got.value + ph.stops(least)
    said = power_words(least) if isinstance(head, Flash) else (f"{least:.0%}" if least < 1 else UNDIMMED)
    aperture = scene.shot.aperture.value
    reach = aperture * 2 ** ((lowest - wanted) / 2)
    yield judge(
        POWER_LOWEST,
        (light.path, f"shots/{scene.shot.id}"),
        Estimate(wanted - lowest, got.shares),
        title=title,
        need=lowest,
        have=wanted,
        clear=f"The {light.name} can be turned down to {f_words(aperture)}.",
        short=f"Even at its lowest setting the {light.name} is too strong for {f_words(aperture)}.",
        reason=f"{said} still gives about {f_words(reach)} ({facts}).",
        placing=placing,
    )


def _lamp(scene: Scene, light: Light, lamp: Lamp, state: Lit, index: int, alone: bool) -> Iterable[Margin]:
    """Continuous light: stops to spare at the shutter the shot asks for, and whether it dims far enough."""
    title = f"Brightness of the {light.name}"
    shot = scene.shot
    if shot.shutter is None:
        yield unknown(
            SHUTTER,
            (f"shots/{shot.id}", light.path),
            "The shot has no shutter time.",
            "Enter the time you want to expose.",
            title=title,
        )
        return
    assert shot.aperture is not None and shot.iso is not None
    lux = state.measured(index)
    if lux <= 0:
        return
    wanted = _wanted(state, index, alone)
    distance = _distance(scene, light)
    got = Estimate(ph.stops(lux), _output_shares(scene, light, state, index))
    result = Estimate(got.value - wanted, got.shares)
    seconds = shot.shutter * 2**-result.value
    yield judge(
        SHUTTER,
        (light.path, f"shots/{shot.id}"),
        result,
        title=title,
        need=wanted,
        have=wanted + result.value,
        clear=f"The {light.name} is bright enough for the shutter wanted.",
        short=f"The {light.name} is too weak for the shutter wanted.",
        reason=f"About {lux:.0f} lx at {shot.lit_part} allow {time_words(seconds)} at "
        f"{f_words(shot.aperture.value)}, ISO {shot.iso}.{_without(state)}",
        placing=_placing(distance),
    )
    facts = f"{time_words(shot.shutter)}, ISO {shot.iso}, {Say.of(scene.brief).length(distance)} to {shot.lit_part}"
    yield from _lowest(scene, light, lamp.dims_to or 1.0, got, wanted, facts, _placing(distance))


def _near_and_far(scene: Scene, key: Light) -> tuple[float, float, float] | None:
    """Key to face and to the lowest part in the frame, and that part's height [m]."""
    if scene.face is None or scene.wanted is None or key.at is None:
        return None
    low = max(scene.wanted.top - scene.wanted.height.value, 0.0)
    low = max(low, min((s.base.value if s.base else 0.0 for s in scene.shot.subjects), default=0.0))
    feet = np.array([scene.face[0], scene.face[1], low])
    return float(np.linalg.norm(key.at - scene.face)), float(np.linalg.norm(key.at - feet)), low


def falloff(scene: Scene, key: Light, state: Lit | Missing | None, *, alone: bool = False) -> Iterable[Margin]:
    """All light as set, from the subject's top edge to the lowest part in the frame; `alone`: the key's only."""
    if key.place.role not in EVEN or key.at is None or key.face is None or scene.face is None or scene.wanted is None:
        return
    index = _beam(state, key)
    if index is None or not isinstance(state, Lit):
        return
    levels = _levels(scene, state, index if alone else None)
    if len(levels) < 2:
        return
    near, far, low = _near_and_far(scene, key) or (1.0, 1.0, 0.0)
    radius = ph.face_radius(*key.face)

    def of_disc(face_width: float, face_height: float) -> float:
        reach = ph.face_radius(face_width, face_height or None)
        return abs(ph.stops((reach**2 + far**2) / (reach**2 + near**2)))

    def of_scene(one: Scene) -> float | None:
        ends = _near_and_far(one, key)
        return ends and abs(ph.stops((radius**2 + ends[1] ** 2) / (radius**2 + ends[0] ** 2)))

    bright, dark = max(levels, key=levels.__getitem__), min(levels, key=levels.__getitem__)
    fall = levels[bright] - levels[dark]
    most = CROPPED if scene.shot.crop in ("head and shoulders", "half length") else FALLOFF_WANTED
    shares = (*estimate(of_disc, **_face(key)).shares, *picture_shares(scene, of_scene), MODEL)
    face = scene.face
    say = Say.of(scene.brief)
    yield judge(
        FALLOFF,
        (key.path, f"{scene.path}/mark"),
        Estimate(most - fall, shares),
        need=fall,
        have=most,
        clear="The light is even enough from top to bottom.",
        short="From top to bottom the light falls off too fast for one exposure.",
        reason=f"{fall:.1f} stops between {bright} and {dark}; {most:g} is usual. The key is "
        f"{say.length(near)} from {scene.shot.lit_part}, {say.length(far)} from the lowest part in the frame.",
        at=(float(face[0]), float(face[1]), low),
        placing=2 * 0.0141 / near / 0.693,
    )


def _levels(scene: Scene, state: Lit, only: int | None) -> dict[str, float]:
    """Exposure down the subject by the part's name [stops]: of all light as set, or of one source."""
    found = {}
    for name, words in PARTS.items():
        if name == "face" and scene.shot.lit_part != words:
            words = "the centre"
        if name in state.rows.at:
            amounts = state.exposure(name) if only is None else state.dome(name, state.whole)
            level = float(luminance(amounts.sum(axis=0) if only is None else amounts[only]))
            if level > 0:
                found[words] = ph.stops(level)
    return found


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """ISO, shutter of what stays on, aperture, distance, another head or modifier."""
    if scene is None or margin.margin is None:
        return
    light = scene.light_at(margin.about[0])
    if light is None:
        return
    shot = f"shots/{scene.shot.id}"
    if margin.code == "light.falloff":
        yield from _moved(scene, light, (1.25, 1.5))
        return
    weak = margin.code != "light.power_lowest"
    step = 2 ** (np.ceil(-margin.margin + (margin.uncertainty or 0.0)))
    if scene.shot.iso is not None:
        iso = int(scene.shot.iso * step) if weak else max(int(scene.shot.iso / step), 12)
        base = scene.body.base_iso if scene.body else None
        iso = max(iso, base or 0)
        if iso != scene.shot.iso and iso <= 102400:
            yield Proposal(f"Set ISO {iso}", SetFields(target=shot, fields={"iso": iso}))
    yield from _exposed(scene, light, float(step) if weak else 1 / float(step))
    if not weak and scene.shot.dark_filter < 10:
        stops = float(np.ceil(-margin.margin + (margin.uncertainty or 0.0)))
        yield Proposal(
            f"Put a neutral filter of {stops + scene.shot.dark_filter:.0f} stops on the lens",
            SetFields(target=shot, fields={"dark_filter": stops + scene.shot.dark_filter}),
        )
    if scene.shot.aperture is not None:
        wanted = scene.shot.aperture.value * float(step) ** (-0.5 if weak else 0.5)
        near = min((1.4, 2.0, 2.8, 4.0, 5.6, 8.0, 11.0, 16.0, 22.0), key=lambda n: abs(n - wanted))
        if near != scene.shot.aperture.value:
            yield Proposal(f"Work at {f_words(near)}", SetFields(target=shot, fields={"aperture": near}))
    yield from _moved(scene, light, (0.8, 0.6) if weak else (1.3, 1.7))
    for item in studio.gear:
        if isinstance(item, (Flash, Lamp)) and item.id != light.place.head:
            yield Proposal(f"Use the {item.called}", SetFields(target=light.path, fields={"head": item.id}))


def _exposed(scene: Scene, light: Light, longer: float) -> Iterable[Proposal]:
    """A still under a light that stays on, exposed so many times as long."""
    time = scene.shot.shutter
    if time is None or scene.shot.capture != "stills" or not isinstance(light.head, Lamp):
        return
    other = nearest_time(time * longer)
    if other != time:
        fields = {"shutter": other}
        yield Proposal(f"Expose for {time_words(other)}", SetFields(target=f"shots/{scene.shot.id}", fields=fields))


def _moved(scene: Scene, light: Light, factors: tuple[float, ...]) -> Iterable[Proposal]:
    """The light nearer or farther on the line from the face, its height kept under 5 m."""
    if light.at is None or scene.face is None:
        return
    say = Say.of(scene.brief)
    for factor in factors:
        spot = scene.face + (light.at - scene.face) * factor
        fields = {
            "x": round(float(spot[0]), 3),
            "y": round(float(spot[1]), 3),
            "height": round(float(np.clip(spot[2], 0.1, 5.0)), 3),
        }
        far = say.length(float(np.linalg.norm(spot - scene.face)))
        yield Proposal(
            f"Move the {light.name} to {far} from {scene.shot.lit_part}", SetFields(target=light.path, fields=fields)
        )


RULE = SetRule(
    "exposure",
    margins,
    (
        FALLOFF,
        SHUTTER,
        POWER_FULL,
        POWER_LOWEST,
    ),
    propose,
)
