"""Signing in and out, joining by invitation, a new password by a ticket, one's own account, and the operator's page."""

import zipfile
from typing import IO, Annotated
from urllib.parse import urlsplit

from fastapi import APIRouter, Form, Query, Request, Response
from fastapi.responses import HTMLResponse
from limits import RateLimitItemPerHour, RateLimitItemPerMinute
from limits.strategies import MovingWindowRateLimiter

from evrant.core.edits.language import EditRefused
from evrant.store.people import LONGEST, Account, People, folded
from evrant.store.revisions import NotFound
from evrant.web.access import cookie
from evrant.web.context import render, repository, who
from evrant.web.downloads import sent_whole, write_whole_of
from evrant.web.edge import Text
from evrant.web.hosting import Hosting
from evrant.web.naming import slug

router = APIRouter()
OF_NAME, OF_ADDRESS = RateLimitItemPerMinute(8, 10), RateLimitItemPerHour(60)
"""Wrong passwords: so many in ten minutes for one name, in an hour from one address."""
TOO_OFTEN = "Too many wrong passwords just now. Wait ten minutes, or ask the operator for a new one."


def people_of(request: Request) -> People:
    found: People = request.app.state.people
    return found


def _limits(request: Request) -> MovingWindowRateLimiter:
    """Who counts attempts, for all processes together."""
    return MovingWindowRateLimiter(request.app.state.attempts)


def _hosting(request: Request) -> Hosting:
    found: Hosting = request.app.state.hosting
    return found


def _page(
    request: Request, name: str, status: int = 200, fault: EditRefused | None = None, **more: object
) -> HTMLResponse:
    faults = {} if fault is None else {fault.field or "": fault.message}
    values = {"token": request.state.token, "faults": faults, "who": who(request), "typed": {}} | more
    return render(f"pages/signing/{name}.html", status=status, headers={"Cache-Control": "no-store"}, **values)


def _go(address: str, *cookies: str) -> Response:
    answer = Response(status_code=204, headers={"HX-Redirect": address})
    for one in cookies:
        answer.headers.append("Set-Cookie", one)
    return answer


def _session(request: Request, token: str) -> str:
    return _hosting(request).set_cookie("session", token, round(LONGEST.total_seconds()))


def _inside(address: str) -> str:
    """A path of ours to go on to; the list where it is none."""
    parts = urlsplit(address)
    ours = address.startswith("/") and not address.startswith(("//", "/\\")) and not parts.netloc
    return address if ours and address.isprintable() and len(address) <= 300 else "/"


# --- in and out --------------------------------------------------------------------------------


@router.get("/sign-in")
def sign_in_page(request: Request, to: Annotated[str, Query(alias="next")] = "/") -> HTMLResponse:
    """Name and password."""
    return _page(request, "in", typed={"next": _inside(to)}, open=_hosting(request).open)


@router.post("/sign-in")
def sign_in(
    request: Request, name: Text = "", password: Text = "", to: Annotated[str, Form(alias="next")] = "/"
) -> Response:
    """Signed in, and on to where one wanted to go."""
    address = request.client.host if request.client else ""
    typed = {"name": name[:80], "next": _inside(to)}
    slow = [(OF_NAME, f"name {folded(name)}"), (OF_ADDRESS, f"address {address}")]
    limits = _limits(request)
    if not all(limits.test(item, key) for item, key in slow):
        refused = EditRefused(TOO_OFTEN, "password")
        return _page(request, "in", 429, refused, typed=typed, open=_hosting(request).open)
    token = people_of(request).sign_in(name, password)
    if token is None:
        for item, key in slow:
            limits.hit(item, key)
        refused = EditRefused("Name or password is wrong.", "password")
        return _page(request, "in", 422, refused, typed=typed, open=_hosting(request).open)
    old = cookie(request, _hosting(request), "session")
    if old:
        people_of(request).sign_out(old)
    return _go(_inside(to), _session(request, token))


@router.post("/sign-out")
def sign_out(request: Request) -> Response:
    people_of(request).sign_out(cookie(request, _hosting(request), "session"))
    return _go("/sign-in", _hosting(request).set_cookie("session", "", 0))


# --- joining, a new password --------------------------------------------------------------------


@router.get("/join")
def join_page(request: Request) -> HTMLResponse:
    """An account without an invitation, where the server is open."""
    if not _hosting(request).open:
        raise NotFound("There is no such page.")
    return _page(request, "join", address="/join")


@router.post("/join")
def join_freely(request: Request, name: Text = "", password: Text = "") -> Response:
    if not _hosting(request).open:
        raise NotFound("There is no such page.")
    address = request.client.host if request.client else ""
    if not _limits(request).hit(OF_ADDRESS, f"join {address}"):
        refused = EditRefused("Too many accounts from here; wait an hour.", "name")
        return _page(request, "join", 429, refused, address="/join")
    try:
        people_of(request).add(name, password)
    except EditRefused as refused:
        return _page(request, "join", 422, refused, typed={"name": name[:80]}, address="/join")
    return sign_in(request, name, password)


@router.get("/invited/{ticket}")
def invited_page(request: Request, ticket: str) -> HTMLResponse:
    """An account by invitation."""
    _good(request, ticket, "invitation")
    return _page(request, "join", address=f"/invited/{ticket}")


