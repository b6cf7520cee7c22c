"""Answers that several pages give: what is not taken, and files to take away."""

import json
from urllib.parse import quote

from fastapi import Request, Response
from fastapi.responses import JSONResponse

from evrant.core.edits.language import EDIT, Edit, SetFields
from evrant.files.document import Fault
from evrant.store.changing import Conflict
from evrant.web.context import render


def wants_page(request: Request) -> bool:
    """Whether a page asks, and not a program."""
    return "HX-Request" in request.headers


def refusal(request: Request, faults: list[Fault], status: int = 422) -> Response:
    """What is not taken, in words: a notice for a page, data for a program."""
    if not wants_page(request):
        return JSONResponse({"faults": [{"path": f.path, "message": f.message} for f in faults]}, status)
    headers = {"HX-Retarget": "#notice", "HX-Reswap": "innerHTML"}
    return render("templates/notice.html", status=status, headers=headers, faults=faults, conflict=None)


def conflict_answer(request: Request, conflict: Conflict, edit: Edit | None) -> Response:
    """Both values where someone else changed the same thing, and a way to keep either."""
    both = {
        "message": conflict.message,
        "newest": conflict.newest,
        "path": conflict.path,
        "theirs": conflict.theirs,
        "mine": conflict.mine,
    }
    if not wants_page(request):
        return JSONResponse(both, 409)
    mine = None
    if isinstance(edit, SetFields) and conflict.path:
        mine = {"edit": json.dumps(EDIT.dump_python(edit, mode="json")), "revision": conflict.newest}
    headers = {"HX-Retarget": "#notice", "HX-Reswap": "innerHTML"}
    return render(
        "templates/notice.html",
        status=409,
        headers=headers,
        faults=[],
        conflict=both,
        mine=mine,
        base=f"/studios/{request.path_params.get('studio_id', '')}",
        here=request.headers.get("x-evrant-page", "brief"),
    )


def file_answer(content: str | bytes, name: str, kind: str) -> Response:
    """A file to take away under a name."""
    return Response(
        content, media_type=kind, headers={"Content-Disposition": f"attachment; filename*=UTF-8''{quote(name)}"}
    )
