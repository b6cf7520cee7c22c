"""Leads along the walls, circuits over the session."""

from dataclasses import dataclass

from fastapi import APIRouter

from evrant.core.base.tables.countries import MAINS, Mains
from evrant.core.base.units import show_number
from evrant.core.place.rigging import lead_for
from evrant.core.space.scene import Scene
from evrant.core.studio.room import value
from evrant.core.studio.sets import SetPlan
from evrant.core.wiring.feeds import fed
from evrant.core.wiring.floor import need_of
from evrant.core.wiring.loads import head_volt_amperes, head_watts
from evrant.drawing.circuits import power_sheet
from evrant.web.context import Page
from evrant.web.parts import (
    Panel,
    named_light,
    panel,
    set_of,
    sheet_size,
)
from evrant.web.registry import Context, PageSpec, Row
from evrant.web.timing import span

router = APIRouter()

POWER_FIRST = ("head", "circuit", "socket", "lead", "lead_on", "unrolled", "covered", "group", "heads")


@dataclass(frozen=True)
class PowerDesk(Context):
    """What its template shows."""

    plan: SetPlan
    drawing: str
    panels: list[Panel]
    feeds: list[Row]
    fired: list[tuple[str, str]]
    mains: Mains


def power_desk(page: Page) -> PowerDesk:
    """Plan with leads, circuits over the session, and a table of what is plugged in where."""
    plan, scene = set_of(page)
    panels = [
        panel(page, f"lights-{light.id}", named_light(plan, light), f"sets/{plan.id}/lights/{light.id}", light, names)
        for light in plan.lights
        for names in (POWER_FIRST,)
    ]
    panels.append(panel(page, "set", "Session", f"sets/{plan.id}", plan, ("minutes", "exposures")))
    panels.append(panel(page, "air", "Air", "room", page.studio.room, ("airing",)))
    width, height = sheet_size(page)
    drawing = ""
    if scene is not None:
        with span(page.request, "drawing"):
            drawing = power_sheet(page.studio, scene, width, height)
    return PowerDesk(
        plan=plan,
        drawing=drawing,
        panels=panels,
        feeds=_feeds(page, scene) if scene else [],
        fired=_fired(scene) if scene else [],
        mains=MAINS[page.studio.brief.country],
    )


def _feeds(page: Page, scene: Scene) -> list[dict[str, str]]:
    """Each light on the mains: what it draws, where it is plugged in, how long its way is, which lead serves."""
    say, rows = page.say, []
    volts = MAINS[page.studio.brief.country].volts
    for one in fed(scene):
        watts, drawn = head_watts(one.head), head_volt_amperes(one.head)
        found = one.found
        lead = " into ".join(item.called for item in one.leads)
        if not lead and found is not None:
            served = lead_for(scene, one.light, {})
            cord = value(one.head.cord)
            enough = cord is not None and cord >= need_of(scene, one.light, found)
            lead = "its own" if enough else f"take the {served.called}" if served else "none of the kit reaches"
        rows.append(
            {
                "name": one.light.name,
                "draws": "?" if watts is None else f"{show_number(watts * one.light.place.heads, 0)} W",
                "amps": "?" if drawn is None else f"{show_number(drawn * one.light.place.heads / volts, 1)} A",
                "socket": found.socket.name if found else "?",
                "along": say.length(found.route.along) if found else "",
                "open": say.length(found.route.open) if found else "",
                "crossing": say.length(found.crossing) if found and found.crossing > 0.01 else "–",
                "needs": say.length(need_of(scene, one.light, found)) if found else "?",
                "lead": lead or "its own",
            }
        )
    return rows


def _fired(scene: Scene) -> list[tuple[str, str]]:
    """How each flash is fired."""
    found = []
    for light in scene.lights:
        how = getattr(light.head, "fired", None)
        if light.head is not None and light.head.kind == "flash":
            built = ", receiver built in" if getattr(light.head, "receiver", False) else ""
            group = f", group {light.place.group}" if light.place.group else ""
            found.append((light.name, f"{how or 'not said'}{built}{group}"))
    return found


SPEC = PageSpec("power", power_desk, word="Power", order=6, of_set="power", ledger=("power", "trigger"), router=router)
