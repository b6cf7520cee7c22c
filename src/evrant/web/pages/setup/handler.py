"""The set-up sheet of a set: the floor with its tape marks, every setting, the steps in their order."""

from dataclasses import dataclass

from fastapi import APIRouter, Request, Response

from evrant.core.carry.bring import Bring, bring
from evrant.core.carry.sheet import Sheet, sheet_of
from evrant.core.log.calibrate import calibrate
from evrant.core.space.scene import Scene
from evrant.core.stowage.striking import BEGINNER
from evrant.core.studio.sets import SetPlan
from evrant.drawing.tape import tape_drawing
from evrant.files.setup_sheet import write_sheet
from evrant.store.revisions import NotFound
from evrant.web.answers import file_answer
from evrant.web.carrying import new_session_id
from evrant.web.context import Page
from evrant.web.naming import slug
from evrant.web.parts import set_of
from evrant.web.registry import Context, PageSpec
from evrant.web.show import page_of_set

router = APIRouter()


@dataclass(frozen=True)
class SetUp(Context):
    """What its template shows; `begin` is the id a session begun from here gets."""

    plan: SetPlan
    sheet: Sheet
    things: list[Bring]
    drawing: str
    begin: str
    factor: float = BEGINNER


def setup(page: Page) -> SetUp:
    """The sheet, with what the readings so far have taught."""
    plan, scene = _scene(page)
    sheet = sheet_of(scene, calibrate(page.studio))
    drawn = tape_drawing(scene, sheet.marks)
    return SetUp(plan, sheet, bring(page.studio, [plan]), drawn, new_session_id())


def _scene(page: Page) -> tuple[SetPlan, Scene]:
    plan, scene = set_of(page)
    if scene is None:
        raise NotFound("The shot of this set is gone.")
    return plan, scene


@router.get("/studios/{studio_id}/setup/{set_id}/sheet.pdf")
def paper(request: Request, studio_id: str, set_id: str) -> Response:
    """The sheet on paper."""
    page = page_of_set(request, studio_id, "setup", set_id)
    plan, scene = _scene(page)
    made = write_sheet(scene, sheet_of(scene, calibrate(page.studio)), bring(page.studio, [plan]))
    return file_answer(made, f"{slug(page.studio.name)}-{slug(plan.name)}-set-up.pdf", "application/pdf")


SPEC = PageSpec("setup", setup, under="session", of_set="setup", router=router)
