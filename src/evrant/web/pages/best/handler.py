"""The best kit under a budget: asked, worked on, answered, taken."""

from dataclasses import dataclass, field, replace
from datetime import UTC, date, datetime
from decimal import Decimal
from typing import Any

from fastapi import Form, Request, Response
from starlette.responses import JSONResponse

from evrant.core.base.units import CannotRead
from evrant.core.buying.costs import spent
from evrant.core.edits.language import EditRefused
from evrant.core.place.moves import change
from evrant.core.search.kit.accept import Besides, accept, besides
from evrant.core.search.kit.leave import Leave, leave_it
from evrant.core.studio.gear import KINDS
from evrant.core.studio.studio import Studio
from evrant.drawing.frontier import frontier_chart
from evrant.jobs.kit import KIND, ask_for_kit
from evrant.store.jobs import LongJob
from evrant.store.revisions import NotFound
from evrant.web.context import Page, jobs_of, render, repository
from evrant.web.edge import EditId
from evrant.web.following import following
from evrant.web.forms import read_money
from evrant.web.parts import today
from evrant.web.pictures import small_picture
from evrant.web.registry import Context, PageSpec, Row
from evrant.web.show import page_of
from evrant.web.uploads import take_file

router = following("best")


@dataclass(frozen=True)
class Asked(Context):
    """The sum as typed and what is wrong with it, what would do without buying, the job, whether it is to begin with
    what is owned only, whether it was taken in just now, and its answer so far."""

    typed: str
    problem: str
    leave: list[Leave]
    job: LongJob | None
    lonely: bool = True
    taken_in: bool = False
    answer: Row | None = None
    chart: str = ""
    why_kinds: list[tuple[str, list[Row]]] = field(default_factory=list)
    taken: list[int] = field(default_factory=list)
    months: list[str] = field(default_factory=list)
    bought: list[list[Row]] = field(default_factory=list)
    """What each phase buys, with its own counts and sums."""
    elapsed: str = ""
    besides: Besides | None = None
    spent: str = ""


def best_page(page: Page) -> Asked:
    """The question, the job that works on it, and its answer so far."""
    job = jobs_of(page.request).newest(page.revision.studio_id, KIND)
    budget, paid = page.studio.brief.budget, spent(page.studio)
    left = None if budget is None else max(budget - paid, Decimal(0))
    asked = Asked(f"{left:f}" if left is not None else "", "", leave_it(page.studio), job)
    if budget is not None and paid > 0:
        asked = replace(asked, spent=f"{page.say.money(float(paid))} of {page.say.money(float(budget))} are spent.")
    return replace(asked, **_of_job(page, job))


def _of_job(page: Page, job: LongJob | None) -> dict[str, Any]:
    found: dict[str, Any] = {"elapsed": _elapsed(job.at)} if job is not None and not job.over else {}
    if job is None or job.answer is None:
        return found
    answer = job.answer
    whys: dict[str, list[dict[str, Any]]] = {}
    for one in answer["why_not"]:
        whys.setdefault(one["kind"] or "other", []).append(one)
    found["answer"] = answer
    found["chart"] = frontier_chart(answer["frontier"], answer["budget"], answer["currency"], len(answer["shots"]))
    found["why_kinds"] = [(kind, whys[kind]) for kind in (*KINDS, "other") if kind in whys]
    taken = {item.id for item in page.studio.gear if item.at_hand}
    found["taken"] = [step["number"] for step in answer["phases"] if step["buy"] and set(step["buy"]) <= taken]
    there = {item["id"] for item in job.asked["studio"]["gear"] if item.get("status") in ("owned", "planned")}
    found["besides"] = besides(answer, there, page.studio) if job.over and answer["found"] else None
    found["bought"] = [_bought(answer, step["buy"]) for step in answer["phases"]]
    found["months"] = [_month(page.studio, step["month"]) for step in answer["phases"]]
    return found


