"""Placing the lights of a pattern in a set: positions from the face, gear from what is at hand."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import TypeVar

import numpy as np

from evrant.core.light.by_window import daylight_way
from evrant.core.place.cards import LEAST_OFF, nearest_beside
from evrant.core.place.patterns import PATTERNS, Beam, CardPlace, direction
from evrant.core.space.footprint import first_wall
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Vector
from evrant.core.space.stands import ARM, holds_at, stand_of
from evrant.core.studio.gear import Board, Flash, Item, Lamp, Modifier, Stand
from evrant.core.studio.room import value
from evrant.core.studio.sets import LightPlace, PropPlace, SetPlan
from evrant.core.studio.shots import Pattern

K = TypeVar("K", bound=Item)
BOOMED = frozenset({"hair light", "top light"})
FROM_BEHIND = frozenset({"hair light", "rim"})
NEAR_AXIS = 15.0
"""A light from the front no further round than this hangs over the line to the lens, so that its stand would be in the
picture [degrees]; project choice."""
UNDER_CEILING = 0.08
LONGEST_BOOM = 2.0
"""A boom is drawn out no further than a place may say [m]."""
GROUP_OUT, ROWS_OUT = 0.8, 5.0
"""Lights of a group stand so much further from its middle than its outermost faces are apart [m], and so many times as
far as its rows are deep: two lights then differ by less than half a stop over four people, and over two rows; project
choice."""
MADE_OF = ("head", "modifier", "gridded", "gel", "support", "stands_on", "joint", "ring")
"""What a light is made of, by the fields of its place."""


@dataclass
class Shelf:
    """Gear at hand, taken off piece by piece."""

    items: Sequence[Item]
    taken: dict[str, int] = field(default_factory=dict)

    def take(self, kind: type[K], wish: str | None = None, *, best: "Sequence[str]" = ()) -> K | None:
        """One piece of a kind: the wished one if there is one left, else the first of `best`, else any."""
        left = [i for i in self.items if isinstance(i, kind) and self.taken.get(i.id, 0) < i.quantity]
        ranked = sorted(left, key=lambda i: (i.id != wish, best.index(i.id) if i.id in best else len(best)))
        if not ranked:
            return None
        self.taken[ranked[0].id] = self.taken.get(ranked[0].id, 0) + 1
        return ranked[0]


def at_hand(items: Sequence[Item]) -> list[Item]:
    """What is owned or planned."""
    return [item for item in items if item.at_hand]


def lit(
    scene: Scene,
    pattern: Pattern,
    side: float = 1.0,
    distance: float | None = None,
    wide: float = 0.0,
    geared: Mapping[str, LightPlace] | None = None,
) -> SetPlan:
    """The set with the pattern's lights and cards in place of its own, and the face turned as it asks; a reflector is
    as near as the picture lets it, times what `distance` is of the usual.

    Gear the set already uses in a role is kept; the rest comes off the shelf, unless `geared` says by name what
    each light is made of. Without mark or face only the roles are filled. `side` is 1 for the subject's left,
    −1 for its right; `distance` face to key [m]; `wide` further round than usual [degrees].
    """
    recipe = PATTERNS[pattern]
    plan = scene.plan
    if recipe.turn and scene.axis is not None:
        lens = math.degrees(math.atan2(scene.axis[1], scene.axis[0]))
        plan = plan.changed(mark=plan.mark.changed(facing=round((lens + side * recipe.turn + 180) % 360 - 180, 1)))
        scene = replace(scene, plan=plan)
    if recipe.cards and not recipe.beams:
        side = window_side(scene) or side
    shelf = Shelf(at_hand(list(scene.gear.values())))
    out = distance or key_distance(scene)
    old = {light.role: light for light in reversed(plan.lights)}
    circuit = next((light.circuit for light in plan.lights if light.circuit), None)
    circuit = circuit or (scene.room.circuits[0].id if scene.room.circuits else None)
    lights = []
    for beam, name in named_beams(pattern):
        if geared is not None and name not in geared:
            continue
        place = LightPlace(id=name, role=beam.role, circuit=circuit)
        if geared is not None:
            chosen = geared[name]
            place = place.changed(**{part: getattr(chosen, part) for part in MADE_OF})
        else:
            place = _geared(shelf, place, boomed(beam), old.get(beam.role))
        further = replace(beam, round=beam.round + wide) if beam.role == "key" and beam.round else beam
        lights.append(_placed(scene, place, further, side, out))
    cards = [_card(scene, shelf, card, number, side, out) for number, card in enumerate(recipe.cards, start=1)]
    others = [p for p in plan.props if not isinstance(scene.gear.get(p.item or ""), Board)]
    return plan.changed(lights=tuple(lights), props=(*others, *(card for card in cards if card)))


def window_side(scene: Scene) -> float | None:
    """The side of the subject most daylight comes from, 1 its left, −1 its right. None where no window is known."""
    way = daylight_way(scene)
    if way is None:
        return None
    angle = math.radians(scene.facing)
    across = float(way[1] * math.cos(angle) - way[0] * math.sin(angle))
    return None if across == 0.0 else math.copysign(1.0, across)


def sided(pattern: Pattern) -> bool:
    """Whether a pattern looks different from the other side."""
    return widened(pattern) or any(card.round not in (0, 180) for card in PATTERNS[pattern].cards)


def widened(pattern: Pattern) -> bool:
    """Whether a pattern has lights that may stand further round."""
    return any(beam.round not in (0, 180) for beam in PATTERNS[pattern].beams)


def named_beams(pattern: Pattern) -> list[tuple[Beam, str]]:
    """The lights of a pattern with the names they get in a set: key, rim, rim-2."""
    found: list[tuple[Beam, str]] = []
    for beam in PATTERNS[pattern].beams:
        name = beam.role.replace(" ", "-")
        number = 1 + sum(one.role == beam.role for one, _ in found)
        found.append((beam, name if number == 1 else f"{name}-{number}"))
    return found


def key_distance(scene: Scene) -> float:
    """Usual distance face to key: one and a half frame heights, 0.6 to 1.7 m; of a group so far that those nearer the
    light get little more of it."""
    frame = scene.wanted.height.value if scene.wanted else 1.0
    usual = min(max(1.5 * frame, 0.6), 1.7)
    people = [(one.across, one.ahead) for one in scene.shot.subjects if one.kind == "person"]
    if len(people) < 2:
        return usual
    wide, deep = np.ptp(np.array(people), axis=0)
    return max(usual, GROUP_OUT + float(wide), ROWS_OUT * float(deep))


def boomed(beam: Beam) -> bool:
    """Whether a light hangs over the subject, or over the line from there to the lens."""
    over = beam.aim == "face" and beam.role == "key" and abs(beam.round) < NEAR_AXIS and beam.up > 0
    return beam.role in BOOMED or over


def _geared(shelf: Shelf, place: LightPlace, over: bool, old: LightPlace | None) -> LightPlace:
    head = shelf.take(Flash, old.head if old else None) or shelf.take(Lamp, old.head if old else None)
    modifier = shelf.take(Modifier, old.modifier if old else None, best=_modifiers(shelf, place))
    if place.role == "practical":
        modifier = None
    if over:
        order = _stands(shelf, ("boom stand", ARM, "wall boom"))
    elif place.role == "under-light":
        order = _stands(shelf, ("floor stand",))
    else:
        order = _stands(shelf, ("light stand",))
    support = shelf.take(Stand, old.support if old else None, best=order)
    if support is not None and support.use == "tripod":
        support = None
    column = None
    if support is not None and support.use == ARM:
        column = shelf.take(Stand, old.stands_on if old else None, best=_stands(shelf, ("light stand",), arms=False))
    return place.changed(
        head=head.id if head else None,
        modifier=modifier.id if modifier else None,
        support=support.id if support else None,
        stands_on=column.id if column else None,
    )


def _modifiers(shelf: Shelf, place: LightPlace) -> list[str]:
    """From behind, gridded and narrow ones first: they must not shine into the lens."""
    if place.role not in FROM_BEHIND:
        return []
    found = [item for item in shelf.items if isinstance(item, Modifier)]
    return [item.id for item in sorted(found, key=lambda m: (not m.grid, value(m.width) or 9.0))]


def _stands(shelf: Shelf, uses: tuple[str, ...], *, arms: bool = True) -> list[str]:
    """Stands in the order in which they suit: the wanted uses first, the highest before the lower."""
    never = ("tripod",) if arms else ("tripod", ARM)
    stands = [item for item in shelf.items if isinstance(item, Stand) and item.use not in never]
    rank = sorted(stands, key=lambda s: (s.use not in uses, -(value(s.max_height) or 0.0)))
    return [stand.id for stand in rank]


def _placed(scene: Scene, place: LightPlace, beam: Beam, side: float, out: float) -> LightPlace:
    if scene.lit_spot is None or scene.axis is None:
        return place
    match beam.aim:
        case "background":
            return _at_background(scene, place, beam, side)
        case "corner":
            return _into_corner(scene, place)
        case "lens":
            return _round_lens(scene, place)
    turn = math.radians(scene.facing)
    wish = direction(beam.round * side, beam.up)
    ahead, left = np.array([math.cos(turn), math.sin(turn)]), np.array([-math.sin(turn), math.cos(turn)])
    far = out * beam.far
    spot = scene.lit_spot[:2] + (ahead * wish[0] + left * wish[1]) * far
    high = _under_ceiling(scene, place, spot, float(scene.lit_spot[2]) + wish[2] * far, beam.up)
    boom = _boom(scene, place, spot, side) if boomed(beam) else None
    here = _at(place, spot, high, boom[0] if boom else None)
    return here.changed(boom_length=min(boom[1], LONGEST_BOOM) if boom else None)


def _boom(scene: Scene, place: LightPlace, spot: Vector, key: float) -> tuple[float, float] | None:
    """A boom reaches in from beside the subject, on the side the light is already on, or, of one in the middle, away
    from the key's; drawn out until its stand is out of the picture and clear of the background's: direction [degrees]
    and length [m]."""
    stand = stand_of(scene.gear, place)
    if not isinstance(stand, Stand) or not stand.reach or scene.axis is None or scene.mark is None:
        return None
    side = np.array([-scene.axis[1], scene.axis[0]])
    beside = float((spot - scene.mark) @ side)
    if beside < -0.05 or (beside < 0.05 and key > 0):
        side = -side
    half = (scene.wanted.width if scene.wanted else 0.6) / 2
    wide = half * 1.3 + (value(stand.foot_radius) or 0.0) * 0.5 + 0.1
    least, most = min(max(wide, 0.5), stand.reach.value), min(stand.reach.value, LONGEST_BOOM)
    lengths = [least, *np.arange(least + 0.1, most + 1e-9, 0.1)]
    ways = [side * math.cos(turn) + scene.axis * math.sin(turn) for turn in (0.0, math.pi / 6, math.pi / 4)]
    free = ((way, length) for way in ways for length in lengths if _clear_of_holder(scene, stand, spot + way * length))
    way, length = next(free, (side, least))
    return math.degrees(math.atan2(way[1], way[0])), round(float(length), 2)


def _clear_of_holder(scene: Scene, stand: Stand, foot: Vector) -> bool:
    """Whether a stand at a place (2,) leaves room for the feet of the background's holder."""
    ends, holder = scene.background_ends, scene.holder
    feet = value(holder.foot_radius) if holder is not None else None
    if ends is None or not feet or holder is None:
        return True
    out = (ends[1] - ends[0]) / max(float(np.linalg.norm(ends[1] - ends[0])), 1e-9) * (value(holder.overhang) or 0.0)
    apart = feet + (value(stand.foot_radius) or 0.0) + 0.05
    return all(float(np.linalg.norm(foot - column)) >= apart for column in (ends[0] - out, ends[1] + out))


