"""What a shiny thing shows of its surroundings. Codes light.mirrored, light.mirrored_camera."""

import math
from collections.abc import Iterable

from evrant.core.base.estimate import Estimate, Share
from evrant.core.base.margins import Basis, Line, Margin, judge, unknown
from evrant.core.edits.language import Add, Edit, SetFields, Several
from evrant.core.edits.language import Light as LightEdit
from evrant.core.judge.rules.buying import to_buy
from evrant.core.judge.rules.rule import Proposal, SetRule
from evrant.core.light.emission import Missing
from evrant.core.light.ground import tent_round
from evrant.core.light.lit import lit
from evrant.core.light.mirrored import Mirrored, mirrored, shiny
from evrant.core.space.scene import Scene
from evrant.core.space.stature import extent
from evrant.core.studio.gear import Board, Tent
from evrant.core.studio.studio import Studio, by_id
from evrant.core.studio.words import Say

MIRRORED = Line(
    "light.mirrored",
    "What the … mirrors",
    "%",
    Basis(
        "share of its surface whose mirrored ray meets something darker than a tenth of white, or brighter than twice",
        "Law of reflection; at most half dark and three tenths burnt out is common practice, no source",
        "common practice",
    ),
    asks="Does a shiny thing mirror light surfaces, and not the dark room or a bare lamp?",
    step="light",
)
CAMERA = Line(
    "light.mirrored_camera",
    "Camera in the …",
    "%",
    Basis(
        "share of its surface whose mirrored ray meets the camera",
        "Law of reflection; more than a hundredth is seen, common practice, no source",
        "common practice",
    ),
    asks="Does the camera stay out of its own reflection?",
    step="light",
)
MOST_DARK, MOST_BURNT, LEAST_EDGE, MOST_CAMERA = 50.0, 30.0, 3.0, 1.0
CARD_EUROS, TENT_EUROS = 3, 12
"""What a card and a tent of tracing paper cost to make; common practice, no source."""
COARSE = Share("patches of the room", 4.0, measurable=False)


def margins(scene: Scene) -> Iterable[Margin]:
    """Two lines of a set whose lead subject is shiny."""
    lead = shiny(scene)
    if lead is None:
        return
    about = (f"{scene.path}/lights", f"shots/{scene.shot.id}")
    state = lit(scene)
    if isinstance(state, Missing) or state.scene.eye is None:
        return
    name = lead.name.lower()
    if state.settled is None and isinstance(state.around, Missing):
        yield unknown(
            MIRRORED,
            (state.around.where, about[0]),
            state.around.text,
            "What stands round it is what it shows: enter the finishes of the room.",
            title=f"What the {name} mirrors",
            subject=about[0],
        )
        return
    found = mirrored(state)
    if found is None:
        return
    yield _surface(found, about, name, scene.shot.tone == "black")
    spare = MOST_CAMERA - 100 * found.camera
    yield judge(
        CAMERA,
        (f"{scene.path}/camera", about[1]),
        Estimate(spare, (Share("size of the camera", 0.4 * 100 * found.camera),)),
        title=f"Camera in the {name}",
        need=100 * found.camera,
        have=MOST_CAMERA,
        clear=f"The camera is not seen in the {name}.",
        short=f"The {name} mirrors the camera.",
        reason=f"{found.camera:.1%} of its surface shows the camera; {MOST_CAMERA:.0f} % passes unseen.",
    )


def _surface(found: Mirrored, about: tuple[str, ...], name: str, on_black: bool) -> Margin:
    dark, burnt = 100 * found.dark, 100 * found.burnt
    lit_part = 100 - dark
    first = ", ".join(f"{share:.0%} {owner}" for owner, share in found.shares[:3])
    words = f"It mirrors {first}. "
    if on_black:
        return judge(
            MIRRORED,
            about,
            Estimate(lit_part - LEAST_EDGE, (COARSE,)),
            title=f"What the {name} mirrors",
            need=LEAST_EDGE,
            have=lit_part,
            clear=f"Light draws the {name} out of the dark.",
            short=f"Nothing bright is mirrored: the {name} is lost in the dark.",
            reason=f"{words}{lit_part:.0f} % of its surface is lighter than a tenth of white.",
        )
    too_dark = MOST_DARK - dark <= MOST_BURNT - burnt
    return judge(
        MIRRORED,
        about,
        Estimate(min(MOST_DARK - dark, MOST_BURNT - burnt), (COARSE,)),
        title=f"What the {name} mirrors",
        need=dark if too_dark else burnt,
        have=MOST_DARK if too_dark else MOST_BURNT,
        clear=f"The {name} mirrors light surfaces.",
        short=f"The {name} mirrors the dark: mostly the {found.dark_by}."
        if too_dark
        else f"The {name} mirrors bare light that burns out.",
        reason=f"{words}{dark:.0f} % of its surface is darker than a tenth of white, {burnt:.0f} % burns out.",
    )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """A card where the dark is mirrored from, a tent round it, lights from both sides, the thing turned."""
    if scene is None or margin.code != "light.mirrored" or scene.face is None:
        return
    lead, state = shiny(scene), lit(scene)
    if lead is None or isinstance(state, Missing):
        return
    found = mirrored(state)
    if found is not None and found.dark_way is not None:
        yield from _card(studio, scene, found)
    if tent_round(scene) is None:
        yield from _tent(studio, scene)
        for side in ("left", "right"):
            label = f"Light it from both sides, the key from its {side}"
            yield Proposal(label, LightEdit(target=scene.path, pattern="tent", side=side))
    if lead.shape in (None, "box"):
        for turn in (-20.0, 20.0):
            facing = round(scene.facing + turn, 1)
            label = f"Turn it by {abs(turn):.0f}° to its {'left' if turn > 0 else 'right'}"
            yield Proposal(label, SetFields(target=f"{scene.path}/mark", fields={"facing": facing}))


