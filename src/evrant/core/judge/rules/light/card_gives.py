"""Does a reflector do anything where it stands? Code light.card."""

import math
from collections.abc import Callable, Iterable, Sequence

from evrant.core.base.estimate import Estimate, Share
from evrant.core.base.margins import Basis, Line, Margin, judge
from evrant.core.edits.language import Edit, Remove, SetFields, Several
from evrant.core.judge.rules.kit.budget import used
from evrant.core.judge.rules.light.light_measures import WIDE, called, home_made
from evrant.core.judge.rules.rule import Proposal, SetRule
from evrant.core.light import account
from evrant.core.light.cards import RETURNS, SEEN, SWALLOWS, Lift, lift, moved_by_paint, returning
from evrant.core.light.emission import Missing
from evrant.core.light.lit import Lit, lit
from evrant.core.light.mirrored import shiny
from evrant.core.place.cards import NEARER, drawn_near, just_outside
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import Board
from evrant.core.studio.room import value
from evrant.core.studio.sets import PropPlace
from evrant.core.studio.studio import Studio, by_id
from evrant.core.studio.words import Say

CARD = Line(
    "light.card",
    "What the … gives",
    "stop",
    Basis(
        "log₂ of the light with the card over that without it at the same powers, where it adds most: the face and its "
        "sides, points down the body, further subjects, the background; ≥ 1/6 stop",
        "Diffuse radiosity, solved with and without the card; a sixth as the least that shows is the project's choice",
        "computed",
    ),
    asks="Does a reflector do anything that one would see?",
    step="light",
    helped_by=("props/", "gear"),
    goes=True,
)
MOVES = 0.1
"""A card is brought nearer by no less [m]."""
MOST_BOARDS = 3
"""Larger boards of the kit that are tried in a card's place, the largest first."""
COARSE, COARSE_PART = 0.04, 0.2
"""How far the figure is from that of a twentyfold number of patches: so much, and so large a part of it [stops]."""


def margins(scene: Scene) -> Iterable[Margin]:
    """A line for each upright card that returns light."""
    return of_each(scene, list(returning(scene)), lift, _told)


def of_each(
    scene: Scene,
    cards: Sequence[tuple[PropPlace, Board]],
    figure: Callable[[Lit, PropPlace], Lift | None],
    told: Callable[[Scene, Lit, PropPlace, Board, Lift], Margin],
) -> Iterable[Margin]:
    """A line for each of some cards, where the light is known. What is shiny shows its cards: they are judged by
    that."""
    if not cards or shiny(scene) is not None:
        return
    state = lit(scene)
    if isinstance(state, Missing) or isinstance(state.around, Missing) or state.key is None:
        return
    for place, item in cards:
        found = figure(state, place)
        if found is not None:
            yield told(scene, state, place, item, found)


def _told(scene: Scene, state: Lit, place: PropPlace, item: Board, found: Lift) -> Margin:
    path, where = f"{scene.path}/props/{place.id}", where_words(scene, found.where)
    adds = max(found.stops, 0.0)
    return judge(
        CARD,
        (path, f"gear/{item.id}"),
        Estimate(found.stops - SEEN, doubts(state, found)),
        title=f"What the {item.called} gives",
        need=SEEN,
        have=found.stops,
        clear=f"The {item.called} lifts {where} by {adds:.1f} stops.",
        short=f"The {item.called} does nothing one would see.",
        reason=f"{adds:.2f} stops on {where}"
        + (f"; from {SEEN:.2f} one sees it." if found.stops >= SEEN else f": {_why(state, path, found.where)}."),
    )


def doubts(state: Lit, found: Lift) -> tuple[Share, ...]:
    """What the figure of a card is unsure by."""
    paint = [Share(f"reflectance of the {name}", a) for name, a in moved_by_paint(state, found).items() if a > 1e-3]
    coarse = COARSE + COARSE_PART * max(found.stops, 0.0)
    return Share("division of the room into patches", coarse, measurable=False), *paint


def _why(state: Lit, path: str, where: str) -> str:
    """Why a card adds next to nothing at a receiver."""
    of_it = sum(part.share for part in account.parts(state, where) if part.path == path)
    there = account.returned_share(state, where) * of_it
    at_most = -math.log2(max(1 - there, 1e-3))  # were there nothing at all behind it
    if at_most < SEEN:
        return "it is too small, or too far away"
    return f"{there:.0%} of the light there comes off it, but what is behind it gives back nearly as much without it"