def _at(place: LightPlace, spot: Vector, high: float, boom: float | None = None) -> LightPlace:
    return place.changed(
        x=_r(spot[0]), y=_r(spot[1]), height=_r(max(high, 0.1)), boom=None if boom is None else round(boom, 1)
    )


def _under_ceiling(scene: Scene, place: LightPlace, spot: Vector, wish: float, up: float) -> float:
    """As high as wished, or as the ceiling, the modifier's tilt and the stand let it."""
    if scene.ceiling is None:
        return wish
    modifier = scene.gear.get(place.modifier or "")
    tilt = math.radians(max(up, 0.0))
    size = (value(modifier.height) or value(modifier.width) or 0.2) if isinstance(modifier, Modifier) else 0.15
    deep = (value(modifier.depth) or 0.1) if isinstance(modifier, Modifier) else 0.0
    head = scene.gear.get(place.head or "")
    behind = deep + ((value(head.length) or 0.1) if isinstance(head, (Flash, Lamp)) else 0.0)
    top = max(size / 2 * math.cos(tilt), behind * math.sin(tilt) + 0.06)
    high = min(wish, scene.ceiling.height(float(spot[0]), float(spot[1])) - top - UNDER_CEILING)
    stand = stand_of(scene.gear, place)
    if isinstance(stand, Stand) and stand.max_height:
        high = min(high, stand.max_height.value - deep * math.sin(tilt) - 0.03)
    return high


