"""The list of studios: new, copy, import, demo, archive."""

import time
from collections import defaultdict
from threading import BoundedSemaphore
from typing import Any

from fastapi import APIRouter, Request, Response, UploadFile
from fastapi.responses import HTMLResponse
from pydantic import ValidationError

from evrant.core.base.tables.countries import MAINS
from evrant.core.edits.language import EditRefused
from evrant.core.judge.ledger import ledger_of
from evrant.core.studio.brief import Brief
from evrant.core.studio.studio import Studio
from evrant.demo import NAMES, demo_studio
from evrant.files.document import Fault, Refused, faults_of
from evrant.files.whole import read_any
from evrant.store.people import People, Shared
from evrant.store.repository import Listed, Repository
from evrant.store.revisions import Revision, Unreadable
from evrant.web.context import own_repository, render, repository, who
from evrant.web.edge import EditId, Text, whole_number
from evrant.web.standing import judged, judged_by
from evrant.web.turns import turn_of

router = APIRouter()


PER_PAGE = 40
ONE = BoundedSemaphore(1)
"""Files that are taken in at the same time, for a whole studio takes memory."""
JUDGED_AT_ONCE = 0.8
"""Seconds a list may spend on studios nobody has judged yet; the others are judged when their row asks for it."""


@router.get("/")
def index(request: Request) -> HTMLResponse:
    """Studios with their worst line, and ways to begin."""
    return _list(request)


def _list(
    request: Request,
    *,
    status: int = 200,
    faults: list[Fault] | None = None,
    typed: dict[str, str] | None = None,
    import_faults: list[Fault] | None = None,
    undeleted: dict[str, str] | None = None,
) -> HTMLResponse:
    store = repository(request)
    asked = whole_number(request.query_params.get("page", "1"), least=1) or 1
    pages = max(-(-store.count() // PER_PAGE), 1)
    number = min(asked, pages)
    until = time.monotonic() + JUDGED_AT_ONCE
    listed = store.studios(start=(number - 1) * PER_PAGE, count=PER_PAGE)
    return render(
        "pages/studios/page.html",
        status=status,
        token=request.state.token,
        rows=[_row(store, one, judge=time.monotonic() < until) for one in listed],
        number=number,
        pages=pages,
        archived=store.studios(archived=True),
        who=who(request),
        shared=shared_with(request),
        countries=[(code, mains.name) for code, mains in MAINS.items()],
        demos=[(n, demo_studio(n).name) for n in NAMES],
        faults=defaultdict(str, {fault.path: fault.message for fault in faults or []}),
        typed=defaultdict(str, typed or {}),
        import_faults=import_faults or [],
        undeleted=undeleted or {"id": ""},
    )


def shared_with(request: Request) -> list[Shared]:
    """Studios others share with who asks."""
    account = who(request).account
    people: People = request.app.state.people
    return people.shared_with(account.id) if account is not None else []


@router.get("/studios/{studio_id}/standing")
def standing(request: Request, studio_id: str) -> HTMLResponse:
    """How one studio of the list stands."""
    store = repository(request)
    newest = store.newest(studio_id)
    told = judged(store, newest)
    return render("pages/studios/standing.html", row={"id": studio_id, "told": told})


def _row(store: Repository, listed: Listed, *, judge: bool) -> dict[str, Any]:
    """A studio of the list; `told` is None while nobody has judged it by these rules."""
    row: dict[str, Any] = {"listed": listed, "id": listed.id, "told": None}
    if listed.standing is not None and listed.standing[0] == judged_by():
        return row | {"told": listed.standing[1]}
    if judge:
        try:
            row["told"] = judged(store, store.newest(listed.id))
        except Unreadable as fault:
            row["told"] = {"unreadable": fault.message}
    return row


@router.post("/studios")
def create(
    request: Request, name: Text = "", country: Text = "other", units: Text = "metric", edit_id: EditId = ""
) -> Response:
    """A new, empty studio; the brief is the next page."""
    typed = {"name": name, "country": country, "units": units}
    try:
        mains = MAINS.get(country)  # type: ignore[call-overload]
        brief = Brief.model_validate(
            {"country": country, "units": units, "currency": mains.currency if mains else "EUR"}
        )
        studio = Studio(name=name, brief=brief)
    except ValidationError as error:
        return _list(request, status=422, faults=faults_of(error), typed=typed)
    made = repository(request).create(studio, label="New studio", edit_id=edit_id)
    return _go(f"/studios/{made.studio_id}/brief")


@router.post("/studios/import")
def import_file(request: Request, file: UploadFile, edit_id: EditId = "") -> Response:
    """A studio from an open JSON file, or all of one from its zip; a bad file is refused with the path of the wrong
    field."""
    try:
        with turn_of(ONE, "Other files are being read; send it again in a moment."):
            made = _taken_in(repository(request), file.file.read(), edit_id)
    except Refused as refused:
        return _list(request, status=422, import_faults=refused.faults)
    return _go(f"/studios/{made.studio_id}")


def _taken_in(store: Repository, raw: bytes, edit_id: str) -> Revision:
    """A new studio from a file. Raises Refused."""
    found = read_any(raw)
    if isinstance(found, Studio):
        return store.create(found, label="Import a file", cause="import", edit_id=edit_id)
    return store.take_in(found, edit_id=edit_id)


@router.post("/studios/demo/{name}")
def open_demo(request: Request, name: str, edit_id: EditId = "") -> Response:
    """A demo studio as one's own copy."""
    try:
        studio = demo_studio(name)
    except KeyError:
        return _list(request, status=404)
    made = repository(request).create(studio, label="Open the demo studio", edit_id=edit_id)
    return _go(first_page(made))


@router.post("/studios/{studio_id}/copy")
def copy(request: Request, studio_id: str, edit_id: EditId = "") -> Response:
    """A second studio with the same content."""
    original = repository(request).newest(studio_id).studio
    twin = original.changed(name=f"{original.name[:70]} (copy)")
    own_repository(request).create(twin, label=f"Copy of {original.name}", edit_id=edit_id)
    return _go("/")


@router.post("/studios/{studio_id}/archive")
def archive(request: Request, studio_id: str) -> Response:
    repository(request).set_archived(studio_id, True)
    return _go("/")


@router.post("/studios/{studio_id}/bring-back")
def bring_back(request: Request, studio_id: str) -> Response:
    repository(request).set_archived(studio_id, False)
    return _go("/")


@router.post("/studios/{studio_id}/delete")
def delete(request: Request, studio_id: str, name: Text = "") -> Response:
    """An archived studio, gone for good once its name has been typed."""
    try:
        repository(request).delete(studio_id, name)
    except EditRefused as refused:
        return _list(request, status=422, undeleted={"id": studio_id, "name": name, "error": refused.message})
    return _go("/")


def first_page(revision: Revision) -> str:
    """Where a studio opens: its set with the worst line, else the brief."""
    sets = revision.studio.sets
    base = f"/studios/{revision.studio_id}"
    if not sets:
        return f"{base}/brief"
    worst = next((line.set_id for line in ledger_of(revision.studio).lines if line.set_id), sets[0].id)
    return f"{base}/sets/{worst}"


def _go(address: str) -> Response:
    return Response(status_code=204, headers={"HX-Redirect": address})
