"""Styles, scripts and fonts, held in memory: they are given out while everything else waits."""

from email.utils import formatdate
from hashlib import sha256
from mimetypes import guess_type
from pathlib import Path

from starlette.datastructures import Headers
from starlette.responses import PlainTextResponse, Response
from starlette.types import Receive, Scope, Send

KINDS = {".woff2": "font/woff2", ".js": "text/javascript; charset=utf-8", ".css": "text/css; charset=utf-8"}


class Assets:
    """An ASGI app with the files below a folder, read once."""

    def __init__(self, folder: Path) -> None:
        self._held: dict[str, tuple[bytes, dict[str, str]]] = {}
        for path in folder.rglob("*"):
            if path.is_file():
                body = path.read_bytes()
                kind = KINDS.get(path.suffix) or guess_type(path.name)[0] or "application/octet-stream"
                headers = {
                    "content-type": kind,
                    "etag": f'"{sha256(body).hexdigest()[:32]}"',
                    "last-modified": formatdate(path.stat().st_mtime, usegmt=True),
                    "cache-control": "no-cache",
                }
                self._held[path.relative_to(folder).as_posix()] = (body, headers)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        name = scope["path"].removeprefix(scope.get("root_path", "")).lstrip("/")
        held = self._held.get(name)
        answer: Response
        if held is None:
            answer = PlainTextResponse("There is no such file.", 404)
        elif scope["method"] not in ("GET", "HEAD"):
            answer = PlainTextResponse("Files are only read.", 405)
        elif Headers(scope=scope).get("if-none-match") == held[1]["etag"]:
            answer = Response(status_code=304, headers=held[1])
        else:
            answer = Response(held[0], headers=held[1])
        await answer(scope, receive, send)
