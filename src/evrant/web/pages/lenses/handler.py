"""Shot by lens, and a framing card for each lens."""

import math
import time
from dataclasses import dataclass
from functools import partial
from typing import Any

from fastapi import APIRouter, Request, Response

from evrant.core.base.memo import Memo
from evrant.core.base.units import FOOT, Units
from evrant.core.search.arrange.changes import Cell, shot_by_lens
from evrant.core.space import framing
from evrant.core.space.wanted import wanted
from evrant.core.studio.gear import Camera, Lens
from evrant.core.studio.shots import Shot
from evrant.core.studio.studio import by_id
from evrant.core.studio.words import f_words
from evrant.web.context import Page, render, repository
from evrant.web.parts import (
    cell_words,
)
from evrant.web.registry import Context, PageSpec, Row
from evrant.web.show import page_of

router = APIRouter()

_LENSES: Memo[tuple[Cell, ...]] = Memo(2_000_000, lambda cells: 4_000)
DISTANCES: dict[Units, tuple[float, ...]] = {
    "metric": (0.5, 0.75, 1.0, 1.5, 2.0, 2.5, 3.0, 4.0),
    "imperial": tuple(feet * FOOT for feet in (1.5, 2.5, 4.0, 5.0, 6.0, 8.0, 10.0, 13.0)),
}
BEHIND: dict[Units, float] = {"metric": 1.0, "imperial": 3 * FOOT}
"""How far behind the subject a background's width is told for [m]."""


@dataclass(frozen=True)
class Lenses(Context):
    """What its template shows."""

    shots: tuple[Shot, ...]
    lenses: list[Lens]
    cards: list[Row]


def lenses(page: Page) -> Lenses:
    """Shot by lens (rows come one by one), and a framing card for each lens."""
    studio = page.studio
    owned = [item for item in studio.gear if isinstance(item, Lens)]
    body = next(
        (item for item in studio.gear if isinstance(item, Camera) and item.sensor_width and item.sensor_height), None
    )
    cards = [_framing_card(page, lens, body) for lens in owned if lens.focal and body]
    return Lenses(
        shots=studio.shots,
        lenses=owned,
        cards=cards,
    )


def _framing_card(page: Page, lens: Lens, body: Camera) -> dict[str, Any]:
    """Distance → what fits, what is sharp, and how wide a background must be some way behind."""
    assert lens.focal is not None and body.sensor_width is not None and body.sensor_height is not None
    say, focal = page.say, lens.focal.value
    long, short = body.sensor_width.value, body.sensor_height.value
    stop = next((s.aperture.value for s in page.studio.shots if s.aperture), 8.0)
    blur = framing.blur_circle(long, short)
    rows, behind = [], BEHIND[say.units]
    for far in DISTANCES[say.units]:
        if far < focal * 1.2 or (lens.nearest and far < lens.nearest.value):
            continue
        wide, high = framing.frame_at(far, focal, short), framing.frame_at(far, focal, long)
        near, end = framing.depth_of_field(focal, stop, far, blur)
        rows.append(
            {
                "far": say.length(far),
                "frame": f"{say.length(wide)} × {say.length(high)}",
                "sharp": "to the horizon" if math.isinf(end) else say.length(end - near),
                "ground": say.length(wide * (far + behind) / far),
                "value": (far, wide, high),
            }
        )
    return {
        "lens": lens,
        "rows": rows,
        "stop": f_words(stop),
        "behind": f"Background {say.length(behind)} behind",
        "fits": _what_fits(page, lens, body),
        "cone": _cone(rows),
    }


def _what_fits(page: Page, lens: Lens, body: Camera) -> list[tuple[str, str]]:
    """From how far each shot of the studio fills the frame."""
    assert lens.focal is not None and body.sensor_width is not None and body.sensor_height is not None
    found = []
    for shot in page.studio.shots:
        asked = wanted(shot)
        if asked is None:
            continue
        long, short = body.sensor_width.value, body.sensor_height.value
        across, up = (short, long) if shot.orientation == "portrait" else (long, short)
        far = max(
            framing.subject_distance(lens.focal.value, up, asked.height.value),
            framing.subject_distance(lens.focal.value, across, asked.width),
        )
        found.append((shot.name, page.say.length(far)))
    return found


def _cone(rows: list[dict[str, Any]]) -> list[tuple[float, float, float, str]]:
    """What the lens takes in, as bars at their distances: x, low, high (100 units a metre), label."""
    return [(r["value"][0] * 100, -r["value"][2] * 50, r["value"][2] * 50, r["far"]) for r in rows]


def shot_row(page: Page, shot_id: str) -> dict[str, Any]:
    studio, shot = page.studio, by_id(page.studio.shots, shot_id)
    if shot is None:
        return {"shot": None, "cells": []}
    parts = (studio.room, studio.brief, studio.gear, shot)
    cells = _LENSES.get("lenses", parts, partial(shot_by_lens, studio, shot, clock=time.perf_counter))
    return {"shot": shot, "cells": [cell_words(cell.fits, cell.worst, cell.binds, cell.proved) for cell in cells]}


@router.get("/studios/{studio_id}/lenses/{shot_id}")
def lens_row(request: Request, studio_id: str, shot_id: str) -> Response:
    """One row of the table shot by lens."""
    page = page_of(request, repository(request).newest(studio_id), "lenses")
    return render("pages/lenses/row.html", page, **shot_row(page, shot_id))


SPEC = PageSpec("lenses", lenses, under="shots", router=router)
