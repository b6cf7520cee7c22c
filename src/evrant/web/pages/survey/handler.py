"""Measuring step by step."""

from dataclasses import dataclass

from evrant.core.edits.paths import find
from evrant.core.space.survey import Ask, answered, asks, next_open
from evrant.drawing.sheet import room_sheet
from evrant.drawing.sketch import sketch
from evrant.web.context import Page
from evrant.web.forms import Shown, fields
from evrant.web.parts import NEW_THINGS, Card, bare_scene, card
from evrant.web.registry import Context, PageSpec


@dataclass(frozen=True)
class Question(Context):
    """What its template shows."""

    ask: Ask
    fields: list[Shown]
    shape: str
    corners: list[tuple[float, float]]
    things: list[Card]
    one: str
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
    return Question(
        ask=here,
        fields=shown,
        shape=studio.room.footprint.kind if studio.room.footprint else "",
        corners=[(c.x.value, c.y.value) for c in getattr(studio.room.footprint, "corners", ())],
        things=[card(page, f"room/{here.list}/{t.id}", t) for t in getattr(studio.room, here.list)]
        if here.list
        else [],
        one=NEW_THINGS[here.list][0] if here.list else "",
        before=ids[at - 1] if at else None,
        after=ids[at + 1] if at + 1 < len(ids) else None,
        done=done,
        of=of,
        drawing=drawing,
    )


SPEC = PageSpec("survey", survey, under="room", part=True)
