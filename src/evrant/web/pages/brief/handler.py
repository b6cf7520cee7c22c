"""The brief: purpose, tenancy, money, schools."""

from typing import Any

from evrant.web.context import Page
from evrant.web.forms import fields
from evrant.web.registry import PageSpec


def brief(page: Page) -> dict[str, Any]:
    studio = page.studio
    return {
        "name_fields": fields(studio, "studio", studio, only=("name",)),
        "fields": fields(studio, "brief", studio.brief),
        "schools": fields(studio, "brief/schools", studio.brief.schools),
    }


SPEC = PageSpec("brief", brief, word="Brief", order=0)
