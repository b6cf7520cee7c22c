"""The Light page: the sheet with its light, tables of lights and of what the room returns, power sheets."""

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
from fastapi import APIRouter, Request, Response

from evrant.core.judge.rules.light.light_measures import evaluated
from evrant.core.light import account
from evrant.core.light.colour import luminance
from evrant.core.light.emission import Missing
from evrant.core.light.hours import UNPLACED, hours, site_of
from evrant.core.light.lit import Lit, lit
from evrant.core.light.mirrored import mirrored
from evrant.core.light.sky import SKIES
from evrant.core.space.scene import scene_of
from evrant.core.studio.gear import Flash
from evrant.core.studio.sets import SetPlan
from evrant.core.studio.studio import by_id
from evrant.core.studio.words import f_words, setting_words
from evrant.drawing.light import hex_of
from evrant.drawing.sun import sun_plan
from evrant.files.hours_report import hours_data
from evrant.files.light_report import film_of, power_csv, power_table
from evrant.store.revisions import NotFound
from evrant.web.context import Page, render
from evrant.web.edge import whole_number
from evrant.web.forms import fields
from evrant.web.parts import (
    RARE,
    Panel,
    drawing_of,
    set_of,
)
from evrant.web.registry import Context, PageSpec, Row
from evrant.web.show import page_of_set

router = APIRouter()

LIGHT_FIRST = (
    "role",
    "head",
    "modifier",
    "power",
    "gridded",
    "diffusers",
    "gel",
    "heads",
    "x",
    "y",
    "height",
)
BODY = {"shadow side": "on the far side", "ground": "behind it"}
SHOT_FIELDS = ("contrast", "tone", "around", "balance", "aperture", "iso", "shutter", "dark_filter", "frames")


def state_of(page: Page) -> Lit | Missing | None:
    """The page's set in its light."""
    plan = by_id(page.studio.sets, page.set_id)
    scene = scene_of(page.studio, plan) if plan else None
    return lit(scene) if scene is not None else None


@dataclass(frozen=True)
class LightDesk(Context):
    """What its template shows."""

    plan: SetPlan
    drawing: str
    panels: list[Panel]
    lights: list[Row]
    lights_note: str
    returns: list[Row]
    side: str
    unknown: str
    by_day: bool
    summary: list[tuple[str, str]]


def light_page(page: Page) -> LightDesk:
    plan, _ = set_of(page)
    state = state_of(page)
    known = state if isinstance(state, Lit) else None
    panels = []
    for light in plan.lights:
        target = f"sets/{plan.id}/lights/{light.id}"
        first = fields(page.studio, target, light, only=LIGHT_FIRST)
        rare = fields(page.studio, target, light, only=(*RARE, "support", "circuit"))
        panels.append(
            Panel(f"lights-{light.id}", plan.name_of(light).capitalize(), target, tuple(first), tuple(rare), True)
        )
    shot = by_id(page.studio.shots, plan.shot)
    if shot is not None:
        wanted = fields(page.studio, f"shots/{plan.shot}", shot, only=SHOT_FIELDS)
        panels.append(Panel("shot", "Wanted", f"shots/{plan.shot}", tuple(wanted)))
    unknown = _unknown(state)
    return LightDesk(
        plan=plan,
        drawing=drawing_of(page),
        panels=panels,
        lights=_lights(page, known) if known else [],
        lights_note=_note(known, unknown),
        returns=_returns(known) if known else [],
        side=account.side_word(known) if known and known.beams else "",
        unknown=unknown,
        by_day=shot is not None and "daylight" in shot.around,
        summary=summary(page, known),
    )


def _unknown(state: Lit | Missing | None) -> str:
    if isinstance(state, Missing):
        return state.text
    if state is not None and isinstance(state.around, Missing):
        return f"{state.around.text} What the room returns is not counted until it is known."
    if state is not None and state.missing:
        return state.missing[0].text
    return ""


def _note(state: Lit | None, unknown: str) -> str:
    if unknown:
        return unknown
    if state is None or not state.beams:
        return ""
    film = film_of(state)
    if film:
        words = ", ".join(f"{frames}: {stops:+.1f}" for frames, stops in film.items()).replace("-", "−")
        return f"Film, shutter open half of each frame's time, stops to spare by frames a second: {words}."
    return "Powers nobody typed are set together for the aperture, the fill by the contrast wanted. ± in stops."


