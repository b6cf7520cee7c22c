"""Which support for this light or card, here: every stand, boom, arm, bracket, pole and hook at hand or on offer put
under it where it is, rigged as one would, and judged by the ledger's own rules.
"""

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

import numpy as np

from evrant.core.base.margins import Margin, Verdict
from evrant.core.base.tables.supports import CARD_STANDS, FEETLESS
from evrant.core.edits.language import Add, Edit, SetFields, Several
from evrant.core.judge.completing import complete
from evrant.core.judge.declared import set_rules
from evrant.core.judge.rules.rule import Proposal
from evrant.core.judge.rules.set.count import COUNT
from evrant.core.judge.rules.set.fit import CEILING, WALL
from evrant.core.judge.rules.set.intrusion import INTRUSION
from evrant.core.judge.rules.set.overlap import OVERLAP
from evrant.core.judge.rules.set.way_out import WAY_OUT
from evrant.core.judge.rules.support.cards import LOAD as CARD_LOAD
from evrant.core.judge.rules.support.cards import REACH as CARD_REACH
from evrant.core.judge.rules.support.support import LOAD, REACH
from evrant.core.place.cards import WAYS, drawn_near, held_by
from evrant.core.place.hanging import arm_to_wall
from evrant.core.place.rigging import balanced, held_and_weighted, joined, weighted
from evrant.core.space.anchors import feet
from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene
from evrant.core.space.stands import ARM, stand_of
from evrant.core.space.tops import FLAT
from evrant.core.studio.gear import Board, Item, Stand
from evrant.core.studio.room import value
from evrant.core.studio.sets import LightPlace, PropPlace
from evrant.core.studio.studio import Studio, by_id

BESIDE = frozenset(line.code for line in (COUNT, OVERLAP, CEILING, INTRUSION, WAY_OUT, WALL))
"""Lines that a support can worsen besides its own."""
NOT_FOR_LIGHTS = ("tripod", "copy arm")
MINUTES: dict[str, float] = {
    "light stand": 2.0,
    "rolling stand": 1.0,
    "floor stand": 1.0,
    "twin stand": 3.0,
    "boom stand": 5.0,
    ARM: 6.0,
    "wall boom": 2.0,
    "rail or crossbar": 5.0,
    "floor-to-ceiling pole": 5.0,
    "wall bracket": 1.0,
    "ceiling bracket": 2.0,
    "door clip": 1.5,
    "hook": 1.0,
    "adhesive hook": 1.0,
}
"""Minutes to set one up with its light, holes made; common practice, no source."""
COLUMNS, MOST_COLUMNS = ("light stand", "rolling stand"), 3
"""What a boom arm is put on, and on how many of them each arm is tried."""
RIGGED = (
    *("support", "stands_on", "boom", "boom_length"),
    *("joint", "ring", "bag", "bag_at", "leg", "counterweight"),
)
"""What of a light's place hangs on its support."""
TURNS = (0.0, 45.0, -45.0, 90.0, -90.0)
"""Directions a boom is tried in, from straight away from the subject [degrees]."""


