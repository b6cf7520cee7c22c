"""Setting up and striking: steps in their order, and how long they take.

Minutes are common practice, no source: a stand 1, a light on it 2, a modifier 2, a background by its holder, camera
and tripod 2, a table 2, a lead 1, a weight ½. Beginners take three times as long.
"""

from collections.abc import Iterable
from dataclasses import dataclass

from evrant.core.base.tables.holders import HOLDERS
from evrant.core.space.scene import Scene
from evrant.core.studio.words import Say

BEGINNER = 3.0
STAND, HEAD, MODIFIER, LEAD, WEIGHT, CAMERA, TABLE, BOARD, TEST = 1.0, 2.0, 2.0, 1.0, 0.5, 2.0, 2.0, 1.0, 5.0
HANG = 3.0
STRUCK = 0.6
"""Taking something down takes this share of putting it up."""


@dataclass(frozen=True)
class Task:
    """One step: what is done, the things carried, and its minutes."""

    words: str
    minutes: float


def setting_up(scene: Scene) -> list[Task]:
    """Steps from the empty room to the first test frame."""
    return [
        *_doors(scene),
        *_ground(scene),
        *_surface(scene),
        *_lights(scene),
        *_camera(scene),
        Task("Take a test frame of each light, then of all", TEST),
    ]


def striking(scene: Scene) -> list[Task]:
    """Steps back: power first, heavy things last down, what goes in first taken first."""
    tasks = [task for task in setting_up(scene)[:-1] if not task.words.startswith("Mark")]
    first = Task("Switch all off, pull the plugs, let lamps cool", 2.0)
    return [first, *(Task(_undone(task.words), task.minutes * STRUCK) for task in reversed(tasks))]


UNDONE = (
    ("Stand up", "Fold"),
    ("Put ", "Take off "),
    ("Hang", "Take down"),
    ("Lay", "Roll up"),
    ("Set up", "Put away"),
)


def _undone(words: str) -> str:
    """A step the other way round."""
    for up, down in UNDONE:
        if words.startswith(up):
            return (down + words[len(up) :]).removesuffix(" on it")
    return words


def _doors(scene: Scene) -> Iterable[Task]:
    if scene.plan.doors != "used" and scene.room.doors:
        names = " and ".join(door.name.lower() for door in scene.room.doors)
        yield Task(f"Hang a sign on the {names}: {scene.plan.doors.removeprefix('stay ')} while we shoot", 0.5)


def _ground(scene: Scene) -> Iterable[Task]:
    say = Say.of(scene.brief)
    if scene.mark is not None:
        where = f"{say.length(float(scene.mark[0]))} from A, {say.length(float(scene.mark[1]))} off wall A–B"
        yield Task(f"Mark where the subject stands: {where}", 1.0)
    if scene.holder is not None:
        yield Task(f"Stand up the {scene.holder.called}", holding(scene.holder.system))
    if scene.backdrop is not None:
        yield Task(f"Hang the {scene.backdrop.called}", HANG)


def holding(system: str | None) -> float:
    """Minutes to put up what holds a background."""
    kind = HOLDERS.get(system or "")
    return 2.0 + (kind.minutes if kind else 4.0) / 2


def _surface(scene: Scene) -> Iterable[Task]:
    for prop in scene.plan.props:
        item = scene.gear.get(prop.item or "")
        if item is not None:
            yield Task(f"Set up the {item.called}", TABLE if item.kind == "table" else BOARD)
        stand = scene.gear.get(prop.support or "")
        if item is not None and stand is not None:
            yield Task(f"Stand up the {stand.called} for the {item.called}", STAND)
        if prop.hung:
            yield Task(f"Put {Say.of(scene.brief).mass(prop.hung)} of weight on it", WEIGHT)


def _lights(scene: Scene) -> Iterable[Task]:
    say = Say.of(scene.brief)
    for light in scene.lights:
        if light.stand is not None:
            words = f"Stand up the {light.stand.called} for the {light.name}"
            yield Task(words, STAND)
        if light.place.bag:
            yield Task(f"Put {say.mass(light.place.bag)} of weight on it", WEIGHT)
        if light.head is not None:
            yield Task(f"Put the {light.head.called} on it", HEAD)
        if light.modifier is not None:
            yield Task(f"Put the {light.modifier.called} on the {light.name}", MODIFIER)
        if light.place.lead:
            yield Task(f"Lay the {light.name}'s lead along the wall", LEAD)


def _camera(scene: Scene) -> Iterable[Task]:
    if scene.body is not None:
        on = scene.gear.get(scene.plan.camera.support or "")
        yield Task(f"Set up the camera{f' on the {on.called}' if on else ''}", CAMERA)


def minutes(tasks: Iterable[Task]) -> float:
    return sum(task.minutes for task in tasks)
