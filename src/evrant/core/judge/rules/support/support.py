"""Do stands and holders reach and carry? Codes support.reach, support.load, support.holder_reach,
support.holder_span, support.holder_load, support.boom_reach."""

from collections.abc import Iterable

import numpy as np

from evrant.core.base.estimate import Share, estimate
from evrant.core.base.margins import PLACED, Basis, Line, Margin, judge, unknown
from evrant.core.base.quantity import Figure
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import GEOMETRY, Proposal, SetRule
from evrant.core.judge.rules.support.loads import BOOM_LOAD_BASIS, Load, weighed
from evrant.core.mechanics.supports import joint_of, shared
from evrant.core.space.booms import boom_out
from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene
from evrant.core.space.shares import picture_shares
from evrant.core.space.stands import ARM
from evrant.core.studio.gear import Holder, Item, Stand
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say

REACH = Line(
    "support.reach",
    "Stand of the …",
    "m",
    Basis(
        "height of the mount = height of the face + depth × sin(tilt) ≤ greatest height of the stand; "
        "height of the face = eye height + distance × sin(elevation)",
        "Plane geometry; portrait key 45° up is common practice",
        "computed",
    ),
    asks="Does the stand reach (and go down to) the height wanted?",
    step="support",
    search="kept",
    fails=True,
    mark="height",
)
LOAD_BASIS = Basis("mass of head and modifier ≤ the stand's load limit", "Maker's figure as entered", "declared")
DERATED = frozenset({"boom stand", "wall boom", "copy arm"})
"""Supports that carry less the further they are drawn out."""
HUNG = frozenset({"hook", "adhesive hook", "door clip"})
"""Supports whose load another rule judges, with its factor."""
HOLDER_REACH = Line(
    "support.holder_reach",
    "Holder of the background",
    "m",
    Basis("height of the background's top ≤ greatest height of the holder", "Maker's figure as entered", "declared"),
    asks="Does the holder reach the background's height?",
    step="support",
    search="kept",
    fails=True,
)
HOLDER_SPAN = Line(
    "support.holder_span",
    "Span of the holder",
    "m",
    Basis(
        "width of the background + its overhangs ≤ widest span of the holder", "Maker's figure as entered", "declared"
    ),
    asks="Is the holder wide enough?",
    step="support",
    safety=True,
    search="placed",
    fails=True,
)
BOOM_BASIS = Basis("length drawn out ≤ reach of the boom", "Maker's figure as entered", "declared")
HOLDER_LOAD = Line(
    "support.holder_load",
    "Load on the background's holder",
    "kg",
    Basis("mass of the background ≤ the holder's load limit", "Maker's figure as entered", "declared"),
    asks="Does the holder carry the background?",
    step="support",
    safety=True,
    fails=True,
    mark="load",
)
LOAD = Line(
    "support.load",
    "Load on the stand of the …",
    "kg",
    LOAD_BASIS,
    asks="Does the stand carry head and modifier; a boom, drawn out as far as it is?",
    step="support",
    safety=True,
    fails=True,
    hazards=("Tipping and falling",),
    mark="load",
)
BOOM_REACH = Line(
    "support.boom_reach",
    "Boom of the …",
    "m",
    BOOM_BASIS,
    asks="Does the boom reach that far?",
    step="support",
    search="kept",
    fails=True,
)


def margins(scene: Scene) -> Iterable[Margin]:
    """Every support line of a set."""
    yield from of_lights(scene)
    yield from _holder(scene)


def of_lights(scene: Scene) -> Iterable[Margin]:
    """Support lines of the lights alone."""
    for light in scene.lights:
        yield from _reach(scene, light)
        yield from _load(scene, light)
        yield from _boom(scene, light)


