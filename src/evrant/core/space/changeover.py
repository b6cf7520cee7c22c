"""From one set to the next: what stays, what moves, what is exchanged, and how long it takes.

What stands in the room is taken thing by thing: lights, props and backgrounds of both sets are joined in pairs so
that the whole takes least (assignment), whatever they are called in each. Sets that stand together stand in the room
as one; from one of them to the other only people, camera and settings go over.

Minutes are common practice, no source: moving a stand 1, swapping a head or modifier 2, a stand 3, putting a light
up 3 and taking it away 1, a lens 1, another height or a bag ½, a setting 0.1 to 0.3.
"""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field
from typing import Literal, TypeVar

import numpy as np
from scipy.optimize import linear_sum_assignment

from evrant.core.base.tables.holders import HOLDERS, HolderKind
from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Vector
from evrant.core.studio.gear import Backdrop, Holder
from evrant.core.studio.sets import PropPlace
from evrant.core.studio.words import Say, f_words, power_words, time_words

SAME = 0.03
"""Places nearer than this share one tape mark [m]."""
TURNED = 3.0
"""Directions nearer than this are one [degrees]."""
What = Literal["stays", "moves", "swap", "set", "add", "take out"]
T = TypeVar("T")


@dataclass(frozen=True)
class Step:
    """One thing to do (or not to) between two sets."""

    what: What
    thing: str
    words: str
    minutes: float = 0.0
    here: Vector | None = field(default=None, compare=False)
    there: Vector | None = field(default=None, compare=False)
    """Plan places it leaves and comes to, where it has them [m]."""


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
    say = Say.of(first.brief)
    one, other = _state(first), _state(second)
    steps = [
        *_background(say, one, other),
        *_joined(one.props, other.props, _put_up, _put_away, lambda a, b: list(_prop(say, a, b))),
        *_furniture(say, first, second),
        *_moved(say, "mark", first.mark, second.mark, 0.5),
        *_joined(one.lights, other.lights, _stood_up, _taken_away, lambda a, b: list(_light(say, a, b))),
        *_camera(say, first, second),
        *_subject(say, first, second),
    ]
    return Changeover(tuple(steps), tuple(step.thing for step in steps if step.what == "stays"))


@dataclass(frozen=True)
class _Prop:
    """A thing of a set with its name."""

    place: PropPlace
    name: str


@dataclass(frozen=True)
class _Ground:
    """A background as it hangs: where (middle and direction), on what, how high."""

    line: tuple[Vector, Vector] | None
    holder: Holder | None
    backdrop: Backdrop | None
    height: float | None


@dataclass(frozen=True)
class _State:
    """What stands in the room for a set, those beside it counted."""

    grounds: tuple[_Ground, ...]
    lights: tuple[Light, ...] = field(default=())
    props: tuple[_Prop, ...] = field(default=())


def _state(scene: Scene) -> _State:
    every = (scene, *scene.beside)
    grounds = [_Ground(s.line, s.holder, s.backdrop, s.plan.background.height) for s in every]
    props = []
    for one in every:
        for place in one.plan.props:
            item = one.gear.get(place.item or "")
            props.append(_Prop(place, item.called if item else "thing"))
    hung = tuple(one for one in grounds if one.backdrop or one.holder)
    return _State(hung, tuple(light for s in every for light in s.lights), tuple(props))


def _joined(
    before: Sequence[T],
    after: Sequence[T],
    add: Callable[[T], Step],
    take: Callable[[T], Step],
    change: Callable[[T, T], list[Step]],
) -> list[Step]:
    """Steps for things joined in pairs so that all together take least; what finds no partner comes or goes."""
    rows, columns = len(before), len(after)
    if not rows and not columns:
        return []
    pairs = [[change(one, other) for other in after] for one in before]
    cost = np.full((rows + columns, rows + columns), 0.0)
    for i in range(rows):
        for j in range(columns):
            cost[i, j] = sum(step.minutes for step in pairs[i][j])
        cost[i, columns:] = take(before[i]).minutes
    for j in range(columns):
        cost[rows:, j] = add(after[j]).minutes
    steps: list[Step] = []
    for i, j in zip(*linear_sum_assignment(cost), strict=True):
        if i < rows and j < columns:
            steps += pairs[i][j]
        elif i < rows:
            steps.append(take(before[i]))
        elif j < columns:
            steps.append(add(after[j]))
    return steps


