"""Does anything hold a card that is off the floor? Codes support.card, support.card_reach, support.card_load."""

from collections import Counter
from collections.abc import Iterable
from typing import Any

from evrant.core.base.estimate import Estimate, Share
from evrant.core.base.margins import PLACED, Basis, Line, Margin, judge, unknown
from evrant.core.base.tables.supports import CARD_STANDS, FEETLESS
from evrant.core.edits.language import Edit, SetFields, Several
from evrant.core.judge.rules.buying import to_buy
from evrant.core.judge.rules.rule import FRAMED, Proposal, SetRule
from evrant.core.judge.rules.support.weights import with_weights
from evrant.core.place.cards import LOW, WAYS, drawn_near, moved_on, rests, set_down, way_words
from evrant.core.place.rigging import held_and_weighted
from evrant.core.space.scene import Scene
from evrant.core.space.stands import holds_at
from evrant.core.space.tops import FLAT
from evrant.core.space.volumes import card_middle
from evrant.core.studio.gear import Board, Stand
from evrant.core.studio.sets import PropPlace, used_by
from evrant.core.studio.studio import Studio, by_id
from evrant.core.studio.words import Say

CARD = Line(
    "support.card",
    "What holds the …",
    "parts",
    Basis(
        "a card begins on the floor, or the middle half of its lower edge is on a top, or a stand holds it",
        "Statics; half of the edge: project choice",
        "computed",
    ),
    asks="Does something hold every card that is off the floor?",
    step="support",
    safety=True,
    hazards=("Tipping and falling",),
    helped_by=("props/", "gear"),
    goes=True,
)
REACH = Line(
    "support.card_reach",
    "Stand of the …",
    "m",
    Basis(
        "least height of the stand ≤ middle of the card ≤ its greatest height",
        "Plane geometry; a card is held by its middle, common practice, no source",
        "computed",
    ),
    asks="Does the stand of a card reach (and go down to) its middle?",
    step="support",
    mark="height",
)
LOAD = Line(
    "support.card_load",
    "Load on the stand of the …",
    "kg",
    Basis("mass of the card ≤ what the stand carries", "Maker's figure as entered", "declared"),
    asks="Does the stand of a card carry it?",
    step="support",
    safety=True,
    hazards=("Tipping and falling",),
    mark="load",
)
CARD_STAND = "stand-card"
STAND = {"use": "light stand", "min_height": 0.75, "max_height": 1.9, "foot_radius": 0.45, "load": 3.0, "mass": 1.1}
PACKED = {"packed_length": 0.68, "packed_width": 0.09, "packed_height": 0.09}
EUROS = 24
"""A light stand with a clamp as most shops have one, and what both cost; common practice, no source."""


def margins(scene: Scene) -> Iterable[Margin]:
    """What holds each card that stands off the floor and does not lie."""
    for place in scene.plan.props:
        item, stand = scene.gear.get(place.item or ""), scene.gear.get(place.support or "")
        if not isinstance(item, Board) or place.x is None or place.y is None:
            continue
        if isinstance(stand, Stand):
            yield from _held(scene, place, item, stand)
        elif in_the_air(scene, place):
            yield _in_the_air(scene, place, item)


def in_the_air(scene: Scene, place: PropPlace) -> bool:
    """Whether a thing of the set is an upright card off the floor that neither a stand nor a top holds."""
    item = scene.gear.get(place.item or "")
    if not isinstance(item, Board) or place.x is None or place.y is None:
        return False
    held = isinstance(scene.gear.get(place.support or ""), Stand) or abs(place.tilt) >= FLAT
    return not held and scene.base_of(place) > LOW and not rests(scene, place, item)


def _in_the_air(scene: Scene, place: PropPlace, item: Board) -> Margin:
    say = Say.of(scene.brief)
    return judge(
        CARD,
        (f"{scene.path}/props/{place.id}", f"gear/{item.id}"),
        Estimate(-1.0),
        title=f"What holds the {item.called}",
        need=1.0,
        have=0.0,
        clear="",
        short=f"The {item.called} hangs in the air.",
        reason=f"Its underside is {say.length(scene.base_of(place))} above the floor; nothing is under it and no stand "
        "holds it.",
    )