def _reach(scene: Scene, light: Light) -> Iterable[Margin]:
    title = f"Stand of the {light.name}"
    about: tuple[str, ...] = (light.path,)
    if light.place.support is None or light.stand is None:
        yield unknown(
            REACH,
            about,
            f"The {light.name} has no stand yet.",
            "Choose a stand, boom or wall fixing from the kit.",
            title=title,
        )
        return
    if light.mount is None or light.stand.max_height is None:
        missing = (
            f"Its place and height are missing ({light.name})."
            if light.mount is None
            else f"The greatest height of the {light.stand.called} is missing."
        )
        about = (light.path,) if light.mount is None else (f"gear/{light.stand.id}", light.path)
        yield unknown(
            REACH,
            about,
            missing,
            "Read it off the data sheet or measure it.",
            title=title,
        )
        return
    say = Say.of(scene.brief)
    face, tilt = float(light.mount[2]), -float(light.forward[2]) if light.forward is not None else 0.0
    depth = (light.modifier.depth if light.modifier and not light.bounced else None) or 0.0
    face -= 0.0 if light.bounced else light.depth * tilt

    def high(greatest_height: float, modifier_depth: float) -> float:
        return greatest_height - face - modifier_depth * tilt

    def low(lowest_height: float, modifier_depth: float) -> float:
        return face + modifier_depth * tilt - lowest_height

    mount = float(light.mount[2])
    lowest = light.stand.min_height
    down = lowest is not None and mount - lowest.value < light.stand.max_height.value - mount
    if down and lowest is not None:
        spare = estimate(low, lowest_height=lowest, modifier_depth=depth)
        words = f"its lowest is {say.length(lowest.value)}"
        have, need = mount, lowest.value
        short = f"The stand of the {light.name} cannot go that low."
    else:
        spare = estimate(high, greatest_height=light.stand.max_height, modifier_depth=depth)
        words = f"its greatest height is {say.length(light.stand.max_height.value)}"
        have, need = light.stand.max_height.value, mount
        short = f"The stand of the {light.name} is too short."
    spare = spare.plus(*picture_shares(scene, lambda one: _mount_height(one, light.path)))
    yield judge(
        REACH,
        about,
        spare,
        title=title,
        need=need,
        have=have,
        clear=f"The stand carries the {light.name} where it is wanted.",
        short=short,
        reason=f"The mount is {say.length(mount)} up; {words}.",
        at=(float(light.mount[0]), float(light.mount[1]), mount),
        placing=PLACED,
    )


def _mount_height(scene: Scene, path: str) -> float | None:
    light = scene.light_at(path)
    return None if light is None or light.mount is None else float(light.mount[2])


def _carried(scene: Scene, light: Light) -> dict[str, tuple[Item, int]]:
    """What a light's support carries at its top, with how many of each, by id."""
    found: dict[str, tuple[Item, int]] = {}
    parts: list[tuple[Item | None, int]] = [(joint_of(scene, light), 1)]
    for one in (light, *shared(scene, light)):
        parts += [(one.head, one.place.heads), (one.modifier, 1)]
    for item, count in parts:
        if item is not None:
            found[item.id] = (item, count + (found[item.id][1] if item.id in found else 0))
    return found


def _load(scene: Scene, light: Light) -> Iterable[Margin]:
    stand = light.stand
    if stand is None or (light.head is None and light.modifier is None) or stand.use in HUNG:
        return
    out = boom_out(light) if stand.use in DERATED else None
    drawn: Figure | float | None = None
    if out is not None:
        drawn = out[1] if light.place.boom_length is not None or stand.reach is None else stand.reach
    load = Load(stand, _carried(scene, light), drawn)
    yield weighed(scene, LOAD if out is None else LOAD.but(basis=BOOM_LOAD_BASIS), light.path, light.name, load)