def _bought(answer: Row, counts: dict[str, int]) -> list[Row]:
    """The rows of a phase: a thing that later phases buy more of stands in each with what that phase adds."""
    rows = ((row, counts.get(row["key"], 0)) for row in answer["buy"])
    return [{**row, "count": count, "cost": row["cost"] / row["count"] * count} for row, count in rows if count]


def _elapsed(since: datetime) -> str:
    """Time since a question was asked, in words."""
    seconds = max(int((datetime.now(UTC) - since).total_seconds()), 0)
    return f"{seconds // 60} min {seconds % 60} s" if seconds >= 60 else f"{seconds} s"


def _month(studio: Studio, number: int | None) -> str:
    """When a phase is paid for, by what is put aside each month."""
    if number is None:
        return ""
    start = date.fromisoformat(studio.brief.start) if studio.brief.start else today()
    year, month = divmod(start.year * 12 + start.month - 1 + number - 1, 12)
    return f"{date(year, month + 1, 1):%B %Y}"


@router.post("/studios/{studio_id}/kit-search")
def ask(request: Request, studio_id: str, budget: str = Form(""), lonely: str = Form("")) -> Response:
    """Queue the search for the best kit; the page then follows it."""
    newest = repository(request).newest(studio_id)
    page = page_of(request, newest, "best")
    try:
        amount = read_money(budget)
        if not 0 < amount <= 10_000_000:
            raise CannotRead("Give a sum above zero.")
        if not newest.studio.shots:
            raise CannotRead("Say first what you will shoot.")
    except CannotRead as error:
        page.extra |= replace(best_page(page), typed=budget, problem=str(error), lonely=lonely == "yes").values()
        return render("pages/best/ask.html", page, 422, {"HX-Retarget": "#ask-kit", "HX-Reswap": "outerHTML"})
    ask_for_kit(jobs_of(request), studio_id, newest.studio, float(amount), lonely == "yes")
    page.extra |= replace(best_page(page), typed=budget, lonely=lonely == "yes", taken_in=True).values()
    return render("pages/best/asked.html", page)


@router.get("/studios/{studio_id}/best.json")
def best_data(request: Request, studio_id: str) -> Response:
    """The answer of the newest search as data."""
    repository(request).newest(studio_id)
    job = jobs_of(request).newest(studio_id, KIND)
    if job is None or job.answer is None:
        raise NotFound("There is no answer yet.")
    return JSONResponse(job.answer)


@router.post("/studios/{studio_id}/kit-accept")
def take_phase(
    request: Request, studio_id: str, job: str = Form(""), phase: int = Form(0), edit_id: EditId = ""
) -> Response:
    """A phase of the answer as one edit: its things and the sets they make possible."""
    held = jobs_of(request).find(job)
    if held is None or held.answer is None or held.studio != studio_id:
        raise EditRefused("That answer is no longer there; ask again.")
    answer = held.answer
    if not any(step["number"] == phase for step in answer["phases"]):
        raise EditRefused("There is no such phase.", "phase")
    take_file(request, studio_id, edit_id, lambda studio: accept(answer, phase, studio))
    return Response(status_code=204, headers={"HX-Redirect": f"/studios/{studio_id}/shopping"})


@router.get("/studios/{studio_id}/best/{shot_id}/frame.png")
def frame(request: Request, studio_id: str, shot_id: str, job: str = "") -> Response:
    """The computed picture of a shot as the kit of an answer makes it, all its phases taken."""
    held = jobs_of(request).find(job)
    if held is None or held.answer is None or held.studio != studio_id:
        raise NotFound("That answer is no longer there; ask again.")
    answer = held.answer
    made = next((one["set"]["id"] for one in answer["shots"] if one["id"] == shot_id and one["made"]), None)
    if made is None:
        raise NotFound("There is no such shot in it.")
    studio = Studio.model_validate(held.asked["studio"])
    for step in answer["phases"]:
        studio = change(studio, accept(answer, step["number"], studio))
    return small_picture(request, studio, made)


SPEC = PageSpec("best", best_page, under="kit", router=router)
