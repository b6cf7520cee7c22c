"""From one set to the next: what stays, what moves, what is exchanged, and how long it takes.

Minutes are common practice, no source: moving a stand 1, swapping a modifier 2, a lens 1, another height ½.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

import numpy as np

from evrant.core.base.tables.holders import HOLDERS
from evrant.core.space.scene import Light, Scene
from evrant.core.space.solids import Vector
from evrant.core.studio.words import Say, power_words

SAME = 0.03
"""Places nearer than this share one tape mark [m]."""
What = Literal["stays", "moves", "swap", "add", "take out"]


@dataclass(frozen=True)
class Step:
    """One thing to do (or not to) between two sets."""

    what: What
    thing: str
    words: str
    minutes: float = 0.0


@dataclass(frozen=True)
class Changeover:
    """All steps between two sets, and the tape marks they share."""

    steps: tuple[Step, ...]
    shared: tuple[str, ...]

    @property
    def minutes(self) -> float:
        return sum(step.minutes for step in self.steps)

    @property
    def work(self) -> tuple[Step, ...]:
        return tuple(step for step in self.steps if step.what != "stays")


def changeover(first: Scene, second: Scene) -> Changeover:
    """What to do to get from the first set to the second."""
    steps = [
        *_places(first, second),
        *_camera(first, second),
        *_background(first, second),
        *_lights(first, second),
        *_props(first, second),
    ]
    return Changeover(tuple(steps), tuple(step.thing for step in steps if step.what == "stays"))


def _moved(say: Say, thing: str, here: Vector | None, there: Vector | None, minutes: float) -> Iterable[Step]:
    if here is None or there is None:
        return
    far = float(np.linalg.norm(there - here))
    if far <= SAME:
        yield Step("stays", thing, "on the same mark")
    else:
        yield Step(
            "moves",
            thing,
            f"{say.length(far)}, to {say.length(float(there[0]))} from A, {say.length(float(there[1]))} off wall A–B",
            minutes,
        )


def _places(first: Scene, second: Scene) -> Iterable[Step]:
    yield from _moved(Say.of(first.brief), "mark", first.mark, second.mark, 0.5)


def _camera(first: Scene, second: Scene) -> Iterable[Step]:
    say = Say.of(first.brief)
    yield from _moved(say, "camera", first.camera_spot, second.camera_spot, 0.5)
    if first.lens and second.lens and first.lens.id != second.lens.id:
        yield Step("swap", "lens", f"{first.lens.called} for {second.lens.called}", 1.0)
    if first.shot.orientation != second.shot.orientation:
        yield Step("swap", "camera", f"turn it to {second.shot.orientation}", 0.2)
    if (
        first.lens_height is not None
        and second.lens_height is not None
        and abs(first.lens_height - second.lens_height) > SAME
    ):
        yield Step("moves", "lens height", f"to {say.length(second.lens_height)}", 0.3)


def _background(first: Scene, second: Scene) -> Iterable[Step]:
    say = Say.of(first.brief)
    one, other = first.line, second.line
    yield from _moved(say, "background", one[0] if one else None, other[0] if other else None, 6.0)
    if first.holder and second.holder and first.holder.id != second.holder.id:
        yield Step("swap", "holder", f"{first.holder.called} for {second.holder.called}", 8.0)
    if first.backdrop and second.backdrop and first.backdrop.id != second.backdrop.id:
        kind = HOLDERS.get(second.holder.system or "") if second.holder else None
        how = f"; {kind.exchange}" if kind else ""
        yield Step(
            "swap",
            "background",
            f"{first.backdrop.called} for {second.backdrop.called}{how}",
            kind.minutes if kind else 5.0,
        )
    high, then = first.plan.background.height, second.plan.background.height
    if high is not None and then is not None and abs(high - then) > SAME:
        yield Step("moves", "background's top", f"to {say.length(then)}", 1.0)


def _lights(first: Scene, second: Scene) -> Iterable[Step]:
    say = Say.of(first.brief)
    before = {light.place.id: light for light in first.lights}
    after = {light.place.id: light for light in second.lights}
    for key, light in before.items():
        if key not in after:
            yield Step("take out", light.name, "not used in the next set", 1.0)
    for key, light in after.items():
        if key not in before:
            yield Step("add", light.name, _made_of(light), 3.0)
            continue
        yield from _light(say, before[key], light)


def _made_of(light: Light) -> str:
    parts = [item.called for item in (light.head, light.modifier, light.stand) if item]
    return " with ".join(parts[:2]) + (f" on {parts[2]}" if len(parts) > 2 else "") if parts else "nothing chosen yet"


def _light(say: Say, one: Light, other: Light) -> Iterable[Step]:
    yield from _moved(
        say, one.name, None if one.at is None else one.at[:2], None if other.at is None else other.at[:2], 1.0
    )
    if one.at is not None and other.at is not None and abs(float(one.at[2] - other.at[2])) > SAME:
        yield Step("moves", f"{one.name}'s height", f"to {say.length(float(other.at[2]))}", 0.5)
    for name, minutes in (("head", 2.0), ("modifier", 2.0), ("stand", 3.0)):
        was, now = getattr(one, name), getattr(other, name)
        if was and now and was.id != now.id:
            yield Step("swap", one.name, f"{was.called} for {now.called}", minutes)
    if one.place.power != other.place.power and other.place.power is not None:
        yield Step("swap", f"{one.name}'s power", f"to {power_words(other.place.power)}", 0.2)


def _props(first: Scene, second: Scene) -> Iterable[Step]:
    say = Say.of(first.brief)
    before = {prop.item: prop for prop in first.plan.props}
    after = {prop.item: prop for prop in second.plan.props}
    for key in before.keys() | after.keys():
        item = first.gear.get(key or "")
        name = item.called if item else "thing"
        if key not in after:
            yield Step("take out", name, "not used in the next set", 0.5)
        elif key not in before:
            yield Step("add", name, "stands in the next set", 0.5)
        else:
            one, other = before[key], after[key]
            here = None if one.x is None or one.y is None else np.array([one.x, one.y])
            there = None if other.x is None or other.y is None else np.array([other.x, other.y])
            yield from _moved(say, name, here, there, 0.5)