@dataclass(frozen=True, eq=False)
class Option:
    """One support under a light or card: what it is, how it would stand, and what the ledger says of it.

    `column` is the stand a boom arm is put on, `bought` what of it is on offer. `lines` are about what it carries,
    but those that are short whatever does; `floor` is what its feet take [m²], `bag` the weight it needs [kg], `reach`
    [m] and `load` [kg] what is spare of them; a card is held `nearer` to the subject where it has no place as it
    stands [m]; `besides` says what `edit` plans besides, in words.
    """

    item: Stand
    used: bool
    place: LightPlace | PropPlace
    lines: tuple[Margin, ...]
    edit: Edit
    column: Stand | None = None
    bought: tuple[Item, ...] = ()
    moved: float = 0.0
    besides: str = ""

    def _of(self, verdict: Verdict) -> tuple[Margin, ...]:
        return tuple(m for m in self.lines if m.verdict is verdict)

    @property
    def short(self) -> tuple[Margin, ...]:
        return self._of(Verdict.SHORT)

    @property
    def unknown(self) -> tuple[Margin, ...]:
        return self._of(Verdict.UNKNOWN)

    @property
    def tight(self) -> tuple[Margin, ...]:
        return self._of(Verdict.TIGHT)

    @property
    def reach(self) -> float | None:
        return next((m.margin for m in self.lines if m.code in (REACH.code, CARD_REACH.code)), None)

    @property
    def load(self) -> float | None:
        return next((m.margin for m in self.lines if m.code in (LOAD.code, CARD_LOAD.code)), None)

    @property
    def way_out(self) -> float | None:
        return next((m.have for m in self.lines if m.code == WAY_OUT.code), None)

    @property
    def lacking(self) -> tuple[Item, ...]:
        """What of it is neither owned nor planned."""
        made_of = (one for one in (self.item, self.column) if one is not None)
        return tuple(one for one in made_of if one in self.bought or not one.at_hand)

    @property
    def ours(self) -> bool:
        return not self.lacking

    @property
    def stand(self) -> Stand:
        """Arm and stand as one, where it is an arm."""
        gear: dict[str, Item] = {one.id: one for one in (self.item, self.column) if one is not None}
        return (stand_of(gear, self.place) if isinstance(self.place, LightPlace) else None) or self.item

    @property
    def name(self) -> str:
        return self.stand.name

    @property
    def price(self) -> Decimal | None:
        """What is still to be paid for it; None where a price is not known."""
        prices = [one.price for one in self.lacking]
        return None if None in prices else sum((p for p in prices if p is not None), Decimal(0))

    @property
    def works(self) -> bool:
        """No line of its own is short or unknown; what is short under every support stands beside that."""
        return not self.short and not self.unknown

    @property
    def packed(self) -> float | None:
        """Its longest side when packed [m]; None where that is not known."""
        sides = [value(one.packed_length) for one in (self.item, self.column) if one is not None]
        return None if None in sides else max(side for side in sides if side is not None)

    @property
    def floor(self) -> float:
        if self.stand.use in FEETLESS or self.stand.foot_radius is None:
            return 0.0
        return math.pi * self.stand.foot_radius.value**2

    @property
    def bag(self) -> float:
        return self.place.bag or 0.0

    @property
    def minutes(self) -> float:
        return MINUTES.get(self.item.use, 3.0) + (0.5 if self.bag else 0.0)


@dataclass(frozen=True, eq=False)
class SupportTable:
    """Supports for one light: the options, and what is short whatever carries it."""

    options: tuple[Option, ...]
    always: tuple[Margin, ...]


def support_table(studio: Studio, scene: Scene, path: str, offered: Sequence[Item] = ()) -> SupportTable:
    """Every support for the light or upright card at a path, those that work first, then by what is short, then the
    lighter on floor and purse; none when there is no such thing or it has no place."""
    own = [item for item in studio.gear if isinstance(item, Stand) and item.use not in NOT_FOR_LIGHTS]
    names = {item.library or item.name for item in own}
    more = [
        item if item.id not in scene.gear else item.changed(id=f"{item.id}-more")
        for item in offered
        if isinstance(item, Stand) and item.use not in NOT_FOR_LIGHTS and (item.library or item.name) not in names
    ]
    found = _under_card(scene, path, own, more) if "/props/" in path else _under_light(scene, path, own, more)
    # The same words under every support: another collision under each is each one's own.
    told = [{(m.code, m.sentence) for m in one.short if m.code in BESIDE} for one in found]
    shared = set.intersection(*told) if len(told) > 1 else set()
    always = tuple(m for m in found[0].short if (m.code, m.sentence) in shared) if found else ()

    def own_of(one: Option) -> tuple[Margin, ...]:
        return tuple(m for m in one.lines if m.verdict is not Verdict.SHORT or (m.code, m.sentence) not in shared)

    kept = [_completed(studio, scene, replace(one, lines=own_of(one))) for one in found]
    return SupportTable(tuple(sorted(kept, key=_rank)), always)


