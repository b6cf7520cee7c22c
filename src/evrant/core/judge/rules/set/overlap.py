"""Do bodies stand clear of each other, of the door and of what must stay free? Codes fit.overlap, fit.door,
fit.zone."""

import math
from collections.abc import Callable, Container, Iterable, Sequence
from dataclasses import dataclass, replace
from functools import partial
from typing import Any

import numpy as np
from numpy.typing import NDArray

from evrant.core.base.estimate import Estimate, Share
from evrant.core.base.margins import PLACED, PLACED_BOTH, Basis, Line, Margin, judge
from evrant.core.base.memo import Memo, is_plain
from evrant.core.base.model import Model
from evrant.core.base.quantity import Figure
from evrant.core.judge.rules.rule import GEOMETRY, SetRule
from evrant.core.judge.rules.set import fit
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Vector, coarse_separations, separation
from evrant.core.space.things import Part, Thing, box_thing, keep_free, zone_thing
from evrant.core.space.twins import twins
from evrant.core.studio.gear import HANGING, Item, Table, Tent
from evrant.core.studio.room import Door
from evrant.core.studio.sets import PropPlace
from evrant.core.studio.studio import by_id
from evrant.core.studio.words import Say

OVERLAP = Line(
    "fit.overlap",
    "… clear of other things",
    "m",
    Basis(
        "greatest gap over all directions between two convex bodies ≥ 0",
        "Hyperplane separation theorem; true outlines",
        "computed",
    ),
    asks="Do things stand clear of each other, of furniture and of boxed-in pipes?",
    step="set",
    search="placed",
    fails=True,
    helped_by=("room/boxes", "gear/", "background_gap", "lens"),
)
DOOR = Line(
    "fit.door",
    "Swing of the …",
    "m",
    Basis(
        "gap between the door's quarter cylinder and everything standing ≥ 0",
        "Hyperplane separation theorem; true outlines",
        "computed",
    ),
    asks="Does the door open past everything?",
    step="set",
    safety=True,
    search="placed",
    fails=True,
    hazards=("Way out",),
    helped_by=("swing",),
)
ZONE = Line(
    "fit.zone",
    "Free: …",
    "m",
    Basis(
        "gap between the floor to keep free (up to 1.90 m) and everything standing ≥ 0",
        "Hyperplane separation theorem; true outlines",
        "computed",
    ),
    asks="Do the parts of the floor that must stay free stay free?",
    step="set",
    search="placed",
    fails=True,
)
MOST_PAIRS = 10
"""Pairs of a thing taken exactly, nearest first by the coarse search, which never overstates a gap."""
SOLID_PAIRS: dict[str, frozenset[str]] = {
    # what each kind is judged against, in the order in which lines are told; legs stand astride of table legs: three
    # of them a hand's breadth off four are clear of them by a turn, for each takes under 15° of the 120° they can be
    # turned through
    "light": frozenset({"light", "holder", "backdrop", "subject", "prop", "box", "camera", "operator", "person"}),
    "camera": frozenset({"subject", "prop", "box", "holder", "person"}),
    "holder": frozenset({"subject", "prop", "box", "person"}),
    "backdrop": frozenset({"box", "prop"}),
    "prop": frozenset({"box", "prop", "operator", "person"}),
    "operator": frozenset({"box", "subject"}),
    "subject": frozenset({"box", "person", "prop"}),
    "person": frozenset({"box", "person", "operator"}),
    "door": frozenset({"light", "holder", "backdrop", "subject", "prop", "camera"}),
    "zone": frozenset({"light", "holder", "backdrop", "prop", "camera", "subject"}),
}
LEFT_STANDING = frozenset({"light", "camera", "holder", "backdrop", "prop"})
"""What a set beside leaves in the room, and nothing of this set may stand in: of one set holder and background, or
background and table, belong together, of two they do not."""


