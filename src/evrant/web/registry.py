"""Every page there is: each folder of `web.pages` declares its own as SPEC; routes, steps and ledger read them."""

from collections.abc import Callable
from dataclasses import dataclass
from dataclasses import fields as dataclass_fields
from functools import cache
from importlib import import_module
from pkgutil import iter_modules
from typing import TYPE_CHECKING, Any

from fastapi import APIRouter

from evrant.web import pages as package

if TYPE_CHECKING:
    from evrant.web.context import Page

Row = dict[str, Any]
"""A row of a table: words for its template."""


@dataclass(frozen=True)
class Context:
    """What a page's template shows, each value by its name."""

    def values(self) -> dict[str, Any]:
        """The values by name, as they are."""
        return {one.name: getattr(self, one.name) for one in dataclass_fields(self)}


Build = Callable[["Page"], Context]


@dataclass(frozen=True)
class PageSpec:
    """A page of a studio.

    One with a `word` is a step of its own, in its `order`; another is shown `under` the step so named. `of_set` is
    the first word of its path where it shows one set; `alone`: it also shows the studio as a whole. `part`: its path
    goes on with a part of the studio. `ledger` are first words of the codes beside it, None for all. `build` gives
    its template's context, `drawing` its drawing alone where that is quicker; `router` what else it answers.
    """

    name: str
    build: Build
    word: str = ""
    order: int = 99
    under: str = ""
    of_set: str = ""
    alone: bool = False
    part: bool = False
    ledger: tuple[str, ...] | None = None
    drawing: Callable[["Page"], str] | None = None
    router: APIRouter | None = None


@cache
def specs() -> dict[str, PageSpec]:
    """Every page by its name, steps in their order first."""
    names = sorted(module.name for module in iter_modules(package.__path__) if module.ispkg)
    found = [getattr(import_module(f"{package.__name__}.{name}.handler"), "SPEC", None) for name in names]
    return {one.name: one for one in sorted((one for one in found if one), key=lambda one: (one.order, one.name))}


@cache
def by_path() -> dict[str, PageSpec]:
    """Pages by the first word of their path."""
    return {one.of_set or one.name: one for one in specs().values()}
