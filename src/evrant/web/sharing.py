"""Sharing a studio: with people by name, to look at or to change; with whoever has a link, to look at."""

from datetime import date

from fastapi import APIRouter, Request, Response
from fastapi.responses import HTMLResponse, RedirectResponse

from evrant.core.edits.language import EditRefused
from evrant.store.people import LONGEST, Role
from evrant.store.revisions import split
from evrant.web.context import render, repository, who
from evrant.web.edge import Text
from evrant.web.hosting import Hosting
from evrant.web.signing import people_of

router = APIRouter()


def _page(
    request: Request, studio_id: str, *, status: int = 200, fault: EditRefused | None = None, link: str = ""
) -> HTMLResponse:
    newest = repository(request).newest(studio_id)
    return render(
        "pages/share/page.html",
        status=status,
        token=request.state.token,
        who=who(request),
        studio=newest.studio,
        base=f"/studios/{studio_id}",
        shares=people_of(request).shares(studio_id),
        faults={} if fault is None else {fault.field or "": fault.message},
        link=link,
    )


@router.get("/studios/{studio_id}/share")
def share_page(request: Request, studio_id: str) -> HTMLResponse:
    """With whom the studio is shared."""
    return _page(request, split(studio_id)[0])


@router.post("/studios/{studio_id}/share")
def share(
    request: Request, studio_id: str, name: Text = "", role: Text = "looker", until: Text = "", by_link: Text = ""
) -> Response:
    """Shared with one more, or by one more link."""
    bare, people, account = split(studio_id)[0], people_of(request), who(request).account
    assert account is not None
    hosting: Hosting = request.app.state.hosting
    try:
        if by_link:
            token = people.share_by_link(bare, account.id, _day(until))
            return _page(request, bare, link=f"{hosting.address}/look/{token}")
        if role not in ("looker", "editor"):
            raise EditRefused("Share it to look at or to change.", "role")
        people.share_with(bare, account.id, name, Role[role.upper()])
    except EditRefused as refused:
        return _page(request, bare, status=422, fault=refused)
    return _page(request, bare)


@router.post("/studios/{studio_id}/share/{share_id}")
def take_back(request: Request, studio_id: str, share_id: str) -> Response:
    """Shared no more."""
    bare = split(studio_id)[0]
    people_of(request).take_back(bare, share_id)
    return _page(request, bare)


@router.get("/look/{link}")
def by_link(request: Request, link: str) -> Response:
    """From a link to the studio it shows: what the browser keeps opens that one studio, to look at."""
    hosting: Hosting = request.app.state.hosting
    studio = people_of(request).of_link(link[:100])
    answer = RedirectResponse(f"/studios/{studio}", 303)
    answer.headers.append("Set-Cookie", hosting.set_cookie("link", link, round(LONGEST.total_seconds())))
    return answer


def _day(text: str) -> date | None:
    if not text.strip():
        return None
    try:
        return date.fromisoformat(text.strip())
    except ValueError:
        raise EditRefused("Write the day as 2027-01-31.", "until") from None