def _moved(say: Say, thing: str, here: Vector | None, there: Vector | None, minutes: float) -> Iterable[Step]:
    if here is None or there is None:
        return
    far = float(np.linalg.norm(there - here))
    if far <= SAME:
        yield Step("stays", thing, "on the same mark", here=here, there=there)
    else:
        yield Step("moves", thing, f"{say.length(far)}, to {_spot(say, there)}", minutes, here, there)


def _spot(say: Say, there: Vector) -> str:
    return f"{say.length(float(there[0]))} from A, {say.length(float(there[1]))} off wall A–B"


# --- background -----------------------------------------------------------------------------------


def _background(say: Say, before: _State, after: _State) -> list[Step]:
    return _joined(before.grounds, after.grounds, _hung, _taken_down, lambda a, b: list(_exchanged(say, a, b)))


def _kind(ground: _Ground) -> HolderKind | None:
    return HOLDERS.get(ground.holder.system or "") if ground.holder else None


def _named(ground: _Ground) -> str:
    return ground.backdrop.called if ground.backdrop else "background"


def _hung(ground: _Ground) -> Step:
    kind = _kind(ground)
    on = f" on the {ground.holder.called}" if ground.holder else ""
    stood = 2.0 + (kind.minutes if kind else 4.0) / 2 if ground.holder else 0.0
    return Step("add", _named(ground), f"hangs{on}" if on else "stands in the next set", stood + 3.0, there=_at(ground))


def _at(ground: _Ground) -> Vector | None:
    return ground.line[0] if ground.line else None


def _taken_down(ground: _Ground) -> Step:
    kind = _kind(ground)
    if kind is not None and kind.standing and ground.backdrop is not None and _rolls_up(ground):
        return Step("take out", _named(ground), "roll it up; what it hangs from stays", 1.0, _at(ground))
    stood = 1.2 + (kind.minutes if kind else 4.0) * 0.3 if ground.holder else 0.0
    return Step("take out", _named(ground), "not used in the next set", stood + 2.0, _at(ground))


def _rolls_up(ground: _Ground) -> bool:
    return bool(ground.backdrop and ground.backdrop.roll_diameter)


def _exchanged(say: Say, one: _Ground, other: _Ground) -> Iterable[Step]:
    """From one hung background to another."""
    same_holder = (one.holder.id if one.holder else None) == (other.holder.id if other.holder else None)
    same_paper = (one.backdrop.id if one.backdrop else None) == (other.backdrop.id if other.backdrop else None)
    stands = _stands_alike(one, other)
    if not same_holder:
        names = [ground.holder.called if ground.holder else "nothing" for ground in (one, other)]
        yield Step("swap", "holder", f"{names[0]} for {names[1]}", 8.0)
    elif not stands and one.line is not None and other.line is not None:
        words = f"to {_spot(say, other.line[0])}" if same_paper else f"with its holder, to {_spot(say, other.line[0])}"
        yield Step("moves", "background", words, 6.0 if other.holder else 1.5, one.line[0], other.line[0])
    elif same_paper and stands:
        yield Step("stays", "background", "on the same mark", here=_at(one), there=_at(other))
    if not same_paper:
        kind = _kind(other)
        hangs = same_holder and other.holder is not None and other.holder.rolls > 1
        how = "roll one up, let the next one down" if hangs else kind.exchange if kind else "change it"
        minutes = 1.0 if hangs else kind.minutes if kind else 5.0
        yield Step("swap", "background", f"{_named(one)} for {_named(other)}; {how}", minutes)
    if same_holder and one.height is not None and other.height is not None and abs(one.height - other.height) > SAME:
        yield Step("moves", "background's top", f"to {say.length(other.height)}", 1.0)


def _stands_alike(one: _Ground, other: _Ground) -> bool:
    """Whether both hang in one place."""
    if one.line is None or other.line is None:
        return one.line is other.line
    (here, way), (there, new) = one.line, other.line
    if abs(float(way @ new) - 1.0) > 1 - np.cos(np.radians(TURNED)):
        return False
    return float(np.linalg.norm(there - here)) <= SAME


# --- things and furniture ---------------------------------------------------------------------------


def _put_up(prop: _Prop) -> Step:
    return Step("add", prop.name, "stands in the next set", 1.0, there=_place(prop.place))


def _place(prop: PropPlace) -> Vector | None:
    return None if prop.x is None or prop.y is None else np.array([prop.x, prop.y])