def _at_background(scene: Scene, place: LightPlace, beam: Beam, side: float) -> LightPlace:
    """Beside the background, just out of the frame, aimed at its far half."""
    assert scene.axis is not None and scene.lit_spot is not None
    spot, way = scene.line or (scene.lit_spot[:2] - scene.axis, scene.axis)
    along = np.array([-way[1], way[0]]) * beam.round * side
    half = (scene.wanted.width if scene.wanted else 1.0) / 2
    wide = max(half * 1.5 + 0.35, 0.8)
    middle = scene.wanted.middle if scene.wanted else 1.2
    aim = spot - along * 0.15 * wide
    here = _at(place, spot + along * wide + way * _before_feet(scene, place, wide), middle)
    return here.changed(aim_x=_r(aim[0]), aim_y=_r(aim[1]), aim_height=_r(middle))


BEFORE = 0.55
"""A background light stands so far before its background [m], where its feet and the holder's leave it."""


def _before_feet(scene: Scene, place: LightPlace, wide: float) -> float:
    """How far before the background a light beside it stands clear of the holder's feet [m]."""
    stand, holder, item = stand_of(scene.gear, place), scene.holder, scene.backdrop
    feet = value(holder.foot_radius) if holder else None
    if not feet or item is None or item.width is None or holder is None or not isinstance(stand, Stand):
        return BEFORE
    column = item.width.value / 2 + (value(holder.overhang) or 0.0)
    apart = feet + (value(stand.foot_radius) or 0.0) + 0.05
    return max(BEFORE, math.sqrt(max(apart**2 - (wide - column) ** 2, 0.0)))