def _completed(studio: Studio, scene: Scene, option: Option) -> Option:
    """An option that plans what it uses of things only considered, and the weights the kit lacks for it."""
    if option.used:
        return option
    label = f"Take the {option.stand.called}"
    whole = complete(studio, scene.plan.id, Proposal(label, option.edit))
    return replace(option, edit=whole.edit, besides=whole.label.removeprefix(label).removeprefix("; "))


def _under_light(scene: Scene, path: str, own: Sequence[Stand], more: Sequence[Stand]) -> list[Option]:
    light = scene.light_at(path)
    if light is None or light.mount is None:
        return []
    alone = [(item, None) for item in (*own, *more) if item.use != ARM]
    on_stands = [(item, column) for item in (*own, *more) if item.use == ARM for column in _columns(own, more, light)]
    pairs = [*alone, *on_stands]
    return [_best(_rigged_up(scene, light, item, column, more)) for item, column in pairs]


def _under_card(scene: Scene, path: str, own: Sequence[Stand], more: Sequence[Stand]) -> list[Option]:
    place = by_id(scene.plan.props, path.rsplit("/", 1)[-1])
    item = scene.gear.get(place.item or "") if place is not None else None
    if place is None or place.x is None or place.y is None or not isinstance(item, Board) or abs(place.tilt) >= FLAT:
        return []
    stands = [stand for stand in (*own, *more) if stand.use in CARD_STANDS]
    return [_best(_clamped(scene, path, place, stand, more)) for stand in stands]


def _clamped(scene: Scene, path: str, place: PropPlace, stand: Stand, more: Sequence[Stand]) -> Iterable[Option]:
    """A card on a stand where it is, nearer to the subject and farther off."""
    for way in WAYS:
        there = held_and_weighted(scene, drawn_near(scene, place, way), stand)
        tried = held_by(scene, there, stand)
        moved = {name: new for name in ("x", "y") if (new := getattr(there, name)) != getattr(place, name)}
        fields = moved | {"support": stand.id, "bag": there.bag}
        bought = (stand,) if stand in more else ()
        edit = _put(SetFields(target=path, fields=fields), bought, f"Hold it with the {stand.called}")
        used = stand.id == place.support and not way
        yield Option(stand, used, there, _judged(tried, path, stand), edit, bought=bought, moved=way)


def _best(options: Iterable[Option]) -> Option:
    """The first of some ways to set one support up that has nothing short or unknown, or what has least of it."""
    tried: list[Option] = []
    for one in options:
        tried.append(one)
        if one.works:
            break
    return min(tried, key=lambda one: (len(one.short), len(one.unknown), len(one.tight)))


def _columns(own: Sequence[Stand], more: Sequence[Stand], light: Light) -> list[Stand]:
    """Stands an arm is tried on: the one it is on and the strongest at hand; on offer where there is none."""
    able = [one for one in own if one.use in COLUMNS] or [one for one in more if one.use in COLUMNS]
    ranked = sorted(able, key=lambda one: (one.id != light.place.stands_on, -(value(one.load) or 0.0), one.id))
    return ranked[:MOST_COLUMNS]


def _rank(option: Option) -> tuple[float, ...]:
    price = float(option.price or 0)
    return (len(option.short), len(option.unknown), len(option.tight), 0.0 if option.ours else 1.0, option.floor, price)