def _put_away(prop: _Prop) -> Step:
    return Step("take out", prop.name, "not used in the next set", 0.5, _place(prop.place))


def _prop(say: Say, one: _Prop, other: _Prop) -> Iterable[Step]:
    if one.place.item != other.place.item:
        yield Step("swap", one.name, f"for the {other.name}", 1.6)
        return
    a, b = one.place, other.place
    if a.support != b.support:
        yield Step("swap", f"{one.name}'s stand", "what holds it", 1.0)
    if a.hung != b.hung:
        yield Step("set", f"{one.name}'s bag", say.mass(b.hung) if b.hung else "off", 0.5)
    yield from _moved(say, one.name, _place(a), _place(b), 0.5)
    if abs((a.turn - b.turn + 180) % 360 - 180) > TURNED or abs(a.tilt - b.tilt) > TURNED:
        yield Step("moves", one.name, f"turn it to {b.turn:.0f}°" + (f", tilt {b.tilt:.0f}°" if b.tilt else ""), 0.3)
    if a.height is not None and b.height is not None and abs(a.height - b.height) > SAME:
        yield Step("moves", f"{one.name}'s height", f"underside to {say.length(b.height)}", 0.5)


def _furniture(say: Say, first: Scene, second: Scene) -> Iterable[Step]:
    before, after = ({one.box: one for one in scene.plan.aside} for scene in (first, second))
    for box in first.room.boxes:
        one, other = before.get(box.id), after.get(box.id)
        if one is other or (one and other and (one.x, one.y) == (other.x, other.y)):
            continue
        if other is None:
            words = "back to where it lives"
        elif other.x is None or other.y is None:
            words = "out of the room"
        else:
            words = f"to {_spot(say, np.array([other.x, other.y]))}"
        yield Step("moves", box.name.lower(), words, 2.0)


# --- lights -----------------------------------------------------------------------------------------


def _stood_up(light: Light) -> Step:
    return Step("add", light.name, _made_of(light), 3.0, there=_under(light))


def _taken_away(light: Light) -> Step:
    return Step("take out", light.name, f"{_made_of(light)}: not used in the next set", 1.0, _under(light))


def _under(light: Light) -> Vector | None:
    return None if light.at is None else light.at[:2]


def _made_of(light: Light) -> str:
    parts = [item.called for item in (light.head, light.modifier, light.stand) if item]
    return " with ".join(parts[:2]) + (f" on {parts[2]}" if len(parts) > 2 else "") if parts else "nothing chosen yet"


def _light(say: Say, one: Light, other: Light) -> list[Step]:
    """From a light as it stands to another made of the same or other parts."""
    name = one.name if one.name == other.name else f"{one.name} as {other.name}"
    here, there = one.at, other.at
    steps = list(_moved(say, name, _under(one), _under(other), 1.0))
    if here is not None and there is not None and abs(float(here[2] - there[2])) > SAME:
        steps.append(Step("moves", f"{name}'s height", f"to {say.length(float(there[2]))}", 0.5))
    elif _aim_differs(one, other):
        steps.append(Step("set", f"{name}'s aim", "aim it anew", 0.2))
    steps += _remade(name, one, other) + _set_anew(say, name, one, other)
    work = [step for step in steps if step.what != "stays"]
    return work or steps[:1]


def _aim_differs(one: Light, other: Light) -> bool:
    if one.forward is None or other.forward is None:
        return False
    return bool(one.forward @ other.forward < np.cos(np.radians(TURNED)))


def _remade(name: str, one: Light, other: Light) -> list[Step]:
    """What a light is made of, part by part."""
    steps = []
    for part, minutes in (("head", 2.0), ("modifier", 2.0), ("stand", 3.0)):
        was, now = getattr(one, part), getattr(other, part)
        if (was.id if was else None) == (now.id if now else None):
            continue
        words = f"{was.called} for {now.called}" if was and now else f"put on {now.called}" if now else ""
        steps.append(Step("swap", name, words or f"take off {was.called}", minutes if was and now else minutes / 2))
    a, b = one.place, other.place
    if a.heads != b.heads:
        steps.append(Step("swap", name, f"{b.heads} heads in it", 1.0 * abs(a.heads - b.heads)))
    for field_, on, off in (("gridded", "grid on", "grid off"), ("gel", "change the gel", "gel off")):
        if getattr(a, field_) != getattr(b, field_):
            steps.append(Step("set", name, on if getattr(b, field_) else off, 0.3))
    if a.diffusers != b.diffusers:
        steps.append(Step("set", name, f"{b.diffusers} further layer{'' if b.diffusers == 1 else 's'}", 0.3))
    return steps


