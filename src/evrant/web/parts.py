"""What several pages show: cards, the drawing of a set, panels of a strip."""

import math
from dataclasses import dataclass
from datetime import UTC, date, datetime
from typing import Any

from evrant.core.base.margins import Margin
from evrant.core.base.memo import Memo
from evrant.core.base.model import Model
from evrant.core.light.emission import Missing
from evrant.core.light.lit import lit
from evrant.core.space.scene import Scene, scene_of
from evrant.core.studio.sets import LightPlace, SetPlan
from evrant.core.studio.shots import Shot
from evrant.core.studio.studio import by_id
from evrant.drawing.layout import turn_of
from evrant.drawing.light import LightSheet
from evrant.drawing.sheet import HEIGHT, WIDTH, sheet
from evrant.store.revisions import NotFound
from evrant.web.context import Page
from evrant.web.forms import Shown, fields
from evrant.web.hashed import hashed_once
from evrant.web.timing import span

MOVING_ROWS, RESTING_ROWS = 56, 96
"""Rows of the shaded bust while something moves, and at rest."""
_DRAWN: Memo[str] = Memo(24_000_000, lambda drawn: 400 + len(drawn))
NEW_THINGS: dict[str, tuple[str, dict[str, Any]]] = {
    "doors": ("door", {"name": "Door"}),
    "windows": ("window", {"name": "Window"}),
    "circuits": ("circuit", {"name": "Circuit"}),
    "sockets": ("socket", {"name": "Socket"}),
    "appliances": ("thing that draws power", {"name": "Heater"}),
    "boxes": ("piece of furniture or fixture", {"name": "Furniture"}),
    "places": ("storage place", {"name": "Cupboard"}),
    "passages": ("turn or door on the way in", {"name": "Stair turn"}),
    "slopes": ("slope", {"name": "Slope"}),
    "rails": ("rail or tube to hang from", {"name": "Rail"}),
    "zones": ("zone to keep free", {"name": "Desk and screen"}),
    "diagonals": ("diagonal", {}),
}
TITLES = {
    "doors": "Doors",
    "windows": "Windows",
    "circuits": "Circuits",
    "sockets": "Sockets",
    "appliances": "What else runs on the circuits",
    "boxes": "Furniture, radiators, beams, lamps",
    "places": "Where things are stowed",
    "passages": "Turns and doors that long things must get through",
    "slopes": "Sloped ceilings",
    "rails": "Rails, tubes and rods to hang from",
    "zones": "Floor that must stay free",
    "diagonals": "Diagonals, to check the corners",
}
RARE = (
    "boom",
    "boom_length",
    "aim_x",
    "aim_y",
    "aim_height",
    "arm",
    "arm_length",
    "lower_by",
    "wall",
    "lands",
    "radius",
    "tilt",
    "joint",
    "ring",
    "leg",
    "bag",
    "bag_at",
    "counterweight",
    "fixing_load",
    "socket",
    "lead",
    "lead_on",
    "unrolled",
    "covered",
    "microphone",
    "tether",
    "tether_to",
    "tether_covered",
    "group",
)
"""Fields of a set that few sets need: folded away until one of them is filled."""


@dataclass(frozen=True)
class Card:
    """A thing with its fields."""

    target: str
    name: str
    fields: list[Shown]

    @property
    def id(self) -> str:
        """Of its element."""
        return "card-" + self.target.replace("/", "-")


@dataclass(frozen=True)
class Panel:
    """A part of the strip under a drawing: fields, rare ones folded away, and a word about it."""

    key: str
    word: str
    target: str
    fields: tuple[Shown, ...]
    more: tuple[Shown, ...] = ()
    removable: bool = False
    note: str = ""

    def __hash__(self) -> int:
        return hashed_once(self)


def card(page: Page, target: str, model: Model, *also: Shown, **choice: Any) -> Card:
    """A thing with its fields, and others after them."""
    return Card(target, getattr(model, "name", ""), [*fields(page.studio, target, model, **choice), *also])


def bare_scene(page: Page) -> Scene:
    """The room alone, as a set with nothing in it."""
    return Scene(
        page.studio.room, page.studio.brief, Shot(id="none"), SetPlan(id="none", name="the room", shot="none"), {}
    )


def drawing_of(page: Page, turn: float | None = None, *, judged: bool = True) -> str:
    """The sheet of the page's set, for the size its window has; not `judged`, it marks nothing Short."""
    plan = by_id(page.studio.sets, page.set_id)
    scene = scene_of(page.studio, plan) if plan else None
    if scene is None:
        return ""
    size = sheet_size(page)
    lines = page.ledger.of_set(scene.plan.id) if judged else ()
    rows = MOVING_ROWS if turn is not None else RESTING_ROWS
    light = rows if page.name == "light" else 0
    angle = round(turn_of(scene) if turn is None else turn, 6)
    studio = page.studio
    parts = (studio.room, studio.brief, scene.shot, scene.plan, studio.gear, *scene.parts_beside, *lines)
    with span(page.request, "drawing"):
        return _DRAWN.get(f"{size} {angle} {light}", parts, lambda: _drawn(scene, lines, size, angle, light))


def _drawn(scene: Scene, lines: tuple[Margin, ...], size: tuple[float, float], turn: float, light: int) -> str:
    """A set's sheet, with so many rows of the shaded bust where it is about light (0: it is not)."""
    if not light:
        return sheet(scene, lines, *size, turn)
    state = lit(scene)
    over = None if isinstance(state, Missing) else LightSheet(state, light)
    return sheet(scene, [m for m in lines if m.code.startswith("light.")], *size, turn, over)


def sheet_size(page: Page) -> tuple[float, float]:
    """Size the browser has for the sheet, from its cookie; the usual size until it has told."""
    raw = page.request.cookies.get("evrant_sheet", "")
    try:
        width, height = (float(part) for part in raw.split("x"))
    except ValueError:
        return WIDTH, HEIGHT
    if not (math.isfinite(width) and math.isfinite(height)):
        return WIDTH, HEIGHT
    return min(max(width, 320.0), 3000.0), min(max(height, 320.0), 2400.0)


def set_of(page: Page) -> tuple[SetPlan, Scene | None]:
    plan = by_id(page.studio.sets, page.set_id)
    if plan is None:
        raise NotFound("There is no such set.")
    return plan, scene_of(page.studio, plan)


def panel(page: Page, key: str, word: str, target: str, model: Any, names: tuple[str, ...]) -> Panel:
    return Panel(key, word, target, tuple(fields(page.studio, target, model, only=names)))


def named_light(plan: SetPlan, light: LightPlace) -> str:
    """What a light is called: its role, or its own name where others have the same role."""
    alone = sum(one.role == light.role for one in plan.lights) == 1
    return light.role.capitalize() if alone else light.id.replace("-", " ").capitalize()


def cell_words(fits: bool, worst: float | None, words: str, proved: bool, margin: str = "") -> dict[str, str]:
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


def today() -> date:
    return datetime.now(UTC).date()
