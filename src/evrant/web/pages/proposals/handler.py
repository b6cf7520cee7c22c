"""Proposals: plans worked out for a studio's shots and room, to be taken whole, and what they assume."""

import json
from dataclasses import dataclass
from hashlib import sha256

from fastapi import Request, Response

from evrant.core.base.margins import Verdict
from evrant.core.base.memo import Memo
from evrant.core.base.model import Model
from evrant.core.edits import paths
from evrant.core.edits.language import EDIT, Import
from evrant.core.judge.assumed import Assumed, assumed
from evrant.core.judge.ledger import lines_of_set
from evrant.core.space.scene import scene_of
from evrant.core.studio.studio import Studio
from evrant.drawing.sheet import plan_sheet
from evrant.jobs.plan import KIND, ask_for_plan, asked_of
from evrant.store.jobs import LongJob
from evrant.store.revisions import NotFound
from evrant.web.context import Page, jobs_of
from evrant.web.edge import whole_number
from evrant.web.following import following
from evrant.web.forms import show, specs
from evrant.web.pictures import small_picture
from evrant.web.registry import Context, PageSpec, Row

PLAN = (440.0, 400.0)
"""Size of a proposal's plan."""
_READ: Memo["Kept"] = Memo(16_000_000, lambda kept: 200_000 + 60_000 * len(kept.drawn))


@dataclass(frozen=True)
class Kept:
    """A document kept with a job, read once, and each of its sets drawn."""

    studio: Studio
    drawn: list[Row]


@dataclass(frozen=True)
class Proposed(Context):
    """The job, its proposals with their drawings, what is assumed; `stale` when room, shots or what is owned are none
    of those asked for or proposed."""

    job: LongJob | None
    proposals: list[Row]
    assumed: Row | None
    stale: bool
    things: list[Row]


def proposals_page(page: Page) -> Proposed:
    """What was asked last, how far it is, and what came of it."""
    job = jobs_of(page.request).newest(page.revision.studio_id, KIND)
    answer = job.answer if job is not None and job.answer else None
    rows = [(row, _kept(row["studio"])) for row in answer["proposals"]] if answer else []
    known = [_kept(job.asked["studio"]).studio, *(kept.studio for _, kept in rows)] if job is not None else []
    here = asked_of(page.studio)
    stale = bool(known) and all(asked_of(one.changed(name=here.name)) != here for one in known)
    return Proposed(
        job,
        [_row(page, row, kept) for row, kept in rows],
        _assumed(page, answer["assumed"]) if answer and answer["assumed"] else None,
        stale,
        [_thing(page, thing) for thing in assumed(page.studio)],
    )


def _kept(document: Row) -> Kept:
    """A document as it is kept: the same text is the same studio, however often the page asks."""
    key = sha256(json.dumps(document, sort_keys=True).encode()).hexdigest()

    def read() -> Kept:
        studio = Studio.model_validate(document)
        return Kept(studio, _drawn(studio))

    return _READ.get_by(key, read)


def _row(page: Page, row: Row, kept: Kept) -> Row:
    """A proposal with a plan of each of its sets, and the edit that takes it; `taken` where it is the plan now."""
    studio = kept.studio
    named = studio.changed(name=page.studio.name)
    edit = EDIT.dump_python(Import(document=named), mode="json", by_alias=True, exclude_none=True)
    goto = f"{page.base}/sets/{studio.sets[0].id}" if studio.sets else f"{page.base}/shots"
    return row | {"drawn": kept.drawn, "edit": edit, "goto": goto, "taken": page.studio.sets == studio.sets}


def _drawn(studio: Studio) -> list[Row]:
    """Each set with its plan and its closest call."""
    found = []
    for plan in studio.sets:
        scene = scene_of(studio, plan)
        if scene is None:
            continue
        measured = [line for line in lines_of_set(studio, plan) if line.verdict is not Verdict.CLEAR]
        found.append(
            {
                "name": scene.shot.name,
                "set": plan.id,
                "drawing": plan_sheet(scene, *PLAN),
                "line": measured[0].sentence if measured else "",
            }
        )
    return found


def _assumed(page: Page, told: Row) -> Row:
    """What matters most, with a link to where each is entered."""
    return told | {"things": [thing | {"href": _where(page, thing["target"])} for thing in told["things"]]}


def _thing(page: Page, thing: Assumed) -> Row:
    """What the studio as it is now only assumes, its figures in words."""
    units = page.studio.brief.units
    here: Model = paths.find(page.studio, thing.target)
    plain = specs(type(here))
    figures = [
        f"{spec.title.split(' (')[0].lower()} {show(thing.figures[spec.name].value, spec.show, units)}"
        for spec in plain
        if spec.name in thing.figures
    ]
    return {"name": thing.name, "figures": ", ".join(figures), "href": _where(page, thing.target)}


def _where(page: Page, target: str) -> str:
    """Where an assumed thing is entered: the brief, or the survey of the room."""
    return f"{page.base}/brief" if target.startswith("brief") else f"{page.base}/room"


router = following("proposals", ask_for_plan)


@router.get("/studios/{studio_id}/proposals/{number}/{set_id}/frame.png")
def frame(request: Request, studio_id: str, number: str, set_id: str) -> Response:
    """The computed picture of one set of a proposal, told by its place in the list."""
    job, at = jobs_of(request).newest(studio_id, KIND), whole_number(number)
    rows = job.answer["proposals"] if job is not None and job.answer else []
    if at is None or at >= len(rows):
        raise NotFound("There is no such proposal.")
    return small_picture(request, _kept(rows[at]["studio"]).studio, set_id)


SPEC = PageSpec("proposals", proposals_page, under="kit", router=router)
