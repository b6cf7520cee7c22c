"""The edge: what may come in, checked once, and every fault as an answer in words.

Whatever a handler raises that is the asker's doing becomes a 4xx: a fragment for a page, data for a program. What
the database cannot do just now is a 503. Anything else is a fault of the program: logged, and told without details.
"""

import logging
import re
import secrets
from collections.abc import Callable
from typing import Annotated
from urllib.parse import quote

from fastapi import FastAPI, Form, Request, Response
from fastapi.exceptions import RequestValidationError
from fastapi.responses import PlainTextResponse, RedirectResponse
from pydantic import AfterValidator, ValidationError
from pydantic_core import PydanticCustomError
from sqlalchemy.exc import DataError, DBAPIError, IntegrityError
from sqlalchemy.exc import TimeoutError as NoConnection
from starlette.exceptions import HTTPException

from evrant.core.edits.language import EditRefused
from evrant.core.edits.paths import NoSuchThing
from evrant.files.document import Fault, Refused, faults_of, plain_message
from evrant.store.changing import Conflict
from evrant.store.revisions import NotFound, Unreadable
from evrant.web.access import NotAllowed, SignInFirst
from evrant.web.answers import conflict_answer, refusal, wants_page
from evrant.web.context import render
from evrant.web.guard import AWAY

Text = Annotated[str, Form()]
"""A field of a form; empty where it was not sent."""
EDIT_ID = re.compile(r"[A-Za-z0-9_-]{6,64}")
LARGEST_NUMBER = 2**31 - 1
_LOG = logging.getLogger("evrant.web")


def checked_edit_id(text: str) -> str:
    """An edit_id as sent, or a new one where none was. Raises Refused."""
    if not text:
        return secrets.token_hex(8)
    if not EDIT_ID.fullmatch(text):
        raise Refused([Fault("edit_id", "An edit_id has 6 to 64 letters, digits, _ or -.")])
    return text


def _form_edit_id(text: str) -> str:
    try:
        return checked_edit_id(text)
    except Refused as refused:
        raise PydanticCustomError("edit_id", "{words}", {"words": refused.faults[0].message}) from refused


EditId = Annotated[str, Form(), AfterValidator(_form_edit_id)]
"""The edit_id of a form; give it the default "" to make one where none is sent."""


def whole_number(text: str, least: int = 0) -> int | None:
    """A number in plain digits that the database can hold, or None."""
    if not re.fullmatch(r"[0-9]{1,10}", text):
        return None
    number = int(text)
    return number if least <= number <= LARGEST_NUMBER else None


# --- faults as answers -----------------------------------------------------------------------


def _not_found(request: Request, error: Exception) -> Response:
    if "text/html" in request.headers.get("accept", ""):
        return render("templates/lost.html", status=404, message=str(error), token=request.state.token)
    return PlainTextResponse(str(error), 404)


def _refused(request: Request, error: Exception) -> Response:
    assert isinstance(error, Refused)
    return refusal(request, error.faults)


def _edit_refused(request: Request, error: Exception) -> Response:
    assert isinstance(error, EditRefused)
    return refusal(request, [Fault(error.field, error.message)])


def _gone(request: Request, error: Exception) -> Response:
    return refusal(request, [Fault("", str(error))])


def _invalid(request: Request, error: Exception) -> Response:
    if isinstance(error, RequestValidationError):
        found = [
            Fault(".".join(map(str, one["loc"][1:])), plain_message(one["type"], one["msg"])) for one in error.errors()
        ]
        return refusal(request, found)
    assert isinstance(error, ValidationError)
    return refusal(request, faults_of(error))


def _conflict(request: Request, error: Exception) -> Response:
    assert isinstance(error, Conflict)
    return conflict_answer(request, error, None)


def _unreadable(request: Request, error: Exception) -> Response:
    assert isinstance(error, Unreadable)
    if wants_page(request):
        return refusal(request, [Fault("", error.message)])
    if "text/html" in request.headers.get("accept", ""):
        values = {"message": error.message, "token": request.state.token, "take": error.studio_id}
        return render("templates/lost.html", status=422, **values)
    return PlainTextResponse(error.message, 422)


def _cannot_store(request: Request, error: Exception) -> Response:
    """Text or numbers that the database cannot hold, and ids that are taken."""
    return refusal(request, [Fault("", "This holds characters or numbers that cannot be stored. Nothing was changed.")])


def _database(request: Request, error: Exception) -> Response:
    if isinstance(error, (DataError, IntegrityError)):
        return _cannot_store(request, error)
    if isinstance(error, DBAPIError) and isinstance(error.orig, UnicodeError):
        return _cannot_store(request, error)
    state = str(getattr(getattr(error, "orig", None), "sqlstate", "") or "")
    _LOG.warning("The database does not do it (%s): %s", state or "no answer", type(error).__name__)
    return PlainTextResponse(STATES.get(state, AWAY), 503)


def _sign_in(request: Request, error: Exception) -> Response:
    """To the sign-in page, and back to where one wanted to go."""
    if wants_page(request):
        return Response(status_code=401, headers={"HX-Redirect": "/sign-in"})
    if request.method == "GET" and "text/html" in request.headers.get("accept", ""):
        wanted = quote(request.url.path[:300], safe="/~")
        return RedirectResponse("/sign-in" if wanted == "/" else f"/sign-in?next={wanted}", 303)
    return PlainTextResponse("Sign in first.", 401)


def _not_allowed(request: Request, error: Exception) -> Response:
    return refusal(request, [Fault("", str(error))], 403)


STATES = {
    "53100": "The server's disk is full, so nothing more can be saved just now. What was saved is safe; whoever runs "
    "this server makes room, and what you typed is sent again.",
    "25006": "This server takes no changes just now; it can be looked at. Nothing was changed, and what you typed is "
    "sent again.",
    "53300": "Too many use the database just now. Nothing was lost that was saved; try again.",
}
"""What the database says it cannot do, by its five-digit state."""


def _http(request: Request, error: Exception) -> Response:
    assert isinstance(error, HTTPException)
    if error.status_code == 404 or (error.status_code == 405 and request.method in ("GET", "HEAD")):
        return _not_found(request, NotFound("There is no such page."))
    return PlainTextResponse(str(error.detail), error.status_code, error.headers)


ANSWERS: dict[type[Exception], Callable[[Request, Exception], Response]] = {
    NotFound: _not_found,
    Unreadable: _unreadable,
    NoSuchThing: _gone,
    Refused: _refused,
    EditRefused: _edit_refused,
    ValidationError: _invalid,
    RequestValidationError: _invalid,
    Conflict: _conflict,
    UnicodeError: _cannot_store,
    DBAPIError: _database,
    NoConnection: _database,
    HTTPException: _http,
    SignInFirst: _sign_in,
    NotAllowed: _not_allowed,
}


def answer_faults(app: FastAPI) -> None:
    """Give the app an answer for every kind of fault."""
    for kind, answer in ANSWERS.items():
        app.add_exception_handler(kind, answer)
