"""From a request to a page: which page its path names, and how it is answered."""

from fastapi import Request, Response

from evrant.core.studio.studio import by_id
from evrant.store.revisions import NotFound, Revision
from evrant.web.context import Page, render, repository
from evrant.web.registry import by_path, specs
from evrant.web.timing import span


def fragment_asked(request: Request) -> bool:
    """Whether a page asks for what changes of it, and not for the whole."""
    return "HX-Request" in request.headers


def page_of(request: Request, revision: Revision, path: str) -> Page:
    """A page by its path: `room`, `sets/<id>`, `survey/<part>`. Falls back to the shots when a set is gone."""
    first, _, rest = path.partition("/")
    with span(request, "database"):
        undo_redo = repository(request).can_undo_redo(revision)
    spec = by_path().get(first)
    if spec is None or (spec.of_set and not rest and not spec.alone):
        return Page(request, revision, "shots" if first in specs() else "brief", undo_redo)
    if spec.of_set and rest:
        if by_id(revision.studio.sets, rest) is None:
            return Page(request, revision, "shots", undo_redo)
        return Page(request, revision, spec.name, undo_redo, rest)
    return Page(request, revision, spec.name, undo_redo, part=rest or None if spec.part else None)


def page_of_set(request: Request, studio_id: str, word: str, set_id: str) -> Page:
    """A page of one set. Raises NotFound when the set is not there."""
    page = page_of(request, repository(request).newest(studio_id), f"{word}/{set_id}")
    if page.set_id is None:
        raise NotFound("There is no such set.")
    return page


def show(page: Page, *, fragment: bool, status: int = 200, headers: dict[str, str] | None = None) -> Response:
    """The whole page, or what changes of it."""
    page.extra |= specs()[page.name].build(page).values()
    template = "templates/fragment.html" if fragment else "templates/whole.html"
    return render(template, page, status, headers, body=f"pages/{page.name}/page.html")
