"""What every request passes: host, size, origin and token; what every answer carries."""

import hmac
import logging
import re
import secrets
import time
from collections.abc import Callable, Iterable

import anyio.to_thread
from starlette.datastructures import Headers, MutableHeaders
from starlette.requests import ClientDisconnect, cookie_parser
from starlette.responses import PlainTextResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from evrant.core.base.clock import within
from evrant.web.hosting import Hosting
from evrant.web.timing import server_timing

POLICY = "default-src 'self'; object-src 'none'; base-uri 'none'; frame-ancestors 'none'; form-action 'self'"
HEADERS = {
    "Content-Security-Policy": POLICY,
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Permissions-Policy": "camera=(), microphone=(), geolocation=()",
}
STRICT = "max-age=31536000"
"""For a year a browser speaks TLS to us and nothing else."""
TOKEN_HEADER = "x-evrant-token"
MOST_BODY = 2_100_000
MOST_FILE = 45_000_000
"""A test frame comes as the camera wrote it, all of a studio with its pictures [bytes]; nothing else is so large."""
LARGE = re.compile(r"/studios/(?:[^/]{1,80}/frames/take|import)")
FOR_KEEPERS = frozenset({"/health", "/ready", "/metrics"})
"""Asked by proxies and scrapers, which name a process by whatever address they know."""
PAGE_SECONDS = 20.0
"""Seconds after which a page begins no further rule; it says which lines are left for the next time."""


class Guard:
    """ASGI middleware: refuses foreign hosts, oversized bodies and changes without the page's token, and bounds the
    time an answer may take."""

    def __init__(
        self,
        app: ASGIApp,
        hosts: Iterable[str],
        secret: Callable[[], bytes],
        hosting: Hosting,
        seconds: float = PAGE_SECONDS,
    ) -> None:
        """`secret` is what tokens are made with; all processes of a server have the same."""
        self.app, self.hosts, self.hosting, self.seconds = app, frozenset(hosts), hosting, seconds
        self._ask, self._secret = secret, b""

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        cookies = cookie_parser(headers.get("cookie", ""))
        try:
            token, fresh = await self._token(cookies)
        except Exception:
            _LOG.exception("The server's secret could not be read.")
            await PlainTextResponse(AWAY, 503, HEADERS)(scope, receive, send)
            return
        refusal = self._refusal(scope, headers, token)
        if refusal is not None:
            await PlainTextResponse(refusal[1], refusal[0], HEADERS)(scope, receive, send)
            return
        scope.setdefault("state", {})["token"] = token or fresh
        limited = _Limited(receive, most_body(scope["path"]))
        started = False

        async def send_with_headers(message: Message) -> None:
            nonlocal started
            if message["type"] == "http.response.start":
                started = True
                _dress(scope, message, self.hosting, fresh)
            await send(message)

        failed = None
        try:
            with within(self.seconds, time.monotonic):
                await self.app(scope, limited, send_with_headers)
        except ClientDisconnect:
            _LOG.info("%s %s: who asked went away before it was read", scope["method"], scope["path"][:80])
        except BodyTooLarge:
            failed = PlainTextResponse(TOO_LARGE, 413, HEADERS)
        except Exception:
            _LOG.exception("%s %s failed", scope["method"], getattr(scope.get("route"), "path", "an unknown route"))
            failed = PlainTextResponse(FAULT, 500, HEADERS)
        if failed is not None and not started:
            await failed(scope, receive, send)

    async def _token(self, cookies: dict[str, str]) -> tuple[str, str]:
        """The token a browser holds if it is one of ours and its sign-in's, else a fresh one for it."""
        if not self._secret:
            self._secret = await anyio.to_thread.run_sync(self._ask)
        session = cookies.get(self.hosting.cookie("session"), "")
        held = cookies.get(self.hosting.cookie("token"), "")
        nonce = held.partition(".")[0]
        if nonce and hmac.compare_digest(held.encode("utf-8", "replace"), self._signed(nonce, session).encode()):
            return held, ""
        return "", self._signed(secrets.token_urlsafe(18), session)

    def _signed(self, nonce: str, session: str) -> str:
        said = f"{nonce} {session}".encode("utf-8", "replace")
        return f"{nonce}.{hmac.new(self._secret, said, 'sha256').hexdigest()}"

    def _refusal(self, scope: Scope, headers: Headers, token: str) -> tuple[int, str] | None:
        if headers.get("host", "") not in self.hosts and scope["path"] not in FOR_KEEPERS:
            return 421, "This address is not served here."
        stated = headers.get("content-length") or "0"
        if not (stated.isascii() and stated.isdecimal() and len(stated) < 12):
            return 413, TOO_LARGE
        if int(stated) > most_body(scope["path"]):
            return 413, TOO_LARGE if most_body(scope["path"]) == MOST_BODY else FILE_TOO_LARGE
        if not _printable(scope["path"]) or "%00" in scope.get("query_string", b"").decode("latin-1"):
            return 404, "There is no such page."
        if headers.get("sec-fetch-site") == "cross-site" and headers.get("sec-fetch-mode") != "navigate":
            return 403, "Pages from elsewhere get nothing from here."
        if scope["method"] in ("GET", "HEAD", "OPTIONS"):
            return None
        origin = headers.get("origin")
        if origin and origin.split("://", 1)[-1] not in self.hosts:
            return 403, "Changes are only taken from the app's own pages."
        sent = headers.get(TOKEN_HEADER, "")
        if not token or not secrets.compare_digest(sent.encode(), token.encode()):
            return 403, "This page is too old or was opened elsewhere; reload it and try again."
        return None


def _dress(scope: Scope, message: Message, hosting: Hosting, fresh: str) -> None:
    """Put on every answer what every answer carries."""
    out = MutableHeaders(scope=message)
    for name, value in HEADERS.items():
        out[name] = value
    if hosting.secure:
        out["Strict-Transport-Security"] = STRICT
    spans = scope["state"].get("spans")
    if spans:
        out["Server-Timing"] = server_timing(spans)
    if not scope["path"].startswith("/static/"):
        out.setdefault("Cache-Control", "no-store")
    if fresh:
        out.append("Set-Cookie", hosting.set_cookie("token", fresh))


def _printable(path: str) -> bool:
    """Whether an address holds only what an address may hold: no NUL, no half characters, no end of line."""
    return len(path) <= MOST_PATH and all(ch.isprintable() for ch in path)


AWAY = "The database does not answer just now. Nothing was lost that was saved; try again."
FAULT = "The program failed at this. Nothing was changed; what went wrong is in its log."
MOST_PATH = 600
_LOG = logging.getLogger("evrant.web")
TOO_LARGE = "This is larger than 2 MB; a studio is far smaller. Nothing was changed."


FILE_TOO_LARGE = "This is larger than 45 MB; of a picture send the camera's JPEG. Nothing was changed."


def most_body(path: str) -> int:
    """Bytes a body sent to a path may have."""
    return MOST_FILE if LARGE.fullmatch(path) else MOST_BODY


class BodyTooLarge(Exception):
    """More bytes came than any change needs."""


class _Limited:
    """Counts the body as it comes, for senders that do not state its length."""

    def __init__(self, receive: Receive, most: int) -> None:
        self._receive, self._most, self._seen = receive, most, 0

    async def __call__(self) -> Message:
        message = await self._receive()
        self._seen += len(message.get("body", b""))
        if self._seen > self._most:
            raise BodyTooLarge
        return message