@dataclass(frozen=True)
class _Pair:
    first: Thing
    second: Thing
    parts: tuple[Part, Part]
    gap: float
    way: Vector

    @property
    def things(self) -> tuple[Thing, Thing]:
        return self.first, self.second

    @property
    def paths(self) -> tuple[str, str]:
        return self.first.path, self.second.path


_LINES: Memo[Margin] = Memo(6_000_000, lambda line: 1800)
_GAPS: Memo[tuple[float, Vector]] = Memo(6_000_000, lambda found: 500)


def margins(
    scene: Scene, firsts: Container[str] = SOLID_PAIRS, among: tuple[Thing, ...] | None = None
) -> Iterable[Margin]:
    """Bodies against each other: the nearest neighbour of everything that stands in the set, or of what is of one of
    the kinds in `firsts`; with `among`, of these things alone."""
    things = scene.around if among is None else among
    flat = [(i, part) for i, thing in enumerate(things) for part in thing.parts]
    if len(flat) < 2:
        return
    crowd = _Crowd(things, flat, [_whose(scene, thing) for thing in things], firsts, _holding(scene))
    told: list[_Pair] = []
    for path, members in crowd.in_turn().items():
        known = {other.path for pair in told for other in pair.things if path in pair.paths}
        found = [pair for i in members if (pair := crowd.nearest(i, known)) is not None]
        if found:
            told.append(min(found, key=lambda pair: pair.gap))
    for pair in told:
        build = {"door": _door_line, "zone": _zone_line}.get(pair.first.kind)
        nearer = None if build else _nearer(pair, told)
        parts = (scene.brief, scene.room, *pair.things, *(nearer.things if nearer else ()))
        yield _LINES.get(scene.path, parts, partial(build or partial(_pair_line, nearer=nearer), scene, pair))


def _nearer(pair: _Pair, told: Sequence[_Pair]) -> _Pair | None:
    """What is nearer to a pair's first thing and told under the other's name: the nearest of it."""
    others = (one for one in told if one.second.path == pair.first.path and one.gap < pair.gap)
    return min(others, key=lambda one: one.gap, default=None)


class _Crowd:
    """Everything that stands about, and who is judged against whom. A pair is told once, under the first of the two
    that has nothing nearer: so none is left out but where both have worse to tell."""

    def __init__(
        self,
        things: tuple[Thing, ...],
        flat: list[tuple[int, Part]],
        whose: Sequence[int],
        firsts: Container[str],
        holding: Container[str],
    ) -> None:
        self.things, self.flat, self.whose = things, flat, whose
        self.owners = np.array([i for i, _ in flat])
        self.reach = np.vstack([thing.reach for thing in things])
        self.legs = np.array([part.kind == "legs" for _, part in flat])
        self.posts = np.array([things[i].kind == "prop" and part.kind == "column" for i, part in flat])
        asked = [i for i, thing in enumerate(things) if thing.kind in SOLID_PAIRS and thing.kind in firsts]
        self.homes = {i: _may_collide(things, whose, i, holding) for i in asked}

    def in_turn(self) -> dict[str, list[int]]:
        """Numbers of what has lines by path, in the order in which they are told; of a set's beside nothing has."""
        turns = {kind: turn for turn, kind in enumerate(SOLID_PAIRS)}
        beside = [home for i, home in self.homes.items() if self.whose[i] == BESIDE]
        own = {i for i, whose in enumerate(self.whose) if whose != BESIDE and self.things[i].kind in SOLID_PAIRS}
        own = {i for i in own if i in self.homes or any(home[i] for home in beside)}
        found: dict[str, list[int]] = {}
        for i in sorted(own, key=lambda i: (turns[self.things[i].kind], i)):
            found.setdefault(self.things[i].path, []).append(i)
        return found

    def nearest(self, index: int, known: Container[str]) -> _Pair | None:
        """The nearest to a thing of what it is judged against and is not `known` already, by path."""
        first = self.things[index]
        home = self.homes.get(index, np.zeros(len(self.things), dtype=bool))
        against = home.copy()
        for i, theirs in self.homes.items():
            if first.kind not in ALONE and self.things[i].kind not in ALONE and theirs[index]:
                against[i] = True
        against &= np.array([thing.path not in known for thing in self.things])
        if not against.any():
            return None
        own = self.owners == index
        astride = (self.legs[own][:, None] & self.posts) | (self.posts[own][:, None] & self.legs)
        apart = against[self.owners] & ~astride
        gaps = np.where(apart, coarse_separations(self.reach[own], self.reach), np.inf)
        pair = _nearest(self.things, self.flat, gaps, self.owners, index)
        return pair if pair is not None and (home.any() or pair.gap < BLOCKS) else None


