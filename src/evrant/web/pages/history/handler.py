"""Every revision with its label, newest first."""

from dataclasses import dataclass

from evrant.store.people import People
from evrant.store.revisions import HistoryLine
from evrant.web.context import Page, repository
from evrant.web.registry import Context, PageSpec


@dataclass(frozen=True)
class Revisions(Context):
    """What its template shows."""

    rows: list[HistoryLine]
    names: dict[str, str]


def history(page: Page) -> Revisions:
    rows = repository(page.request).history(page.revision.studio_id)
    people: People = page.request.app.state.people
    return Revisions(rows, people.names({row.by for row in rows}) if page.request.app.state.hosting.on else {})


SPEC = PageSpec("history", history)
