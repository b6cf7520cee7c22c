"""Does a black card take away anything where it stands? Code light.black_card."""

import math
from collections.abc import Iterable

from evrant.core.base.estimate import Estimate
from evrant.core.base.margins import Basis, Line, Margin, judge
from evrant.core.judge.rules.light.card_gives import doubts, of_each, propose, where_words
from evrant.core.judge.rules.rule import SetRule
from evrant.core.judge.rules.set.flare import shaded_from
from evrant.core.light import account
from evrant.core.light.cards import SEEN, SWALLOWS, Lift, taken, upright
from evrant.core.light.lit import Lit
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import Board
from evrant.core.studio.sets import PropPlace

BLACK_CARD = Line(
    "light.black_card",
    "What the … takes",
    "stop",
    Basis(
        "log₂ of the light without the card over that with it at the same powers, where it takes most: the dark side "
        "of the face, points down the body, further subjects, the background; ≥ 1/6 stop",
        "Diffuse radiosity, solved with and without the card; a sixth as the least that shows is the project's choice",
        "computed",
    ),
    asks="Does a black card take away anything that one would see?",
    step="light",
    helped_by=("props/", "gear"),
    goes=True,
)


def margins(scene: Scene) -> Iterable[Margin]:
    """A line for each upright black card, but for one that keeps a light off the lens."""
    cards = [(place, item) for place, item in upright(scene, SWALLOWS) if not shaded_from(scene, place)]
    return of_each(scene, cards, taken, _told)


def _told(scene: Scene, state: Lit, place: PropPlace, item: Board, found: Lift) -> Margin:
    takes, where = max(found.stops, 0.0), where_words(scene, found.where)
    return judge(
        BLACK_CARD,
        (f"{scene.path}/props/{place.id}", f"gear/{item.id}"),
        Estimate(found.stops - SEEN, doubts(state, found)),
        title=f"What the {item.called} takes",
        need=SEEN,
        have=found.stops,
        clear=f"The {item.called} takes {takes:.1f} stops from {where}.",
        short=f"The {item.called} takes nothing one would see from subject or background.",
        reason=f"{takes:.2f} stops from {where}"
        + (f"; from {SEEN:.2f} one sees it." if found.stops >= SEEN else f": {_why(found)}."),
    )


def _why(found: Lift) -> str:
    """Why a card takes next to nothing."""
    share = account.returned_share(found.without, found.where)
    if -math.log2(max(1 - share, 1e-3)) < SEEN:
        return f"only {share:.0%} of the light there comes back from the room"
    return f"{share:.0%} of the light there comes back from the room, and it hides too little of that"


RULE = SetRule("black cards", margins, (BLACK_CARD,), propose)
