"""What to change before saying no: the smallest change of a shot, or the least sum, that makes it possible.

Settings and light come first (they cost nothing), then how it is taken and what stands in the room, then both. Each
way is carried out and the best kit for that shot alone is searched with it: what is offered works.
"""

from collections import deque
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import chain, combinations, filterfalse, islice, product, takewhile, zip_longest

from evrant.core.base.clock import Clock, standing_still
from evrant.core.edits.language import Edit, Remove, SetFields, Several
from evrant.core.place.moves import change
from evrant.core.place.patterns import PATTERNS
from evrant.core.search.arrange.changes import changes, seated
from evrant.core.search.kit.glance import GLANCES, has_place
from evrant.core.search.kit.optimum import Kit, Search
from evrant.core.search.kit.settings import Lights, Way, bodies, lights
from evrant.core.search.kit.verdicts import Stopped
from evrant.core.search.kit.whynot import never
from evrant.core.space.wanted import OVERHEAD, wanted
from evrant.core.studio.gear import Item, Lamp, Lens
from evrant.core.studio.room import value
from evrant.core.studio.shots import LEAST_KEPT, LIVING, Crop, Pattern, Shot
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say

EACH, WHOLE = 15.0, 60.0
"""How long one way, and all for one shot, are looked for [s]."""
TABLE, SMALL_LAY = 0.72, 0.6
"""What most tables are high, and how far a lay reaches on them [m]."""
HALF = 0.707
"""Share of the picture's sides that leaves half its pixels."""
PLACES = 3
"""So many changes that give a shot a place are gone on with."""
NO_ROOM = object()
SORTS = ("form", "use", "system", "material")
WHOLE_KINDS = frozenset({"camera", "lens", "lead", "part", "board", "table", "tent"})


@dataclass(frozen=True)
class Instead:
    """A way that works: what it costs alone [cents], whether within the sum, and the kit."""

    way: Way
    kit: Kit
    within: bool
    names: dict[str, int]

    @property
    def edit(self) -> Several:
        """The way as one change of the studio."""
        return Several.model_validate({"edits": self.way.edits, "label": " and ".join(self.way.words)[:120]})


def instead(
    studio: Studio,
    library: Sequence[Item],
    shot: Shot,
    budget: int,
    *,
    light: Lights = lights,
    dearer: bool = True,
    whys: Iterable[str] = (),
    stop: Callable[[], bool] = lambda: False,
    clock: Clock = standing_still,
) -> Instead | None:
    """The smallest change with which a shot is made within a budget [cents]; failing that, with any sum. None where
    nothing tried works in its time. `light` are the ways of lighting it that are tried; without `dearer` more money is
    not; `whys` are why recipes of it failed as asked for. Raises Stopped when `stop` says so."""
    end, few = clock() + WHOLE, slim(library, [shot])
    hopeless: set[tuple[str, bool]] = set()
    for least in (budget, None) if dearer else (budget,):
        as_it_is = [Way((), ())] if least is None else []
        todo, told = chain(as_it_is, ways(studio, shot, light, clock)), set[tuple[str, ...]]()
        ahead = deque(_out_of_the_way(studio, shot, tuple(whys)))
        while (way := ahead.popleft() if ahead else next(todo, None)) is not None:
            if stop():
                raise Stopped
            if clock() > end:
                return None
            where = way.place, _in_tent(shot, way)
            if where in hopeless or way.words in told:
                continue
            told.add(way.words)
            found = _tried(studio, few, shot, way, least, stop, clock)
            if isinstance(found, Instead):
                return found
            if found is NO_ROOM:
                hopeless.add(where)
            elif isinstance(found, _Missed):
                ahead += _out_of_the_way(studio, shot, found.whys)
    return None


@dataclass(frozen=True)
class _Missed:
    """Why recipes of a way failed that was not made, as far as it was looked into."""

    whys: tuple[str, ...]