def _rigged_up(
    scene: Scene, light: Light, item: Stand, column: Stand | None, more: Sequence[Stand]
) -> Iterable[Option]:
    """A light on a support as it would be set up; a boom in several directions and lengths."""
    gear = {**scene.gear, item.id: item} | ({} if column is None else {column.id: column})
    bought = tuple(one for one in (item, column) if one is not None and one in more)
    used = item.id == light.place.support and (column is None or column.id == light.place.stands_on)
    for bare in _places(scene, light, item, column):
        tried = _rigged(scene, gear, light, bare)
        place = _of(tried, light)
        put = SetFields(target=light.path, fields={name: getattr(place, name) for name in RIGGED})
        edit = _put(put, bought, f"Put the {light.name} on the {item.called}")
        yield Option(item, used, place, _judged(tried, light.path, item, column), edit, column, bought)


def _places(scene: Scene, light: Light, item: Stand, column: Stand | None) -> Iterable[LightPlace]:
    """The light on that support; a boom drawn out in several ways."""
    bare = light.place.changed(
        support=item.id,
        stands_on=column.id if column else None,
        boom=None,
        boom_length=None,
        joint=None,
        bag=None,
        leg=None,
        counterweight=None,
    )
    reach = value(item.reach)
    if not reach or item.use not in ("boom stand", ARM, "wall boom", "rail or crossbar"):
        yield bare
        return
    assert light.mount is not None
    if item.use == "wall boom" and scene.walls is not None:
        found = feet(scene.walls, light.mount)
        yield from (arm_to_wall(scene.walls, bare, length, index) for length, index, _ in found)
        if found:
            return
    away = light.mount[:2] - (scene.face[:2] if scene.face is not None else light.mount[:2] - (1.0, 0.0))
    straight = math.degrees(math.atan2(away[1], away[0])) if np.linalg.norm(away) > 0.05 else scene.facing + 180.0
    shortest = value(item.shortest) or reach / 2
    lengths = sorted({round(reach, 2), round((reach + shortest) / 2, 2), round(shortest, 2)}, reverse=True)
    for length in lengths:
        for turn in TURNS:
            boom = (straight + turn + 180) % 360 - 180
            yield bare.changed(boom=round(boom, 1), boom_length=length)


def _rigged(scene: Scene, gear: dict[str, Item], light: Light, place: LightPlace) -> Scene:
    """The set with the light on it, a joint of the kit between, a counterweight and a bag where they are asked for."""
    made = _with(scene, gear, place)
    now = made.light_at(light.path)
    assert now is not None
    made = _with(scene, gear, joined(made, now, {}))
    now = made.light_at(light.path)
    assert now is not None
    place = balanced(made, now)
    return _with(scene, gear, weighted(made, replace(now, place=place)))


def _with(scene: Scene, gear: dict[str, Item], place: LightPlace) -> Scene:
    lights = tuple(place if one.id == place.id else one for one in scene.plan.lights)
    return replace(scene, plan=scene.plan.changed(lights=lights), gear=gear)


def _of(scene: Scene, light: Light) -> LightPlace:
    return next(one for one in scene.plan.lights if one.id == light.place.id)


def _judged(scene: Scene, path: str, *stands: Stand | None) -> tuple[Margin, ...]:
    """Lines of the ledger about what is carried, the way out, and whether there are as many of what carries it."""
    rules = [rule for rule in set_rules() if any(line.step == "support" or line.code in BESIDE for line in rule.lines)]
    found = (margin for rule in rules for margin in rule.of(scene))
    pieces = {f"gear/{one.id}" for one in stands if one is not None}
    return tuple(
        m
        for m in found
        if m.code == WAY_OUT.code or (not pieces.isdisjoint(m.about) if m.code == COUNT.code else path in m.about)
    )


def _put(put: Edit, bought: Sequence[Item], label: str) -> Edit:
    """An edit with what is bought for it."""
    if not bought:
        return put
    new = (one.model_dump(mode="json", exclude_none=True) | {"status": "planned"} for one in bought)
    return Several(edits=(*(Add(list="gear", item=one) for one in new), put), label=label)
