"""A set as it stood for a reading, and the reading turned into light [lx or lx s, as log₂].

A meter's dome at the mark is read with C = 340; a card or a background in the picture is flat, C = 250, as the
picture that is drawn has it.
"""

import math
from dataclasses import dataclass

import numpy as np

from evrant.core.light import photometry as ph
from evrant.core.light.colour import decoded
from evrant.core.light.lit import Lit, lit
from evrant.core.space.scene import Scene, scene_of
from evrant.core.space.solids import Vector
from evrant.core.studio.log import AsSet, Reading
from evrant.core.studio.sets import SetPlan
from evrant.core.studio.studio import Studio, by_id

METER, FRAME, CURVE = 0.1, 0.05, 0.15
"""± of a reading [stops]: of a light meter, usual data sheets, from memory; of one value in a picture against another
of the same camera, project choice; of what its camera's tone curve does to all of them, common practice, no source."""
GREY = 0.18
DARKEST, BRIGHTEST = 6.0, 250.0
"""Values of 0 to 255 beyond which a picture says no more than “at most” or “at least”."""
CARD = ("grey card in a frame", "background in a frame")


def plan_as_lit(studio: Studio, plan: SetPlan) -> SetPlan:
    """The set with every power spelt out as the set asks for it now."""
    scene = scene_of(studio, plan)
    state = lit(scene) if scene is not None else None
    if not isinstance(state, Lit):
        return plan
    powers = {beam.path: float(p) for beam, p in zip(state.beams, state.powers, strict=True) if beam.light is not None}
    here = f"sets/{plan.id}/lights/"
    lights = tuple(
        light.changed(power=min(max(powers[here + light.id], 1e-6), 1.0)) if here + light.id in powers else light
        for light in plan.lights
    )
    return plan.changed(lights=lights)


def spelt_out(studio: Studio, *wanted: str) -> Studio:
    """The studio with the powers of these sets spelt out, so that a correction does not move them."""
    return studio.changed(sets=tuple(plan_as_lit(studio, p) if p.id in wanted else p for p in studio.sets))


def kept_copy(studio: Studio, plan: SetPlan) -> AsSet | None:
    """The copy of a set, as it is lit now, that is kept already."""
    now = plan_as_lit(studio, plan)
    return next((one for one in studio.as_set if one.plan == now), None)


def scene_for(studio: Studio, reading: Reading) -> Scene | None:
    """The set a reading was taken in: as it stood then, else as the studio has it (see `spelt_out`); the light at its
    real distance."""
    kept = by_id(studio.as_set, reading.as_set)
    plan = kept.plan if kept is not None else by_id(studio.sets, reading.set)
    if plan is None:
        return None
    scene = scene_of(studio, plan)
    light = scene.light_at(f"{scene.path}/lights/{reading.light}") if scene is not None and reading.light else None
    if scene is None or light is None or light.at is None or scene.face is None:
        return scene
    if reading.distance is None and reading.height is None:
        return scene
    spot = _really_at(scene.face, light.at, reading)
    moved = light.place.changed(x=float(spot[0]), y=float(spot[1]), height=max(float(spot[2]), 0.0))
    lights = tuple(moved if one.id == reading.light else one for one in plan.lights)
    return scene_of(studio, plan.changed(lights=lights))


def _really_at(face: Vector, planned: Vector, reading: Reading) -> Vector:
    """Where a light really stood: at its real height, so far from the face, on the side it was planned."""
    way = planned - face
    up = float(way[2]) if reading.height is None else reading.height - float(face[2])
    if reading.distance is None:
        return np.array([planned[0], planned[1], face[2] + up])
    if reading.height is None:
        return np.asarray(face + way * (reading.distance / max(float(np.linalg.norm(way)), 1e-6)))
    flat = float(np.hypot(way[0], way[1]))
    out = math.sqrt(max(reading.distance**2 - up**2, 0.0))
    return np.array([*(face[:2] + way[:2] * (out / max(flat, 1e-6))), face[2] + up])


def light_of(value: float) -> float:
    """Light of a value of 0 to 255 in a picture, white being 1."""
    return float(decoded(np.array(value / 255)))


@dataclass(frozen=True)
class Said:
    """A reading as light: log₂ of lx (`steady`) or lx s, with its own ± [stops]. `bound` is −1 or 1 where it only
    tells the most or the least there can have been."""

    stops: float
    pm: float
    steady: bool
    bound: int = 0


def said(scene: Scene, reading: Reading) -> Said | str:
    """What a reading says; or in words what it lacks."""
    if reading.reads is None:
        return "It has no figure yet."
    pm = reading.pm or (FRAME if reading.kind in CARD else METER)
    if reading.kind == "meter: lux":
        return Said(math.log2(reading.reads), pm, True)
    if reading.kind == "meter: EV at ISO 100":
        return Said(math.log2(ph.DOME / 100) + reading.reads, pm, True)
    iso = reading.iso or scene.shot.iso
    if iso is None:
        return "Enter the ISO it was read for."
    if reading.kind == "meter: aperture":
        return Said(math.log2(ph.needed_exposure(reading.reads, iso)), pm, False)
    wanted = exposure_of(scene, reading)
    if wanted is None:
        return "Enter the aperture the frame was taken at."
    if reading.reads > 255:
        return "A value of a picture lies between 0 and 255."
    bound = 1 if reading.reads >= BRIGHTEST else -1 if reading.reads <= DARKEST else 0
    own = GREY if reading.kind == "grey card in a frame" else 1.0
    return Said(math.log2(max(light_of(reading.reads), 1e-6) / own * wanted * ph.FLAT / ph.DOME), pm, False, bound)


def exposure_of(scene: Scene, reading: Reading) -> float | None:
    """Exposure at the subject that a test frame's settings are right for [lx s], filter and close distance counted."""
    iso = reading.iso or scene.shot.iso
    aperture = reading.aperture or (scene.shot.aperture.value if scene.shot.aperture else None)
    if iso is None or aperture is None:
        return None
    return ph.needed_exposure(aperture, iso) * 2**scene.shot.dark_filter * ph.close_up(scene.magnification)
