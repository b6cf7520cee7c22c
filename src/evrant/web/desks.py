"""Pages that compute before they show: measuring step by step, arranging, lenses, rooms, comparing."""

import math
from collections.abc import Callable
from functools import partial
from typing import Any

import numpy as np

from evrant.core.base.margins import Margin, Verdict
from evrant.core.base.memo import Memo
from evrant.core.edits.language import EDIT, Add, Several
from evrant.core.edits.paths import find
from evrant.core.judge.ledger import ledger_of
from evrant.core.place.patterns import named
from evrant.core.search.arrange.changes import Cell, Help, RoomCell, possible_with, shot_by_lens, shot_by_room
from evrant.core.search.arrange.search import Found, Result, arrange
from evrant.core.space import framing
from evrant.core.space.changeover import changeover
from evrant.core.space.scene import Scene, scene_of
from evrant.core.space.survey import answered, asks, next_open
from evrant.core.space.wanted import wanted
from evrant.core.studio.gear import Camera, Lens
from evrant.core.studio.shots import Shot
from evrant.core.studio.studio import Studio, by_id
from evrant.core.studio.words import f_words
from evrant.drawing.sheet import plan_sheet, room_sheet
from evrant.drawing.sketch import sketch
from evrant.store.repository import split
from evrant.web.actions import free_id, slug
from evrant.web.context import Page, repository
from evrant.web.forms import fields
from evrant.web.pages import NEW_THINGS, bare_scene, card

_RESULTS: Memo[Result] = Memo(8_000_000, lambda result: 60_000)
_CHANGES: Memo[Help] = Memo(4_000_000, lambda found: 40_000)
_LENSES: Memo[tuple[Cell, ...]] = Memo(2_000_000, lambda cells: 4_000)
_ROOMS: Memo[tuple[RoomCell, ...]] = Memo(2_000_000, lambda cells: 4_000)


# --- measuring -----------------------------------------------------------------------------------


def survey(page: Page) -> dict[str, Any]:
    """One question of the measuring order with the drawing as far as it goes."""
    studio = page.studio
    questions = asks(studio.room)
    ids = [ask.id for ask in questions]
    here = questions[ids.index(page.part)] if page.part in ids else (next_open(questions, "") or questions[-1])
    edited = page.request.method == "POST" and page.request.url.path.endswith("/edits")
    alone = here.kind == "shape" or len(here.fields) == 1
    if edited and alone and here.done:
        here = next_open(questions, here.id) or here
    page.part = here.id
    at = ids.index(here.id)
    shown = []
    if here.kind == "fields":
        model = find(studio, here.target)
        shown = fields(studio, here.target, model, only=here.fields)
    shape_now = here.target.startswith("room/footprint") or here.id in ("shape", "corners")
    complete = bare_scene(page).walls is not None
    drawing = (
        sketch(studio.room, studio.brief, here.target, here.fields, 400.0, 320.0)
        if shape_now or not complete
        else room_sheet(bare_scene(page), 400.0, 320.0)
    )
    done, of = answered(questions)
    return {
        "ask": here,
        "fields": shown,
        "shape": studio.room.footprint.kind if studio.room.footprint else "",
        "corners": [(c.x.value, c.y.value) for c in getattr(studio.room.footprint, "corners", ())],
        "things": [card(page, f"room/{here.list}/{t.id}", t) for t in getattr(studio.room, here.list)]
        if here.list
        else [],
        "one": NEW_THINGS[here.list][0] if here.list else "",
        "before": ids[at - 1] if at else None,
        "after": ids[at + 1] if at + 1 < len(ids) else None,
        "done": done,
        "of": of,
        "drawing": drawing,
    }


# --- arranging -----------------------------------------------------------------------------------


def arranging(page: Page) -> dict[str, Any]:
    """The shots to arrange, and the one that is being arranged."""
    studio = page.studio
    shot = by_id(studio.shots, page.part) or (studio.shots[0] if studio.shots else None)
    page.part = shot.id if shot else None
    return {"shot": shot, "shots": studio.shots}


def _result(studio: Studio, shot: Shot) -> Result:
    parts = (studio.room, studio.brief, studio.gear, shot)
    return _RESULTS.get("arrange", parts, lambda: arrange(studio, shot))


