"""Formations: what a set looks like by itself, before it is put anywhere in the room.

A formation is a set about its mark, the lens along +x, in a room so large that nothing is in its way. All
distances inside it stay as they are wherever it is put and however it is turned.
"""

import math
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from itertools import product

import numpy as np

from evrant.core.base.quantity import ROOM_LENGTH, Figure
from evrant.core.base.tables.holders import HOLDERS
from evrant.core.base.units import show_length
from evrant.core.judge.rules.set.perspective import strained
from evrant.core.place.hanging import HANGS, MOST_SLID, hung, same_everywhere
from evrant.core.place.lighting import at_hand, key_distance, lit, sided, widened
from evrant.core.place.patterns import PATTERNS
from evrant.core.space.anchors import ARM_AT_WALL
from evrant.core.space.framing import hits
from evrant.core.space.scene import Scene, gear_of
from evrant.core.space.stepback import needed_distance
from evrant.core.space.tents import outgrown
from evrant.core.space.tops import laid_on, too_small
from evrant.core.space.tripods import held_by, released
from evrant.core.space.wanted import OVERHEAD, stands_still
from evrant.core.studio.gear import (
    HANGING,
    Backdrop,
    Board,
    Camera,
    Flash,
    Holder,
    Item,
    Lamp,
    Lens,
    Modifier,
    Stand,
    Table,
    Tent,
)
from evrant.core.studio.room import Rectangle, Room, value
from evrant.core.studio.sets import BackgroundPlace, CameraPlace, LightPlace, Mark, PropPlace, SetPlan
from evrant.core.studio.shots import Shot
from evrant.core.studio.studio import Studio

OPEN = 29.0
MIDDLE = OPEN / 2
USUAL_GAP = 1.0
OVER_FRAME = 0.06
UNDER_CEILING = 0.03
OFF_TAPE = 0.03
CARDS_OFF = (1.0, 1.3, 1.7)
"""A card alone is tried where it just clears the picture, and so many times as far off."""


@dataclass(frozen=True)
class Choice:
    """What is picked for one formation."""

    lens: Lens
    focal: Figure | None
    backdrop: Backdrop | None
    holder: Holder | None
    wall: bool
    gap: float
    further: float
    side: float
    near: float
    wide: float
    modifier: str | None

    @property
    def base(self) -> tuple[object, ...]:
        """All but the lights: formations with the same base share lens, background and camera."""
        return (self.lens.id, self.focal, self.background, self.gap, self.further)

    @property
    def background(self) -> str:
        return (
            "bare wall"
            if self.wall
            else f"{self.backdrop.id if self.backdrop else '-'} {self.holder.id if self.holder else '-'}"
        )


@dataclass(frozen=True)
class Formation:
    """A choice arranged about its mark: a set in the open room, and how far behind the background is held.

    `scene` is without the supports of lights that hang from something of the room, and without the lights that move
    for it: where and how those are only a place in the room tells. `hung` says whether there are any.
    """

    choice: Choice
    plan: SetPlan
    scene: Scene
    behind: float
    hung: bool = False


@dataclass(frozen=True)
class Offer:
    """What the search may choose from. Empty sequences mean: the usual.

    `geared` says what each light is made of, by name (lights it leaves out are left out); `bare` judges without
    any background, to tell whether the background is what does not fit.
    """

    lenses: tuple[str, ...] = ()
    gaps: tuple[float, ...] = (0.03, 0.30)
    further: tuple[float, ...] = (0.0,)
    sides: tuple[float, ...] = (1.0, -1.0)
    near: tuple[float, ...] = (1.0, 0.7, 0.5, 1.9)
    wide: tuple[float, ...] = (0.0, 9.0)
    modifiers: int = 2
    geared: Mapping[str, LightPlace] | None = None
    bare: bool = False


def open_room(room: Room) -> Room:
    """A room of the same height in which nothing is in the way."""
    figure = ROOM_LENGTH.figure(OPEN)
    return Room(footprint=Rectangle(length=figure, width=figure), height=room.height, circuits=room.circuits)


