"""Files to take away: the studio, the shopping list, the ledger."""

import json
import tempfile
from collections.abc import Callable, Iterator
from typing import IO
from urllib.parse import quote

from fastapi import APIRouter, Request, Response
from fastapi.responses import StreamingResponse

from evrant.core.judge.ledger import ledger_of
from evrant.core.space.scene import Scene, scene_of
from evrant.core.space.strokes import views
from evrant.core.studio.gear import Lamp
from evrant.core.studio.past import MOST_FRAMES, Picture
from evrant.core.studio.sets import SetPlan
from evrant.core.studio.shots import Shot
from evrant.core.studio.studio import by_id
from evrant.files.document import write_studio
from evrant.files.lists import lead_table, ledger_table, shopping_list
from evrant.files.photometric import write_photometric
from evrant.files.scaled import write_dxf, write_pdf, write_svg
from evrant.files.whole import write_whole
from evrant.store.repository import Repository
from evrant.store.revisions import NotFound, split
from evrant.web.answers import file_answer
from evrant.web.context import Page, repository
from evrant.web.naming import slug
from evrant.web.pages.light.handler import power_file

router = APIRouter()
KEPT_IN_MEMORY, PIECE = 2_000_000, 262_144
"""Bytes of a file that is made before it lies on disk, and that are sent at a time."""


@router.get("/studios/{studio_id}/download/studio.json")
def studiofile_answer(request: Request, studio_id: str) -> Response:
    studio = repository(request).newest(studio_id).studio
    return file_answer(write_studio(studio), f"{slug(studio.name)}.json", "application/json")


@router.get("/studios/{studio_id}/download/raw.json")
def as_stored(request: Request, studio_id: str) -> Response:
    """A studio's document as it is stored, also where this version cannot read it."""
    return file_answer(repository(request).raw(studio_id), "studio.json", "application/json")


@router.get("/studios/{studio_id}/download/shopping.csv")
def shopping(request: Request, studio_id: str) -> Response:
    studio = repository(request).newest(studio_id).studio
    return file_answer(shopping_list(studio), f"{slug(studio.name)}-shopping.csv", "text/csv; charset=utf-8")


@router.get("/studios/{studio_id}/download/ledger.csv")
def ledger(request: Request, studio_id: str) -> Response:
    studio = repository(request).newest(studio_id).studio
    return file_answer(ledger_table(ledger_of(studio)), f"{slug(studio.name)}-ledger.csv", "text/csv; charset=utf-8")


@router.get("/studios/{studio_id}/download/{item_id}.ies")
def spread_of_light(request: Request, studio_id: str, item_id: str) -> Response:
    """A lamp's measured spread of light, as it is kept."""
    item = by_id(repository(request).newest(studio_id).studio.gear, item_id)
    if not isinstance(item, Lamp) or item.distribution is None:
        raise NotFound("There is no such file.")
    return file_answer(write_photometric(item.distribution, item.name), f"{item_id}.ies", "text/plain; charset=utf-8")


@router.get("/studios/{studio_id}/download/history.json")
def history(request: Request, studio_id: str) -> Response:
    """Every revision of the plan with its document, oldest first: what the studio was, and who made it so."""
    store = repository(request)
    name = f"{slug(store.newest(studio_id).studio.name)}-history.json"
    headers = {"Content-Disposition": f"attachment; filename*=UTF-8''{name}"}
    return StreamingResponse(history_text(store, studio_id), media_type="application/json", headers=headers)


@router.get("/studios/{studio_id}/download/whole.zip")
def whole(request: Request, studio_id: str) -> Response:
    """All of a studio in one file: every plan, every revision, the pictures of its log; it can be taken in again."""
    store = repository(request)
    name = name_of(store, studio_id)
    return sent_whole(f"{slug(name)}-whole.zip", lambda file: write_whole_of(store, studio_id, file))


def name_of(store: Repository, studio_id: str) -> str:
    """A studio's name, also where this version cannot read it."""
    return str(json.loads(store.raw(studio_id)).get("name", "studio"))


def write_whole_of(store: Repository, studio_id: str, file: IO[bytes]) -> None:
    """All of a studio into a file."""
    plans = {split(key)[1]: (store.raw(key), store.whole_history(key)) for key in store.plans(studio_id)}
    kept = reversed(store.frames(studio_id, MOST_FRAMES))
    write_whole(file, plans, ((name, Picture(*store.frame(studio_id, name))) for name, _ in kept))


def sent_whole(name: str, write: Callable[[IO[bytes]], None]) -> Response:
    """A zip file to take away, made on disk where it is large."""
    held = tempfile.SpooledTemporaryFile(KEPT_IN_MEMORY)  # noqa: SIM115  # closed when it has been sent
    write(held)
    held.seek(0)
    headers = {"Content-Disposition": f"attachment; filename*=UTF-8''{quote(name)}"}
    return StreamingResponse(_pieces(held), media_type="application/zip", headers=headers)


def _pieces(file: IO[bytes]) -> Iterator[bytes]:
    with file:
        while some := file.read(PIECE):
            yield some


def history_text(store: Repository, studio_id: str) -> Iterator[str]:
    """The whole history as JSON, revision by revision."""
    before = "["
    for row in store.whole_history(studio_id):
        yield before + json.dumps(row, ensure_ascii=False)
        before = ",\n"
    yield "]\n" if before != "[" else "[]\n"


@router.get("/studios/{studio_id}/download/{set_id}/power.csv")
def power(request: Request, studio_id: str, set_id: str) -> Response:
    """Power × distance × aperture of every head of a set."""
    newest = repository(request).newest(studio_id)
    page = Page(request, newest, "light", set_id=set_id)
    return file_answer(
        power_file(page), f"{slug(newest.studio.name)}-{slug(set_id)}-power.csv", "text/csv; charset=utf-8"
    )


@router.get("/studios/{studio_id}/download/{set_id}/leads.csv")
def leads(request: Request, studio_id: str, set_id: str) -> Response:
    """Where every lead of a set runs, how long it must be and what it carries."""
    studio = repository(request).newest(studio_id).studio
    plan = by_id(studio.sets, set_id)
    scene = scene_of(studio, plan) if plan else None
    if scene is None:
        raise NotFound("There is no such set.")
    return file_answer(lead_table(scene), f"{slug(studio.name)}-{slug(set_id)}-leads.csv", "text/csv; charset=utf-8")


@router.get("/studios/{studio_id}/download/{set_id}.{kind}")
def drawing(request: Request, studio_id: str, set_id: str, kind: str) -> Response:
    """Plan and sections of a set (`room`: of the bare room) in true scale."""
    studio = repository(request).newest(studio_id).studio
    plan = by_id(studio.sets, set_id) or SetPlan(id="room", name="Room", shot="none")
    scene = scene_of(studio, plan) or Scene(studio.room, studio.brief, Shot(id="none"), plan, {})
    found = views(scene)
    if not found or kind not in ("svg", "pdf", "dxf"):
        raise NotFound("There is nothing to draw yet." if kind in ("svg", "pdf", "dxf") else "There is no such file.")
    title = f"{studio.name}: {plan.name}"
    name = f"{slug(studio.name)}-{slug(plan.name)}.{kind}"
    match kind:
        case "svg":
            return file_answer(write_svg(found, title), name, "image/svg+xml")
        case "pdf":
            return file_answer(write_pdf(found, title), name, "application/pdf")
    return file_answer(write_dxf(found), name, "image/vnd.dxf")
