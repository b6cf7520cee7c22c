"""Is the light bright enough, and weak enough? Codes light.power_full, light.power_lowest,
light.falloff, light.shutter."""

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from evrant.core.edits import SetFields
from evrant.core.estimate import Estimate, Share, estimate
from evrant.core.light import photometry as ph
from evrant.core.margins import Basis, Margin, judge, unknown
from evrant.core.quantity import Figure
from evrant.core.rules.picture import picture_shares
from evrant.core.rules.rule import Proposal
from evrant.core.scene import Light, Scene
from evrant.core.studio.gear import Flash, Lamp
from evrant.core.studio.sets import Role
from evrant.core.studio.studio import Studio
from evrant.core.words import Say, f_words, power_words

FLASH = Basis(
    "N² = H S / C with C = 340 and a dome toward the camera; H from the guide number or from "
    "energy × efficacy × efficiency over π (R² + d²)",
    "ISO 2720 and ISO 1230; xenon 30–45 lm·s per W·s and modifier losses from memory",
    "published",
)
FALLOFF = Basis(
    "2 log₂ of the distances to feet and head, for a face of radius R: log₂ ((R² + d₂²)/(R² + d₁²))",
    "Uniform diffuse disc on axis, any photometry handbook; at most 1 stop wanted, common practice",
    "published",
)
STEADY = Basis(
    "N²/t = E S / C with C = 340; E from lumens × efficiency over π (R² + d²)",
    "ISO 2720; modifier losses from memory",
    "published",
)
BY_ROLE: dict[Role, float] = {"key": 0.0, "fill": -1.5}
"""Stops over the key's exposure at which a light is judged. Other roles are not judged by power yet."""
FALLOFF_WANTED = 1.0
BARE = 0.25
"""A bare tube sends light all round: Φ / (4π d²), a quarter of what a diffuse face sends along its axis."""


@dataclass(frozen=True)
class _Lit:
    """Geometry of a light at the face: distance [m], face radius [m], dome share, placing ± [stop]."""

    distance: float
    radius: float
    dome: float
    placing: float


def margins(scene: Scene) -> Iterable[Margin]:
    """Every exposure line of a set."""
    for light in scene.lights:
        if light.place.role not in BY_ROLE:
            continue
        yield from _window(scene, light)
    yield from _falloff(scene)


def _window(scene: Scene, light: Light) -> Iterable[Margin]:
    shot = f"shots/{scene.shot.id}"
    title = f"Power of the {light.name}"
    code = "light.shutter" if isinstance(light.head, Lamp) else "light.power_full"
    basis = STEADY if isinstance(light.head, Lamp) else FLASH
    if light.head is None:
        yield unknown(
            code,
            (light.path,),
            title,
            "stop",
            f"The {light.name} has no head yet.",
            "Choose a flash or lamp from the kit.",
            basis,
        )
        return
    if scene.shot.aperture is None or scene.shot.iso is None:
        yield unknown(
            code,
            (shot, light.path),
            title,
            "stop",
            "The shot has no aperture or ISO.",
            "Enter the settings you want to work at.",
            basis,
        )
        return
    lit = _geometry(scene, light)
    if lit is None:
        yield unknown(
            code, (light.path,), title, "stop", f"The {light.name} has no place yet.", "Place it on the sheet.", basis
        )
        return
    if isinstance(light.head, Flash):
        yield from _flash(scene, light, light.head, lit)
    else:
        yield from _lamp(scene, light, light.head, lit)


def _geometry(scene: Scene, light: Light) -> _Lit | None:
    if light.at is None or scene.face is None or scene.axis is None:
        return None
    offset = light.at - scene.face
    distance = float(np.linalg.norm(offset))
    if distance < 0.05:
        return None
    cosine = float(offset @ np.array([*scene.axis, 0.0])) / distance
    face = light.face
    radius = ph.face_radius(*face) if face else 0.05
    return _Lit(distance, radius, ph.dome_share(cosine), 2 * 0.0141 / distance / float(np.log(2)))


def _geometry_stops(scene: Scene, light: Light) -> float | None:
    """Stops by which distance and angle alone set the exposure at the face."""
    lit = _geometry(scene, light)
    return None if lit is None else ph.stops(ph.face_exposure(1.0, lit.radius, lit.distance) * lit.dome)