BESIDE, BACK = 0.75, 1.6
"""A head that is fired back stands this far beside the lens, clear of who photographs, and aims at most this far
behind it, so that it is turned to a wall of a room of any size [m]."""


def _into_corner(scene: Scene, place: LightPlace) -> LightPlace:
    """Beside the camera, fired back into the edge of wall and ceiling behind it."""
    assert scene.axis is not None and scene.mark is not None
    lens = scene.camera_spot if scene.camera_spot is not None else scene.mark + scene.axis * 1.5
    spot = lens + np.array([-scene.axis[1], scene.axis[0]]) * BESIDE
    hit = first_wall(scene.walls, scene.mark, scene.axis) if scene.walls is not None else None
    behind = float((lens - scene.mark) @ scene.axis) + BACK
    end = scene.mark + scene.axis * min(hit[0] if hit else behind, behind)
    high = scene.ceiling.height(float(end[0]), float(end[1])) if scene.ceiling else 2.4
    here = _at(place, spot, min(high - 0.6, 1.7))
    return here.changed(modifier=None, aim_x=_r(end[0]), aim_y=_r(end[1]), aim_height=_r(high))


def _round_lens(scene: Scene, place: LightPlace) -> LightPlace:
    assert scene.axis is not None and scene.mark is not None
    lens = scene.camera_spot if scene.camera_spot is not None else scene.mark + scene.axis * 1.5
    high = scene.lens_height if scene.lens_height is not None else 1.4
    return _at(place, lens + scene.axis * 0.02, high).changed(support=None)