ALONE = ("door", "zone")
"""Kinds whose pairs are told under their own name only."""
BLOCKS = 0.05
"""What nothing is judged against under its own name has a line where something is within so much [m]."""
BESIDE, ROOMS, MINE = 0, 1, 2
"""Whose a thing is: a set's beside, the room's, the set's own; what is beside is judged against the own alone."""


def _whose(scene: Scene, thing: Thing) -> int:
    if not scene.owns(thing):
        return BESIDE
    return MINE if thing.path.startswith(f"{scene.path}/") else ROOMS


RESTS = 0.02
"""What begins so near to where a prop ends stands on it [m]."""


def _rests(first: Thing, other: Thing) -> bool:
    """Whether a prop or the subject stands or lies on another prop."""
    if first.kind not in ("prop", "subject") or other.kind != "prop":
        return False
    one, two = first.cloud[:, 2], other.cloud[:, 2]
    return bool(min(abs(one.min() - two.max()), abs(two.min() - one.max())) <= RESTS)


def _steps_aside(first: Thing, other: Thing) -> bool:
    """Whether somebody in the picture stands before furniture, which is opened when they have stepped aside."""
    return first.kind == "zone" and other.kind == "subject" and first.path.startswith("room/boxes/")


def _holding(scene: Scene) -> frozenset[str]:
    """Paths of what a subject hangs on, sits on, lies on or is put into."""
    items = ((place, scene.gear.get(place.item or "")) for place in scene.plan.props)
    return frozenset(f"{scene.path}/props/{place.id}" for place, item in items if _holds(scene, place, item))


def _holds(scene: Scene, place: PropPlace, item: Item | None) -> bool:
    if isinstance(item, Tent) or (isinstance(item, Table) and item.form in HANGING):
        return True
    low = any(one.posture in ("seated", "kneeling", "lying") for one in scene.shot.subjects)
    if not low or not isinstance(item, Table):
        return False
    return item.form == "stool" or _under_mark(scene, place, item)


def _under_mark(scene: Scene, place: PropPlace, item: Table) -> bool:
    """Whether a table stands over the mark: whoever is there sits or lies on it, for nobody is inside it."""
    if scene.mark is None or None in (place.x, place.y, item.length, item.width):
        return False
    assert place.x is not None and place.y is not None and item.length is not None and item.width is not None
    turn, away = math.radians(place.turn), scene.mark - (place.x, place.y)
    along = abs(away[0] * math.cos(turn) + away[1] * math.sin(turn))
    across = abs(away[1] * math.cos(turn) - away[0] * math.sin(turn))
    return bool(along <= item.length.value / 2 and across <= item.width.value / 2)


def _may_collide(
    things: tuple[Thing, ...], whose: Sequence[int], index: int, holding: Container[str]
) -> NDArray[np.bool_]:
    """Which things one of them is judged against: others of the kinds that count, each pair once."""
    first = things[index]
    wanted = SOLID_PAIRS[first.kind]
    across = wanted | LEFT_STANDING if whose[index] == MINE else wanted
    return np.array(
        [
            i != index
            and other.kind in (across if whose[i] == BESIDE else wanted)
            and other.path != first.path
            and whose[i] + whose[index] >= ROOMS + ROOMS
            and not (other.kind == first.kind and i < index)
            and not _rests(first, other)
            and not _steps_aside(first, other)
            and not (first.kind == "subject" and other.path in holding)
            for i, other in enumerate(things)
        ]
    )