def _holder(scene: Scene) -> Iterable[Margin]:
    holder, backdrop = scene.holder, scene.backdrop
    about = f"{scene.path}/background"
    if scene.overhead or backdrop is None or (holder is None and backdrop.material in ("panel", "board")):
        return
    if holder is None:
        yield unknown(
            HOLDER_REACH,
            (about,),
            "Nothing holds the background yet.",
            "Choose a holder from the kit.",
        )
        return
    gear = f"gear/{holder.id}"
    say = Say.of(scene.brief)
    height = scene.plan.background.height
    if height is not None:
        if holder.max_height is None:
            yield unknown(
                HOLDER_REACH,
                (gear, about),
                f"The greatest height of the {holder.called} is missing.",
                "Read it off the data sheet.",
            )
        else:
            yield judge(
                HOLDER_REACH,
                (about,),
                estimate(lambda greatest_height: greatest_height - height, greatest_height=holder.max_height),
                need=height,
                have=holder.max_height.value,
                clear="The holder reaches the height wanted.",
                short="The holder does not reach that high.",
                placing=PLACED,
                reason=f"The top hangs at {say.length(height)}; "
                f"the holder goes up to {say.length(holder.max_height.value)}.",
            )
    if holder.system == "tension rod":
        yield from _rod(scene, holder, about)
    elif holder.max_width is None and holder.system == "two stands and crossbar":
        words, find = f"How wide the crossbar of the {holder.called} goes is missing.", "Read it off the data sheet."
        yield unknown(HOLDER_SPAN, (gear, about), words, find)
    elif backdrop.width is not None and holder.max_width is not None:
        yield judge(
            HOLDER_SPAN,
            (about,),
            estimate(
                lambda span, background_width: span - background_width,
                span=holder.max_width,
                background_width=backdrop.width,
            ),
            need=backdrop.width.value,
            have=holder.max_width.value,
            clear="The holder is wide enough for the background.",
            short="The background is wider than its holder.",
            reason=f"{say.length(backdrop.width.value)} of background "
            f"on a span of {say.length(holder.max_width.value)}.",
        )
    yield from _holder_load(scene, about)


def _rod(scene: Scene, holder: Holder, about: str) -> Iterable[Margin]:
    """A rod between two walls: wall to wall where it hangs, within what it can be set to."""
    ends = scene.rod_ends
    if ends is None or scene.walls is None:
        return
    if holder.max_width is None or holder.min_width is None:
        missing, find = f"The span of the {holder.called} is missing.", "Read it off the data sheet."
        yield unknown(
            HOLDER_SPAN,
            (f"gear/{holder.id}", about),
            missing,
            find,
            title="Span of the rod",
        )
        return
    span = float(np.linalg.norm(ends[1] - ends[0]))
    long = holder.max_width.value - span < span - holder.min_width.value
    limit = holder.max_width if long else holder.min_width
    sign = 1.0 if long else -1.0
    shares = tuple(Share(label, figure.pm) for label, figure, _ in scene.walls.figures)
    say = Say.of(scene.brief)
    middle = (ends[0] + ends[1]) / 2
    yield judge(
        HOLDER_SPAN,
        (about,),
        estimate(lambda reach: sign * (reach - span), reach=limit).plus(*shares),
        title="Span of the rod",
        need=span if long else limit.value,
        have=limit.value if long else span,
        clear="The rod fits between the walls.",
        short="The walls are further apart than the rod reaches." if long else "The walls are too near for the rod.",
        reason=f"Wall to wall there is {say.length(span)}; it goes from {say.length(holder.min_width.value)} "
        f"to {say.length(holder.max_width.value)}.",
        at=(float(middle[0]), float(middle[1]), scene.plan.background.height or 2.0),
    )


def _boom(scene: Scene, light: Light) -> Iterable[Margin]:
    """How far a boom is drawn out against its reach."""
    stand, drawn = light.stand, light.place.boom_length
    if stand is None or drawn is None or light.place.boom is None:
        return
    title = f"Boom of the {light.name}"
    if stand.reach is None:
        missing, find = f"The reach of the {stand.called} is missing.", "Read it off the data sheet."
        yield unknown(
            BOOM_REACH,
            (f"gear/{stand.id}", light.path),
            missing,
            find,
            title=title,
        )
        return
    say = Say.of(scene.brief)
    yield judge(
        BOOM_REACH,
        (light.path,),
        estimate(lambda reach: reach - drawn, reach=stand.reach),
        title=title,
        need=drawn,
        have=stand.reach.value,
        clear="The boom reaches that far.",
        short="The boom is drawn out further than it goes.",
        reason=f"It is drawn out to {say.length(drawn)}; it reaches {say.length(stand.reach.value)}.",
        placing=PLACED,
    )


