"""Is everything there that the pattern wished for is made of? Code light.pattern_parts."""

from collections import Counter
from collections.abc import Iterable, Iterator

from evrant.core.base.estimate import Estimate
from evrant.core.base.margins import Basis, Line, Margin, judge
from evrant.core.edits.language import Light as LightEdit
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import Proposal, SetRule
from evrant.core.light.hours import open_windows
from evrant.core.place.patterns import PATTERNS, Recipe, fires_back, named
from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import Board, Lamp, Tent
from evrant.core.studio.shots import Pattern
from evrant.core.studio.studio import Studio

PARTS = Line(
    "light.pattern_parts",
    "What … is made of",
    "parts",
    Basis(
        "every light, scrim, tent, shape or window that the pattern is made of is in the set",
        "Patterns by their lights are common practice, no source",
        "common practice",
    ),
    asks="Is every light and scrim of the pattern in the set?",
    step="light",
    goes=True,
)
WINDOW: Pattern = "window and reflector"


def margins(scene: Scene) -> Iterable[Margin]:
    """One line where something of the pattern is missing; where there is no light at all another says so."""
    wish = scene.shot.pattern
    by_day = "daylight" in scene.shot.around and bool(open_windows(scene))
    if wish is None or not (scene.lights or by_day or wish == WINDOW):
        return
    lacks = list(_lacks(scene, wish, by_day))
    if not lacks:
        return
    now = named(scene)
    made = f" Now it is: {now}." if now not in ("", wish) else ""
    yield judge(
        PARTS,
        (f"{scene.path}/pattern", f"shots/{scene.shot.id}"),
        Estimate(-float(len(lacks))),
        title=f"What {wish} is made of",
        need=float(len(lacks)),
        have=0.0,
        clear="",
        short=f"For {wish} there is no {' and no '.join(lacks)}.",
        reason=f"It is made of {PATTERNS[wish].says}.{made}",
    )


def _lacks(scene: Scene, wish: Pattern, by_day: bool) -> Iterator[str]:
    """What is missing, in words that follow "no"."""
    recipe = PATTERNS[wish]
    ground = [light for light in scene.lights if light.place.role == "background light"]
    front = [light for light in scene.lights if light.place.role != "background light"]
    yield from _roles(recipe, [light for light in front if not fires_back(scene, light)], by_day)
    behind = sum(beam.aim == "background" for beam in recipe.beams)
    if len(ground) < behind:
        yield "light on the background" if not ground else "second light on the background"
    if any(beam.aim == "lens" for beam in recipe.beams) and not any(_is_ring(light) for light in front):
        yield "ring round the lens"
    if any(beam.aim == "corner" for beam in recipe.beams) and not any(fires_back(scene, one) for one in front):
        yield "head to send back into wall and ceiling"
    if wish == "gobo" and ground and not any(_form(light) == "gobo holder" for light in ground):
        yield "shape in the light on the background"
    things = [scene.gear.get(prop.item or "") for prop in scene.plan.props]
    if wish == "tent" and not any(isinstance(item, Tent) for item in things):
        yield "tent"
    if any(card.surface == "translucent" for card in recipe.cards) and not any(
        isinstance(item, Board) and item.surface == "translucent" for item in things
    ):
        yield "scrim"
    if wish == WINDOW and not by_day:
        yield "window that lets daylight in"


def _roles(recipe: Recipe, front: list[Light], by_day: bool) -> Iterator[str]:
    """Roles of the pattern before and beside the subject that no light has, where there are too few lights; by day the
    window is one of them."""
    beams = [beam for beam in recipe.beams if beam.aim == "face"]
    few = len(beams) - len(front) - (by_day and not front)
    lack = Counter(beam.role for beam in beams) - Counter(light.place.role for light in front)
    short = sorted(lack.elements(), key=lambda role: role in ("key", "fill"))
    least = int("practical" in lack and not any(light.place.role == "practical" for light in front))
    for role in short[: max(few, least)]:
        yield role if not any(light.place.role == role for light in front) else f"second {role}"


def _form(light: Light) -> str | None:
    return light.modifier.form if light.modifier else None


def _is_ring(light: Light) -> bool:
    return light.place.role == "ring light" or _form(light) == "ring" or _lamp_form(light) == "ring"


def _lamp_form(light: Light) -> str | None:
    return light.head.form if isinstance(light.head, Lamp) else None


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """The pattern placed with what the kit has; what the lights make asked for instead."""
    wish = scene.shot.pattern if scene is not None else None
    if scene is None or wish is None:
        return
    if scene.axis is not None and scene.mark is not None and PATTERNS[wish].beams:
        for side in ("left", "right"):
            edit = LightEdit(target=scene.path, pattern=wish, side=side)
            yield Proposal(f"Place {wish} from the subject's {side}", edit)
    now, shot = named(scene), f"shots/{scene.shot.id}"
    if now in PATTERNS and now != wish:
        yield Proposal(f"Ask for {now}", SetFields(target=shot, fields={"pattern": now}))
    if wish == WINDOW and "daylight" not in scene.shot.around and open_windows(scene):
        yield Proposal("Let the daylight in", SetFields(target=shot, fields={"around": "daylight"}))


RULE = SetRule("pattern parts", margins, (PARTS,), propose)