def _nearest(
    things: tuple[Thing, ...],
    flat: list[tuple[int, Part]],
    block: NDArray[np.float64],
    owners: NDArray[np.intp],
    index: int,
) -> _Pair | None:
    """The nearest part of another thing to a part of this one, by the coarse gaps (own parts, all parts)."""
    rows = np.flatnonzero(owners == index)
    order = np.argsort(block, axis=None)[:MOST_PAIRS]
    best: _Pair | None = None
    for place in order:
        r, c = np.unravel_index(place, block.shape)
        coarse = float(block[r, c])
        if not np.isfinite(coarse) or (best is not None and coarse > best.gap):
            break
        first, second = flat[int(rows[r])][1], flat[int(c)][1]
        gap, way = _GAPS.get("", (first.solid, second.solid), partial(separation, first.solid, second.solid))
        if best is None or gap < best.gap:
            best = _Pair(things[index], things[int(owners[c])], (first, second), gap, way)
    return best


def _pair_shares(scene: Scene, pair: _Pair) -> tuple[Share, ...]:
    """How the figures of both things move the gap along the direction that shows it."""
    if is_plain():
        return ()
    shares: list[Share] = []
    for thing, part, sign in ((pair.first, pair.parts[0], 1.0), (pair.second, pair.parts[1], -1.0)):
        number = thing.parts.index(part)
        here = float((part.solid @ pair.way * sign).max())
        if thing.kind == "box":
            shares += _box_shares(scene, thing, pair.way * sign, here)
            continue
        if thing.kind == "zone":
            shares += _zone_shares(scene, thing, pair.way * sign, here)
            continue
        for label, twin in twins(scene, thing):
            if number < len(twin.parts):
                moved = float((twin.parts[number].solid @ pair.way * sign).max())
                shares.append(Share(label, abs(moved - here)))
        if thing.kind == "door":
            shares += _door_shares(scene, thing, pair.way * sign, here)
    return tuple(s for s in shares if s.amount > 1e-9)


def _box_shares(scene: Scene, thing: Thing, way: Vector, here: float) -> list[Share]:
    box = by_id(scene.boxes, thing.path.split("/")[-1])
    fields = ("x", "y", "length", "width", "base", "height")
    return _moved_shares(box, fields, thing.name, box_thing, way, here)


def _zone_shares(scene: Scene, thing: Thing, way: Vector, here: float) -> list[Share]:
    keys = thing.path.split("/")
    if keys[1] == "boxes":
        box = by_id(scene.boxes, keys[2])
        fields = ("x", "y", "length", "width", "keep_free")
        return _moved_shares(box, fields, thing.name, keep_free, way, here)
    zone = by_id(scene.room.zones, keys[2])
    return _moved_shares(zone, ("x", "y", "length", "width", "clearance"), thing.name, zone_thing, way, here)


def _door_shares(scene: Scene, thing: Thing, way: Vector, here: float) -> list[Share]:
    door = by_id(scene.room.doors, thing.path.split("/")[-1])

    def rebuilt(changed: Model) -> Thing | None:
        assert isinstance(changed, Door)
        return replace(scene).door_thing(changed)

    return _moved_shares(door, ("offset", "width"), thing.name, rebuilt, way, here)


def _moved_shares(
    model: Model | None,
    fields: tuple[str, ...],
    name: str,
    build: Callable[[Any], Thing | None],
    way: Vector,
    here: float,
) -> list[Share]:
    shares = []
    for field in fields:
        figure = getattr(model, field, None)
        if model is None or not isinstance(figure, Figure) or figure.pm == 0:
            continue
        twin = build(model.changed(**{field: figure.moved()}))
        if twin is not None:
            moved = float((twin.parts[0].solid @ way).max())
            shares.append(Share(f"{field} of the {name}", abs(moved - here)))
    return shares


