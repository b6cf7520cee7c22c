"""Routes of the pages, made from their declarations, and the parts of them that are asked for on their own."""

from fastapi import APIRouter, Request, Response
from fastapi.responses import PlainTextResponse, RedirectResponse
from sqlalchemy import text

from evrant.core.base.faults import at_work_on
from evrant.core.base.margins import Verdict
from evrant.core.judge.remedies import remedies_of
from evrant.store.revisions import NotFound
from evrant.web.context import Page, render, repository
from evrant.web.edge import whole_number
from evrant.web.lines import line_of, shown_lines
from evrant.web.registry import PageSpec, specs
from evrant.web.show import fragment_asked, page_of, page_of_set, show
from evrant.web.studios import first_page

MOST_REMEDIES = 3


def router() -> APIRouter:
    """All routes of all pages: first what pages answer besides themselves, then the pages."""
    made = APIRouter()
    made.add_api_route("/bare", bare, methods=["GET"])
    made.add_api_route("/studios/{studio_id}", studio, methods=["GET"])
    made.add_api_route("/studios/{studio_id}/remedies", remedies, methods=["GET"])
    for spec in specs().values():
        if spec.router is not None:
            made.include_router(spec.router)
    for spec in specs().values():
        if spec.of_set:
            _of_set(made, spec)
        if spec.part:
            _parted(made, spec)
        if not spec.of_set or spec.alone:
            _plain(made, spec)
    return made


def bare(request: Request) -> Response:
    """Answers when app and database are up; the least any page costs."""
    with request.app.state.engine.connect() as connection:
        return PlainTextResponse(str(connection.execute(text("SELECT 1")).scalar_one()))


def studio(request: Request, studio_id: str) -> Response:
    return RedirectResponse(first_page(repository(request).newest(studio_id)), 303)


def remedies(
    request: Request,
    studio_id: str,
    revision: str,
    set_id: str = "",
    only: str = "",
    start: int = 0,
    count: int = 1,
) -> Response:
    """Remedies of some open lines of a page, each put into its place."""
    number = whole_number(revision, least=1)
    if number is None:
        raise NotFound("There is no such revision.")
    held = repository(request).at(studio_id, number)
    page = Page(request, held, "set" if set_id else "brief", set_id=set_id or None)
    lines = shown_lines(page.ledger, page.set_id, only or None)
    shown = [m for m in lines if m.verdict is not Verdict.CLEAR]
    first = min(max(start, 0), len(shown))
    found = []
    for margin in shown[first : first + min(max(count, 1), 12)]:
        with at_work_on(page.at_work):
            options = remedies_of(page.studio, margin, page.ledger)[:MOST_REMEDIES]
        found.append((line_of(margin, page.ledger, page.say), options))
    return render("templates/remedies.html", page, found=found)


def _of_set(made: APIRouter, spec: PageSpec) -> None:
    def whole(request: Request, studio_id: str, set_id: str) -> Response:
        page = page_of_set(request, studio_id, spec.of_set, set_id)
        return show(page, fragment=fragment_asked(request))

    def drawing(request: Request, studio_id: str, set_id: str) -> Response:
        """The drawing alone, for a window of another size."""
        page = page_of_set(request, studio_id, spec.of_set, set_id)
        drawn = spec.drawing(page) if spec.drawing else spec.build(page).values().get("drawing")
        if drawn is None:
            raise NotFound("There is nothing to draw here.")
        return Response(drawn, media_type="text/html")

    path = f"/studios/{{studio_id}}/{spec.of_set}/{{set_id}}"
    made.add_api_route(path, whole, methods=["GET"])
    made.add_api_route(f"{path}/sheet", drawing, methods=["GET"])


def _parted(made: APIRouter, spec: PageSpec) -> None:
    def parted(request: Request, studio_id: str, part: str) -> Response:
        page = page_of(request, repository(request).newest(studio_id), f"{spec.name}/{part}")
        return show(page, fragment=fragment_asked(request))

    made.add_api_route(f"/studios/{{studio_id}}/{spec.name}/{{part}}", parted, methods=["GET"])


def _plain(made: APIRouter, spec: PageSpec) -> None:
    def plain(request: Request, studio_id: str) -> Response:
        page = page_of(request, repository(request).newest(studio_id), spec.name)
        return show(page, fragment=fragment_asked(request) and not spec.of_set)

    made.add_api_route(f"/studios/{{studio_id}}/{spec.name}", plain, methods=["GET"])
    draw = spec.drawing
    if draw is None or spec.of_set:
        return

    def drawing(request: Request, studio_id: str) -> Response:
        """The drawing alone, for a window of another size."""
        page = page_of(request, repository(request).newest(studio_id), spec.name)
        return Response(draw(page), media_type="text/html")

    made.add_api_route(f"/studios/{{studio_id}}/{spec.name}/sheet", drawing, methods=["GET"])
