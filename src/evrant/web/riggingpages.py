"""The Support page, the Power page and the safety sheet."""

from typing import Any

from evrant.core.base.margins import Verdict
from evrant.core.base.tables.countries import MAINS
from evrant.core.base.units import show_number
from evrant.core.judge.safety import NOTICES, hazards
from evrant.core.mechanics.supports import Standing, all_standing
from evrant.core.place.rigging import lead_for
from evrant.core.space.scene import Scene, scene_of
from evrant.core.studio.room import value
from evrant.core.studio.sets import LightPlace, SetPlan
from evrant.core.studio.studio import by_id
from evrant.core.wiring.feeds import fed
from evrant.core.wiring.floor import need_of
from evrant.core.wiring.loads import head_watts
from evrant.drawing.circuits import power_sheet
from evrant.drawing.stands import stands_sheet
from evrant.store.repository import NotFound
from evrant.web.context import Page
from evrant.web.forms import fields
from evrant.web.pages import sheet_size
from evrant.web.timing import span

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
POWER_FIRST = ("head", "circuit", "socket", "lead", "lead_on", "unrolled", "covered", "group", "heads")


def _set_of(page: Page) -> tuple[SetPlan, Scene | None]:
    plan = by_id(page.studio.sets, page.set_id)
    assert plan is not None
    return plan, scene_of(page.studio, plan)


def _panel(page: Page, key: str, word: str, target: str, model: Any, names: tuple[str, ...]) -> dict[str, Any]:
    return {"key": key, "word": word, "target": target, "fields": fields(page.studio, target, model, only=names)}


def _word(plan: SetPlan, light: LightPlace) -> str:
    """What a light is called: its role, or its own name where others have the same role."""
    alone = sum(one.role == light.role for one in plan.lights) == 1
    return light.role.capitalize() if alone else light.id.replace("-", " ").capitalize()


def support_page(page: Page) -> dict[str, Any]:
    """Every support from the side, and what can be done about each."""
    plan, scene = _set_of(page)
    panels = [
        _panel(page, f"lights-{light.id}", _word(plan, light), f"sets/{plan.id}/lights/{light.id}", light, names)
        for light in plan.lights
        for names in (SUPPORT_FIRST,)
    ]
    names: tuple[str, ...] = ("holder", "height", "bag", "fixing_load")
    panels.append(_panel(page, "background", "Background", f"sets/{plan.id}/background", plan.background, names))
    names = ("support", "bag", "operator")
    panels.append(_panel(page, "camera", "Camera", f"sets/{plan.id}/camera", plan.camera, names))
    brief = page.studio.brief
    panels.append(_panel(page, "brief", "Who is about", "brief", brief, ("animals", "children", "public")))
    width, height = sheet_size(page)
    drawing = ""
    if scene is not None:
        with span(page.request, "drawing"):
            drawing = stands_sheet(scene, page.ledger.of_set(plan.id), width, height)
    return {"plan": plan, "drawing": drawing, "panels": panels, "summary": _masses(page, scene) if scene else []}


def _masses(page: Page, scene: Scene) -> list[tuple[str, str]]:
    """Weights to have at hand, as a sum."""
    bags = [one.mass for _, made in all_standing(scene) if isinstance(made, Standing) for one in made.carried_bags]
    return (
        [("Weights in this set", f"{len(bags)} bag{'s' if len(bags) != 1 else ''}, {page.say.mass(sum(bags))}")]
        if bags
        else []
    )


def power_desk(page: Page) -> dict[str, Any]:
    """Plan with leads, circuits over the session, and a table of what is plugged in where."""
    plan, scene = _set_of(page)
    panels = [
        _panel(page, f"lights-{light.id}", _word(plan, light), f"sets/{plan.id}/lights/{light.id}", light, names)
        for light in plan.lights
        for names in (POWER_FIRST,)
    ]
    panels.append(_panel(page, "set", "Session", f"sets/{plan.id}", plan, ("minutes", "exposures")))
    panels.append(_panel(page, "air", "Air", "room", page.studio.room, ("airing",)))
    width, height = sheet_size(page)
    drawing = ""
    if scene is not None:
        with span(page.request, "drawing"):
            drawing = power_sheet(page.studio, scene, width, height)
    return {
        "plan": plan,
        "drawing": drawing,
        "panels": panels,
        "feeds": _feeds(page, scene) if scene else [],
        "fired": _fired(scene) if scene else [],
        "mains": MAINS[page.studio.brief.country],
        "summary": [],
    }


def _feeds(page: Page, scene: Scene) -> list[dict[str, str]]:
    """Each light on the mains: what it draws, where it is plugged in, how long its way is, which lead serves."""
    say, rows = page.say, []
    volts = MAINS[page.studio.brief.country].volts
    for one in fed(scene):
        watts = head_watts(one.head)
        found = one.found
        lead = " into ".join(item.called for item in one.leads)
        if not lead and found is not None:
            served = lead_for(scene, one.light, {})
            cord = value(one.head.cord)
            enough = cord is not None and cord >= need_of(one.light, found)
            lead = "its own" if enough else f"take the {served.called}" if served else "none of the kit reaches"
        rows.append(
            {
                "name": one.light.name,
                "draws": "?" if watts is None else f"{show_number(watts * one.light.place.heads, 0)} W",
                "amps": "?" if watts is None else f"{show_number(watts * one.light.place.heads / volts, 1)} A",
                "socket": found.socket.name if found else "?",
                "along": say.length(found.route.along) if found else "",
                "open": say.length(found.route.open) if found else "",
                "crossing": say.length(found.crossing) if found and found.crossing > 0.01 else "–",
                "needs": say.length(need_of(one.light, found)) if found else "?",
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


def safety_sheet(page: Page) -> dict[str, Any]:
    """Hazards of one set, or of every set of the studio."""
    plans = [plan for plan in page.studio.sets if page.set_id is None or plan.id == page.set_id]
    if not plans:
        raise NotFound("There is no set yet.")
    sets = []
    for plan in plans:
        scene = scene_of(page.studio, plan)
        if scene is not None:
            lines = page.ledger.shown_with(plan.id)
            sets.append({"plan": plan, "hazards": [_told(page, h) for h in hazards(scene, lines)]})
    return {"sets": sets, "notices": NOTICES, "whole": page.set_id is None}


def _told(page: Page, hazard: Any) -> dict[str, Any]:
    """A hazard with its lines in words; of the Clear ones only how many."""
    shown = [line for line in hazard.lines if line.verdict is not Verdict.CLEAR]
    return {
        "name": hazard.name,
        "cause": hazard.cause,
        "caution": hazard.caution,
        "do": hazard.do,
        "word": hazard.verdict.value if hazard.verdict else "",
        "lines": [
            {
                "word": line.verdict.value,
                "figure": page.say.margin(line.margin, line.unit) if line.margin is not None else "",
                "sentence": line.sentence,
                "reason": line.reason,
            }
            for line in shown
        ],
        "calm": len(hazard.lines) - len(shown),
    }