def where_words(scene: Scene, where: str) -> str:
    """A receiver in words."""
    if where.startswith("subject "):
        other = (one.name.lower() for one in scene.shot.subjects if where == f"subject {one.id}")
        return f"the {next(other, 'other subject')}"
    part = scene.shot.lit_part
    named = {"shadow side": f"the dark side of {part}", "key side": f"the light side of {part}", "face": part}
    return named.get(where, "the background" if where == "ground" else "what is further down")


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Nearer, a larger one of the kit, a large one to make, without it."""
    path = margin.about[0]
    place = by_id(scene.plan.props, path.rsplit("/", 1)[-1]) if scene is not None else None
    item = scene.gear.get(place.item or "") if scene is not None and place is not None else None
    if scene is None or place is None or not isinstance(item, Board):
        return
    yield from bettered(studio, scene, place, item)
    spared = tuple(_spared(studio, scene, place))
    label = f"Leave the {item.called} out"
    yield Proposal(label, Several(edits=(Remove(target=path), *spared), label=label) if spared else Remove(target=path))


def bettered(studio: Studio, scene: Scene, place: PropPlace, item: Board) -> Iterable[Proposal]:
    """A card nearer, a larger one of its sort or a large one to make in its place."""
    path, say = f"{scene.path}/props/{place.id}", Say.of(scene.brief)
    nearest = just_outside(scene, place, value(item.width) or WIDE)
    if nearest is not None and _moved(place, nearest[1]) >= MOVES:
        words = f"Bring the {item.called} to {say.length(nearest[0])} from {scene.shot.lit_part}"
        put = SetFields(target=path, fields={"x": nearest[1].x, "y": nearest[1].y})
        yield Proposal(f"{words}, just outside the picture", put)
    for nearer in NEARER:
        spot = drawn_near(scene, place, nearer)
        moved = SetFields(target=path, fields={"x": spot.x, "y": spot.y})
        words = f"Bring the {item.called} {say.length(nearer)} nearer to the subject"
        yield Proposal(words, moved, otherwise=True)
    placed = [prop.item for prop in scene.plan.props]
    black = item.surface in SWALLOWS
    sort = SWALLOWS if black else RETURNS
    boards = [one for one in studio.gear if isinstance(one, Board) and one.surface in sort and one.id not in placed]
    larger = sorted((one for one in boards if _area(one) > _area(item)), key=_area, reverse=True)
    for other in larger[:MOST_BOARDS]:
        yield Proposal(f"Take the {other.called}", _swapped(path, scene, place, item, other))
    yield from _large(studio, scene, place, "black" if black else "white")


def _moved(place: PropPlace, there: PropPlace) -> float:
    """How far a card is moved [m]."""
    return math.hypot((there.x or 0.0) - (place.x or 0.0), (there.y or 0.0) - (place.y or 0.0))


def _spared(studio: Studio, scene: Scene, place: PropPlace) -> Iterable[Edit]:
    """What was to be bought for a card that is left out, and that no other set uses."""
    rest = scene.plan.changed(props=tuple(one for one in scene.plan.props if one.id != place.id))
    sets = tuple(rest if plan.id == rest.id else plan for plan in studio.sets)
    left = used(studio.changed(sets=sets))
    for key in (place.item, place.support):
        item = by_id(studio.gear, key)
        if item is not None and item.status == "planned" and item.id not in left:
            yield Remove(target=f"gear/{item.id}")


def _area(item: Board) -> float:
    return (value(item.width) or 0.0) * (value(item.height) or 0.0)


def _swapped(path: str, scene: Scene, place: PropPlace, item: Board, other: Board) -> Edit:
    """Another card in a card's place, its middle as high unless it stands on the floor."""
    fields: dict[str, object] = {"item": other.id}
    base, old, new = scene.base_of(place), value(item.height), value(other.height)
    if base > 0 and place.support is not None and old is not None and new is not None:
        fields["height"] = round(max(base + (old - new) / 2, 0.0), 3)
    return SetFields(target=path, fields=fields)


def _large(studio: Studio, scene: Scene, place: PropPlace, surface: str) -> Iterable[Proposal]:
    """A home-made one of 100 × 150 cm on the floor in its place, as near as the picture allows."""
    bought, nearest = home_made(studio, surface), just_outside(scene, place, WIDE)
    if bought is None or nearest is None:
        return
    spot = {"x": nearest[1].x, "y": nearest[1].y, "height": 0.0, "support": None, "bag": None}
    put = SetFields(target=f"{scene.path}/props/{place.id}", fields={"item": bought.item["id"], **spot})
    label = f"Stand a {called(surface)} 100 × 150 cm there, close to the picture's edge"
    yield Proposal(label, Several(edits=(bought, put, *_spared(studio, scene, place)), label=label))


RULE = SetRule("what cards give", margins, (CARD,), propose)
