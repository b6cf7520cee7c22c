"""Pages of one studio, and the parts of them that are asked for on their own."""

from fastapi import APIRouter, Request, Response
from fastapi.responses import PlainTextResponse, RedirectResponse
from sqlalchemy import text

from evrant.core.base.margins import Verdict
from evrant.core.edits.paths import NoSuchThing, find
from evrant.core.judge.remedies import remedies_of
from evrant.core.studio.studio import by_id
from evrant.store.repository import NotFound, Revision
from evrant.web.context import Page, render, repository
from evrant.web.desks import DESKS, found_sets, possible_changes, room_cells, shot_row
from evrant.web.kitpages import KIT_PAGES
from evrant.web.lightpage import light_page, measures_of, power_page
from evrant.web.lines import line_of, shown_lines
from evrant.web.pages import PAGES, drawing_of
from evrant.web.riggingpages import power_desk, safety_sheet, support_page
from evrant.web.studios import first_page
from evrant.web.timing import span

router = APIRouter()
MOST_REMEDIES = 3
BUILDERS = (
    PAGES
    | DESKS
    | KIT_PAGES
    | {
        "light": light_page,
        "support": support_page,
        "power": power_desk,
        "safety": safety_sheet,
    }
)
PLAIN = frozenset({*PAGES, *DESKS, *KIT_PAGES})
"""Pages by their name alone."""
PARTED = ("survey", "arrange", "compare")
"""Pages about one part of the studio, named after a stroke."""


@router.get("/bare")
def bare(request: Request) -> Response:
    """Answers when app and database are up; the least any page costs."""
    with request.app.state.engine.connect() as connection:
        return PlainTextResponse(str(connection.execute(text("SELECT 1")).scalar_one()))


def page_of(request: Request, revision: Revision, name: str) -> Page:
    """A page by its path: `room`, `sets/<id>`. Falls back to the shots when a set is gone."""
    first, _, set_id = name.partition("/")
    with span(request, "database"):
        undo_redo = repository(request).can_undo_redo(revision)
    if first == "sets":
        if by_id(revision.studio.sets, set_id) is None:
            return Page(request, revision, "shots", undo_redo)
        return Page(request, revision, "set", undo_redo, set_id)
    if first in ("light", "support", "power", "safety") and set_id:
        if by_id(revision.studio.sets, set_id) is None:
            return Page(request, revision, "shots", undo_redo)
        return Page(request, revision, first, undo_redo, set_id)
    if first in PARTED:
        return Page(request, revision, first, undo_redo, part=set_id or None)
    return Page(request, revision, first if first in PLAIN else "brief", undo_redo)


def show(page: Page, *, fragment: bool, status: int = 200, headers: dict[str, str] | None = None) -> Response:
    """The whole page, or what changes of it."""
    page.extra |= BUILDERS[page.name](page)
    template = "templates/fragment.html" if fragment else "templates/whole.html"
    return render(template, page, status, headers, body=f"pages/{page.name}/page.html")


@router.get("/studios/{studio_id}")
def studio(request: Request, studio_id: str) -> Response:
    return RedirectResponse(first_page(repository(request).newest(studio_id)), 303)


@router.get("/studios/{studio_id}/history")
def history(request: Request, studio_id: str) -> Response:
    """Every revision with its label, newest first."""
    store = repository(request)
    newest = store.newest(studio_id)
    page = Page(request, newest, "history", store.can_undo_redo(newest))
    page.extra["rows"] = store.history(studio_id)
    return render("templates/whole.html", page, body="pages/history/page.html")


@router.get("/studios/{studio_id}/remedies")
def remedies(
    request: Request,
    studio_id: str,
    revision: int,
    set_id: str = "",
    only: str = "",
    start: int = 0,
    count: int = 1,
) -> Response:
    """Remedies of some open lines of a page, each put into its place."""
    held = repository(request).at(studio_id, revision)
    page = Page(request, held, "set" if set_id else "brief", set_id=set_id or None)
    lines = shown_lines(page.ledger, page.set_id, only or None)
    shown = [m for m in lines if m.verdict is not Verdict.CLEAR]
    found = []
    for margin in shown[start : start + min(max(count, 1), 12)]:
        options = remedies_of(page.studio, margin, page.ledger)[:MOST_REMEDIES]
        found.append((line_of(margin, page.ledger, page.say), options))
    return render("templates/remedies.html", page, found=found)


@router.get("/studios/{studio_id}/survey/{part}")
@router.get("/studios/{studio_id}/arrange/{part}")
@router.get("/studios/{studio_id}/compare/{part}")
def parted_page(request: Request, studio_id: str, part: str) -> Response:
    name = request.url.path.split("/")[3]
    page = page_of(request, repository(request).newest(studio_id), f"{name}/{part}")
    return show(page, fragment="HX-Request" in request.headers)