def _holder_load(scene: Scene, about: str) -> Iterable[Margin]:
    holder, backdrop = scene.holder, scene.hung
    if holder is None or backdrop is None:
        return
    title = "Load on the background's holder"
    if holder.load is None or backdrop.mass is None:
        what = holder if holder.load is None else backdrop
        missing = (
            f"What the {holder.called} carries is not entered."
            if holder.load is None
            else f"The mass of the {backdrop.called} is missing."
        )
        known = f"The background weighs {Say.of(scene.brief).mass(backdrop.mass.value)}. " if backdrop.mass else ""
        yield unknown(
            HOLDER_LOAD,
            (f"gear/{what.id}", about),
            missing,
            known + "Look for the figure on the box.",
            title=title,
        )
        return
    say, count = Say.of(scene.brief), 1 + scene.further_rolls
    rolls, named = (f" of {count} rolls", "the rolls") if count > 1 else ("", "the background")
    yield judge(
        HOLDER_LOAD,
        (about,),
        estimate(lambda load_limit, mass: load_limit - mass, load_limit=holder.load, mass=backdrop.mass),
        title=title,
        need=backdrop.mass.value,
        have=holder.load.value,
        clear="The holder carries the background." if count == 1 else "The holder carries its rolls.",
        short="The background is too heavy for its holder."
        if count == 1
        else "The rolls are too heavy for the holder.",
        reason=f"{say.mass(backdrop.mass.value)}{rolls} on a holder that takes {say.mass(holder.load.value)}.",
    )


def other_supports(studio: Studio, light: Light, never: tuple[str, ...]) -> Iterable[Proposal]:
    """Every other support of the kit under a light; a boom arm wants a stand besides and is for the table of supports
    to try."""
    freed = {"stands_on": None} if light.place.stands_on else {}
    for item in studio.gear:
        if isinstance(item, Stand) and item.use not in (*never, ARM) and item.id != light.place.support:
            fields = {"support": item.id, **freed}
            yield Proposal(f"Use the {item.called}", SetFields(target=light.path, fields=fields))


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Other stands in the kit; the light lower or higher; the background lower."""
    if scene is None:
        return
    say = Say.of(scene.brief)
    light = next((one for one in scene.lights if one.path in margin.about), None)
    if light is not None and margin.code in ("support.reach", "support.load"):
        yield from other_supports(studio, light, ("tripod",))
    if margin.margin is None:
        return
    lack = -margin.margin + (margin.uncertainty or 0.0) + 0.01
    if margin.code == "support.reach" and light is not None and light.place.height is not None:
        down = margin.have is not None and margin.need is not None and "too short" in margin.sentence
        moved = light.place.height + (-lack if down else lack)
        yield Proposal(
            f"{'Lower' if down else 'Raise'} the {light.name} {say.short_by(lack)}",
            SetFields(target=light.path, fields={"height": round(max(moved, 0.1), 3)}),
        )
    if margin.code == "support.holder_reach" and scene.plan.background.height is not None:
        yield Proposal(
            f"Hang it {say.short_by(lack)} lower",
            SetFields(
                target=f"{scene.path}/background", fields={"height": round(scene.plan.background.height - lack, 3)}
            ),
        )


RULE = SetRule(
    "support",
    margins,
    (
        REACH,
        HOLDER_REACH,
        HOLDER_SPAN,
        HOLDER_LOAD,
        LOAD,
        BOOM_REACH,
    ),
    propose,
    order=3,
    place_order=3,
    reads=GEOMETRY,
)
