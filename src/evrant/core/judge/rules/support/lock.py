"""Does the lock of an arm hold what is on it? Code support.lock."""

from collections.abc import Iterable, Mapping

from evrant.core.base.estimate import estimate_over
from evrant.core.base.margins import Basis, Line, Margin, judge, unknown
from evrant.core.base.quantity import Figure
from evrant.core.base.tables.supports import GRAVITY, GRIP_FACTOR
from evrant.core.base.units import show_number
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import GEOMETRY, Proposal, SetRule
from evrant.core.mechanics.supports import counterweight_of, joint_of
from evrant.core.space.booms import boom_out
from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import Item, Stand
from evrant.core.studio.room import value
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say

LOCK = Line(
    "support.lock",
    "Lock of the arm of the …",
    "N·m",
    Basis(
        "g · |load × arm + boom × (arm − tail) / 2 − counterweight × tail| ≤ what the lock holds / 2",
        "Moments about the pivot, any engineering handbook; the factor of two on what holds by grip is a project "
        "choice; where no figure is entered the maker's load drawn out speaks for the lock too",
        "computed",
    ),
    asks="Does an arm's lock hold light or camera where it is drawn out to?",
    step="support",
    safety=True,
    hazards=("Tipping and falling",),
)
LOCKED = frozenset({"wall boom", "copy arm"})
"""Arms that hold level by their lock; a boom on a stand is balanced instead."""


def margins(scene: Scene) -> Iterable[Margin]:
    """A line for every arm whose lock is entered."""
    for light in scene.lights:
        stand, out = light.stand, boom_out(light)
        if stand is None or out is None or stand.use not in LOCKED or stand.grip is None:
            continue
        things: list[tuple[Item | None, int]] = [
            (light.head, light.place.heads),
            (light.modifier, 1),
            (joint_of(scene, light), 1),
        ]
        carried: list[tuple[Item, int]] = [(item, count) for item, count in things if item is not None]
        yield _held(scene, light.path, light.name, stand, out[1], carried, counterweight_of(light))
    support = scene.gear.get(scene.plan.camera.support or "")
    if scene.overhead and isinstance(support, Stand) and support.use in LOCKED and support.grip is not None:
        drawn = scene.plan.camera.arm_length
        far = drawn if drawn is not None else value(support.reach) or 0.0
        both: list[tuple[Item, int]] = [(item, 1) for item in (scene.body, scene.lens) if item is not None]
        weight = value(support.counterweight) or 0.0
        yield _held(scene, f"{scene.path}/camera", "camera", support, far, both, weight)


def _held(
    scene: Scene, path: str, name: str, stand: Stand, far: float, carried: list[tuple[Item, int]], weight: float
) -> Margin:
    title, say = f"Lock of the arm of the {name}", Say.of(scene.brief)
    lacks = next((item for item, _ in carried if item.mass is None), None)
    if lacks is not None or stand.boom_mass is None or stand.grip is None:
        what = "The mass of" if lacks is not None else "The mass of the arm of"
        item: Item = lacks if lacks is not None else stand
        return unknown(
            LOCK,
            (f"gear/{item.id}", path),
            f"{what} the {item.called} is missing.",
            "Weigh it, or read it off the data sheet. Until then hang nothing over people.",
            title=title,
        )
    inputs: dict[str, Figure | float] = {" lock": stand.grip, " arm": stand.boom_mass, " tail": stand.tail or 0.0}
    inputs |= {item.id: item.mass for item, _ in carried if item.mass is not None}
    called = {" lock": "what the lock holds", " arm": "mass of the arm", " tail": "length of its tail"}
    called |= {item.id: f"mass of the {item.called}" for item, _ in carried}

    def spare(values: Mapping[str, float]) -> float:
        load = sum(values[item.id] * count for item, count in carried)
        own = values[" arm"] * (far - values[" tail"]) / 2
        return values[" lock"] / GRIP_FACTOR - GRAVITY * abs(load * far + own - weight * values[" tail"])

    found = estimate_over(spare, inputs, called.__getitem__)
    need = stand.grip.value / GRIP_FACTOR - found.value
    return judge(
        LOCK,
        (path,),
        found,
        title=title,
        need=need,
        have=stand.grip.value / GRIP_FACTOR,
        clear=f"The lock of the arm holds the {name} with a factor of two.",
        short=f"The {name} may turn the {stand.called} in its lock.",
        reason=f"Drawn out to {say.length(far)} it turns with {show_number(need, 1)} N m; the lock holds "
        f"{show_number(stand.grip.value, 0)} N m.",
    )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """The arm drawn in until its lock holds it."""
    if scene is None or not margin.need or not margin.have:
        return
    path = margin.about[-1]
    light: Light | None = scene.light_at(path)
    field, stand = ("boom_length", light.stand) if light else ("arm_length", scene.gear.get(_camera_support(scene)))
    drawn = light.place.boom_length if light else scene.plan.camera.arm_length
    far = drawn or (value(stand.reach) if isinstance(stand, Stand) else None)
    if far is not None and far * margin.have / margin.need > 0.1:
        shorter = int(far * margin.have / margin.need * 95) / 100
        words = f"Draw the arm in to {Say.of(scene.brief).length(shorter)}"
        yield Proposal(words, SetFields(target=path, fields={field: shorter}))


def _camera_support(scene: Scene) -> str:
    return scene.plan.camera.support or ""


RULE = SetRule("lock", margins, (LOCK,), propose, reads=GEOMETRY)
