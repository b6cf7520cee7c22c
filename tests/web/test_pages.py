"""A page is one folder: planted beside the others, it has its route, its step and its ledger."""

import re
import sys
from collections.abc import Iterator
from dataclasses import fields as dataclass_fields
from pathlib import Path
from typing import get_type_hints

import pytest
from fastapi.testclient import TestClient
from helpers.studios import one_portrait, parse
from sqlalchemy import Engine

from evrant.catalogue import load
from evrant.core.judge.declared import lines
from evrant.core.studio.gear import KINDS
from evrant.store.repository import Repository
from evrant.web import pages, registry
from evrant.web.app import create_app
from evrant.web.context import TEMPLATES

ROOT = Path(__file__).parents[2]
HANDLER = """
from dataclasses import dataclass
from evrant.web.registry import Context, PageSpec

@dataclass(frozen=True)
class Planted(Context):
    words: str

def planted(page):
    return Planted("Grown in a day")

SPEC = PageSpec("planted", planted, word="Planted", order=9, ledger=("light",))
"""


@pytest.fixture
def planted(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    folder = tmp_path / "pages" / "planted"
    folder.mkdir(parents=True)
    (folder / "__init__.py").write_text("")
    (folder / "handler.py").write_text(HANDLER)
    (folder / "page.html").write_text("<h1>{{ words }}</h1>{% include 'templates/ledger.html' %}")
    monkeypatch.setattr(pages, "__path__", [*pages.__path__, str(folder.parent)])
    monkeypatch.setattr(TEMPLATES.loader, "searchpath", [*TEMPLATES.loader.searchpath, str(tmp_path)])  # type: ignore[union-attr]
    registry.specs.cache_clear()
    registry.by_path.cache_clear()
    yield
    for name in [name for name in sys.modules if name.startswith("evrant.web.pages.planted")]:
        sys.modules.pop(name)
    monkeypatch.undo()
    registry.specs.cache_clear()
    registry.by_path.cache_clear()


def test_a_new_page_is_one_folder(planted: None, engine: Engine, store: Repository) -> None:
    key = store.create(parse(one_portrait()), label="One").studio_id
    with TestClient(create_app(engine, ["testserver"])) as client:
        page = client.get(f"/studios/{key}/planted").text
        assert "Grown in a day" in page and f'href="/studios/{key}/planted" aria-current="page"' in page
        shown = set(re.findall(r"<dt>Code</dt><dd>([a-z]+)\.", page))
        assert shown <= {"light"}
        assert ">Planted<" in client.get(f"/studios/{key}/brief").text


def test_every_page_follows_the_list() -> None:
    told = "".join(path.read_text() for path in (ROOT / "tests").rglob("*.py"))
    folders = [path for path in (ROOT / "src/evrant/web/pages").iterdir() if (path / "handler.py").exists()]
    assert {folder.name for folder in folders} == set(registry.specs()) and len(folders) > 15
    for folder in folders:
        assert (folder / "__init__.py").exists() and (folder / "page.html").exists(), folder
        assert re.search(rf"[\"/ ]{folder.name}[\"/ ?]", told), f"no test names the page {folder.name}"
    steps = [spec.name for spec in registry.specs().values() if spec.word]
    assert {line.step for line in lines().values()} <= set(steps)
    assert all(
        spec.under in steps
        for spec in registry.specs().values()
        if not spec.word and spec.name not in ("history", "remarks")
    )


def test_every_kind_of_gear_follows_the_list() -> None:
    contributing = (ROOT / "CONTRIBUTING.md").read_text()
    for path in re.findall(r"`((?:src|tools|docs)/[^`<]+)`", contributing):
        assert (ROOT / path).exists(), path
    items = ROOT / "src/evrant/catalogue/items"
    assert {path.stem for path in items.glob("*.csv")} == set(KINDS)
    assert all(load().by_kind[kind] for kind in KINDS)


def test_every_code_is_named_by_a_test() -> None:
    told = "".join(path.read_text() for path in (ROOT / "tests").rglob("*.py"))
    untold = [code for code in lines() if f'"{code}"' not in told and f" {code}" not in told]
    assert untold == []


def test_every_page_gives_its_template_a_context_of_its_own() -> None:
    """No two pages share one, and each names its values: a template asks for nothing by chance."""
    kinds = [get_type_hints(spec.build)["return"] for spec in registry.specs().values()]
    assert all(issubclass(kind, registry.Context) and dataclass_fields(kind) for kind in kinds)
    assert len(set(kinds)) == len(kinds) >= 15
