"""Measuring step by step."""

from dataclasses import dataclass

from evrant.core.base.tables.finishes import PAINTS
from evrant.core.edits.paths import find
from evrant.core.space.survey import Ask, answered, asks, next_open
from evrant.core.studio.room import Finish, Wall
from evrant.core.studio.studio import Studio
from evrant.drawing.sheet import room_sheet
from evrant.drawing.sketch import sketch
from evrant.web.context import Page
from evrant.web.forms import Shown, fields, specs
from evrant.web.parts import NEW_THINGS, Card, bare_scene, card
from evrant.web.registry import Context, PageSpec, Row


@dataclass(frozen=True)
class Question(Context):
    """What its template shows."""

    ask: Ask
    fields: list[Shown]
    laser: list[Shown]
    shape: str
    corners: list[tuple[float, float]]
    things: list[Card]
    one: str
    paints: dict[str, tuple[float, str]]
    made: tuple[str, ...]
    surfaces: list[Row]
    picked: str
    before: str | None
    after: str | None
    done: int
    of: int
    drawing: str


def survey(page: Page) -> Question:
    """One question of the measuring order with the drawing as far as it goes."""
    studio = page.studio
    questions = asks(studio.room)
    ids = [ask.id for ask in questions]
    here = questions[ids.index(page.part)] if page.part in ids else (next_open(questions, "") or questions[-1])
    edited = page.request.method == "POST" and page.request.url.path.endswith("/edits")
    alone = here.kind in ("shape", "made") or len(here.fields) == 1 or here.id == "paint"
    if edited and alone and here.done:
        here = next_open(questions, here.id) or here
    page.part = here.id
    turn = [ask.id for ask in questions if not ask.aside or ask is here]
    at = turn.index(here.id)
    shown = []
    if here.fields:
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
    return Question(
        ask=here,
        fields=shown,
        laser=[one for one in shown if one.spec.show == "length" and one.spec.quantity is not None],
        shape=studio.room.footprint.kind if studio.room.footprint else "",
        corners=[(c.x.value, c.y.value) for c in getattr(studio.room.footprint, "corners", ())],
        things=[card(page, f"room/{here.list}/{t.id}", t) for t in getattr(studio.room, here.list)]
        if here.list
        else [],
        one=NEW_THINGS[here.list][0] if here.list else "",
        paints=PAINTS,
        made=next(spec.options for spec in specs(Wall) if spec.name == "construction"),
        surfaces=[
            {"id": f"paint-{wall.id}", "name": wall.name, "colour": wall.finish.colour, "is": _painted(wall.finish)}
            for wall in studio.room.walls
        ]
        if here.id == "paint"
        else [],
        picked=_picked(studio, here),
        before=turn[at - 1] if at else None,
        after=turn[at + 1] if at + 1 < len(turn) else None,
        done=done,
        of=of,
        drawing=drawing,
    )


def _painted(finish: Finish) -> str:
    """The usual paint a finish is, a paint card's value, or nothing."""
    if finish.lrv is None:
        return ""
    usual = next((n for n, (lrv, colour) in PAINTS.items() if (lrv, colour) == (finish.lrv.value, finish.colour)), None)
    return usual or f"LRV {finish.lrv.value:.0f}"


def _picked(studio: Studio, here: Ask) -> str:
    """The paint or material all surfaces asked about have now."""
    if here.kind == "made":
        said: set[str] = {str(wall.construction or "") for wall in studio.room.walls}
    elif here.kind == "finish" and here.target == "walls":
        said = {_painted(wall.finish) for wall in studio.room.walls}
    elif here.kind == "finish":
        finish = find(studio, here.target)
        said = {_painted(finish)} if isinstance(finish, Finish) else set()
    else:
        return ""
    return said.pop() if len(said) == 1 else ""


SPEC = PageSpec("survey", survey, under="room", part=True)
