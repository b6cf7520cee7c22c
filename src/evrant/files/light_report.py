"""A set's light as open data: every figure in absolute units, and the power × distance × aperture sheets."""

import csv
import io
import math
from collections.abc import Iterable
from typing import Any

import numpy as np

from evrant.core.base.units import Units
from evrant.core.judge.rules.light.light_measures import evaluated
from evrant.core.light import account
from evrant.core.light import photometry as ph
from evrant.core.light.beams import Beam
from evrant.core.light.bounce.enclosure import direct
from evrant.core.light.bounce.patches import blockers_of
from evrant.core.light.colour import LUMINANCE, luminance
from evrant.core.light.emission import Missing
from evrant.core.light.lit import PAGE_PATCHES, Lit, lit
from evrant.core.light.mirrored import mirrored
from evrant.core.light.powers import settable
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import Flash
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say, setting_words

FACES = ("nose", "back", "left", "right", "up", "down")
FRAMES = (24, 25, 30, 50, 60)
DISTANCES: dict[Units, tuple[float, ...]] = {
    "metric": (0.5, 0.7, 1.0, 1.4, 2.0, 2.8, 4.0),
    "imperial": tuple(feet * 0.3048 for feet in (2, 3, 4, 6, 8, 10, 14)),
}


def light_data(studio: Studio, scene: Scene) -> dict[str, Any]:
    """Everything about one set's light. Exposures are lx s as set; `illuminance` of continuous light is lx."""
    state = lit(scene, PAGE_PATCHES)
    if isinstance(state, Missing):
        return {"set": scene.plan.id, "missing": [{"what": state.text, "where": state.where}]}
    missing = [*state.missing, *([state.around] if isinstance(state.around, Missing) else [])]
    data: dict[str, Any] = {
        "set": scene.plan.id,
        "shot": scene.shot.id,
        "aperture": scene.shot.aperture.value if scene.shot.aperture else None,
        "iso": scene.shot.iso,
        "shutter_s": scene.shot.shutter,
        "needed_lx_s": state.needed,
        "patches": state.settled.patches.count if state.settled else 0,
        "missing": [{"what": m.text, "where": m.where} for m in missing],
        "lights": [_light(one) for one in account.light_figures(state)],
        "film": film_of(state),
    }
    if not state.beams:
        return data
    data |= {
        "face": _receiver(state, "face"),
        "key_side": _receiver(state, "key side"),
        "shadow_side": _receiver(state, "shadow side"),
        "cube": _cube(state),
        "contrast_stops": account.contrast(state),
        "contrast_ratio": _power_of_two(account.contrast(state)),
        "returned_by": {
            name: [
                {"surface": p.name, "at": p.path, "share": p.share, "lx_s": p.amount, "bands_lx_s": list(p.bands)}
                for p in account.parts(state, name)
            ]
            for name in ("face", "shadow side")
        },
        "tint": {name: _tint(state, name) for name in ("face", "shadow side")},
        "down_the_body_stops": [{"at": name, "stops": _finite(stops)} for name, stops in account.fall(state)],
        "background": _ground(state),
        "ambient": _ambient(state),
        "body_changes_stops": account.own_shade(state),
        "mirrors": _mirrors(state),
        "measures": [
            {
                "label": m.label,
                "edit": m.edit.model_dump(mode="json"),
                "contrast_stops": m.contrast,
                "exposure_stops": m.exposure,
                "tint_dE": m.tint,
            }
            for m in evaluated(studio, scene)
        ],
    }
    return data


def _mirrors(state: Lit) -> dict[str, Any] | None:
    """What a shiny subject shows of its surroundings, shares of its surface; None for a matt one."""
    found = mirrored(state)
    if found is None:
        return None
    return {"shares": dict(found.shares), "dark": found.dark, "burnt": found.burnt, "camera": found.camera}


def film_of(state: Lit) -> dict[str, float] | None:
    """Stops to spare for film, by frames a second, with the shutter open for half of each frame's time; None
    without continuous light."""
    lux = account.ambient_lux(state)
    if state.needed is None or lux <= 0 or not any(beam.kind == "steady" for beam in state.beams):
        return None
    return {f"{frames}": math.log2(lux / (2 * frames) / state.needed) for frames in FRAMES}


def _finite(value: float | None) -> float | None:
    return value if value is not None and math.isfinite(value) else None


def _power_of_two(stops: float | None) -> float | None:
    return None if stops is None else 2**stops


def _receiver(state: Lit, name: str) -> dict[str, Any]:
    lit_by = state.exposure(name, state.direct)
    back = state.exposure(name, state.returned)
    return {
        "direct_lx_s": float(luminance(lit_by.sum(axis=0))),
        "returned_lx_s": float(luminance(back.sum(axis=0))),
        "bands_lx_s": (lit_by + back).sum(axis=0).tolist(),
        "by_light_lx_s": {b.name: float(v) for b, v in zip(state.beams, (lit_by + back) @ LUMINANCE, strict=True)},
    }