def _aperture_share(scene: Scene) -> tuple[Share, ...]:
    """What a stated ± of the aperture adds, in stops."""
    stopped = scene.shot.aperture
    if stopped is None or stopped.pm == 0:
        return ()
    return (Share("aperture", 2 * ph.stops((stopped.value + stopped.pm) / stopped.value)),)


def flash_exposure(light: Light, head: Flash, lit: _Lit) -> Estimate | tuple[str, str]:
    """Stops (log₂ of lx s on the dome at the face) at full power, or (what is missing, where)."""
    if light.modifier is not None and light.modifier.width is None:
        return f"The size of the {light.modifier.called} is missing.", f"gear/{light.modifier.id}"
    if head.guide_number is not None and (light.modifier is None or light.modifier.loss is not None):
        return _by_guide(light, head, head.guide_number, lit)
    if head.energy is None:
        return f"The {head.called} has neither energy nor a guide number.", f"gear/{head.id}"
    if light.modifier is not None and light.modifier.efficiency is None:
        return (f"What the {light.modifier.called} lets through is missing.", f"gear/{light.modifier.id}")
    return _by_energy(light, head.energy, lit)


def _face(light: Light, bare: float = 0.1) -> dict[str, Figure | float]:
    """Width and height of the luminous face with their ±, for `estimate`; the height is 0 when it is round."""
    if light.modifier and light.modifier.width:
        return {"face_width": light.modifier.width, "face_height": light.modifier.height or 0.0}
    if light.modifier is None and light.head and light.head.diameter:
        return {"face_width": light.head.diameter, "face_height": 0.0}
    return {"face_width": bare, "face_height": 0.0}


def _by_guide(light: Light, head: Flash, guide: Figure, lit: _Lit) -> Estimate:
    loss = light.modifier.loss if light.modifier and light.modifier.loss else 0.0
    offset = 0.0 if head.guide_measured else ph.GUIDE_CLAIM

    def stops(guide_number: float, modifier_loss: float, face_width: float, face_height: float) -> float:
        near = lit.distance**2 / (ph.face_radius(face_width, face_height or None) ** 2 + lit.distance**2)
        exposure = ph.intensity_from_guide(guide_number) / lit.distance**2 * near * lit.dome
        return ph.stops(exposure) - modifier_loss + offset

    spread = ph.GUIDE_OWN_SPREAD if head.guide_measured else ph.GUIDE_CLAIM_SPREAD
    return estimate(stops, guide_number=guide, modifier_loss=loss, **_face(light, 2 * lit.radius)).plus(
        Share("guide number", spread)
    )


def _by_energy(light: Light, energy: Figure, lit: _Lit) -> Estimate:
    efficiency = light.modifier.efficiency if light.modifier else None
    efficacy = Figure(ph.XENON_EFFICACY, ph.XENON_SPREAD, "typical")

    def stops(
        energy: float, flash_efficacy: float, share_let_through: float, face_width: float, face_height: float
    ) -> float:
        radius = ph.face_radius(face_width, face_height or None)
        output = energy * flash_efficacy * share_let_through
        return ph.stops(ph.face_exposure(output, radius, lit.distance) * lit.dome)

    return estimate(
        stops,
        energy=energy,
        flash_efficacy=efficacy,
        share_let_through=efficiency or BARE,
        **_face(light, 2 * lit.radius),
    )


