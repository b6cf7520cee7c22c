"""Every support from the side."""

from dataclasses import dataclass
from typing import Any, Literal

from fastapi import APIRouter, Request, Response

from evrant.catalogue import load
from evrant.core.mechanics.supports import Standing, all_standing
from evrant.core.place.cards import way_words
from evrant.core.search.support_table import support_table
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import Board
from evrant.core.studio.sets import PropPlace, SetPlan
from evrant.core.studio.studio import by_id
from evrant.drawing.stands import stands_sheet
from evrant.store.revisions import NotFound
from evrant.web.context import Page, render
from evrant.web.parts import (
    Panel,
    named_light,
    panel,
    set_of,
    sheet_size,
)
from evrant.web.registry import Context, PageSpec
from evrant.web.show import page_of_set
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
CARD_FIRST = ("support", "bag", "height", "x", "y", "tilt")


@router.get("/studios/{studio_id}/support/{set_id}/table/{kind}/{held_id}")
def what_could_hold(
    request: Request, studio_id: str, set_id: str, kind: Literal["lights", "props"], held_id: str
) -> Response:
    """Every support under one light or card; asked for once the page stands."""
    page = page_of_set(request, studio_id, "support", set_id)
    return render("pages/support/table.html", page, **table_of(page, f"{kind}/{held_id}"))


def table_of(page: Page, tail: str) -> dict[str, Any]:
    """Rows of supports for a light or card of the set, with what is short whatever carries it."""
    plan, scene = set_of(page)
    name = dict(_held_things(page, plan)).get(tail)
    if scene is None or name is None:
        raise NotFound("That is no longer in the set.")
    table, say = support_table(page.studio, scene, f"{scene.path}/{tail}", load().all()), page.say
    rows = [
        {
            "name": option.name,
            "moved": way_words(scene, option.moved),
            "used": option.used,
            "ours": option.ours,
            "works": option.works,
            "against": [m.sentence for m in (*option.short, *option.unknown)][:2],
            "tight": len(option.tight),
            "besides": option.besides,
            "bag": say.mass(option.bag) if option.bag else "",
            "floor": say.area(option.floor) if option.floor else "none",
            "way_out": say.length(option.way_out) if option.way_out is not None else "",
            "minutes": f"{option.minutes:g} min",
            "packed": say.length(option.packed) if option.packed is not None else "",
            "price": "" if option.ours or option.price is None else say.money(float(option.price)),
            "edit": option.edit.model_dump(mode="json"),
        }
        for option in table.options
    ]
    always = [m.sentence for m in table.always]
    return {"rows": rows, "always": always, "held": name, "is_light": tail.startswith("lights/")}


def _held_things(page: Page, plan: SetPlan) -> list[tuple[str, str]]:
    """The lights of a set and the boards that something may hold, each by the end of its path, and its name."""
    boards = [(f"props/{place.id}", item.called.capitalize()) for place, item in _boards(page, plan)]
    return [(f"lights/{light.id}", named_light(plan, light)) for light in plan.lights] + boards


def _boards(page: Page, plan: SetPlan) -> list[tuple[PropPlace, Board]]:
    found = [(place, by_id(page.studio.gear, place.item or "")) for place in plan.props]
    return [(place, item) for place, item in found if isinstance(item, Board)]


@dataclass(frozen=True)
class SupportDesk(Context):
    """What its template shows."""

    plan: SetPlan
    drawing: str
    panels: list[Panel]
    summary: list[tuple[str, str]]
    held: list[tuple[str, str]]


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
    panels += [
        panel(
            page, f"props-{place.id}", item.called.capitalize(), f"sets/{plan.id}/props/{place.id}", place, CARD_FIRST
        )
        for place, item in _boards(page, plan)
    ]
    names = ("support", "bag", "operator")
    panels.append(panel(page, "camera", "Camera", f"sets/{plan.id}/camera", plan.camera, names))
    brief = page.studio.brief
    panels.append(panel(page, "brief", "Who is about", "brief", brief, ("animals", "children", "public")))
    return SupportDesk(
        plan=plan,
        drawing=from_the_side(page),
        panels=panels,
        summary=_masses(page, scene) if scene else [],
        held=_held_things(page, plan),
    )


def from_the_side(page: Page) -> str:
    """Every support of the set from the side, for the size its window has."""
    plan, scene = set_of(page)
    if scene is None:
        return ""
    with span(page.request, "drawing"):
        return stands_sheet(scene, page.ledger.of_set(plan.id), *sheet_size(page))


def _masses(page: Page, scene: Scene) -> list[tuple[str, str]]:
    """Weights to have at hand, as a sum."""
    bags = [one.mass for _, made in all_standing(scene) if isinstance(made, Standing) for one in made.carried_bags]
    return (
        [("Weights in this set", f"{len(bags)} bag{'s' if len(bags) != 1 else ''}, {page.say.mass(sum(bags))}")]
        if bags
        else []
    )


SPEC = PageSpec(
    "support",
    support_page,
    drawing=from_the_side,
    word="Support",
    order=5,
    of_set="support",
    ledger=("support",),
    router=router,
)