def _out_of_the_way(studio: Studio, shot: Shot, whys: Sequence[str]) -> Iterator[Way]:
    """Furniture that recipes met, moved: what met it is often all that is wrong with them."""
    for one in changes(studio, shot):
        gone = [edit.target.removeprefix("room/boxes/") for edit in one.edits if isinstance(edit, Remove)]
        names = [box.name.lower() for box in studio.room.boxes if box.id in gone]
        if names and all(any(name in why for why in whys) for name in names):
            yield Way((one.label,), one.edits, place=one.label)


def _in_tent(shot: Shot, way: Way) -> bool:
    """Whether a shot changed so is lit in a tent, which keeps the camera off."""
    told = [edit.fields["pattern"] for edit in way.edits if isinstance(edit, SetFields) and "pattern" in edit.fields]
    return (told[-1] if told else shot.pattern) == "tent"


def _tried(
    studio: Studio,
    library: Sequence[Item],
    shot: Shot,
    way: Way,
    budget: int | None,
    stop: Callable[[], bool],
    clock: Clock,
) -> Instead | _Missed | object:
    """The first kit that works for the shot alone, changed so; `NO_ROOM` where no lens at hand fits the room."""
    alone = studio.changed(shots=(shot,), sets=())
    for edit in way.edits:
        alone = change(alone, edit)
    end = clock() + EACH
    search = Search.of(alone, library, stop=lambda: stop() or clock() > end, clock=clock)
    search.stop = lambda: stop() or clock() > end or search.so_far is not None
    try:
        kit = search.best(budget)
    except Stopped:
        kit = search.so_far
    if kit is None or not kit.choice.recipes:
        case = search.cases[0]
        lenses = case.slots["lens"].keys if "lens" in case.slots else ()
        own = {good.key for good in search.market.goods if good.owned and isinstance(good.item, Lens)}
        # where one of one's own stops down or opens no further, it is asked with another light where there is room
        if own <= set(lenses) and lenses and never(search, case, lenses, "lens"):
            return NO_ROOM
        return _Missed(tuple(why for _, why in search.whys()))
    names = {search.market.by_key[key].item.name: count for key, count in kit.choice.bought.items()}
    return Instead(way, kit, budget is not None, names)