def _lights(page: Page, state: Lit) -> list[dict[str, str]]:
    say, found = page.say, []
    for one in account.light_figures(state):
        beam = next(b for b in state.beams if b.path == one.path)
        head = beam.light.head if beam.light else None
        steps = head.steps if isinstance(head, Flash) else None
        whole = one.direct + one.returned
        set_to = setting_words(one.power, steps) if head is not None else "as it is"
        if one.kind == "steady":
            set_to = "full" if one.power > 0.995 else f"{one.power:.0%}"
        low = f"{f_words(one.lowest)} to " if one.lowest else "up to "
        soft = one.soft
        found.append(
            {
                "name": one.name,
                "distance": say.length(one.distance),
                "power": set_to,
                "aperture": f"{f_words(one.aperture)} ± {one.unsure:.1f}",
                "stops": "" if state.key is None or math.isinf(one.stops) else f"{one.stops:+.1f}".replace("-", "−"),
                "returned": f"{one.returned / whole:.0%}" if whole > 0 else "",
                "range": f"{low}{f_words(one.full)}" if head is not None else "",
                "soft": f"{soft.grade}, {soft.size:.0f}°" if soft else "",
                "by": f"by way of the {one.comes_from}" if one.comes_from else "",
                "nose": say.length(soft.nose) if soft else "",
                "colour": f"{one.kelvin:.0f} K" + ("" if one.kelvin_known else " (usual)"),
            }
        )
    return found


def _returns(state: Lit) -> list[dict[str, str]]:
    found = []
    for part in account.parts(state)[:8]:
        bright = max(max(part.bands), 1e-12)
        found.append(
            {
                "name": part.name,
                "share": f"{part.share:.0%}" if part.share >= 0.005 else "under 1 %",
                "colour": hex_of(np.array(part.bands) / bright),
            }
        )
    return found


def summary(page: Page, state: Lit | None) -> list[tuple[str, str]]:
    """The set's light in a few words and figures."""
    if state is None or not state.beams or state.key is None:
        return []
    rows = []
    found = account.contrast(state)
    if found is not None:
        turned = "" if found > -0.05 else ", the far side brighter"
        rows.append(("Contrast", f"1 : {2 ** abs(found):.1f}, {abs(found):.1f} stops, {account.grade(found)}{turned}"))
    share = account.returned_share(state)
    rows.append((f"Returned to the {account.side_word(state)} side", f"{share:.0%} of its light"))
    shot = state.scene.shot
    if shot.iso is not None:
        key = state.beams[state.key]
        total = state.total("face") / 2**shot.dark_filter
        from evrant.core.light.photometry import f_number_for

        words = f"{f_words(f_number_for(total, shot.iso))} at ISO {shot.iso}"
        rows.append(
            ("All lights together", words if key.kind == "flash" else f"{words}, 1/{1 / (shot.shutter or 1):.0f} s")
        )
    tint, person = account.tint_at(state, "shadow side"), shot.of_person
    if tint is not None:
        rows.append(("Tint there", f"ΔE {tint.white:.1f} on white" + (f", {tint.skin:.1f} on skin" if person else "")))
    ground = account.ground(state)
    if ground is not None:
        rows.append(("Background", f"{ground.mean:.0%} of white, even within {ground.spread:.1f} stops"))
    mirror = mirrored(state)
    if mirror is not None:
        first = ", ".join(f"{share:.0%} {name}" for name, share in mirror.shares[:3])
        rows.append(("It mirrors", f"{first}; {mirror.dark:.0%} of it dark"))
    shade = account.own_shade(state)
    told = [f"{stops:+.1f} {BODY[name]}" for name, stops in shade.items() if name in BODY and abs(stops) >= 0.05]
    if told:
        rows.append(("Its own body changes", ", ".join(told).replace("-", "−") + " (stops)"))
    lux = account.ambient_lux(state)
    if lux > 0.5:
        steady = state.beams[state.key].kind != "flash"
        rows.append(
            (f"Illuminance at {shot.lit_part}" if steady else f"Other light at {shot.lit_part}", f"{lux:.0f} lx")
        )
    return rows


def measures_of(page: Page) -> dict[str, Any]:
    """What could be done about the light, each computed."""
    plan = by_id(page.studio.sets, page.set_id)
    scene = scene_of(page.studio, plan) if plan else None
    state = lit(scene) if scene else None
    if scene is None or not isinstance(state, Lit) or isinstance(state.around, Missing) or state.key is None:
        return {"measures": [], "now": {}, "part": ""}
    rows = [
        {
            "label": m.label,
            "edit": m.edit.model_dump(mode="json"),
            "contrast": f"1 : {2**m.contrast:.1f}" if m.contrast is not None else "",
            "exposure": f"{m.exposure:+.1f} stops".replace("-", "−"),
            "tint": f"{m.tint:.1f}" if m.tint is not None else "",
        }
        for m in evaluated(page.studio, scene)
    ]
    found, tint = account.contrast(state), account.tint_at(state, "shadow side")
    wish = scene.shot.contrast
    return {
        "measures": rows,
        "part": scene.shot.lit_part,
        "now": {
            "contrast": f"1 : {2**found:.1f}" if found is not None else "?",
            "tint": f"{tint.white:.1f}" if tint else "?",
            "wish": f"the {wish} contrast wanted" if wish else "a medium contrast without tint",
        },
    }


