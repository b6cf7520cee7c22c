"""What people say about the studio, a set, a thing or a line: open until it is settled."""

from dataclasses import dataclass
from typing import Any

from fastapi import APIRouter, Request, Response

from evrant.core.base.margins import Verdict
from evrant.core.edits.language import EditRefused
from evrant.core.edits.paths import NoSuchThing, find
from evrant.store.people import People
from evrant.store.remarks import Remark, Remarks
from evrant.web.context import Page, repository, who
from evrant.web.edge import Text
from evrant.web.registry import Context, PageSpec, Row
from evrant.web.show import fragment_asked, page_of, show

router = APIRouter()
LINE = "line:"
"""Before the key of a line, where a remark is about one."""
GONE, SETTLED = "something that is gone", "a line that is no more"


@dataclass(frozen=True)
class Said(Context):
    """What its template shows."""

    remarks: list[Row]
    groups: list[tuple[str, list[tuple[str, str]]]]
    about: str
    typed: str
    fault: str


def remarks_of(request: Request) -> Remarks:
    return Remarks(request.app.state.engine)


def said(page: Page) -> Said:
    """Every remark, what is open first, and a form for another."""
    found = remarks_of(page.request).of(page.revision.studio_id)
    people: People = page.request.app.state.people
    names = people.names({one.by for one in found}) if page.request.app.state.hosting.on else {}
    asked = page.request.query_params.get("about", "")[:200]
    return Said(
        [_row(page, one, names) for one in found],
        _groups(page, asked),
        page.extra.pop("about", asked),
        page.extra.pop("typed", ""),
        page.extra.pop("fault", ""),
    )


def _row(page: Page, one: Remark, names: dict[str, str]) -> Row:
    words, href = _about(page, one.about)
    return {"one": one, "about": words, "href": href, "by": names.get(one.by, "")}


def _about(page: Page, about: str) -> tuple[str, str]:
    """What a remark is about in words, and the page that shows it."""
    if about.startswith(LINE):
        line = next((m for m in page.ledger.lines if m.key == about.removeprefix(LINE)), None)
        if line is None:
            return SETTLED, ""
        return line.title, f"{page.base}/sets/{line.set_id}" if line.set_id else f"{page.base}/brief"
    if not about:
        return "", ""
    try:
        found = find(page.studio, about)
    except (NoSuchThing, ValueError):
        return GONE, ""
    word, _, rest = about.partition("/")
    pages = {"sets": f"sets/{rest}", "gear": f"kit#{rest}", "shots": f"shots#{rest}"}
    return str(getattr(found, "name", about)), f"{page.base}/{pages.get(word, 'brief')}"


def _groups(page: Page, asked: str) -> list[tuple[str, list[tuple[str, str]]]]:
    """Everything that can be spoken of, by kind: paths and keys with their words."""
    studio = page.studio
    lines = [(f"{LINE}{m.key}"[:200], m.title) for m in page.ledger.lines if m.verdict is not Verdict.CLEAR]
    if asked.startswith(LINE) and asked not in dict(lines):
        lines.append((asked, _about(page, asked)[0]))
    things: list[tuple[str, Any]] = [("sets", studio.sets), ("shots", studio.shots), ("gear", studio.gear)]
    groups = [(word.capitalize(), [(f"{word}/{one.id}", one.name) for one in many]) for word, many in things]
    return [(word, many) for word, many in (*groups, ("Lines", lines)) if many]


@router.post("/studios/{studio_id}/remarks")
def say(request: Request, studio_id: str, words: Text = "", about: Text = "") -> Response:
    """One more remark; what cannot be taken is said where it was typed."""
    account = who(request).account
    fault = ""
    try:
        remarks_of(request).say(studio_id, about, words, account.id if account else "local")
    except EditRefused as refused:
        fault = refused.message
    return _answered(request, studio_id, fault=fault, typed=words if fault else "", about=about if fault else "")


@router.post("/studios/{studio_id}/remarks/{remark}")
def settle(request: Request, studio_id: str, remark: str, again: Text = "") -> Response:
    """A remark settled, or open again."""
    remarks_of(request).settle(studio_id, remark, settled=not again)
    return _answered(request, studio_id)


def _answered(request: Request, studio_id: str, **extra: str) -> Response:
    page = page_of(request, repository(request).newest(studio_id), "remarks")
    page.extra |= extra
    return show(page, fragment=fragment_asked(request), status=422 if extra.get("fault") else 200)


SPEC = PageSpec("remarks", said, router=router)