def _size(scene: Scene) -> float:
    """Greatest measure of the thing [m]."""
    lead = scene.shot.lead
    size = extent(lead, lead.height.value if lead.height else 0.2)
    return max(size.top, size.width, size.depth)


def _card(studio: Studio, scene: Scene, found: Mirrored) -> Iterable[Proposal]:
    """A white card at hand, else a home-made one, square to where the dark part looks."""
    assert scene.face is not None and found.dark_way is not None
    way = found.dark_way
    level = math.hypot(way[0], way[1])
    if level < 0.2:
        return
    placed = [prop.item for prop in scene.plan.props]
    boards = [i for i in studio.gear if isinstance(i, Board) and i.surface == "white" and i.id not in placed]
    edits: list[Edit] = []
    tall = max(2.5 * _size(scene), 0.2)
    if boards:
        item, tall = boards[0].id, boards[0].height.value if boards[0].height else tall
    else:
        item = "card-round"
        if by_id(studio.gear, item) is not None:
            return
        card = {"kind": "board", "id": item, "name": "White card, home-made", "surface": "white", "width": tall}
        edits.append(to_buy(studio, CARD_EUROS, **card, height=tall, condition="home-made"))
    reach = 0.75 * _size(scene) + 0.12
    spot = scene.face[:2] + way[:2] / level * reach
    base = max(float(scene.face[2]) + float(way[2]) / level * reach - tall / 2, scene.surface)
    turn = math.degrees(math.atan2(way[1], way[0])) - 90
    place = {"id": "mirror-card", "item": item, "x": round(float(spot[0]), 3), "y": round(float(spot[1]), 3)}
    place |= {"turn": round((turn + 180) % 360 - 180, 1), "height": round(base, 3)}
    if any(prop.id == place["id"] for prop in scene.plan.props):
        return
    edits.append(Add(list=f"{scene.path}/props", item=place))
    label = f"Stand a white card {Say.of(scene.brief).length(reach)} off, where it mirrors the {found.dark_by}"
    yield Proposal(label, Several(edits=tuple(edits), label=label))


def _tent(studio: Studio, scene: Scene) -> Iterable[Proposal]:
    """A tent at hand, its hole to the camera; else one of tracing paper on a frame."""
    if scene.mark is None or scene.axis is None:
        return
    tents = [item for item in studio.gear if isinstance(item, Tent)]
    edits: list[Edit] = []
    if tents:
        item, name = tents[0].id, tents[0].called
    else:
        item, name, wide = "tent-paper", "tent of tracing paper", round(max(3 * _size(scene), 0.3), 2)
        hole = round(max(wide * 0.35, 0.1), 2)
        made = {"kind": "tent", "id": item, "name": "Tent of tracing paper", "width": wide, "height": wide}
        edits.append(to_buy(studio, TENT_EUROS, **made, opening=hole, condition="home-made", mass=0.6))
    turn = math.degrees(math.atan2(scene.axis[1], scene.axis[0])) + 90
    place = {"id": "tent", "item": item, "x": round(float(scene.mark[0]), 3), "y": round(float(scene.mark[1]), 3)}
    edits.append(Add(list=f"{scene.path}/props", item={**place, "turn": round((turn + 180) % 360 - 180, 1)}))
    label = f"Put it in the {name}" if tents else f"Put it in a {name}"
    yield Proposal(label, Several(edits=tuple(edits), label=label))


RULE = SetRule("mirrors", margins, (MIRRORED, CAMERA), propose)
