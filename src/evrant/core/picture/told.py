"""A picture in words and figures: readings at a point, how bright its regions are, what reaches into it."""

import math
from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from evrant.core.base.units import signed
from evrant.core.light.colour import LUMINANCE
from evrant.core.light.lit import Lit
from evrant.core.picture.render import Picture, encoded

GREY = 0.18
"""Reflectance of a grey card."""
OVER, UNDER = 0.985, 0.0033
"""Linear shares of white from which a pixel counts as burnt out or as black without drawing: sRGB 253 and 11."""
SEEN_FROM = 0.002
"""Share of the picture from which a thing in it is named."""


@dataclass(frozen=True)
class Spot:
    """What one place of a picture shows: sRGB values 0 to 255, stops from a grey card in the exposure the camera is
    set for, what is there and how far along the lens axis [m]."""

    red: int
    green: int
    blue: int
    stops: float
    what: str
    away: float


def spot_at(picture: Picture, across: float, down: float) -> Spot:
    """A reading at a place, given as shares of the picture's width and height, over five by five pixels."""
    seen = picture.seen
    x = min(max(int(across * seen.columns), 0), seen.columns - 1)
    y = min(max(int(down * seen.rows), 0), seen.rows - 1)
    patch = picture.relative[max(y - 2, 0) : y + 3, max(x - 2, 0) : x + 3].reshape(-1, 3)
    mean = patch.mean(axis=0)
    red, green, blue = (int(v) for v in encoded(mean[None])[0])
    bright = float(LUMINANCE @ mean)
    stops = math.log2(bright / GREY) if bright > 0 else -math.inf
    at = y * seen.columns + x
    return Spot(red, green, blue, stops, name_at(picture, at), float(seen.depth[at]))


def name_at(picture: Picture, at: int) -> str:
    """What a pixel shows."""
    seen, stage = picture.seen, picture.stage
    if seen.part[at] >= 0:
        return stage.names[int(stage.group_of[seen.part[at]])]
    return stage.faces.names[int(seen.face[at])] if seen.face[at] >= 0 else "nothing"


def names_of(picture: Picture) -> dict[str, NDArray[np.bool_]]:
    """Which pixels show each thing (rows, columns), by its name."""
    seen, stage = picture.seen, picture.stage
    found: dict[str, NDArray[np.bool_]] = {}
    for k in np.unique(seen.face[seen.face >= 0]):
        name = stage.faces.names[int(k)]
        mask = seen.face == k
        found[name] = found[name] | mask if name in found else mask
    for g, name in enumerate(stage.names):
        mask = (seen.part >= 0) & (stage.group_of[np.maximum(seen.part, 0)] == g)
        if mask.any():
            found[name] = found[name] | mask if name in found else mask
    return {name: mask.reshape(seen.rows, seen.columns) for name, mask in found.items()}


def luminance_of(picture: Picture) -> NDArray[np.float64]:
    """(rows, columns) luminance as a share of white."""
    return np.asarray(picture.relative @ LUMINANCE)


def over_and_under(picture: Picture) -> tuple[float, float]:
    """Shares of the picture that are burnt out in a band, and black without drawing."""
    top = picture.relative.max(axis=2)
    return float((top >= OVER).mean()), float((luminance_of(picture) <= UNDER).mean())


def bright_words(stops: float) -> str:
    """How bright something is against a grey card, in words."""
    steps = ((-5.0, "black"), (-2.5, "dark"), (-0.8, "darker than grey"), (0.8, "grey"), (2.0, "light"))
    return next((words for limit, words in steps if stops < limit), "white")


def regions(picture: Picture) -> list[tuple[str, float, float]]:
    """Things in the picture, the largest first: name, share of the picture, stops from a grey card."""
    bright = luminance_of(picture)
    found = []
    for name, mask in names_of(picture).items():
        share = float(mask.mean())
        if share >= SEEN_FROM:
            mean = float(bright[mask].mean())
            found.append((name, share, math.log2(mean / GREY) if mean > 0 else -math.inf))
    return sorted(found, key=lambda one: -one[1])


def described(picture: Picture) -> list[str]:
    """The picture in sentences: what fills it and how bright, what is burnt out, what stands at its edges."""
    rows = regions(picture)
    said = [
        f"{name[:1].upper()}{name[1:]}: {share:.0%} of the picture, {bright_words(stops)}"
        + (f", {signed(stops)} stops from a grey card." if math.isfinite(stops) else ".")
        for name, share, stops in rows[:6]
    ]
    over, under = over_and_under(picture)
    if over >= 0.005:
        said.append(f"{over:.0%} of it is burnt out.")
    if under >= 0.02:
        said.append(f"{under:.0%} of it is black.")
    at_edge = list(edge_names(picture))
    if at_edge:
        said.append("At its edges one sees " + ", ".join(f"the {name}" for name in at_edge) + ".")
    return said


def edge_names(picture: Picture) -> Iterable[str]:
    """What touches the picture's edges besides its subjects."""
    own = {who.name.lower() for who in picture.lit.scene.shot.subjects}
    for name, mask in names_of(picture).items():
        rim = np.concatenate([mask[0], mask[-1], mask[:, 0], mask[:, -1]])
        if name not in own and rim.mean() > 0.01:
            yield name


@dataclass(frozen=True)
class Part:
    """A choice of lights a picture can be taken in: a key for an address, words, the numbers of its sources."""

    key: str
    words: str
    only: frozenset[int] | None


def parts_of(lit: Lit) -> list[Part]:
    """All lights, the frame without flash (or without the lights of the set), each light alone."""
    found = [Part("all", "All lights", None)]
    if any(beam.light is not None for beam in lit.beams):
        flash = any(beam.kind == "flash" for beam in lit.beams)
        rest = frozenset(
            i for i, beam in enumerate(lit.beams) if (beam.kind != "flash" if flash else beam.light is None)
        )
        found.append(Part("without", "Without flash" if flash else "Room light alone", rest))
    if len(lit.beams) > 1:
        found += [
            Part(f"only-{i}", f"{one.name.capitalize()} alone", frozenset([i])) for i, one in enumerate(lit.beams)
        ]
    return found


def settings_of(picture: Picture) -> dict[str, str]:
    """What is written into a saved picture: the figures it was taken with."""
    lit = picture.lit
    shot, scene = lit.scene.shot, lit.scene
    found = {"Title": f"{shot.name}, {scene.plan.name}", "Software": "Evrant, computed picture"}
    if shot.aperture:
        found["Aperture"] = f"f/{shot.aperture.value:g}"
    if shot.iso:
        found["ISO"] = str(shot.iso)
    if shot.shutter:
        found["Shutter"] = f"{shot.shutter:g} s"
    if scene.focal:
        found["Focal length"] = f"{scene.focal.value * 1000:g} mm"
    if scene.distance:
        found["Distance"] = f"{scene.distance:.2f} m"
    for i, beam in enumerate(lit.beams):
        if beam.light is not None:
            found[f"Light {i + 1}"] = f"{beam.name}: power {lit.powers[i]:.3g}"
    return found
