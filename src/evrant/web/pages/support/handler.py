"""Every support from the side."""

from dataclasses import dataclass

from fastapi import APIRouter

from evrant.core.mechanics.supports import Standing, all_standing
from evrant.core.space.scene import Scene
from evrant.core.studio.sets import SetPlan
from evrant.drawing.stands import stands_sheet
from evrant.web.context import Page
from evrant.web.parts import (
    Panel,
    named_light,
    panel,
    set_of,
    sheet_size,
)
from evrant.web.registry import Context, PageSpec
from evrant.web.timing import span

router = APIRouter()

SUPPORT_FIRST = (
    "support",
    "joint",
    "ring",
    "bag",
    "bag_at",
    "leg",
    "counterweight",
    "boom",
    "boom_length",
    "fixing_load",
    "height",
)


@dataclass(frozen=True)
class SupportDesk(Context):
    """What its template shows."""

    plan: SetPlan
    drawing: str
    panels: list[Panel]
    summary: list[tuple[str, str]]


def support_page(page: Page) -> SupportDesk:
    """Every support from the side, and what can be done about each."""
    plan, scene = set_of(page)
    panels = [
        panel(page, f"lights-{light.id}", named_light(plan, light), f"sets/{plan.id}/lights/{light.id}", light, names)
        for light in plan.lights
        for names in (SUPPORT_FIRST,)
    ]
    names: tuple[str, ...] = ("holder", "height", "bag", "fixing_load")
    panels.append(panel(page, "background", "Background", f"sets/{plan.id}/background", plan.background, names))
    names = ("support", "bag", "operator")
    panels.append(panel(page, "camera", "Camera", f"sets/{plan.id}/camera", plan.camera, names))
    brief = page.studio.brief
    panels.append(panel(page, "brief", "Who is about", "brief", brief, ("animals", "children", "public")))
    width, height = sheet_size(page)
    drawing = ""
    if scene is not None:
        with span(page.request, "drawing"):
            drawing = stands_sheet(scene, page.ledger.of_set(plan.id), width, height)
    return SupportDesk(
        plan=plan,
        drawing=drawing,
        panels=panels,
        summary=_masses(page, scene) if scene else [],
    )


def _masses(page: Page, scene: Scene) -> list[tuple[str, str]]:
    """Weights to have at hand, as a sum."""
    bags = [one.mass for _, made in all_standing(scene) if isinstance(made, Standing) for one in made.carried_bags]
    return (
        [("Weights in this set", f"{len(bags)} bag{'s' if len(bags) != 1 else ''}, {page.say.mass(sum(bags))}")]
        if bags
        else []
    )


SPEC = PageSpec("support", support_page, word="Support", order=5, of_set="support", ledger=("support",), router=router)
