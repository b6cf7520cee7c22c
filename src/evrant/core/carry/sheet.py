"""The set-up sheet of a set: every setting, every place, and the steps in the order they are done.

The order is the trade's: floor cleared and doors, background, mark, tables, camera, key, the other lights, leads and
bags, then the tests. What takes two is said, and how one manages alone.
"""

import math
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field

import numpy as np

from evrant.core.base.tables.holders import HOLDERS
from evrant.core.base.tables.supports import FEETLESS
from evrant.core.carry.expected import Trial, trials_of
from evrant.core.carry.marks import Mark, clock, marks
from evrant.core.log.calibrate import Calibration
from evrant.core.search.order import aim_words, powers_of
from evrant.core.sound.heard import pickup_of
from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Vector
from evrant.core.stowage.striking import BEGINNER, BOARD, CAMERA, HEAD, LEAD, MODIFIER, STAND, TABLE, WEIGHT, striking
from evrant.core.studio.studio import by_id
from evrant.core.studio.words import Say, f_words, time_words
from evrant.core.wiring.feeds import fed
from evrant.core.wiring.floor import need_of

OVERHEAD, WIDE = 1.9, 2.0
"""A head higher than that on a boom, and a background wider than that, take two people [m]; common practice, no
source."""
TRIAL = 1.5
TWO, ALONE = "One holds, one locks.", "Weight on first, fit the head with the boom low, then raise it."
LIFT, LIFT_ALONE = "Two lift it together.", "Both stands low, roll on, then one end up a step at a time."
Pair = tuple[str, str]


@dataclass(frozen=True)
class Step:
    """One thing to do: its name for good, what stage it belongs to, what to do in a few lines, and its minutes."""

    key: str
    stage: str
    title: str
    lines: tuple[str, ...]
    minutes: float
    two: str = ""
    alone: str = ""
    """What takes two people in it, and how one manages it alone."""
    mark: Mark | None = None
    trial: Trial | None = None


@dataclass(frozen=True)
class LightRow:
    """A light's settings, each as its name and words."""

    name: str
    path: str
    settings: tuple[Pair, ...]


@dataclass(frozen=True)
class Sheet:
    """All of it."""

    name: str
    camera: tuple[Pair, ...]
    room: tuple[Pair, ...]
    lights: tuple[LightRow, ...]
    marks: tuple[Mark, ...]
    leads: tuple[Pair, ...]
    steps: tuple[Step, ...]
    strike: tuple[Step, ...]
    missing: tuple[str, ...] = field(default=())

    def minutes(self, practised: bool = False) -> float:
        """From the empty room to the last test frame; three times as long for beginners."""
        return sum(step.minutes for step in self.steps) * (1 if practised else BEGINNER)


def sheet_of(scene: Scene, known: Calibration) -> Sheet:
    """The sheet of one set."""
    say = Say.of(scene.brief)
    placed = {mark.key: mark for mark in marks(scene)}
    rows = tuple(_light_row(scene, light, say) for light in scene.lights)
    steps = tuple(_steps(scene, known, placed, rows, say))
    missing = [f"The {light.name} has no place yet." for light in scene.lights if light.at is None]
    if scene.walls is None:
        missing.append("The room has no outline yet: there is nothing to measure tape marks from.")
    if scene.mark is None:
        missing.append("The mark has no place yet.")
    if scene.camera_spot is None:
        missing.append("The camera has no place yet.")
    return Sheet(
        scene.plan.name,
        tuple(_camera_rows(scene, say)),
        tuple(_room_rows(scene)),
        rows,
        tuple(placed.values()),
        tuple(_leads(scene, say)),
        steps,
        tuple(_strike(scene)),
        tuple(missing),
    )


def _camera_rows(scene: Scene, say: Say) -> Iterator[Pair]:
    shot = scene.shot
    if scene.body is not None:
        yield "camera", scene.body.name
    if scene.lens is not None:
        focal = say.focal(scene.focal.value) if scene.focal else ""
        yield "lens", f"{scene.lens.name}{f', set to {focal}' if scene.lens.focal_long and focal else ''}"
    if scene.lens_height is not None:
        yield "lens height", say.length(scene.lens_height)
    if shot.angle:
        yield "looks down", f"{shot.angle:.0f}°"
    if scene.camera_spot is not None and scene.mark is not None and not scene.overhead:
        yield "from the mark", say.length(float(np.linalg.norm(scene.camera_spot - scene.mark)))
    yield "held", shot.orientation
    if shot.aperture is not None:
        yield "aperture", f_words(shot.aperture.value)
    if shot.iso is not None:
        yield "ISO", str(shot.iso)
    if shot.shutter is not None:
        yield "shutter", time_words(shot.shutter)
    if shot.dark_filter:
        yield "neutral filter", f"{shot.dark_filter:g} stops"
    if shot.capture == "video" and shot.frames:
        yield "frames a second", shot.frames
    yield "white balance", _balance(scene)