@dataclass(frozen=True)
class Draft:
    """A formation whose lights are not placed yet, and a bound of its lens and background by themselves."""

    choice: Choice
    base: Scene
    lights: bool
    bound: float
    room: Room
    geared: Mapping[str, LightPlace] | None = None
    strained: bool = False
    """Whether its lens would be so near a face that it draws it otherwise than it is."""

    def build(self) -> Formation:
        if not self.lights:
            return Formation(self.choice, self.base.plan, self.base, off_wall(self.choice.holder))
        plan = _lit(self.base, self.base.shot, self.choice, self.geared)
        known = same_everywhere(self.room)
        plan = hung(self._scene(plan), MOST_SLID, known)
        uses = {light.id: _use(self.base, light) for light in plan.lights}
        if (HANGS - known).isdisjoint(uses.values()):
            return Formation(self.choice, plan, self._scene(plan), off_wall(self.choice.holder))
        stay = [light for light in plan.lights if uses[light.id] not in HANGS - known - {ARM_AT_WALL}]
        bare = (light.changed(support=None) if uses[light.id] == ARM_AT_WALL else light for light in stay)
        still = self._scene(plan.changed(lights=tuple(bare)))
        return Formation(self.choice, plan, still, off_wall(self.choice.holder), hung=True)

    def _scene(self, plan: SetPlan) -> Scene:
        return Scene(self.base.room, self.base.brief, self.base.shot, plan, self.base.gear)


def _use(scene: Scene, light: LightPlace) -> str:
    stand = scene.gear.get(light.support or "")
    return stand.use if isinstance(stand, Stand) else ""


def drafts(studio: Studio, shot: Shot, offer: Offer, judge: Callable[[Scene], float]) -> Iterable[Draft]:
    """Every formation of an offer that can be built; choices that miss gear are left out.

    `judge` bounds lens and background by themselves. Where they do not fit, one draft without lights is
    given for them, to say what is wrong.
    """
    room = open_room(studio.room)
    gear = gear_of(studio)
    hand = at_hand(studio.gear)
    body = next((item for item in hand if isinstance(item, Camera)), None)
    if body is None or not shot.subjects:
        return
    lamps = any(isinstance(item, (Flash, Lamp)) for item in hand) if offer.geared is None else bool(offer.geared)
    lamps = lamps or (bool(PATTERNS[shot.pattern or "loop"].cards) and any(isinstance(item, Board) for item in hand))
    bases: dict[tuple[object, ...], tuple[Scene, float] | None] = {}
    for choice in choices(studio, shot, hand, offer):
        if choice.base not in bases:
            scene = _based(studio, room, shot, body, gear, hand, choice)
            bound = -math.inf if scene is None else judge(scene)
            bases[choice.base] = None if scene is None else (scene, bound)
            if scene is not None and (not lamps or bound < 0):
                yield Draft(choice, scene, False, bound, studio.room, strained=strained(scene))
        base = bases[choice.base]
        if base is not None and lamps and base[1] >= 0:
            yield Draft(choice, base[0], True, base[1], studio.room, offer.geared, strained(base[0]))


def _lit(scene: Scene, shot: Shot, choice: Choice, geared: Mapping[str, LightPlace] | None) -> SetPlan:
    key = () if choice.modifier is None else (LightPlace(id="key", role="key", modifier=choice.modifier),)
    scene = _with(scene, lights=key)
    return lit(scene, shot.pattern or "loop", choice.side, key_distance(scene) * choice.near, choice.wide, geared)


def choices(studio: Studio, shot: Shot, hand: Sequence[Item], offer: Offer) -> Iterable[Choice]:
    """Combinations of what is at hand, lens by lens."""
    lenses = [item for item in hand if isinstance(item, Lens) and item.focal]
    if offer.lenses:
        lenses = [lens for lens in lenses if lens.id in offer.lenses]
    wish = shot.background_gap.value if shot.background_gap else USUAL_GAP
    grounds = [(None, None, False)] if offer.bare else list(_backgrounds(studio, shot, hand))
    pattern = shot.pattern or "loop"
    both, widely = sided(pattern), widened(pattern)
    modifiers: list[str | None] = [item.id for item in _modifiers(hand)[: offer.modifiers]] or [None]
    for lens, (backdrop, holder, wall) in product(lenses, grounds):
        for focal, gap, further, near, wide, modifier, side in product(
            _settings(lens),
            offer.gaps if not shot.angle >= 60 else (0.0,),
            offer.further,
            offer.near if widely or not both else CARDS_OFF,
            offer.wide if widely else (0.0,),
            modifiers,
            offer.sides if both else (1.0,),
        ):
            yield Choice(lens, focal, backdrop, holder, wall, wish + gap, further, side, near, wide, modifier)


def _settings(lens: Lens) -> tuple[Figure | None, ...]:
    """A prime as it is; a zoom at both ends and in the middle."""
    if lens.focal is None or lens.focal_long is None:
        return (None,)
    low, high = lens.focal.value, lens.focal_long.value
    return tuple(Figure(round(f, 4), 0.02 * f, "maker") for f in (low, math.sqrt(low * high), high))


def _modifiers(hand: Sequence[Item]) -> list[Modifier]:
    """Largest first."""
    found = [item for item in hand if isinstance(item, Modifier) and item.width]
    return sorted(found, key=lambda m: -(m.width.value if m.width else 0.0))


