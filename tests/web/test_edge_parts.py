"""The small parts of the edge, each by itself."""

import re
from typing import Any

import anyio
import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from sqlalchemy.exc import DataError, IntegrityError, OperationalError
from starlette.requests import ClientDisconnect
from starlette.types import Message, Receive, Scope, Send

from evrant.core.edits.language import EditRefused
from evrant.core.edits.paths import NoSuchThing
from evrant.files.document import Fault, Refused
from evrant.store.changing import Conflict
from evrant.store.revisions import NotFound, Unreadable
from evrant.web.edge import LARGEST_NUMBER, answer_faults, checked_edit_id, whole_number
from evrant.web.guard import MOST_BODY, Guard
from evrant.web.hosting import Hosting

HOST = "testserver"


@pytest.mark.parametrize(("text", "number"), [("0", 0), ("7", 7), ("0012", 12), (str(LARGEST_NUMBER), LARGEST_NUMBER)])
def test_plain_numbers(text: str, number: int) -> None:
    assert whole_number(text) == number


@pytest.mark.parametrize("text", ["", " ", "-1", "+1", "1.0", "1e3", "²", "٣", "0x10", "1 ", "1\n", "True", "9" * 11])
def test_everything_else_is_no_number(text: str) -> None:
    assert whole_number(text) is None


def test_a_least_number() -> None:
    assert whole_number("0", least=1) is None and whole_number("1", least=1) == 1
    assert whole_number(str(LARGEST_NUMBER + 1)) is None


def test_an_edit_id_is_made_where_none_is_sent() -> None:
    first, second = checked_edit_id(""), checked_edit_id("")
    assert first != second and re.fullmatch(r"[0-9a-f]{16}", first)
    assert checked_edit_id("Abc_9-x") == "Abc_9-x"


def app(fault: Exception | None) -> TestClient:
    """An app behind the guard whose one page raises."""
    made = FastAPI()
    made.add_middleware(Guard, hosts=[HOST], secret=lambda: b"known", hosting=Hosting())
    answer_faults(made)

    @made.get("/{rest:path}")
    def page(rest: str) -> dict[str, str]:
        if fault is not None:
            raise fault
        return {"rest": rest}

    return TestClient(made, raise_server_exceptions=False)


def database(kind: type[Any]) -> Exception:
    return kind("SELECT", {}, Exception("the server says"))  # type: ignore[no-any-return]


@pytest.mark.parametrize(
    ("fault", "status", "words"),
    [
        (NotFound("There is no such studio."), 404, "no such studio"),
        (NoSuchThing("There is no “x”."), 422, "There is no"),
        (Refused([Fault("file", "Not a file.")]), 422, "Not a file"),
        (EditRefused("The id is taken.", "id"), 422, "taken"),
        (Conflict("Someone else changed it.", 4), 409, "Someone else"),
        (Unreadable("This studio cannot be read.", "abc"), 422, "cannot be read"),
        (database(DataError), 422, "cannot be stored"),
        (database(IntegrityError), 422, "cannot be stored"),
        (database(OperationalError), 503, "try again"),
        (UnicodeEncodeError("utf-8", "\ud800", 0, 1, "surrogates"), 422, "cannot be stored"),
        (ZeroDivisionError("secret detail"), 500, "what went wrong is in its log"),
    ],
    ids=lambda value: type(value).__name__ if isinstance(value, Exception) else None,
)
def test_each_fault_has_its_answer(fault: Exception, status: int, words: str) -> None:
    with app(fault) as client:
        answer = client.get("/x")
    assert answer.status_code == status and words in answer.text
    assert "secret detail" not in answer.text and "Traceback" not in answer.text
    assert "default-src 'self'" in answer.headers["content-security-policy"], "faults carry the policy too"


def test_a_fault_for_a_page_is_a_notice_for_its_place() -> None:
    with app(EditRefused("The id is taken.", "id")) as client:
        answer = client.get("/x", headers={"HX-Request": "true"})
    assert answer.headers["hx-retarget"] == "#notice" and 'class="notice"' in answer.text


@pytest.mark.parametrize("path", ["/a%00b", "/a%0Ab", "/%E2%80%AE", "/" + "x" * 700])
def test_addresses_that_hold_what_none_may_hold(path: str) -> None:
    with app(None) as client:
        assert client.get(path).status_code == 404


@pytest.mark.parametrize("length", ["²", "-1", "1e3", "9" * 13, str(MOST_BODY + 1), "x"])
def test_a_stated_length_is_a_plain_number_within_bounds(length: str) -> None:
    with app(None) as client:
        assert client.get("/x", headers={"Content-Length": length.encode("latin-1")}).status_code in (400, 413)


def test_other_hosts_are_not_served() -> None:
    with app(None) as client:
        assert client.get("/x", headers={"Host": "elsewhere"}).status_code == 421
        assert client.get("/x").status_code == 200


def test_who_goes_away_before_being_read_is_no_fault_of_the_program(caplog: pytest.LogCaptureFixture) -> None:
    async def gone(scope: Scope, receive: Receive, send: Send) -> None:
        raise ClientDisconnect

    async def receive() -> Message:
        return {"type": "http.disconnect"}

    sent: list[Message] = []

    async def send(message: Message) -> None:
        sent.append(message)

    guard = Guard(gone, ["here"], lambda: b"secret", Hosting())
    scope = {"type": "http", "method": "GET", "path": "/", "query_string": b"", "headers": [(b"host", b"here")]}
    with caplog.at_level("WARNING"):
        anyio.run(guard, scope, receive, send)
    assert not caplog.records and not sent