def _balance(scene: Scene) -> str:
    if scene.shot.balance == "automatic":
        return "automatic"
    key = next((one for one in scene.lights if one.place.role == "key" and one.head is not None), None)
    kelvin = key.head.kelvin if key is not None and key.head is not None else None
    gel = scene.gear.get(key.place.gel or "") if key is not None else None
    if kelvin is None or gel is not None:
        return "fixed, from the grey card"
    return f"fixed at {kelvin.value:.0f} K, or from the grey card"


def _room_rows(scene: Scene) -> Iterator[Pair]:
    if scene.plan.doors != "used" and scene.room.doors:
        yield "doors", f"{' and '.join(door.name for door in scene.room.doors)}: {scene.plan.doors}, with a sign"
    around = {
        "dark": "draw the curtains and switch the room's lamps off",
        "room lamps on": "leave the room's lamps on, keep daylight out",
        "daylight": "open to daylight, the room's lamps off",
        "daylight and room lamps": "open to daylight, the room's lamps on",
    }[scene.shot.around]
    yield "the room's light", around
    for window in scene.room.windows:
        if window.blackout != "not needed":
            yield window.name, "blackout before it"
        elif window.cover:
            yield window.name, f"{window.cover} drawn"
    for aside in scene.plan.aside:
        box = by_id(scene.room.boxes, aside.box)
        if box is not None:
            yield box.name, "out of the room" if aside.x is None else "moved to its place for this set"


def _light_row(scene: Scene, light: Light, say: Say) -> LightRow:
    return LightRow(light.name, light.path, tuple(_light_settings(scene, light, say)))


def _light_settings(scene: Scene, light: Light, say: Say) -> Iterator[Pair]:
    place = light.place
    if light.head is not None:
        many = f"{place.heads} × " if place.heads > 1 else ""
        yield "head", f"{many}{light.head.name}"
    power = powers_of(scene).get(light.path)
    if power:
        yield "power", power
    yield from _fitted(scene, light)
    if light.at is not None:
        yield "height of its middle", say.length(float(light.at[2]))
        if scene.face is not None:
            yield f"from {scene.shot.lit_part}", say.length(float(np.linalg.norm(light.at - scene.face)))
        hour = clock(scene, light.at)
        if hour is not None:
            yield "seen from the mark", f"at {hour} o’clock, the camera being at 12"
        yield from _aimed(scene, light)
    if light.stand is not None:
        yield "on", light.stand.name
    if place.boom is not None and place.boom_length is not None:
        yield "boom drawn out", say.length(place.boom_length)
    if place.counterweight:
        yield "counterweight", say.mass(place.counterweight)
    if place.bag:
        yield "bag", f"{say.mass(place.bag)} {place.bag_at}"
    if place.group:
        yield "radio group", place.group


def _fitted(scene: Scene, light: Light) -> Iterator[Pair]:
    place = light.place
    if light.modifier is not None:
        yield "modifier", light.modifier.name
    if place.gridded or (light.modifier is not None and light.modifier.grid):
        yield "grid", "on"
    if place.diffusers:
        yield "further layers", str(place.diffusers)
    gel = scene.gear.get(place.gel or "")
    if gel is not None:
        yield "gel", gel.name


def _aimed(scene: Scene, light: Light) -> Iterator[Pair]:
    """Tilt by the level, turn by the nearest wall."""
    if light.forward is None:
        return
    yield "tilt", aim_words(light.forward)
    flat = np.asarray(light.forward)[:2]
    long = float(np.linalg.norm(flat))
    if long < 0.17 or scene.walls is None:
        return
    flat = flat / long
    names = scene.room.edges(scene.walls.count)
    best = max(range(scene.walls.count), key=lambda i: float(-scene.walls.inward(i) @ flat))  # type: ignore[union-attr]
    turn = math.degrees(math.acos(max(-1.0, min(1.0, float(-scene.walls.inward(best) @ flat)))))
    if turn < 4:
        yield "turned", f"straight at the {names[best].name}"
        return
    start, end = scene.walls.wall(best)
    way = (end - start) / np.linalg.norm(end - start)
    side = "right" if float(way @ flat) < 0 else "left"
    # With the back to the room a wall runs from right to left in the order of the corners.
    yield "turned", f"at the {names[best].name}, {turn:.0f}° to the {side} of square"


