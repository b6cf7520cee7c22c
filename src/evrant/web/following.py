"""A page that follows a long job: what is asked for, how far it is, and giving it up."""

from collections.abc import Callable

from fastapi import APIRouter, Form, Request, Response

from evrant.core.studio.studio import Studio
from evrant.store.jobs import Jobs
from evrant.web.context import jobs_of, render, repository
from evrant.web.registry import specs
from evrant.web.show import page_of

Ask = Callable[[Jobs, str, Studio], object]
"""Queues a job for a studio, named by its id."""


def so_far(request: Request, studio_id: str, name: str) -> Response:
    """The part of a page that follows its job, as it stands now."""
    page = page_of(request, repository(request).newest(studio_id), name)
    page.extra |= specs()[name].build(page).values()
    return render(f"pages/{name}/found.html", page)


def following(name: str, ask: Ask | None = None) -> APIRouter:
    """What a page that follows a job answers besides: `found`, `cancel`, and `ask` where asking takes no words."""
    router = APIRouter()

    @router.get(f"/studios/{{studio_id}}/{name}/found")
    def found(request: Request, studio_id: str) -> Response:
        return so_far(request, studio_id, name)

    @router.post(f"/studios/{{studio_id}}/{name}-cancel")
    def cancel(request: Request, studio_id: str, job: str = Form("")) -> Response:
        jobs_of(request).cancel(job)
        return so_far(request, studio_id, name)

    if ask is not None:

        @router.post(f"/studios/{{studio_id}}/{name}-ask")
        def asked(request: Request, studio_id: str) -> Response:
            ask(jobs_of(request), studio_id, repository(request).newest(studio_id).studio)
            return so_far(request, studio_id, name)

    return router
