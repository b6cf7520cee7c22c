"""Does the longest thing go into a storage place, and everything into all of them? Codes stow.length, stow.place,
stow.volume, stow.load, stow.turn."""

from collections.abc import Iterable

from evrant.core.base.estimate import Estimate, Share, estimate
from evrant.core.base.margins import Basis, Line, Margin, judge, unknown
from evrant.core.base.memo import Memo
from evrant.core.base.quantity import Figure
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import Proposal, StudioRule
from evrant.core.space.scene import Scene
from evrant.core.stowage.packing import Packed, pack
from evrant.core.stowage.passage import passes
from evrant.core.stowage.pieces import Piece, kept, pieces_of, spaces_of, struck, unmeasured
from evrant.core.studio.gear import Item
from evrant.core.studio.room import Passage, Place
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say

LENGTH = Line(
    "stow.length",
    "Longest thing to stow",
    "m",
    Basis(
        "packed length ≤ √(a² + b² + c²) of the place's inside",
        "Space diagonal of a cuboid; a thin thing leans corner to corner",
        "published",
    ),
    asks="Does the longest packed thing go into a storage place?",
    step="stow",
    goes=True,
)


PLACE = Line(
    "stow.place",
    "Everything struck and stowed",
    "parts",
    Basis(
        "every struck thing in a place: inside it, resting on seven tenths of its base, nothing on fragile things, "
        "rolls upright, loads kept",
        "Search over several orders of packing; what it leaves might fit by another hand",
        "computed",
    ),
    asks="Does everything that is struck find a place, packed in three dimensions?",
    step="stow",
)
VOLUME = Line(
    "stow.volume",
    "Room for everything",
    "litre",
    Basis("Σ packed sides ≤ Σ inside of the places", "Cuboids; no packing fills a place", "computed"),
    asks="Do the places have more room than everything takes?",
    step="stow",
)
LOAD = Line(
    "stow.load",
    "Weight stowed",
    "kg",
    Basis("Σ mass of what is struck ≤ Σ what the places may carry", "Masses and loads as entered", "declared"),
    asks="Do the places carry everything?",
    step="stow",
    safety=True,
)
TURN = Line(
    "stow.turn",
    "Through …",
    "m",
    Basis(
        "longest rigid thing ≤ √(level² + (height − thickness)²), level = min over θ of (a sin θ + b cos θ − w)/(sin θ"
        " cos θ)",
        "The ladder round a corner, any calculus textbook; tilted as the free height lets it",
        "published",
    ),
    asks="Does the longest thing get round the turn on the way in?",
    step="stow",
)
SOFT = frozenset({"fabric"})
LEDGER_STARTS = 20
_PACKED: Memo[Packed] = Memo(4_000_000, lambda packed: 400 * (1 + len(packed.puts) + len(packed.left)))


def margins(studio: Studio) -> Iterable[Margin]:
    """Length, packing, volume, load and the way in."""
    if not studio.sets or not kept(studio.gear):
        return
    yield from _ways(studio)
    if studio.brief.schools.standing == "leave it standing":
        return
    yield from _length(studio)
    if studio.room.places:
        yield from _together(studio)


def _together(studio: Studio) -> Iterable[Margin]:
    """Everything that is struck, in all places at once."""
    spaces, lacking = spaces_of(studio.room.places), unmeasured(studio)
    about, title = ("room",), "Everything struck and stowed"
    if not spaces:
        return
    if lacking:
        names = ", ".join(item.name for item in lacking[:3]) + (
            "" if len(lacking) < 4 else f" and {len(lacking) - 3} more"
        )
        words = f"Packed sides or mass are missing: {names}."
        find = "Measure it packed: three sides, and a scale."
        where = (f"gear/{lacking[0].id}", *about)
        yield unknown(
            PLACE,
            where,
            words,
            find,
            title=title,
            subject=about[0],
        )
        return
    pieces, found = _packing(studio)
    left = len(found.left)
    first = found.left[0] if found.left else None
    names = ", ".join(dict.fromkeys(one.piece.name for one in found.left[:4]))
    yield judge(
        PLACE,
        about,
        Estimate(-float(left) if left else 1.0),
        title=title,
        need=float(len(pieces)),
        have=float(len(found.puts)),
        clear="Everything that is struck finds a place.",
        short=f"{left} of {len(pieces)} things find no place when the room is struck: {names}.",
        reason=f"{first.piece.name}: {first.why}." if first else f"{len(pieces)} things in {len(spaces)} places.",
    )
    yield from _volume(studio)
    yield from _load(studio)


def _packing(studio: Studio) -> tuple[list[Piece], Packed]:
    """The ledger's packing, kept as long as gear and places stay the same."""
    pieces = pieces_of(studio.gear)
    parts = (studio.gear, studio.room.places)
    return pieces, _PACKED.get("stow", parts, lambda: pack(pieces, spaces_of(studio.room.places), LEDGER_STARTS))