def power_page(page: Page) -> dict[str, Any]:
    """The sheets of every head."""
    state = state_of(page)
    plan = by_id(page.studio.sets, page.set_id)
    if not isinstance(state, Lit):
        return {"plan": plan, "tables": [], "settings": ""}
    tables: list[dict[str, Any]] = []
    for beam in state.beams:
        if beam.light is not None and beam.emission is not None:
            unsure = math.sqrt(sum(s.amount**2 for s in beam.emission.shares))
            output = f"{luminance(beam.source.flux):.0f} {'lm·s' if beam.kind == 'flash' else 'lm'}"
            words = f"From {beam.emission.basis}; {output} at full power, ± {unsure:.1f} stops."
            rows = power_table(state, beam, page.say)
            same = next((t for t in tables if t["rows"] == rows), None)
            if same is not None:
                same["lights"].append(beam.name)
                continue
            head = beam.light.head.called if beam.light.head else ""
            tables.append({"lights": [beam.name], "head": head, "words": words, "rows": rows})
    for table in tables:
        table["name"] = f"{', '.join(table['lights'])}: {table['head']}"
    shot = state.scene.shot
    time = f", 1/{1 / shot.shutter:.0f} s" if shot.shutter and any(b.kind == "steady" for b in state.beams) else ""
    return {"plan": plan, "tables": tables, "settings": f"ISO {shot.iso or 100}{time}."}


def power_file(page: Page) -> str:
    state = state_of(page)
    if not isinstance(state, Lit):
        raise NotFound("The light of this set cannot be computed yet.")
    return power_csv(state, page.say)


@router.get("/studios/{studio_id}/light/{set_id}/measures")
def light_measures(request: Request, studio_id: str, set_id: str) -> Response:
    """What would change the light, each computed; asked for once the page stands."""
    page = page_of_set(request, studio_id, "light", set_id)
    return render("pages/light/measures.html", page, **measures_of(page))


def hours_of(page: Page) -> Row:
    """When the window carries this set, or what is missing for saying so."""
    plan = by_id(page.studio.sets, page.set_id)
    scene = scene_of(page.studio, plan) if plan else None
    found = hours(scene) if scene is not None else Missing("The shot of this set is gone.", "shots")
    if isinstance(found, Missing) or scene is None:
        return {"missing": found, "skies": []}
    data = hours_data(scene, found)
    skies = [(sky, [_month_cells(data, sky, month) for month in range(12)]) for sky in SKIES]
    return {"missing": None, "skies": skies, "works": data["works"], "kelvin": data["kelvin"]}


@router.get("/studios/{studio_id}/light/{set_id}/sun")
def light_sun(request: Request, studio_id: str, set_id: str, month: str = "6", hour: str = "12") -> Response:
    """The plan with the sun's patch at an hour."""
    page = page_of_set(request, studio_id, "light", set_id)
    plan = by_id(page.studio.sets, page.set_id)
    scene = scene_of(page.studio, plan) if plan else None
    site = site_of(page.studio.brief)
    at, when = whole_number(month, least=1), whole_number(hour)
    if scene is None or at is None or when is None or at > 12 or when > 23:
        raise NotFound("There is no such hour here.")
    if site is None:
        return render("pages/light/hours.html", page, missing=UNPLACED, skies=[])
    return Response(sun_plan(scene, site, at - 1, when), media_type="text/html")


def _month_cells(data: Row, sky: str, month: int) -> list[Row]:
    """A month's hours as cells: how it is in a word, and what its title says."""
    cells = []
    for one in data["months"][month]:
        stops = one["stops"][sky]
        if stops is None or stops < -4:
            kind, words = "night", "too dark"
        elif one["works"][sky]:
            kind, words = "good", f"{stops:+.1f} stops"
        else:
            kind, words = "poor", f"{stops:+.1f} stops" + ("" if stops < -0.5 else ", changing fast")
        if one["sun"] and sky == "clear":
            kind, words = f"{kind} sunny", f"{words}, sun on the glass"
        cells.append({"kind": kind, "words": words.replace("-", "−"), "hour": one["hour"]})
    return cells


@router.get("/studios/{studio_id}/light/{set_id}/hours")
def light_hours(request: Request, studio_id: str, set_id: str) -> Response:
    """When the window carries the set, asked for once the page stands."""
    page = page_of_set(request, studio_id, "light", set_id)
    return render("pages/light/hours.html", page, **hours_of(page))


@router.get("/studios/{studio_id}/light/{set_id}/power")
def light_power(request: Request, studio_id: str, set_id: str) -> Response:
    """Power × distance × aperture of every head, to print."""
    page = page_of_set(request, studio_id, "light", set_id)
    page.extra |= power_page(page)
    return render("templates/whole.html", page, body="pages/light/power.html")


SPEC = PageSpec(
    "light", light_page, drawing=drawing_of, word="Light", order=4, of_set="light", ledger=("light",), router=router
)