def _flash(scene: Scene, light: Light, head: Flash, lit: _Lit) -> Iterable[Margin]:
    title = f"Full power of the {light.name}"
    got = flash_exposure(light, head, lit)
    if isinstance(got, Estimate):
        got = got.plus(*picture_shares(scene, lambda one: _geometry_stops(one, light)), *_aperture_share(scene))
    if isinstance(got, tuple):
        yield unknown(
            "light.power_full",
            (got[1], light.path),
            title,
            "stop",
            got[0],
            "Look in the data sheet, or measure it with a meter at one metre.",
            FLASH,
        )
        return
    assert scene.shot.aperture is not None and scene.shot.iso is not None
    iso, aperture = scene.shot.iso, scene.shot.aperture.value
    wanted = ph.stops(ph.needed_exposure(aperture, iso)) + BY_ROLE[light.place.role]
    say = Say.of(scene.brief)
    at = (float(light.at[0]), float(light.at[1]), float(light.at[2])) if light.at is not None else None
    reach = ph.f_number_for(2 ** (got.value - BY_ROLE[light.place.role]), iso)
    facts = f"ISO {iso}, {say.length(lit.distance)} to the face"
    yield judge(
        "light.power_full",
        (light.path, f"shots/{scene.shot.id}"),
        title,
        Estimate(got.value - wanted, got.shares),
        need=wanted,
        have=got.value,
        unit="stop",
        clear=f"The {light.name} reaches {f_words(aperture)}.",
        short=f"At full power the {light.name} is too weak for {f_words(aperture)}.",
        reason=f"Full power gives about {f_words(reach)} ({facts}); set about "
        f"{power_words(min(2 ** (wanted - got.value), 1.0))} for {f_words(aperture)}.",
        basis=FLASH,
        at=at,
        placing=lit.placing,
    )
    yield from _lowest(scene, light, head, got, wanted, facts, lit.placing)


def _lowest(
    scene: Scene, light: Light, head: Flash, got: Estimate, wanted: float, facts: str, placing: float
) -> Iterable[Margin]:
    title = f"Lowest power of the {light.name}"
    if head.lowest_power is None:
        yield unknown(
            "light.power_lowest",
            (f"gear/{head.id}", light.path),
            title,
            "stop",
            f"The lowest setting of the {head.called} is missing.",
            "The data sheet gives it, for instance 1/16 or 1/128.",
            FLASH,
        )
        return
    assert scene.shot.aperture is not None and scene.shot.iso is not None
    lowest = got.value + ph.stops(head.lowest_power)
    aperture = scene.shot.aperture.value
    reach = ph.f_number_for(2 ** (lowest - BY_ROLE[light.place.role]), scene.shot.iso)
    yield judge(
        "light.power_lowest",
        (light.path, f"shots/{scene.shot.id}"),
        title,
        Estimate(wanted - lowest, got.shares),
        need=lowest,
        have=wanted,
        unit="stop",
        clear=f"The {light.name} can be turned down to {f_words(aperture)}.",
        short=f"Even at its lowest setting the {light.name} is too strong for {f_words(aperture)}.",
        reason=f"{power_words(head.lowest_power)} still gives about {f_words(reach)} ({facts}).",
        basis=FLASH,
        placing=placing,
    )


def _lamp(scene: Scene, light: Light, head: Lamp, lit: _Lit) -> Iterable[Margin]:
    """Continuous light: stops to spare at the shutter the shot asks for."""
    title = f"Brightness of the {light.name}"
    shot = scene.shot
    if head.lumens is None or shot.shutter is None or (light.modifier and light.modifier.efficiency is None):
        missing, where = ("The shot has no shutter time.", f"shots/{shot.id}")
        if head.lumens is None:
            missing, where = f"The luminous flux of the {head.called} is missing.", f"gear/{head.id}"
        elif shot.shutter is not None and light.modifier is not None:
            missing, where = f"What the {light.modifier.called} lets through is missing.", f"gear/{light.modifier.id}"
        yield unknown("light.shutter", (where, light.path), title, "stop", missing, "Look in the data sheet.", STEADY)
        return
    assert shot.aperture is not None and shot.iso is not None and shot.shutter is not None
    efficiency = light.modifier.efficiency if light.modifier and light.modifier.efficiency else 1.0
    wanted = ph.stops(ph.needed_illuminance(shot.aperture.value, shot.shutter, shot.iso)) + BY_ROLE[light.place.role]
    flux = Figure(head.lumens, 0.15 * head.lumens, "maker")

    def spare(lumens: float, share_let_through: float, face_width: float, face_height: float) -> float:
        radius = ph.face_radius(face_width, face_height or None)
        return ph.stops(ph.face_exposure(lumens * share_let_through, radius, lit.distance) * lit.dome) - wanted

    result = estimate(spare, lumens=flux, share_let_through=efficiency, **_face(light, 2 * lit.radius))
    result = result.plus(*picture_shares(scene, lambda one: _geometry_stops(one, light)), *_aperture_share(scene))
    seconds = shot.shutter * 2**-result.value
    yield judge(
        "light.shutter",
        (light.path, f"shots/{shot.id}"),
        title,
        result,
        need=wanted,
        have=wanted + result.value,
        unit="stop",
        clear=f"The {light.name} is bright enough for the shutter wanted.",
        short=f"The {light.name} is too weak for the shutter wanted.",
        reason=f"It allows about 1/{max(1 / seconds, 0.1):.0f} s at {f_words(shot.aperture.value)}, ISO {shot.iso}.",
        basis=STEADY,
        placing=lit.placing,
    )


