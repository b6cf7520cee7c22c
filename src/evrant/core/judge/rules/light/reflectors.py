"""Does a reflector by the window fill what the window leaves dark? Code light.reflector."""

import math
from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from evrant.core.base.estimate import Estimate
from evrant.core.base.margins import PLACED_BOTH, Basis, Line, Margin, judge
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import GEOMETRY, Proposal, SetRule
from evrant.core.light.by_window import daylight_way
from evrant.core.light.cards import returning
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import Board
from evrant.core.studio.sets import PropPlace
from evrant.core.studio.studio import Studio

REFLECTOR = Line(
    "light.reflector",
    "Reflector against the window",
    "°",
    Basis(
        "plan angle at the subject between the way most daylight comes from (vector irradiance of all open windows) "
        "and the card ≥ 75°; of several cards the one that stands best",
        "Opposite the window is common practice, no source; vector irradiance by contour integral, any text on radiant "
        "exchange; from where on a card counts as opposite is the project's choice",
        "common practice",
    ),
    asks="Does the reflector stand where the window leaves the subject dark?",
    step="light",
    search="placed",
    fails=True,
)
LEAST = 75.0
STEEP = 3.0
"""Light from so many times as high as far is from above, not from a side."""


@dataclass(frozen=True)
class _Card:
    """A card as the subject sees it: how far off it stands [m] and how far round from the daylight [degrees]."""

    place: PropPlace
    item: Board
    far: float
    off: float


def margins(scene: Scene) -> Iterable[Margin]:
    """The line of a set by daylight alone in which a card stands."""
    cards = _cards(scene)
    if not cards:
        return
    best = max(cards, key=lambda card: card.off)
    yield judge(
        REFLECTOR,
        (f"{scene.path}/props/{best.place.id}", f"shots/{scene.shot.id}"),
        Estimate(best.off - LEAST, ()),
        need=LEAST,
        have=best.off,
        clear=f"The {best.item.called} stands against the window.",
        short=f"The {best.item.called} stands on the window's own side and leaves the other dark.",
        reason=f"Seen from the subject it stands {best.off:.0f}° round from where most daylight comes from; "
        f"from {LEAST:.0f}° on its light goes to the far side.",
        placing=math.degrees(math.atan2(PLACED_BOTH, best.far)),
    )


def _cards(scene: Scene) -> list[_Card]:
    """Upright cards that return light, where daylight is all there is and comes from a side."""
    spot = scene.lit_spot
    if spot is None or "daylight" not in scene.shot.around or scene.plan.lights:
        return []
    boards = list(returning(scene))
    way = daylight_way(scene) if boards else None
    if way is None or abs(float(way[2])) > STEEP * math.hypot(way[0], way[1]):
        return []
    found = []
    for place, item in boards:
        if place.x is None or place.y is None:
            continue
        out = np.array([place.x, place.y]) - spot[:2]
        off = abs(math.degrees(math.atan2(out[1], out[0]) - math.atan2(way[1], way[0])))
        found.append(_Card(place, item, float(np.hypot(*out)), min(off % 360, 360 - off % 360)))
    return found


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """The card on the subject's other side, or right across from the window."""
    found = (
        next((card for card in _cards(scene) if margin.about[0].endswith(f"/{card.place.id}")), None) if scene else None
    )
    way = daylight_way(scene) if scene is not None else None
    if scene is None or found is None or way is None or scene.lit_spot is None:
        return
    place, spot = found.place, scene.lit_spot
    assert place.x is not None and place.y is not None
    now = math.degrees(math.atan2(place.y - spot[1], place.x - spot[0]))
    across = math.degrees(math.atan2(-way[1], -way[0]))
    for angle, words in (
        (2 * scene.facing - now, "on the subject's other side"),
        (across, "right across from the window"),
        (across + 40, "across from the window, a little round"),
        (across - 40, "across from the window, a little round the other way"),
    ):
        here = spot[:2] + np.array([math.cos(math.radians(angle)), math.sin(math.radians(angle))]) * found.far
        turn = (place.turn + angle - now + 180) % 360 - 180
        fields = {"x": round(float(here[0]), 3), "y": round(float(here[1]), 3), "turn": round(turn, 1)}
        yield Proposal(f"Stand the {found.item.called} {words}", SetFields(target=margin.about[0], fields=fields))


RULE = SetRule("reflectors", margins, (REFLECTOR,), propose, order=4, place_order=4, reads=GEOMETRY)