def _cube(state: Lit) -> dict[str, dict[str, float]]:
    rows = state.rows.at["cube"]
    dose = state.doses
    one = np.einsum("rsb,s,b->r", state.direct[rows], dose, LUMINANCE)
    two = np.einsum("rsb,s,b->r", state.returned[rows], dose, LUMINANCE)
    return {
        name: {"direct_lx_s": float(a), "returned_lx_s": float(b)} for name, a, b in zip(FACES, one, two, strict=True)
    }


def _light(one: account.LightFigures) -> dict[str, Any]:
    soft = one.soft
    return {
        "name": one.name,
        "at": one.path,
        "role": one.role,
        "kind": one.kind,
        "basis": one.basis,
        "distance_m": one.distance,
        "power": one.power,
        "power_wanted": one.wish,
        "flux_full": one.flux,
        "axis_full": one.axis,
        "unit": "lm s, cd s" if one.kind == "flash" else "lm, cd",
        "direct_lx_s": one.direct,
        "returned_lx_s": one.returned,
        "flat_to_light_lx_s": one.flat,
        "stops_over_key": _finite(one.stops),
        "f_number": one.aperture,
        "f_number_full": one.full,
        "f_number_lowest": one.lowest,
        "unsure_stops": one.unsure,
        "comes_from": one.comes_from or None,
        "kelvin": one.kelvin,
        "kelvin_known": one.kelvin_known,
        "recycle_s": one.recycle,
        "t01_s": one.duration,
        "apparent_size_deg": soft.size if soft else None,
        "softness": soft.grade if soft else None,
        "penumbra_nose_m": soft.nose if soft else None,
        "penumbra_background_m": soft.background if soft else None,
        "catchlight_m": soft.catchlight if soft else None,
        "catchlight_clock": soft.clock if soft else None,
        "catchlight_shape": soft.shape if soft else None,
        "glasses_spare_deg": one.glare,
        "notes": list(one.notes),
    }


def _tint(state: Lit, name: str) -> dict[str, float] | None:
    found = account.tint_at(state, name)
    if found is None:
        return None
    return {"white_dE": found.white, "skin_dE": found.skin, "cct_K": found.kelvin, "duv": found.duv}


def _ground(state: Lit) -> dict[str, float | None] | None:
    found = account.ground(state)
    if found is None:
        return None
    return {
        "least": found.least,
        "mean": found.mean,
        "most": found.most,
        "stops_from_subject": found.stops,
        "stops_from_wish": found.off,
        "spread_stops": found.spread,
    }


def _ambient(state: Lit) -> dict[str, float | None]:
    return {"lux": account.ambient_lux(state), "stops_under_flash": _finite(account.ambient(state))}


def power_table(state: Lit, beam: Beam, say: Say) -> list[list[str]]:
    """Apertures one head gives on its axis at each power and distance, on a dome turned to it, direct light only, at
    the shot's ISO (and shutter for continuous light). Head row first."""
    light = beam.light
    assert light is not None and beam.emission is not None
    iso = state.scene.shot.iso or 100
    time = 1.0 if beam.kind == "flash" else state.scene.shot.shutter or 1 / 125
    source = beam.source
    distances = DISTANCES[say.units]
    rows = [["power", *(say.length(d) for d in distances)]]
    spots = np.array([source.centre + source.forward * d for d in distances])
    lux = direct(source, spots, np.repeat(-source.forward[None], len(spots), axis=0), blockers_of([])) * luminance(
        source.flux
    )
    for power in powers_of(light.head if isinstance(light.head, Flash) else None):
        cells = [f"{ph.f_number_for(float(e) * power * time / 2**state.scene.shot.dark_filter, iso):.1f}" for e in lux]
        steps = light.head.steps if isinstance(light.head, Flash) else None
        rows.append([setting_words(settable(light.head, power), steps), *cells])
    return rows


def powers_of(head: Flash | None) -> Iterable[float]:
    """Whole stops from full to the head's lowest."""
    lowest = (head.lowest_power if head else None) or 1 / 16
    power = 1.0
    while power >= lowest * 0.999:
        yield power
        power /= 2


def power_csv(state: Lit, say: Say) -> str:
    """Every head's sheet in one file."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    for beam in state.beams:
        if beam.light is None:
            continue
        rows = power_table(state, beam, say)
        writer.writerow(["light", *(f"f at {cell}" if i else cell for i, cell in enumerate(rows[0]))])
        for row in rows[1:]:
            writer.writerow([beam.name, *row])
    return out.getvalue()