def _leads(scene: Scene, say: Say) -> Iterator[Pair]:
    for one in fed(scene):
        names = " into ".join(lead.name for lead in one.leads) or "its own lead"
        if one.found is None:
            yield one.light.name, f"{names}; no way from a socket is known"
            continue
        route = one.found.route
        way = f"{say.length(route.along)} along the wall" if route.along > 0.05 else ""
        if route.open > 0.05:
            way += f"{', then ' if way else ''}{say.length(route.open)} over the floor"
        over = ", taped down or under a cover where people walk" if one.found.crosses else ""
        need = say.length(need_of(scene, one.light, one.found))
        yield one.light.name, f"{names} from the {one.found.socket.name}: {way}{over}; {need} needed"


def _steps(
    scene: Scene, known: Calibration, placed: dict[str, Mark], rows: tuple[LightRow, ...], say: Say
) -> Iterator[Step]:
    yield _clear(scene)
    yield from _background(scene, placed, say)
    if scene.mark is not None:
        front = "its front to the camera"
        yield Step(
            "mark",
            "Mark",
            "Tape the mark",
            (f"A cross on the floor, {front}.", *_to_tape(placed.get("mark"), say)),
            1.0,
            mark=placed.get("mark"),
        )
    yield from _tables(scene, placed, say)
    yield from _camera(scene, placed, say)
    yield from _microphone(scene, say)
    order = sorted(zip(scene.lights, rows, strict=True), key=lambda pair: pair[0].place.role != "key")
    for light, row in order:
        yield _stand_up(scene, light, row, placed, say)
    leads = tuple(_leads(scene, say))
    if leads:
        words = tuple(f"{name}: {what}." for name, what in leads)
        yield Step("leads", "Leads", "Lay the leads", (*words, "Plug in last; no drum rolled up."), LEAD * len(leads))
    for trial in trials_of(scene, known):
        yield Step(trial.key, "Test", trial.title, tuple(_trial_lines(trial)), TRIAL, trial=trial)


def _clear(scene: Scene) -> Step:
    lines = [f"{name}: {what}." for name, what in _room_rows(scene)]
    lines.append("Clear the floor and the way out; phones, keys and coats on a table.")
    return Step("clear", "Before", "Make the room ready", tuple(lines), 2.0)


def _to_tape(mark: Mark | None, say: Say) -> list[str]:
    """A tape mark in words, or nothing where it has none."""
    if mark is None:
        return []
    far = (f"{say.length(one.distance)} from {_the(one.wall)}" for one in (mark.first, mark.second))
    return [f"{', '.join(far)}.", f"Check: {say.length(mark.diagonal)} to corner {mark.corner}."]


def _the(wall: str) -> str:
    return f"the {wall}" if wall[:1].islower() or not wall.lower().startswith("wall") else wall[:1].lower() + wall[1:]


def _background(scene: Scene, placed: dict[str, Mark], say: Say) -> Iterator[Step]:
    if scene.backdrop is None or scene.bare_wall is not None:
        return
    left, right = placed.get("background-left"), placed.get("background-right")
    lines = [f"Left end: {words}" for words in _to_tape(left, say)[:1]]
    lines += [f"Right end: {words}" for words in _to_tape(right, say)[:1]]
    top = scene.plan.background.height
    if top is not None:
        lines.append(f"Its top edge at {say.length(top)}.")
    if scene.lands == "on the floor":
        lines.append("Run it out in a curve, not a fold, and tape its front edge.")
    bag = scene.plan.background.bag
    if bag:
        lines.append(f"{say.mass(bag)} on each stand before it goes up.")
    kind = HOLDERS.get(scene.holder.system or "") if scene.holder else None
    minutes = 3.0 + (2.0 + (kind.minutes if kind else 4.0) / 2 if scene.holder else 0.0)
    wide = scene.backdrop.width is not None and scene.backdrop.width.value > WIDE
    two = (LIFT, LIFT_ALONE) if wide else ("", "")
    on = f" on the {scene.holder.called}" if scene.holder else ""
    yield Step("background", "Background", f"Hang the {scene.backdrop.called}{on}", tuple(lines), minutes, *two)


