"""A test frame: click the grey card or the background, and what it reads becomes a reading."""

from dataclasses import dataclass
from threading import BoundedSemaphore
from typing import Annotated, Any
from urllib.parse import urlencode

from fastapi import APIRouter, Depends, Form, Request, Response, UploadFile
from fastapi.responses import JSONResponse

from evrant.core.edits.language import EditRefused
from evrant.core.studio.log import Reading
from evrant.core.studio.studio import Studio, by_id
from evrant.core.studio.words import f_words, time_words
from evrant.devices.instruments import NoReading
from evrant.devices.simulated import camera_for
from evrant.files.test_frames import TestFrame, read_frame, value_at
from evrant.store.revisions import NotFound
from evrant.web.carrying import HIDDEN_ROOM
from evrant.web.context import Page, repository
from evrant.web.edge import whole_number
from evrant.web.registry import Context, PageSpec
from evrant.web.turns import turn_of

router = APIRouter()
ONE = BoundedSemaphore(1)
"""Frames that are unpacked at the same time, for each takes the memory of all its pixels."""


@dataclass(frozen=True)
class Framed(Context):
    """What its template shows: the frame, what it was taken of and at, and where the value goes."""

    key: str
    told: dict[str, Any]
    set_id: str
    light: str
    session: str
    without_flash: bool
    behind: bool
    what: str
    settings: str
    back: str


def framed(page: Page) -> Framed:
    """A kept frame."""
    store, key = repository(page.request), page.part or ""
    _, told = store.frame(page.revision.studio_id, key) if key else (b"", {})
    asked = page.request.query_params
    plan = by_id(page.studio.sets, asked.get("set"))
    light = by_id(plan.lights, asked.get("light")) if plan is not None else None
    session = by_id(page.studio.sessions, asked.get("session"))
    without = asked.get("without_flash") == "yes"
    name = plan.name if plan is not None else ""
    which = "without flash" if without else f"{plan.name_of(light)} alone" if plan and light else "all lights"
    return Framed(
        key=key,
        told=told,
        set_id=plan.id if plan is not None else "",
        light=light.id if light is not None else "",
        session=session.id if session is not None else "",
        without_flash=without,
        behind=asked.get("kind") == "background in a frame",
        what=f"{name}, {which}" if name else "",
        settings=_settings(told),
        back=f"{page.base}/carry/{session.id}" if session is not None else f"{page.base}/log",
    )


def _settings(told: dict[str, Any]) -> str:
    parts = [f_words(told["aperture"])] if told.get("aperture") else []
    parts += [time_words(told["shutter"])] if told.get("shutter") else []
    parts += [f"ISO {told['iso']}"] if told.get("iso") else []
    return ", ".join(parts)


def _kept(request: Request, studio_id: str, frame: TestFrame, query: dict[str, str]) -> Response:
    key = repository(request).keep_frame(studio_id, frame.picture, frame.told())
    asked = urlencode({name: value for name, value in query.items() if value})
    return Response(status_code=204, headers={"HX-Redirect": f"/studios/{studio_id}/frame/{key}?{asked}"})


class TakenOf:
    """What a frame was taken of, as a form says it."""

    def __init__(
        self,
        set_id: Annotated[str, Form(alias="set")] = "",
        light: Annotated[str, Form()] = "",
        session: Annotated[str, Form()] = "",
        without_flash: Annotated[str, Form()] = "",
        kind: Annotated[str, Form()] = "",
    ) -> None:
        self.set_id, self.light, self.without_flash = set_id, light, without_flash
        self.query = {"set": set_id, "light": light, "session": session, "without_flash": without_flash, "kind": kind}


@router.post("/studios/{studio_id}/frames/take")
def take(
    request: Request,
    studio_id: str,
    file: UploadFile,
    of: Annotated[TakenOf, Depends()],
) -> Response:
    """A test frame from a file."""
    with turn_of(ONE, "Other frames are being read; send it again in a moment."):
        frame = read_frame(file.file.read())
    return _kept(request, studio_id, frame, of.query)


@router.post("/studios/{studio_id}/frames/simulated")
def simulated(
    request: Request,
    studio_id: str,
    of: Annotated[TakenOf, Depends()],
) -> Response:
    """A test frame by the simulated camera."""
    studio: Studio = repository(request).newest(studio_id).studio
    plan = by_id(studio.sets, of.set_id)
    if plan is None:
        raise EditRefused("Say of which set the frame is.", "set")
    wanted = Reading(
        id="frame",
        set=plan.id,
        light=of.light if by_id(plan.lights, of.light) is not None else None,
        kind="grey card in a frame",
        without_flash=of.without_flash == "yes",
    )
    try:
        raw = camera_for(studio, HIDDEN_ROOM).frame(wanted)
    except NoReading as none:
        raise EditRefused(str(none)) from none
    return _kept(request, studio_id, read_frame(raw, simulated=True), of.query)


@router.get("/studios/{studio_id}/frames/{key}.jpg")
def picture(request: Request, studio_id: str, key: str) -> Response:
    """The frame itself."""
    raw, _ = repository(request).frame(studio_id, key)
    return Response(raw, media_type="image/jpeg", headers={"Cache-Control": "private, max-age=86400"})


@router.get("/studios/{studio_id}/frames/{key}/value")
def value(request: Request, studio_id: str, key: str, x: str = "", y: str = "") -> Response:
    """What the frame reads at a place, given as shares of its width and height."""
    places = [_share(text) for text in (x, y)]
    if None in places:
        raise NotFound("Give a place in the frame.")
    raw, _ = repository(request).frame(studio_id, key)
    found, spread = value_at(raw, places[0] or 0.0, places[1] or 0.0)
    words = f"{found:.0f} of 255"
    if spread > 6:
        words += f", uneven (± {spread:.0f}): choose a plain part of the card"
    return JSONResponse({"words": words, "value": round(found, 1)})


def _share(text: str) -> float | None:
    """A share of 1 written as a plain number."""
    whole, _, part = text.partition(".")
    if whole not in ("0", "1") or (part and whole_number(part[:9]) is None) or len(part) > 9:
        return None
    return min(float(text), 1.0)


SPEC = PageSpec("frame", framed, under="log", part=True, router=router)