def _set_anew(say: Say, name: str, one: Light, other: Light) -> list[Step]:
    """Bag, boom, lead and power."""
    a, b = one.place, other.place
    steps = []
    if (a.bag or 0.0) != (b.bag or 0.0):
        steps.append(Step("set", f"{name}'s bag", say.mass(b.bag) if b.bag else "off", 0.5))
    if (a.boom_length or 0.0) != (b.boom_length or 0.0) or (a.counterweight or 0.0) != (b.counterweight or 0.0):
        weight = f", counterweight {say.mass(b.counterweight)}" if b.counterweight else ""
        out = f"out to {say.length(b.boom_length)}" if b.boom_length else "off"
        steps.append(Step("set", f"{name}'s boom", out + weight, 1.0))
    if (a.socket, a.lead, a.lead_on) != (b.socket, b.lead, b.lead_on) and other.head is not None:
        steps.append(Step("set", f"{name}'s lead", "lay it anew", 0.5))
    if b.power is not None and a.power != b.power:
        steps.append(Step("set", f"{name}'s power", f"to {power_words(b.power)}", 0.2))
    return steps


# --- camera and subject -----------------------------------------------------------------------------


def _camera(say: Say, first: Scene, second: Scene) -> Iterable[Step]:
    one, other = first.plan.camera, second.plan.camera
    yield from _moved(say, "camera", first.camera_spot, second.camera_spot, 0.5)
    if first.body and second.body and first.body.id != second.body.id:
        yield Step("swap", "camera", f"{first.body.called} for {second.body.called}", 1.0)
    if first.lens and second.lens and first.lens.id != second.lens.id:
        yield Step("swap", "lens", f"{first.lens.called} for {second.lens.called}", 1.0)
    if one.support != other.support:
        held = second.gear.get(other.support or "")
        yield Step("swap", "camera", f"onto the {held.called}" if held else "off its support", 1.5)
    if first.overhead != second.overhead:
        yield Step("swap", "camera", "look straight down" if second.overhead else "look ahead again", 3.0)
    if first.shot.orientation != second.shot.orientation:
        yield Step("swap", "camera", f"turn it to {second.shot.orientation}", 0.2)
    high, then = first.lens_height, second.lens_height
    if high is not None and then is not None and abs(high - then) > SAME:
        yield Step("moves", "lens height", f"to {say.length(then)}", 0.3)
    zoomed = first.lens is not None and second.lens is not None and first.lens.id == second.lens.id
    if zoomed and first.focal and second.focal and abs(first.focal.value - second.focal.value) > 5e-4:
        yield Step("set", "zoom", f"to {say.focal(second.focal.value)}", 0.1)
    yield from _settings(first, second)


def _settings(first: Scene, second: Scene) -> Iterable[Step]:
    a, b = first.shot, second.shot
    if b.aperture is not None and (a.aperture is None or a.aperture.value != b.aperture.value):
        yield Step("set", "aperture", f_words(b.aperture.value), 0.1)
    if b.iso is not None and a.iso != b.iso:
        yield Step("set", "ISO", str(b.iso), 0.1)
    if b.shutter is not None and a.shutter != b.shutter:
        yield Step("set", "shutter", time_words(b.shutter), 0.1)
    if a.dark_filter != b.dark_filter:
        words = f"{b.dark_filter:g} stops on the lens" if b.dark_filter else "off the lens"
        yield Step("set", "neutral filter", words, 0.3)
    if a.capture != b.capture:
        yield Step("set", "camera", f"to {b.capture}", 0.2)
    if a.around != b.around:
        words = {"dark": "darken the room", "room lamps on": "room lamps on, windows dark"}.get(b.around, b.around)
        yield Step("set", "room's own light", words, 0.5)


def _subject(say: Say, first: Scene, second: Scene) -> Iterable[Step]:
    """Who is in the picture changes of itself; what they sit or stand on does not."""
    if first.shot.subjects and second.shot.subjects and abs(first.surface - second.surface) > SAME:
        yield Step("moves", "subject", f"onto {say.length(second.surface)}" if second.surface else "on the floor", 0.5)