def _tables(scene: Scene, placed: dict[str, Mark], say: Say) -> Iterator[Step]:
    for place in scene.plan.props:
        item = scene.gear.get(place.item or "")
        if item is None:
            continue
        lines = _to_tape(placed.get(f"prop-{place.id}"), say)
        stand = scene.gear.get(place.support or "")
        if stand is not None:
            lines.append(f"Held by the {stand.called}, by its middle.")
        if place.hung:
            lines.append(f"{say.mass(place.hung)} low on its column.")
        if place.height is not None:
            lines.append(f"Its underside at {say.length(place.height)}.")
        if place.tilt:
            lines.append(f"Tilted forward by {place.tilt:.0f}°.")
        if place.turn:
            lines.append(f"Turned by {place.turn:.0f}° against the first wall.")
        minutes = TABLE if item.kind == "table" else BOARD
        minutes += (STAND if stand is not None else 0.0) + (WEIGHT if place.hung else 0.0)
        mark = placed.get(f"prop-{place.id}")
        yield Step(
            f"prop-{place.id}", "Tables and cards", f"Set up the {item.called}", tuple(lines), minutes, mark=mark
        )


def _camera(scene: Scene, placed: dict[str, Mark], say: Say) -> Iterator[Step]:
    rows = list(_camera_rows(scene, say))
    if not rows or scene.body is None:
        return
    on = scene.gear.get(scene.plan.camera.support or "")
    lines = [*_to_tape(placed.get("camera"), say), *(f"{name}: {what}" for name, what in rows if name != "camera")]
    if scene.plan.camera.tether:
        lines.append("Cable to the computer, with its stopper on the tripod.")
    title = f"Set up the camera{f' on the {on.called}' if on else ''}"
    yield Step("camera", "Camera", title, tuple(lines), CAMERA, mark=placed.get("camera"))


def _microphone(scene: Scene, say: Say) -> Iterator[Step]:
    """The microphone where sound counts, and how it is listened to."""
    pickup = pickup_of(scene) if scene.shot.sound else None
    if pickup is None:
        return
    lines = [f"{pickup.words}, {say.length(pickup.distance)} from the mouth.".capitalize()]
    if pickup.nearest is not None and pickup.place is None:
        lines.append("Lower it until it shows at the picture's upper edge, then raise it a hand.")
    if not pickup.item.wireless and pickup.item.form not in ("on the camera", "earphones"):
        lines.append("Its cable along the stand and round the way people walk, a stopper at the camera.")
    lines.append("Listen with headphones: ten seconds of silence, then a sentence as loud as it will be.")
    yield Step("microphone", "Sound", f"Set up the {pickup.item.called}", tuple(lines), CAMERA)


def _stand_up(scene: Scene, light: Light, row: LightRow, placed: dict[str, Mark], say: Say) -> Step:
    mark = placed.get(f"light-{light.place.id}")
    lines = [*_to_tape(mark, say), *(f"{name}: {what}" for name, what in row.settings)]
    if light.place.leg is not None:
        lines.append(f"One leg points {_leg_words(scene, light.place.leg)}.")
    elif light.place.boom is not None:
        lines.append("One leg under the boom, toward the light.")
    minutes = STAND if light.stand is not None else 0.0
    minutes += (WEIGHT if light.place.bag else 0.0) + (HEAD if light.head else 0.0)
    minutes += MODIFIER if light.modifier else 0.0
    high = light.at is not None and float(light.at[2]) > OVERHEAD
    hung = light.stand is not None and (light.stand.use in FEETLESS or light.place.boom is not None)
    two = (TWO, ALONE) if high and hung else ("", "")
    return Step(f"light-{light.place.id}", "Lights", f"Set up the {light.name}", tuple(lines), minutes, *two, mark)


def _leg_words(scene: Scene, leg: float) -> str:
    angle = math.radians(leg)
    way: Vector = np.array([math.cos(angle), math.sin(angle)])
    if scene.walls is None:
        return f"{leg:.0f}° from wall A–B"
    best = max(range(scene.walls.count), key=lambda i: float(-scene.walls.inward(i) @ way))  # type: ignore[union-attr]
    return f"at the {scene.room.edges(scene.walls.count)[best].name}"


def _trial_lines(trial: Trial) -> Iterable[str]:
    if trial.judge:
        yield trial.judge
    if trial.meter:
        yield f"The meter at the mark, its dome to the camera: {trial.meter}, ± {trial.pm or 0:.1f} stop."
    if trial.card is not None and trial.reading.id != "test-dark":
        ends = "" if trial.low is None or trial.high is None else f" ({trial.low:.0f} to {trial.high:.0f})"
        what = "The background in the frame" if trial.behind else "A grey card at the mark in the frame"
        yield f"{what}: about {trial.card:.0f} of 255{ends}."
    if trial.missing:
        yield f"No figure to go by: {trial.missing}"
    yield from (f"If not: {words}" if i == 0 else words for i, words in enumerate(trial.off))


def _strike(scene: Scene) -> Iterator[Step]:
    for number, task in enumerate(striking(scene)):
        yield Step(f"strike-{number}", "Strike", task.words, (), round(task.minutes, 1))
