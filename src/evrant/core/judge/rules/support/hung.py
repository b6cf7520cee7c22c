"""Does what holds the background hold it? Codes support.crossbar, support.rod; support.fixing and support.ceiling for
brackets and poles."""

from collections.abc import Iterable

import numpy as np

from evrant.core.base.estimate import Estimate, Share, estimate
from evrant.core.base.margins import Basis, Line, Margin, judge, unknown
from evrant.core.base.quantity import Figure
from evrant.core.base.tables.holders import HOLDERS
from evrant.core.base.tables.supports import (
    FIXING_FACTOR,
    GRAVITY,
    GRIP_FACTOR,
    HOLDER_FIXINGS,
    OVERHEAD_FACTOR,
    WALL_FRICTION,
)
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import GEOMETRY, Proposal, SetRule
from evrant.core.judge.rules.support.mounting import (
    CEILING,
    FIXING,
    Fixings,
    other_holders,
    pressed_ceiling,
    screwed,
    screws_of,
)
from evrant.core.mechanics import beams
from evrant.core.mechanics.beams import fixing_load
from evrant.core.mechanics.supports import over_people
from evrant.core.space.footprint import clearance
from evrant.core.space.scene import Scene
from evrant.core.space.shares import gear_shares, room_shares
from evrant.core.studio.gear import Backdrop, Holder
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say

ROD = Line(
    "support.rod",
    "Grip of the rod",
    "N",
    Basis(
        "W·max(a, L − a)/L ≤ μ × pressing force / 2 at the end that bears more",
        "Roark's Formulas for Stress and Strain, simply supported beam; μ 0.3 from memory, factor 2 "
        "is a project choice",
        "project choice",
    ),
    asks="Does a rod between two walls slide?",
    step="support",
    safety=True,
    fails=True,
    hazards=("Tipping and falling", "Load overhead"),
    mark="rod",
)
CROSSBAR = Line(
    "support.crossbar",
    "Sag of the crossbar",
    "m",
    Basis(
        "5 w L⁴ / (384 E I) of the bar, and P L³(8 − 4(c/L)² + (c/L)³) / (384 E I) of what hangs over its middle c, "
        "≤ a hundredth of the span",
        "Roark's Formulas for Stress and Strain, simply supported beam; the hundredth is a project choice",
        "project choice",
    ),
    asks="How far does the bar sag, and the paper with it?",
    step="support",
    fails=True,
    mark="sag",
)
SAG = 0.01


def margins(scene: Scene) -> Iterable[Margin]:
    """Every line about the bar, rod, poles or brackets of the background."""
    if scene.holder is not None and scene.backdrop is not None:
        yield from _of_holder(scene, scene.holder)


def _of_holder(scene: Scene, holder: Holder) -> Iterable[Margin]:
    path = f"{scene.path}/background"
    backdrop = scene.backdrop
    assert backdrop is not None
    if holder.system in ("two stands and crossbar", "floor-to-ceiling poles"):
        yield from _crossbar(scene, holder, path)
    if holder.system == "floor-to-ceiling poles" and holder.press is not None:
        yield from pressed_ceiling(scene, path, holder.press, f"the {holder.called}")
    elif holder.system == "floor-to-ceiling poles":
        words, find = f"How hard the {holder.called} press is missing.", "Read it off the data sheet."
        yield unknown(
            CEILING,
            (f"gear/{holder.id}", path),
            words,
            find,
        )
    if holder.system == "tension rod":
        yield from _rod(scene, holder, path)
    if holder.system in HOLDER_FIXINGS:
        yield from _brackets(scene, holder, path)


def _brackets(scene: Scene, holder: Holder, path: str) -> Iterable[Margin]:
    """Two brackets screwed to wall or ceiling."""
    backdrop, title = scene.hung, "Fixings of the background"
    lacking = next((item for item in (holder, backdrop) if item is not None and item.mass is None), None)
    if lacking is not None:
        words = f"The mass of the {lacking.called} is missing."
        where = (f"gear/{lacking.id}", path)
        yield unknown(
            FIXING,
            where,
            words,
            "Weigh it.",
            title=title,
        )
        return
    place, made = _hung_on(scene, holder)
    ends, factor = scene.background_ends, FIXING_FACTOR
    if ends is not None and any(over_people(scene, np.asarray(end)) for end in (*ends, (ends[0] + ends[1]) / 2)):
        factor = OVERHEAD_FACTOR
    count, _, _ = screws_of(holder, HOLDER_FIXINGS[holder.system or ""])
    each = scene.plan.background.fixing_load
    yield from screwed(
        scene, Fixings(path, title, holder.called, place, made, count, factor, each, _pull, (holder, scene.backdrop))
    )


def _pull(scene: Scene) -> float | None:
    """What the fixing of the background's brackets that bears most must hold [kg]; off a wall they lever."""
    holder, backdrop = scene.holder, scene.hung
    if holder is None or backdrop is None or holder.mass is None or backdrop.mass is None:
        return None
    (count, upper, plate), lever = screws_of(holder, HOLDER_FIXINGS[holder.system or ""]), 0.0
    if holder.system == "wall brackets":
        usual = HOLDERS["wall brackets"].off
        lever = holder.off_wall.value if holder.off_wall else usual
    return fixing_load(holder.mass.value + backdrop.mass.value, count, lever, plate, upper)


def _hung_on(scene: Scene, holder: Holder) -> tuple[str, str | None]:
    if holder.system == "ceiling brackets":
        return "ceiling", scene.room.ceiling_made
    ends = scene.background_ends
    if scene.walls is None or ends is None:
        return "wall", None
    near = clearance(scene.walls, np.array([(ends[0] + ends[1]) / 2]))
    wall = scene.room.edges(scene.walls.count)[near.wall]
    return wall.name, wall.construction


