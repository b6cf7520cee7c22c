"""Who may do what: one gate before every route. What a route needs follows from its path and method; what does not
is listed here, and the access matrix of the tests is made from it."""

from dataclasses import dataclass
from enum import StrEnum

from fastapi import Request
from fastapi.concurrency import run_in_threadpool
from starlette.requests import HTTPConnection

from evrant.store.jobs import Jobs
from evrant.store.people import Account, People, Role
from evrant.store.repository import Repository
from evrant.store.revisions import NotFound
from evrant.web.hosting import Hosting


class Need(StrEnum):
    """What a route asks of who comes."""

    NOBODY = "open to everybody"
    ACCOUNT = "signed in"
    LOOK = "may look at the studio"
    EDIT = "may change the studio"
    OWN = "owns the studio"
    OPERATOR = "operates the server"


OF_STUDIO = "/studios/{studio_id}"
OPEN = frozenset(
    {
        *("/sign-in", "/join", "/invited/{ticket}", "/renew/{ticket}", "/look/{link}"),
        *("/bare", "/health", "/ready", "/metrics"),
    }
)
OWNED = frozenset({f"{OF_STUDIO}/{word}" for word in ("archive", "bring-back", "delete", "share", "share/{share_id}")})
LOOKED = frozenset(
    f"{OF_STUDIO}/{word}" for word in ("preview", "picture/{set_id}/moving", "copy", "remarks", "remarks/{remark}")
)
"""Changes of nothing, of one's own, or words only: a look is enough."""
NAMED = frozenset({f"{OF_STUDIO}/copy", f"{OF_STUDIO}/remarks", f"{OF_STUDIO}/remarks/{{remark}}"})
"""Of these, what somebody is to be named for or needs a place of their own."""
ROLES = {Need.LOOK: Role.LOOKER, Need.EDIT: Role.EDITOR, Need.OWN: Role.OWNER}


def need_of(method: str, path: str) -> Need:
    """What a route needs, by its method and the pattern of its path."""
    if path in OPEN:
        return Need.NOBODY
    if path.startswith("/operator"):
        return Need.OPERATOR
    if not path.startswith(OF_STUDIO):
        return Need.ACCOUNT
    if path in OWNED:
        return Need.OWN
    return Need.LOOK if method in ("GET", "HEAD") or path in LOOKED else Need.EDIT


@dataclass(frozen=True)
class Who:
    """Who asks: an account, or nobody; what they may do with the studio asked for."""

    account: Account | None
    role: Role = Role.OWNER

    @property
    def may_edit(self) -> bool:
        return self.role >= Role.EDITOR

    @property
    def owns(self) -> bool:
        return self.role is Role.OWNER


ALONE = Who(None)
"""The one person of a server that is not hosted: everything is theirs."""


class SignInFirst(Exception):
    """Nobody is signed in; `next` is where they wanted to go."""


class NotAllowed(Exception):
    """Known and in the right place, but not allowed this."""


LOOK_ONLY = "You may look at this studio, not change it. Copy it to your own to try things."


async def gate(request: Request) -> None:
    """Before every route: who asks, what they may; then `request.state` has the gateways that are theirs. Raises
    SignInFirst, NotAllowed, or NotFound where nothing may be told."""
    app, state = request.app.state, request.state
    if app.hosting.on:
        await run_in_threadpool(_admit, request)
    else:
        state.who, state.mine, state.store, state.jobs = ALONE, app.repository, app.repository, app.jobs


def _admit(request: Request) -> None:
    """As `gate`, on a hosted server."""
    app, state = request.app.state, request.state
    hosting: Hosting = app.hosting
    people: People = app.people
    account = people.signed_in(cookie(request, hosting, "session"))
    path = str(getattr(request.scope.get("route"), "path", ""))
    need = need_of(request.method, path)
    state.who = Who(account, Role.LOOKER)
    if need is Need.NOBODY:
        return
    if need is Need.OPERATOR and account is not None and not account.operator:
        raise NotFound("There is no such page.")
    if need not in ROLES:
        if account is None:
            raise SignInFirst
        _give(request, account.id, account)
        return
    studio_id = str(request.path_params["studio_id"])
    held = people.role(studio_id, account.id if account else None, cookie(request, hosting, "link"))
    if held is None:
        if account is None:
            raise SignInFirst
        raise NotFound("There is no such studio.")
    owner, role = held
    if role < ROLES[need]:
        raise NotAllowed(LOOK_ONLY if role is Role.LOOKER else "Only the owner of the studio may do this.")
    if account is None and path in NAMED and request.method == "POST":
        raise SignInFirst
    state.who = Who(account, role)
    _give(request, owner, account)


def _give(request: Request, owner: str, account: Account | None) -> None:
    """The gateways of the studio's owner, changed by who asks; and their own."""
    store: Repository = request.app.state.repository
    by = account.id if account else "link"
    request.state.store = store.acting(owner, by)
    request.state.mine = store.acting(by, by)
    request.state.jobs = Jobs(request.app.state.engine, owner)


def cookie(connection: HTTPConnection, hosting: Hosting, name: str) -> str:
    """What a browser holds under one of our names, if it is of a length we give."""
    held = connection.cookies.get(hosting.cookie(name), "")
    return held if len(held) <= 100 else ""