def _backgrounds(
    studio: Studio, shot: Shot, hand: Sequence[Item]
) -> Iterable[tuple[Backdrop | None, Holder | None, bool]]:
    if shot.angle >= 60:
        yield None, None, False
        return
    holders = [item for item in hand if isinstance(item, Holder)]
    for backdrop in (item for item in hand if isinstance(item, Backdrop)):
        for holder in holders:
            if _suits(studio, shot, backdrop, holder):
                yield backdrop, holder, False
        if not holders and backdrop.material in ("panel", "board"):
            yield backdrop, None, False
    if studio.brief.schools.background == "boards or wall" or not any(isinstance(i, Backdrop) for i in hand):
        yield None, None, True


def _suits(studio: Studio, shot: Shot, backdrop: Backdrop, holder: Holder) -> bool:
    """Leave out what cannot go together whatever the place."""
    kind = HOLDERS.get(holder.system or "")
    on_table = any(subject.base for subject in shot.subjects)
    if kind is None or (kind.hangs_from == "table" and not on_table):
        return False
    if holder.max_width and backdrop.width and holder.system != "tension rod":
        return backdrop.width.value <= holder.max_width.value
    return True


def _based(
    studio: Studio, room: Room, shot: Shot, body: Camera, gear: dict[str, Item], hand: Sequence[Item], choice: Choice
) -> Scene | None:
    """Mark, camera at its distance and background at its height, without lights."""
    scene = Scene(room, studio.brief, shot, _bare(shot, body, hand, choice), gear)
    if scene.sensor is None or scene.wanted is None or scene.focal is None:
        return None
    placed = _with_camera(scene, choice.further)
    if placed is not None and stands_still(shot):
        placed = _with(placed, camera=placed.plan.camera.changed(support=held_by(placed, hand)))
    if placed is None or choice.backdrop is None:
        return placed
    height = _height(placed, choice)
    return None if height is None else _with(placed, background=placed.plan.background.changed(height=height))


def _with(scene: Scene, **parts: object) -> Scene:
    return Scene(scene.room, scene.brief, scene.shot, scene.plan.changed(**parts), scene.gear)


def off_wall(holder: Holder | None) -> float:
    """How far a background must be from the wall behind it, at least [m]."""
    if holder is None:
        return 0.05
    kind = HOLDERS.get(holder.system or "")
    if kind is not None and kind.hangs_from in ("wall", "door"):
        return value(holder.off_wall) or kind.off
    return (value(holder.foot_radius) or 0.03) + OFF_TAPE


def _bare(shot: Shot, body: Camera, hand: Sequence[Item], choice: Choice) -> SetPlan:
    """Mark, body, lens and background of a choice; lens distance and heights come next."""
    background = BackgroundPlace()
    if choice.backdrop is not None:
        background = BackgroundPlace(
            backdrop=choice.backdrop.id,
            holder=choice.holder.id if choice.holder else None,
            x=MIDDLE - choice.gap,
            y=MIDDLE,
        )
    elif choice.wall:
        background = BackgroundPlace(x=MIDDLE - choice.gap, y=MIDDLE)
    return SetPlan(
        id="arranged",
        name=f"{shot.name}, arranged"[:80],
        shot=shot.id,
        mark=Mark(x=MIDDLE, y=MIDDLE, facing=0.0 if shot.angle >= OVERHEAD else None),
        camera=CameraPlace(
            body=body.id,
            lens=choice.lens.id,
            focal=choice.focal,
            x=MIDDLE + 2.0,
            y=MIDDLE,
            operator=released(shot),
        ),
        background=background,
        props=(*_table(shot, hand), *_tent(shot, hand)),
    )


def _table(shot: Shot, hand: Sequence[Item]) -> tuple[PropPlace, ...]:
    """The table at hand whose height is nearest to what the subject stands on, of those that hold it; a hook or form
    for a garment."""
    base = shot.lead.base
    hangs = shot.lead.kind == "garment"
    tables = [item for item in hand if isinstance(item, Table) and item.height and (item.form in HANGING) == hangs]
    if base is None or not base.value or not tables:
        return ()
    best = min(tables, key=lambda t: (too_small(t, shot.subjects), abs((value(t.height) or 0.0) - base.value)))
    turn, _ = laid_on(best, shot.subjects)
    return (PropPlace(id="table", item=best.id, x=MIDDLE, y=MIDDLE, turn=turn),)


