"""The desk of a set: drawing, strip and ledger."""

from dataclasses import dataclass

from evrant.core.base.model import Model
from evrant.core.base.tables.holders import HOLDERS
from evrant.core.place.patterns import PATTERNS
from evrant.core.studio.gear import Board, Holder
from evrant.core.studio.sets import SetPlan
from evrant.core.studio.shots import Shot
from evrant.core.studio.studio import by_id
from evrant.web.context import Page
from evrant.web.forms import Shown, fields
from evrant.web.parts import (
    RARE,
    Panel,
    drawing_of,
    set_of,
)
from evrant.web.registry import Context, PageSpec


@dataclass(frozen=True)
class SetDesk(Context):
    """What its template shows."""

    plan: SetPlan
    shot: Shot | None
    drawing: str
    panels: list[Panel]
    patterns: list[tuple[str, str]]
    movable: bool


def set_page(page: Page) -> SetDesk:
    studio = page.studio
    plan, _ = set_of(page)
    panels: list[Panel] = []

    def panel(
        key: str,
        word: str,
        target: str,
        model: Model,
        removable: bool = False,
        note: str = "",
        without: tuple[str, ...] = (),
    ) -> None:
        usual, rare = fields(studio, target, model, leave=(*RARE, *without)), fields(studio, target, model, only=RARE)
        panels.append(Panel(key, word, target, tuple(usual), tuple(rare), removable, note))

    path = f"sets/{plan.id}"
    panel("mark", "Mark", f"{path}/mark", plan.mark)
    panel("camera", "Camera", f"{path}/camera", plan.camera)
    panel("background", "Background", f"{path}/background", plan.background, note=_exchange(page, plan))
    for light in plan.lights:
        panel(f"lights-{light.id}", plan.name_of(light).capitalize(), f"{path}/lights/{light.id}", light, True)
    for prop in plan.props:
        item = by_id(studio.gear, prop.item)
        without = () if item is None or isinstance(item, Board) else ("support",)
        word = item.name if item else "Thing"
        panel(f"props-{prop.id}", word, f"{path}/props/{prop.id}", prop, True, without=without)
    for person in plan.people:
        panel(f"people-{person.id}", person.name, f"{path}/people/{person.id}", person, True)
    for aside in plan.aside:
        box = by_id(studio.room.boxes, aside.box)
        panel(f"aside-{aside.id}", f"{box.name if box else 'Furniture'} aside", f"{path}/aside/{aside.id}", aside, True)
    panel("set", "Set", path, plan, True)
    panels.append(Panel("shot", "Shot", f"shots/{plan.shot}", tuple(_shot_fields(page, plan))))
    movable = any(box.moves != "stays" for box in studio.room.boxes)
    shot = by_id(studio.shots, plan.shot)
    return SetDesk(
        plan=plan,
        shot=shot,
        drawing=drawing_of(page),
        panels=panels,
        patterns=[(name, recipe.says) for name, recipe in PATTERNS.items()],
        movable=movable,
    )


def _exchange(page: Page, plan: SetPlan) -> str:
    """How another background takes this one's place, for the holder chosen."""
    holder = by_id(page.studio.gear, plan.background.holder)
    kind = HOLDERS.get(holder.system or "") if isinstance(holder, Holder) else None
    if kind is None:
        return ""
    standing = "the set stays up" if kind.standing else "the set must come down for it"
    return f"Another background: {kind.exchange}; about {kind.minutes:.0f} min, {standing}."


def _shot_fields(page: Page, plan: SetPlan) -> list[Shown]:
    shot = by_id(page.studio.shots, plan.shot)
    names = (
        "orientation",
        "angle",
        "aperture",
        "iso",
        "shutter",
        "background_gap",
        "frame_height",
        "crop",
        "blur",
        "pattern",
    )
    return fields(page.studio, f"shots/{plan.shot}", shot, only=names) if shot else []


SPEC = PageSpec("set", set_page, drawing=drawing_of, word="Set", order=3, of_set="sets")