def found_sets(page: Page, shot_id: str) -> dict[str, Any]:
    """Sets the search found as small plans with their worst line, or the nearest miss."""
    studio, shot = page.studio, by_id(page.studio.shots, shot_id)
    if shot is None:
        return {"shot": None, "result": None, "sets": [], "miss": []}
    result = _result(studio, shot)
    taken = list(studio.sets)
    sets = [_offered(page, studio, shot, found, free_id(taken, slug(f"{shot.id}-set"))) for found in result.sets]
    miss = [_said(page, line) for line in result.nearest.judged.short] if result.nearest else []
    near = _drawn(page, studio, shot, result.nearest) if result.nearest else ""
    return {"shot": shot, "result": result, "sets": sets, "miss": miss, "near": near}


def _said(page: Page, line: Margin) -> dict[str, str]:
    return {
        "figure": page.say.margin(line.margin, line.unit),
        "sentence": line.sentence,
        "reason": line.reason,
        "title": line.title,
    }


def _scene(studio: Studio, shot: Shot, found: Found) -> Scene:
    return Scene(studio.room, studio.brief, shot, found.plan, {item.id: item for item in studio.gear})


def _drawn(page: Page, studio: Studio, shot: Shot, found: Found) -> str:
    return plan_sheet(_scene(studio, shot, found), 330.0, 260.0)


def _offered(page: Page, studio: Studio, shot: Shot, found: Found, set_id: str) -> dict[str, Any]:
    scene = _scene(studio, shot, found)
    name = f"{shot.name}, {_way(scene)}"[:80]
    plan = found.plan.changed(id=set_id, name=name)
    edit = Add(list="sets", item=plan.model_dump(mode="json", exclude_none=True))
    used = [item.name for item in (scene.lens, scene.backdrop, scene.holder) if item]
    return {
        "drawing": plan_sheet(scene, 330.0, 260.0),
        "name": name,
        "id": set_id,
        "edit": EDIT.dump_python(edit, mode="json"),
        "lines": [_said(page, line) | {"word": line.verdict.value} for line in found.judged.lines[:2]],
        "used": used,
        "pattern": named(scene),
    }


def _way(scene: Scene) -> str:
    """Which way the lens looks, by the wall it faces or the corner between two."""
    if scene.walls is None or scene.axis is None:
        return "arranged"
    if scene.overhead:
        return "from above"
    facing = [float(scene.walls.inward(i) @ scene.axis) for i in range(scene.walls.count)]
    names = [wall.name for wall in scene.room.edges(scene.walls.count)]
    order = np.argsort(facing)[::-1]
    best = names[int(order[0])]
    if facing[int(order[0])] > 0.92:
        return f"towards the {best}" if "wall" in best.lower() else f"towards {best}"
    return f"towards the corner of {best} and {names[int(order[1])]}"


def possible_changes(page: Page, shot_id: str) -> dict[str, Any]:
    """The smallest changes that make the shot possible, each with one edit that makes it and takes the set."""
    studio, shot = page.studio, by_id(page.studio.shots, shot_id)
    if shot is None:
        return {"changes": [], "shot": None, "complete": True}
    parts = (studio.room, studio.brief, studio.gear, shot)
    nearest = _result(studio, shot).nearest
    binding = [line.code for line in nearest.judged.short] if nearest else []
    found = _CHANGES.get("possible", parts, lambda: possible_with(studio, shot, binding=binding))
    taken = list(studio.sets)
    offers = []
    for one in found.found:
        set_id = free_id(taken, slug(f"{shot.id}-set"))
        plan = one.found.plan.changed(id=set_id, name=f"{shot.name}, with a change"[:80])
        add = Add(list="sets", item=plan.model_dump(mode="json", exclude_none=True))
        whole = Several(edits=(*one.change.edits, add), label=f"Change: {one.change.label}"[:120])
        line = one.found.judged.lines[0]
        offers.append(
            {
                "label": one.change.label[:1].upper() + one.change.label[1:],
                "edit": EDIT.dump_python(whole, mode="json"),
                "line": _said(page, line) | {"word": line.verdict.value},
            }
        )
    return {"changes": offers, "shot": shot, "complete": found.complete}


