"""Is there a wall or a ceiling where a light's bracket or arm is screwed to it? Code support.anchor."""

from collections.abc import Iterable

from evrant.core.base.estimate import Estimate
from evrant.core.base.margins import PLACED_BOTH, Basis, Line, Margin, judge, unknown
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import GEOMETRY, Proposal, SetRule
from evrant.core.place.hanging import HANGS, hung_light, moves_of
from evrant.core.space.anchors import ANCHORED, ARM_AT_WALL, ON_CEILING, Anchor, anchor_of, points_nowhere
from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say

ANCHOR = Line(
    "support.anchor",
    "What the … is screwed to",
    "m",
    Basis(
        "distance from wall or ceiling ≤ the bracket's reach as entered, 30 cm where its data sheet is silent; an arm "
        "ends within 5 cm of a wall, beside its doors and windows",
        "Plane geometry; the 30 cm are common practice, no source",
        "common practice",
    ),
    asks="Is there a wall or a ceiling where a light's bracket or arm is screwed to it?",
    step="support",
    safety=True,
    search="placed",
    fails=True,
    hazards=("Tipping and falling", "Load overhead"),
    mark="anchor",
)


def margins(scene: Scene) -> Iterable[Margin]:
    """A line for each light on a bracket or a wall's arm."""
    for light in scene.lights:
        if light.stand is None or light.stand.use not in ANCHORED or light.mount is None:
            continue
        title, about = f"What the {light.name} is screwed to", (light.path,)
        found = anchor_of(scene, light)
        if points_nowhere(light):
            words = f"In which direction the {light.name}'s arm reaches its wall is not said."
            yield unknown(ANCHOR, about, words, "Turn it to a wall, and draw it out that far.", title=title)
        elif found is None:
            what = "ceiling" if light.stand.use == ON_CEILING else "walls"
            words = f"Where the {what} would be for the {light.name} is not known."
            yield unknown(ANCHOR, ("room", light.path), words, f"Measure the room's {what}.", title=title)
        else:
            yield _line(scene, light, found, title)


def _line(scene: Scene, light: Light, found: Anchor, title: str) -> Margin:
    assert light.stand is not None
    say, called = Say.of(scene.brief), light.stand.called
    name, gap = found.name.lower(), say.length(max(found.gap, 0.0))
    reason = f"The {light.name} is {gap} from the {name}; the {called} bridges {say.length(found.bridges)}."
    if light.stand.use == ARM_AT_WALL:
        reason = f"The arm ends {gap} from the {name}, and has to end at it."
    short = f"The {light.name} is screwed to nothing: the {name} is too far away."
    spare = found.spare
    if found.opening:
        spare = min(spare, -found.bridges)
        short = f"Where the {light.name} would be screwed to the wall is the {found.opening}."
        reason = f"The place is {say.length(float(found.spot[2]))} up the {name}."
    return judge(
        ANCHOR,
        (light.path, found.path),
        Estimate(spare, found.shares),
        title=title,
        need=found.gap,
        have=found.gap + spare,
        clear=f"The {name} is where the {light.name}'s {called} needs it.",
        short=short,
        reason=reason,
        at=(float(found.spot[0]), float(found.spot[1]), float(found.spot[2])),
        placing=PLACED_BOTH if spare < 0 else 0.0,
    )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """The arm turned to the nearest wall and drawn out to it, or the light put where its bracket can be."""
    light = scene.light_at(margin.about[-1]) or scene.light_at(margin.about[0]) if scene is not None else None
    if scene is None or light is None or light.stand is None or light.stand.use not in HANGS:
        return
    fields = moves_of(light.place, hung_light(scene, light))
    if fields:
        arm = light.stand.use == ARM_AT_WALL
        label = "Turn the arm to the nearest wall" if arm else "Put it where its bracket can be"
        yield Proposal(label, SetFields(target=light.path, fields=fields))


RULE = SetRule("anchor", margins, (ANCHOR,), propose, order=0, place_order=0, reads=GEOMETRY)