def slim(library: Sequence[Item], shots: Sequence[Shot]) -> list[Item]:
    """Of every sort of thing on offer the cheapest and one half-way up: what works with some of them works with all.
    Bulbs only where they are in the picture."""
    steady = {"ring", *(["bulb"] if any(shot.pattern == "practicals" for shot in shots) else [])}
    sorts: dict[tuple[str, ...], list[Item]] = {}
    for item in library:
        if isinstance(item, Lamp) and item.dims_to is None and item.form not in steady:
            continue  # one strength only: it serves at one distance, if at all
        sort = (item.kind, *(str(getattr(item, name, "")) for name in SORTS))
        sorts.setdefault(sort, []).append(item)
    found: list[Item] = []
    for items in sorts.values():
        items.sort(key=lambda one: (one.price is None, one.price or 0, one.id))
        whole = items[0].kind in WHOLE_KINDS or len(items) < 2
        found += items if whole else [items[0], items[len(items) // 2]]
    return found


def ways(studio: Studio, shot: Shot, light: Lights = lights, clock: Clock = standing_still) -> Iterator[Way]:
    """Ways of making a shot possible, the smallest first; where the picture has no place even without lights, those
    that give it one before all others."""
    lit = list(light(studio, shot))
    simple = list(_simpler(shot))
    placed = [*_nearest(studio, shot), *_farther(shot), *_on_table(shot, Say.of(studio.brief)), *_crops(shot)]
    placed += [Way((one.label,), one.edits) for one in changes(studio, shot) if _of_room(one.edits)]
    placed = [replace(way, place=" and ".join(way.words)) for way in placed]
    told: set[tuple[str, ...]] = set()
    both = [first.joined(second) for first, second in product(lit, simple)]
    for way in chain(_roomy(studio, shot, placed, [*simple, *lit, *both], clock), _in_order(lit, simple, placed)):
        if way.words not in told:
            told.add(way.words)
            yield way


def _in_order(lit: Sequence[Way], simple: Sequence[Way], placed: Sequence[Way]) -> Iterator[Way]:
    """One change, of light, of how many lights and of the place in turn, then one of light with one of another sort."""
    for some in zip_longest(lit, simple, placed):
        yield from (way for way in some if way is not None)
    for first, second in chain(product(lit, simple), product(lit, placed)):
        yield first.joined(second)


def _roomy(studio: Studio, shot: Shot, placed: Sequence[Way], light: Sequence[Way], clock: Clock) -> Iterator[Way]:
    """Where the shot has no place as it is: what gives it one, one change or two, by itself and with another light."""
    if not placed or has_place(studio, shot, clock=clock):
        return
    end = clock() + GLANCES

    def serving(some: Iterable[Way]) -> list[Way]:
        in_time = takewhile(lambda way: clock() <= end, some)
        return list(islice((way for way in in_time if has_place(studio, shot, way.edits, clock=clock)), PLACES))

    single = [way for way in placed if len(way.words) == 1]
    double = [way for way in placed if len(way.words) > 1]
    pairs = (first.joined(second) for first, second in combinations(single, 2))
    found = serving(_in_turn(single)) or serving(_in_turn([*double, *pairs]))
    for some in (filterfalse(_of_crop, found), filter(_of_crop, found)):
        group = list(some)
        yield from group
        yield from (more.joined(way) for more, way in product(light, group))


def _in_turn(ways: Sequence[Way]) -> Iterator[Way]:
    """What leaves crop and posture as they are, and what does not, in turn."""
    for some in zip_longest(filterfalse(_of_crop, ways), filter(_of_crop, ways)):
        yield from (way for way in some if way is not None)


def _of_crop(way: Way) -> bool:
    """Whether a way takes less of somebody into the picture, or has them sit."""
    fields = [edit.fields for edit in way.edits if isinstance(edit, SetFields)]
    return any("crop" in one or "posture" in one for one in fields)


Single = tuple[tuple[Pattern, str], ...]
"""One light in place of several; over a group only one from the front is even."""
SENT_BACK: Single = (("bounced", "one light sent back into wall and ceiling"),)
PEOPLES: Single = (("loop", "one light, beside and above"), *SENT_BACK)
GROUPS: Single = (*SENT_BACK, ("butterfly", "one light, high over the lens"))
THINGS: Single = (("side", "one light from a side"),)
BARE = "any background, the bare wall too"


def _simpler(shot: Shot) -> Iterator[Way]:
    """One light where the pattern has several; what lights people sent back, which asks for no height; the bare wall
    where a tone is asked for; then both."""
    target = f"shots/{shot.id}"
    people = sum(subject.kind == "person" for subject in shot.subjects)
    living = any(subject.kind in LIVING for subject in shot.subjects)
    single = GROUPS if people > 2 else PEOPLES if living else THINGS
    beams = len(PATTERNS[shot.pattern].beams) if shot.pattern is not None else 0
    offered = single if beams > 1 else SENT_BACK if beams and living and shot.pattern != "bounced" else ()
    fewer = [Way((words,), (SetFields(target=target, fields={"pattern": pattern}),)) for pattern, words in offered]
    bare = [Way((BARE,), (SetFields(target=target, fields={"tone": None}),))] if shot.tone is not None else []
    yield from (*fewer, *bare)
    for first, second in product(fewer, bare):
        yield first.joined(second)


def _nearest(studio: Studio, shot: Shot) -> Iterator[Way]:
    """From where the lens just focuses, cropped afterwards."""
    asked = wanted(shot)
    framing = [body for body in bodies(studio) if body.sensor_width and body.sensor_height]
    lenses = [item for item in studio.gear if isinstance(item, Lens) and item.status == "owned"]
    for body, lens in product(framing[:1], lenses):
        if asked is None or lens.focal is None or lens.nearest is None:
            continue
        assert body.sensor_width and body.sensor_height
        up = (body.sensor_height if shot.orientation == "landscape" else body.sensor_width).value
        focal = value(lens.focal_long) or lens.focal.value
        kept = round(asked.height.value / ((lens.nearest.value / 1.05 - 2 * focal) * up / focal * 1.15), 3)
        if LEAST_KEPT <= kept < shot.kept:
            words = f"from where the lens just focuses, cropped to {kept**2:.0%} of the pixels"
            yield Way((words,), (SetFields(target=f"shots/{shot.id}", fields={"kept": kept}),))


def _farther(shot: Shot) -> Iterator[Way]:
    """From farther off: of a thing the camera's stand is out of the way of lights and table, and behind people a short
    lens sees less of the room."""
    if shot.kept == 1.0 and all(subject.kind in (*LIVING, "object") for subject in shot.subjects):
        words = f"from farther off, cropped to {HALF**2:.0%} of the pixels"
        yield Way((words,), (SetFields(target=f"shots/{shot.id}", fields={"kept": HALF}),))


def _on_table(shot: Shot, tell: Say) -> Iterator[Way]:
    """What lies on the floor under the camera: on a table, its stand finds room beneath; less of it; then both. Of what
    stands on a table already, less."""
    low = [one for one in shot.subjects if one.kind in ("object", "garment") and not (one.base and one.base.value)]
    less = _less(shot, tell)
    if shot.angle < OVERHEAD or not low or len(low) != len(shot.subjects):
        yield from less
        return
    raised = tuple(SetFields(target=f"shots/{shot.id}/subjects/{one.id}", fields={"base": TABLE}) for one in low)
    table = Way((f"lay it on a table of {tell.length(TABLE)}",), raised)
    yield table
    yield from less
    yield from (table.joined(one) for one in less)


def _less(shot: Shot, tell: Say) -> list[Way]:
    """No more of several things than a small table takes, where more was wanted."""
    lies = shot.angle >= OVERHEAD
    laid = [one for one in shot.subjects if one.kind == "object" or (lies and one.kind == "garment")]
    wide = max((max(value(one.width) or 0.0, value(one.depth) or 0.0) for one in laid), default=0.0)
    if wide <= SMALL_LAY or len(laid) != len(shot.subjects):
        return []
    share = SMALL_LAY / wide
    sizes = [
        {name: round(figure.value * share, 2) for name in ("width", "depth") if (figure := getattr(one, name))}
        for one in laid
    ]
    targets = [f"shots/{shot.id}/subjects/{one.id}" for one in laid]
    edits = tuple(SetFields.model_validate({"target": t, "fields": f}) for t, f in zip(targets, sizes, strict=True))
    return [Way((f"lay out no more than {tell.length(SMALL_LAY)} across",), edits)]


CROPS: tuple[Crop, ...] = ("full length", "three-quarter", "half length", "head and shoulders")


def _crops(shot: Shot) -> Iterator[Way]:
    """Every tighter crop, the nearest first; then seated."""
    if shot.crop not in CROPS:
        return
    tighter = CROPS[CROPS.index(shot.crop) + 1 :]
    standing = [one for one in shot.subjects if one.kind == "person" and one.posture == "standing"]
    sit = tuple(
        SetFields(target=f"shots/{shot.id}/subjects/{one.id}", fields={"posture": "seated"}) for one in standing
    )
    crops = [
        Way((f"crop to {crop}",), (SetFields(target=f"shots/{shot.id}", fields={"crop": crop}),)) for crop in tighter
    ]
    yield from crops
    for way in crops if sit else ():
        yield Way((seated(len(standing)), *way.words), (*sit, *way.edits))


def _of_room(edits: Iterable[Edit]) -> bool:
    """Whether a change is one of room or picture, crops aside: what could be bought is on the market anyway."""
    crops = any(isinstance(edit, SetFields) and "crop" in edit.fields for edit in edits)
    return not crops and not any(_touches_gear(edit) for edit in edits)


def _touches_gear(edit: Edit) -> bool:
    return str(getattr(edit, "target", getattr(edit, "list", ""))).startswith("gear")
