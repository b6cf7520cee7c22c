"""Settle all: the fewest changes that leave nothing Short, worked out aside and taken together or one by one."""

from dataclasses import dataclass
from typing import Any

from evrant.core.base.margins import Verdict
from evrant.core.edits.language import EDIT, together
from evrant.core.studio.studio import Studio
from evrant.jobs.settle import KIND, ask_to_settle
from evrant.store.jobs import LongJob
from evrant.web.context import Page, jobs_of
from evrant.web.following import following
from evrant.web.lines import enter_page
from evrant.web.registry import Context, PageSpec


@dataclass(frozen=True)
class Settling(Context):
    """The job and its answer; `stale` when the studio was changed since, `edit` all changes as one."""

    job: LongJob | None
    answer: dict[str, Any] | None
    stale: bool
    edit: str
    shorts: int


def settle_page(page: Page) -> Settling:
    """What was asked last, how far it is, and what came of it."""
    job = jobs_of(page.request).newest(page.revision.studio_id, KIND)
    answer = job.answer if job is not None else None
    stale = job is not None and Studio.model_validate(job.asked["studio"]) != page.studio
    if answer is not None:
        behind = [one | {"enter_page": one["enter"] and enter_page(one["enter"])} for one in answer.get("causes", [])]
        answer = {**answer, "causes": behind}
    edits = [EDIT.validate_python(one["edit"]) for one in answer["changes"]] if answer else []
    edit = together(edits, "Settled").model_dump_json() if edits else ""
    return Settling(job, answer, stale, edit, page.ledger.count(Verdict.SHORT))


SPEC = PageSpec("settle", settle_page, under="kit", router=following("settle", ask_to_settle))
