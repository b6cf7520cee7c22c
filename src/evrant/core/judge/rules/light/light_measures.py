"""What could be done about a set's light, as edits: cards, cloth and paint on what returns most, a grid,
further diffusion, distance, the fill's power. Nobody guesses what they give: the engine is asked."""

import math
from collections.abc import Iterable
from dataclasses import dataclass
from decimal import Decimal

import numpy as np
from pydantic import ValidationError

from evrant.core.edits.language import Add, Edit, EditRefused, SetFields, Several, apply
from evrant.core.judge.rules.buying import to_buy
from evrant.core.judge.rules.rule import Proposal
from evrant.core.judge.rules.support.cards import free_stand
from evrant.core.light import account
from evrant.core.light.beams import key_side
from evrant.core.light.colour import LUMINANCE
from evrant.core.light.emission import Missing
from evrant.core.light.face import nose_of, turned
from evrant.core.light.lit import LEDGER_PATCHES, Lit, lit
from evrant.core.place.cards import UNDER, nearest_beside
from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene, scene_of
from evrant.core.studio.gear import Board
from evrant.core.studio.studio import Studio, by_id
from evrant.core.studio.words import Say, power_words

CARD = {
    "white": ("White board 100 × 150 cm", "white board", Decimal(12), (1.5, 1.0, 0.01)),
    "black": ("Black cloth on a frame, 100 × 150 cm", "black cloth on a frame", Decimal(18), (1.52, 0.1, 0.06)),
}
"""Home-made cards: what they are called, cost [EUR] and measure packed [m]; common practice, no source."""
MOST_SURFACES, WIDE, TALL = 2, 1.0, 1.5
BESIDE = 60.0
"""A card stands so far round from the nose [degrees]; project choice."""


@dataclass(frozen=True)
class Measure:
    """What an edit would give: contrast [stops], its change, light at the face over before [stops], ΔE of a white
    on the far side of the face; `better` counts by how much it serves what the shot asks for."""

    label: str
    edit: Edit
    contrast: float | None
    exposure: float
    tint: float | None
    better: float


def measures(studio: Studio, scene: Scene, darker: bool | None = None) -> Iterable[Proposal]:
    """Candidates; only those that take light from the far side (`darker`) or give it some, when that is said."""
    state = lit(scene)
    if isinstance(state, Missing) or not state.beams:
        return
    if darker is not False:
        yield from card_beside(studio, scene, state, "black")
        yield from _surfaces(scene, state, dark=True)
        yield from _on_key(scene, state, grid=True)
        yield from _fill(scene, state, 0.5)
    if darker is not True:
        yield from card_beside(studio, scene, state, "white")
        yield from _surfaces(scene, state, dark=False)
        yield from _on_key(scene, state, grid=False)
        yield from _fill(scene, state, 2.0)
    yield from _nearer(scene, state, (0.75,) if darker else (1.35,) if darker is False else (0.75, 1.35))


def evaluated(studio: Studio, scene: Scene, patches: int = LEDGER_PATCHES) -> list[Measure]:
    """Every candidate carried out and computed, those that serve the shot best first."""
    before = lit(scene, patches)
    if isinstance(before, Missing) or before.key is None:
        return []
    start = _distance_from_wish(scene, before)
    found = []
    for proposal in {one.label: one for one in measures(studio, scene)}.values():
        try:
            after_studio = apply(studio, proposal.edit)
        except (EditRefused, ValidationError):
            continue
        plan = by_id(after_studio.sets, scene.plan.id)
        after_scene = scene_of(after_studio, plan) if plan else None
        after = lit(after_scene, patches) if after_scene else None
        if after is None or isinstance(after, Missing) or after_scene is None or after.key is None:
            continue
        tint = account.tint_at(after, account.tinted_side(after))
        same = _with_powers(after, before)
        found.append(
            Measure(
                proposal.label,
                proposal.edit,
                account.contrast(after),
                math.log2(same / before.total("face")) if same > 0 and before.total("face") > 0 else 0.0,
                tint.white if tint else None,
                start - _distance_from_wish(after_scene, after),
            )
        )
    return sorted(found, key=lambda m: -m.better)


def _with_powers(after: Lit, before: Lit) -> float:
    """Light at the face with the lights left at the powers they had [lx s]."""
    doses = before.doses if len(before.doses) == len(after.doses) else after.doses
    rows = after.dome("face", after.whole) @ LUMINANCE
    return float(rows @ doses)


def _distance_from_wish(scene: Scene, state: Lit) -> float:
    """How far contrast and tint are from what is wanted: stops outside the range, and ΔE over 4 as quarter stops."""
    found = account.contrast(state) or 0.0
    low, high = account.RANGES.get(scene.shot.contrast or "", (1.0, 3.0))
    off = max((low or -math.inf) - found, found - (high or math.inf), 0.0)
    tint = account.tint_at(state, account.tinted_side(state))
    return off + 0.25 * max((tint.white if tint else 0.0) - 4.0, 0.0)


