"""Every revision with its label, newest first."""

from typing import Any

from evrant.web.context import Page, repository
from evrant.web.registry import PageSpec


def history(page: Page) -> dict[str, Any]:
    return {"rows": repository(page.request).history(page.revision.studio_id)}


SPEC = PageSpec("history", history)
