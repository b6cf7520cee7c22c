"""Arrange for me: sets a search finds, or what stands in the way."""

import time
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from fastapi import APIRouter, Request, Response

from evrant.core.base.margins import Margin
from evrant.core.base.memo import Memo
from evrant.core.edits.language import EDIT, Add, Edit, together
from evrant.core.judge.completing import complete
from evrant.core.judge.rules.rule import Proposal
from evrant.core.place.patterns import named
from evrant.core.search.arrange.changes import Help, possible_with
from evrant.core.search.arrange.search import Found, Result, arrange
from evrant.core.space.scene import Scene, gear_of
from evrant.core.studio.sets import SetPlan
from evrant.core.studio.shots import Shot
from evrant.core.studio.studio import Studio, by_id
from evrant.drawing.sheet import plan_sheet
from evrant.web.context import Page, render, repository
from evrant.web.naming import free_id, slug
from evrant.web.registry import Context, PageSpec
from evrant.web.show import page_of

router = APIRouter()

CHANGE = "Change: "
"""How a change that makes a shot possible begins in the history."""
_RESULTS: Memo[Result] = Memo(8_000_000, lambda result: 60_000)
_CHANGES: Memo[Help] = Memo(4_000_000, lambda found: 40_000)


@dataclass(frozen=True)
class Arranging(Context):
    """What its template shows."""

    shot: Shot | None
    shots: tuple[Shot, ...]


def arranging(page: Page) -> Arranging:
    """The shots to arrange, and the one that is being arranged."""
    studio = page.studio
    shot = by_id(studio.shots, page.part) or (studio.shots[0] if studio.shots else None)
    page.part = shot.id if shot else None
    return Arranging(
        shot=shot,
        shots=studio.shots,
    )


def _result(studio: Studio, shot: Shot) -> Result:
    parts = (studio.room, studio.brief, studio.gear, shot)
    return _RESULTS.get("arrange", parts, lambda: arrange(studio, shot, clock=time.perf_counter))


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
    return Scene(studio.room, studio.brief, shot, found.plan, gear_of(studio))


def _drawn(page: Page, studio: Studio, shot: Shot, found: Found) -> str:
    return plan_sheet(_scene(studio, shot, found), 330.0, 260.0)


def _offered(page: Page, studio: Studio, shot: Shot, found: Found, set_id: str) -> dict[str, Any]:
    scene = _scene(studio, shot, found)
    name = f"{shot.name}, {_way(scene)}"[:80]
    plan = found.plan.changed(id=set_id, name=name)
    whole = _taken(studio, plan)
    used = [item.name for item in (scene.lens, scene.backdrop, scene.holder) if item]
    return {
        "drawing": plan_sheet(scene, 330.0, 260.0),
        "name": name,
        "id": set_id,
        "edit": EDIT.dump_python(whole.edit, mode="json"),
        "besides": whole.label,
        "lines": [_said(page, line) | {"word": line.verdict.value} for line in found.judged.lines[:2]],
        "used": used,
        "pattern": named(scene),
    }


def _taken(studio: Studio, plan: SetPlan, first: Sequence[Edit] = (), label: str = "") -> Proposal:
    """A set put into the studio after other edits, with what it takes besides, told in the label."""
    add = Add(list="sets", item=plan.model_dump(mode="json", exclude_none=True))
    edit = together((*first, add), label) if first else add
    whole = complete(studio, plan.id, Proposal(label, edit))
    return replace(whole, label=whole.label.removeprefix("; "))


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


def _help(studio: Studio, shot: Shot) -> Help:
    """What would make a shot possible. That nothing was found in the time is not remembered: asked again, when less is
    going on, it is searched for again."""
    nearest = _result(studio, shot).nearest
    binding = [line.code for line in nearest.judged.short] if nearest else []
    parts = (studio.room, studio.brief, studio.gear, shot)

    def search() -> Help:
        return possible_with(studio, shot, binding=binding, clock=time.perf_counter)

    known = _CHANGES.look("possible", parts, search)
    found = search() if known is None else known[0]
    return _CHANGES.keep("possible", parts, found) if found.found or found.complete else found


def possible_changes(page: Page, shot_id: str) -> dict[str, Any]:
    """The smallest changes that make the shot possible, each with one edit that makes it and takes the set."""
    studio, shot = page.studio, by_id(page.studio.shots, shot_id)
    if shot is None:
        return {"changes": [], "shot": None, "complete": True}
    found = _help(studio, shot)
    taken = list(studio.sets)
    offers = []
    for one in found.found:
        set_id = free_id(taken, slug(f"{shot.id}-set"))
        plan = one.found.plan.changed(id=set_id, name=f"{shot.name}, with a change"[:80])
        label = one.change.label[:1].upper() + one.change.label[1:]
        whole = _taken(studio, plan, one.change.edits, f"{CHANGE}{label}")
        line = one.found.judged.lines[0]
        offers.append(
            {
                "label": whole.label.removeprefix(CHANGE),
                "edit": EDIT.dump_python(whole.edit, mode="json"),
                "line": _said(page, line) | {"word": line.verdict.value},
            }
        )
    return {"changes": offers, "shot": shot, "complete": found.complete}


@router.get("/studios/{studio_id}/arrange/{shot_id}/found")
def found(request: Request, studio_id: str, shot_id: str) -> Response:
    """The sets a search finds for a shot, or the nearest miss; asked for once the page stands."""
    page = page_of(request, repository(request).newest(studio_id), f"arrange/{shot_id}")
    return render("pages/arrange/found.html", page, **found_sets(page, shot_id))


@router.get("/studios/{studio_id}/arrange/{shot_id}/possible")
def possible(request: Request, studio_id: str, shot_id: str) -> Response:
    """What would make a shot possible, each verified by a search of its own."""
    page = page_of(request, repository(request).newest(studio_id), f"arrange/{shot_id}")
    return render("pages/arrange/possible.html", page, **possible_changes(page, shot_id))


SPEC = PageSpec("arrange", arranging, under="shots", part=True, router=router)
