"""Does the stand under a boom arm carry arm, counterweight and light? Code support.column."""

from collections.abc import Iterable, Mapping

from evrant.core.base.estimate import estimate_over
from evrant.core.base.margins import Basis, Line, Margin, judge, unknown
from evrant.core.base.quantity import Figure
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import GEOMETRY, Proposal, SetRule
from evrant.core.mechanics.supports import counterweight_of, joint_of
from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene
from evrant.core.space.stands import ARM
from evrant.core.studio.gear import Stand
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say

COLUMN = Line(
    "support.column",
    "Load on the stand under the arm of the …",
    "kg",
    Basis(
        "mass of arm, counterweight, joint, head and modifier ≤ what the stand carries",
        "Maker's figure as entered",
        "declared",
    ),
    asks="Does the stand under a boom arm carry all of it: arm, counterweight and light?",
    step="support",
    safety=True,
    fails=True,
    hazards=("Tipping and falling",),
    mark="load",
)


def margins(scene: Scene) -> Iterable[Margin]:
    """A line for every light on a boom arm."""
    for light in scene.lights:
        arm = scene.gear.get(light.place.support or "")
        if isinstance(arm, Stand) and arm.use == ARM:
            yield _carried(scene, light, arm)


def _carried(scene: Scene, light: Light, arm: Stand) -> Margin:
    title, say, column = f"Load on the stand under the arm of the {light.name}", Say.of(scene.brief), light.column
    if column is None:
        return unknown(
            COLUMN,
            (light.path,),
            f"The {arm.called} of the {light.name} stands on nothing yet.",
            "Choose the stand it is put on; its feet and what it carries decide.",
            title=title,
        )
    joint = joint_of(scene, light)
    things = [(arm, 1), (light.head, light.place.heads), (light.modifier, 1), (joint, 1)]
    carried = [(item, count) for item, count in things if item is not None]
    lacks = next((item for item, _ in carried if item.mass is None), None)
    if column.load is None or lacks is not None:
        item = lacks or column
        what = f"What the {column.called} carries is not entered."
        return unknown(
            COLUMN,
            (f"gear/{item.id}", light.path),
            what if lacks is None else f"The mass of the {lacks.called} is missing.",
            "Look for the figure on the box, or weigh it. Until then hang nothing over people.",
            title=title,
        )
    weight = counterweight_of(light)
    inputs: dict[str, Figure | float] = {"": column.load}
    inputs |= {item.id: item.mass for item, _ in carried if item.mass is not None}
    called = {"": "what the stand carries", **{item.id: f"mass of the {item.called}" for item, _ in carried}}

    def spare(values: Mapping[str, float]) -> float:
        return values[""] - weight - sum(values[item.id] * count for item, count in carried)

    found = estimate_over(spare, inputs, called.__getitem__)
    whole = column.load.value - found.value
    ballast = f", {say.mass(weight)} of counterweight" if weight else ""
    names = ", ".join(item.called if count == 1 else f"{count} × {item.called}" for item, count in carried)
    return judge(
        COLUMN,
        (light.path,),
        found,
        title=title,
        need=whole,
        have=column.load.value,
        clear=f"The {column.called} carries the arm with all that is on it.",
        short=f"The {column.called} is too weak for the arm with all that is on it.",
        reason=f"{names[:1].upper()}{names[1:]}{ballast}: {say.mass(whole)}; it takes {say.mass(column.load.value)}.",
    )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """The arm on another stand of the kit."""
    light = scene.light_at(margin.about[-1]) if scene is not None else None
    if light is None:
        return
    for item in studio.gear:
        stands = isinstance(item, Stand) and item.use in ("light stand", "rolling stand")
        if stands and item.id != light.place.stands_on:
            yield Proposal(f"Put it on the {item.called}", SetFields(target=light.path, fields={"stands_on": item.id}))


RULE = SetRule("column", margins, (COLUMN,), propose, reads=GEOMETRY)