def _tent(shot: Shot, hand: Sequence[Item]) -> tuple[PropPlace, ...]:
    """The smallest tent at hand that holds the subject, its hole to the lens, where the light comes through one."""
    if shot.pattern != "tent":
        return ()
    able = [item for item in hand if isinstance(item, Tent) and not outgrown(shot, item, show_length)]
    best = min(able, key=lambda tent: (value(tent.width) or 0.0, tent.id), default=None)
    return () if best is None else (PropPlace(id="tent", item=best.id, x=MIDDLE, y=MIDDLE, turn=90.0),)


def _with_camera(scene: Scene, further: float) -> Scene | None:
    """The lens far enough for the whole frame, by its uncertainty and a share more."""
    need = needed_distance(scene)
    if not math.isfinite(need.value) or need.value > 12:
        return None
    far = need.value * (1 + further) + max(2 * need.uncertainty, 0.03)
    angle = math.radians(scene.shot.angle)
    if scene.overhead:
        assert scene.wanted is not None and scene.aim is not None
        spot, high = scene.aim[:2], round(scene.wanted.middle + far * math.sin(angle), 3)
        camera = scene.plan.camera.changed(x=round(float(spot[0]), 3), y=round(float(spot[1]), 3), height=high)
        return _with(scene, camera=camera)
    away = far * math.cos(angle)
    props = tuple(_drawn_back(scene, prop, away) for prop in scene.plan.props)
    return _with(scene, camera=scene.plan.camera.changed(x=round(MIDDLE + away, 3)), props=props)


STAND_OFF, ON_EDGE = 0.15, 0.03
"""A camera's stand keeps so far off a table it is before, and what is taken stands so far inside the table's edge [m];
common practice, no source."""


def _drawn_back(scene: Scene, prop: PropPlace, away: float) -> PropPlace:
    """A table drawn back where the lens would come over it, so that what is taken stands near its front edge."""
    table = scene.gear.get(prop.item or "")
    if not isinstance(table, Table) or table.form in HANGING or prop.x is None or scene.shot.pattern == "tent":
        return prop
    sides = [value(table.length), value(table.width)]
    thick = max((value(one.depth) or value(one.width) or 0.0 for one in scene.shot.subjects), default=0.0)
    if None in sides:
        return prop
    half = min(side for side in sides if side is not None) / 2
    front = max(thick / 2 + ON_EDGE, away - STAND_OFF)
    return prop.changed(x=round(prop.x - max(half - front, 0.0), 3))


def _height(scene: Scene, choice: Choice) -> float | None:
    """A little over what the frame sees, as low and as high as holder and ceiling let it."""
    if scene.view is None or scene.line is None:
        return None
    seen = hits(scene.view, scene.line)
    wish = (float(seen[1].max()) if seen is not None else 2.0) + OVER_FRAME
    holder = choice.holder
    if holder is not None and holder.min_height and holder.system == "two stands and crossbar":
        wish = max(wish, holder.min_height.value + OFF_TAPE)
    if holder is not None and holder.max_height:
        wish = min(wish, holder.max_height.value - 0.02)
    if scene.room.height is not None:
        roll = value(choice.backdrop.roll_diameter) if choice.backdrop else None
        wish = min(wish, scene.room.height.value - (roll or 0.0) / 2 - UNDER_CEILING)
    return round(wish, 3)


def put(plan: SetPlan, x: float, y: float, degrees: float, set_id: str = "arranged") -> SetPlan:
    """A formation's set with its mark at (x, y) and its axis turned to a plan direction."""
    angle = math.radians(degrees)
    turn = np.array([[math.cos(angle), -math.sin(angle)], [math.sin(angle), math.cos(angle)]])

    def moved(px: float | None, py: float | None) -> tuple[float | None, float | None]:
        if px is None or py is None:
            return px, py
        spot = turn @ np.array([px - MIDDLE, py - MIDDLE])
        return round(x + float(spot[0]), 3), round(y + float(spot[1]), 3)

    def spun(angle_: float | None) -> float | None:
        return None if angle_ is None else round((angle_ + degrees + 180) % 360 - 180, 2)

    def at(place: object) -> dict[str, float | None]:
        px, py = moved(getattr(place, "x", None), getattr(place, "y", None))
        return {"x": px, "y": py}

    lights = []
    for light in plan.lights:
        ax, ay = moved(light.aim_x, light.aim_y)
        lights.append(light.changed(**at(light), boom=spun(light.boom), aim_x=ax, aim_y=ay))
    return plan.changed(
        id=set_id,
        mark=plan.mark.changed(**at(plan.mark), facing=spun(plan.mark.facing)),
        camera=plan.camera.changed(**at(plan.camera), arm=spun(plan.camera.arm)),
        background=plan.background.changed(**at(plan.background), facing=spun(plan.background.facing)),
        lights=tuple(lights),
        props=tuple(prop.changed(**at(prop), turn=spun(prop.turn)) for prop in plan.props),
    )