@router.post("/invited/{ticket}")
def invited(request: Request, ticket: str, name: Text = "", password: Text = "") -> Response:
    _good(request, ticket, "invitation")
    try:
        token = people_of(request).join(ticket, name, password)
    except EditRefused as refused:
        return _page(request, "join", 422, refused, typed={"name": name[:80]}, address=f"/invited/{ticket}")
    return _go("/", _session(request, token))


@router.get("/renew/{ticket}")
def renew_page(request: Request, ticket: str) -> HTMLResponse:
    """A new password by a ticket."""
    _good(request, ticket, "password")
    return _page(request, "renew", address=f"/renew/{ticket}")


@router.post("/renew/{ticket}")
def renew(request: Request, ticket: str, password: Text = "") -> Response:
    _good(request, ticket, "password")
    try:
        people_of(request).renew(ticket, password)
    except EditRefused as refused:
        return _page(request, "renew", 422, refused, address=f"/renew/{ticket}")
    return _go("/sign-in", _hosting(request).set_cookie("session", "", 0))


def _good(request: Request, ticket: str, kind: str) -> None:
    if not people_of(request).ticket(ticket[:100], kind):  # type: ignore[arg-type]
        raise NotFound("This address was used before, or its week is over. Ask the operator for another.")


# --- one's own account ------------------------------------------------------------------------


@router.get("/account")
def account_page(request: Request) -> HTMLResponse:
    """Password, everything one has as files, and the end of it."""
    return _page(request, "account", count=_count(request))


def _count(request: Request) -> int:
    store = repository(request)
    return store.count() + store.count(archived=True)


@router.post("/account/password")
def change_password(request: Request, old: Text = "", password: Text = "") -> Response:
    """A new password; every other browser is signed out, this one signed in anew."""
    account = _proved(request, old, "old", "That is not the password you have now.")
    if isinstance(account, Response):
        return account
    try:
        people_of(request).change_password(account.id, password)
    except EditRefused as refused:
        return _page(request, "account", 422, refused, count=_count(request))
    token = people_of(request).sign_in(account.name, password)
    return _go("/account", _session(request, token or ""))


def _proved(request: Request, password: str, field: str, wrong: str) -> Account | Response:
    """Who is signed in, once they have typed their password again; else what is wrong, at its field."""
    account = who(request).account
    assert account is not None
    key = f"name {account.name}"
    if not _limits(request).test(OF_NAME, key):
        return _page(request, "account", 429, EditRefused(TOO_OFTEN, field), count=_count(request))
    if people_of(request).proves(account.id, password):
        return account
    _limits(request).hit(OF_NAME, key)
    return _page(request, "account", 422, EditRefused(wrong, field), count=_count(request))


@router.get("/account/everything.zip")
def everything(request: Request) -> Response:
    """Every studio one has, each whole in a file of its own that can be taken in again."""
    store = repository(request)

    def write(file: IO[bytes]) -> None:
        with zipfile.ZipFile(file, "w") as out:
            for listed in (*store.studios(), *store.studios(archived=True)):
                with out.open(f"{slug(listed.name)}-{listed.id}.zip", "w", force_zip64=True) as one:
                    write_whole_of(store, listed.id, one)

    return sent_whole("evrant-studios.zip", write)


@router.post("/account/forget")
def forget(request: Request, password: Text = "") -> Response:
    """The account and all it has, gone for good."""
    account = _proved(request, password, "forget", "That is not your password.")
    if isinstance(account, Response):
        return account
    store = repository(request)
    for listed in (*store.studios(), *store.studios(archived=True)):
        store.set_archived(listed.id, True)
        store.delete(listed.id, listed.name)
    people_of(request).forget(account.id)
    return _go("/sign-in", _hosting(request).set_cookie("session", "", 0))


# --- the operator ------------------------------------------------------------------------------


@router.get("/operator")
def operator_page(request: Request) -> HTMLResponse:
    """Accounts, invitations, new passwords. What people plan is not the operator's to see."""
    return _operator(request)


def _operator(request: Request, address: str = "", words: str = "", status: int = 200) -> HTMLResponse:
    accounts = people_of(request).accounts()
    return _page(request, "operator", status, accounts=accounts, address=address, words=words)


@router.post("/operator/invite")
def invite(request: Request) -> HTMLResponse:
    ticket = people_of(request).hand_out("invitation")
    words = "Hand this address to one person; it makes one account, within a week:"
    return _operator(request, f"{_hosting(request).address}/invited/{ticket}", words)


@router.post("/operator/renew/{account}")
def hand_out_password(request: Request, account: str) -> HTMLResponse:
    found = _named(request, account)
    ticket = people_of(request).hand_out("password", found.id)
    words = f"Hand this address to {found.called}; it sets one new password, within a week:"
    return _operator(request, f"{_hosting(request).address}/renew/{ticket}", words)


@router.post("/operator/end/{account}")
def end(request: Request, account: str) -> HTMLResponse:
    found, own = _named(request, account), who(request).account
    if own is not None and found.id == own.id:
        return _operator(request, words="You cannot end your own account here.", status=422)
    people_of(request).end(found.id)
    return _operator(request, words=f"{found.called} can sign in no more; what they have stays.")


def _named(request: Request, account: str) -> Account:
    found = next((one for one in people_of(request).accounts() if one.id == account), None)
    if found is None:
        raise NotFound("There is no such account.")
    return found
