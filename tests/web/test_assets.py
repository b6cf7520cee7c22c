"""Styles, scripts and fonts: whole, typed, cached by content, and nothing beside them."""

import re
from pathlib import Path

import pytest
from conftest import Live

STATIC = Path(__file__).parents[2] / "src/evrant/web/static"
FILES = sorted(path.relative_to(STATIC).as_posix() for path in STATIC.rglob("*") if path.is_file())


@pytest.mark.parametrize("name", FILES)
def test_every_file_is_given_out_as_it_lies(live: Live, name: str) -> None:
    answer = live.client.get(f"/static/{name}")
    assert answer.status_code == 200 and answer.content == (STATIC / name).read_bytes()
    assert answer.headers["x-content-type-options"] == "nosniff"
    again = live.client.get(f"/static/{name}", headers={"If-None-Match": answer.headers["etag"]})
    assert again.status_code == 304 and not again.content


@pytest.mark.parametrize(
    ("name", "kind"),
    [
        ("app.js", "text/javascript"),
        ("evrant.css", "text/css"),
        ("icon.svg", "image/svg+xml"),
        (next(name for name in FILES if name.endswith(".woff2")), "font/woff2"),
    ],
)
def test_kinds_are_told(live: Live, name: str, kind: str) -> None:
    assert live.client.get(f"/static/{name}").headers["content-type"].startswith(kind)


@pytest.mark.parametrize("name", ["none.css", "../app.py", "..%2fapp.py", "vendor", "", "%00", "vendor/../../app.py"])
def test_nothing_else_is_given_out(live: Live, name: str) -> None:
    assert live.client.get(f"/static/{name}").status_code == 404


def test_files_are_only_read(live: Live) -> None:
    assert live.client.post("/static/app.js").status_code == 405


def test_pages_ask_for_nothing_from_elsewhere(live: Live) -> None:
    page = live.client.get("/").text
    asked = re.findall(r'(?:src|href)="([^"]+)"', page)
    assert asked and all(one.startswith(("/", "#")) for one in asked)