def _volume(studio: Studio) -> Iterable[Margin]:
    """Litres."""
    shares: list[Share] = []
    need = have = 0.0
    for item in struck(studio.gear):
        sides = (item.packed_length, item.packed_width, item.packed_height)
        need += item.quantity * _times(sides)
        shares += _side_shares(item.called, sides, item.quantity)
    for place in studio.room.places:
        inside = (place.length, place.width, place.height)
        if all(inside):
            have += _times(inside)
            shares += _side_shares(place.name, inside, 1)
    say = Say.of(studio.brief)
    yield judge(
        VOLUME,
        ("room",),
        Estimate(have - need, tuple(shares)),
        need=need,
        have=have,
        clear="The places hold more than everything takes.",
        short="Everything together takes more room than all places have.",
        reason=f"{say.litres(need)} packed, {say.litres(have)} in all places; packing leaves gaps besides.",
    )


def _times(sides: tuple[Figure | None, ...]) -> float:
    """Volume of a box [l]."""
    found = 1000.0
    for side in sides:
        found *= side.value if side else 0.0
    return found


def _side_shares(name: str, sides: tuple[Figure | None, ...], count: int) -> list[Share]:
    """How the ± of each side moves the volume [l]."""
    return [
        Share(f"packed size of the {name}", count * _times(sides) / side.value * side.pm)
        for side in sides
        if side and side.value > 0
    ]


def _load(studio: Studio) -> Iterable[Margin]:
    """Kilograms, where every place says what it carries."""
    places = studio.room.places
    if any(place.load is None for place in places):
        place = next(place for place in places if place.load is None)
        words = f"What {place.name} may carry is not said."
        find = "Ask whoever put it up, or take what a light shelf bears: about 10 kg a board."
        yield unknown(
            LOAD,
            (f"room/places/{place.id}", "room"),
            words,
            find,
            subject="room",
        )
        return
    shares: list[Share] = []
    need = 0.0
    for item in struck(studio.gear):
        if item.mass:
            need += item.quantity * item.mass.value
            shares.append(Share(f"mass of the {item.called}", item.quantity * item.mass.pm))
    loads = [place.load for place in places if place.load]
    have = sum(load.value for load in loads)
    shares += [Share("load of a place", load.pm) for load in loads]
    say = Say.of(studio.brief)
    yield judge(
        LOAD,
        ("room",),
        Estimate(have - need, tuple(shares)),
        need=need,
        have=have,
        clear="The places carry everything.",
        short="Everything together is heavier than the places may carry.",
        reason=f"{say.mass(need)} of gear; the places carry {say.mass(have)}.",
    )


def _ways(studio: Studio) -> Iterable[Margin]:
    """The longest rigid thing round every turn on the way in."""
    for passage in studio.room.passages:
        yield from _way(studio, passage)


def _way(studio: Studio, passage: Passage) -> Iterable[Margin]:
    about = f"room/passages/{passage.id}"
    title = f"Through {passage.name}"
    rigid = [item for item in kept(studio.gear) if item.packed_length and not _soft(item)]
    if not rigid:
        return
    if passage.width is None or (passage.kind == "turn" and passage.beyond is None):
        words = f"The widths at {passage.name} are not measured."
        yield unknown(
            TURN,
            (about,),
            words,
            "Measure before and after the turn.",
            title=title,
        )
        return
    longest = min(rigid, key=lambda item: _spare(passage, item))
    thick = longest.packed_height or longest.packed_width
    length = longest.packed_length
    assert length is not None
    free = passes(passage, thick.value if thick else 0.0)
    if free is None or free == float("inf"):
        return

    def spare(width: float, beyond: float, height: float, packed_length: float, thickness: float) -> float:
        at = passage.changed(
            width=_as(passage.width, width), beyond=_as(passage.beyond, beyond), height=_as(passage.height, height)
        )
        return (passes(at, thickness) or 0.0) - packed_length

    result = estimate(
        spare,
        width=passage.width,
        beyond=passage.beyond or 0.0,
        height=passage.height or 0.0,
        packed_length=length,
        thickness=thick or 0.0,
    )
    say = Say.of(studio.brief)
    yield judge(
        TURN,
        (about, f"gear/{longest.id}"),
        result,
        title=title,
        need=length.value,
        have=free,
        clear="The longest thing gets round.",
        short=f"The {longest.called} does not get through {passage.name}.",
        reason=f"{longest.name}: {say.length(length.value)}; {say.length(free)} is the longest that gets round there.",
    )


def _as(figure: Figure | None, value: float) -> Figure | None:
    return None if figure is None else Figure(value, figure.pm, figure.origin)