def _meeting(pair: _Pair) -> tuple[float, float, float]:
    first = pair.parts[0].solid
    second = pair.parts[1].solid
    a = first[int((first @ pair.way).argmax())]
    b = second[int((second @ pair.way).argmin())]
    small = np.ptp(first, axis=0).sum() <= np.ptp(second, axis=0).sum()
    x, y, z = a if small else b
    return float(x), float(y), float(z)


def _part_name(thing: Thing, part: Part) -> str:
    """What of a thing meets something: its stand by name, else the thing."""
    return (
        f"{thing.name}'s stand" if part.kind in ("legs", "column") and thing.kind in ("light", "camera") else thing.name
    )


def _pair_line(scene: Scene, pair: _Pair, *, nearer: _Pair | None) -> Margin:
    """`nearer`: what is nearer to this thing and told under the other's name."""
    one, other = _part_name(pair.first, pair.parts[0]), _part_name(pair.second, pair.parts[1])
    spare = Estimate(pair.gap, _pair_shares(scene, pair))
    say = Say.of(scene.brief)
    placing = PLACED if pair.second.kind == "box" else PLACED_BOTH
    besides = f" besides the {_part_name(nearer.first, nearer.parts[0])}" if nearer else ""
    nothing = "Nothing else" if nearer and nearer.gap < 0 else "Nothing"
    return judge(
        OVERLAP,
        (pair.first.path, pair.second.path),
        spare,
        title=f"{pair.first.name.capitalize()} clear of other things",
        need=0.0,
        have=pair.gap,
        clear=f"{nothing} is in the way of the {pair.first.name}.",
        short=f"The {one} and the {other} are in each other's way.",
        reason=f"Nearest{besides} is the {other}: {say.gap(pair.gap).lstrip('+')} "
        f"{'between them' if pair.gap >= 0 else 'of overlap'}.",
        at=_meeting(pair),
        placing=placing,
    )


def _zone_line(scene: Scene, pair: _Pair) -> Margin:
    zone, other = pair.first, pair.second
    say = Say.of(scene.brief)
    about = (f"{scene.path}/zones/{'-'.join(zone.path.split('/')[1:])}", zone.path, other.path)
    return judge(
        ZONE,
        about,
        Estimate(pair.gap, _pair_shares(scene, pair)),
        title=f"Free: {zone.name}",
        need=0.0,
        have=pair.gap,
        clear=f"The {zone.name} stays free while this set stands.",
        short=f"The {other.name} takes up the {zone.name}.",
        reason=f"Nearest is the {_part_name(other, pair.parts[1])}, {say.short_by(pair.gap)} "
        f"{'away' if pair.gap >= 0 else 'inside'}.",
        at=_meeting(pair),
        placing=PLACED,
    )


def _door_line(scene: Scene, pair: _Pair) -> Margin:
    door, other = pair.first, pair.second
    say = Say.of(scene.brief)
    about = (f"{scene.path}/doors/{door.path.split('/')[-1]}", door.path, other.path)
    held = scene.plan.doors == "stay open"
    return judge(
        DOOR,
        about,
        Estimate(pair.gap, _pair_shares(scene, pair)),
        title=f"Where the {door.name} is held" if held else f"Swing of the {door.name}",
        need=0.0,
        have=pair.gap,
        clear=f"Nothing stands where the {door.name} is." if held else f"The {door.name} opens past everything.",
        short=f"The {other.name} is where the {door.name} is held."
        if held
        else f"The {door.name} opens into the {other.name}.",
        reason=f"The leaf passes the {other.name} with {say.gap(pair.gap).lstrip('+')} to spare."
        if pair.gap >= 0
        else f"The {other.name} stands {say.short_by(pair.gap)} inside its swing.",
        at=_meeting(pair),
        placing=PLACED,
    )


RULE = SetRule(
    "overlap",
    margins,
    (
        OVERLAP,
        DOOR,
        ZONE,
    ),
    fit.propose,
    order=7,
    place_order=0,
    reads=GEOMETRY,
)