def _held(scene: Scene, place: PropPlace, item: Board, stand: Stand) -> Iterable[Margin]:
    path, say = f"{scene.path}/props/{place.id}", Say.of(scene.brief)
    about, mount = (path, f"gear/{stand.id}"), scene.card_mount(place)
    title = f"Stand of the {item.called}"
    if stand.use in FEETLESS:
        words = f"Whether the {stand.called} holds the {item.called} there is not known."
        find = "Hold it with a stand on feet, or hang it from a rail or hook as a background and judge it there."
        yield unknown(REACH, (path, f"gear/{stand.id}"), words, find, title=title, subject=path)
        return
    if mount is None:
        words = f"The height of the {item.called} is missing."
        yield unknown(REACH, (f"gear/{item.id}", path), words, "Measure it.", title=title, subject=path)
        return
    middle = float(mount[1][2])
    if stand.max_height is None:
        words = f"How high the {stand.called} goes is missing."
        yield unknown(REACH, (about[1], path), words, "Measure it or read its label.", title=title, subject=path)
    else:
        least = stand.min_height.value if stand.min_height else 0.0
        low = middle - least < stand.max_height.value - middle
        figure = stand.min_height if low else stand.max_height
        shares = (Share(f"height of the {stand.called}", figure.pm if figure else 0.0),)
        spare = middle - least if low else stand.max_height.value - middle
        yield judge(
            REACH,
            about,
            Estimate(spare, shares),
            title=title,
            need=middle,
            have=least if low else stand.max_height.value,
            clear=f"The {stand.called} holds the {item.called} by its middle.",
            short=f"The {stand.called} is too {'tall' if low else 'short'} for the {item.called}.",
            reason=f"The card's middle is {say.length(middle)} up; the stand holds from {say.length(least)} to "
            f"{say.length(stand.max_height.value)}.",
            placing=PLACED,
        )
    yield from _load(scene, item, stand, about)


def _load(scene: Scene, item: Board, stand: Stand, about: tuple[str, ...]) -> Iterable[Margin]:
    title, say = f"Load on the stand of the {item.called}", Say.of(scene.brief)
    lacks = stand if stand.load is None else item if item.mass is None else None
    if lacks is not None:
        what = f"What the {stand.called} carries" if lacks is stand else f"The mass of the {item.called}"
        yield unknown(
            LOAD,
            (f"gear/{lacks.id}", about[0]),
            f"{what} is missing.",
            "Weigh it, or read its label.",
            title=title,
            subject=about[0],
        )
        return
    assert stand.load is not None and item.mass is not None
    shares = (Share(f"mass of the {item.called}", item.mass.pm), Share(f"load of the {stand.called}", stand.load.pm))
    yield judge(
        LOAD,
        about,
        Estimate(stand.load.value - item.mass.value, shares),
        title=title,
        need=item.mass.value,
        have=stand.load.value,
        clear=f"The {stand.called} carries the {item.called}.",
        short=f"The {item.called} is too heavy for the {stand.called}.",
        reason=f"{say.mass(item.mass.value)}; it takes {say.mass(stand.load.value)}.",
    )


def other_holders(studio: Studio, scene: Scene, path: str) -> Iterable[Proposal]:
    """The card at a path on each stand with feet of the kit but the one that holds it."""
    place = by_id(scene.plan.props, path.split("/")[-1])
    item = scene.gear.get(place.item or "") if place else None
    if place is None or item is None:
        return
    for stand in studio.gear:
        if isinstance(stand, Stand) and stand.use in CARD_STANDS and stand.id != place.support:
            yield Proposal(f"Hold it with the {stand.called}", _held_by(scene, path, place, place, stand))