def _near_and_far(scene: Scene, key: Light) -> tuple[float, float, float] | None:
    """Key to face and to the lowest part in the frame, and that part's height [m]."""
    if scene.face is None or scene.wanted is None or key.at is None:
        return None
    low = max(scene.wanted.top - scene.wanted.height.value, 0.0)
    low = max(low, min((s.base.value if s.base else 0.0 for s in scene.shot.subjects), default=0.0))
    feet = np.array([scene.face[0], scene.face[1], low])
    return float(np.linalg.norm(key.at - scene.face)), float(np.linalg.norm(key.at - feet)), low


def _falloff(scene: Scene) -> Iterable[Margin]:
    """Key light from head to the lowest part in the frame."""
    lit = [light for light in scene.lights if light.at is not None and light.place.role in ("key", "ring light")]
    key = min(lit, key=lambda light: light.place.role != "key", default=None)
    if key is None or key.at is None or scene.face is None or scene.wanted is None or key.face is None:
        return
    near, far, low = _near_and_far(scene, key) or (1.0, 1.0, 0.0)
    face = scene.face
    face_sizes = _face(key)

    def spare(face_width: float, face_height: float) -> float:
        radius = ph.face_radius(face_width, face_height or None)
        return FALLOFF_WANTED - abs(ph.stops((radius**2 + far**2) / (radius**2 + near**2)))

    radius = ph.face_radius(*key.face)

    def of_scene(one: Scene) -> float | None:
        ends = _near_and_far(one, key)
        return ends and abs(ph.stops((radius**2 + ends[1] ** 2) / (radius**2 + ends[0] ** 2)))

    result = estimate(spare, **face_sizes).plus(*picture_shares(scene, of_scene))
    fall = FALLOFF_WANTED - result.value
    say = Say.of(scene.brief)
    yield judge(
        "light.falloff",
        (key.path, f"{scene.path}/mark"),
        "Head to feet",
        result,
        need=fall,
        have=FALLOFF_WANTED,
        unit="stop",
        clear="The key light is even enough from top to bottom.",
        short="From top to bottom the key light falls off too fast for one exposure.",
        reason=f"{say.length(near)} to the face, {say.length(far)} to the lowest part in the frame: {fall:.1f} stops; "
        f"{FALLOFF_WANTED:.0f} is usual.",
        basis=FALLOFF,
        at=(float(face[0]), float(face[1]), low),
        placing=2 * 0.0141 / near / 0.693,
    )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """ISO, aperture, distance, another head or modifier."""
    if scene is None or margin.margin is None:
        return
    light = next((one for one in scene.lights if one.path == margin.about[0]), None)
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
    if scene.shot.aperture is not None:
        wanted = scene.shot.aperture.value * float(step) ** (-0.5 if weak else 0.5)
        near = min((1.4, 2.0, 2.8, 4.0, 5.6, 8.0, 11.0, 16.0, 22.0), key=lambda n: abs(n - wanted))
        if near != scene.shot.aperture.value:
            yield Proposal(f"Work at {f_words(near)}", SetFields(target=shot, fields={"aperture": near}))
    yield from _moved(scene, light, (0.8, 0.6) if weak else (1.3, 1.7))
    for item in studio.gear:
        if isinstance(item, (Flash, Lamp)) and item.id != light.place.head:
            yield Proposal(f"Use the {item.called}", SetFields(target=light.path, fields={"head": item.id}))


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
        yield Proposal(f"Move the {light.name} to {far} from the face", SetFields(target=light.path, fields=fields))
