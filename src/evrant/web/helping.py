"""Help that belongs to no studio: the words, how sure a figure is, exercises, tours of the demos."""

from functools import cache

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse

from evrant.core.base.quantity import ORIGINS
from evrant.core.space.scene import scene_of
from evrant.core.studio.studio import Studio, by_id
from evrant.core.studio.terms import TERMS
from evrant.core.studio.words import Say
from evrant.demo import demo_studio
from evrant.demo.exercises import EXERCISES, Marked, applied, marked
from evrant.demo.tours import TOURS
from evrant.drawing.sheet import plan_sheet
from evrant.store.revisions import NotFound
from evrant.web.context import render
from evrant.web.edge import whole_number

router = APIRouter()


@router.get("/glossary")
def glossary(request: Request) -> HTMLResponse:
    """Every word of the trade in a line."""
    return render("pages/glossary/page.html", token=request.state.token, terms=TERMS)


@router.get("/how-sure")
def how_sure(request: Request) -> HTMLResponse:
    """What ±, Tight and Unknown mean, and what to measure first."""
    return render("pages/sure/page.html", token=request.state.token, origins=ORIGINS)


@router.get("/tours")
def tours() -> dict[str, list[dict[str, str]]]:
    """Steps of each tour: a page of the studio and what to see there."""
    return {key: [{"page": page, "says": says} for page, says in steps] for key, steps in TOURS.items()}


@cache
def _marks(key: str) -> tuple[Marked, ...]:
    return marked(next(one for one in EXERCISES if one.id == key))


@router.get("/trainer")
def trainer(request: Request) -> HTMLResponse:
    """The exercises there are."""
    return render("pages/trainer/page.html", token=request.state.token, exercises=EXERCISES, here=None, chosen=None)


@router.get("/trainer/{key}")
def exercise(request: Request, key: str, answer: str = "") -> HTMLResponse:
    """One exercise; with an answer, what the ledger says of each."""
    keys = [one.id for one in EXERCISES]
    if key not in keys:
        raise NotFound("There is no such exercise.")
    at = keys.index(key)
    here, chosen = EXERCISES[at], whole_number(answer)
    if chosen is not None and chosen >= len(here.answers):
        chosen = None
    say = Say.of(demo_studio(here.demo).brief)
    shown = applied(demo_studio(here.demo), here.before) if chosen is None else _marks(key)[chosen].studio
    rows = [] if chosen is None else [_row(one, say) for one in _marks(key)]
    return render(
        "pages/trainer/page.html",
        token=request.state.token,
        exercises=EXERCISES,
        here=here,
        answers=list(here.answers),
        chosen=chosen,
        rows=rows,
        after=keys[at + 1] if at + 1 < len(keys) else None,
        number=at + 1,
        drawing=_plan(shown, here.set_id),
    )


def _plan(studio: Studio, set_id: str) -> str:
    """The set the question is about, from above."""
    plan = by_id(studio.sets, set_id)
    scene = scene_of(studio, plan) if plan else None
    return plan_sheet(scene, 440.0, 420.0) if scene else ""


def _row(one: Marked, say: Say) -> dict[str, object]:
    figure = "" if one.line is None else say.margin(one.line.margin, one.line.unit)
    return {"words": one.words, "right": one.right, "line": one.line, "figure": figure}
