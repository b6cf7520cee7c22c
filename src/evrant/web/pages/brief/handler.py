"""The brief: purpose, tenancy, money, schools."""

from dataclasses import dataclass

from evrant.web.context import Page
from evrant.web.forms import Shown, fields
from evrant.web.registry import Context, PageSpec


@dataclass(frozen=True)
class BriefForms(Context):
    """What its template shows."""

    name_fields: list[Shown]
    fields: list[Shown]
    schools: list[Shown]


def brief(page: Page) -> BriefForms:
    studio = page.studio
    return BriefForms(
        name_fields=fields(studio, "studio", studio, only=("name",)),
        fields=fields(studio, "brief", studio.brief),
        schools=fields(studio, "brief/schools", studio.brief.schools),
    )


SPEC = PageSpec("brief", brief, word="Brief", order=0)
