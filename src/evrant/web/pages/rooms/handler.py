"""Candidate rooms, and shot by room."""

import time
from dataclasses import dataclass
from functools import partial
from typing import Any

from fastapi import APIRouter, Request, Response

from evrant.core.base.memo import Memo
from evrant.core.search.arrange.changes import RoomCell, shot_by_room
from evrant.core.space.scene import Scene
from evrant.core.studio.shots import Shot
from evrant.core.studio.studio import by_id
from evrant.drawing.sheet import room_sheet
from evrant.web.context import Page, render, repository
from evrant.web.parts import bare_scene, cell_words
from evrant.web.registry import Context, PageSpec, Row
from evrant.web.show import page_of

router = APIRouter()

_ROOMS: Memo[tuple[RoomCell, ...]] = Memo(2_000_000, lambda cells: 4_000)


@dataclass(frozen=True)
class Rooms(Context):
    """What its template shows."""

    rooms: list[Row]
    shots: tuple[Shot, ...]


def rooms(page: Page) -> Rooms:
    """Candidate rooms, and shot by room (rows come one by one)."""
    studio = page.studio
    drawn = []
    for key, name, room in [("", studio.room_name, studio.room), *((c.id, c.name, c.room) for c in studio.rooms)]:
        scene = Scene(room, studio.brief, Shot(id="none"), bare_scene(page).plan, {})
        drawn.append(
            {
                "id": key,
                "name": name,
                "drawing": room_sheet(scene, 300.0, 230.0),
                "target": f"rooms/{key}" if key else "",
            }
        )
    return Rooms(
        rooms=drawn,
        shots=studio.shots,
    )


def room_cells(page: Page, shot_id: str) -> dict[str, Any]:
    studio, shot = page.studio, by_id(page.studio.shots, shot_id)
    if shot is None:
        return {"shot": None, "cells": []}
    parts = (studio.room, studio.rooms, studio.brief, studio.gear, shot)
    cells = _ROOMS.get("rooms", parts, partial(shot_by_room, studio, shot, clock=time.perf_counter))
    return {
        "shot": shot,
        "cells": [cell_words(cell.fits, cell.worst, cell.line, cell.proved, cell.margin) for cell in cells],
    }


@router.get("/studios/{studio_id}/rooms/{shot_id}")
def room_row(request: Request, studio_id: str, shot_id: str) -> Response:
    """One row of the table shot by room."""
    page = page_of(request, repository(request).newest(studio_id), "rooms")
    return render("pages/rooms/row.html", page, **room_cells(page, shot_id))


SPEC = PageSpec("rooms", rooms, under="room", router=router)
