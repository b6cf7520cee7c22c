"""How the app is served: for one person on this machine, or hosted for many behind an address of its own."""

import os
from collections.abc import Mapping
from dataclasses import dataclass, field
from urllib.parse import urlsplit

LOOPBACK = frozenset({"127.0.0.1", "localhost", "::1"})


class Unhostable(ValueError):
    """A setting that does not go together with the others, in words."""


@dataclass(frozen=True)
class Hosting:
    """`address` is where people's browsers find the app (https://…), empty for one person on this machine without
    sign-in; `open`: anyone may make an account, else only who was invited; `metrics` is the word a scraper must
    bring, empty for nobody but this machine."""

    address: str = ""
    open: bool = False
    metrics: str = field(default="", repr=False)

    @property
    def on(self) -> bool:
        return bool(self.address)

    @property
    def secure(self) -> bool:
        """Whether browsers speak TLS to it."""
        return self.address.startswith("https://")

    @property
    def host(self) -> str:
        """The Host header its browsers send."""
        return urlsplit(self.address).netloc

    def cookie(self, name: str) -> str:
        """A cookie's name: one that no neighbour and no plain connection can overwrite, where there is TLS."""
        return f"__Host-evrant_{name}" if self.secure else f"evrant_{name}"

    def set_cookie(self, name: str, value: str, seconds: int | None = None) -> str:
        """The header that sets a cookie; without `seconds` it ends with the browser."""
        ends = "" if seconds is None else f"; Max-Age={seconds}"
        return f"{self.cookie(name)}={value}; Path=/; HttpOnly; SameSite={SAME_SITE[name]}{ends}" + (
            "; Secure" if self.secure else ""
        )


SAME_SITE = {"token": "Strict", "session": "Lax", "link": "Lax"}
"""A link in a letter may lead one to one's own studio; nothing from elsewhere changes it."""


def hosting_of(environment: Mapping[str, str] = os.environ) -> Hosting:
    """From EVRANT_ADDRESS, EVRANT_OPEN and EVRANT_METRICS_WORD. Raises Unhostable."""
    address = environment.get("EVRANT_ADDRESS", "").rstrip("/")
    if not address:
        return Hosting()
    parts = urlsplit(address)
    if parts.scheme not in ("http", "https") or not parts.hostname or parts.path or parts.query:
        raise Unhostable("EVRANT_ADDRESS is scheme and host only, as https://studio.example.org")
    if parts.scheme == "http" and parts.hostname not in LOOPBACK:
        raise Unhostable("People's passwords are not sent in the clear: EVRANT_ADDRESS begins with https://")
    return Hosting(address, environment.get("EVRANT_OPEN", "") == "yes", environment.get("EVRANT_METRICS_WORD", ""))