# --- lenses --------------------------------------------------------------------------------------


def lenses(page: Page) -> dict[str, Any]:
    """Shot by lens (rows come one by one), and a framing card for each lens."""
    studio = page.studio
    owned = [item for item in studio.gear if isinstance(item, Lens)]
    body = next((item for item in studio.gear if isinstance(item, Camera) and item.sensor_width), None)
    cards = [_framing_card(page, lens, body) for lens in owned if lens.focal and body]
    return {"shots": studio.shots, "lenses": owned, "cards": cards}


DISTANCES = (0.5, 0.75, 1.0, 1.5, 2.0, 2.5, 3.0, 4.0)


def _framing_card(page: Page, lens: Lens, body: Camera) -> dict[str, Any]:
    """Distance → what fits, what is sharp, and how wide a background must be a metre behind."""
    assert lens.focal is not None and body.sensor_width is not None and body.sensor_height is not None
    say, focal = page.say, lens.focal.value
    long, short = body.sensor_width.value, body.sensor_height.value
    stop = next((s.aperture.value for s in page.studio.shots if s.aperture), 8.0)
    blur = framing.blur_circle(long, short)
    rows = []
    for far in DISTANCES:
        if far < focal * 1.2 or (lens.nearest and far < lens.nearest.value):
            continue
        wide, high = framing.frame_at(far, focal, short), framing.frame_at(far, focal, long)
        near, end = framing.depth_of_field(focal, stop, far, blur)
        rows.append(
            {
                "far": say.length(far),
                "frame": f"{say.length(wide)} × {say.length(high)}",
                "sharp": "to the horizon" if math.isinf(end) else say.length(end - near),
                "ground": say.length(wide * (far + 1.0) / far),
                "value": (far, wide, high),
            }
        )
    return {
        "lens": lens,
        "rows": rows,
        "stop": f_words(stop),
        "fits": _what_fits(page, lens, body),
        "cone": _cone(rows),
    }


def _what_fits(page: Page, lens: Lens, body: Camera) -> list[tuple[str, str]]:
    """From how far each shot of the studio fills the frame."""
    assert lens.focal is not None and body.sensor_width is not None and body.sensor_height is not None
    found = []
    for shot in page.studio.shots:
        asked = wanted(shot)
        if asked is None:
            continue
        long, short = body.sensor_width.value, body.sensor_height.value
        across, up = (short, long) if shot.orientation == "portrait" else (long, short)
        far = max(
            framing.subject_distance(lens.focal.value, up, asked.height.value),
            framing.subject_distance(lens.focal.value, across, asked.width),
        )
        found.append((shot.name, page.say.length(far)))
    return found


def _cone(rows: list[dict[str, Any]]) -> list[tuple[float, float, float, str]]:
    """What the lens takes in, as bars at their distances: x, low, high (100 units a metre), label."""
    return [(r["value"][0] * 100, -r["value"][2] * 50, r["value"][2] * 50, r["far"]) for r in rows]


def shot_row(page: Page, shot_id: str) -> dict[str, Any]:
    studio, shot = page.studio, by_id(page.studio.shots, shot_id)
    if shot is None:
        return {"shot": None, "cells": []}
    parts = (studio.room, studio.brief, studio.gear, shot)
    cells = _LENSES.get("lenses", parts, partial(shot_by_lens, studio, shot))
    return {"shot": shot, "cells": [_cell_words(cell.fits, cell.worst, cell.binds, cell.proved) for cell in cells]}


def _cell_words(fits: bool, worst: float | None, words: str, proved: bool, margin: str = "") -> dict[str, str]:
    """A cell's verdict as a class, a word, the worst margin where there is one, and a sentence."""
    if not fits:
        said = "Cannot" if proved else "Not found in its time"
        return {"class": "short" if proved else "unknown", "word": said, "figure": "", "words": words}
    tight = worst is not None and worst <= 1
    return {
        "class": "tight" if tight else "clear",
        "word": "Just fits" if tight else "Fits",
        "figure": margin,
        "words": words,
    }


# --- rooms ---------------------------------------------------------------------------------------