@router.get("/studios/{studio_id}/arrange/{shot_id}/found")
def found(request: Request, studio_id: str, shot_id: str) -> Response:
    """The sets a search finds for a shot, or the nearest miss; asked for once the page stands."""
    page = page_of(request, repository(request).newest(studio_id), f"arrange/{shot_id}")
    return render("pages/arrange/found.html", page, **found_sets(page, shot_id))


@router.get("/studios/{studio_id}/arrange/{shot_id}/possible")
def possible(request: Request, studio_id: str, shot_id: str) -> Response:
    """What would make a shot possible, each verified by a search of its own."""
    page = page_of(request, repository(request).newest(studio_id), f"arrange/{shot_id}")
    return render("pages/arrange/possible.html", page, **possible_changes(page, shot_id))


@router.get("/studios/{studio_id}/lenses/{shot_id}")
def lens_row(request: Request, studio_id: str, shot_id: str) -> Response:
    """One row of the table shot by lens."""
    page = page_of(request, repository(request).newest(studio_id), "lenses")
    return render("pages/lenses/row.html", page, **shot_row(page, shot_id))


@router.get("/studios/{studio_id}/rooms/{shot_id}")
def room_row(request: Request, studio_id: str, shot_id: str) -> Response:
    """One row of the table shot by room."""
    page = page_of(request, repository(request).newest(studio_id), "rooms")
    return render("pages/rooms/row.html", page, **room_cells(page, shot_id))


def _of_set(request: Request, studio_id: str, name: str, set_id: str) -> Page:
    page = page_of(request, repository(request).newest(studio_id), f"{name}/{set_id}")
    if page.set_id is None:
        raise NotFound("There is no such set.")
    return page


@router.get("/studios/{studio_id}/light/{set_id}")
def light(request: Request, studio_id: str, set_id: str) -> Response:
    return show(_of_set(request, studio_id, "light", set_id), fragment="HX-Request" in request.headers)


@router.get("/studios/{studio_id}/light/{set_id}/sheet")
def light_sheet(request: Request, studio_id: str, set_id: str) -> Response:
    return Response(drawing_of(_of_set(request, studio_id, "light", set_id)), media_type="text/html")


@router.get("/studios/{studio_id}/light/{set_id}/measures")
def light_measures(request: Request, studio_id: str, set_id: str) -> Response:
    """What would change the light, each computed; asked for once the page stands."""
    page = _of_set(request, studio_id, "light", set_id)
    return render("pages/light/measures.html", page, **measures_of(page))


@router.get("/studios/{studio_id}/light/{set_id}/power")
def light_power(request: Request, studio_id: str, set_id: str) -> Response:
    """Power × distance × aperture of every head, to print."""
    page = _of_set(request, studio_id, "light", set_id)
    page.extra |= power_page(page)
    return render("templates/whole.html", page, body="pages/light/power.html")


@router.get("/studios/{studio_id}/support/{set_id}")
@router.get("/studios/{studio_id}/power/{set_id}")
@router.get("/studios/{studio_id}/safety/{set_id}")
def part_of_set(request: Request, studio_id: str, set_id: str) -> Response:
    """Supports from the side, leads and circuits, or the safety sheet of one set."""
    name = request.url.path.split("/")[3]
    return show(_of_set(request, studio_id, name, set_id), fragment="HX-Request" in request.headers)


@router.get("/studios/{studio_id}/support/{set_id}/sheet")
@router.get("/studios/{studio_id}/power/{set_id}/sheet")
def part_sheet(request: Request, studio_id: str, set_id: str) -> Response:
    """The drawing alone, for a window of another size."""
    name = request.url.path.split("/")[3]
    page = _of_set(request, studio_id, name, set_id)
    return Response(BUILDERS[name](page)["drawing"], media_type="text/html")


@router.get("/studios/{studio_id}/safety")
def safety(request: Request, studio_id: str) -> Response:
    """The safety sheet of every set, to print."""
    page = Page(request, repository(request).newest(studio_id), "safety")
    return show(page, fragment=False)


@router.get("/studios/{studio_id}/{name}")
def plain_page(request: Request, studio_id: str, name: str) -> Response:
    if name not in PLAIN or name == "set":
        raise NotFound("There is no such page.")
    page = page_of(request, repository(request).newest(studio_id), name)
    return show(page, fragment="HX-Request" in request.headers)


@router.get("/studios/{studio_id}/sets/{set_id}/sheet")
def set_sheet(request: Request, studio_id: str, set_id: str) -> Response:
    """The drawing alone, for a window of another size."""
    page = page_of(request, repository(request).newest(studio_id), f"sets/{set_id}")
    if page.set_id is None:
        raise NotFound("There is no such set.")
    return Response(drawing_of(page), media_type="text/html")


@router.get("/studios/{studio_id}/sets/{set_id}")
def set_page(request: Request, studio_id: str, set_id: str) -> Response:
    revision = repository(request).newest(studio_id)
    try:
        find(revision.studio, f"sets/{set_id}")
    except NoSuchThing as error:
        raise NotFound("There is no such set.") from error
    page = page_of(request, revision, f"sets/{set_id}")
    return show(page, fragment="HX-Request" in request.headers)
