"""Every revision with its label, newest first."""

from dataclasses import dataclass

from evrant.store.repository import HistoryLine
from evrant.web.context import Page, repository
from evrant.web.registry import Context, PageSpec


@dataclass(frozen=True)
class Revisions(Context):
    """What its template shows."""

    rows: list[HistoryLine]


def history(page: Page) -> Revisions:
    return Revisions(
        rows=repository(page.request).history(page.revision.studio_id),
    )


SPEC = PageSpec("history", history)