def free_stand(studio: Studio, scene: Scene, middle: float) -> str | None:
    """A light stand of the kit that the set does not use yet and that holds a card by its middle [m]."""
    used = Counter(used_by(scene.plan))
    stands = (one for one in studio.gear if isinstance(one, Stand) and one.at_hand and holds_at(one, middle))
    return next((one.id for one in stands if used[one.id] < one.quantity), None)


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """What holds a card in the air; where its stand is too tall or short, held lower or higher, or by another; with
    the weights that takes."""
    if scene is not None:
        yield from with_weights(studio, scene.plan.id, _for_card(studio, scene, margin))


def _for_card(studio: Studio, scene: Scene, margin: Margin) -> Iterable[Proposal]:
    path = next((one for one in margin.about if "/props/" in one), "")
    place = by_id(scene.plan.props, path.split("/")[-1])
    item = scene.gear.get(place.item or "") if place else None
    if place is None or not isinstance(item, Board):
        return
    if margin.code == REACH.code and margin.need is not None and margin.have is not None:
        base = round(scene.base_of(place) + margin.have - margin.need, 2)
        if base >= 0:
            words = f"Hold the {item.called} with its underside {Say.of(scene.brief).length(base)} up"
            yield Proposal(words, SetFields(target=path, fields={"height": base}))
    if margin.code == CARD.code:
        for top, there in moved_on(scene, place, item):
            yield Proposal(f"Move the {item.called} onto the {top}", _put(path, place, there))
        yield from _held_there(studio, scene, path, place, 0.0)
    yield from other_holders(studio, scene, path)
    if margin.code == CARD.code:
        for way in WAYS[1:]:
            yield from _held_there(studio, scene, path, place, way)


def _held_there(studio: Studio, scene: Scene, path: str, place: PropPlace, way: float) -> Iterable[Proposal]:
    """The card on floor or furniture, or on a stand that is free or bought, so much nearer to the subject [m]."""
    item = scene.gear[place.item or ""]
    assert isinstance(item, Board)
    spot = drawn_near(scene, place, way)
    there = f", {way_words(scene, way)}" if way else ""
    for top, height in set_down(scene, spot, item):
        if not way or height:
            put = _put(path, place, spot, height=height)
            yield Proposal(f"Stand the {item.called} on the {top}{there}", put, otherwise=bool(way))
    tall = item.height.value if item.height else 0.0
    own = by_id(studio.gear, free_stand(studio, scene, card_middle(scene.base_of(place), tall, place.tilt)))
    if isinstance(own, Stand):
        put = _held_by(scene, path, place, spot, own)
        yield Proposal(f"Hold it with the {own.called}{there}", put, otherwise=bool(way))
    if own is None or not way:
        label = f"Hold it with a light stand and a clamp{there}"
        bought = Stand.model_validate({"kind": "stand", "id": CARD_STAND, "name": "Light stand", **STAND})
        edits = (_card_stand(studio), _held_by(scene, path, place, spot, bought))
        yield Proposal(label, Several(edits=edits, label=label), otherwise=bool(way))


def _held_by(scene: Scene, path: str, place: PropPlace, there: PropPlace, stand: Stand) -> Edit:
    """The card at a path held there by a stand, with the weight that takes."""
    bag = held_and_weighted(scene, there, stand).bag
    return _put(path, place, there, support=stand.id, **({"bag": bag} if bag != place.bag else {}))


def _put(path: str, place: PropPlace, there: PropPlace, **fields: Any) -> Edit:
    """The card at a path put there, which writes only what differs."""
    moved = {name: getattr(there, name) for name in ("x", "y") if getattr(there, name) != getattr(place, name)}
    return SetFields(target=path, fields=moved | fields)


def _card_stand(studio: Studio) -> Edit:
    """A stand with a clamp to buy, or one more of those that are planned."""
    planned = by_id(studio.gear, CARD_STAND)
    if planned is not None:
        return SetFields(target=f"gear/{CARD_STAND}", fields={"quantity": planned.quantity + 1})
    return to_buy(studio, EUROS, kind="stand", id=CARD_STAND, name="Light stand 1.9 m with clamp", **STAND, **PACKED)


RULE = SetRule("cards", margins, (CARD, REACH, LOAD), propose, reads=FRAMED)
