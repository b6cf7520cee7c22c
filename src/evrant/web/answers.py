"""Answers that several pages give: what is not taken, and files to take away."""

from urllib.parse import quote

from fastapi import Request, Response
from fastapi.responses import JSONResponse

from evrant.files.document import Fault
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


def file_answer(content: str | bytes, name: str, kind: str) -> Response:
    """A file to take away under a name."""
    return Response(
        content, media_type=kind, headers={"Content-Disposition": f"attachment; filename*=UTF-8''{quote(name)}"}
    )
