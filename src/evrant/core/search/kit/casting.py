"""A shot as roles to fill: what may fill each, what cannot go together, and what was dropped and why.

All of this is read off figures; whether a filled recipe fits the room and the light is for `check`.
"""

from collections import Counter

from evrant.core.place.lighting import named_beams
from evrant.core.place.patterns import PATTERNS
from evrant.core.search.kit.case import NOTHING, Case
from evrant.core.search.kit.filling import Filling, is_a
from evrant.core.search.kit.filling_camera import fill_camera
from evrant.core.search.kit.filling_ground import fill_ground, fill_surface, fill_tent
from evrant.core.search.kit.filling_light import fill_light
from evrant.core.search.kit.market import Market
from evrant.core.space.wanted import wanted
from evrant.core.studio.gear import Board, Flash, Lamp
from evrant.core.studio.shots import Shot
from evrant.core.studio.studio import Studio


def case_of(studio: Studio, shot: Shot, market: Market) -> Case:
    """The roles of a shot with everything the market has for them."""
    case = Case(shot, shot.pattern or "loop")
    asked = wanted(shot)
    if not shot.subjects or asked is None:
        case.impossible = "Say who or what is in the picture, with their height."
        return case
    _fill(Filling(studio, shot, asked, market, case))
    for slot in case.slots.values():
        if not slot.keys:
            why = _dropped_heads(case, market) if slot.name.endswith(".head") else ""
            case.impossible = f"Nothing serves as {slot.word}{why}."
            break
    return case


def _fill(filling: Filling) -> None:
    fill_camera(filling)
    fill_ground(filling)
    fill_surface(filling)
    if filling.case.pattern == "tent":
        fill_tent(filling)
    for beam, name in named_beams(filling.case.pattern):
        fill_light(filling, beam, name)
    for number, card in enumerate(PATTERNS[filling.case.pattern].cards, start=1):
        boards = [g.key for g in filling.goods(Board) if is_a(g, Board).surface == card.surface]
        without = [] if PATTERNS[filling.case.pattern].beams else [NOTHING]  # by day the room may fill what is dark
        filling.slot(f"card-{number}", f"the {card.surface} board", [*without, *boards])


def _dropped_heads(case: Case, market: Market) -> str:
    """In words, the head that was left out for a reason of its own, where there is one; of several that reason which
    most have."""
    told = [(why, market.by_key[key].item) for key, why in case.dropped.items() if key in market.by_key]
    heads = [(why, item.called) for why, item in told if isinstance(item, (Flash, Lamp))]
    if not heads:
        return ""
    why, _ = Counter(why for why, _ in heads).most_common(1)[0]
    return f"; of the {next(name for one, name in heads if one == why)}: {why}"