def _card(scene: Scene, shelf: Shelf, card: CardPlace, number: int, side: float, out: float) -> PropPlace | None:
    """A board of the wanted surface, upright, square to the face."""
    boards = [item.id for item in shelf.items if isinstance(item, Board) and item.surface == card.surface]
    item = shelf.take(Board, boards[0] if boards else None, best=boards)
    if item is None or item.surface != card.surface or scene.lit_spot is None:
        return None
    angle = math.radians(scene.facing + card.round * side)
    far = out * card.far
    if card.surface == "white":  # what it gives falls with the square of how far off it is
        nearest = nearest_beside(scene, value(item.width) or 0.6, card.round)
        far = max(nearest * out / key_distance(scene), LEAST_OFF)
    spot = _card_spot(scene, np.array([math.cos(angle), math.sin(angle)]) * far)
    high, middle = value(item.height) or 0.6, float(scene.lit_spot[2]) + card.centre
    base, held = _underside(scene, spot, middle, high)
    holder = _holder(shelf, base + high / 2) if held else None
    turn = (math.degrees(angle) - 90 + 180) % 360 - 180
    return PropPlace(
        id=f"card-{number}",
        item=item.id,
        x=_r(spot[0]),
        y=_r(spot[1]),
        turn=round(turn, 1),
        height=_r(base),
        support=holder.id if holder else None,
    )


NEARER = (1.0, 0.85, 0.7, 0.55)
"""Shares of its distance at which a card may come to stand on the table instead of beside it; project choice."""


def _card_spot(scene: Scene, way: Vector) -> Vector:
    """Where a card stands that should be so far from the face (2,) [m]: on the subject's table, if that reaches nearly
    as far."""
    assert scene.lit_spot is not None
    spots = [scene.lit_spot[:2] + way * share for share in NEARER]
    tops = [top for prop in scene.plan.props if (top := scene.table_top(prop)) is not None]
    return next((spot for spot in spots if any(float(top.inside(spot[None])[0]) >= 0 for top in tops)), spots[0])


OVER_MIDDLE = 0.1
"""A card serves standing where it ends so far over what it is for [m]; project choice."""


def _underside(scene: Scene, spot: Vector, middle: float, high: float) -> tuple[float, bool]:
    """Where a card begins whose middle should be so high [m], and whether something must hold it there: on the table
    it is over, or on the floor, where it reaches up far enough standing."""
    tops = [top for prop in scene.plan.props if (top := scene.table_top(prop)) is not None]
    under = max((top.height for top in tops if float(top.inside(spot[None])[0]) >= 0), default=0.0)
    if under + high >= middle + OVER_MIDDLE:
        return under, False
    return max(middle - high / 2, under), True


def _holder(shelf: Shelf, middle: float) -> Stand | None:
    """A stand that is left and holds a card by its middle [m]; none of those that are too low."""
    stands = (one for one in shelf.items if isinstance(one, Stand) and holds_at(one, middle))
    left = next((one.id for one in stands if shelf.taken.get(one.id, 0) < one.quantity), None)
    return shelf.take(Stand, left) if left else None


def turned(scene: Scene, facing: float) -> SetPlan:
    """The face turned to a plan direction; lights and cards that belong to it go round with it."""
    plan = scene.plan.changed(mark=scene.plan.mark.changed(facing=facing))
    if scene.lit_spot is None or scene.mark is None:
        return plan
    angle = math.radians(facing - scene.facing)
    turn = np.array([[math.cos(angle), -math.sin(angle)], [math.sin(angle), math.cos(angle)]])
    target = replace(scene, plan=plan).lit_spot
    assert target is not None

    def carried(x: float | None, y: float | None) -> dict[str, float]:
        if x is None or y is None or scene.lit_spot is None:
            return {}
        spot = target[:2] + turn @ (np.array([x, y]) - scene.lit_spot[:2])
        return {"x": _r(spot[0]), "y": _r(spot[1])}

    own = ("background light", "practical", "ring light")
    lights = tuple(
        light if light.role in own or light.aim_x is not None else light.changed(**carried(light.x, light.y))
        for light in plan.lights
    )
    props = tuple(
        prop.changed(**carried(prop.x, prop.y), turn=round((prop.turn + facing - scene.facing + 180) % 360 - 180, 1))
        if isinstance(scene.gear.get(prop.item or ""), Board)
        else prop
        for prop in plan.props
    )
    return plan.changed(lights=lights, props=props)


def _r(value: float) -> float:
    return round(float(value), 3)