def _crossbar(scene: Scene, holder: Holder, path: str) -> Iterable[Margin]:
    """How far the bar sags between its stands, and what the paper shows of it."""
    backdrop, title = scene.hung, "Sag of the crossbar"
    if backdrop is None or backdrop.width is None:
        return
    figures = {"bar_diameter": holder.bar_diameter, "bar_wall": holder.bar_wall, "material": holder.bar_material}
    missing = next((name for name, figure in figures.items() if figure is None), None)
    about = (f"gear/{holder.id}", path)
    if missing is not None or backdrop.mass is None:
        words = f"The bar of the {holder.called} is not described."
        find = "Measure its diameter and the thickness of its wall. Until then look along it with the background hung."
        if missing is None:
            about, words, find = (
                (f"gear/{backdrop.id}", path),
                f"The mass of the {backdrop.called} is missing.",
                "Weigh it.",
            )
        yield unknown(
            CROSSBAR,
            about,
            words,
            find,
            title=title,
        )
        return
    assert holder.bar_diameter and holder.bar_wall and holder.bar_material
    material = holder.bar_material
    bare: Figure | float = holder.overhang or 0.0

    def sag(mass: float, width: float, overhang: float, diameter: float, wall: float) -> float:
        return beams.sag_of_bar(mass, width + 2 * overhang, diameter, wall, material, width)

    def spare(mass: float, width: float, overhang: float, diameter: float, wall: float) -> float:
        return SAG * (width + 2 * overhang) - sag(mass, width, overhang, diameter, wall)

    inputs: dict[str, Figure | float] = {
        "mass": backdrop.mass,
        "width": backdrop.width,
        "overhang": bare,
        "diameter": holder.bar_diameter,
        "wall": holder.bar_wall,
    }
    values = {name: f.value if isinstance(f, Figure) else f for name, f in inputs.items()}
    down = sag(**values)
    say = Say.of(scene.brief)
    span = values["width"] + 2 * values["overhang"]
    yield judge(
        CROSSBAR,
        (path,),
        estimate(spare, **inputs),
        title=title,
        need=down,
        have=SAG * span,
        clear="The crossbar is stiff enough.",
        short="The crossbar sags: the background will hang in creases.",
        reason=f"It sags {say.short_by(down)} over {say.length(span)} under {say.mass(values['mass'])}; "
        "the middle of the background hangs that much lower.",
    )


def _rod(scene: Scene, holder: Holder, path: str) -> Iterable[Margin]:
    """A rod pressed between two walls: the end that bears more must not slide."""
    ends, backdrop, title = scene.rod_ends, scene.hung, "Grip of the rod"
    spots = scene.background_ends
    if ends is None or backdrop is None or spots is None:
        return
    if holder.mass is None or backdrop.mass is None or holder.press is None:
        item = holder if holder.mass is None or holder.press is None else backdrop
        what = "How hard the" if holder.mass is not None and holder.press is None else "The mass of the"
        words = f"{what} {item.called} {'presses ' if what.startswith('How') else ''}is missing."
        known = ""
        if holder.mass is not None and backdrop.mass is not None:
            least = (holder.mass.value + backdrop.mass.value) * GRAVITY * GRIP_FACTOR / WALL_FRICTION
            known = f"At most {least:.0f} N at each end would do. "
        find = f"{known}Read it off the data sheet; until then hang nothing over people from it."
        yield unknown(
            ROD,
            (f"gear/{item.id}", path),
            words,
            find,
            title=title,
        )
        return

    need = _end_load(scene)
    if need is None:
        return
    have = WALL_FRICTION * holder.press.value / GRIP_FACTOR
    shares = list(gear_shares(scene, (holder, scene.backdrop), ("mass",), _end_load))
    shares += room_shares(scene, _end_load)
    shares.append(Share("pressing force", WALL_FRICTION * holder.press.pm / GRIP_FACTOR))
    yield judge(
        ROD,
        (path,),
        Estimate(have - need, tuple(shares)),
        title=title,
        need=need,
        have=have,
        clear="The rod stays where it is pressed.",
        short="The rod slides down the wall.",
        reason=f"One end bears {need:.0f} N; pressed with {holder.press.value:.0f} N it holds {have:.0f} N "
        "with reserve.",
        placing=1.0,
    )


def _end_load(scene: Scene) -> float | None:
    """Force on the end of a rod that bears more [N]."""
    ends, spots = scene.rod_ends, scene.background_ends
    holder, backdrop = scene.holder, scene.hung
    if ends is None or spots is None or not holder or not backdrop or not holder.mass or not backdrop.mass:
        return None
    span = float(np.linalg.norm(ends[1] - ends[0]))
    place = float(np.linalg.norm((spots[0] + spots[1]) / 2 - ends[0]))
    return beams.end_reaction(backdrop.mass.value, span, min(place, span)) + holder.mass.value * GRAVITY / 2


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Other holders of the kit; a lighter background under a bar that sags."""
    if scene is None:
        return
    yield from other_holders(studio, scene, margin.about[0])
    now = scene.hung
    if margin.code != CROSSBAR.code or now is None or now.mass is None:
        return
    for item in studio.gear:
        if isinstance(item, Backdrop) and item.id != now.id and item.mass and item.mass.value < now.mass.value:
            target = f"{scene.path}/background"
            yield Proposal(f"Hang the {item.called}", SetFields(target=target, fields={"backdrop": item.id}))


RULE = SetRule(
    "hung",
    margins,
    (
        ROD,
        CROSSBAR,
    ),
    propose,
    reads=GEOMETRY,
)