def rooms(page: Page) -> dict[str, Any]:
    """Candidate rooms, and shot by room (rows come one by one)."""
    studio = page.studio
    drawn = []
    for key, name, room in [("", studio.room_name, studio.room), *((c.id, c.name, c.room) for c in studio.rooms)]:
        scene = Scene(room, studio.brief, Shot(id="none"), bare_scene(page).plan, {})
        drawn.append(
            {
                "id": key,
                "name": name,
                "drawing": room_sheet(scene, 300.0, 230.0),
                "target": f"rooms/{key}" if key else "",
            }
        )
    return {"rooms": drawn, "shots": studio.shots}


def room_cells(page: Page, shot_id: str) -> dict[str, Any]:
    studio, shot = page.studio, by_id(page.studio.shots, shot_id)
    if shot is None:
        return {"shot": None, "cells": []}
    parts = (studio.room, studio.rooms, studio.brief, studio.gear, shot)
    cells = _ROOMS.get("rooms", parts, partial(shot_by_room, studio, shot))
    return {
        "shot": shot,
        "cells": [_cell_words(cell.fits, cell.worst, cell.line, cell.proved, cell.margin) for cell in cells],
    }


# --- comparing -----------------------------------------------------------------------------------


def compare(page: Page) -> dict[str, Any]:
    """Two sets side by side with the change-over between them, and this plan against the others."""
    studio = page.studio
    sets = list(studio.sets)
    first_id, _, second_id = (page.part or "").partition("+")
    first = by_id(sets, first_id) or (sets[0] if sets else None)
    second = by_id(sets, second_id) or next((plan for plan in sets if first and plan.id != first.id), None)
    scenes = [scene_of(studio, plan) if plan else None for plan in (first, second)]
    change = changeover(scenes[0], scenes[1]) if scenes[0] and scenes[1] else None
    return {
        "sets": sets,
        "first": first,
        "second": second,
        "drawings": [plan_sheet(scene, 420.0, 320.0) if scene else "" for scene in scenes],
        "change": change,
        **_plans(page),
    }


def _plans(page: Page) -> dict[str, Any]:
    """Every plan of this studio with its counts, and line by line what differs from the one shown."""
    store = repository(page.request)
    keys = store.plans(page.revision.studio_id)
    here = {line.key: line for line in page.ledger.lines}
    others = []
    for key in keys:
        studio = store.newest(key).studio
        ledger = page.ledger if key == page.revision.studio_id else ledger_of(studio)
        counts = ", ".join(f"{ledger.count(v)} {v.value}" for v in Verdict if ledger.count(v))
        rows = [] if key == page.revision.studio_id else _differences(page, here, {m.key: m for m in ledger.lines})
        letter = split(key)[1].upper()
        others.append(
            {"key": key, "letter": letter, "here": key == page.revision.studio_id, "counts": counts, "rows": rows}
        )
    return {"plans": others}


def _differences(page: Page, here: dict[str, Margin], there: dict[str, Margin]) -> list[dict[str, str]]:
    """Lines whose verdict differs, or whose margin does by more than its ±; worst first."""
    rows = []
    for key in here.keys() | there.keys():
        one, other = here.get(key), there.get(key)
        if one and other and one.verdict is other.verdict and not _differ(one, other):
            continue
        line = one or other
        assert line is not None
        plan = by_id(page.studio.sets, line.set_id)
        title = f"{plan.name}: {line.title}" if plan else line.title
        rows.append((min(m.order() for m in (one, other) if m), title, _figure(page, one), _figure(page, other)))
    ranked = sorted(rows, key=lambda row: row[0])[:40]
    return [{"title": title, "one": a, "other": b} for _, title, a, b in ranked]


def _differ(one: Margin, other: Margin) -> bool:
    if one.margin is None or other.margin is None:
        return one.margin is not other.margin
    return abs(one.margin - other.margin) > max(one.uncertainty or 0.0, 1e-6)


def _figure(page: Page, line: Margin | None) -> str:
    if line is None:
        return "not judged"
    return (
        line.verdict.value if line.margin is None else f"{line.verdict.value} {page.say.margin(line.margin, line.unit)}"
    )


DESKS: dict[str, Callable[[Page], dict[str, Any]]] = {
    "survey": survey,
    "arrange": arranging,
    "lenses": lenses,
    "rooms": rooms,
    "compare": compare,
}