def card_beside(studio: Studio, scene: Scene, state: Lit, surface: str) -> Iterable[Proposal]:
    """A card beside the face on the side away from the key: one at hand, else a home-made one."""
    assert scene.face is not None
    way = turned(nose_of(scene), -BESIDE * key_side(scene, state.beams))
    reach = nearest_beside(scene, WIDE, BESIDE)
    spot = scene.face + way * reach
    placed = [prop.item for prop in scene.plan.props]
    boards = [i for i in studio.gear if isinstance(i, Board) and i.surface == surface and i.id not in placed]
    edits: list[Add] = []
    if boards:
        item, high, name = boards[0].id, boards[0].height, boards[0].called
        tall = high.value if high else 1.0
    else:
        bought = home_made(studio, surface)
        if bought is None:
            return
        item, tall, name = f"card-{surface}", TALL, called(surface)
        edits.append(bought)
    stands = tall + UNDER >= float(spot[2])
    base = 0.0 if stands else max(float(spot[2]) - tall / 2, 0.0)
    turn = math.degrees(math.atan2(way[1], way[0])) - 90
    place = {
        "id": f"{surface}-card",
        "item": item,
        "x": round(float(spot[0]), 3),
        "y": round(float(spot[1]), 3),
        "turn": round((turn + 180) % 360 - 180, 1),
        "height": round(base, 3),
        "support": None if stands else free_stand(studio, scene, base + tall / 2),
    }
    if any(prop.id == place["id"] for prop in scene.plan.props):
        return
    edits.append(Add(list=f"{scene.path}/props", item=place))
    side = account.side_word(state)
    label = f"Stand {'the' if boards else 'a'} {name} on the subject's {side}, {Say.of(scene.brief).length(reach)} off"
    yield Proposal(label, Several(edits=tuple(edits), label=label))


def called(surface: str) -> str:
    """What a home-made card is called."""
    return CARD[surface][1]


def home_made(studio: Studio, surface: str) -> Add | None:
    """A card of 100 × 150 cm to make; None where the kit has it already."""
    key, (label, _, euros, packed) = f"card-{surface}", CARD[surface]
    if by_id(studio.gear, key) is not None:
        return None
    gear = {"kind": "board", "id": key, "name": label, "surface": surface, "width": WIDE, "height": TALL}
    sides = dict(zip(("packed_length", "packed_width", "packed_height"), packed, strict=True))
    return to_buy(studio, euros, condition="home-made", mass=1.2, **gear, **sides)


def _surfaces(scene: Scene, state: Lit, dark: bool) -> Iterable[Proposal]:
    """Cloth over, or paint on, the walls that return most to the far side of the face."""
    walls = [p for p in account.parts(state) if p.path.startswith("room/walls/")]
    drilled = scene.brief.tenure == "owned"
    for part in walls[:MOST_SURFACES]:
        if dark:
            label = f"Hang black cloth before the {part.name}"
            fields = {"lrv": 4.0, "colour": "#1c1c1c"}
        else:
            label = f"{'Paint' if drilled else 'Hang white sheets before'} the {part.name}" + (
                " matt white" if drilled else ""
            )
            fields = {"lrv": 85.0 if drilled else 75.0, "colour": "#ffffff"}
        yield Proposal(label, SetFields(target=part.path, fields=fields))
        if dark:
            white = {"lrv": 85.0 if drilled else 75.0, "colour": "#ffffff"}
            words = "Paint" if drilled else "Hang white sheets before"
            after = " matt white" if drilled else ""
            yield Proposal(
                f"{words} the {part.name}{after}",
                SetFields(target=part.path, fields=white),
            )


def floor_covered() -> Iterable[Proposal]:
    """A neutral cloth or rug over the floor: what it gives the light comes back from walls and ceiling too."""
    for words, lrv, colour in (("grey", 25.0, "#888888"), ("white", 75.0, "#ffffff")):
        edit = SetFields(target="room/floor_finish", fields={"lrv": lrv, "colour": colour})
        yield Proposal(f"Cover the floor with {words} cloth or a {words} rug", edit)


def _key(state: Lit) -> Light | None:
    return state.beams[state.key].light if state.key is not None else None


def _on_key(scene: Scene, state: Lit, grid: bool) -> Iterable[Proposal]:
    key = _key(state)
    if key is None or key.modifier is None:
        return
    if grid and not key.place.gridded and not key.modifier.grid:
        yield Proposal(f"Put a grid on the {key.name}", SetFields(target=key.path, fields={"gridded": True}))
    if not grid and key.place.diffusers < 2:
        layers = key.place.diffusers + 1
        yield Proposal(
            f"One more layer of diffusion on the {key.name}",
            SetFields(target=key.path, fields={"diffusers": layers}),
        )


def _fill(scene: Scene, state: Lit, factor: float) -> Iterable[Proposal]:
    for beam, power in zip(state.beams, state.powers, strict=True):
        if beam.role == "fill" and beam.light is not None:
            wish = float(power) * factor
            if 1e-3 < wish <= 1:
                way = "down" if factor < 1 else "up"
                yield Proposal(
                    f"Turn the {beam.name} {way} to {power_words(wish)}",
                    SetFields(target=beam.path, fields={"power": round(wish, 5)}),
                )


def _nearer(scene: Scene, state: Lit, factors: tuple[float, ...]) -> Iterable[Proposal]:
    key = _key(state)
    if key is None or key.at is None or scene.face is None:
        return
    for factor in factors:
        spot = scene.face + (key.at - scene.face) * factor
        far = Say.of(scene.brief).length(float(np.linalg.norm(spot - scene.face)))
        fields = {
            "x": round(float(spot[0]), 3),
            "y": round(float(spot[1]), 3),
            "height": round(float(np.clip(spot[2], 0.1, 5.0)), 3),
        }
        yield Proposal(
            f"Move the {key.name} to {far} from {scene.shot.lit_part}", SetFields(target=key.path, fields=fields)
        )
