"""Where an upright card may stand: on the floor, on a top, or nearer to the subject."""

import math
from collections.abc import Iterable
from dataclasses import replace

import numpy as np

from evrant.core.space.level import Top, inside_all
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Points
from evrant.core.space.tops import furniture, tops_at
from evrant.core.studio.gear import Board, Stand
from evrant.core.studio.sets import PropPlace
from evrant.core.studio.words import Say

LOW = 0.05
"""A card whose underside is no higher stands on the floor and leans [m]."""
PROPPED = 0.15
"""A card so little above a top is propped up on it [m]; common practice, no source."""
UNDER = 0.3
"""A card that ends no lower under a face or thing still throws light on it [m]; project choice."""
NEARER = (0.15, 0.3, 0.45)
"""How much nearer to the subject a card is tried [m]."""
WAYS = (0.0, 0.15, -0.15, 0.3, -0.3, 0.45, -0.45)
"""How much nearer, or below zero farther off, where it or its stand has no place as it stands [m]."""
ON = -0.001
"""A point on the very edge of a top is on it [m]."""
OUT_OF_PICTURE, LEAST_OFF = 0.12, 0.35
"""A card keeps so far out of the picture, and is no nearer to the subject than that [m]; project choice."""
MOVED = 0.3
"""A card is moved no farther onto a top it is beside [m]."""


def rests(scene: Scene, place: PropPlace, item: Board) -> bool:
    """Whether the middle half of a card's lower edge is on tops that it stands, leans or is propped on."""
    ends, tops = _middle_half(place, item), _tops_under(scene, place)
    return bool(tops) and bool((inside_all(tops, ends) >= ON).all())


def set_down(scene: Scene, place: PropPlace, item: Board) -> Iterable[tuple[str, float]]:
    """What a card can be let down on, the floor or furniture under the middle half of its lower edge, and how high that
    is [m], where it still reaches up to what it is for."""
    tall = math.inf if item.height is None else item.height.value
    least = -math.inf if scene.lit_spot is None else scene.lit_spot[2] - tall - UNDER
    if least <= 0 and tall >= scene.surface + UNDER:  # not hidden by the table
        yield "floor", 0.0
    for top in furniture(scene):
        if top.height >= least and (top.inside(_middle_half(place, item)) >= ON).all():
            yield top.name, round(top.height, 3)


def moved_on(scene: Scene, place: PropPlace, item: Board) -> Iterable[tuple[str, PropPlace]]:
    """The card moved as little as brings the middle half of its lower edge over a top beside it, at its height."""
    for top in _tops_under(scene, place):
        way = top.way_in(_middle_half(place, item))
        if way is not None and -ON < float(np.hypot(*way)) <= MOVED:
            yield top.name, _at(place, way)


def held_by(scene: Scene, place: PropPlace, stand: Stand) -> Scene:
    """The set with a card there, held by a stand."""
    there = place.changed(support=stand.id)
    props = tuple(there if one.id == place.id else one for one in scene.plan.props)
    return replace(scene, plan=scene.plan.changed(props=props), gear={**scene.gear, stand.id: stand})


def drawn_near(scene: Scene, place: PropPlace, way: float) -> PropPlace:
    """A card so much nearer to the subject, half-way at most, or so much farther off below zero [m]."""
    if not way or scene.mark is None or place.x is None or place.y is None:
        return place
    off = scene.mark - np.array([place.x, place.y])
    return _at(place, off * min(way / max(float(np.hypot(*off)), 1e-9), 0.5))


def nearest_beside(scene: Scene, wide: float, off: float) -> float:
    """How near to the face a card so wide [m], square to it and so far round from the nose [degrees], may stand outside
    the picture: (half the picture + wide/2 · cos + what it keeps off) / sin [m]."""
    half = 0.25 if scene.wanted is None else scene.wanted.width / 2
    angle = math.radians(off)
    return max((half + wide / 2 * abs(math.cos(angle)) + OUT_OF_PICTURE) / max(abs(math.sin(angle)), 0.1), LEAST_OFF)


def just_outside(scene: Scene, place: PropPlace, wide: float) -> tuple[float, PropPlace] | None:
    """A card so wide [m] brought in on the way it stands until it just clears the picture, and how far from the face
    that is [m]; where it stands no farther off, it stays."""
    if scene.lit_spot is None or place.x is None or place.y is None:
        return None
    out = np.array([place.x, place.y]) - scene.lit_spot[:2]
    far = float(np.hypot(*out))
    off = math.degrees(math.atan2(out[1], out[0])) - scene.facing
    near = min(nearest_beside(scene, wide, off), far)
    return near, _at(place, out * (near / max(far, 1e-9) - 1))


def way_words(scene: Scene, way: float) -> str:
    """How a card was moved, in words; nothing where it was not."""
    if not way:
        return ""
    off = Say.of(scene.brief).length(abs(way))
    return f"{off} nearer to the subject" if way > 0 else f"{off} farther from the subject"


def _at(place: PropPlace, way: Points) -> PropPlace:
    assert place.x is not None and place.y is not None
    return place.changed(x=round(place.x + float(way[0]), 3), y=round(place.y + float(way[1]), 3))


def _middle_half(place: PropPlace, item: Board) -> Points:
    """(2, 2) the ends of the middle half of a card's lower edge."""
    angle, half = math.radians(place.turn), (item.width.value if item.width else 0.0) / 4
    along = half * np.array([math.cos(angle), math.sin(angle)])
    return np.asarray(np.array([place.x, place.y], dtype=float) + np.array([-along, along]))


def _tops_under(scene: Scene, place: PropPlace) -> tuple[Top, ...]:
    return tops_at(scene, scene.base_of(place) - PROPPED / 2, PROPPED / 2 + LOW)