def _soft(item: Item) -> bool:
    """Cloth bends round any corner."""
    return getattr(item, "material", None) in SOFT


def _spare(passage: Passage, item: Item) -> float:
    thick = item.packed_height or item.packed_width
    return (passes(passage, thick.value if thick else 0.0) or 0.0) - (
        item.packed_length.value if item.packed_length else 0.0
    )


def _length(studio: Studio) -> Iterable[Margin]:
    """The longest packed thing that is put away, against the best place for it."""
    kit = struck(studio.gear)
    about_room = "room"
    title = "Longest thing to stow"
    if not kit:
        return
    if not studio.room.places:
        yield unknown(
            LENGTH,
            (about_room,),
            "No storage place is described.",
            "Say where things go when they are struck.",
            title=title,
        )
        return
    unmeasured = [
        item for item in kit if item.packed_length is None and item.kind in ("backdrop", "holder", "stand", "board")
    ]
    if unmeasured:
        names = ", ".join(item.name for item in unmeasured[:3])
        yield unknown(
            LENGTH,
            (f"gear/{unmeasured[0].id}", about_room),
            f"The packed length is missing: {names}.",
            "The data sheet gives it.",
            title=title,
        )
        return
    packed = [item for item in kit if item.packed_length is not None]
    places = [place for place in studio.room.places if place.length and place.width and place.height]
    if not packed or not places:
        if packed:
            yield unknown(
                LENGTH,
                (f"room/places/{studio.room.places[0].id}",),
                "No storage place is measured inside.",
                "Measure its inside width, depth and height.",
                title=title,
            )
        return
    longest = max(packed, key=lambda item: item.packed_length.value if item.packed_length else 0.0)
    best = max(places, key=_diagonal)
    assert longest.packed_length and best.length and best.width and best.height

    def spare(inside_width: float, inside_depth: float, inside_height: float, packed_length: float) -> float:
        return float((inside_width**2 + inside_depth**2 + inside_height**2) ** 0.5) - packed_length

    result = estimate(
        spare,
        inside_width=best.length,
        inside_depth=best.width,
        inside_height=best.height,
        packed_length=longest.packed_length,
    )
    have = result.value + longest.packed_length.value
    say = Say.of(studio.brief)
    yield judge(
        LENGTH,
        (f"gear/{longest.id}", f"room/places/{best.id}"),
        result,
        title=title,
        need=longest.packed_length.value,
        have=have,
        clear=f"The longest thing fits into {best.name}.",
        short=f"The {longest.called} is too long for {best.name}.",
        reason=f"{longest.name}: {say.length(longest.packed_length.value)} packed; {best.name} takes "
        f"{say.length(have)} corner to corner.",
    )


def _diagonal(place: Place) -> float:
    sides = [side.value for side in (place.length, place.width, place.height) if side]
    return float(sum(side**2 for side in sides) ** 0.5)


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Leave the long thing out of the plan, and use a shorter one where a set uses it."""
    if margin.margin is None or margin.code in ("stow.volume", "stow.load"):
        return
    if margin.code == "stow.place":
        yield from _leave_out(studio)
        return
    key = next((path for path in margin.about if path.startswith("gear/")), "").removeprefix("gear/")
    long = next((item for item in studio.gear if item.id == key), None)
    if long is None:
        return
    for plan in studio.sets:
        for field in ("backdrop", "holder"):
            if getattr(plan.background, field) != key:
                continue
            for item in studio.gear:
                if item.kind == field and item.id != key and item.packed_length:
                    yield Proposal(
                        f"Hang the {item.called} in “{plan.name}” instead",
                        SetFields(target=f"sets/{plan.id}/background", fields={field: item.id}),
                    )
    if long.status == "planned":
        yield Proposal(
            f"Only consider the {long.called}", SetFields(target=f"gear/{key}", fields={"status": "considered"})
        )
    yield _left_there(long)


def _leave_out(studio: Studio) -> Iterable[Proposal]:
    """Things that find no place, left out of the plan."""
    _, found = _packing(studio)
    for key in dict.fromkeys(one.piece.item for one in found.left):
        item = next((one for one in studio.gear if one.id == key), None)
        if item is not None and item.status == "planned":
            yield Proposal(
                f"Only consider the {item.called}", SetFields(target=f"gear/{key}", fields={"status": "considered"})
            )
        elif item is not None:
            yield _left_there(item)


def _left_there(item: Item) -> Proposal:
    words = f"Leave the {item.called} in the room"
    return Proposal(words, SetFields(target=f"gear/{item.id}", fields={"stowed": "stays in the room"}))


RULE = StudioRule(
    "stow",
    margins,
    (
        LENGTH,
        PLACE,
        VOLUME,
        LOAD,
        TURN,
    ),
    propose,
    places=False,
)
